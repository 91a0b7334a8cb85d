//! Files that are written over or taken away: what they hold, and what belongs to them.

use std::path::{Path, PathBuf};

use jovrik_file::{Folder, ReadError, open_file, read_open};

use crate::Error;
use crate::disk::{FileAttributes, facts_of};

/// The most that is kept of a file which is written over or taken away, in bytes.
pub const MAX_KEPT_BYTES: u64 = 64 * 1024 * 1024;

/// A file as it stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FileSnapshot {
    /// Its bytes.
    pub bytes: Vec<u8>,
    /// Its permissions and its owner; nothing for a file that is yet to be made as any new one.
    pub facts: Option<FileAttributes>,
}

impl FileSnapshot {
    /// What a new file is to hold.
    pub fn new(bytes: impl Into<Vec<u8>>) -> FileSnapshot {
        FileSnapshot { bytes: bytes.into(), facts: None }
    }
}

/// The file that stands at a place, links followed; nothing when there is none.
pub fn kept(path: &Path) -> Result<Option<FileSnapshot>, Error> {
    let read = open_file(path, MAX_KEPT_BYTES).and_then(|(file, metadata)| {
        Ok(FileSnapshot { bytes: read_open(file, &metadata, MAX_KEPT_BYTES)?, facts: Some(facts_of(&metadata)) })
    });
    match read {
        Ok(kept) => Ok(Some(kept)),
        Err(ReadError::Missing) => Ok(None),
        Err(why) => Err(Error::unread(path, &why)),
    }
}

/// What stands at a path that was resolved before.
#[derive(Debug)]
pub(crate) enum There {
    /// A file, or nothing.
    File(Option<FileSnapshot>),
    /// A link has come to stand on the way, or there: the path leads elsewhere now.
    Elsewhere,
}

/// The file that stands at a path without links.
pub(crate) fn there(path: &Path) -> Result<There, Error> {
    let (Some(folder), Some(name)) = (path.parent(), path.file_name()) else {
        return Err(Error::unread(path, &ReadError::Other("a folder")));
    };
    let folder = match Folder::open_plain(folder) {
        Ok(folder) => folder,
        Err(ReadError::Missing) => return Ok(There::File(None)),
        Err(_) => return Ok(There::Elsewhere),
    };
    let read = folder.own_file(name, MAX_KEPT_BYTES).and_then(|(file, metadata)| {
        Ok(FileSnapshot { bytes: read_open(file, &metadata, MAX_KEPT_BYTES)?, facts: Some(facts_of(&metadata)) })
    });
    match read {
        Ok(kept) => Ok(There::File(Some(kept))),
        Err(ReadError::Missing) => Ok(There::File(None)),
        Err(ReadError::Other("a link")) => Ok(There::Elsewhere),
        Err(why) => Err(Error::unread(path, &why)),
    }
}

/// The permissions and the owner of what stands at a place, if something does.
pub(crate) fn facts_at(path: &Path) -> Option<FileAttributes> {
    std::fs::metadata(path).ok().map(|metadata| facts_of(&metadata))
}

/// Where a path leads, links followed.
pub fn resolved(path: &Path) -> Result<PathBuf, Error> {
    jovrik_file::resolved(path).map_err(|why| Error::unread(path, &why))
}
