//! What a computer offers to start: desktop entries (Desktop Entry Specification 1.5), programs on `PATH`, and the
//! icons of themes (Icon Theme Specification 0.13), and where their small pictures lie (Thumbnail Managing Standard 0.9). Files of strangers: nothing in them is trusted, and no one of them
//! hides the others.

mod entry;
mod exec;
mod folders;
mod icons;
mod key_file;
mod thumbnails;

pub use entry::{DesktopAction, DesktopEntry, DesktopEntryError, Locale};
pub use exec::{ExecError, command};
pub use folders::{EntryScan, XdgEnvironment, entries, folders, has_program, programs};
pub use icons::Icons;
pub use key_file::{KeyFile, KeyFileError, groups};
pub use thumbnails::{ThumbnailPlace, thumbnail_place};
