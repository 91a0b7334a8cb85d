//! `main`: some windows share a main area, the rest is a stack.

use jovrik_schema::Length;
use jovrik_values::action::MainChange;
use jovrik_values::{PixelRect, Side};
use serde::{Deserialize, Serialize};

use super::{LayoutChange, LayoutError, LayoutInput, LayoutResult, Tile, TilingLayout, between, split_least};
use crate::desk::WindowId;
use crate::rice::LayoutRule;

/// What was changed of a main area by hand.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct MainLayout {
    /// Its share, in thousandths.
    share: Option<i32>,
    /// How many windows it holds.
    mains: Option<usize>,
}

/// Whether the main area lies beside the stack, and not over or below it.
fn beside(side: Side) -> bool {
    matches!(side, Side::Left | Side::Right)
}

/// The least length of tiles along the line between the two areas, and the sum of them across it.
fn least(tiles: &[Tile], side: Side) -> i32 {
    tiles.iter().map(|tile| if beside(side) { tile.least.0 } else { tile.least.1 }).max().unwrap_or(1)
}

impl MainLayout {
    fn share(&self, rule: &LayoutRule) -> Length {
        self.share.map_or(rule.share, |share| Length::Share(f64::from(share) / 1000.0))
    }

    /// The length of the main area, of what both areas share, and the gap between them.
    fn lengths(&self, ask: &LayoutInput<'_>, mains: usize) -> (i32, i32, i32) {
        let length = if beside(ask.rule.side) { ask.area.w } else { ask.area.h };
        let gap = ask.gap.min((length - 2).max(0));
        let room = (length - gap).max(2);
        let (own, others) = ask.tiles.split_at(mains);
        let main = self.share(ask.rule).of(room).clamp(1, room - 1);
        (between(main, room, least(own, ask.rule.side), least(others, ask.rule.side)), room, gap)
    }

    fn change_main(&mut self, change: MainChange, ask: &LayoutInput<'_>) {
        let long = if beside(ask.rule.side) { ask.area.w } else { ask.area.h };
        let share = self.share.unwrap_or_else(|| {
            let pixels = ask.rule.share.of(long.max(1));
            (f64::from(pixels) * 1000.0 / f64::from(long.max(1))).round() as i32
        });
        let mains = self.mains(ask.rule);
        match change {
            MainChange::Grow => self.share = Some((share + 50).min(900)),
            MainChange::Shrink => self.share = Some((share - 50).max(100)),
            MainChange::More => self.mains = Some((mains + 1).min(9)),
            MainChange::Fewer => self.mains = Some(mains.saturating_sub(1).max(1)),
            // Who stands where is no size.
            MainChange::Swap => {}
        }
    }

    /// The line between the two areas goes where an edge of the focused window goes.
    fn change_edge(&mut self, edge: Side, by: i32, ask: &LayoutInput<'_>) -> Result<(), LayoutError> {
        let mains = self.mains(ask.rule).clamp(1, 9).min(ask.tiles.len());
        let side = ask.rule.side;
        let in_main = ask.front().ok_or(LayoutError::Stays)? < mains;
        // The edge at which the two areas meet: of the main area the one away from its side.
        let meets = if in_main { side.opposite() } else { side };
        if mains == ask.tiles.len() || edge != meets {
            return Err(LayoutError::Stays);
        }
        let (now, room, _) = self.lengths(ask, mains);
        let wanted = if in_main { now + by } else { now - by };
        let share = (f64::from(wanted) * 1000.0 / f64::from(room)).round() as i32;
        self.share = Some(share.clamp(50, 950));
        Ok(())
    }
}

impl TilingLayout for MainLayout {
    fn arrange(&self, ask: &LayoutInput<'_>) -> LayoutResult {
        let LayoutInput { area, gap, .. } = *ask;
        let (count, side) = (ask.tiles.len(), ask.rule.side);
        let mains = self.mains(ask.rule).clamp(1, 9).min(count);
        let (own, others) = ask.tiles.split_at(mains);
        let areas = if others.is_empty() {
            column(area, own, gap, side)
        } else {
            let (main_len, room, gap_here) = self.lengths(ask, mains);
            let rest_len = room - main_len;
            let first = matches!(side, Side::Left | Side::Top);
            let (main_at, rest_at) = if first { (0, main_len + gap_here) } else { (rest_len + gap_here, 0) };
            let cut = |at: i32, len: i32| {
                if beside(side) {
                    PixelRect { x: area.x + at, w: len, ..area }
                } else {
                    PixelRect { y: area.y + at, h: len, ..area }
                }
            };
            let mut areas = column(cut(main_at, main_len), own, gap, side);
            areas.extend(column(cut(rest_at, rest_len), others, gap, side));
            areas
        };
        LayoutResult { tiles: ask.tiles.iter().map(|tile| tile.id).zip(areas).collect(), strip: false }
    }

    fn change(&mut self, change: LayoutChange, ask: &LayoutInput<'_>) -> Result<Vec<WindowId>, LayoutError> {
        match change {
            LayoutChange::Main(MainChange::Swap) => return swapped(ask),
            LayoutChange::Main(change) => self.change_main(change, ask),
            LayoutChange::Edge(side, by) => self.change_edge(side, by, ask)?,
            LayoutChange::Column(_) => return Err(LayoutError::Nothing),
        }
        Ok(ask.order())
    }

    fn is_sound(&self) -> bool {
        self.share.is_none_or(|share| (50..=950).contains(&share)) && self.mains.is_none_or(|mains| (1..=9).contains(&mains))
    }

    fn mains(&self, rule: &LayoutRule) -> usize {
        self.mains.unwrap_or(rule.mains.0 as usize)
    }
}

/// The focused window and the main one change places; of the main one, the second does.
fn swapped(ask: &LayoutInput<'_>) -> Result<Vec<WindowId>, LayoutError> {
    let (mut order, front) = (ask.order(), ask.front().ok_or(LayoutError::Stays)?);
    let other = if front == 0 { 1 } else { front };
    if other >= order.len() {
        return Err(LayoutError::Stays);
    }
    order.swap(0, other);
    Ok(order)
}

/// Windows one above the other, or beside each other when the main area is at the top or bottom.
fn column(area: PixelRect, tiles: &[Tile], gap: i32, side: Side) -> Vec<PixelRect> {
    if beside(side) {
        let least: Vec<i32> = tiles.iter().map(|tile| tile.least.1).collect();
        split_least(area.h, &least, gap).into_iter().map(|(at, len)| PixelRect { y: area.y + at, h: len, ..area }).collect()
    } else {
        let least: Vec<i32> = tiles.iter().map(|tile| tile.least.0).collect();
        split_least(area.w, &least, gap).into_iter().map(|(at, len)| PixelRect { x: area.x + at, w: len, ..area }).collect()
    }
}
