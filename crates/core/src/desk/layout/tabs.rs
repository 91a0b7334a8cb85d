//! `tabs`: one window, below a strip with the titles of all.

use jovrik_values::Side;
use serde::{Deserialize, Serialize};

use super::{AdjacentWindow, LayoutInput, LayoutResult, TilingLayout};

/// Which one is seen, the focus says.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct TabsLayout;

impl TilingLayout for TabsLayout {
    fn arrange(&self, ask: &LayoutInput<'_>) -> LayoutResult {
        let Some(front) = ask.front().map(|at| &ask.tiles[at]).or(ask.tiles.last()) else { return LayoutResult::default() };
        // A window by itself needs no strip, and a low one has no room for it.
        let strip = ask.tiles.len() > 1 && ask.area.h > 2 * ask.strip;
        LayoutResult { tiles: vec![(front.id, ask.area)], strip }
    }

    fn beside(&self, side: Side, ask: &LayoutInput<'_>) -> AdjacentWindow {
        let step = match side {
            Side::Left => -1,
            Side::Right => 1,
            Side::Top | Side::Bottom => return AdjacentWindow::AsSeen,
        };
        let beside = ask.front().and_then(|at| at.checked_add_signed(step)).and_then(|at| ask.tiles.get(at));
        AdjacentWindow::Own(beside.map(|tile| tile.id))
    }
}
