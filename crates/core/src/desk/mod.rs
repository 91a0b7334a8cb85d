//! The desk: one pure state machine. State and event give state and effects; it knows no display server.

mod action;
mod area;
pub mod layout;
mod machine;
mod monitors;
mod state;
mod window;

pub use action::{ACTIONS, Action, Bars, MainChange, Thing, UnknownAction, Way, Which, action_choices, shell_line, shell_words};
pub use area::Area;
pub use machine::{Effect, Event};
pub use state::{Arrangement, Desk, FrameAt, FrameState, LayoutSketch, Monitor, MonitorFacts, Placed, Workspace};
pub use window::{Window, WindowFacts, WindowId};
