//! Widgets: what they have to show, and where they lie.

mod arrange;
mod gauge;

pub use arrange::{PlacedWidget, WidgetCache, arrange};
pub use gauge::{CLOCK, NUMBERS, gauge, module_of, number_field, told};
