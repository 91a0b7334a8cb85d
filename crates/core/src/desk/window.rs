//! Windows: what a stage tells of them, and what the desk decided.

use serde::Serialize;

use crate::rice::WindowKind;

/// A window's number, given by its stage.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize)]
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
    /// The least size that it is of use in.
    pub least: (i32, i32),
    /// The largest size that it can be shown in, where it says one.
    pub most: Option<(i32, i32)>,
    /// The workspace that it was on before, by name.
    pub workspace: Option<String>,
}

impl WindowFacts {
    /// The size in which it floats over the tiles: it helps another window, or is of one size only.
    pub fn floats(&self) -> Option<(i32, i32)> {
        let fixed = self.most.filter(|most| *most == self.least && most.0 > 0 && most.1 > 0);
        let helps = self.parent.is_some() || self.kind != WindowKind::Normal;
        (helps || fixed.is_some()).then(|| fixed.unwrap_or((self.size.0.max(1), self.size.1.max(1))))
    }
}

/// A window.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Window {
    /// Its facts.
    pub facts: WindowFacts,
    /// Its workspace.
    pub workspace: usize,
    /// Whether it calls.
    pub urgent: bool,
    /// The size in which it floats, if it does.
    pub floating: Option<(i32, i32)>,
}
