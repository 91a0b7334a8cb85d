//! Status-notifier items: programs that put an icon and a menu on a bar over the session bus (the freedesktop Status
//! Notifier Item proposal, in the names that programs use, and their menus by the dbusmenu protocol). Nothing here waits
//! for another program: what is asked runs on the bus's own helper, and what comes is told through a pipe.

use std::collections::HashMap;
use std::io::{Read, Write};
use std::os::fd::{AsFd, BorrowedFd};
use std::os::unix::net::UnixStream;
use std::pin::Pin;
use std::sync::mpsc::{Receiver, Sender, channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use jovrik_text::limits;
use zbus::export::futures_core::Stream;
use zbus::message::{Header, Type};
use zbus::object_server::SignalEmitter;
use zbus::runtime::traits::TaskHandle;
use zbus::zvariant::Variant;
use zbus::{Connection, MatchRule, MessageStream, connection};

use crate::bus::Asked;
use crate::facts::{Entry, PropertyMap};

// The names on the bus are those of the protocol; the escape keeps a maker's name from reading as a word of ours.
const WATCHER: &str = "org.\u{6b}de.StatusNotifierWatcher";
const ITEM: &str = "org.\u{6b}de.StatusNotifierItem";
const MENU: &str = "com.canonical.dbusmenu";
/// The longest name and path of an item, in bytes.
const MAX_NAME_BYTES: usize = 512;

/// Where an item is: its name on the bus and its path.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct ItemKey {
    /// Its name on the bus.
    pub bus: String,
    /// Its object.
    pub path: String,
}

impl std::fmt::Display for ItemKey {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} {}", self.bus, self.path)
    }
}

/// An item as it is shown.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct StatusNotifierItem {
    /// Where it is.
    pub key: ItemKey,
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
pub struct MenuItem {
    /// Its number.
    pub id: i32,
    /// What it says.
    pub label: String,
}

/// What came from the bus.
enum ItemSignal {
    Registered(ItemKey),
    /// One more was told of than there is room for.
    TooMany,
    Changed(String),
    Gone(String),
    /// What an item says of itself; nothing where it does not answer.
    Item(ItemKey, Option<Box<StatusNotifierItem>>),
    Menu(ItemKey, Vec<MenuItem>),
}

/// What the session is told.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum ItemUpdate {
    /// The items are others, or look different.
    Items,
    /// The menu of an item that was asked for.
    Menu(ItemKey, Vec<MenuItem>),
}

/// Sends news and wakes the session.
#[derive(Clone)]
struct Teller {
    news: Sender<ItemSignal>,
    wake: std::sync::Arc<UnixStream>,
}

impl Teller {
    fn tell(&self, news: ItemSignal) {
        if self.news.send(news).is_ok() {
            // A full pipe wakes as well as one byte more.
            let _ = (&*self.wake).write(&[1]);
        }
    }
}

/// The one who keeps the list of items, as programs know it.
struct Watcher {
    teller: Teller,
    /// The items that are known, by their names there: as many as are shown or asked for.
    items: Names,
}

/// The names of items, which whoever shows them takes out again when they go.
type Names = Arc<Mutex<Vec<(ItemKey, String)>>>;

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
            true => ItemKey { bus: sender, path: service.to_owned() },
            false => ItemKey { bus: service.to_owned(), path: "/StatusNotifierItem".to_owned() },
        };
        if key.bus.len() + key.path.len() > MAX_NAME_BYTES {
            return;
        }
        let name = format!("{}{}", key.bus, key.path);
        let new = {
            let mut items = self.items.lock().unwrap_or_else(PoisonError::into_inner);
            let known = items.iter().any(|(other, _)| *other == key);
            if !known && items.len() >= limits::TRAY_ITEMS {
                self.teller.tell(ItemSignal::TooMany);
                return;
            }
            if !known {
                items.push((key.clone(), name.clone()));
            }
            !known
        };
        if new {
            let _ = Watcher::status_notifier_item_registered(&emitter, &name).await;
        }
        self.teller.tell(ItemSignal::Registered(key));
    }

    async fn register_status_notifier_host(&mut self, _service: &str) {}

    #[zbus(property)]
    async fn registered_status_notifier_items(&self) -> Vec<String> {
        self.items.lock().unwrap_or_else(PoisonError::into_inner).iter().map(|(_, name)| name.clone()).collect()
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
pub struct StatusNotifierHost {
    connection: Connection,
    teller: Teller,
    news: Receiver<ItemSignal>,
    wake: UnixStream,
    items: Vec<StatusNotifierItem>,
    names: Names,
    /// The items that are being asked, and whether they are to be asked again.
    asked: HashMap<ItemKey, bool>,
    /// How many were told of for which there was no room.
    left_out: usize,
}

async fn next(stream: &mut MessageStream) -> Option<zbus::Result<zbus::Message>> {
    std::future::poll_fn(|context| Pin::new(&mut *stream).poll_next(context)).await
}

impl StatusNotifierHost {
    /// Begins to take the name that items look for; nothing without a session bus, later when another program has it. Nobody
    /// waits for the bus.
    pub fn begin() -> Option<Asked<Option<StatusNotifierHost>>> {
        std::env::var_os("DBUS_SESSION_BUS_ADDRESS")?;
        Asked::begin(StatusNotifierHost::take).ok()
    }

    fn take() -> Option<StatusNotifierHost> {
        let (sender, news) = channel();
        let (wake, woken) = UnixStream::pair().ok()?;
        wake.set_nonblocking(true).ok()?;
        woken.set_nonblocking(true).ok()?;
        let teller = Teller { news: sender, wake: std::sync::Arc::new(wake) };
        let names = Names::default();
        let watcher = Watcher { teller: teller.clone(), items: names.clone() };
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
                    sender.into_iter().for_each(|sender| own.tell(ItemSignal::Changed(sender)));
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
                        own.tell(ItemSignal::Gone(name));
                    }
                }
            })
            .detach();
        let (items, asked) = (Vec::new(), HashMap::new());
        Some(StatusNotifierHost { connection, teller, news, wake: woken, items, names, asked, left_out: 0 })
    }

    /// Gives the name back, for whoever keeps the list next.
    pub fn leave(self) {
        let connection = self.connection.clone();
        let gives = async move {
            let _ = connection.release_name(WATCHER).await;
            let _ = connection.close().await;
        };
        self.connection.spawn("the name is given back", gives).detach();
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.wake.as_fd()
    }

    /// The items that want to be seen.
    pub fn items(&self) -> impl Iterator<Item = &StatusNotifierItem> {
        self.items.iter().filter(|item| item.shown)
    }

    /// Takes in what came.
    pub fn step(&mut self) -> Vec<ItemUpdate> {
        let mut buffer = [0; 256];
        while matches!(self.wake.read(&mut buffer), Ok(len) if len > 0) {}
        let mut told = Vec::new();
        let mut items = false;
        while let Ok(news) = self.news.try_recv() {
            match news {
                ItemSignal::Registered(key) => self.fetch(key),
                ItemSignal::TooMany => self.left_out += 1,
                ItemSignal::Changed(bus) => {
                    // A name of its own stands for the connection that it belongs to, which is not asked for here.
                    let keys: Vec<ItemKey> = self.items.iter().map(|item| item.key.clone()).collect();
                    let all = keys.iter().any(|key| !key.bus.starts_with(':'));
                    keys.into_iter().filter(|key| key.bus == bus || all).for_each(|key| self.fetch(key));
                }
                ItemSignal::Gone(bus) => {
                    let before = self.items.len();
                    self.items.retain(|item| item.key.bus != bus);
                    self.names.lock().unwrap_or_else(PoisonError::into_inner).retain(|(key, _)| key.bus != bus);
                    items |= self.items.len() != before;
                }
                ItemSignal::Item(key, item) => {
                    if self.asked.remove(&key) == Some(true) {
                        self.fetch(key.clone());
                    }
                    let known = self.names.lock().unwrap_or_else(PoisonError::into_inner).iter().any(|(other, _)| *other == key);
                    match (self.items.iter_mut().find(|old| old.key == key), item.map(|item| *item)) {
                        // It went while it was asked, or has nothing to say.
                        (None, None) => {
                            self.names.lock().unwrap_or_else(PoisonError::into_inner).retain(|(other, _)| *other != key)
                        }
                        (_, None) => {}
                        (Some(old), Some(item)) if *old == item => {}
                        (Some(old), Some(item)) => {
                            *old = item;
                            items = true;
                        }
                        (None, Some(item)) if known => {
                            self.items.push(item);
                            items = true;
                        }
                        (None, Some(_)) => {}
                    }
                }
                ItemSignal::Menu(key, lines) => told.push(ItemUpdate::Menu(key, lines)),
            }
        }
        if items {
            told.push(ItemUpdate::Items);
        }
        told
    }

    /// How many items there was no room for.
    pub fn left_out(&self) -> usize {
        self.left_out
    }

    /// Asks an item for all that it says of itself: once at a time.
    fn fetch(&mut self, key: ItemKey) {
        if let Some(again) = self.asked.get_mut(&key) {
            *again = true;
            return;
        }
        self.asked.insert(key.clone(), false);
        let (connection, teller) = (self.connection.clone(), self.teller.clone());
        self.connection
            .spawn("an item", async move {
                let interface = Some("org.freedesktop.DBus.Properties");
                let (bus, path) = (Some(key.bus.as_str()), key.path.as_str());
                let reply = connection.call_method(bus, path, interface, "GetAll", &(ITEM,)).await;
                let facts = reply.ok().and_then(|reply| reply.body().deserialize::<PropertyMap>().ok());
                let item = facts.map(|mut facts| Box::new(item(key.clone(), &mut facts)));
                teller.tell(ItemSignal::Item(key.clone(), item));
            })
            .detach();
    }

    /// Tells an item of a press: 1 is its main action, 2 the other; the wheel turns.
    pub fn press(&self, key: &ItemKey, button: u8, x: i32, y: i32) {
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
    pub fn ask_menu(&self, key: &ItemKey) -> bool {
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
                    && let Ok((_, layout)) = reply.body().deserialize::<(u32, Entry)>()
                {
                    let mut all = Vec::new();
                    lines(&layout, "", 0, &mut all);
                    teller.tell(ItemSignal::Menu(key.clone(), all));
                }
            })
            .detach();
        true
    }

    /// Chooses a line of an item's menu.
    pub fn choose(&self, key: &ItemKey, line: i32) {
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

/// A text without what controls.
fn plain(facts: &PropertyMap, name: &str) -> String {
    facts.text(name).chars().filter(|c| !c.is_control()).take(200).collect()
}

fn item(key: ItemKey, facts: &mut PropertyMap) -> StatusNotifierItem {
    let attention = facts.text("Status") == "NeedsAttention";
    let of = |plain_name: &str, loud: &str| {
        let loud = if attention { plain(facts, loud) } else { String::new() };
        if loud.is_empty() { plain(facts, plain_name) } else { loud }
    };
    let icon = (of("IconName", "AttentionIconName"), plain(facts, "IconThemePath"));
    let pixels = if attention { facts.picture("AttentionIconPixmap") } else { None };
    StatusNotifierItem {
        title: plain(facts, "Title"),
        shown: facts.text("Status") != "Passive",
        pixels: pixels.or_else(|| facts.picture("IconPixmap")).map(|((w, h), rgba)| (w, h, rgba)),
        icon,
        menu: plain(facts, "Menu"),
        key,
    }
}

/// The lines of a menu that can be chosen; those of inner menus name the one they are in.
fn lines(entry: &Entry, within: &str, depth: usize, out: &mut Vec<MenuItem>) {
    for entry in &entry.inner {
        let truth = |name: &str| entry.facts.truth(name).unwrap_or(true);
        let label = plain(&entry.facts, "label").replace('_', "");
        let line = entry.facts.text("type") == "separator" || label.is_empty();
        if !truth("visible") || line || out.len() >= limits::MENU_LINES {
            continue;
        }
        let full = if within.is_empty() { label } else { format!("{within} › {label}") };
        if !entry.inner.is_empty() && depth < limits::MENU_DEPTH {
            lines(entry, &full, depth + 1, out);
        } else if truth("enabled") {
            out.push(MenuItem { id: entry.id, label: full });
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Menus in each other, so deep, with a line in each.
    fn deep(levels: usize) -> Entry {
        let facts = |label: &str| {
            let all = HashMap::from([("label", Variant::from(label))]);
            let message = zbus::Message::method_call("/", "X").build(&(all,)).expect("a message");
            let body = message.body();
            body.deserialize::<(PropertyMap,)>().expect("facts").0
        };
        let line = Entry { id: levels as i32, facts: facts(&format!("line {levels}")), inner: Vec::new() };
        let inner =
            if levels == 0 { Vec::new() } else { vec![Entry { facts: facts(&format!("menu {levels}")), ..deep(levels - 1) }] };
        Entry { inner: [inner, vec![line]].concat(), ..Entry::default() }
    }

    #[test]
    fn menus_in_each_other_are_shown_to_a_depth() {
        let mut all = Vec::new();
        lines(&deep(limits::MENU_DEPTH + 3), "", 0, &mut all);
        let deepest = all.iter().map(|line| line.label.matches(" \u{203a} ").count()).max();
        assert_eq!(deepest, Some(limits::MENU_DEPTH));
        assert!(all.len() <= limits::MENU_LINES);
    }
}
