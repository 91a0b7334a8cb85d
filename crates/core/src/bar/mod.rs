//! What a bar shows: text patterns, values, and the room each module gets.

mod bar_builder;
mod bar_layout;
mod space_allocation;

pub use bar_builder::{BarInput, NotificationSummary, TRAY_GAP, TraySummary, arrange, values};
pub use bar_layout::{BarLayout, Mark, ModuleContent, PlacedModule, StyledIcon, WorkspaceState};
pub use space_allocation::{SizeRequest, fit};
