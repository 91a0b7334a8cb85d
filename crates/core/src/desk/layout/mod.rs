//! Layouts: windows and an area to a place for each. One file each, with a memory of its own on every workspace.

mod grid;
mod halving;
mod main;
mod ribbon;
mod solo;
mod tabs;

use jovrik_values::action::{ColumnChange, MainChange};
use jovrik_values::{PixelRect, Side};
use serde::{Deserialize, Serialize};

use super::window::WindowId;
use crate::rice::{LayoutKind, LayoutRule, NewPosition};

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
pub struct LayoutInput<'a> {
    /// The area to fill.
    pub area: PixelRect,
    /// The monitor that it is on: what lies beyond is not seen.
    pub screen: PixelRect,
    /// The windows, in the order of tiling.
    pub tiles: &'a [Tile],
    /// The gap between them.
    pub gap: i32,
    /// The height of a strip of titles.
    pub strip: i32,
    /// The window that had the focus last.
    pub focus: Option<WindowId>,
    /// What the rice says of the layout.
    pub rule: &'a LayoutRule,
}

impl LayoutInput<'_> {
    /// The windows in the order of tiling.
    fn order(&self) -> Vec<WindowId> {
        self.tiles.iter().map(|tile| tile.id).collect()
    }

    /// The number of the window that had the focus last.
    fn front(&self) -> Option<usize> {
        self.tiles.iter().position(|tile| Some(tile.id) == self.focus)
    }
}

/// What a layout gives.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct LayoutResult {
    /// Where each window that is seen is put, in the order of tiling.
    pub tiles: Vec<(WindowId, PixelRect)>,
    /// Whether a strip with the titles of all windows lies at the top of each tile.
    pub strip: bool,
}

/// What is to be changed of a layout by hand.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LayoutChange {
    /// Its main area.
    Main(MainChange),
    /// The focused column.
    Column(ColumnChange),
    /// An edge of the focused window goes out by so many pixels, or in by less than none.
    Edge(Side, i32),
}

/// What lies beside the focused window.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AdjacentWindow {
    /// What is seen there.
    AsSeen,
    /// A window of this workspace, or none.
    Own(Option<WindowId>),
}

/// Why a layout does not change.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LayoutError {
    /// It has nothing of what was to be changed.
    Nothing,
    /// There is nothing to do: the edge is that of the screen, or all of it is as it should be.
    Stays,
}

/// A way to arrange windows, with what it remembers of one workspace.
trait TilingLayout {
    /// Where each window that is seen is put. Where a layout fills its area, none overlaps another or leaves it.
    fn arrange(&self, ask: &LayoutInput<'_>) -> LayoutResult;
    /// Takes over which windows there are, and where the focus is; another order of the windows, where it wants one.
    fn settle(&mut self, _: &LayoutInput<'_>) -> Option<Vec<WindowId>> {
        None
    }
    /// Changes something by hand; the order of the windows after that.
    fn change(&mut self, _: LayoutChange, _: &LayoutInput<'_>) -> Result<Vec<WindowId>, LayoutError> {
        Err(LayoutError::Nothing)
    }
    /// Which window lies beside the focused one, where what is seen does not tell.
    fn beside(&self, _: Side, _: &LayoutInput<'_>) -> AdjacentWindow {
        AdjacentWindow::AsSeen
    }
    /// How many windows are main ones.
    fn mains(&self, _: &LayoutRule) -> usize {
        0
    }
    /// Where new windows go, when that is not for the rice to say.
    fn new_place(&self) -> Option<NewPosition> {
        None
    }
    /// Whether what it remembers fits together: it may have been written by anybody.
    fn is_sound(&self) -> bool {
        true
    }
}

/// Whether no window stands twice.
fn distinct(ids: &[WindowId]) -> bool {
    let all: std::collections::HashSet<&WindowId> = ids.iter().collect();
    all.len() == ids.len()
}

/// Declares all layouts, each once.
macro_rules! layouts {
    ($($(#[doc = $doc:literal])* $name:ident($layout:ty);)*) => {
        /// A layout on one workspace.
        #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
        pub enum LayoutState {
            $($(#[doc = $doc])* $name($layout),)*
            /// As the windows ask: they all float.
            Free,
        }

        impl LayoutState {
            /// A layout that remembers nothing yet.
            pub fn new(kind: LayoutKind) -> LayoutState {
                match kind {
                    $(LayoutKind::$name => LayoutState::$name(<$layout>::default()),)*
                    LayoutKind::Free => LayoutState::Free,
                }
            }

            fn as_arranges(&self) -> Option<&dyn TilingLayout> {
                match self {
                    $(LayoutState::$name(layout) => Some(layout),)*
                    LayoutState::Free => None,
                }
            }

            fn as_mut(&mut self) -> Option<&mut dyn TilingLayout> {
                match self {
                    $(LayoutState::$name(layout) => Some(layout),)*
                    LayoutState::Free => None,
                }
            }
        }
    };
}

layouts! {
    /// A main area, and a stack.
    Main(main::MainLayout);
    /// One window at a time.
    Solo(solo::SoloLayout);
    /// Rows and columns.
    Grid(grid::GridLayout);
    /// Each new window halves another.
    Halving(halving::HalvingLayout);
    /// Columns that run past the screen.
    Ribbon(ribbon::RibbonLayout);
    /// One window, and the titles of all.
    Tabs(tabs::TabsLayout);
}

impl LayoutState {
    /// Whether it is what a kind asks for.
    pub fn is(&self, kind: LayoutKind) -> bool {
        std::mem::discriminant(self) == std::mem::discriminant(&LayoutState::new(kind))
    }

    /// Where each window that is seen is put, in the order of tiling.
    pub fn arrange(&self, ask: &LayoutInput<'_>) -> LayoutResult {
        self.as_arranges().map(|layout| layout.arrange(ask)).unwrap_or_default()
    }

    /// Takes over which windows there are, and where the focus is; another order of the windows, where it wants one.
    pub fn settle(&mut self, ask: &LayoutInput<'_>) -> Option<Vec<WindowId>> {
        self.as_mut().and_then(|layout| layout.settle(ask))
    }

    /// Which window lies beside the focused one, where what is seen does not tell.
    pub fn beside(&self, side: Side, ask: &LayoutInput<'_>) -> AdjacentWindow {
        self.as_arranges().map_or(AdjacentWindow::AsSeen, |layout| layout.beside(side, ask))
    }

    /// Changes something by hand; the order of the windows after that.
    ///
    /// # Errors
    ///
    /// When this layout has nothing of that, or nothing is left to change.
    pub fn change(&mut self, change: LayoutChange, ask: &LayoutInput<'_>) -> Result<Vec<WindowId>, LayoutError> {
        self.as_mut().map_or(Err(LayoutError::Nothing), |layout| layout.change(change, ask))
    }

    /// Whether what it remembers fits together.
    pub fn is_sound(&self) -> bool {
        self.as_arranges().is_none_or(TilingLayout::is_sound)
    }

    /// How many windows are main ones.
    pub fn mains(&self, rule: &LayoutRule) -> usize {
        self.as_arranges().map_or(0, |layout| layout.mains(rule))
    }

    /// Where new windows go, when that is not for the rice to say.
    pub fn new_place(&self) -> Option<NewPosition> {
        self.as_arranges().and_then(TilingLayout::new_place)
    }
}

/// Splits a length into `count` pieces with gaps; the remainder goes to the first ones. Gaps give way before pieces vanish;
/// where there are more pieces than pixels, the last lie over each other, and none beyond the end.
pub fn split(length: i32, count: usize, gap: i32) -> Vec<(i32, i32)> {
    split_least(length, &vec![1; count], gap)
}

/// The same, with a least length for each piece, which holds where all of them have room.
pub fn split_least(length: i32, least: &[i32], gap: i32) -> Vec<(i32, i32)> {
    let count = least.len() as i32;
    let gap = if count > 1 { gap.min((length - count).max(0) / (count - 1)) } else { 0 };
    let room = (length - gap * (count - 1)).max(count);
    let mut sizes: Vec<Option<i32>> = vec![None; least.len()];
    // Those whose share is too small take what they need, and the others share the rest, until none is too small.
    if least.iter().map(|least| i64::from(*least)).sum::<i64>() <= i64::from(room) {
        loop {
            let (left, open) = left_of(room, &sizes);
            let small = (0..sizes.len()).filter(|at| sizes[*at].is_none() && least[*at] > left / open.max(1)).collect::<Vec<_>>();
            if small.is_empty() || open == 0 {
                break;
            }
            small.into_iter().for_each(|at| sizes[at] = Some(least[at]));
        }
    }
    let (left, open) = left_of(room, &sizes);
    let (each, mut rest) = (left / open.max(1), left % open.max(1));
    let mut at = 0;
    let piece = |size: Option<i32>| {
        let size = size.unwrap_or_else(|| {
            rest -= 1;
            each + i32::from(rest >= 0)
        });
        let start = at.min((length - size).max(0));
        at += size + gap;
        (start, size)
    };
    sizes.into_iter().map(piece).collect()
}

/// What is left for pieces without a size, and how many these are.
fn left_of(room: i32, sizes: &[Option<i32>]) -> (i32, i32) {
    let taken: i32 = sizes.iter().flatten().sum();
    (room - taken, sizes.iter().filter(|size| size.is_none()).count() as i32)
}

/// A length within what is left for two parties with least lengths; where both have no room, as near as can be to the middle.
fn between(length: i32, room: i32, least: i32, other: i32) -> i32 {
    let (least, other) = (least.clamp(1, room.max(2) - 1), other.clamp(1, room.max(2) - 1));
    let (low, high) = (least, room - other);
    if low <= high { length.clamp(low, high) } else { length.clamp(1, room.max(2) - 1) }
}
