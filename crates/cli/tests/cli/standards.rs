//! What `docs/standards.md` says of ICCCM and EWMH, tried by clients of every kind.

use x11rb::connection::Connection;
use x11rb::protocol::Event;
use x11rb::protocol::sync::{ConnectionExt as _, Int64};
use x11rb::protocol::xproto::{
    Atom, AtomEnum, BackingStore, ChangeWindowAttributesAux, ClientMessageEvent, ConfigureWindowAux, ConnectionExt,
    CreateWindowAux, EventMask, Gravity, ImageFormat, PropMode, StackMode, Window, WindowClass,
};
use x11rb::wrapper::ConnectionExt as _;

use crate::bars::named;
use crate::live::Screen;
use crate::windows::{atom, button, dialog, message, numbers, point, screen, window};

fn says(screen: &Screen, window: Window, property: &str, kind: AtomEnum, values: &[u32]) {
    screen.x.change_property32(PropMode::REPLACE, window, atom(screen, property), kind, values).expect("set");
    screen.x.sync().expect("sent");
}

fn is_of_type(screen: &Screen, window: Window, kind: &str) {
    let kind = atom(screen, &format!("_NET_WM_WINDOW_TYPE_{kind}"));
    says(screen, window, "_NET_WM_WINDOW_TYPE", AtomEnum::ATOM, &[kind]);
}

fn has(screen: &Screen, window: Window, state: &str) -> bool {
    numbers(screen, window, "_NET_WM_STATE").contains(&atom(screen, &format!("_NET_WM_STATE_{state}")))
}

/// Where the contents of a window are on the screen.
fn place(screen: &Screen, window: Window) -> (i16, i16, u16, u16) {
    let size = screen.x.get_geometry(window).expect("asked").reply().expect("it is there");
    let at = screen.x.translate_coordinates(window, screen.root, 0, 0).expect("asked").reply().expect("it is there");
    (at.dst_x, at.dst_y, size.width, size.height)
}

/// What comes next of the events that are looked for.
fn event<T>(screen: &mut Screen, what: &str, mut wanted: impl FnMut(&Event) -> Option<T>) -> T {
    let mut found = None;
    screen.wait(what, |screen| {
        while let (None, Some(event)) = (&found, screen.x.poll_for_event().expect("it answers")) {
            found = wanted(&event);
        }
        found.is_some()
    });
    found.expect("it came")
}

fn protocol(screen: &mut Screen, name: &str) -> [u32; 5] {
    let (protocols, name) = (atom(screen, "WM_PROTOCOLS"), atom(screen, name));
    event(screen, "a message", |event| match event {
        Event::ClientMessage(event) if event.type_ == protocols && event.data.as_data32()[0] == name => {
            Some(event.data.as_data32())
        }
        _ => None,
    })
}

#[test]
fn the_managers_selection_is_announced_and_answers() {
    let mut screen = Screen::new(true);
    let listen = ChangeWindowAttributesAux::new().event_mask(EventMask::STRUCTURE_NOTIFY);
    screen.x.change_window_attributes(screen.root, &listen).expect("heard");
    screen.x.sync().expect("sent");
    screen.start(&[]);
    let (manager, selection) = (atom(&screen, "MANAGER"), atom(&screen, "WM_S0"));
    let data = event(&mut screen, "an announcement", |event| match event {
        Event::ClientMessage(event) if event.type_ == manager => Some(event.data.as_data32()),
        _ => None,
    });
    let owner = screen.x.get_selection_owner(selection).expect("asked").reply().expect("an answer").owner;
    assert!(data[0] != 0 && data[1] == selection && data[2] == owner && owner != 0, "{data:?}");
    let own = screen.x.generate_id().expect("a number");
    let look = CreateWindowAux::new();
    screen.x.create_window(0, own, screen.root, 0, 0, 9, 9, 0, WindowClass::INPUT_OUTPUT, 0, &look).expect("made");
    let convert = |screen: &mut Screen, target: Atom, given: &[u32]| {
        let property = atom(screen, "GIVEN");
        screen.x.change_property32(PropMode::REPLACE, own, property, AtomEnum::ATOM, given).expect("set");
        screen.x.convert_selection(own, selection, target, property, x11rb::CURRENT_TIME).expect("asked");
        screen.x.sync().expect("sent");
        let given = event(screen, "an answer", |event| match event {
            Event::SelectionNotify(event) => Some(event.property),
            _ => None,
        });
        (given != x11rb::NONE).then(|| numbers(screen, own, "GIVEN"))
    };
    let (timestamp, version) = (atom(&screen, "TIMESTAMP"), atom(&screen, "VERSION"));
    assert_eq!(convert(&mut screen, version, &[]), Some(vec![2, 0]));
    assert_eq!(convert(&mut screen, timestamp, &[]), Some(vec![data[0]]));
    let (targets, multiple) = (atom(&screen, "TARGETS"), atom(&screen, "MULTIPLE"));
    let all = convert(&mut screen, targets, &[]).expect("a list");
    assert!([targets, timestamp, version, multiple].iter().all(|target| all.contains(target)));
    let (one, other) = (atom(&screen, "ONE"), atom(&screen, "OTHER"));
    let pairs = convert(&mut screen, multiple, &[timestamp, one, multiple, other]).expect("pairs");
    assert_eq!(pairs, [timestamp, one, multiple, 0], "what is refused is said");
    assert_eq!(numbers(&screen, own, "ONE"), [data[0]]);
    let nonsense = atom(&screen, "NONSENSE");
    assert_eq!(convert(&mut screen, nonsense, &[]), None);
}

#[test]
fn windows_keep_off_what_panels_keep_and_desktops_lie_below() {
    let mut screen = screen();
    let tile = window(&mut screen, 0x808080, |_, _| {});
    let before = place(&screen, tile);
    let make = |screen: &Screen, kind: &str, (x, w): (i16, u16)| {
        let own = screen.x.generate_id().expect("a number");
        let look = CreateWindowAux::new().background_pixel(0xffff00);
        let class = WindowClass::INPUT_OUTPUT;
        screen.x.create_window(0, own, screen.root, x, 0, w, 800, 0, class, 0, &look).expect("made");
        is_of_type(screen, own, kind);
        own
    };
    let panel = make(&screen, "DOCK", (0, 50));
    says(&screen, panel, "_NET_WM_STRUT_PARTIAL", AtomEnum::CARDINAL, &[50, 0, 0, 0, 0, 799, 0, 0, 0, 0, 0, 0]);
    screen.x.map_window(panel).expect("mapped");
    screen.x.sync().expect("sent");
    screen.wait("the tile keeps off", |screen| place(screen, tile).0 == before.0 + 50);
    assert_eq!(place(&screen, panel), (0, 0, 50, 800), "it lies where it wants");
    assert_eq!(numbers(&screen, screen.root, "_NET_WORKAREA")[..4], [50, 30, 950, 770]);
    assert!(numbers(&screen, screen.root, "_NET_CLIENT_LIST").contains(&panel));
    assert_eq!(screen.pixel(25, 400), [255, 255, 0]);
    says(&screen, panel, "_NET_WM_STRUT_PARTIAL", AtomEnum::CARDINAL, &[80, 0, 0, 0, 0, 799, 0, 0, 0, 0, 0, 0]);
    screen.wait("it keeps more", |screen| place(screen, tile).0 == before.0 + 80);
    let below = make(&screen, "DESKTOP", (0, 1000));
    screen.x.map_window(below).expect("mapped");
    screen.x.sync().expect("sent");
    screen.wait("it is there", |screen| numbers(screen, screen.root, "_NET_CLIENT_LIST_STACKING").first() == Some(&below));
    screen.wait("below the tile", |screen| screen.pixel(500, 400) == [128, 128, 128] && screen.pixel(5, 400) == [255, 255, 0]);
    // A full-screen window lies over the panel.
    message(&screen, tile, "_NET_WM_STATE", [1, atom(&screen, "_NET_WM_STATE_FULLSCREEN"), 0, 1, 0]);
    screen.wait("over it", |screen| screen.pixel(5, 400) == [128, 128, 128]);
    message(&screen, tile, "_NET_WM_STATE", [0, atom(&screen, "_NET_WM_STATE_FULLSCREEN"), 0, 1, 0]);
    screen.x.destroy_window(panel).expect("gone");
    screen.x.sync().expect("sent");
    screen.wait("what it kept is given back", |screen| place(screen, tile) == before);
    assert_eq!(numbers(&screen, screen.root, "_NET_WORKAREA")[..4], [0, 30, 1000, 770]);
}

#[test]
fn what_floats_is_moved_resized_and_made_as_large_as_there_is_room() {
    let mut screen = screen();
    let own = window(&mut screen, 0xffffff, dialog);
    assert_eq!(place(&screen, own), (350, 315, 300, 200));
    let actions = numbers(&screen, own, "_NET_WM_ALLOWED_ACTIONS");
    assert!(actions.contains(&atom(&screen, "_NET_WM_ACTION_MAXIMIZE_HORZ")) && actions.len() == 11);
    // To 100,100 with another size, by its frame's corner; then by its contents' own; then by its far corner.
    let all = 0xf00;
    message(&screen, own, "_NET_MOVERESIZE_WINDOW", [all | 1, 100, 100, 320, 240]);
    screen.wait("its frame is there", |screen| place(screen, own) == (104, 104, 320, 240));
    message(&screen, own, "_NET_MOVERESIZE_WINDOW", [all | 10, 100, 100, 320, 240]);
    screen.wait("its contents are there", |screen| place(screen, own) == (100, 100, 320, 240));
    message(&screen, own, "_NET_MOVERESIZE_WINDOW", [0xc00 | 9, 0, 0, 300, 220]);
    screen.wait("its far corner stays", |screen| place(screen, own) == (120, 120, 300, 220));
    message(&screen, own, "_NET_MOVERESIZE_WINDOW", [all, u32::MAX, 5, 0, 70_000]);
    screen.wait("nonsense ends at the screen's edge", |screen| place(screen, own).3 <= 800);
    message(&screen, own, "_NET_MOVERESIZE_WINDOW", [all | 10, 120, 120, 300, 220]);
    screen.wait("back", |screen| place(screen, own) == (120, 120, 300, 220));
    let (wide, tall) = (atom(&screen, "_NET_WM_STATE_MAXIMIZED_HORZ"), atom(&screen, "_NET_WM_STATE_MAXIMIZED_VERT"));
    message(&screen, own, "_NET_WM_STATE", [1, wide, tall, 1, 0]);
    screen.wait("as large as there is room", |screen| place(screen, own) == (4, 34, 992, 762));
    screen.wait("it says so", |screen| has(screen, own, "MAXIMIZED_HORZ") && has(screen, own, "MAXIMIZED_VERT"));
    message(&screen, own, "_NET_WM_STATE", [0, wide, 0, 1, 0]);
    screen.wait("as high alone", |screen| place(screen, own) == (120, 34, 300, 762));
    message(&screen, own, "_NET_WM_STATE", [2, tall, 0, 1, 0]);
    screen.wait("as before", |screen| place(screen, own) == (120, 120, 300, 220));
    // States that are not the desk's are said back.
    message(&screen, own, "_NET_WM_STATE", [1, atom(&screen, "_NET_WM_STATE_SKIP_PAGER"), 0, 1, 0]);
    screen.wait("it is said back", |screen| has(screen, own, "SKIP_PAGER"));
    // A program lets it be dragged by its own title.
    point(&screen, 200, 200);
    button(&screen, true, 1);
    message(&screen, own, "_NET_WM_MOVERESIZE", [200, 200, 8, 1, 1]);
    screen.wait("it takes the pointer", |screen| {
        point(screen, 260, 230);
        point(screen, 261, 231);
        place(screen, own) == (181, 151, 300, 220)
    });
    button(&screen, false, 1);
    screen.ask("health");
    point(&screen, 700, 700);
    screen.ask("health");
    assert_eq!(place(&screen, own), (181, 151, 300, 220), "the drag has ended");
    // Without a button nothing is dragged.
    message(&screen, own, "_NET_WM_MOVERESIZE", [200, 200, 8, 1, 1]);
    point(&screen, 500, 500);
    screen.ask("health");
    assert_eq!(place(&screen, own), (181, 151, 300, 220));
    // Over several monitors: of one there is only that.
    message(&screen, own, "_NET_WM_FULLSCREEN_MONITORS", [0, 0, 0, 0, 1]);
    message(&screen, own, "_NET_WM_STATE", [1, atom(&screen, "_NET_WM_STATE_FULLSCREEN"), 0, 1, 0]);
    screen.wait("all of it", |screen| place(screen, own) == (0, 0, 1000, 800));
    message(&screen, own, "_NET_WM_FULLSCREEN_MONITORS", [7, 9, u32::MAX, 0, 1]);
    screen.ask("health");
    assert_eq!(place(&screen, own), (0, 0, 1000, 800));
}

#[test]
fn a_program_lets_the_keyboard_move_its_window() {
    let [left, down, escape, enter] = [0xff51, 0xff54, 0xff1b, 0xff0d];
    let mut screen = screen();
    let own = window(&mut screen, 0xff_ffff, dialog);
    let (x, y, w, h) = place(&screen, own);
    let steer = |screen: &mut Screen, how: u32| {
        message(screen, own, "_NET_WM_MOVERESIZE", [0, 0, how, 0, 1]);
        screen.wait("it takes the keyboard", |screen| named(screen, "jovrik steer").is_some());
    };
    steer(&mut screen, 10);
    screen.press(&[left]);
    screen.press(&[down]);
    screen.wait("it goes there", |screen| place(screen, own) == (x - 40, y + 40, w, h));
    screen.press(&[escape]);
    screen.wait("and back", |screen| place(screen, own) == (x, y, w, h));
    steer(&mut screen, 9);
    screen.press(&[down]);
    screen.press(&[enter]);
    screen.wait("it is higher", |screen| place(screen, own) == (x, y, w, h + 40));
    screen.wait("the keyboard is its program's again", |screen| named(screen, "jovrik steer").is_none());
    steer(&mut screen, 10);
    message(&screen, own, "_NET_WM_MOVERESIZE", [0, 0, 11, 0, 1]);
    screen.wait("it is taken back", |screen| named(screen, "jovrik steer").is_none());
}

#[test]
fn windows_are_laid_over_each_other_and_the_desktop_is_shown() {
    let mut screen = screen();
    let one = window(&mut screen, 0xffffff, dialog);
    let two = window(&mut screen, 0x808080, dialog);
    let order = |screen: &Screen| numbers(screen, screen.root, "_NET_CLIENT_LIST_STACKING");
    assert_eq!(order(&screen), [one, two]);
    message(&screen, one, "_NET_RESTACK_WINDOW", [2, 0, 0, 0, 0]);
    screen.wait("over the other", |screen| order(screen) == [two, one]);
    assert!(has(&screen, two, "FOCUSED"), "the focus stays");
    message(&screen, one, "_NET_RESTACK_WINDOW", [2, two, 1, 0, 0]);
    screen.wait("directly below it", |screen| order(screen) == [one, two]);
    screen.x.configure_window(one, &ConfigureWindowAux::new().stack_mode(StackMode::ABOVE)).expect("asked");
    screen.x.sync().expect("sent");
    screen.wait("as its program asks", |screen| order(screen) == [two, one]);
    message(&screen, screen.root, "_NET_SHOWING_DESKTOP", [1, 0, 0, 0, 0]);
    screen.wait("nothing is seen of them", |screen| screen.areas().is_empty());
    assert_eq!(numbers(&screen, screen.root, "_NET_SHOWING_DESKTOP"), [1]);
    assert_eq!(numbers(&screen, screen.root, "_NET_ACTIVE_WINDOW"), [0]);
    message(&screen, two, "_NET_ACTIVE_WINDOW", [2, 0, 0, 0, 0]);
    screen.wait("back", |screen| screen.areas().len() == 2 && order(screen) == [one, two]);
    assert_eq!(numbers(&screen, screen.root, "_NET_SHOWING_DESKTOP"), [0]);
    assert_eq!(numbers(&screen, screen.root, "_NET_DESKTOP_GEOMETRY"), [1000, 800]);
    assert_eq!(numbers(&screen, screen.root, "_NET_DESKTOP_VIEWPORT"), [0, 0]);
    // How wide its frame will be is told before it is seen.
    let unseen = screen.x.generate_id().expect("a number");
    let look = CreateWindowAux::new();
    screen.x.create_window(0, unseen, screen.root, 0, 0, 9, 9, 0, WindowClass::INPUT_OUTPUT, 0, &look).expect("made");
    message(&screen, unseen, "_NET_REQUEST_FRAME_EXTENTS", [0; 5]);
    screen.wait("it is told", |screen| numbers(screen, unseen, "_NET_FRAME_EXTENTS") == [4; 4]);
}

#[test]
fn who_does_not_answer_is_named_and_can_be_ended() {
    let mut screen = screen();
    // A program of its own, as that is what ends.
    let (other, _) = x11rb::connect(Some(&screen.name)).expect("a connection");
    let own = other.generate_id().expect("a number");
    let look = CreateWindowAux::new().background_pixel(0x606060);
    other.create_window(0, own, screen.root, 0, 0, 300, 200, 0, WindowClass::INPUT_OUTPUT, 0, &look).expect("made");
    other.change_property8(PropMode::REPLACE, own, AtomEnum::WM_NAME, AtomEnum::STRING, b"gauge 7").expect("set");
    let protocols = [atom(&screen, "_NET_WM_PING"), atom(&screen, "WM_DELETE_WINDOW")];
    let name = atom(&screen, "WM_PROTOCOLS");
    other.change_property32(PropMode::REPLACE, own, name, AtomEnum::ATOM, &protocols).expect("set");
    other.map_window(own).expect("mapped");
    other.sync().expect("sent");
    screen.wait("it is managed", |screen| screen.count() == 1);
    let pinged = |screen: &mut Screen| {
        let mut ping = None;
        screen.wait("it is asked", |_| {
            while let (None, Some(event)) = (&ping, other.poll_for_event().expect("it answers")) {
                if let Event::ClientMessage(event) = event
                    && event.data.as_data32()[0] == protocols[0]
                {
                    ping = Some(event.data.as_data32());
                }
            }
            ping.is_some()
        });
        ping.expect("it came")
    };
    let data = pinged(&mut screen);
    assert_eq!(data[2], own);
    let answer = ClientMessageEvent::new(32, screen.root, name, data);
    let to = EventMask::SUBSTRUCTURE_REDIRECT | EventMask::SUBSTRUCTURE_NOTIFY;
    other.send_event(false, screen.root, to, answer).expect("sent");
    other.sync().expect("sent");
    // Asked to close it is asked again, and says nothing.
    screen.tell("close");
    pinged(&mut screen);
    let notice = |screen: &Screen| {
        let tree = screen.x.query_tree(screen.root).expect("asked").reply().expect("windows");
        tree.children.into_iter().find(|window| {
            let asked = screen.x.get_property(false, *window, AtomEnum::WM_NAME, AtomEnum::ANY, 0, 99).expect("asked");
            asked.reply().is_ok_and(|name| name.value.starts_with(b"jovrik notice"))
        })
    };
    assert_eq!(notice(&screen), None, "it has time");
    screen.wait("it is named", |screen| notice(screen).is_some());
    let at = notice(&screen).map(|notice| place(&screen, notice)).expect("a notice");
    point(&screen, at.0 + 20, at.1 + 20);
    button(&screen, true, 1);
    button(&screen, false, 1);
    screen.wait("it is ended", |screen| screen.count() == 0 && notice(screen).is_none());
}

#[test]
fn a_program_that_counts_is_resized_in_its_own_pace() {
    let mut screen = screen();
    let counter = screen.x.generate_id().expect("a number");
    screen.x.sync_create_counter(counter, Int64 { hi: 0, lo: 40 }).expect("made");
    let own = window(&mut screen, 0xffffff, |screen, window| {
        dialog(screen, window);
        says(screen, window, "_NET_WM_SYNC_REQUEST_COUNTER", AtomEnum::CARDINAL, &[counter]);
        let protocols = [atom(screen, "_NET_WM_SYNC_REQUEST")];
        says(screen, window, "WM_PROTOCOLS", AtomEnum::ATOM, &protocols);
    });
    screen.tell("grow right");
    assert_eq!(protocol(&mut screen, "_NET_WM_SYNC_REQUEST")[2], 41);
    screen.wait("the first at once", |screen| place(screen, own).2 == 340);
    screen.x.sync_set_counter(counter, Int64 { hi: 0, lo: 41 }).expect("set");
    screen.x.sync().expect("sent");
    for (value, width) in [(42, 380), (43, 420)] {
        screen.tell("grow right");
        assert_eq!(protocol(&mut screen, "_NET_WM_SYNC_REQUEST")[2], value);
        screen.wait("the next", |screen| place(screen, own).2 == width);
        screen.x.sync_set_counter(counter, Int64 { hi: 0, lo: value }).expect("set");
        screen.x.sync().expect("sent");
    }
    // One that never draws is not waited for.
    screen.tell("grow right");
    screen.tell("grow right");
    screen.tell("shrink right");
    screen.tell("grow right");
    screen.wait("it goes on", |screen| place(screen, own).2 == 500);
}

#[test]
fn programs_come_where_they_were_started() {
    let mut screen = screen();
    // As other starters tell it.
    let text = b"new: ID=\"gauge_TIME7\" NAME=\"Gauge\" DESKTOP=1\0";
    let (first, next) = (atom(&screen, "_NET_STARTUP_INFO_BEGIN"), atom(&screen, "_NET_STARTUP_INFO"));
    let sender = screen.x.generate_id().expect("a number");
    let look = CreateWindowAux::new();
    screen.x.create_window(0, sender, screen.root, 0, 0, 9, 9, 0, WindowClass::INPUT_OUTPUT, 0, &look).expect("made");
    for (nth, piece) in text.chunks(20).enumerate() {
        let mut data = [0_u8; 20];
        data[..piece.len()].copy_from_slice(piece);
        let event = ClientMessageEvent::new(8, sender, if nth == 0 { first } else { next }, data);
        screen.x.send_event(false, screen.root, EventMask::PROPERTY_CHANGE, event).expect("sent");
    }
    screen.x.sync().expect("sent");
    window(&mut screen, 0xffffff, |screen, window| {
        let (name, kind) = (atom(screen, "_NET_STARTUP_ID"), atom(screen, "UTF8_STRING"));
        screen.x.change_property8(PropMode::REPLACE, window, name, kind, b"gauge_TIME7").expect("set");
    });
    assert_eq!(screen.ask("windows")[0]["workspace"], "logs");
    // What we start knows what to say, and its window comes where that was.
    let file = screen.desk.path().join("id");
    screen.tell(&format!("shell 'echo $DESKTOP_STARTUP_ID > {}'", file.display()));
    screen.wait("it is told", |_| std::fs::read_to_string(&file).is_ok_and(|id| id.contains("_TIME")));
    screen.tell("run xterm");
    screen.tell("go logs");
    screen.wait("the terminal is there", |screen| screen.count() == 2);
    assert_eq!(screen.ask("windows")[1]["workspace"], "charts");
}

#[test]
fn a_sudden_end_and_a_new_start_change_nothing() {
    let mut screen = screen();
    let class = |name: &'static str| {
        move |screen: &Screen, window: Window| {
            let both = format!("{name}\0{name}\0");
            let (name, kind) = (AtomEnum::WM_CLASS, AtomEnum::STRING);
            screen.x.change_property8(PropMode::REPLACE, window, name, kind, both.as_bytes()).expect("set");
        }
    };
    let one = window(&mut screen, 0x808080, class("One"));
    window(&mut screen, 0x909090, class("Two"));
    window(&mut screen, 0xa0a0a0, class("Three"));
    screen.tell("main swap");
    screen.tell("grow right 100");
    let own = window(&mut screen, 0xffffff, |screen, window| {
        class("Floating")(screen, window);
        dialog(screen, window);
    });
    screen.tell("move left");
    screen.tell("go logs");
    window(&mut screen, 0xb0b0b0, class("Elsewhere"));
    window(&mut screen, 0xc0c0c0, class("Away"));
    screen.tell("tuck");
    screen.tell("go charts");
    message(&screen, one, "_NET_ACTIVE_WINDOW", [2, 0, 0, 0, 0]);
    screen.wait("it has the focus", |screen| has(screen, one, "FOCUSED"));
    let facts = |screen: &Screen| {
        let mut windows = screen.ask("windows").as_array().expect("a list").clone();
        windows.sort_by_key(|window| window["window"].to_string());
        (windows, screen.ask("workspaces"), place(screen, own), numbers(screen, screen.root, "_NET_CLIENT_LIST_STACKING"))
    };
    let before = facts(&screen);
    screen.kill();
    screen.start(&["--replace"]);
    screen.wait("all are taken in", |screen| screen.count() == 6);
    assert_eq!(facts(&screen), before);
    screen.tell("untuck");
    screen.wait("it is fetched", |screen| screen.areas().len() == 5);
}

#[test]
fn bars_that_others_destroy_come_back() {
    let mut screen = screen();
    let bar = |screen: &Screen| {
        let tree = screen.x.query_tree(screen.root).expect("asked").reply().expect("windows");
        tree.children.into_iter().find(|window| {
            let asked = screen.x.get_property(false, *window, AtomEnum::WM_NAME, AtomEnum::ANY, 0, 99).expect("asked");
            asked.reply().is_ok_and(|name| name.value.starts_with(b"jovrik bar"))
        })
    };
    let before = screen.pixel(500, 15);
    let first = bar(&screen).expect("a bar");
    for _ in 0..3 {
        let own = bar(&screen).expect("a bar");
        screen.x.destroy_window(own).expect("asked");
        screen.x.sync().expect("sent");
        screen.wait("it is back", |screen| bar(screen).is_some_and(|bar| bar != own));
    }
    assert_ne!(bar(&screen), Some(first));
    screen.wait("it is drawn", |screen| screen.pixel(500, 15) == before);
}

#[test]
fn what_belongs_to_a_group_lies_over_the_window_of_it_that_had_the_focus() {
    let mut screen = screen();
    let leader = screen.x.generate_id().expect("a number");
    let look = CreateWindowAux::new();
    screen.x.create_window(0, leader, screen.root, 0, 0, 9, 9, 0, WindowClass::INPUT_OUTPUT, 0, &look).expect("made");
    let of_group = |screen: &Screen, window: Window| {
        // Flags: the group alone (ICCCM, section 4.1.2.4).
        says(screen, window, "WM_HINTS", AtomEnum::WM_HINTS, &[1 << 6, 0, 0, 0, 0, 0, 0, 0, leader]);
    };
    window(&mut screen, 0x808080, of_group);
    window(&mut screen, 0x909090, |_, _| {});
    let root = screen.root;
    let own = window(&mut screen, 0xffffff, |screen, window| {
        of_group(screen, window);
        says(screen, window, "WM_TRANSIENT_FOR", AtomEnum::WINDOW, &[root]);
    });
    let windows = screen.ask("windows");
    let own = windows.as_array().expect("a list").iter().find(|one| one["window"] == format!("0x{own:x}")).expect("it");
    assert_eq!((&own["transient"], &own["floating"]), (&true.into(), &true.into()));
}

#[test]
fn what_is_said_to_be_supported_is_what_this_page_says() {
    let page = include_str!("../../../../docs/standards.md");
    let screen = screen();
    for name in numbers(&screen, screen.root, "_NET_SUPPORTED") {
        let name = screen.x.get_atom_name(name).expect("asked").reply().expect("a name").name;
        let name = String::from_utf8(name).expect("text");
        let known = ["_NET_WM_STATE_", "_NET_WM_WINDOW_TYPE_", "_NET_WM_ACTION_", "_NET_STARTUP_ID"];
        let told = page.lines().any(|line| line.contains(&format!("`{name}`")) && line.contains("done"));
        assert!(told || known.iter().any(|all| name.starts_with(all)), "{name} is not on the page");
    }
    // Who manages is found from the root window and from itself.
    let check = numbers(&screen, screen.root, "_NET_SUPPORTING_WM_CHECK");
    assert_eq!(numbers(&screen, check[0], "_NET_SUPPORTING_WM_CHECK"), check);
}

fn sizes(screen: &Screen, window: Window, flags: u32, fields: &[(usize, u32)]) {
    let mut words = [0_u32; 18];
    words[0] = flags;
    fields.iter().for_each(|(at, value)| words[*at] = *value);
    says(screen, window, "WM_NORMAL_HINTS", AtomEnum::WM_SIZE_HINTS, &words);
}

#[test]
fn sizes_and_places_that_windows_ask_for() {
    let mut screen = screen();
    // Chosen by the person, with the south-east corner staying: at the corner of the screen, with its frame.
    let corner = window(&mut screen, 0xffffff, |screen, window| {
        dialog(screen, window);
        screen.x.configure_window(window, &ConfigureWindowAux::new().x(700).y(600)).expect("asked");
        sizes(screen, window, 1 | 1 << 9, &[(17, 9)]);
    });
    assert_eq!(place(&screen, corner), (696, 596, 300, 200));
    // In whole steps over its base, not below the least, not above the largest.
    let steps = window(&mut screen, 0xffffff, |screen, window| {
        dialog(screen, window);
        let fields = [(5, 120), (6, 90), (7, 640), (8, 480), (9, 10), (10, 20), (15, 4), (16, 2)];
        sizes(screen, window, 1 << 4 | 1 << 5 | 1 << 6 | 1 << 8, &fields);
    });
    let asks = |screen: &Screen, w: u32, h: u32| {
        screen.x.configure_window(steps, &ConfigureWindowAux::new().width(w).height(h)).expect("asked");
        screen.x.sync().expect("sent");
    };
    asks(&screen, 337, 259);
    screen.wait("whole steps", |screen| (place(screen, steps).2, place(screen, steps).3) == (334, 242));
    asks(&screen, 5, 5);
    screen.wait("the least", |screen| (place(screen, steps).2, place(screen, steps).3) == (120, 90));
    asks(&screen, 5000, 5000);
    screen.wait("the largest", |screen| (place(screen, steps).2, place(screen, steps).3) == (634, 462));
    // One of one size floats; one that asks for nothing is a tile, and is told where it is when it asks to be elsewhere.
    let fixed = window(&mut screen, 0xffffff, |screen, window| {
        sizes(screen, window, 1 << 4 | 1 << 5, &[(5, 200), (6, 100), (7, 200), (8, 100)]);
    });
    assert_eq!((place(&screen, fixed).2, place(&screen, fixed).3), (200, 100));
    let tile = window(&mut screen, 0x808080, |_, _| {});
    screen.wait("it is a tile", |screen| place(screen, tile).2 == 952);
    let at = place(&screen, tile);
    while screen.x.poll_for_event().expect("it answers").is_some() {}
    screen.x.configure_window(tile, &ConfigureWindowAux::new().x(7).width(90).border_width(9)).expect("asked");
    screen.x.sync().expect("sent");
    let told = event(&mut screen, "it is told", |event| match event {
        Event::ConfigureNotify(event) if event.response_type & 0x80 != 0 && event.window == tile => {
            Some((event.x, event.y, event.width, event.height))
        }
        _ => None,
    });
    assert_eq!(told, at);
    assert_eq!(place(&screen, tile), at);
}

#[test]
fn sizes_that_are_said_anew_hold_for_what_is_asked_right_after() {
    let mut screen = screen();
    let all: Vec<Window> = (0..3).map(|_| window(&mut screen, 0xffffff, dialog)).collect();
    let hints = atom(&screen, "WM_NORMAL_HINTS");
    let say = |screen: &Screen, window: Window, by: u32| {
        let mut words = [0_u32; 18];
        (words[0], words[9], words[10]) = (1 << 6 | 1 << 8, by, by);
        let kind = AtomEnum::WM_SIZE_HINTS;
        screen.x.change_property32(PropMode::REPLACE, window, hints, kind, &words).expect("set");
    };
    let ask = |screen: &Screen, window: Window, w: u32, h: u32| {
        screen.x.configure_window(window, &ConfigureWindowAux::new().width(w).height(h)).expect("asked");
    };
    let size = |screen: &Screen, window: Window| (place(screen, window).2, place(screen, window).3);
    // All in one go: the last that was said before each question counts.
    for (window, by) in all.iter().zip([50, 40, 30]) {
        say(&screen, *window, 7);
        say(&screen, *window, by);
        ask(&screen, *window, 337, 259);
    }
    screen.x.sync().expect("sent");
    screen.wait("in their own steps", |screen| {
        all.iter().map(|window| size(screen, *window)).eq([(300, 250), (320, 240), (330, 240)])
    });
    // Two questions with something else said between them.
    say(&screen, all[0], 100);
    ask(&screen, all[0], 260, 260);
    say(&screen, all[0], 90);
    ask(&screen, all[0], 260, 380);
    screen.x.sync().expect("sent");
    screen.wait("as was said last", |screen| size(screen, all[0]) == (180, 360));
    // What is no list of sizes says nothing of them; what is taken away neither.
    screen.x.change_property8(PropMode::REPLACE, all[1], hints, AtomEnum::STRING, b"junk").expect("set");
    ask(&screen, all[1], 123, 77);
    screen.x.delete_property(all[2], hints).expect("deleted");
    ask(&screen, all[2], 131, 79);
    screen.x.sync().expect("sent");
    screen.wait("exactly", |screen| (size(screen, all[1]), size(screen, all[2])) == ((123, 77), (131, 79)));
    // Whoever says something and goes at once leaves nothing behind.
    say(&screen, all[1], 20);
    screen.x.destroy_window(all[1]).expect("destroyed");
    screen.x.sync().expect("sent");
    screen.wait("it is gone", |screen| screen.count() == 2);
    assert_eq!(screen.areas().len(), 2);
}

#[test]
fn the_focus_is_given_in_each_of_four_manners() {
    let mut screen = screen();
    let focus = |screen: &Screen| screen.x.get_input_focus().expect("asked").reply().expect("an answer").focus;
    let made = |screen: &mut Screen, input: u32, takes: bool| {
        let protocols: Vec<&str> = if takes { vec!["WM_TAKE_FOCUS", "WM_DELETE_WINDOW"] } else { vec!["WM_DELETE_WINDOW"] };
        window(screen, 0x808080, |screen, window| {
            says(screen, window, "WM_HINTS", AtomEnum::WM_HINTS, &[1, input, 0, 0, 0, 0, 0, 0, 0]);
            let protocols: Vec<u32> = protocols.iter().map(|name| atom(screen, name)).collect();
            says(screen, window, "WM_PROTOCOLS", AtomEnum::ATOM, &protocols);
        })
    };
    // Passive: it is given. Locally active: it is given, and told.
    let passive = made(&mut screen, 1, false);
    screen.wait("it is given", |screen| focus(screen) == passive);
    let local = made(&mut screen, 1, true);
    screen.wait("it is given", |screen| focus(screen) == local);
    protocol(&mut screen, "WM_TAKE_FOCUS");
    // Globally active: it is told, and takes it itself.
    let global = made(&mut screen, 0, true);
    protocol(&mut screen, "WM_TAKE_FOCUS");
    assert_ne!(focus(&screen), global);
    // None: it is the current window, and keys go to none.
    let none = made(&mut screen, 0, false);
    let check = numbers(&screen, screen.root, "_NET_SUPPORTING_WM_CHECK")[0];
    screen.wait("keys go to none", |screen| focus(screen) == check);
    assert_eq!(numbers(&screen, screen.root, "_NET_ACTIVE_WINDOW"), [none]);
    screen.tell("focus last");
    screen.wait("another one is current", |screen| !has(screen, none, "FOCUSED"));
    let at = screen.ask("windows")[3]["area"].as_str().expect("a place").to_owned();
    let [x, y]: [i16; 2] =
        at.splitn(3, '+').skip(1).map(|n| n.parse().expect("a number")).collect::<Vec<_>>().try_into().expect("two");
    point(&screen, x + 5, y + 5);
    button(&screen, true, 1);
    button(&screen, false, 1);
    screen.wait("a press chooses it", |screen| has(screen, none, "FOCUSED") && focus(screen) == check);
    // What is told to take it is told when: as the message says that asks for it, and never what is yet to come.
    while screen.x.poll_for_event().expect("a connection").is_some() {}
    message(&screen, local, "_NET_ACTIVE_WINDOW", [2, 0, 0, 0, 0]);
    let told = protocol(&mut screen, "WM_TAKE_FOCUS")[1];
    assert!(told != 0);
    message(&screen, passive, "_NET_ACTIVE_WINDOW", [2, told, 0, 0, 0]);
    screen.wait("it has it", |screen| focus(screen) == passive);
    message(&screen, local, "_NET_ACTIVE_WINDOW", [2, told + 1, 0, 0, 0]);
    assert_eq!(protocol(&mut screen, "WM_TAKE_FOCUS")[1], told + 1);
    message(&screen, passive, "_NET_ACTIVE_WINDOW", [2, told + 1, 0, 0, 0]);
    screen.wait("it has it", |screen| focus(screen) == passive);
    message(&screen, local, "_NET_ACTIVE_WINDOW", [2, told + 10_000_000, 0, 0, 0]);
    let later = protocol(&mut screen, "WM_TAKE_FOCUS")[1];
    assert!(later > told + 1 && later < told + 10_000_000, "{later} after {told}");
    screen.wait("the server took it", |screen| focus(screen) == local);
    // Asked to close, it is told so.
    message(&screen, local, "_NET_CLOSE_WINDOW", [77, 2, 0, 0, 0]);
    assert_eq!(protocol(&mut screen, "WM_DELETE_WINDOW")[1], 77);
}

#[test]
fn what_a_window_says_of_itself_is_heard() {
    let mut screen = screen();
    let named = |screen: &Screen, window: Window, name: &str, text: &[u8]| {
        let (name, kind) = (atom(screen, name), atom(screen, "UTF8_STRING"));
        screen.x.change_property8(PropMode::REPLACE, window, name, kind, text).expect("set");
        screen.x.sync().expect("sent");
    };
    let parent = window(&mut screen, 0x808080, |screen, window| named(screen, window, "WM_NAME", b"old"));
    assert_eq!(screen.ask("windows")[0]["title"], "old");
    named(&screen, parent, "_NET_WM_NAME", "Pegel \u{2191}".as_bytes());
    screen.wait("the newer name wins", |screen| screen.ask("windows")[0]["title"] == "Pegel \u{2191}");
    named(&screen, parent, "WM_NAME", b"older");
    assert_eq!(screen.ask("windows")[0]["title"], "Pegel \u{2191}");
    let own = window(&mut screen, 0xffffff, |screen, window| {
        says(screen, window, "WM_TRANSIENT_FOR", AtomEnum::WINDOW, &[parent]);
        says(screen, window, "_NET_WM_WINDOW_OPACITY", AtomEnum::CARDINAL, &[0x8000_0000]);
    });
    assert_eq!((&screen.ask("windows")[1]["transient"], &screen.ask("windows")[1]["floating"]), (&true.into(), &true.into()));
    let held = screen.x.query_tree(own).expect("asked").reply().expect("it is there").parent;
    assert_eq!(numbers(&screen, held, "_NET_WM_WINDOW_OPACITY"), [0x8000_0000], "it is passed on");
    says(&screen, own, "_NET_WM_BYPASS_COMPOSITOR", AtomEnum::CARDINAL, &[1]);
    screen.wait("later too", |screen| numbers(screen, held, "_NET_WM_BYPASS_COMPOSITOR") == [1]);
    // Out of sight from the start, and urgent where nobody looks.
    let iconic = window(&mut screen, 0xffffff, |screen, window| {
        says(screen, window, "WM_HINTS", AtomEnum::WM_HINTS, &[1 << 1, 0, 3, 0, 0, 0, 0, 0, 0]);
    });
    assert_eq!(numbers(&screen, iconic, "WM_STATE").first(), Some(&3));
    assert!(has(&screen, iconic, "HIDDEN"));
    says(&screen, parent, "WM_HINTS", AtomEnum::WM_HINTS, &[1 << 8, 0, 0, 0, 0, 0, 0, 0, 0]);
    screen.wait("it calls", |screen| has(screen, parent, "DEMANDS_ATTENTION"));
}

#[test]
fn a_pager_goes_from_workspace_to_workspace() {
    let mut screen = screen();
    let one = window(&mut screen, 0x808080, |_, _| {});
    assert_eq!(numbers(&screen, screen.root, "_NET_NUMBER_OF_DESKTOPS"), [2]);
    message(&screen, screen.root, "_NET_CURRENT_DESKTOP", [1, 0, 0, 0, 0]);
    screen.wait("the next", |screen| numbers(screen, screen.root, "_NET_CURRENT_DESKTOP") == [1]);
    let two = window(&mut screen, 0x909090, |_, _| {});
    assert_eq!((numbers(&screen, one, "_NET_WM_DESKTOP"), numbers(&screen, two, "_NET_WM_DESKTOP")), (vec![0], vec![1]));
    message(&screen, one, "_NET_ACTIVE_WINDOW", [2, 0, 0, 0, 0]);
    screen.wait("where it is", |screen| numbers(screen, screen.root, "_NET_CURRENT_DESKTOP") == [0]);
    assert_eq!(numbers(&screen, screen.root, "_NET_ACTIVE_WINDOW"), [one]);
    for nonsense in [2, 99, u32::MAX] {
        message(&screen, screen.root, "_NET_CURRENT_DESKTOP", [nonsense, 0, 0, 0, 0]);
        message(&screen, screen.root, "_NET_NUMBER_OF_DESKTOPS", [nonsense, 0, 0, 0, 0]);
    }
    screen.ask("health");
    assert_eq!(numbers(&screen, screen.root, "_NET_CURRENT_DESKTOP"), [0]);
    assert_eq!(numbers(&screen, screen.root, "_NET_NUMBER_OF_DESKTOPS"), [2]);
}

#[test]
fn what_the_person_did_last_decides_who_may_take_the_focus() {
    let mut screen = screen();
    let teller = screen.x.generate_id().expect("a number");
    let look = CreateWindowAux::new();
    screen.x.create_window(0, teller, screen.root, 0, 0, 9, 9, 0, WindowClass::INPUT_OUTPUT, 0, &look).expect("made");
    says(&screen, teller, "_NET_WM_USER_TIME", AtomEnum::CARDINAL, &[5000]);
    // It tells of the person by another window.
    let one = window(&mut screen, 0x808080, |screen, window| {
        says(screen, window, "_NET_WM_USER_TIME_WINDOW", AtomEnum::WINDOW, &[teller]);
    });
    screen.wait("it has the focus", |screen| has(screen, one, "FOCUSED"));
    says(&screen, teller, "_NET_WM_USER_TIME", AtomEnum::CARDINAL, &[6000]);
    screen.ask("health");
    let older = window(&mut screen, 0x909090, |screen, window| {
        says(screen, window, "_NET_WM_USER_TIME", AtomEnum::CARDINAL, &[5500]);
    });
    screen.wait("it only calls", |screen| has(screen, older, "DEMANDS_ATTENTION"));
    assert!(has(&screen, one, "FOCUSED"));
    let newer = window(&mut screen, 0x909090, |screen, window| {
        says(screen, window, "_NET_WM_USER_TIME", AtomEnum::CARDINAL, &[6500]);
    });
    screen.wait("it comes of what was done", |screen| has(screen, newer, "FOCUSED"));
    let never = window(&mut screen, 0x909090, |screen, window| {
        says(screen, window, "_NET_WM_USER_TIME", AtomEnum::CARDINAL, &[0]);
    });
    screen.wait("it does not want it", |screen| has(screen, never, "DEMANDS_ATTENTION"));
    assert!(has(&screen, newer, "FOCUSED"));
}

#[test]
fn what_is_not_the_managers_is_left_as_it_is() {
    let mut screen = screen();
    // A pop-up of a program: neither managed, moved, framed nor listed.
    let popup = screen.x.generate_id().expect("a number");
    let look = CreateWindowAux::new().override_redirect(1).background_pixel(0x00ff_00ff);
    let class = WindowClass::INPUT_OUTPUT;
    screen.x.create_window(0, popup, screen.root, 333, 222, 44, 55, 0, class, 0, &look).expect("made");
    screen.x.map_window(popup).expect("mapped");
    screen.x.sync().expect("sent");
    // What a window says of how it is kept stays what it said.
    let attributes = |screen: &Screen, window: Window| {
        let own = screen.x.get_window_attributes(window).expect("asked").reply().expect("it is there");
        (own.bit_gravity, own.win_gravity, own.backing_store, own.backing_planes, own.save_under, own.do_not_propagate_mask)
    };
    let mut said = None;
    let own = window(&mut screen, 0x808080, |screen, window| {
        let look = ChangeWindowAttributesAux::new()
            .bit_gravity(Gravity::CENTER)
            .win_gravity(Gravity::SOUTH_EAST)
            .backing_store(BackingStore::WHEN_MAPPED)
            .backing_planes(0x00ff_ff00)
            .save_under(1)
            .do_not_propogate_mask(EventMask::KEY_PRESS);
        screen.x.change_window_attributes(window, &look).expect("set");
        said = Some(attributes(screen, window));
    });
    assert_eq!(Some(attributes(&screen, own)), said);
    let parent = screen.x.query_tree(popup).expect("asked").reply().expect("it is there").parent;
    assert_eq!((parent, place(&screen, popup)), (screen.root, (333, 222, 44, 55)));
    // Nor are bars, menus and notices, which are our own, windows of the desk.
    screen.tell("launcher windows");
    screen.wait("the launcher has the keys", |screen| screen.ask("health")["keys-go-to"] == "launcher");
    assert_eq!(numbers(&screen, screen.root, "_NET_CLIENT_LIST"), [own]);
    assert_eq!(numbers(&screen, screen.root, "_NET_CLIENT_LIST_STACKING"), [own]);
    // Each workspace is told by its name.
    let names = screen.x.get_property(false, screen.root, atom(&screen, "_NET_DESKTOP_NAMES"), AtomEnum::ANY, 0, 99);
    assert_eq!(names.expect("asked").reply().expect("an answer").value, b"charts\0logs\0");
    // The picture behind all windows can be had by programs that let it through.
    let behind = numbers(&screen, screen.root, "_XROOTPMAP_ID")[0];
    let pixel = screen.x.get_image(ImageFormat::Z_PIXMAP, behind, 2, 790, 1, 1, u32::MAX);
    let pixel = pixel.expect("asked").reply().expect("a picture").data;
    assert_eq!([pixel[2], pixel[1], pixel[0]], screen.pixel(2, 790), "what is seen where no window is");
}

#[test]
fn the_process_of_a_window_says_where_it_was_started() {
    let mut screen = screen();
    screen.tell("run env -u DESKTOP_STARTUP_ID xterm");
    screen.tell("go logs");
    screen.wait("the terminal is there", |screen| screen.count() == 1);
    assert_eq!(screen.ask("windows")[0]["workspace"], "charts");
}
