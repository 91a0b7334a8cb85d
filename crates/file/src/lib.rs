//! Files that come from strangers: only regular ones are opened, never past a limit, never out of a folder.

mod folder;
mod private;

pub use folder::{Folder, open_inside, read_inside};
pub use private::{append_private, private_folder, private_mode, write_private};

use std::fs::{File, Metadata, OpenOptions};
use std::io::{self, Read};
use std::os::unix::fs::{FileTypeExt, OpenOptionsExt};
use std::path::{Component, Path, PathBuf};

/// The most links that are followed on the way to one file, as the kernel does.
const MAX_LINKS: usize = 40;

/// Why a file was not read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum ReadError {
    /// It is not there.
    Missing,
    /// It is something else: a folder, a device, a pipe, a socket; in words.
    Other(&'static str),
    /// It has more bytes than are taken: so many.
    TooLarge(u64),
    /// It leads out of the folder that it must stay in.
    Outside(PathBuf),
    /// The system refuses, in words.
    Refused(String),
}

impl std::error::Error for ReadError {}

impl std::fmt::Display for ReadError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            ReadError::Missing => f.write_str("it does not exist"),
            ReadError::Other(what) => write!(f, "it is {what}, not a file"),
            ReadError::TooLarge(most) if *most < 1024 * 1024 => write!(f, "it has more than {} KiB", most / 1024),
            ReadError::TooLarge(most) => write!(f, "it has more than {} MiB", most / (1024 * 1024)),
            ReadError::Outside(end) => write!(f, "its links lead out of the rice, to {}", end.display()),
            ReadError::Refused(why) => f.write_str(why),
        }
    }
}

impl From<io::Error> for ReadError {
    fn from(error: io::Error) -> Self {
        match error.kind() {
            io::ErrorKind::NotFound => ReadError::Missing,
            _ => ReadError::Refused(in_words(&error)),
        }
    }
}

impl From<ReadError> for io::Error {
    fn from(why: ReadError) -> Self {
        match why {
            ReadError::Missing => io::ErrorKind::NotFound.into(),
            why => io::Error::other(why.to_string()),
        }
    }
}

/// An operating system's error, said plainly.
pub fn in_words(error: &io::Error) -> String {
    use io::ErrorKind as Kind;
    match error.kind() {
        Kind::NotFound => "it does not exist".to_owned(),
        Kind::PermissionDenied => "it may not be read or written by this user".to_owned(),
        Kind::IsADirectory => "it is a folder".to_owned(),
        Kind::NotADirectory => "a part of its path is not a folder".to_owned(),
        Kind::AlreadyExists => "it is there already".to_owned(),
        Kind::StorageFull => "the disk is full".to_owned(),
        Kind::FileTooLarge => "the system lets no file grow so large".to_owned(),
        Kind::ReadOnlyFilesystem => "the disk is read-only".to_owned(),
        _ if error.raw_os_error() == Some(rustix::io::Errno::LOOP.raw_os_error()) => "its links lead in a circle".to_owned(),
        _ => error.to_string().split(" (os").next().unwrap_or_default().to_lowercase(),
    }
}

/// What something that is no regular file is called.
fn kind_of(metadata: &Metadata) -> Option<&'static str> {
    let kind = metadata.file_type();
    match () {
        () if kind.is_file() => None,
        () if kind.is_dir() => Some("a folder"),
        () if kind.is_symlink() => Some("a link"),
        () if kind.is_fifo() => Some("a pipe"),
        () if kind.is_socket() => Some("a socket"),
        () => Some("a device"),
    }
}

/// Whether something else than a regular file stands at a place, links followed, and what.
pub fn other(path: &Path) -> Option<&'static str> {
    std::fs::metadata(path).ok().as_ref().and_then(kind_of)
}

/// Whether something is a regular file of at most so many bytes.
fn fit(metadata: &Metadata, most: u64) -> Result<(), ReadError> {
    match kind_of(metadata) {
        Some(what) => Err(ReadError::Other(what)),
        None if metadata.len() > most => Err(ReadError::TooLarge(most)),
        None => Ok(()),
    }
}

/// Opens a regular file of at most so many bytes, links followed; anything else is not even opened.
pub fn open_file(path: &Path, most: u64) -> Result<(File, Metadata), ReadError> {
    fit(&std::fs::metadata(path)?, most)?;
    // What stands there may have been changed since: opening never waits, and what was opened is looked at again.
    let flags = (rustix::fs::OFlags::NONBLOCK | rustix::fs::OFlags::NOCTTY).bits();
    let file = OpenOptions::new().read(true).custom_flags(flags as i32).open(path)?;
    let metadata = file.metadata()?;
    fit(&metadata, most)?;
    Ok((file, metadata))
}

/// Reads what is left of an open file, unless it is more than so many bytes.
pub fn read_open(file: File, metadata: &Metadata, most: u64) -> Result<Vec<u8>, ReadError> {
    let mut bytes = Vec::with_capacity(metadata.len().min(most) as usize);
    file.take(most.saturating_add(1)).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > most { Err(ReadError::TooLarge(most)) } else { Ok(bytes) }
}

/// Reads a regular file of at most so many bytes, links followed.
pub fn read_file(path: &Path, most: u64) -> Result<Vec<u8>, ReadError> {
    let (file, metadata) = open_file(path, most)?;
    read_open(file, &metadata, most)
}

/// The file of this person's home that a path names by `~/`; nothing where it names none, or there is no home.
pub fn at_home(path: &str) -> Option<PathBuf> {
    let rest = path.strip_prefix("~/")?;
    let home = std::env::var_os("HOME").map(PathBuf::from).filter(|home| home.is_absolute())?;
    Some(home.join(rest))
}

/// Where a path leads: every link on the way is followed, also one to something that is not there yet.
pub fn resolved(path: &Path) -> Result<PathBuf, ReadError> {
    let absolute = std::path::absolute(path)?;
    let mut to_go: Vec<PathBuf> = absolute.components().rev().map(|part| PathBuf::from(part.as_os_str())).collect();
    let mut at = PathBuf::from("/");
    let mut links = 0;
    while let Some(part) = to_go.pop() {
        match part.components().next() {
            Some(Component::RootDir) => at = PathBuf::from("/"),
            Some(Component::ParentDir) => {
                at.pop();
            }
            Some(Component::Normal(name)) => {
                let next = at.join(name);
                match std::fs::read_link(&next) {
                    Ok(to) => {
                        links += 1;
                        if links > MAX_LINKS {
                            return Err(ReadError::Refused("its links lead in a circle".to_owned()));
                        }
                        to_go.extend(to.components().rev().map(|part| PathBuf::from(part.as_os_str())));
                    }
                    // No link, or not there: the name stays.
                    Err(_) => at = next,
                }
            }
            _ => {}
        }
    }
    Ok(at)
}

/// The place of a file by its path inside a folder; refused when the path or a link on the way leads out.
pub fn inside(folder: &Path, name: &str) -> Result<PathBuf, ReadError> {
    let plain =
        !name.is_empty() && Path::new(name).components().all(|part| matches!(part, Component::Normal(_) | Component::CurDir));
    if !plain {
        return Err(ReadError::Refused("it is not inside the rice".to_owned()));
    }
    let path = resolved(&folder.join(name))?;
    if path.starts_with(resolved(folder)?) { Ok(path) } else { Err(ReadError::Outside(path)) }
}
