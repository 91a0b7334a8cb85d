//! Programs that the session bus starts (Desktop Entry Specification 1.5, "D-Bus Activation").

use std::collections::HashMap;

use zbus::{Connection, Proxy, Variant};

/// The path of the object of a program, by its name on the bus.
fn object(name: &str) -> String {
    format!("/{}", name.replace('.', "/").replace('-', "_"))
}

/// Has the bus start a program, or one of its actions; the answer is not waited for.
///
/// # Errors
/// Where there is no session bus, or the name is none that a program has there.
pub fn activate(name: &str, action: Option<&str>) -> zbus::Result<()> {
    let nothing: HashMap<&str, Variant<'_>> = HashMap::new();
    zbus::block_on(async {
        let connection = Connection::session().await?;
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
