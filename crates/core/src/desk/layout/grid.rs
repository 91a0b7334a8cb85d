//! `grid`: rows and columns as even as can be.

use jovrik_values::PixelRect;
use serde::{Deserialize, Serialize};

use super::{LayoutInput, LayoutResult, TilingLayout, split_least};

/// A grid remembers nothing.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct GridLayout;

impl TilingLayout for GridLayout {
    fn arrange(&self, ask: &LayoutInput<'_>) -> LayoutResult {
        let (area, gap, count) = (ask.area, ask.gap, ask.tiles.len());
        // As many columns as rows, or one more: tiles stay wide on a wide monitor and high on a high one.
        let root = (1..=count).find(|side| side * side >= count).unwrap_or(1);
        let columns = if area.w >= area.h { root } else { count.div_ceil(root) };
        // The last row has what is left, and fills its width.
        let rows: Vec<&[super::Tile]> = ask.tiles.chunks(columns.max(1)).collect();
        let high: Vec<i32> = rows.iter().map(|row| row.iter().map(|tile| tile.least.1).max().unwrap_or(1)).collect();
        let mut tiles = Vec::with_capacity(count);
        for (row, (y, h)) in rows.iter().zip(split_least(area.h, &high, gap)) {
            let wide: Vec<i32> = row.iter().map(|tile| tile.least.0).collect();
            let across = split_least(area.w, &wide, gap).into_iter();
            tiles.extend(row.iter().zip(across).map(|(tile, (x, w))| (tile.id, PixelRect::new(area.x + x, area.y + y, w, h))));
        }
        LayoutResult { tiles, strip: false }
    }
}
