//! Widgets: what they have to show, and where they lie.

mod layout;
mod reading;

pub use layout::{PlacedWidget, WidgetCache, arrange};
pub use reading::{CLOCK, NUMBERS, gauge, module_of, number_field, told};
