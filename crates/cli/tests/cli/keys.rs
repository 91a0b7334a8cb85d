//! Keys on a real X server: what a trace says is what the desktop does.

use insta::assert_snapshot;
use jovrik_core::check::keyboards_of;
use jovrik_core::keys::{KeyCombo, KeyboardLayout, Reaction, Scopes, TraceContext, Tracer};
use jovrik_values::action::Action;
use jovrik_values::chord::{ChordSequence, Modifier, Modifiers};
use serde_json::Value;
use x11rb::connection::Connection as _;
use x11rb::protocol::Event;
use x11rb::protocol::xkb::{self, ConnectionExt as _};
use x11rb::protocol::xproto::{AtomEnum, ConnectionExt as _, CreateWindowAux, EventMask, GrabMode, ModMask, WindowClass};
use x11rb::protocol::xtest::ConnectionExt as _;
use x11rb::wrapper::ConnectionExt as _;

use crate::Desk;
use crate::live::Screen;

fn us() -> &'static KeyboardLayout {
    KeyboardLayout::us()
}

/// Bindings of every kind; each goes to a workspace of its own, so that one sees which was done.
const CHORDS: &[&str] = &[
    "Lead+a",
    "Lead+Shift+a",
    "Lead+exclam",
    "Lead+ampersand",
    "Lead+plus",
    "Lead+z",
    "Lead+Shift+Ctrl+z",
    "Ctrl+<AD01>",
    "Alt+<AB02>",
    "Ctrl+Alt+e",
    "F5",
    "Shift+F5",
    "Super+slash",
    "Level3+e",
    "Alt+Tab",
    "Alt+Shift+Tab",
    "Lead+g c",
    "Lead+g Shift+l",
    "Lead+g <AC02> x",
    "Lead+Return",
    "XF86AudioMute",
    "Menu",
    "Lead+Button8",
];

fn rice() -> String {
    let names: Vec<String> = (0..CHORDS.len() + 5).map(|nth| format!("\"w{nth}\"")).collect();
    let mut text = format!(
        "[keyboard]\nlayouts = [\"us\", \"fr\", \"de\"]\n[workspaces]\norder = [{}]\n[keys]\nsequence-wait = \"1h\"\n",
        names.join(", ")
    );
    text.push_str("[bar.top]\nend = [\"mode\", \"board\", \"keys\"]\n[module.mode]\nsource = \"mode\"\ntext = \"{name}\"\n[module.board]\nsource = \"keyboard\"\ntext = \"{name}\"\n[module.keys]\nsource = \"sequence\"\ntext = \"{keys} …\"\n[keys.desk]\n");
    for (nth, chord) in CHORDS.iter().enumerate() {
        text.push_str(&format!("\"{chord}\" = \"go w{nth}\"\n"));
    }
    let n = CHORDS.len();
    text.push_str(&format!("\"Lead+r\" = {{ do = \"go w{n}\", on = \"release\" }}\n"));
    text.push_str("\"Lead+h\" = \"mode eats\"\n\"Lead+j\" = \"mode passes\"\n\"Lead+k\" = \"mode leaves\"\n\"Lead+l\" = \"keyboard next\"\n");
    for (nth, mode) in ["eats", "passes", "leaves"].iter().enumerate() {
        let others = mode.trim_end_matches('s').replace("passe", "pass");
        text.push_str(&format!("[keys.desk.modes.{mode}]\nothers = \"{others}\"\n\"h\" = \"go w{}\"\n\"Shift+exclam\" = \"go w0\"\n\"Escape\" = \"mode leave\"\n\"p p\" = \"mode leave\"\n", n + 1 + nth));
    }
    text
}

/// A screen with this rice, and the desktop on it.
fn screen() -> Screen {
    let mut screen = Screen::new(true);
    screen.save(&rice());
    screen.start(&[]);
    screen
}

fn fake(screen: &Screen, down: bool, press: KeyCombo) {
    let (kind, code) = match press.button() {
        Some(button) => (if down { 4 } else { 5 }, button),
        None => (if down { 2 } else { 3 }, press.key),
    };
    screen.x.xtest_fake_input(kind, code as u8, 0, screen.root, 0, 0, 0).expect("sent");
}

/// Presses and lets go, as fingers do it: modifiers first.
fn strike(screen: &Screen, keyboard: &KeyboardLayout, press: KeyCombo) {
    let bare = |key| KeyCombo { key, modifiers: Modifiers::default() };
    let held = keyboard.modifier_keys(press.modifiers);
    held.iter().for_each(|key| fake(screen, true, bare(*key)));
    if press.button().is_some() {
        // A pointer does not wait for a keyboard that stands still; a hand is slower than that.
        screen.x.sync().expect("sent");
        screen.ask("health");
    }
    fake(screen, true, press);
    fake(screen, false, press);
    held.iter().rev().for_each(|key| fake(screen, false, bare(*key)));
    screen.x.sync().expect("sent");
}

fn health(screen: &Screen, what: &str) -> Value {
    screen.ask("health")[what].clone()
}

struct Sums(u64);

impl Sums {
    fn below(&mut self, most: usize) -> usize {
        self.0 = self.0.wrapping_mul(6364136223846793005).wrapping_add(1442695040888963407);
        ((self.0 >> 33) as usize) % most
    }
}

fn checked(screen: &Screen) -> (std::rc::Rc<Scopes>, jovrik_core::keys::KeyboardLayouts) {
    let here = jovrik_home::LocalHost::new(std::env::var_os("PATH"), &screen.desk.folders());
    let checked = jovrik_home::check_folder(&screen.desk.rice(), &[], &here);
    let wrong: Vec<String> = checked.problems.iter().map(|problem| problem.title.clone()).collect();
    assert_eq!(checked.errors(), 0, "{wrong:?}");
    (checked.scopes.clone(), keyboards_of(&checked.rice, &here).0)
}

#[test]
fn what_a_trace_says_is_what_the_desktop_does_on_every_layout() {
    let mut screen = screen();
    let (scopes, keyboards) = checked(&screen);
    let socket = jovrik_live::socket_path(&screen.desk.path().join("run"), &screen.name);
    let ask = |what: &str| jovrik_live::request(&socket, &serde_json::json!({ "ask": what })).expect("it answers");
    let state = || {
        let workspaces = ask("workspaces");
        let focused =
            workspaces.as_array().expect("a list").iter().find(|one| one["focused"] == true).expect("one has the focus");
        (focused["workspace"].as_str().expect("a name").to_owned(), ask("health")["mode"].as_str().map(str::to_owned))
    };
    let mut sums = Sums(20261123);
    let caps = KeyCombo { key: 66, modifiers: Modifiers::default() };
    let num = KeyCombo { key: 77, modifiers: Modifiers::default() };
    let mut arrived = 0;
    for keyboard in keyboards.iter() {
        screen.tell(&format!("keyboard {}", keyboard.layout));
        screen.wait("the layout is active", |_| ask("health")["keyboard"] == keyboard.layout.as_str());
        screen.tell("mode leave");
        let mut tracer = Tracer::new(&scopes, keyboard, &TraceContext::default()).expect("no mode is asked for");
        // The presses of all bindings, a key beside each, and one modifier more or fewer.
        let all: Vec<KeyCombo> = scopes
            .bound
            .iter()
            .filter(|bound| bound.place.written())
            .flat_map(|bound| &bound.keys.0)
            .filter_map(|chord| keyboard.presses(chord).first().copied())
            .collect();
        let switch = scopes.bound.iter().find(|bound| bound.what.to_string() == "keyboard next").expect("it is bound");
        let switch = keyboard.presses(&switch.keys.0[0])[0];
        let mut told: Vec<String> = Vec::new();
        let mut place = state().0;
        for nth in 0..220 {
            let mut press = all[sums.below(all.len())];
            match sums.below(6) {
                0 => press.modifiers = Modifiers(press.modifiers.0 ^ Modifier::ALL[sums.below(Modifier::ALL.len())] as u8),
                1 if press.button().is_none() => press.key = 24 + sums.below(30) as u32,
                _ => {}
            }
            // A key cannot hold Hyper or Meta by itself where others give the same.
            press = keyboard.press_of(press.key, keyboard.mask(press));
            if keyboard.is_modifier(press.key)
                || keyboard.modifier_keys(press.modifiers).len() != press.modifiers.len() as usize
                || press == switch
            {
                continue;
            }
            if nth % 40 == 13 {
                strike(&screen, keyboard, caps);
            }
            if nth % 60 == 17 {
                strike(&screen, keyboard, num);
            }
            let step = tracer.press(press);
            told.push(keyboard.chord(press).to_string());
            if let Some((_, Reaction::Takes(at))) = step.taker()
                && let Some(Action::Go(which)) = scopes.action(at)
            {
                place = which.to_string();
                arrived += 1;
            }
            let mode = tracer.readers().next().and_then(|(_, mode)| mode).map(str::to_owned);
            strike(&screen, keyboard, press);
            let mut now = state();
            for _ in 0..50 {
                if now == (place.clone(), mode.clone()) {
                    break;
                }
                std::thread::sleep(std::time::Duration::from_millis(10));
                now = state();
            }
            let last = told.len().saturating_sub(8);
            assert_eq!(now, (place.clone(), mode), "on {} after {:?}", keyboard.layout, &told[last..]);
        }
        // Whatever was locked or under way does not reach the next layout.
        let escape = KeyCombo { key: 9, modifiers: Modifiers::default() };
        (0..3).for_each(|_| strike(&screen, keyboard, escape));
    }
    assert!(arrived > 150, "only {arrived} presses did something");
    assert_eq!(health(&screen, "chords-no-key-makes"), serde_json::json!([]));
}

#[test]
fn a_keyboard_that_another_program_holds_ends_what_needs_it() {
    let mut screen = screen();
    let time = x11rb::CURRENT_TIME;
    let hold = |screen: &Screen| {
        let (free, root) = (GrabMode::ASYNC, screen.root);
        screen.x.grab_keyboard(false, root, time, free, free).expect("asked").reply().expect("an answer").status
    };
    assert_eq!(hold(&screen), x11rb::protocol::xproto::GrabStatus::SUCCESS);
    assert_eq!(screen.run(&["tell", "mode eats"]).failed(1), "error  another program holds the keyboard\n");
    screen.wait("the mode is left again", |screen| screen.ask("health")["mode"].is_null());
    assert_eq!(health(&screen, "last-refusal"), serde_json::json!(["another program holds the keyboard"]));
    screen.x.ungrab_keyboard(time).expect("sent");
    screen.x.sync().expect("sent");
    screen.tell("mode eats");
    assert_eq!(health(&screen, "mode"), "eats");
    assert_eq!(hold(&screen), x11rb::protocol::xproto::GrabStatus::ALREADY_GRABBED);
}

#[test]
fn layouts_are_set_up_switched_changed_and_shown() {
    let mut screen = screen();
    let shown = |screen: &Screen, module: &str| -> Option<String> {
        let bars = screen.ask("bars");
        let row = bars.as_array().expect("a list").iter().find(|row| row["module"] == module)?.clone();
        row["text"].as_str().map(str::to_owned)
    };
    let names = |screen: &Screen| {
        let atom = screen.x.intern_atom(true, b"_XKB_RULES_NAMES").expect("asked").reply().expect("an atom").atom;
        let reply = screen
            .x
            .get_property(false, screen.root, atom, AtomEnum::STRING, 0, 100)
            .expect("asked")
            .reply()
            .expect("a property");
        String::from_utf8_lossy(&reply.value).replace('\0', "|")
    };
    assert_eq!(names(&screen), "evdev|pc105|us,fr,de|,,||");
    screen.wait("the layout is shown", |screen| shown(screen, "board").as_deref() == Some("us"));
    for layout in ["fr", "de", "us"] {
        screen.tell("keyboard next");
        screen.wait("the next one is shown", |screen| shown(screen, "board").as_deref() == Some(layout));
    }
    assert!(screen.run(&["tell", "keyboard", "xx"]).err.contains("there is no keyboard layout xx"));
    screen.tell("mode passes");
    screen.wait("the mode is shown", |screen| shown(screen, "mode").as_deref() == Some("passes"));
    screen.tell("mode leave");
    screen.wait("and is gone", |screen| shown(screen, "mode").is_none());
    // Another keyboard while it runs: what is grabbed moves with it.
    let reloads = screen.reloads("accepted");
    screen.save(&rice().replace(
        "[\"us\", \"fr\", \"de\"]",
        "[\"fr\"]\noptions = [\"ctrl:nocaps\"]\nrepeat = { after = \"200ms\", every = \"20ms\" }",
    ));
    screen.wait("it is taken", |screen| screen.reloads("accepted") == reloads + 1);
    screen.wait("the layout is another one", |screen| health(screen, "keyboard") == "fr");
    assert_eq!(names(&screen), "evdev|pc105|fr||ctrl:nocaps|");
    screen.x.xkb_use_extension(1, 0).expect("asked").reply().expect("the server has it");
    let controls = screen.x.xkb_get_controls(xkb::ID::USE_CORE_KBD.into()).expect("asked").reply().expect("controls");
    assert_eq!((controls.repeat_delay, controls.repeat_interval), (200, 20));
    let (_, keyboards) = checked(&screen);
    let fr = keyboards.first();
    let a = fr.presses(&ChordSequence::parse("Lead+a", "Super").expect("a chord").0[0])[0];
    assert_eq!(a.key, 24, "where q is on us");
    strike(&screen, fr, a);
    screen.wait("it is done", |screen| screen.workspace() == "w0");
    // With that option the key of CapsLock is a Ctrl like any other.
    let e = KeyCombo { key: fr.code("AD03").expect("a key"), modifiers: Modifiers::default() };
    let (caps, alt) = (66, fr.modifier_keys(Modifiers::default().with(Modifier::Alt))[0]);
    let bare = |key| KeyCombo { key, modifiers: Modifiers::default() };
    let strokes = [(true, caps), (true, alt), (true, e.key), (false, e.key), (false, alt), (false, caps)];
    strokes.iter().for_each(|(down, key)| fake(&screen, *down, bare(*key)));
    screen.x.sync().expect("sent");
    screen.wait("it is done", |screen| screen.workspace() == "w9");
    // Letters keep working while a script without them is active.
    screen.save(
        &rice()
            .replace("\"us\", \"fr\", \"de\"", "\"us\", \"de\", \"gr\"")
            .replace("[keys]\n", "[keys]\nmust-work-on = [\"us\", \"gr\"]\n"),
    );
    screen.wait("it is taken", |screen| screen.reloads("accepted") == reloads + 2);
    assert_eq!(names(&screen), "evdev|pc105|us,de,gr|,,||", "what bindings are held to says nothing of the keyboard");
    screen.tell("keyboard gr");
    screen.wait("the layout is active", |screen| health(screen, "keyboard") == "gr");
    let (_, keyboards) = checked(&screen);
    let gr = keyboards.named("gr").expect("it is there");
    strike(
        &screen,
        gr,
        KeyCombo { key: us().code("AC01").expect("a key"), modifiers: Modifiers::default().with(Modifier::Super) },
    );
    screen.wait("it is done", |screen| screen.workspace() == "w0");
}

#[test]
fn what_another_program_holds_is_named_and_the_sheet_follows_the_mode() {
    let mut screen = Screen::new(true);
    screen.save(&rice());
    let (_, keyboards) = checked(&screen);
    let f5 = keyboards.first().presses(&ChordSequence::parse("F5", "Super").expect("a chord").0[0])[0];
    screen
        .x
        .grab_key(false, screen.root, ModMask::default(), f5.key as u8, GrabMode::ASYNC, GrabMode::ASYNC)
        .expect("asked")
        .check()
        .expect("it is ours");
    screen.start(&[]);
    assert_eq!(health(&screen, "chords-held-by-others"), serde_json::json!(["F5"]));
    // Let go of, it is taken at the next reload, whatever that changes.
    screen.x.ungrab_key(f5.key as u8, screen.root, ModMask::default()).expect("asked").check().expect("let go");
    screen.tell("reload");
    screen.wait("it is grabbed after all", |screen| health(screen, "chords-held-by-others") == serde_json::json!([]));
    let taken = screen.x.grab_key(false, screen.root, ModMask::default(), f5.key as u8, GrabMode::ASYNC, GrabMode::ASYNC);
    assert!(taken.expect("asked").check().is_err(), "now the desktop has it");
    let titles = |screen: &Screen| -> usize {
        let tree = screen.x.query_tree(screen.root).expect("asked").reply().expect("windows");
        let is = |window: &u32| {
            let name = screen.x.get_property(false, *window, AtomEnum::WM_NAME, AtomEnum::STRING, 0, 100).expect("asked").reply();
            name.is_ok_and(|name| name.value == b"jovrik sheet")
        };
        tree.children.iter().filter(|window| is(window)).count()
    };
    assert_eq!(titles(&screen), 0);
    screen.tell("keys sheet");
    screen.wait("it is there", |screen| titles(screen) == 1);
    let height = |screen: &Screen| {
        let tree = screen.x.query_tree(screen.root).expect("asked").reply().expect("windows");
        let last = *tree.children.last().expect("the sheet is on top");
        screen.x.get_geometry(last).expect("asked").reply().map_or(0, |geometry| geometry.height)
    };
    let plain = height(&screen);
    screen.tell("mode eats");
    screen.wait("it shows the mode", |screen| titles(screen) == 1 && height(screen) != plain);
    screen.tell("mode leave");
    screen.tell("keys sheet");
    screen.wait("it is gone", |screen| titles(screen) == 0);
}

#[test]
fn keys_type_other_keys_and_what_is_learnt_is_named() {
    let mut screen = Screen::new(true);
    screen.save("[workspaces]\norder = [\"one\", \"two\", \"three\"]\n[keys.desk]\n\"F5\" = \"press Lead+t F6\"\n\"Lead+t\" = \"go two\"\n\"F6\" = \"go three\"\n\"F7\" = \"press Shift+b\"\n");
    screen.start(&[]);
    let window = screen.x.generate_id().expect("a number");
    let listen = CreateWindowAux::new().event_mask(EventMask::KEY_PRESS);
    screen.x.create_window(0, window, screen.root, 0, 0, 100, 100, 0, WindowClass::INPUT_OUTPUT, 0, &listen).expect("made");
    screen.x.map_window(window).expect("mapped");
    screen.x.sync().expect("sent");
    screen.wait("it is managed", |screen| screen.count() == 1);
    screen
        .wait("it has the focus", |screen| screen.x.get_input_focus().expect("asked").reply().expect("a focus").focus == window);
    // The key that types is held all the while.
    let held = screen.code(0xffc4);
    screen.x.xtest_fake_input(2, held, 0, screen.root, 0, 0, 0).expect("held");
    screen.x.sync().expect("sent");
    let mut heard = None;
    screen.wait("the window hears it", |screen| {
        while let Some(event) = screen.x.poll_for_event().expect("it is there") {
            if let Event::KeyPress(event) = event
                && !us().is_modifier(event.detail.into())
            {
                heard = Some((event.detail, u16::from(event.state)));
            }
        }
        heard.is_some()
    });
    assert_eq!(heard, Some((us().code("AB05").expect("a key") as u8, 1)), "B with Shift, whatever was held");
    screen.x.xtest_fake_input(3, held, 0, screen.root, 0, 0, 0).expect("let go");
    screen.press(&[0xffc2]);
    screen.wait("the desk is asked first, one after another", |screen| screen.workspace() == "three");
    // Learning takes the whole keyboard.
    let mut command = screen.desk.command(&screen.desk.rice(), &["keys", "learn", "--count", "2", "--json"]);
    let learn = command.env("DISPLAY", &screen.name).stdout(std::process::Stdio::piped()).spawn().expect("it runs");
    std::thread::sleep(std::time::Duration::from_millis(600));
    screen.press(&[0xffeb, u32::from('t')]);
    screen.press(&[u32::from('x')]);
    let out = String::from_utf8(learn.wait_with_output().expect("it ends").stdout).expect("UTF-8");
    let told: Vec<Value> = out.lines().map(|line| serde_json::from_str(line).expect("JSON")).collect();
    assert_eq!(
        (&told[0]["chord"], &told[0]["name"], &told[0]["binding"]["action"]),
        (&"Lead+t".into(), &"AD05".into(), &"go two".into())
    );
    assert_eq!((&told[1]["chord"], &told[1]["binding"]), (&"x".into(), &Value::Null));
    assert_eq!(screen.workspace(), "three", "nobody else heard it");
}

const FIGHTS: &str = "[scope.panes]\ninside = \"terminal\"\nprefix = \"Ctrl+b\"\n[keys.panes]\n\"n\" = \"new pane\"\n\"q\" = \"shut\"\n[keys.desk]\n\"Lead+g\" = \"focus next\"\n\"Lead+g c\" = \"focus prev\"\n\"Ctrl+b\" = \"bar toggle\"\n\"Lead+q\" = { do = \"close\", note = \"Away with it\", fixed = true }\n\"super+Q\" = \"kill\"\n\"lead+q\" = \"kill\"\n";

#[test]
fn fights_are_shown_chosen_and_settled() {
    let desk = Desk::of(FIGHTS);
    let run = desk.run(&["keys", "clash"]);
    assert_eq!(run.code, 1);
    assert_snapshot!(run.out, @"
    keys/twice  Lead+q has two actions on the desk
      Lead+q  desk  close  parts/a.toml:11  Away with it; fixed
      lead+q  desk  kill   parts/a.toml:13

    keys/stalls  Lead+g is a binding and also begins a sequence on the desk
      Lead+g    desk  focus next  parts/a.toml:8  would have to wait
      Lead+g c  desk  focus prev  parts/a.toml:9  begins so

    keys/swallowed  Ctrl+b never gets to panes: the desk takes it
      Ctrl+b  desk   bar toggle  parts/a.toml:10  takes it
      Ctrl+b  panes  prefix      parts/a.toml:3   never gets it

    keys/capital  super+Q never fires: a key makes q, and Q only with Shift
      parts/a.toml:12  a capital letter

    3 fights and 1 problem of another kind among 8 bindings in 2 scopes, layout us
      → jovrik keys settle      finds the cheapest peace
    ");
    assert_snapshot!(desk.run(&["keys", "settle", "--best", "2"]).clean(), @"
    Proposal 1: 3 fights, 3 moves, cost 6.5 (the least possible)

      Lead+g    → Lead+f  desk   focus next  parts/a.toml:8   cost 1.5
        a move, the key beside it, f for focus
      Lead+g c  stays     desk   focus prev  parts/a.toml:9

      Ctrl+b    → Ctrl+v  desk   bar toggle  parts/a.toml:10  cost 2.5
        a move, the key beside it
      Ctrl+b    stays     panes  prefix      parts/a.toml:3

      Lead+q    stays     desk   close       parts/a.toml:11  fixed
      lead+q    → Lead+w  desk   kill        parts/a.toml:13  cost 2.5
        a move, the key beside it

    Proposal 2: 3 fights, 3 moves, cost 6.5 (as cheap as the first)

      Lead+g    → Lead+f  desk   focus next  parts/a.toml:8   cost 1.5
        a move, the key beside it, f for focus
      Lead+g c  stays     desk   focus prev  parts/a.toml:9

      Ctrl+b    → Ctrl+n  desk   bar toggle  parts/a.toml:10  cost 2.5
        a move, the key beside it
      Ctrl+b    stays     panes  prefix      parts/a.toml:3

      Lead+q    stays     desk   close       parts/a.toml:11  fixed
      lead+q    → Lead+w  desk   kill        parts/a.toml:13  cost 2.5
        a move, the key beside it
    ");
    let json = desk.run(&["keys", "settle", "--json", "--keep", "panes: Ctrl+b"]).clean();
    let plan: Value = serde_json::from_str(&json).expect("JSON");
    assert_eq!((plan["fights"].as_array().map(Vec::len), plan["moves"].as_array().map(Vec::len)), (Some(3), Some(3)));
    assert_eq!(desk.run(&["keys", "settle", "--keep", "Lead+j"]).failed(2), "error  nothing is bound to Lead+j\n");
    assert_eq!(
        desk.run(&["keys", "settle", "--move", "clse=Lead+x"]).failed(2),
        "error  nothing is bound that is called clse; did you mean close?\n"
    );
    let mut child = desk
        .command(&desk.rice(), &["keys", "settle", "--ask"])
        .stdin(std::process::Stdio::piped())
        .stdout(std::process::Stdio::piped())
        .spawn()
        .expect("it runs");
    std::io::Write::write_all(child.stdin.as_mut().expect("its input"), b"7\n1\ns\n2\ny\n").expect("typed");
    let output = child.wait_with_output().expect("it ends");
    assert_snapshot!(String::from_utf8_lossy(&output.stdout), @"
    1 of 3  Lead+g is a binding and also begins a sequence on the desk
      Lead+g    desk  focus next  parts/a.toml:8
      Lead+g c  desk  focus prev  parts/a.toml:9

      1  focus next → Lead+f  cost 1.5
      2  focus next → Lead+n  cost 2.3
      3  focus next → Lead+h  cost 2.5
      s  leave it as it is
      q  stop here
    choose: one of 1 to 3, s or q
    choose: 
    2 of 3  Ctrl+b never gets to panes: the desk takes it
      Ctrl+b  desk   bar toggle  parts/a.toml:10
      Ctrl+b  panes  prefix      parts/a.toml:3

      1  bar toggle → Ctrl+v      cost 2.5
      2  bar toggle → Ctrl+n      cost 2.5
      3  bar toggle → Ctrl+space  cost 2.5
      s  leave it as it is
      q  stop here
    choose: 
    3 of 3  Lead+q has two actions on the desk
      Lead+q  desk  Away with it  parts/a.toml:11
      lead+q  desk  kill          parts/a.toml:13

      1  kill → Lead+w  cost 2.5
      2  kill → Lead+a  cost 2.5
      3  kill → Lead+1  cost 2.6
      s  leave it as it is
      q  stop here
    choose: 
      Lead+g → Lead+f  focus next
      lead+q → Lead+a  kill
    write 2 moves? y or n:   changed parts/a.toml
      → jovrik undo      takes it back
    ");
    assert_eq!(desk.read("parts/a.toml").lines().count(), FIGHTS.lines().count());
    desk.run(&["undo"]).clean();
    assert_eq!(desk.read("parts/a.toml"), FIGHTS);
    desk.run(&["keys", "settle", "--write"]).clean();
    assert_eq!(desk.run(&["keys", "clash", "--json"]).out.lines().filter(|line| !line.contains("keys/capital")).count(), 0);
}

#[test]
fn keys_are_traced_found_shifted_and_listed() {
    let desk = Desk::sample();
    assert_snapshot!(desk.run(&["keys", "trace", "Ctrl+space n"]).clean(), @"
    Ctrl+space n, focus: terminal, mode: plain, layout: us

    press 1, Ctrl+space
      kernel, X server  not theirs
      desk              not bound                        lets it pass
      panes             … new pane  parts/keys.toml:119  waits for the next press
      editor            not bound                        not asked

    press 2, n
      kernel, X server  not theirs
      desk              not bound                        lets it pass
      panes             new pane    parts/keys.toml:119  takes it
      editor            not bound                        not asked

    panes does it: new pane.
    ");
    assert_snapshot!(desk.run(&["keys", "trace", "--action", "new pane"]).clean(), @"
    new pane, layout: us

      Ctrl+space n  panes  parts/keys.toml:119  arrives

    1 way, and it arrives
    ");
    assert_snapshot!(desk.run(&["keys", "trace", "Lead+s Left q", "--json"]).clean().lines().count(), @"3");
    assert_eq!(desk.run(&["keys", "trace", "Lead+w", "--mode", "nowhere"]).failed(2), "error  no scope has a mode nowhere\n");
    assert_eq!(
        desk.run(&["keys", "trace", "Lead+w", "--layout", "xx"]).failed(2),
        "error  the rice has no layout xx: it works on us\n"
    );
    assert_snapshot!(desk.run(&["keys", "free", "--for", "move next", "--most", "4"]).clean(), @r#"
    Free for move next, near Lead+g

      Lead+h      cost 2.0
      Lead+v      cost 2.1
      Lead+d      cost 3.0
      Lead+Alt+g  cost 3.0

    4 chords that nobody takes, on us
      → jovrik set 'keys.desk."Lead+h"' '"move next"'      binds it there
    "#);
    assert_snapshot!(desk.run(&["keys", "list", "--scope", "panes"]).clean(), @"
    panes  inside terminal, after Ctrl+space
      Ctrl+space  prefix                 parts/keys.toml:116
      n           new pane               parts/keys.toml:119
      w           close the pane         parts/keys.toml:120
      Left        the pane on the left   parts/keys.toml:121
      Right       the pane on the right  parts/keys.toml:122

    5 bindings; Lead is Super
    ");
    assert_snapshot!(desk.run(&["keys", "list", "--unbound", "carry"]).clean(), @r#"
      carry monitor next  monitors    moves the window to another monitor and
                                      follows
      carry monitor prev  monitors    moves the window to another monitor and
                                      follows
      carry monitor up    monitors    moves the window to another monitor and
                                      follows
      carry monitor down  monitors    moves the window to another monitor and
                                      follows
      carry next          workspaces  moves the window to a workspace and follows
      carry prev          workspaces  moves the window to a workspace and follows
      carry back          workspaces  moves the window to a workspace and follows

    7 actions without a key
      → jovrik keys free --for "carry monitor next"
            lists free places, the best first
    "#);
    assert_snapshot!(desk.run(&["keys", "shift", "focus", "--keys", "n p", "--to", "j k"]).clean(), @"
    2 moves, cost 6.1 (the least possible)

      Lead+n  → Lead+j  desk  focus next  parts/keys.toml:29  cost 2.6
        a move, the key beside it
      Lead+p  → Lead+k  desk  focus prev  parts/keys.toml:30  cost 3.5
        a move, 2 keys away

    → the same with --write      changes parts/keys.toml
    ");
    let before = desk.read("parts/keys.toml");
    desk.run(&["keys", "shift", "focus", "--keys", "n p", "--to", "j k", "--write"]).clean();
    let after = desk.read("parts/keys.toml");
    assert_eq!(
        after,
        before.replace("\"Lead+n\" = \"focus", "\"Lead+j\" = \"focus").replace("\"Lead+p\" = \"focus", "\"Lead+k\" = \"focus")
    );
    desk.run(&["keys", "shift", "--by", "sideways"]).failed(2);
    desk.run(&["keys", "shift", "--by", "right", "Lead+Left"]).failed(2);
    desk.run(&["check"]).clean();
}

#[test]
fn a_sheet_is_a_text_a_page_or_a_picture_and_the_same_each_time() {
    let desk = Desk::sample();
    assert_snapshot!(desk.run(&["keys", "sheet", "--scope", "panes"]).clean(), @"
    Keys of saltmarsh

    Ctrl
      Ctrl+space  prefix  panes

    after Ctrl+space
      w      close the pane         panes
      n      new pane               panes
      Left   the pane on the left   panes
      Right  the pane on the right  panes

    5 bindings in 2 layers; Lead is Super
    ");
    for name in ["keys.md", "keys.html", "keys.svg", "keys.png"] {
        let make = || {
            desk.run(&["keys", "sheet", "--out", name]).clean();
            std::fs::read(desk.rice().join(name)).expect("it is written")
        };
        assert_eq!(make(), make(), "{name}");
    }
    let page = desk.read("keys.html");
    assert!(
        page.contains("<kbd>Lead+BackSpace</kbd>")
            && page.matches("<svg").count() == 11
            && !page.contains("<script")
            && !page.contains("http-equiv")
    );
    assert!(desk.read("keys.md").contains("| `Lead+BackSpace` | Close the window | desk |"));
    desk.run(&["keys", "sheet", "--out", "keys.doc"]).failed(2);
    desk.run(&["keys", "sheet", "--layer", "Lead+Hyper"]).failed(2);
}

#[test]
fn bad_input_gets_an_answer_in_time() {
    let fifty = vec!["Lead+a"; 50].join(" ");
    let desk = Desk::of(&format!("[keys.desk]\n\"{fifty}\" = \"close\"\n\"Lead+a\" = \"kill\"\n"));
    assert_eq!(desk.run(&["keys", "clash"]).code, 1);
    desk.run(&["keys", "settle"]).clean();
    let absurd = Desk::of(&format!("[keys.desk]\n\"{}\" = \"close\"\n", vec!["Lead+a"; 50_000].join(" ")));
    let told = absurd.run(&["check"]);
    assert!(
        told.code == 1 && told.out.starts_with("error  keys/no-key  a sequence of 50000 chords; 64 is the most"),
        "{}",
        &told.out[..200]
    );
    assert_eq!(desk.run(&["keys", "trace", &fifty]).clean().lines().filter(|line| line.starts_with("press ")).count(), 50);
    let modes: String = (0..10_000).map(|nth| format!("[keys.desk.modes.m{nth}]\n\"q\" = \"mode leave\"\n")).collect();
    let desk = Desk::of(&modes);
    assert!(desk.run(&["keys", "clash"]).clean().starts_with("No fights: 10000 bindings"));
    desk.write(
        "parts/a.toml",
        "[scope.a]\nknown = \"art/k.toml\"\n[scope.b]\nafter = \"a\"\nknown = \"art/k.toml\"\n[keys.b]\n\"q\" = \"one\"\n",
    );
    desk.write("art/k.toml", "\"q\" = \"shut\"\n\"w\" = \"save\"\n");
    assert_snapshot!(desk.run(&["check"]).out, @r#"
    error  keys/swallowed  q never gets to b: a takes it
      parts/a.toml:7:1
       7 | "q" = "one"
         | ^^^ one; never happens
      art/k.toml:1:1
       1 | "q" = "shut"
         | ^^^ shut; asked first
      Whoever is asked first takes the keys from everybody further in.
      → jovrik keys settle      finds the cheapest free place for one of them

    warning  keys/displaced  q takes a key that b uses by itself
      parts/a.toml:7:1
       7 | "q" = "one"
         | ^^^ one
      art/k.toml:1:1
       1 | "q" = "shut"
         | ^^^ shut; no longer there
      shut is bound nowhere else.
      → jovrik keys free --near "q"      lists free places for it

    1 error, 1 warning.  Read 2 files: 4 settings, 1 binding, 0 rules and 0 modules.
    "#);
    desk.write("art/k.toml", "q = = 1\n");
    assert_eq!(desk.run(&["check"]).code, 1);
    desk.write("art/k.toml", "\"nokey\" = \"shut\"\n\"Q\" = \"save\"\nx = 7\n");
    assert_snapshot!(desk.run(&["check"]).out, @r#"
    error  keys/no-key  there is no key nokey
      art/k.toml:1:1
       1 | "nokey" = "shut"
         | ^^^^^^^ expected an X11 keysym such as Return, comma or F5, or one
         |         character
      The binding can never fire.

    error  keys/capital  Q never fires: a key makes q, and Q only with Shift
      art/k.toml:2:1
       2 | "Q" = "save"
         | ^^^ a capital letter
      It could mean two things, so neither is guessed.
      → "q"            without Shift
      → "Shift+q"      with Shift

    error  setting/type  x cannot be 7
      art/k.toml:3:5
       3 | x = 7
         |     ^ expected an action, or { do = "close", note = "…", fixed = true }
      It counts as not written until it is mended.

    3 errors.  Read 2 files: 4 settings, 1 binding, 0 rules and 0 modules.
    "#);
    desk.write("parts/a.toml", "[keyboard]\nlayouts = []\n[keys.desk]\n\"Lead+q\" = \"close\"\n");
    assert_eq!(desk.run(&["keys", "trace", "Lead+q"]).code, 0);
    desk.write(
        "parts/a.toml",
        "[keyboard]\nlayouts = [\"us\", \"../../etc\", \"fr(nothing)\"]\nmodel = \"nonsense\"\noptions = [\"no:such\"]\n",
    );
    assert_snapshot!(desk.run(&["check"]).out, @r#"
    error  keys/no-layout  there is no keyboard layout ../../etc
      parts/a.toml:2:18
       2 | layouts = ["us", "../../etc", "fr(nothing)"]
         |                  ^^^^^^^^^^^ ../../etc is not among the system's layouts
      Without it nobody can tell which keys make what.

    error  keys/no-layout  the layout fr has no variant nothing
      parts/a.toml:2:31
       2 | layouts = ["us", "../../etc", "fr(nothing)"]
         |                               ^^^^^^^^^^^^^
         | nothing is not among the system's layouts
      Without it nobody can tell which keys make what.

    2 errors.  Read 2 files: 3 settings, 0 bindings, 0 rules and 0 modules.
    "#);
}

/// What a page says of itself in a browser of a width, by a line of script that is put at its end.
fn in_browser(page: &std::path::Path, width: u32, script: &str) -> String {
    let folder = tempfile::tempdir().expect("a folder");
    let html = std::fs::read_to_string(page).expect("a page");
    let asked = folder.path().join("asked.html");
    std::fs::write(&asked, html.replace("</body>", &format!("<script>document.title = {script}</script></body>")))
        .expect("written");
    let browser = std::process::Command::new("chromium")
        .args(["--headless", "--no-sandbox", "--disable-gpu", "--dump-dom", "--virtual-time-budget=2000"])
        .arg(format!("--window-size={width},900"))
        .arg(format!("--user-data-dir={}", folder.path().join("profile").display()))
        .arg(format!("file://{}", asked.display()))
        .env("HOME", folder.path())
        .output()
        .expect("chromium: cargo xtask test installs it");
    let dom = String::from_utf8_lossy(&browser.stdout).into_owned();
    dom.split_once("<title>")
        .and_then(|(_, rest)| rest.split_once("</title>"))
        .map(|(title, _)| title.to_owned())
        .expect("a title")
}

#[test]
fn the_page_of_keys_says_each_thing_once_and_fits_a_telephone_and_a_desk() {
    let desk = Desk::sample();
    desk.run(&["keys", "sheet", "--out", "keys.html"]).clean();
    let page = desk.read("keys.html");
    assert_eq!(page.matches("Lead+Shift</").count(), 1, "a layer's name stands once");
    assert!(page.len() < 450_000 && !page.contains("<use ") && !page.contains("<script"), "{} bytes", page.len());
    for word in ["<h2>Programs</h2>", "<h2>In the mode sizing</h2>", ">Close the window</dd>", "<kbd>Lead+g c</kbd>"] {
        assert!(page.contains(word), "{word}");
    }
    // A browser's window is never narrower than 500 pixels: the body is.
    for (width, body) in [(1280, "100%"), (520, "400px")] {
        let script = format!(
            "(document.body.style.width = '{body}', [...document.querySelectorAll('body > *, dl, dt, dd, h2')]\
             .filter(it => it.scrollWidth > it.clientWidth + 1 || it.getBoundingClientRect().right > document.body.getBoundingClientRect().right + 1)\
             .map(it => it.tagName + ' ' + it.textContent.slice(0, 30)).join('; ') || 'all fits')"
        );
        assert_eq!(in_browser(&desk.rice().join("keys.html"), width, &script), "all fits", "{width}");
    }
}
