//! Files of our own, which nobody else reads: folders of 0700, files of 0600, mended where they are not.

use std::fs::{DirBuilder, File, OpenOptions, Permissions};
use std::io::{self, ErrorKind, Write};
use std::os::unix::fs::{DirBuilderExt, MetadataExt, OpenOptionsExt, PermissionsExt};
use std::path::Path;

const FOLDER: u32 = 0o700;
const FILE: u32 = 0o600;

/// Takes from what is ours the permissions of others.
fn mend(metadata: &std::fs::Metadata, set: impl FnOnce(Permissions) -> io::Result<()>, most: u32) -> io::Result<()> {
    let mode = metadata.mode() & 0o7777;
    let ours = metadata.uid() == rustix::process::geteuid().as_raw();
    if ours && mode & !most != 0 { set(Permissions::from_mode(mode & most)) } else { Ok(()) }
}

/// Makes a folder that only its owner reads, with all above it that is missing, or takes from one the permissions of others.
///
/// # Errors
///
/// What cannot be made.
pub fn private_folder(folder: &Path) -> io::Result<()> {
    match folder.metadata() {
        Ok(metadata) if metadata.is_dir() => mend(&metadata, |mode| std::fs::set_permissions(folder, mode), FOLDER),
        Ok(_) => Err(ErrorKind::NotADirectory.into()),
        Err(_) => DirBuilder::new().recursive(true).mode(FOLDER).create(folder),
    }
}

/// Takes from a file of ours the permissions of others, if it is there.
///
/// # Errors
///
/// What cannot be set.
pub fn private_mode(path: &Path) -> io::Result<()> {
    match path.symlink_metadata() {
        Ok(metadata) if metadata.is_file() => mend(&metadata, |mode| std::fs::set_permissions(path, mode), FILE),
        _ => Ok(()),
    }
}

/// Opens a file of ours to write at its end, and makes it where it is missing. Nothing but a regular file is opened, and no link.
///
/// # Errors
///
/// What cannot be opened, or is something else.
pub fn append_private(path: &Path) -> io::Result<File> {
    let flags = (rustix::fs::OFlags::NOFOLLOW | rustix::fs::OFlags::NONBLOCK | rustix::fs::OFlags::NOCTTY).bits();
    let mut options = OpenOptions::new();
    let file = options.create(true).append(true).mode(FILE).custom_flags(flags as i32).open(path).map_err(|error| {
        // A pipe that nobody reads.
        if error.raw_os_error() == Some(rustix::io::Errno::NXIO.raw_os_error()) { not_a_file() } else { error }
    })?;
    let metadata = file.metadata()?;
    if !metadata.is_file() {
        return Err(not_a_file());
    }
    mend(&metadata, |mode| file.set_permissions(mode), FILE)?;
    Ok(file)
}

fn not_a_file() -> io::Error {
    io::Error::new(ErrorKind::InvalidInput, "it is no regular file")
}

/// Writes a file of ours whole, in the place of what was there: by another one beside it, which is renamed.
///
/// # Errors
///
/// What cannot be written; what was there stays.
pub fn write_private(path: &Path, bytes: &[u8]) -> io::Result<()> {
    if let Some(folder) = path.parent() {
        private_folder(folder)?;
    }
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    let beside = path.with_file_name(format!(".{name}.{}", std::process::id()));
    let write = || {
        let _ = std::fs::remove_file(&beside);
        let mut file = OpenOptions::new().write(true).create_new(true).mode(FILE).open(&beside)?;
        file.write_all(bytes)?;
        std::fs::rename(&beside, path)
    };
    write().inspect_err(|_| drop(std::fs::remove_file(&beside)))
}
