//! Files written whole or not at all.

use std::io::Write;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};

use crate::Error;

/// A file that was written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Written {
    /// Where it is, links followed.
    pub path: PathBuf,
    /// What it held before; nothing when it was not there.
    pub old: Option<Vec<u8>>,
    /// What it holds now.
    pub new: Vec<u8>,
}

/// Where a link leads in the end; a path that is not there yet stays as it is.
pub fn resolved(path: &Path) -> PathBuf {
    std::fs::canonicalize(path).unwrap_or_else(|_| {
        let name = path.file_name().map(PathBuf::from).unwrap_or_default();
        match path.parent().map(std::fs::canonicalize) {
            Some(Ok(parent)) => parent.join(name),
            _ => path.to_owned(),
        }
    })
}

/// What a file holds; nothing when it is not there.
pub fn contents(path: &Path) -> Result<Option<Vec<u8>>, Error> {
    match std::fs::read(path) {
        Ok(bytes) => Ok(Some(bytes)),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(None),
        Err(error) => Err(Error::io(path, &error)),
    }
}

/// Writes a file beside its target, ready to be renamed onto it; permissions are those of the target.
pub fn stage(target: &Path, bytes: &[u8]) -> Result<tempfile::TempPath, Error> {
    let fail = |error: &std::io::Error| match error.kind() {
        std::io::ErrorKind::NotFound => Error::File { path: target.to_owned(), why: "its folder does not exist".to_owned() },
        _ => Error::io(target, error),
    };
    let folder = target.parent().unwrap_or(Path::new("."));
    let mut file = tempfile::Builder::new().prefix(".jovrik-").tempfile_in(folder).map_err(|error| fail(&error))?;
    file.write_all(bytes).map_err(|error| fail(&error))?;
    let mode = std::fs::metadata(target).map_or(0o644, |facts| facts.permissions().mode() & 0o7777);
    file.as_file().set_permissions(std::fs::Permissions::from_mode(mode)).map_err(|error| fail(&error))?;
    // Closed before it is renamed, so that whoever watches sees one event.
    Ok(file.into_temp_path())
}

/// Like [`stage`], and on the disk before it returns: for what must survive a loss of power.
pub fn stage_durably(target: &Path, bytes: &[u8]) -> Result<tempfile::TempPath, Error> {
    let staged = stage(target, bytes)?;
    let file = std::fs::File::open(&staged).map_err(|error| Error::io(target, &error))?;
    file.sync_all().map_err(|error| Error::io(target, &error))?;
    Ok(staged)
}

/// Writes several files: all are staged before the first is renamed.
pub fn commit(files: &[(PathBuf, Vec<u8>)]) -> Result<Vec<Written>, Error> {
    let mut staged = Vec::new();
    for (path, new) in files {
        let path = resolved(path);
        let old = contents(&path)?;
        staged.push((stage(&path, new)?, Written { path, old, new: new.clone() }));
    }
    let mut written = Vec::new();
    for (file, write) in staged {
        file.persist(&write.path).map_err(|error| Error::io(&write.path, &error.error))?;
        written.push(write);
    }
    Ok(written)
}
