//! Windows: what a stage tells of them, and what the desk decided.

use serde::{Deserialize, Serialize};

use super::Area;
use crate::rice::WindowKind;

/// A window's number, given by its stage.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
pub struct WindowId(pub u32);

/// What a stage tells of a window. Sizes are those of its contents, in pixels of the screen.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct WindowFacts {
    /// The app name (the class of `WM_CLASS`).
    pub app: String,
    /// Which of the app's windows it is (the instance of `WM_CLASS`).
    pub instance: String,
    /// What it is for among the app's windows (`WM_WINDOW_ROLE`).
    pub role: String,
    /// The title.
    pub title: String,
    /// What it is for.
    pub kind: WindowKind,
    /// The window that it belongs to.
    pub parent: Option<WindowId>,
    /// The size that it asks for.
    pub size: (i32, i32),
    /// Where its contents ask to be on the screen, when the person or the program chose a place.
    pub at: Option<(i32, i32)>,
    /// Which point of it stays where it asks to be, when a frame comes round it.
    pub gravity: Gravity,
    /// The least size that it is of use in.
    pub least: (i32, i32),
    /// The largest size that it can be shown in, where it says one.
    pub most: Option<(i32, i32)>,
    /// The steps in which it grows over its base size, where it says some.
    pub steps: Option<Steps>,
    /// The workspace that it was on before, by name.
    pub workspace: Option<String>,
    /// What it asks to be.
    pub asks: Asks,
    /// Whether it is no rectangle: what lies behind is seen through it.
    pub shaped: bool,
    /// Whether nothing that the person did brought it: then it does not take the focus.
    pub unasked: bool,
    /// Whether the person started what it comes of.
    pub sought: bool,
    /// The start that it comes of, as its program says (startup notification), or nothing.
    pub start: String,
    /// The number of its process, where it says one.
    pub process: Option<u32>,
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
            unasked: before.unasked,
            sought: before.sought,
            start: before.start,
            process: before.process,
            picture: facts.picture.clone().or(before.picture),
            ..facts
        }
    }
}

/// Which point of a window stays where it is asked to be, across and down (ICCCM, section 4.1.2.3).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Gravity(pub Pull, pub Pull);

/// The same in one direction.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Pull {
    /// The near edge of the frame.
    #[default]
    Start,
    /// The middle.
    Middle,
    /// The far edge of the frame.
    End,
    /// The near edge of the contents.
    Inside,
}

impl Pull {
    /// Where a frame of a length begins whose contents have another one and ask to begin at a place.
    pub fn outer(self, at: i32, contents: i32, frame: i32) -> i32 {
        let around = frame.saturating_sub(contents);
        at.saturating_sub(match self {
            Pull::Start => 0,
            Pull::Middle | Pull::Inside => around / 2,
            Pull::End => around,
        })
    }

    /// Where a frame begins that gets another length.
    pub fn stays(self, at: i32, before: i32, after: i32) -> i32 {
        match self {
            Pull::Start | Pull::Inside => at,
            Pull::Middle => at + (before - after) / 2,
            Pull::End => at + before - after,
        }
    }
}

/// The steps of a window's size over a base.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Steps {
    /// The size without any.
    pub base: (i32, i32),
    /// One step across, and one down.
    pub by: (i32, i32),
}

/// What a window asks to be before it is seen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Asks {
    /// Over all of its monitor.
    pub full: bool,
    /// As wide as there is room, where it floats.
    pub wide: bool,
    /// As high as there is room.
    pub tall: bool,
    /// On every workspace.
    pub pegged: bool,
    /// Out of sight.
    pub tucked: bool,
    /// Over the others, or below them.
    pub shelf: Shelf,
}

/// Whether a program wants a window over or below the others (EWMH).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub enum Shelf {
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
        let fixed = self.most.is_some_and(|most| most == self.least && most.0 > 0 && most.1 > 0);
        self.parent.is_some() || self.kind != WindowKind::Normal || fixed
    }

    /// The nearest size that it can be shown in.
    pub fn fit(&self, (w, h): (i32, i32)) -> (i32, i32) {
        let most = self.most.unwrap_or((i32::MAX, i32::MAX));
        let one = |asked: i32, least: i32, most: i32, base: i32, step: i32| {
            let size = asked.min(most).max(least).max(1);
            // Down to a whole number of steps, as long as that is not too small.
            let even = if step > 1 && size > base { base + (size - base) / step * step } else { size };
            if even >= least { even } else { size }
        };
        let Steps { base, by } = self.steps.unwrap_or_default();
        (one(w, self.least.0, most.0, base.0, by.0), one(h, self.least.1, most.1, base.1, by.1))
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
    pub place: Area,
    /// Whether it is over all of its monitor while it is in front.
    pub full: bool,
    /// Over which part of the screen it is then, where that is more than its monitor.
    pub spread: Option<Area>,
    /// Whether it is as wide as there is room, while it floats.
    pub wide: bool,
    /// Whether it is as high as there is room, while it floats.
    pub tall: bool,
    /// How high it lies among those that float: the highest was lifted last.
    pub lift: u64,
    /// Whether it goes along to every workspace of its monitor.
    pub pegged: bool,
    /// Whether it is out of sight until it is fetched.
    pub tucked: bool,
    /// Whether it wants to be over the others, or below them.
    pub shelf: Shelf,
    /// Whether it has a frame.
    pub framed: bool,
    /// Whether only urgent notices are shown while it is seen.
    pub quiet: bool,
    /// Whether it may be the current one.
    pub focusable: bool,
    /// How opaque its program is asked to be shown, in hundredths.
    pub opacity: i32,
    /// What rules set on it: the setting, and the last rule that set it.
    pub ruled: Vec<(&'static str, String)>,
}
