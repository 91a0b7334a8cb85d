//! `tabs`: one window, below a strip with the titles of all.

use serde::{Deserialize, Serialize};

use super::{Arranges, Ask, Beside, Laid};
use crate::rice::Side;

/// Which one is seen, the focus says.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Tabs;

impl Arranges for Tabs {
    fn arrange(&self, ask: &Ask<'_>) -> Laid {
        let Some(front) = ask.front().map(|at| &ask.tiles[at]).or(ask.tiles.last()) else { return Laid::default() };
        // A window by itself needs no strip, and a low one has no room for it.
        let strip = ask.tiles.len() > 1 && ask.area.h > 2 * ask.strip;
        Laid { tiles: vec![(front.id, ask.area)], strip }
    }

    fn beside(&self, side: Side, ask: &Ask<'_>) -> Beside {
        let step = match side {
            Side::Left => -1,
            Side::Right => 1,
            Side::Top | Side::Bottom => return Beside::AsSeen,
        };
        let beside = ask.front().and_then(|at| at.checked_add_signed(step)).and_then(|at| ask.tiles.get(at));
        Beside::Own(beside.map(|tile| tile.id))
    }
}
