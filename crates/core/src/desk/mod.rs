//! The desk: one pure state machine. State and event give state and effects; it knows no display server.

mod action_error;
mod arrangement;
mod bars;
mod display_config;
mod edid;
mod event;
mod floating;
mod focus;
pub mod layout;
mod monitors;
mod panel;
mod rule_matching;
mod saved_state;
mod stacking_layer;
mod tile_order;
mod update;
mod window;
mod window_lifecycle;
mod window_manager;

pub use action_error::ActionError;
pub use arrangement::{Arrangement, FrameState, PlacedWindow, TabStrip};
pub use display_config::{DisplayConfig, Output, OutputConfig, OutputMode, arranges, plan};
pub use edid::edid;
pub use event::{RestackMode, WindowRequest, WmEffect, WmEvent};
pub use panel::Panel;
pub use rule_matching::{RuleMatch, Subject, in_order as rules_in_order, judge};
pub use saved_state::{SavedState, SavedWindow, SavedWorkspace};
pub use stacking_layer::StackingLayer;
pub use tile_order::TileOrder;
pub use window::{Gravity, GravityAxis, InitialState, SizeIncrements, StackingState, Window, WindowFacts, WindowId};
pub use window_manager::{LayoutSketch, Monitor, MonitorFacts, WindowManager, Workspace};
