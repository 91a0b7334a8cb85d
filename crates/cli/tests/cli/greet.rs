//! The greeting: what it prints, what it remembers, and the shells that call it.

use std::os::unix::fs::PermissionsExt;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use insta::assert_snapshot;

use crate::{Desk, photograph};

const RICE: &str = "[module.water]\nsource = { run = [\"./gauge\"], within = \"5s\" }\ntext = \"{value} m\"\ngrades = { warn = \"value >= 4\" }\n\
[module.place]\ntext = \"north channel\"\n[palette.ebb]\nwarn = \"#eec060\"\n\
[greeting]\nfacts = [\"water\", \"place\", \"shell\", \"battery\"]\nart = \"art/staff.txt\"\n[greeting.label]\nplace = \"at\"\n";

/// A rice whose gauge answers after some time, and counts how often it was asked.
fn desk(after: &str) -> Desk {
    let desk = Desk::of(RICE);
    desk.write("art/staff.txt", "@{accent}|=\n@{calm}~~\n");
    gauge(&desk, after, "3.2");
    desk
}

fn gauge(desk: &Desk, after: &str, says: &str) {
    let path = desk.rice().join("gauge");
    std::fs::write(&path, format!("#!/bin/sh\necho x >> \"$HOME/asked\"\nsleep {after}\necho {says}\n")).expect("written");
    std::fs::set_permissions(&path, std::fs::Permissions::from_mode(0o755)).expect("a program");
}

fn greet(desk: &Desk, more: &[&str]) -> (String, Duration) {
    let began = Instant::now();
    let mut arguments = vec!["greet"];
    arguments.extend(more);
    let mut command = desk.command(&desk.rice(), &arguments);
    let output = command.env("SHELL", "/bin/marsh").output().expect("it runs");
    let took = began.elapsed();
    assert_eq!(String::from_utf8_lossy(&output.stderr), "");
    (String::from_utf8(output.stdout).expect("UTF-8"), took)
}

#[test]
fn facts_stand_beside_the_drawing_in_plain_text_where_nobody_looks() {
    let desk = desk("0");
    assert_snapshot!(greet(&desk, &[]).0, @"
    |=    water   3.2 m
    ~~    at      north channel
          shell   marsh
    ");
    assert_snapshot!(greet(&desk, &["--width", "20"]).0, @"
    water   3.2 m
    at      north chann…
    shell   marsh
    ");
    assert_snapshot!(greet(&desk, &["--width", "1"]).0, @"
    …
    …
    …
    ");
    assert_snapshot!(greet(&desk, &["--json"]).0, @r#"
    {"fact":"water","label":"water","text":"3.2 m","part":null,"age":null}
    {"fact":"place","label":"at","text":"north channel","part":null,"age":null}
    {"fact":"shell","label":"shell","text":"marsh","part":null,"age":null}
    "#);
    let (coloured, _) = greet(&desk, &["--color", "always"]);
    assert!(coloured.contains("\u{1b}[38;2;"), "{coloured:?}");
    assert_snapshot!(desk.run(&["greet", "try", "moon"]).failed(2), @"error  there is no fact moon; there are the modules of the rice, and host, kernel, uptime, shell, terminal, face, desk, rice, users, packages, address, resolution, memory, disk and battery");
    assert_snapshot!(desk.run(&["greet", "try", "battery", "--json"]).out.split(",\"milli").next().unwrap_or_default(), @r#"{"fact":"battery","text":null,"part":null"#);
    let tried = desk.run(&["greet", "try", "water"]);
    assert!(tried.code == 0 && tried.out.contains("text     3.2 m"), "{}", tried.out);
    assert_snapshot!(Desk::of("").run(&["greet"]).failed(2), @"error  the rice has no greeting: greeting.facts says what it shows");
}

#[test]
fn what_is_slow_is_shown_as_it_was_and_asked_again_behind_and_nothing_is_left_running() {
    let desk = desk("3");
    let (first, took) = greet(&desk, &[]);
    assert!(!first.contains("water") && first.contains("north channel"), "{first}");
    // It waits 50 ms; the rest is the start of a program beside others.
    assert!(took < Duration::from_millis(2800), "{took:?}");
    let kept = desk.home().join(".cache/jovrik/greeting.json");
    let began = Instant::now();
    let known = || std::fs::read_to_string(&kept).is_ok_and(|text| text.contains("3.2 m"));
    while !known() && began.elapsed() < Duration::from_secs(15) {
        std::thread::sleep(Duration::from_millis(20));
    }
    assert!(known(), "it was asked behind");
    gauge(&desk, "3", "4.1");
    let (second, _) = greet(&desk, &[]);
    assert!(second.contains("water   3.2 m  ") && second.contains("s ago"), "{second}");
    // One that asks behind is enough for many shells.
    for _ in 0..5 {
        greet(&desk, &[]);
    }
    let began = Instant::now();
    while running(&desk) > 0 && began.elapsed() < Duration::from_secs(15) {
        std::thread::sleep(Duration::from_millis(50));
    }
    assert_eq!(running(&desk), 0, "nothing is left running");
    assert!(greet(&desk, &[]).0.contains("4.1 m"));
}

/// How many programs of this test's folder run.
fn running(desk: &Desk) -> usize {
    let folder = desk.path().display().to_string();
    let all = std::fs::read_dir("/proc").expect("proc").filter_map(Result::ok);
    let of_it = |path: std::path::PathBuf| {
        std::fs::read(path.join("cmdline")).is_ok_and(|line| String::from_utf8_lossy(&line).contains(&folder))
    };
    all.filter(|entry| of_it(entry.path())).count()
}

#[test]
fn a_home_that_cannot_be_written_and_a_store_that_is_broken_change_nothing() {
    let desk = desk("0");
    let cache = desk.home().join(".cache");
    std::fs::write(&cache, "no folder").expect("written");
    assert!(greet(&desk, &[]).0.contains("3.2 m"));
    std::fs::remove_file(&cache).expect("removed");
    std::fs::create_dir_all(cache.join("jovrik")).expect("made");
    std::fs::write(cache.join("jovrik/greeting.json"), "{\"water\": {\"text\": 3, \"at\": -1}, broken").expect("written");
    assert!(greet(&desk, &[]).0.contains("3.2 m"));
}

/// What a shell prints whose start files are those of the home.
fn starts(desk: &Desk, program: &str, arguments: &[&str]) -> String {
    let bin = std::path::Path::new(env!("CARGO_BIN_EXE_jovrik")).parent().expect("a folder");
    let path = format!("{}:{}", bin.display(), std::env::var("PATH").expect("a PATH"));
    let plain = desk.command(&desk.rice(), &[]);
    let mut command = Command::new(program);
    command.args(arguments).env_clear().current_dir(desk.rice()).stdin(Stdio::null());
    command.envs(plain.get_envs().filter_map(|(name, value)| Some((name, value?)))).env("PATH", path).env("SHELL", program);
    let output = command.output().expect("the shell: cargo xtask test installs it");
    String::from_utf8_lossy(&output.stdout).into_owned()
}

#[test]
fn shells_greet_when_somebody_types_in_them_and_no_longer_when_the_rice_says_so() {
    let desk = desk("0");
    let bashrc = "# mine\nPS1='> '\nalias ll='ls -l'";
    std::fs::write(desk.home().join(".bashrc"), bashrc).expect("written");
    std::fs::write(desk.home().join(".zshrc"), "PROMPT='> '\n").expect("written");
    // Login shells begin with a PATH of their own.
    let bin = std::path::Path::new(env!("CARGO_BIN_EXE_jovrik")).parent().expect("a folder");
    let profile = format!("PATH=\"{}:$PATH\"\nexport PATH\n", bin.display());
    std::fs::write(desk.home().join(".profile"), &profile).expect("written");
    let part = desk.read("parts/a.toml");
    desk.write("parts/a.toml", part.replace("[greeting]", "[greeting]\nshells = [\"bash\", \"zsh\", \"fish\", \"sh\"]"));
    let applied = desk.run(&["apply"]);
    assert!(
        applied.code == 0 && applied.out.contains("~/.bashrc") && applied.out.contains("a block that greets"),
        "{}",
        applied.out
    );
    let text = std::fs::read_to_string(desk.home().join(".bashrc")).expect("it is there");
    assert!(text.starts_with(bashrc) && text.matches("jovrik greet").count() == 3, "{text}");
    // Again: nothing to do.
    assert!(desk.run(&["apply"]).out.contains("nothing to do"));
    let shells: [(&str, &[&str], &[&str]); 4] = [
        ("bash", &["-i", "-c", "true"], &["-c", "true"]),
        ("zsh", &["-i", "-c", "true"], &["-c", "true"]),
        ("fish", &["-i", "-c", "true"], &["-c", "true"]),
        ("dash", &["-l", "-i", "-c", "true"], &["-l", "-c", "true"]),
    ];
    for (shell, typed, scripted) in shells {
        let said = starts(&desk, shell, typed);
        assert!(said.contains("at      north channel"), "{shell}: {said}");
        assert_eq!(starts(&desk, shell, scripted), "", "{shell}: a script is not greeted");
    }
    // A person goes on writing below it, and takes the greeting back.
    std::fs::write(desk.home().join(".bashrc"), format!("{text}export EDITOR=reed\n")).expect("written");
    desk.write("parts/a.toml", &part);
    let applied = desk.run(&["apply"]);
    assert!(applied.code == 0, "{}", applied.out);
    assert_eq!(std::fs::read_to_string(desk.home().join(".bashrc")).expect("there"), format!("{bashrc}\nexport EDITOR=reed\n"));
    assert_eq!(std::fs::read_to_string(desk.home().join(".zshrc")).expect("there"), "PROMPT='> '\n");
    assert_eq!(std::fs::read_to_string(desk.home().join(".profile")).expect("there"), profile);
    assert!(!desk.home().join(".config/fish/config.fish").exists());
}

#[test]
fn undo_takes_the_blocks_out_and_leaves_the_home_as_it_was() {
    let desk = desk("0");
    std::fs::write(desk.home().join(".bashrc"), "# mine\n").expect("written");
    let before = photograph(&desk.home());
    let part = desk.read("parts/a.toml");
    desk.write("parts/a.toml", part.replace("[greeting]", "[greeting]\nshells = [\"bash\", \"fish\"]"));
    desk.run(&["apply"]);
    assert!(desk.home().join(".config/fish/config.fish").exists());
    assert_eq!(desk.run(&["undo"]).code, 0);
    let own = |all: Vec<(std::path::PathBuf, u32, Vec<u8>)>| -> Vec<_> {
        all.into_iter().filter(|(path, ..)| !path.to_string_lossy().contains("/.local")).collect()
    };
    assert_eq!(own(photograph(&desk.home())), own(before));
}

#[test]
fn a_picture_stands_beside_facts_in_colour_and_a_text_where_there_is_less_room() {
    let desk = desk("0");
    let part = desk
        .read("parts/a.toml")
        .replace("art = \"art/staff.txt\"", "art = \"art/pictures\"\nsmall = \"art/staff.txt\"\npicture-width = 12");
    desk.write("parts/a.toml", part);
    std::fs::create_dir(desk.rice().join("art/pictures")).expect("made");
    image::RgbImage::from_pixel(24, 12, image::Rgb([200, 30, 90]))
        .save(desk.rice().join("art/pictures/flat.png"))
        .expect("written");
    let (seen, _) = greet(&desk, &["--color", "always", "--width", "60"]);
    let cell = "\u{1b}[38;2;200;30;90m\u{1b}[48;2;200;30;90m▀\u{1b}[0m";
    let first = seen.lines().next().expect("a line");
    assert!(first.starts_with(&format!("{}    ", cell.repeat(12))) && first.contains("3.2 m"), "{seen:?}");
    assert_eq!(seen.lines().count(), 3, "as many lines as the picture has, or the facts");
    let narrow = greet(&desk, &["--color", "always", "--width", "39"]).0;
    assert!(!narrow.contains('▀') && narrow.contains("~~"), "{narrow:?}");
    let plain = greet(&desk, &["--width", "60"]).0;
    assert!(!plain.contains('▀') && plain.starts_with("|=    water"), "{plain:?}");
    // Where the terminal does not tell its pixels, half blocks stand in for sixels.
    desk.write("parts/b.toml", "[greeting]\npicture-as = \"sixels\"\n");
    assert!(greet(&desk, &["--color", "always", "--width", "60"]).0.contains('▀'));
    std::fs::write(desk.rice().join("art/pictures/flat.png"), "no picture").expect("written");
    assert!(greet(&desk, &["--color", "always", "--width", "60"]).0.contains("~~"), "the small one stands in");
}
