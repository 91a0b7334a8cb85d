//! Lists to choose from: what stands in them, what a typed text finds there, and where they come from.

mod entry;
mod find;
mod gather;

pub use entry::{Deed, Entries, Entry};
pub use find::Finder;
pub use gather::{BUILT_IN_LISTS, gather, key_of, lists};
