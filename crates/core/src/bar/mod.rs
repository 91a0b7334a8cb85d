//! What a bar shows: text patterns, values, and the room each module gets.

mod bar_builder;
mod bar_layout;
mod pattern;
mod space_allocation;
mod value;

pub use bar_builder::{BarInput, NotificationSummary, TRAY_GAP, TraySummary, arrange, values};
pub use bar_layout::{BarLayout, Mark, ModuleContent, PlacedModule, StyledIcon, WorkspaceState};
pub use pattern::{MAX_PAST_VALUES, Pattern, PatternError};
pub use space_allocation::{SizeRequest, fit};
pub use value::{FieldValue, Grade, JsonError, ModuleValues, Values, each_of, past_of};
