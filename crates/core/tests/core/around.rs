//! Checks of files: what a rice places, fills, draws and runs of its own, and what its dock keeps.

use std::collections::BTreeMap;

use jovrik_core::check::{CheckedRice, Files, HostInfo, PlaceSourceError, PlaceTargetError, check};
use jovrik_text::Source;

use crate::found;

/// A folder of a rice and a home, as the test says they are.
#[derive(Default)]
struct Folder {
    files: BTreeMap<&'static str, &'static [u8]>,
    /// Files that are programs.
    runs: Vec<&'static str>,
    /// Pictures that cannot be shown, and why.
    broken: BTreeMap<&'static str, &'static str>,
    entries: Vec<&'static str>,
}

impl HostInfo for Folder {
    fn has_program(&self, name: &str) -> Option<bool> {
        Some(self.runs.contains(&name))
    }
    fn has_entry(&self, name: &str) -> Option<bool> {
        Some(self.entries.contains(&name))
    }
    fn picture(&self, path: &str) -> Option<String> {
        self.broken.get(path).map(|why| (*why).to_owned())
    }
    fn target(&self, to: &str) -> Option<Result<String, PlaceTargetError>> {
        let refused = |outside: bool, why: &str| Some(Err(PlaceTargetError { outside, why: why.to_owned() }));
        match to {
            "/" | "~" => refused(false, "it is a folder"),
            to if to.starts_with('/') => refused(true, "only what lies in a home folder is a person's own"),
            // A link to the other one.
            "~/.linked" => Some(Ok("/home/ebb/.gauge".to_owned())),
            to => Some(Ok(to.replace('~', "/home/ebb"))),
        }
    }
    fn source(&self, from: &str) -> Option<Result<Vec<u8>, PlaceSourceError>> {
        let none = || PlaceSourceError(format!("there is no file {from}"));
        Some(self.files.get(from).map(|bytes| bytes.to_vec()).ok_or_else(none))
    }
}

fn told(folder: &Folder, part: &str) -> CheckedRice {
    let mut files = Files { manifest: Some(Source::new("rice.toml", "[rice]\nname = \"test\"\n")), ..Files::default() };
    files.add(Source::new("parts/a.toml", part));
    check(files, &[], folder)
}

fn problems(folder: &Folder, part: &str) -> Vec<String> {
    found(&told(folder, part))
}

#[test]
fn files_are_placed_once_from_what_is_there_to_where_they_may_be() {
    let folder = Folder { files: [("art/gauge.conf", &b"plain"[..])].into(), ..Folder::default() };
    assert_eq!(problems(&folder, "[place]\n\"~/.gauge\" = \"art/gauge.conf\"\n"), Vec::<String>::new());
    let part = "[place]\n\"~/.gauge\" = \"art/gauge.conf\"\n\"~/.linked\" = \"art/gauge.conf\"\n\
        \"/srv/gauge\" = \"art/gauge.conf\"\n\"~\" = \"art/gauge.conf\"\n\"~/.none\" = \"art/none.conf\"\n";
    assert_eq!(
        problems(&folder, part),
        [
            "place/twice parts/a.toml:2:1",
            "place/target parts/a.toml:5:1",
            "place/source parts/a.toml:6:13",
            "place/outside parts/a.toml:4:1",
        ]
    );
    let checked = told(&folder, part);
    let outside = checked.problems.iter().find(|problem| problem.code == "place/outside").expect("it is told");
    assert!(format!("{outside:?}").contains("--outside /srv/gauge"), "what one does about it: {outside:?}");
    // What is the system's is nobody's advice.
    for system in ["/etc/passwd", "/usr/bin/sh", "/dev/sda"] {
        let checked = told(&folder, &format!("[place]\n\"{system}\" = \"art/gauge.conf\"\n"));
        assert!(!format!("{:?}", checked.problems).contains("--outside"), "{system}");
    }
}

#[test]
fn a_text_is_filled_wholly_or_what_is_missing_is_told_with_its_line() {
    let texts: [(&'static str, &'static [u8]); 4] = [
        ("art/good", b"back = {{backdrop.fill}}\nedge = {{space.edge}}\n"),
        ("art/bad", b"one\n{{space.egde}}\n\n{{no.such}} and {{space.edge}}\n"),
        ("art/bytes", b"\xff\xfe"),
        ("art/braces", b"{ \"plain\": { \"json\": 1 } }"),
    ];
    let folder = Folder { files: texts.into(), ..Folder::default() };
    let placed = |from: &str| format!("[place]\n\"~/.one\" = {{ from = \"{from}\", fill = true }}\n");
    assert_eq!(problems(&folder, &placed("art/good")), Vec::<String>::new());
    assert_eq!(problems(&folder, &placed("art/braces")), Vec::<String>::new());
    let checked = told(&folder, &placed("art/bad"));
    let titles: Vec<&str> = checked.problems.iter().map(|problem| problem.title.as_str()).collect();
    assert!(
        titles.len() == 2 && titles[0].starts_with("art/bad, line 2: ") && titles[1].starts_with("art/bad, line 4: "),
        "{titles:?}"
    );
    assert_eq!(problems(&folder, &placed("art/bytes")), ["place/unfilled parts/a.toml:2:21"]);
    // As it is, any bytes will do.
    assert_eq!(problems(&folder, "[place]\n\"~/.one\" = \"art/bytes\"\n"), Vec::<String>::new());
}

#[test]
fn scripts_of_the_rice_must_be_there_and_be_programs() {
    let files: [(&'static str, &'static [u8]); 2] = [("bin/tide", b"#!/bin/sh\n"), ("bin/plain", b"no program\n")];
    let folder = Folder { files: files.into(), runs: vec!["bin/tide"], ..Folder::default() };
    let part = |program: &str| {
        format!(
            "[program]\nchart = \"{program}\"\n[module.a]\nsource = {{ run = [\"{program}\"] }}\n[keys.desk]\n\"Lead+x\" = \"run {program}\"\n"
        )
    };
    assert_eq!(problems(&folder, &part("bin/tide")), Vec::<String>::new());
    let places = ["2:9", "4:18", "6:12"];
    let at = |code: &str| places.map(|place| format!("{code} parts/a.toml:{place}"));
    assert_eq!(problems(&folder, &part("bin/plain")), at("program/not-executable"));
    assert_eq!(problems(&folder, &part("./bin/none")), at("program/no-script"));
    // What begins at the root or in a home is the computer's, and is missed once, at its first place.
    for program in ["/opt/tide", "~/bin/tide"] {
        assert_eq!(problems(&folder, &part(program)), at("program/not-found")[..1], "{program}");
    }
}

#[test]
fn pictures_are_looked_at_wherever_one_is_named() {
    let broken = [("art/torn.png", "it ends in the middle"), ("art/none.png", "there is no such file")];
    let folder = Folder { broken: broken.into(), ..Folder::default() };
    let part = "[backdrop]\npicture = { 7 = \"art/day.png\", 20 = \"art/torn.png\" }\n\
        [monitor.left.backdrop]\npicture = \"art/none.png\"\n\
        [workspace.charts]\nicon = \"art/none.png\"\n[workspace.charts.backdrop]\npicture = \"art/torn.png\"\n\
        [module.a]\nsource = \"time\"\nicon = \"art/torn.png\"\n\
        [widget.chart]\nat = \"left\"\npicture = \"art/torn.png\"\n[icons]\nXTerm = \"art/none.png\"\ngauge = \"art/day.png\"\n";
    let all = problems(&folder, part);
    let lines: Vec<&str> = all.iter().filter_map(|one| one.strip_prefix("file/no-picture parts/a.toml:")).collect();
    assert_eq!(lines, ["2:37", "4:11", "6:8", "8:11", "11:8", "14:11", "16:9"], "{all:?}");
}

#[test]
fn what_a_dock_keeps_is_a_program_an_entry_or_its_own() {
    let folder = Folder { entries: vec!["gull.desktop"], runs: vec!["xterm", "sluice"], ..Folder::default() };
    let part = "[program]\nterminal = \"xterm\"\n[dock]\nkeep = [\"terminal\", \"-\", \"gull.desktop\", \"charts\", \"terminal\", \"terminl\", \"lamp\"]\n\
        [dock.own.charts]\ndo = \"go charts\"\n[workspaces]\norder = [\"charts\"]\n";
    let all = problems(&folder, part);
    assert_eq!(
        all,
        ["dock/twice parts/a.toml:4:52", "dock/no-entry parts/a.toml:4:64", "dock/no-entry parts/a.toml:4:75"],
        "a line between is none of them"
    );
    let checked = told(&folder, part);
    let near = checked.problems.iter().find(|problem| problem.title.contains("terminl")).expect("it is told");
    assert!(format!("{near:?}").contains("did you mean terminal?"), "{near:?}");
    let own = "[dock.own.charts]\ndo = \"go nowhere\"\n[workspaces]\norder = [\"charts\"]\n";
    assert_eq!(problems(&folder, own), ["keys/unknown-action parts/a.toml:2:6"], "what it does leads somewhere");
}

#[test]
fn the_drawing_of_a_greeting_is_one_and_so_are_its_facts() {
    let art: [(&'static str, &'static [u8]); 2] = [("art/gull.txt", b"@accent  __\n\\o/\n"), ("art/empty.txt", b"")];
    let folder = Folder { files: art.into(), broken: [("art/torn.png", "it ends in the middle")].into(), ..Folder::default() };
    let greeting = |art: &str| format!("[greeting]\nart = \"{art}\"\nfacts = [\"host\"]\n");
    assert_eq!(problems(&folder, &greeting("art/gull.txt")), Vec::<String>::new());
    assert_eq!(problems(&folder, &greeting("art/day.png")), Vec::<String>::new());
    assert_eq!(problems(&folder, &greeting("art/none.txt")), ["file/no-picture parts/a.toml:2:7"]);
    assert_eq!(problems(&folder, &greeting("art/torn.png")), ["file/no-picture parts/a.toml:2:7"]);
    let facts = "[greeting]\nfacts = [\"host\", \"hots\", \"tide\"]\nlabel = { tide = \"water\", lamp = \"light\" }\n\
        [module.tide]\nsource = \"time\"\n";
    assert_eq!(problems(&folder, facts), ["greeting/no-fact parts/a.toml:2:18", "greeting/unused parts/a.toml:3:27"]);
}
