//! Where files of a rice may come from and go to: regular files alone, from inside the rice to inside the home.

use std::path::{Path, PathBuf};

use jovrik_file::{Unread, inside, other, read_file, resolved};

use crate::Home;
use crate::file::MOST_KEPT;

/// Where a file may not go, and why.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum NoTarget {
    /// It leads out of the home folder: there is its end.
    Outside(PathBuf),
    /// It is no place for a file at all, in words.
    Unfit(String),
}

impl std::fmt::Display for NoTarget {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            NoTarget::Outside(end) => write!(f, "it leads out of the home folder, to {}", end.display()),
            NoTarget::Unfit(why) => f.write_str(why),
        }
    }
}

/// The file that a target of `[place]` means, links followed.
///
/// Regular files, links to them and places where nothing stands are targets. Nothing outside the home folder is, unless it
/// is named in `outside`, nor what Jovrik itself keeps.
pub fn target(home: &Home, to: &str, outside: &[PathBuf]) -> Result<PathBuf, NoTarget> {
    let unfit = |why: &str| NoTarget::Unfit(why.to_owned());
    let path = home.long(to).ok_or_else(|| unfit("it is written neither as ~/… nor as an absolute path without .."))?;
    let allowed = outside.contains(&path);
    let path = resolved(&path).map_err(|why| NoTarget::Unfit(why.to_string()))?;
    let root = |path: &Path| resolved(path).unwrap_or_else(|_| path.to_owned());
    if [&home.state, &home.config].into_iter().any(|folder| path.starts_with(root(&folder.join("jovrik")))) {
        return Err(unfit("Jovrik keeps its own files there"));
    }
    if let Some(what) = other(&path) {
        return Err(NoTarget::Unfit(format!("it is {what}, not a file")));
    }
    let above = path.ancestors().skip(1).find(|folder| folder.symlink_metadata().is_ok());
    if above.is_some_and(|folder| !folder.is_dir()) {
        return Err(unfit("a part of its path is not a folder"));
    }
    if !allowed && !path.starts_with(root(&home.home)) {
        return Err(NoTarget::Outside(path));
    }
    Ok(path)
}

/// Reads a file of a rice by its path inside: nothing that leads out of the rice's folder, also through links, and nothing
/// that is not a regular file.
pub fn source(folder: &Path, name: &str) -> Result<Vec<u8>, Unread> {
    read_file(&inside(folder, name)?, MOST_KEPT)
}
