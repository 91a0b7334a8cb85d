//! Notices on a real session bus, told by other programs.

use std::collections::HashMap;
use std::io::BufRead as _;
use std::process::{Command, Stdio};

use serde_json::{Value, json};
use zbus::zvariant::Variant;

use crate::bars::{bus, named};
use crate::live::{Program, Screen};
use crate::windows::{button, point};

const NAME: &str = "org.freedesktop.Notifications";
const RICE: &str = "[bar.top]\nthick = 30\n[notices]\nwidth = 300\nmargin = 0\n[space]\nedge = 20\n";

struct Desk {
    screen: Screen,
    bus: String,
    _daemon: Program,
}

impl Desk {
    fn new() -> Desk {
        let (daemon, bus) = bus();
        let mut server = Command::new("Xvfb");
        server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
        let mut screen = Screen::on(server, RICE);
        screen.bus = Some(bus.clone());
        screen.start(&[]);
        Desk { screen, bus, _daemon: daemon }
    }

    /// A method of the service, called by an independent client; what it prints.
    fn call(&self, method: &str, arguments: &[&str]) -> String {
        let mut command = Command::new("dbus-send");
        command.args(["--session", "--print-reply=literal", &format!("--dest={NAME}"), "/org/freedesktop/Notifications"]);
        command.arg(format!("{NAME}.{method}")).args(arguments).env("DBUS_SESSION_BUS_ADDRESS", &self.bus);
        let output = command.output().expect("dbus-send: cargo xtask test installs it");
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        String::from_utf8(output.stdout).expect("text").trim().to_owned()
    }

    /// An independent client that tells something.
    fn sender(&self, arguments: &[&str]) -> Command {
        let mut command = Command::new("notify-send");
        command.args(["--app-name", "loghouse"]).args(arguments).env("DBUS_SESSION_BUS_ADDRESS", &self.bus);
        command.env("DISPLAY", &self.screen.name);
        command
    }

    fn tells(&self, arguments: &[&str]) -> u32 {
        let output = self.sender(arguments).arg("--print-id").output().expect("notify-send: cargo xtask test installs it");
        let said = String::from_utf8(output.stdout).expect("text");
        assert!(output.status.success(), "{said} {}", String::from_utf8_lossy(&output.stderr));
        said.trim().parse().expect("a number")
    }

    fn told(&self) -> Value {
        self.screen.ask("notices")
    }

    fn run(&self, arguments: &[&str]) -> crate::Run {
        let mut command = self.screen.desk.command(&self.screen.desk.rice(), arguments);
        let output = command.env("DISPLAY", &self.screen.name).env("DBUS_SESSION_BUS_ADDRESS", &self.bus).output();
        crate::Run::of(&output.expect("it runs"), &[])
    }
}

#[test]
fn programs_tell_over_the_bus_and_hear_what_became_of_it() {
    let mut desk = Desk::new();
    let can = desk.call("GetCapabilities", &[]);
    assert!(["actions", "body", "body-markup"].iter().all(|word| can.contains(word)), "{can}");
    assert!(desk.call("GetServerInformation", &[]).contains("Jovrik"));
    // Who listens on the bus.
    // Line by line, and never longer than the test.
    let mut monitor = Command::new("timeout");
    monitor
        .args(["30", "stdbuf", "-oL", "dbus-monitor", "--session", &format!("type='signal',interface='{NAME}'")])
        .env("DBUS_SESSION_BUS_ADDRESS", &desk.bus);
    let mut monitor = Program(monitor.stdout(Stdio::piped()).spawn().expect("dbus-monitor"));
    let mut heard = std::io::BufReader::new(monitor.0.stdout.take().expect("its output")).lines();
    let mut hears = move |member: &str| -> Vec<String> {
        loop {
            let line = heard.next().expect("what is waited for").expect("text");
            if line.contains(&format!("member={member}")) {
                return [heard.next(), heard.next()].map(|line| line.expect("a line").expect("text").trim().to_owned()).to_vec();
            }
        }
    };
    let first = desk.tells(&["-t", "0", "Low water", "Channel 4 dries at <b>09:00</b> &amp; later"]);
    assert_eq!(first, 1);
    desk.screen.wait("it is seen", |screen| named(screen, "jovrik notice Bus(1)").is_some());
    assert_eq!(desk.told()[0]["body"], "Channel 4 dries at 09:00 & later");
    // Told otherwise it keeps its number.
    let mut waits = desk.sender(&["-r", "1", "-t", "0", "-A", "default=Open", "-A", "later=Later", "Low water now"]);
    let waits = waits.stdout(Stdio::piped()).spawn().expect("it runs");
    desk.screen.wait("it says so", |screen| screen.ask("notices")[0]["title"] == "Low water now");
    assert_eq!(desk.told().as_array().map(Vec::len), Some(1));
    let (x, y, w, _) = named(&desk.screen, "jovrik notice Bus(1)").expect("it is seen");
    assert_eq!((x + w as i16, w), (980, 300), "in its corner");
    point(&desk.screen, x + 30, y + 14);
    button(&desk.screen, true, 1);
    button(&desk.screen, false, 1);
    assert_eq!(hears("ActionInvoked"), ["uint32 1", "string \"default\""]);
    let chosen = waits.wait_with_output().expect("it ended");
    assert_eq!(String::from_utf8_lossy(&chosen.stdout).trim(), "default");
    assert_eq!(hears("NotificationClosed"), ["uint32 1", "uint32 2"]);
    // Taken back, and over by itself: not under the pointer, where it would wait.
    point(&desk.screen, 10, 700);
    let second = desk.tells(&["-t", "0", "Gauge 3"]);
    desk.call("CloseNotification", &[&format!("uint32:{second}")]);
    assert_eq!(hears("NotificationClosed"), [format!("uint32 {second}"), "uint32 3".to_owned()]);
    let third = desk.tells(&["-t", "200", "-u", "critical", "Gauge 4"]);
    assert_eq!(hears("NotificationClosed"), [format!("uint32 {third}"), "uint32 1".to_owned()]);
}

#[test]
fn notices_are_told_tried_and_remembered_by_commands() {
    let mut desk = Desk::new();
    assert_eq!(desk.run(&["notices", "history"]).clean(), "  nothing was told yet\n");
    desk.run(&["notices", "show", "Volume", "64 %", "--value", "64", "--of", "volume"]).clean();
    desk.run(&["notices", "show", "Volume", "70 %", "--value", "70", "--of", "volume"]).clean();
    desk.screen.wait("the second takes the first one's place", |screen| {
        let told = screen.ask("notices");
        told.as_array().is_some_and(|all| all.len() == 1) && told[0]["value"] == 70
    });
    desk.run(&["notices", "try"]).clean();
    desk.screen.wait("one of each kind", |screen| screen.ask("notices").as_array().is_some_and(|all| all.len() == 5));
    let history = desk.run(&["notices", "history"]).clean();
    assert!(history.contains("loghouse  urgent") && history.contains("Gate 2 does not close"), "{history}");
    desk.run(&["notices", "pause"]).clean();
    assert_eq!(desk.screen.ask("health")["notices"], "urgent ones alone");
    assert!(named(&desk.screen, "jovrik notice Bus(5)").is_some() && named(&desk.screen, "jovrik notice Bus(3)").is_none());
    desk.run(&["notices", "dismiss", "--all"]).clean();
    assert!(named(&desk.screen, "jovrik notice Bus(5)").is_none());
    let wrong = desk.run(&["notices", "show", "x", "--value", "101"]);
    assert_eq!(wrong.code, 2, "{}", wrong.err);
    // A second desktop on the same bus says who has the name.
    let mut other = Screen::new(true);
    other.bus = Some(desk.bus.clone());
    other.start(&[]);
    assert_eq!(other.ask("health")["notices"], json!("jovrik has org.freedesktop.Notifications"));
    // Without a bus nobody is told.
    let nobody = desk.screen.run(&["notices", "show", "x"]);
    assert_eq!(nobody.code, 3, "{}", nobody.err);
}

/// A letter as it goes over the wire.
type Letter<'a> = (&'a str, u32, &'a str, &'a str, &'a str, Vec<&'a str>, HashMap<&'a str, Variant<'a>>, i32);

/// A connection of a stranger to a bus.
fn stranger(bus: &str) -> zbus::Connection {
    zbus::block_on(async { zbus::connection::Builder::address(bus).build().await }).expect("it answers")
}

fn tells_as(stranger: &zbus::Connection, letter: &Letter<'_>) -> u32 {
    let path = "/org/freedesktop/Notifications";
    let reply = zbus::block_on(stranger.call_method(Some(NAME), path, Some(NAME), "Notify", letter));
    reply.expect("it is taken").body().deserialize().expect("a number")
}

#[test]
fn what_strangers_send_is_taken_as_far_as_it_makes_sense() {
    let mut desk = Desk::new();
    let stranger = stranger(&desk.bus);
    let picture = |width: i32, height: i32, stride: i32, channels: i32, bytes: usize| {
        let pixels: Vec<u8> = (0..bytes).map(|nth| nth as u8).collect();
        Variant::from((width, height, stride, channels == 4, 8_i32, channels, pixels))
    };
    let long = "x".repeat(1_000_000);
    let hints: Vec<HashMap<&str, Variant<'_>>> = vec![
        [("image-data", picture(8, 8, 32, 4, 256))].into(),
        [("image-data", picture(8, 8, 24, 3, 192))].into(),
        // Rows that run into each other, too few bytes, no size, and more than there is memory.
        [("image-data", picture(8, 8, 8, 4, 256))].into(),
        [("image-data", picture(8, 8, 32, 4, 12))].into(),
        [("image-data", picture(-1, 0, -5, 4, 16))].into(),
        [("image-data", picture(i32::MAX, i32::MAX, i32::MAX, 4, 64))].into(),
        [("image_data", Variant::from("no picture")), ("urgency", Variant::from("very")), ("value", Variant::from(1_i32))].into(),
        [("image-path", Variant::from("file:///etc/%70asswd")), ("value", Variant::from(i64::MIN))].into(),
        [("image-path", Variant::from("/dev/zero")), ("resident", Variant::from(3_u8))].into(),
        [("image-path", Variant::from("../../../../etc/passwd"))].into(),
        [("desktop-entry", Variant::from("\u{7}/..")), ("transient", Variant::from(true))].into(),
    ];
    let bodies = [
        "<b><i><u><a href='",
        "<b>never closed",
        "</a></b>",
        "&#x110000;&amp",
        long.as_str(),
        "<img src='/dev/zero' alt='a gauge'>",
    ];
    for (nth, hints) in hints.into_iter().enumerate() {
        let body = bodies[nth % bodies.len()];
        let actions = if nth % 2 == 0 { vec!["default", "Open", "odd"] } else { Vec::new() };
        tells_as(&stranger, &("loghouse", 0, "xterm", if nth == 4 { &long } else { "Gauge" }, body, actions, hints, 0));
    }
    assert_eq!(tells_as(&stranger, &("loghouse", 0, "", "Still here", "", Vec::new(), HashMap::new(), 0)), 12);
    desk.screen.wait("the last is remembered", |screen| screen.ask("notices")[0]["title"] == "Still here");
    desk.screen.wait("and seen", |screen| named(screen, "jovrik notice Bus(12)").is_some());
    let told = desk.told();
    let longest = told.as_array().into_iter().flatten().filter_map(|one| one["title"].as_str()).map(str::len).max();
    assert_eq!(longest, Some(2000), "a title is cut");
    // Whoever vanishes in the middle of it takes nothing along.
    drop(stranger);
    assert_eq!(desk.tells(&["-t", "0", "After all that"]), 13);
}

#[test]
fn a_flood_neither_blocks_the_desk_nor_hides_what_is_urgent() {
    let mut desk = Desk::new();
    let stranger = stranger(&desk.bus);
    zbus::block_on(async {
        for nth in 0..2000 {
            let urgency = if nth == 1000 { 2_u8 } else { 1 };
            let (title, hints) = (format!("Gauge {nth}"), HashMap::from([("urgency", Variant::from(urgency))]));
            let letter: Letter<'_> = ("loghouse", 0, "", &title, "", Vec::new(), hints, 0);
            let message = zbus::Message::method_call("/org/freedesktop/Notifications", "Notify");
            let message = message.destination(NAME).interface(NAME);
            stranger.send(&message.build(&letter).expect("a letter")).await.expect("sent");
        }
    });
    desk.screen.tell("set notices.sort urgent-first");
    desk.screen.wait("all of them came", |screen| screen.ask("notices")[0]["title"] == "Gauge 1999");
    assert!(named(&desk.screen, "jovrik notice Bus(1001)").is_some(), "the urgent one is seen");
    assert_eq!(desk.told().as_array().map(Vec::len), Some(100), "so many are remembered");
}

#[test]
fn the_stations_letters_are_told_and_answered() {
    let mut desk = Desk::new();
    let program = std::path::Path::new(env!("CARGO_BIN_EXE_jovrik")).with_file_name("gullmail");
    let mut letters = Command::new(program);
    letters.arg("1").env("DBUS_SESSION_BUS_ADDRESS", &desk.bus).stdout(Stdio::piped());
    let letters = letters.spawn().expect("gullmail: cargo xtask test builds it");
    desk.screen.wait("it is seen", |screen| named(screen, "jovrik notice Bus(1)").is_some());
    let (x, y, _, h) = named(&desk.screen, "jovrik notice Bus(1)").expect("it is seen");
    point(&desk.screen, x + 30, y + h as i16 - 18);
    button(&desk.screen, true, 1);
    button(&desk.screen, false, 1);
    let said = letters.wait_with_output().expect("it ended");
    assert_eq!(String::from_utf8_lossy(&said.stdout), "The lock: answer\n");
}
