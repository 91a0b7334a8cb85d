//! What a bar shows: text patterns, values, and the room each module gets.

mod arrange;
mod pattern;
mod room;
mod strip;
mod value;

pub use arrange::{Now, TRAY_GAP, ToldNow, TrayNow, arrange, values};
pub use pattern::{MOST_PAST, Pattern, PatternError};
pub use room::{Want, fit};
pub use strip::{Known, Mark, MarkState, Shown, Sign, Strip, What};
pub use value::{Field, Grade, NotJson, Values, each_of, past_of};
