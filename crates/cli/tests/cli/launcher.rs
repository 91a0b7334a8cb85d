//! The launcher on a real server: desktop entries that come and go, what is typed by another program, lines that are offered.

use std::io::Write as _;
use std::process::{Child, Command, Stdio};

use x11rb::connection::Connection as _;
use x11rb::protocol::Event;
use x11rb::protocol::xproto::{
    ChangeWindowAttributesAux, ConnectionExt as _, CreateWindowAux, EventMask, PropMode, Property, SELECTION_NOTIFY_EVENT,
    SelectionNotifyEvent, WindowClass,
};
use x11rb::wrapper::ConnectionExt as _;

use crate::live::Screen;

const RICE: &str = "[bar.top]\nthick = 30\n[workspaces]\norder = [\"one\", \"two\"]\n[launcher]\nlists = [\"apps\", \"windows\"]\n\
[launcher.own.places]\nSecond = { do = \"go two\" }\n[keys.desk]\n\"F8\" = \"launcher\"\n";

fn screen() -> Screen {
    let mut server = Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    let mut screen = Screen::on(server, RICE);
    screen.start(&[]);
    screen
}

/// Types as an independent program does.
fn types(screen: &Screen, arguments: &[&str]) {
    let status = Command::new("xdotool").args(arguments).env("DISPLAY", &screen.name).status();
    assert!(status.expect("xdotool: cargo xtask test installs it").success());
}

/// A desktop entry that leaves a mark of having been started.
fn entry(screen: &Screen, id: &str, name: &str, more: &str) {
    let folder = screen.desk.home().join(".local/share/applications");
    std::fs::create_dir_all(&folder).expect("made");
    let mark = screen.desk.path().join(format!("{id}.started"));
    // Its number, and that of its session (proc(5): the sixth field).
    let says = format!("$DESKTOP_STARTUP_ID $$ $(cut -d ' ' -f 6 /proc/self/stat) from {id}");
    let exec = format!("sh -c \"echo {says} | tee '{}'\"", mark.display()).replace('$', "\\\\$");
    let text = format!("[Desktop Entry]\nType=Application\nName={name}\nExec={exec}\n{more}");
    std::fs::write(folder.join(format!("{id}.desktop")), text).expect("written");
}

fn started(screen: &Screen, id: &str) -> Option<String> {
    std::fs::read_to_string(screen.desk.path().join(format!("{id}.started"))).ok().filter(|text| text.ends_with('\n'))
}

#[test]
fn entries_are_typed_for_started_in_sessions_of_their_own_and_new_ones_are_there_at_once() {
    let mut screen = screen();
    entry(&screen, "gauge-log", "Gauge log of station", "Keywords=tide;\n");
    let folder = screen.desk.home().join(".local/share/applications");
    std::fs::write(folder.join("broken.desktop"), "[Desktop Entry]\nnonsense\n").expect("written");
    types(&screen, &["key", "F8"]);
    screen.wait("the list was read", |screen| {
        screen.ask("health")["entries-left-out"].as_array().is_some_and(|all| !all.is_empty())
    });
    let left_out = screen.ask("health")["entries-left-out"].to_string();
    assert!(left_out.contains("broken.desktop: line 2: neither a group nor a key with its value"), "{left_out}");
    types(&screen, &["type", "--delay", "15", "gauge lo stati"]);
    types(&screen, &["key", "Return"]);
    screen.wait("it is started", |screen| started(screen, "gauge-log").is_some());
    let said = started(&screen, "gauge-log").expect("it said something");
    assert!(said.starts_with("jovrik-") && said.ends_with(" from gauge-log\n"), "{said}");
    let [_, process, session, ..] = said.split(' ').collect::<Vec<_>>()[..] else { panic!("{said}") };
    assert_eq!(process, session, "it leads a session of its own");
    // What a program says is kept, and so is what was chosen.
    let state = screen.desk.home().join(".local/state/jovrik");
    screen.wait("its words are kept", |_| std::fs::read_to_string(state.join("programs/sh.log")).is_ok_and(|log| log == said));
    let uses = std::fs::read_to_string(state.join("launcher.json")).expect("it is remembered");
    assert!(uses.starts_with("{\"apps/gauge-log.desktop\":[1.0,"), "{uses}");
    // One that is written while the list is open can be chosen.
    types(&screen, &["key", "F8"]);
    entry(&screen, "creek-map", "Creek map of station", "");
    screen.wait("the new one is there", |screen| {
        types(screen, &["type", "--delay", "15", "creek map of"]);
        types(screen, &["key", "Return"]);
        let there = started(screen, "creek-map").is_some();
        if !there {
            types(screen, &["key", "shift+BackSpace"]);
        }
        there
    });
    types(&screen, &["key", "Escape"]);
}

fn offers(screen: &Screen, lines: &str, more: &[&str]) -> Child {
    let mut arguments = vec!["launcher", "--from-stdin"];
    arguments.extend(more);
    let mut command = screen.desk.command(&screen.desk.rice(), &arguments);
    command.env("DISPLAY", &screen.name).stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
    let mut child = command.spawn().expect("it runs");
    child.stdin.take().expect("a pipe").write_all(lines.as_bytes()).expect("it reads");
    child
}

/// What came of an offer, once the keys were pressed.
fn chosen(screen: &mut Screen, lines: &str, more: &[&str], keys: &[&str]) -> (i32, String, String) {
    let child = offers(screen, lines, more);
    if !keys.is_empty() {
        screen.wait("it is open", |screen| screen.ask("health")["keys-go-to"] == "launcher");
    }
    keys.iter().for_each(|key| types(screen, &["key", key]));
    let output = child.wait_with_output().expect("it ended");
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).expect("text");
    (output.status.code().unwrap_or(-1), text(output.stdout), text(output.stderr))
}

#[test]
fn lines_of_standard_input_are_offered_and_what_is_chosen_is_printed() {
    let mut screen = screen();
    let lines = "ebb\nslack water\nflood\n";
    let none = String::new();
    assert_eq!(chosen(&mut screen, lines, &[], &["Down", "Return"]), (0, "slack water\n".to_owned(), none.clone()));
    assert_eq!(chosen(&mut screen, lines, &["--index"], &["End", "Return"]), (0, "2\n".to_owned(), none.clone()));
    assert_eq!(
        chosen(&mut screen, lines, &["--prompt", "which", "--multi"], &["ctrl+space", "ctrl+space", "Return"]).1,
        "ebb\nslack water\n"
    );
    assert_eq!(chosen(&mut screen, lines, &["--json"], &["Return"]).1, "{\"line\":0,\"text\":\"ebb\"}\n");
    assert_eq!(chosen(&mut screen, lines, &[], &["Escape"]), (1, none.clone(), none.clone()));
    let many: String = (0..20_000).map(|nth| format!("gauge {nth}\n")).collect();
    assert_eq!(chosen(&mut screen, &many, &[], &["End", "Return"]).1, "gauge 19999\n");
    let (code, _, why) = chosen(&mut screen, "", &[], &[]);
    assert_eq!((code, why.as_str()), (1, "error  standard input has no lines to choose from\n"));
    // Whoever goes away takes the offer along.
    let mut gone = offers(&screen, lines, &[]);
    screen.wait("it is open", |screen| screen.ask("health")["keys-go-to"] == "launcher");
    gone.kill().expect("it runs");
    gone.wait().expect("it is gone");
    screen.wait("it is closed", |screen| screen.ask("health")["keys-go-to"].is_null());
    screen.run(&["launcher", "nothing"]).failed(1);
    let missing = screen.run(&["tell", "backdrop", "art/none.png"]);
    assert_eq!((missing.code, missing.err.as_str()), (1, "error  art/none.png: it cannot be read: it does not exist\n"));
    screen.run(&["launcher", "places"]).clean();
    types(&screen, &["key", "Return"]);
    screen.wait("its line was done", |screen| screen.workspace() == "two");
}

#[test]
fn a_character_is_typed_into_the_window_that_has_the_focus() {
    let mut screen = screen();
    let written = screen.desk.path().join("written");
    let mut xterm = Command::new("xterm");
    xterm.args(["-u8", "-e", "sh", "-c", &format!("cat > '{}'", written.display())]);
    xterm.env("DISPLAY", &screen.name).env("LC_ALL", "C.UTF-8").stderr(Stdio::null());
    let _xterm = crate::live::Program(xterm.spawn().expect("xterm: cargo xtask test installs it"));
    screen.wait("the terminal is there", |screen| screen.count() == 1);
    for name in ["latin small letter z", "greek small letter omega", "rightwards arrow from"] {
        screen.tell("launcher characters");
        types(&screen, &["type", "--delay", "15", name]);
        types(&screen, &["key", "Return"]);
        screen.wait("it is chosen", |screen| screen.ask("health")["keys-go-to"].is_null());
    }
    screen.wait("all was typed", |screen| {
        types(screen, &["key", "Return"]);
        std::thread::sleep(std::time::Duration::from_millis(100));
        std::fs::read_to_string(&written).is_ok_and(|text| text.contains('\u{21a6}'))
    });
    let text = std::fs::read_to_string(&written).expect("it is there");
    assert_eq!(text.trim(), "z\u{3c9}\u{21a6}", "{text:?}");
}

#[test]
fn dead_keys_and_the_compose_key_type_what_they_make() {
    let mut server = Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    let rice = format!("{RICE}[keyboard]\nlayouts = [\"us\"]\noptions = [\"compose:ralt\"]\n");
    let mut screen = Screen::on(server, &rice);
    screen.start(&[]);
    let lines = "12 oo\n12 °\n12 ß\n";
    assert_eq!(chosen(&mut screen, lines, &[], &["Multi_key", "o", "o", "Return"]).1, "12 °\n");
    assert_eq!(chosen(&mut screen, lines, &[], &["Multi_key", "s", "s", "Return"]).1, "12 ß\n");
}

#[test]
fn pictures_are_shown_small_and_kept_small_for_every_program() {
    let rice = RICE.replace("[\"apps\", \"windows\"]", "[\"pictures\"]\ncolumns = 3\npictures = \"art\"");
    let mut server = Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    let mut screen = Screen::on(server, &rice);
    let art = screen.desk.rice().join("art");
    std::fs::create_dir_all(&art).expect("made");
    let colour = image::Rgb([200, 30, 90]);
    image::RgbImage::from_pixel(1600, 1000, colour).save(art.join("mud flat.png")).expect("written");
    std::fs::write(art.join("broken.png"), "no picture").expect("written");
    screen.start(&[]);
    types(&screen, &["key", "F8"]);
    let seen = |screen: &Screen| (300..700).step_by(20).any(|x| (100..400).step_by(20).any(|y| screen.pixel(x, y) == colour.0));
    screen.wait("the picture is there", |screen| seen(screen));
    let folder = screen.desk.home().join(".cache/thumbnails/x-large");
    let kept: Vec<_> = std::fs::read_dir(&folder).expect("a folder").map(|entry| entry.expect("an entry").path()).collect();
    let [kept] = &kept[..] else { panic!("{kept:?}") };
    let bytes = std::fs::read(kept).expect("it is read");
    let text = String::from_utf8_lossy(&bytes);
    assert!(text.contains("Thumb::URI\0file://") && text.contains("mud%20flat.png"), "it says of what it is");
    let small = image::open(kept).expect("a picture");
    assert_eq!((small.width(), small.height()), (512, 320));
    types(&screen, &["key", "Escape"]);
}

#[test]
fn a_text_that_another_program_gives_piece_by_piece_is_pasted_as_one() {
    let mut screen = screen();
    let own = screen.x.generate_id().expect("a number");
    let look = CreateWindowAux::new();
    screen.x.create_window(0, own, screen.root, 0, 0, 1, 1, 0, WindowClass::INPUT_OUTPUT, 0, &look).expect("made");
    let named = |name: &str| screen.x.intern_atom(false, name.as_bytes()).expect("asked").reply().expect("a number").atom;
    let [clipboard, incr, text] = ["CLIPBOARD", "INCR", "UTF8_STRING"].map(named);
    screen.x.set_selection_owner(own, clipboard, x11rb::CURRENT_TIME).expect("asked");
    screen.x.sync().expect("sent");
    screen.tell("launcher places");
    types(&screen, &["key", "ctrl+v"]);
    let mut pieces = ["Sec", "o", "nd", ""].into_iter();
    let mut given = None;
    screen.wait("all of it was taken", |screen| {
        while let Some(event) = screen.x.poll_for_event().expect("it answers") {
            match event {
                Event::SelectionRequest(asked) => {
                    let (to, property) = (asked.requestor, asked.property);
                    let hears = ChangeWindowAttributesAux::new().event_mask(EventMask::PROPERTY_CHANGE);
                    screen.x.change_window_attributes(to, &hears).expect("asked");
                    screen.x.change_property32(PropMode::REPLACE, to, property, incr, &[6]).expect("asked");
                    let answer = SelectionNotifyEvent {
                        response_type: SELECTION_NOTIFY_EVENT,
                        sequence: 0,
                        time: asked.time,
                        requestor: to,
                        selection: asked.selection,
                        target: asked.target,
                        property,
                    };
                    screen.x.send_event(false, to, EventMask::NO_EVENT, answer).expect("asked");
                    given = Some((to, property));
                }
                // It was read: the next one, at last one of nothing.
                Event::PropertyNotify(event) if given == Some((event.window, event.atom)) && event.state == Property::DELETE => {
                    if let Some(piece) = pieces.next() {
                        let (to, property) = (event.window, event.atom);
                        screen.x.change_property8(PropMode::REPLACE, to, property, text, piece.as_bytes()).expect("asked");
                    }
                }
                _ => {}
            }
        }
        screen.x.flush().expect("sent");
        pieces.len() == 0
    });
    types(&screen, &["key", "Return"]);
    screen.wait("what it names is done", |screen| screen.ask("workspaces")[1]["shown"] == true);
}
