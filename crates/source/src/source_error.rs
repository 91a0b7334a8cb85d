//! Why a source has no values.

use std::path::PathBuf;

/// Why a source has no values, as a person is told it.
#[derive(Debug, thiserror::Error)]
pub enum SourceError {
    /// Nothing says what is run.
    #[error("no program is named")]
    Unnamed,
    /// No folder of `PATH` has it.
    #[error("{0} is not on this computer")]
    NotHere(String),
    /// It is not to be run by this person.
    #[error("{0} may not be run")]
    NotAllowed(String),
    /// It is open for writing (`ETXTBSY`), as while an editor saves it.
    #[error("{0} is still being written")]
    BeingWritten(String),
    /// The system would not.
    #[error("{0}: {1}")]
    Failed(String, std::io::Error),
    /// What it writes does not come here.
    #[error("its output cannot be read")]
    Mute,
    /// A file that cannot be read, and why.
    #[error("{path}: {why}", path = .0.display(), why = .1)]
    File(PathBuf, String),
    /// A file that is no text.
    #[error("{path} is not UTF-8", path = .0.display())]
    NotText(PathBuf),
    /// A stream that said nothing for too long.
    #[error("no line came in time")]
    Late,
    /// The computer has nothing of the kind.
    #[error("this computer has no {0}")]
    None(&'static str),
}
