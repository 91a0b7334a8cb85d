//! Text to a merged tree to a typed rice, with every place kept and every problem gathered.

mod edit;
mod merge;
mod outline;
mod parse;
mod reader;
mod source;
mod toggle;

pub use edit::{apply_edits, insert, insert_item, remove, remove_item, remove_table, replace};
pub use merge::{Branch, Layer, Leaf, Merger, Tree};
pub use outline::{Bytes, Entry, Header, Outline};
pub use parse::{Node, Value, bare, node_at, parse, parse_value, quoted, value_of_words};
pub use reader::{At, MAX_REFERENCE_STEPS, Reader, Wrong, read_table, read_table_with};
pub use source::{FileId, Position, Source, Sources, Span};
pub use toggle::{comment_in, comment_out, element_in, element_out, table_in, table_out};
