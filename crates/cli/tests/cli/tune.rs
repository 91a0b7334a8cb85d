//! The screen of `tune`, driven through a pseudo-terminal and read by a terminal emulator.

use std::fs::File;
use std::io::{Read, Write};
use std::os::fd::{AsFd, OwnedFd};
use std::process::{Child, Command, Stdio};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use rustix::pty::{OpenptFlags, grantpt, openpt, ptsname, unlockpt};
use rustix::termios::{Winsize, tcsetwinsize};

use crate::Desk;

/// A running screen.
struct Tune {
    desk: Desk,
    child: Child,
    master: File,
    seen: Arc<Mutex<vt100::Parser>>,
}

impl Drop for Tune {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

const ENTER: &str = "\r";
const ESC: &str = "\x1b";
const UP: &str = "\x1b[A";
const DOWN: &str = "\x1b[B";
const RIGHT: &str = "\x1b[C";
const LEFT: &str = "\x1b[D";
const TAB: &str = "\t";

impl Tune {
    /// On the sample, on a terminal of a size, with more of an environment.
    fn new(columns: u16, rows: u16, env: &[(&str, &str)], arguments: &[&str]) -> Tune {
        Tune::on(Desk::sample(), columns, rows, env, arguments)
    }

    fn on(desk: Desk, columns: u16, rows: u16, env: &[(&str, &str)], arguments: &[&str]) -> Tune {
        let master = openpt(OpenptFlags::RDWR | OpenptFlags::NOCTTY).expect("a pseudo-terminal");
        grantpt(&master).expect("granted");
        unlockpt(&master).expect("unlocked");
        tcsetwinsize(&master, Winsize { ws_col: columns, ws_row: rows, ws_xpixel: 0, ws_ypixel: 0 }).expect("a size");
        let name = ptsname(&master, Vec::new()).expect("a name").into_string().expect("UTF-8");
        let open = || -> OwnedFd { File::options().read(true).write(true).open(&name).expect("the other end").into() };
        // In a session of its own, so that the terminal is its own and a new size is told to it.
        let plain = desk.command(&desk.rice(), &["tune"]);
        let mut command = Command::new("setsid");
        command.args(["--ctty", "--wait"]).arg(plain.get_program()).arg("tune").args(arguments).env_clear();
        command.current_dir(desk.rice()).envs(plain.get_envs().filter_map(|(name, value)| Some((name, value?))));
        command.env_remove("COLUMNS").env("TERM", "xterm-256color").envs(env.iter().copied());
        command.stdin(Stdio::from(open())).stdout(Stdio::from(open())).stderr(Stdio::from(open()));
        let child = command.spawn().expect("setsid of util-linux");
        let seen = Arc::new(Mutex::new(vt100::Parser::new(rows, columns, 0)));
        let mut reader = File::from(master.as_fd().try_clone_to_owned().expect("another"));
        let into = seen.clone();
        std::thread::spawn(move || {
            let mut bytes = [0; 65536];
            while let Ok(count) = reader.read(&mut bytes) {
                into.lock().expect("no panic").process(&bytes[..count]);
            }
        });
        Tune { desk, child, master: master.into(), seen }
    }

    fn keys(&mut self, keys: &[&str]) {
        for key in keys {
            self.master.write_all(key.as_bytes()).expect("typed");
            // An escape by itself is told from the start of a sequence by what comes at once.
            std::thread::sleep(Duration::from_millis(if *key == ESC { 300 } else { 5 }));
        }
    }

    fn text(&self) -> String {
        let seen = self.seen.lock().expect("no panic");
        let screen = seen.screen();
        let rows: Vec<String> = screen.rows(0, screen.size().1).map(|row| row.trim_end().to_owned()).collect();
        rows.join("\n")
    }

    /// Waits until the screen shows a text.
    #[track_caller]
    fn shows(&self, text: &str) {
        self.wait(&format!("it shows {text}"), |all| all.contains(text));
    }

    #[track_caller]
    fn wait(&self, what: &str, holds: impl Fn(&str) -> bool) {
        let until = Instant::now() + Duration::from_secs(10);
        loop {
            let text = self.text();
            if holds(&text) {
                return;
            }
            assert!(Instant::now() < until, "waited for: {what}\n{text}");
            std::thread::sleep(Duration::from_millis(10));
        }
    }

    fn resize(&mut self, columns: u16, rows: u16) {
        self.seen.lock().expect("no panic").screen_mut().set_size(rows, columns);
        tcsetwinsize(&self.master, Winsize { ws_col: columns, ws_row: rows, ws_xpixel: 0, ws_ypixel: 0 }).expect("a size");
    }

    /// How it ended.
    #[track_caller]
    fn ended(&mut self) -> i32 {
        let until = Instant::now() + Duration::from_secs(10);
        loop {
            if let Some(status) = self.child.try_wait().expect("asked") {
                return status.code().expect("it ended by itself");
            }
            assert!(Instant::now() < until, "it goes on\n{}", self.text());
            std::thread::sleep(Duration::from_millis(10));
        }
    }

    /// The colours of the picture: of its cells, in the upper right of the screen.
    fn picture(&self) -> Vec<(vt100::Color, vt100::Color)> {
        let seen = self.seen.lock().expect("no panic");
        let screen = seen.screen();
        let (rows, columns) = screen.size();
        let all = (0..rows).flat_map(|row| (0..columns).map(move |column| (row, column)));
        let cells = all.filter_map(|(row, column)| screen.cell(row, column)).filter(|cell| cell.contents() == "▀");
        cells.map(|cell| (cell.fgcolor(), cell.bgcolor())).collect()
    }
}

#[test]
fn a_number_is_stepped_shown_before_it_is_written_and_written_to_the_byte() {
    let mut tune = Tune::new(80, 24, &[("COLORTERM", "truecolor")], &[]);
    tune.shows("saltmarsh");
    tune.keys(&[RIGHT, RIGHT]);
    tune.shows("space.between");
    tune.keys(&[DOWN]);
    tune.shows("to the edge of the screen");
    let before = tune.picture();
    assert!(before.len() > 150, "{}", tune.text());
    tune.keys(&[ENTER, UP, UP, "\x1b[5~"]);
    tune.shows("writes parts/look.toml:40  edge = 24");
    tune.shows("over   parts/look.toml:40  edge = 12");
    tune.wait("the picture follows", |_| tune.picture() != before);
    assert!(tune.desk.read("parts/look.toml").contains("edge = 12"), "nothing is written yet");
    tune.keys(&[ENTER]);
    tune.shows("1 change not written");
    tune.keys(&["q"]);
    tune.shows("s writes, q again leaves without");
    tune.keys(&["s"]);
    tune.shows("wrote 1 file; u takes it back");
    let written = tune.desk.read("parts/look.toml").replace("edge = 24", "edge = 12");
    let sample = include_str!("../../../../samples/saltmarsh/parts/look.toml");
    assert_eq!(written.strip_prefix("#:schema ../schema.json\n"), Some(sample));
    tune.keys(&["u"]);
    tune.shows("taken back, also on the disk");
    assert!(tune.desk.read("parts/look.toml").contains("edge = 12"));
    tune.wait("the picture is as it was", |_| tune.picture() == before);
    tune.keys(&["q"]);
    assert_eq!(tune.ended(), 0);
    assert_eq!(tune.text().trim(), "", "the terminal is as it was");
}

#[test]
fn settings_are_searched_as_one_types_and_choices_are_chosen() {
    let mut tune = Tune::new(100, 30, &[], &[]);
    tune.shows("palette.use");
    tune.keys(&["/", "g", "l", "w", "o"]);
    tune.wait("one typing error is forgiven", |text| text.contains("frame.glow.width") && !text.contains("space."));
    tune.keys(&[ENTER, ESC]);
    tune.shows("ebb.paper");
    tune.keys(&[ENTER]);
    tune.shows("› ebb");
    tune.keys(&[DOWN]);
    tune.shows("writes parts/look.toml:5  use = \"noon\"");
    tune.keys(&[ENTER]);
    tune.shows("1 change not written");
    tune.keys(&["u"]);
    tune.shows("taken back");
    tune.keys(&["q"]);
    assert_eq!(tune.ended(), 0);
}

#[test]
fn what_cannot_be_is_refused_while_it_is_typed_and_stays_open() {
    let mut tune = Tune::new(80, 24, &[], &["edge of the screen"]);
    tune.shows("space.edge");
    tune.keys(&[ENTER, "\x15", "w", "i", "d", "e"]);
    tune.shows("space.edge cannot be \"wide\": expected pixels from 0 to 200");
    tune.keys(&[ENTER]);
    tune.shows("takes it");
    tune.keys(&["\x15", "9"]);
    tune.shows("edge = 9");
    tune.keys(&[ESC, "q"]);
    assert_eq!(tune.ended(), 0);
    assert!(tune.desk.read("parts/look.toml").contains("edge = 12"));
}

#[test]
fn a_colour_has_swatches_roles_and_sliders() {
    let mut tune = Tune::new(120, 40, &[("COLORTERM", "truecolor")], &["focused window's colour"]);
    tune.shows("frame.active");
    tune.keys(&[ENTER]);
    tune.shows("@accent  #74d4b1");
    tune.keys(&[TAB]);
    tune.shows("› light");
    tune.keys(&[LEFT, LEFT, LEFT, LEFT, LEFT]);
    tune.wait("a colour by its numbers", |text| text.contains("active = \"#") && !text.contains("active = \"#74d4b1\""));
    tune.keys(&[TAB, TAB, TAB]);
    tune.shows("› cover");
    tune.keys(&[LEFT]);
    tune.wait("it lets something through", |text| {
        let hex = text.split("writes parts/look.toml:46  active = \"#").nth(1).and_then(|rest| rest.split('"').next());
        hex.is_some_and(|hex| hex.len() == 8)
    });
    tune.keys(&[TAB, DOWN]);
    tune.shows("active = \"@paper\"");
    tune.keys(&[ENTER]);
    tune.shows("1 change not written");
    tune.keys(&["\x03"]);
    assert_eq!(tune.ended(), 130);
}

#[test]
fn it_works_small_and_large_without_colours_and_while_its_size_changes() {
    let mut plain = Tune::new(80, 24, &[("NO_COLOR", "1")], &[]);
    plain.shows("q leave");
    assert!(plain.text().contains('▓') || plain.text().contains('░'), "{}", plain.text());
    {
        let seen = plain.seen.lock().expect("no panic");
        let cells = (0..24).flat_map(|row| (0..80).map(move |column| (row, column)));
        for (row, column) in cells {
            let cell = seen.screen().cell(row, column).expect("a cell");
            assert_eq!((cell.fgcolor(), cell.bgcolor()), (vt100::Color::Default, vt100::Color::Default));
        }
    }
    plain.resize(200, 60);
    plain.wait("the help stands beside the values", |text| {
        text.contains("which of the palettes is used") && text.lines().count() == 60
    });
    plain.wait("the keys are at the bottom", |text| text.lines().last().is_some_and(|line| line.contains("q leave")));
    plain.resize(40, 10);
    plain.shows("tune wants 60 columns and 16 rows");
    plain.resize(60, 16);
    plain.shows("palette.use");
    plain.keys(&["?"]);
    plain.shows("any key");
    plain.keys(&["x", "q"]);
    assert_eq!(plain.ended(), 0);
    let cube = Tune::new(80, 24, &[], &[]);
    cube.wait("256 colours", |_| cube.picture().iter().any(|(top, _)| matches!(top, vt100::Color::Idx(16..))));
}

#[test]
fn followed_changes_are_written_at_once_and_a_file_changed_by_others_is_not_overwritten() {
    let mut tune = Tune::new(80, 24, &[], &["--follow", "between", "windows"]);
    tune.shows("space.between");
    tune.keys(&[ENTER, UP, ENTER]);
    tune.shows("wrote 1 file");
    assert!(tune.desk.read("parts/look.toml").contains("between = 9"));
    let theirs = format!("{}# by hand\n", tune.desk.read("parts/look.toml"));
    tune.desk.write("parts/look.toml", &theirs);
    tune.keys(&[ENTER, UP, ENTER]);
    tune.shows("parts/look.toml was changed by somebody else meanwhile");
    assert_eq!(tune.desk.read("parts/look.toml"), theirs);
    tune.keys(&["q", "q"]);
    assert_eq!(tune.ended(), 0);
    let history = tune.desk.run(&["history"]).clean();
    assert!(history.contains("tune") && history.contains("space.between 8 → 9"), "{history}");
}

#[test]
fn things_are_toggled_and_reset_on_the_screen() {
    let mut tune = Tune::new(90, 30, &[], &["close the window"]);
    tune.keys(&[ESC, "/"]);
    tune.keys(&["t", "h", "i", "c", "k", " ", "b", "a", "r", ENTER]);
    tune.shows("bar.top.thick");
    tune.keys(&["t"]);
    tune.shows("1 change not written");
    tune.wait("its default holds, and it is still there", |text| text.contains("bar.top.thick") && !text.contains("is from"));
    tune.keys(&["t", "r"]);
    tune.shows("1 change not written");
    tune.keys(&["u", "u", "u", "u"]);
    tune.shows("nothing to take back");
    tune.keys(&["q"]);
    assert_eq!(tune.ended(), 0);
}

#[test]
fn without_a_terminal_it_says_what_to_type_instead() {
    let told = Desk::sample().run(&["tune"]).failed(3);
    assert_eq!(told, "error  tune wants a terminal to draw on\n  → jovrik set PATH VALUE      changes a setting without one\n");
}

#[test]
fn bindings_and_lists_are_changed_as_they_are_written() {
    let mut tune = Tune::new(140, 30, &[], &["keys.desk.\"Super+BackSpace\""]);
    tune.shows("Super+BackSpace");
    tune.keys(&[ENTER]);
    tune.shows("do = \"close\"");
    tune.keys(&["\x15", "l", "a", "y", "o", "u", "t", " ", "n", "e", "x", "t"]);
    tune.shows("\"Lead+BackSpace\" = \"layout next\"");
    tune.keys(&["\x15", "l", "a", "y", "o", "t"]);
    tune.wait("what is no action is refused", |text| text.contains("no action") || text.contains("cannot be"));
    tune.keys(&[ESC, "/"]);
    tune.keys(&["b", "a", "r", ".", "t", "o", "p", ".", "e", "n", "d", ENTER, ENTER]);
    tune.shows("[\"tide\", \"cpu\", \"memory\", \"volume\", \"clock\"]");
    tune.keys(&["\x7f", ",", "\"", "t", "i", "t", "l", "e", "\"", "]"]);
    tune.shows("writes parts/bar.toml:9  end = [\"tide\", \"cpu\", \"memory\", \"volume\", \"clock\", \"title\"]");
    tune.keys(&[ENTER, "s"]);
    tune.shows("wrote 1 file");
    assert!(tune.desk.read("parts/bar.toml").contains("\"clock\", \"title\"]\n"));
    tune.keys(&["q"]);
    assert_eq!(tune.ended(), 0);
}

#[test]
fn a_broken_rice_is_opened_told_of_and_can_be_mended() {
    let desk = Desk::sample();
    desk.write("parts/zz.toml", "[frame]\nradius = \"round\"\n");
    let mut tune = Tune::on(desk, 90, 24, &[], &["how round"]);
    tune.shows("the rice has 1 error; jovrik check says them");
    tune.shows("frame.radius");
    tune.keys(&[ENTER, "\x15", "4"]);
    tune.shows("writes parts/zz.toml:2  radius = 4");
    tune.keys(&[ENTER, "s"]);
    tune.shows("wrote 1 file");
    tune.keys(&["q"]);
    assert_eq!(tune.ended(), 0);
    assert!(tune.desk.run(&["check"]).out.contains("setting/twice"), "mended; it is set in two files still");
}

#[test]
fn a_widget_is_moved_by_arrows_and_seen_without_the_windows_over_it() {
    let mut tune = Tune::new(120, 40, &[("COLORTERM", "truecolor")], &[]);
    tune.shows("saltmarsh");
    tune.keys(&["/", "widget.time.offset", ENTER]);
    tune.shows("widget.time.offset");
    let before = tune.picture();
    tune.keys(&[ENTER]);
    tune.shows("move it by 4");
    tune.keys(&[RIGHT, RIGHT, DOWN, "[6~", "[6~"]);
    tune.shows("offset = [64, 132]");
    tune.wait("the picture follows", |_| tune.picture() != before);
    tune.keys(&[LEFT, UP, ENTER]);
    tune.keys(&["s"]);
    tune.shows("wrote 1 file");
    assert!(tune.desk.read("parts/widgets.toml").contains("offset = [60, 128]"));
}
