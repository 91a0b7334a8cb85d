//! What was applied: one SQLite file, contents stored once by their hash.

use std::path::{Path, PathBuf};

use rusqlite::{Connection, OptionalExtension, params};

use crate::Error;

/// A BLAKE3 hash.
pub type Hash = [u8; 32];

/// One file of an entry: what it held before and after; nothing where it was not there.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FileChange {
    /// Where it is.
    pub path: PathBuf,
    /// Its contents before.
    pub old: Option<Vec<u8>>,
    /// Its contents after.
    pub new: Option<Vec<u8>>,
}

/// One entry.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize)]
pub struct Entry {
    /// Its number.
    pub id: i64,
    /// When, in UTC, as RFC 3339.
    pub time: String,
    /// `apply` or `set`.
    pub kind: String,
    /// What changed, in words.
    pub what: String,
    /// What the person says of it.
    pub note: Option<String>,
    /// Whether it was taken back.
    pub undone: bool,
    /// Whether it was begun and not yet finished.
    pub pending: bool,
}

/// The history of one home.
#[derive(Debug)]
pub struct History {
    store: Connection,
}

const TABLES: &str = "
create table if not exists content (hash blob primary key, bytes blob not null) without rowid;
create table if not exists entry (
    id integer primary key, time text not null, kind text not null, what text not null, note text,
    undone integer not null default 0, pending integer not null default 0);
create table if not exists change (
    entry integer not null references entry, path blob not null, old blob references content, new blob references content);
create table if not exists folder (entry integer not null references entry, path blob not null);
create index if not exists change_of on change (entry);
pragma user_version = 1;
";

fn bytes_of(path: &Path) -> &[u8] {
    use std::os::unix::ffi::OsStrExt;
    path.as_os_str().as_bytes()
}

fn path_of(bytes: Vec<u8>) -> PathBuf {
    use std::os::unix::ffi::OsStringExt;
    std::ffi::OsString::from_vec(bytes).into()
}

impl History {
    /// Opens the history, or makes it.
    pub fn open(path: &Path) -> Result<History, Error> {
        if let Some(parent) = path.parent() {
            std::fs::create_dir_all(parent).map_err(|error| Error::io(parent, &error))?;
        }
        let store = Connection::open(path)?;
        store.busy_timeout(std::time::Duration::from_secs(5))?;
        store.pragma_update(None, "journal_mode", "wal")?;
        store.pragma_update(None, "synchronous", "full")?;
        store.execute_batch(TABLES)?;
        Ok(History { store })
    }

    /// Opens a history that is there, to read it.
    pub fn open_existing(path: &Path) -> Result<Option<History>, Error> {
        if path.exists() { Self::open(path).map(Some) } else { Ok(None) }
    }

    /// Begins an entry: from here on it will be finished, whatever happens.
    pub fn begin(
        &mut self,
        kind: &str,
        what: &str,
        note: Option<&str>,
        changes: &[FileChange],
        folders: &[PathBuf],
    ) -> Result<i64, Error> {
        let work = self.store.transaction()?;
        let time = jiff::Timestamp::now().strftime("%Y-%m-%dT%H:%M:%SZ").to_string();
        // What was taken back cannot be done again once something new is done.
        work.execute("delete from change where entry in (select id from entry where undone = 1)", [])?;
        work.execute("delete from folder where entry in (select id from entry where undone = 1)", [])?;
        work.execute("delete from entry where undone = 1", [])?;
        work.execute(
            "insert into entry (time, kind, what, note, pending) values (?1, ?2, ?3, ?4, 1)",
            params![time, kind, what, note],
        )?;
        let id = work.last_insert_rowid();
        for change in changes {
            let keep = |bytes: &Option<Vec<u8>>| -> Result<Option<Hash>, Error> {
                let Some(bytes) = bytes else { return Ok(None) };
                let hash = *blake3::hash(bytes).as_bytes();
                work.execute("insert or ignore into content (hash, bytes) values (?1, ?2)", params![hash, bytes])?;
                Ok(Some(hash))
            };
            let (old, new) = (keep(&change.old)?, keep(&change.new)?);
            work.execute(
                "insert into change (entry, path, old, new) values (?1, ?2, ?3, ?4)",
                params![id, bytes_of(&change.path), old, new],
            )?;
        }
        for folder in folders {
            work.execute("insert into folder (entry, path) values (?1, ?2)", params![id, bytes_of(folder)])?;
        }
        work.commit()?;
        Ok(id)
    }

    /// Marks an entry as finished.
    pub fn finish(&mut self, id: i64) -> Result<(), Error> {
        self.store.execute("update entry set pending = 0 where id = ?1", [id])?;
        Ok(())
    }

    /// Marks an entry as taken back, or not.
    pub fn mark(&mut self, id: i64, undone: bool) -> Result<(), Error> {
        self.store.execute("update entry set undone = ?2 where id = ?1", params![id, undone])?;
        Ok(())
    }

    /// The files of an entry.
    pub fn changes(&self, id: i64) -> Result<Vec<FileChange>, Error> {
        let mut query = self.store.prepare(
            "select path, a.bytes, b.bytes from change left join content a on a.hash = old left join content b on b.hash = new
             where entry = ?1 order by change.rowid",
        )?;
        let rows =
            query.query_map([id], |row| Ok(FileChange { path: path_of(row.get(0)?), old: row.get(1)?, new: row.get(2)? }))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// The folders that an entry made, outermost first.
    pub fn folders(&self, id: i64) -> Result<Vec<PathBuf>, Error> {
        let mut query = self.store.prepare("select path from folder where entry = ?1 order by rowid")?;
        let rows = query.query_map([id], |row| Ok(path_of(row.get(0)?)))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// What an entry last left at a path: its hash, or nothing where it was removed. `None`: no entry knows the path.
    pub fn last_left(&self, path: &Path) -> Result<Option<Option<Hash>>, Error> {
        let sql =
            "select new from change join entry on entry.id = entry where path = ?1 and undone = 0 order by entry.id desc limit 1";
        Ok(self.store.query_row(sql, [bytes_of(path)], |row| row.get(0)).optional()?)
    }

    /// Whether a change is what an entry that was taken back had done, the other way round.
    pub fn took_back(&self, change: &FileChange) -> Result<bool, Error> {
        let hash = |bytes: &Option<Vec<u8>>| bytes.as_ref().map(|bytes| *blake3::hash(bytes).as_bytes());
        let sql =
            "select 1 from change join entry on entry.id = entry where undone = 1 and path = ?1 and old is ?2 and new is ?3";
        let found = self.store.query_row(sql, params![bytes_of(&change.path), hash(&change.new), hash(&change.old)], |_| Ok(()));
        Ok(found.optional()?.is_some())
    }

    /// The paths that applies left something at.
    pub fn applied_paths(&self) -> Result<Vec<PathBuf>, Error> {
        let mut query = self.store.prepare(
            "select distinct path from change join entry on entry.id = entry where undone = 0 and kind = 'apply' order by path",
        )?;
        let rows = query.query_map([], |row| Ok(path_of(row.get(0)?)))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// All entries, the latest first.
    pub fn entries(&self) -> Result<Vec<Entry>, Error> {
        let mut query = self.store.prepare("select id, time, kind, what, note, undone, pending from entry order by id desc")?;
        let rows = query.query_map([], |row| {
            Ok(Entry {
                id: row.get(0)?,
                time: row.get(1)?,
                kind: row.get(2)?,
                what: row.get(3)?,
                note: row.get(4)?,
                undone: row.get(5)?,
                pending: row.get(6)?,
            })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }
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
    for entry in entries.iter().filter(|entry| entry.id > id && !entry.undone) {
        for change in history.changes(entry.id)? {
            if let Some(name) = change.path.strip_prefix(folder).ok().and_then(Path::to_str) {
                // Entries come the latest first: the earliest change has the last word.
                earlier.insert(name.to_owned(), change.old);
            }
        }
    }
    let count = earlier.len();
    for (name, bytes) in earlier {
        for list in [&mut files.parts, &mut files.overlays, &mut files.machines] {
            list.retain(|source| source.name != name);
        }
        let Some(text) = bytes.and_then(|bytes| String::from_utf8(bytes).ok()) else { continue };
        let source = jovrik_core::load::Source::new(&name, text);
        if name == "rice.toml" {
            files.manifest = Some(source);
        } else if name.ends_with(".toml") && ["parts/", "overlays/", "machines/"].iter().any(|within| name.starts_with(within)) {
            files.add(source);
        }
    }
    Ok(Some((files, count)))
}
