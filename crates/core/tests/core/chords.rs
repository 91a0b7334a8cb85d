use insta::assert_snapshot;
use jovrik_core::keys::KeyboardLayout;
use jovrik_values::action::Action;
use jovrik_values::chord::{ChordSequence, Modifier};

use crate::{checked, found};

fn normal(text: &str) -> String {
    ChordSequence::parse(text, "Super").map_or_else(|spelling| format!("{spelling:?}"), |keys| keys.to_string())
}

#[test]
fn spellings_of_one_chord_are_one_chord() {
    for text in ["Lead+Alt+F9", "alt+LEAD+f9", "Super+Alt+F9", "Alt+super+F9"] {
        assert_eq!(normal(text), "Super+Alt+F9", "{text}");
    }
    assert_eq!(normal("lead+return"), "Super+Return");
    assert_eq!(normal("Lead+g  c"), "Super+g c");
    assert_eq!(normal("Ctrl+plus"), "Ctrl+plus");
    assert_eq!(normal("Lead+."), "Super+period");
    assert_eq!(normal("Shift+Lead+<ad01>"), "Super+Shift+<AD01>");
    assert_eq!(normal("é"), "é");
    assert_eq!(normal("XF86AudioMute"), "XF86AudioMute");
}

#[test]
fn what_is_no_chord_says_why() {
    let texts = ["", "Lead+", "Lead+C", "Lead+É", "Sper+a", "Lead+Retrun", "Lead+<XX99>", "Super+Shift_L", "+"];
    let told: Vec<String> = texts.iter().map(|text| format!("{text:?}: {}", normal(text))).collect();
    assert_snapshot!(told.join("\n"), @r#"
    "": Empty
    "Lead+": NoKey("Lead+")
    "Lead+C": Capital { written: "Lead+C", letter: 'C' }
    "Lead+É": Capital { written: "Lead+É", letter: 'É' }
    "Sper+a": NoModifier("Sper")
    "Lead+Retrun": NoKey("Retrun")
    "Lead+<XX99>": NoKey("<XX99>")
    "Super+Shift_L": NoKey("Shift_L")
    "+": plus
    "#);
}

#[test]
fn a_symbol_of_the_shifted_level_is_the_same_press_as_shift_and_its_key() {
    let press = |text: &str| KeyboardLayout::us().presses(&ChordSequence::parse(text, "Super").expect("a chord").0[0])[0];
    assert_eq!(press("Lead+exclam"), press("Lead+Shift+1"));
    assert_eq!(press("Lead+Shift+exclam"), press("Lead+Shift+1"));
    assert_ne!(press("Lead+exclam"), press("Lead+1"));
    assert_eq!(press("Lead+<AD01>"), press("Lead+q"));
}

#[test]
fn every_key_of_the_keyboard_can_be_written_and_read_back() {
    let keyboard = KeyboardLayout::us();
    assert!(keyboard.caps.len() > 200, "{}", keyboard.caps.len());
    for cap in keyboard.caps.iter().filter(|cap| !keyboard.is_modifier(cap.code)) {
        let by_place = ChordSequence::parse(&format!("<{}>", cap.name), "Super").expect("a place");
        assert_eq!(keyboard.presses(&by_place.0[0])[0].key, cap.code, "{}", cap.name);
        let chord = keyboard.chord(keyboard.presses(&by_place.0[0])[0]);
        let read =
            ChordSequence::parse(&chord.to_string(), "Super").unwrap_or_else(|_| panic!("{chord} of {} reads back", cap.name));
        assert_eq!(keyboard.presses(&read.0[0])[0].key, cap.code, "{chord} of {}", cap.name);
    }
    for model in ["pc104", "pc105"] {
        let spots = &jovrik_core::keys::Geometry::of_model(model).spots;
        for (at, spot) in spots.iter().enumerate() {
            for other in &spots[..at] {
                let apart = spot.x + spot.w <= other.x
                    || other.x + other.w <= spot.x
                    || spot.y + spot.h <= other.y
                    || other.y + other.h <= spot.y;
                // A high Return is drawn narrow at its upper end.
                let corner = [spot.name, other.name].contains(&"RTRN");
                assert!(apart || corner, "{} and {} lie on each other on {model}", spot.name, other.name);
            }
        }
    }
}

#[test]
fn the_lead_is_what_the_last_file_says() {
    let checked = crate::checked_parts(&[
        ("parts/a.toml", "[keys]\nlead = \"Super\"\n[keys.desk]\n\"Lead+x\" = \"close\"\n"),
        ("parts/b.toml", "[keys]\nlead = \"Alt\"\n[keys.desk]\n\"Alt+x\" = \"quit\"\n"),
    ]);
    assert_eq!(checked.lead(), Modifier::Alt);
    assert_eq!(found(&checked), ["keys/twice parts/a.toml:4:1", "setting/twice parts/a.toml:2:1"]);
}

#[test]
fn bindings_are_checked_for_what_they_name() {
    let part = "[program]\nchart = \"tidechart\"\n[keys.desk]\n\"Lead+a\" = \"open chrt\"\n\"Lead+b\" = \"go nowhere-near\"\n\"Lead+c\" = \"layout solo\"\n\"Lead+d\" = \"layout slo\"\n\"Lead+e\" = \"main shirnk\"\n\"Ctrl+Alt+F3\" = \"close\"\n\"Lead+f\" = \"bar toggle top\"\n\"Lead+h\" = \"run 'x\"\n\"Lead+i\" = \"none\"\n";
    let checked = checked(part);
    assert_eq!(
        found(&checked),
        [
            "keys/nothing-to-open parts/a.toml:4:12",
            "keys/unknown-action parts/a.toml:5:12",
            "keys/unknown-action parts/a.toml:7:12",
            "keys/unknown-action parts/a.toml:8:12",
            "keys/reserved parts/a.toml:9:1",
            "keys/unknown-action parts/a.toml:10:12",
            "keys/unknown-action parts/a.toml:11:12",
        ]
    );
    let fixes: Vec<Option<&str>> =
        checked.problems.iter().map(|problem| problem.fix.as_ref().map(|fix| fix.edits[0].text.as_str())).collect();
    assert_eq!(fixes, [Some("\"open chart\""), None, Some("\"layout solo\""), Some("\"main shrink\""), None, None, None]);
}

#[test]
fn fights_are_found_whatever_the_spelling_and_peace_is_kept() {
    let codes = |part: &str| found(&checked(&format!("[keys.desk]\n{part}")));
    assert_eq!(codes("\"Lead+1\" = \"close\"\n\"Lead+exclam\" = \"quit\"\n"), Vec::<String>::new());
    assert_eq!(codes("\"Lead+Shift+1\" = \"close\"\n\"Lead+exclam\" = \"quit\"\n"), ["keys/twice parts/a.toml:2:1"]);
    assert_eq!(codes("\"Lead+x\" = \"close\"\n\"Super+x\" = \"close\"\n"), Vec::<String>::new(), "the same action is no fight");
    assert_eq!(codes("\"Lead+x\" = \"close\"\n\"Super+x\" = \"none\"\n"), Vec::<String>::new(), "none takes away");
    assert_eq!(
        codes("\"Lead+g\" = \"close\"\n\"Lead+g a b\" = \"quit\"\n\"Lead+g a\" = \"kill\"\n"),
        ["keys/stalls parts/a.toml:2:1", "keys/stalls parts/a.toml:4:1"]
    );
}

#[test]
fn a_line_for_the_shell_needs_no_quotes_round_it() {
    let line = "jovrik-mixer up; echo \"it's $(jovrik-mixer level)\" | cat";
    let action = Action::parse(&format!("shell {line}")).expect("an action");
    assert_eq!(action, Action::Shell(line.to_owned()));
    assert_eq!(Action::parse(&action.to_string()), Ok(action.clone()), "as it is written, so it is read: {action}");
    assert_eq!(Action::parse("shell 'one; two'"), Ok(Action::Shell("one; two".to_owned())));
    assert_eq!(Action::parse("shell ls"), Ok(Action::Shell("ls".to_owned())));
    assert!(Action::parse("shell").is_err());
}
