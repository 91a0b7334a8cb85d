//! Programs that the session bus starts (Desktop Entry Specification 1.5, "D-Bus Activation").

use std::collections::HashMap;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;

use zbus::{Connection, Proxy, Variant, connection};

/// So many are asked at once: a bus that answers nobody keeps each of them.
const MAX_PENDING_ACTIVATIONS: usize = 8;
/// How long a bus has.
const ACTIVATION_TIMEOUT: Duration = Duration::from_secs(5);

static ASKED: AtomicUsize = AtomicUsize::new(0);

/// The path of the object of a program, by its name on the bus.
fn object(name: &str) -> String {
    format!("/{}", name.replace('.', "/").replace('-', "_"))
}

/// Has the bus start a program, or one of its actions; the answer is not waited for, nor is the bus.
///
/// # Errors
///
/// Where there is no session bus, or it has answered nobody for some time.
pub fn activate(name: &str, action: Option<&str>) -> Result<(), String> {
    if std::env::var_os("DBUS_SESSION_BUS_ADDRESS").is_none() {
        return Err("there is no session bus".to_owned());
    }
    if ASKED.fetch_add(1, Ordering::Relaxed) >= MAX_PENDING_ACTIVATIONS {
        ASKED.fetch_sub(1, Ordering::Relaxed);
        return Err("the session bus does not answer".to_owned());
    }
    let (name, action) = (name.to_owned(), action.map(str::to_owned));
    let asked = crate::bus::Asked::begin(move || {
        if let Err(error) = call(&name, action.as_deref()) {
            tracing::warn!(name, %error, "the bus does not start it");
        }
        ASKED.fetch_sub(1, Ordering::Relaxed);
    });
    asked.map(drop).map_err(|error| error.to_string())
}

fn call(name: &str, action: Option<&str>) -> zbus::Result<()> {
    let nothing: HashMap<&str, Variant<'_>> = HashMap::new();
    zbus::block_on(async {
        let connection: Connection = connection::Builder::session().method_timeout(ACTIVATION_TIMEOUT).build().await?;
        let program = Proxy::new(&connection, name, object(name), "org.freedesktop.Application").await?;
        match action {
            Some(action) => program.call_noreply("ActivateAction", &(action, Vec::<Variant<'_>>::new(), nothing)).await,
            None => program.call_noreply("Activate", &(nothing,)).await,
        }
    })
}

#[cfg(test)]
mod tests {
    use super::object;

    #[test]
    fn a_program_is_found_at_the_path_of_its_name() {
        assert_eq!(object("station.gauge-log.Book"), "/station/gauge_log/Book");
    }
}
