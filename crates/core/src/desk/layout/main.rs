//! `main`: some windows share a main area, the rest is a stack.

use super::{Arranges, Ask, NoMain, split};
use crate::desk::{Area, MainChange, WindowId};
use crate::rice::{LayoutRule, Length, Side};

/// What was changed of a main area by hand.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Main {
    /// Its share, in thousandths.
    share: Option<i32>,
    /// How many windows it holds.
    mains: Option<usize>,
}

impl Main {
    fn share(&self, rule: &LayoutRule) -> Length {
        self.share.map_or(rule.share, |share| Length::Share(f64::from(share) / 1000.0))
    }
}

impl Arranges for Main {
    fn arrange(&self, ask: &Ask<'_>) -> Vec<(WindowId, Area)> {
        let Ask { area, gap, .. } = *ask;
        let (count, side) = (ask.tiles.len(), ask.rule.side);
        let ids = ask.tiles.iter().map(|tile| tile.id);
        let mains = self.mains(ask.rule).clamp(1, 9).min(count);
        if count == mains {
            return ids.zip(column(area, count, gap, side)).collect();
        }
        let sideways = matches!(side, Side::Left | Side::Right);
        let length = if sideways { area.w } else { area.h };
        let gap_here = gap.min((length - 2).max(0));
        let room = (length - gap_here).max(2);
        let main_len = self.share(ask.rule).of(room).clamp(1, room - 1);
        let rest_len = room - main_len;
        let first = matches!(side, Side::Left | Side::Top);
        let (main_at, rest_at) = if first { (0, main_len + gap_here) } else { (rest_len + gap_here, 0) };
        let cut = |at: i32, len: i32| {
            if sideways { Area { x: area.x + at, w: len, ..area } } else { Area { y: area.y + at, h: len, ..area } }
        };
        let mut areas = column(cut(main_at, main_len), mains, gap, side);
        areas.extend(column(cut(rest_at, rest_len), count - mains, gap, side));
        ids.zip(areas).collect()
    }

    fn change(&mut self, change: MainChange, ask: &Ask<'_>) -> Result<(), NoMain> {
        let long = if matches!(ask.rule.side, Side::Left | Side::Right) { ask.area.w } else { ask.area.h };
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
            // Who stands where is the workspace's.
            MainChange::Swap => {}
        }
        Ok(())
    }

    fn mains(&self, rule: &LayoutRule) -> usize {
        self.mains.unwrap_or(rule.mains.0 as usize)
    }
}

/// Windows one above the other, or beside each other when the main area is at the top or bottom.
fn column(area: Area, count: usize, gap: i32, side: Side) -> Vec<Area> {
    if matches!(side, Side::Top | Side::Bottom) {
        split(area.w, count, gap).into_iter().map(|(at, len)| Area { x: area.x + at, w: len, ..area }).collect()
    } else {
        split(area.h, count, gap).into_iter().map(|(at, len)| Area { y: area.y + at, h: len, ..area }).collect()
    }
}
