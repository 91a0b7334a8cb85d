//! Lists to choose from: what stands in them, what a typed text finds there, and where they come from.

mod app_icons;
mod built_in_lists;
mod entry;
mod fuzzy;

pub use app_icons::{AppIcons, names_of, plain};
pub use built_in_lists::{BUILT_IN_LISTS, gather, key_of, lists};
pub use entry::{EntryCommand, LauncherEntry, LauncherList};
pub use fuzzy::Finder;
