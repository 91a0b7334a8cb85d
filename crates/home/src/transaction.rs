//! The one way in which everything is written that can be taken back: apply, every edit of a rice, adopt, undo, redo.
//!
//! What is about to be written is put down in the history first, with the names of all files and folders that come up on the
//! way. Then the new files are laid beside their targets, the targets are looked at again, the entry is made (the commit),
//! and the files are renamed into place. Ended before the commit, the next command that writes clears up; ended after it,
//! that command goes on. So there is the old state or the new one, whole, and the history says which.

use std::collections::BTreeSet;
use std::fs::File;
use std::path::{Path, PathBuf};
use std::time::Duration;

use jovrik_core::check::CapabilityUse;
use jovrik_file::{Folder, append_private, private_folder};
use rusqlite::params;

use crate::disk::Disk;
use crate::file::{FileSnapshot, There, facts_at, there};
use crate::history::{
    EntryDraft, FileChange, History, HistoryEntry, LOCK_TIMEOUT, bytes_of, facts_text, forget_undone, insert_entry, keep,
    kept_of, path_of,
};
use crate::{Error, UserDirs};

/// The work that is going on: at most one, since whoever writes holds the lock.
pub(crate) const TABLES: &str = "
create table if not exists work (id integer primary key check (id = 1), state integer not null, rice blob, entry integer);
create table if not exists work_turn (entry integer not null, undone integer not null);
create table if not exists work_step (
    path blob not null, temp blob, old blob references content, old_facts text, new blob references content, new_facts text);
create table if not exists work_folder (path blob not null, made integer not null);
";

/// The new files are being laid beside their targets; the entry is not made.
const LAYING: i64 = 0;
/// The entry is made; files are renamed into place.
const COMMITTED: i64 = 1;
/// It failed after the commit, and what was done is taken back.
const TAKING_BACK: i64 = 2;

/// One file of the work.
#[derive(Debug)]
struct StagedFile {
    path: PathBuf,
    /// Where the new file lies until it is renamed.
    temp: PathBuf,
    old: Option<FileSnapshot>,
    new: Option<FileSnapshot>,
}

impl StagedFile {
    fn folder(&self) -> &Path {
        self.path.parent().unwrap_or(Path::new("/"))
    }
}

/// What is done: something new, or entries that are taken back or done again.
enum Job<'a> {
    Write(&'a EntryDraft<'a>),
    Turn { entries: &'a [HistoryEntry], undone: bool },
}

/// Whoever writes: holds the lock, has finished what was left by one that was ended, and keeps the history.
///
/// In a home where nothing was written yet, nothing is made before something is.
#[derive(Debug)]
pub struct TransactionManager {
    /// Closed before the lock is let go of.
    work: Option<Journal>,
    home: UserDirs,
    disk: Disk,
    /// How long it waits for another one that has the history.
    patience: Duration,
    _lock: Lock,
}

/// The history, and the work that it keeps.
#[derive(Debug)]
struct Journal {
    history: History,
    disk: Disk,
}

fn same(a: &Option<FileSnapshot>, b: &Option<FileSnapshot>) -> bool {
    a.as_ref().map(|kept| &kept.bytes) == b.as_ref().map(|kept| &kept.bytes)
}

/// How often the lock is asked for, every 20 ms.
const MAX_LOCK_TRIES: usize = 50;

/// What keeps two writers apart. Where nothing was written yet it leaves nothing behind.
#[derive(Debug)]
struct Lock {
    file: File,
    path: PathBuf,
    history: PathBuf,
    /// Folders that were made for it, outermost first.
    made: Vec<PathBuf>,
}

impl Lock {
    fn take(home: &UserDirs, tries: usize) -> Result<Lock, Error> {
        let folder = home.state.join("jovrik");
        let mut made: Vec<PathBuf> = folder.ancestors().take_while(|folder| !folder.exists()).map(Path::to_owned).collect();
        made.reverse();
        private_folder(&folder).map_err(|error| Error::io(&folder, &error))?;
        let path = folder.join("lock");
        // Another one is mostly done in a moment, such as a key that is pressed twice.
        for nth in 0..tries {
            let file = append_private(&path).map_err(|error| Error::io(&path, &error))?;
            let taken = file.try_lock().is_ok();
            // Whoever had it may have taken the file away meanwhile.
            if taken && same_file(&file, &path) {
                return Ok(Lock { file, path, history: home.history(), made });
            }
            if nth + 1 < tries {
                std::thread::sleep(std::time::Duration::from_millis(20));
            }
        }
        Err(Error::Busy)
    }
}

impl Drop for Lock {
    fn drop(&mut self) {
        if !self.history.exists() && same_file(&self.file, &self.path) {
            let _ = std::fs::remove_file(&self.path);
            self.made.iter().rev().for_each(|folder| drop(std::fs::remove_dir(folder)));
        }
    }
}

fn same_file(file: &File, path: &Path) -> bool {
    use std::os::unix::fs::MetadataExt;
    let number = |metadata: std::fs::Metadata| (metadata.dev(), metadata.ino());
    file.metadata().ok().map(number) == std::fs::metadata(path).ok().map(number)
}

impl TransactionManager {
    /// Takes the lock, and finishes or takes back what a command left that was ended.
    pub fn open(home: &UserDirs) -> Result<TransactionManager, Error> {
        Self::open_on(home, Disk::default())
    }

    /// The same without waiting for another one.
    ///
    /// # Errors
    ///
    /// [`Error::Busy`] when another one writes.
    pub fn open_now(home: &UserDirs) -> Result<TransactionManager, Error> {
        Self::with(home, Disk::default(), 1, Duration::ZERO)
    }

    /// The same on a disk of which a test decides what fails.
    pub fn open_on(home: &UserDirs, disk: Disk) -> Result<TransactionManager, Error> {
        Self::with(home, disk, MAX_LOCK_TRIES, LOCK_TIMEOUT)
    }

    fn with(home: &UserDirs, disk: Disk, tries: usize, patience: Duration) -> Result<TransactionManager, Error> {
        if !home.home.is_dir() {
            return Err(Error::Home(format!("the home folder {} does not exist; nothing was written", home.home.display())));
        }
        let mut writer = TransactionManager { work: None, home: home.clone(), disk, patience, _lock: Lock::take(home, tries)? };
        if home.history().exists() {
            writer.work()?;
        }
        Ok(writer)
    }

    fn work(&mut self) -> Result<&mut Journal, Error> {
        if self.work.is_none() {
            let history = History::open_within(&self.home.history(), self.patience)?;
            let mut work = Journal { history, disk: self.disk.clone() };
            work.recover()?;
            self.work = Some(work);
        }
        self.work.as_mut().ok_or(Error::Busy)
    }

    /// What was done until now.
    pub fn history(&self) -> Option<&History> {
        self.work.as_ref().map(|work| &work.history)
    }

    /// Writes files and makes an entry of it; nothing when they hold all that already. A file whose contents are not those
    /// that `old` says stops it before anything is written.
    pub fn write(&mut self, about: &EntryDraft<'_>, changes: Vec<FileChange>) -> Result<Option<i64>, Error> {
        self.write_and_leave(about, changes, &[])
    }

    /// The same; folders in `leaving` that are empty afterwards go, too.
    pub(crate) fn write_and_leave(
        &mut self,
        about: &EntryDraft<'_>,
        mut changes: Vec<FileChange>,
        leaving: &[PathBuf],
    ) -> Result<Option<i64>, Error> {
        changes.retain(|change| !same(&change.old, &change.new));
        if changes.is_empty() {
            return Ok(None);
        }
        for change in &mut changes {
            if let Some(old) = &mut change.old
                && old.facts.is_none()
            {
                old.facts = facts_at(&change.path);
            }
            if let (Some(new), Some(old)) = (&mut change.new, &change.old) {
                // A file that is written over keeps its permissions and its owner.
                new.facts = old.facts;
            }
        }
        self.work()?.carry_out(&Job::Write(about), &changes, leaving)
    }

    /// Records what a person did to files by hand; nothing is written but the history.
    pub fn record(&mut self, about: &EntryDraft<'_>, changes: &[FileChange]) -> Result<Option<i64>, Error> {
        self.work()?.history.record(about, changes)
    }

    /// What a person did by hand goes on with the entry that was made of what they did just before; whether it did.
    pub fn go_on(&mut self, id: i64, about: &EntryDraft<'_>, changes: &[FileChange]) -> Result<bool, Error> {
        self.work()?.history.go_on(id, about, changes)
    }

    /// Remembers what of a rice was accepted that reaches out of it.
    pub fn accept(&mut self, all: &[&CapabilityUse]) -> Result<(), Error> {
        self.work()?.history.accept(all)
    }

    /// Takes entries back, the latest first, or does them again, the earliest first: from `changes`, which is what this
    /// comes to for each file.
    pub(crate) fn turn(
        &mut self,
        entries: &[HistoryEntry],
        undone: bool,
        changes: &[FileChange],
        leaving: &[PathBuf],
    ) -> Result<(), Error> {
        self.work()?.carry_out(&Job::Turn { entries, undone }, changes, leaving).map(drop)
    }
}

impl Journal {
    fn carry_out(&mut self, job: &Job<'_>, changes: &[FileChange], leaving: &[PathBuf]) -> Result<Option<i64>, Error> {
        let token = token();
        let step = |(number, change): (usize, &FileChange)| StagedFile {
            path: change.path.clone(),
            temp: change.path.with_file_name(format!(".jovrik-{token}-{number}")),
            old: change.old.clone(),
            new: change.new.clone(),
        };
        let steps: Vec<StagedFile> = changes.iter().enumerate().map(step).collect();
        let folders = missing_folders(&steps);
        let made = self.begin(job, &steps, &folders, leaving);
        let made = made.and_then(|()| self.lay(&steps, &folders)).and_then(|()| self.commit(job, changes, &folders));
        // The history may have kept it though it said that it did not: what it holds is what counts.
        let entry = match (made, self.committed()) {
            (_, Some(entry)) => entry,
            (made, None) => {
                // Where even clearing up fails, the next command that writes does it.
                let _ = self.recover();
                return made;
            }
        };
        if let Err(error) = self.put_in_place(&steps, leaving, false) {
            return match self.take_back(&steps, &folders) {
                Ok(()) => Err(error),
                Err(_) => Err(Error::Unfinished { why: error.to_string() }),
            };
        }
        // It is done, whole; where even forgetting the work fails, the next command that writes does it.
        let _ = self.end();
        Ok(entry)
    }

    /// Puts down what is about to be done.
    fn begin(&mut self, job: &Job<'_>, steps: &[StagedFile], folders: &[PathBuf], leaving: &[PathBuf]) -> Result<(), Error> {
        self.history.store(&self.disk, |work| {
            let rice = match job {
                Job::Write(about) => about.rice.map(bytes_of),
                Job::Turn { .. } => None,
            };
            work.execute("insert into work (id, state, rice) values (1, ?1, ?2)", params![LAYING, rice])?;
            for step in steps {
                let (old, new) = (keep(work, &step.old)?, keep(work, &step.new)?);
                work.execute(
                    "insert into work_step (path, temp, old, old_facts, new, new_facts) values (?1, ?2, ?3, ?4, ?5, ?6)",
                    params![bytes_of(&step.path), bytes_of(&step.temp), old, facts_text(&step.old), new, facts_text(&step.new)],
                )?;
            }
            let all = folders.iter().map(|path| (path, true)).chain(leaving.iter().map(|path| (path, false)));
            for (path, made) in all {
                work.execute("insert into work_folder (path, made) values (?1, ?2)", params![bytes_of(path), made])?;
            }
            Ok(())
        })
    }

    /// Lays the new files beside their targets, and looks whether a target changed meanwhile.
    fn lay(&self, steps: &[StagedFile], folders: &[PathBuf]) -> Result<(), Error> {
        for folder in folders {
            self.disk.make_folder(folder).map_err(|error| Error::io(folder, &error))?;
        }
        for step in steps {
            self.lay_one(step, step.new.as_ref())?;
        }
        let mut meanwhile = Vec::new();
        for step in steps {
            match there(&step.path)? {
                There::File(now) if same(&now, &step.old) => {}
                There::File(_) | There::Elsewhere => meanwhile.push(step.path.clone()),
            }
        }
        if meanwhile.is_empty() { Ok(()) } else { Err(Error::ByHand(meanwhile)) }
    }

    fn lay_one(&self, step: &StagedFile, wanted: Option<&FileSnapshot>) -> Result<(), Error> {
        let Some(kept) = wanted else { return Ok(()) };
        let fail = |error: std::io::Error| Error::io(&step.path, &error);
        self.disk.write_new(&step.temp, &kept.bytes, kept.facts).map_err(fail)?;
        self.disk.sync(&step.temp).map_err(fail)
    }

    /// Makes the entry: from here on it is done.
    fn commit(&mut self, job: &Job<'_>, changes: &[FileChange], folders: &[PathBuf]) -> Result<Option<i64>, Error> {
        self.history.store(&self.disk, |work| {
            let entry = match job {
                Job::Write(about) => Some(insert_entry(work, about, changes, folders)?),
                Job::Turn { entries, undone } => {
                    for entry in *entries {
                        work.execute("update entry set undone = ?2 where id = ?1", params![entry.id, undone])?;
                        work.execute("insert into work_turn (entry, undone) values (?1, ?2)", params![entry.id, undone])?;
                    }
                    // A file that goes leaves its permissions behind, for when it comes back.
                    for change in changes.iter().filter(|change| change.new.is_none()) {
                        for entry in *entries {
                            let facts = params![entry.id, bytes_of(&change.path), facts_text(&change.old)];
                            work.execute(
                                "update change set new_facts = ?3 where entry = ?1 and path = ?2 and new is not null",
                                facts,
                            )?;
                        }
                    }
                    None
                }
            };
            work.execute("update work set state = ?1, entry = ?2", params![COMMITTED, entry])?;
            Ok(entry)
        })
    }

    /// Whether the commit of the work is made; then the number of the entry that came of it, if one did.
    fn committed(&self) -> Option<Option<i64>> {
        let sql = "select entry from work where state = ?1";
        self.history.connection().query_row(sql, [COMMITTED], |row| row.get(0)).ok()
    }

    /// Renames all files into place, as far as that is not done yet. What a person wrote there since stays.
    fn put_in_place(&self, steps: &[StagedFile], leaving: &[PathBuf], late: bool) -> Result<(), Error> {
        for step in steps {
            match there(&step.path)? {
                There::File(now) if !same(&now, &step.new) && same(&now, &step.old) => self.put(step, step.new.as_ref())?,
                There::File(_) => {}
                // Who comes later finds what a person did since.
                There::Elsewhere if late => {}
                There::Elsewhere => return Err(Error::ByHand(vec![step.path.clone()])),
            }
        }
        self.tidy(steps)?;
        self.leave(leaving)
    }

    /// Makes one file hold what it is to hold.
    fn put(&self, step: &StagedFile, wanted: Option<&FileSnapshot>) -> Result<(), Error> {
        let fail = |error: std::io::Error| Error::io(&step.path, &error);
        match wanted {
            Some(_) => {
                if !step.temp.exists() {
                    self.make_folders(step.folder())?;
                    self.lay_one(step, wanted)?;
                }
                tracing::info!(path = %step.path.display(), "writes");
                self.disk.rename(&step.temp, &step.path).map_err(fail)
            }
            None => self.disk.remove(&step.path).map_err(fail),
        }
    }

    fn make_folders(&self, folder: &Path) -> Result<(), Error> {
        let mut missing: Vec<&Path> = folder.ancestors().take_while(|folder| !folder.exists()).collect();
        missing.reverse();
        missing.into_iter().try_for_each(|folder| self.disk.make_folder(folder).map_err(|error| Error::io(folder, &error)))
    }

    /// Removes what lies beside the targets, and brings the names in their folders onto the disk.
    fn tidy(&self, steps: &[StagedFile]) -> Result<(), Error> {
        let is_there = |path: &Path| Folder::open_plain(path).is_ok();
        let steps: Vec<&StagedFile> = steps.iter().filter(|step| is_there(step.folder())).collect();
        for step in steps.iter().filter(|step| step.temp.symlink_metadata().is_ok()) {
            self.disk.remove(&step.temp).map_err(|error| Error::io(&step.temp, &error))?;
        }
        let folders: BTreeSet<&Path> = steps.iter().map(|step| step.folder()).collect();
        folders.into_iter().try_for_each(|folder| self.disk.sync(folder).map_err(|error| Error::io(folder, &error)))
    }

    /// Removes folders that are empty, the innermost first.
    fn leave(&self, folders: &[PathBuf]) -> Result<(), Error> {
        folders.iter().rev().try_for_each(|folder| self.disk.remove_folder(folder).map_err(|error| Error::io(folder, &error)))
    }

    /// Clears up before the commit: nothing was changed, and nothing is left of it.
    fn clear(&mut self, steps: &[StagedFile], folders: &[PathBuf]) -> Result<(), Error> {
        self.tidy(steps)?;
        self.leave(folders)?;
        self.history.store(&self.disk, forget)
    }

    /// Takes back after the commit: the entry goes, and every file is as it was.
    fn take_back(&mut self, steps: &[StagedFile], folders: &[PathBuf]) -> Result<(), Error> {
        self.history.store(&self.disk, |work| {
            let state: i64 = work.query_row("select state from work", [], |row| row.get(0))?;
            if state == COMMITTED {
                work.execute("update entry set undone = not undone where id in (select entry from work_turn)", [])?;
                for table in ["change", "folder"] {
                    work.execute(&format!("delete from {table} where entry in (select entry from work)"), [])?;
                }
                work.execute("delete from entry where id in (select entry from work)", [])?;
                work.execute("update work set state = ?1, entry = null", [TAKING_BACK])?;
            }
            Ok(())
        })?;
        // What lies beside the targets is the new; the old is laid there instead.
        self.tidy(steps)?;
        for step in steps {
            match there(&step.path)? {
                There::File(now) if !same(&now, &step.old) && same(&now, &step.new) => self.put(step, step.old.as_ref())?,
                There::File(_) | There::Elsewhere => {}
            }
        }
        self.tidy(steps)?;
        self.leave(folders)?;
        self.history.store(&self.disk, forget)
    }

    /// The work is done: what had been taken back earlier cannot be done again after something new.
    fn end(&mut self) -> Result<(), Error> {
        self.history.store(&self.disk, |work| {
            let found: (Option<i64>, Option<Vec<u8>>) =
                work.query_row("select entry, rice from work", [], |row| Ok((row.get(0)?, row.get(1)?)))?;
            if let (Some(_), rice) = found {
                let mut query = work.prepare("select path from work_step")?;
                let rows = query.query_map([], |row| Ok(path_of(row.get(0)?)))?;
                let paths: Vec<PathBuf> = rows.collect::<Result<_, _>>()?;
                forget_undone(work, rice.map(path_of).as_deref(), paths.iter().map(PathBuf::as_path))?;
            }
            forget(work)
        })
    }

    /// Sees to what a command left that was ended.
    fn recover(&mut self) -> Result<(), Error> {
        if !self.history.unfinished()? {
            return Ok(());
        }
        let (state, steps, made, leaving) = self.left()?;
        let left = |error: Error| Error::Unfinished { why: error.to_string() };
        match state {
            LAYING => self.clear(&steps, &made).map_err(left),
            COMMITTED => match self.put_in_place(&steps, &leaving, true) {
                Ok(()) => self.end().map_err(left),
                Err(error) => self.take_back(&steps, &made).map_err(|_| left(error)),
            },
            _ => self.take_back(&steps, &made).map_err(left),
        }
    }

    #[expect(clippy::type_complexity, reason = "read in one place, used in one place")]
    fn left(&self) -> Result<(i64, Vec<StagedFile>, Vec<PathBuf>, Vec<PathBuf>), Error> {
        let store = self.history.connection();
        let state = store.query_row("select state from work", [], |row| row.get(0))?;
        let mut query = store.prepare(
            "select path, temp, a.bytes, old_facts, b.bytes, new_facts from work_step
             left join content a on a.hash = old left join content b on b.hash = new order by work_step.rowid",
        )?;
        let rows = query.query_map([], |row| {
            let (old, new) = (kept_of(row, 2, 3)?, kept_of(row, 4, 5)?);
            Ok(StagedFile { path: path_of(row.get(0)?), temp: path_of(row.get(1)?), old, new })
        })?;
        let steps = rows.collect::<Result<_, _>>()?;
        let folders = |made: bool| -> Result<Vec<PathBuf>, Error> {
            let mut query = store.prepare("select path from work_folder where made = ?1 order by rowid")?;
            let rows = query.query_map([made], |row| Ok(path_of(row.get(0)?)))?;
            Ok(rows.collect::<Result<_, _>>()?)
        };
        Ok((state, steps, folders(true)?, folders(false)?))
    }
}

/// There is no work any more.
fn forget(work: &rusqlite::Transaction<'_>) -> Result<(), Error> {
    for table in ["work", "work_turn", "work_step", "work_folder"] {
        work.execute(&format!("delete from {table}"), [])?;
    }
    Ok(())
}

/// The folders that must be made for new files, outermost first.
fn missing_folders(steps: &[StagedFile]) -> Vec<PathBuf> {
    let wanted = steps.iter().filter(|step| step.new.is_some());
    let missing = wanted.flat_map(|step| step.folder().ancestors().take_while(|folder| !folder.exists()));
    // A folder sorts before what lies in it.
    missing.map(Path::to_owned).collect::<BTreeSet<_>>().into_iter().collect()
}

/// A word that no other work has used.
fn token() -> String {
    let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |time| time.as_nanos());
    blake3::hash(format!("{now} {}", std::process::id()).as_bytes()).to_hex()[..12].to_owned()
}
