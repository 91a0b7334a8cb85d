use std::io::Write;

use crate::{Desk, photograph};

fn bundle(desk: &Desk) -> Vec<u8> {
    desk.run(&["publish", "--bundle", "../out.rice"]).clean();
    std::fs::read(desk.path().join("out.rice")).expect("a bundle")
}

/// A tar of entries: name, kind, bytes; compressed.
fn tarred(entries: &[(&str, tar::EntryType, &[u8])]) -> Vec<u8> {
    let mut archive = tar::Builder::new(Vec::new());
    for (name, kind, bytes) in entries {
        let mut header = tar::Header::new_gnu();
        let field = &mut header.as_gnu_mut().expect("gnu").name;
        field[..name.len()].copy_from_slice(name.as_bytes());
        header.set_size(bytes.len() as u64);
        header.set_mode(0o644);
        header.set_entry_type(*kind);
        if *kind == tar::EntryType::Symlink {
            header.set_link_name("/etc/passwd").expect("a name");
        }
        header.set_cksum();
        archive.append(&header, *bytes).expect("appended");
    }
    zstd::encode_all(archive.into_inner().expect("a tar").as_slice(), 1).expect("compressed")
}

fn manifest(files: &[(&str, &[u8])]) -> Vec<u8> {
    let sums: serde_json::Map<String, serde_json::Value> = files
        .iter()
        .map(|(name, bytes)| {
            ((*name).to_owned(), serde_json::json!({ "size": bytes.len(), "blake3": blake3::hash(bytes).to_hex().to_string() }))
        })
        .collect();
    serde_json::json!({ "format": 1, "name": "x", "version": "1", "allowed": [], "files": sums }).to_string().into_bytes()
}

#[test]
fn the_same_rice_gives_the_same_bytes_and_comes_back_whole() {
    let desk = Desk::sample();
    let first = bundle(&desk);
    let other = Desk::sample();
    assert_eq!(first, bundle(&other));
    // Pictures and bundles that were made in the folder are not part of it.
    desk.run(&["look", "--size", "400x300"]).clean();
    desk.run(&["publish", "--bundle", "own.rice"]).clean();
    assert_eq!(first, bundle(&desk));
    for made in ["look.png", "own.rice"] {
        std::fs::remove_file(desk.rice().join(made)).expect("it was made");
    }
    let shown = desk.run(&["adopt", "../out.rice"]).clean();
    assert!(shown.contains("holds 15 commands and 1 placed file; nothing of it was run or written"), "{shown}");
    assert!(shown.contains("module.tide.source  parts/bar.toml:39\n      sluice --json\n"), "{shown}");
    assert!(!desk.path().join("taken").exists());
    let refused = desk.run(&["adopt", "../out.rice", "--to", "../taken"]);
    assert_eq!(refused.code, 1);
    assert!(refused.err.contains("--allow-run=PATH,… accepts what those settings hold"), "{}", refused.err);
    assert!(!desk.path().join("taken").exists());
    desk.run(&["adopt", "../out.rice", "--to", "../taken", "--allow-run"]).clean();
    let files = |folder: &std::path::Path| -> Vec<(std::path::PathBuf, Vec<u8>)> {
        photograph(folder)
            .into_iter()
            .map(|(path, _, bytes)| (path.strip_prefix(folder).expect("inside").to_owned(), bytes))
            .collect()
    };
    assert_eq!(files(&desk.rice()), files(&desk.path().join("taken")));
    let again = desk.run(&["adopt", "../out.rice", "--to", "../taken", "--allow-run"]);
    assert_eq!(again.code, 3, "never over something");
}

#[test]
fn what_reaches_out_is_accepted_one_by_one_and_asked_again_when_it_changes() {
    let desk = Desk::sample();
    desk.write("parts/z.toml", "[backdrop]\npicture = \"art/gone.png\"\n");
    let adopt = |more: &[&str]| desk.run(&[&["adopt", "."], more].concat());
    let shown = adopt(&["--allow-run=program.charts,module.volume.press"]).clean();
    assert!(shown.contains("art/gone.png cannot be shown"), "{shown}");
    assert!(
        shown.contains("program.charts  parts/desk.toml:63  accepted\n") && !shown.contains("desk.toml:64  accepted"),
        "{shown}"
    );
    assert!(shown.contains("accepted 4 values; asked again only when it changes"), "{shown}");
    assert_eq!(
        adopt(&["--allow-run=program.chart"]).failed(2).lines().last(),
        Some("error  nothing of it that reaches out is called program.chart; did you mean program.charts?")
    );
    let refused = adopt(&["--to", "../taken"]);
    assert_eq!((refused.code, desk.path().join("taken").exists()), (1, false));
    assert!(
        refused.err.contains("program.terminal, program.slip, program.logs") && !refused.err.contains("program.charts"),
        "{}",
        refused.err
    );
    // What a shell has made empty accepts nothing.
    let empty = adopt(&["--to", "../taken", "--allow-run="]);
    assert_eq!((empty.code, empty.err.as_str()), (2, "error  --allow-run= names no setting; without = it accepts all\n"));
    // A dry run remembers nothing.
    adopt(&["--to", "../taken", "--allow-run", "--dry-run"]).clean();
    assert_eq!(adopt(&["--to", "../taken"]).code, 1);
    adopt(&["--to", "../taken", "--allow-run"]).clean();
    adopt(&["--to", "../again"]).clean();
    desk.run(&["set", "program.charts", "{ run = [\"tidechart\", \"--tomorrow\"] }"]).clean();
    let refused = adopt(&["--to", "../third"]);
    assert!(refused.err.contains("program.charts is not accepted"), "{}", refused.err);
}

#[test]
fn a_bundle_is_never_written_over_a_file_that_is_none() {
    let desk = Desk::sample();
    let before = photograph(&desk.rice());
    for name in ["rice.toml", "parts/keys.toml"] {
        let refused = desk.run(&["publish", "--bundle", name]);
        assert_eq!(refused.code, 1);
        assert!(refused.err.contains(&format!("{name} is there and is no bundle, so nothing was written")), "{}", refused.err);
    }
    assert_eq!(photograph(&desk.rice()), before);
    bundle(&desk);
    bundle(&desk);
    std::fs::write(desk.path().join("notes"), "mine").expect("written");
    desk.run(&["publish", "--bundle", "../notes", "--force"]).clean();
}

#[test]
fn what_a_strangers_rice_may_do_is_shown_exactly_and_taken_back_whole() {
    let desk = Desk::sample();
    desk.write(
        "parts/z.toml",
        "[environment]\nLD_PRELOAD = \"/tmp/x.so\"\n[start.x]\nshell = \"echo ok\\nrm -rf x # \u{202e}gpj\"\n[place]\n\"~/.bashrc\" = \"art/colours.xres\"\n",
    );
    let shown = desk.run(&["adopt", "."]).clean();
    for told in [
        "holds 16 commands, 1 variable and 2 placed files",
        "start.x.shell  parts/z.toml:4\n      echo ok\\nrm -rf x # \\u{202e}gpj\n",
        "environment.LD_PRELOAD  parts/z.toml:2\n      LD_PRELOAD=/tmp/x.so\n",
        "~/.bashrc from art/colours.xres, a start file of a shell\n",
    ] {
        assert!(shown.contains(told), "{told}\n{shown}");
    }
    // What runs by itself comes first, and what is dangerous is marked; a text that is placed is shown, and whole where it is asked for.
    let order = [
        "runs with the session",
        "start.x.shell",
        "deletes or overwrites",
        "~/.bashrc",
        "art/colours.xres\n        ! Colours",
        "LD_PRELOAD",
    ];
    let places: Vec<_> = order.iter().map(|word| shown.find(word).unwrap_or_else(|| panic!("{word} in {shown}"))).collect();
    assert!(places.is_sorted() && shown.contains("loads code into other programs"), "{shown}");
    assert!(!shown.contains("--allow-run\n") && shown.contains("--show art/colours.xres"), "{shown}");
    let whole = desk.run(&["adopt", ".", "--show", "art/colours.xres"]).clean();
    assert_eq!(whole.lines().count(), desk.read("art/colours.xres").lines().count());
    assert!(desk.run(&["adopt", ".", "--show", "art/colors.xres"]).failed(2).contains("did you mean art/colours.xres?"));
    let dry = desk.run(&["adopt", ".", "--to", "../taken", "--allow-run", "--dry-run"]).clean();
    assert!(dry.ends_with("would write 22 files into ../taken\n") && !desk.path().join("taken").exists(), "{dry}");
    desk.run(&["adopt", ".", "--to", "../taken", "--allow-run"]).clean();
    let history = desk.run(&["history", "--everywhere"]).clean();
    assert!(history.contains("adopt") && history.contains("saltmarsh 1.0.0 into"), "{history}");
    desk.run(&["undo", "--everywhere"]).clean();
    assert!(!desk.path().join("taken").exists());
    // A rice with errors is told as one, with what they are.
    desk.write("rice.toml", "[rice]\nname = \"x\"\nformat = 0\n");
    let wrong = desk.run(&["adopt", "."]);
    assert_eq!(wrong.code, 1);
    assert!(wrong.err.contains("setting/range  rice.format is out of range"), "{}", wrong.err);
}

#[test]
fn home_paths_and_secrets_stop_it_with_their_place() {
    let desk = Desk::sample();
    let home = desk.home().display().to_string();
    desk.write("parts/mine.toml", format!("[program]\nmine = \"{home}/bin/x\"\n# token = \"abcd-efgh-1234\"\n"));
    let run = desk.run(&["publish", "--bundle", "../out.rice"]);
    assert_eq!(run.code, 1);
    assert!(run.out.contains("share/home-path  parts/mine.toml names a home folder\n  parts/mine.toml:2:9"), "{}", run.out);
    assert!(run.out.contains("share/secret") && run.out.contains("parts/mine.toml:3:12"), "{}", run.out);
    assert!(!desk.path().join("out.rice").exists());
    desk.run(&["publish", "--bundle", "../out.rice", "--allow", "share/home-path", "--allow", "share/secret"]);
    assert!(desk.path().join("out.rice").exists());
}

#[test]
fn hostile_bundles_are_refused_whole_with_the_reason() {
    use tar::EntryType as Kind;
    let rice: &[u8] = b"[rice]\nname = \"x\"\n";
    let sums = manifest(&[("rice.toml", rice)]);
    let good: (&str, Kind, &[u8]) = ("rice.toml", Kind::Regular, rice);
    let listed: (&str, Kind, &[u8]) = ("MANIFEST.json", Kind::Regular, &sums);
    let newer = String::from_utf8(sums.clone()).expect("UTF-8").replace("\"format\":1", "\"format\":9,\"more\":1").into_bytes();
    let wrong = manifest(&[("rice.toml", b"[rice]\nname = \"y\"\n")]);
    let huge = vec![0_u8; 130 * 1024 * 1024];
    let cases: Vec<(Vec<u8>, &str)> = vec![
        (tarred(&[listed, good, ("../evil", Kind::Regular, b"x")]), "leads out of the rice's folder"),
        (tarred(&[listed, good, ("/etc/evil", Kind::Regular, b"x")]), "leads out of the rice's folder"),
        (tarred(&[listed, good, ("a/../../evil", Kind::Regular, b"x")]), "leads out of the rice's folder"),
        (tarred(&[listed, good, ("parts\\evil", Kind::Regular, b"x")]), "leads out of the rice's folder"),
        (tarred(&[listed, good, (".hidden", Kind::Regular, b"x")]), "leads out of the rice's folder"),
        (tarred(&[listed, good, ("link", Kind::Symlink, b"")]), "is a link, a folder or a device"),
        (tarred(&[listed, good, ("dev", Kind::Char, b"")]), "is a link, a folder or a device"),
        (tarred(&[listed, good, ("RICE.toml", Kind::Regular, b"x")]), "twice, or again with other capitals"),
        (tarred(&[listed, good, ("extra", Kind::Regular, b"x")]), "extra is in it but not listed"),
        (tarred(&[listed]), "rice.toml is listed but not in it"),
        (tarred(&[good]), "it has no MANIFEST.json"),
        (tarred(&[("MANIFEST.json", Kind::Regular, &wrong), good]), "rice.toml is not what its sum says"),
        (tarred(&[("MANIFEST.json", Kind::Regular, &newer), good]), "newer than this program"),
        (tarred(&[("MANIFEST.json", Kind::Regular, b"{"), good]), "cannot be read"),
        (tarred(&[listed, ("big", Kind::Regular, &huge)]), "larger than 128 MiB"),
        (b"no bundle at all".to_vec(), "it is"),
        (Vec::new(), "it"),
    ];
    let desk = Desk::empty();
    for (bytes, why) in cases {
        std::fs::write(desk.path().join("evil.rice"), &bytes).expect("written");
        let before = photograph(desk.path());
        let run = desk.run(&["adopt", "../evil.rice", "--to", "../taken", "--allow-run"]);
        assert_eq!(run.code, 1, "{why}: {}", run.err);
        assert!(run.err.starts_with("error  this bundle is refused: ") && run.err.contains(why), "{why}: {}", run.err);
        assert_eq!(photograph(desk.path()), before, "{why}: nothing is written");
    }
}

#[test]
fn a_cut_or_flipped_bundle_never_panics() {
    let desk = Desk::sample();
    let whole = bundle(&desk);
    for at in (0..whole.len()).step_by(97) {
        let mut flipped = whole.clone();
        flipped[at] ^= 0x55;
        for bytes in [&whole[..at], &flipped[..]] {
            let mut file = std::fs::File::create(desk.path().join("cut.rice")).expect("created");
            file.write_all(bytes).expect("written");
            let run = desk.run(&["adopt", "../cut.rice"]);
            assert!(run.code == 0 || run.code == 1, "{at}: {} {}", run.code, run.err);
        }
    }
}

#[test]
fn adopt_says_what_it_warns_of_with_the_fonts_of_this_computer() {
    let desk = Desk::of("[bar.top]\nend = [\"tide\"]\n[module.tide]\nsource = \"time\"\ntext = \"\u{10fffd} {time:%H:%M}\"\n");
    let shown = desk.run(&["adopt", "."]).clean();
    assert!(shown.contains("type/no-glyph") && shown.contains("1 warning."), "{shown}");
}
