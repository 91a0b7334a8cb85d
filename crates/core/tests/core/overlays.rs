//! Overlays, the computers they hold on, and the chain they leave behind.

use jovrik_core::check::{CheckedRice, Files, HostInfo, UnknownHost, check};
use jovrik_core::machine::Machine;
use jovrik_core::rice::{OverlayConditions, Verdict};
use jovrik_schema::ConfigLayer;
use jovrik_schema::catalogue::AtomicSetting;
use jovrik_text::{Source, Sources};

use crate::{MANIFEST, found};

const SKIFF: &str = "host = \"skiff\"\ncores = 4\nbatteries = 1\nprograms = [\"tidechart\"]\nenvironment = { EDITOR = \"reedit\" }\n[monitor]\neDP-1 = \"1366x768\"\n";
const BREAKWATER: &str = "host = \"breakwater\"\ncores = 8\nbatteries = 0\nprograms = [\"loghouse\"]\n[monitor]\nDP-1 = \"1920x1080\"\nHDMI-1 = { size = \"1280x1024\", at = \"1920,0\" }\n";

fn machine(text: &str) -> Machine {
    let (machine, problems) = Machine::read(&mut Sources::default(), Source::new("machines/x.toml", text));
    assert_eq!(problems, Vec::new());
    machine
}

/// Checks parts, overlays and machines by their names, on a computer.
fn checked_on(files: &[(&str, &str)], around: &dyn HostInfo) -> CheckedRice {
    let mut all = Files { manifest: Some(Source::new("rice.toml", MANIFEST)), ..Files::default() };
    for (name, text) in files {
        all.add(Source::new(*name, *text));
    }
    check(all, &[], around)
}

/// What the first overlay of a rice says on a computer.
fn answer(when: &str, around: &dyn HostInfo) -> Result<String, String> {
    let text = format!("[overlay]\nwhen = {when}\n[space]\nedge = 1\n");
    let checked = checked_on(&[("overlays/a.toml", &text)], around);
    assert_eq!(found(&checked), Vec::<String>::new(), "{when}");
    let Verdict { holds, why } = checked.overlays[0].verdict.clone();
    assert_eq!(checked.rice.space.edge.0, if holds { 1 } else { 12 }, "{when}");
    if holds { Ok(why) } else { Err(why) }
}

#[test]
fn every_condition_holds_and_does_not_with_its_reason() {
    let (skiff, breakwater) = (machine(SKIFF), machine(BREAKWATER));
    let cases = [
        ("{}", Ok("it has no condition"), Ok("it has no condition")),
        ("{ host = \"skiff\" }", Ok("host is skiff"), Err("host is breakwater, not skiff")),
        ("{ host = [\"dinghy\", \"break*\"] }", Err("host is skiff, not dinghy or break*"), Ok("host is breakwater")),
        ("{ monitor = \"HDMI-*\" }", Err("no monitor is called HDMI-*"), Ok("monitor HDMI-1 is connected")),
        ("{ monitors = 2 }", Err("1 monitor, not 2"), Ok("2 monitors")),
        ("{ monitors = \"< 2\" }", Ok("1 monitor"), Err("2 monitors, not < 2")),
        ("{ monitor-width = \">= 1900\" }", Err("no monitor is >= 1900 px wide: 1366"), Ok("DP-1 is 1920 px wide")),
        ("{ monitor-height = \"< 1000\" }", Ok("eDP-1 is 768 px high"), Err("no monitor is < 1000 px high: 1080 and 1024")),
        ("{ battery = true }", Ok("there is a battery"), Err("there is no battery")),
        ("{ battery = false }", Err("there is a battery"), Ok("there is no battery")),
        ("{ hour = \"9-17\" }", Ok("it is 12:00 or later, from 9 to 17"), Ok("it is 12:00 or later, from 9 to 17")),
        ("{ hour = \"20-7\" }", Err("it is 12:00 or later, not from 20 to 7"), Err("it is 12:00 or later, not from 20 to 7")),
        ("{ cores = \">= 8\" }", Err("4 cores, not >= 8"), Ok("8 cores")),
        ("{ environment = { EDITOR = \"re*\" } }", Ok("$EDITOR is reedit"), Err("nobody knows the environment of breakwater")),
        (
            "{ environment = { EDITOR = \"ed\" } }",
            Err("$EDITOR is reedit, not ed"),
            Err("nobody knows the environment of breakwater"),
        ),
        ("{ environment = { PAGER = false } }", Ok("$PAGER is not set"), Err("nobody knows the environment of breakwater")),
        ("{ program = \"tidechart\" }", Ok("tidechart is there"), Err("tidechart is not there")),
        ("{ program = [\"loghouse\", \"tidechart\"] }", Err("loghouse is not there"), Err("tidechart is not there")),
        (
            "{ host = \"skiff\", battery = true, cores = 4 }",
            Ok("host is skiff, there is a battery and 4 cores"),
            Err("host is breakwater, not skiff"),
        ),
        ("{ host = \"skiff\", battery = false }", Err("there is a battery"), Err("host is breakwater, not skiff")),
    ];
    for (when, on_skiff, on_breakwater) in cases {
        let text = |result: Result<&str, &str>| result.map(str::to_owned).map_err(str::to_owned);
        assert_eq!(answer(when, &skiff), text(on_skiff), "{when} on skiff");
        assert_eq!(answer(when, &breakwater), text(on_breakwater), "{when} on breakwater");
        let nobody = answer(when, &UnknownHost);
        assert_eq!(nobody.is_ok(), when == "{}", "{when}: what nobody knows does not hold: {nobody:?}");
    }
}

#[test]
fn conditions_that_cannot_be_meant_are_refused_with_their_place() {
    let cases = [
        ("{ hots = \"skiff\" }", "setting/unknown overlays/a.toml:2:10"),
        ("{ hour = \"20-25\" }", "setting/type overlays/a.toml:2:17"),
        ("{ hour = \"7-7\" }", "setting/type overlays/a.toml:2:17"),
        ("{ cores = \"many\" }", "setting/type overlays/a.toml:2:18"),
        ("{ battery = \"yes\" }", "setting/type overlays/a.toml:2:20"),
        ("{ monitors = \"load > 2\" }", "setting/type overlays/a.toml:2:21"),
        ("{ environment = \"EDITOR\" }", "setting/type overlays/a.toml:2:24"),
        ("\"skiff\"", "setting/type overlays/a.toml:2:8"),
    ];
    for (when, place) in cases {
        let checked = checked_on(&[("overlays/a.toml", &format!("[overlay]\nwhen = {when}\n"))], &UnknownHost);
        assert_eq!(found(&checked), [place], "{when}");
        let nowhere = Verdict { holds: false, why: "its conditions cannot be read".to_owned() };
        assert_eq!(checked.overlays[0].verdict, nowhere, "{when} holds nowhere");
    }
}

#[test]
fn overlays_are_laid_by_order_then_name_and_win_without_a_word() {
    let parts = (
        "parts/a.toml",
        "[space]\nedge = 4\n[bar.top]\nend = [\"clock\"]\n[module.clock]\nsource = \"time\"\ntext = \"{time}\"\n",
    );
    let files = [
        parts,
        ("overlays/a.toml", "[overlay]\norder = 10\n[space]\nedge = 5\n"),
        ("overlays/b.toml", "[space]\nedge = 6\n[bar.top]\nend = [\"...\", \"tide\"]\n[module.tide]\ntext = \"still\"\n"),
        ("overlays/c.toml", "[space]\nedge = 7\n"),
    ];
    let checked = checked_on(&files, &UnknownHost);
    assert_eq!(found(&checked), Vec::<String>::new(), "overriding is what layers are for");
    assert_eq!(checked.rice.space.edge.0, 5, "the order is asked before the name");
    assert_eq!(checked.rice.bar["top"].end, ["clock", "tide"], "a list of a lower layer is spliced");
    let leaf = checked.tree.get(&["space", "edge"]).and_then(|tree| tree.leaf()).expect("set");
    let chain: Vec<_> = leaf.over.iter().map(|(layer, node)| (*layer, node.to_toml())).collect();
    assert_eq!((leaf.layer, leaf.node.to_toml()), (ConfigLayer::Overlay(2), "5".to_owned()));
    let expected = [(ConfigLayer::Overlay(1), "7"), (ConfigLayer::Overlay(0), "6"), (ConfigLayer::Parts, "4")];
    assert_eq!(chain, expected.map(|(layer, text)| (layer, text.to_owned())));
}

#[test]
fn with_wins_over_overlays_and_chords_of_overlays_are_normalised() {
    let mut files = Files { manifest: Some(Source::new("rice.toml", MANIFEST)), ..Files::default() };
    files.add(Source::new(
        "parts/a.toml",
        "[keys]\nlead = \"Super\"\n[keys.desk]\n\"Lead+w\" = \"close\"\n\"Lead+x\" = \"kill\"\n",
    ));
    files.add(Source::new("overlays/a.toml", "[keys.desk]\n\"Super+w\" = \"quit\"\n[space]\nedge = 3\n"));
    let checked = check(files, &[("space.edge".to_owned(), "9".to_owned())], &UnknownHost);
    assert_eq!(found(&checked), Vec::<String>::new());
    assert_eq!((checked.rice.space.edge.0, checked.rice.keys.desk.plain.0.len()), (9, 2));
    let leaf = checked.tree.get(&["keys", "desk", "Super+w"]).and_then(|tree| tree.leaf()).expect("one chord");
    assert_eq!((leaf.node.to_toml(), leaf.over.len()), ("\"quit\"".to_owned(), 1));
}

#[test]
fn what_an_overlay_drops_is_gone_and_nothing_to_drop_is_said() {
    let bars = "[bar.side]\nthick = 40\n[bar.top]\nthick = 30\n[keys.desk]\n\"Lead+w\" = \"close\"\n";
    let overlay = "[overlay]\ndrop = [\"bar.side\", \"keys.desk.\\\"Super+w\\\"\", \"bar.top.edge\", \"bar.top.edgy\"]\n[bar.top]\nthick = 20\n";
    let checked = checked_on(&[("parts/a.toml", bars), ("overlays/a.toml", overlay)], &UnknownHost);
    assert_eq!(found(&checked), ["setting/unknown overlays/a.toml:2:62", "overlay/nothing-to-drop overlays/a.toml:2:46"]);
    assert!(!checked.rice.bar.contains_key("side") && checked.rice.keys.desk.plain.0.is_empty());
    assert_eq!(checked.rice.bar["top"].thick.0, 20);
    let dropped: Vec<String> = checked.dropped.iter().map(|dropped| dropped.steps.join(".")).collect();
    assert_eq!(dropped, ["bar.side", "keys.desk.Super+w"]);
}

#[test]
fn a_rice_is_checked_on_each_machine_and_with_each_overlay_but_only_what_is_here_stops_it() {
    let files = [
        ("parts/a.toml", "[program]\ncharts = \"tidechart\"\n"),
        ("overlays/small.toml", "[overlay]\nwhen = { monitor-height = \"< 1000\" }\n[workspaces]\nlayouts = [\"mast\"]\n"),
        ("overlays/never.toml", "[overlay]\nwhen = { host = \"dinghy\" }\n[space]\nedge = \"wide\"\n"),
        ("machines/breakwater.toml", BREAKWATER),
        ("machines/skiff.toml", SKIFF),
    ];
    let checked = checked_on(&files, &UnknownHost);
    let told: Vec<(&str, Option<&str>)> =
        checked.problems.iter().map(|problem| (problem.code, problem.elsewhere.as_deref())).collect();
    let expected = [
        ("setting/type", Some("with overlays/never.toml")),
        ("layout/unknown", Some("on skiff")),
        ("program/not-found", Some("on breakwater")),
    ];
    assert_eq!(told, expected);
    assert!(checked.usable() && checked.errors() == 2, "errors of other computers do not stop this one");
    let on_skiff = checked_on(&files, &machine(SKIFF));
    assert!(!on_skiff.usable(), "on skiff itself they do");
    assert!(on_skiff.problems.iter().any(|problem| problem.code == "layout/unknown" && problem.elsewhere.is_none()));
}

#[test]
fn a_machine_s_facts_have_problems_with_places_like_any_file() {
    let checked =
        checked_on(&[("machines/a.toml", "cores = \"many\"\nhots = \"a\"\n[monitor]\nDP-1 = \"wide\"\n")], &UnknownHost);
    let places = ["setting/type machines/a.toml:1:9", "setting/unknown machines/a.toml:2:1", "setting/type machines/a.toml:4:8"];
    assert_eq!(found(&checked), places);
}

#[test]
fn every_condition_is_told_in_words_with_an_example_that_is_read() {
    for field in OverlayConditions::KIND.fields {
        let (name, asks, example) = (field.name, field.help, field.example());
        let text = format!("[overlay]\nwhen = {{ {name} = {example} }}\n");
        let checked = checked_on(&[("overlays/a.toml", &text)], &UnknownHost);
        assert_eq!(found(&checked), Vec::<String>::new(), "{name}");
        assert!(!checked.overlays[0].verdict.holds && asks.len() > 15, "{name}");
    }
    let wrong = checked_on(&[("overlays/a.toml", "[overlay]\nwhen = { hots = \"skiff\" }\n")], &UnknownHost);
    assert_eq!(wrong.problems[0].marks[0].note, "did you mean host?");
    let known = checked_on(&[("overlays/a.toml", "[overlay]\nwhen = { xylophone = 1 }\n")], &UnknownHost);
    let names: Vec<&str> = OverlayConditions::KIND.fields.iter().map(|field| field.name).collect();
    assert_eq!(known.problems[0].marks[0].note, format!("known here: {}", jovrik_text::problem::in_words(&names)));
}

/// What an overlay may touch, alone and by what follows it.
const TOUCHING: &[&str] = &[
    "[space]\nbetween = 3",
    "[palette.ebb]\naccent = \"#ff8800\"",
    "[type]\nsize = 14",
    "[bar.top]\nthick = 20",
    "[bar.low]\nedge = \"bottom\"\nend = [\"clock\"]",
    "[workspaces]\norder = [\"one\"]\nlayouts = [\"grid\"]",
    "[program]\ncharts = \"other\"",
    "[keys.desk]\n\"Lead+n\" = \"go three\"",
    "[keys]\nlead = \"Alt\"",
    "[keyboard]\nlayouts = [\"de\"]",
    "[layout.wide]\nkind = \"grid\"",
    "[module.clock]\ntext = \"{time:%H}\"",
    "[style.bar]\nink = \"@muted\"",
    "[scope.mux]\ninside = \"charts\"",
    "[frame]\nwidth = 7",
];

const TOUCHED: &str = "[space]\nbetween = 9\nedge = \"=space.between\"\nalone = \"=frame.width\"\n[frame]\nwidth = 2\n\
    [workspaces]\norder = [\"one\", \"two\"]\n[workspace.one]\nicon = \"chart\"\n[program]\ncharts = \"tidechart\"\n\
    [layout.wide]\nkind = \"main\"\n[bar.top]\nthick = \"=frame.width\"\nstart = [\"clock\"]\n\
    [module.clock]\nsource = \"time\"\ntext = \"{time:%H:%M}\"\npress = { left = \"open charts\" }\n\
    [style.bar.module]\nink = \"@accent\"\n[keyboard]\nlayouts = [\"us\"]\n\
    [keys.desk]\n\"Lead+q\" = \"bar toggle top\"\n\"Lead+w\" = \"bar toggle low\"\n\"Lead+c\" = \"go two\"\n\
    \"Lead+v\" = \"layout wide\"\n\"Lead+n\" = \"open charts\"\n[scope.mux]\ninside = \"terminal\"\n[keys.mux]\n\"Ctrl+b\" = \"new\"\n";

#[test]
fn a_rice_on_another_machine_is_what_it_is_there() {
    let there = machine(SKIFF);
    let wrong = |checked: &CheckedRice| -> Vec<String> {
        let mut all: Vec<String> = checked.problems.iter().map(|one| format!("{} {}", one.code, one.title)).collect();
        all.sort();
        all.dedup();
        all
    };
    let drops = ["space.between", "bar.top", "palette", "keys.desk.\"Lead+q\"", "program.charts", "module.clock"];
    let dropping = drops.map(|path| format!("drop = [{}]\n[type]\nsize = 9", jovrik_toml::quoted(path)));
    let cases: Vec<String> = TOUCHING.iter().map(|text| (*text).to_owned()).chain(dropping).collect();
    for base in ["", "[overlay]\norder = -1\n[space]\nbetween = 5\n"] {
        for first in &cases {
            for second in ["", "[frame]\nwidth = 1", "[palette]\nuse = \"ebb\"\n[palette.ebb]\nink = \"#ffffff\""] {
                let head = "[overlay]\nwhen = { host = \"skiff\" }\n";
                let (first, second) = (format!("{head}{first}\n"), format!("{head}{second}\n"));
                let files = [
                    ("parts/a.toml", TOUCHED),
                    ("overlays/a.toml", base),
                    ("overlays/b.toml", &first),
                    ("overlays/c.toml", &second),
                    ("machines/skiff.toml", SKIFF),
                ];
                let here = checked_on(&files, &machine(BREAKWATER));
                let direct = checked_on(&files, &there);
                let (place, rice) = here.elsewhere.first().expect("it is laid for the other machine");
                assert_eq!(place, "on skiff");
                assert_eq!(**rice, *direct.rice, "{first}{second}");
                let (all, told) = (wrong(&here), wrong(&direct));
                // What is wrong there is told here, too; beside it what is wrong here.
                let missed: Vec<&String> = told.iter().filter(|one| !all.contains(one)).collect();
                assert_eq!(missed, Vec::<&String>::new(), "{first}{second}");
            }
        }
    }
}
