//! Text to a merged tree to a typed rice, with every place kept and every problem gathered.

mod merge;
mod reader;

pub use merge::{Branch, ConfigLayer, Leaf, Merger, Tree};
pub use reader::{MAX_REFERENCE_STEPS, ReadCursor, SettingReader, read_table, read_table_with};
