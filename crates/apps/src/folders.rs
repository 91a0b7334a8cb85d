//! Where entries and programs lie (XDG Base Directory Specification): the first folder that has one wins.

use std::collections::{BTreeMap, HashSet};
use std::path::{Path, PathBuf};

use jovrik_file::read_file;

use crate::entry::{DesktopEntry, Locale};

/// What of the environment says where to look, and what to show.
#[derive(Debug, Clone, Default)]
pub struct XdgEnvironment {
    /// `HOME`.
    pub home: PathBuf,
    /// `XDG_DATA_HOME`, or nothing.
    pub data_home: Option<PathBuf>,
    /// `XDG_DATA_DIRS`, or nothing.
    pub data_dirs: Option<String>,
    /// `PATH`.
    pub path: String,
    /// `XDG_CURRENT_DESKTOP`, apart.
    pub desktops: Vec<String>,
    /// The language of messages.
    pub locale: Locale,
}

/// What was found.
#[derive(Debug, Clone, Default)]
pub struct EntryScan {
    /// The entries that are to be shown, by their ids, with their files.
    pub entries: BTreeMap<String, (PathBuf, DesktopEntry)>,
    /// Files that are left out: where, and why.
    pub left_out: Vec<(PathBuf, String)>,
}

/// The largest entry that is read, in bytes, so many of them, and so deep in folders.
const MAX_ENTRY_BYTES: u64 = 256 * 1024;
const MAX_ENTRY_FILES: usize = 20_000;
const DEEPEST: usize = 8;

impl XdgEnvironment {
    /// Those of this process. `desktop` is what the desktop is called where nobody says otherwise.
    pub fn of_environment(desktop: &str) -> XdgEnvironment {
        let set = |name: &str| std::env::var(name).ok().filter(|value| !value.is_empty());
        let language = ["LC_ALL", "LC_MESSAGES", "LANG"].into_iter().find_map(set).unwrap_or_default();
        let desktops = set("XDG_CURRENT_DESKTOP").unwrap_or_else(|| desktop.to_owned());
        XdgEnvironment {
            home: set("HOME").unwrap_or_default().into(),
            data_home: set("XDG_DATA_HOME").map(PathBuf::from).filter(|path| path.is_absolute()),
            data_dirs: set("XDG_DATA_DIRS"),
            path: set("PATH").unwrap_or_default(),
            desktops: desktops.split(':').map(str::to_owned).collect(),
            locale: Locale::parse(&language),
        }
    }

    /// The folders of data, the person's own first.
    pub fn data(&self) -> Vec<PathBuf> {
        let own = self.data_home.clone().unwrap_or_else(|| self.home.join(".local/share"));
        let dirs = self.data_dirs.as_deref().unwrap_or("/usr/local/share:/usr/share");
        let mut all = vec![own];
        all.extend(dirs.split(':').map(PathBuf::from));
        let mut seen = HashSet::new();
        // A relative path is to be ignored.
        all.retain(|path| path.is_absolute() && seen.insert(path.clone()));
        all
    }

    /// Whether a program is there: by its path, or in a folder of `PATH`.
    pub fn has_program(&self, name: &str) -> bool {
        has_program(&self.path, name)
    }
}

/// Whether somebody may run a file.
fn runs(path: &Path) -> bool {
    use std::os::unix::fs::PermissionsExt;
    path.metadata().is_ok_and(|about| about.is_file() && about.permissions().mode() & 0o111 != 0)
}

/// Whether a program is there: by its path, or in a folder of `path`, which is written as `PATH` is.
pub fn has_program(path: &str, name: &str) -> bool {
    if name.contains('/') {
        return runs(Path::new(name));
    }
    !name.is_empty() && path.split(':').any(|folder| runs(&Path::new(folder).join(name)))
}

/// The folders that entries lie in, whether they are there or not: what is to be watched.
pub fn folders(places: &XdgEnvironment) -> Vec<PathBuf> {
    places.data().into_iter().map(|folder| folder.join("applications")).collect()
}

/// Finds all entries that are to be shown. One that is broken is left out and told of; it hides no other one.
pub fn entries(places: &XdgEnvironment) -> EntryScan {
    let mut found = EntryScan::default();
    let mut taken = HashSet::new();
    let mut left = MAX_ENTRY_FILES;
    for folder in folders(places) {
        let mut files = Vec::new();
        walk(&folder, &folder, 0, &mut left, &mut files);
        files.sort();
        for (id, path) in files {
            if taken.contains(&id) {
                continue;
            }
            let read = read_file(&path, MAX_ENTRY_BYTES).map_err(|why| why.to_string());
            let text = read.and_then(|bytes| String::from_utf8(bytes).map_err(|_| "it is not in UTF-8".to_owned()));
            let entry = text.and_then(|text| DesktopEntry::parse(&text, &places.locale).map_err(|why| why.to_string()));
            match entry {
                Ok(Some(entry)) => {
                    // Also one that is not to be shown hides those of its name.
                    taken.insert(id.clone());
                    let there = entry.try_exec.is_empty() || places.has_program(&entry.try_exec);
                    if there && entry.shown_in(&places.desktops) {
                        found.entries.insert(id, (path, entry));
                    }
                }
                Ok(None) => {}
                Err(why) => found.left_out.push((path, why)),
            }
        }
    }
    found
}

/// The files below a folder, with the ids that they give: `folder/file.desktop` is `folder-file.desktop`.
fn walk(top: &Path, folder: &Path, deep: usize, left: &mut usize, files: &mut Vec<(String, PathBuf)>) {
    let Ok(read) = std::fs::read_dir(folder) else { return };
    for entry in read.filter_map(Result::ok) {
        if *left == 0 {
            return;
        }
        *left -= 1;
        let path = entry.path();
        if path.extension().is_some_and(|end| end == "desktop") {
            let inner = path.strip_prefix(top).unwrap_or(&path);
            files.push((inner.to_string_lossy().replace('/', "-"), path));
        } else if deep < DEEPEST && path.is_dir() {
            walk(top, &path, deep + 1, left, files);
        }
    }
}

/// The names of all programs on `PATH`, in order.
pub fn programs(places: &XdgEnvironment) -> Vec<String> {
    let mut names = std::collections::BTreeSet::new();
    for folder in places.path.split(':').filter(|folder| folder.starts_with('/')) {
        let Ok(read) = std::fs::read_dir(folder) else { continue };
        for entry in read.filter_map(Result::ok).take(MAX_ENTRY_FILES) {
            if let (true, Ok(name)) = (runs(&entry.path()), entry.file_name().into_string()) {
                names.insert(name);
            }
        }
    }
    names.into_iter().collect()
}
