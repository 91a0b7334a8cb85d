//! What a bar shows: text patterns, values, and the room each module gets.

mod pattern;
mod room;
mod value;

pub use pattern::{Pattern, PatternError};
pub use room::{Known, Mark, MarkState, Shown, Strip, What, arrange, text_face};
pub use value::{Field, Grade, Values};
