use std::collections::BTreeMap;
use std::path::Path;

use jovrik_core::check::{HostInfo, UnknownHost};
use jovrik_home::publish::publish;
use jovrik_home::{adopt, new_rice, sample_files};
use jovrik_leak_scan::Person;
use proptest::prelude::*;

fn person(home: &Path, user: &str, host: &str) -> Person {
    Person { home: home.display().to_string(), user: user.to_owned(), host: host.to_owned() }
}

#[test]
fn a_bundle_lists_every_command_and_place_before_anything_is_written() {
    let folder = tempfile::tempdir().expect("a folder");
    let rice = folder.path().join("rice");
    new_rice(&rice, sample_files("saltmarsh").expect("a sample")).expect("written");
    std::fs::write(rice.join("parts/mine.toml"), "[keys.desk]\n\"Lead+x\" = \"run 'sh' -c 'rm -rf ~'\"\n").expect("written");
    let adopted = adopt::read(&rice, &UnknownHost).expect("a folder is as good");
    let told = told(&adopted);
    assert!(told.contains(&"keys.desk.\"Lead+x\": sh -c 'rm -rf ~'".to_owned()), "{told:?}");
    assert!(told.contains(&"module.tide.source: sluice --json".to_owned()), "{told:?}");
    assert!(told.contains(&"place.\"~/.Xdefaults\": ~/.Xdefaults from art/colours.xres".to_owned()), "{told:?}");
}

/// Everything that reaches out of an adopted rice.
fn told(adopted: &adopt::AdoptedRice) -> Vec<String> {
    adopted.reaching.iter().map(|one| format!("{}: {}", one.path, one.what)).collect()
}

#[test]
fn commands_of_every_kind_are_listed_also_those_of_overlays_that_do_not_hold_here() {
    let folder = tempfile::tempdir().expect("a folder");
    let rice = folder.path().join("rice");
    std::fs::create_dir_all(rice.join("parts")).expect("a folder");
    std::fs::create_dir_all(rice.join("overlays")).expect("a folder");
    std::fs::write(rice.join("rice.toml"), "[rice]\nname = \"x\"\n").expect("written");
    let part = "[program]\na = \"one\"\n[start.b]\nshell = \"two | three\"\n[start.c]\nrun = [\"four\"]\n[idle]\non-sleep = \"run five\"\n\
        after = { \"5m\" = \"run six\" }\n[module.d]\nsource = { run = [\"seven\"] }\npress = { left = \"run eight\" }\n[keys.desk]\n\"Lead+x\" = \"run nine\"\n";
    std::fs::write(rice.join("parts/a.toml"), part).expect("written");
    let overlay = "[overlay]\nwhen = { host = \"nowhere\" }\n[program]\na = \"ten\"\n[place]\n\"~/.later\" = \"art/x\"\n";
    std::fs::write(rice.join("overlays/o.toml"), overlay).expect("written");
    let adopted = adopt::read(&rice, &UnknownHost).expect("read");
    let expected = [
        "program.a: one",
        "start.b.shell: two | three",
        "start.c.run: four",
        "idle.on-sleep: five",
        "idle.after: six",
        "module.d.source: seven",
        "module.d.press: eight",
        "keys.desk.\"Lead+x\": nine",
        "program.a: ten",
        "place.\"~/.later\": ~/.later from art/x",
    ];
    assert_eq!(told(&adopted), expected);
}

/// A computer of which no font has any character.
struct Blank;

impl HostInfo for Blank {
    fn lacks(&self, _: &str, text: &str) -> Vec<char> {
        text.chars().collect()
    }
}

#[test]
fn a_rice_from_outside_is_checked_with_the_fonts_of_this_computer() {
    let folder = tempfile::tempdir().expect("a folder");
    let rice = folder.path().join("rice");
    std::fs::create_dir_all(rice.join("parts")).expect("a folder");
    std::fs::write(rice.join("rice.toml"), "[rice]\nname = \"x\"\n").expect("written");
    let part = "[bar.top]\nend = [\"tide\"]\n[module.tide]\nsource = \"time\"\ntext = \"≈ {time:%H:%M}\"\n";
    std::fs::write(rice.join("parts/bar.toml"), part).expect("written");
    let codes = |around: &dyn HostInfo| -> Vec<String> {
        let adopted = adopt::read(&rice, around).expect("read");
        adopted.checked.problems.iter().map(|problem| problem.code.to_string()).collect()
    };
    assert!(codes(&Blank).contains(&"type/no-glyph".to_owned()));
    assert!(!codes(&UnknownHost).contains(&"type/no-glyph".to_owned()));
}

#[test]
fn allowed_codes_are_recorded_and_hidden_files_stay_at_home() {
    let folder = tempfile::tempdir().expect("a folder");
    let rice = folder.path().join("rice");
    new_rice(&rice, sample_files("saltmarsh").expect("a sample")).expect("written");
    std::fs::write(rice.join(".secret"), "token = \"abcd-efgh-1234\"").expect("written");
    std::os::unix::fs::symlink("/etc/passwd", rice.join("art/link")).expect("linked");
    let pack =
        |allow: &[String]| publish(&rice, "saltmarsh", "1", &person(folder.path(), "mira", "skiff"), allow, &[]).expect("packed");
    let plain = pack(&[]);
    let problems: Vec<&str> = plain.problems.iter().map(|problem| problem.code).collect();
    assert_eq!(problems, ["share/name"; 2], "this host's facts name it, and are named so; the hidden file is not looked at");
    let file = folder.path().join("x.rice");
    std::fs::write(&file, pack(&["share/name".to_owned(), "share/secret".to_owned()]).bundle.expect("a bundle"))
        .expect("written");
    let adopted = adopt::read(&file, &UnknownHost).expect("it reads");
    assert!(!adopted.files.contains_key(".secret") && !adopted.files.contains_key("art/link"));
    let tar = zstd::decode_all(std::fs::read(&file).expect("there").as_slice()).expect("unpacked");
    let text = String::from_utf8_lossy(&tar).into_owned();
    assert!(text.contains("\"allowed\": [\n    \"share/name\"\n  ]"), "only what was needed");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_files_come_back_as_they_were(files in prop::collection::btree_map("[a-z]{1,8}(/[a-z]{1,8}){1,2}\\.(toml|png)", prop::collection::vec(any::<u8>(), 0..300), 0..8)) {
        let folder = tempfile::tempdir().expect("a folder");
        let rice = folder.path().join("rice");
        std::fs::create_dir(&rice).expect("made");
        let mut files: BTreeMap<String, Vec<u8>> = files.into_iter().filter(|(name, _)| !name.starts_with("parts/")).collect();
        files.insert("rice.toml".to_owned(), b"[rice]\nname = \"x\"\n".to_vec());
        for (name, bytes) in &files {
            let path = rice.join(name);
            std::fs::create_dir_all(path.parent().expect("a folder")).expect("made");
            prop_assume!(!path.is_dir());
            std::fs::write(path, bytes).expect("written");
        }
        let allow = ["share/secret".to_owned(), "share/home-path".to_owned(), "share/name".to_owned()];
        let published = publish(&rice, "x", "1", &person(folder.path(), "", ""), &allow, &[]).expect("packed");
        let file = folder.path().join("x.rice");
        std::fs::write(&file, published.bundle.expect("a bundle")).expect("written");
        let adopted = adopt::read(&file, &UnknownHost).expect("it reads");
        prop_assert_eq!(&adopted.files, &files);
        let writes = adopt::writes(&adopted, &folder.path().join("taken")).expect("a new folder");
        let written: BTreeMap<String, Vec<u8>> = writes
            .into_iter()
            .map(|file| (file.path.display().to_string(), file.new.expect("new").bytes))
            .collect();
        let root = std::fs::canonicalize(folder.path()).expect("there").join("taken");
        let wanted = files.iter().map(|(name, bytes)| (root.join(name).display().to_string(), bytes.clone())).collect();
        prop_assert_eq!(written, wanted);
    }

    #[test]
    fn rubbish_is_refused_and_never_panics(bytes in prop::collection::vec(any::<u8>(), 0..2000), compress in any::<bool>()) {
        let folder = tempfile::tempdir().expect("a folder");
        let file = folder.path().join("x.rice");
        let bytes = if compress { zstd::encode_all(bytes.as_slice(), 1).expect("compressed") } else { bytes };
        std::fs::write(&file, bytes).expect("written");
        prop_assert!(adopt::read(&file, &UnknownHost).is_err());
    }
}

#[test]
fn fuzz_bundles() {
    let folder = tempfile::tempdir().expect("a folder");
    let packed = folder.path().join("a.rice");
    let text = "[rice]\nname = \"x\"\n";
    let whole = |names: &[&str]| {
        let mut archive = tar::Builder::new(Vec::new());
        let sums: String = names
            .iter()
            .map(|name| format!("{name:?}:{{\"size\":{},\"blake3\":\"{}\"}},", text.len(), blake3::hash(text.as_bytes())))
            .collect();
        let manifest = format!(
            "{{\"format\":1,\"name\":\"x\",\"version\":\"1\",\"allowed\":[],\"files\":{{{}}}}}",
            sums.trim_end_matches(',')
        );
        for (name, bytes) in std::iter::once(("MANIFEST.json", manifest.as_str())).chain(names.iter().map(|name| (*name, text))) {
            let mut header = tar::Header::new_gnu();
            header.set_size(bytes.len() as u64);
            header.set_mode(0o644);
            header.set_cksum();
            archive.append_data(&mut header, name, bytes.as_bytes()).expect("packed");
        }
        archive.into_inner().expect("whole")
    };
    // The archive is changed before it is packed, so that most of it is looked at.
    let corpus = [whole(&["rice.toml", "parts/a.toml", "art/x.png"]), whole(&["rice.toml"])];
    jovrik_fuzz::tries("bundles", &corpus, 1500, |bytes| {
        std::fs::write(&packed, zstd::encode_all(bytes, 1).expect("compressed")).expect("written");
        let _ = adopt::read(&packed, &jovrik_core::check::UnknownHost);
    });
}
