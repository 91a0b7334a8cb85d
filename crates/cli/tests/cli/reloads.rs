//! Reloads that are tried, told, written down late, or done by the program itself; and what programs find on the server.

use std::process::Stdio;

use x11rb::protocol::xproto::{AtomEnum, ConnectionExt};
use x11rb::wrapper::ConnectionExt as _;

use crate::bars::named;
use crate::live::{Program, Screen};

const RICE: &str = "[space]\nalone = 20\n[frame]\nwidth = 4\nradius = 0\nactive = \"#ff0000\"\n[bar.top]\nthick = 30\n[palette]\nuse = \"ebb\"\n\
[palette.ebb]\npaper = \"#102030\"\n[palette.noon]\npaper = \"#f0f0e0\"\n[workspaces]\norder = [\"charts\", \"logs\"]\n";

fn screen() -> Screen {
    let mut server = std::process::Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    let mut screen = Screen::on(server, RICE);
    screen.start(&[]);
    screen
}

#[test]
fn telling_to_reload_says_what_changed_or_what_is_wrong() {
    let screen = screen();
    // Saved where nobody watches: what is told is what counts.
    screen.write_unseen(&RICE.replace("thick = 30", "thick = 40"));
    let run = screen.run(&["tell", "reload"]).clean();
    assert_eq!(run, "reloaded: bar.top.thick 30 → 40\n");
    assert_eq!(screen.run(&["tell", "reload"]).clean(), "reloaded: nothing\n");
    assert_eq!(screen.pixel(500, 35), screen.pixel(500, 5), "the bar is as thick");
    screen.write_unseen(&RICE.replace("thick", "thikc"));
    let run = screen.run(&["tell", "reload"]);
    assert_eq!(run.code, 1);
    assert!(run.err.contains("parts/a.toml:8: there is no bar.top.thikc"), "{}", run.err);
    assert_eq!(screen.ask("health")["last-reload"], "refused");
    // What waits for a login is said, with what would run it now.
    let start = "[program]\nterminal = \"xterm\"\n[start.log]\nrun = [\"true\", \"one\"]\n";
    screen.write_unseen(&format!("{RICE}{start}"));
    screen.run(&["tell", "reload"]).clean();
    screen.write_unseen(&format!("{RICE}{}", start.replace("one", "two words")));
    let said = screen.run(&["tell", "reload"]).clean();
    let now = "\n  start.log is run at login: jovrik tell 'run true '\\''two words'\\''' runs it now\n";
    assert!(said.ends_with(now), "{said}");
}

#[test]
fn a_reload_that_is_tried_goes_back_unless_it_is_kept() {
    let mut screen = screen();
    let _one = screen.xterm();
    let frame = |screen: &Screen| screen.pixel(22, 400);
    let history = |screen: &Screen| screen.run(&["history"]).out.matches("reload").count();
    screen.write_unseen(&RICE.replace("#ff0000", "#00ff00"));
    screen.tell("reload --trial 5s");
    screen.wait("it is seen", |screen| frame(screen) == [0, 255, 0]);
    screen.wait("a notice counts down", |screen| named(screen, "jovrik notice Trial").is_some());
    assert_eq!(history(&screen), 0, "what is tried is not written down");
    screen.wait("it goes back", |screen| frame(screen) == [255, 0, 0]);
    assert!(named(&screen, "jovrik notice Trial").is_none());
    let run = screen.run(&["tell", "reload keep"]);
    assert!(run.code == 1 && run.err.contains("no reload is tried"), "{}", run.err);
    screen.tell("reload --trial 60s");
    screen.wait("it is seen again", |screen| frame(screen) == [0, 255, 0]);
    screen.tell("reload keep");
    assert!(named(&screen, "jovrik notice Trial").is_none());
    assert_eq!(history(&screen), 1);
    assert_eq!(frame(&screen), [0, 255, 0]);
    // Where nothing is another yet, what is saved meanwhile is tried, and goes back to what was before all of it.
    screen.tell("reload --trial 4s");
    screen.wait("a notice counts down", |screen| named(screen, "jovrik notice Trial").is_some());
    screen.save(&RICE.replace("#ff0000", "#0000ff"));
    screen.wait("it is seen", |screen| frame(screen) == [0, 0, 255]);
    screen.save(&RICE.replace("#ff0000", "#00ffff"));
    screen.wait("the next one too", |screen| frame(screen) == [0, 255, 255]);
    screen.wait("it goes back", |screen| frame(screen) == [0, 255, 0]);
    assert_eq!(history(&screen), 1);
    screen.tell("reload --trial 60s");
    screen.tell("reload keep");
    let kept = screen.run(&["history"]).out;
    assert!(history(&screen) == 1 && kept.contains("#00ffff"), "what the files say by now is kept: {kept}");
    assert_eq!(frame(&screen), [0, 255, 255]);
    // So is every one where that was asked for at the start.
    screen.kill();
    screen.start(&["--replace", "--trial", "4s"]);
    screen.save(RICE);
    screen.wait("a save is tried", |screen| frame(screen) == [255, 0, 0]);
    screen.wait("and goes back", |screen| frame(screen) == [0, 255, 255]);
    let run = screen.run(&["tell", "reload --trial soon"]);
    assert!(run.code == 2 && run.err.contains("it is written reload [--self|--trial TIME|keep]"), "{}", run.err);
}

#[test]
fn the_program_takes_over_in_place_and_nobody_notices() {
    let mut screen = screen();
    let marker = screen.desk.path().join("alive");
    screen.tell(&format!("shell 'sleep 100 & echo $! > {}; wait'", marker.display()));
    let _one = screen.xterm();
    let _two = screen.xterm();
    screen.tell("main swap");
    screen.tell("tuck");
    screen.tell("go logs");
    let _three = screen.xterm();
    screen.tell("float on");
    screen.tell("move left");
    let facts = |screen: &Screen| (screen.ask("windows"), screen.ask("workspaces"), screen.areas());
    let before = facts(&screen);
    let process = screen.ask("health")["process"].clone();
    screen.tell("reload --self");
    screen.wait("it answers again", |screen| {
        screen.try_ask("windows").is_some_and(|all| all.as_array().is_some_and(|all| all.len() == 3))
    });
    assert_eq!(screen.ask("health")["process"], process, "in place");
    assert_eq!(screen.ask("health")["reloads-accepted"], 0, "and new");
    let sorted = |(windows, workspaces, areas): (serde_json::Value, serde_json::Value, Vec<String>)| {
        let mut windows = windows.as_array().expect("a list").clone();
        windows.sort_by_key(|window| window["window"].to_string());
        (windows, workspaces, areas.len())
    };
    assert_eq!(sorted(facts(&screen)), sorted(before));
    let number = std::fs::read_to_string(&marker).expect("a number");
    assert!(std::path::Path::new(&format!("/proc/{}", number.trim())).exists(), "what it started runs on");
    // Its end is noticed by the one that took over.
    let pid = rustix::process::Pid::from_raw(number.trim().parse().expect("a number")).expect("one");
    rustix::process::kill_process(pid, rustix::process::Signal::TERM).expect("sent");
    let own = process.as_u64().expect("a number");
    screen.wait("no ended program is left", |_| {
        let children = std::fs::read_to_string(format!("/proc/{own}/task/{own}/children")).unwrap_or_default();
        children.split_whitespace().all(|child| {
            let stat = std::fs::read_to_string(format!("/proc/{child}/stat")).unwrap_or_default();
            !stat.contains(") Z ")
        })
    });
    // One that could not read the rice does not take over.
    screen.write_unseen(&RICE.replace("thick", "thikc"));
    let run = screen.run(&["tell", "reload --self"]);
    assert!(run.code == 1 && run.err.contains("thikc"), "{}", run.err);
    assert_eq!(screen.count(), 3);
}

#[test]
fn a_reload_that_meets_a_lock_is_written_down_afterwards() {
    let mut screen = screen();
    screen.save(&RICE.replace("thick = 30", "thick = 31"));
    screen.wait("the first is written down", |screen| screen.run(&["history"]).out.contains("31"));
    let lock = screen.desk.folders().state.join("jovrik/lock");
    let file = std::fs::File::options().append(true).open(&lock).expect("the lock");
    file.lock().expect("ours");
    screen.save(&RICE.replace("thick = 30", "thick = 32"));
    screen.wait("it is in force", |screen| screen.reloads("accepted") == 2);
    screen.save(&RICE.replace("thick = 30", "thick = 33"));
    screen.wait("another", |screen| screen.reloads("accepted") == 3);
    drop(file);
    screen.wait("both are written down, as one", |screen| screen.run(&["history"]).out.contains("30 → 33"));
}

fn resources(screen: &Screen) -> String {
    let asked = screen.x.get_property(false, screen.root, AtomEnum::RESOURCE_MANAGER, AtomEnum::STRING, 0, 9999).expect("asked");
    String::from_utf8(asked.reply().expect("an answer").value).expect("text")
}

#[test]
fn the_first_terminal_wears_the_palette_and_open_ones_follow_it() {
    let mut server = std::process::Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    let mut screen = Screen::on(server, RICE);
    std::fs::write(screen.desk.home().join(".Xdefaults"), "XTerm*cursorBlink: true\n*background: white\n").expect("written");
    screen.start(&[]);
    let text = resources(&screen);
    assert!(text.starts_with("XTerm*cursorBlink: true\n") && text.contains("*VT100*background: #102030\n"), "{text}");
    assert!(text.contains("\n*background: white\n"), "what is said of everything is not ours to say: {text}");
    assert!(text.contains("Xcursor.size: 24\n") && !text.contains("\n*foreground"), "{text}");
    screen.tell("run xterm -e sleep 1000");
    screen.wait("a terminal", |screen| screen.count() == 1);
    screen.wait("in its colours", |screen| screen.pixel(800, 700) == [0x10, 0x20, 0x30]);
    // Not one of ours: it stays as it is.
    let stranger = Program(
        std::process::Command::new("xterm")
            .args(["-bg", "#333333", "-e", "sleep", "1000"])
            .env("DISPLAY", &screen.name)
            .stdout(Stdio::null())
            .spawn()
            .expect("xterm"),
    );
    screen.wait("another", |screen| screen.count() == 2);
    screen.wait("it is drawn", |screen| screen.pixel(900, 700) == [0x33, 0x33, 0x33]);
    screen.tell("palette noon");
    screen.wait("the first one follows", |screen| screen.pixel(300, 700) == [0xf0, 0xf0, 0xe0]);
    assert_eq!(screen.pixel(900, 700), [0x33, 0x33, 0x33]);
    assert!(resources(&screen).contains("*VT100*background: #f0f0e0\n"));
    drop(stranger);
    screen.save(&format!("{}[toolkit]\nterminals = false\n", RICE.replace("use = \"ebb\"", "use = \"noon\"")));
    screen.wait("a reload", |screen| screen.reloads("accepted") == 1);
    screen.tell("palette ebb");
    screen.x.sync().expect("sent");
    assert_eq!(screen.pixel(300, 700), [0xf0, 0xf0, 0xe0], "it may stay as it is");
}

#[test]
fn what_is_asked_is_documented_field_by_field_and_what_happens_is_followed() {
    let text = include_str!("../../../../docs/ask.md");
    let mut screen = screen();
    let command = screen.desk.command(&screen.desk.rice(), &["ask", "--follow"]);
    let mut followed = follows(command, &screen.name);
    let mut next = move || {
        let mut line = String::new();
        std::io::BufRead::read_line(&mut followed.1, &mut line).expect("a line");
        let event: serde_json::Value = serde_json::from_str(&line).expect("JSON");
        assert!(text.contains(&format!("`{}`", event["event"].as_str().expect("a word"))), "{event}");
        event
    };
    // It listens once the first thing it says comes.
    std::thread::sleep(std::time::Duration::from_millis(300));
    let _one = screen.xterm();
    let opened = next();
    assert_eq!((&opened["event"], &opened["workspace"]), (&"window-opened".into(), &"charts".into()));
    let mut events: Vec<String> = vec![];
    screen.tell("carry logs");
    screen.tell("layout next");
    screen.tell("reload");
    while events.last().is_none_or(|last| last != "reload") {
        events.push(next()["event"].as_str().expect("a word").to_owned());
    }
    for wanted in ["focus", "window-moved", "workspace", "layout"] {
        assert!(events.iter().any(|event| event == wanted), "{wanted}: {events:?}");
    }
    for what in ["windows", "workspaces", "monitors", "bars", "notices", "health"] {
        let answer = screen.ask(what);
        let one = answer.as_array().map_or(&answer, |all| all.first().unwrap_or(&answer));
        for field in one.as_object().into_iter().flat_map(|fields| fields.keys()) {
            assert!(text.contains(&format!("`{field}`")), "{what}: {field} is not in docs/ask.md");
        }
    }
}

/// A command whose lines are read.
fn follows(mut command: std::process::Command, display: &str) -> (Program, std::io::BufReader<std::process::ChildStdout>) {
    let mut child = command.env("DISPLAY", display).stdout(Stdio::piped()).spawn().expect("it runs");
    let lines = std::io::BufReader::new(child.stdout.take().expect("its output"));
    (Program(child), lines)
}

#[test]
fn saves_that_try_values_of_the_same_settings_are_one_entry() {
    let mut screen = screen();
    let entries = |screen: &Screen| screen.run(&["history", "--json"]).out.lines().map(str::to_owned).collect::<Vec<_>>();
    for (nth, thick) in ["31", "32", "33", "34"].iter().enumerate() {
        screen.save(&RICE.replace("thick = 30", &format!("thick = {thick}")));
        screen.wait("a reload", |screen| screen.reloads("accepted") == nth as u64 + 1);
    }
    screen.wait("one entry", |screen| entries(screen).len() == 1 && entries(screen)[0].contains("bar.top.thick 30 → 34"));
    // What is taken back is all of it; another setting is another entry.
    screen.save(&RICE.replace("thick = 30", "thick = 34").replace("#ff0000", "#00ff00"));
    screen.wait("another entry", |screen| entries(screen).len() == 2);
    screen.run(&["undo"]).clean();
    screen.run(&["undo"]).clean();
    assert_eq!(screen.desk.read("parts/a.toml"), RICE);
    // What comes to nothing is none.
    screen.wait("it is read", |screen| screen.ask("health")["last-reload"] == "accepted");
    let before = entries(&screen).len();
    let accepted = screen.reloads("accepted");
    screen.save(&RICE.replace("thick = 30", "thick = 40"));
    screen.wait("a reload", |screen| screen.reloads("accepted") > accepted);
    screen.wait("an entry", |screen| entries(screen).iter().any(|entry| entry.contains("30 → 40")));
    let accepted = screen.reloads("accepted");
    screen.save(RICE);
    screen.wait("a reload", |screen| screen.reloads("accepted") > accepted);
    screen.wait("and it is gone", |screen| entries(screen).iter().all(|entry| !entry.contains("→ 40")));
    assert!(entries(&screen).len() <= before);
}

#[test]
fn a_picture_of_the_home_is_watched() {
    let rice = format!("{RICE}[backdrop]\npicture = \"~/Pictures/mud.png\"\n");
    let mut server = std::process::Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    let mut screen = Screen::on(server, &rice);
    let folder = screen.desk.home().join("Pictures");
    std::fs::create_dir_all(&folder).expect("a folder");
    let paints = |pixel: [u8; 3]| {
        image::RgbImage::from_pixel(40, 40, image::Rgb(pixel)).save(folder.join("mud.png")).expect("a picture");
    };
    paints([200, 0, 0]);
    screen.start(&[]);
    screen.wait("the picture is there", |screen| screen.pixel(500, 700) == [200, 0, 0]);
    paints([0, 0, 200]);
    screen.wait("the new picture", |screen| screen.pixel(500, 700) == [0, 0, 200]);
}

#[test]
fn what_lies_elsewhere_is_watched_where_it_lies() {
    let mut server = std::process::Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    let mut screen = Screen::on(server, RICE);
    let away = screen.desk.path().join("dotfiles");
    std::fs::create_dir_all(away.join("deep")).expect("a folder");
    let link = |from: &std::path::Path, to: &str| std::os::unix::fs::symlink(from, screen.desk.rice().join(to)).expect("linked");
    // A part behind two links, a picture, and a program that a module runs.
    std::fs::write(away.join("deep/frame.toml"), "[frame]\nidle = \"#111111\"\n").expect("written");
    std::os::unix::fs::symlink("deep/frame.toml", away.join("frame.toml")).expect("linked");
    link(&away.join("frame.toml"), "parts/frame.toml");
    let paints = |screen: &Screen, pixel: [u8; 3]| {
        std::fs::create_dir_all(screen.desk.rice().join("art")).expect("a folder");
        let picture = image::RgbImage::from_pixel(40, 40, image::Rgb(pixel));
        picture.save(screen.desk.rice().join("art/mud.png")).expect("a picture");
    };
    paints(&screen, [200, 0, 0]);
    let program = away.join("says.sh");
    let says = |word: &str| {
        use std::os::unix::fs::PermissionsExt;
        std::fs::write(&program, format!("#!/bin/sh\necho {word}\n")).expect("written");
        std::fs::set_permissions(&program, std::fs::Permissions::from_mode(0o755)).expect("runs");
    };
    says("ebb");
    let module = format!(
        "[backdrop]\npicture = \"art/mud.png\"\n[module.says]\nsource = {{ run = [\"{}\"], every = \"1h\" }}\ntext = \"{{value}}\"\n",
        program.display()
    );
    screen.desk.write("parts/b.toml", module);
    screen.write_unseen(&RICE.replace("thick = 30\n", "thick = 30\nmiddle = [\"says\"]\n"));
    screen.start(&[]);
    let text = |screen: &Screen| screen.ask("bars").as_array().expect("a list").iter().any(|row| row["text"] == "flood");
    screen.wait("the picture is there", |screen| screen.pixel(500, 700) == [200, 0, 0]);
    // What the part is read from is replaced, as editors do.
    let save = |name: &str, text: &str| {
        std::fs::write(away.join("deep/new"), text).expect("written");
        std::fs::rename(away.join("deep/new"), away.join(name)).expect("renamed");
    };
    save("deep/frame.toml", "[frame]\nidle = \"#222222\"\n");
    screen.wait("it is read", |screen| screen.reloads("accepted") == 1);
    // The command writes through the link, which stays one.
    screen.run(&["set", "frame.idle", "#333333"]).clean();
    screen.wait("it is read", |screen| screen.reloads("accepted") == 2);
    assert!(std::fs::read_to_string(away.join("deep/frame.toml")).expect("it is there").contains("#333333"));
    assert!(screen.desk.rice().join("parts/frame.toml").is_symlink());
    // The link in between leads elsewhere.
    save("deep/other.toml", "[frame]\nidle = \"#444444\"\n");
    std::fs::remove_file(away.join("frame.toml")).expect("removed");
    std::os::unix::fs::symlink("deep/other.toml", away.join("frame.toml")).expect("linked");
    screen.wait("it is read", |screen| screen.run(&["ask", "health"]).out.contains("#444444"));
    save("deep/other.toml", "[frame]\nidle = \"#555555\"\n");
    screen.wait("from there, too", |screen| screen.run(&["ask", "health"]).out.contains("#555555"));
    // A link that comes is a file that comes.
    std::os::unix::fs::symlink(away.join("deep/frame.toml"), screen.desk.rice().join("parts/z.toml")).expect("linked");
    screen.wait("it is read", |screen| screen.run(&["ask", "health"]).out.contains("#333333"));
    // A picture that is replaced in place is seen; a program that is another one is asked.
    paints(&screen, [0, 0, 200]);
    screen.wait("the new picture", |screen| screen.pixel(500, 700) == [0, 0, 200]);
    says("flood");
    screen.wait("it says something else", |screen| text(screen));
}

#[test]
fn what_a_person_picks_stays_picked_until_the_rice_says_something_else() {
    let mut screen = screen();
    let paper = |screen: &Screen| screen.pixel(500, 700);
    let (ebb, noon) = ([0x10, 0x20, 0x30], [0xf0, 0xf0, 0xe0]);
    assert_eq!(paper(&screen), ebb);
    screen.tell("palette next");
    screen.wait("it is picked", |screen| paper(screen) == noon);
    assert_eq!(screen.run(&["show", "palette.use"]).clean(), "\"noon\"\n");
    assert!(screen.desk.read("parts/a.toml").contains("use = \"ebb\""), "the rice says what it said");
    let why = screen.run(&["why", "palette.use"]).clean();
    assert!(why.contains("picked on this computer") && why.contains("jovrik reset --choice palette.use takes it back"), "{why}");
    // A save of something else, the program anew, another start.
    screen.save(&RICE.replace("#ff0000", "#00ff00"));
    screen.wait("a reload", |screen| screen.reloads("accepted") == 1);
    assert_eq!(paper(&screen), noon);
    // Two windows, the first of which stands last by now: they are told in the order in which they came.
    let _all = [screen.xterm(), screen.xterm()];
    let order = |screen: &Screen| -> Vec<String> {
        screen.ask("windows").as_array().expect("a list").iter().map(|one| one["window"].to_string()).collect()
    };
    let came = order(&screen);
    screen.tell("main swap");
    screen.tell("reload --self");
    screen.wait("it runs again", |screen| screen.try_ask("health").is_some_and(|health| health["reloads-accepted"] == 0));
    assert_eq!(order(&screen), came);
    drop(_all);
    screen.wait("they are gone", |screen| screen.count() == 0);
    screen.wait("the palette stays", |screen| paper(screen) == noon);
    screen.kill();
    screen.start(&[]);
    assert_eq!(paper(&screen), noon);
    // It is taken back by a command, and by the rice.
    let taken = screen.run(&["reset", "--choice"]).clean();
    assert_eq!(taken, "palette.use: \"noon\" taken back; the rice says \"ebb\"\n");
    screen.wait("as the rice says", |screen| paper(screen) == ebb);
    let nothing = screen.run(&["reset", "--choice", "palette.use"]).failed(1);
    assert!(nothing.contains("no palette.use was picked on this computer"), "{nothing}");
    screen.tell("palette noon");
    screen.wait("it is picked", |screen| paper(screen) == noon);
    screen.save(&RICE.replace("use = \"ebb\"", "use = \"noon\""));
    screen.wait("a reload", |screen| screen.reloads("accepted") == 2);
    screen.save(RICE);
    screen.wait("the rice has changed it since", |screen| paper(screen) == ebb);
    // A picture, with the palette that comes of it; a palette that is no longer there holds nothing up.
    std::fs::create_dir_all(screen.desk.rice().join("art")).expect("a folder");
    image::RgbImage::from_pixel(40, 40, image::Rgb([200, 0, 0])).save(screen.desk.rice().join("art/red.png")).expect("a picture");
    screen.tell("backdrop art/red.png with-palette");
    screen.wait("it is seen", |screen| paper(screen) == [200, 0, 0]);
    assert_eq!(screen.run(&["show", "palette.use"]).clean(), "\"from-picture\"\n");
    screen.save(&RICE.replace("#ff0000", "#ff00ff"));
    screen.wait("a reload", |screen| screen.reloads("accepted") == 4);
    assert_eq!(paper(&screen), [200, 0, 0]);
    screen.run(&["reset", "--choice"]).clean();
    screen.wait("as the rice says", |screen| paper(screen) == ebb);
    screen.tell("palette noon");
    screen.save(&RICE.replace("[palette.noon]\npaper = \"#f0f0e0\"\n", ""));
    screen.wait("one that is gone is no choice", |screen| {
        paper(screen) == ebb && screen.ask("health")["last-reload"] == "accepted"
    });
}
