//! `grid`: rows and columns as even as can be.

use super::{Arranges, Ask, split};
use crate::desk::{Area, WindowId};

/// A grid remembers nothing.
#[derive(Debug, Clone, PartialEq)]
pub struct Grid;

impl Arranges for Grid {
    fn arrange(&self, ask: &Ask<'_>) -> Vec<(WindowId, Area)> {
        let (area, gap, count) = (ask.area, ask.gap, ask.tiles.len());
        // As many columns as rows, or one more: tiles stay wide on a wide monitor and high on a high one.
        let root = (1..=count).find(|side| side * side >= count).unwrap_or(1);
        let (columns, rows) = match area.w >= area.h {
            true => (root, count.div_ceil(root)),
            false => (count.div_ceil(root), root.min(count)),
        };
        let mut areas = Vec::with_capacity(count);
        for (row, (y, h)) in split(area.h, rows, gap).into_iter().enumerate() {
            // The last row has what is left, and fills its width.
            let here = columns.min(count.saturating_sub(row * columns));
            areas.extend(split(area.w, here, gap).into_iter().map(|(x, w)| Area { x: area.x + x, y: area.y + y, w, h }));
        }
        ask.tiles.iter().map(|tile| tile.id).zip(areas).collect()
    }
}
