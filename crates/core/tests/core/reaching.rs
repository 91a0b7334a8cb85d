//! What a stranger's rice may do is listed, all of it, exactly.

use jovrik_core::check::{Checked, reaching, seen, sensitive, summed};
use jovrik_core::rice::Rice;
use jovrik_core::rice::catalogue::{Reach, Setting, Shape};

use crate::{checked, checked_parts};

fn listed(checked: &Checked) -> Vec<String> {
    let one = |one: jovrik_core::check::Reaching| format!("{} {}: {}", checked.sources.place(one.span), one.path, one.what);
    reaching(&checked.sources).into_iter().map(one).collect()
}

/// Every path of the catalogue at which one value stands, with how far its type reaches.
fn values(shape: Shape, path: &str, out: &mut Vec<(String, Reach)>) {
    let below = |name: &str| if path.is_empty() { name.to_owned() } else { format!("{path}.{name}") };
    match shape {
        Shape::One(kind) => out.push((path.to_owned(), kind.reach)),
        Shape::Named(_, inner) => values(*inner, &below("NAME"), out),
        Shape::Table(table) => {
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
    let reach_out: Vec<_> = all.iter().filter(|(_, reach)| *reach != Reach::Inside).collect();
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
            "parts/a.toml:2 start.x.shell: =module.y.text",
            "parts/a.toml:4 start.x.shell: rm -rf ~, by reference",
            "parts/b.toml:2 environment.BASH_ENV: BASH_ENV=/tmp/x",
            "parts/b.toml:4 program.t: xterm 'a b'",
            "parts/b.toml:4 program.t: PATH=.",
        ]
    );
    assert_eq!(summed(&reaching(&checked.sources)), "3 commands and 2 variables");
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
