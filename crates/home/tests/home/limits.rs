//! How much of a rice is taken in: at each limit, and one above it.

use jovrik_core::check::UnknownHost;
use jovrik_home::{adopt, check_folder};
use jovrik_text::limits;

use crate::{Place, place};

fn rice(place: &Place) {
    place.put("rice/rice.toml", "[rice]\nname = \"x\"\n");
}

fn codes(place: &Place) -> Vec<&'static str> {
    check_folder(&place.at("rice"), &[], &UnknownHost).problems.iter().map(|problem| problem.code).collect()
}

/// A file of so many bytes, of which none is written.
fn empty(place: &Place, name: &str, bytes: usize) {
    place.put(name, "");
    let file = std::fs::File::options().write(true).open(place.at(name)).expect("there");
    file.set_len(bytes as u64).expect("set");
}

#[test]
fn a_file_of_settings_is_as_large_as_it_may_be_and_no_larger() {
    let place = place();
    rice(&place);
    let head = "[frame]\nwidth = 3\n#";
    for (more, expected) in [(0, vec![]), (1, vec!["file/too-large"])] {
        place.put("rice/parts/a.toml", &format!("{head}{}", "x".repeat(limits::SETTINGS_BYTES - head.len() + more)));
        assert_eq!(codes(&place), expected);
    }
}

#[test]
fn so_many_files_of_settings_are_read_and_no_more() {
    let place = place();
    rice(&place);
    for nth in 0..limits::SETTINGS_FILES {
        place.put(&format!("rice/parts/{nth:04}.toml"), "");
    }
    assert_eq!(codes(&place), [] as [&str; 0]);
    place.put("rice/parts/more.toml", "");
    assert_eq!(codes(&place), ["file/too-many"]);
}

#[test]
fn a_text_and_a_name_are_as_long_as_they_may_be_and_no_longer() {
    let place = place();
    rice(&place);
    for (more, expected) in [(0, 0), (1, 1)] {
        let long = "x".repeat(limits::SETTING_TEXT + more);
        place.put("rice/parts/a.toml", &format!("[start.p]\nshell = \"{long}\"\n"));
        assert_eq!(codes(&place).iter().filter(|code| **code == "setting/range").count(), expected);
        place.put("rice/parts/a.toml", &format!("[environment]\n{long} = \"x\"\n"));
        assert_eq!(codes(&place).iter().filter(|code| **code == "setting/range").count(), expected);
    }
}

#[test]
fn a_rice_has_so_many_files_and_bytes_and_no_more() {
    let place = place();
    rice(&place);
    for nth in 1..limits::RICE_FILES {
        place.put(&format!("rice/art/{nth}"), "");
    }
    let read = || adopt::read(&place.at("rice"), &UnknownHost).map(|adopted| adopted.files.len());
    assert_eq!(read().expect("at the limit"), limits::RICE_FILES);
    place.put("rice/art/more", "");
    assert!(read().expect_err("above it").to_string().contains("too large"));
    let place = crate::place();
    rice(&place);
    let own = std::fs::metadata(place.at("rice/rice.toml")).expect("there").len() as usize;
    let read = || adopt::read(&place.at("rice"), &UnknownHost).map(|adopted| adopted.files.len());
    empty(&place, "rice/art/large", limits::RICE_BYTES - own);
    assert_eq!(read().expect("at the limit"), 2);
    empty(&place, "rice/art/large", limits::RICE_BYTES - own + 1);
    assert!(read().expect_err("above it").to_string().contains("too large"));
    empty(&place, "rice/art/large", limits::RICE_BYTES + 1);
    assert!(read().expect_err("above it").to_string().contains("more than 64 MiB"));
}

#[test]
fn a_bundle_is_not_larger_than_it_may_be_packed_or_not() {
    let place = place();
    empty(&place, "large.rice", limits::BUNDLE_PACKED + 1);
    let refused = |name: &str| adopt::read(&place.at(name), &UnknownHost).expect_err("too large").to_string();
    assert!(refused("large.rice").contains("more than 64 MiB"), "{}", refused("large.rice"));
    // A few bytes that become many.
    let mut packed = zstd::Encoder::new(Vec::new(), 1).expect("begun");
    let zeros = vec![0; 1024 * 1024];
    for _ in 0..=limits::BUNDLE_BYTES / zeros.len() {
        std::io::Write::write_all(&mut packed, &zeros).expect("packed");
    }
    let bytes = packed.finish().expect("whole");
    assert!(bytes.len() < 100_000);
    std::fs::write(place.at("bomb.rice"), bytes).expect("written");
    assert!(refused("bomb.rice").contains("this bundle is refused"), "{}", refused("bomb.rice"));
}
