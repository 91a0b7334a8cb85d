//! What was done, and what is being done: one SQLite file, contents stored once by their hash.

use std::path::{Path, PathBuf};
use std::time::Duration;

use jovrik_core::check::CapabilityUse;
use jovrik_file::{append_private, private_folder, private_mode};
use rusqlite::{Connection, OptionalExtension, Row, Transaction, params};

use crate::disk::{Disk, DiskOp, FileAttributes};
use crate::file::FileSnapshot;
use crate::{Error, transaction};

/// A BLAKE3 hash.
pub type Hash = [u8; 32];

/// The number of the tables' form; a history with a greater one is another program's.
const FORM: i64 = 2;

/// One file of an entry: what stood there before and after; nothing where nothing did.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FileChange {
    /// Where it is, links followed.
    pub path: PathBuf,
    /// What stood there before.
    pub old: Option<FileSnapshot>,
    /// What stands there after.
    pub new: Option<FileSnapshot>,
    /// Whether a rice has it in its keeping from now on; nothing when that stays as it was.
    pub placed: Option<bool>,
}

/// One entry.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize)]
pub struct HistoryEntry {
    /// Its number.
    pub id: i64,
    /// When, in UTC, as RFC 3339.
    pub time: String,
    /// `apply`, `set`, `adopt` and so on.
    pub kind: String,
    /// What changed, in words.
    pub what: String,
    /// What the person says of it.
    pub note: Option<String>,
    /// The folder of the rice that it is about, links followed.
    pub rice: Option<PathBuf>,
    /// Whether it was taken back.
    pub undone: bool,
}

/// What an entry that is yet to be made says of itself.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct EntryDraft<'a> {
    /// `apply`, `set`, `adopt` and so on.
    pub kind: &'a str,
    /// What changed, in words.
    pub what: &'a str,
    /// What the person says of it.
    pub note: Option<&'a str>,
    /// The folder of the rice that it is about.
    pub rice: Option<&'a Path>,
}

/// The history of one home.
#[derive(Debug)]
pub struct History {
    store: Connection,
}

const TABLES: &str = "
create table if not exists content (hash blob primary key, bytes blob not null) without rowid;
create table if not exists entry (
    id integer primary key, time text not null, kind text not null, what text not null, note text, rice blob,
    undone integer not null default 0);
create table if not exists change (
    entry integer not null references entry, path blob not null, old blob references content, new blob references content,
    old_facts text, new_facts text, placed integer);
create table if not exists folder (entry integer not null references entry, path blob not null);
create table if not exists leave (hash blob primary key) without rowid;
create index if not exists change_of on change (entry);
create index if not exists change_at on change (path);
";

/// What a history of the first form lacks.
const FROM_FORM_1: &str = "
alter table entry add column rice blob;
alter table change add column old_facts text;
alter table change add column new_facts text;
alter table change add column placed integer;
update change set placed = new is not null where entry in (select id from entry where kind = 'apply');
";

pub(crate) fn bytes_of(path: &Path) -> &[u8] {
    use std::os::unix::ffi::OsStrExt;
    path.as_os_str().as_bytes()
}

pub(crate) fn path_of(bytes: Vec<u8>) -> PathBuf {
    use std::os::unix::ffi::OsStringExt;
    std::ffi::OsString::from_vec(bytes).into()
}

/// `644 1000 1000`: permissions in octal, user, group.
pub(crate) fn facts_text(kept: &Option<FileSnapshot>) -> Option<String> {
    kept.as_ref().and_then(|kept| kept.facts).map(|FileAttributes { mode, user, group }| format!("{mode:o} {user} {group}"))
}

fn facts_of(text: Option<String>) -> Option<FileAttributes> {
    let text = text?;
    let mut words = text.split(' ');
    let mode = u32::from_str_radix(words.next()?, 8).ok()?;
    Some(FileAttributes { mode, user: words.next()?.parse().ok()?, group: words.next()?.parse().ok()? })
}

/// A file of two columns: its bytes and its facts.
pub(crate) fn kept_of(row: &Row<'_>, bytes: usize, facts: usize) -> rusqlite::Result<Option<FileSnapshot>> {
    let bytes: Option<Vec<u8>> = row.get(bytes)?;
    let facts: Option<String> = row.get(facts)?;
    Ok(bytes.map(|bytes| FileSnapshot { bytes, facts: facts_of(facts) }))
}

fn hash(kept: &Option<FileSnapshot>) -> Option<Hash> {
    kept.as_ref().map(|kept| *blake3::hash(&kept.bytes).as_bytes())
}

/// Stores what a file holds; its hash.
pub(crate) fn keep(work: &Transaction<'_>, kept: &Option<FileSnapshot>) -> Result<Option<Hash>, Error> {
    let found = hash(kept);
    if let (Some(hash), Some(kept)) = (found, kept) {
        work.execute("insert or ignore into content (hash, bytes) values (?1, ?2)", params![hash, kept.bytes])?;
    }
    Ok(found)
}

/// What was accepted is known again by where it stands, how far it reaches, what exactly it comes to, and what the files of the
/// rice hold that it names.
fn leave_of(one: &CapabilityUse) -> Hash {
    let mut hasher = blake3::Hasher::new();
    for part in [one.path.as_str(), one.reach.stored_word(), &one.what, one.content.as_deref().unwrap_or_default()] {
        hasher.update(&(part.len() as u64).to_le_bytes()).update(part.as_bytes());
    }
    *hasher.finalize().as_bytes()
}

/// How long a command waits for another one that has the history.
pub(crate) const LOCK_TIMEOUT: Duration = Duration::from_secs(5);

const CHANGES: &str = "select path, a.bytes, old_facts, b.bytes, new_facts, placed from change
    left join content a on a.hash = old left join content b on b.hash = new";

impl History {
    /// Opens the history, or makes it.
    pub fn open(path: &Path) -> Result<History, Error> {
        Self::open_within(path, LOCK_TIMEOUT)
    }

    /// The same, waiting no longer than so for another one that has it.
    pub(crate) fn open_within(path: &Path, time: Duration) -> Result<History, Error> {
        if let Some(parent) = path.parent() {
            private_folder(parent).map_err(|error| Error::io(parent, &error))?;
        }
        // What it holds may be what somebody keeps to themselves. The files beside it are made with its permissions.
        drop(append_private(path).map_err(|error| Error::io(path, &error))?);
        for beside in ["-wal", "-shm"] {
            let mut name = path.as_os_str().to_owned();
            name.push(beside);
            private_mode(Path::new(&name)).map_err(|error| Error::io(path, &error))?;
        }
        let mut store = Connection::open(path)?;
        store.busy_timeout(time)?;
        store.pragma_update(None, "journal_mode", "wal")?;
        store.pragma_update(None, "synchronous", "full")?;
        let form: i64 = store.query_row("pragma user_version", [], |row| row.get(0))?;
        if form > FORM {
            return Err(Error::NewerHistory(path.to_owned()));
        }
        if form < FORM {
            let change = store.transaction()?;
            if form == 1 {
                change.execute_batch(FROM_FORM_1)?;
            }
            change.execute_batch(TABLES)?;
            change.execute_batch(transaction::TABLES)?;
            change.pragma_update(None, "user_version", FORM)?;
            change.commit()?;
        }
        Ok(History { store })
    }

    /// Opens a history that is there, to read it.
    pub fn open_existing(path: &Path) -> Result<Option<History>, Error> {
        if path.exists() { Self::open(path).map(Some) } else { Ok(None) }
    }

    /// Changes the store in one piece: all of `change`, or nothing.
    pub(crate) fn store<T>(
        &mut self,
        disk: &Disk,
        change: impl FnOnce(&Transaction<'_>) -> Result<T, Error>,
    ) -> Result<T, Error> {
        let fail = |error: std::io::Error| Error::Store(jovrik_file::in_words(&error));
        let work = self.store.transaction()?;
        let done = change(&work)?;
        disk.step(DiskOp::Store).map_err(fail)?;
        work.commit()?;
        disk.step(DiskOp::Stored).map_err(fail)?;
        Ok(done)
    }

    pub(crate) fn connection(&self) -> &Connection {
        &self.store
    }

    /// Whether a command was ended in the middle of its work, which the next one that writes will see to.
    pub fn unfinished(&self) -> Result<bool, Error> {
        Ok(self.store.query_row("select exists (select 1 from work)", [], |row| row.get(0))?)
    }

    /// The files of an entry.
    pub fn changes(&self, id: i64) -> Result<Vec<FileChange>, Error> {
        let mut query = self.store.prepare(&format!("{CHANGES} where entry = ?1 order by change.rowid"))?;
        let rows = query.query_map([id], |row| {
            let (old, new) = (kept_of(row, 1, 2)?, kept_of(row, 3, 4)?);
            Ok(FileChange { path: path_of(row.get(0)?), old, new, placed: row.get(5)? })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// The folders that an entry made, outermost first.
    pub fn folders(&self, id: i64) -> Result<Vec<PathBuf>, Error> {
        let mut query = self.store.prepare("select path from folder where entry = ?1 order by rowid")?;
        let rows = query.query_map([id], |row| Ok(path_of(row.get(0)?)))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// The folders above a file that entries which hold had made for it, outermost first.
    pub fn folders_above(&self, path: &Path) -> Result<Vec<PathBuf>, Error> {
        let sql = "select distinct path from folder join entry on entry.id = entry where undone = 0 order by length(path)";
        let mut query = self.store.prepare_cached(sql)?;
        let rows = query.query_map([], |row| Ok(path_of(row.get(0)?)))?;
        let all: Vec<PathBuf> = rows.collect::<Result<_, _>>()?;
        Ok(all.into_iter().filter(|folder| path.starts_with(folder)).collect())
    }

    /// What an entry last left at a path: its hash, or nothing where it was removed. `None`: no entry knows the path.
    pub fn last_left(&self, path: &Path) -> Result<Option<Option<Hash>>, Error> {
        let sql =
            "select new from change join entry on entry.id = entry where path = ?1 and undone = 0 order by entry.id desc limit 1";
        Ok(self.store.prepare_cached(sql)?.query_row([bytes_of(path)], |row| row.get(0)).optional()?)
    }

    /// The same of entries that had a rice put the path there or take it away: what a person changed since is none of it.
    pub fn last_placed(&self, path: &Path) -> Result<Option<Option<Hash>>, Error> {
        let sql = "select new from change join entry on entry.id = entry
            where path = ?1 and undone = 0 and placed is not null order by entry.id desc limit 1";
        Ok(self.store.prepare_cached(sql)?.query_row([bytes_of(path)], |row| row.get(0)).optional()?)
    }

    /// The folder of the rice that was last applied into a folder, from another one.
    pub fn applied_from(&self, applied: &Path) -> Result<Option<PathBuf>, Error> {
        let sql = "select rice, path from change join entry on entry.id = entry
            where undone = 0 and placed = 1 and rice is not null order by entry.id desc";
        let mut query = self.store.prepare_cached(sql)?;
        let mut rows = query.query([])?;
        while let Some(row) = rows.next()? {
            let (rice, path) = (path_of(row.get(0)?), path_of(row.get(1)?));
            if rice != applied && path.starts_with(applied) {
                return Ok(Some(rice));
            }
        }
        Ok(None)
    }

    /// The latest entry that holds, later than another, and wrote at one of some paths.
    pub fn later(&self, id: i64, paths: &[PathBuf]) -> Result<Option<HistoryEntry>, Error> {
        let sql =
            "select max(entry.id) from change join entry on entry.id = entry where path = ?1 and undone = 0 and entry.id > ?2";
        let mut latest: Option<i64> = None;
        for path in paths {
            latest = latest.max(self.store.prepare_cached(sql)?.query_row(params![bytes_of(path), id], |row| row.get(0))?);
        }
        Ok(self.entries()?.into_iter().find(|entry| Some(entry.id) == latest))
    }

    /// Whether a change is what an entry that was taken back had done, the other way round.
    fn took_back(&self, change: &FileChange) -> Result<bool, Error> {
        let sql =
            "select 1 from change join entry on entry.id = entry where undone = 1 and path = ?1 and old is ?2 and new is ?3";
        let sides = params![bytes_of(&change.path), hash(&change.new), hash(&change.old)];
        Ok(self.store.query_row(sql, sides, |_| Ok(())).optional()?.is_some())
    }

    /// The paths that a rice has in its keeping: what the latest entry that says so of each says.
    pub fn placed(&self) -> Result<Vec<PathBuf>, Error> {
        let sql = "select path from (select path, placed, max(entry.id) from change join entry on entry.id = entry
             where undone = 0 and placed is not null group by path) where placed = 1 order by path";
        let mut query = self.store.prepare(sql)?;
        let rows = query.query_map([], |row| Ok(path_of(row.get(0)?)))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// What stood at a path before a rice took it into its keeping.
    pub fn original(&self, path: &Path) -> Result<Option<FileSnapshot>, Error> {
        let sql = format!(
            "{CHANGES} join entry on entry.id = entry where path = ?1 and undone = 0 and placed = 1 and entry.id >
             coalesce((select max(e.id) from change c join entry e on e.id = c.entry
                       where c.path = ?1 and e.undone = 0 and c.placed = 0), 0)
             order by entry.id limit 1"
        );
        let found = self.store.query_row(&sql, [bytes_of(path)], |row| kept_of(row, 1, 2)).optional()?;
        Ok(found.flatten())
    }

    /// Records what a person did to files by hand, and writes nothing else. What an entry left as it is now, or what is just
    /// the taking back of one, is known already. The number of the entry, if there is one.
    pub(crate) fn record(&mut self, about: &EntryDraft<'_>, changes: &[FileChange]) -> Result<Option<i64>, Error> {
        let mut news = Vec::new();
        for change in changes {
            if self.last_left(&change.path)? != Some(hash(&change.new)) && !self.took_back(change)? {
                news.push(change.clone());
            }
        }
        if news.is_empty() {
            return Ok(None);
        }
        self.store(&Disk::default(), |work| {
            forget_undone(work, about.rice, news.iter().map(|change| change.path.as_path()))?;
            insert_entry(work, about, &news, &[])
        })
        .map(Some)
    }

    /// What a person did to files by hand goes on with what they did just before: the entry `id` becomes both, as long as
    /// nothing came after it. An entry that comes to nothing is forgotten. Whether it went on.
    pub(crate) fn go_on(&mut self, id: i64, about: &EntryDraft<'_>, changes: &[FileChange]) -> Result<bool, Error> {
        let last: Option<i64> = self.store.query_row("select max(id) from entry", [], |row| row.get(0))?;
        let holds = "select exists (select 1 from entry where id = ?1 and undone = 0)";
        if last != Some(id) || !self.store.query_row(holds, [id], |row| row.get(0))? {
            return Ok(false);
        }
        let before = self.changes(id)?;
        // Only what goes on where that entry ended: the same files, as they were left.
        let goes_on =
            |change: &FileChange| before.iter().any(|own| own.path == change.path && hash(&own.new) == hash(&change.old));
        if changes.is_empty() || !changes.iter().all(goes_on) {
            return Ok(false);
        }
        self.store(&Disk::default(), |work| {
            for change in changes {
                let new = keep(work, &change.new)?;
                work.execute(
                    "update change set new = ?3, new_facts = ?4 where entry = ?1 and path = ?2",
                    params![id, bytes_of(&change.path), new, facts_text(&change.new)],
                )?;
            }
            work.execute("update entry set what = ?2, time = ?3 where id = ?1", params![id, about.what, now()])?;
            work.execute("delete from change where entry = ?1 and old is new", [id])?;
            let empty = "delete from entry where id = ?1 and not exists (select 1 from change where entry = ?1)";
            work.execute(empty, [id])?;
            Ok(())
        })
        .map(|()| true)
    }

    /// Whether something that reaches out of a rice was accepted before, just as it is written.
    pub fn accepted(&self, one: &CapabilityUse) -> Result<bool, Error> {
        let sql = "select exists (select 1 from leave where hash = ?1)";
        Ok(self.store.prepare_cached(sql)?.query_row([leave_of(one)], |row| row.get(0))?)
    }

    /// Remembers what was accepted.
    pub(crate) fn accept(&mut self, all: &[&CapabilityUse]) -> Result<(), Error> {
        self.store(&Disk::default(), |work| {
            for one in all {
                work.execute("insert or ignore into leave (hash) values (?1)", [leave_of(one)])?;
            }
            Ok(())
        })
    }

    /// All entries, the latest first.
    pub fn entries(&self) -> Result<Vec<HistoryEntry>, Error> {
        let mut query = self.store.prepare("select id, time, kind, what, note, rice, undone from entry order by id desc")?;
        let rows = query.query_map([], |row| {
            Ok(HistoryEntry {
                id: row.get(0)?,
                time: row.get(1)?,
                kind: row.get(2)?,
                what: row.get(3)?,
                note: row.get(4)?,
                rice: row.get::<_, Option<Vec<u8>>>(5)?.map(path_of),
                undone: row.get(6)?,
            })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// The entries of one rice, the latest first: those that are about it, and those that changed a file in its folder, as
    /// an apply does with the applied one.
    pub fn entries_of(&self, rice: &Path) -> Result<Vec<HistoryEntry>, Error> {
        let mut query = self.store.prepare("select distinct entry, path from change")?;
        let rows = query.query_map([], |row| Ok((row.get(0)?, path_of(row.get(1)?))))?;
        let changes: Vec<(i64, PathBuf)> = rows.collect::<Result<_, _>>()?;
        let inside: std::collections::HashSet<i64> =
            changes.into_iter().filter(|(_, path)| path.starts_with(rice)).map(|(id, _)| id).collect();
        let mut entries = self.entries()?;
        entries.retain(|entry| entry.rice.as_deref() == Some(rice) || inside.contains(&entry.id));
        Ok(entries)
    }
}

/// What was taken back cannot be done again once something new is done: of the same rice, or at the same place.
pub(crate) fn forget_undone<'a>(
    work: &Transaction<'_>,
    rice: Option<&Path>,
    paths: impl Iterator<Item = &'a Path>,
) -> Result<(), Error> {
    let mut gone: Vec<i64> = Vec::new();
    {
        let mut of_rice = work.prepare("select id from entry where undone = 1 and (rice is null or rice is ?1)")?;
        let rows = of_rice.query_map([rice.map(bytes_of)], |row| row.get(0))?;
        gone.extend(rows.collect::<Result<Vec<i64>, _>>()?);
        let mut at = work.prepare("select entry.id from change join entry on entry.id = entry where undone = 1 and path = ?1")?;
        for path in paths {
            let rows = at.query_map([bytes_of(path)], |row| row.get(0))?;
            gone.extend(rows.collect::<Result<Vec<i64>, _>>()?);
        }
    }
    for id in gone {
        work.execute("delete from change where entry = ?1", [id])?;
        work.execute("delete from folder where entry = ?1", [id])?;
        work.execute("delete from entry where id = ?1", [id])?;
    }
    Ok(())
}

/// The time now, in UTC, as RFC 3339.
fn now() -> String {
    jiff::Timestamp::now().strftime("%Y-%m-%dT%H:%M:%SZ").to_string()
}

/// Adds an entry; its number.
pub(crate) fn insert_entry(
    work: &Transaction<'_>,
    about: &EntryDraft<'_>,
    changes: &[FileChange],
    folders: &[PathBuf],
) -> Result<i64, Error> {
    work.execute(
        "insert into entry (time, kind, what, note, rice) values (?1, ?2, ?3, ?4, ?5)",
        params![now(), about.kind, about.what, about.note, about.rice.map(bytes_of)],
    )?;
    let id = work.last_insert_rowid();
    for change in changes {
        let (old, new) = (keep(work, &change.old)?, keep(work, &change.new)?);
        work.execute(
            "insert into change (entry, path, old, old_facts, new, new_facts, placed) values (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
            params![id, bytes_of(&change.path), old, facts_text(&change.old), new, facts_text(&change.new), change.placed],
        )?;
    }
    for folder in folders {
        work.execute("insert into folder (entry, path) values (?1, ?2)", params![id, bytes_of(folder)])?;
    }
    Ok(id)
}

/// The files of a rice as they were right after an entry: what later entries changed is taken back. The second is how
/// many files were other than now. Nothing when there is no such entry.
pub fn files_at(folder: &Path, history: &History, id: i64) -> Result<Option<(jovrik_core::check::Files, usize)>, Error> {
    let mut files = crate::read_folder(folder);
    let mut earlier = std::collections::BTreeMap::new();
    let entries = history.entries()?;
    if !entries.iter().any(|entry| entry.id == id) {
        return Ok(None);
    }
    let folder = crate::file::resolved(folder)?;
    for entry in entries.iter().filter(|entry| entry.id > id && !entry.undone) {
        for change in history.changes(entry.id)? {
            if let Some(name) = change.path.strip_prefix(&folder).ok().and_then(Path::to_str) {
                // Entries come the latest first: the earliest change has the last word.
                earlier.insert(name.to_owned(), change.old);
            }
        }
    }
    let count = earlier.len();
    for (name, kept) in earlier {
        for list in [&mut files.parts, &mut files.overlays, &mut files.machines] {
            list.retain(|source| source.name != name);
        }
        let Some(text) = kept.and_then(|kept| String::from_utf8(kept.bytes).ok()) else { continue };
        let source = jovrik_text::Source::new(&name, text);
        if name == "rice.toml" {
            files.manifest = Some(source);
        } else if name.ends_with(".toml") && ["parts/", "overlays/", "machines/"].iter().any(|within| name.starts_with(within)) {
            files.add(source);
        }
    }
    Ok(Some((files, count)))
}

#[cfg(test)]
mod tests {
    use jovrik_schema::catalogue::Capability;
    use jovrik_text::Span;

    use super::*;

    #[test]
    fn what_was_accepted_is_known_again_whatever_the_code_calls_it() {
        // The words with which the first histories were written.
        let words = [
            (Capability::Execute, "Starts"),
            (Capability::Environment, "Environment"),
            (Capability::WriteFile, "Writes"),
            (Capability::None, "Inside"),
        ];
        for (reach, word) in words {
            let [path, what] = ["module.tide.source", "tide --now"].map(str::to_owned);
            let one = CapabilityUse { path, span: Span::BUILT_IN, reach, what, through: None, content: None };
            let mut hasher = blake3::Hasher::new();
            for part in ["module.tide.source", word, "tide --now", ""] {
                hasher.update(&(part.len() as u64).to_le_bytes()).update(part.as_bytes());
            }
            assert_eq!(leave_of(&one), *hasher.finalize().as_bytes(), "{word}");
        }
    }
}
