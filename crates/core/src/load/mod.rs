//! Text to a merged tree to a typed rice, with every place kept and every problem gathered.

mod edit;
mod merge;
mod outline;
mod parse;
mod reader;
mod toggle;

pub use edit::{apply_edits, insert, insert_item, remove, remove_item, remove_table, replace};
pub use merge::{Branch, ConfigLayer, Leaf, Merger, Tree};
pub use outline::{ByteRange, Header, KeyValue, Outline};
pub use parse::{SpannedValue, TomlValue, bare, node_at, parse, parse_value, quoted, value_of_words};
pub use reader::{MAX_REFERENCE_STEPS, ReadCursor, SettingReader, ValueError, read_table, read_table_with};
pub use toggle::{comment_in, comment_out, element_in, element_out, table_in, table_out};
