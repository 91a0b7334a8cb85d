//! Nobody else reads what is kept of a person's files, and permissions stay what they are.

use std::os::unix::fs::PermissionsExt;
use std::path::Path;
use std::process::Command;
use std::sync::atomic::{AtomicBool, Ordering};

use jovrik_core::check::UnknownHost;
use jovrik_home::apply::{ApplyConsent, carry_out, plan};
use jovrik_home::{EntryDraft, Error, FileTexts, History, TransactionManager, check_folder};

use crate::{Place, place};

fn mode(path: &Path) -> u32 {
    std::fs::metadata(path).expect("there").permissions().mode() & 0o7777
}

fn set(path: &Path, mode: u32) {
    std::fs::set_permissions(path, std::fs::Permissions::from_mode(mode)).expect("set");
}

/// Applies the rice of a place, and takes what a person wrote.
fn apply(place: &Place) -> Result<Option<i64>, Error> {
    let folder = place.at("rice");
    let checked = check_folder(&folder, &[], &UnknownHost);
    let mut writer = TransactionManager::open(&place.home)?;
    let plan = plan(
        &folder,
        &FileTexts::new(),
        &checked,
        &place.home,
        writer.history(),
        &ApplyConsent { take_all: true, ..ApplyConsent::default() },
    )?;
    carry_out(&plan, &mut writer, &EntryDraft { kind: "apply", what: "test", note: None, rice: Some(&folder) })
}

const RICE: &str = "[place]\n\"~/.netrc\" = \"art/netrc\"\n\"~/.tool\" = \"art/tool\"\n\"~/.plain\" = \"art/plain\"\n";

fn rice(place: &Place) {
    place.put("rice/rice.toml", "[rice]\nname = \"test\"\n");
    place.put("rice/parts/a.toml", RICE);
    for (name, mode) in [("netrc", 0o600), ("tool", 0o755), ("plain", 0o644)] {
        place.put(&format!("rice/art/{name}"), name);
        set(&place.at(&format!("rice/art/{name}")), mode);
    }
}

#[test]
fn everything_that_is_kept_is_its_owners_alone_and_mended_where_it_was_not() {
    let place = place();
    rice(&place);
    place.put(".netrc", "machine sea login wren password tern");
    set(&place.at(".netrc"), 0o600);
    apply(&place).expect("applied").expect("something was done");
    let folder = place.home.state.join("jovrik");
    let all = |folder: &Path| -> Vec<(String, u32)> {
        let entries = std::fs::read_dir(folder).expect("there").map(|entry| entry.expect("an entry"));
        entries.map(|entry| (entry.file_name().to_string_lossy().into_owned(), mode(&entry.path()))).collect()
    };
    assert_eq!(mode(&folder), 0o700);
    let open = History::open(&place.home.history()).expect("opened");
    let kept = all(&folder);
    assert!(kept.len() >= 2 && kept.iter().all(|(_, mode)| *mode == 0o600), "{kept:?}");
    drop(open);
    // As it was left by whoever made it before.
    set(&folder, 0o755);
    all(&folder).iter().for_each(|(name, _)| set(&folder.join(name), 0o644));
    let open = History::open(&place.home.history()).expect("opened");
    drop(TransactionManager::open(&place.home).expect("a writer"));
    let kept = all(&folder);
    assert!(mode(&folder) == 0o700 && kept.iter().all(|(_, mode)| *mode == 0o600), "{kept:?}");
    drop(open);
}

#[test]
fn what_is_placed_has_the_permissions_of_its_source_and_what_is_replaced_its_own() {
    let place = place();
    rice(&place);
    place.put(".plain", "mine");
    set(&place.at(".plain"), 0o640);
    apply(&place).expect("applied").expect("something was done");
    let modes = [".netrc", ".tool", ".plain", "config/jovrik/rice/art/netrc", "config/jovrik/rice/art/tool"];
    assert_eq!(modes.map(|name| mode(&place.at(name))), [0o600, 0o755, 0o640, 0o600, 0o755]);
}

/// Run by the test below, in a process of its own: what a process gives to new files is one thing for all its threads.
#[test]
fn what_this_user_gives_to_no_new_file_is_given_to_no_placed_one() {
    const UNDER: &str = "JOVRIK_TEST_UNDER_MASK";
    if std::env::var_os(UNDER).is_none() {
        let name = "privacy::what_this_user_gives_to_no_new_file_is_given_to_no_placed_one";
        let test = std::env::current_exe().expect("this test");
        let script = format!("umask 077; exec \"$0\" --exact {name}");
        let status = Command::new("sh").args(["-c", &script]).arg(test).env(UNDER, "1").status().expect("it runs");
        assert!(status.success());
        return;
    }
    let place = place();
    rice(&place);
    for (name, mode) in [("tool", 0o755), ("plain", 0o644)] {
        set(&place.at(&format!("rice/art/{name}")), mode);
    }
    apply(&place).expect("applied").expect("something was done");
    assert_eq!([".netrc", ".tool", ".plain"].map(|name| mode(&place.at(name))), [0o600, 0o700, 0o600]);
}

/// Stops whoever swaps, however the work ends.
struct Stop<'a>(&'a AtomicBool);

impl Drop for Stop<'_> {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

/// Swaps two names until the work is done.
fn swapping<T>(a: &Path, b: &Path, work: impl FnOnce() -> T) -> T {
    let done = AtomicBool::new(false);
    let cwd = rustix::fs::CWD;
    let swap = || rustix::fs::renameat_with(cwd, a, cwd, b, rustix::fs::RenameFlags::EXCHANGE).expect("swapped");
    std::thread::scope(|scope| {
        scope.spawn(|| {
            while !done.load(Ordering::Relaxed) {
                swap();
                swap();
            }
        });
        let _stop = Stop(&done);
        work()
    })
}

#[test]
fn no_private_file_gets_into_what_is_shared_whoever_swaps_it_in() {
    let place = place();
    place.put("rice/rice.toml", "[rice]\nname = \"test\"\n");
    place.put("rice/art/staff.txt", "a drawing");
    place.put("private/key", "PRIVATE");
    std::os::unix::fs::symlink("../../private/key", place.at("link")).expect("linked");
    let rice = place.at("rice");
    swapping(&place.at("rice/art/staff.txt"), &place.at("link"), || {
        let mut carried = 0;
        for _ in 0..2_000 {
            let adopted = jovrik_home::adopt::read(&rice, &UnknownHost).expect("read");
            match adopted.files.get("art/staff.txt") {
                Some(bytes) => assert_eq!(bytes, b"a drawing"),
                None => continue,
            }
            carried += 1;
        }
        assert!(carried > 0, "nothing was carried at all");
    });
}

#[test]
fn a_folder_that_is_swapped_for_a_link_does_not_lead_what_is_written_elsewhere() {
    let place = place();
    // Somebody else's folder, where this home may not write.
    let other = crate::place();
    other.put("file", "theirs");
    place.put("rice/rice.toml", "[rice]\nname = \"test\"\n");
    place.put("rice/parts/a.toml", "[place]\n\"~/shelf/file\" = \"art/file\"\n");
    place.put("shelf/other", "");
    std::os::unix::fs::symlink(other.at(""), place.at("link")).expect("linked");
    let mut done = 0;
    swapping(&place.at("shelf"), &place.at("link"), || {
        for nth in 0..300 {
            place.put("rice/art/file", &format!("ours {nth}"));
            done += usize::from(matches!(apply(&place), Ok(Some(_))));
            assert_eq!(other.read("file").as_deref(), Some("theirs"));
        }
    });
    let names = std::fs::read_dir(other.at("")).expect("there").count();
    assert_eq!(names, 1, "nothing is laid there either");
    assert!(done > 0, "nothing was ever written");
}
