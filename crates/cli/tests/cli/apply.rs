use std::os::unix::fs::PermissionsExt;

use insta::assert_snapshot;

use crate::{Desk, photograph};

/// A photograph of a home without the history itself.
fn home(desk: &Desk) -> Vec<(std::path::PathBuf, u32, Vec<u8>)> {
    let state = desk.home().join(".local");
    photograph(&desk.home()).into_iter().filter(|(path, ..)| !path.starts_with(&state)).collect()
}

#[test]
fn apply_and_undo_are_byte_for_byte_also_for_what_was_not_there() {
    let desk = Desk::sample();
    let target = desk.home().join("real-defaults");
    std::fs::write(&target, "XTerm*x: 1\r\nno end").expect("written");
    std::fs::set_permissions(&target, std::fs::Permissions::from_mode(0o600)).expect("set");
    std::os::unix::fs::symlink("real-defaults", desk.home().join(".Xdefaults")).expect("linked");
    let before = home(&desk);
    let kept = desk.run(&["apply", "--dry-run"]);
    let said = kept.out.split_whitespace().collect::<Vec<_>>().join(" ");
    let wanted = "kept ~/real-defaults was there before, and 25 lines differ; --take ~/real-defaults to replace it";
    assert!(said.contains(wanted), "{}", kept.out);
    let told = desk.run(&["apply", "--note", "the first", "--take", "~/.Xdefaults"]).clean();
    assert_snapshot!(told, @"
    saltmarsh 1.0.0 → home of this user

      new      ~/.config/jovrik/rice/art/colours.css
      new      ~/.config/jovrik/rice/art/colours.json
      new      ~/.config/jovrik/rice/art/colours.sh
      new      ~/.config/jovrik/rice/art/colours.xres
      new      ~/.config/jovrik/rice/art/editor-keys.toml
      new      ~/.config/jovrik/rice/art/house.txt
      new      ~/.config/jovrik/rice/art/staff.txt
      new      ~/.config/jovrik/rice/machines/breakwater.toml
      new      ~/.config/jovrik/rice/machines/skiff.toml
      new      ~/.config/jovrik/rice/overlays/laptop.toml
      new      ~/.config/jovrik/rice/parts/bar.toml
      new      ~/.config/jovrik/rice/parts/desk.toml
      new      ~/.config/jovrik/rice/parts/dock.toml
      new      ~/.config/jovrik/rice/parts/greeting.toml
      new      ~/.config/jovrik/rice/parts/keys.toml
      new      ~/.config/jovrik/rice/parts/launcher.toml
      new      ~/.config/jovrik/rice/parts/look.toml
      new      ~/.config/jovrik/rice/parts/start.toml
      new      ~/.config/jovrik/rice/parts/widgets.toml
      new      ~/.config/jovrik/rice/rice.toml
      changed  ~/real-defaults                                 25 lines

      entry 1
      → jovrik undo      takes it back
    ");
    let filled = std::fs::read_to_string(&target).expect("there");
    assert!(filled.contains("XTerm*background: #101c1f\n") && filled.contains("faceName: DejaVu Sans Mono\n"), "{filled}");
    assert!(!filled.contains("{{"), "{filled}");
    assert_eq!(std::fs::metadata(&target).expect("there").permissions().mode() & 0o777, 0o600, "permissions stay");
    assert!(desk.home().join(".Xdefaults").symlink_metadata().expect("there").is_symlink(), "a link stays a link");
    let again = desk.run(&["apply"]).clean();
    assert!(again.contains("nothing to do") && again.contains("same  21 files"), "{again}");
    desk.run(&["undo"]).clean();
    assert_eq!(home(&desk), before);
    desk.run(&["redo"]).clean();
    desk.run(&["undo"]).clean();
    assert_eq!(home(&desk), before);
    let listed = desk.run(&["history"]).clean();
    assert!(listed.contains("taken back") && listed.contains("“the first”"), "{listed}");
}

#[test]
fn what_a_person_changed_is_kept_unless_taken_and_undo_does_not_overwrite_it() {
    let desk = Desk::sample();
    desk.run(&["apply"]).clean();
    let placed = desk.home().join(".Xdefaults");
    std::fs::write(&placed, "mine\n").expect("written");
    let stopped = desk.run(&["undo"]);
    assert_eq!(stopped.code, 1);
    assert!(stopped.err.contains("changed by hand since then, so nothing was done: TEMP/home/.Xdefaults"), "{}", stopped.err);
    desk.run(&["set", "palette.use", "noon"]).clean();
    let kept = desk.run(&["apply"]);
    assert_eq!(kept.code, 1);
    assert!(kept.out.contains("kept     ~/.Xdefaults") && kept.out.contains("--take ~/.Xdefaults"), "{}", kept.out);
    assert_eq!(std::fs::read_to_string(&placed).expect("there"), "mine\n");
    desk.run(&["apply", "--take", "~/.Xdefaults"]).clean();
    assert!(std::fs::read_to_string(&placed).expect("there").contains("#f6f3ec"));
    desk.run(&["undo"]).clean();
    assert_eq!(std::fs::read_to_string(&placed).expect("there"), "mine\n");
}

#[test]
fn a_file_that_the_rice_no_longer_has_is_taken_away_and_comes_back() {
    let desk = Desk::sample();
    desk.run(&["apply"]).clean();
    std::fs::remove_file(desk.rice().join("machines/skiff.toml")).expect("removed");
    let told = desk.run(&["apply"]).clean();
    assert!(told.contains("removed  ~/.config/jovrik/rice/machines/skiff.toml"), "{told}");
    assert!(!desk.home().join(".config/jovrik/rice/machines/skiff.toml").exists());
    desk.run(&["undo"]).clean();
    assert!(desk.home().join(".config/jovrik/rice/machines/skiff.toml").exists());
}

#[test]
fn an_apply_is_remembered_by_what_it_changes_on_this_computer() {
    let desk = Desk::of("[space]\nedge = 1\n");
    // It holds on every computer that has a core.
    desk.write("overlays/any.toml", "[overlay]\nwhen = { cores = \">= 1\" }\n[frame]\nwidth = 3\n");
    desk.run(&["apply"]).clean();
    desk.run(&["set", "space.edge", "2"]).clean();
    desk.run(&["apply"]).clean();
    let history = desk.run(&["history"]).clean();
    assert!(history.lines().next().is_some_and(|line| line.ends_with("apply  space.edge 1 → 2")), "{history}");
}

#[test]
fn edits_of_a_rice_elsewhere_are_never_taken_for_placed_files() {
    let desk = Desk::sample();
    desk.run(&["apply"]).clean();
    desk.run(&["set", "space.edge", "20"]).clean();
    let told = desk.run(&["apply"]).clean();
    assert!(!told.contains("removed"), "{told}");
    assert!(desk.rice().join("parts/look.toml").exists());
}

#[test]
fn an_apply_that_is_killed_leaves_the_old_state_or_the_new() {
    let without_history = |desk: &Desk| -> Vec<(std::path::PathBuf, u32, Vec<u8>)> {
        let root = desk.home();
        home(desk)
            .into_iter()
            .map(|(path, mode, bytes)| (path.strip_prefix(&root).expect("inside").to_owned(), mode, bytes))
            .collect()
    };
    let whole = Desk::sample();
    whole.run(&["apply"]).clean();
    let after = without_history(&whole);
    let mut killed = 0;
    for millis in 0..24 {
        let desk = Desk::sample();
        let mut child = desk.command(&desk.rice(), &["apply"]).stdout(std::process::Stdio::null()).spawn().expect("it runs");
        std::thread::sleep(std::time::Duration::from_micros(1500 * millis));
        let _ = child.kill();
        killed += usize::from(!child.wait().expect("it ended").success());
        let undo = desk.run(&["undo", "--everywhere"]);
        // Whoever writes next has seen to it: there was one whole apply to take back, or none.
        match undo.code {
            0 => assert_eq!(without_history(&desk), []),
            _ => {
                assert!(undo.err.starts_with("error  there is nothing to undo"), "{}", undo.err);
                assert_eq!(without_history(&desk), []);
            }
        }
        desk.run(&["apply"]).clean();
        assert_eq!(without_history(&desk), after);
    }
    assert!(killed > 0, "at least one was killed before it was done");
}

#[test]
fn two_applies_are_kept_apart() {
    let desk = Desk::sample();
    desk.run(&["apply"]).clean();
    let lock = std::fs::File::open(desk.home().join(".local/state/jovrik/lock")).expect("a lock");
    rustix::fs::flock(&lock, rustix::fs::FlockOperation::LockExclusive).expect("locked");
    let run = desk.run(&["set", "space.edge", "20"]);
    assert_eq!(run.code, 3);
    assert!(run.err.starts_with("error  another command is writing into this home"), "{}", run.err);
    assert!(!desk.read("parts/look.toml").contains("edge = 20"));
}

#[test]
fn several_at_once_wait_for_each_other_and_none_is_lost() {
    let desk = Desk::of("[space]\nedge = 1\nbetween = 1\nalone = 1\n[frame]\nwidth = 1\n");
    let paths = ["space.edge", "space.between", "space.alone", "frame.width"];
    let start = |path: &&str| desk.command(&desk.rice(), &["set", path, "7"]).stdout(std::process::Stdio::null()).spawn();
    let running: Vec<_> = paths.iter().map(|path| start(path).expect("it runs")).collect();
    for mut one in running {
        assert!(one.wait().expect("it ended").success());
    }
    assert_eq!(desk.read("parts/a.toml"), "[space]\nedge = 7\nbetween = 7\nalone = 7\n[frame]\nwidth = 7\n");
    desk.run(&["undo", "--steps", "4"]).clean();
    assert_eq!(desk.read("parts/a.toml"), "[space]\nedge = 1\nbetween = 1\nalone = 1\n[frame]\nwidth = 1\n");
}

#[test]
fn placed_files_stay_in_their_bounds() {
    for (place, from, said) in [
        ("~/../x", "art/a", "~/../x is no place for a file of a rice: it is written neither"),
        ("relative", "art/a", "relative is no place for a file of a rice"),
        ("~/.config/jovrik/rice/rice.toml", "art/a", "is no place for a file of a rice"),
        ("~/x", "../outside", "../outside, for ~/x: it is not inside the rice"),
        ("~/x", "/etc/passwd", "/etc/passwd, for ~/x: it is not inside the rice"),
        ("~/x", "art/none", "art/none, for ~/x: it does not exist"),
        ("~/x", "art/unfilled", "art/unfilled, for ~/x: {{space.egde}} names no setting and no colour of the palette"),
    ] {
        let desk = Desk::of(&format!("[place]\n\"{place}\" = {{ from = \"{from}\", fill = true }}\n"));
        desk.write("art/a", "text");
        desk.write("art/unfilled", "{{space.egde}}");
        std::fs::write(desk.path().join("outside"), "x").expect("written");
        let run = desk.run(&["apply"]);
        assert!(run.code == 1 || run.code == 3, "{}", run.err);
        assert!(run.err.contains(said), "{place} {from}: {}", run.err);
        assert_eq!(home(&desk), []);
    }
}

/// Runs the program outside of any rice.
fn outside(desk: &Desk, arguments: &[&str]) -> String {
    let output = desk.command(&desk.home(), arguments).env("COLUMNS", "200").output().expect("it runs");
    crate::Run::of(&output, &[(&desk.path().display().to_string(), "TEMP")]).clean()
}

#[test]
fn an_edit_of_the_applied_rice_goes_to_where_it_came_from_and_is_applied() {
    let desk = Desk::of("[space]\nedge = 5\n");
    desk.write("parts/b.toml", "[bar.top]\nthick = 20\n");
    desk.run(&["apply"]).clean();
    let applied = |name: &str| std::fs::read_to_string(desk.home().join(".config/jovrik/rice").join(name)).expect("there");
    let before = photograph(&desk.rice());
    assert_snapshot!(outside(&desk, &["set", "space.edge", "9", "--dry-run"]), @"
    space.edge 5 → 9
      would change TEMP/rice/parts/a.toml, and apply it
    ");
    assert_eq!(photograph(&desk.rice()), before);
    assert_snapshot!(outside(&desk, &["set", "space.edge", "9"]), @"
    space.edge 5 → 9
      changed TEMP/rice/parts/a.toml, and applied it
      → jovrik undo      takes it back
    ");
    assert_eq!(
        (desk.read("parts/a.toml"), applied("parts/a.toml")),
        ("[space]\nedge = 9\n".into(), "[space]\nedge = 9\n".into())
    );
    let again = desk.run(&["apply"]).clean();
    assert!(again.contains("nothing to do"), "{again}");
    // One entry is both, and one step takes both back.
    outside(&desk, &["undo"]);
    assert_eq!(
        (desk.read("parts/a.toml"), applied("parts/a.toml")),
        ("[space]\nedge = 5\n".into(), "[space]\nedge = 5\n".into())
    );
    // What is so there already, and is not applied yet, is applied.
    desk.run(&["set", "space.edge", "8"]).clean();
    assert_snapshot!(outside(&desk, &["set", "space.edge", "8"]), @"
    it is so already in TEMP/rice, and is applied now
      → jovrik undo      takes that back
    ");
    assert_eq!(applied("parts/a.toml"), "[space]\nedge = 8\n");
    assert_eq!(outside(&desk, &["set", "space.edge", "8"]), "nothing to change: it is so already\n");
    outside(&desk, &["set", "space.edge", "5"]);
    // What else changed there comes with it, and is said.
    desk.write("parts/b.toml", "[bar.top]\nthick = 24\n");
    assert_snapshot!(outside(&desk, &["reset", "space.edge"]), @"
    space.edge is no longer set
      changed TEMP/rice/parts/a.toml, and applied it
      with it, ~/.config/jovrik/rice/parts/b.toml is another one now
      → jovrik undo      takes it back
    ");
    assert_eq!(applied("parts/b.toml"), "[bar.top]\nthick = 24\n");
    // In the rice itself an edit waits for an apply.
    assert_snapshot!(desk.run(&["set", "space.edge", "7"]).clean(), @"
    space.edge = 7
      changed parts/space.toml
      → jovrik apply      puts it into the home
      → jovrik undo       takes it back
    ");
    assert_eq!(applied("parts/a.toml"), "[space]\n");
    assert_snapshot!(outside(&desk, &["apply"]), @"
    test 0.1.0 → home of this user

      nothing to do: all of it is there already
      this is the applied rice itself, which came from TEMP/rice
      → jovrik apply --rice TEMP/rice      applies what changed there
    ");
}

#[test]
fn an_edit_of_the_applied_rice_alone_is_kept_by_the_next_apply() {
    let desk = Desk::of("[space]\nedge = 5\n");
    desk.run(&["apply"]).clean();
    let applied = desk.home().join(".config/jovrik/rice/parts/a.toml");
    let moved = desk.path().join("elsewhere");
    std::fs::rename(desk.rice(), &moved).expect("moved");
    assert_snapshot!(outside(&desk, &["set", "space.edge", "9"]), @"
    space.edge 5 → 9
      changed .config/jovrik/rice/parts/a.toml
      that is the applied rice alone: TEMP/rice, where it came from, is gone
      → jovrik undo      takes it back
    ");
    std::fs::rename(&moved, desk.rice()).expect("moved back");
    let kept = desk.run(&["apply"]);
    let said = kept.out.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(said.contains("parts/a.toml changed by hand since the last apply"), "{said}");
    assert_eq!(std::fs::read_to_string(&applied).expect("there"), "[space]\nedge = 9\n");
    // As long as it differs, it is edited alone.
    let told = outside(&desk, &["set", "space.edge", "11"]).split_whitespace().collect::<Vec<_>>().join(" ");
    assert_snapshot!(told.replace(" → ", "\n→ "), @"
    space.edge 9
    → 11 changed .config/jovrik/rice/parts/a.toml that is the applied rice alone: ~/.config/jovrik/rice/parts/a.toml was changed by hand since it came from TEMP/rice
    → jovrik apply --dry-run --rice TEMP/rice says where the two differ
    → jovrik undo takes it back
    ");
    assert_eq!(desk.read("parts/a.toml"), "[space]\nedge = 5\n");
    // Taken back, it is where it came from again.
    desk.run(&["apply", "--take-all"]).clean();
    assert_eq!(std::fs::read_to_string(&applied).expect("there"), "[space]\nedge = 5\n");
    outside(&desk, &["set", "space.edge", "12"]);
    assert_eq!(desk.read("parts/a.toml"), "[space]\nedge = 12\n");
}
