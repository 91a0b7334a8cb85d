//! What programs tell over the session bus: the service of the Desktop Notifications Specification, and a client of it.

use std::collections::{HashMap, VecDeque};
use std::io::{Read, Write};
use std::os::fd::{AsFd, BorrowedFd};
use std::os::unix::net::UnixStream;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use jovrik_core::desktop::{CloseReason, ExpireTimeout, MarkupRun, Notification, markup, plain};
use jovrik_core::rice::Urgency;
use jovrik_text::limits::{self, cut, cut_bytes};
use jovrik_values::{Icon, IconRef};
use zbus::object_server::SignalEmitter;
use zbus::runtime::traits::TaskHandle as _;
use zbus::zvariant::Variant;
use zbus::{Connection, connection};

use crate::Error;
use crate::bus::Asked;
use crate::facts::{Pixels, PropertyMap, TextArray};

const NAME: &str = "org.freedesktop.Notifications";
const PATH: &str = "/org/freedesktop/Notifications";
/// What replaces what: a hint of our own, for programs that do not remember numbers.
const OF: &str = "x-jovrik-of";

/// What came from the bus.
#[derive(Debug)]
pub enum NotificationSignal {
    /// A program tells something, and sends a picture: its size and its pixels.
    Told(Box<Notification>, Option<Pixels>),
    /// It takes that back.
    Untold(u32),
}

struct Service {
    news: Waiting,
    wake: Arc<UnixStream>,
    last: u32,
    /// What was told of something lately, by its hint.
    of: HashMap<String, u32>,
}

impl Service {
    fn tell(&self, news: NotificationSignal) {
        self.news.push(news);
        // A full pipe wakes as well as one byte more.
        let _ = (&*self.wake).write(&[1]);
    }
}

/// What waits to be heard. Where that is too much, the oldest goes that is not urgent: nobody would look at it any more.
#[derive(Clone, Default)]
struct Waiting {
    news: Arc<Mutex<VecDeque<NotificationSignal>>>,
    /// How many went unheard.
    left_out: Arc<AtomicUsize>,
}

impl Waiting {
    fn push(&self, news: NotificationSignal) {
        let mut waiting = self.news.lock().unwrap_or_else(PoisonError::into_inner);
        if waiting.len() >= limits::BUS_NEWS {
            let urgent = |news: &NotificationSignal| matches!(news, NotificationSignal::Told(telling, _) if telling.urgency == Urgency::Urgent);
            let oldest = waiting.iter().position(|news| !urgent(news)).unwrap_or_default();
            drop(waiting.remove(oldest));
            self.left_out.fetch_add(1, Ordering::Relaxed);
        }
        waiting.push_back(news);
    }

    fn take(&self, most: usize) -> Vec<NotificationSignal> {
        let mut waiting = self.news.lock().unwrap_or_else(PoisonError::into_inner);
        let most = most.min(waiting.len());
        waiting.drain(..most).collect()
    }
}

/// A text as it is shown: without what controls, and not without end.
fn shown(text: &str) -> String {
    cut(text, limits::BUS_TEXT).chars().filter(|c| !c.is_control() || *c == '\n').collect()
}

/// The picture that is named: by a hint, as the program's icon, or by its desktop entry.
fn picture(hints: &PropertyMap, app_icon: &str) -> Option<IconRef> {
    let mut names = ["image-path", "image_path"].into_iter().map(|name| hints.text(name)).chain([app_icon]);
    let name = names.find(|name| !name.is_empty()).unwrap_or_else(|| hints.text("desktop-entry"));
    if name.is_empty() || name.len() > 1024 {
        return None;
    }
    let name = match name.strip_prefix("file://") {
        Some(path) => unquoted(path)?,
        None => name.to_owned(),
    };
    // A name of ours is drawn where the theme has none.
    let drawn = Icon::ALL.iter().copied().find(|icon| icon.word() == name).unwrap_or(Icon::Bell);
    Some(IconRef::Themed(name, drawn))
}

/// The path of a URI, without its escapes.
fn unquoted(path: &str) -> Option<String> {
    let (mut bytes, mut rest) = (Vec::with_capacity(path.len()), path.as_bytes());
    while let Some((first, after)) = rest.split_first() {
        if *first == b'%' && after.len() >= 2 {
            let digits = std::str::from_utf8(&after[..2]).ok()?;
            bytes.push(u8::from_str_radix(digits, 16).ok()?);
            rest = &after[2..];
        } else {
            bytes.push(*first);
            rest = after;
        }
    }
    String::from_utf8(bytes).ok()
}

#[zbus::interface(name = "org.freedesktop.Notifications")]
impl Service {
    /// What is done of the specification.
    async fn get_capabilities(&self) -> Vec<&'static str> {
        vec!["actions", "body", "body-hyperlinks", "body-markup", "icon-static", "persistence"]
    }

    async fn get_server_information(&self) -> (&'static str, &'static str, &'static str, &'static str) {
        ("jovrik", "Jovrik", env!("CARGO_PKG_VERSION"), "1.2")
    }

    #[expect(clippy::too_many_arguments, reason = "the specification's")]
    async fn notify(
        &mut self,
        app_name: &str,
        replaces_id: u32,
        app_icon: &str,
        summary: &str,
        body: &str,
        actions: TextArray<{ 2 * limits::NOTICE_ACTIONS }>,
        mut hints: PropertyMap,
        expire_timeout: i32,
    ) -> u32 {
        let of = Some(hints.text(OF)).filter(|of| !of.is_empty()).map(str::to_owned);
        let known = of.as_ref().and_then(|of| self.of.get(of).copied());
        let id = match (replaces_id, known) {
            (0, Some(id)) => id,
            (0, None) => {
                // Never 0, which is none.
                self.last = self.last.checked_add(1).unwrap_or(1);
                self.last
            }
            (id, _) => id,
        };
        if let Some(of) = of {
            if self.of.len() > 64 {
                self.of.clear();
            }
            self.of.insert(of, id);
        }
        let urgency = match hints.number("urgency") {
            Some(0) => Urgency::Low,
            Some(2) => Urgency::Urgent,
            _ => Urgency::Normal,
        };
        let lasts = match expire_timeout {
            0 => ExpireTimeout::Ever,
            time if time > 0 => ExpireTimeout::For(Duration::from_millis(time.unsigned_abs().into())),
            _ => ExpireTimeout::AsSet,
        };
        let pieces = markup(cut_bytes(body, limits::BUS_BODY_BYTES));
        let pieces = pieces.into_iter().map(|piece| MarkupRun { text: shown(&piece.text), ..piece }).collect::<Vec<_>>();
        let pairs = actions.0.chunks_exact(2).map(|pair| (pair[0].clone(), shown(&pair[1])));
        let telling = Notification {
            id,
            app: shown(app_name),
            title: shown(summary),
            body: shown(&plain(&pieces)),
            picture: picture(&hints, app_icon),
            pieces,
            urgency,
            lasts,
            actions: pairs.collect(),
            value: hints.number("value").map(|value| value.clamp(0, 100) as u8),
            resident: hints.truth("resident").unwrap_or_default(),
            transient: hints.truth("transient").unwrap_or_default(),
        };
        let sent = ["image-data", "image_data", "icon_data"].into_iter().find_map(|name| hints.picture(name));
        self.tell(NotificationSignal::Told(Box::new(telling), sent));
        id
    }

    async fn close_notification(&self, id: u32) {
        self.tell(NotificationSignal::Untold(id));
    }

    #[zbus(signal)]
    async fn notification_closed(emitter: &SignalEmitter<'_>, id: u32, reason: u32) -> zbus::Result<()>;

    #[zbus(signal)]
    async fn action_invoked(emitter: &SignalEmitter<'_>, id: u32, action_key: &str) -> zbus::Result<()>;
}

/// Why programs cannot tell us anything.
#[derive(Debug, thiserror::Error)]
pub enum NotificationServerError {
    /// There is no bus.
    #[error("there is no session bus")]
    NoBus,
    /// Another program has the name: which.
    #[error("{0} has {NAME}")]
    Taken(String),
    /// The bus would not.
    #[error(transparent)]
    Bus(zbus::Error),
    /// The system would not.
    #[error(transparent)]
    System(std::io::Error),
}

/// The service on a session bus.
pub struct NotificationServer {
    connection: Connection,
    news: Waiting,
    wake: UnixStream,
}

impl NotificationServer {
    /// Begins to take the name that programs tell to, also from another one where that is wanted; nobody waits for the bus.
    ///
    /// # Errors
    ///
    /// When there is no session bus; later when another program has the name: which.
    pub fn begin(replace: bool) -> Result<Asked<Result<NotificationServer, NotificationServerError>>, NotificationServerError> {
        if std::env::var_os("DBUS_SESSION_BUS_ADDRESS").is_none() {
            return Err(NotificationServerError::NoBus);
        }
        Asked::begin(move || NotificationServer::take(replace)).map_err(NotificationServerError::System)
    }

    fn take(replace: bool) -> Result<NotificationServer, NotificationServerError> {
        let news = Waiting::default();
        let (wake, woken) = UnixStream::pair().map_err(NotificationServerError::System)?;
        for stream in [&wake, &woken] {
            stream.set_nonblocking(true).map_err(NotificationServerError::System)?;
        }
        let service = Service { news: news.clone(), wake: Arc::new(wake), last: 0, of: HashMap::new() };
        let begun = zbus::block_on(async {
            let builder = connection::Builder::session().method_timeout(Duration::from_secs(5));
            let builder = builder.serve_at(PATH, service).name(NAME);
            // Whoever has the name keeps it, unless it lets go of it and that was wanted.
            builder.allow_name_replacements(false).replace_existing_names(replace).build().await
        });
        match begun {
            Ok(connection) => Ok(NotificationServer { connection, news, wake: woken }),
            Err(zbus::Error::NameTaken) => Err(NotificationServerError::Taken(owner().unwrap_or("another program".to_owned()))),
            Err(error) => Err(NotificationServerError::Bus(error)),
        }
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.wake.as_fd()
    }

    /// What came, at most so much; what is left is there at the next call.
    pub fn step(&mut self, most: usize) -> Vec<NotificationSignal> {
        let mut buffer = [0; 256];
        while matches!(self.wake.read(&mut buffer), Ok(len) if len > 0) {}
        self.news.take(most)
    }

    /// How many were left out, since too many waited.
    pub fn left_out(&self) -> usize {
        self.news.left_out.load(Ordering::Relaxed)
    }

    /// Tells a program that something is gone, and why.
    pub fn gone(&self, id: u32, why: CloseReason) {
        let connection = self.connection.clone();
        let told = async move {
            if let Ok(emitter) = SignalEmitter::new(&connection, PATH) {
                let _ = Service::notification_closed(&emitter, id, why as u32).await;
            }
        };
        self.connection.spawn("something is gone", told).detach();
    }

    /// Tells a program that something is to be done.
    pub fn chosen(&self, id: u32, key: &str) {
        let (connection, key) = (self.connection.clone(), key.to_owned());
        let told = async move {
            if let Ok(emitter) = SignalEmitter::new(&connection, PATH) {
                let _ = Service::action_invoked(&emitter, id, &key).await;
            }
        };
        self.connection.spawn("something is chosen", told).detach();
    }
}

/// Which program shows notices on this session bus, as far as it says.
fn owner() -> Option<String> {
    let reply = zbus::block_on(async {
        let connection = Connection::session().await?;
        connection.call_method(Some(NAME), PATH, Some(NAME), "GetServerInformation", &()).await
    });
    reply.ok()?.body().deserialize::<(String, String, String, String)>().ok().map(|(name, ..)| name)
}

/// Tells something over the bus, as any program does; its number.
///
/// # Errors
///
/// When there is no session bus, or nobody shows notices on it.
pub fn tell(telling: &Notification, of: Option<&str>) -> Result<u32, Error> {
    let mut hints: HashMap<&str, Variant<'_>> = HashMap::new();
    hints.insert("urgency", Variant::U8(telling.urgency as u8));
    if let Some(value) = telling.value {
        hints.insert("value", Variant::I32(value.into()));
    }
    if let Some(of) = of {
        hints.insert(OF, Variant::from(of));
    }
    let actions: Vec<&str> = telling.actions.iter().flat_map(|(key, label)| [key.as_str(), label.as_str()]).collect();
    let lasts: i32 = match telling.lasts {
        ExpireTimeout::AsSet => -1,
        ExpireTimeout::Ever => 0,
        ExpireTimeout::For(time) => time.as_millis().try_into().unwrap_or(i32::MAX),
    };
    let icon = match &telling.picture {
        Some(IconRef::Themed(name, _) | IconRef::Picture(name)) => name.as_str(),
        Some(IconRef::Drawn(icon)) => icon.word(),
        Some(IconRef::Character(_) | IconRef::App) | None => "",
    };
    let body = (&telling.app, 0_u32, icon, &telling.title, &telling.body, actions, hints, lasts);
    let reply = zbus::block_on(async {
        let connection = Connection::session().await?;
        connection.call_method(Some(NAME), PATH, Some(NAME), "Notify", &body).await
    });
    let nobody = |error: zbus::Error| Error::System("nobody shows notices on the session bus", error.to_string());
    reply.map_err(nobody)?.body().deserialize().map_err(nobody)
}
