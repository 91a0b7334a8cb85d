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
    let told = desk.run(&["apply", "--note", "the first"]).clean();
    assert_snapshot!(told, @"
    saltmarsh 1.0.0 → home of this user

      new      ~/.config/jovrik/rice/art/colours.xres
      new      ~/.config/jovrik/rice/art/editor-keys.toml
      new      ~/.config/jovrik/rice/machines/breakwater.toml
      new      ~/.config/jovrik/rice/machines/skiff.toml
      new      ~/.config/jovrik/rice/overlays/laptop.toml
      new      ~/.config/jovrik/rice/parts/bar.toml
      new      ~/.config/jovrik/rice/parts/desk.toml
      new      ~/.config/jovrik/rice/parts/keys.toml
      new      ~/.config/jovrik/rice/parts/look.toml
      new      ~/.config/jovrik/rice/parts/start.toml
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
    assert!(again.contains("nothing to do") && again.contains("same  12 files"), "{again}");
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
fn edits_of_a_rice_elsewhere_are_never_taken_for_placed_files() {
    let desk = Desk::sample();
    desk.run(&["apply"]).clean();
    desk.run(&["set", "space.edge", "20"]).clean();
    let told = desk.run(&["apply"]).clean();
    assert!(!told.contains("removed"), "{told}");
    assert!(desk.rice().join("parts/look.toml").exists());
}

#[test]
fn an_apply_that_was_killed_after_its_record_is_finished_by_the_next_writer() {
    let desk = Desk::sample();
    desk.run(&["apply"]).clean();
    desk.run(&["undo"]).clean();
    // The moment after the commit record, before the first rename: the record is pending, the files are not there.
    let store = desk.home().join(".local/state/jovrik/history.sqlite");
    let open = rusqlite::Connection::open(&store).expect("a store");
    open.execute("update entry set pending = 1, undone = 0", []).expect("marked");
    drop(open);
    assert!(desk.run(&["history"]).clean().contains("not finished"));
    assert!(!desk.home().join(".Xdefaults").exists(), "a command that reads finishes nothing");
    desk.run(&["set", "space.edge", "20"]).clean();
    assert!(desk.home().join(".Xdefaults").exists());
    assert!(!desk.run(&["history"]).clean().contains("not finished"));
}

#[test]
fn two_applies_are_kept_apart() {
    let desk = Desk::sample();
    desk.run(&["apply"]).clean();
    let lock = std::fs::File::open(desk.home().join(".local/state/jovrik/lock")).expect("a lock");
    rustix::fs::flock(&lock, rustix::fs::FlockOperation::LockExclusive).expect("locked");
    let run = desk.run(&["set", "space.edge", "20"]);
    assert_eq!(run.code, 3);
    assert!(run.err.starts_with("error  another apply is at work on this home"), "{}", run.err);
    assert!(!desk.read("parts/look.toml").contains("edge = 20"));
}

#[test]
fn placed_files_stay_in_their_bounds() {
    for (place, from, said) in [
        ("~/../x", "art/a", "~/../x is no place for a file"),
        ("relative", "art/a", "relative is no place for a file"),
        ("~/.config/jovrik/rice/rice.toml", "art/a", "is no place for a file of a rice"),
        ("~/x", "../outside", "../outside is not inside the rice"),
        ("~/x", "/etc/passwd", "/etc/passwd is not inside the rice"),
        ("~/x", "art/none", "art/none: it does not exist"),
        ("~/x", "art/unfilled", "art/unfilled: {{space.egde}} names no setting and no colour of the palette"),
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
