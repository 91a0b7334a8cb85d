//! Keys on a real X server: what a trace says is what the desktop does.

use jovrik_core::check::keyboards_of;
use jovrik_core::desk::Action;
use jovrik_core::keys::{Asking, Keyboard, Modifier, Modifiers, Press, Reaction, Scopes, Tracer};
use serde_json::Value;
use x11rb::protocol::xtest::ConnectionExt as _;
use x11rb::wrapper::ConnectionExt as _;

use crate::live::Screen;

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
    let mut text = format!("[keyboard]\nlayouts = [\"us\", \"fr\", \"de\"]\n[workspaces]\norder = [{}]\n[keys]\nsequence-wait = \"60s\"\n", names.join(", "));
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

fn fake(screen: &Screen, down: bool, press: Press) {
    let (kind, code) = match press.button() {
        Some(button) => (if down { 4 } else { 5 }, button),
        None => (if down { 2 } else { 3 }, press.key),
    };
    screen.x.xtest_fake_input(kind, code as u8, 0, screen.root, 0, 0, 0).expect("sent");
}

/// Presses and lets go, as fingers do it: modifiers first.
fn strike(screen: &Screen, keyboard: &Keyboard, press: Press) {
    let bare = |key| Press { key, modifiers: Modifiers::default() };
    let held = keyboard.modifier_keys(press.modifiers);
    held.iter().for_each(|key| fake(screen, true, bare(*key)));
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

fn checked(screen: &Screen) -> (std::rc::Rc<Scopes>, jovrik_core::keys::Keyboards) {
    let here = jovrik_home::Here::new(std::env::var_os("PATH"), &screen.desk.home());
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
        let focused = workspaces.as_array().expect("a list").iter().find(|one| one["focused"] == true).expect("one has the focus");
        (focused["workspace"].as_str().expect("a name").to_owned(), ask("health")["mode"].as_str().map(str::to_owned))
    };
    let mut sums = Sums(20261123);
    let caps = Press { key: 66, modifiers: Modifiers::default() };
    let num = Press { key: 77, modifiers: Modifiers::default() };
    let mut arrived = 0;
    for keyboard in keyboards.iter() {
        screen.tell(&format!("keyboard {}", keyboard.layout));
        screen.wait("the layout is active", |_| ask("health")["keyboard"] == keyboard.layout.as_str());
        screen.tell("mode leave");
        let mut tracer = Tracer::new(&scopes, keyboard, &Asking::default()).expect("no mode is asked for");
        // The presses of all bindings, a key beside each, and one modifier more or fewer.
        let all: Vec<Press> = scopes.bound.iter().flat_map(|bound| &bound.keys.0).filter_map(|chord| keyboard.presses(chord).first().copied()).collect();
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
            if keyboard.is_modifier(press.key) || keyboard.modifier_keys(press.modifiers).len() != press.modifiers.len() as usize || press == switch {
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
        let escape = Press { key: 9, modifiers: Modifiers::default() };
        (0..3).for_each(|_| strike(&screen, keyboard, escape));
    }
    assert!(arrived > 150, "only {arrived} presses did something");
    assert_eq!(health(&screen, "chords-no-key-makes"), serde_json::json!([]));
}
