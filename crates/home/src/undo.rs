//! Taking back what was done, and doing it again: for one rice or for all.

use std::collections::HashMap;
use std::path::{Path, PathBuf};

use crate::file::{FileSnapshot, kept};
use crate::history::{FileChange, History, HistoryEntry};
use crate::transaction::TransactionManager;
use crate::{Error, UserDirs};

/// How far back.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum UndoRange {
    /// So many entries that hold.
    Steps(usize),
    /// Everything that came after an entry.
    Since(i64),
}

/// What an undo or a redo does.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UndoPlan {
    /// The entries, in the order in which they are turned.
    pub entries: Vec<HistoryEntry>,
    /// The files that are put back, removed or written again, as they were before and as they are after.
    pub files: Vec<FileChange>,
    /// Folders that go when they are empty.
    leaving: Vec<PathBuf>,
    undone: bool,
}

fn bytes(kept: &Option<FileSnapshot>) -> Option<&Vec<u8>> {
    kept.as_ref().map(|kept| &kept.bytes)
}

/// Plans an undo; of one rice, when its folder is given.
pub fn plan_undo(history: Option<&History>, rice: Option<&Path>, far: UndoRange) -> Result<UndoPlan, Error> {
    plan(history, rice, far, true)
}

/// Plans a redo of so many entries.
pub fn plan_redo(history: Option<&History>, rice: Option<&Path>, steps: usize) -> Result<UndoPlan, Error> {
    plan(history, rice, UndoRange::Steps(steps), false)
}

fn plan(history: Option<&History>, rice: Option<&Path>, far: UndoRange, back: bool) -> Result<UndoPlan, Error> {
    let nothing = Error::NothingTo(if back { "undo" } else { "redo" });
    let Some(history) = history else { return Err(nothing) };
    let mut entries = match rice {
        Some(rice) => history.entries_of(rice)?,
        None => history.entries()?,
    };
    if let UndoRange::Since(id) = far
        && !entries.iter().any(|entry| entry.id == id)
    {
        return Err(Error::NoEntry(id));
    }
    entries.retain(|entry| entry.undone != back);
    if !back {
        entries.reverse();
    }
    match far {
        UndoRange::Steps(steps) => entries.truncate(steps),
        UndoRange::Since(id) => entries.retain(|entry| entry.id > id),
    }
    if entries.is_empty() {
        return Err(match far {
            UndoRange::Since(id) => Error::NothingSince(id),
            UndoRange::Steps(_) => nothing,
        });
    }
    let mut files: Vec<FileChange> = Vec::new();
    let mut at: HashMap<PathBuf, usize> = HashMap::new();
    let mut by_hand = Vec::new();
    let mut leaving = Vec::new();
    for entry in &entries {
        for change in history.changes(entry.id)? {
            let (from, to) = if back { (change.new, change.old) } else { (change.old, change.new) };
            // What stands there, or what the entry before this one will leave there.
            let index = match at.get(&change.path) {
                Some(index) => *index,
                None => {
                    let old = kept(&change.path)?;
                    files.push(FileChange { path: change.path.clone(), new: old.clone(), old, placed: None });
                    at.insert(change.path.clone(), files.len() - 1);
                    files.len() - 1
                }
            };
            let file = &mut files[index];
            let now = bytes(&file.new);
            if now != bytes(&from) && now != bytes(&to) {
                by_hand.push(change.path.clone());
            }
            file.new = to;
        }
        if back {
            leaving.extend(history.folders(entry.id)?);
        }
    }
    by_hand.sort();
    by_hand.dedup();
    if !by_hand.is_empty() {
        let last = entries.first().map_or(0, |entry| entry.id);
        return Err(match history.later(last, &by_hand)?.filter(|_| back) {
            Some(entry) => Error::Later { entry: Box::new(entry), paths: by_hand },
            None => Error::ByHand(by_hand),
        });
    }
    leaving.sort();
    leaving.dedup();
    for file in &mut files {
        // What is there keeps its permissions; what comes back has those that it had.
        if let (Some(new), Some(old)) = (&mut file.new, &file.old) {
            new.facts = old.facts;
        }
    }
    Ok(UndoPlan { entries, files, leaving, undone: back })
}

fn carry_out(home: &UserDirs, plan: impl FnOnce(Option<&History>) -> Result<UndoPlan, Error>) -> Result<UndoPlan, Error> {
    let mut writer = TransactionManager::open(home)?;
    let turn = plan(writer.history())?;
    turn.carry_out(&mut writer)?;
    Ok(turn)
}

impl UndoPlan {
    /// Does it: all of it or nothing.
    pub fn carry_out(&self, writer: &mut TransactionManager) -> Result<(), Error> {
        let changed: Vec<FileChange> = self.files.iter().filter(|file| bytes(&file.old) != bytes(&file.new)).cloned().collect();
        writer.turn(&self.entries, self.undone, &changed, &self.leaving)
    }
}

/// Takes back, byte for byte; of one rice, when its folder is given.
pub fn undo(home: &UserDirs, rice: Option<&Path>, far: UndoRange) -> Result<UndoPlan, Error> {
    carry_out(home, |history| plan_undo(history, rice, far))
}

/// Does again what was taken back last.
pub fn redo(home: &UserDirs, rice: Option<&Path>, steps: usize) -> Result<UndoPlan, Error> {
    carry_out(home, |history| plan_redo(history, rice, steps))
}
