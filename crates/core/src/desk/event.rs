//! What happens to windows, what programs ask for them, and what is to be done.

use std::rc::Rc;

use jovrik_values::action::{Action, EdgeResize, ScreenshotTarget, SettingAssignment, Switch};
use jovrik_values::{PixelRect, Side};

use super::action_error::ActionError;
use super::arrangement::PlacedWindow;
use super::panel::Panel;
use super::saved_state::SavedState;
use super::tile_order::TileOrder;
use super::window::{Gravity, StackingState, WindowFacts, WindowId};
use super::window_manager::MonitorFacts;
use crate::rice::Rice;

/// What a program asks for a window.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum WindowRequest {
    /// To be over all of its monitor, or no longer.
    Fullscreen(Switch),
    /// Over which part of the screen it is when it is over all of its monitor, where that is more.
    FullscreenArea(Option<PixelRect>),
    /// To be as wide as there is room, or no longer.
    MaximizedHorz(Switch),
    /// To be as high as there is room, or no longer.
    MaximizedVert(Switch),
    /// To lie elsewhere among those that float.
    Lift(RestackMode),
    /// To be on every workspace, or no longer.
    Sticky(Switch),
    /// To be out of sight.
    Minimized,
    /// To be over the others or below them, or no longer.
    Stacking(StackingState, Switch),
    /// To call, or no longer.
    Urgent(Switch),
    /// Another place or size of its contents on the screen; only one that floats has a say in it.
    Configure {
        /// Left and top, as far as it says.
        at: (Option<i32>, Option<i32>),
        /// Width and height, as far as it says.
        size: (Option<i32>, Option<i32>),
        /// Which point stays, where that is another than it said of itself.
        gravity: Option<Gravity>,
    },
    /// To be on a workspace.
    Workspace(String),
}

/// Where a window comes to lie among those of its workspace that float.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RestackMode {
    /// Over the others.
    Top,
    /// Below the others.
    Bottom,
    /// Over the others; below them when it is over them.
    Opposite,
    /// Directly over one.
    Over(WindowId),
    /// Directly below one.
    Under(WindowId),
}

/// What happens to a desk.
#[derive(Debug, Clone)]
pub enum WmEvent {
    /// A window wants to be seen.
    Mapped(WindowId, WindowFacts),
    /// A window is gone.
    Unmapped(WindowId),
    /// A window's title changed.
    TitleChanged(WindowId, String),
    /// What is known of a window changed otherwise: its sizes, or what it belongs to.
    InfoChanged(WindowId, Box<WindowFacts>),
    /// A program asks something for a window.
    Requested(WindowId, WindowRequest),
    /// A window calls, or no longer does.
    UrgencyChanged(WindowId, bool),
    /// The person points at a window, or asks for it.
    ActivationRequested(WindowId),
    /// The person points at something of ours on a monitor, by its number.
    Pointed(usize),
    /// A person pulls an edge of the focused window, in pixels of the screen.
    EdgeDragged(EdgeResize),
    /// A person dropped a tile at a place of the screen.
    Dropped(WindowId, i32, i32),
    /// A person drags a window to an area of the screen: with its frame, and these of its edges.
    Dragged(WindowId, PixelRect, Vec<Side>),
    /// Tiles are to stand as they stood.
    Ordered(Box<TileOrder>),
    /// A panel or a desktop of another program is there, is otherwise than before, or is gone.
    Panel(WindowId, Option<Panel>),
    /// All windows go out of the way, or come back.
    ShowingDesktopChanged(bool),
    /// Windows that appear next were there before, and come where they were.
    RestoreStarted(Box<SavedState>),
    /// All that were there have appeared.
    RestoreFinished,
    /// The monitors are these now.
    Monitors(Vec<MonitorFacts>),
    /// The settings are these now.
    Settings(Rc<Rice>),
    /// An action, from a key or told.
    ActionInvoked(Action),
}

/// What a stage must do.
#[derive(Debug, Clone, PartialEq)]
pub enum WmEffect {
    /// Put a window into a place.
    Configure {
        /// The window.
        window: WindowId,
        /// The place.
        placed: PlacedWindow,
    },
    /// A window says something else with a frame that lies over other windows.
    RedrawFrame(WindowId),
    /// Show a window.
    Map(WindowId),
    /// Take a window out of sight.
    Unmap(WindowId),
    /// Give the focus.
    Focus(Option<WindowId>),
    /// Ask a window to close.
    Close(WindowId),
    /// End a window's connection.
    Kill(WindowId),
    /// Start a program.
    Spawn {
        /// What is run.
        argv: Vec<String>,
        /// Added to its environment.
        env: Vec<(String, String)>,
    },
    /// Keep a picture of an area of the screen.
    SaveScreenshot(PixelRect, ScreenshotTarget),
    /// A setting is to be another until the next reload, or from now on.
    Set(SettingAssignment),
    /// A setting is picked on this computer: its path, and its value as it is written in a rice.
    Pick(String, String),
    /// Why nothing happened, for whoever asked.
    ReportError(ActionError),
}
