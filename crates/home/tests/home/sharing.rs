use std::path::{Path, PathBuf};

use jovrik_home::publish::{PublishReport, publish};
use jovrik_leak_scan::Person;
use proptest::prelude::*;

fn rice(folder: &Path, files: &[(&str, &[u8])]) -> PathBuf {
    let rice = folder.join("rice");
    for (name, bytes) in [("rice.toml", b"[rice]\nname = \"x\"\n".as_slice())].iter().chain(files) {
        let path = rice.join(name);
        std::fs::create_dir_all(path.parent().expect("a folder")).expect("made");
        std::fs::write(path, bytes).expect("written");
    }
    rice
}

fn published(files: &[(&str, &[u8])], allow: &[&str]) -> PublishReport {
    let folder = tempfile::tempdir().expect("a folder");
    let rice = rice(folder.path(), files);
    let person = Person { home: "/srv/people/wren".to_owned(), user: "wren".to_owned(), host: "breakwater".to_owned() };
    let allow: Vec<String> = allow.iter().map(|code| (*code).to_owned()).collect();
    publish(&rice, "x", "1", &person, &allow, &[]).expect("looked through")
}

fn told(published: &PublishReport) -> Vec<String> {
    let place = |problem: &jovrik_text::problem::Problem| {
        let (file, line) = problem.place(&published.sources).expect("every finding has a place");
        format!("{} {file}{}", problem.code, line.map(|line| format!(":{line}")).unwrap_or_default())
    };
    published.problems.iter().map(place).collect()
}

/// What a bundle holds under a name.
fn held(published: &PublishReport, name: &str) -> Vec<u8> {
    let packed = published.bundle.as_ref().expect("nothing stops it");
    let tar = zstd::decode_all(packed.as_slice()).expect("zstd");
    let mut archive = tar::Archive::new(tar.as_slice());
    let mut entries = archive.entries().expect("a tar").map(|entry| entry.expect("an entry"));
    let mut entry = entries.find(|entry| entry.path().expect("a path") == Path::new(name)).expect("it is there");
    let mut bytes = Vec::new();
    std::io::Read::read_to_end(&mut entry, &mut bytes).expect("read");
    bytes
}

fn chunk(kind: &[u8], data: &[u8]) -> Vec<u8> {
    [&(data.len() as u32).to_be_bytes(), kind, data, &[1, 2, 3, 4]].concat()
}

fn png(talk: bool) -> Vec<u8> {
    let said = if talk { [chunk(b"tEXt", b"Author\0wren"), chunk(b"eXIf", b"MM\0*wren")].concat() } else { Vec::new() };
    let tail: &[u8] = if talk { b"behind the end: wren" } else { b"" };
    [b"\x89PNG\r\n\x1a\n", chunk(b"IHDR", &[0; 13]).as_slice(), &said, &chunk(b"IDAT", &[0xff, 0]), &chunk(b"IEND", b""), tail]
        .concat()
}

fn jpeg(talk: bool) -> Vec<u8> {
    let segment = |marker: u8, data: &[u8]| [&[0xff, marker], &(data.len() as u16 + 2).to_be_bytes()[..], data].concat();
    let said = if talk { [segment(0xe1, b"Exif\0\0wren"), segment(0xfe, b"by wren")].concat() } else { Vec::new() };
    let scan = [0x12, 0xff, 0x00, 0x34, 0xff, 0xd0, 0x56];
    let tail: &[u8] = if talk { b"wren" } else { b"" };
    [&[0xff, 0xd8], segment(0xe0, b"JFIF\0").as_slice(), &said, &segment(0xda, &[1]), &scan, &[0xff, 0xd9], tail].concat()
}

fn gif(talk: bool) -> Vec<u8> {
    let said: &[u8] = if talk { b"\x21\xfe\x07by wren\0" } else { b"" };
    let tail: &[u8] = if talk { b"wren" } else { b"" };
    let picture = b"\x2c\0\0\0\0\x01\0\x01\0\0\x02\x02\x44\x01\0";
    [b"GIF89a\x01\0\x01\0\0\0\0", said, picture, &[0x3b], tail].concat()
}

fn webp(talk: bool) -> Vec<u8> {
    let part = |kind: &[u8], data: &[u8]| [kind, &(data.len() as u32).to_le_bytes(), data].concat();
    let flags = if talk { 0b1100 } else { 0 };
    let said = if talk { [part(b"EXIF", b"wren"), part(b"XMP ", b"<x>wren</x>!")].concat() } else { Vec::new() };
    let body = [part(b"VP8X", &[flags, 0, 0, 0, 0, 0, 0, 0, 0, 0]), part(b"VP8L", &[0xff, 0]), said].concat();
    [b"RIFF", &(body.len() as u32 + 4).to_le_bytes()[..], b"WEBP", &body].concat()
}

/// A picture, with what is said of it or without.
type Make = fn(bool) -> Vec<u8>;

#[test]
fn what_cameras_and_programs_write_into_pictures_stays_at_home() {
    let kinds: [(&str, Make); 4] = [("art/a.png", png), ("art/b.jpg", jpeg), ("art/c.gif", gif), ("art/d.webp", webp)];
    let talking: Vec<(&str, Vec<u8>)> = kinds.iter().map(|(name, make)| (*name, make(true))).collect();
    let files: Vec<(&str, &[u8])> = talking.iter().map(|(name, bytes)| (*name, bytes.as_slice())).collect();
    let shared = published(&files, &[]);
    assert_eq!(told(&shared), [] as [&str; 0]);
    for (name, make) in kinds {
        assert!(make(true).windows(4).any(|four| four == b"wren"), "{name} says who made it");
        assert_eq!(held(&shared, name), make(false), "{name}");
    }
    assert_eq!(shared.cut, ["art/a.png", "art/b.jpg", "art/c.gif", "art/d.webp"]);
}

#[test]
fn what_stands_in_other_files_that_are_no_text_is_told_with_its_file() {
    let wide: Vec<u8> = "path=/home/tern/levels".bytes().flat_map(|byte| [byte, 0]).collect();
    let packed = [b"\xff\0\xfe\x01".as_slice(), b"token from /home/tern/key", b"\0\xff", &wide, b"\xff"].concat();
    let shared =
        published(&[("art/store.bin", &packed), ("art/of-wren.txt", b"x"), ("art/q8Zr4TbV0wLkP3nXy7Hd2GfJ.txt", b"x")], &[]);
    let expected =
        ["share/name art/of-wren.txt", "share/secret art/q8Zr4TbV0wLkP3nXy7Hd2GfJ.txt", "share/home-path art/store.bin"];
    assert_eq!(told(&shared), expected);
    assert!(shared.bundle.is_none());
}

#[test]
fn one_finding_is_accepted_by_its_place_and_no_other() {
    let part = b"[program]\na = { run = [\"x\", \"--token\", \"4f9d02ab77c1\"] }\nb = { run = [\"x\", \"--token\", \"9b1c77de20f4\"] }\n";
    let files: [(&str, &[u8]); 1] = [("parts/a.toml", part)];
    assert_eq!(told(&published(&files, &[])), ["share/secret parts/a.toml:2", "share/secret parts/a.toml:3"]);
    let one = published(&files, &["share/secret:parts/a.toml:2", "share/place"]);
    assert_eq!(
        (told(&one), one.accepted, one.idle.clone()),
        (vec!["share/secret parts/a.toml:3".to_owned()], 1, vec!["share/place".to_owned()])
    );
    let all = published(&files, &["share/secret:parts/a.toml"]);
    assert!(all.bundle.is_some() && all.accepted == 2);
    let both = published(&files, &["share/secret:parts/a.toml:2", "share/secret:parts/a.toml:3"]);
    let manifest: serde_json::Value = serde_json::from_slice(&held(&both, "MANIFEST.json")).expect("JSON");
    let sum = &blake3::hash(b"a = { run = [\"x\", \"--token\", \"4f9d02ab77c1\"] }").to_hex()[..16];
    assert_eq!(manifest["allowed"][0], format!("share/secret:parts/a.toml:2#{sum}"));
}

proptest! {
    /// Whatever stands in a file, looking it through ends and loses nothing of a text.
    #[test]
    fn any_bytes_are_looked_through(head in 0..5_usize, bytes in proptest::collection::vec(any::<u8>(), 0..200), at in 0..60_usize, by in any::<u8>()) {
        let kinds = [png(true), jpeg(true), gif(true), webp(true), Vec::new()];
        let mut file = kinds[head].clone();
        if let Some(byte) = file.get_mut(at) {
            *byte = by;
        }
        file.extend(bytes);
        let shared = published(&[("art/x", &file)], &[]);
        if std::str::from_utf8(&file).is_ok() && shared.bundle.is_some() {
            prop_assert_eq!(held(&shared, "art/x"), file);
        }
    }
}
