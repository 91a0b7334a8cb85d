use jovrik_home::undo::{UndoPlan, UndoRange, plan_undo};
use jovrik_home::{EntryDraft, Error, History, TransactionManager};

use crate::{Place, place};

fn undo(place: &Place) -> Result<UndoPlan, Error> {
    jovrik_home::undo::undo(&place.home, None, UndoRange::Steps(1))
}

fn redo(place: &Place) -> Result<UndoPlan, Error> {
    jovrik_home::undo::redo(&place.home, None, 1)
}

/// What the entries of a turn had changed, in words.
fn what(turn: Result<UndoPlan, Error>) -> String {
    let words: Vec<String> = turn.expect("done").entries.into_iter().map(|entry| entry.what).collect();
    words.join(", ")
}

#[test]
fn undo_goes_back_step_by_step_and_redo_forward_until_something_new_is_done() {
    let place = place();
    place.write(&[("a", "1")], "one");
    place.write(&[("a", "2"), ("b", "new")], "two");
    place.write(&[("a", "3")], "three");
    assert_eq!(what(undo(&place)), "three");
    assert_eq!(what(undo(&place)), "two");
    assert_eq!((place.read("a"), place.read("b")), (Some("1".to_owned()), None));
    assert_eq!(what(redo(&place)), "two");
    assert_eq!((place.read("a"), place.read("b")), (Some("2".to_owned()), Some("new".to_owned())));
    place.write(&[("a", "4")], "four");
    assert!(matches!(redo(&place), Err(Error::NothingTo("redo"))), "something new was done");
    for words in ["four", "two", "one"] {
        assert_eq!(what(undo(&place)), words);
    }
    assert_eq!(place.read("a"), None, "what was not there is not there");
    assert!(matches!(undo(&place), Err(Error::NothingTo("undo"))));
}

#[test]
fn several_steps_are_taken_back_in_one_piece_also_up_to_an_entry() {
    let place = place();
    for (text, words) in [("1", "one"), ("2", "two"), ("3", "three"), ("4", "four")] {
        place.write(&[("a", text), (words, "x")], words);
    }
    let rice = place.at("rice");
    let planned = {
        let writer = TransactionManager::open(&place.home).expect("a writer");
        what(plan_undo(writer.history(), Some(&rice), UndoRange::Steps(2)))
    };
    assert_eq!((planned.as_str(), place.read("a").as_deref()), ("four, three", Some("4")), "a plan writes nothing");
    assert_eq!(what(jovrik_home::undo::undo(&place.home, Some(&rice), UndoRange::Steps(2))), "four, three");
    assert_eq!((place.read("a").as_deref(), place.read("three"), place.read("two").as_deref()), (Some("2"), None, Some("x")));
    assert_eq!(what(jovrik_home::undo::redo(&place.home, Some(&rice), 2)), "three, four");
    assert_eq!(what(jovrik_home::undo::undo(&place.home, Some(&rice), UndoRange::Since(1))), "four, three, two");
    assert_eq!((place.read("a").as_deref(), place.read("one").as_deref()), (Some("1"), Some("x")), "as it was right after 1");
    assert!(matches!(jovrik_home::undo::undo(&place.home, Some(&rice), UndoRange::Since(1)), Err(Error::NothingSince(1))));
    assert!(matches!(jovrik_home::undo::undo(&place.home, Some(&rice), UndoRange::Since(77)), Err(Error::NoEntry(77))));
}

#[test]
fn each_rice_has_a_history_of_its_own() {
    let place = place();
    place.write_for("marsh", &[("a", "1")], "marsh one");
    place.write_for("creek", &[("b", "1")], "creek one");
    place.write_for("marsh", &[("a", "2")], "marsh two");
    let of = |rice: &str| {
        let history = History::open(&place.home.history()).expect("a history");
        history.entries_of(&place.at(rice)).expect("entries").into_iter().map(|entry| entry.what).collect::<Vec<_>>()
    };
    assert_eq!((of("marsh"), of("creek")), (vec!["marsh two".into(), "marsh one".into()], vec!["creek one".to_owned()]));
    assert_eq!(what(jovrik_home::undo::undo(&place.home, Some(&place.at("creek")), UndoRange::Steps(1))), "creek one");
    place.write_for("marsh", &[("a", "3")], "marsh three");
    let again = jovrik_home::undo::redo(&place.home, Some(&place.at("creek")), 1);
    assert_eq!(what(again), "creek one", "what another rice does leaves it alone");
    // Where a later entry of another rice wrote over the same file, that one must go first.
    place.write_for("creek", &[("a", "creek")], "creek takes a");
    match jovrik_home::undo::undo(&place.home, Some(&place.at("marsh")), UndoRange::Steps(1)) {
        Err(Error::Later { entry, paths }) => assert_eq!((entry.what.as_str(), paths), ("creek takes a", vec![place.at("a")])),
        other => panic!("{other:?}"),
    }
    assert_eq!(what(undo(&place)), "creek takes a");
    assert_eq!(what(jovrik_home::undo::undo(&place.home, Some(&place.at("marsh")), UndoRange::Steps(1))), "marsh three");
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
    undo(&place).expect("undone");
    assert!(!place.at("x").exists());
    redo(&place).expect("redone");
    std::fs::write(place.at("x/y/mine"), "mine").expect("written");
    undo(&place).expect("undone");
    assert_eq!(place.read("x/y/mine").as_deref(), Some("mine"), "a folder that holds something stays");
}

#[test]
fn a_file_that_was_changed_since_is_not_overwritten() {
    let place = place();
    place.write(&[("a", "1"), ("b", "1")], "one");
    std::fs::write(place.at("a"), "mine").expect("written");
    match undo(&place) {
        Err(Error::ByHand(paths)) => assert_eq!(paths, [place.at("a")]),
        other => panic!("{other:?}"),
    }
    assert_eq!(place.read("b").as_deref(), Some("1"), "nothing at all was done");
}

#[test]
fn a_file_that_was_saved_between_reading_and_writing_is_not_written_over() {
    let place = place();
    place.put("a", "as it was read");
    let changes = place.changes(&[("a", Some("edited")), ("b", Some("new"))]);
    place.put("a", "saved meanwhile");
    let before = place.photograph();
    let tried = TransactionManager::open(&place.home).expect("a writer").write(&EntryDraft::default(), changes);
    assert!(matches!(&tried, Err(Error::ByHand(paths)) if *paths == [place.at("a")]), "{tried:?}");
    assert_eq!(place.photograph(), before, "nothing is written, and nothing is left");
}

#[test]
fn permissions_come_back_over_removing_and_undoing() {
    use std::os::unix::fs::PermissionsExt;
    let place = place();
    let mode = |name: &str| place.at(name).metadata().expect("there").permissions().mode() & 0o7777;
    place.put("secret", "old");
    std::fs::set_permissions(place.at("secret"), PermissionsExt::from_mode(0o600)).expect("set");
    let mut writer = TransactionManager::open(&place.home).expect("a writer");
    writer.write(&EntryDraft::default(), place.changes(&[("secret", None)])).expect("removed");
    drop(writer);
    undo(&place).expect("undone");
    assert_eq!((place.read("secret").as_deref(), mode("secret")), (Some("old"), 0o600));
    // What a person set later is what comes back when it is done again.
    place.write(&[("made", "new")], "made");
    std::fs::set_permissions(place.at("made"), PermissionsExt::from_mode(0o750)).expect("set");
    undo(&place).expect("undone");
    redo(&place).expect("redone");
    assert_eq!(mode("made"), 0o750);
}

#[test]
fn a_history_that_is_no_database_is_an_error_and_stays() {
    let place = place();
    std::fs::create_dir_all(place.at("state/jovrik")).expect("made");
    std::fs::write(place.home.history(), "not a database, but somebody's text, long enough to be read as a header")
        .expect("written");
    let tried = TransactionManager::open(&place.home);
    assert!(matches!(tried, Err(Error::Store(_))), "{tried:?}");
    assert!(place.read("state/jovrik/history.sqlite").is_some_and(|text| text.starts_with("not a database")));
}

#[test]
fn a_history_of_the_first_form_is_taken_over_and_a_newer_one_is_left_alone() {
    let place = place();
    std::fs::create_dir_all(place.at("state/jovrik")).expect("made");
    place.put("placed", "2");
    let store = rusqlite::Connection::open(place.home.history()).expect("a store");
    let (old, new) = (*blake3::hash(b"1").as_bytes(), *blake3::hash(b"2").as_bytes());
    store
        .execute_batch(
            "create table content (hash blob primary key, bytes blob not null) without rowid;
             create table entry (id integer primary key, time text not null, kind text not null, what text not null, note text,
                undone integer not null default 0, pending integer not null default 0);
             create table change (entry integer not null references entry, path blob not null,
                old blob references content, new blob references content);
             create table folder (entry integer not null references entry, path blob not null);
             pragma user_version = 1;
             insert into entry (id, time, kind, what) values (1, '2026-01-01T00:00:00Z', 'apply', 'long ago');",
        )
        .expect("made");
    for (hash, bytes) in [(old, b"1"), (new, b"2")] {
        store.execute("insert into content values (?1, ?2)", rusqlite::params![hash, bytes]).expect("kept");
    }
    let path = place.at("placed").display().to_string();
    store.execute("insert into change values (1, ?1, ?2, ?3)", rusqlite::params![path.as_bytes(), old, new]).expect("kept");
    drop(store);
    let history = History::open(&place.home.history()).expect("taken over");
    assert_eq!(history.placed().expect("paths"), [place.at("placed")]);
    drop(history);
    assert_eq!(what(undo(&place)), "long ago");
    assert_eq!(place.read("placed").as_deref(), Some("1"));
    let store = rusqlite::Connection::open(place.home.history()).expect("a store");
    store.pragma_update(None, "user_version", 9).expect("set");
    drop(store);
    assert!(matches!(TransactionManager::open(&place.home), Err(Error::NewerHistory(_))));
}
