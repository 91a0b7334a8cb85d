//! What is known of a computer that is not here: its facts, and what modules show on it.

use jovrik_core::check::HostInfo;
use jovrik_core::machine::Machine;
use jovrik_core::rice::BuiltInSource;
use jovrik_text::{Source, Sources};
use jovrik_values::PixelRect;

use crate::checked;

fn machine(text: &str) -> Machine {
    let (machine, problems) = Machine::read(&mut Sources::default(), Source::new("machines/skiff.toml", text));
    let told: Vec<String> = problems.iter().map(|problem| problem.title.clone()).collect();
    assert_eq!(told, Vec::<String>::new(), "{text}");
    machine
}

fn refused(text: &str) -> Vec<(&'static str, String)> {
    let (_, problems) = Machine::read(&mut Sources::default(), Source::new("machines/skiff.toml", text));
    problems.into_iter().map(|problem| (problem.code, problem.marks[0].note.clone())).collect()
}

/// What the field of a module shows on a computer.
fn shows(on: &Machine, module: &str, field: &str) -> Option<String> {
    let rice = checked(&format!("[module.a]\n{module}\n")).rice;
    on.known(&rice).get("a").and_then(|values| values.0.get(field)).map(|field| field.plain())
}

#[test]
fn every_field_of_every_source_that_asks_a_computer_has_a_value() {
    let plain = Machine::plain();
    for source in BuiltInSource::ALL.iter().copied().filter(|source| !source.of_desk()) {
        let module = format!("source = \"{}\"", source.word());
        for field in source.fields() {
            let shown = shows(&plain, &module, field);
            assert!(shown.as_ref().is_some_and(|shown| !shown.is_empty()), "{source:?} has no {field}");
        }
        assert!(shows(&plain, &module, "value").is_some(), "{source:?} has a value by itself");
    }
}

#[test]
fn what_the_facts_say_is_what_modules_show() {
    let skiff = machine(
        "cores = 3\nmemory = 2048\nbatteries = 0\nnetworks = [\"wlan7\"]\nkeyboard = [\"fr\", \"us\"]\n\
        [values.a]\nload = 93\nstate = \"high\"\npast = [1, 2.5, 3]\nwhen = \"2026-05-14T06:42\"\n",
    );
    assert_eq!(shows(&skiff, "source = \"cpu\"", "load").as_deref(), Some("93"), "its own value");
    assert_eq!(shows(&skiff, "source = \"cpu\"", "state").as_deref(), Some("high"));
    assert_eq!(shows(&skiff, "source = { run = [\"sluice\"] }", "load").as_deref(), Some("93"), "of a program too");
    let bare = machine("cores = 3\nmemory = 2048\nbatteries = 0\nnetworks = [\"wlan7\"]\nkeyboard = [\"fr\", \"us\"]\n");
    assert_eq!(shows(&bare, "source = \"cpu\"", "cores").as_deref(), Some("3"));
    assert_eq!(shows(&bare, "source = \"memory\"", "total").as_deref(), Some("2147483648"));
    assert_eq!(shows(&bare, "source = \"network\"", "name").as_deref(), Some("wlan7"));
    assert_eq!(shows(&bare, "source = \"battery\"", "percent"), None, "it has none");
    assert_eq!(shows(&bare, "source = { run = [\"sluice\"] }", "value"), None, "what a program says is not guessed");
    assert_eq!(shows(&bare, "text = \"plain\"", "value"), None);
}

#[test]
fn facts_that_are_none_are_told_where_they_stand() {
    for (text, code) in [
        ("cores = 0\n", "setting/range"),
        ("cores = \"four\"\n", "setting/type"),
        ("batteries = 65\n", "setting/range"),
        ("memory = -1\n", "setting/range"),
        ("[monitor]\nDP-1 = \"10x10\"\n", "setting/range"),
        ("[monitor]\nDP-1 = \"99999x99999\"\n", "setting/range"),
        ("[monitor]\nDP-1 = \"wide\"\n", "setting/type"),
        ("[monitor]\nDP-1 = { size = \"800x600\", at = \"left\" }\n", "setting/type"),
        ("environment = [\"EDITOR\"]\n", "setting/type"),
        ("environment = { EDITOR = 4 }\n", "setting/type"),
        ("[values.a]\nlevel = { deep = 1 }\n", "setting/type"),
        ("[values.a]\npast = [1, \"two\"]\n", "setting/type"),
        ("[values]\na = 3\n", "setting/type"),
        ("hsot = \"skiff\"\n", "setting/unknown"),
    ] {
        let told = refused(text);
        assert!(told.len() == 1 && told[0].0 == code && !told[0].1.is_empty(), "{text}: {told:?}");
    }
}

#[test]
fn a_computer_is_known_by_its_file_and_asked_for_what_was_written_down() {
    let skiff = machine("");
    assert_eq!((skiff.name().as_str(), skiff.hostname().as_deref()), ("skiff", Some("skiff")), "by the name of its file");
    assert_eq!((skiff.cores(), skiff.batteries(), skiff.has_program("xterm"), skiff.has_font("Sans")), (None, None, None, None));
    assert_eq!((skiff.variable("EDITOR"), HostInfo::monitors(&skiff).map(|all| all.len())), (None, None), "nobody looked");
    let whole = machine(
        "host = \"quay\"\ncores = 8\nbatteries = 1\nfonts = [\"Estuary Sans\"]\nprograms = [\"xterm\"]\nenvironment = { EDITOR = \"reedit\" }\n\
        [monitor]\nDP-1 = \"1920x1080\"\nDP-2 = { size = \"1280x1024\", at = \"1920,56\", maker = \"Quay 12\" }\n",
    );
    assert_eq!((whole.name().as_str(), whole.cores(), whole.batteries()), ("quay", Some(8), Some(1)));
    assert_eq!((whole.has_program("xterm"), whole.has_program("sluice")), (Some(true), Some(false)));
    assert_eq!((whole.has_font("estuary sans"), whole.has_font("Estuary")), (Some(true), Some(false)));
    assert_eq!(whole.variable("EDITOR"), Some(Some("reedit".to_owned())));
    assert_eq!(whole.variable("PAGER"), Some(None), "it is known not to be set");
    let monitors = whole.monitors();
    let areas: Vec<(String, PixelRect, String)> =
        monitors.into_iter().map(|monitor| (monitor.name, monitor.area, monitor.maker)).collect();
    let second = ("DP-2".to_owned(), PixelRect::new(1920, 56, 1280, 1024), "Quay 12".to_owned());
    assert_eq!(areas, [("DP-1".to_owned(), PixelRect::new(0, 0, 1920, 1080), String::new()), second]);
    let plain = Machine::plain();
    assert_eq!((plain.name().as_str(), plain.monitors().len(), plain.hostname()), ("a plain machine", 1, None));
}
