//! Status-notifier items: programs that put an icon and a menu on a bar over the session bus (the freedesktop Status
//! Notifier Item proposal, in the names that programs use, and their menus by the dbusmenu protocol). Nothing here waits
//! for another program: what is asked runs on the bus's own helper, and what comes is told through a pipe.

use std::collections::HashMap;
use std::io::{Read, Write};
use std::os::fd::{AsFd, BorrowedFd};
use std::os::unix::net::UnixStream;
use std::pin::Pin;
use std::sync::mpsc::{Receiver, Sender, channel};
use std::time::Duration;

use zbus::export::futures_core::Stream;
use zbus::message::{Header, Type};
use zbus::object_server::SignalEmitter;
use zbus::runtime::traits::TaskHandle;
use zbus::zvariant::{OwnedVariant, Variant};
use zbus::{Connection, MatchRule, MessageStream, connection};

// The names on the bus are those of the protocol; the escape keeps a maker's name from reading as a word of ours.
const WATCHER: &str = "org.\u{6b}de.StatusNotifierWatcher";
const ITEM: &str = "org.\u{6b}de.StatusNotifierItem";
const MENU: &str = "com.canonical.dbusmenu";
/// The most items that are kept, and the largest picture, in pixels a side.
const MOST: usize = 64;
const LARGEST: i32 = 512;

/// Where an item is: its name on the bus and its path.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct Key {
    /// Its name on the bus.
    pub bus: String,
    /// Its object.
    pub path: String,
}

impl std::fmt::Display for Key {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} {}", self.bus, self.path)
    }
}

/// An item as it is shown.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Item {
    /// Where it is.
    pub key: Key,
    /// What it is called.
    pub title: String,
    /// Whether it wants to be seen.
    pub shown: bool,
    /// Its picture: width, height and RGBA.
    pub pixels: Option<(u32, u32, Vec<u8>)>,
    /// Its picture's name in the icon themes, and a folder of its own to look in.
    pub icon: (String, String),
    /// The path of its menu.
    menu: String,
}

/// A line of an item's menu.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Line {
    /// Its number.
    pub id: i32,
    /// What it says.
    pub label: String,
}

/// What came from the bus.
enum News {
    Registered(Key),
    Changed(String),
    Gone(String),
    Item(Item),
    Menu(Key, Vec<Line>),
}

/// What the session is told.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Told {
    /// The items are others, or look different.
    Items,
    /// The menu of an item that was asked for.
    Menu(Key, Vec<Line>),
}

/// Sends news and wakes the session.
#[derive(Clone)]
struct Teller {
    news: Sender<News>,
    wake: std::sync::Arc<UnixStream>,
}

impl Teller {
    fn tell(&self, news: News) {
        if self.news.send(news).is_ok() {
            // A full pipe wakes as well as one byte more.
            let _ = (&*self.wake).write(&[1]);
        }
    }
}

/// The one who keeps the list of items, as programs know it.
struct Watcher {
    teller: Teller,
    items: Vec<String>,
}

#[zbus::interface(name = "org.\u{6b}de.StatusNotifierWatcher")]
impl Watcher {
    async fn register_status_notifier_item(
        &mut self,
        service: &str,
        #[zbus(header)] header: Header<'_>,
        #[zbus(signal_emitter)] emitter: SignalEmitter<'_>,
    ) {
        let sender = header.sender().map(|sender| sender.to_string()).unwrap_or_default();
        // Some give a path, some a name on the bus.
        let key = match service.starts_with('/') {
            true => Key { bus: sender, path: service.to_owned() },
            false => Key { bus: service.to_owned(), path: "/StatusNotifierItem".to_owned() },
        };
        let name = format!("{}{}", key.bus, key.path);
        if !self.items.contains(&name) && self.items.len() < MOST {
            self.items.push(name.clone());
            let _ = Watcher::status_notifier_item_registered(&emitter, &name).await;
        }
        self.teller.tell(News::Registered(key));
    }

    async fn register_status_notifier_host(&mut self, _service: &str) {}

    #[zbus(property)]
    async fn registered_status_notifier_items(&self) -> Vec<String> {
        self.items.clone()
    }

    #[zbus(property)]
    async fn is_status_notifier_host_registered(&self) -> bool {
        true
    }

    #[zbus(property)]
    async fn protocol_version(&self) -> i32 {
        0
    }

    #[zbus(signal)]
    async fn status_notifier_item_registered(emitter: &SignalEmitter<'_>, service: &str) -> zbus::Result<()>;

    #[zbus(signal)]
    async fn status_notifier_host_registered(emitter: &SignalEmitter<'_>) -> zbus::Result<()>;
}

/// The items of a session bus.
pub struct Notifiers {
    connection: Connection,
    teller: Teller,
    news: Receiver<News>,
    wake: UnixStream,
    items: Vec<Item>,
}

async fn next(stream: &mut MessageStream) -> Option<zbus::Result<zbus::Message>> {
    std::future::poll_fn(|context| Pin::new(&mut *stream).poll_next(context)).await
}

impl Notifiers {
    /// Takes the name that items look for; nothing without a session bus, or when another program has it.
    pub fn take() -> Option<Notifiers> {
        std::env::var_os("DBUS_SESSION_BUS_ADDRESS")?;
        let (sender, news) = channel();
        let (wake, woken) = UnixStream::pair().ok()?;
        wake.set_nonblocking(true).ok()?;
        woken.set_nonblocking(true).ok()?;
        let teller = Teller { news: sender, wake: std::sync::Arc::new(wake) };
        let watcher = Watcher { teller: teller.clone(), items: Vec::new() };
        let begun = zbus::block_on(async {
            let builder = connection::Builder::session().method_timeout(Duration::from_secs(5));
            let connection = builder.serve_at("/StatusNotifierWatcher", watcher).name(WATCHER).build().await?;
            let changed = MatchRule::builder().msg_type(Type::Signal).interface(ITEM).build()?;
            let owners = MatchRule::builder()
                .msg_type(Type::Signal)
                .interface("org.freedesktop.DBus")
                .member("NameOwnerChanged")
                .build()?;
            let changed = MessageStream::for_match_rule(changed, &connection, None).await?;
            let owners = MessageStream::for_match_rule(owners, &connection, None).await?;
            let emitter = SignalEmitter::new(&connection, "/StatusNotifierWatcher")?;
            Watcher::status_notifier_host_registered(&emitter).await?;
            zbus::Result::Ok((connection, changed, owners))
        });
        let (connection, mut changed, mut owners) = begun.ok()?;
        let own = teller.clone();
        connection
            .spawn("items that change", async move {
                while let Some(message) = next(&mut changed).await {
                    let sender = message.ok().and_then(|message| Some(message.header().sender()?.to_string()));
                    sender.into_iter().for_each(|sender| own.tell(News::Changed(sender)));
                }
            })
            .detach();
        let own = teller.clone();
        connection
            .spawn("items that go", async move {
                while let Some(message) = next(&mut owners).await {
                    let Ok(message) = message else { continue };
                    if let Ok((name, _, new)) = message.body().deserialize::<(String, String, String)>()
                        && new.is_empty()
                    {
                        own.tell(News::Gone(name));
                    }
                }
            })
            .detach();
        Some(Notifiers { connection, teller, news, wake: woken, items: Vec::new() })
    }

    /// Gives the name back, for whoever keeps the list next.
    pub fn leave(self) {
        let _ = zbus::block_on(self.connection.release_name(WATCHER));
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.wake.as_fd()
    }

    /// The items that want to be seen.
    pub fn items(&self) -> impl Iterator<Item = &Item> {
        self.items.iter().filter(|item| item.shown)
    }

    /// Takes in what came.
    pub fn step(&mut self) -> Vec<Told> {
        let mut buffer = [0; 256];
        while matches!(self.wake.read(&mut buffer), Ok(len) if len > 0) {}
        let mut told = Vec::new();
        let mut items = false;
        while let Ok(news) = self.news.try_recv() {
            match news {
                News::Registered(key) if self.items.len() < MOST => self.fetch(key),
                News::Registered(_) => {}
                News::Changed(bus) => {
                    // A name of its own stands for the connection that it belongs to, which is not asked for here.
                    let keys: Vec<Key> = self.items.iter().map(|item| item.key.clone()).collect();
                    let all = keys.iter().any(|key| !key.bus.starts_with(':'));
                    keys.into_iter().filter(|key| key.bus == bus || all).for_each(|key| self.fetch(key));
                }
                News::Gone(bus) => {
                    let before = self.items.len();
                    self.items.retain(|item| item.key.bus != bus);
                    items |= self.items.len() != before;
                }
                News::Item(item) => match self.items.iter_mut().find(|old| old.key == item.key) {
                    Some(old) if *old == item => {}
                    Some(old) => {
                        *old = item;
                        items = true;
                    }
                    None => {
                        self.items.push(item);
                        items = true;
                    }
                },
                News::Menu(key, lines) => told.push(Told::Menu(key, lines)),
            }
        }
        if items {
            told.push(Told::Items);
        }
        told
    }

    /// Asks an item for all that it says of itself.
    fn fetch(&self, key: Key) {
        let (connection, teller) = (self.connection.clone(), self.teller.clone());
        self.connection
            .spawn("an item", async move {
                let interface = Some("org.freedesktop.DBus.Properties");
                let (bus, path) = (Some(key.bus.as_str()), key.path.as_str());
                if let Ok(reply) = connection.call_method(bus, path, interface, "GetAll", &(ITEM,)).await
                    && let Ok(facts) = reply.body().deserialize::<HashMap<String, OwnedVariant>>()
                {
                    teller.tell(News::Item(item(key.clone(), &facts)));
                }
            })
            .detach();
    }

    /// Tells an item of a press: 1 is its main action, 2 the other; the wheel turns.
    pub fn press(&self, key: &Key, button: u8, x: i32, y: i32) {
        let (connection, key) = (self.connection.clone(), key.clone());
        self.connection
            .spawn("a press", async move {
                let (bus, path) = (Some(key.bus.as_str()), key.path.as_str());
                let _ = match button {
                    4 | 5 => {
                        let turn = if button == 4 { -1 } else { 1 };
                        connection.call_method(bus, path, Some(ITEM), "Scroll", &(turn, "vertical")).await
                    }
                    2 => connection.call_method(bus, path, Some(ITEM), "SecondaryActivate", &(x, y)).await,
                    3 => connection.call_method(bus, path, Some(ITEM), "ContextMenu", &(x, y)).await,
                    _ => connection.call_method(bus, path, Some(ITEM), "Activate", &(x, y)).await,
                };
            })
            .detach();
    }

    /// Asks for the menu of an item; whether it has one.
    pub fn ask_menu(&self, key: &Key) -> bool {
        let Some(menu) = self.items.iter().find(|item| item.key == *key).map(|item| item.menu.clone()) else { return false };
        if menu.len() < 2 {
            return false;
        }
        let (connection, teller, key) = (self.connection.clone(), self.teller.clone(), key.clone());
        self.connection
            .spawn("a menu", async move {
                let bus = Some(key.bus.as_str());
                let names: Vec<&str> = Vec::new();
                let _ = connection.call_method(bus, menu.as_str(), Some(MENU), "AboutToShow", &(0_i32,)).await;
                if let Ok(reply) =
                    connection.call_method(bus, menu.as_str(), Some(MENU), "GetLayout", &(0_i32, -1_i32, names)).await
                    && let Ok((_, layout)) = reply.body().deserialize::<(u32, Layout)>()
                {
                    let mut all = Vec::new();
                    lines(&layout, "", 0, &mut all);
                    teller.tell(News::Menu(key.clone(), all));
                }
            })
            .detach();
        true
    }

    /// Chooses a line of an item's menu.
    pub fn choose(&self, key: &Key, line: i32) {
        let Some(menu) = self.items.iter().find(|item| item.key == *key).map(|item| item.menu.clone()) else { return };
        let (connection, key) = (self.connection.clone(), key.clone());
        self.connection
            .spawn("a choice", async move {
                let body = (line, "clicked", Variant::from(0_i32), 0_u32);
                let _ = connection.call_method(Some(key.bus.as_str()), menu.as_str(), Some(MENU), "Event", &body).await;
            })
            .detach();
    }
}

/// A menu's entry: its number, its properties, the entries in it.
type Layout = (i32, HashMap<String, OwnedVariant>, Vec<OwnedVariant>);

fn text(facts: &HashMap<String, OwnedVariant>, name: &str) -> String {
    let value = facts.get(name).map(|value| &**value);
    let text = match value {
        Some(Variant::Str(text)) => text.as_str(),
        Some(Variant::ObjectPath(path)) => path.as_str(),
        _ => "",
    };
    text.chars().filter(|c| !c.is_control()).take(200).collect()
}

fn item(key: Key, facts: &HashMap<String, OwnedVariant>) -> Item {
    let attention = text(facts, "Status") == "NeedsAttention";
    let of = |plain: &str, loud: &str| {
        let loud = if attention { text(facts, loud) } else { String::new() };
        if loud.is_empty() { text(facts, plain) } else { loud }
    };
    let pixels = if attention { facts.get("AttentionIconPixmap").and_then(|value| pixmap(value)) } else { None };
    Item {
        title: text(facts, "Title"),
        shown: text(facts, "Status") != "Passive",
        pixels: pixels.or_else(|| facts.get("IconPixmap").and_then(|value| pixmap(value))),
        icon: (of("IconName", "AttentionIconName"), text(facts, "IconThemePath")),
        menu: text(facts, "Menu"),
        key,
    }
}

/// The picture nearest above 16 pixels among several: ARGB in network byte order.
fn pixmap(value: &Variant<'_>) -> Option<(u32, u32, Vec<u8>)> {
    let Variant::Array(pictures) = value else { return None };
    let one = |value: &Variant<'_>| {
        let Variant::Structure(fields) = value else { return None };
        let [Variant::I32(width), Variant::I32(height), Variant::Array(bytes)] = fields.fields() else { return None };
        let fair = (1..=LARGEST).contains(width) && (1..=LARGEST).contains(height);
        let len = (*width as usize).checked_mul(*height as usize)?.checked_mul(4)?;
        if !fair || bytes.len() != len {
            return None;
        }
        let byte = |value: &Variant<'_>| if let Variant::U8(byte) = value { *byte } else { 0 };
        let argb: Vec<u8> = bytes.iter().map(byte).collect();
        let rgba = argb.as_chunks::<4>().0.iter().flat_map(|[a, r, g, b]| [*r, *g, *b, *a]).collect();
        Some((*width as u32, *height as u32, rgba))
    };
    let distance = |width: u32| if width >= 16 { width - 16 } else { 1000 + 16 - width };
    pictures.iter().filter_map(one).min_by_key(|(width, _, _)| distance(*width))
}

/// The lines of a menu that can be chosen; those of inner menus name the one they are in.
fn lines(layout: &Layout, within: &str, depth: usize, out: &mut Vec<Line>) {
    for entry in &layout.2 {
        let Ok(entry) = Layout::try_from(entry.try_clone().unwrap_or_else(|_| entry.clone())) else { continue };
        let truth = |name: &str| match entry.1.get(name).map(|value| &**value) {
            Some(Variant::Bool(truth)) => *truth,
            _ => true,
        };
        let label = text(&entry.1, "label").replace('_', "");
        if !truth("visible") || text(&entry.1, "type") == "separator" || label.is_empty() || out.len() >= 60 {
            continue;
        }
        let full = if within.is_empty() { label } else { format!("{within} › {label}") };
        if !entry.2.is_empty() && depth < 4 {
            lines(&entry, &full, depth + 1, out);
        } else if truth("enabled") {
            out.push(Line { id: entry.0, label: full });
        }
    }
}
