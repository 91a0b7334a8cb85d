//! `solo`: one window at a time, over the whole area.

use serde::{Deserialize, Serialize};

use super::{Arranges, Ask, Laid};

/// Which one is seen, the focus says.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Solo;

impl Arranges for Solo {
    fn arrange(&self, ask: &Ask<'_>) -> Laid {
        let front = ask.front().map(|at| &ask.tiles[at]).or(ask.tiles.last());
        Laid { tiles: front.map(|tile| (tile.id, ask.area)).into_iter().collect(), strip: false }
    }
}
