//! The desktop on a real X server, with real windows.

use std::io::Read;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use serde_json::Value;
use x11rb::connection::Connection;
use x11rb::protocol::xproto::{
    AtomEnum, ConfigureWindowAux, ConnectionExt, CreateWindowAux, ImageFormat, MapState, PropMode, Window, WindowClass,
};
use x11rb::protocol::xtest::ConnectionExt as _;
use x11rb::rust_connection::RustConnection;
use x11rb::wrapper::ConnectionExt as _;

use crate::Desk;
use crate::bars::named;

/// A program that is ended with the test.
pub struct Program(pub Child);

impl Drop for Program {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// A server without a screen, a rice, and a connection to look with.
pub struct Screen {
    live: Option<Program>,
    pub x: RustConnection,
    pub root: Window,
    pub name: String,
    pub desk: Desk,
    /// The session bus of the desktop.
    pub bus: Option<String>,
    _server: Program,
}

const RICE: &str = "[space]\nbetween = 10\nedge = 20\nalone = 20\n[frame]\nwidth = 2\nradius = 0\nactive = \"#ff0000\"\nidle = \"#0000ff\"\n\
[workspaces]\norder = [\"charts\", \"logs\"]\n[bar.top]\nthick = 30\nmiddle = [\"title\"]\n[module.title]\nsource = \"title\"\ntext = \"{title}\"\n\
[program]\nterminal = \"xterm\"\n[keys.desk]\n\"Lead+Return\" = \"open terminal\"\n\"Lead+n\" = \"focus next\"\n\"Lead+g l\" = \"go logs\"\n\"Lead+g c\" = \"go charts\"\n\"Lead+exclam\" = \"layout next\"\n\"Lead+w\" = \"close\"\n";

impl Screen {
    /// A server, and the desktop on it unless `bare`.
    pub fn new(bare: bool) -> Screen {
        let mut server = Command::new("Xvfb");
        server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
        let mut screen = Screen::on(server, RICE);
        if !bare {
            screen.start(&[]);
        }
        screen
    }

    /// What a server shows that tells the number of its display, and a rice; no desktop yet.
    pub fn on(mut server: Command, rice: &str) -> Screen {
        let mut server =
            server.stdout(Stdio::piped()).stderr(Stdio::null()).spawn().expect("the X server: cargo xtask test installs it");
        let mut name = String::from(":");
        let mut out = server.stdout.take().expect("its output");
        let mut byte = [0];
        while out.read(&mut byte).expect("a display number") == 1 && byte[0] != b'\n' {
            name.push(char::from(byte[0]));
        }
        let (x, screen) = x11rb::connect(Some(&name)).expect("it answers");
        let root = x.setup().roots[screen].root;
        Screen { live: None, x, root, name, desk: Desk::of(rice), bus: None, _server: Program(server) }
    }

    pub fn start(&mut self, more: &[&str]) {
        let mut arguments = vec!["live"];
        arguments.extend(more);
        let mut command = self.desk.command(&self.desk.rice(), &arguments);
        if let Some(bus) = &self.bus {
            command.env("DBUS_SESSION_BUS_ADDRESS", bus);
        }
        self.live = Some(Program(command.env("DISPLAY", &self.name).stdout(Stdio::null()).spawn().expect("it runs")));
        self.wait("the desktop answers", |screen| screen.try_ask("health").is_some());
    }

    pub fn run(&self, arguments: &[&str]) -> crate::Run {
        let output = self.desk.command(&self.desk.rice(), arguments).env("DISPLAY", &self.name).output().expect("it runs");
        crate::Run::of(&output, &[])
    }

    pub fn try_ask(&self, what: &str) -> Option<Value> {
        let run = self.run(&["ask", what, "--json"]);
        (run.code == 0).then(|| {
            let answer: Value = serde_json::from_str(&run.out).expect("JSON");
            assert_eq!(answer["version"], 1);
            answer[what].clone()
        })
    }

    pub fn ask(&self, what: &str) -> Value {
        self.try_ask(what).expect("it answers")
    }

    pub fn tell(&self, action: &str) {
        self.run(&["tell", action]).clean();
    }

    #[track_caller]
    pub fn wait(&mut self, what: &str, mut holds: impl FnMut(&mut Screen) -> bool) {
        let began = Instant::now();
        while began.elapsed() < Duration::from_secs(20) {
            if holds(self) {
                return;
            }
            std::thread::sleep(Duration::from_millis(20));
        }
        let health = self.try_ask("health");
        assert!(holds(self), "waited in vain until {what}; {health:?}");
    }

    pub fn count(&self) -> usize {
        self.ask("windows").as_array().expect("a list").len()
    }

    /// Opens a real terminal and waits until it is managed.
    pub fn xterm(&mut self) -> Program {
        let before = self.count();
        let program =
            Program(Command::new("xterm").args(["-e", "sleep", "10000"]).env("DISPLAY", &self.name).spawn().expect("xterm"));
        self.wait("the window is managed", |screen| screen.count() == before + 1);
        program
    }

    /// The areas of the windows that the desk shows, as the server has them.
    pub fn areas(&self) -> Vec<String> {
        let windows = self.ask("windows");
        let mut areas = Vec::new();
        for window in windows.as_array().expect("a list").iter().filter(|window| window["area"] != "hidden") {
            let id = u32::from_str_radix(window["window"].as_str().expect("a number").trim_start_matches("0x"), 16)
                .expect("hexadecimal");
            let g = self.x.get_geometry(id).expect("asked").reply().expect("it is there");
            let at = self.x.translate_coordinates(id, self.root, 0, 0).expect("asked").reply().expect("it is there");
            areas.push(format!("{}x{}{:+}{:+}", g.width, g.height, at.dst_x, at.dst_y));
        }
        areas
    }

    pub fn pixel(&self, x: i16, y: i16) -> [u8; 3] {
        let image = self.x.get_image(ImageFormat::Z_PIXMAP, self.root, x, y, 1, 1, !0).expect("asked").reply().expect("a pixel");
        [image.data[2], image.data[1], image.data[0]]
    }

    /// Ends the desktop at once, as if it had crashed.
    pub fn kill(&mut self) {
        self.live = None;
        // The server lets go of what it held a moment later.
        let selection = self.x.intern_atom(false, b"WM_S0").expect("asked").reply().expect("an atom").atom;
        self.wait("nobody manages the windows", |screen| {
            screen.x.get_selection_owner(selection).expect("asked").reply().expect("an answer").owner == x11rb::NONE
        });
    }

    /// The key that makes a keysym.
    pub fn code(&self, sym: u32) -> u8 {
        let setup = self.x.setup();
        let count = setup.max_keycode - setup.min_keycode + 1;
        let mapping = self.x.get_keyboard_mapping(setup.min_keycode, count).expect("asked").reply().expect("a keyboard");
        let per = usize::from(mapping.keysyms_per_keycode);
        setup.min_keycode + mapping.keysyms.chunks(per).position(|syms| syms.contains(&sym)).expect("a key") as u8
    }

    /// Presses keys by their keysyms, through the XTEST extension.
    pub fn press(&self, keys: &[u32]) {
        let code = |sym: u32| self.code(sym);
        for sym in keys {
            self.x.xtest_fake_input(2, code(*sym), 0, self.root, 0, 0, 0).expect("pressed");
        }
        for sym in keys.iter().rev() {
            self.x.xtest_fake_input(3, code(*sym), 0, self.root, 0, 0, 0).expect("released");
        }
        self.x.sync().expect("sent");
    }

    pub fn save(&self, part: &str) {
        // As an editor does: write beside it, rename.
        let path = self.desk.rice().join("parts/a.toml");
        std::fs::write(path.with_extension("new"), part).expect("written");
        std::fs::rename(path.with_extension("new"), path).expect("renamed");
    }

    /// Writes the part so that no watch tells of it: in place, without closing it for a while.
    pub fn write_unseen(&self, part: &str) {
        use std::io::Write as _;
        let path = self.desk.rice().join("parts/a.toml");
        // What was opened for reading too and is never closed was not saved.
        let mut file = std::fs::File::options().read(true).write(true).open(path).expect("the part");
        file.set_len(0).expect("emptied");
        file.write_all(part.as_bytes()).expect("written");
        std::mem::forget(file);
    }

    pub fn reloads(&self, which: &str) -> u64 {
        self.ask("health")[format!("reloads-{which}")].as_u64().expect("a number")
    }

    pub fn workspace(&self) -> String {
        let all = self.ask("workspaces");
        let focused = all.as_array().expect("a list").iter().find(|one| one["focused"] == true).expect("one has the focus");
        focused["workspace"].as_str().expect("a name").to_owned()
    }
}

const SUPER: u32 = 0xffeb;
const SHIFT: u32 = 0xffe1;

#[test]
fn real_windows_tile_exactly_and_the_bar_and_frames_are_drawn() {
    let mut screen = Screen::new(false);
    let _one = screen.xterm();
    assert_eq!(screen.areas(), ["956x726+22+52"]);
    let _two = screen.xterm();
    let _three = screen.xterm();
    assert_eq!(screen.areas(), ["471x726+22+52", "471x356+507+52", "471x356+507+422"]);
    // What is told is done; what is painted follows.
    screen.wait("frames are painted", |screen| (screen.pixel(21, 400), screen.pixel(506, 500)) == ([0, 0, 255], [255, 0, 0]));
    let paper = screen.pixel(3, 10);
    assert_eq!(screen.pixel(3, 29), [0x30, 0x40, 0x44], "the bar's hairline");
    assert_eq!(paper, [0x10, 0x1c, 0x1f]);
    screen.tell("layout next");
    assert_eq!(screen.areas(), ["956x726+22+52"]);
    screen.tell("layout next");
    screen.tell("focus left");
    screen.wait("the other frame is that of the focused one", |screen| screen.pixel(21, 400) == [255, 0, 0]);
}

#[test]
fn workspaces_hide_and_show_and_windows_survive_the_end() {
    let mut screen = Screen::new(true);
    let _early =
        Program(Command::new("xterm").args(["-e", "sleep", "1000"]).env("DISPLAY", &screen.name).spawn().expect("xterm"));
    screen.wait("it is mapped", |screen| {
        let tree = screen.x.query_tree(screen.root).expect("asked").reply().expect("a tree");
        tree.children.iter().any(|window| {
            screen
                .x
                .get_window_attributes(*window)
                .expect("asked")
                .reply()
                .is_ok_and(|facts| facts.map_state == MapState::VIEWABLE)
        })
    });
    screen.start(&[]);
    screen.wait("it is adopted", |screen| screen.count() == 1);
    let _other = screen.xterm();
    screen.tell("send logs");
    assert_eq!(screen.areas().len(), 1);
    screen.tell("go logs");
    assert_eq!((screen.workspace(), screen.areas().len()), ("logs".to_owned(), 1));
    let windows: Vec<Window> = screen
        .ask("windows")
        .as_array()
        .expect("a list")
        .iter()
        .map(|window| u32::from_str_radix(&window["window"].as_str().expect("a number")[2..], 16).expect("hexadecimal"))
        .collect();
    screen.tell("quit");
    screen.wait("it has ended", |screen| screen.live.as_mut().expect("it ran").0.try_wait().expect("asked").is_some());
    for window in &windows {
        let facts = screen.x.get_window_attributes(*window).expect("asked").reply().expect("it lives");
        assert_eq!(facts.map_state, MapState::VIEWABLE, "every window is seen afterwards");
    }
    screen.start(&[]);
    let live = screen.live.as_ref().expect("it runs").0.id();
    rustix::process::kill_process(rustix::process::Pid::from_raw(live as i32).expect("a number"), rustix::process::Signal::INT)
        .expect("sent");
    screen.wait("it is interrupted", |screen| {
        screen.live.as_mut().expect("it ran").0.try_wait().expect("asked").is_some_and(|status| status.code() == Some(130))
    });
    screen.start(&[]);
    screen.wait("both are adopted", |screen| screen.count() == 2);
    screen.tell("go logs");
    assert_eq!(screen.areas().len(), 1, "on the workspaces where they were");
}

#[test]
fn what_starts_by_itself_appears_on_its_workspace() {
    let mut screen = Screen::new(true);
    screen.desk.write("parts/b.toml", "[start.one]\nopen = \"terminal\"\nworkspace = \"logs\"\n");
    screen.start(&[]);
    screen.wait("it has started", |screen| screen.count() == 1);
    assert_eq!(screen.ask("windows")[0]["workspace"], "logs");
    assert_eq!((screen.workspace(), screen.areas().len()), ("charts".to_owned(), 0));
    screen.save(&RICE.replace("#ff0000", "#00ff00"));
    screen.wait("a reload", |screen| screen.reloads("accepted") == 1);
    assert_eq!(screen.count(), 1, "what starts at login is not started again");
    let _other = screen.xterm();
    assert_eq!(screen.areas().len(), 1, "another window of the program appears where one is");
}

#[test]
fn what_still_runs_is_not_started_again_however_the_desktop_ended() {
    let mut screen = Screen::new(true);
    let mark = format!("jovrik-starts-{}", std::process::id());
    screen.desk.write(
        "parts/b.toml",
        format!(
            "[start.one]\nopen = \"terminal\"\n[start.two]\nrun = [\"sh\", \"-c\", \"while sleep 1; do :; done\", \"{mark}\"]\n"
        ),
    );
    screen.start(&[]);
    screen.wait("it has started", |screen| screen.count() == 1);
    wait_for(&mark, 1);
    screen.kill();
    screen.start(&[]);
    screen.wait("its window is there", |screen| screen.count() == 1);
    screen.tell("focus next");
    wait_for(&mark, 1);
    screen.start(&["--replace"]);
    screen.wait("another one looks after it", |screen| screen.try_ask("windows").is_some_and(|all| all[0]["app"] == "XTerm"));
    assert_eq!((screen.count(), alive(&mark)), (1, 1));
    // What has ended meanwhile is started.
    screen.kill();
    Command::new("pkill").args(["-f", &mark]).status().expect("it runs");
    wait_for(&mark, 0);
    screen.start(&[]);
    wait_for(&mark, 1);
    assert_eq!(screen.count(), 1);
    screen.tell("quit");
    Command::new("pkill").args(["-f", &mark]).status().expect("it runs");
}

/// How many processes have a word of their own in their arguments.
fn alive(word: &str) -> usize {
    let all = std::fs::read_dir("/proc").expect("it is there").flatten();
    let said = |entry: std::fs::DirEntry| std::fs::read(entry.path().join("cmdline")).unwrap_or_default();
    all.map(said).filter(|line| line.split(|byte| *byte == 0).any(|own| own == word.as_bytes())).count()
}

/// Waits until as many processes as that have a word.
#[track_caller]
fn wait_for(word: &str, number: usize) {
    let began = Instant::now();
    while began.elapsed() < Duration::from_secs(20) {
        if alive(word) == number {
            return;
        }
        std::thread::sleep(Duration::from_millis(20));
    }
    assert_eq!(alive(word), number, "processes with {word}");
}

#[test]
fn what_modules_started_is_ended_when_they_go_and_however_the_desktop_ends() {
    let module = |name: &str, word: &str| {
        format!(
            "[module.{name}]\nsource = {{ stream = [\"sh\", \"-c\", \"(setsid sleep {word} &); echo x; sleep {word}\"] }}\ntext = \"{{value}}\"\n"
        )
    };
    let rice =
        RICE.replace("middle = [\"title\"]", "middle = [\"one\", \"two\"]") + &module("one", "7201") + &module("two", "7202");
    let mut screen = Screen::new(true);
    screen.save(&rice);
    screen.start(&[]);
    // The shell has the word in a longer argument.
    wait_for("7201", 2);
    wait_for("7202", 2);
    screen.save(&rice.replace("[\"one\", \"two\"]", "[\"two\"]"));
    wait_for("7201", 0);
    assert_eq!(alive("7202"), 2, "the other goes on");
    // Killed, it can end nobody itself.
    screen.live = None;
    wait_for("7202", 0);
}

#[test]
fn a_trial_of_a_module_that_is_interrupted_leaves_nobody() {
    let desk = Desk::of(
        "[module.slow]\nsource = { run = [\"sh\", \"-c\", \"setsid sleep 7203 & sleep 7203\"], every = \"1h\", within = \"50s\" }\ntext = \"x\"\n",
    );
    let mut command = desk.command(&desk.rice(), &["bar", "try", "slow"]);
    let mut child = Program(command.stdout(Stdio::null()).spawn().expect("it runs"));
    wait_for("7203", 2);
    let process = rustix::process::Pid::from_child(&child.0);
    rustix::process::kill_process(process, rustix::process::Signal::INT).expect("sent");
    child.0.wait().expect("it ended");
    wait_for("7203", 0);
}

#[test]
fn signals_that_are_not_for_it_do_no_harm() {
    let mut screen = Screen::new(false);
    let process = screen.live.as_ref().map(|live| rustix::process::Pid::from_child(&live.0)).expect("it runs");
    for signal in [rustix::process::Signal::USR1, rustix::process::Signal::USR2, rustix::process::Signal::HUP] {
        rustix::process::kill_process(process, signal).expect("sent");
    }
    std::thread::sleep(Duration::from_millis(200));
    let _window = screen.xterm();
}

#[test]
fn a_manager_that_does_not_answer_is_ended_after_the_wait() {
    let mut screen = Screen::new(true);
    // It owns the selection, and lets go of nothing.
    let (other, number) = x11rb::connect(Some(&screen.name)).expect("it answers");
    let window = other.generate_id().expect("a number");
    let aux = CreateWindowAux::new();
    other.create_window(0, window, screen.root, 0, 0, 1, 1, 0, WindowClass::INPUT_OUTPUT, 0, &aux).expect("asked");
    let selection = other.intern_atom(false, format!("WM_S{number}").as_bytes()).expect("asked").reply().expect("an atom").atom;
    other.set_selection_owner(window, selection, x11rb::CURRENT_TIME).expect("asked");
    other.sync().expect("done");
    let refused = screen.run(&["live"]);
    assert_eq!(refused.code, 3);
    assert!(refused.err.contains("--replace"), "{}", refused.err);
    screen.start(&["--replace"]);
    assert!(other.get_geometry(window).map(|asked| asked.reply().is_err()).unwrap_or(true), "its client is gone");
    let _window = screen.xterm();
}

#[test]
fn bindings_fire_by_real_key_presses_with_locks_and_in_sequences() {
    let mut screen = Screen::new(false);
    screen.press(&[SUPER, 0xff0d]);
    screen.wait("a terminal opened", |screen| screen.count() == 1);
    screen.press(&[0xff7f]);
    screen.press(&[SUPER, 0xff0d]);
    screen.wait("another, with NumLock on", |screen| screen.count() == 2);
    screen.press(&[0xff7f]);
    screen.press(&[SUPER, SHIFT, 0x31]);
    screen.wait("the shifted symbol fires", |screen| screen.areas().len() == 1);
    screen.press(&[SUPER, 0x67]);
    screen.press(&[0x6c]);
    screen.wait("a sequence", |screen| screen.workspace() == "logs");
    screen.press(&[SUPER, 0x67]);
    screen.press(&[0x78]);
    screen.press(&[0x63]);
    assert_eq!(screen.workspace(), "logs", "an unknown press ends a sequence");
    screen.press(&[SUPER, 0x67]);
    screen.press(&[0x63]);
    screen.wait("back", |screen| screen.workspace() == "charts");
    screen.press(&[SUPER, 0x77]);
    screen.wait("closed", |screen| screen.count() == 1);
}

#[test]
fn a_reload_touches_only_what_changed_and_a_broken_one_nothing() {
    let mut screen = Screen::new(false);
    let _one = screen.xterm();
    let _two = screen.xterm();
    let before = screen.areas();
    screen.save(&RICE.replace("#ff0000", "#00ff00"));
    screen.wait("the colour is there", |screen| screen.pixel(506, 400) == [0, 255, 0]);
    assert_eq!(screen.areas(), before);
    screen.save(&RICE.replace("width = 2", "widht = 2"));
    screen.wait("it is refused", |screen| screen.reloads("refused") == 1);
    let health = screen.ask("health");
    assert_eq!(health["last-reload"], "refused");
    assert_eq!(health["problems"][0], "parts/a.toml:6: there is no frame.widht");
    assert_eq!(screen.pixel(506, 400), [0, 255, 0], "the old settings stay");
    assert_eq!(screen.areas(), before);
    let notice = |screen: &Screen| named(screen, "jovrik notice Reload").is_some();
    screen.wait("a notice says so", |screen| notice(screen));
    let grabbed = screen.ask("health")["chords-grabbed"].as_u64().expect("a number");
    screen.save(&RICE.replace("between = 10", "between = 30").replace("\"Lead+n\"", "\"Lead+m\""));
    screen.wait("windows moved", |screen| screen.areas() == ["461x726+22+52", "461x726+517+52"]);
    assert_eq!(screen.ask("health")["chords-grabbed"].as_u64(), Some(grabbed));
    screen.wait("the notice goes", |screen| !notice(screen));
    let focused =
        |screen: &Screen| screen.ask("windows").as_array().expect("a list").iter().position(|window| window["focused"] == true);
    let now = focused(&screen);
    screen.press(&[SUPER, 0x6e]);
    screen.press(&[SUPER, 0x6d]);
    screen.wait("the new chord fires and the old does not", |screen| focused(screen) != now);
    for stage in ["read-and-check", "apply", "paint", "total"] {
        assert!(screen.ask("health")["stages"][stage].as_str().is_some_and(|text| text.ends_with(" ms")), "{stage}");
    }
}

#[test]
fn corners_are_cut_to_fit_the_frame_also_when_only_the_radius_changes() {
    use x11rb::protocol::shape::{ConnectionExt as _, SK};
    let mut screen = Screen::new(false);
    let _one = screen.xterm();
    let window = screen.ask("windows")[0]["window"].as_str().map(|text| u32::from_str_radix(&text[2..], 16).expect("a number"));
    let window = window.expect("a window");
    let widths = |screen: &Screen| -> (u16, usize) {
        let parent = screen.x.query_tree(window).expect("asked").reply().expect("it is there").parent;
        let reply = screen.x.shape_get_rectangles(parent, SK::BOUNDING).expect("asked").reply().expect("a shape");
        (reply.rectangles[0].width, reply.rectangles.len())
    };
    assert_eq!(widths(&screen), (956, 1), "square");
    screen.save(&RICE.replace("radius = 0", "radius = 12"));
    screen.wait("round", |screen| widths(screen).1 > 3 && widths(screen).0 < 956);
    assert_eq!(screen.areas(), ["956x726+22+52"], "no window moved");
    screen.save(RICE);
    screen.wait("square again", |screen| widths(screen) == (956, 1));
}

#[test]
fn accepted_reloads_are_in_the_history_and_undo_takes_them_back() {
    let mut screen = Screen::new(false);
    let _one = screen.xterm();
    let entries = |screen: &Screen| screen.run(&["history", "--json"]).out.lines().count();
    screen.save(&RICE.replace("#ff0000", "#00ff00"));
    screen.wait("the colour is there", |screen| screen.pixel(21, 400) == [0, 255, 0]);
    screen.wait("it is written down", |screen| entries(screen) == 1);
    screen.save("[frame\n");
    screen.wait("it is refused", |screen| screen.reloads("refused") == 1);
    assert_eq!(entries(&screen), 1, "what is refused is not in the history");
    screen.save(&RICE.replace("#ff0000", "#00ff00"));
    screen.wait("it is mended", |screen| screen.ask("health")["last-reload"] == "accepted");
    screen.run(&["set", "frame.active", "#0000ff"]).clean();
    screen.wait("the other colour is there", |screen| screen.pixel(21, 400) == [0, 0, 255]);
    std::thread::sleep(Duration::from_millis(200));
    assert_eq!(entries(&screen), 2, "what set has recorded is not recorded again");
    screen.run(&["undo"]).clean();
    screen.wait("one back", |screen| screen.pixel(21, 400) == [0, 255, 0]);
    std::thread::sleep(Duration::from_millis(200));
    screen.run(&["undo"]).clean();
    screen.wait("two back", |screen| screen.pixel(21, 400) == [255, 0, 0]);
    assert_eq!(screen.desk.read("parts/a.toml"), RICE);
    std::thread::sleep(Duration::from_millis(200));
    assert_eq!(screen.run(&["undo"]).failed(1), "error  there is nothing to undo\n", "taking back is no entry of its own");
    screen.run(&["redo"]).clean();
    screen.wait("forward again", |screen| screen.pixel(21, 400) == [0, 255, 0]);
}

#[test]
fn a_hundred_good_and_bad_reloads_lose_no_window() {
    let mut screen = Screen::new(false);
    let _one = screen.xterm();
    let _two = screen.xterm();
    for round in 0..50 {
        screen.save(&RICE.replace("between = 10", &format!("between = {}", 11 + round)));
        screen.wait("accepted", |screen| screen.reloads("accepted") == round + 1);
        let bad = ["[frame\n", "[frame]\nwidht = 1\n", "\u{0}", "[keys.desk]\n\"Lead+x\" = \"clsoe\"\n", "space = 3\n"]
            [round as usize % 5];
        screen.save(bad);
        screen.wait("refused", |screen| screen.reloads("refused") == round + 1);
    }
    assert_eq!(screen.count(), 2);
    assert_eq!(screen.areas(), ["446x726+22+52", "446x726+532+52"]);
}

#[test]
fn windows_that_vanish_or_misbehave_do_no_harm() {
    let mut screen = Screen::new(false);
    let _one = screen.xterm();
    for nth in 0..40_u32 {
        // Mapped, reconfigured, retitled and destroyed before anybody can look at it.
        let (x, _) = x11rb::connect(Some(&screen.name)).expect("it answers");
        let window = x.generate_id().expect("a number");
        x.create_window(0, window, screen.root, 0, 0, 100, 100, 0, WindowClass::INPUT_OUTPUT, 0, &CreateWindowAux::new())
            .expect("made");
        x.change_property8(PropMode::REPLACE, window, AtomEnum::WM_CLASS, AtomEnum::STRING, &[0xff, 0, 0xfe]).expect("set");
        x.change_property32(PropMode::REPLACE, window, AtomEnum::WM_NORMAL_HINTS, AtomEnum::WM_SIZE_HINTS, &[u32::MAX; 18])
            .expect("set");
        x.change_property8(PropMode::REPLACE, window, AtomEnum::WM_NAME, AtomEnum::STRING, &vec![b'\n'; 100_000]).expect("set");
        x.map_window(window).expect("mapped");
        if nth % 2 == 0 {
            x.configure_window(window, &ConfigureWindowAux::new().width(60_000).height(60_000)).expect("asked");
            x.unmap_window(window).expect("unmapped");
            x.map_window(window).expect("mapped");
        }
        if nth % 3 != 0 {
            x.destroy_window(window).expect("destroyed");
        }
        x.sync().expect("sent");
    }
    screen.wait("they are gone", |screen| screen.count() == 1);
    assert_eq!(screen.areas(), ["956x726+22+52"]);
}

#[test]
fn dialogs_float_over_the_tiles_and_programs_read_the_workspaces() {
    let mut screen = Screen::new(false);
    let _one = screen.xterm();
    let window = screen.x.generate_id().expect("a number");
    screen
        .x
        .create_window(
            0,
            window,
            screen.root,
            0,
            0,
            300,
            200,
            5,
            WindowClass::INPUT_OUTPUT,
            0,
            &CreateWindowAux::new().background_pixel(0xffffff),
        )
        .expect("made");
    let atom = |name: &str| screen.x.intern_atom(false, name.as_bytes()).expect("asked").reply().expect("an atom").atom;
    let (kind, dialog) = (atom("_NET_WM_WINDOW_TYPE"), atom("_NET_WM_WINDOW_TYPE_DIALOG"));
    let (desktops, active) = (atom("_NET_NUMBER_OF_DESKTOPS"), atom("_NET_ACTIVE_WINDOW"));
    screen.x.change_property32(PropMode::REPLACE, window, kind, AtomEnum::ATOM, &[dialog]).expect("set");
    screen.x.map_window(window).expect("mapped");
    screen.x.sync().expect("sent");
    screen.wait("it is managed", |screen| screen.count() == 2);
    assert_eq!(screen.areas()[1], "300x200+350+315");
    assert_eq!(screen.pixel(500, 400), [255, 255, 255], "over the tile");
    let number = |property: u32| {
        screen
            .x
            .get_property(false, screen.root, property, AtomEnum::ANY, 0, 1)
            .expect("asked")
            .reply()
            .expect("set")
            .value32()
            .and_then(|mut values| values.next())
    };
    assert_eq!(number(desktops), Some(2));
    assert_eq!(number(active), Some(window));
}

#[test]
fn one_desktop_a_display_and_replace_takes_over() {
    let mut screen = Screen::new(false);
    let _one = screen.xterm();
    let run = screen.run(&["live"]);
    assert_eq!(run.code, 3);
    assert!(run.err.contains("another window manager runs on this display") && run.err.contains("--replace"), "{}", run.err);
    assert_eq!(screen.count(), 1, "the first goes on");
    let mut first = screen.live.take().expect("it runs");
    screen.start(&["--replace"]);
    screen.wait("the first has ended", |_| first.0.try_wait().expect("asked").is_some());
    screen.wait("the window is adopted", |screen| {
        screen.try_ask("windows").is_some_and(|windows| windows.as_array().is_some_and(|all| all.len() == 1))
    });
    assert_eq!(screen.areas(), ["956x726+22+52"]);
}

#[test]
fn it_wakes_only_for_what_asks_and_says_what_it_will_not_do() {
    let mut screen = Screen::new(false);
    let _one = screen.xterm();
    let wakeups = |screen: &Screen| screen.ask("health")["wake-ups"].as_u64().expect("a number");
    std::thread::sleep(Duration::from_millis(300));
    let before = wakeups(&screen);
    std::thread::sleep(Duration::from_secs(3));
    let after = wakeups(&screen);
    // The question itself: a peer that connects, asks, and goes.
    assert!(after - before <= 4, "{} wake-ups without a reason", after - before);
    let refused = screen.run(&["tell", "go nowhere"]);
    assert_eq!((refused.code, refused.err.as_str()), (1, "error  there is no workspace nowhere\n"));
    assert_eq!(screen.run(&["tell", "clsoe"]).code, 2);
    assert_eq!(screen.run(&["ask", "helth"]).code, 2);
    assert_eq!(screen.run(&["tell", "run no-such-program"]).err, "error  no-such-program is not on this computer\n");
}

#[test]
fn a_monitor_that_shrinks_brings_in_the_overlay_that_waits_for_it_and_back() {
    use x11rb::protocol::randr::{ConnectionExt as _, Rotation};
    let mut screen = Screen::new(true);
    let overlay = "[overlay]\nwhen = { monitor-height = \"< 700\" }\n[space]\nedge = 2\nalone = 2\n";
    screen.desk.write("overlays/small.toml", overlay);
    screen.start(&[]);
    let _one = screen.xterm();
    assert_eq!(screen.areas(), ["956x726+22+52"], "on a high screen it does not hold");
    let told = screen.run(&["why", "space.edge"]).clean();
    assert!(told.contains("not asked: overlays/small.toml:4 says 2; no monitor is < 700 px high: 800"), "{told}");
    // Without a monitor on its output the whole screen is one, of any size.
    let resources = screen.x.randr_get_screen_resources(screen.root).expect("asked").reply().expect("they are told");
    for crtc in resources.crtcs {
        let off = screen.x.randr_set_crtc_config(crtc, 0, resources.config_timestamp, 0, 0, 0, Rotation::ROTATE0, &[]);
        off.expect("asked").reply().expect("it is off");
    }
    let resize = |screen: &Screen, w: u16, h: u16| {
        screen.x.randr_set_screen_size(screen.root, w, h, 200, 200).expect("asked").check().expect("a size that fits");
    };
    resize(&screen, 800, 600);
    screen.wait("the overlay is laid", |screen| screen.areas() == ["792x562+4+34"]);
    assert_eq!(screen.reloads("accepted"), 1);
    resize(&screen, 1000, 800);
    screen.wait("it is lifted again", |screen| screen.areas() == ["956x726+22+52"]);
    assert_eq!((screen.reloads("accepted"), screen.reloads("refused")), (2, 0));
}

#[test]
fn programs_get_the_environment_and_shell_lines_start() {
    let mut screen = Screen::new(true);
    let told = screen.desk.path().join("told");
    let part = format!(
        "[environment]\nSTATION = \"saltmarsh\"\n[start.note]\nshell = \"echo $STATION > {0}\"\n[start.term]\nrun = [\"xterm\", \"-class\", \"Gauge\"]\n\
         [program]\nnote = {{ run = [\"sh\", \"-c\", \"echo $STATION $OWN >> {0}\"], env = {{ OWN = \"own\" }} }}\n",
        told.display()
    );
    screen.desk.write("parts/b.toml", part);
    screen.start(&[]);
    screen.wait("the argv started", |screen| screen.count() == 1);
    let read = || std::fs::read_to_string(&told).unwrap_or_default();
    screen.wait("the shell line ran", |_| read() == "saltmarsh\n");
    screen.tell("open note");
    screen.wait("a program has both", |_| read() == "saltmarsh\nsaltmarsh own\n");
}

#[test]
fn the_pointer_gives_the_focus_when_the_rice_says_so() {
    let mut screen = Screen::new(false);
    let (_one, _two) = (screen.xterm(), screen.xterm());
    let point = |screen: &Screen, x: i16, y: i16| {
        screen.x.xtest_fake_input(6, 0, 0, screen.root, x, y, 0).expect("moved");
        screen.x.sync().expect("sent");
    };
    let focused = |screen: &Screen| {
        let windows = screen.ask("windows");
        windows.as_array().expect("a list").iter().position(|window| window["focused"] == true)
    };
    assert_eq!(focused(&screen), Some(1), "the later one");
    point(&screen, 200, 300);
    screen.save(&format!("{RICE}[pointer]\nfocus = \"enter\"\n"));
    screen.wait("a reload", |screen| screen.reloads("accepted") == 1);
    assert_eq!(focused(&screen), Some(1), "a press was what it took");
    point(&screen, 800, 300);
    point(&screen, 200, 310);
    screen.wait("the left one has it", |screen| focused(screen) == Some(0));
    screen.tell("main swap");
    screen.wait("the windows changed places", |screen| screen.areas()[0].ends_with("+507+52"));
    assert_eq!(focused(&screen), Some(0), "a pointer at rest points at nothing new");
    screen.save(RICE);
    screen.wait("a reload", |screen| screen.reloads("accepted") == 2);
    point(&screen, 210, 320);
    point(&screen, 800, 320);
    assert_eq!(focused(&screen), Some(0), "switched off again");
}

#[test]
fn what_starts_when_it_changes_starts_again_when_it_does() {
    let mut screen = Screen::new(true);
    let told = screen.desk.path().join("told");
    let part = |word: &str| format!("[start.note]\nwhen = \"change\"\nshell = \"echo {word} >> {}\"\n", told.display());
    screen.desk.write("parts/b.toml", part("one"));
    screen.start(&[]);
    let read = || std::fs::read_to_string(&told).unwrap_or_default();
    screen.wait("it starts with the desktop", |_| read() == "one\n");
    screen.save(&RICE.replace("#ff0000", "#00ff00"));
    screen.wait("a reload", |screen| screen.reloads("accepted") == 1);
    screen.desk.write("parts/b.toml", part("two"));
    screen.wait("it starts again", |_| read() == "one\ntwo\n");
    assert_eq!(screen.reloads("accepted"), 2);
}

#[test]
fn saving_an_overlay_is_a_reload_also_when_its_folder_comes_later() {
    let mut screen = Screen::new(false);
    let _one = screen.xterm();
    let overlay = |alone: u32| format!("[overlay]\nwhen = {{ monitors = 1 }}\n[space]\nalone = {alone}\nedge = {alone}\n");
    screen.desk.write("overlays/here.toml", overlay(2));
    screen.wait("it is laid", |screen| screen.areas() == ["992x762+4+34"]);
    screen.desk.write("overlays/here.toml", overlay(4));
    screen.wait("it is laid anew", |screen| screen.areas() == ["988x758+6+36"]);
    screen.desk.write("overlays/here.toml", "[overlay]\nwhen = { monitors = 7 }\n[space]\nedge = \"wide\"\n");
    screen.wait("it no longer holds", |screen| screen.areas() == ["956x726+22+52"]);
    assert_eq!(screen.reloads("refused"), 0, "what is wrong in an overlay that does not hold here stops nothing");
}

#[test]
fn the_facts_of_a_computer_with_a_display_are_those_of_its_server() {
    let screen = Screen::new(true);
    let facts: toml::Table = toml::from_str(&screen.run(&["machine"]).clean()).expect("TOML");
    let monitor = facts["monitor"].as_table().and_then(|all| all.values().next()).expect("one");
    assert_eq!((monitor["size"].as_str(), monitor["at"].as_str()), (Some("1000x800"), Some("0,0")));
    assert_eq!(facts["keyboard"].as_array().map(|all| all[0].as_str()), Some(Some("us")), "as the server's rules say");
    let told = screen.run(&["why", "--with", "space.edge=3"]).clean();
    assert!(told.contains("--with space.edge=3"), "{told}");
}
