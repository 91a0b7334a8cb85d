//! What a stranger's rice may do is listed, all of it, exactly.

use jovrik_core::check::{CheckedRice, Files, UnknownHost, check, reaching, reaching_of, seen, sensitive, summed};
use jovrik_core::rice::Rice;
use jovrik_schema::catalogue::{Capability, Setting, SettingShape};
use jovrik_text::{Source, limits, shell_line};
use proptest::prelude::*;

use crate::{checked, checked_parts};

fn listed(checked: &CheckedRice) -> Vec<String> {
    let one = |one: jovrik_core::check::CapabilityUse| format!("{} {}: {}", checked.sources.place(one.span), one.path, one.what);
    reaching(&checked.sources).expect("it can be said").into_iter().map(one).collect()
}

/// A chain of references of so many steps, from a command to a text.
fn chain(steps: usize, end: &str) -> String {
    let mut text = "[start.p]\nshell = \"=module.c1.text\"\n".to_owned();
    for step in 1..steps {
        text += &format!("[module.c{step}]\ntext = \"=module.c{}.text\"\n", step + 1);
    }
    text + &format!("[module.c{steps}]\ntext = \"{end}\"\n")
}

/// Every path of the catalogue at which one value stands, with how far its type reaches.
fn values(shape: SettingShape, path: &str, out: &mut Vec<(String, Capability)>) {
    let below = |name: &str| if path.is_empty() { name.to_owned() } else { format!("{path}.{name}") };
    match shape {
        SettingShape::One(kind) => out.push((path.to_owned(), kind.reach)),
        SettingShape::Named(_, inner) => values(*inner, &below("NAME"), out),
        SettingShape::Table(table) => {
            table.fields.iter().for_each(|field| values(field.shape, &below(field.name), out));
            table.rest.into_iter().for_each(|(_, shape)| values(*shape, &below("NAME"), out));
        }
    }
}

#[test]
fn every_setting_that_can_start_load_or_write_something_is_listed() {
    let hostile = [
        "\"evil\"",
        "[\"evil\"]",
        // Some take words of ours alone.
        "[\"bash\"]",
        "\"run evil\"",
        "{ run = [\"evil\"] }",
        "{ shell = \"evil\" }",
        "{ stream = [\"evil\"] }",
        "{ file = \"/evil\" }",
        "{ do = \"run evil\" }",
        "{ left = \"run evil\" }",
        "{ left = [{ label = \"x\", do = \"run evil\" }] }",
        "{ \"5m\" = \"run evil\" }",
        "{ from = \"evil\" }",
        "{ run = [\"ok\"], env = { LD_PRELOAD = \"evil\" } }",
    ];
    let mut all = Vec::new();
    values(Rice::SHAPE, "", &mut all);
    let reach_out: Vec<_> = all.iter().filter(|(_, reach)| *reach != Capability::None).collect();
    assert!(all.len() > 150 && reach_out.len() >= 9, "{} {}", all.len(), reach_out.len());
    for (path, _) in reach_out {
        let key = if path.starts_with("keys.") { "\"Lead+F9\"" } else { "own" };
        let path = match path.strip_suffix(".NAME") {
            Some(table) => format!("{}.{key}", table.replace("NAME", "own")),
            None => path.replace("NAME", "own"),
        };
        let mut accepted = 0;
        for value in hostile {
            let checked = checked(&format!("{path} = {value}\n"));
            let refused = |code: &str| {
                code.starts_with("setting/") && code != "setting/not-yet"
                    || code == "keys/unknown-action"
                    || code.starts_with("module/")
            };
            if checked.problems.iter().any(|problem| refused(problem.code)) {
                continue;
            }
            accepted += 1;
            let told = listed(&checked);
            assert!(told.iter().any(|line| line.contains("evil") || line.contains("bash")), "{path} = {value}: {told:?}");
        }
        assert!(accepted > 0, "{path} takes none of what is tried here");
    }
}

#[test]
fn overlays_that_hold_nowhere_and_values_behind_references_are_listed_too() {
    let checked = checked_parts(&[
        (
            "parts/a.toml",
            "[start.x]\nshell = \"=module.y.text\"\n[module.y]\ntext = \"rm -rf ~\"\n[keys.desk]\n\"Lead+x\" = \"close\"\n",
        ),
        (
            "parts/b.toml",
            "[environment]\nBASH_ENV = \"/tmp/x\"\n[program]\nt = { run = [\"xterm\", \"a b\"], env = { PATH = \".\" } }\n",
        ),
    ]);
    assert_eq!(
        listed(&checked),
        [
            "parts/a.toml:2 start.x.shell: rm -rf ~",
            "parts/b.toml:2 environment.BASH_ENV: BASH_ENV=/tmp/x",
            "parts/b.toml:4 program.t: xterm 'a b'",
            "parts/b.toml:4 program.t: PATH=.",
        ]
    );
    assert_eq!(summed(&reaching(&checked.sources).expect("clear")), "2 commands and 2 variables");
    // Bindings of other scopes are words for people.
    assert_eq!(listed(&checked_parts(&[("parts/c.toml", "[keys.mux]\n\"n\" = \"run evil\"\n")])), [] as [&str; 0]);
}

#[test]
fn what_cannot_be_seen_is_shown_as_what_it_is() {
    let line = "echo ok\nrm -rf ~ # \u{202e}txt\u{200b}\u{7}\t\u{e0041}\u{feff}";
    assert_eq!(seen(line), "echo ok\\nrm -rf ~ # \\u{202e}txt\\u{200b}\\u{7}\\t\\u{e0041}\\u{feff}");
    assert!(matches!(seen("tide 3.2 m — höher, 潮"), std::borrow::Cow::Borrowed(_)), "what can be read stays");
    let checked = checked("[start.x]\nshell = \"echo ok\\nrm -rf ~\"\n");
    assert_eq!(listed(&checked), ["parts/a.toml:2 start.x.shell: echo ok\\nrm -rf ~"]);
}

#[test]
fn placed_files_are_called_what_they_are() {
    let of = |to: &str| sensitive(to).unwrap_or("-");
    assert_eq!(of("~/.bashrc"), "a start file of a shell");
    assert_eq!(of("~/.config/fish/conf.d/x.fish"), "a start file of a shell");
    assert_eq!(of("~/.ssh/authorized_keys"), "a file of ssh: keys, or who may come in");
    assert_eq!(of("~/.config/autostart/x.desktop"), "starts by itself at login");
    assert_eq!(of("~/.local/bin/ls"), "a program on PATH");
    assert_eq!((of("/etc/profile"), of("/etc/x")), ("outside the home folder", "outside the home folder"));
    assert_eq!(of("~/.Xresources"), "-");
    let checked = checked("[place]\n\"~/.bashrc\" = { from = \"art/x\", fill = true }\n");
    assert_eq!(listed(&checked), ["parts/a.toml:2 place.\"~/.bashrc\": ~/.bashrc from art/x, a start file of a shell"]);
}

#[test]
fn a_command_is_shown_at_the_end_of_the_longest_chain_that_is_followed() {
    for steps in [1, 8, 9, 12, limits::REFERENCE_STEPS] {
        let checked = checked(&chain(steps, "touch PWNED"));
        assert!(checked.usable(), "{steps}: {:?}", checked.problems);
        assert_eq!(checked.rice.start["p"].shell.0, "touch PWNED");
        let listed = listed(&checked);
        assert_eq!(listed, ["parts/a.toml:2 start.p.shell: touch PWNED"], "{steps}");
        let through = reaching(&checked.sources).expect("clear")[0].through.clone();
        assert_eq!(through.as_deref(), Some("=module.c1.text"));
    }
    // What is cut short here is cut short by whoever reads it, and an error to both.
    for steps in [limits::REFERENCE_STEPS + 1, 60] {
        let checked = checked(&chain(steps, "touch PWNED"));
        assert!(!checked.usable(), "{steps}");
        let unclear = reaching(&checked.sources).expect_err("too long");
        assert_eq!(unclear.path, "start.p.shell");
        assert!(unclear.to_string().contains("more than 32 others"), "{unclear}");
    }
}

#[test]
fn what_another_layer_puts_behind_a_reference_is_shown_whichever_hold() {
    let head = "[overlay]\nwhen = { host = \"nowhere\" }\n";
    let (first, second) = (
        format!("{head}[start.p]\nshell = \"=module.c1.text\"\n[module.c1]\ntext = \"harmless\"\n"),
        format!("{head}[module.c1]\ntext = \"=module.c2.text\"\n[module.c2]\ntext = \"touch PWNED\"\n"),
    );
    let parts = "[module.list]\nsource = { run = [\"sh\", \"-c\", \"=module.c1.text\"] }\n[module.c1]\ntext = \"echo\"\n";
    let files = Files {
        manifest: Some(Source::new("rice.toml", "[rice]\nname = \"test\"\n")),
        parts: vec![Source::new("parts/a.toml", parts)],
        overlays: vec![Source::new("overlays/a.toml", first), Source::new("overlays/b.toml", second)],
        ..Files::default()
    };
    let checked = check(files, &[], &UnknownHost);
    assert_eq!(
        listed(&checked),
        [
            "parts/a.toml:2 module.list.source: sh -c echo",
            "parts/a.toml:2 module.list.source: sh -c harmless",
            "parts/a.toml:2 module.list.source: sh -c 'touch PWNED'",
            "parts/a.toml:2 module.list.source: sh -c '{value}'",
            "overlays/a.toml:4 start.p.shell: echo",
            "overlays/a.toml:4 start.p.shell: harmless",
            "overlays/a.toml:4 start.p.shell: touch PWNED",
            "overlays/a.toml:4 start.p.shell: {value}",
        ]
    );
}

#[test]
fn an_inherited_list_is_shown_with_what_it_inherits() {
    let checked = checked_parts(&[
        ("parts/a.toml", "[module.m]\nsource = { kind = \"time\" }\n[bar.top]\nend = [\"m\"]\n[greeting]\nshells = [\"bash\"]\n"),
        ("parts/b.toml", "[greeting]\nshells = [\"...\", \"fish\"]\n"),
    ]);
    let listed = listed(&checked);
    assert!(listed.iter().any(|line| line.ends_with("the start file of bash fish")), "{listed:?}");
    assert!(!listed.iter().any(|line| line.contains("...")), "{listed:?}");
}

#[test]
fn values_that_may_come_to_too_much_are_refused() {
    let many: String = (0..8).map(|n| format!("[module.c{n}]\ntext = \"a{n}\"\n")).collect();
    let again: String = (0..8).map(|n| format!("[module.c{n}]\ntext = \"b{n}\"\n")).collect();
    let items: Vec<String> = (0..8).map(|n| format!("\"=module.c{n}.text\"")).collect();
    let run = format!("[start.p]\nrun = [{}]\n{many}", items.join(", "));
    let checked = checked_parts(&[("parts/a.toml", &run), ("parts/b.toml", &again)]);
    let unclear = reaching(&checked.sources).expect_err("256 of them");
    assert_eq!((unclear.path.as_str(), unclear.why.as_str()), ("start.p.run", "may come to more than 64 values"));
    // As many as are shown: six of them, each one of two.
    assert_eq!(1 << 6, limits::POSSIBLE_VALUES);
    let run = format!("[start.p]\nrun = [{}]\n{many}", items[..6].join(", "));
    let checked = checked_parts(&[("parts/a.toml", &run), ("parts/b.toml", &again)]);
    assert_eq!(reaching(&checked.sources).expect("clear").len(), limits::POSSIBLE_VALUES);
}

#[test]
fn an_action_that_sets_what_a_command_takes_over_is_listed() {
    let text = "[module.t]\nsource = { shell = \"=module.c1.text\" }\n[module.c1]\ntext = \"=module.c2.text\"\n\
                [module.c2]\ntext = \"echo\"\n[keys.desk]\n\"Lead+p\" = \"set module.c2.text touch\"\n\
                \"Lead+q\" = \"set frame.width 3\"\n\"Lead+r\" = [\"close\", \"set module.c1.text rm\"]\n";
    let all = listed(&checked(text));
    assert_eq!(
        all,
        [
            "parts/a.toml:2 module.t.source: echo",
            "parts/a.toml:8 keys.desk.\"Lead+p\": sets module.c2.text = touch, which module.t.source takes over",
            "parts/a.toml:10 keys.desk.\"Lead+r\": sets module.c1.text = rm, which module.t.source takes over",
        ]
    );
}

#[test]
fn what_is_merged_says_what_it_reaches_as_the_layers_do() {
    let text = chain(12, "touch PWNED") + "[keys.desk]\n\"Super+x\" = \"run xclock\"\n";
    let checked = checked(&text);
    let what = |all: Vec<jovrik_core::check::CapabilityUse>| all.into_iter().map(|one| (one.path, one.what)).collect::<Vec<_>>();
    let merged = what(reaching_of(&checked.tree).expect("clear"));
    assert_eq!(merged, what(reaching(&checked.sources).expect("clear")));
}

proptest! {
    /// Whatever refers to whatever, over however many layers: what the loader makes of a command is among what is shown.
    #[test]
    fn what_runs_is_always_among_what_is_shown(
        files in prop::collection::vec(prop::collection::vec((0_usize..6, 0_usize..8), 0..6), 1..4),
        start in 0_usize..6,
    ) {
        let file = |(nth, sets): (usize, &Vec<(usize, usize)>)| {
            let mut text = "[overlay]\norder = 1\n".to_owned();
            let mut seen = Vec::new();
            for (module, to) in sets {
                if seen.contains(module) {
                    continue;
                }
                seen.push(*module);
                let to = if *to < 6 { format!("=module.c{to}.text") } else { format!("end {nth} {to}") };
                text += &format!("[module.c{module}]\ntext = \"{to}\"\n");
            }
            Source::new(format!("overlays/{nth}.toml"), text)
        };
        let all: String = (0..6).map(|n| format!("[module.c{n}]\ntext = \"begin {n}\"\n")).collect();
        let part = format!("[start.p]\nshell = \"=module.c{start}.text\"\n[start.q]\nrun = [\"x\", \"=module.c{start}.text\"]\n{all}");
        let files = Files {
            manifest: Some(Source::new("rice.toml", "[rice]\nname = \"test\"\n")),
            parts: vec![Source::new("parts/a.toml", part)],
            overlays: files.iter().enumerate().map(file).collect(),
            ..Files::default()
        };
        let checked = check(files, &[], &UnknownHost);
        let shown: Vec<_> = reaching(&checked.sources).expect("clear").into_iter().map(|one| (one.path, one.what)).collect();
        let runs = &checked.rice.start["p"].shell.0;
        if !runs.is_empty() {
            prop_assert!(shown.contains(&("start.p.shell".to_owned(), runs.clone())), "{runs} {shown:?}");
            let run = shell_line(&checked.rice.start["q"].run.0);
            prop_assert!(shown.contains(&("start.q.run".to_owned(), run.clone())), "{run} {shown:?}");
        }
    }
}
