//! `main`: some windows share a main area, the rest is a stack.

use super::{Ask, split};
use crate::desk::Area;
use crate::rice::Side;

pub(super) fn tile(ask: &Ask) -> Vec<Area> {
    let Ask { area, count, gap, side, share, mains } = *ask;
    let mains = mains.clamp(1, 9).min(count);
    if count == mains {
        return column(area, count, gap, side);
    }
    let sideways = matches!(side, Side::Left | Side::Right);
    let length = if sideways { area.w } else { area.h };
    let gap_here = gap.min((length - 2).max(0));
    let room = (length - gap_here).max(2);
    let main_len = share.of(room).clamp(1, room - 1);
    let rest_len = room - main_len;
    let first = matches!(side, Side::Left | Side::Top);
    let (main_at, rest_at) = if first { (0, main_len + gap_here) } else { (rest_len + gap_here, 0) };
    let cut = |at: i32, len: i32| {
        if sideways { Area { x: area.x + at, w: len, ..area } } else { Area { y: area.y + at, h: len, ..area } }
    };
    let mut areas = column(cut(main_at, main_len), mains, gap, side);
    areas.extend(column(cut(rest_at, rest_len), count - mains, gap, side));
    areas
}

/// Windows one above the other, or beside each other when the main area is at the top or bottom.
fn column(area: Area, count: usize, gap: i32, side: Side) -> Vec<Area> {
    if matches!(side, Side::Top | Side::Bottom) {
        split(area.w, count, gap).into_iter().map(|(at, len)| Area { x: area.x + at, w: len, ..area }).collect()
    } else {
        split(area.h, count, gap).into_iter().map(|(at, len)| Area { y: area.y + at, h: len, ..area }).collect()
    }
}
