//! `halving`: each new window halves the one that had the focus, along its longer side.

use jovrik_values::{PixelRect, Side};
use serde::{Deserialize, Serialize};

use super::{LayoutChange, LayoutError, LayoutInput, LayoutResult, Tile, TilingLayout, between, distinct};
use crate::desk::WindowId;
use crate::rice::NewPosition;

/// A half shorter than this is of no use.
const SMALL: i32 = 48;
/// What the first half may take by hand, in ten-thousandths.
const SHARES: std::ops::RangeInclusive<i32> = 500..=9500;

/// How an area is divided: the windows lie in it in the order of tiling.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
enum Piece {
    /// A window.
    Whole,
    /// Two pieces, beside each other or one over the other.
    Halves(Box<Halves>),
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
struct Halves {
    /// Whether they lie beside each other.
    beside: bool,
    /// What the first takes, in ten-thousandths.
    share: i32,
    first: Piece,
    second: Piece,
}

/// How the windows of a workspace divide its area.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct HalvingLayout {
    piece: Option<Piece>,
    /// The windows that it was divided for, in order.
    ids: Vec<WindowId>,
}

impl Piece {
    fn count(&self) -> usize {
        match self {
            Piece::Whole => 1,
            Piece::Halves(halves) => halves.first.count() + halves.second.count(),
        }
    }

    /// Whether no half is thinner than one can be made.
    fn has_sound_shares(&self) -> bool {
        match self {
            Piece::Whole => true,
            Piece::Halves(halves) => {
                let share = SHARES.contains(&halves.share);
                share && halves.first.has_sound_shares() && halves.second.has_sound_shares()
            }
        }
    }

    /// Without its nth window; nothing when that was the only one.
    fn without(self, nth: usize) -> Option<Piece> {
        let Piece::Halves(mut halves) = self else { return None };
        let first = halves.first.count();
        if nth < first {
            match halves.first.without(nth) {
                Some(piece) => halves.first = piece,
                None => return Some(halves.second),
            }
        } else {
            match halves.second.without(nth - first) {
                Some(piece) => halves.second = piece,
                None => return Some(halves.first),
            }
        }
        Some(Piece::Halves(halves))
    }

    /// Where its windows lie, were none too small.
    fn areas(&self, area: PixelRect, gap: i32, areas: &mut Vec<PixelRect>) {
        match self {
            Piece::Whole => areas.push(area),
            Piece::Halves(halves) => {
                let (a, b) = halves.areas(area, gap, (1, 1), (1, 1));
                halves.first.areas(a, gap, areas);
                halves.second.areas(b, gap, areas);
            }
        }
    }

    /// Its nth window is halved; the new one comes after it.
    fn halve(&mut self, nth: usize, area: PixelRect, gap: i32) {
        match self {
            Piece::Whole => {
                let (first, second) = (Piece::Whole, Piece::Whole);
                *self = Piece::Halves(Box::new(Halves { beside: area.w >= area.h, share: 5000, first, second }));
            }
            Piece::Halves(halves) => {
                let first = halves.first.count();
                let (a, b) = halves.areas(area, gap, (1, 1), (1, 1));
                if nth < first { halves.first.halve(nth, a, gap) } else { halves.second.halve(nth - first, b, gap) }
            }
        }
    }

    /// The least size of all its windows together.
    fn least(&self, tiles: &[Tile], gap: i32) -> (i32, i32) {
        match self {
            Piece::Whole => tiles.first().map_or((1, 1), |tile| tile.least),
            Piece::Halves(halves) => {
                let (first, second) = tiles.split_at(halves.first.count().min(tiles.len()));
                let (a, b) = (halves.first.least(first, gap), halves.second.least(second, gap));
                let (w, h) = (a.0.max(b.0), a.1.max(b.1));
                let sum = |a: i32, b: i32| a.saturating_add(b).saturating_add(gap);
                if halves.beside { (sum(a.0, b.0), h) } else { (w, sum(a.1, b.1)) }
            }
        }
    }

    fn arrange(&self, area: PixelRect, tiles: &[Tile], gap: i32, laid: &mut Vec<(WindowId, PixelRect)>) {
        match self {
            Piece::Whole => laid.extend(tiles.first().map(|tile| (tile.id, area))),
            Piece::Halves(halves) => {
                let (first, second) = tiles.split_at(halves.first.count().min(tiles.len()));
                let least = (halves.first.least(first, gap), halves.second.least(second, gap));
                let (a, b) = halves.areas(area, gap, least.0, least.1);
                halves.first.arrange(a, first, gap, laid);
                halves.second.arrange(b, second, gap, laid);
            }
        }
    }

    /// The nearest line that an edge of the nth window lies at goes by so many pixels. Whether there was one.
    fn push(&mut self, nth: usize, edge: Side, by: i32, area: PixelRect, tiles: &[Tile], gap: i32) -> bool {
        let Piece::Halves(halves) = self else { return false };
        let count = halves.first.count();
        let (first, second) = tiles.split_at(count.min(tiles.len()));
        let least = (halves.first.least(first, gap), halves.second.least(second, gap));
        let (a, b) = halves.areas(area, gap, least.0, least.1);
        let in_first = nth < count;
        let inside = match in_first {
            true => halves.first.push(nth, edge, by, a, first, gap),
            false => halves.second.push(nth - count, edge, by, b, second, gap),
        };
        if inside {
            return true;
        }
        let meets = match (halves.beside, in_first) {
            (true, true) => Side::Right,
            (true, false) => Side::Left,
            (false, true) => Side::Bottom,
            (false, false) => Side::Top,
        };
        if edge != meets {
            return false;
        }
        let (now, room) = if halves.beside { (a.w, a.w + b.w) } else { (a.h, a.h + b.h) };
        let wanted = if in_first { now + by } else { now - by };
        halves.share =
            ((f64::from(wanted) * 10_000.0 / f64::from(room.max(1))).round() as i32).clamp(*SHARES.start(), *SHARES.end());
        true
    }
}

impl Halves {
    fn areas(&self, area: PixelRect, gap: i32, least: (i32, i32), other: (i32, i32)) -> (PixelRect, PixelRect) {
        let length = if self.beside { area.w } else { area.h };
        let gap = gap.min((length - 2).max(0));
        let room = (length - gap).max(2);
        let wanted = (i64::from(room) * i64::from(self.share) + 9_999) / 10_000;
        let (least, other) = if self.beside { (least.0, other.0) } else { (least.1, other.1) };
        let first = between(wanted as i32, room, least, other);
        let second_at = (first + gap).min((length - 1).max(0));
        let second = (room - first).min((length - second_at).max(1));
        match self.beside {
            true => (PixelRect { w: first, ..area }, PixelRect { x: area.x + second_at, w: second, ..area }),
            false => (PixelRect { h: first, ..area }, PixelRect { y: area.y + second_at, h: second, ..area }),
        }
    }
}

impl TilingLayout for HalvingLayout {
    fn arrange(&self, ask: &LayoutInput<'_>) -> LayoutResult {
        let mut tiles = Vec::with_capacity(ask.tiles.len());
        if let Some(piece) = &self.piece {
            piece.arrange(ask.area, ask.tiles, ask.gap, &mut tiles);
        }
        LayoutResult { tiles, strip: false }
    }

    fn settle(&mut self, ask: &LayoutInput<'_>) -> Option<Vec<WindowId>> {
        if self.ids.iter().eq(ask.tiles.iter().map(|tile| &tile.id)) {
            return None;
        }
        let new = ask.order();
        let there: std::collections::HashSet<WindowId> = new.iter().copied().collect();
        for at in (0..self.ids.len()).rev().filter(|at| !there.contains(&self.ids[*at])).collect::<Vec<_>>() {
            self.ids.remove(at);
            self.piece = self.piece.take().and_then(|piece| piece.without(at));
        }
        let known: std::collections::HashSet<WindowId> = self.ids.iter().copied().collect();
        for (at, _) in new.iter().enumerate().filter(|(_, id)| !known.contains(id)) {
            match &mut self.piece {
                None => self.piece = Some(Piece::Whole),
                Some(piece) => {
                    let mut areas = Vec::new();
                    piece.areas(ask.area, ask.gap, &mut areas);
                    // Each comes after the one before it in order, and halves that; where that is too small, the largest.
                    let before = at.saturating_sub(1).min(areas.len() - 1);
                    let large = |at: &usize| i64::from(areas[*at].w) * i64::from(areas[*at].h);
                    let small = areas[before].w.max(areas[before].h) < 2 * SMALL;
                    let largest = || (0..areas.len()).rev().max_by_key(large).unwrap_or(before);
                    piece.halve(if small { largest() } else { before }, ask.area, ask.gap);
                }
            }
        }
        self.ids = new;
        None
    }

    fn change(&mut self, change: LayoutChange, ask: &LayoutInput<'_>) -> Result<Vec<WindowId>, LayoutError> {
        let LayoutChange::Edge(side, by) = change else { return Err(LayoutError::Nothing) };
        let nth = ask.front().ok_or(LayoutError::Stays)?;
        let piece = self.piece.as_mut().ok_or(LayoutError::Stays)?;
        if piece.push(nth, side, by, ask.area, ask.tiles, ask.gap) { Ok(ask.order()) } else { Err(LayoutError::Stays) }
    }

    fn new_place(&self) -> Option<NewPosition> {
        Some(NewPosition::AfterFocus)
    }

    fn is_sound(&self) -> bool {
        let (count, shares) = self.piece.as_ref().map_or((0, true), |piece| (piece.count(), piece.has_sound_shares()));
        count == self.ids.len() && shares && distinct(&self.ids)
    }
}
