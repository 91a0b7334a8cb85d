//! All grammars of values: chords, actions, patterns of text, conditions, expressions, fills, icons, sides and rectangles.

pub mod action;
mod align;
mod capability;
pub mod chord;
mod condition;
mod element_state;
mod expression;
mod field_selector;
mod fill;
mod icon;
mod notification_command;
mod pattern;
mod pixel_rect;
mod rect;
mod side;
mod value;
mod window_pattern;

pub use align::Align;
pub use capability::{ActionText, Argv, ShellLine, Variable};
pub use condition::{Comparison, ComparisonOp, Condition, Conditions, Grades, Operand};
pub use element_state::ElementState;
pub use expression::{Expression, ExpressionError};
pub use field_selector::{FieldSelector, FieldSelectors};
pub use fill::{BorderSides, BorderStyle, Corners, Fill, Gradient, Opacity, Sides};
pub use icon::{Icon, IconRef};
pub use notification_command::NotificationCommand;
pub use pattern::{MAX_PAST_VALUES, Pattern, PatternError};
pub use pixel_rect::PixelRect;
pub use rect::Rect;
pub use side::Side;
pub use value::{FieldValue, Grade, JsonError, ModuleValues, Values, each_of, past_of};
pub use window_pattern::WindowPattern;
