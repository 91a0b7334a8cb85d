//! Layouts: an area and a number of windows to that many areas. One file each.

mod grid;
mod main;
mod solo;

use super::Area;
use crate::rice::{Length, Side};

/// What a layout is asked for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ask {
    /// The area to fill.
    pub area: Area,
    /// How many windows.
    pub count: usize,
    /// The gap between them.
    pub gap: i32,
    /// Where the main area is.
    pub side: Side,
    /// How much it takes.
    pub share: Length,
    /// How many windows it holds.
    pub mains: usize,
}

/// The areas of a layout, first window first. They fill the area exactly; none overlaps, except in `solo`, where all
/// lie in one place.
pub fn tile(kind: crate::rice::LayoutKind, ask: &Ask) -> Vec<Area> {
    use crate::rice::LayoutKind as Kind;
    match kind {
        Kind::Solo => solo::tile(ask),
        Kind::Grid => grid::tile(ask),
        // The check says of the last four that they are not built yet.
        Kind::Main | Kind::Halving | Kind::Ribbon | Kind::Tabs | Kind::Free => main::tile(ask),
    }
}

/// Splits a length into `count` pieces with gaps; the remainder goes to the first ones. Gaps give way before pieces vanish.
pub fn split(length: i32, count: usize, gap: i32) -> Vec<(i32, i32)> {
    let count = count as i32;
    let gap = if count > 1 { gap.min((length - count).max(0) / (count - 1)) } else { 0 };
    let room = (length - gap * (count - 1)).max(count);
    let (each, rest) = (room / count.max(1), room % count.max(1));
    let mut at = 0;
    let piece = |nth: i32| {
        let size = each + i32::from(nth < rest);
        let start = at;
        at += size + gap;
        (start, size)
    };
    (0..count).map(piece).collect()
}
