//! Parts that run by themselves, beside another manager or none.

use std::process::{Command, Stdio};

use x11rb::protocol::xproto::ConnectionExt as _;

use crate::bars::{bus, named};
use crate::live::{Program, Screen};
use crate::windows::{atom, numbers};

const RICE: &str = "[bar.top]\nthick = 30\nmiddle = [\"word\"]\n[module.word]\ntext = \"word\"\n[workspaces]\norder = [\"one\", \"two\"]\n\
[program]\nterminal = \"xterm\"\n[start.x]\nopen = \"terminal\"\n[launcher]\nlists = [\"apps\"]\n\
[keys.desk]\n\"F8\" = \"launcher\"\n\"F9\" = \"open terminal\"\n";

fn screen() -> Screen {
    let mut server = Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    Screen::on(server, RICE)
}

fn key(screen: &Screen, key: &str) {
    let status = Command::new("xdotool").args(["key", key]).env("DISPLAY", &screen.name).status();
    assert!(status.expect("xdotool: cargo xtask test installs it").success());
}

#[test]
fn launcher_and_notices_run_without_managing_anything() {
    let (_daemon, bus) = bus();
    let mut screen = screen();
    screen.bus = Some(bus.clone());
    let properties = |screen: &Screen| {
        let reply = screen.x.list_properties(screen.root).expect("asked").reply().expect("it is there");
        let mut atoms = reply.atoms;
        atoms.sort_unstable();
        atoms
    };
    let before = properties(&screen);
    screen.start(&["--only", "launcher,notices"]);
    let manager = atom(&screen, "WM_S0");
    let owner = |screen: &Screen| screen.x.get_selection_owner(manager).expect("asked").reply().expect("it is there").owner;
    assert_eq!((owner(&screen), properties(&screen)), (x11rb::NONE, before), "nothing of the screen is another");
    assert_eq!(screen.count(), 0, "no program was started");
    key(&screen, "F9");
    key(&screen, "F8");
    screen.wait("it is open", |screen| screen.ask("health")["keys-go-to"] == "launcher");
    key(&screen, "Escape");
    screen.wait("it is closed", |screen| screen.ask("health")["keys-go-to"].is_null());
    assert_eq!(screen.ask("health")["chords-grabbed"], 1, "only the launcher's own");
    let mut tells = Command::new("notify-send");
    tells.args(["-t", "0", "Low water"]).env("DBUS_SESSION_BUS_ADDRESS", &bus).env("DISPLAY", &screen.name);
    assert!(tells.status().expect("notify-send: cargo xtask test installs it").success());
    screen.wait("it is seen", |screen| named(screen, "jovrik notice Bus(1)").is_some());
    // Another one on the same bus is told who shows notices already.
    let other = self::screen();
    let mut command = other.desk.command(&other.desk.rice(), &["live", "--only", "notices"]);
    let output = command.env("DISPLAY", &other.name).env("DBUS_SESSION_BUS_ADDRESS", &bus).output().expect("it runs");
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(3), "{said}");
    assert!(said.contains("jovrik has org.freedesktop.Notifications"), "{said}");
    assert_eq!(other.run(&["live", "--only", "dok"]).code, 2);
}

#[test]
fn a_bar_by_itself_is_a_panel_of_another_manager_which_keeps_room_for_it() {
    // The other manager has a rice without bars.
    let mut screen = screen();
    screen.desk.write("parts/a.toml", "[workspaces]\norder = [\"one\", \"two\"]\n");
    screen.start(&[]);
    assert_eq!(numbers(&screen, screen.root, "_NET_WORKAREA")[..4], [0, 0, 1000, 800]);
    let guest = screen.desk.path().join("guest");
    std::fs::create_dir_all(guest.join("parts")).expect("made");
    std::fs::write(guest.join("rice.toml"), "[rice]\nname = \"guest\"\n").expect("written");
    std::fs::write(guest.join("parts/a.toml"), RICE).expect("written");
    let mut command = screen.desk.command(&guest, &["live", "--only", "bar"]);
    // It listens in a place of its own.
    let mine = screen.desk.path().join("guest-run");
    std::fs::create_dir_all(&mine).expect("made");
    command.env("DISPLAY", &screen.name).env("XDG_RUNTIME_DIR", &mine).stdout(Stdio::null());
    let mut bar = Program(command.spawn().expect("it runs"));
    screen.wait("there is room for it", |screen| numbers(screen, screen.root, "_NET_WORKAREA")[..4] == [0, 30, 1000, 770]);
    let (x, y, w, h) = named(&screen, "jovrik bar top").expect("it is there");
    assert_eq!((x, y, w, h), (0, 0, 1000, 30));
    assert_eq!(screen.ask("windows").as_array().map(Vec::len), Some(0), "it is none of the windows");
    bar.0.kill().expect("it runs");
    screen.wait("the room is given back", |screen| numbers(screen, screen.root, "_NET_WORKAREA")[..4] == [0, 0, 1000, 800]);
}

#[test]
fn a_dock_by_itself_knows_the_windows_of_another_manager_and_asks_for_them() {
    let mut screen = screen();
    screen.desk.write("parts/a.toml", "[workspaces]\norder = [\"one\", \"two\"]\n[program]\nterminal = \"xterm\"\n");
    screen.start(&[]);
    let guest = screen.desk.path().join("guest");
    std::fs::create_dir_all(guest.join("parts")).expect("made");
    std::fs::write(guest.join("rice.toml"), "[rice]\nname = \"guest\"\n").expect("written");
    let part = "[dock]\nrunning = true\nmargin = 0\n[widget.word]\ntext = \"word\"\nat = \"bottom-left\"\n";
    std::fs::write(guest.join("parts/a.toml"), part).expect("written");
    let mut command = screen.desk.command(&guest, &["live", "--only", "dock,widgets"]);
    let mine = screen.desk.path().join("guest-run");
    std::fs::create_dir_all(&mine).expect("made");
    command.env("DISPLAY", &screen.name).env("XDG_RUNTIME_DIR", &mine).stdout(Stdio::null());
    let _dock = Program(command.spawn().expect("it runs"));
    screen.wait("the dock and the widget are there", |screen| {
        named(screen, "jovrik dock").is_some() && named(screen, "jovrik widget word").is_some()
    });
    let empty = named(&screen, "jovrik dock").expect("it is there");
    screen.tell("open terminal");
    screen.wait("the window stands in it", |screen| named(screen, "jovrik dock").is_some_and(|dock| dock.2 > empty.2));
    // It is gone to from another workspace.
    screen.tell("go two");
    let (x, y, w, h) = named(&screen, "jovrik dock").expect("it is there");
    let at = [(i32::from(x) + i32::from(w) / 2).to_string(), (i32::from(y) + i32::from(h) / 2).to_string()];
    let status = Command::new("xdotool").args(["mousemove", &at[0], &at[1], "click", "1"]).env("DISPLAY", &screen.name).status();
    assert!(status.expect("xdotool: cargo xtask test installs it").success());
    screen.wait("it is shown", |screen| screen.workspace() == "one");
}
