//! Dock and widgets on a real server: where they lie, what lies over them, and what presses do.

use std::process::Command;

use x11rb::protocol::xproto::{ConnectionExt, MapState};

use crate::live::Screen;

const RICE: &str = "[palette.ebb]\npaper = \"#101c1f\"\n[space]\nbetween = 0\nedge = 0\nalone = 0\n[frame]\nwidth = 0\n[backdrop]\nfill = \"#102030\"\n\
[workspaces]\norder = [\"one\", \"two\"]\n\
[program]\nclock = { run = [\"xterm\", \"-class\", \"Clock\"], app = \"Clock\" }\nlog = { run = [\"xterm\", \"-class\", \"Log\"], app = \"Log\" }\n\
[module.level]\nsource = { file = \"LEVEL\" }\ntext = \"{value}\"\n\
[widget.level]\nkind = \"meter\"\nmodule = \"level\"\nat = \"top-left\"\noffset = [100, 100]\nwidth = 200\nheight = 20\ntext = \"\"\n\
press = { left = \"go one\" }\n[style.widget.mark]\nink = \"#ff0000\"\n[style.widget.track]\nink = \"#00ff00\"\n\
[dock]\nkeep = [\"clock\", \"log\"]\nhide = \"overlapped\"\nmargin = 10\nhide-after = \"100ms\"\nshow-after = \"50ms\"\n[style.dock]\nfill = \"#0000ff\"\nradius = 0\nline = \"#0000ff\"\n";

fn screen() -> Screen {
    let mut server = Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    let mut screen = Screen::on(server, "");
    let level = screen.desk.path().join("level");
    std::fs::write(&level, "50\n").expect("written");
    screen.desk.write("parts/a.toml", RICE.replace("LEVEL", level.to_str().expect("a path")));
    screen.start(&[]);
    screen
}

fn xdotool(screen: &Screen, arguments: &[&str]) {
    let status = Command::new("xdotool").args(arguments).env("DISPLAY", &screen.name).status();
    assert!(status.expect("xdotool: cargo xtask test installs it").success());
}

const FULL: [u8; 3] = [255, 0, 0];
const EMPTY: [u8; 3] = [0, 255, 0];
const DOCK: [u8; 3] = [0, 0, 255];

/// The windows of a part of ours that are seen, by their titles.
fn windows(screen: &Screen, part: &str) -> usize {
    let tree = screen.x.query_tree(screen.root).expect("asked").reply().expect("a tree");
    let of_part = |window: &u32| {
        let atom = x11rb::protocol::xproto::AtomEnum::WM_NAME;
        let name = screen.x.get_property(false, *window, atom, x11rb::protocol::xproto::AtomEnum::STRING, 0, 64);
        let name = name.ok().and_then(|cookie| cookie.reply().ok()).map(|reply| reply.value).unwrap_or_default();
        let seen = screen.x.get_window_attributes(*window).ok().and_then(|cookie| cookie.reply().ok());
        name.starts_with(format!("jovrik {part}").as_bytes()) && seen.is_some_and(|seen| seen.map_state == MapState::VIEWABLE)
    };
    tree.children.iter().filter(|window| of_part(window)).count()
}

#[test]
fn a_widget_follows_its_value_lies_below_windows_and_is_pressed() {
    let mut screen = screen();
    // The meter goes from 100 to 300, 100 pixels below the upper edge.
    screen.wait("it is half full", |screen| screen.pixel(150, 110) == FULL && screen.pixel(250, 110) == EMPTY);
    std::fs::write(screen.desk.path().join("level"), "90\n").expect("written");
    screen.wait("it follows", |screen| screen.pixel(250, 110) == FULL && screen.pixel(295, 110) == EMPTY);
    // A tile takes the screen: it is gone, and comes back.
    let _tile = screen.xterm();
    screen.wait("a tile", |screen| screen.count() == 1);
    screen.wait("it is hidden", |screen| windows(screen, "widget") == 0 && screen.pixel(150, 110) != FULL);
    // What floats lies over it.
    screen.tell("float on");
    screen.wait("it is back below", |screen| windows(screen, "widget") == 1);
    screen.tell("go two");
    screen.wait("it is seen", |screen| screen.pixel(150, 110) == FULL);
    xdotool(&screen, &["mousemove", "105", "110", "click", "1"]);
    screen.wait("a press does what it says", |screen| screen.workspace() == "one");
}

#[test]
fn the_dock_starts_programs_goes_through_their_windows_and_gives_way() {
    let mut screen = screen();
    screen.wait("it is there", |screen| windows(screen, "dock") == 1);
    let tree = screen.x.query_tree(screen.root).expect("asked").reply().expect("a tree");
    let boxes = tree.children.iter().filter_map(|window| {
        let at = screen.x.get_geometry(*window).ok()?.reply().ok()?;
        (i32::from(at.y) + i32::from(at.height) == 790).then_some(at)
    });
    let dock = boxes.last().expect("its window");
    let (left, middle) = (i32::from(dock.x), i32::from(dock.y) + i32::from(dock.height) / 2);
    assert_eq!(screen.pixel(dock.x + 3, dock.y + 3), DOCK);
    let press = |screen: &Screen, x: i32, button: &str| {
        xdotool(screen, &["mousemove", &x.to_string(), &middle.to_string(), "click", button]);
    };
    press(&screen, left + 30, "1");
    screen.wait("the clock", |screen| screen.count() == 1);
    // It gives way to the tile, and the edge brings it back over it.
    xdotool(&screen, &["mousemove", "500", "300"]);
    screen.wait("it is hidden", |screen| screen.pixel(dock.x + 3, dock.y + 3) != DOCK);
    xdotool(&screen, &["mousemove", "500", "799"]);
    screen.wait("the edge brings it back", |screen| screen.pixel(dock.x + 3, dock.y + 3) == DOCK);
    press(&screen, left + 84, "1");
    screen.wait("the log", |screen| screen.count() == 2);
    let front = |screen: &Screen| {
        let all = screen.ask("windows");
        let all = all.as_array().expect("a list").clone();
        all.iter().find(|one| one["focused"] == true).and_then(|one| one["app"].as_str().map(str::to_owned))
    };
    screen.wait("the log is in front", |screen| front(screen).as_deref() == Some("Log"));
    xdotool(&screen, &["mousemove", "500", "300"]);
    screen.wait("it is hidden", |screen| screen.pixel(dock.x + 3, dock.y + 3) != DOCK);
    xdotool(&screen, &["mousemove", "500", "799"]);
    screen.wait("the edge brings it back", |screen| screen.pixel(dock.x + 3, dock.y + 3) == DOCK);
    press(&screen, left + 30, "1");
    screen.wait("the clock is in front", |screen| front(screen).as_deref() == Some("Clock"));
    // Taken out by its menu, it is written into the rice, and undone.
    press(&screen, left + 30, "3");
    screen.wait("a menu", |screen| windows(screen, "menu") == 1);
    xdotool(&screen, &["key", "End", "Return"]);
    screen.wait("it is written", |screen| screen.desk.read("parts/a.toml").contains("keep = [\"log\"]"));
    assert_eq!(screen.desk.run(&["undo"]).code, 0);
    assert!(screen.desk.read("parts/a.toml").contains("keep = [\"clock\", \"log\"]"));
    // Dragged to the other side, it is written as well.
    screen.wait("both are back", |screen| screen.reloads("accepted") >= 2);
    xdotool(&screen, &["mousemove", "500", "300"]);
    screen.wait("it is hidden", |screen| screen.pixel(dock.x + 3, dock.y + 3) != DOCK);
    xdotool(&screen, &["mousemove", "500", "799"]);
    screen.wait("the edge brings it back", |screen| screen.pixel(dock.x + 3, dock.y + 3) == DOCK);
    let (from, to, y) = ((left + 30).to_string(), (left + 84).to_string(), middle.to_string());
    let mut steps = vec!["mousemove", &from, &y, "mousedown", "1"];
    let between = (left + 60).to_string();
    steps.extend(["mousemove", &between, &y, "mousemove", &to, &y, "mouseup", "1"]);
    xdotool(&screen, &steps);
    screen.wait("it is written", |screen| screen.desk.read("parts/a.toml").contains("keep = [\"log\", \"clock\"]"));
}
