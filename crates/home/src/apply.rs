//! Apply a rice to a home folder in one transaction, and take it back.
//!
//! Plan, stage beside each target, look again whether a target changed meanwhile, record, rename, mark as done. Ended
//! before the record the old state stands; after it the next writing command finishes the renames.

use std::collections::BTreeMap;
use std::fs::File;
use std::path::{Path, PathBuf};

use jovrik_core::check::Checked;

use crate::history::{FileChange, History};
use crate::place::{fill, inside};
use crate::write::{contents, resolved, stage_durably};
use crate::{Error, Home};

/// What becomes of one file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Fate {
    /// It was not there.
    New,
    /// It held something else.
    Changed,
    /// It is taken away: the rice no longer has it.
    Removed,
    /// A person changed it since the last apply; it stays as it is.
    Kept,
    /// It holds this already.
    Same,
}

/// One file of a plan.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PlannedFile {
    /// Where it goes, links followed.
    pub path: PathBuf,
    /// What becomes of it.
    pub fate: Fate,
    /// What it holds now.
    pub old: Option<Vec<u8>>,
    /// What it is to hold; nothing to take it away.
    pub new: Option<Vec<u8>>,
}

/// What an apply would do.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Plan {
    /// The files, by path.
    pub files: Vec<PlannedFile>,
}

impl Plan {
    /// The files of one fate.
    pub fn of(&self, fate: Fate) -> impl Iterator<Item = &PlannedFile> {
        self.files.iter().filter(move |file| file.fate == fate)
    }

    fn writes(&self) -> Vec<FileChange> {
        let written = self.files.iter().filter(|file| !matches!(file.fate, Fate::Kept | Fate::Same));
        written.map(|file| FileChange { path: file.path.clone(), old: file.old.clone(), new: file.new.clone() }).collect()
    }
}

/// The most that a rice's folder may hold.
const MOST_FILES: usize = 2000;
const MOST_BYTES: u64 = 64 * 1024 * 1024;

/// Whether a file beside `rice.toml` belongs to the rice: settings and words do, a picture or bundle that was made there
/// does not.
fn travels(name: &str) -> bool {
    matches!(Path::new(name).extension().and_then(|end| end.to_str()), None | Some("toml" | "md" | "txt"))
}

/// The files of a rice's folder that travel with it: path inside and bytes. Hidden ones and links stay, and what was made
/// beside `rice.toml`.
pub fn rice_files(folder: &Path) -> Result<BTreeMap<String, Vec<u8>>, Error> {
    let mut files = BTreeMap::new();
    let mut total = 0;
    let mut open = vec![(folder.to_owned(), String::new())];
    while let Some((path, name)) = open.pop() {
        for entry in std::fs::read_dir(&path).map_err(|error| Error::io(&path, &error))? {
            let entry = entry.map_err(|error| Error::io(&path, &error))?;
            let Ok(own) = entry.file_name().into_string() else { continue };
            let kind = entry.file_type().map_err(|error| Error::io(&entry.path(), &error))?;
            let made_here = name.is_empty() && kind.is_file() && !travels(&own);
            if own.starts_with('.') || own.ends_with('~') || made_here {
                continue;
            }
            let full = if name.is_empty() { own } else { format!("{name}/{own}") };
            if kind.is_dir() {
                open.push((entry.path(), full));
            } else if kind.is_file() {
                total += entry.metadata().map_err(|error| Error::io(&entry.path(), &error))?.len();
                if total > MOST_BYTES || files.len() >= MOST_FILES {
                    return Err(Error::Place(format!("the rice is too large: more than {MOST_FILES} files or 64 MiB")));
                }
                files.insert(full, std::fs::read(entry.path()).map_err(|error| Error::io(&entry.path(), &error))?);
            }
        }
    }
    Ok(files)
}

/// What a rice wants to stand where.
fn wanted(folder: &Path, checked: &Checked, home: &Home) -> Result<BTreeMap<PathBuf, Vec<u8>>, Error> {
    let mut wanted = BTreeMap::new();
    let target = home.rice();
    if resolved(folder) != resolved(&target) {
        let files = rice_files(folder)?;
        let target = resolved(&target);
        wanted.extend(files.into_iter().map(|(name, bytes)| (resolved(&target.join(name)), bytes)));
    }
    let own = [home.state.join("jovrik"), home.config.join("jovrik")];
    for (to, file) in checked.rice.place.0.iter() {
        let path = home
            .long(to)
            .ok_or_else(|| Error::Place(format!("{to} is no place for a file: write ~/… or an absolute path without ..")))?;
        let path = resolved(&path);
        if own.iter().any(|own| path.starts_with(own)) || path.is_dir() {
            return Err(Error::Place(format!("{to} is no place for a file of a rice")));
        }
        let from = inside(folder, &file.from)?;
        let bytes = std::fs::read(&from).map_err(|error| Error::io(&from, &error))?;
        let bytes = match String::from_utf8(bytes) {
            Ok(text) if file.fill => {
                fill(&text, checked).map_err(|error| Error::Place(format!("{}: {error}", file.from)))?.into_bytes()
            }
            Ok(text) => text.into_bytes(),
            Err(_) if file.fill => return Err(Error::Place(format!("{} is not UTF-8, so it cannot be filled", file.from))),
            Err(error) => error.into_bytes(),
        };
        wanted.insert(path, bytes);
    }
    Ok(wanted)
}

/// Plans an apply. Files in `take` are replaced though a person changed them.
pub fn plan(folder: &Path, checked: &Checked, home: &Home, take: &[PathBuf]) -> Result<Plan, Error> {
    let history = History::open_existing(&home.history())?;
    let last_left = |path: &Path| history.as_ref().map_or(Ok(None), |history| history.last_left(path));
    let mut files = Vec::new();
    let wanted = wanted(folder, checked, home)?;
    let taken: Vec<PathBuf> = take.iter().map(|path| resolved(path)).collect();
    let by_hand = |path: &Path, old: &Option<Vec<u8>>| -> Result<bool, Error> {
        let now = old.as_ref().map(|bytes| *blake3::hash(bytes).as_bytes());
        Ok(last_left(path)?.is_some_and(|left| left != now) && !taken.contains(&path.to_owned()))
    };
    for (path, new) in &wanted {
        let old = contents(path)?;
        let fate = match &old {
            Some(old) if old == new => Fate::Same,
            _ if by_hand(path, &old)? => Fate::Kept,
            Some(_) => Fate::Changed,
            None => Fate::New,
        };
        files.push(PlannedFile { path: path.clone(), fate, old, new: Some(new.clone()) });
    }
    for path in history.as_ref().map_or(Ok(Vec::new()), History::applied_paths)? {
        let in_rice = resolved(folder) == resolved(&home.rice()) && path.starts_with(resolved(&home.rice()));
        if wanted.contains_key(&path) || in_rice {
            continue;
        }
        let old = contents(&path)?;
        // What the last apply left and the rice no longer has.
        if old.is_some() && last_left(&path)?.flatten().is_some() {
            let fate = if by_hand(&path, &old)? { Fate::Kept } else { Fate::Removed };
            files.push(PlannedFile { path, fate, old, new: None });
        }
    }
    files.sort_by(|a, b| a.path.cmp(&b.path));
    Ok(Plan { files })
}

/// Keeps two applies apart.
fn lock(home: &Home) -> Result<File, Error> {
    let folder = home.state.join("jovrik");
    std::fs::create_dir_all(&folder).map_err(|error| Error::io(&folder, &error))?;
    let path = folder.join("lock");
    let file = File::options().create(true).append(true).open(&path).map_err(|error| Error::io(&path, &error))?;
    rustix::fs::flock(&file, rustix::fs::FlockOperation::NonBlockingLockExclusive).map_err(|_| Error::Busy)?;
    Ok(file)
}

/// Carries a plan out; the number of its entry, or nothing when there was nothing to do.
pub fn run(plan: &Plan, home: &Home, kind: &str, what: &str, note: Option<&str>) -> Result<Option<i64>, Error> {
    let changes = plan.writes();
    if changes.is_empty() {
        return Ok(None);
    }
    let _lock = lock(home)?;
    let mut history = History::open(&home.history())?;
    recover(&mut history)?;
    let mut folders = Vec::new();
    for change in &changes {
        make_folders(&change.path, &mut folders)?;
    }
    let done = record_and_write(&mut history, kind, what, note, &changes, &folders);
    if done.is_err() {
        remove_folders(&folders);
    }
    done.map(Some)
}

fn record_and_write(
    history: &mut History,
    kind: &str,
    what: &str,
    note: Option<&str>,
    changes: &[FileChange],
    folders: &[PathBuf],
) -> Result<i64, Error> {
    let mut staged = Vec::new();
    for change in changes {
        staged.push(change.new.as_ref().map(|bytes| stage_durably(&change.path, bytes)).transpose()?);
    }
    let meanwhile: Vec<PathBuf> = changes
        .iter()
        .filter(|change| contents(&change.path).ok() != Some(change.old.clone()))
        .map(|change| change.path.clone())
        .collect();
    if !meanwhile.is_empty() {
        return Err(Error::ByHand(meanwhile));
    }
    let id = history.begin(kind, what, note, changes, folders)?;
    for (change, staged) in changes.iter().zip(staged) {
        match staged {
            Some(file) => {
                file.persist(&change.path).map_err(|error| Error::io(&change.path, &error.error))?;
            }
            None => std::fs::remove_file(&change.path).map_err(|error| Error::io(&change.path, &error))?,
        }
    }
    history.finish(id)?;
    Ok(id)
}

/// Finishes what a killed apply had recorded; every target ends as it was meant to.
fn recover(history: &mut History) -> Result<(), Error> {
    let pending: Vec<i64> = history.entries()?.into_iter().filter(|entry| entry.pending).map(|entry| entry.id).collect();
    for id in pending {
        for change in history.changes(id)? {
            let now = contents(&change.path)?;
            if now == change.old && now != change.new {
                put(&change.path, change.new.as_deref())?;
            }
        }
        history.finish(id)?;
    }
    Ok(())
}

fn put(path: &Path, bytes: Option<&[u8]>) -> Result<(), Error> {
    match bytes {
        Some(bytes) => {
            make_folders(path, &mut Vec::new())?;
            let file = stage_durably(path, bytes)?;
            file.persist(path).map_err(|error| Error::io(path, &error.error))?;
        }
        None if path.exists() => std::fs::remove_file(path).map_err(|error| Error::io(path, &error))?,
        None => {}
    }
    Ok(())
}

fn make_folders(path: &Path, made: &mut Vec<PathBuf>) -> Result<(), Error> {
    let Some(parent) = path.parent() else { return Ok(()) };
    let mut missing: Vec<&Path> = parent.ancestors().take_while(|folder| !folder.exists()).collect();
    missing.reverse();
    for folder in missing {
        std::fs::create_dir(folder).map_err(|error| Error::io(folder, &error))?;
        made.push(folder.to_owned());
    }
    Ok(())
}

fn remove_folders(folders: &[PathBuf]) {
    for folder in folders.iter().rev() {
        // A folder that holds something by now stays.
        let _ = std::fs::remove_dir(folder);
    }
}

/// What an undo or redo did.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TakenBack {
    /// The entry.
    pub id: i64,
    /// What it had changed, in words.
    pub what: String,
    /// The files that were put back, removed or written again.
    pub files: Vec<PathBuf>,
}

/// Takes back the last entry that still holds, byte for byte.
pub fn undo(home: &Home) -> Result<TakenBack, Error> {
    turn(home, true)
}

/// Does again what was taken back last.
pub fn redo(home: &Home) -> Result<TakenBack, Error> {
    turn(home, false)
}

fn turn(home: &Home, back: bool) -> Result<TakenBack, Error> {
    let nothing = Error::NothingTo(if back { "undo" } else { "redo" });
    if !home.history().exists() {
        return Err(nothing);
    }
    let _lock = lock(home)?;
    let mut history = History::open(&home.history())?;
    recover(&mut history)?;
    let entries = history.entries()?;
    let found = if back { entries.iter().find(|entry| !entry.undone) } else { entries.iter().rev().find(|entry| entry.undone) };
    let Some(entry) = found else { return Err(nothing) };
    let changes = history.changes(entry.id)?;
    let sides = |change: &FileChange| {
        if back { (change.new.clone(), change.old.clone()) } else { (change.old.clone(), change.new.clone()) }
    };
    let mut by_hand = Vec::new();
    for change in &changes {
        let now = contents(&change.path)?;
        let (from, to) = sides(change);
        if now != from && now != to {
            by_hand.push(change.path.clone());
        }
    }
    if !by_hand.is_empty() {
        return Err(Error::ByHand(by_hand));
    }
    let folders = history.folders(entry.id)?;
    for change in &changes {
        put(&change.path, sides(change).1.as_deref())?;
    }
    if back {
        remove_folders(&folders);
    }
    history.mark(entry.id, back)?;
    Ok(TakenBack { id: entry.id, what: entry.what.clone(), files: changes.into_iter().map(|change| change.path).collect() })
}

/// Records what a person did to files by hand: nothing is written but the history. What an entry left as it is now, or what
/// is just the taking back of one, is known already. The number of the entry, if there is one.
pub fn record(changes: Vec<FileChange>, home: &Home, kind: &str, what: &str) -> Result<Option<i64>, Error> {
    let _lock = lock(home)?;
    let mut history = History::open(&home.history())?;
    let mut news = Vec::new();
    for change in changes {
        let change = FileChange { path: resolved(&change.path), ..change };
        let now = change.new.as_ref().map(|bytes| *blake3::hash(bytes).as_bytes());
        if history.last_left(&change.path)? != Some(now) && !history.took_back(&change)? {
            news.push(change);
        }
    }
    if news.is_empty() {
        return Ok(None);
    }
    let id = history.begin(kind, what, None, &news, &[])?;
    history.finish(id)?;
    Ok(Some(id))
}

/// Records and writes files that another command changed, such as `set`.
pub fn write_recorded(files: &[(PathBuf, Vec<u8>)], home: &Home, kind: &str, what: &str) -> Result<Option<i64>, Error> {
    let mut plan = Plan::default();
    for (path, bytes) in files {
        let path = resolved(path);
        let old = contents(&path)?;
        let fate = if old.as_ref() == Some(bytes) { Fate::Same } else { Fate::Changed };
        plan.files.push(PlannedFile { path, fate, old, new: Some(bytes.clone()) });
    }
    run(&plan, home, kind, what, None)
}
