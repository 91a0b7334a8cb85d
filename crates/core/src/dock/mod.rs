//! The dock: what stands in it.

mod items;

pub use items::{DockItem, DockItemKind, focused, items};
