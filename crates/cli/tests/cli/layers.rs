//! Overlays, machines and values laid on by hand, as a person meets them.

use insta::assert_snapshot;

use crate::Desk;

#[test]
fn why_shows_the_chain_over_overlays_and_those_that_were_not_asked() {
    let desk = Desk::sample();
    assert_snapshot!(desk.run(&["why", "bar.top.thick", "--machine", "skiff"]).clean(), @"
    bar.top.thick is 28
      28  overlays/laptop.toml:8  holds here: eDP-1 is 768 px high
      32  parts/bar.toml:6        won over
      32  built-in default        won over

    takes effect at once; with it goes the room that windows have on every monitor
      with this bar
    ");
    assert_snapshot!(desk.run(&["why", "bar.top.thick", "--machine", "breakwater"]).clean(), @"
    bar.top.thick is 32
      32  parts/bar.toml:6  holds
      32  built-in default  won over

    not asked: overlays/laptop.toml:8 says 28; no monitor is < 1000 px high: 1080
      and 1024

    takes effect at once; with it goes the room that windows have on every monitor
      with this bar
    ");
    assert_snapshot!(desk.run(&["why", "palette.ebb.accent"]).clean(), @r##"
    palette.ebb.accent is "#74d4b1"
      "#74d4b1"  parts/look.toml:14  holds
      "#74d4b1"  built-in default    won over

    takes effect at once
    followed by frame.active and frame.glow.fill
    "##);
    let with = desk.run(&["why", "space.edge", "--with", "space.edge=40"]).clean();
    assert!(with.starts_with("space.edge is 40\n  40  --with"), "{with}");
    let json: serde_json::Value =
        serde_json::from_str(&desk.run(&["why", "bar.top.thick", "--machine", "breakwater", "--json"]).clean()).expect("JSON");
    assert_eq!(json["not-asked"][0]["file"], "overlays/laptop.toml");
    assert_eq!((&json["value"], json["not-asked"][0]["line"].as_u64()), (&"32".into(), Some(8)));
}

#[test]
fn what_an_overlay_takes_away_is_told() {
    let desk = Desk::of("[bar.side]\nthick = 40\n");
    desk.write("overlays/a.toml", "[overlay]\ndrop = [\"bar.side\"]\n");
    assert_snapshot!(desk.run(&["why", "bar.side.thick"]).clean(), @"
    bar.side.thick is 32
      32  built-in default  holds

    taken away: overlays/a.toml:2 drops bar.side

    takes effect at once; with it goes the room that windows have on every monitor
      with this bar
    ");
}

#[test]
fn why_without_a_path_names_every_file_read_or_passed_over() {
    let desk = Desk::sample();
    desk.write("parts/notes.txt", "buy bread");
    desk.write("parts/look.toml~", "[space]");
    desk.write("parts/.hidden.toml", "[space]");
    desk.write("extra.toml", "[space]");
    assert_snapshot!(desk.run(&["why", "--machine", "skiff"]).clean(), @"
    TEMP/rice  the nearest folder above with a rice.toml

      rice.toml                 what the rice is called and needs
      parts/bar.toml            39 settings; 2 won over by others
      parts/desk.toml           33 settings
      parts/dock.toml           7 settings
      parts/greeting.toml       5 settings
      parts/keys.toml           95 settings
      parts/launcher.toml       22 settings
      parts/look.toml           42 settings; 3 won over by others
      parts/start.toml          3 settings
      parts/widgets.toml        50 settings
      overlays/laptop.toml      5 settings; holds here: eDP-1 is 768 px high
      machines/breakwater.toml  facts of a computer; checks look at them too
      machines/skiff.toml       facts of a computer; checks look at them too
      art/editor-keys.toml      what a program binds by itself
      parts/.hidden.toml        ignored: hidden
      parts/look.toml~          ignored: an editor's copy
      parts/notes.txt           ignored: a text beside the settings
      extra.toml                ignored: settings are read from parts/ and overlays/
                                only

    Parts win over those above them, and overlays that hold win over all parts;
    jovrik why PATH shows one setting.
    ");
    let json: serde_json::Value = serde_json::from_str(&desk.run(&["why", "--json"]).clean()).expect("JSON");
    assert_eq!(json["files"].as_array().map(Vec::len), Some(18));
}

#[test]
fn looking_takes_values_by_hand_and_writing_does_not() {
    let desk = Desk::sample();
    assert_eq!(desk.run(&["show", "space.edge", "--with", "space.edge=3"]).clean(), "3\n");
    let refused = desk.run(&["set", "space.edge", "3", "--with", "frame.width=1"]).failed(2);
    assert_snapshot!(refused, @"error  set works on what is written; --with is for looking");
    let bad = desk.run(&["look", "--with", "space.edge=wide"]).failed(1);
    assert!(bad.contains("space.edge cannot be \"wide\""), "{bad}");
    assert_snapshot!(desk.run(&["show", "space.edge", "--with", "space.edge"]).failed(2), @"error  --with takes PATH=VALUE, not space.edge");
}

#[test]
fn an_error_on_another_machine_is_told_and_stops_nothing_here() {
    let desk = Desk::sample();
    desk.write("overlays/laptop.toml", "[overlay]\nwhen = { host = \"skiff\" }\n[bar.top]\nend = [\"tide\", \"moon\"]\n");
    let run = desk.run(&["check", "--machine", "breakwater"]);
    assert_eq!(run.code, 1);
    assert_snapshot!(run.out, @r#"
    error  bar/no-module  there is no module moon, on skiff
      overlays/laptop.toml:4:16
       4 | end = ["tide", "moon"]
         |                ^^^^^^ it is none of the 15 modules of this rice
      The bar would leave it out. Modules are made in [module.NAME].

    1 error; 1 warning accepted by rice.toml.  Read 13 files: 301 settings, 89
    bindings, 3 rules and 15 modules.
    "#);
    desk.run(&["apply"]).clean();
    assert!(desk.run(&["apply", "--machine", "skiff"]).failed(1).contains("there is no module moon"));
}

#[test]
fn the_facts_of_this_computer_are_a_machine_that_a_rice_can_meet() {
    let desk = Desk::sample();
    let short: toml::Table = toml::from_str(&desk.run(&["machine"]).clean()).expect("TOML");
    let named = short["programs"].as_array().expect("a list").len();
    assert!(named < 20, "those that the rice names, and {named} of them");
    let facts = desk.run(&["machine", "--all"]).clean();
    let table: toml::Table = toml::from_str(&facts).expect("TOML");
    assert!(table["cores"].as_integer().is_some_and(|cores| cores > 0) && table["memory"].as_integer().is_some());
    let programs = table["programs"].as_array().expect("a list");
    assert!(programs.iter().any(|name| name.as_str() == Some("sh")), "{programs:?}");
    assert!(facts.lines().all(|line| line.chars().count() <= 100), "{facts}");
    desk.write("machines/here.toml", &facts);
    let checked = desk.run(&["check", "--machine", "here"]).clean();
    assert!(checked.starts_with("No problems"), "{checked}");
    let json: serde_json::Value = serde_json::from_str(&desk.run(&["machine", "--json"]).clean()).expect("JSON");
    assert_eq!(json["host"].as_str(), table["host"].as_str());
}

#[test]
fn a_person_s_own_overlay_is_not_published() {
    let desk = Desk::sample();
    desk.write("overlays/mine.toml", "[overlay]\npersonal = true\n[space]\nedge = 2\n");
    let told = desk.run(&["publish", "--bundle", "out.rice"]).clean();
    assert!(told.contains("overlays/mine.toml is personal and stays here"), "{told}");
    let shown = desk.run(&["adopt", "out.rice"]).clean();
    assert!(!shown.contains("mine.toml"), "{shown}");
    desk.run(&["adopt", "out.rice", "--to", "theirs", "--allow-run"]).clean();
    assert!(!desk.rice().join("theirs/overlays/mine.toml").exists());
    assert!(desk.rice().join("theirs/overlays/laptop.toml").exists());
}

#[test]
fn what_is_tried_is_switched_off_and_on_again() {
    let desk = Desk::sample();
    let before = desk.read("parts/bar.toml");
    assert_snapshot!(desk.run(&["toggle", "bar.top.end", "cpu"]).clean(), @r#"
    bar.top.end ["tide", "cpu", "memory", "volume", "clock"] → ["tide", "memory", "volume", "clock"]
      changed parts/bar.toml
      → jovrik undo      takes it back
    "#);
    assert!(desk.read("parts/bar.toml").contains("end = [\"tide\", \"memory\", \"volume\", \"clock\"]  # off: \"cpu\" (2)\n"));
    desk.run(&["toggle", "bar.top.end", "cpu"]).clean();
    assert_eq!(desk.read("parts/bar.toml"), before);
    assert_snapshot!(desk.run(&["toggle", "module.cpu"]).failed(1), @r#"
    error  bar/no-module  there is no module cpu
      parts/bar.toml:9:16
       9 | end = ["tide", "cpu", "memory", "volume", "clock"]
         |                ^^^^^ it is none of the 14 modules of this rice
      The bar would leave it out. Modules are made in [module.NAME].

    error  widget/no-source  there is no module cpu
      parts/widgets.toml:34:10
      34 | module = "cpu"
         |          ^^^^^ it is none of the 14 modules of this rice
      The widget would stay empty. Modules are made in [module.NAME].

    error  bar/no-module  there is no module cpu, on skiff
      overlays/laptop.toml:9:16
       9 | end = ["tide", "cpu", "clock"]
         |                ^^^^^ it is none of the 14 modules of this rice
      The bar would leave it out. Modules are made in [module.NAME].

    error  the rice would have errors
      Nothing was written.
    "#);
    assert_eq!(desk.read("parts/bar.toml"), before);
    let told = desk.run(&["set", "bar.top.thick", "24", "--overlay", "skiff"]).clean();
    let said = "overlays/skiff.toml: bar.top.thick = 24\nnothing changes here: overlays/skiff.toml is not asked, since host is ";
    assert!(told.starts_with(said), "{told}");
    assert!(told.ends_with(", not skiff\n  changed overlays/skiff.toml\n  → jovrik undo      takes it back\n"), "{told}");
    assert_eq!(desk.run(&["show", "bar.top.thick", "--machine", "skiff"]).clean(), "24\n");
}

#[test]
fn conditions_are_asked_of_this_computer_as_it_is_now() {
    let desk = Desk::of("[space]\nedge = 1\n");
    let edge = |env: &[(&str, &str)]| {
        let output = desk.command(&desk.rice(), &["show", "space.edge"]).envs(env.iter().copied()).output().expect("it runs");
        String::from_utf8(output.stdout).expect("UTF-8").trim().to_owned()
    };
    desk.write("overlays/a.toml", "[overlay]\nwhen = { environment = { STATION = \"salt*\" } }\n[space]\nedge = 2\n");
    assert_eq!(edge(&[]), "1");
    assert_eq!(edge(&[("STATION", "saltmarsh")]), "2");
    assert_eq!(edge(&[("STATION", "dune")]), "1");
    desk.write("overlays/a.toml", "[overlay]\nwhen = { program = \"sh\", cores = \">= 1\" }\n[space]\nedge = 3\n");
    assert_eq!(edge(&[]), "3");
    assert_eq!(edge(&[("PATH", "/nowhere")]), "1");
    let told = desk.run(&["why", "space.edge"]).clean();
    assert!(told.contains("holds here: sh is there and ") && told.contains(" core"), "{told}");
}

#[test]
fn edits_go_where_the_value_holds_and_say_what_follows() {
    let desk = Desk::of("[space]\nedge = \"=space.between\"\nbetween = 6\n");
    desk.write("overlays/a.toml", "[space]\nbetween = 9\n");
    let told = desk.run(&["why", "space.edge"]).clean();
    assert!(told.contains("which follows space.between: 9"), "{told}");
    let followed = desk.run(&["why", "space.between"]).clean();
    assert!(followed.contains("followed by space.edge\n") && followed.contains("holds here: it has no condition"), "{followed}");
    desk.run(&["set", "space.between", "11"]).clean();
    assert_eq!(desk.read("overlays/a.toml"), "[space]\nbetween = 11\n");
    assert_eq!(desk.run(&["show", "space.edge"]).clean(), "\"=space.between\"\n");
    desk.run(&["reset", "space.between"]).clean();
    assert_eq!(
        (desk.read("overlays/a.toml").as_str(), desk.read("parts/a.toml").as_str()),
        ("[space]\n", "[space]\nedge = \"=space.between\"\n")
    );
}

#[test]
fn hours_are_those_of_the_clock_on_the_days_on_which_it_is_put_on_and_back() {
    let desk = Desk::of("[frame]\nwidth = 2\n");
    desk.write("overlays/night.toml", "[overlay]\nwhen = { hour = \"2-3\" }\n[frame]\nwidth = 9\n");
    // A time zone by its rule (POSIX TZ): the hour from two to three is not there in March, and there twice in October.
    let at = |time: &str| {
        let plain = desk.command(&desk.rice(), &[]);
        let mut command = std::process::Command::new("faketime");
        command.args(["-f", &format!("@{time}"), env!("CARGO_BIN_EXE_jovrik"), "show", "frame.width"]).current_dir(desk.rice());
        command.env_clear().envs(plain.get_envs().filter_map(|(name, value)| Some((name, value?))));
        let output = command.env("TZ", "A-1B,M3.5.0,M10.5.0/3").output().expect("faketime: cargo xtask test installs it");
        crate::Run::of(&output, &[]).clean()
    };
    for (time, holds) in [
        ("2026-03-28 02:30:00", true),
        ("2026-03-29 01:59:58", false),
        ("2026-03-29 03:00:01", false),
        ("2026-10-25 01:59:58", false),
        ("2026-10-25 02:30:00", true),
        ("2026-10-25 03:00:01", false),
        // Long before this program, and long after it.
        ("1971-01-01 02:30:00", true),
        ("2037-12-31 02:30:00", true),
    ] {
        assert_eq!(at(time).contains('9'), holds, "{time}: {}", at(time));
    }
}
