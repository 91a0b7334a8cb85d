//! TOML (1.1): values with the place of every key and value, outlines that keep every byte, and edits in place.

mod edit;
mod outline;
mod parse;
mod path;
mod toggle;
mod value_error;

pub use edit::{apply_edits, insert, insert_item, remove, remove_item, remove_table, replace};
pub use outline::{ByteRange, Header, KeyValue, Outline};
pub use parse::{SpannedValue, TomlValue, bare, node_at, parse, parse_value, quoted, value_of_words};
pub use path::{path_of, steps};
pub use toggle::{comment_in, comment_out, element_in, element_out, table_in, table_out};
pub use value_error::ValueError;
