//! `solo`: one window at a time, over the whole area.

use serde::{Deserialize, Serialize};

use super::{LayoutInput, LayoutResult, TilingLayout};

/// Which one is seen, the focus says.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct SoloLayout;

impl TilingLayout for SoloLayout {
    fn arrange(&self, ask: &LayoutInput<'_>) -> LayoutResult {
        let front = ask.front().map(|at| &ask.tiles[at]).or(ask.tiles.last());
        LayoutResult { tiles: front.map(|tile| (tile.id, ask.area)).into_iter().collect(), strip: false }
    }
}
