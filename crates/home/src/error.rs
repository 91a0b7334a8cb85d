//! What can go wrong with files.

use std::path::{Path, PathBuf};

use jovrik_file::in_words;

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
    /// A chord that never fires as it is written.
    #[error("{title}; it is {}", ways.join(" or "))]
    Chord {
        /// Why.
        title: String,
        /// How it can be written.
        ways: Vec<String>,
    },
    /// What was picked on this computer is not there to be taken back: a setting, or `nothing`.
    #[error("{0} was picked on this computer")]
    NotPicked(String),
    /// A path of a setting that does not exist.
    #[error("there is no setting {path}")]
    NoSetting {
        /// The path.
        path: String,
        /// The nearest that exists.
        near: Option<String>,
    },
    /// A field of a value that is set as a whole.
    #[error("{field} is a field of {whole}, which is one value")]
    FieldOf {
        /// The field.
        field: String,
        /// The path of the value.
        whole: String,
    },
    /// A setting that the rice does not set.
    #[error("{0} is not set in this rice")]
    NotSet(String),
    /// An edit that the check refuses.
    #[error("the rice would have errors")]
    Refused(std::rc::Rc<jovrik_core::check::CheckedRice>),
    /// The history could not be used.
    #[error("the history cannot be used: {0}")]
    Store(String),
    /// The history was written by a newer program.
    #[error("the history {} is written by a newer version of this program; nothing was done", .0.display())]
    NewerHistory(PathBuf),
    /// Something was begun and could neither be finished nor taken back.
    #[error("{why}; what was begun there is finished, or taken back, by the next command that writes")]
    Unfinished {
        /// What went wrong, with its file.
        why: String,
    },
    /// The home folder cannot be used.
    #[error("{0}")]
    Home(String),
    /// Another command is writing.
    #[error("another command is writing into this home")]
    Busy,
    /// There is nothing to take back.
    #[error("there is nothing to {0}")]
    NothingTo(&'static str),
    /// Nothing came after an entry that could be taken back.
    #[error("nothing that still holds came after entry {0}; jovrik undo alone takes back the latest entry")]
    NothingSince(i64),
    /// Files that were changed by hand stand in the way.
    #[error("changed by hand since then, so nothing was done: {}", list(.0))]
    ByHand(Vec<PathBuf>),
    /// A later entry, of another rice, changed the same files.
    #[error("entry {}, {}, came later and changed {}; nothing was done", entry.id, entry.what, list(paths))]
    Later {
        /// The entry.
        entry: Box<crate::HistoryEntry>,
        /// The files.
        paths: Vec<PathBuf>,
    },
    /// A rice that no apply put there lies where applied rices lie.
    #[error("{} holds a rice that was not put there by apply: {} would be written over; nothing was done", folder.display(), file.display())]
    OwnRice {
        /// The folder.
        folder: PathBuf,
        /// One of its files.
        file: PathBuf,
    },
    /// There is no such entry in the history.
    #[error("there is no entry {0} here")]
    NoEntry(i64),
    /// A bundle that is not what it says.
    #[error("this bundle is refused: {0}")]
    Bundle(String),
    /// A rice of which it cannot be said what it would do.
    #[error("{place}: {unclear}; it is not taken")]
    Unclear {
        /// Where that stands.
        place: String,
        /// What, and why.
        unclear: jovrik_core::check::Unclear,
    },
    /// Something that exists stands in the way.
    #[error("{} is there already", .0.display())]
    Exists(PathBuf),
    /// A destination that a rice may not touch.
    #[error("{0}")]
    Place(String),
}

fn list(paths: &[PathBuf]) -> String {
    let names: Vec<String> = paths.iter().map(|path| path.display().to_string()).collect();
    jovrik_text::problem::in_words(&names)
}

impl From<rusqlite::Error> for Error {
    fn from(error: rusqlite::Error) -> Self {
        Error::Store(error.to_string())
    }
}

impl Error {
    /// A failed call on a file.
    pub fn io(path: &Path, error: &std::io::Error) -> Self {
        Error::File { path: path.to_owned(), why: in_words(error) }
    }

    /// A file that was not read.
    pub fn unread(path: &Path, why: &jovrik_file::ReadError) -> Self {
        Error::File { path: path.to_owned(), why: why.to_string() }
    }
}
