//! How chords are written: what others call keys, what is misspelled, and what is read back as it was told.

use jovrik_core::check::CheckedRice;
use jovrik_core::keys::KeyboardLayout;
use jovrik_toml::apply_edits;
use jovrik_values::chord::{Chord, ChordKey, ChordSequence, Modifier, Modifiers, meant, sym_name};
use proptest::prelude::*;

use crate::{checked, found};

fn bound(keys: &str) -> String {
    format!("[keys.desk]\n\"{keys}\" = \"close\"\n")
}

/// A part whose only problem is mended.
#[track_caller]
fn mended(part: &str) -> String {
    let checked: CheckedRice = checked(part);
    assert_eq!(checked.problems.len(), 1, "{part}: {:?}", found(&checked));
    let fix = checked.problems[0].fix.clone().expect("it is certain enough to be mended");
    apply_edits(part, &fix.edits)
}

#[test]
fn what_others_call_keys_and_modifiers_is_mended_to_what_they_are_called_here() {
    for (written, ours) in [
        ("Lead+Enter", "Lead+Return"),
        ("Lead+esc", "Lead+Escape"),
        ("Lead+SpaceBar", "Lead+space"),
        ("Lead+bs", "Lead+BackSpace"),
        ("Lead+del", "Lead+Delete"),
        ("Lead+PgUp", "Lead+Prior"),
        ("Lead+pgdn", "Lead+Next"),
        ("Lead+ArrowLeft", "Lead+Left"),
        ("Lead+PrtSc", "Lead+Print"),
        ("Lead+dot", "Lead+period"),
        ("Lead+dash", "Lead+minus"),
        ("Lead+backtick", "Lead+grave"),
        ("VolumeUp", "XF86AudioRaiseVolume"),
        ("Lead+Retrun", "Lead+Return"),
        ("Lead+Escpe", "Lead+Escape"),
        ("Control+q", "Ctrl+q"),
        ("Strg+q", "Ctrl+q"),
        ("Win+q", "Super+q"),
        ("AltGr+q", "Level3+q"),
        ("Option+q", "Alt+q"),
        ("Sper+q", "Super+q"),
        ("Shfit+Lead+F2", "Shift+Lead+F2"),
        ("Leader+q", "Lead+q"),
    ] {
        let text = mended(&bound(written));
        assert_eq!(text, bound(ours), "{written}");
        assert_eq!(found(&checked(&text)), Vec::<String>::new(), "{ours}");
    }
    assert_eq!(mended("[keys.desk]\n'Lead+Enter' = \"close\"\n"), "[keys.desk]\n'Lead+Return' = \"close\"\n", "quotes stay");
}

#[test]
fn what_cannot_be_guessed_is_told_with_what_there_is() {
    let note = |keys: &str| {
        let checked = checked(&bound(keys));
        assert_eq!(checked.problems.len(), 1, "{keys}: {:?}", found(&checked));
        let problem = &checked.problems[0];
        assert!(problem.fix.is_none(), "{keys}");
        (problem.code, problem.title.clone(), problem.marks[0].note.clone())
    };
    let (code, title, says) = note("Quayside+q");
    assert_eq!((code, title.as_str()), ("keys/no-key", "Quayside is no modifier"));
    assert!(says.starts_with("the modifiers are Lead, "), "{says}");
    assert_eq!(note("Lead+harbourmaster").1, "there is no key harbourmaster");
    assert_eq!(note("").1, "a binding without a key");
    let long = vec!["a"; 65].join(" ");
    assert_eq!(note(&long).1, "a sequence of 65 chords; 64 is the most");
}

#[test]
fn a_capital_is_never_guessed_and_both_ways_are_advised() {
    for (keys, small, shifted) in
        [("Lead+C", "Lead+c", "Lead+Shift+c"), ("C", "c", "Shift+c"), ("Lead+g Ctrl+Ä", "Lead+g Ctrl+ä", "Lead+g Ctrl+Shift+ä")]
    {
        let checked = checked(&bound(keys));
        let problem = &checked.problems[0];
        assert_eq!((checked.problems.len(), problem.code), (1, "keys/capital"), "{keys}");
        let advice: Vec<&str> = problem.advice.iter().map(|one| one.write.trim_matches('"')).collect();
        assert_eq!(advice, [small, shifted], "{keys}");
        for text in advice {
            assert!(ChordSequence::parse(text, "Super").is_ok(), "{text}");
        }
    }
}

#[test]
fn a_capital_beside_shift_is_one_thing_and_mended() {
    for (keys, meant) in [("Lead+Shift+C", "\"Lead+Shift+c\""), ("Lead+g Ctrl+Shift+Ä", "\"Lead+g Ctrl+Shift+ä\"")] {
        let checked = checked(&bound(keys));
        let problem = &checked.problems[0];
        assert_eq!((checked.problems.len(), problem.code), (1, "keys/capital"), "{keys}");
        let fix = problem.fix.as_ref().expect("a correction");
        assert_eq!(fix.edits.iter().map(|edit| edit.text.as_str()).collect::<Vec<_>>(), [meant], "{keys}");
        assert!(problem.advice.iter().all(|one| !one.write.contains("Shift+Shift")), "{keys}");
    }
}

#[test]
fn keys_that_are_values_are_told_in_the_same_words() {
    let told = |prefix: &str| -> Vec<(&'static str, String)> {
        let part = format!("[scope.mux]\ninside = \"xterm\"\nprefix = \"{prefix}\"\n");
        checked(&part).problems.into_iter().map(|problem| (problem.code, problem.title)).collect()
    };
    assert_eq!(told("Ctrl+space"), []);
    assert_eq!(told("Ctrl+spcae"), [("keys/no-key", "there is no key spcae".to_owned())]);
    assert_eq!(told("Quay+a"), [("keys/no-key", "Quay is no modifier".to_owned())]);
    assert_eq!(told("Ctrl+A"), [("keys/capital", "Ctrl+A never fires".to_owned())]);
    assert_eq!(told("").len(), 1);
}

#[test]
fn several_slips_in_one_text_are_all_understood() {
    assert_eq!(meant("Control+Enter", "Super").as_deref(), Some("Ctrl+Return"));
    assert_eq!(meant("Win+Control+esc PgUp", "Super").as_deref(), Some("Super+Ctrl+Escape Prior"));
    assert_eq!(meant("Lead+q", "Alt").as_deref(), Some("Alt+q"));
    for nothing in ["", "Lead+C", "Quayside+q", "Lead+harbourmaster"] {
        assert_eq!(meant(nothing, "Super"), None, "{nothing}");
    }
}

fn modifiers() -> impl Strategy<Value = Modifiers> {
    prop::collection::vec(0..Modifier::ALL.len(), 0..4)
        .prop_map(|all| all.into_iter().fold(Modifiers::default(), |held, nth| held.with(Modifier::ALL[nth])))
}

fn key() -> impl Strategy<Value = ChordKey> {
    let caps = || KeyboardLayout::us().caps.iter();
    let symbols: Vec<u32> = caps().filter_map(|cap| KeyboardLayout::us().plain_sym(cap.code)).collect();
    let symbols: Vec<u32> = symbols.into_iter().filter(|sym| ChordSequence::parse(&sym_name(*sym), "Super").is_ok()).collect();
    let places: Vec<String> = caps().map(|cap| format!("<{}>", cap.name)).collect();
    prop_oneof![
        4 => prop::sample::select(symbols).prop_map(ChordKey::Sym),
        2 => prop::sample::select(places).prop_map(ChordKey::Place),
        1 => (1..=9u32).prop_map(ChordKey::Button),
    ]
}

proptest! {
    #[test]
    fn chords_are_read_back_as_they_are_told(all in prop::collection::vec((modifiers(), key()), 1..4), lead in 0..Modifier::ALL.len()) {
        let keys = ChordSequence(all.into_iter().map(|(modifiers, key)| Chord { modifiers, key }).collect());
        let lead = Modifier::ALL[lead];
        prop_assert_eq!(ChordSequence::parse(&keys.to_string(), lead.word()), Ok(keys.clone()));
        prop_assert_eq!(ChordSequence::parse(&keys.with_lead(lead), lead.word()), Ok(keys.clone()));
    }

    #[test]
    fn any_text_is_a_chord_or_says_why_not(text in "[ -~é<>+]{0,24}") {
        match ChordSequence::parse(&text, "Super") {
            Ok(keys) => prop_assert_eq!(ChordSequence::parse(&keys.to_string(), "Super"), Ok(keys)),
            Err(spelling) => {
                let wrong = spelling.wrong();
                prop_assert!(!wrong.note.is_empty());
            }
        }
        if let Some(meant) = meant(&text, "Super") {
            prop_assert!(ChordSequence::parse(&meant, "Super").is_ok(), "{}", meant);
        }
    }

    #[test]
    fn keysyms_have_a_name_that_is_read_back(sym in prop_oneof![0x20..0x7fu32, 0xa0..0xffu32, 0xff08..0xffffu32, 0x0100_0100..0x0100_2000u32]) {
        let name = sym_name(sym);
        prop_assert!(!name.is_empty());
        if let Ok(keys) = ChordSequence::parse(&name, "Super") {
            // One character may have two keysyms: the older one is meant.
            prop_assert_eq!(ChordSequence::parse(&keys.to_string(), "Super"), Ok(keys));
        }
    }
}
