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
    ACTIONS, Action, BackdropTarget, Bars, ColumnChange, CycleTarget, Direction, EdgeResize, FocusTarget, MainChange,
    MonitorTarget, ReferenceKind, ReloadMode, Screenshot, ScreenshotSource, ScreenshotTarget, SettingAssignment, Switch,
    UnknownAction, WindowQuery, action_choices, shell_line, shell_words,
};
pub use area::PixelRect;
pub use arrangement::{Arrangement, FrameState, PlacedWindow, TabStrip};
pub use edid::edid;
pub use kept::{SavedState, SavedWindow, SavedWorkspace};
pub use level::StackingLayer;
pub use machine::{RestackMode, WindowRequest, WmEffect, WmEvent};
pub use order::TileOrder;
pub use outputs::{DisplayConfig, Output, OutputConfig, OutputMode, arranges, plan};
pub use panel::Panel;
pub use refusal::ActionError;
pub use rules::{RuleMatch, Subject, in_order as rules_in_order, judge};
pub use state::{LayoutSketch, Monitor, MonitorFacts, WindowManager, Workspace};
pub use window::{Gravity, GravityAxis, InitialState, SizeIncrements, StackingState, Window, WindowFacts, WindowId};
