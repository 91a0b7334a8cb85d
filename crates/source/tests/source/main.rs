//! Tests of sources: what is asked when, what runs, what is kept.

use std::time::{Duration, Instant};

use jovrik_core::check::{Files, Nowhere, check};
use jovrik_core::load::Source;
use jovrik_core::rice::Rice;
use jovrik_source::Engine;

fn rice(modules: &str) -> Rice {
    let files = Files {
        manifest: Some(Source::new("rice.toml", "[rice]\nname = \"x\"\n")),
        parts: vec![Source::new("parts/a.toml", modules)],
        ..Files::default()
    };
    let checked = check(files, &[], &Nowhere);
    assert!(checked.usable(), "{:?}", checked.problems);
    (*checked.rice).clone()
}

fn shell(name: &str, line: &str, more: &str) -> String {
    format!("[bar.b-{name}]\nend = [\"{name}\"]\n[module.{name}]\nsource = {{ run = [\"sh\", \"-c\", {line:?}]{more} }}\n")
}

/// Steps until a condition holds, as the loop of a desktop would: waiting for what runs.
#[track_caller]
fn until(engine: &mut Engine, what: &str, mut holds: impl FnMut(&Engine) -> bool) {
    let began = Instant::now();
    while began.elapsed() < Duration::from_secs(10) {
        engine.step(Instant::now());
        if holds(engine) {
            return;
        }
        std::thread::sleep(Duration::from_millis(2));
    }
    assert!(holds(engine), "waited in vain until {what}: {:?} {:?}", engine.known(), engine.health(Instant::now()));
}

fn value(engine: &Engine, name: &str) -> Option<String> {
    let field = engine.known().get(name)?.0.get("value")?;
    match field {
        jovrik_core::bar::Field::Text(text) => Some(text.clone()),
        other => other.number().map(|number| number.to_string()),
    }
}

fn trouble(engine: &Engine, name: &str) -> Option<String> {
    engine.health(Instant::now())[name].trouble.clone()
}

#[test]
fn kernel_values_come_at_once_and_the_processor_at_the_second_reading() {
    let text = "[bar.top]\nend = [\"t\", \"m\", \"c\"]\n[module.t]\nsource = \"time\"\n[module.m]\nsource = \"memory\"\n[module.c]\nsource = { kind = \"cpu\", every = \"100ms\" }\n";
    let mut engine = Engine::new(&rice(text), Instant::now());
    assert!(engine.step(Instant::now()), "values changed");
    assert!(engine.known().contains_key("t") && engine.known().contains_key("m"));
    until(&mut engine, "there is a load", |engine| engine.known().contains_key("c"));
    let load = engine.known()["c"].0["load"].number().expect("a number");
    assert!((0.0..=100.0).contains(&load), "{load}");
}

#[test]
fn a_program_gives_a_value_and_its_troubles_are_told_without_hurting_others() {
    let text = [
        shell("good", "echo ebb", ""),
        shell("slow", "sleep 60", ", within = \"150ms\""),
        shell("bad", "exit 3", ""),
        shell("flood", "yes", ""),
        shell("quiet", "true", ""),
    ]
    .concat();
    let mut engine = Engine::new(&rice(&text), Instant::now());
    until(&mut engine, "the good one has its value", |engine| value(engine, "good").as_deref() == Some("ebb"));
    until(&mut engine, "the others have failed", |engine| {
        ["slow", "bad", "flood"].iter().all(|name| trouble(engine, name).is_some())
    });
    assert_eq!(trouble(&engine, "slow").as_deref(), Some("it took longer than 150ms and was ended"));
    assert_eq!(trouble(&engine, "bad").as_deref(), Some("it ended with exit code 3"));
    assert_eq!(trouble(&engine, "flood").as_deref(), Some("it printed more than 1 MiB and was ended"));
    assert_eq!(trouble(&engine, "good"), None);
    assert_eq!(value(&engine, "quiet"), None, "nothing printed is no value, and no trouble");
    assert_eq!(engine.fds().count(), 0, "nothing runs on");
}

#[test]
fn the_last_good_value_stays_when_the_next_asking_fails() {
    let folder = std::env::temp_dir().join(format!("jovrik-source-{}", std::process::id()));
    let flag = folder.display().to_string();
    let line = format!("test -e {flag} && exit 1; touch {flag}; echo first");
    let mut engine = Engine::new(&rice(&shell("a", &line, ", every = \"50ms\"")), Instant::now());
    until(&mut engine, "the second asking failed", |engine| trouble(engine, "a").is_some());
    assert_eq!(value(&engine, "a").as_deref(), Some("first"));
    assert!(engine.health(Instant::now())["a"].age.is_some());
    let _ = std::fs::remove_file(folder);
}

#[test]
fn polls_of_one_interval_fall_due_together_and_one_runs_at_a_time() {
    let text = "[bar.top]\nend = [\"a\", \"b\", \"c\"]\n[module.a]\nsource = { kind = \"memory\", every = \"300ms\" }\n[module.b]\nsource = { kind = \"time\", every = \"300ms\" }\n[module.c]\nsource = { kind = \"cpu\", every = \"300ms\" }\n";
    let mut engine = Engine::new(&rice(text), Instant::now());
    engine.step(Instant::now());
    std::thread::sleep(Duration::from_millis(260));
    engine.step(Instant::now());
    let began = Instant::now();
    let mut wakes = 0;
    while began.elapsed() < Duration::from_millis(1500) {
        let next = engine.next().expect("something is due");
        std::thread::sleep(next.saturating_duration_since(Instant::now()));
        engine.step(Instant::now());
        wakes += 1;
    }
    let asked: u64 = engine.health(Instant::now()).values().map(|health| health.asked).sum();
    assert!((4..=8).contains(&wakes), "{wakes} wake-ups for {asked} askings");
    let mut slow = Engine::new(&rice(&shell("s", "sleep 0.3; echo x", ", every = \"50ms\"")), Instant::now());
    let began = Instant::now();
    while began.elapsed() < Duration::from_millis(250) {
        slow.step(Instant::now());
        assert!(slow.fds().count() <= 1);
        std::thread::sleep(Duration::from_millis(10));
    }
    assert_eq!(slow.health(Instant::now())["s"].asked, 1);
}

#[test]
fn a_reload_keeps_what_did_not_change_and_forgets_what_is_gone() {
    let before = rice(&[shell("a", "echo one", ""), shell("b", "echo two", "")].concat());
    let mut engine = Engine::new(&before, Instant::now());
    until(&mut engine, "both have values", |engine| value(engine, "a").is_some() && value(engine, "b").is_some());
    let after = rice(&[shell("a", "echo one", ""), shell("b", "echo three", "")].concat());
    engine.replace(&after, Instant::now());
    assert_eq!(value(&engine, "a").as_deref(), Some("one"));
    assert_eq!(engine.health(Instant::now())["a"].asked, 1, "it is not asked again");
    assert_eq!(value(&engine, "b"), None);
    until(&mut engine, "the new one is there", |engine| value(engine, "b").as_deref() == Some("three"));
    engine.replace(&rice(""), Instant::now());
    assert!(engine.known().is_empty() && engine.next().is_none());
}

#[test]
fn modules_that_no_bar_shows_are_never_asked() {
    let mut engine =
        Engine::new(&rice("[module.t]\nsource = \"time\"\n[module.r]\nsource = { run = [\"false\"] }\n"), Instant::now());
    assert!(!engine.step(Instant::now()));
    assert_eq!(engine.next(), None);
}
