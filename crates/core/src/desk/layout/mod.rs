//! Layouts: windows and an area to a place for each. One file each, with a memory of its own on every workspace.

mod grid;
mod main;
mod solo;

use super::action::MainChange;
use super::area::Area;
use super::window::WindowId;
use crate::rice::{LayoutKind, LayoutRule};

/// A window, as a layout sees it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Tile {
    /// Which it is.
    pub id: WindowId,
    /// The least size that it is of use in, with its frame, in pixels.
    pub least: (i32, i32),
}

/// What a layout is asked for.
#[derive(Debug, Clone, Copy)]
pub struct Ask<'a> {
    /// The area to fill.
    pub area: Area,
    /// The windows, in the order of tiling.
    pub tiles: &'a [Tile],
    /// The gap between them.
    pub gap: i32,
    /// The window that had the focus last.
    pub focus: Option<WindowId>,
    /// What the rice says of the layout.
    pub rule: &'a LayoutRule,
}

/// A layout has nothing of what was to be changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct NoMain;

/// A way to arrange windows, with what it remembers of one workspace.
trait Arranges {
    /// Where each window that is seen is put, in the order of tiling. All lie in the area; none overlaps another.
    fn arrange(&self, ask: &Ask<'_>) -> Vec<(WindowId, Area)>;
    /// Changes its main area.
    fn change(&mut self, _: MainChange, _: &Ask<'_>) -> Result<(), NoMain> {
        Err(NoMain)
    }
    /// How many windows are main ones.
    fn mains(&self, _: &LayoutRule) -> usize {
        0
    }
}

/// A layout on one workspace.
#[derive(Debug, Clone, PartialEq)]
pub enum Layout {
    /// A main area, and a stack.
    Main(main::Main),
    /// One window at a time.
    Solo(solo::Solo),
    /// Rows and columns.
    Grid(grid::Grid),
}

impl Layout {
    /// A layout that remembers nothing yet.
    pub fn new(kind: LayoutKind) -> Layout {
        match kind {
            LayoutKind::Solo => Layout::Solo(solo::Solo),
            LayoutKind::Grid => Layout::Grid(grid::Grid),
            // The check says of the last four that they are not built yet.
            LayoutKind::Main | LayoutKind::Halving | LayoutKind::Ribbon | LayoutKind::Tabs | LayoutKind::Free => {
                Layout::Main(main::Main::default())
            }
        }
    }

    /// Whether it is what a kind asks for.
    pub fn is(&self, kind: LayoutKind) -> bool {
        std::mem::discriminant(self) == std::mem::discriminant(&Layout::new(kind))
    }

    fn as_arranges(&self) -> &dyn Arranges {
        match self {
            Layout::Main(layout) => layout,
            Layout::Solo(layout) => layout,
            Layout::Grid(layout) => layout,
        }
    }

    /// Where each window that is seen is put, in the order of tiling.
    pub fn arrange(&self, ask: &Ask<'_>) -> Vec<(WindowId, Area)> {
        self.as_arranges().arrange(ask)
    }

    /// Changes its main area.
    pub fn change(&mut self, change: MainChange, ask: &Ask<'_>) -> Result<(), NoMain> {
        match self {
            Layout::Main(layout) => layout.change(change, ask),
            Layout::Solo(layout) => layout.change(change, ask),
            Layout::Grid(layout) => layout.change(change, ask),
        }
    }

    /// How many windows are main ones.
    pub fn mains(&self, rule: &LayoutRule) -> usize {
        self.as_arranges().mains(rule)
    }
}

/// Splits a length into `count` pieces with gaps; the remainder goes to the first ones. Gaps give way before pieces vanish;
/// where there are more pieces than pixels, the last lie over each other, and none beyond the end.
pub fn split(length: i32, count: usize, gap: i32) -> Vec<(i32, i32)> {
    let count = count as i32;
    let gap = if count > 1 { gap.min((length - count).max(0) / (count - 1)) } else { 0 };
    let room = (length - gap * (count - 1)).max(count);
    let (each, rest) = (room / count.max(1), room % count.max(1));
    let mut at = 0;
    let piece = |nth: i32| {
        let size = each + i32::from(nth < rest);
        let start = at.min((length - size).max(0));
        at += size + gap;
        (start, size)
    };
    (0..count).map(piece).collect()
}
