//! The catalogue of settings, merging of texts along it, typed reading by it, and the plain kinds of values.

mod capability;
pub mod catalogue;
mod kinds;
mod merge;
mod named_value;
mod reader;

pub use kinds::{
    Colour, ColourRoles, Glob, InlineTable, Integer, Length, NamedMap, PathMap, Points, Px, Scale, TimeSpan, Weight, kind,
};
pub use merge::{Branch, ConfigLayer, Leaf, Merger, Tree};
pub use reader::{MAX_REFERENCE_STEPS, ReadCursor, SettingReader, read_table, read_table_with};
