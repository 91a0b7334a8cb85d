//! Where placed files go and where they come from; what a person wrote is never written over silently.

use std::os::unix::fs::{PermissionsExt, symlink};

use jovrik_core::check::{HostInfo, UnknownHost, check};
use jovrik_home::apply::{ApplyConsent, ApplyPlan, FileDisposition, carry_out, plan};
use jovrik_home::undo::{UndoRange, undo};
use jovrik_home::{EntryDraft, Error, FileTexts, LocalHost, TransactionManager, read_folder};

use crate::{Place, place};

impl Place {
    /// A rice in a folder of its own that places files: target and source.
    fn rice(&self, name: &str, places: &[(&str, &str)]) {
        self.put(&format!("{name}/rice.toml"), &format!("[rice]\nname = \"{name}\"\n"));
        let lines: String = places.iter().map(|(to, from)| format!("\"{to}\" = \"{from}\"\n")).collect();
        self.put(&format!("{name}/parts/a.toml"), &format!("[place]\n{lines}"));
        self.put(&format!("{name}/art/tool"), &format!("of {name}\n"));
    }

    fn plan(&self, name: &str, leave: &ApplyConsent) -> Result<ApplyPlan, Error> {
        let writer = TransactionManager::open(&self.home)?;
        let folder = self.at(name);
        plan(&folder, &FileTexts::new(), &check(read_folder(&folder), &[], &UnknownHost), &self.home, writer.history(), leave)
    }

    fn apply(&self, name: &str, leave: &ApplyConsent) -> Result<ApplyPlan, Error> {
        let plan = self.plan(name, leave)?;
        let about = EntryDraft { kind: "apply", what: name, note: None, rice: Some(&self.at(name)) };
        carry_out(&plan, &mut TransactionManager::open(&self.home)?, &about)?;
        Ok(plan)
    }

    /// What an apply does with a file.
    fn fate(&self, plan: &ApplyPlan, name: &str) -> Option<FileDisposition> {
        plan.files.iter().find(|file| file.path == self.at(name)).map(|file| file.fate)
    }

    fn refused(&self, name: &str) -> String {
        self.plan(name, &ApplyConsent::default()).expect_err("refused").to_string()
    }
}

fn take(place: &Place, name: &str) -> ApplyConsent {
    ApplyConsent { take: vec![place.at(name)], ..ApplyConsent::default() }
}

#[test]
fn a_program_that_a_rice_places_can_be_run() {
    let place = place();
    place.rice("marsh", &[("~/.local/share/tool", "art/tool"), ("~/plain", "art/plain")]);
    place.put("marsh/art/plain", "words\n");
    std::fs::set_permissions(place.at("marsh/art/tool"), PermissionsExt::from_mode(0o4775)).expect("set");
    place.apply("marsh", &ApplyConsent::default()).expect("applied");
    let mode = |name: &str| std::fs::metadata(place.at(name)).expect("placed").permissions().mode() & 0o7777;
    assert_eq!(mode(".local/share/tool"), 0o755, "what the group may write and what runs as another stays behind");
    assert_eq!(mode("plain") & 0o111, 0);
    assert_eq!(mode("config/jovrik/rice/art/tool"), 0o755, "in the applied rice, too");
    undo(&place.home, None, UndoRange::Steps(1)).expect("undone");
    assert!(!place.at(".local/share/tool").exists());
}

#[test]
fn a_file_that_no_apply_placed_is_kept_until_it_is_taken_and_comes_back_with_the_next_rice() {
    let place = place();
    place.rice("marsh", &[("~/.tool", "art/tool")]);
    place.rice("creek", &[]);
    place.put(".tool", "mine\n");
    std::fs::set_permissions(place.at(".tool"), PermissionsExt::from_mode(0o600)).expect("set");
    let kept = place.apply("marsh", &ApplyConsent::default()).expect("applied");
    assert_eq!(place.fate(&kept, ".tool"), Some(FileDisposition::Theirs));
    assert_eq!(place.read(".tool").as_deref(), Some("mine\n"));
    let other = place.apply("creek", &ApplyConsent::default());
    assert_eq!(place.read(".tool").as_deref(), Some("mine\n"), "and another rice does not take it away: {other:?}");
    let taken = place.apply("marsh", &take(&place, ".tool")).expect("applied");
    assert_eq!(
        (place.fate(&taken, ".tool"), place.read(".tool").as_deref()),
        (Some(FileDisposition::Changed), Some("of marsh\n"))
    );
    assert!(taken.not_kept.is_empty());
    place.put("marsh/art/tool", "of marsh, anew\n");
    place.apply("marsh", &ApplyConsent::default()).expect("applied");
    let given_back = place.apply("creek", &ApplyConsent::default()).expect("applied");
    assert_eq!(place.fate(&given_back, ".tool"), Some(FileDisposition::Restored));
    assert_eq!(place.read(".tool").as_deref(), Some("mine\n"), "what stood there before the first of them");
    let mode = place.at(".tool").metadata().expect("there").permissions().mode() & 0o777;
    assert_eq!(mode, 0o600);
    undo(&place.home, None, UndoRange::Steps(1)).expect("undone");
    assert_eq!(place.read(".tool").as_deref(), Some("of marsh, anew\n"));
}

#[test]
fn a_file_that_happens_to_hold_the_same_is_nobodys_but_the_persons() {
    let place = place();
    place.rice("marsh", &[("~/.tool", "art/tool")]);
    place.rice("creek", &[]);
    place.put(".tool", "of marsh\n");
    let plan = place.apply("marsh", &ApplyConsent::default()).expect("applied");
    assert_eq!(place.fate(&plan, ".tool"), Some(FileDisposition::Same));
    place.apply("creek", &ApplyConsent::default()).expect("applied");
    assert_eq!(place.read(".tool").as_deref(), Some("of marsh\n"));
}

#[test]
fn taking_what_is_not_kept_is_said_and_a_folder_takes_all_in_it() {
    let place = place();
    place.rice("marsh", &[("~/a/one", "art/tool"), ("~/a/two", "art/tool"), ("~/three", "art/tool")]);
    for name in ["a/one", "a/two", "three"] {
        place.put(name, "mine");
    }
    let leave = ApplyConsent { take: vec![place.at("a"), place.at("nobody")], ..ApplyConsent::default() };
    let plan = place.apply("marsh", &leave).expect("applied");
    assert_eq!(plan.not_kept, [place.at("nobody")]);
    assert_eq!((place.read("a/two").as_deref(), place.read("three").as_deref()), (Some("of marsh\n"), Some("mine")));
    place.apply("marsh", &ApplyConsent { take_all: true, ..ApplyConsent::default() }).expect("applied");
    assert_eq!(place.read("three").as_deref(), Some("of marsh\n"));
}

#[test]
fn a_rice_that_a_person_keeps_where_applied_ones_lie_is_not_mixed_with_another() {
    let place = place();
    place.rice("marsh", &[]);
    place.rice("config/jovrik/rice", &[]);
    let before = place.photograph();
    match place.apply("marsh", &ApplyConsent::default()) {
        Err(Error::OwnRice { folder, .. }) => assert_eq!(folder, place.home.rice()),
        other => panic!("{other:?}"),
    }
    assert_eq!(place.photograph(), before);
    place.apply("marsh", &take(&place, "config/jovrik/rice")).expect("applied");
    assert_eq!(place.read("config/jovrik/rice/art/tool").as_deref(), Some("of marsh\n"));
}

#[test]
fn only_regular_files_and_links_to_them_are_targets() {
    let place = place();
    let root = place.at("").display().to_string();
    std::fs::create_dir(place.at("folder")).expect("made");
    rustix::fs::mkfifoat(rustix::fs::CWD, place.at("pipe"), rustix::fs::Mode::RUSR).expect("made");
    let _socket = std::os::unix::net::UnixListener::bind(place.at("socket")).expect("bound");
    for (link, to) in [
        ("to-device", "/dev/null"),
        ("to-zero", "/dev/zero"),
        ("to-pipe", "pipe"),
        ("to-itself", "to-itself"),
        ("out", "/srv/nowhere/else"),
        ("way-out", "/srv"),
        ("dangling", "kept/later"),
    ] {
        symlink(to, place.at(link)).expect("linked");
    }
    place.put("file", "a file");
    let before = place.photograph().len();
    for (target, said) in [
        ("folder", "it is a folder, not a file"),
        ("pipe", "it is a pipe, not a file"),
        ("to-pipe", "it is a pipe, not a file"),
        ("socket", "it is a socket, not a file"),
        ("to-device", "it is a device, not a file"),
        ("to-zero", "it is a device, not a file"),
        ("to-itself", "its links lead in a circle"),
        ("file/below", "a part of its path is not a folder"),
        ("state/jovrik/x", "Jovrik keeps its own files there"),
        ("config/jovrik/rice/x", "Jovrik keeps its own files there"),
    ] {
        let to = format!("~/{target}");
        place.rice("marsh", &[(&to, "art/tool")]);
        assert_eq!(place.refused("marsh"), format!("{to} is no place for a file of a rice: {said}"));
        // Check says the same, before anything is applied.
        let here = LocalHost::new(None, &place.home).of_rice(&place.at("marsh"));
        let checked = check(read_folder(&place.at("marsh")), &[], &here);
        let told = checked.problems.iter().find(|problem| problem.code == "place/target").expect("told");
        assert_eq!((told.marks[0].note.as_str(), checked.usable()), (said, false));
    }
    // What leads out of the home is left alone, unless that is asked for.
    for target in ["~/out", "~/way-out/x"] {
        place.rice("marsh", &[(target, "art/tool")]);
        let plan = place.plan("marsh", &ApplyConsent::default()).expect("planned");
        assert!(
            plan.outside.len() == 1 && plan.keeps() && !plan.files.iter().any(|file| file.path.starts_with("/srv")),
            "{plan:?}"
        );
    }
    // A link stays one, also where nothing is yet: its file is made where it points.
    place.rice("marsh", &[("~/dangling", "art/tool")]);
    place.apply("marsh", &ApplyConsent::default()).expect("applied");
    assert_eq!(place.read("kept/later").as_deref(), Some("of marsh\n"));
    assert!(place.at("dangling").symlink_metadata().expect("there").is_symlink());
    undo(&place.home, None, UndoRange::Steps(1)).expect("undone");
    assert!(place.at("dangling").symlink_metadata().expect("there").is_symlink() && !place.at("kept").exists());
    let rice = 6; // the rice's folder, two in it, and its three files
    assert_eq!(place.photograph().len(), before + rice, "{root}");
}

#[test]
fn a_file_outside_the_home_is_written_when_that_is_asked_for_each_time() {
    let place = place();
    let outside = crate::place();
    let to = outside.at("far").display().to_string();
    place.rice("marsh", &[(&to, "art/tool")]);
    let plan = place.apply("marsh", &ApplyConsent::default()).expect("applied");
    assert_eq!((plan.outside.as_slice(), outside.read("far")), (&[outside.at("far")][..], None));
    let allowed = ApplyConsent { outside: vec![outside.at("far")], ..ApplyConsent::default() };
    place.apply("marsh", &allowed).expect("applied");
    assert_eq!(outside.read("far").as_deref(), Some("of marsh\n"));
    let again = place.apply("marsh", &ApplyConsent::default()).expect("applied");
    assert!(again.keeps() && outside.read("far").is_some(), "it is neither written nor taken away");
}

#[test]
fn what_is_placed_never_comes_from_outside_the_rice() {
    let place = place();
    place.rice("marsh", &[("~/x", "art/way")]);
    place.put("secret", "of the person");
    symlink("../../secret", place.at("marsh/art/way")).expect("linked");
    let said = format!("art/way, for ~/x: its links lead out of the rice, to {}", place.at("secret").display());
    assert_eq!(place.refused("marsh"), said);
    std::fs::remove_file(place.at("marsh/art/way")).expect("removed");
    rustix::fs::mkfifoat(rustix::fs::CWD, place.at("marsh/art/way"), rustix::fs::Mode::RUSR).expect("made");
    assert_eq!(place.refused("marsh"), "art/way, for ~/x: it is a pipe, not a file");
    // Nor does what a check reads of it.
    place.rice("marsh", &[]);
    place.put("marsh/parts/b.toml", "[scope.mux]\nknown = \"art/keys.toml\"\n[backdrop]\npicture = \"art/way\"\n");
    place.put("keys.toml", "\"Ctrl+a\" = \"of the person\"\n");
    symlink("../../keys.toml", place.at("marsh/art/keys.toml")).expect("linked");
    let here = LocalHost::new(None, &place.home).of_rice(&place.at("marsh"));
    assert_eq!(here.source("art/keys.toml").map(|read| read.is_err()), Some(true));
    let checked = check(read_folder(&place.at("marsh")), &[], &here);
    assert!(checked.problems.iter().any(|problem| problem.code == "file/not-found"), "{:?}", checked.problems);
    assert!(checked.sources.named("art/keys.toml").is_none());
}
