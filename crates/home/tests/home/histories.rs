use std::path::PathBuf;

use jovrik_home::apply::{redo, undo, write_recorded};
use jovrik_home::{Error, History, Home};

struct Place {
    folder: tempfile::TempDir,
    home: Home,
}

fn place() -> Place {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().to_owned();
    let home = Home { config: path.join("config"), state: path.join("state"), runtime: path.join("run"), home: path };
    Place { folder, home }
}

impl Place {
    fn at(&self, name: &str) -> PathBuf {
        std::fs::canonicalize(self.folder.path()).expect("there").join(name)
    }

    fn write(&self, files: &[(&str, &str)], what: &str) -> Option<i64> {
        let files: Vec<(PathBuf, Vec<u8>)> = files.iter().map(|(name, text)| (self.at(name), text.as_bytes().to_vec())).collect();
        write_recorded(&files, &self.home, "set", what).expect("written")
    }

    fn read(&self, name: &str) -> Option<String> {
        std::fs::read_to_string(self.at(name)).ok()
    }
}

#[test]
fn undo_goes_back_step_by_step_and_redo_forward_until_something_new_is_done() {
    let place = place();
    place.write(&[("a", "1")], "one");
    place.write(&[("a", "2"), ("b", "new")], "two");
    place.write(&[("a", "3")], "three");
    assert_eq!(undo(&place.home).expect("undone").what, "three");
    assert_eq!(undo(&place.home).expect("undone").what, "two");
    assert_eq!((place.read("a"), place.read("b")), (Some("1".to_owned()), None));
    assert_eq!(redo(&place.home).expect("redone").what, "two");
    assert_eq!((place.read("a"), place.read("b")), (Some("2".to_owned()), Some("new".to_owned())));
    place.write(&[("a", "4")], "four");
    assert!(matches!(redo(&place.home), Err(Error::NothingTo("redo"))), "something new was done");
    for what in ["four", "two", "one"] {
        assert_eq!(undo(&place.home).expect("undone").what, what);
    }
    assert_eq!(place.read("a"), None, "what was not there is not there");
    assert!(matches!(undo(&place.home), Err(Error::NothingTo("undo"))));
}

#[test]
fn nothing_is_recorded_when_nothing_changes() {
    let place = place();
    assert!(place.write(&[("a", "1")], "one").is_some());
    assert_eq!(place.write(&[("a", "1")], "again"), None);
    let history = History::open(&place.home.history()).expect("a history");
    assert_eq!(history.entries().expect("entries").len(), 1);
}

#[test]
fn contents_are_stored_once_and_folders_that_were_made_go_again() {
    let place = place();
    let text = "tide".repeat(10_000);
    place.write(&[("x/y/a", &text), ("x/y/b", &text)], "twice");
    let store = rusqlite::Connection::open(place.home.history()).expect("a store");
    let count: i64 = store.query_row("select count(*) from content", [], |row| row.get(0)).expect("a number");
    assert_eq!(count, 1);
    undo(&place.home).expect("undone");
    assert!(!place.at("x").exists());
    redo(&place.home).expect("redone");
    std::fs::write(place.at("x/y/mine"), "mine").expect("written");
    undo(&place.home).expect("undone");
    assert_eq!(place.read("x/y/mine").as_deref(), Some("mine"), "a folder that holds something stays");
}

#[test]
fn a_file_that_was_changed_since_is_not_overwritten() {
    let place = place();
    place.write(&[("a", "1"), ("b", "1")], "one");
    std::fs::write(place.at("a"), "mine").expect("written");
    match undo(&place.home) {
        Err(Error::ByHand(paths)) => assert_eq!(paths, [place.at("a")]),
        other => panic!("{other:?}"),
    }
    assert_eq!(place.read("b").as_deref(), Some("1"), "nothing at all was done");
}

#[test]
fn a_history_that_is_no_database_is_an_error_and_stays() {
    let place = place();
    std::fs::create_dir_all(place.at("state/jovrik")).expect("made");
    std::fs::write(place.home.history(), "not a database, but somebody's text, long enough to be read as a header")
        .expect("written");
    let tried = write_recorded(&[(place.at("a"), b"1".to_vec())], &place.home, "set", "x");
    assert!(matches!(tried, Err(Error::Store(_))), "{tried:?}");
    assert_eq!(place.read("a"), None);
    assert!(place.read("state/jovrik/history.sqlite").is_some_and(|text| text.starts_with("not a database")));
}
