//! Tests of sources: what is asked when, what runs, what is kept.

mod strangers;

use std::time::{Duration, Instant};

use jovrik_core::check::{Files, UnknownHost, check};
use jovrik_core::rice::Rice;
use jovrik_source::{Engine, Kernel, SourceProbe};
use jovrik_text::Source;

fn rice(modules: &str) -> Rice {
    let files = Files {
        manifest: Some(Source::new("rice.toml", "[rice]\nname = \"x\"\n")),
        parts: vec![Source::new("parts/a.toml", modules)],
        ..Files::default()
    };
    let checked = check(files, &[], &UnknownHost);
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
        jovrik_values::FieldValue::Text(text) => Some(text.clone()),
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
        assert!(slow.fds().count() <= 2, "what it prints, and what it complains of");
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
    engine.replace(&after, &|_| true, Instant::now());
    assert_eq!(value(&engine, "a").as_deref(), Some("one"));
    assert_eq!(engine.health(Instant::now())["a"].asked, 1, "it is not asked again");
    assert_eq!(value(&engine, "b"), None);
    until(&mut engine, "the new one is there", |engine| value(engine, "b").as_deref() == Some("three"));
    engine.replace(&rice(""), &|_| true, Instant::now());
    assert!(engine.known().is_empty() && engine.next().is_none());
    engine.replace(&before, &|bar| bar == "b-b", Instant::now());
    until(&mut engine, "what is seen is asked", |engine| value(engine, "b").is_some());
    assert!(!engine.health(Instant::now()).contains_key("a"), "hidden bars cost nothing");
    engine.replace(&before, &|_| false, Instant::now());
    assert!(engine.known().is_empty() && engine.next().is_none());
}

#[test]
fn modules_that_no_bar_shows_are_never_asked() {
    let mut engine =
        Engine::new(&rice("[module.t]\nsource = \"time\"\n[module.r]\nsource = { run = [\"false\"] }\n"), Instant::now());
    assert!(!engine.step(Instant::now()));
    assert_eq!(engine.next(), None);
}

#[test]
fn modules_that_want_the_same_share_one_source_and_each_picks_its_own() {
    let source = "source = { run = [\"sh\", \"-c\", \"echo '{\\\"a\\\": 1, \\\"b\\\": 2}'\"], every = \"1h\" }";
    let text = format!(
        "[bar.top]\nend = [\"a\", \"b\", \"c\"]\n[module.a]\n{source}\npick = {{ value = \"/a\" }}\n[module.b]\n{source}\npick = {{ value = \"/b\" }}\n[module.c]\n{source}\npick = {{ value = \"/c\" }}\n"
    );
    let mut engine = Engine::new(&rice(&text), Instant::now());
    engine.step(Instant::now());
    assert_eq!(engine.fds().count(), 2, "one program for all three, which is heard on two ways");
    until(&mut engine, "both have values", |engine| value(engine, "a").is_some() && value(engine, "b").is_some());
    assert_eq!((value(&engine, "a").as_deref(), value(&engine, "b").as_deref()), (Some("1"), Some("2")));
    assert_eq!((value(&engine, "c"), engine.health(Instant::now())["a"].asked), (None, 1));
}

#[test]
fn a_stream_shows_its_latest_line_and_starts_again_when_it_ends() {
    let text = "[bar.top]\nend = [\"s\"]\n[module.s]\nsource = { stream = [\"sh\", \"-c\", \"echo one; sleep 0.1; echo two; echo oh >&2; exit 3\"] }\n";
    let mut engine = Engine::new(&rice(text), Instant::now());
    until(&mut engine, "the first line is there", |engine| value(engine, "s").as_deref() == Some("one"));
    until(&mut engine, "it has ended", |engine| trouble(engine, "s").is_some());
    assert_eq!(trouble(&engine, "s").as_deref(), Some("the stream ended with exit code 3"));
    assert_eq!(value(&engine, "s").as_deref(), Some("two"), "the last good value stays");
    assert_eq!(engine.health(Instant::now())["s"].complaint, "oh");
    assert!(engine.next().is_some_and(|next| next > Instant::now()), "it waits before it starts again");
    until(&mut engine, "it runs again", |engine| trouble(engine, "s").is_none());
}

/// The memory of this process, in KiB.
fn resident() -> u64 {
    let status = std::fs::read_to_string("/proc/self/status").expect("the kernel tells");
    let line = status.lines().find(|line| line.starts_with("VmRSS:")).expect("a line");
    line.split_whitespace().nth(1).and_then(|kib| kib.parse().ok()).expect("a number")
}

#[test]
fn a_flood_of_lines_is_shown_once_a_frame_and_costs_no_memory_that_grows() {
    let text = "[bar.top]\nend = [\"s\", \"t\"]\n[module.t]\nsource = { kind = \"memory\", every = \"100ms\" }\n[module.s]\nsource = { stream = [\"sh\", \"-c\", \"yes 'a line of the flood that never ends'\"] }\n";
    let mut engine = Engine::new(&rice(text), Instant::now());
    let (began, mut shown, mut before) = (Instant::now(), 0, 0);
    while began.elapsed() < Duration::from_millis(1500) {
        let fds: Vec<_> = engine.fds().collect();
        let mut polled: Vec<_> = fds.iter().map(|fd| rustix::event::PollFd::new(fd, rustix::event::PollFlags::IN)).collect();
        let left = engine.next().map_or(Duration::from_millis(50), |next| next.saturating_duration_since(Instant::now()));
        let timeout = rustix::event::Timespec { tv_sec: 0, tv_nsec: i64::from(left.subsec_nanos()) };
        let _ = rustix::event::poll(&mut polled, Some(&timeout));
        drop(polled);
        engine.step(Instant::now());
        if began.elapsed() > Duration::from_millis(300) && before == 0 {
            before = resident();
        }
        shown = engine.health(Instant::now())["s"].asked;
    }
    assert_eq!(value(&engine, "s").as_deref(), Some("a line of the flood that never ends"));
    assert!((10..=100).contains(&shown), "{shown} values in a second and a half");
    assert!(engine.health(Instant::now())["t"].asked >= 5, "the others are asked in time");
    assert!(resident() < before + 4096, "{before} KiB became {} KiB", resident());
}

#[test]
fn a_file_is_a_value_that_is_asked_again_when_it_is_saved() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("level");
    let text = format!("[bar.top]\nend = [\"f\"]\n[module.f]\nsource = {{ file = {path:?} }}\n");
    let mut engine = Engine::new(&rice(&text), Instant::now());
    engine.step(Instant::now());
    assert!(trouble(&engine, "f").is_some_and(|why| why.ends_with("it does not exist")), "{:?}", trouble(&engine, "f"));
    assert_eq!(engine.next(), None, "nobody asks in vain");
    std::fs::write(&path, "3.2 m\n").expect("written");
    until(&mut engine, "its value is there", |engine| value(engine, "f").as_deref() == Some("3.2 m"));
    std::fs::write(path.with_extension("new"), [0xff, 0xfe]).expect("written");
    std::fs::rename(path.with_extension("new"), &path).expect("renamed");
    until(&mut engine, "rubbish is told", |engine| trouble(engine, "f").is_some_and(|why| why.ends_with("is not UTF-8")));
    assert_eq!(value(&engine, "f").as_deref(), Some("3.2 m"));
}

#[test]
fn a_value_that_is_too_old_goes() {
    let flag = tempfile::tempdir().expect("a folder");
    let line = format!("test -e {0} && exit 1; touch {0}; echo first", flag.path().join("x").display());
    let mut engine = Engine::new(&rice(&shell("a", &line, ", every = \"50ms\", keep = \"400ms\"")), Instant::now());
    until(&mut engine, "it has a value", |engine| value(engine, "a").is_some());
    let at = Instant::now();
    until(&mut engine, "the value is too old", |engine| value(engine, "a").is_none());
    assert!(at.elapsed() >= Duration::from_millis(250), "{:?}", at.elapsed());
}

#[test]
fn the_past_of_a_field_is_kept_for_those_who_show_it() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("n");
    std::fs::write(&path, "1").expect("written");
    let text = format!("[bar.top]\nend = [\"f\"]\n[module.f]\nsource = {{ file = {path:?} }}\ntext = \"{{value:spark 3}}\"\n");
    let rice = rice(&text);
    let mut engine = Engine::new(&rice, Instant::now());
    engine.step(Instant::now());
    for number in ["50", "100", "0"] {
        std::fs::write(path.with_extension("new"), number).expect("written");
        std::fs::rename(path.with_extension("new"), &path).expect("renamed");
        until(&mut engine, "the next is there", |engine| value(engine, "f").as_deref() == Some(number));
    }
    let shown = rice.module["f"].text.fill(&engine.known()["f"]);
    assert_eq!(shown.as_deref(), Some("▅█▁"));
}

/// A clock that stands at the beginning of the time and goes with the computer's.
fn wall(now: Instant) -> Duration {
    static BEGAN: std::sync::OnceLock<Instant> = std::sync::OnceLock::new();
    now.saturating_duration_since(*BEGAN.get_or_init(|| now))
}

#[test]
fn twenty_modules_wake_the_program_once_for_each_distinct_time() {
    let every = ["1s", "2s", "3s", "5s"];
    let kinds = ["disk", "memory", "load", "uptime", "processes"];
    let mut text = String::new();
    let mut names = Vec::new();
    for (nth, kind) in kinds.iter().cycle().take(20).enumerate() {
        names.push(format!("\"m{nth}\""));
        text.push_str(&format!("[module.m{nth}]\nsource = {{ kind = \"{kind}\", every = \"{}\" }}\n", every[nth / 5]));
    }
    let text = format!("[bar.top]\nend = [{}]\n{text}", names.join(", "));
    let start = Instant::now();
    wall(start);
    let mut engine = Engine::with(&rice(&text), start, Kernel::default(), wall);
    // An hour is not waited for: time is told, not slept.
    let mut now = start;
    engine.step(now);
    let mut wakes = 0;
    loop {
        let next = engine.next().expect("something is due");
        if next > start + Duration::from_secs(60) + Duration::from_millis(500) {
            break;
        }
        now = next.max(now);
        engine.step(now);
        wakes += 1;
    }
    let distinct = (1..=60).filter(|second| [1, 2, 3, 5].iter().any(|every| second % every == 0)).count();
    assert_eq!(wakes, distinct, "wake-ups, and distinct times");
}

#[test]
fn a_trial_tells_all_that_came_of_it() {
    let ask = |source: &str| {
        let rice = rice(&format!("[module.m]\nsource = {source}\ntext = \"x\"\n"));
        SourceProbe::new(rice.module["m"].clone()).ask()
    };
    let said = ask("{ shell = \"echo ebb; echo hm >&2\" }");
    assert_eq!((said.raw.as_deref(), said.complaint.as_str(), said.code), (Some("ebb\n"), "hm", Some(0)));
    let said = ask("{ shell = \"exit 7\" }");
    assert_eq!((said.trouble.as_deref(), said.code), (Some("it ended with exit code 7"), Some(7)));
    let said = ask("{ stream = [\"sleep\", \"9\"], within = \"100ms\" }");
    assert_eq!(said.trouble.as_deref(), Some("no line came in time"));
    assert!(ask("\"cpu\"").values.0.contains_key("load"));
    assert_eq!(ask("\"title\"").trouble.as_deref(), Some("only the running desktop knows"));
    assert!(ask("{ file = \"/no/such\" }").trouble.is_some());
    assert!(ask("{ stream = [\"no-such-gauge\"] }").trouble.is_some_and(|why| why.contains("is not on this computer")));
}

#[test]
fn lines_of_a_widget_go_on_where_they_were_and_modules_of_widgets_are_asked() {
    let text = "[module.m]\nsource = { kind = \"memory\", every = \"50ms\" }\n[module.unseen]\nsource = \"memory\"\n\
                [widget.past]\nkind = \"graph\"\nmodule = \"m\"\nfield = \"percent\"\nsamples = 4\nremember = true\n";
    let rice = rice(text);
    let mut engine = Engine::new(&rice, Instant::now());
    let past = |numbers: &[f64]| {
        [("m".to_owned(), [("percent".to_owned(), numbers.to_vec())].into_iter().collect())].into_iter().collect()
    };
    engine.recall(past(&[1.0, f64::NAN, 2.0]));
    let line = |engine: &Engine| match engine.known().get("m")?.0.get(&jovrik_values::past_of("percent"))? {
        jovrik_values::FieldValue::Past(numbers) => Some(numbers.clone()),
        _ => None,
    };
    until(&mut engine, "it was asked", |engine| line(engine).is_some());
    assert_eq!(line(&engine).map(|line| (line.len(), line[0], line[1])), Some((3, 1.0, 2.0)));
    until(&mut engine, "it was asked again", |engine| line(engine).is_some_and(|line| line.len() == 4 && line[0] != 1.0));
    let kept = engine.past(&rice);
    assert_eq!(kept["m"]["percent"].len(), 4);
    assert!(!engine.known().contains_key("unseen"), "nobody shows it");
    // What nobody wants remembered is not kept.
    let other = crate::rice(&text.replace("remember = true", ""));
    assert!(engine.past(&other).is_empty());
}

#[test]
fn each_core_has_a_load_of_its_own() {
    let text = "[bar.top]\nend = [\"c\"]\n[module.c]\nsource = { kind = \"cpu\", every = \"100ms\" }\n";
    let mut engine = Engine::new(&rice(text), Instant::now());
    until(&mut engine, "there is a load", |engine| engine.known().contains_key("c"));
    let values = &engine.known()["c"];
    let cores = values.0["cores"].number().expect("a number");
    let jovrik_values::FieldValue::Past(each) = &values.0[&jovrik_values::each_of("load")] else { panic!("{values:?}") };
    assert_eq!(each.len() as f64, cores);
    assert!(each.iter().all(|load| (0.0..=100.0).contains(load)), "{each:?}");
}

static WALL: std::sync::atomic::AtomicU64 = std::sync::atomic::AtomicU64::new(0);

#[test]
fn a_clock_that_is_set_keeps_nothing_waiting_and_asks_nothing_twice() {
    let set = |seconds: u64| WALL.store(seconds, std::sync::atomic::Ordering::Relaxed);
    let wall = |_| Duration::from_secs(WALL.load(std::sync::atomic::Ordering::Relaxed));
    let text = "[bar.top]\nend = [\"t\", \"m\"]\n[module.t]\nsource = { kind = \"time\", every = \"1m\" }\n[module.m]\nsource = { kind = \"memory\", every = \"1h\" }\n";
    set(1_000_000_000);
    let began = Instant::now();
    let mut engine = Engine::with(&rice(text), began, Kernel::default(), wall);
    engine.step(began);
    let waits = |engine: &Engine, now: Instant| engine.next().expect("something is due").saturating_duration_since(now);
    // To the future, to the past, before there was any time, and back: a minute is the longest that the time waits.
    for (nth, seconds) in [1_000_000_030, 4_000_000_000, 1_000, 0, 1_000_000_000].into_iter().enumerate() {
        let now = began + Duration::from_secs(nth as u64 * 7);
        set(seconds);
        engine.clock_set(now);
        assert_eq!(waits(&engine, now), Duration::ZERO, "{seconds}: the time is asked at once");
        engine.step(now);
        assert!((Duration::from_millis(1)..=Duration::from_secs(61)).contains(&waits(&engine, now)), "{seconds}");
        assert!(!engine.step(now), "{seconds}: and once");
    }
}

#[test]
fn a_program_that_is_being_written_is_tried_again_when_its_writer_is_done() {
    use std::os::unix::fs::OpenOptionsExt;
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("says.sh");
    let writer = || {
        let file = std::fs::OpenOptions::new().write(true).create(true).truncate(true).mode(0o755).open(&path);
        let mut file = file.expect("opened");
        std::io::Write::write_all(&mut file, b"#!/bin/sh\necho flood\n").expect("written");
        file
    };
    for form in ["run", "stream"] {
        let source = format!("[bar.b]\nend = [\"s\"]\n[module.s]\nsource = {{ {form} = [\"{}\"] }}\n", path.display());
        let open = writer();
        let began = Instant::now();
        let mut engine = Engine::new(&rice(&source), began);
        engine.step(began);
        assert_eq!(trouble(&engine, "s"), None, "an editor is about to be done");
        drop(open);
        until(&mut engine, "it says something", |engine| value(engine, "s").is_some());
        // One that is never done is told, after a while that ends.
        let _open = writer();
        let mut engine = Engine::new(&rice(&source), began);
        let mut now = began;
        for _ in 0..100 {
            engine.step(now);
            now += Duration::from_millis(60);
        }
        assert!(trouble(&engine, "s").is_some_and(|why| why.contains("is still being written")), "{:?}", trouble(&engine, "s"));
    }
}
