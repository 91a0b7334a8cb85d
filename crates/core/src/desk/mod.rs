//! The desk: one pure state machine. State and event give state and effects; it knows no display server.

mod action;
mod appear;
mod area;
mod arrangement;
mod bars;
mod edid;
mod floating;
mod focus;
mod kept;
pub mod layout;
mod level;
mod machine;
mod monitors;
mod order;
mod outputs;
mod panel;
mod refusal;
mod rules;
mod state;
mod window;

pub use action::{
    ACTIONS, Action, Again, BackdropTo, Bars, ColumnChange, Like, MainChange, Reach, Setting, Shot, ShotOf, ShotTo, Switch,
    Target, Thing, ToMonitor, UnknownAction, Way, Which, action_choices, shell_line, shell_words,
};
pub use area::Area;
pub use arrangement::{Arrangement, FrameState, Placed, TabStrip};
pub use edid::edid;
pub use kept::{Kept, KeptWindow, KeptWorkspace};
pub use level::Level;
pub use machine::{Asked, Effect, Event, Lift};
pub use order::Order;
pub use outputs::{Lit, Output, OutputMode, Plan, arranges, plan};
pub use panel::Panel;
pub use refusal::Refusal;
pub use rules::{Judged, Subject, in_order as rules_in_order, judge};
pub use state::{Desk, LayoutSketch, Monitor, MonitorFacts, Workspace};
pub use window::{Asks, Gravity, Pull, Shelf, Steps, Window, WindowFacts, WindowId};
