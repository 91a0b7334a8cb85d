//! A command that is ended, or fails, at any of its steps leaves the old state or the new one, whole.

use std::cell::Cell;
use std::io;
use std::path::PathBuf;
use std::rc::Rc;

use jovrik_core::check::{UnknownHost, check};
use jovrik_home::apply::{ApplyConsent, carry_out, plan};
use jovrik_home::edit::set;
use jovrik_home::undo::{UndoRange, plan_redo, plan_undo};
use jovrik_home::{Disk, DiskOp, EntryDraft, Error, FileTexts, HistoryEntry, TransactionManager, adopt, read_folder, resolved};

use crate::{Place, place};

/// How a step goes wrong.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Fault {
    /// The process ends: nothing after it is done.
    End,
    /// This one step fails, as on a full disk.
    Full,
    /// This one step fails, as on a broken disk.
    Broken,
    /// This step and everything after it that needs room fails.
    StaysFull,
}

/// A disk on which a step goes wrong, and how many steps were begun.
fn disk(at: usize, fault: Fault) -> (Disk, Rc<Cell<usize>>) {
    let begun = Rc::new(Cell::new(0));
    let counter = begun.clone();
    let disk = Disk::with_faults(move |step| {
        let now = counter.get();
        counter.set(now + 1);
        let needs_room = matches!(step, DiskOp::MakeFolder | DiskOp::MakeFile | DiskOp::Write | DiskOp::Store);
        let fails = match fault {
            Fault::End => now >= at,
            Fault::Full | Fault::Broken => now == at,
            Fault::StaysFull => now >= at && needs_room,
        };
        // EIO and ENOSPC.
        let number = if fault == Fault::Broken { 5 } else { 28 };
        if fails { Err(io::Error::from_raw_os_error(number)) } else { Ok(()) }
    });
    (disk, begun)
}

const RICE: &[(&str, &str)] = &[
    ("rice/rice.toml", "[rice]\nname = \"trial\"\n"),
    ("rice/parts/a.toml", "[space]\nedge = 1\n[place]\n\"~/.toolrc\" = \"art/tool\"\n\"~/deep/er/new\" = \"art/tool\"\n"),
    ("rice/art/tool", "placed\n"),
];

/// Applies the rice in `rice`.
fn apply(place: &Place, disk: Disk) -> Result<(), Error> {
    let mut writer = TransactionManager::open_on(&place.home, disk)?;
    let folder = place.at("rice");
    let checked = check(read_folder(&folder), &[], &UnknownHost);
    assert_eq!(checked.errors(), 0, "{:?}", checked.problems);
    let leave = ApplyConsent { take_all: true, ..ApplyConsent::default() };
    let plan = plan(&folder, &FileTexts::new(), &checked, &place.home, writer.history(), &leave)?;
    let about = EntryDraft { kind: "apply", what: "trial", note: None, rice: Some(&folder) };
    carry_out(&plan, &mut writer, &about).map(drop)
}

fn turn(place: &Place, disk: Disk, back: bool, steps: usize) -> Result<(), Error> {
    let mut writer = TransactionManager::open_on(&place.home, disk)?;
    let turn = match back {
        true => plan_undo(writer.history(), None, UndoRange::Steps(steps))?,
        false => plan_redo(writer.history(), None, steps)?,
    };
    turn.carry_out(&mut writer)
}

/// A home with files of its own: one that will be written over through a link, one that is nobody's business.
fn fresh() -> Place {
    use std::os::unix::fs::PermissionsExt;
    let place = place();
    RICE.iter().for_each(|(name, text)| place.put(name, text));
    place.put("real-toolrc", "mine\r\nno end");
    std::fs::set_permissions(place.at("real-toolrc"), PermissionsExt::from_mode(0o640)).expect("set");
    std::os::unix::fs::symlink("real-toolrc", place.at(".toolrc")).expect("linked");
    place.put("neighbour", "stays");
    place
}

fn applied() -> Place {
    let place = fresh();
    apply(&place, Disk::default()).expect("applied");
    place
}

fn changed() -> Place {
    let place = applied();
    place.put("rice/parts/a.toml", "[space]\nedge = 2\n[place]\n\"~/.toolrc\" = \"art/tool\"\n");
    place.put("rice/parts/b.toml", "[frame]\nwidth = 3\n");
    place.put("rice/art/tool", "placed anew\n");
    place
}

fn taken_back() -> Place {
    let place = changed();
    apply(&place, Disk::default()).expect("applied");
    turn(&place, Disk::default(), true, 2).expect("undone");
    place
}

/// A command, and the home that it finds.
type Scenario = (&'static str, fn() -> Place, fn(&Place, Disk) -> Result<(), Error>);

const SCENARIOS: &[Scenario] = &[
    ("the first apply", fresh, apply),
    ("an apply that changes, adds and removes", changed, apply),
    ("undo", applied, |place, disk| turn(place, disk, true, 1)),
    (
        "undo of two",
        || {
            let place = changed();
            apply(&place, Disk::default()).expect("applied");
            place
        },
        |place, disk| turn(place, disk, true, 2),
    ),
    ("redo", taken_back, |place, disk| turn(place, disk, false, 1)),
    ("set, after something was taken back", taken_back, |place, disk| {
        let mut writer = TransactionManager::open_on(&place.home, disk)?;
        let folder = place.at("rice");
        let files = read_folder(&folder);
        let planned = set(|| files.clone(), "space.edge", "7", None, &UnknownHost)?;
        let about = EntryDraft { kind: "set", what: &planned.what(), note: None, rice: Some(&folder) };
        writer.write(&about, planned.writes(&folder)?).map(drop)
    }),
    ("adopt", fresh, |place, disk| {
        let mut writer = TransactionManager::open_on(&place.home, disk)?;
        let adopted = adopt::read(&place.at("rice"), &UnknownHost)?;
        let to = place.at("far/away");
        let about = EntryDraft { kind: "adopt", what: "trial", note: None, rice: Some(&to) };
        writer.write(&about, adopt::writes(&adopted, &to)?).map(drop)
    }),
];

/// What is compared: the files, and what the history says.
type State = (Vec<(PathBuf, u32, String)>, Vec<HistoryEntry>);

/// Paths without the folder that is this home's alone, times left out.
fn state(place: &Place) -> State {
    let root = place.at("");
    let short = |path: PathBuf| path.strip_prefix(&root).map(std::path::Path::to_owned).unwrap_or(path);
    let files = place
        .photograph()
        .into_iter()
        .map(|(path, mode, bytes)| (short(path), mode, String::from_utf8_lossy(&bytes).into()))
        .collect();
    let history = jovrik_home::History::open(&place.home.history()).expect("a history");
    assert!(!history.unfinished().expect("told"), "nothing is left to do");
    let entry = |entry: HistoryEntry| HistoryEntry { time: String::new(), rice: entry.rice.map(short), ..entry };
    (files, history.entries().expect("entries").into_iter().map(entry).collect())
}

/// The state before and after, and how many steps it takes.
fn measure((_, prepare, command): &Scenario) -> (State, State, usize) {
    let place = prepare();
    TransactionManager::open(&place.home).expect("a writer");
    let before = state(&place);
    let (disk, begun) = disk(usize::MAX, Fault::End);
    command(&place, disk).expect("it works");
    (before, state(&place), begun.get())
}

#[test]
fn a_command_that_is_ended_or_fails_at_any_step_leaves_the_old_state_or_the_new() {
    for scenario in SCENARIOS {
        let (before, after, steps) = measure(scenario);
        let (name, prepare, command) = scenario;
        assert!(before != after && steps >= 8, "{name}: {steps}");
        let mut seen = [0, 0];
        for fault in [Fault::End, Fault::Full, Fault::Broken, Fault::StaysFull] {
            for at in 0..steps {
                let place = prepare();
                let (disk, _) = disk(at, fault);
                let said = command(&place, disk);
                // The next command that writes sees to it.
                TransactionManager::open(&place.home).expect("a writer");
                let found = state(&place);
                let new = found == after;
                seen[usize::from(new)] += 1;
                assert!(new || found == before, "{name}, {fault:?} at step {at} of {steps}: {said:?}\n{found:#?}");
                assert!(new || said.is_err(), "{name}, {fault:?} at step {at}: it said that it was done");
                if fault != Fault::End && said.is_err() {
                    assert!(found == before, "{name}, {fault:?} at step {at}: it failed, and nothing is done: {said:?}");
                }
            }
        }
        assert!(seen[0] > 0 && seen[1] > 0, "{name}: both ends were seen: {seen:?}");
    }
}

#[test]
fn what_sees_to_it_may_be_ended_as_well() {
    for scenario in SCENARIOS.iter().filter(|(name, ..)| ["undo", "set, after something was taken back"].contains(name)) {
        let (before, after, steps) = measure(scenario);
        let (name, prepare, command) = scenario;
        for at in 0..steps {
            for second in 0.. {
                let place = prepare();
                let _ = command(&place, disk(at, Fault::End).0);
                let (again, begun) = disk(second, Fault::End);
                let _ = TransactionManager::open_on(&place.home, again);
                if begun.get() <= second {
                    break;
                }
                TransactionManager::open(&place.home).expect("a writer");
                let found = state(&place);
                assert!(found == after || found == before, "{name}, ended at {at} and at {second}:\n{found:#?}");
            }
        }
    }
}

#[test]
fn what_a_person_wrote_while_a_command_lay_unfinished_stays() {
    let scenario = &SCENARIOS[2];
    let (_, _, steps) = measure(scenario);
    // Ended right before the last renames.
    let place = applied();
    let _ = turn(&place, disk(steps - 6, Fault::End).0, true, 1);
    place.put("real-toolrc", "written meanwhile");
    TransactionManager::open(&place.home).expect("a writer");
    assert_eq!(place.read("real-toolrc").as_deref(), Some("written meanwhile"));
    assert!(!place.photograph().iter().any(|(path, ..)| path.display().to_string().contains(".jovrik-")), "no litter");
}

#[test]
fn a_target_that_can_no_longer_be_written_takes_all_of_it_back() {
    let place = fresh();
    place.write(&[("x/a", "1"), ("x/b", "1")], "one");
    let before = place.photograph();
    // The commit is made; then the second file cannot be renamed.
    let renames = Rc::new(Cell::new(0));
    let counter = renames.clone();
    let disk = Disk::with_faults(move |step| {
        counter.set(counter.get() + usize::from(step == DiskOp::Rename));
        let fails = step == DiskOp::Rename && counter.get() == 2;
        if fails { Err(io::Error::from_raw_os_error(1)) } else { Ok(()) }
    });
    let mut writer = TransactionManager::open_on(&place.home, disk).expect("a writer");
    let tried = writer.write(&EntryDraft::default(), place.changes(&[("x/a", Some("2")), ("x/b", Some("2"))]));
    assert!(matches!(&tried, Err(Error::File { path, .. }) if *path == place.at("x/b")), "{tried:?}");
    assert_eq!(place.photograph(), before);
    assert_eq!(writer.history().expect("a history").entries().expect("entries").len(), 1);
}

#[test]
fn folders_on_the_way_may_be_links_and_a_dangling_link_gets_its_file_where_it_points() {
    let place = place();
    std::fs::create_dir(place.at("real")).expect("made");
    std::os::unix::fs::symlink("real", place.at("folder")).expect("linked");
    std::os::unix::fs::symlink("../real/later", place.at("real/dangling")).expect("linked");
    assert_eq!(resolved(&place.at("folder/dangling")).expect("told"), place.at("real/later"));
    assert_eq!(resolved(&place.at("folder/none/deep")).expect("told"), place.at("real/none/deep"));
    std::os::unix::fs::symlink("b", place.at("a")).expect("linked");
    std::os::unix::fs::symlink("a", place.at("b")).expect("linked");
    assert!(matches!(resolved(&place.at("a")), Err(Error::File { why, .. }) if why == "its links lead in a circle"));
}
