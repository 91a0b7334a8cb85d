//! What only a real server can show of windows: they lie in ours, over each other, are cut, dragged, and asked for by messages.

use x11rb::connection::Connection;
use x11rb::protocol::xproto::{
    AtomEnum, ClientMessageEvent, ConfigureWindowAux, ConnectionExt, CreateWindowAux, EventMask, ImageFormat, MapState, PropMode,
    Property, Window, WindowClass,
};
use x11rb::protocol::xtest::ConnectionExt as _;
use x11rb::wrapper::ConnectionExt as _;

use crate::live::Screen;

const RICE: &str = "[space]\nbetween = 10\nedge = 20\nalone = 20\n[frame]\nwidth = 4\nradius = 0\nactive = \"#ff0000\"\nidle = \"#0000ff\"\n\
[backdrop]\nfill = \"#102030\"\n[workspaces]\norder = [\"charts\", \"logs\"]\nlayouts = [\"main\", \"tabs\", \"ribbon\"]\n[bar.top]\nthick = 30\n\
[palette]\nuse = \"ebb\"\n[palette.ebb]\naccent = \"#00ff00\"\n[palette.noon]\naccent = \"#ffff00\"\n[rule.quiet]\nmatch = { app = \"Quiet\" }\nset = { focus = false }\n";

pub fn screen() -> Screen {
    let mut server = std::process::Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    let mut screen = Screen::on(server, RICE);
    screen.start(&[]);
    screen
}

pub fn atom(screen: &Screen, name: &str) -> u32 {
    screen.x.intern_atom(false, name.as_bytes()).expect("asked").reply().expect("an atom").atom
}

/// A window of one colour, which is mapped after something was said of it.
pub fn window(screen: &mut Screen, colour: u32, say: impl FnOnce(&Screen, Window)) -> Window {
    let (window, before) = (screen.x.generate_id().expect("a number"), screen.count());
    let look = CreateWindowAux::new().background_pixel(colour).event_mask(EventMask::STRUCTURE_NOTIFY);
    let class = WindowClass::INPUT_OUTPUT;
    screen.x.create_window(0, window, screen.root, 0, 0, 300, 200, 0, class, 0, &look).expect("made");
    say(screen, window);
    screen.x.map_window(window).expect("mapped");
    screen.x.sync().expect("sent");
    screen.wait("it is managed", |screen| screen.count() == before + 1);
    window
}

pub fn dialog(screen: &Screen, window: Window) {
    let (kind, dialog) = (atom(screen, "_NET_WM_WINDOW_TYPE"), atom(screen, "_NET_WM_WINDOW_TYPE_DIALOG"));
    screen.x.change_property32(PropMode::REPLACE, window, kind, AtomEnum::ATOM, &[dialog]).expect("set");
}

/// Sends a message of a program to the root window.
pub fn message(screen: &Screen, window: Window, kind: &str, data: [u32; 5]) {
    let event = ClientMessageEvent::new(32, window, atom(screen, kind), data);
    let to = EventMask::SUBSTRUCTURE_REDIRECT | EventMask::SUBSTRUCTURE_NOTIFY;
    screen.x.send_event(false, screen.root, to, event).expect("sent");
    screen.x.sync().expect("sent");
}

pub fn numbers(screen: &Screen, window: Window, property: &str) -> Vec<u32> {
    let asked = screen.x.get_property(false, window, atom(screen, property), AtomEnum::ANY, 0, 99).expect("asked");
    asked.reply().expect("it is there").value32().map(Iterator::collect).unwrap_or_default()
}

pub fn button(screen: &Screen, down: bool, button: u8) {
    screen.x.xtest_fake_input(if down { 4 } else { 5 }, button, 0, screen.root, 0, 0, 0).expect("sent");
    screen.x.sync().expect("sent");
}

pub fn point(screen: &Screen, x: i16, y: i16) {
    screen.x.xtest_fake_input(6, 0, 0, screen.root, x, y, 0).expect("moved");
    screen.x.sync().expect("sent");
}

#[test]
fn a_dialog_lies_over_tiles_in_a_frame_of_its_own_and_is_dragged() {
    let mut screen = screen();
    let tile = window(&mut screen, 0x808080, |_, _| {});
    let own = window(&mut screen, 0xffffff, dialog);
    assert_eq!(screen.areas(), ["952x722+24+54", "300x200+350+315"]);
    assert_eq!((screen.pixel(348, 400), screen.pixel(340, 400)), ([255, 0, 0], [128, 128, 128]), "its frame lies over the tile");
    assert_eq!(screen.pixel(22, 400), [0, 0, 255], "the tile has lost the focus");
    assert_eq!(numbers(&screen, own, "_NET_FRAME_EXTENTS"), [4, 4, 4, 4]);
    // Super and the first button drag it; its program hears where it is.
    let lead = screen.code(0xffeb);
    point(&screen, 500, 400);
    screen.x.xtest_fake_input(2, lead, 0, screen.root, 0, 0, 0).expect("held");
    button(&screen, true, 1);
    point(&screen, 520, 450);
    screen.wait("it went along", |screen| screen.areas()[1] == "300x200+370+365");
    button(&screen, false, 1);
    // The lower right corner goes out.
    point(&screen, 660, 560);
    button(&screen, true, 3);
    point(&screen, 690, 580);
    screen.wait("it grew", |screen| screen.areas()[1] == "330x220+370+365");
    button(&screen, false, 3);
    screen.x.xtest_fake_input(3, lead, 0, screen.root, 0, 0, 0).expect("let go");
    screen.wait("what was below it is seen again", |screen| screen.pixel(360, 330) == [128, 128, 128]);
    // Who floats may ask for a place, a tile may not.
    for (window, to) in [(own, (100, 150)), (tile, (5, 5))] {
        screen.x.configure_window(window, &ConfigureWindowAux::new().x(to.0).y(to.1).width(250)).expect("asked");
    }
    screen.x.sync().expect("sent");
    screen.wait("it went where it asked to be", |screen| screen.areas() == ["952x722+24+54", "250x220+104+154"]);
    // A press on the tile gives it the focus, and the dialog stays over it.
    point(&screen, 900, 700);
    button(&screen, true, 1);
    button(&screen, false, 1);
    screen.wait("the tile has the focus", |screen| screen.pixel(22, 400) == [255, 0, 0]);
    assert_eq!(screen.pixel(200, 200), [255, 255, 255]);
    assert_eq!(numbers(&screen, screen.root, "_NET_CLIENT_LIST_STACKING"), [tile, own]);
}

#[test]
fn programs_ask_by_messages_to_be_full_on_all_workspaces_or_out_of_sight() {
    let mut screen = screen();
    let _tile = window(&mut screen, 0x808080, |_, _| {});
    let own = window(&mut screen, 0xffffff, |_, _| {});
    let state = |screen: &Screen, how: u32, what: &str| {
        message(screen, own, "_NET_WM_STATE", [how, atom(screen, what), 0, 1, 0]);
    };
    let says = |screen: &Screen, what: &str| numbers(screen, own, "_NET_WM_STATE").contains(&atom(screen, what));
    state(&screen, 1, "_NET_WM_STATE_FULLSCREEN");
    screen.wait("over all of the monitor", |screen| screen.areas()[1] == "1000x800+0+0");
    assert_eq!(screen.pixel(500, 10), [255, 255, 255], "over the bar too");
    assert!(says(&screen, "_NET_WM_STATE_FULLSCREEN") && says(&screen, "_NET_WM_STATE_FOCUSED"));
    state(&screen, 2, "_NET_WM_STATE_FULLSCREEN");
    screen.wait("and back", |screen| screen.areas()[1] != "1000x800+0+0" && !says(screen, "_NET_WM_STATE_FULLSCREEN"));
    state(&screen, 1, "_NET_WM_STATE_STICKY");
    screen.wait("it says so", |screen| numbers(screen, own, "_NET_WM_DESKTOP") == [u32::MAX]);
    screen.tell("go logs");
    screen.wait("it went along", |screen| screen.pixel(500, 400) == [255, 255, 255]);
    message(&screen, own, "_NET_WM_DESKTOP", [0, 2, 0, 0, 0]);
    screen.wait("it stays on one", |screen| numbers(screen, own, "_NET_WM_DESKTOP") == [0]);
    screen.tell("go charts");
    message(&screen, own, "WM_CHANGE_STATE", [3, 0, 0, 0, 0]);
    screen.wait("out of sight", |screen| says(screen, "_NET_WM_STATE_HIDDEN"));
    assert_eq!(numbers(&screen, own, "WM_STATE").first(), Some(&3));
    let attributes = screen.x.get_window_attributes(own).expect("asked").reply().expect("it is there");
    assert_eq!(attributes.map_state, MapState::UNMAPPED, "its program knows too");
    // Mapped again by its program, it is fetched.
    screen.x.map_window(own).expect("mapped");
    screen.x.sync().expect("sent");
    screen.wait("it is seen", |screen| numbers(screen, own, "WM_STATE").first() == Some(&1));
    // Withdrawn, and mapped again.
    screen.x.unmap_window(own).expect("unmapped");
    screen.x.sync().expect("sent");
    screen.wait("it is no longer managed", |screen| screen.count() == 1);
    assert_eq!(numbers(&screen, own, "WM_STATE").first(), Some(&0));
    let tree = screen.x.query_tree(own).expect("asked").reply().expect("it is there");
    assert_eq!(tree.parent, screen.root);
    screen.x.map_window(own).expect("mapped");
    screen.x.sync().expect("sent");
    screen.wait("it is managed again", |screen| screen.count() == 2);
}

#[test]
fn tabs_are_pressed_and_a_ribbon_is_cut_at_the_edge_of_its_monitor() {
    let mut screen = screen();
    let colours = [0xaa0000, 0x00aa00, 0x0000aa];
    for (nth, colour) in colours.into_iter().enumerate() {
        window(&mut screen, colour, |screen, window| {
            let name = format!("window {nth}");
            screen
                .x
                .change_property8(PropMode::REPLACE, window, AtomEnum::WM_NAME, AtomEnum::STRING, name.as_bytes())
                .expect("set");
        });
    }
    screen.tell("layout tabs");
    screen.wait("one is seen, below the titles", |screen| screen.areas().len() == 1 && screen.pixel(500, 400) == [0, 0, 0xaa]);
    let top: i16 = screen.areas()[0].rsplit('+').next().expect("its top").parse().expect("a number");
    assert!(top > 54 + 20, "{top}");
    assert_ne!(screen.pixel(500, 60), [0, 0, 0xaa], "the strip");
    // The first title.
    point(&screen, 60, 54 + (top - 54) / 2);
    button(&screen, true, 1);
    button(&screen, false, 1);
    screen.wait("the first one is in front", |screen| screen.pixel(500, 400) == [0xaa, 0, 0]);
    screen.tell("layout ribbon");
    screen.wait("several columns", |screen| screen.areas().len() >= 2);
    screen.tell("focus right");
    // Our windows round them never reach beyond the screen, whatever theirs do.
    let tree = screen.x.query_tree(screen.root).expect("asked").reply().expect("windows");
    for own in tree.children {
        let seen = screen.x.get_window_attributes(own).expect("asked").reply().expect("it is there");
        let g = screen.x.get_geometry(own).expect("asked").reply().expect("it is there");
        // Nor does that which has the focus when no window has it, but for one pixel.
        if seen.map_state == MapState::VIEWABLE && g.width > 1 {
            assert!(g.x >= 0 && g.x + g.width as i16 <= 1000, "{}x{}+{}", g.width, g.height, g.x);
        }
    }
    let beyond = screen.areas().iter().any(|area| area.contains('-') || area.ends_with("+999"));
    assert!(beyond || screen.areas().len() >= 2, "{:?}", screen.areas());
}

#[test]
fn windows_outlive_a_desktop_that_is_killed() {
    let mut screen = screen();
    let own = window(&mut screen, 0xffffff, |_, _| {});
    screen.tell("tuck");
    screen.wait("out of sight", |screen| screen.ask("windows")[0]["tucked"] == true);
    let other = window(&mut screen, 0xffffff, dialog);
    screen.kill();
    for window in [own, other] {
        screen.wait("it is seen, and the root's again", |screen| {
            let seen = screen.x.get_window_attributes(window).expect("asked").reply().expect("it lives");
            let tree = screen.x.query_tree(window).expect("asked").reply().expect("it lives");
            seen.map_state == MapState::VIEWABLE && tree.parent == screen.root
        });
    }
    screen.start(&["--replace"]);
    screen.wait("both are taken in", |screen| screen.count() == 2);
}

#[test]
fn a_setting_holds_until_the_next_reload_and_what_reaches_out_is_refused() {
    let mut screen = screen();
    let _tile = window(&mut screen, 0x808080, |_, _| {});
    screen.tell("set frame.active '#00ffff'");
    screen.wait("it is drawn", |screen| screen.pixel(22, 400) == [0, 255, 255]);
    screen.tell("set frame.width 10");
    screen.wait("both hold", |screen| screen.pixel(28, 400) == [0, 255, 255]);
    for (action, why) in [
        ("set frame.witdh 3", "there is no setting frame.witdh"),
        ("set environment.LD_PRELOAD x", "environment.LD_PRELOAD reaches beyond the desk: it is set in the rice alone"),
        ("set frame.width wide", "frame.width"),
    ] {
        let run = screen.run(&["tell", action]);
        assert!(run.code == 1 && run.err.contains(why), "{action}: {}", run.err);
    }
    // Kept, it is written into the rice, which is reloaded; comments stay, and undo takes it back.
    screen.tell("set --keep frame.idle '#00ff00'");
    let part = screen.desk.rice().join("parts/a.toml");
    let text = || std::fs::read_to_string(&part).expect("a part");
    assert!(text().contains("idle = \"#00ff00\""), "{}", text());
    screen.wait("it is reloaded", |screen| screen.reloads("accepted") == 1);
    let run = screen.run(&["tell", "set --keep frame.width wide"]);
    assert!(run.code == 1 && run.err.contains("frame.width"), "{}", run.err);
    screen.run(&["undo"]).clean();
    assert!(text().contains("idle = \"#0000ff\""), "{}", text());
    screen.wait("it is reloaded", |screen| screen.reloads("accepted") == 2);
    screen.tell("set frame.active '#00ffff'");
    screen.tell("palette next");
    screen.wait("the other palette", |screen| screen.ask("health")["last-refusal"].as_array().is_some_and(Vec::is_empty));
    screen.tell("reload");
    screen.wait("the rice again", |screen| screen.pixel(22, 400) == [255, 0, 0] && screen.pixel(28, 400) == [128, 128, 128]);
}

#[test]
fn pictures_of_what_is_seen_are_kept_and_write_over_nothing() {
    let mut screen = screen();
    let _tile = window(&mut screen, 0x808080, |_, _| {});
    let file = screen.desk.path().join("all.png");
    let name = file.to_str().expect("a path").to_owned();
    screen.run(&["tell", &format!("screenshot {name}")]).clean();
    let picture = image::open(&file).expect("a picture").to_rgb8();
    assert_eq!((picture.width(), picture.height()), (1000, 800));
    assert_eq!((picture.get_pixel(500, 400).0, picture.get_pixel(22, 400).0), ([128; 3], [255, 0, 0]));
    let refused = screen.run(&["tell", &format!("screenshot {name}")]);
    assert!(refused.code == 1 && refused.err.contains("no picture was kept"), "{}", refused.err);
    let own = screen.desk.path().join("own.png");
    screen.run(&["tell", &format!("screenshot window {}", own.display())]).clean();
    let picture = image::open(&own).expect("a picture").to_rgb8();
    assert_eq!((picture.width(), picture.height()), (960, 730), "with its frame");
    // An area, dragged over.
    let area = screen.desk.path().join("area.png");
    screen.tell(&format!("screenshot area {}", area.display()));
    point(&screen, 10, 300);
    button(&screen, true, 1);
    point(&screen, 109, 349);
    button(&screen, false, 1);
    screen.wait("it is kept", |_| image::open(&area).is_ok());
    let picture = image::open(&area).expect("a picture").to_rgb8();
    assert_eq!((picture.width(), picture.height()), (100, 50));
    assert_eq!([0, 12, 50].map(|x| picture.get_pixel(x, 0).0), [[0x10, 0x20, 0x30], [255, 0, 0], [128; 3]]);
}

#[test]
fn a_picture_is_copied_and_pasted_by_another_program() {
    let mut screen = screen();
    let own = window(&mut screen, 0x808080, |_, _| {});
    screen.tell("screenshot window clipboard");
    let paste = |screen: &mut Screen, target: &str| {
        let (clipboard, target, property) = (atom(screen, "CLIPBOARD"), atom(screen, target), atom(screen, "PASTED"));
        screen.x.delete_property(own, property).expect("deleted");
        screen.x.convert_selection(own, clipboard, target, property, x11rb::CURRENT_TIME).expect("asked");
        screen.x.sync().expect("sent");
        let mut given = None;
        screen.wait("an answer", |screen| {
            while let Some(event) = screen.x.poll_for_event().expect("it answers") {
                if let x11rb::protocol::Event::SelectionNotify(event) = event {
                    given = Some(event.property);
                }
            }
            given.is_some()
        });
        let asked = screen.x.get_property(false, own, property, AtomEnum::ANY, 0, 1 << 22).expect("asked");
        (given != Some(x11rb::NONE)).then(|| asked.reply().expect("it is there").value)
    };
    let png = paste(&mut screen, "image/png").expect("a picture");
    let picture = image::load_from_memory(&png).expect("it is one").to_rgb8();
    assert_eq!((picture.width(), picture.get_pixel(400, 300).0), (960, [128; 3]));
    assert_eq!(paste(&mut screen, "TARGETS").map(|targets| targets.len()), Some(16));
    assert_eq!(paste(&mut screen, "UTF8_STRING"), None, "a picture is no text");
    // Somebody else copies something: it is no longer offered.
    screen.x.set_selection_owner(own, atom(&screen, "CLIPBOARD"), x11rb::CURRENT_TIME).expect("taken");
    screen.x.sync().expect("sent");
    assert_eq!(screen.ask("health")["last-refusal"], serde_json::json!([]));
}

#[test]
fn a_large_picture_is_pasted_piece_by_piece_and_several_things_at_once() {
    use x11rb::protocol::Event;
    let mut screen = screen();
    let own = window(&mut screen, 0x80_8080, |_, _| {});
    // What cannot be packed makes a large picture.
    let (gc, mut chance) = (screen.x.generate_id().expect("a number"), 1_u32);
    screen.x.create_gc(gc, own, &Default::default()).expect("asked");
    for row in 0..500 {
        let mut noise = || {
            chance = chance.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            chance.to_le_bytes()
        };
        let line: Vec<u8> = (0..900).flat_map(|_| noise()).collect();
        screen.x.put_image(ImageFormat::Z_PIXMAP, own, gc, 900, 1, 0, row, 0, 24, &line).expect("asked");
    }
    screen.x.sync().expect("sent");
    screen.tell("screenshot window clipboard");
    // Somebody whose window is not managed, and who listens to it.
    let other = screen.x.generate_id().expect("a number");
    let hears = CreateWindowAux::new().event_mask(EventMask::PROPERTY_CHANGE);
    screen.x.create_window(0, other, screen.root, 0, 0, 1, 1, 0, WindowClass::INPUT_OUTPUT, 0, &hears).expect("made");
    let [clipboard, png, property, incr] = ["CLIPBOARD", "image/png", "PASTED", "INCR"].map(|name| atom(&screen, name));
    let (mut whole, mut pieces, mut ended) = (Vec::new(), 0, false);
    screen.x.convert_selection(other, clipboard, png, property, x11rb::CURRENT_TIME).expect("asked");
    screen.x.sync().expect("sent");
    screen.wait("all of it", |screen| {
        while let Some(event) = screen.x.poll_for_event().expect("it answers") {
            let comes = match event {
                Event::SelectionNotify(event) => event.requestor == other,
                Event::PropertyNotify(event) => (event.window, event.atom, event.state) == (other, property, Property::NEW_VALUE),
                _ => false,
            };
            if comes {
                // Deleting it asks for the next piece.
                let asked = screen.x.get_property(true, other, property, AtomEnum::ANY, 0, 1 << 22).expect("asked");
                let piece = asked.reply().expect("it is there");
                if piece.type_ == incr || piece.type_ == x11rb::NONE {
                    continue;
                }
                ended |= piece.value.is_empty();
                pieces += 1;
                whole.extend(piece.value);
            }
        }
        ended
    });
    let picture = image::load_from_memory(&whole).expect("it is one").to_rgb8();
    assert!(
        pieces > 4 && (picture.width(), picture.height()) == (960, 730),
        "{pieces} of {} x {}",
        picture.width(),
        picture.height()
    );
    // Several things at once; of what there is not the property is none.
    let [multiple, pair, stamp, text] = ["MULTIPLE", "ATOM_PAIR", "TIMESTAMP", "UTF8_STRING"].map(|name| atom(&screen, name));
    let [first, second] = ["FIRST", "SECOND"].map(|name| atom(&screen, name));
    let pairs = [stamp, first, text, second];
    screen.x.change_property32(PropMode::REPLACE, other, property, pair, &pairs).expect("set");
    screen.x.convert_selection(other, clipboard, multiple, property, x11rb::CURRENT_TIME).expect("asked");
    screen.x.sync().expect("sent");
    let numbers = |screen: &Screen, of: u32| -> Vec<u32> {
        let reply = screen.x.get_property(false, other, of, AtomEnum::ANY, 0, 64).expect("asked").reply().expect("it is there");
        reply.value32().map(Iterator::collect).unwrap_or_default()
    };
    screen.wait("the answer", |screen| numbers(screen, property) == [stamp, first, text, x11rb::NONE]);
    assert_eq!(numbers(&screen, first).len(), 1, "when it was copied");
}

#[test]
fn rules_are_tried_on_the_window_that_is_clicked() {
    let mut screen = screen();
    let _tile = window(&mut screen, 0x808080, |screen, window| {
        screen
            .x
            .change_property8(PropMode::REPLACE, window, AtomEnum::WM_CLASS, AtomEnum::STRING, b"quiet\0Quiet\0")
            .expect("set");
    });
    let mut command = screen.desk.command(&screen.desk.rice(), &["rules", "try", "--pick"]);
    let waiting = command.env("DISPLAY", &screen.name).stdout(std::process::Stdio::piped()).spawn().expect("it runs");
    // It holds the pointer once it waits.
    screen.wait("it waits for a click", |screen| {
        let (free, none) = (x11rb::protocol::xproto::GrabMode::ASYNC, x11rb::NONE);
        let mask = EventMask::BUTTON_PRESS;
        let asked = screen.x.grab_pointer(false, screen.root, mask, free, free, none, none, x11rb::CURRENT_TIME).expect("asked");
        let taken = asked.reply().expect("an answer").status != x11rb::protocol::xproto::GrabStatus::SUCCESS;
        screen.x.ungrab_pointer(x11rb::CURRENT_TIME).expect("let go");
        screen.x.sync().expect("sent");
        taken
    });
    point(&screen, 500, 400);
    button(&screen, true, 1);
    button(&screen, false, 1);
    let told = waiting.wait_with_output().expect("it ends");
    let told = String::from_utf8(told.stdout).expect("UTF-8");
    for said in [
        "app        Quiet",
        "match = { app = \"Quiet\" }",
        "quiet  matches  app Quiet  focus false",
        "focus  false  rule.quiet  parts/a.toml:",
    ] {
        assert!(told.contains(said), "{said}: {told}");
    }
}

/// A client that asks at once for whatever comes next, and tells the desktop so over its socket.
fn teller(screen: &Screen) -> impl FnMut(&str) + use<> {
    let name = jovrik_live::socket_path(&screen.desk.path().join("run"), &screen.name);
    let socket = std::os::unix::net::UnixStream::connect(name).expect("it listens");
    let mut lines = std::io::BufReader::new(socket.try_clone().expect("a socket"));
    move |action: &str| {
        use std::io::{BufRead, Write};
        writeln!(&socket, "{}", serde_json::json!({ "tell": action })).expect("sent");
        lines.read_line(&mut String::new()).expect("answered");
    }
}

#[test]
fn what_withdraws_and_maps_again_at_once_is_never_lost() {
    let mut screen = screen();
    let rounds = std::env::var("JOVRIK_ROUNDS").ok().and_then(|rounds| rounds.parse().ok()).unwrap_or(300);
    let all: Vec<Window> = (0..3).map(|_| window(&mut screen, 0x808080, |_, _| {})).collect();
    let mut tell = teller(&screen);
    let told = |screen: &Screen, window: Window| {
        let gone = x11rb::protocol::xproto::UnmapNotifyEvent {
            response_type: x11rb::protocol::xproto::UNMAP_NOTIFY_EVENT,
            sequence: 0,
            event: screen.root,
            window,
            from_configure: false,
        };
        let to = EventMask::SUBSTRUCTURE_REDIRECT | EventMask::SUBSTRUCTURE_NOTIFY;
        screen.x.send_event(false, screen.root, to, gone).expect("sent");
    };
    for round in 0..rounds {
        let window = all[round % 3];
        // As `XWithdrawWindow` does, and at once as `XMapWindow`.
        screen.x.unmap_window(window).expect("sent");
        if round % 2 == 0 {
            told(&screen, window);
        }
        if round % 5 < 2 {
            screen.x.flush().expect("sent");
        }
        tell(["go next", "send next", "focus next", "go prev"][round % 4]);
        screen.x.map_window(window).expect("sent");
        screen.x.sync().expect("sent");
        tell(["go next", "carry next", "go charts"][round % 3]);
    }
    screen.wait("all are managed", |screen| screen.count() == 3);
    for workspace in ["charts", "logs"] {
        tell(&format!("go {workspace}"));
        for window in &all {
            let attributes = screen.x.get_window_attributes(*window).expect("asked").reply().expect("it is there");
            let parent = screen.x.query_tree(*window).expect("asked").reply().expect("it is there").parent;
            assert_ne!(parent, screen.root, "it is in one of ours");
            let seen = attributes.map_state == MapState::VIEWABLE;
            assert_eq!(seen, numbers(&screen, *window, "WM_STATE").first() == Some(&1), "{window:x} on {workspace}");
        }
    }
}

#[test]
fn whatever_is_done_in_a_long_day_loses_no_window() {
    const ACTIONS: &[&str] = &[
        "go charts",
        "go logs",
        "go next",
        "go back",
        "send next",
        "carry next",
        "send logs",
        "focus next",
        "focus left",
        "focus last",
        "main swap",
        "move right",
        "move left",
        "grow right 40",
        "shrink down 30",
        "layout next",
        "layout main",
        "layout tabs",
        "layout ribbon",
        "float toggle",
        "full toggle",
        "peg toggle",
        "tuck",
        "untuck",
        "main grow",
        "main shrink",
        "bar toggle top",
    ];
    let mut screen = screen();
    let steps: usize = std::env::var("JOVRIK_STEPS").ok().and_then(|steps| steps.parse().ok()).unwrap_or(500);
    let mut tell = teller(&screen);
    let mut all: Vec<Window> = (0..4).map(|_| window(&mut screen, 0x808080, |_, _| {})).collect();
    let mut seed = 0x2545_f491_u32;
    let mut next = |most: usize| {
        // xorshift (Marsaglia 2003).
        seed ^= seed << 13;
        seed ^= seed >> 17;
        seed ^= seed << 5;
        seed as usize % most
    };
    for step in 1..=steps {
        let one = all[next(all.len())];
        match next(12) {
            0 => {
                screen.x.unmap_window(one).expect("sent");
                screen.x.map_window(one).expect("sent");
            }
            1 if all.len() > 2 => {
                screen.x.destroy_window(one).expect("sent");
                all.retain(|window| *window != one);
            }
            2 if all.len() < 9 => {
                let window = screen.x.generate_id().expect("a number");
                let (look, class) = (CreateWindowAux::new().background_pixel(0x909090), WindowClass::INPUT_OUTPUT);
                screen.x.create_window(0, window, screen.root, 9, 9, 200, 150, 0, class, 0, &look).expect("made");
                if next(3) == 0 {
                    dialog(&screen, window);
                }
                screen.x.map_window(window).expect("sent");
                all.push(window);
            }
            3 => {
                let size = ConfigureWindowAux::new().x(next(900) as i32).width(next(1200) as u32 + 1);
                screen.x.configure_window(one, &size).expect("sent");
            }
            4 => message(&screen, one, "_NET_ACTIVE_WINDOW", [2, 0, 0, 0, 0]),
            5 => {
                let full = atom(&screen, "_NET_WM_STATE_FULLSCREEN");
                message(&screen, one, "_NET_WM_STATE", [2, full, 0, 1, 0]);
            }
            _ => tell(ACTIONS[next(ACTIONS.len())]),
        }
        if step % 100 != 0 && step != steps {
            continue;
        }
        screen.x.sync().expect("sent");
        let mut known = all.clone();
        known.sort_unstable();
        screen.wait("all are managed, and nothing else", |screen| {
            let mut listed = numbers(screen, screen.root, "_NET_CLIENT_LIST");
            listed.sort_unstable();
            listed == known
        });
        for window in &all {
            screen.wait("it is seen where it says so, in one of ours", |screen| {
                let attributes = screen.x.get_window_attributes(*window).expect("asked").reply().expect("it is there");
                let parent = screen.x.query_tree(*window).expect("asked").reply().expect("it is there").parent;
                let seen = attributes.map_state == MapState::VIEWABLE;
                parent != screen.root && seen == (numbers(screen, *window, "WM_STATE").first() == Some(&1))
            });
        }
    }
}

#[test]
fn behind_what_has_holes_is_what_lies_there_now() {
    use x11rb::protocol::shape::{ConnectionExt as _, SK, SO};
    let mut screen = screen();
    let holed = window(&mut screen, 0x808080, |screen, window| {
        let part = x11rb::protocol::xproto::Rectangle { x: 60, y: 60, width: 50, height: 50 };
        let order = x11rb::protocol::xproto::ClipOrdering::UNSORTED;
        screen.x.shape_rectangles(SO::SET, SK::BOUNDING, order, window, 0, 0, &[part]).expect("cut");
    });
    let _other = window(&mut screen, 0xffffff, |_, _| {});
    // What is seen through it is never what was there before, wherever it goes.
    let behind = |screen: &Screen| {
        let windows = screen.ask("windows");
        let place = windows[0]["area"].as_str().expect("a place").replace('x', "+");
        let [w, h, x, y]: [u16; 4] =
            place.split('+').map(|n| n.parse().expect("a number")).collect::<Vec<_>>().try_into().expect("a place");
        let image = screen.x.get_image(ImageFormat::Z_PIXMAP, screen.root, x as i16, y as i16, w, h, u32::MAX);
        let image = image.expect("asked").reply().expect("pixels");
        let own = |at: usize| (60..110).contains(&(at % usize::from(w))) && (60..110).contains(&(at / usize::from(w)));
        let pixels = image.data.as_chunks::<4>().0.iter().enumerate();
        // One colour: that of the paper inside its frame.
        pixels.filter(|(at, pixel)| !own(*at) && pixel[..3] != image.data[..3]).count()
    };
    assert_eq!(behind(&screen), 0);
    for action in [
        "main swap",
        "layout ribbon",
        "focus prev",
        "column wider",
        "move left",
        "bar toggle",
        "layout main",
        "go logs",
        "go charts",
    ] {
        screen.tell(action);
        screen.wait(&format!("nothing stays after {action}"), |screen| screen.areas().is_empty() || behind(screen) == 0);
    }
    // What has a form of its own keeps it while it floats in a round frame, and when the desktop goes.
    screen.save(&RICE.replace("radius = 0", "radius = 12"));
    screen.tell("focus prev");
    screen.tell("float on");
    screen.tell("float off");
    let shape = screen.x.shape_query_extents(holed).expect("asked").reply().expect("a form");
    assert_eq!((shape.bounding_shaped, shape.bounding_shape_extents_width), (true, 50));
    screen.tell("quit");
    let own = |screen: &Screen| screen.x.query_tree(holed).expect("asked").reply().expect("there").parent == screen.root;
    screen.wait("it is given back", |screen| own(screen));
    assert_eq!(screen.x.shape_query_extents(holed).expect("asked").reply().expect("a form").bounding_shape_extents_width, 50);
}

#[test]
fn what_can_be_seen_through_lies_in_what_can_be_too() {
    let mut screen = screen();
    let setup = screen.x.setup().roots[0].clone();
    let deep = setup.allowed_depths.iter().find(|depth| depth.depth == 32).expect("a depth of 32");
    let visual = deep.visuals[0].visual_id;
    let (colours, own) = (screen.x.generate_id().expect("a number"), screen.x.generate_id().expect("a number"));
    let none = x11rb::protocol::xproto::ColormapAlloc::NONE;
    screen.x.create_colormap(none, colours, screen.root, visual).expect("made");
    let look = CreateWindowAux::new().background_pixel(0x8000_ff00).border_pixel(0).colormap(colours);
    screen.x.create_window(32, own, screen.root, 0, 0, 300, 200, 0, WindowClass::INPUT_OUTPUT, visual, &look).expect("made");
    screen.x.map_window(own).expect("mapped");
    screen.x.sync().expect("sent");
    screen.wait("it is managed", |screen| screen.count() == 1);
    for action in ["float on", "float off"] {
        screen.tell(action);
        let held = screen.x.query_tree(own).expect("asked").reply().expect("there").parent;
        let geometry = screen.x.get_geometry(held).expect("asked").reply().expect("there");
        let attributes = screen.x.get_window_attributes(held).expect("asked").reply().expect("there");
        assert_eq!((geometry.depth, attributes.visual, attributes.colormap), (32, visual, colours));
        let place = screen.ask("windows")[0]["area"].as_str().expect("a place").replace('x', "+");
        let place: Vec<i16> = place.split('+').map(|n| n.parse().expect("a number")).collect();
        screen.wait("it is seen in its frame", |screen| {
            (screen.pixel(place[2] + 20, place[3] + 20), screen.pixel(place[2] - 2, place[3] + 20)) == ([0, 255, 0], [255, 0, 0])
        });
    }
    // Its opacity is kept for whoever composes: the frame is opaque.
    screen.tell("float on");
    screen.wait("it floats", |screen| screen.ask("windows")[0]["floating"] == true);
    let held = screen.x.query_tree(own).expect("asked").reply().expect("there").parent;
    let image = screen.x.get_image(ImageFormat::Z_PIXMAP, held, 1, 20, 1, 1, u32::MAX).expect("asked").reply().expect("a pixel");
    assert_eq!(image.data[3], 0xff, "{:?}", image.data);
}

#[test]
fn a_tile_that_needs_more_than_there_is_is_cut_at_its_edge() {
    let mut screen = screen();
    let hints = u32::from(AtomEnum::WM_NORMAL_HINTS);
    let wide = window(&mut screen, 0x808080, |screen, window| {
        // PMinSize: 1800 by 900.
        let mut sizes = [0_u32; 18];
        (sizes[0], sizes[5], sizes[6]) = (1 << 4, 1800, 900);
        screen.x.change_property32(PropMode::REPLACE, window, hints, AtomEnum::WM_SIZE_HINTS, &sizes).expect("set");
    });
    let _other = window(&mut screen, 0xffffff, |_, _| {});
    let windows = screen.ask("windows");
    assert_eq!((&windows[0]["too-small"], &windows[1]["too-small"]), (&true.into(), &false.into()));
    let geometry = screen.x.get_geometry(wide).expect("asked").reply().expect("there");
    assert_eq!((geometry.width, geometry.height), (1800, 900), "it is as large as it needs, and cut");
    let other = windows[1]["area"].as_str().expect("a place");
    assert!(other.starts_with("232x"), "the other one has what is of use: {other}");
    assert_eq!(screen.pixel(770, 400), [255, 255, 255], "and is not covered");
    // What is full is the monitor exactly, whatever it needs.
    screen.tell("focus left");
    screen.tell("full on");
    let size = |screen: &Screen| {
        let geometry = screen.x.get_geometry(wide).expect("asked").reply().expect("there");
        (geometry.width, geometry.height)
    };
    screen.wait("it is as large as its monitor", |screen| size(screen) == (1000, 800));
}

#[test]
fn a_window_shows_its_own_icon_where_nothing_else_knows_one() {
    let rice = format!("{RICE}[module.app]\nsource = \"title\"\ntext = \"x\"\nicon = \"app\"\n")
        .replace("thick = 30\n", "thick = 30\nstart = [\"app\"]\n");
    let mut server = std::process::Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    let mut screen = Screen::on(server, &rice);
    screen.start(&[]);
    let icon = |side: u32, colour: u32| [vec![side, side], vec![colour; (side * side) as usize]].concat();
    let says = |screen: &Screen, window: Window, numbers: &[u32]| {
        let name = atom(screen, "_NET_WM_ICON");
        screen.x.change_property32(PropMode::REPLACE, window, name, AtomEnum::CARDINAL, numbers).expect("set");
        screen.x.change_property8(PropMode::REPLACE, window, AtomEnum::WM_CLASS, AtomEnum::STRING, b"own\0Own\0").expect("set");
    };
    let own = window(&mut screen, 0x808080, |screen, window| {
        says(screen, window, &[icon(8, 0xff00_0000), icon(64, 0xffee_00ee)].concat())
    });
    let shows = |screen: &Screen, pixel: [u8; 3]| (0..60).any(|x| (0..30).any(|y| screen.pixel(x, y) == pixel));
    screen.wait("its icon stands in the bar", |screen| shows(screen, [0xee, 0, 0xee]));
    says(&screen, own, &icon(64, 0xff00_eeee));
    screen.x.sync().expect("sent");
    screen.wait("another one", |screen| shows(screen, [0, 0xee, 0xee]));
    // Nonsense is none, and so is one that is cut: what was there stays.
    let side = (jovrik_text::limits::WINDOW_ICON_BYTES as f64 / 4.0).sqrt() as u32 + 1;
    for numbers in [vec![u32::MAX, u32::MAX, 1], icon(side, 0xff00_ff00)] {
        says(&screen, own, &numbers);
        screen.x.sync().expect("sent");
        assert_eq!(screen.count(), 1);
        assert!(shows(&screen, [0, 0xee, 0xee]));
    }
    says(&screen, own, &icon(side - 2, 0xffee_0000));
    screen.x.sync().expect("sent");
    screen.wait("one that just fits", |screen| shows(screen, [0xee, 0, 0]));
}
