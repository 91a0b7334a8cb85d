//! Windows: what a stage tells of them, and what the desk decided.

use jovrik_values::PixelRect;
use serde::{Deserialize, Serialize};

use crate::rice::WindowKind;

/// A window's number, given by its stage.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
pub struct WindowId(pub u32);

/// What a stage tells of a window. Sizes are those of its contents, in pixels of the screen.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct WindowFacts {
    /// The app name (the class of `WM_CLASS`).
    pub app_id: String,
    /// Which of the app's windows it is (the instance of `WM_CLASS`).
    pub instance: String,
    /// What it is for among the app's windows (`WM_WINDOW_ROLE`).
    pub role: String,
    /// The title.
    pub title: String,
    /// What it is for.
    pub window_type: WindowKind,
    /// The window that it belongs to.
    pub transient_for: Option<WindowId>,
    /// The size that it asks for.
    pub size: (i32, i32),
    /// Where its contents ask to be on the screen, when the person or the program chose a place.
    pub at: Option<(i32, i32)>,
    /// Which point of it stays where it asks to be, when a frame comes round it.
    pub gravity: Gravity,
    /// The least size that it is of use in.
    pub min_size: (i32, i32),
    /// The largest size that it can be shown in, where it says one.
    pub max_size: Option<(i32, i32)>,
    /// The steps in which it grows over its base size, where it says some.
    pub size_increments: Option<SizeIncrements>,
    /// The workspace that it was on before, by name.
    pub workspace: Option<String>,
    /// What it asks to be.
    pub asks: InitialState,
    /// Whether it is no rectangle: what lies behind is seen through it.
    pub shaped: bool,
    /// Whether nothing that the person did brought it: then it does not take the focus.
    pub no_initial_focus: bool,
    /// Whether the person started what it comes of.
    pub sought: bool,
    /// The start that it comes of, as its program says (startup notification), or nothing.
    pub startup_id: String,
    /// The number of its process, where it says one.
    pub pid: Option<u32>,
    /// Its own icon, by the name under which the stage keeps it.
    pub picture: Option<String>,
}

impl WindowFacts {
    /// The same after it says something else of itself: what it asked for when it appeared, it does not ask for again. Its title
    /// is told by itself.
    pub(super) fn said_anew(&self, facts: WindowFacts) -> WindowFacts {
        let before = self.clone();
        WindowFacts {
            title: before.title,
            workspace: before.workspace,
            size: before.size,
            at: before.at,
            asks: before.asks,
            no_initial_focus: before.no_initial_focus,
            sought: before.sought,
            startup_id: before.startup_id,
            pid: before.pid,
            picture: facts.picture.clone().or(before.picture),
            ..facts
        }
    }
}

/// Which point of a window stays where it is asked to be, across and down (ICCCM, section 4.1.2.3).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Gravity(pub GravityAxis, pub GravityAxis);

/// The same in one direction.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum GravityAxis {
    /// The near edge of the frame.
    #[default]
    Start,
    /// The middle.
    Middle,
    /// The far edge of the frame.
    End,
    /// The near edge of the contents.
    Static,
}

impl GravityAxis {
    /// Where a frame of a length begins whose contents have another one and ask to begin at a place.
    pub fn outer(self, at: i32, contents: i32, frame: i32) -> i32 {
        let around = frame.saturating_sub(contents);
        at.saturating_sub(match self {
            GravityAxis::Start => 0,
            GravityAxis::Middle | GravityAxis::Static => around / 2,
            GravityAxis::End => around,
        })
    }

    /// Where a frame begins that gets another length.
    pub fn stays(self, at: i32, before: i32, after: i32) -> i32 {
        match self {
            GravityAxis::Start | GravityAxis::Static => at,
            GravityAxis::Middle => at + (before - after) / 2,
            GravityAxis::End => at + before - after,
        }
    }
}

/// The steps of a window's size over a base.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct SizeIncrements {
    /// The size without any.
    pub base: (i32, i32),
    /// One step across, and one down.
    pub by: (i32, i32),
}

/// What a window asks to be before it is seen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct InitialState {
    /// Over all of its monitor.
    pub fullscreen: bool,
    /// As wide as there is room, where it floats.
    pub maximized_horz: bool,
    /// As high as there is room.
    pub maximized_vert: bool,
    /// On every workspace.
    pub sticky: bool,
    /// Out of sight.
    pub minimized: bool,
    /// Over the others, or below them.
    pub stacking: StackingState,
}

/// Whether a program wants a window over or below the others (EWMH).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub enum StackingState {
    /// Below them.
    Below,
    /// Among them.
    #[default]
    Plain,
    /// Over them.
    Above,
}

impl WindowFacts {
    /// Whether it floats over the tiles: it helps another window, or is of one size only.
    pub fn floats(&self) -> bool {
        let fixed = self.max_size.is_some_and(|most| most == self.min_size && most.0 > 0 && most.1 > 0);
        self.transient_for.is_some() || self.window_type != WindowKind::Normal || fixed
    }

    /// The nearest size that it can be shown in.
    pub fn fit(&self, (w, h): (i32, i32)) -> (i32, i32) {
        let most = self.max_size.unwrap_or((i32::MAX, i32::MAX));
        let one = |asked: i32, least: i32, most: i32, base: i32, step: i32| {
            let size = asked.min(most).max(least).max(1);
            // Down to a whole number of steps, as long as that is not too small.
            let even = if step > 1 && size > base { base + (size - base) / step * step } else { size };
            if even >= least { even } else { size }
        };
        let SizeIncrements { base, by } = self.size_increments.unwrap_or_default();
        (one(w, self.min_size.0, most.0, base.0, by.0), one(h, self.min_size.1, most.1, base.1, by.1))
    }
}

/// A window.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Window {
    /// Its facts.
    pub facts: WindowFacts,
    /// Its workspace; of one that is tucked away, the one it was on.
    pub workspace: usize,
    /// Whether it calls.
    pub urgent: bool,
    /// Whether it floats over the tiles.
    pub floating: bool,
    /// Where it floats, with its frame, from the corner of its monitor: kept also while it is a tile.
    pub floating_rect: PixelRect,
    /// Whether it is over all of its monitor while it is in front.
    pub fullscreen: bool,
    /// Over which part of the screen it is then, where that is more than its monitor.
    pub fullscreen_area: Option<PixelRect>,
    /// Whether it is as wide as there is room, while it floats.
    pub maximized_horz: bool,
    /// Whether it is as high as there is room, while it floats.
    pub maximized_vert: bool,
    /// How high it lies among those that float: the highest was lifted last.
    pub stack_serial: u64,
    /// Whether it goes along to every workspace of its monitor.
    pub sticky: bool,
    /// Whether it is out of sight until it is fetched.
    pub minimized: bool,
    /// Whether it wants to be over the others, or below them.
    pub stacking: StackingState,
    /// Whether it has a frame.
    pub decorated: bool,
    /// Whether only urgent notices are shown while it is seen.
    pub quiet: bool,
    /// Whether it may be the current one.
    pub focusable: bool,
    /// How opaque its program is asked to be shown, in hundredths.
    pub opacity: i32,
    /// What rules set on it: the setting, and the last rule that set it.
    pub ruled: Vec<(&'static str, String)>,
}
