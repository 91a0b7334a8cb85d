//! The dock: what stands in it.

mod items;

pub use items::{Item, Stands, focused, items};
