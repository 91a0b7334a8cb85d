//! Notices on a real session bus, told by other programs.

use std::io::BufRead as _;
use std::process::{Command, Stdio};

use serde_json::{Value, json};

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
