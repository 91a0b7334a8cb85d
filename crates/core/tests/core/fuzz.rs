//! Inputs of strangers that nobody thought of: whatever stands in them, reading them ends, and nothing else does.

use std::path::Path;

use jovrik_core::check::{Files, UnknownHost, check, reaching, seen};
use jovrik_core::desk::SavedState;
use jovrik_core::desktop::{markup, plain};
use jovrik_core::machine::Machine;
use jovrik_core::template;
use jovrik_fuzz::tries;
use jovrik_text::limits::{cut, cut_bytes};
use jovrik_text::{Source, shell_words};
use jovrik_values::Pattern;
use jovrik_values::action::Action;
use jovrik_values::chord::ChordSequence;

/// The files of the samples below a folder.
fn samples(folder: &str) -> Vec<Vec<u8>> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../samples").join(folder);
    let mut open = vec![folder];
    let mut files = Vec::new();
    while let Some(path) = open.pop() {
        for entry in std::fs::read_dir(path).expect("samples") {
            let path = entry.expect("an entry").path();
            match path.is_dir() {
                true => open.push(path),
                false if path.extension().is_some_and(|end| end == "toml") => files.push(std::fs::read(path).expect("read")),
                false => {}
            }
        }
    }
    files.sort();
    files
}

fn texts(of: &[&str]) -> Vec<Vec<u8>> {
    of.iter().map(|text| text.as_bytes().to_vec()).collect()
}

fn rice(folder: &str, bytes: &[u8]) {
    let text = String::from_utf8_lossy(bytes);
    let mut files = Files { manifest: Some(Source::new("rice.toml", "[rice]\nname = \"x\"\n")), ..Files::default() };
    files.add(Source::new(format!("{folder}/a.toml"), &*text));
    let checked = check(files, &[], &UnknownHost);
    // Every problem has a place in a file, and what reaches out can be said or not: both end.
    for problem in &checked.problems {
        problem.place(&checked.sources);
        problem.marks.iter().for_each(|mark| drop(checked.sources.place(mark.span)));
    }
    let _ = reaching(&checked.sources);
}

#[test]
fn fuzz_settings() {
    let corpus = [samples("saltmarsh/parts"), samples("broken")].concat();
    tries("settings", &corpus, 1500, |bytes| rice("parts", bytes));
}

#[test]
fn fuzz_overlays_and_machines() {
    let corpus = [samples("saltmarsh/overlays"), samples("saltmarsh/machines")].concat();
    tries("overlays and machines", &corpus, 4000, |bytes| {
        rice("overlays", bytes);
        rice("machines", bytes);
    });
}

#[test]
fn fuzz_text_patterns_and_templates() {
    let corpus =
        texts(&["{load}%", "{flow} {level:.1} m", "{used:>8 bytes|none}", "{past:spark 30}", "{now:%H:%M}", "{{{value}}}"]);
    tries("text patterns and templates", &corpus, 40_000, |bytes| {
        let text = String::from_utf8_lossy(bytes);
        if let Ok(pattern) = Pattern::parse(&text) {
            pattern.fields().for_each(drop);
        }
        template::holes(&text);
        seen(&text);
        cut(&text, bytes.len() / 2);
        cut_bytes(&text, bytes.len() / 3);
    });
}

#[test]
fn fuzz_chords_and_actions() {
    let corpus = texts(&[
        "Lead+Shift+Return",
        "Super+g c",
        "<AD01>",
        "Ctrl+space",
        "run xterm -e 'a b'",
        "set frame.width 4",
        "backdrop art/x.png",
        "focus left",
        "notices pause 30m",
        "screenshot area clipboard",
        "go charts",
    ]);
    tries("chords and actions", &corpus, 40_000, |bytes| {
        let text = String::from_utf8_lossy(bytes);
        if let Ok(keys) = ChordSequence::parse(&text, "Super") {
            let again = ChordSequence::parse(&keys.to_string(), "Super");
            assert!(again.is_ok_and(|again| again == keys), "{text:?} is written {keys}");
        }
        if let Ok(action) = Action::parse(&text) {
            let written = action.to_string();
            assert_eq!(Action::parse(&written).as_ref(), Ok(&action), "{text:?} is written {written:?}");
        }
        let _ = shell_words(&text);
    });
}

#[test]
fn fuzz_markup() {
    let corpus =
        texts(&["<b>Low</b> water &amp; <i>ebb</i>", "<a href=\"x\">chart</a> <img src='y' alt='z'/>", "&#65;&#x42;", "1 < 2"]);
    tries("markup", &corpus, 40_000, |bytes| {
        let body = String::from_utf8_lossy(bytes);
        assert!(plain(&markup(&body)).len() <= body.len());
    });
}

#[test]
fn fuzz_kept_desks() {
    let corpus = texts(&[
        r#"{"monitors":{"DP-1":"a"},"monitor":"DP-1","back":null,"bars":[["top",null]],"groups":[],"workspaces":{"a":{"home":"DP-1","layout":"r","memory":{"r":{"Ribbon":{"columns":[{"windows":1,"width":{"Nth":1}},{"windows":2,"width":{"Share":300}}],"ids":[3,5,9],"view":0}},"h":{"Halving":{"piece":{"Halves":{"beside":true,"share":5000,"first":"Whole","second":"Whole"}},"ids":[3,5]}},"m":{"Main":{"share":500,"mains":2}}},"focus":[3,5]}},"windows":[{"id":3,"app":"x","workspace":"a","floating":true,"place":{"x":0,"y":0,"w":9,"h":9},"lift":2}]}"#,
        "{}",
    ]);
    tries("kept desks", &corpus, 4000, |bytes| {
        if let (Some(kept), _) = SavedState::read(bytes) {
            ["r", "h", "m"].into_iter().for_each(|layout| crate::kept::lives_with(kept.clone(), layout));
        }
    });
}

#[test]
fn fuzz_facts_of_computers() {
    tries("facts of computers", &samples("saltmarsh/machines"), 4000, |bytes| {
        let mut sources = jovrik_text::Sources::default();
        let file = sources.add(Source::new("machines/a.toml", &*String::from_utf8_lossy(bytes)));
        let _ = Machine::of_file(&sources, file, &mut Vec::new());
    });
}

#[test]
fn a_monitor_lies_no_farther_away_than_any_does() {
    for (at, fits) in [("-65536,65536", true), ("-65537,0", false), ("0,-2147483648", false), ("-2147483648,0", false)] {
        let codes = |folder: &str, text: String| {
            let mut files = Files { manifest: Some(Source::new("rice.toml", "[rice]\nname = \"x\"\n")), ..Files::default() };
            files.add(Source::new(format!("{folder}/a.toml"), text));
            let checked = check(files, &[], &UnknownHost);
            checked.problems.iter().any(|problem| problem.code == "setting/range" || problem.code == "setting/type")
        };
        let machine = format!("host = \"x\"\n[monitor]\nDP-1 = {{ size = \"1920x1080\", at = \"{at}\" }}\n");
        assert_eq!(!codes("machines", machine), fits, "{at} of a computer");
        assert_eq!(!codes("parts", format!("[monitor.a]\nat = \"{at}\"\n")), fits, "{at} of a rice");
    }
}

#[test]
fn whatever_is_nested_however_deep_ends_nothing() {
    let deep = 65_000;
    let nested = [
        format!("a = {}", "[".repeat(deep)),
        format!("a = {}", "{a=".repeat(deep / 3)),
        format!("a = {}", "{".repeat(deep)),
        format!("a = {}", "[{a=".repeat(deep / 4)),
        format!("{}a = 1", "a.".repeat(deep / 2)),
        format!("[{}a]", "a.".repeat(deep / 2)),
        format!("[[{}a]]", "a.".repeat(deep / 2)),
        format!("a = {{ {}a = 1 }}", "a.".repeat(deep / 2)),
        format!("[monitor]\nDP-1 = {{ size = {} }}", "[".repeat(deep)),
        format!("[monitor.{}a]\nb = 1", "\"a\".".repeat(deep / 4)),
        format!("a = {{ b = 1,{}", "\u{1b}[2J".repeat(deep / 4)),
        format!("a = {{ b = 1, {}", "[a ".repeat(deep / 4)),
        format!("a = [ 1, {}", "[a ".repeat(deep / 4)),
        format!("a = [ 1, {}", "{ ".repeat(deep / 4)),
        format!("a = {{ {}", "{ ".repeat(deep / 4)),
    ];
    // The same after a table that stands twice: what is meant is looked up in another way then.
    let twice = nested.iter().map(|text| format!("[x]\nb = 1\n[x]\nb = 1\n{text}")).collect::<Vec<_>>();
    for text in nested.iter().chain(&twice) {
        let begin: String = text.chars().take(24).collect();
        let mut sources = jovrik_text::Sources::default();
        let file = sources.add(Source::new("machines/a.toml", text.as_str()));
        let _ = Machine::of_file(&sources, file, &mut Vec::new());
        for folder in ["parts", "overlays", "machines", "dialects"] {
            let mut files = Files { manifest: Some(Source::new("rice.toml", "[rice]\nname = \"x\"\n")), ..Files::default() };
            files.add(Source::new(format!("{folder}/a.toml"), text.as_str()));
            let checked = check(files, &[], &UnknownHost);
            assert!(!checked.problems.is_empty(), "{begin}");
        }
        let manifest = Source::new("rice.toml", text.as_str());
        let _ = check(Files { manifest: Some(manifest), ..Files::default() }, &[], &UnknownHost);
    }
}
