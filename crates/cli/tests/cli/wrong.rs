//! The wrong thing, tried with every command: it is refused in words, with its exit code, and nothing is written or lost.

use crate::{Desk, Run, photograph};

/// All commands and those below them, as the help lists them.
fn commands(desk: &Desk, above: &[&str]) -> Vec<Vec<String>> {
    let arguments: Vec<&str> = above.iter().copied().chain(["--help"]).collect();
    let help = desk.run(&arguments).clean();
    let mut all = Vec::new();
    for line in help.lines() {
        let name = line.strip_prefix("  ").filter(|rest| rest.starts_with(|c: char| c.is_ascii_lowercase()));
        let Some(name) = name.and_then(|rest| rest.split_whitespace().next()) else { continue };
        let own: Vec<&str> = above.iter().copied().chain([name]).collect();
        let one: Vec<&str> = own.iter().copied().chain(["--help"]).collect();
        let run = desk.run(&one);
        // Other lines of a help begin with a small letter as well.
        if name != "help" && run.code == 0 && run.out != help {
            all.push(own.iter().map(|word| (*word).to_owned()).collect());
        }
    }
    all
}

/// Whether a refusal says something that one can act on: a sentence of its own, and no inside of the program.
#[track_caller]
fn is_said(what: &[&str], run: &Run) {
    let all = format!("{}{}", run.out, run.err);
    assert_ne!(run.code, 0, "{what:?}: {all}");
    assert!((1..=3).contains(&run.code), "{what:?} ends with {}: {all}", run.code);
    assert!(!all.trim().is_empty(), "{what:?} says nothing");
    for inside in ["panicked", "RUST_BACKTRACE", "unwrap", "Os {", "src/", "Error("] {
        assert!(!all.contains(inside), "{what:?} says {inside}: {all}");
    }
    assert!(all.lines().all(|line| line.chars().count() <= 400), "{what:?}: {all}");
}

#[test]
fn every_command_refuses_what_it_does_not_know_and_leaves_all_as_it_is() {
    let desk = Desk::sample();
    let mut all = commands(&desk, &[]);
    assert!(all.len() > 20, "{all:?}");
    for group in ["keys", "machine", "palette", "greet"] {
        let own = commands(&desk, &[group]);
        all.extend(own);
    }
    let before = photograph(desk.path());
    for command in &all {
        let words: Vec<&str> = command.iter().map(String::as_str).collect();
        for wrong in
            [&["--no-such-flag"][..], &["--no-such-flag=4"], &["--rice"], &["--rice", "/nonexistent/rice", "--no-such-flag"]]
        {
            let whole: Vec<&str> = words.iter().copied().chain(wrong.iter().copied()).collect();
            is_said(&whole, &desk.run(&whole));
        }
    }
    assert_eq!(photograph(desk.path()), before);
}

#[test]
fn wrong_words_are_refused_by_name_with_what_was_probably_meant() {
    let desk = Desk::sample();
    let before = photograph(desk.path());
    for (wrong, says) in [
        (&["chekc"][..], "check"),
        (&["set", "space.egde=4"], "edge"),
        (&["set", "space.edge=wide"], "edge"),
        (&["set", "nowhere.at.all=4"], "nowhere"),
        (&["set", "bar.top.thick=99999"], "thick"),
        (&["reset", "space.egde"], "edge"),
        (&["show", "space.egde"], "edge"),
        (&["why", "space.egde"], "edge"),
        (&["toggle", "space.egde"], "edge"),
        (&["show", "workspcaes"], "workspaces"),
        (&["look", "--size", "wide"], "size"),
        (&["look", "--size", "0x0"], "size"),
        (&["look", "--machine", "nobody"], "nobody"),
        (&["look", "--out", "/nonexistent/folder/a.png"], "nonexistent"),
        (&["keys", "trace", "Quayside+q"], "Quayside"),
        (&["keys", "trace", "Lead+C"], "Lead+C"),
        (&["keys", "free", "--near", "Quayside+q"], "Quayside"),
        (&["tell", "go nowhere-at-all"], ""),
        (&["tell", "gone"], "gone"),
        (&["ask", "nothing"], ""),
        (&["undo", "nothing"], "nothing"),
        (&["new", "../rice"], "rice"),
        (&["adopt", "/nonexistent/bundle.jovrik"], "nonexistent"),
        (&["schema", "of-nothing"], "of-nothing"),
        (&["help", "no-such-topic-at-all"], ""),
    ] {
        let run = desk.run(wrong);
        is_said(wrong, &run);
        let all = format!("{}{}", run.out, run.err);
        assert!(all.contains(says), "{wrong:?} names {says}: {all}");
    }
    assert_eq!(photograph(desk.path()), before, "nothing is written");
}

#[test]
fn a_folder_that_is_no_rice_is_said_to_be_none() {
    let desk = Desk::empty();
    std::fs::write(desk.rice().join("notes.txt"), "nothing of ours").expect("written");
    let before = photograph(desk.path());
    for command in [
        &["check"][..],
        &["show", "space"],
        &["look"],
        &["keys", "list"],
        &["set", "space.edge=4"],
        &["apply"],
        &["publish", "--bundle", "x"],
    ] {
        let run = desk.run(command);
        is_said(command, &run);
        let all = format!("{}{}", run.out, run.err);
        assert!(all.contains("rice"), "{command:?}: {all}");
    }
    assert_eq!(photograph(desk.path()), before);
}

#[test]
fn values_of_strangers_are_refused_or_kept_as_they_are() {
    let desk = Desk::of("[space]\nedge = 4\n");
    for value in
        ["", " ", "\n", "\"", "'", "\\", "[", "{", "= 4", "4 # note", "\u{202e}4", "true", "1e400", "99999999999999999999", "-1"]
    {
        let before = desk.read("parts/a.toml");
        let assignment = format!("space.edge={value}");
        let run = desk.run(&["set", &assignment]);
        if run.code == 0 {
            assert_eq!(desk.run(&["check"]).code, 0, "{value:?} was taken");
        } else {
            is_said(&["set", &assignment], &run);
            assert_eq!(desk.read("parts/a.toml"), before, "{value:?}");
        }
    }
    for text in ["", "a \"quoted\" word", "tab\there", "back\\slash", "é☃", "{", "=", "# no note"] {
        let assignment = format!("module.says.empty={text}");
        let run = desk.run(&["set", &assignment]);
        if run.code == 0 {
            let shown = desk.run(&["show", "module.says.empty", "--json"]).clean();
            let read: serde_json::Value = serde_json::from_str(shown.lines().next().unwrap_or_default()).expect("JSON");
            assert_eq!(read["value"], jovrik_toml::quoted(text), "{text:?}: {shown}");
        } else {
            is_said(&["set", &assignment], &run);
        }
    }
}
