//! Bars on a real X server: presses, menus, hints, edges, modules that misbehave; bars without a desktop.

use std::collections::HashMap;
use std::io::{BufRead, BufReader};
use std::process::{Command, Stdio};
use std::sync::mpsc::{Sender, channel};
use std::time::{Duration, Instant};

use insta::assert_snapshot;
use serde_json::Value;
use x11rb::protocol::xproto::ConnectionExt as _;
use x11rb::protocol::xtest::ConnectionExt as _;
use x11rb::wrapper::ConnectionExt as _;
use zbus::zvariant::{OwnedVariant, Variant};

use crate::Desk;
use crate::live::{Program, Screen};

const RICE: &str = "[frame]\nwidth = 0\nradius = 0\n[backdrop]\nfill = \"#204060\"\n[workspaces]\norder = [\"charts\", \"logs\", \"field\"]\n\
[bar.top]\nthick = 30\nstart = [\"staff\", \"layout\"]\nmiddle = [\"title\"]\nend = [\"word\", \"more\"]\n[module.staff]\nsource = \"workspaces\"\n[module.layout]\nsource = \"layout\"\n\
[module.title]\nsource = \"title\"\ntext = \"{title}\"\n[module.word]\ntext = \"press here\"\nhover = \"said when rested on\"\n\
press = { left = \"go logs\", right = [{ label = \"To the field\", do = \"go field\" }, \"go charts\"], wheel-up = \"layout next\" }\n\
[module.more]\ntext = \"more\"\ngroup = [\"inner\"]\n[module.inner]\ntext = \"inside\"\n";

fn screen(part: &str) -> Screen {
    let mut screen = Screen::new(true);
    screen.save(part);
    screen.start(&[]);
    screen
}

fn rows(screen: &Screen) -> Vec<Value> {
    screen.ask("bars").as_array().expect("a list").clone()
}

/// The area of a module: width, height, left, top.
#[track_caller]
fn area(screen: &Screen, module: &str) -> [i16; 4] {
    let rows = rows(screen);
    let row = rows.iter().find(|row| row["module"] == module).expect("a bar shows it");
    let numbers = row["area"].as_str().expect("an area").split(['x', '+']).map(|n| n.parse::<f32>().expect("a number") as i16);
    numbers.collect::<Vec<_>>().try_into().expect("four numbers")
}

fn middle(screen: &Screen, module: &str) -> (i16, i16) {
    let [w, h, x, y] = area(screen, module);
    (x + w / 2, y + h / 2)
}

fn point(screen: &Screen, (x, y): (i16, i16)) {
    screen.x.xtest_fake_input(6, 0, 0, screen.root, x, y, 0).expect("moved");
    screen.x.sync().expect("sent");
}

fn click(screen: &Screen, at: (i16, i16), button: u8) {
    point(screen, at);
    screen.x.xtest_fake_input(4, button, 0, screen.root, 0, 0, 0).expect("pressed");
    screen.x.xtest_fake_input(5, button, 0, screen.root, 0, 0, 0).expect("released");
    screen.x.sync().expect("sent");
}

/// The windows of the server that have a name, with their places: left, top, width, height.
pub fn named(screen: &Screen, name: &str) -> Option<(i16, i16, u16, u16)> {
    let tree = screen.x.query_tree(screen.root).ok()?.reply().ok()?;
    tree.children.into_iter().find_map(|window| {
        let own = screen.x.get_property(false, window, 39_u32, 31_u32, 0, 64).ok()?.reply().ok()?;
        let seen = screen.x.get_window_attributes(window).ok()?.reply().ok()?;
        let g = screen.x.get_geometry(window).ok()?.reply().ok()?;
        let shown = seen.map_state == x11rb::protocol::xproto::MapState::VIEWABLE;
        (own.value == name.as_bytes() && shown).then_some((g.x, g.y, g.width, g.height))
    })
}

#[test]
fn presses_do_what_the_rice_says_and_marks_show_their_workspaces() {
    let mut screen = screen(RICE);
    click(&screen, middle(&screen, "word"), 1);
    screen.wait("the press went to logs", |screen| screen.workspace() == "logs");
    let [_, h, x, y] = area(&screen, "staff");
    click(&screen, (x + 1, y + h / 2), 1);
    screen.wait("the first mark is charts", |screen| screen.workspace() == "charts");
    click(&screen, middle(&screen, "staff"), 5);
    screen.wait("the wheel goes on", |screen| screen.workspace() == "logs");
    let layout = |screen: &Screen| rows(screen).iter().find(|row| row["module"] == "layout").map(|row| row["text"].clone());
    let before = layout(&screen);
    click(&screen, middle(&screen, "word"), 4);
    screen.wait("the wheel changed the layout", |screen| layout(screen) != before);
    click(&screen, middle(&screen, "more"), 1);
    screen.wait("the group unfolds", |screen| rows(screen).iter().any(|row| row["module"] == "inner"));
    click(&screen, middle(&screen, "more"), 1);
    screen.wait("and folds", |screen| !rows(screen).iter().any(|row| row["module"] == "inner"));
}

#[test]
fn a_menu_opens_at_its_module_and_does_what_is_chosen() {
    let mut screen = screen(RICE);
    click(&screen, middle(&screen, "word"), 3);
    screen.wait("the menu is open", |screen| named(screen, "jovrik menu").is_some());
    let (x, y, w, h) = named(&screen, "jovrik menu").expect("it is open");
    assert!(y >= 30 && x + w as i16 <= 1000, "below the bar and on the screen: {w}x{h}+{x}+{y}");
    click(&screen, (x + w as i16 / 2, y + h as i16 / 4), 1);
    screen.wait("the first line was chosen", |screen| screen.workspace() == "field");
    screen.wait("it is closed", |screen| named(screen, "jovrik menu").is_none());
    click(&screen, middle(&screen, "word"), 3);
    screen.wait("it opens again", |screen| named(screen, "jovrik menu").is_some());
    click(&screen, (500, 700), 1);
    screen.wait("a press beside it closes it", |screen| named(screen, "jovrik menu").is_none());
    assert_eq!(screen.workspace(), "field", "and does nothing else");
}

#[test]
fn a_module_says_something_when_the_pointer_rests_on_it() {
    let mut screen = screen(RICE);
    point(&screen, (500, 500));
    point(&screen, middle(&screen, "word"));
    screen.wait("the hint is there", |screen| named(screen, "jovrik hint").is_some());
    point(&screen, (500, 500));
    screen.wait("it goes with the pointer", |screen| named(screen, "jovrik hint").is_none());
}

#[test]
fn a_translucent_bar_at_the_side_floats_over_the_backdrop_and_windows_keep_off() {
    let side = RICE.replace("[bar.top]\nthick = 30\n", "[bar.top]\nedge = \"left\"\nthick = 50\nmargin = 10\n")
        + "[style.bar]\nfill = \"#ffffff80\"\nline = \"none\"\nradius = 12\n[space]\nedge = 0\nalone = 0\n";
    let mut screen = screen(&side);
    screen.wait("it is drawn", |screen| !rows(screen).is_empty());
    // Half white over the backdrop's colour.
    assert_eq!(screen.pixel(35, 400), [0x90, 0xa0, 0xb0]);
    assert_eq!(screen.pixel(10, 10), [0x20, 0x40, 0x60], "its corner is round");
    assert_eq!(screen.pixel(5, 400), [0x20, 0x40, 0x60], "and it floats");
    let _window = screen.xterm();
    screen.wait("the window keeps off", |screen| screen.areas() == ["940x800+60+0"]);
    screen.tell("bar toggle top");
    screen.wait("without the bar it has all", |screen| screen.areas() == ["1000x800+0+0"]);
}

#[test]
fn a_monitor_of_a_scale_has_larger_bars_menus_and_frames() {
    let part = RICE.to_owned() + "[monitor.all]\nmatch = \"*\"\nscale = 2.0\n[space]\nedge = 10\nalone = 10\n";
    let mut screen = screen(&part);
    screen.wait("the bar is twice as thick", |screen| area(screen, "word")[1] == 60);
    let _window = screen.xterm();
    screen.wait("and the gaps as wide", |screen| screen.areas() == ["960x700+20+80"]);
    click(&screen, middle(&screen, "word"), 3);
    screen.wait("the menu is open", |screen| named(screen, "jovrik menu").is_some());
    let (x, y, w, h) = named(&screen, "jovrik menu").expect("it is open");
    assert!(h > 110, "two lines of twice the height: {h}");
    click(&screen, (x + w as i16 / 2, y + h as i16 / 4), 1);
    screen.wait("the first line was chosen", |screen| screen.workspace() == "field");
}

#[test]
fn modules_that_hang_flood_die_or_print_rubbish_delay_nobody() {
    let bad = [
        ("hang", "run = [\"sleep\", \"600\"], within = \"300ms\", every = \"100ms\""),
        ("flood", "stream = [\"yes\"]"),
        ("die", "run = [\"false\"], every = \"100ms\""),
        ("rubbish", "run = [\"head\", \"-c\", \"100000\", \"/dev/urandom\"], every = \"100ms\""),
        ("large", "run = [\"yes\"], every = \"100ms\""),
        ("gone", "run = [\"no-such-program-here\"]"),
        ("closes", "shell = \"exec >&-; sleep 600\", within = \"300ms\", every = \"100ms\""),
    ];
    let names: Vec<String> = bad.iter().map(|(name, _)| format!("\"{name}\"")).collect();
    let mut part = format!(
        "[bar.top]\nstart = [\"tick\"]\nend = [{}]\n[module.tick]\nsource = {{ kind = \"time\", every = \"100ms\" }}\ntext = \"{{time:%S.%f}}\"\n",
        names.join(", ")
    );
    for (name, source) in bad {
        part.push_str(&format!("[module.{name}]\nsource = {{ {source} }}\nempty = \"-\"\n"));
    }
    let screen = screen(&part);
    std::thread::sleep(Duration::from_millis(1200));
    let redraws = |screen: &Screen| screen.ask("health")["bar-redraws"].as_u64().expect("a number");
    let (before, began) = (redraws(&screen), Instant::now());
    let mut slowest = Duration::ZERO;
    for _ in 0..20 {
        let asked = Instant::now();
        screen.ask("workspaces");
        slowest = slowest.max(asked.elapsed());
        std::thread::sleep(Duration::from_millis(50));
    }
    // Generous: the machine that tests may be busy; a hanging module would take its whole time limit.
    assert!(slowest < Duration::from_millis(2000), "an answer took {slowest:?}");
    let seconds = began.elapsed().as_secs_f64();
    let drawn = (redraws(&screen) - before) as f64 / seconds;
    assert!((4.0..200.0).contains(&drawn), "{drawn} redraws a second: the clock goes on, and the flood is held to frames");
    let troubles = screen.ask("health")["modules-in-trouble"].to_string();
    for name in ["hang", "die", "rubbish", "large", "gone"] {
        assert!(troubles.contains(&format!("{name}: ")), "{name} is not told: {troubles}");
    }
    let shown = rows(&screen);
    let text = |name: &str| shown.iter().find(|row| row["module"] == name).map(|row| row["text"].to_string());
    assert_eq!(text("flood").as_deref(), Some("\"y\""));
    assert_eq!(text("gone").as_deref(), Some("\"-\""));
}

#[test]
fn the_keyboard_and_an_unfinished_sequence_are_shown() {
    let part = "[bar.top]\nend = [\"keys\", \"board\"]\n[module.keys]\nsource = \"sequence\"\ntext = \"{keys} …\"\n[module.board]\nsource = \"keyboard\"\ntext = \"{name}\"\n[keys]\nsequence-wait = \"20s\"\n[keys.desk]\n\"Lead+g l\" = \"layout next\"\n";
    let mut screen = screen(part);
    let shown = |screen: &Screen, module: &str| {
        rows(screen).iter().find(|row| row["module"] == module).map(|row| row["text"].as_str().expect("a text").to_owned())
    };
    screen.wait("the layout is shown", |screen| shown(screen, "board").as_deref() == Some("us"));
    assert_eq!(shown(&screen, "keys"), None);
    screen.press(&[0xffeb, u32::from('g')]);
    screen.wait("the sequence has begun", |screen| shown(screen, "keys").as_deref() == Some("Lead+g …"));
    screen.press(&[u32::from('l')]);
    screen.wait("and ended", |screen| shown(screen, "keys").is_none());
}

#[test]
fn only_the_module_that_changed_is_drawn_again() {
    let part = "[bar.top]\nstart = [\"still\"]\nend = [\"file\"]\n[module.still]\ntext = \"still\"\n[module.file]\nsource = { file = \"LEVEL\" }\nempty = \"none\"\n";
    let mut screen = Screen::new(true);
    let level = screen.desk.path().join("level");
    screen.save(&part.replace("LEVEL", level.to_str().expect("UTF-8")));
    screen.start(&[]);
    let redraws = |screen: &Screen| screen.ask("health")["bar-redraws"].as_u64().expect("a number");
    let before = redraws(&screen);
    std::fs::write(&level, "3.2 m").expect("written");
    screen.wait("the file is shown", |screen| rows(screen).iter().any(|row| row["text"] == "3.2 m"));
    assert_eq!(redraws(&screen), before + 1, "one module, once");
    screen.tell("layout next");
    assert_eq!(redraws(&screen), before + 1, "nothing of the bar changed");
}

#[test]
fn a_module_is_tried_and_a_bar_is_printed_without_a_desktop() {
    let desk = Desk::of(
        "[bar.top]\nstart = [\"staff\"]\nend = [\"flow\", \"bad\", \"none\"]\n[module.staff]\nsource = \"workspaces\"\n[module.flow]\nsource = { shell = \"echo '{\\\"level\\\": 3.25, \\\"flow\\\": \\\"ebb\\\"}'\", every = \"10m\" }\npick = { level = \"/level\", flow = \"/flow\" }\ntext = \"{flow} {level:.1} m\"\ngrades = { warn = \"level > 3\" }\n[module.bad]\nsource = { shell = \"echo no gauge >&2; exit 4\" }\nempty = \"-\"\n[module.none]\nsource = { file = \"/no/such/file\" }\n",
    );
    let told = desk.run(&["bar", "try", "flow"]).clean();
    let told = told.lines().filter(|line| !line.contains("took")).collect::<Vec<_>>().join("\n");
    assert_snapshot!(told, @r#"
    flow  run sh -c 'echo '\''{"level": 3.25, "flow": "ebb"}'\''', every 10m
      raw      {"level": 3.25, "flow": "ebb"}
      fields   level  3.25
               flow   ebb
      text     ebb 3.2 m
      state    warn
    "#);
    let failed = desk.run(&["bar", "try", "bad"]);
    assert_eq!(failed.code, 1);
    assert!(failed.out.contains("no gauge") && failed.out.contains("it ended with exit code 4"), "{}", failed.out);
    let lines = desk.run(&["bar", "try", "flow", "--times", "3", "--json"]).clean();
    assert_eq!(lines.lines().count(), 3);
    let one: Value = serde_json::from_str(lines.lines().next().expect("a line")).expect("JSON");
    assert_eq!(
        (one["text"].as_str(), one["state"].as_str(), one["fields"]["level"].as_f64()),
        (Some("ebb 3.2 m"), Some("warn"), Some(3.25))
    );
    assert_snapshot!(desk.run(&["bar", "try", "flaw"]).failed(2), @"error  there is no module flaw; did you mean flow?");
    assert_snapshot!(desk.run(&["bar", "print"]).clean(), @"ebb 3.2 m   -");
    assert_snapshot!(desk.run(&["bar", "print", "top", "--json"]).clean(), @r#"{"bar":"top","modules":[{"name":"flow","text":"ebb 3.2 m","state":"warn"},{"name":"bad","text":"-","state":"plain"}]}"#);
    desk.run(&["bar", "print", "side"]).failed(2);
}

/// A program with an icon for the tray.
struct IconClient<'s> {
    screen: &'s Screen,
    window: u32,
}

impl<'s> IconClient<'s> {
    fn atom(screen: &Screen, name: &str) -> u32 {
        screen.x.intern_atom(false, name.as_bytes()).expect("asked").reply().expect("an atom").atom
    }

    /// Asks the tray for a place, as the System Tray Protocol says.
    fn dock(screen: &'s Screen, mapped: u32) -> IconClient<'s> {
        use x11rb::connection::Connection as _;
        use x11rb::protocol::xproto::{ClientMessageEvent, CreateWindowAux, EventMask, WindowClass};
        let x = &screen.x;
        let window = x.generate_id().expect("an id");
        let look = CreateWindowAux::new().background_pixel(0x00ff_00ff);
        x.create_window(0, window, screen.root, 0, 0, 40, 40, 0, WindowClass::INPUT_OUTPUT, 0, &look).expect("made");
        let client = IconClient { screen, window };
        client.wants(mapped);
        let owner = client.tray().expect("there is a tray");
        let data = [0, 0, window, 0, 0];
        let event = ClientMessageEvent::new(32, owner, IconClient::atom(screen, "_NET_SYSTEM_TRAY_OPCODE"), data);
        x.send_event(false, owner, EventMask::NO_EVENT, event).expect("sent");
        x.sync().expect("sent");
        client
    }

    fn tray(&self) -> Option<u32> {
        let atom = IconClient::atom(self.screen, "_NET_SYSTEM_TRAY_S0");
        let owner = self.screen.x.get_selection_owner(atom).expect("asked").reply().expect("told").owner;
        (owner != 0).then_some(owner)
    }

    fn wants(&self, mapped: u32) {
        use x11rb::protocol::xproto::PropMode;
        let info = IconClient::atom(self.screen, "_XEMBED_INFO");
        self.screen.x.change_property32(PropMode::REPLACE, self.window, info, info, &[0, mapped]).expect("set");
        self.screen.x.sync().expect("sent");
    }

    /// Its parent, and whether it is seen.
    fn place(&self) -> (u32, bool) {
        let tree = self.screen.x.query_tree(self.window).expect("asked").reply().expect("it is there");
        let seen = self.screen.x.get_window_attributes(self.window).expect("asked").reply().expect("it is there");
        (tree.parent, seen.map_state == x11rb::protocol::xproto::MapState::VIEWABLE)
    }
}

#[test]
fn icons_of_other_programs_come_into_the_tray_and_go() {
    let part = RICE.replace("end = [\"word\", \"more\"]", "end = [\"word\", \"tray\"]") + "[module.tray]\nsource = \"tray\"\n";
    let mut screen = screen(&part);
    assert!(!rows(&screen).iter().any(|row| row["module"] == "tray"), "an empty tray takes no room");
    let (first, second) = {
        let first = IconClient::dock(&screen, 1);
        let second = IconClient::dock(&screen, 1);
        assert_eq!(first.tray(), second.tray());
        (first.window, second.window)
    };
    screen.wait("both are seen", |screen| [first, second].iter().all(|window| IconClient { screen, window: *window }.place().1));
    let [w, _, x, _] = area(&screen, "tray");
    assert_eq!(w, 38, "two icons of 16 with 6 between");
    let size = screen.x.get_geometry(first).expect("asked").reply().expect("it is there");
    assert_eq!((size.width, size.height), (16, 16));
    assert_eq!(screen.pixel(x + 4, 15), [0xff, 0x00, 0xff], "the icon is on the bar");
    let hidden = IconClient { screen: &screen, window: second };
    hidden.wants(0);
    screen.wait("one does not want to be seen", |screen| area(screen, "tray")[0] == 16);
    screen.x.destroy_window(second).expect("gone");
    screen.x.sync().expect("sent");
    let before = IconClient { screen: &screen, window: first }.place().0;
    screen.save(&part.replace("[\"word\", \"tray\"]", "[\"word\"]"));
    screen.wait("without a tray the icon is given back", |screen| {
        let (parent, seen) = IconClient { screen, window: first }.place();
        parent == screen.root && !seen && parent != before
    });
    screen.x.destroy_window(first).expect("gone");
    screen.save(&part);
    screen.wait("the desktop goes on", |screen| IconClient { screen, window: 0 }.tray().is_some());
}

#[test]
fn a_real_program_puts_its_icon_into_the_tray() {
    let part = RICE.replace("end = [\"word\", \"more\"]", "end = [\"word\", \"tray\"]") + "[module.tray]\nsource = \"tray\"\n";
    let mut screen = screen(&part);
    let picture = screen.desk.path().join("magenta.png");
    std::fs::write(&picture, magenta()).expect("written");
    let mut yad = Command::new("yad");
    yad.arg("--notification").arg("--image").arg(&picture).args(["--command", "touch pressed"]);
    yad.current_dir(screen.desk.path()).env("DISPLAY", &screen.name).env("HOME", screen.desk.path());
    yad.env("NO_AT_BRIDGE", "1").stdout(Stdio::null()).stderr(Stdio::null());
    let program = Program(yad.spawn().expect("yad: cargo xtask test installs it"));
    screen.wait("its icon is in the tray", |screen| rows(screen).iter().any(|row| row["text"] == "1 icon"));
    let (x, y) = middle(&screen, "tray");
    screen.wait("it is drawn in the middle of the bar", |screen| screen.pixel(x, y) == [0xff, 0x00, 0xff]);
    click(&screen, (x, y), 1);
    screen.wait("a press reaches it", |screen| screen.desk.path().join("pressed").exists());
    drop(program);
    screen.wait("it goes with its program", |screen| !rows(screen).iter().any(|row| row["module"] == "tray"));
}

/// A session bus of its own.
pub fn bus() -> (Program, String) {
    let mut daemon = Command::new("dbus-daemon")
        .args(["--session", "--nofork", "--print-address=1"])
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .expect("dbus-daemon: cargo xtask test installs it");
    let mut address = String::new();
    let out = daemon.stdout.take().expect("its output");
    BufReader::new(out).read_line(&mut address).expect("an address");
    (Program(daemon), address.trim().to_owned())
}

/// A program with an item on the bus: what was done to it is told.
struct StationItem(Sender<String>);

type Pixels = Vec<(i32, i32, Vec<u8>)>;

#[zbus::interface(name = "org.\u{6b}de.StatusNotifierItem")]
impl StationItem {
    async fn activate(&self, _x: i32, _y: i32) {
        let _ = self.0.send("activate".to_owned());
    }

    async fn scroll(&self, delta: i32, way: &str) {
        let _ = self.0.send(format!("scroll {delta} {way}"));
    }

    #[zbus(property)]
    async fn title(&self) -> String {
        "Gauge 4".to_owned()
    }

    #[zbus(property)]
    async fn status(&self) -> String {
        "Active".to_owned()
    }

    #[zbus(property)]
    async fn icon_pixmap(&self) -> Pixels {
        let magenta = [255, 255, 0, 255].repeat(16 * 16);
        // One picture lies about its size, and is passed over.
        vec![(400, 400, vec![1, 2, 3]), (16, 16, magenta)]
    }

    #[zbus(property)]
    async fn menu(&self) -> zbus::OwnedObjectPath {
        zbus::ObjectPath::try_from("/Menu").expect("a path").into()
    }

    #[zbus(signal)]
    async fn new_icon(emitter: &zbus::object_server::SignalEmitter<'_>) -> zbus::Result<()>;
}

struct StationMenu(Sender<String>);

type Entry = (i32, HashMap<String, OwnedVariant>, Vec<OwnedVariant>);

fn entry(id: i32, label: &str, more: &[(&str, Variant<'static>)], inner: Vec<Entry>) -> Entry {
    let owned = |value: Variant<'static>| OwnedVariant::try_from(value).expect("a value");
    let mut facts: HashMap<String, OwnedVariant> = [("label".to_owned(), owned(Variant::from(label.to_owned())))].into();
    facts.extend(more.iter().map(|(name, value)| ((*name).to_owned(), owned(value.try_clone().expect("a value")))));
    (id, facts, inner.into_iter().map(|entry| owned(Variant::from(entry))).collect())
}

#[zbus::interface(name = "com.canonical.dbusmenu")]
impl StationMenu {
    async fn get_layout(&self, _parent: i32, _depth: i32, _names: Vec<String>) -> (u32, Entry) {
        let off = [("enabled", Variant::from(false))];
        let line = [("type", Variant::from("separator".to_owned()))];
        let inner = vec![entry(4, "Neap", &[], Vec::new())];
        let all = vec![
            entry(1, "_Read now", &[], Vec::new()),
            entry(2, "Not now", &off, Vec::new()),
            entry(3, "", &line, Vec::new()),
            entry(5, "Tide", &[], inner),
        ];
        (1, entry(0, "", &[], all))
    }

    async fn event(&self, id: i32, what: &str, _data: Variant<'_>, _time: u32) {
        let _ = self.0.send(format!("{what} {id}"));
    }
}

#[test]
fn items_of_the_session_bus_are_shown_pressed_and_their_menus_opened() {
    let (_bus, address) = bus();
    let mut screen = Screen::new(true);
    screen.bus = Some(address.clone());
    let part = RICE.replace("end = [\"word\", \"more\"]", "end = [\"word\", \"tray\"]") + "[module.tray]\nsource = \"tray\"\n";
    screen.save(&part);
    screen.start(&[]);
    let (told, done) = channel();
    let connection = zbus::block_on(async {
        let builder = zbus::connection::Builder::address(address.as_str());
        let builder = builder.serve_at("/StatusNotifierItem", StationItem(told.clone()));
        let connection = builder.serve_at("/Menu", StationMenu(told)).build().await.expect("the bus answers");
        let watcher = "org.\u{6b}de.StatusNotifierWatcher";
        let own = connection.unique_name().expect("a name").to_string();
        let body = (own,);
        let method = "RegisterStatusNotifierItem";
        let call = connection.call_method(Some(watcher), "/StatusNotifierWatcher", Some(watcher), method, &body);
        call.await.expect("the desktop keeps the list");
        connection
    });
    screen.wait("the item is shown", |screen| rows(screen).iter().any(|row| row["text"] == "1 icon"));
    let [_, _, x, _] = area(&screen, "tray");
    screen.wait("its picture is drawn", |screen| screen.pixel(x + 8, 15) == [0xff, 0x00, 0xff]);
    let next = || done.recv_timeout(Duration::from_secs(20)).expect("the item is told");
    click(&screen, (x + 8, 15), 1);
    assert_eq!(next(), "activate");
    click(&screen, (x + 8, 15), 5);
    assert_eq!(next(), "scroll 1 vertical");
    click(&screen, (x + 8, 15), 3);
    screen.wait("its menu is open", |screen| named(screen, "jovrik menu").is_some());
    let (left, top, w, h) = named(&screen, "jovrik menu").expect("it is open");
    // Two lines: what is off, or a line between others, cannot be chosen.
    click(&screen, (left + w as i16 / 2, top + h as i16 * 3 / 4), 1);
    assert_eq!(next(), "clicked 4", "the line of the inner menu");
    drop(connection);
    screen.wait("the item goes with its program", |screen| !rows(screen).iter().any(|row| row["module"] == "tray"));
}

/// A program that puts an item on the bus through the library that most programs use.
const ITEM: &str = "
import gi, sys
gi.require_version('AyatanaAppIndicator3', '0.1')
gi.require_version('Gtk', '3.0')
from gi.repository import AyatanaAppIndicator3 as Items, Gtk
item = Items.Indicator.new('gauge', sys.argv[1], Items.IndicatorCategory.APPLICATION_STATUS)
item.set_status(Items.IndicatorStatus.ACTIVE)
menu = Gtk.Menu()
for label in ['Read now', 'Close the gate']:
    line = Gtk.MenuItem(label=label)
    line.connect('activate', lambda _, label=label: open(sys.argv[2], 'w').write(label))
    menu.append(line)
menu.show_all()
item.set_menu(menu)
Gtk.main()
";

#[test]
fn a_real_program_s_item_shows_its_picture_and_its_menu() {
    let (_bus, address) = bus();
    let mut screen = Screen::new(true);
    screen.bus = Some(address.clone());
    let part = RICE.replace("end = [\"word\", \"more\"]", "end = [\"word\", \"tray\"]") + "[module.tray]\nsource = \"tray\"\n";
    screen.save(&part);
    screen.start(&[]);
    let picture = screen.desk.path().join("magenta.png");
    std::fs::write(&picture, magenta()).expect("written");
    let chosen = screen.desk.path().join("chosen");
    let mut program = Command::new("/usr/bin/python3");
    program.args(["-c", ITEM]).args([&picture, &chosen]).env("DISPLAY", &screen.name).env("DBUS_SESSION_BUS_ADDRESS", &address);
    program.env("HOME", screen.desk.path()).env("NO_AT_BRIDGE", "1").stdout(Stdio::null()).stderr(Stdio::null());
    let _program = Program(program.spawn().expect("python3-gi: cargo xtask test installs it"));
    screen.wait("the item is shown", |screen| rows(screen).iter().any(|row| row["text"] == "1 icon"));
    let (x, y) = middle(&screen, "tray");
    screen.wait("with its picture", |screen| screen.pixel(x, y) == [0xff, 0x00, 0xff]);
    click(&screen, (x, y), 3);
    screen.wait("its menu is open", |screen| named(screen, "jovrik menu").is_some());
    let (left, top, w, h) = named(&screen, "jovrik menu").expect("it is open");
    click(&screen, (left + w as i16 / 2, top + h as i16 * 3 / 4), 1);
    screen.wait("the second line was chosen", |_| std::fs::read_to_string(&chosen).is_ok_and(|text| text == "Close the gate"));
}

/// A picture of 16 by 16 pixels in one colour.
fn magenta() -> Vec<u8> {
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, 16, 16);
    encoder.set_color(png::ColorType::Rgb);
    encoder.write_header().expect("a header").write_image_data(&[255, 0, 255].repeat(256)).expect("pixels");
    bytes
}
