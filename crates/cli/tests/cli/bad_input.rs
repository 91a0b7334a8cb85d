use std::os::unix::fs::{PermissionsExt, symlink};

use crate::{Desk, photograph};

/// The first code that `check` tells, with its exit code.
fn told(desk: &Desk) -> (i32, String) {
    let run = desk.run(&["check"]);
    assert_eq!(run.err, "", "{}", run.out);
    let first = run.out.lines().next().unwrap_or_default().to_owned();
    (run.code, first.split("  ").nth(1).unwrap_or_default().to_owned())
}

#[test]
fn every_kind_of_bad_file_gets_one_clear_error_and_nothing_is_written() {
    type Make = fn(&Desk);
    let cases: &[(&str, Make, &str)] = &[
        ("not UTF-8", |desk| desk.write("parts/a.toml", b"x = \"\xff\xfe\"\n"), "file/not-utf8"),
        ("50 MB", |desk| desk.write("parts/a.toml", vec![b'#'; 50_000_000]), "file/too-large"),
        ("a folder", |desk| std::fs::create_dir(desk.rice().join("parts/b.toml")).expect("made"), "file/unreadable"),
        ("a loop of links", |desk| symlink("b.toml", desk.rice().join("parts/b.toml")).expect("linked"), "file/unreadable"),
        ("a link to nothing", |desk| symlink("gone.toml", desk.rice().join("parts/b.toml")).expect("linked"), "file/unreadable"),
        ("a device", |desk| symlink("/dev/zero", desk.rice().join("parts/b.toml")).expect("linked"), "file/unreadable"),
        ("deep", |desk| desk.write("parts/a.toml", format!("a = {}", "[".repeat(10_000))), "file/not-toml"),
        ("newer", |desk| desk.write("rice.toml", "[rice]\nname = \"x\"\nformat = 7\n"), "file/newer-format"),
        (
            "a manifest that is a folder",
            |desk| {
                std::fs::remove_file(desk.rice().join("rice.toml")).expect("removed");
                std::fs::create_dir(desk.rice().join("rice.toml")).expect("made");
            },
            "file/unreadable",
        ),
        (
            "parts that is a file",
            |desk| {
                std::fs::remove_dir_all(desk.rice().join("parts")).expect("removed");
                desk.write("parts", "x");
            },
            "file/unreadable",
        ),
        ("a wrong name", |desk| desk.write("rice.toml", "[rice]\nname = \"My Rice\"\n"), "setting/type"),
    ];
    for (what, make, code) in cases {
        let desk = Desk::of("[space]\nedge = 4\n");
        make(&desk);
        let before = photograph(desk.path());
        assert_eq!(told(&desk), (1, (*code).to_owned()), "{what}");
        for command in [&["look"][..], &["apply"], &["publish", "--bundle", "x"], &["set", "space.between", "900"]] {
            let run = desk.run(command);
            assert_ne!(run.code, 0, "{what}: {command:?}");
        }
        assert_eq!(photograph(desk.path()), before, "{what}: nothing is written or lost");
    }
}

#[test]
fn what_may_not_be_read_is_said() {
    let desk = Desk::of("[space]\nedge = 4\n");
    std::fs::set_permissions(desk.rice().join("parts/a.toml"), std::fs::Permissions::from_mode(0o000)).expect("set");
    if std::fs::read(desk.rice().join("parts/a.toml")).is_ok() {
        // The superuser may read everything: then the file is simply read.
        assert_eq!(told(&desk).0, 0);
        return;
    }
    assert_eq!(told(&desk), (1, "file/unreadable".to_owned()));
}

#[test]
fn an_empty_rice_is_fine_and_no_rice_is_exit_3() {
    let desk = Desk::of("");
    assert_eq!(desk.run(&["check"]).clean(), "No problems.  Read 2 files: 0 settings, 0 bindings, 0 rules and 0 modules.\n");
    desk.run(&["look", "--out", "x.png"]).clean();
    desk.run(&["keys", "list"]).clean();
    let none = Desk::empty();
    let err = none.run(&["check"]).failed(3);
    assert!(err.contains("no rice here") && err.contains("jovrik new DIR"), "{err}");
    let err = none.run(&["check", "--rice", "nowhere"]).failed(3);
    assert!(err.contains("nowhere: it does not exist"), "{err}");
    none.run(&["check", "--rice", ".."]).failed(3);
}

#[test]
fn odd_values_on_the_command_line_are_refused_or_written_as_they_are() {
    let desk = Desk::of("[type]\ntext = \"Old\"\n");
    for value in ["a\"b", "it's", "back\\slash", "new\nline", "tab\there", "[1", "= 3", "ünïcode ✓", "# no comment"] {
        let run = desk.run(&["set", "type.text", value]);
        if run.code == 0 {
            let shown = desk.run(&["show", "type.text"]).clean();
            let toml: toml::Table = toml::from_str(&format!("x = {shown}")).expect("TOML");
            assert_eq!(toml["x"].as_str(), Some(value), "{value:?}");
        } else {
            assert_eq!(run.code, 1, "{value:?}: {}", run.err);
        }
    }
    for path in ["", ".", "..", "type", "type.text.more", "\"", "type.\"te", "a.b.c.d.e"] {
        let run = desk.run(&["set", path, "1"]);
        assert!(run.code == 1 || run.code == 2, "{path:?}: {} {}", run.code, run.err);
    }
}
