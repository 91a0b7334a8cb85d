//! What strangers can still do: each attack, at the limit and one above it, while somebody else asks and is answered.
//!
//! How soon is judged in the build that people run (`cargo test --release -p jovrik --test cli trust`); elsewhere it must be soon
//! enough to tell a desktop that goes on from one that does not.

use std::collections::HashMap;
use std::io::{Read as _, Write as _};
use std::os::unix::fs::PermissionsExt;
use std::os::unix::net::UnixStream;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::{Duration, Instant};

use jovrik_text::limits::{self, LIMITS};
use serde_json::{Value, json};
use x11rb::connection::Connection as _;
use x11rb::protocol::xproto::{AtomEnum, ConnectionExt as _, CreateWindowAux, PropMode, WindowClass};
use x11rb::wrapper::ConnectionExt as _;
use zbus::zvariant::Variant;

use crate::bars::bus;
use crate::live::{Program, Screen};
use crate::{Desk, photograph};

/// How soon the desktop answers whatever strangers do, in milliseconds.
const SOON: u64 = if cfg!(debug_assertions) { 3000 } else { 50 };
/// By how much it may grow meanwhile, in KiB.
const MORE: u64 = 64 * 1024;

const RICE: &str = "[workspaces]\norder = [\"charts\", \"logs\"]\nlayouts = [\"r\", \"m\"]\n[layout.r]\nkind = \"ribbon\"\n[layout.m]\nkind = \"main\"\n\
[bar.top]\nthick = 30\nend = [\"tray\", \"t\"]\n[module.tray]\nsource = \"tray\"\n[module.t]\nsource = { shell = \"=module.c1.text\", every = \"1h\" }\ntext = \"{value}\"\n\
[module.c1]\ntext = \"=module.c2.text\"\n[module.c2]\ntext = \"echo harmless\"\n[notices]\nwidth = 300\n";

struct World {
    screen: Screen,
    bus: String,
    _daemon: Program,
    process: u64,
}

impl World {
    fn new(rice: &str) -> World {
        let (daemon, bus) = bus();
        let mut server = Command::new("Xvfb");
        server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
        let mut screen = Screen::on(server, rice);
        screen.bus = Some(bus.clone());
        screen.start(&[]);
        let process = screen.ask("health")["process"].as_u64().expect("a number");
        World { screen, bus, _daemon: daemon, process }
    }

    fn socket(&self) -> PathBuf {
        jovrik_live::socket_path(&self.screen.desk.path().join("run"), &self.screen.name)
    }

    fn ask(&self, what: &str) -> Value {
        jovrik_live::request(&self.socket(), &json!({ "ask": what })).expect("it answers")
    }

    /// A number of what the kernel says of the desktop.
    fn kib(&self, name: &str) -> u64 {
        let status = std::fs::read_to_string(format!("/proc/{}/status", self.process)).expect("it runs");
        let line = status.lines().find(|line| line.starts_with(name)).expect("a line");
        line.split_whitespace().nth(1).and_then(|number| number.parse().ok()).expect("a number")
    }

    /// Does something to the desktop while somebody else asks it again and again: everything is answered soon, and what it takes
    /// at most meanwhile is told of. `more` is what the bus itself holds of one message.
    #[track_caller]
    fn bears(&self, what: &str, more: u64, attack: impl FnOnce()) {
        // What it took at most so far is forgotten (proc(5), clear_refs).
        std::fs::write(format!("/proc/{}/clear_refs", self.process), "5").expect("it is ours");
        let before = self.kib("VmRSS:");
        let (done, worst) = (AtomicBool::new(false), AtomicU64::new(0));
        std::thread::scope(|scope| {
            scope.spawn(|| {
                while !done.load(Ordering::Relaxed) {
                    let began = Instant::now();
                    self.ask("health");
                    worst.fetch_max(began.elapsed().as_millis() as u64, Ordering::Relaxed);
                }
            });
            let _stop = Stop(&done);
            attack();
            // Whatever came of it is done: what is asked comes behind it.
            for _ in 0..20 {
                self.ask("notices");
            }
        });
        let (worst, grown) = (worst.into_inner(), self.kib("VmHWM:").saturating_sub(before));
        if std::env::var_os("JOVRIK_TELL").is_some() {
            std::io::stderr().write_all(format!("{what}: {worst} ms, {grown} KiB\n").as_bytes()).expect("told");
        }
        assert!(worst <= SOON, "{what}: somebody else was answered after {worst} ms");
        assert!(grown <= MORE + more, "{what}: it grew by {grown} KiB");
    }

    fn connection(&self) -> zbus::Connection {
        let builder = zbus::connection::Builder::address(self.bus.as_str());
        zbus::block_on(async { builder.build().await }).expect("a bus")
    }
}

/// Ends whoever asks, however an attack ends.
struct Stop<'t>(&'t AtomicBool);

impl Drop for Stop<'_> {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

fn notify(
    connection: &zbus::Connection,
    app_icon: &str,
    title: &str,
    body: &str,
    actions: &[String],
    hints: &HashMap<&str, Variant<'_>>,
) -> u32 {
    let name = "org.freedesktop.Notifications";
    let all = ("stranger", 0_u32, app_icon, title, body, actions, hints, 1000_i32);
    let reply = zbus::block_on(connection.call_method(Some(name), "/org/freedesktop/Notifications", Some(name), "Notify", &all));
    reply.expect("an answer").body().deserialize().expect("a number")
}

/// A PNG of one colour that is as large as it says, and takes few bytes.
fn flat(file: &Path, side: u32) {
    let mut encoder = png::Encoder::new(std::fs::File::create(file).expect("made"), side, side);
    encoder.set_depth(png::BitDepth::One);
    encoder.set_color(png::ColorType::Grayscale);
    let mut writer = encoder.write_header().expect("written");
    let mut stream = writer.stream_writer().expect("a stream");
    let row = vec![0xff; side.div_ceil(8) as usize];
    (0..side).for_each(|_| stream.write_all(&row).expect("written"));
    stream.finish().expect("written");
}

#[test]
fn every_limit_is_tried_at_it_and_above() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut tests = String::new();
    let mut open = vec![folder.join("crates")];
    while let Some(path) = open.pop() {
        for entry in std::fs::read_dir(&path).expect("a folder").map(|entry| entry.expect("an entry").path()) {
            let name = entry.file_name().unwrap_or_default().to_string_lossy().into_owned();
            if entry.is_dir() {
                open.push(entry);
            } else if name.ends_with(".rs") {
                let text = std::fs::read_to_string(&entry).expect("text");
                let whole = entry.components().any(|part| part.as_os_str() == "tests") || name == "tests.rs";
                let part = if whole { Some(text.as_str()) } else { text.split_once("#[cfg(test)]").map(|(_, tests)| tests) };
                tests.push_str(part.unwrap_or_default());
            }
        }
    }
    let untried: Vec<&str> =
        LIMITS.iter().map(|limit| limit.name).filter(|name| !tests.contains(&format!("limits::{name}"))).collect();
    assert!(untried.is_empty(), "no test names these limits: {untried:?}");
}

#[test]
fn the_limits_in_the_documents_are_those_of_the_code() {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/security.md");
    let text = std::fs::read_to_string(&path).expect("docs/security.md");
    let (begin, end) = ("<!-- limits -->\n", "<!-- end of limits -->");
    let (before, rest) = text.split_once(begin).expect("where the table begins");
    let (written, after) = rest.split_once(end).expect("where it ends");
    let amount = |limit: &limits::Limit| match (limit.unit, limit.most) {
        ("bytes", most) if most % (1024 * 1024) == 0 => format!("{} MiB", most / 1024 / 1024),
        ("bytes", most) if most % 1024 == 0 => format!("{} KiB", most / 1024),
        ("pixels", most) => format!("{} million pixels", most / 1_000_000),
        (unit, most) => format!("{most} {unit}"),
    };
    let mut table = String::from("| whose | what | at most | what is more |\n|---|---|---|---|\n");
    for limit in LIMITS {
        table += &format!("| {} | {} | {} | {} |\n", limit.of, limit.what, amount(limit), limit.beyond.words());
    }
    if std::env::var_os("JOVRIK_REPORTS").is_some() {
        std::fs::write(&path, format!("{before}{begin}{table}{end}{after}")).expect("written");
    }
    assert!(written == table, "cargo xtask reference writes it anew");
}

#[test]
fn whatever_programs_on_the_bus_send_the_desktop_answers_meanwhile() {
    let mut world = World::new(RICE);
    let connection = world.connection();
    let temp = tempfile::tempdir().expect("a folder");
    let none = HashMap::new();
    // A legal picture of 4000 by 4000: 64 MB in one message, which the bus holds once.
    let side = 4000_i32;
    let picture = Variant::from((side, side, side * 4, true, 8_i32, 4_i32, vec![99_u8; (side * side * 4) as usize]));
    let hints = HashMap::from([("image-data", picture)]);
    world.bears("a picture of 64 MB in a notice", 2 * 64 * 1024, || {
        notify(&connection, "", "large", "", &[], &hints);
    });
    drop(hints);
    world.bears("a body of a million <", 0, || {
        notify(&connection, "", "tags", &"<".repeat(1_000_000), &[], &none);
        notify(&connection, "", "tags", &"<b>x<u>y</b>".repeat(300_000), &[], &none);
    });
    let long = "x".repeat(10_000_000);
    world.bears("twenty keys of 10 MB", 64 * 1024, || {
        let actions: Vec<String> = (0..4).map(|_| long.clone()).collect();
        let hints =
            HashMap::from([("desktop-entry", Variant::from(long.as_str())), ("x-jovrik-of", Variant::from(long.as_str()))]);
        (0..5).for_each(|_| assert_ne!(0, notify(&connection, "", &long[..1_000_000], &long[..1_000_000], &actions, &hints)));
    });
    let told = world.ask("notices");
    let longest = told
        .as_array()
        .expect("a list")
        .iter()
        .flat_map(|told| ["title", "body", "app"].map(|field| told[field].as_str().map_or(0, str::len)));
    assert!(longest.max() == Some(limits::BUS_TEXT), "{told}");
    // At the limit and above it.
    let many: Vec<String> = (0..2 * limits::NOTICE_ACTIONS + 4).map(|n| format!("a{n}")).collect();
    notify(&connection, "", &"y".repeat(limits::BUS_TEXT), &"z".repeat(limits::BUS_BODY_BYTES + 1), &many, &none);
    // The bus has its answer before the desktop shows it.
    world.screen.wait("the long one is shown", |screen| {
        let title = screen.ask("notices")[0]["title"].clone();
        title.as_str().is_some_and(|title| title.len() == limits::BUS_TEXT && title.starts_with('y'))
    });
    let told = world.ask("notices")[0].clone();
    assert_eq!(told["actions"].as_array().map(Vec::len), Some(limits::NOTICE_ACTIONS));
    let name = "n".repeat(limits::BUS_NAME + 1);
    let values: Vec<String> = (0..limits::BUS_FACTS + 9).map(|n| format!("v{n}")).collect();
    let mut hints: HashMap<&str, Variant<'_>> = values.iter().map(|name| (name.as_str(), Variant::from(1_i32))).collect();
    hints.insert(&name, Variant::from(1_i32));
    world.bears("more hints than anybody means", 0, || {
        notify(&connection, "", "hints", "", &[], &hints);
    });
    world.bears("thousands at once", 0, || {
        (0..2 * limits::NOTICES_KEPT).for_each(|n| assert_ne!(0, notify(&connection, "", &format!("n{n}"), "", &[], &none)));
        let path = "/org/freedesktop/Notifications";
        let name = "org.freedesktop.Notifications";
        zbus::block_on(async {
            for n in 0..3 * limits::BUS_NEWS {
                let proxy = zbus::Proxy::new(&connection, name, path, name).await.expect("a proxy");
                let all = ("stranger", 0_u32, "", format!("m{n}"), "", Vec::<String>::new(), &none, 1000_i32);
                proxy.call_noreply("Notify", &all).await.expect("sent");
            }
        });
    });
    world.screen.wait("as many are kept as there is room for", |screen| {
        screen.ask("notices").as_array().map(Vec::len) == Some(limits::NOTICES_KEPT)
    });
    // Pictures and drawings by their names: what takes long is drawn by somebody else, and left out with a reason.
    let at = |name: &str| temp.path().join(name);
    flat(&at("huge.png"), 16_000);
    let svg = |inside: &str| format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"16\" height=\"16\">{inside}</svg>");
    std::fs::write(at("filter.svg"), svg("<filter id=\"f\"><feTurbulence baseFrequency=\"9\" numOctaves=\"99\"/></filter><rect width=\"16\" height=\"16\" filter=\"url(#f)\"/>")).expect("written");
    // Every one of these is drawn over all of the others.
    let slow = "<path d=\"M0 0C99 99 -99 99 16 0C-99 99 99 -99 0 16Z\" opacity=\".01\" stroke=\"red\" stroke-width=\"3\"/>"
        .repeat(10_000);
    std::fs::write(at("slow.svg"), svg(&format!("<g opacity=\".5\">{slow}</g>"))).expect("written");
    for name in ["huge.png", "filter.svg", "slow.svg"] {
        let path = at(name).display().to_string();
        world.bears(name, 0, || {
            notify(&connection, &path, name, "", &[], &none);
        });
    }
    let began = Instant::now();
    let left_out = |name: &str| {
        world.ask("health")["icons-not-drawn"]
            .as_array()
            .is_some_and(|all| all.iter().any(|line| line.as_str().is_some_and(|line| line.contains(name))))
    };
    while !["huge.png", "filter.svg"].iter().all(|name| left_out(name)) {
        assert!(began.elapsed() < Duration::from_secs(20), "{}", world.ask("health")["icons-not-drawn"]);
        std::thread::sleep(Duration::from_millis(20));
    }
}

/// An item of the tray, with a picture far too large and a menu without end.
struct Item(i32);

#[zbus::interface(name = "org.\u{6b}de.StatusNotifierItem")]
impl Item {
    #[zbus(property)]
    async fn status(&self) -> &str {
        "Active"
    }
    #[zbus(property)]
    async fn title(&self) -> String {
        "t".repeat(100_000)
    }
    #[zbus(property)]
    async fn icon_pixmap(&self) -> Vec<(i32, i32, Vec<u8>)> {
        let side = self.0;
        vec![(side, side, vec![9; (side * side * 4) as usize]), (24, 24, vec![7; 24 * 24 * 4])]
    }
}

#[test]
fn the_tray_has_room_for_so_many_items_and_again_when_they_go() {
    let world = World::new(RICE);
    let register = |connection: &zbus::Connection, path: &str| {
        let watcher = "org.\u{6b}de.StatusNotifierWatcher";
        let (body, name) = ((path,), Some(watcher));
        let call = connection.call_method(name, "/StatusNotifierWatcher", name, "RegisterStatusNotifierItem", &body);
        zbus::block_on(call).is_ok()
    };
    // As any program of the bus sees it (the property is that of the protocol).
    let listed = |connection: &zbus::Connection| {
        let watcher = "org.\u{6b}de.StatusNotifierWatcher";
        let (all, body) = (Some("org.freedesktop.DBus.Properties"), (watcher, "RegisteredStatusNotifierItems"));
        let call = connection.call_method(Some(watcher), "/StatusNotifierWatcher", all, "Get", &body);
        let reply = zbus::block_on(call).expect("an answer");
        let items = reply.body().deserialize::<zbus::zvariant::OwnedVariant>().expect("a property");
        Vec::<String>::try_from(items).expect("texts").len()
    };
    let asks = world.connection();
    let count = |_: &World| listed(&asks);
    let waits = |what: &str, holds: &dyn Fn() -> bool| {
        let began = Instant::now();
        while !holds() {
            assert!(began.elapsed() < Duration::from_secs(20), "in vain until {what}: {}", world.ask("health"));
            std::thread::sleep(Duration::from_millis(20));
        }
    };
    let connection = world.connection();
    waits("the tray listens", &|| register(&connection, "/none"));
    let paths: Vec<String> = (0..limits::TRAY_ITEMS + 30).map(|n| format!("/item/n{n}")).collect();
    zbus::block_on(async {
        for path in &paths {
            connection
                .object_server()
                .at(path.as_str(), Item(if path.ends_with("/n0") { 1000 } else { 8 }))
                .await
                .expect("served");
        }
    });
    world.bears("more items than there is room for, one with 4 MB", 64 * 1024, || {
        paths.iter().for_each(|path| assert!(register(&connection, path)));
    });
    waits("all that fit are there", &|| count(&world) == limits::TRAY_ITEMS);
    let left_out = world.ask("health")["left-out"].to_string();
    assert!(left_out.contains("items of the tray: there is room for 64"), "{left_out}");
    zbus::block_on(connection.close()).expect("closed");
    waits("they went", &|| count(&world) == 0);
    let again = world.connection();
    zbus::block_on(async { again.object_server().at("/item/again", Item(8)).await.expect("served") });
    register(&again, "/item/again");
    waits("there is room again", &|| count(&world) == 1);
}

#[test]
fn whatever_comes_over_the_socket_others_are_answered_meanwhile() {
    let world = World::new(RICE);
    let connect = || UnixStream::connect(world.socket()).expect("it listens");
    world.bears("400,000 lines of nothing", 0, || {
        let mut peer = connect();
        peer.write_all(&b"\n".repeat(400_000)).expect("it reads");
    });
    world.bears("8000 requests in a row, of whoever reads later", 0, || {
        let mut peer = connect();
        let mut reads = peer.try_clone().expect("a socket");
        let writer = std::thread::spawn(move || peer.write_all(&b"{\"ask\":\"workspaces\"}\n".repeat(8000)).map(|()| peer));
        let (mut lines, mut buffer) = (0, vec![0; 65536]);
        while lines < 8000 {
            let len = reads.read(&mut buffer).expect("answers");
            let said = String::from_utf8_lossy(&buffer[len.saturating_sub(200)..len]).into_owned();
            assert!(len > 0 && !said.contains("\"error\""), "it was sent away after {lines}: {said}");
            lines += buffer[..len].iter().filter(|byte| **byte == b'\n').count();
        }
        writer.join().expect("written").expect("written");
    });
    let offers = |lines: Value| {
        let mut peer = connect();
        peer.write_all(format!("{}\n", json!({ "offer": { "lines": lines } })).as_bytes()).map(|()| peer)
    };
    world.bears("a line of 3 MB to choose", 0, || {
        let _peer = offers(json!(["x".repeat(3_000_000), "y".repeat(limits::LINE_TEXT)])).expect("it reads");
        (0..50).for_each(|_| drop(world.ask("windows")));
    });
    world.bears("as many lines as are taken", 32 * 1024, || {
        let _peer = offers(json!((0..limits::OFFER_LINES).map(|n| format!("line {n}")).collect::<Vec<_>>())).expect("it reads");
    });
    let mut peer = offers(json!(vec!["x"; limits::OFFER_LINES + 1])).expect("it reads");
    let mut said = vec![0; 4096];
    let len = peer.read(&mut said).expect("an answer");
    assert!(
        String::from_utf8_lossy(&said[..len]).contains(&format!("more than {} lines", limits::OFFER_LINES)),
        "{}",
        String::from_utf8_lossy(&said[..len])
    );
    world.bears("a request without end", 0, || {
        let mut peer = connect();
        let _ = peer.write_all(&vec![b'x'; limits::REQUEST_BYTES + 1]);
        let mut peer = connect();
        let begin = b"{\"offer\":{\"lines\":[\"".to_vec();
        let _ = peer.write_all(&[begin, vec![b'x'; limits::OFFER_BYTES + 1]].concat());
    });
    world.bears("more connections than are kept", 0, || {
        let all: Vec<UnixStream> = (0..limits::PEERS + 40).filter_map(|_| UnixStream::connect(world.socket()).ok()).collect();
        assert!(all.len() > limits::PEERS);
    });
}

#[test]
fn whatever_windows_say_of_themselves_is_cut_and_a_forged_desk_is_left_out() {
    let world = World::new(RICE);
    let screen = &world.screen;
    let window = screen.x.generate_id().expect("a number");
    let look = CreateWindowAux::new();
    screen.x.create_window(0, window, screen.root, 0, 0, 50, 50, 0, WindowClass::INPUT_OUTPUT, 0, &look).expect("asked");
    let long = "w".repeat(200_000);
    let set = |property: AtomEnum, text: &str| {
        screen.x.change_property8(PropMode::REPLACE, window, property, AtomEnum::STRING, text.as_bytes()).expect("asked");
    };
    world.bears("a title and a class of 200 KB", 0, || {
        set(AtomEnum::WM_NAME, &long);
        set(AtomEnum::WM_CLASS, &format!("{long}\0{long}\0"));
        screen.x.map_window(window).expect("asked");
        screen.x.flush().expect("sent");
        for n in 0..200 {
            set(AtomEnum::WM_NAME, &format!("{n} {long}"));
        }
        screen.x.flush().expect("sent");
    });
    let told = world.ask("windows")[0].clone();
    assert_eq!(told["title"].as_str().map(|title| title.chars().count()), Some(limits::TITLE_TEXT), "{told}");
    assert!(told["app"].as_str().is_some_and(|app| app.chars().count() <= limits::CLASS_TEXT), "{told}");
    // The desktop is ended at once, and somebody writes what it would begin with.
    let mut world = world;
    world.screen.run(&["tell", "quit"]).clean();
    let root = world.screen.root;
    let property = world.screen.x.intern_atom(false, b"_JOVRIK_DESK").expect("asked").reply().expect("a name").atom;
    let forged = json!({ "workspaces": { "charts": { "layout": "r", "memory": { "r": { "Ribbon": { "columns": [], "ids": [window], "view": 0 } } } } } });
    for forged in [forged.to_string().into_bytes(), b"{".to_vec(), vec![b'['; 100_000]] {
        world.screen.wait("it ended", |screen| screen.try_ask("health").is_none());
        world.screen.x.change_property8(PropMode::REPLACE, root, property, AtomEnum::STRING, &forged).expect("asked");
        world.screen.x.flush().expect("sent");
        world.screen.start(&[]);
        let left_out = world.screen.ask("health")["left-out"].to_string();
        assert!(left_out.contains("that was kept"), "{left_out}");
        assert_eq!(world.screen.count(), 1, "the window is there");
        world.screen.tell("focus left");
        world.screen.tell("column wider");
        world.screen.run(&["tell", "quit"]).clean();
    }
}

#[test]
fn a_setting_that_commands_take_over_is_not_set_by_whoever_is_told() {
    let mut world = World::new(RICE);
    let text = |screen: &Screen| {
        screen.ask("bars").as_array().expect("a list").iter().find(|row| row["module"] == "t").map(|row| row["text"].clone())
    };
    world.screen.wait("the command has run", |screen| text(screen) == Some(json!("harmless")));
    let before = photograph(&world.screen.desk.rice());
    let pwned = world.screen.desk.path().join("PWNED");
    for keep in ["", "--keep "] {
        for path in ["module.c2.text", "module.c1.text"] {
            let run = world.screen.run(&["tell", &format!("set {keep}{path} \"touch {}\"", pwned.display())]);
            assert_eq!(run.code, 1, "{} {}", run.out, run.err);
            assert!(run.err.contains("module.t.source") && run.err.contains("set in the rice alone"), "{}", run.err);
        }
    }
    assert_eq!(text(&world.screen), Some(json!("harmless")));
    assert!(!pwned.exists());
    assert_eq!(photograph(&world.screen.desk.rice()), before, "nothing is written either");
    // What nothing takes over is set as ever.
    world.screen.tell("set frame.width 5");
    world.screen.tell("set --keep bar.top.thick 33");
    assert!(world.screen.desk.read("parts/a.toml").contains("thick = 33"));
}

#[test]
fn what_a_program_says_without_end_stays_small_and_nobody_else_reads_it() {
    let mut world = World::new(RICE);
    world.bears("a program that never stops talking", 0, || {
        // Each ends by itself, after 30 MB.
        world.screen.run(&["tell", "shell \"yes station | head -c 30000000\""]).clean();
        world.screen.run(&["tell", "run head -c 30000000 /dev/zero"]).clean();
    });
    let folder = world.screen.desk.home().join(".local/state/jovrik/programs");
    let logs = || -> Vec<(u64, u32)> {
        let entries = std::fs::read_dir(&folder).into_iter().flatten().map(|entry| entry.expect("an entry"));
        entries
            .filter(|entry| entry.path().extension().is_some_and(|end| end == "log"))
            .filter_map(|entry| entry.metadata().ok())
            .map(|about| (about.len(), about.permissions().mode() & 0o777))
            .collect()
    };
    world.screen.wait("both are written down and cut", |_| logs().len() == 2 && logs().iter().all(|(len, _)| *len > 1000));
    for _ in 0..200 {
        assert!(logs().iter().all(|(len, mode)| *len <= limits::LOG_BYTES as u64 && *mode == 0o600), "{:?}", logs());
        world.ask("health");
    }
}

#[test]
fn a_bus_that_hangs_keeps_nobody_waiting() {
    let mut server = Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    let mut screen = Screen::on(server, RICE);
    // It takes connections, and never says a word.
    let path = screen.desk.path().join("bus");
    let listener = std::os::unix::net::UnixListener::bind(&path).expect("bound");
    screen.bus = Some(format!("unix:path={}", path.display()));
    let applications = screen.desk.home().join(".local/share/applications");
    std::fs::create_dir_all(&applications).expect("made");
    let entry = "[Desktop Entry]\nType=Application\nName=Gauge\nDBusActivatable=true\nExec=true\n";
    std::fs::write(applications.join("station.gauge.Log.desktop"), entry).expect("written");
    screen.start(&[]);
    assert_eq!(screen.ask("health")["notices"], "the session bus does not answer");
    let process = screen.ask("health")["process"].as_u64().expect("a number");
    let world = World { screen, bus: String::new(), _daemon: Program(Command::new("true").spawn().expect("it runs")), process };
    world.bears("what the bus would start", 0, || {
        for _ in 0..3 {
            world.screen.run(&["tell", "launcher apps"]).clean();
            world.screen.run(&["tell", "launcher"]).clean();
        }
    });
    drop(listener);
}

#[test]
fn a_pipe_as_lock_and_a_busy_history_keep_nobody_waiting() {
    let desk = Desk::of("[frame]\nwidth = 2\n");
    desk.run(&["set", "frame.width", "3"]).clean();
    let folder = desk.home().join(".local/state/jovrik");
    std::fs::remove_file(folder.join("lock")).expect("it was there");
    let made = Command::new("mkfifo").arg(folder.join("lock")).status().expect("mkfifo");
    assert!(made.success());
    let run = desk.run(&["set", "frame.width", "4"]);
    assert_eq!(run.code, 3, "{}", run.err);
    assert!(run.err.contains("no regular file"), "{}", run.err);
    assert!(desk.read("parts/a.toml").contains("width = 3"), "nothing was written");
}

#[test]
fn a_reload_that_could_not_be_written_down_is_told_and_written_down_later() {
    let mut world = World::new(RICE);
    world.screen.run(&["tell", "set --keep frame.width 3"]).clean();
    let history = world.screen.desk.home().join(".local/state/jovrik/history.sqlite");
    let other = rusqlite::Connection::open(&history).expect("the history");
    other.execute_batch("begin exclusive").expect("it is ours for now");
    world.bears("a history that somebody holds", 0, || {
        let text = world.screen.desk.read("parts/a.toml").replace("thick = 30", "thick = 34");
        world.screen.desk.write("parts/a.toml", text);
    });
    world.screen.wait("it is told", |screen| {
        screen.ask("health")["history"].as_str().is_some_and(|text| text.contains("1 reload not written down yet"))
    });
    other.execute_batch("rollback").expect("given back");
    world.screen.wait("it is written down", |screen| screen.ask("health")["history"] == "written down");
    let listed = world.screen.run(&["history"]).clean();
    assert!(listed.contains("bar.top.thick 30 \u{2192} 34"), "{listed}");
}

#[test]
fn where_no_file_may_grow_nothing_is_lost_and_it_is_told() {
    let desk = Desk::sample();
    let before = photograph(&desk.rice());
    // What a shell runs inherits its limits: no file may have more than so many blocks of 1024 bytes.
    let limited = |blocks: usize, arguments: &[&str]| {
        let mut shell = Command::new("bash");
        shell.args(["-c", &format!("ulimit -f {blocks}; exec \"$@\""), "bash", env!("CARGO_BIN_EXE_jovrik")]).args(arguments);
        let plain = desk.command(&desk.rice(), arguments);
        shell.env_clear().envs(plain.get_envs().filter_map(|(name, value)| Some((name, value?)))).current_dir(desk.rice());
        let output = shell.output().expect("bash");
        crate::Run::of(&output, &[])
    };
    for blocks in [0, 1, 4, 20] {
        for arguments in [
            &["set", "frame.width", "7"][..],
            &["apply"],
            &["publish", "--bundle", "../x.rice"],
            &["new", "../other"],
            &["greet", "--behind"],
        ] {
            let run = limited(blocks, arguments);
            assert!([0, 1, 3].contains(&run.code), "{blocks} {arguments:?}: {} {}", run.code, run.err);
            if run.code == 3 {
                assert!(run.err.starts_with("error"), "{}", run.err);
            }
        }
        // A whole state stands there, the old one or the new.
        let now = desk.run(&["show", "frame.width"]).clean();
        assert!(now.contains('2') || now.contains('7'), "{now}");
        assert!(desk.run(&["check", "-q"]).code == 0, "{blocks}");
    }
    let left: Vec<_> =
        photograph(desk.path()).into_iter().filter(|(path, ..)| path.to_string_lossy().contains("/.jovrik-")).collect();
    desk.run(&["undo"]);
    let left: Vec<PathBuf> = left.into_iter().map(|(path, ..)| path).collect();
    assert!(left.is_empty(), "{left:?}");
    // With room again everything goes on.
    desk.run(&["set", "frame.width", "2"]);
    desk.run(&["set", "frame.width", "5"]).clean();
    assert!(photograph(&desk.rice()).len() >= before.len());
}

#[test]
fn another_user_reads_nothing_of_ours() {
    let mut world = World::new(RICE);
    let desk = &world.screen.desk;
    let kept = desk.home().join(".netrc");
    std::fs::write(&kept, "machine sea password tern").expect("written");
    std::fs::set_permissions(&kept, std::fs::Permissions::from_mode(0o600)).expect("set");
    desk.write("art/netrc", "ours");
    desk.write("parts/b.toml", "[place]\n\"~/.netrc\" = \"art/netrc\"\n[greeting]\nfacts = [\"host\"]\n");
    desk.run(&["apply", "--take-all"]).clean();
    desk.run(&["greet"]).clean();
    world.screen.run(&["tell", "run true"]).clean();
    world.screen.run(&["tell", "screenshot"]).clean();
    let folders = [".local/state/jovrik", ".cache/jovrik"].map(|name| world.screen.desk.home().join(name));
    world.screen.wait("a picture is there", |screen| {
        std::fs::read_dir(screen.desk.home())
            .expect("a home")
            .flatten()
            .any(|entry| entry.path().extension().is_some_and(|end| end == "png"))
    });
    let mut files: Vec<(PathBuf, u32)> = Vec::new();
    let mut open: Vec<PathBuf> = folders.into_iter().chain([world.screen.desk.path().join("run")]).collect();
    while let Some(folder) = open.pop() {
        for entry in std::fs::read_dir(&folder).into_iter().flatten().map(|entry| entry.expect("an entry").path()) {
            let about = entry.symlink_metadata().expect("there");
            files.push((entry.clone(), about.permissions().mode()));
            if about.is_dir() {
                open.push(entry);
            }
        }
    }
    let home = std::fs::read_dir(world.screen.desk.home()).expect("a home").map(|entry| entry.expect("an entry").path());
    let pictures = home.filter(|path| path.extension().is_some_and(|end| end == "png"));
    files.extend(pictures.map(|path| (path.clone(), path.metadata().expect("there").permissions().mode())));
    assert!(files.len() >= 5, "{files:?}");
    let open: Vec<_> = files.iter().filter(|(_, mode)| mode & 0o077 != 0).collect();
    assert!(open.is_empty(), "others may read these: {open:?}");
    // Another user tries, where this one can be another (setpriv(1)).
    if rustix::process::geteuid().is_root() {
        std::fs::set_permissions(world.screen.desk.path(), std::fs::Permissions::from_mode(0o755)).expect("set");
        for (path, _) in &files {
            let other =
                Command::new("setpriv").args(["--reuid=65534", "--regid=65534", "--clear-groups", "cat"]).arg(path).output();
            let other = other.expect("setpriv: cargo xtask test installs it");
            assert!(!other.status.success() && other.stdout.is_empty(), "{}", path.display());
        }
    }
}
