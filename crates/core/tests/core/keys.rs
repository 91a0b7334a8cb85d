//! Who gets a press: readers, modes, prefixes, sequences; what fights; what a sheet shows.

use insta::assert_snapshot;
use jovrik_core::check::CheckedRice;
use jovrik_core::keys::{
    BindingLabels, BindingMatcher, ConsumeReason, KeyCombo, KeyboardLayout, KeyboardLayouts, MatchResult, Reaction, RuleNames,
    SheetFilter, TraceContext, Tracer, fights, label, layers, traps, ways_to,
};
use jovrik_values::action::Action;
use jovrik_values::chord::{Chord, ChordSequence, Modifier};

use crate::{checked, found};

fn us() -> &'static KeyboardLayout {
    KeyboardLayout::us()
}

fn press(text: &str) -> KeyCombo {
    let keys = ChordSequence::parse(text, "Super").expect("a chord");
    us().presses(&keys.0[0])[0]
}

fn boards() -> KeyboardLayouts {
    KeyboardLayouts::new(Vec::new(), false)
}

/// What became of each press: the reader that got it, and what it did.
fn trace(checked: &CheckedRice, chords: &str, focus: Option<&str>, modes: &[&str]) -> Vec<String> {
    let asking = TraceContext { focus: focus.map(str::to_owned), modes: modes.iter().map(|mode| (*mode).to_owned()).collect() };
    let mut tracer = Tracer::new(&checked.scopes, us(), &asking).expect("such modes are there");
    let steps = tracer.follow(&ChordSequence::parse(chords, "Super").expect("chords")).expect("keys make them");
    let told = |(reader, reaction): (usize, Reaction)| {
        let who = &checked.scopes.readers[reader].name;
        match reaction {
            Reaction::Takes(at) => format!("{who}: {}", checked.scopes.bound[at].what),
            Reaction::Waits(_) => format!("{who} waits"),
            Reaction::Eats(why) => format!("{who} eats: {why:?}"),
            other => format!("{who}: {other:?}"),
        }
    };
    steps.iter().map(|step| step.taker().map_or("nobody".to_owned(), told)).collect()
}

const DEEP: &str = r#"
[program]
terminal = "xterm"
[scope.mux]
inside = "terminal"
prefix = "Ctrl+space"
[scope.editor]
inside = "terminal"
after = "mux"
[scope.mail]
inside = "letters"
[keys.desk]
"Lead+w" = "close"
"Lead+g c" = "focus next"
"Lead+g g x" = "focus prev"
"Lead+s" = "mode sizing"
"Lead+p" = "mode passing"
"Lead+l" = "mode leaving"
"XF86AudioMute" = "reload"
"Lead+r" = { do = "kill", on = "release" }
"Lead+t" = { do = "layout next", repeat = false }
[keys.desk.modes.sizing]
"h" = "main shrink"
"Escape" = "mode leave"
[keys.desk.modes.passing]
others = "pass"
"h" = "main shrink"
"Escape" = "mode leave"
[keys.desk.modes.leaving]
others = "leave"
"h" = "main shrink"
[keys.mux]
"n" = "new pane"
"g g" = "first pane"
[keys.editor]
"Ctrl+s" = "save"
[keys.editor.modes.review]
"comma" = "next remark"
"Escape" = "out of review"
[keys.mail]
"Ctrl+s" = "send it"
"#;

#[test]
fn a_press_goes_inwards_until_somebody_takes_it() {
    let deep = checked(DEEP);
    let of = |chords: &str, focus: Option<&str>, modes: &[&str]| trace(&deep, chords, focus, modes).join(", ");
    assert_eq!(of("Lead+w", None, &[]), "desk: close");
    assert_eq!(of("Ctrl+s", Some("terminal"), &[]), "editor: save");
    assert_eq!(of("Ctrl+s", Some("Letters"), &[]), "mail: send it");
    assert_eq!(of("Ctrl+s", Some("tidechart"), &[]), "nobody");
    assert_eq!(of("Ctrl+s", Some("editor"), &[]), "editor: save", "a scope may be named for the program");
    assert_eq!(of("n", Some("terminal"), &[]), "nobody", "it comes after the prefix");
    assert_eq!(of("Ctrl+space n", Some("terminal"), &[]), "mux waits, mux: new pane");
    assert_eq!(of("Ctrl+space g g", Some("terminal"), &[]), "mux waits, mux waits, mux: first pane");
    assert_eq!(of("Ctrl+space q", Some("terminal"), &[]), "mux waits, mux eats: EndsSequence");
    assert_eq!(of("Ctrl+space Lead+w", Some("terminal"), &[]), "mux waits, desk: close", "the desk is asked first all the same");
    assert_eq!(of("comma", Some("terminal"), &["review"]), "editor: next remark");
    assert_eq!(of("Escape", Some("terminal"), &["editor:review"]), "editor: out of review");
    assert_eq!(
        Tracer::new(&deep.scopes, us(), &TraceContext { focus: None, modes: vec!["nowhere".to_owned()] })
            .expect_err("no mode")
            .to_string(),
        "no scope has a mode nowhere"
    );
}

#[test]
fn sequences_wait_and_escape_drops_them() {
    let deep = checked(DEEP);
    let of = |chords: &str| trace(&deep, chords, None, &[]).join(", ");
    assert_eq!(of("Lead+g c"), "desk waits, desk: focus next");
    assert_eq!(of("Lead+g g x"), "desk waits, desk waits, desk: focus prev");
    assert_eq!(of("Lead+g q"), "desk waits, desk eats: EndsSequence");
    assert_eq!(of("Lead+g Escape Lead+w"), "desk waits, desk eats: EndsSequence, desk: close");
    assert_eq!(of("Lead+g Lead+w"), "desk waits, desk eats: EndsSequence", "the press that ends it does nothing else");
}

#[test]
fn a_mode_replaces_the_plain_bindings_until_it_is_left() {
    let deep = checked(DEEP);
    let of = |chords: &str| trace(&deep, chords, None, &[]).join(", ");
    assert_eq!(
        of("Lead+s h q Lead+w Escape Lead+w"),
        "desk: mode sizing, desk: main shrink, desk eats: Mode, desk eats: Mode, desk: mode leave, desk: close"
    );
    assert_eq!(
        of("Lead+p h q Lead+w Escape Lead+w"),
        "desk: mode passing, desk: main shrink, nobody, nobody, desk: mode leave, desk: close"
    );
    assert_eq!(of("Lead+l h q Lead+w"), "desk: mode leaving, desk: main shrink, desk eats: LeavesMode, desk: close");
    assert_eq!(of("Lead+s XF86AudioMute"), "desk: mode sizing, desk: reload", "media keys always work");
    assert_eq!(traps(&deep.scopes), Vec::<usize>::new());
    let trap = checked(
        "[keys.desk]\n\"Lead+s\" = \"mode a\"\n[keys.desk.modes.a]\n\"b\" = \"mode b\"\n[keys.desk.modes.b]\n\"a\" = \"mode a\"\n",
    );
    assert_eq!(traps(&trap.scopes).len(), 2, "two modes that lead to each other only");
}

#[test]
fn keys_that_type_keys_that_lead_back_are_found_among_others() {
    let told = |part: &str| -> usize {
        found(&checked(&format!("[keys.desk]\n{part}"))).iter().filter(|one| one.starts_with("keys/loop")).count()
    };
    assert_eq!(told("\"F5\" = \"press F6\"\n\"F6\" = \"press F5\"\n"), 1);
    assert_eq!(told("\"F5\" = \"press F6 F6 F1\"\n\"F6\" = \"press F2 F5\"\n"), 1, "among others");
    assert_eq!(told("\"F5\" = { do = \"press F1 F5\", on = \"release\" }\n"), 1, "itself");
    assert_eq!(told("\"F5\" = \"press Lead+g c\"\n\"Lead+g c\" = \"press F5\"\n"), 1, "by a sequence");
    assert_eq!(
        told("\"F5\" = \"press Lead+g c\"\n\"Lead+g c\" = \"close\"\n\"c\" = \"press F5\"\n"),
        0,
        "the sequence takes its last step"
    );
    assert_eq!(told("\"F5\" = \"press F6 F7\"\n\"F6\" = \"press F7\"\n\"F7\" = \"close\"\n"), 0, "two ways to one place");
}

#[test]
fn the_end_of_a_press_and_held_keys() {
    let deep = checked(DEEP);
    let (mut desk, cannot) = BindingMatcher::new(&deep.scopes, 0, us());
    assert_eq!(cannot, Vec::<usize>::new());
    let action = |at: usize| deep.scopes.action(at).cloned();
    let r = press("Lead+r");
    assert_eq!(desk.press(r, false), MatchResult::Consumed(ConsumeReason::Release));
    assert!(desk.holds_keys());
    assert_eq!(desk.release(r.key).and_then(action), Some(Action::Kill));
    assert_eq!(desk.release(r.key), None, "once");
    let t = press("Lead+t");
    assert!(matches!(desk.press(t, false), MatchResult::Act(_)));
    assert_eq!(desk.press(t, true), MatchResult::Consumed(ConsumeReason::Held));
    let w = press("Lead+w");
    assert!(matches!(desk.press(w, true), MatchResult::Act(_)), "others repeat");
    assert_eq!(desk.press(press("q"), false), MatchResult::Passed);
    let g = press("Lead+g");
    assert_eq!(desk.press(g, false), MatchResult::Wait);
    assert_eq!(desk.press(g, true), MatchResult::Consumed(ConsumeReason::Held), "a step that is held is that step, once");
    assert_eq!(desk.so_far, [g]);
    assert!(matches!(desk.press(press("c"), false), MatchResult::Act(_)), "and the sequence goes on");
    let grabs = desk.grabs();
    assert!(grabs.contains(&press("Lead+g")) && grabs.contains(&press("XF86AudioMute")) && !grabs.contains(&press("h")));
    desk.enter(Some("passing"));
    let grabs = desk.grabs();
    assert!(!desk.keeps_all() && grabs.contains(&press("h")) && grabs.contains(&press("XF86AudioMute")) && !grabs.contains(&w));
    desk.enter(Some("sizing"));
    assert!(desk.keeps_all());
    assert!(!desk.enter(Some("nowhere")));
}

#[test]
fn every_way_to_something_and_whether_it_arrives() {
    let both = checked(
        "[scope.panes]\ninside = \"terminal\"\n[keys.desk]\n\"Ctrl+q\" = \"close\"\n\"Lead+q\" = \"close\"\n[keys.panes]\n\"Ctrl+q\" = \"shut\"\n\"Alt+q\" = \"shut\"\n",
    );
    let ways = |what: &str| -> Vec<bool> {
        let wanted = |at: usize| both.scopes.bound[at].what.to_string() == what;
        ways_to(&both.scopes, us(), &wanted).iter().map(|way| way.arrives).collect()
    };
    assert_eq!(ways("close"), [true, true]);
    assert_eq!(ways("shut"), [false, true], "the desk takes the first");
    assert_eq!(ways("nothing"), Vec::<bool>::new());
}

/// The fights of a rice, one line each.
fn fought(part: &str, layouts: &[&str]) -> Vec<String> {
    let checked = checked(part);
    let asked =
        RuleNames { layouts: layouts.iter().map(|name| ((*name).to_owned(), String::new())).collect(), ..RuleNames::default() };
    let (keyboards, missing) = KeyboardLayouts::built_in(&asked, true);
    assert_eq!(missing, vec![]);
    let names = BindingLabels { scopes: &checked.scopes, keyboards: &keyboards, lead: Modifier::Super };
    fights(&checked.scopes, &keyboards).iter().map(|fight| format!("{} {}", fight.kind.code(), names.title(fight))).collect()
}

#[test]
fn fights_across_scopes_modes_and_layouts_and_none_that_is_not_there() {
    let none: Vec<String> = Vec::new();
    assert_eq!(fought(DEEP, &["us", "fr", "de"]), none);
    let apart = "[scope.a]\ninside = \"x\"\n[scope.b]\ninside = \"y\"\n[keys.a]\n\"Ctrl+q\" = \"one\"\n[keys.b]\n\"Ctrl+q\" = \"two\"\n[keys.desk.modes.c]\n\"q\" = \"close\"\n\"Escape\" = \"mode leave\"\n[keys.desk.modes.d]\n\"q\" = \"kill\"\n\"Escape\" = \"mode leave\"\n";
    assert_eq!(fought(apart, &["us"]), none, "never open together, never in one mode");
    let inner = "[scope.a]\ninside = \"x*\"\n[scope.b]\ninside = \"xy\"\nafter = \"a\"\n[keys.a]\n\"Ctrl+q\" = \"one\"\n[keys.b]\n\"Ctrl+q\" = \"two\"\n\"Alt+x Ctrl+q\" = \"three\"\n";
    assert_eq!(fought(inner, &["us"]), ["keys/swallowed Ctrl+q is taken by a: 2 bindings further in never get it"]);
    let bang = "[keys.desk]\n\"Lead+exclam\" = \"close\"\n\"Lead+Shift+1\" = \"kill\"\n";
    assert_eq!(fought(bang, &["us", "fr"]), ["keys/twice Lead+exclam has two actions on the desk, on the layout us"]);
    let release = "[keys.desk]\n\"Lead+q\" = \"close\"\n\"super+q\" = { do = \"kill\", on = \"release\" }\n";
    assert_eq!(fought(release, &["us"]), none, "going down and coming up are two moments");
    let same = "[keys.desk]\n\"Lead+q\" = \"close\"\n\"super+q\" = \"close\"\n";
    assert_eq!(fought(same, &["us"]), none, "the same said twice");
    let prefix = "[scope.a]\ninside = \"x\"\nprefix = \"Ctrl+b\"\n[keys.a]\n\"q\" = \"one\"\n[keys.desk]\n\"Ctrl+b\" = \"close\"\n\"q\" = \"kill\"\n";
    assert_eq!(
        fought(prefix, &["us"]),
        ["keys/swallowed Ctrl+b never gets to a: the desk takes it", "keys/swallowed q never gets to a: the desk takes it"]
    );
    let long = "[keys.desk]\n\"Lead+a\" = \"close\"\n\"Lead+a b\" = \"kill\"\n\"Lead+a b c\" = \"reload\"\n";
    assert_eq!(
        fought(long, &["us"]),
        [
            "keys/stalls Lead+a is a binding and also begins a sequence on the desk",
            "keys/stalls Lead+a b is a binding and also begins a sequence on the desk"
        ]
    );
}

#[test]
fn a_symbol_is_the_press_that_makes_it_on_each_layout() {
    let (keyboards, _) = KeyboardLayouts::built_in(
        &RuleNames { layouts: ["us", "fr", "de"].map(|name| (name.to_owned(), String::new())).into(), ..RuleNames::default() },
        true,
    );
    let made = |text: &str| -> Vec<String> {
        let chord = &ChordSequence::parse(text, "Super").expect("a chord").0[0];
        let one = |keyboard: &KeyboardLayout| {
            let press = keyboard.presses(chord).first().copied();
            press.map_or("-".to_owned(), |press| {
                format!(
                    "{} {}",
                    keyboard.cap(press.key).expect("a key").name,
                    Chord { modifiers: press.modifiers, ..chord.clone() }
                )
            })
        };
        keyboards.iter().map(one).collect()
    };
    assert_eq!(made("Lead+a"), ["AC01 Super+a", "AD01 Super+a", "AC01 Super+a"]);
    assert_eq!(made("Lead+exclam"), ["AE01 Super+Shift+exclam", "AB10 Super+exclam", "AE01 Super+Shift+exclam"]);
    assert_eq!(made("Lead+1"), ["AE01 Super+1", "AE01 Super+Shift+1", "AE01 Super+1"]);
    assert_eq!(made("Ctrl+at"), ["AE02 Ctrl+Shift+at", "AE10 Ctrl+Level3+at", "AD01 Ctrl+Level3+at"]);
    assert_eq!(made("odiaeresis")[0], "-");
    assert_eq!(made("<AD01>"), ["AD01 <AD01>", "AD01 <AD01>", "AD01 <AD01>"]);
    let back = keyboards.named("fr").expect("it is there");
    assert_eq!(back.chord(KeyCombo { key: 10, ..KeyCombo { key: 0, modifiers: Default::default() } }).to_string(), "ampersand");
    assert_eq!(back.beside(24, 1, 0).and_then(|key| back.letter(key)), Some('z'));
    assert_eq!((back.beside(24, -5, 0), back.beside(9, 1, 0)), (None, None));
}

#[test]
fn unknown_layouts_are_named_and_an_empty_keyboard_is_the_built_in_one() {
    let asked = RuleNames {
        layouts: vec![("xx".to_owned(), String::new()), ("fr".to_owned(), "bepo".to_owned())],
        ..RuleNames::default()
    };
    let (keyboards, missing) = KeyboardLayouts::built_in(&asked, false);
    assert_eq!((keyboards.count(), keyboards.first().layout.as_str()), (1, "us"));
    assert_eq!(missing.iter().map(|one| (one.nth, one.variant)).collect::<Vec<_>>(), [(0, false), (1, true)]);
    let empty = KeyboardLayout::of("none", "pc105", Vec::new(), [0; Modifier::ALL.len()], 0);
    assert_eq!(empty.presses(&ChordSequence::parse("Lead+q", "Super").expect("a chord").0[0]), vec![]);
    assert_eq!(empty.presses(&ChordSequence::parse("q", "Super").expect("a chord").0[0]), vec![]);
    let deep = checked(DEEP);
    let (_, cannot) = BindingMatcher::new(&deep.scopes, 0, &empty);
    assert!(cannot.len() > 10, "no key makes anything");
}

#[test]
fn letters_of_another_script_s_layout_are_those_of_the_first_one() {
    let plain = |code: u32, name: &str, sym: &str| jovrik_core::keys::LayoutKey {
        code,
        name: name.to_owned(),
        levels: vec![(jovrik_values::chord::sym_of(sym).expect("a keysym"), Default::default())],
    };
    let masks = Modifier::ALL.map(|modifier| if modifier == Modifier::Super { 64 } else { 0 });
    let greek = KeyboardLayout::of("gr", "pc105", vec![plain(24, "AD01", "Greek_alpha")], masks, 0);
    let chord = &ChordSequence::parse("Lead+q", "Super").expect("a chord").0[0];
    let both = |latin| KeyboardLayouts::new(vec![us().clone().into(), greek.clone().into()], latin);
    assert_eq!(both(true).nth(1).presses(chord).len(), 1);
    assert_eq!(both(false).nth(1).presses(chord).len(), 0);
}

#[test]
fn a_sheet_has_a_layer_for_each_set_of_modifiers() {
    let deep = checked(DEEP);
    let keyboards = boards();
    let names = BindingLabels { scopes: &deep.scopes, keyboards: &keyboards, lead: Modifier::Super };
    let told = |shown: SheetFilter<'_>| -> String {
        let one = |layer: &jovrik_core::keys::ModifierLayer| {
            let keys: Vec<String> =
                layer.entries.iter().map(|entry| format!("{} {}", label(us(), entry.key), entry.says)).collect();
            format!("{}: {}", layer.title, keys.join(", "))
        };
        layers(&names, us(), shown).iter().map(one).collect::<Vec<_>>().join("\n")
    };
    assert_snapshot!(told(SheetFilter::default()), @"
    no modifier: AudioMute reload
    Lead: W close, R kill, T layout next, P mode passing, S mode sizing, G focus next, G focus prev, L mode leaving
    Ctrl: S save, S send it,  prefix
    mode sizing: Esc mode leave, H main shrink
    mode passing: Esc mode leave, H main shrink
    mode leaving: H main shrink
    after Ctrl+space: G first pane, N new pane
    editor, review: Esc out of review, , next remark
    ");
    assert_snapshot!(told(SheetFilter { scope: Some(0), mode: Some("sizing"), known: false }), @"mode sizing: Esc mode leave, H main shrink");
}
