//! Commenting out and in, and writing into overlays: every other byte stays.

use jovrik_core::check::{CheckedRice, Files, UnknownHost, check};
use jovrik_home::edit::{ListEdit, list, reset, set, toggle};
use jovrik_home::{EditPlan, Error, sample_files};
use jovrik_schema::Tree;
use jovrik_text::Source;
use jovrik_toml::bare;
use proptest::prelude::*;

/// A rice of files by their names.
fn rice(all: &[(String, String)]) -> impl Fn() -> Files + use<> {
    let all = all.to_vec();
    move || {
        let mut files = Files { manifest: Some(Source::new("rice.toml", "[rice]\nname = \"x\"\n")), ..Files::default() };
        for (name, text) in &all {
            files.add(Source::new(name.clone(), text.clone()));
        }
        files
    }
}

fn one(text: &str) -> impl Fn() -> Files + use<> {
    rice(&[("parts/a.toml".to_owned(), text.to_owned())])
}

fn text_of(planned: &EditPlan) -> &str {
    assert_eq!(planned.files.len(), 1, "{:?}", planned.files);
    planned.files.values().next().expect("one")
}

/// Toggles a path off and on again: the text between, and the proof that the bytes come back.
#[track_caller]
fn off_and_on(text: &str, path: &str, element: Option<&str>) -> String {
    let off = toggle(one(text), path, element, &UnknownHost).expect("off");
    let between = text_of(&off).to_owned();
    let on = toggle(one(&between), path, element, &UnknownHost).expect("on");
    assert_eq!(text_of(&on), text, "from:\n{between}");
    between
}

#[test]
fn settings_bindings_and_values_of_several_lines_become_comments_and_come_back() {
    let text = "# Gaps.\n[space]\n  edge = 4 # by the sea\nbetween = 8\n";
    assert_eq!(off_and_on(text, "space.edge", None), "# Gaps.\n[space]\n  # edge = 4 # by the sea\nbetween = 8\n");
    let keys = "[keys.desk]\n\"Lead+t\" = \"close\"\n\"lead+Shift+x\" = { do = \"kill\" }\n";
    assert_eq!(
        off_and_on(keys, "keys.desk.\"Super+t\"", None),
        "[keys.desk]\n# \"Lead+t\" = \"close\"\n\"lead+Shift+x\" = { do = \"kill\" }\n",
        "a chord is found however it is spelled"
    );
    let long = "[workspaces]\norder = [\n  \"a\", # first\n  \"b\",\n]\n[space]\nedge = 1\n";
    assert_eq!(
        off_and_on(long, "workspaces.order", None),
        "[workspaces]\n# order = [\n  # \"a\", # first\n  # \"b\",\n# ]\n[space]\nedge = 1\n"
    );
    let dotted = "space.edge = 3\nspace.between = 4\n";
    assert_eq!(off_and_on(dotted, "space.edge", None), "# space.edge = 3\nspace.between = 4\n");
}

#[test]
fn truth_is_turned_and_what_was_never_set_is_set() {
    let text = "[pointer]\nfollows-focus = false\n";
    assert_eq!(off_and_on(text, "pointer.follows-focus", None), "[pointer]\nfollows-focus = true\n");
    let planned = toggle(one(""), "pointer.follows-focus", None, &UnknownHost).expect("set");
    assert_eq!(text_of(&planned), "[pointer]\nfollows-focus = true\n");
}

#[test]
fn tables_go_with_what_stands_below_them_and_leave_what_speaks_of_the_next() {
    let text = "[bar.top]\nthick = 30\n\n# The other bar.\n[bar.side]\n# how thick\nthick = 40\n\nend = [\"clock\"]\n\n# Gaps.\n[space]\nedge = 4\n[module.clock]\nsource = \"time\"\ntext = \"{time}\"\n";
    assert_eq!(
        off_and_on(text, "bar.side", None),
        "[bar.top]\nthick = 30\n\n# The other bar.\n# [bar.side]\n# # how thick\n# thick = 40\n#\n# end = [\"clock\"]\n\n# Gaps.\n[space]\nedge = 4\n[module.clock]\nsource = \"time\"\ntext = \"{time}\"\n"
    );
    let nested = "[frame]\nwidth = 1\n[space]\nedge = 2\n[frame.glow]\nwidth = 3\n";
    assert_eq!(off_and_on(nested, "frame", None), "# [frame]\n# width = 1\n[space]\nedge = 2\n# [frame.glow]\n# width = 3\n");
}

#[test]
fn elements_of_lists_go_and_come_back_to_their_place() {
    let parts = "[module.a]\ntext = \"a\"\n[module.b]\ntext = \"b\"\n[module.c]\ntext = \"c\"\n[bar.top]\n";
    let line = format!("{parts}end = [\"a\", \"b\", \"c\"]\n");
    let between = off_and_on(&line, "bar.top.end", Some("b"));
    assert_eq!(between, format!("{parts}end = [\"a\", \"c\"]  # off: \"b\" (2)\n"));
    off_and_on(&line, "bar.top.end", Some("a"));
    off_and_on(&line, "bar.top.end", Some("c"));
    let noted = format!("{parts}end = [\"a\", \"b\", \"c\"] # what I need\n");
    assert_eq!(
        off_and_on(&noted, "bar.top.end", Some("c")),
        format!("{parts}end = [\"a\", \"b\"] # what I need; off: \"c\" (3)\n")
    );
    let two = toggle(one(&between), "bar.top.end", Some("c"), &UnknownHost).expect("off");
    let two = text_of(&two).to_owned();
    assert_eq!(two, format!("{parts}end = [\"a\"]  # off: \"b\" (2); off: \"c\" (2)\n"));
    let back = toggle(one(&two), "bar.top.end", Some("b"), &UnknownHost).expect("on");
    assert_eq!(back.after.rice.bar["top"].end, ["a", "b"]);
    let lines = format!("{parts}end = [\n  \"a\",\n  \"b\", # the middle\n  \"c\"\n]\n");
    let between = off_and_on(&lines, "bar.top.end", Some("b"));
    assert_eq!(between, format!("{parts}end = [\n  \"a\",\n  # \"b\", # the middle\n  \"c\"\n]\n"));
    off_and_on(&lines, "bar.top.end", Some("c"));
    off_and_on(&lines, "bar.top.end", Some("a"));
}

#[test]
fn what_cannot_be_toggled_says_why_and_what_would_break_is_refused() {
    let told = |text: &str, path: &str, element: Option<&str>| match toggle(one(text), path, element, &UnknownHost) {
        Err(error) => error.to_string(),
        Ok(planned) => format!("{:?}", planned.files),
    };
    assert_eq!(
        told("[frame]\nglow = { width = 6, fill = \"red\" }\n", "frame.glow.width", None),
        "frame.glow.width stands in one line with others, at parts/a.toml:2; jovrik reset frame.glow.width takes it out"
    );
    assert_eq!(told("", "space.edge", None), "space.edge is not set, and not commented out; jovrik set space.edge VALUE sets it");
    assert_eq!(told("", "bar.side", None), "bar.side is not set, and not commented out");
    assert_eq!(
        told("[bar.top]\nend = []\n", "bar.top.end", Some("tide")),
        "tide is not in bar.top.end, nor commented out there, at parts/a.toml:2; jovrik set bar.top.end+=tide adds it"
    );
    let used = "[module.a]\ntext = \"a\"\n[bar.top]\nend = [\"a\"]\n";
    assert!(matches!(toggle(one(used), "module.a", None, &UnknownHost), Err(Error::Refused(_))), "the bar names it");
    assert!(matches!(toggle(one(""), "space.egde", None, &UnknownHost), Err(Error::NoSetting { near: Some(_), .. })));
}

#[test]
fn a_setting_of_the_exhaustive_sample_is_switched_on_with_its_header() {
    let every = jovrik_core::rice::every_setting();
    let on = toggle(one(&every), "space.between", None, &UnknownHost).expect("on");
    let text = text_of(&on);
    assert!(text.contains("\n[space]\n## between windows") && text.contains("\nbetween = 8\n"), "{text}");
    assert_eq!(text.len(), every.len() - 4, "nothing else");
}

#[test]
fn overlays_are_written_where_they_stand_or_begun_for_a_host_that_is_known() {
    let all = [
        ("parts/a.toml", "[space]\nedge = 4\n[workspaces]\norder = [\"a\", \"b\"]\n"),
        ("overlays/small.toml", "[overlay]\nwhen = { host = \"dinghy\" }\n\n[space]\nedge = 1 # tight\n"),
        ("machines/skiff.toml", "host = \"skiff\"\n"),
    ];
    let all: Vec<(String, String)> = all.iter().map(|(name, text)| ((*name).to_owned(), (*text).to_owned())).collect();
    let written = |planned: EditPlan| planned.files.into_iter().next().expect("one");
    let stands = set(rice(&all), "space.edge", "2", Some("small"), &UnknownHost).expect("fine");
    assert_eq!(stands.after.rice.space.edge.0, 4, "it does not hold here");
    let text = "[overlay]\nwhen = { host = \"dinghy\" }\n\n[space]\nedge = 2 # tight\n";
    assert_eq!(written(stands), ("overlays/small.toml".to_owned(), text.to_owned()));
    let beside = set(rice(&all), "space.alone", "0", Some("small"), &UnknownHost).expect("fine");
    assert!(written(beside).1.ends_with("edge = 1 # tight\nalone = 0\n"));
    let begun = set(rice(&all), "frame.width", "1", Some("skiff"), &UnknownHost).expect("fine");
    let text = "# Only on skiff.\n\n[overlay]\nwhen = { host = \"skiff\" }\n\n[frame]\nwidth = 1\n";
    assert_eq!(written(begun), ("overlays/skiff.toml".to_owned(), text.to_owned()));
    let added = list(rice(&all), "workspaces.order", &ListEdit::Add("c".to_owned(), None), Some("small"), &UnknownHost);
    assert!(written(added.expect("fine")).1.ends_with("[workspaces]\norder = [\"...\", \"c\"]\n"));
    let unknown = set(rice(&all), "frame.width", "1", Some("smal"), &UnknownHost).expect_err("no such overlay").to_string();
    assert!(unknown.starts_with("there is no overlay smal; there is small,"), "{unknown}");
    let broken = set(rice(&all), "frame.width", "wide", Some("small"), &UnknownHost);
    assert!(matches!(broken, Err(Error::Refused(_))), "also where the overlay does not hold");
}

#[test]
fn tables_of_machines_are_not_taken_for_those_of_the_rice() {
    let all = [
        ("parts/a.toml".to_owned(), "[monitor.left]\nmatch = \"DP-*\"\n".to_owned()),
        ("machines/skiff.toml".to_owned(), "host = \"skiff\"\n[monitor]\nDP-1 = \"1366x768\"\n".to_owned()),
    ];
    let gone = reset(rice(&all), "monitor", &UnknownHost).expect("fine");
    assert_eq!(gone.files.keys().collect::<Vec<_>>(), ["parts/a.toml"]);
    let off = toggle(rice(&all), "monitor", None, &UnknownHost).expect("fine");
    assert_eq!(off.files.keys().collect::<Vec<_>>(), ["parts/a.toml"]);
}

#[test]
fn an_overlay_that_does_not_hold_here_is_left_alone() {
    let all = [
        ("parts/a.toml".to_owned(), "[space]\nedge = 4\n".to_owned()),
        (
            "overlays/far.toml".to_owned(),
            "[overlay]\nwhen = { host = \"dinghy\" }\n[frame]\nwidth = 1\n[space]\nedge = 1\n".to_owned(),
        ),
    ];
    let gone = reset(rice(&all), "space", &UnknownHost).expect("fine");
    assert_eq!(gone.files.keys().collect::<Vec<_>>(), ["parts/a.toml"]);
    let off = toggle(rice(&all), "space", None, &UnknownHost).expect("fine");
    assert_eq!(off.files.keys().collect::<Vec<_>>(), ["parts/a.toml"]);
}

#[test]
fn a_new_setting_goes_beside_its_neighbours_of_the_parts_also_where_an_overlay_has_some() {
    let all = [
        ("overlays/here.toml".to_owned(), "[bar.top]\nthick = 20\n[module.x]\ntext = \"x\"\n".to_owned()),
        ("parts/bars.toml".to_owned(), "[bar.top]\nthick = 30\n".to_owned()),
    ];
    let new = set(rice(&all), "bar.top.edge", "bottom", None, &UnknownHost).expect("fine");
    assert_eq!(new.files.keys().collect::<Vec<_>>(), ["parts/bars.toml"]);
    let stands = set(rice(&all), "bar.top.thick", "24", None, &UnknownHost).expect("fine");
    assert_eq!(stands.files.keys().collect::<Vec<_>>(), ["overlays/here.toml"], "where it holds is where it is changed");
    let only = set(rice(&all), "module.x.empty", "none", None, &UnknownHost).expect("fine");
    assert_eq!(only.files.keys().collect::<Vec<_>>(), ["parts/module.toml"], "an overlay is for some computers only");
}

fn paths(checked: &CheckedRice) -> Vec<String> {
    fn walk(tree: &Tree, path: &str, out: &mut Vec<String>) {
        out.push(path.to_owned());
        if let Tree::Branch(branch) = tree {
            branch.entries.iter().for_each(|(name, tree)| walk(tree, &format!("{path}.{}", bare(name)), out));
        }
    }
    let mut out = Vec::new();
    checked.tree.entries.iter().for_each(|(name, tree)| walk(tree, name, &mut out));
    out
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 150, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn every_path_of_the_sample_is_toggled_without_losing_a_byte(which in 0..10_000usize) {
        let sample: Vec<(String, String)> = sample_files("saltmarsh").expect("a sample").iter()
            .filter(|(name, _)| name.ends_with(".toml") && *name != "rice.toml")
            .map(|(name, bytes)| ((*name).to_owned(), String::from_utf8(bytes.to_vec()).expect("UTF-8"))).collect();
        let all = paths(&check(rice(&sample)(), &[], &UnknownHost));
        let path = &all[which % all.len()];
        // What others need is refused, and what shares its line says so: both write nothing.
        if let Ok(off) = toggle(rice(&sample), path, None, &UnknownHost) {
            let with = |planned: &EditPlan, base: &[(String, String)]| -> Vec<(String, String)> {
                base.iter().map(|(name, text)| (name.clone(), planned.files.get(name).unwrap_or(text).clone())).collect()
            };
            let between = with(&off, &sample);
            prop_assert!(between != sample);
            let on = toggle(rice(&between), path, None, &UnknownHost);
            let on = on.map_err(|error| TestCaseError::fail(format!("{path}: {error}")))?;
            prop_assert_eq!(with(&on, &between), sample, "{}", path);
        }
    }
}
