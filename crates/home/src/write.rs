//! Files that nobody takes back, such as pictures and bundles: written whole or not at all.

use std::path::PathBuf;

use crate::Error;
use crate::disk::Disk;
use crate::file::{kept, resolved};

/// Writes several files: all are there, under names of their own, before the first is renamed.
pub fn commit(files: &[(PathBuf, Vec<u8>)]) -> Result<(), Error> {
    let disk = Disk::default();
    let mut staged = Vec::new();
    for (path, bytes) in files {
        let path = resolved(path)?;
        let facts = kept(&path)?.and_then(|old| old.facts);
        let fail = |error: &std::io::Error| match error.kind() {
            std::io::ErrorKind::NotFound => Error::File { path: path.clone(), why: "its folder does not exist".to_owned() },
            _ => Error::io(&path, error),
        };
        let folder = path.parent().unwrap_or(std::path::Path::new("/"));
        let temp = tempfile::Builder::new()
            .prefix(".jovrik-")
            // What could not be written whole is nobody's.
            .make_in(folder, |temp| disk.write_new(temp, bytes, facts).inspect_err(|_| drop(disk.remove(temp))))
            .map_err(|error| fail(&error))?;
        staged.push((temp.into_temp_path(), path));
    }
    for (temp, path) in staged {
        temp.persist(&path).map_err(|error| Error::io(&path, &error.error))?;
    }
    Ok(())
}
