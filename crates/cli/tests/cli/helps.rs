//! Help, what commands are called by others, and how they end.

use insta::assert_snapshot;

use crate::Desk;

/// The names of all commands, those inside others with both words.
fn commands(desk: &Desk) -> Vec<Vec<String>> {
    let pages = desk.run(&["man", "--out", "pages"]).clean();
    assert!(pages.contains("pages into pages"), "{pages}");
    let names = std::fs::read_dir(desk.rice().join("pages")).expect("pages");
    let name = |entry: std::io::Result<std::fs::DirEntry>| {
        let name = entry.expect("a page").file_name().into_string().expect("UTF-8");
        let words = name.strip_suffix(".1")?.strip_prefix("jovrik-")?;
        Some(words.split('-').map(str::to_owned).collect())
    };
    names.filter_map(name).collect()
}

#[test]
fn every_command_has_two_examples_that_are_understood_and_its_own_options_first() {
    let desk = Desk::empty();
    let all = commands(&desk);
    assert!(all.len() > 45, "{}", all.len());
    for words in all {
        let words: Vec<&str> = words.iter().map(String::as_str).collect();
        let long = desk.run(&[&words[..], &["--help"]].concat()).clean();
        let (options, examples) = long.split_once("Examples:\n").unwrap_or_else(|| panic!("{words:?} has no examples:\n{long}"));
        let lines: Vec<&str> = examples.lines().filter(|line| line.starts_with("  ") && !line.starts_with("   ")).collect();
        assert_eq!(lines.len(), 2, "{words:?}");
        for line in lines {
            // Of a pipe and of a redirection, what is ours.
            let own =
                line.split(['|', '>']).find(|part| part.trim_start().starts_with("jovrik ")).expect("a line of ours").trim();
            let typed = jovrik_text::shell_words(own).expect("closed quotes");
            let mut typed: Vec<&str> = typed[1..].iter().map(String::as_str).collect();
            let at = if typed[0] == "tell" { 1 } else { typed.len() };
            typed.insert(at, "--help");
            desk.run(&typed).clean();
        }
        let short = desk.run(&[&words[..], &["-h"]].concat()).clean();
        assert!(short.lines().count() < long.lines().count() && !short.contains("Examples:"), "{words:?}");
        let heading = options.find("Options of all commands").expect("a heading");
        assert!(options.find("\nOptions:").is_none_or(|own| own < heading), "{words:?}: {options}");
        for line in long.lines().chain(short.lines()) {
            assert!(line.chars().count() <= 100, "{words:?}: {line}");
        }
    }
}

#[test]
fn what_others_call_a_command_is_answered_with_what_to_type() {
    let desk = Desk::empty();
    assert_snapshot!(desk.run(&["theme"]).failed(2), @"
    error  there is no command theme
      → jovrik palette list      is what does it
    ");
    for (typed, instead) in [
        (&["font"][..], "jovrik settings font"),
        (&["reload"], "jovrik tell reload"),
        (&["status"], "jovrik ask health"),
        (&["chek"], "jovrik check"),
        (&["chords"], "jovrik help chords"),
        (&["bind", "Super+e"], "jovrik set 'keys.desk.\"CHORD\"' ACTION"),
        (&["keys", "add", "Super+e"], "jovrik set 'keys.desk.\"CHORD\"' ACTION"),
        (&["rules", "add"], "jovrik set rule.NAME.match"),
        (&["palette", "noon"], "jovrik palette use noon"),
        (&["keys", "lst"], "jovrik keys list"),
        (&["rehearse"], "jovrik --help"),
    ] {
        let told = desk.run(typed).failed(2);
        assert!(told.contains(instead) && told.starts_with("error  there is no command "), "{typed:?}: {told}");
    }
    assert_snapshot!(desk.run(&["help", "zork"]).failed(2), @"
    error  there is no page zork
      jovrik help lists all of them; jovrik settings zork looks among the settings
    ");
}

#[test]
fn a_page_of_grammar_is_shown_within_any_width() {
    let desk = Desk::empty();
    let index = desk.run(&["help"]).clean();
    for topic in jovrik_core::rice::TOPICS {
        assert!(index.contains(topic.name), "{index}");
        for width in ["60", "80", "120"] {
            let run = desk.command(desk.path(), &["help", topic.name]).env("COLUMNS", width).output().expect("it runs");
            let page = String::from_utf8(run.stdout).expect("UTF-8");
            let most: usize = width.parse().expect("a number");
            // What is written in files is not broken into lines.
            let broken = page.lines().find(|line| !line.starts_with("    ") && line.chars().count() > most);
            assert!(broken.is_none() && page.starts_with(topic.name), "{}, {width}: {broken:?}", topic.name);
        }
    }
    assert!(desk.run(&["help", "keys", "free"]).clean().contains("free chords, the cheapest first"));
}

/// What is typed without a display, a bus or a terminal, and how it ends.
const ENDS: &[(i32, &[&str])] = &[
    (0, &["check"]),
    (0, &["settings", "zzzzzz"]),
    (0, &["show", "frame.width"]),
    (0, &["set", "frame.width", "3", "--dry-run"]),
    (0, &["palette", "list"]),
    (0, &["keys", "clash"]),
    (0, &["history"]),
    (0, &["apply", "--dry-run"]),
    (0, &["machine"]),
    (0, &["help"]),
    (1, &["set", "frame.width", "abc"]),
    (1, &["palette", "use", "nope"]),
    (1, &["rename", "workspace", "nope", "x"]),
    (1, &["undo"]),
    (1, &["redo"]),
    (1, &["apply", "--take", "nope", "--dry-run"]),
    (2, &["nope"]),
    (2, &["set", "nope", "1"]),
    (2, &["show", "nope"]),
    (2, &["reset", "nope"]),
    (2, &["toggle", "nope"]),
    (2, &["why", "nope"]),
    (2, &["settings", "--part", "nope"]),
    (2, &["palette", "check", "nope"]),
    (2, &["keys", "trace", "nope"]),
    (2, &["keys", "list", "--scope", "nope"]),
    (2, &["keys", "sheet", "--out", "x.gif"]),
    (2, &["bar", "try", "nope"]),
    (2, &["look", "nope"]),
    (2, &["look", "--out", "nope.gif"]),
    (2, &["look", "--beside", "nope"]),
    (2, &["adopt", "https://rices.example/x.git"]),
    (2, &["help", "nope"]),
    (2, &["ask", "nope"]),
    (2, &["completions", "nope"]),
    (3, &["palette", "from", "nope.png"]),
    (3, &["keys", "learn"]),
    (3, &["check", "--machine", "nope"]),
    (3, &["adopt", "nope"]),
    (3, &["live"]),
    (3, &["tell", "layout", "next"]),
    (3, &["ask", "windows"]),
    (3, &["notices", "show", "x"]),
    (3, &["notices", "history"]),
    (3, &["launcher"]),
    (3, &["tune"]),
    (3, &["new", "."]),
];

#[test]
fn every_command_ends_as_it_says() {
    let desk = Desk::sample();
    for (code, typed) in ENDS {
        let told = desk.run(typed);
        assert_eq!(told.code, *code, "{typed:?}: {}{}", told.out, told.err);
        assert_eq!(told.code != 0, !told.err.is_empty() || (*code == 1 && !told.out.is_empty()), "{typed:?}");
    }
}

#[test]
fn colour_and_quiet_are_for_every_command() {
    let desk = Desk::sample();
    let plain = desk.run(&["settings", "border"]).clean();
    assert!(plain.contains("→ jovrik settings frame.width") && !plain.contains('\u{1b}'));
    let quiet = desk.run(&["settings", "border", "--quiet"]).clean();
    assert_eq!(quiet, plain.lines().filter(|line| !line.contains('→')).map(|line| format!("{line}\n")).collect::<String>());
    assert!(desk.run(&["--color", "always", "settings", "border"]).clean().contains('\u{1b}'));
}

#[test]
fn reports_keep_to_sixty_columns() {
    let desk = Desk::sample();
    let reports: &[&[&str]] = &[
        &["settings"],
        &["settings", "border"],
        &["settings", "style.NAME.ink"],
        &["check"],
        &["check", "--accepted"],
        &["why"],
        &["why", "bar.top.thick"],
        &["why", "style.launcher.row.picked.ink"],
        &["keys", "list"],
        &["keys", "clash"],
        &["keys", "free"],
        &["keys", "settle"],
        &["keys", "trace", "Lead+Return"],
        &["keys", "sheet"],
        &["palette", "list"],
        &["palette", "check"],
        &["palette", "map"],
        &["rules", "list"],
        &["rules", "try", "--app", "gullmail"],
        &["bar", "print"],
        &["bar", "try", "clock"],
        &["machine"],
        &["set", "frame.width", "3"],
        &["history"],
        &["undo"],
        &["apply", "--dry-run"],
        &["publish", "--dry-run", "--bundle", "x.rice"],
        &["adopt", "."],
        &["help"],
        &["--help"],
        &["check", "--help"],
    ];
    for typed in reports {
        let run = desk.command(&desk.rice(), typed).env("COLUMNS", "60").output().expect("it runs");
        let report = String::from_utf8(run.stdout).expect("UTF-8");
        // What is typed is not broken.
        let wide = report.lines().find(|line| line.chars().count() > 60 && !line.trim_start().starts_with('→'));
        assert_eq!(wide, None, "{typed:?}");
    }
}
