//! Where files of a rice may come from and go to: regular files alone, from inside the rice to inside the home.

use std::path::{Path, PathBuf};

use jovrik_file::{ReadError, open_inside, other, read_open, resolved};

use crate::UserDirs;
use crate::disk::{FileAttributes, facts_of};
use crate::file::{FileSnapshot, MAX_KEPT_BYTES};

/// Where a file may not go, and why.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum TargetError {
    /// It leads out of the home folder: there is its end.
    Outside(PathBuf),
    /// It is no place for a file at all, in words.
    Unfit(String),
}

impl std::fmt::Display for TargetError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            TargetError::Outside(end) => write!(f, "it leads out of the home folder, to {}", end.display()),
            TargetError::Unfit(why) => f.write_str(why),
        }
    }
}

/// The file that a target of `[place]` means, links followed.
///
/// Regular files, links to them and places where nothing stands are targets. Nothing outside the home folder is, unless it
/// is named in `outside`, nor what Jovrik itself keeps.
pub fn target(home: &UserDirs, to: &str, outside: &[PathBuf]) -> Result<PathBuf, TargetError> {
    let unfit = |why: &str| TargetError::Unfit(why.to_owned());
    let path = home.long(to).ok_or_else(|| unfit("it is written neither as ~/… nor as an absolute path without .."))?;
    let allowed = outside.contains(&path);
    let path = resolved(&path).map_err(|why| TargetError::Unfit(why.to_string()))?;
    let root = |path: &Path| resolved(path).unwrap_or_else(|_| path.to_owned());
    if [&home.state, &home.config].into_iter().any(|folder| path.starts_with(root(&folder.join("jovrik")))) {
        return Err(unfit("Jovrik keeps its own files there"));
    }
    if let Some(what) = other(&path) {
        return Err(TargetError::Unfit(format!("it is {what}, not a file")));
    }
    let above = path.ancestors().skip(1).find(|folder| folder.symlink_metadata().is_ok());
    if above.is_some_and(|folder| !folder.is_dir()) {
        return Err(unfit("a part of its path is not a folder"));
    }
    if !allowed && !path.starts_with(root(&home.home)) {
        return Err(TargetError::Outside(path));
    }
    Ok(path)
}

/// Reads a file of a rice by its path inside: nothing that leads out of the rice's folder, also through links, and nothing
/// that is not a regular file.
pub fn source(folder: &Path, name: &str) -> Result<Carried, ReadError> {
    let (file, metadata) = open_inside(folder, name, MAX_KEPT_BYTES)?;
    Ok(Carried { mode: facts_of(&metadata).mode, bytes: read_open(file, &metadata, MAX_KEPT_BYTES)? })
}

/// A file of a rice.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Carried {
    /// Its bytes.
    pub bytes: Vec<u8>,
    /// Its permission bits.
    pub mode: u32,
}

impl Carried {
    /// A file of other bytes, made from this one at a path: it has its permissions, as far as this user gives any to new
    /// files.
    pub(crate) fn placed(&self, at: &Path, bytes: Vec<u8>) -> FileSnapshot {
        use std::os::unix::fs::MetadataExt;
        let above = at.ancestors().skip(1).find_map(|folder| folder.metadata().ok());
        // A folder may hand its group on to what is made in it (inode(7), S_ISGID).
        let group = above.filter(|folder| folder.mode() & 0o2000 != 0).map(|folder| folder.gid());
        let facts = FileAttributes {
            mode: self.mode & 0o777 & !umask(),
            user: rustix::process::geteuid().as_raw(),
            group: group.unwrap_or_else(|| rustix::process::getegid().as_raw()),
        };
        FileSnapshot { bytes, facts: Some(facts) }
    }
}

/// The permissions that this process gives to no new file (proc(5), `Umask`); where that is not told, others get nothing.
fn umask() -> u32 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let mask = status.lines().find_map(|line| line.strip_prefix("Umask:")).map(str::trim);
    mask.and_then(|mask| u32::from_str_radix(mask, 8).ok()).unwrap_or(0o077)
}
