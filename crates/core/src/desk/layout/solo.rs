//! `solo`: one window at a time, over the whole area.

use super::Ask;
use crate::desk::Area;

pub(super) fn tile(ask: &Ask) -> Vec<Area> {
    vec![ask.area; ask.count]
}
