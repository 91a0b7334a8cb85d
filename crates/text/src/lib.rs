//! The ground: files as they were read and places in them, problems as data, words as a shell has them, and the limits of what
//! strangers give.

pub mod limits;
mod ordered;
pub mod problem;
mod shell_words;
mod source;
pub mod trade_words;

pub use ordered::Ordered;
pub use shell_words::{shell_line, shell_words};
pub use source::{FileId, Position, Source, Sources, Span};
