//! Lists to choose from: what stands in them, what a typed text finds there, and where they come from.

mod app_icons;
mod entry;
mod find;
mod gather;

pub use app_icons::{AppIcons, names_of, plain};
pub use entry::{EntryCommand, LauncherEntry, LauncherList};
pub use find::Finder;
pub use gather::{BUILT_IN_LISTS, gather, key_of, lists};
