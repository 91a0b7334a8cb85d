//! `solo`: one window at a time, over the whole area.

use super::{Arranges, Ask};
use crate::desk::{Area, WindowId};

/// Which one is seen, the focus says.
#[derive(Debug, Clone, PartialEq)]
pub struct Solo;

impl Arranges for Solo {
    fn arrange(&self, ask: &Ask<'_>) -> Vec<(WindowId, Area)> {
        let front = ask.tiles.iter().find(|tile| Some(tile.id) == ask.focus).or(ask.tiles.last());
        front.map(|tile| (tile.id, ask.area)).into_iter().collect()
    }
}
