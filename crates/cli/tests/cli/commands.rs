use insta::assert_snapshot;

use crate::Desk;

#[test]
fn new_writes_a_sample_that_checks_clean_and_never_over_something() {
    let desk = Desk::sample();
    let told = desk.run(&["check"]).clean();
    assert!(told.starts_with("No problems"), "{told}");
    let again = desk.command(desk.path(), &["new", "rice"]).output().expect("it runs");
    assert_eq!(again.status.code(), Some(3));
    let dry = desk.command(desk.path(), &["new", "other", "--dry-run"]).output().expect("it runs");
    assert_eq!(dry.status.code(), Some(0));
    assert!(!desk.path().join("other").exists());
    let unknown = desk.command(desk.path(), &["new", "other", "--sample", "saltmash"]).output().expect("it runs");
    assert_eq!(String::from_utf8_lossy(&unknown.stderr), "error  there is no sample saltmash; there is saltmarsh\n");
}

#[test]
fn show_set_reset_and_why_agree() {
    let desk = Desk::of("[space]\nedge = 4 # wide\n\n[bar.top]\nthick = 28\n");
    assert_eq!(desk.run(&["show", "space.edge"]).clean(), "4\n");
    assert_eq!(desk.run(&["show", "space"]).clean(), "space.between = 8\nspace.edge = 4\nspace.alone = 0\n");
    assert_snapshot!(desk.run(&["set", "space.edge", "20"]).clean(), @"
    space.edge 4 → 20
      changed parts/a.toml
      → jovrik undo      takes it back
    ");
    assert_eq!(desk.read("parts/a.toml"), "[space]\nedge = 20 # wide\n\n[bar.top]\nthick = 28\n");
    assert_snapshot!(desk.run(&["why", "space.edge"]).clean(), @"
    space.edge is 20
      20  parts/a.toml:2    holds
      12  built-in default  won over

    takes effect at once
    ");
    assert_eq!(desk.run(&["set", "space.edge", "20"]).clean(), "nothing to change: it is so already\n");
    desk.run(&["set", "frame.active", "@calm"]).clean();
    desk.run(&["set", "type.text", "Some Face"]).clean();
    desk.run(&["set", "keys.desk.\"Lead+x\"", "close"]).clean();
    desk.run(&["set", "palette.dusk.ink", "#123456"]).failed(1);
    assert_eq!(
        desk.run(&["show", "keys.desk.\"SUPER+X\""]).failed(2),
        "error  there is no setting keys.desk.\"SUPER+X\"\n  → keys.desk.\"Super+x\"      is the nearest\n"
    );
    assert_eq!(desk.run(&["show", "keys.desk.\"super+x\""]).clean(), "\"close\"\n");
    desk.run(&["reset", "space.edge"]).clean();
    assert_eq!(desk.run(&["show", "space.edge"]).clean(), "12\n");
    assert_eq!(
        desk.run(&["reset", "space.edge"]).failed(2),
        "error  space.edge is not set in this rice\n  → jovrik show space.edge      shows its default\n"
    );
    assert_eq!(
        desk.run(&["show", "space.egde"]).failed(2),
        "error  there is no setting space.egde\n  → space.edge      is the nearest\n"
    );
}

#[test]
fn set_refuses_what_check_would_refuse_and_writes_nothing() {
    let desk = Desk::of("[space]\nedge = 4\n");
    assert_snapshot!(desk.run(&["set", "space.edge", "900"]).failed(1), @"
    error  setting/range  space.edge is out of range
      parts/a.toml:2:8
       2 | edge = 900
         |        ^^^ expected pixels from 0 to 200 here
      The default stands in until it is mended.

    error  the rice would have errors
      Nothing was written.
    ");
    assert_eq!(desk.read("parts/a.toml"), "[space]\nedge = 4\n");
    assert!(!desk.home().join(".local").exists(), "nothing is in the history");
}

#[test]
fn an_edit_keeps_every_other_byte_of_the_sample() {
    let desk = Desk::sample();
    let before = desk.read("parts/look.toml");
    desk.run(&["set", "frame.glow.width", "9"]).clean();
    assert_eq!(desk.read("parts/look.toml"), before.replace("glow = { width = 6,", "glow = { width = 9,"));
    desk.run(&["undo"]).clean();
    assert_eq!(desk.read("parts/look.toml"), before);
    desk.run(&["redo"]).clean();
    desk.run(&["undo"]).clean();
    assert_eq!(desk.read("parts/look.toml"), before);
    assert_eq!(desk.run(&["undo"]).failed(1), "error  there is nothing to undo\n");
}

#[test]
fn fix_mends_what_is_certain_and_keeps_comments() {
    let desk = Desk::of(
        "# mine\n[frame]\nwidht = 3 # thin\nradius = '8px'\n\n[keys.desk]\n\"Lead+a\" = 'clsoe' # x\n\"Lead+C\" = \"quit\"\n",
    );
    assert_snapshot!(desk.run(&["check", "--fix", "--dry-run"]).out.lines().take(5).collect::<Vec<_>>().join("\n"), @"
    would write 3 corrections
      parts/a.toml:3  width
      parts/a.toml:4  8
      parts/a.toml:7  close
    ");
    assert!(desk.read("parts/a.toml").contains("widht"));
    let run = desk.run(&["check", "--fix"]);
    assert_eq!(run.code, 1, "the capital letter is for the person to decide");
    assert_eq!(
        desk.read("parts/a.toml"),
        "# mine\n[frame]\nwidth = 3 # thin\nradius = 8\n\n[keys.desk]\n\"Lead+a\" = \"close\" # x\n\"Lead+C\" = \"quit\"\n"
    );
}

#[test]
fn fix_mends_the_manifest_too_and_a_second_run_changes_nothing() {
    let desk = Desk::of("[space]\nedgee = 4\n[frame]\nwidth = 2\nwidth = 2\n[keys.desk]\n\"Lead+a\" = \"go nowhere\"\n");
    desk.write("rice.toml", "[rice]\nname = \"test\"\nverzion = \"1.0.0\"\n");
    let first = desk.run(&["check", "--fix"]);
    assert!(first.out.starts_with("wrote 3 corrections\n  rice.toml:3  version\n  parts/a.toml:2  edge\n"), "{}", first.out);
    let (manifest, part) = (desk.read("rice.toml"), desk.read("parts/a.toml"));
    assert_eq!(manifest, "[rice]\nname = \"test\"\nversion = \"1.0.0\"\n");
    assert_eq!(part, "[space]\nedge = 4\n[frame]\nwidth = 2\n[keys.desk]\n\"Lead+a\" = \"go nowhere\"\n");
    let second = desk.run(&["check", "--fix"]);
    assert!(!second.out.contains("wrote") && second.code == 1, "{}", second.out);
    assert_eq!((desk.read("rice.toml"), desk.read("parts/a.toml")), (manifest, part));
    assert_eq!(desk.run(&["history"]).clean().matches("corrections by check --fix").count(), 1);
}

#[test]
fn a_correction_that_cannot_be_made_does_not_stop_the_others() {
    // The word that is meant stands there already: written twice, it would be refused.
    let desk = Desk::of("[frame]\nwidth = 2\nwidht = 3\n[space]\nedgee = 4\n");
    let run = desk.run(&["check", "--fix"]);
    assert!(run.out.starts_with("wrote 1 correction\n  parts/a.toml:5  edge\n"), "{}", run.out);
    assert_eq!(desk.read("parts/a.toml"), "[frame]\nwidth = 2\nwidht = 3\n[space]\nedge = 4\n");
}

#[test]
fn several_settings_are_set_in_one_step() {
    let desk = Desk::of("[workspaces]\norder = [\"a\", \"b\"]\n[keys.desk]\n\"Lead+b\" = \"go b\"\n");
    let told =
        desk.run(&["set", "workspaces.order=[\"a\", \"sea\"]", "keys.desk.\"Lead+b\"=go sea", "rice.version=2.0.0"]).clean();
    assert_snapshot!(told, @r#"
    workspaces.order ["a", "b"] → ["a", "sea"]
    keys.desk."Super+b" "go b" → "go sea"
    rice.toml: rice.version = "2.0.0"
      changed parts/a.toml and rice.toml
      → jovrik undo      takes it back
    "#);
    assert_eq!(desk.read("parts/a.toml"), "[workspaces]\norder = [\"a\", \"sea\"]\n[keys.desk]\n\"Lead+b\" = \"go sea\"\n");
    let wrong = desk.run(&["set", "workspaces.order=[\"a\"]", "space.edge"]).failed(2);
    assert!(wrong.contains("several settings are given as PATH=VALUE each"), "{wrong}");
    assert_snapshot!(desk.run(&["set", "rice.summary", "A quiet desk"]).clean(), @r#"
    rice.toml: rice.summary = "A quiet desk"
      changed rice.toml
      → jovrik undo      takes it back
    "#);
    assert_snapshot!(desk.run(&["set", "check.allow+=style/contrast"]).clean(), @r#"
    rice.toml: check.allow = ["style/contrast"]
      changed rice.toml
      → jovrik undo      takes it back
    "#);
    let layouts = desk.run(&["set", "keyboard.layouts", "[\"us\", \"xx\"]"]).failed(1);
    assert!(layouts.contains("keys/no-layout") && layouts.contains("Nothing was written."), "{layouts}");
}

#[test]
fn clash_and_settle_tell_the_same_story_and_write_it() {
    let part = "[keys.desk]\n\"Lead+Return\" = { do = \"reload\", fixed = true }\n'super+return' = \"close\" # mine\n\"Lead+a\" = \"quit\"\n";
    let desk = Desk::of(part);
    let run = desk.run(&["keys", "clash"]);
    assert_eq!(run.code, 1);
    assert_snapshot!(run.out, @"
    keys/twice  Lead+Return has two actions on the desk
      Lead+Return   reload  parts/a.toml:2  fixed
      super+return  close   parts/a.toml:3

    1 fight among 3 bindings, layout us
      → jovrik keys settle      finds the cheapest peace
    ");
    assert_snapshot!(desk.run(&["keys", "settle"]).clean(), @"
    1 fight, 1 move, cost 2.7 (the least possible)

      Lead+Return   stays             reload  parts/a.toml:2  fixed
      super+return  → Lead+backslash  close   parts/a.toml:3  cost 2.7
        a move, the key beside it

    → jovrik keys settle --write      changes parts/a.toml
    ");
    assert_eq!(desk.read("parts/a.toml"), part);
    desk.run(&["keys", "settle", "--write"]).clean();
    assert_eq!(desk.read("parts/a.toml"), part.replace("'super+return'", "'Lead+backslash'"));
    assert_eq!(desk.run(&["keys", "clash"]).clean(), "No fights: 3 bindings live in peace, layout us.\n");
    let stuck =
        Desk::of("[keys.desk]\n\"Lead+q\" = { do = \"quit\", fixed = true }\n\"super+q\" = { do = \"close\", fixed = true }\n");
    assert_snapshot!(stuck.run(&["keys", "settle"]).failed(1), @"
    error  no peace is possible: Lead+q (parts/a.toml:2) and Lead+q (parts/a.toml:3) may not move
      → jovrik keys clash      shows the fights
    ");
}

#[test]
fn a_look_is_the_same_bytes_each_time_and_needs_a_rice_without_errors() {
    let desk = Desk::sample();
    let draw = |name: &str, more: &[&str]| {
        let mut arguments = vec!["look", "--out", name];
        arguments.extend(more);
        desk.run(&arguments).clean();
        std::fs::read(desk.rice().join(name)).expect("a picture")
    };
    let one = draw("one.png", &[]);
    assert_eq!(one, draw("two.png", &[]));
    assert!(one.starts_with(b"\x89PNG"));
    let size = |png: &[u8]| {
        (u32::from_be_bytes(png[16..20].try_into().expect("4")), u32::from_be_bytes(png[20..24].try_into().expect("4")))
    };
    assert_eq!(size(&one), (3200, 1080), "both monitors of breakwater");
    let laptop = draw("laptop.png", &["--machine", "skiff"]);
    assert_eq!(size(&laptop), (1366, 768));
    assert_ne!(laptop, draw("noon.png", &["--machine", "skiff", "--with", "palette.use=noon"]));
    assert_eq!(size(&draw("sized.png", &["--size", "800x600"])), (800, 600));
    assert_eq!(
        desk.run(&["look", "--monitor", "VGA-1"]).failed(2),
        "error  there is no monitor VGA-1; there is DP-1 and HDMI-1\n"
    );
    desk.run(&["look", "--size", "99999x2"]).failed(2);
    desk.run(&["look", "--with", "palette.use=nune"]).failed(1);
    desk.write("parts/zz.toml", "[frame]\nwidht = 1\n");
    let err = desk.run(&["look"]).failed(1);
    assert!(err.ends_with("error  the rice has errors\n  → jovrik check      says what is wrong\n"), "{err}");
}

#[test]
fn json_is_one_object_or_lines_with_stable_names() {
    let desk = Desk::of("[keys.desk]\n\"Lead+a\" = \"clsoe\"\n");
    let run = desk.run(&["check", "--json"]);
    assert_eq!(run.code, 1);
    let value: serde_json::Value = serde_json::from_str(&run.out).expect("JSON");
    assert_snapshot!(serde_json::to_string_pretty(&value["problems"][0]).expect("JSON"), @r#"
    {
      "severity": "error",
      "code": "keys/unknown-action",
      "title": "there is no action \"clsoe\"",
      "places": [
        {
          "file": "parts/a.toml",
          "line": 2,
          "column": 12,
          "end-line": 2,
          "end-column": 19,
          "note": "did you mean close?"
        }
      ],
      "why": "Pressing it would do nothing.",
      "elsewhere": null,
      "advice": [],
      "fix": "close"
    }
    "#);
    let sample = Desk::sample();
    for arguments in [
        &["keys", "list", "--json"][..],
        &["keys", "clash", "--json"],
        &["show", "space", "--json"],
        &["why", "space.edge", "--json"],
        &["history", "--json"],
    ] {
        for line in sample.run(arguments).clean().lines() {
            assert!(serde_json::from_str::<serde_json::Value>(line).is_ok(), "{arguments:?}: {line}");
        }
    }
}

#[test]
fn help_names_every_command_and_wrong_usage_is_exit_2() {
    let desk = Desk::sample();
    let help = desk.run(&["--help"]).clean();
    for name in [
        "demo", "new", "settings", "show", "set", "reset", "why", "schema", "check", "keys", "look", "live", "tell", "ask",
        "apply", "history", "undo", "redo", "publish", "adopt",
    ] {
        assert!(help.contains(&format!("\n  {name} ")), "{name} is in no group:\n{help}");
        let one = desk.run(&[name, "--help"]).clean();
        assert!(one.len() > 80, "{one}");
    }
    desk.run(&["nonsense"]).failed(2);
    desk.run(&["set", "space.edge"]).failed(2);
    desk.run(&[]).failed(2);
    desk.run(&["live"]).failed(3);
    desk.run(&["ask", "health"]).failed(3);
}

#[test]
fn settings_are_found_by_words_slips_parts_and_changes() {
    let desk = Desk::sample();
    // How many there are grows with the catalogue.
    let mut all = jovrik_core::rice::all_settings().len();
    jovrik_schema::catalogue::each(jovrik_core::rice::OverlayFile::CATALOGUE, &mut |_, _| all += 1);
    let glow = desk.run(&["settings", "glow"]).clean().replace(&format!("of {all} "), "of ALL ");
    assert_snapshot!(glow, @r#"
    frame  borders of windows
      frame.glow.width  6              how far it reaches
      frame.glow.fill   "@accent/30%"  its colour where it is strongest

    2 of ALL settings
      → jovrik settings frame.glow.width      shows one in full
    "#);
    assert_eq!(desk.run(&["settings", "glwo"]).clean(), desk.run(&["settings", "glow"]).clean(), "one typing error");
    assert_eq!(desk.run(&["settings", "xylophone"]).clean(), "no setting holds that; jovrik settings alone lists all of them\n");
    assert_snapshot!(desk.run(&["settings", "bar.top.thick"]).clean(), @"
    bar.top.thick
      how thick it is

      is            32  parts/bar.toml:6
      default       32
      may be        8 to 200 px
      for example   48
      takes effect  at once

      → jovrik set bar.top.thick 48      changes it
    ");
    assert_eq!(desk.run(&["settings", "bar.NAME.thick"]).code, 0);
    assert_snapshot!(desk.run(&["settings", "--changed", "--part", "frame"]).clean(), @r#"
    frame  borders of windows
      frame.glow.width  6              how far it reaches
      frame.glow.fill   "@accent/30%"  its colour where it is strongest

    2 of 284 settings
      → jovrik settings frame.glow.width      shows one in full
    "#);
    let lines = desk.run(&["settings", "--json"]).clean();
    let rows: Vec<serde_json::Value> = lines.lines().map(|line| serde_json::from_str(line).expect("JSON")).collect();
    assert!(rows.len() > 60 && rows.iter().all(|row| row["help"].as_str().is_some_and(|help| help.len() > 8)));
    let wide = desk.command(&desk.rice(), &["settings", "layout.NAME"]).env("COLUMNS", "120").output().expect("it runs");
    assert!(String::from_utf8_lossy(&wide.stdout).contains("left, right, top or bottom"));
    for line in desk.run(&["settings"]).clean().lines() {
        assert!(line.chars().count() <= 80, "{line}");
    }
    assert_eq!(desk.run(&["settings", "--part", "barr"]).failed(2), "error  there is no part barr; did you mean bar?\n");
    assert!(
        desk.run(&["settings", "--part", "zzzz"]).failed(2).starts_with("error  there is no part zzzz; there are palette, type")
    );
    let nowhere = Desk::empty();
    assert_eq!(nowhere.run(&["settings", "glow"]).code, 0, "outside of any rice the defaults are shown");
}

#[test]
fn the_manual_knows_the_commands() {
    let desk = Desk::empty();
    let page = desk.run(&["man"]).clean();
    assert!(page.contains(".TH jovrik 1") && page.contains("adopt"), "{page}");
    let told = desk.run(&["man", "--out", "pages"]).clean();
    assert!(told.ends_with("pages into pages\n"), "{told}");
    for heading in [".SH EXAMPLES", ".SH \"EXIT STATUS\"", ".SH FILES", ".SH ENVIRONMENT"] {
        assert!(page.contains(heading) && desk.read("pages/jovrik-check.1").contains(heading), "{heading} in {page}");
    }
    let settle = desk.read("pages/jovrik-keys-settle.1");
    assert!(settle.contains(".TH jovrik-keys-settle 1") && settle.contains("\\-\\-write"), "{settle}");
    assert!(desk.read("pages/jovrik-why.1").contains("won over"));
}

#[test]
fn the_demo_runs_from_an_empty_machine_and_leaves_the_home_alone() {
    let desk = Desk::empty();
    let out = desk.path().join("shown");
    let run = desk.command(desk.path(), &["demo", "--out", "shown"]).env("TMPDIR", desk.path()).output().expect("it runs");
    let told = String::from_utf8(run.stdout).expect("UTF-8");
    assert_eq!((run.status.code(), String::from_utf8_lossy(&run.stderr).as_ref()), (Some(0), ""), "{told}");
    for said in [
        "keys/unknown-action",
        "keys/twice",
        "the least possible",
        "0 windows moved",
        "took back entry",
        "nothing of it was run or written",
    ] {
        assert!(told.contains(said), "{said} is missing:\n{told}");
    }
    for name in ["ebb.png", "noon.png", "both.png", "after.png", "saltmarsh.rice"] {
        assert!(out.join(name).metadata().expect("it is there").len() > 1000, "{name}");
    }
    assert_eq!(crate::photograph(&desk.home()), []);
}

#[test]
fn a_plain_rice_has_ordinary_names_and_the_programs_of_this_computer() {
    let desk = Desk::empty();
    let apps = desk.path().join("data/applications");
    std::fs::create_dir_all(&apps).expect("a folder");
    let entry = |id: &str, category: &str, exec: &str, terminal: bool| {
        let text = format!(
            "[Desktop Entry]\nType=Application\nName={id}\nExec={exec} %U\nTerminal={terminal}\nCategories={category};\n"
        );
        std::fs::write(apps.join(format!("{id}.desktop")), text).expect("written");
    };
    entry("webview", "Network;WebBrowser", "env browse-the-web", false);
    entry("notes", "Utility;TextEditor", "cat", true);
    let new = |name: &str, terminal: Option<&str>| {
        let mut command = desk.command(desk.path(), &["new", name, "--plain"]);
        command.env("XDG_DATA_DIRS", desk.path().join("data")).env("PATH", "/usr/bin:/bin");
        if let Some(terminal) = terminal {
            command.env("TERMINAL", terminal);
        }
        let output = command.output().expect("it runs");
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        std::fs::read_to_string(desk.path().join(name).join("parts/programs.toml")).expect("its programs")
    };
    let programs = new("mine", Some("xterm"));
    assert!(
        programs.contains("terminal = \"xterm\"\n") && programs.contains("\"Lead+Return\" = \"open terminal\"\n"),
        "{programs}"
    );
    assert!(
        programs.contains("editor = { run = [\"xterm\", \"-e\", \"cat\"] }\n"),
        "one that needs a terminal gets it: {programs}"
    );
    let checked = desk.command(&desk.path().join("mine"), &["check"]).output().expect("it runs");
    let told = String::from_utf8_lossy(&checked.stdout).into_owned();
    assert!(told.starts_with("No problems.  Read 6 files"), "{told}");
    let all = std::fs::read_dir(desk.path().join("mine/parts")).expect("parts").flatten();
    for file in all.map(|entry| std::fs::read_to_string(entry.path()).expect("text")) {
        for word in ["tide", "station", "gauge", "marsh", "ebb"] {
            assert!(!file.contains(word), "{word} is of the story:\n{file}");
        }
    }
    assert!(desk.path().join("mine/schema.json").is_file(), "which the first lines of its parts name");
}

#[test]
fn words_of_the_trade_are_taken_for_what_they_mean_where_that_is_one_thing() {
    let desk = Desk::of("[frame]\nwidth = 2\n[bar.top]\nthick = 30\n");
    for (said, meant, value) in [
        ("border.width", "frame.width", "2"),
        ("bar.top.height", "bar.top.thick", "30"),
        ("gaps.inner", "space.between", "8"),
        ("font.size", "type.size", "11"),
    ] {
        let run = desk.run(&["show", said]);
        assert_eq!((run.code, run.out, run.err), (0, format!("{value}\n"), format!("{said} is {meant} here\n")));
    }
    let run = desk.run(&["set", "border.width", "5"]);
    assert!(run.code == 0 && desk.read("parts/a.toml").contains("width = 5"), "{}", run.err);
    assert_eq!(desk.run(&["show", "size"]).code, 2, "what may mean several is asked for");
    // What a rice may name itself is not passed over.
    assert_eq!(desk.run(&["set", "terminal", "xterm"]).code, 2);
    let told = desk.run(&["set", "keys.desk.\"Lead+p\"", "exec xterm"]).failed(1);
    assert!(told.contains("did you mean run xterm?"), "{told}");
    let told = desk.run(&["set", "keys.desk.\"Lead+p\"", "explode"]).failed(1);
    assert!(told.contains("the actions are") && told.len() < 500, "a few of them: {told}");
    for word in ["gradient", "weather", "scratchpad", "blur", "powermenu", "brightness", "multiplexer", "template", "battery"] {
        assert!(desk.run(&["settings", word]).clean().contains(" of "), "{word}");
    }
    assert!(desk.run(&["settings", "animations"]).clean().starts_with("not yet: "));
    // Values and keys, as corrections.
    desk.write(
        "parts/a.toml",
        "[layout.x]\nkind = \"scrolling\"\n[rule.a]\nmatch = { class = \"x\" }\nset = { float = true, at = \"center\" }\n[program]\nx = { exec = [\"x\"] }\n",
    );
    desk.run(&["check", "--fix"]);
    let fixed = desk.read("parts/a.toml");
    for now in ["kind = \"ribbon\"", "{ app = \"x\" }", "at = \"centre\"", "{ run = [\"x\"] }"] {
        assert!(fixed.contains(now), "{now} in\n{fixed}");
    }
    // What nothing acts on yet says so where it is set; a program with arguments, capitals and several settings are told how.
    let missing = desk.run(&["set", "program.terminal", "xterm --hold"]);
    assert!(missing.code == 1 && missing.err.contains("run = [\"xterm\", \"--hold\"] }"), "{}", missing.err);
    let capital = desk.run(&["set", "keys.desk.\"Lead+C\"", "close"]).failed(2);
    assert!(capital.contains("a key makes c, and C only with Shift"), "{capital}");
    let several = desk.run(&["set", "bar.top.thick", "30", "frame.width", "3"]).failed(2);
    assert!(several.contains("jovrik set bar.top.thick=30 frame.width=3"), "{several}");
}

#[test]
fn what_hides_in_a_text_is_shown_in_reports() {
    let desk = Desk::of("[start.a]\nshell = \"echo \u{202e}gpj\u{200b}\"\n");
    let shown = desk.run(&["show", "start.a.shell"]).clean();
    assert_eq!(shown, "\"echo \\u202egpj\\u200b\"\n");
}

#[test]
fn what_needs_one_part_works_in_a_rice_with_errors_in_another() {
    let desk = Desk::of("[keys.desk]\n\"Lead+x\" = \"clsoe\"\n[rule.a]\nmatch = { app = \"x\" }\nset = { float = true }\n");
    for words in [&["rules", "list"][..], &["rules", "try", "--app", "x"], &["bar", "print", "--once"]] {
        let run = desk.run(words);
        if words[0] == "rules" {
            assert_eq!(run.code, 0, "{words:?} {}", run.err);
            assert_eq!(run.err, "elsewhere in the rice: 1 error; jovrik check names them\n");
        } else {
            assert!(!run.err.contains("clsoe"), "{words:?} {}", run.err);
        }
    }
    // An error of what is asked for is told.
    desk.write("parts/a.toml", "[rule.a]\nmatch = { app = \"x\" }\nset = { float = 3 }\n");
    assert!(desk.run(&["rules", "list"]).failed(1).contains("rule.a.set.float cannot be 3"));
}
