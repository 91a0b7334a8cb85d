//! Tests of files: finding, editing, the transaction, the history, bundles.

mod applying;
mod bundles;
mod bytes;
mod editing;
mod finding;
mod histories;
mod layouts;
mod limits;
mod privacy;
mod renaming;
mod sharing;
mod toggling;
mod transactions;

use std::path::{Path, PathBuf};

use jovrik_home::{EntryDraft, FileChange, FileSnapshot, TransactionManager, UserDirs, kept};

/// A home of its own.
struct Place {
    folder: tempfile::TempDir,
    home: UserDirs,
}

fn place() -> Place {
    // In memory where that can be had: thousands of homes are written to and brought onto the disk.
    let memory = Path::new("/dev/shm");
    let folder = tempfile::tempdir_in(memory).or_else(|_| tempfile::tempdir()).expect("a folder");
    let path = std::fs::canonicalize(folder.path()).expect("there");
    let home = UserDirs {
        config: path.join("config"),
        state: path.join("state"),
        cache: path.join("cache"),
        runtime: path.join("run"),
        home: path,
    };
    Place { folder, home }
}

impl Place {
    fn at(&self, name: &str) -> PathBuf {
        std::fs::canonicalize(self.folder.path()).expect("there").join(name)
    }

    /// What a change of files by their names comes to; nothing takes a file away.
    fn changes(&self, files: &[(&str, Option<&str>)]) -> Vec<FileChange> {
        let change = |(name, text): &(&str, Option<&str>)| {
            let path = self.at(name);
            let old = kept(&path).expect("read");
            FileChange { path, old, new: text.map(FileSnapshot::new), placed: None }
        };
        files.iter().map(change).collect()
    }

    fn write(&self, files: &[(&str, &str)], what: &str) -> Option<i64> {
        self.write_for("rice", files, what)
    }

    /// Writes files for a rice of a name.
    fn write_for(&self, rice: &str, files: &[(&str, &str)], what: &str) -> Option<i64> {
        let files: Vec<(&str, Option<&str>)> = files.iter().map(|(name, text)| (*name, Some(*text))).collect();
        let rice = self.at(rice);
        let about = EntryDraft { kind: "set", what, note: None, rice: Some(&rice) };
        TransactionManager::open(&self.home).expect("a writer").write(&about, self.changes(&files)).expect("written")
    }

    fn put(&self, name: &str, text: &str) {
        let path = self.at(name);
        std::fs::create_dir_all(path.parent().expect("a folder")).expect("made");
        std::fs::write(path, text).expect("written");
    }

    fn read(&self, name: &str) -> Option<String> {
        std::fs::read_to_string(self.at(name)).ok()
    }

    /// Everything in the home but the history itself: path, permissions, bytes or where a link leads.
    fn photograph(&self) -> Vec<(PathBuf, u32, Vec<u8>)> {
        let mut seen = Vec::new();
        look(&self.at(""), &self.home.state, &mut seen);
        seen.sort();
        seen
    }
}

fn look(folder: &Path, without: &Path, seen: &mut Vec<(PathBuf, u32, Vec<u8>)>) {
    use std::os::unix::ffi::OsStrExt;
    use std::os::unix::fs::PermissionsExt;
    for entry in std::fs::read_dir(folder).expect("a folder") {
        let path = entry.expect("an entry").path();
        let facts = path.symlink_metadata().expect("there");
        let mode = facts.permissions().mode();
        if path == without {
            continue;
        }
        if facts.is_dir() {
            seen.push((path.clone(), mode, Vec::new()));
            look(&path, without, seen);
        } else if facts.is_symlink() {
            let to = std::fs::read_link(&path).expect("a link");
            seen.push((path, mode, to.as_os_str().as_bytes().to_vec()));
        } else {
            let bytes = if facts.is_file() { std::fs::read(&path).expect("read") } else { Vec::new() };
            seen.push((path, mode, bytes));
        }
    }
}
