//! What a manifest says of its rice: its name, what of its problems is accepted, and whether a desk can be lived in.

use jovrik_core::check::{CheckedRice, Files, ProblemFilter, UnknownHost, check};
use jovrik_text::Source;
use proptest::prelude::*;

use crate::{checked, found};

/// A rice with two things that are warned of.
const PART: &str = "[rule.spare]\nmatch = { app = \"tidechart\" }\n[rule.other]\nmatch = { app = \"loghouse\" }\n";

fn with(manifest: &str) -> CheckedRice {
    let files = Files {
        manifest: Some(Source::new("rice.toml", manifest)),
        parts: vec![Source::new("parts/a.toml", PART)],
        ..Files::default()
    };
    check(files, &[], &UnknownHost)
}

fn allowing(allow: &str) -> CheckedRice {
    with(&format!("[rice]\nname = \"test\"\n[check]\nallow = [{allow}]\n"))
}

fn codes(checked: &CheckedRice) -> Vec<&str> {
    checked.problems.iter().map(|problem| problem.code).collect()
}

#[test]
fn a_name_is_fit_for_folders_and_pages_or_its_place_is_told() {
    for name in ["ebb", "tide-2", "a", "7"] {
        let checked = with(&format!("[rice]\nname = \"{name}\"\n"));
        assert_eq!(checked.errors(), 0, "{name}");
        assert_eq!(checked.manifest.rice.name, name);
    }
    for name in ["", "Ebb", "two words", "../up", "a/b", "ébb", "a_b", "a.b"] {
        let checked = with(&format!("[rice]\nname = \"{name}\"\n"));
        let wrong = found(&checked).into_iter().find(|one| !one.starts_with("rule/"));
        assert_eq!((wrong.as_deref(), checked.usable()), (Some("setting/type rice.toml:2:8"), false), "{name:?}");
    }
    let unnamed = with("[rice]\nsays = \"nothing\"\n");
    let problem = unnamed.problems.iter().find(|problem| problem.code == "setting/type").expect("it is told");
    assert_eq!(
        (problem.file.as_ref().map(|place| place.file.as_str()), problem.marks.len()),
        (Some("rice.toml"), 0),
        "there is no place to mark"
    );
    assert_eq!(check(Files::default(), &[], &UnknownHost).errors(), 0, "without a manifest nothing is asked of it");
}

#[test]
fn what_is_accepted_is_told_by_code_by_word_by_file_and_by_line() {
    let plain = allowing("");
    let warned: Vec<String> = found(&plain).into_iter().filter(|one| one.starts_with("rule/never")).collect();
    assert_eq!(warned.len(), 2, "{:?}", found(&plain));
    for (allow, left) in [
        ("\"rule/never\"", 0),
        ("\"rule/never:spare\"", 1),
        ("\"rule/never:other\"", 1),
        ("\"rule/never:parts/a.toml\"", 0),
        ("\"rule/never:parts/a.toml:2\"", 1),
        ("\"rule/never:spare\", \"rule/never:other\"", 0),
    ] {
        let checked = allowing(allow);
        let unused = codes(&checked).iter().filter(|code| **code == "rule/never").count();
        assert_eq!((unused, checked.accepted.len()), (left, 2 - left), "{allow}: {:?}", found(&checked));
        assert!(!codes(&checked).contains(&"check/unused-allow"), "{allow}");
    }
}

#[test]
fn what_is_accepted_and_never_occurs_is_told_where_it_stands() {
    let checked = allowing("\"rule/never\", \"keys/twice\", \"rule/never:spar\"");
    assert_eq!(found(&checked), ["check/unused-allow rice.toml:4:24", "check/unused-allow rice.toml:4:38"]);
    // What a computer lacks may be lacking elsewhere alone.
    assert_eq!(found(&allowing("\"rule/never\", \"program/not-found\", \"type/font-missing\"")), Vec::<String>::new());
}

#[test]
fn errors_are_never_accepted() {
    let files = Files {
        manifest: Some(Source::new("rice.toml", "[rice]\nname = \"test\"\n[check]\nallow = [\"setting/type\"]\n")),
        parts: vec![Source::new("parts/a.toml", "[space]\nedge = \"wide\"\n")],
        ..Files::default()
    };
    let checked = check(files, &[], &UnknownHost);
    assert_eq!((checked.errors(), checked.accepted.len()), (1, 0));
}

#[test]
fn an_accepted_code_is_read_in_its_parts() {
    let read = |text: &str| {
        let ProblemFilter { code, of, line } = ProblemFilter::parse(text);
        (code, of.unwrap_or_default(), line)
    };
    let whole = |code: &str, of: &str, line| (code.to_owned(), of.to_owned(), line);
    assert_eq!(read("keys/twice"), whole("keys/twice", "", None));
    assert_eq!(read("keys/twice:"), whole("keys/twice", "", None));
    assert_eq!(read("keys/twice:Lead+x"), whole("keys/twice", "Lead+x", None));
    assert_eq!(read("keys/twice:parts/a.toml"), whole("keys/twice", "parts/a.toml", None));
    assert_eq!(read("keys/twice:parts/a.toml:12"), whole("keys/twice", "parts/a.toml", Some(12)));
    assert_eq!(read("keys/twice:a:b"), whole("keys/twice", "a:b", None));
    assert_eq!(read(""), whole("", "", None));
}

proptest! {
    #[test]
    fn any_text_is_read_as_something_accepted(text in ".{0,40}") {
        let ProblemFilter { code, of, .. } = ProblemFilter::parse(&text);
        prop_assert!(text.starts_with(&code));
        prop_assert!(of.is_none_or(|of| !of.is_empty() && text.contains(&of)));
    }
}

/// Bindings that do nothing much, from `a` on.
fn bindings(count: usize, more: &str) -> String {
    let letters = ('a'..='z').take(count);
    let lines: String = letters.map(|letter| format!("\"Lead+{letter}\" = \"close\"\n")).collect();
    format!("[keys.desk]\n{lines}{more}")
}

#[test]
fn a_desk_that_nobody_can_leave_or_open_anything_on_is_told() {
    let told = |part: &str| -> Vec<String> {
        let checked = checked(part);
        let ways = checked.problems.iter().filter(|problem| problem.code == "desk/no-way");
        ways.map(|problem| problem.title.clone()).collect()
    };
    assert_eq!(told(&bindings(9, "")), Vec::<String>::new(), "a few bindings are a trial");
    assert_eq!(told(&bindings(10, "")), ["no key opens a program", "no key ends the desktop"]);
    let (quit, open) = ("\"Lead+F1\" = \"quit\"\n", "\"Lead+F2\" = \"run xterm\"\n");
    assert_eq!(told(&bindings(10, quit)), ["no key opens a program"]);
    assert_eq!(told(&bindings(10, open)), ["no key ends the desktop"]);
    for opens in ["summon terminal", "open terminal", "launcher", "run xterm"] {
        let part = format!("{}[program]\nterminal = \"xterm\"\n", bindings(10, &format!("{quit}\"Lead+F2\" = \"{opens}\"\n")));
        assert_eq!(told(&part), Vec::<String>::new(), "{opens}");
    }
    // One of several, a line of the launcher, and a press on a bar are ways as well.
    let several = "\"Lead+F1\" = [\"close\", \"quit\"]\n\"Lead+F2\" = [\"close\", \"run xterm\"]\n";
    assert_eq!(told(&bindings(10, several)), Vec::<String>::new());
    let line = format!("{}[launcher.own.leave]\nLeave = {{ do = \"quit\" }}\n", bindings(10, open));
    assert_eq!(told(&line), Vec::<String>::new());
    let press = format!(
        "{}[module.out]\nsource = \"time\"\npress = {{ left = \"quit\" }}\n[bar.top]\nend = [\"out\"]\n",
        bindings(10, open)
    );
    assert_eq!(told(&press), Vec::<String>::new());
}
