//! What can go wrong with files.

use std::path::{Path, PathBuf};

/// Why something could not be done.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// A file could not be read or written.
    #[error("{}: {why}", path.display())]
    File {
        /// The file.
        path: PathBuf,
        /// Why, in words.
        why: String,
    },
    /// No rice was found.
    #[error("no rice here: neither this folder nor one above it has a rice.toml, and {} has none", .0.display())]
    NoRice(PathBuf),
    /// A folder that was named holds no rice.
    #[error("{} is no rice: it has no rice.toml", .0.display())]
    NotARice(PathBuf),
    /// A path of a setting that does not exist.
    #[error("there is no setting {path}")]
    NoSetting {
        /// The path.
        path: String,
        /// The nearest that exists.
        near: Option<String>,
    },
    /// A setting that the rice does not set.
    #[error("{0} is not set in this rice")]
    NotSet(String),
    /// An edit that the check refuses.
    #[error("the rice would have errors")]
    Refused(Box<jovrik_core::check::Checked>),
    /// The history could not be used.
    #[error("the history cannot be used: {0}")]
    Store(#[from] rusqlite::Error),
    /// Another apply is running.
    #[error("another apply is at work on this home")]
    Busy,
    /// There is nothing to take back.
    #[error("there is nothing to {0}")]
    NothingTo(&'static str),
    /// Files that were changed by hand stand in the way.
    #[error("changed by hand since then, so nothing was done: {}", list(.0))]
    ByHand(Vec<PathBuf>),
    /// A bundle that is not what it says.
    #[error("this bundle is refused: {0}")]
    Bundle(String),
    /// Something that exists stands in the way.
    #[error("{} is there already", .0.display())]
    Exists(PathBuf),
    /// A destination that a rice may not touch.
    #[error("{0}")]
    Place(String),
}

fn list(paths: &[PathBuf]) -> String {
    let names: Vec<String> = paths.iter().map(|path| path.display().to_string()).collect();
    jovrik_core::problem::in_words(&names)
}

impl Error {
    /// A failed call on a file.
    pub fn io(path: &Path, error: &std::io::Error) -> Self {
        Error::File { path: path.to_owned(), why: in_words(error) }
    }
}

/// An operating system's error, said plainly.
pub fn in_words(error: &std::io::Error) -> String {
    use std::io::ErrorKind as Kind;
    match error.kind() {
        Kind::NotFound => "it does not exist".to_owned(),
        Kind::PermissionDenied => "it may not be read or written by this user".to_owned(),
        Kind::IsADirectory => "it is a folder".to_owned(),
        Kind::NotADirectory => "a part of its path is not a folder".to_owned(),
        Kind::AlreadyExists => "it is there already".to_owned(),
        Kind::StorageFull => "the disk is full".to_owned(),
        _ if error.raw_os_error() == Some(rustix::io::Errno::LOOP.raw_os_error()) => "its links lead in a circle".to_owned(),
        _ => error.to_string(),
    }
}
