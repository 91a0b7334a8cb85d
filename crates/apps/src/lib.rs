//! What a computer offers to start: desktop entries (Desktop Entry Specification 1.5), programs on `PATH`, and the
//! icons of themes (Icon Theme Specification 0.13), and where their small pictures lie (Thumbnail Managing Standard 0.9). Files of strangers: nothing in them is trusted, and no one of them
//! hides the others.

mod entry;
mod exec;
mod folders;
mod groups;
mod icons;
mod thumbnails;

pub use entry::{Broken, DesktopEntry, EntryAction, Locale};
pub use exec::{BadExec, command};
pub use folders::{Found, Places, entries, folders, has_program, programs};
pub use groups::{BadLine, Groups, groups};
pub use icons::Icons;
pub use thumbnails::{ThumbnailPlace, thumbnail_place};
