//! `ribbon`: columns that keep their widths and run past the screen; the view follows the focus.

use std::collections::HashSet;

use jovrik_schema::Length;
use jovrik_values::action::ColumnChange;
use jovrik_values::{PixelRect, Side};
use serde::{Deserialize, Serialize};

use super::{AdjacentWindow, LayoutChange, LayoutError, LayoutInput, LayoutResult, Tile, TilingLayout, distinct, split_least};
use crate::desk::WindowId;
use crate::rice::{ColumnReveal, NewPosition};

/// How wide a column is.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
enum Width {
    /// The nth of the rice's widths.
    Nth(usize),
    /// So many thousandths of the area: changed by hand.
    Share(i32),
}

/// Some windows one above the other.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
struct Column {
    windows: usize,
    width: Width,
}

/// The columns of a workspace, and what is seen of them.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct RibbonLayout {
    columns: Vec<Column>,
    /// The windows that they hold, in order.
    ids: Vec<WindowId>,
    /// How far the left edge of what is seen lies from that of the first column.
    view: i32,
}

/// One step by hand, in thousandths.
const STEP: i32 = 50;
/// More widths than a rice names, and farther than columns reach, in pixels.
const MAX_COLUMN_WIDTHS: usize = 10_000;
const FARTHEST: i32 = 100_000_000;

impl Width {
    /// In pixels: shares count the gap beside a column, so that two halves fill the area.
    fn of(self, ask: &LayoutInput<'_>, least: i32) -> i32 {
        let widths = &ask.rule.widths;
        let length = match self {
            Width::Nth(nth) => widths.get(nth).or(widths.first()).copied().unwrap_or(Length::Share(0.5)),
            Width::Share(share) => Length::Share(f64::from(share) / 1000.0),
        };
        let pixels = match length {
            Length::Px(pixels) => pixels,
            share => share.of(ask.area.w + ask.gap) - ask.gap,
        };
        pixels.max(least).clamp(1, ask.area.w.max(1))
    }
}

/// The column and the place in it of the nth window.
fn place(columns: &[Column], nth: usize) -> Option<(usize, usize)> {
    let mut first = 0;
    for (at, column) in columns.iter().enumerate() {
        if nth < first + column.windows {
            return Some((at, nth - first));
        }
        first += column.windows;
    }
    None
}

impl RibbonLayout {
    /// The number of the first window of a column.
    fn first(&self, column: usize) -> usize {
        self.columns[..column].iter().map(|column| column.windows).sum()
    }

    fn tiles<'t>(&self, column: usize, tiles: &'t [Tile]) -> &'t [Tile] {
        let first = self.first(column).min(tiles.len());
        &tiles[first..(first + self.columns[column].windows).min(tiles.len())]
    }

    /// Where each column lies, from the first one's left edge: its place and its width.
    fn lanes(&self, ask: &LayoutInput<'_>) -> Vec<(i32, i32)> {
        let mut at = 0;
        let mut tiles = ask.tiles;
        let lane = |column: &Column| {
            let (own, rest) = tiles.split_at(column.windows.min(tiles.len()));
            tiles = rest;
            let width = column.width.of(ask, own.iter().map(|tile| tile.least.0).max().unwrap_or(1));
            let from = at;
            at += width + ask.gap;
            (from, width)
        };
        self.columns.iter().map(lane).collect()
    }

    /// A window goes.
    fn take(&mut self, nth: usize) {
        self.ids.remove(nth);
        if let Some((at, _)) = place(&self.columns, nth) {
            self.columns[at].windows -= 1;
            if self.columns[at].windows == 0 {
                self.columns.remove(at);
            }
        }
    }

    /// The same windows are in another order: columns that stayed whole keep their widths.
    fn reorder(&mut self, new: &[WindowId]) {
        let mut columns = Vec::with_capacity(self.columns.len());
        let mut at = 0;
        while at < new.len() {
            let found = self.ids.iter().position(|id| *id == new[at]).and_then(|nth| place(&self.columns, nth));
            let Some((column, _)) = found else { return };
            let (first, windows) = (self.first(column), self.columns[column].windows);
            let own: HashSet<WindowId> = self.ids[first..first + windows].iter().copied().collect();
            if at + windows > new.len() || new[at..at + windows].iter().any(|id| !own.contains(id)) {
                // Windows of several columns changed places: the columns stay where they are.
                return;
            }
            columns.push(self.columns[column]);
            at += windows;
        }
        self.columns = columns;
    }

    /// The view follows the focused column.
    fn follow(&mut self, ask: &LayoutInput<'_>) {
        let lanes = self.lanes(ask);
        let front = ask.front().and_then(|nth| place(&self.columns, nth)).map_or(0, |(at, _)| at);
        let Some((from, width)) = lanes.get(front).copied() else { return };
        let total = lanes.last().map_or(0, |(from, width)| from + width);
        let room = ask.area.w;
        let rest = ask.rule.rest_at.of((room - width).max(0)).clamp(0, (room - width).max(0));
        let slack = ask.rule.slack.of(room);
        let seen = from - self.view;
        let whole = seen >= 0 && seen + width <= room;
        if whole && slack > 0 && (seen - rest).abs() <= slack {
            // It may lie where it is.
        } else if !whole && ask.rule.when_cut == ColumnReveal::Edge && slack > 0 {
            self.view = if seen < 0 { from } else { from + width - room };
        } else {
            self.view = from - rest;
        }
        if slack > 0 {
            // Nothing is left empty beside the first and the last column; a few of them rest as one does.
            self.view = match total > room {
                true => self.view.clamp(0, total - room),
                false => -ask.rule.rest_at.of(room - total).clamp(0, room - total),
            };
        }
    }

    fn change_column(&mut self, change: ColumnChange, ask: &LayoutInput<'_>) -> Result<Vec<WindowId>, LayoutError> {
        let nth = ask.front().ok_or(LayoutError::Stays)?;
        let (at, _) = place(&self.columns, nth).ok_or(LayoutError::Stays)?;
        let mut order = ask.order();
        match change {
            ColumnChange::Wider => self.widen(at, STEP, ask),
            ColumnChange::Narrower => self.widen(at, -STEP, ask),
            ColumnChange::Cycle => {
                let next = match self.columns[at].width {
                    Width::Nth(nth) => (nth + 1) % ask.rule.widths.len().max(1),
                    Width::Share(_) => 0,
                };
                self.columns[at].width = Width::Nth(next);
            }
            ColumnChange::Join => {
                let to = if at > 0 { at - 1 } else { at + 1 };
                if to >= self.columns.len() {
                    return Err(LayoutError::Stays);
                }
                let id = order.remove(nth);
                // Last in the column at the left; the first column's go first into the one at its right.
                let last = self.first(to) + self.columns[to].windows;
                order.insert(if to < at { last } else { self.first(to) - 1 }, id);
                self.columns[to].windows += 1;
                self.columns[at].windows -= 1;
                if self.columns[at].windows == 0 {
                    self.columns.remove(at);
                }
            }
            ColumnChange::Split => {
                if self.columns[at].windows < 2 {
                    return Err(LayoutError::Stays);
                }
                let id = order.remove(nth);
                self.columns[at].windows -= 1;
                order.insert(self.first(at) + self.columns[at].windows, id);
                self.columns.insert(at + 1, Column { windows: 1, width: self.columns[at].width });
            }
        }
        self.ids.clone_from(&order);
        Ok(order)
    }

    fn widen(&mut self, at: usize, by: i32, ask: &LayoutInput<'_>) {
        let whole = (ask.area.w + ask.gap).max(1);
        let now = self.lanes(ask)[at].1 + ask.gap;
        let share = (f64::from(now) * 1000.0 / f64::from(whole)).round() as i32;
        self.columns[at].width = Width::Share((share + by).clamp(STEP, 1000));
    }
}

impl TilingLayout for RibbonLayout {
    fn arrange(&self, ask: &LayoutInput<'_>) -> LayoutResult {
        let lanes = self.lanes(ask);
        let mut tiles = Vec::new();
        let mut left = ask.tiles;
        for (column, (from, width)) in self.columns.iter().zip(lanes) {
            let (own, rest) = left.split_at(column.windows.min(left.len()));
            left = rest;
            let x = ask.area.x + from - self.view;
            if x >= ask.screen.x + ask.screen.w || x + width <= ask.screen.x {
                continue;
            }
            let least: Vec<i32> = own.iter().map(|tile| tile.least.1).collect();
            let down = split_least(ask.area.h, &least, ask.gap).into_iter();
            tiles.extend(own.iter().zip(down).map(|(tile, (y, h))| (tile.id, PixelRect::new(x, ask.area.y + y, width, h))));
        }
        LayoutResult { tiles, strip: false }
    }

    fn settle(&mut self, ask: &LayoutInput<'_>) -> Option<Vec<WindowId>> {
        let given = ask.order();
        if self.ids != given {
            let there: HashSet<WindowId> = given.iter().copied().collect();
            for nth in (0..self.ids.len()).rev() {
                if !there.contains(&self.ids[nth]) {
                    self.take(nth);
                }
            }
            let known: HashSet<WindowId> = self.ids.iter().copied().collect();
            let kept: Vec<WindowId> = given.iter().copied().filter(|id| known.contains(id)).collect();
            if kept != self.ids {
                self.reorder(&kept);
                self.ids = kept;
            }
            for (nth, id) in given.iter().enumerate().filter(|(_, id)| !known.contains(id)) {
                // A column of its own, after the whole column of the window before it.
                let before = nth.checked_sub(1).and_then(|before| self.ids.iter().position(|id| *id == given[before]));
                let after = before.and_then(|before| place(&self.columns, before)).map_or(0, |(at, _)| at + 1);
                let width = Width::Nth((ask.rule.opens_at.0 as usize).clamp(1, ask.rule.widths.len().max(1)) - 1);
                self.ids.insert(self.first(after), *id);
                self.columns.insert(after, Column { windows: 1, width });
            }
            if self.ids != given {
                return Some(self.ids.clone());
            }
        }
        self.follow(ask);
        None
    }

    fn change(&mut self, change: LayoutChange, ask: &LayoutInput<'_>) -> Result<Vec<WindowId>, LayoutError> {
        match change {
            LayoutChange::Column(change) => self.change_column(change, ask),
            LayoutChange::Edge(Side::Left | Side::Right, by) => {
                let nth = ask.front().ok_or(LayoutError::Stays)?;
                let (at, _) = place(&self.columns, nth).ok_or(LayoutError::Stays)?;
                let whole = f64::from((ask.area.w + ask.gap).max(1));
                self.widen(at, (f64::from(by) * 1000.0 / whole).round() as i32, ask);
                Ok(ask.order())
            }
            LayoutChange::Edge(..) => Err(LayoutError::Stays),
            LayoutChange::Main(_) => Err(LayoutError::Nothing),
        }
    }

    fn beside(&self, side: Side, ask: &LayoutInput<'_>) -> AdjacentWindow {
        let Some((at, down)) = ask.front().and_then(|nth| place(&self.columns, nth)) else { return AdjacentWindow::AsSeen };
        let in_column = |column: usize, down: usize| self.tiles(column, ask.tiles).get(down).map(|tile| tile.id);
        let of = |column: usize| in_column(column, down.min(self.columns[column].windows - 1));
        AdjacentWindow::Own(match side {
            Side::Left => at.checked_sub(1).and_then(of),
            Side::Right => Some(at + 1).filter(|at| *at < self.columns.len()).and_then(of),
            Side::Top => down.checked_sub(1).and_then(|down| in_column(at, down)),
            Side::Bottom => in_column(at, down + 1),
        })
    }

    fn new_place(&self) -> Option<NewPosition> {
        Some(NewPosition::AfterFocus)
    }

    fn is_sound(&self) -> bool {
        let held = self.columns.iter().try_fold(0_usize, |sum, column| sum.checked_add(column.windows));
        let fits = |column: &Column| {
            let width = match column.width {
                Width::Nth(nth) => nth < MAX_COLUMN_WIDTHS,
                Width::Share(share) => (STEP..=1000).contains(&share),
            };
            width && column.windows > 0
        };
        held == Some(self.ids.len())
            && self.columns.iter().all(fits)
            && distinct(&self.ids)
            && (-FARTHEST..=FARTHEST).contains(&self.view)
    }
}
