//! What a bar shows: text patterns, values, and the room each module gets.

mod arrange;
mod pattern;
mod room;
mod strip;
mod value;

pub use arrange::{BarInput, NotificationSummary, TRAY_GAP, TraySummary, arrange, values};
pub use pattern::{MAX_PAST_VALUES, Pattern, PatternError};
pub use room::{SizeRequest, fit};
pub use strip::{BarLayout, Mark, ModuleContent, ModuleValues, PlacedModule, StyledIcon, WorkspaceState};
pub use value::{FieldValue, Grade, JsonError, Values, each_of, past_of};
