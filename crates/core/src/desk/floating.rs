//! Windows that float: where they come to lie, what lies over what, and how a person moves them.

use std::collections::{HashMap, HashSet};

use jovrik_values::{PixelRect, Side};

use super::arrangement::PlacedWindow;
use super::event::RestackMode;
use super::stacking_layer::StackingLayer;
use super::window::{Gravity, StackingState, WindowFacts, WindowId};
use super::window_manager::{WindowManager, times};

/// More windows than this that float are not looked at for a free place.
const LOOKED_AT: usize = 12;
/// How far a window is put from another one in the very same place.
const ASIDE: i32 = 28;
/// How deep windows that belong to windows are followed.
const DEEP: usize = 16;
/// How near an edge must come to another one to snap to it.
const SNAP: i32 = 10;

/// An area of a size within another, as near as can be to a place; one that is too large is cut to fit.
pub(super) fn kept(area: PixelRect, within: PixelRect) -> PixelRect {
    let within = PixelRect { w: within.w.max(1), h: within.h.max(1), ..within };
    let (w, h) = (area.w.clamp(1, within.w), area.h.clamp(1, within.h));
    let x = area.x.clamp(within.x, within.x + within.w - w);
    let y = area.y.clamp(within.y, within.y + within.h - h);
    PixelRect::new(x, y, w, h)
}

impl WindowManager {
    /// Where a window floats on a monitor: its area with its frame, all of it on the monitor.
    pub(super) fn float_area(&self, id: WindowId, monitor: usize) -> PixelRect {
        let screen = self.monitors[monitor].facts.area;
        let place = self.windows.get(&id).map(|window| window.floating_rect).unwrap_or_default();
        kept(PixelRect { x: place.x + screen.x, y: place.y + screen.y, ..place }, screen)
    }

    /// The same, as wide and as high as there is room where it asks to be.
    pub(super) fn most_area(&self, id: WindowId, monitor: usize) -> PixelRect {
        let area = self.float_area(id, monitor);
        match self.windows.get(&id).map(|window| (window.maximized_horz, window.maximized_vert)) {
            None | Some((false, false)) => area,
            Some((wide, tall)) => {
                let work = self.work_area(monitor);
                let (x, w) = if wide { (work.x, work.w) } else { (area.x, area.w) };
                let (y, h) = if tall { (work.y, work.h) } else { (area.y, area.h) };
                PixelRect::new(x, y, w, h)
            }
        }
    }

    /// A window comes to lie over the others that float.
    pub(super) fn lift(&mut self, id: WindowId) {
        if let Some(window) = self.windows.get_mut(&id) {
            self.lifts += 1;
            window.stack_serial = self.lifts;
        }
    }

    /// A window comes to lie elsewhere among those of its workspace that float; the focus stays.
    pub(super) fn restack(&mut self, id: WindowId, how: RestackMode) {
        let Some(workspace) = self.windows.get(&id).map(|window| window.workspace) else { return };
        let height = |id: &WindowId| self.windows.get(id).map_or(0, |window| window.stack_serial);
        let mut order = self.workspaces[workspace].windows.clone();
        order.sort_by_key(height);
        let mut lifts: Vec<u64> = order.iter().map(height).collect();
        let Some(from) = order.iter().position(|other| *other == id) else { return };
        let top = from + 1 == order.len();
        order.remove(from);
        let beside = |other: WindowId| order.iter().position(|one| *one == other);
        let to = match how {
            RestackMode::Top => order.len(),
            RestackMode::Bottom => 0,
            RestackMode::Opposite => {
                if top {
                    0
                } else {
                    order.len()
                }
            }
            RestackMode::Over(other) => beside(other).map_or(from, |at| at + 1),
            RestackMode::Under(other) => beside(other).unwrap_or(from),
        };
        order.insert(to, id);
        lifts.sort_unstable();
        for (id, lift) in order.into_iter().zip(lifts) {
            if let Some(window) = self.windows.get_mut(&id) {
                window.stack_serial = lift;
            }
        }
    }

    /// The windows over the tiles of a workspace, from below: by when they were lifted, each directly below what belongs to it.
    pub(super) fn floating_order(&self, workspace: usize) -> Vec<WindowId> {
        let own = &self.workspaces[workspace];
        let all: Vec<WindowId> = own.windows.iter().copied().filter(|id| self.floats(*id)).collect();
        if all.len() < 2 {
            return all;
        }
        // What never has the focus lies over the others.
        let rank =
            |id: &WindowId| self.windows.get(id).filter(|one| one.focusable).map_or(u64::MAX, |window| window.stack_serial);
        let among: HashSet<WindowId> = all.iter().copied().collect();
        let parent = |id: WindowId| {
            let parent = self.windows.get(&id)?.facts.transient_for?;
            (parent != id && among.contains(&parent)).then_some(parent)
        };
        let root = |id: WindowId| {
            let mut at = id;
            for _ in 0..DEEP {
                match parent(at) {
                    Some(above) => at = above,
                    None => return at,
                }
            }
            // They belong to each other in a ring, or too deep: it stands by itself.
            id
        };
        let mut highest: HashMap<WindowId, u64> = HashMap::new();
        let mut children: HashMap<WindowId, Vec<WindowId>> = HashMap::new();
        for id in &all {
            let most = highest.entry(root(*id)).or_default();
            *most = (*most).max(rank(id));
            if let Some(parent) = parent(*id).filter(|_| root(*id) != *id) {
                children.entry(parent).or_default().push(*id);
            }
        }
        let mut roots: Vec<WindowId> = all.iter().copied().filter(|id| root(*id) == *id).collect();
        roots.sort_by_key(|id| highest.get(id).copied().unwrap_or_default());
        children.values_mut().for_each(|own| own.sort_by_key(|id| std::cmp::Reverse(rank(id))));
        let mut order = Vec::with_capacity(all.len());
        let mut seen = HashSet::new();
        let mut waiting: Vec<WindowId> = roots.into_iter().rev().collect();
        while let Some(id) = waiting.pop() {
            if seen.insert(id) {
                order.push(id);
                waiting.extend(children.get(&id).into_iter().flatten());
            }
        }
        order.extend(all.into_iter().filter(|id| !seen.contains(id)));
        order
    }

    /// What a window that floats lies over: what it asks for, and never below what it belongs to.
    pub(super) fn level_of(&self, id: WindowId, full: Option<WindowId>, deep: usize) -> StackingLayer {
        let Some(window) = self.windows.get(&id) else { return StackingLayer::Floating };
        let own = match window.stacking {
            _ if full == Some(id) => StackingLayer::Full,
            // What got the focus since one is full lies over that.
            _ if full.is_some_and(|full| self.after(id, full, window.workspace)) => StackingLayer::Full,
            StackingState::Below => StackingLayer::Below,
            StackingState::Plain => StackingLayer::Floating,
            StackingState::Above => StackingLayer::Above,
        };
        let above = window.facts.transient_for.filter(|parent| deep < DEEP && *parent != id);
        above
            .filter(|parent| self.windows.contains_key(parent))
            .map_or(own, |parent| own.max(self.level_of(parent, full, deep + 1)))
    }

    /// The window of a workspace that is over all of its monitor.
    pub(super) fn full_on(&self, workspace: usize) -> Option<WindowId> {
        let full = |id: &&WindowId| self.windows.get(*id).is_some_and(|window| window.fullscreen);
        self.workspaces[workspace].windows.iter().find(full).copied()
    }

    /// Whether a window belongs to another one, or to what belongs to it.
    pub(super) fn belongs(&self, facts: &WindowFacts, to: WindowId) -> bool {
        let mut parent = facts.transient_for;
        for _ in 0..DEEP {
            match parent {
                Some(id) if id == to => return true,
                Some(id) => parent = self.windows.get(&id).and_then(|window| window.facts.transient_for),
                None => return false,
            }
        }
        false
    }

    /// A workspace has one full window at most: the one that had the focus last, as long as no other tile gets it. Whatever
    /// floats may have the focus over it.
    pub(super) fn one_full(&mut self) {
        if self.kept.is_some() {
            return;
        }
        let full: Vec<(WindowId, usize)> = self
            .windows
            .iter()
            .filter(|(_, one)| one.fullscreen && !one.minimized)
            .map(|(id, one)| (*id, one.workspace))
            .collect();
        for (id, at) in full {
            let focus = &self.workspaces[at].focus;
            let since = focus.iter().rev().take_while(|other| **other != id);
            let ends = |other: &WindowId| !self.floats(*other) || self.windows.get(other).is_some_and(|other| other.fullscreen);
            if since.into_iter().any(ends)
                && let Some(window) = self.windows.get_mut(&id)
            {
                window.fullscreen = false;
            }
        }
    }

    /// Whether a window of a workspace got the focus after another one.
    fn after(&self, id: WindowId, than: WindowId, workspace: usize) -> bool {
        let focus = &self.workspaces[workspace].focus;
        focus.iter().rev().take_while(|other| **other != than).any(|other| *other == id)
    }

    /// The size that a window has with its frame when its contents have one.
    pub(super) fn outer_size(&self, id: WindowId, (w, h): (i32, i32)) -> (i32, i32) {
        let Some(window) = self.windows.get(&id) else { return (w, h) };
        let monitor = self.workspaces[window.workspace].monitor;
        let frame = if window.decorated { 2 * times(self.rice.frame.width.0, self.scale(monitor)) } else { 0 };
        (w.saturating_add(frame), h.saturating_add(frame))
    }

    /// Where a window comes to lie when it floats for the first time, from the corner of its monitor: where it asks to be when
    /// that is on the screen, else in the middle of what it belongs to, else where it covers least of the others.
    pub(super) fn first_place(&self, id: WindowId) -> PixelRect {
        let Some(window) = self.windows.get(&id) else { return PixelRect::default() };
        let monitor = self.workspaces[window.workspace].monitor;
        let (screen, work) = (self.monitors[monitor].facts.area, self.work_area(monitor));
        let contents = window.facts.fit(window.facts.size);
        let (w, h) = self.outer_size(id, contents);
        let Gravity(across, down) = window.facts.gravity;
        let asked = window.facts.at.map(|(x, y)| (across.outer(x, contents.0, w), down.outer(y, contents.1, h)));
        let (w, h) = (w.min(work.w), h.min(work.h));
        let centred = |around: PixelRect| PixelRect::new(around.x + (around.w - w) / 2, around.y + (around.h - h) / 2, w, h);
        let asked = asked.map(|(x, y)| PixelRect::new(x, y, w, h)).filter(|area| area.overlap(screen) == Some(*area));
        let parent = window.facts.transient_for.and_then(|parent| self.shown.placed.get(&parent));
        let others = self.workspaces[window.workspace].windows.iter().rev();
        let others = others.filter(|other| **other != id && self.floats(**other));
        let others: Vec<PixelRect> = others.map(|other| self.float_area(*other, monitor)).collect();
        let place = match (asked, parent) {
            (Some(area), _) => area,
            (None, Some(parent)) => centred(parent.outer),
            (None, None) => freest(centred(work), work, &others[..others.len().min(LOOKED_AT)]),
        };
        let mut place = kept(place, work);
        let corners: HashSet<(i32, i32)> = others.iter().map(|other| (other.x, other.y)).collect();
        let mut turns = 0;
        for _ in 0..64 + 2 * others.len() {
            if !corners.contains(&(place.x, place.y)) {
                break;
            }
            // Down and to the right; at the edge of the work area from the top again, a little further on each time.
            let aside = PixelRect { x: place.x + ASIDE, y: place.y + ASIDE, ..place };
            if kept(aside, work) == aside {
                place = aside;
            } else {
                place = kept(PixelRect { x: work.x + turns * ASIDE / 2, y: work.y, ..place }, work);
                turns += 1;
            }
        }
        PixelRect { x: place.x - screen.x, y: place.y - screen.y, ..place }
    }

    /// An edge of a window that floats goes out by so many pixels, or in.
    pub(super) fn stretch(&mut self, id: WindowId, side: Side, by: i32) {
        let Some(window) = self.windows.get(&id) else { return };
        let monitor = self.workspaces[window.workspace].monitor;
        let (screen, now) = (self.monitors[monitor].facts.area, self.most_area(id, monitor));
        let wanted = match side {
            Side::Left => PixelRect { x: now.x - by, w: now.w + by, ..now },
            Side::Right => PixelRect { w: now.w + by, ..now },
            Side::Top => PixelRect { y: now.y - by, h: now.h + by, ..now },
            Side::Bottom => PixelRect { h: now.h + by, ..now },
        };
        let inside = wanted.overlap(screen).unwrap_or(now);
        self.resize(id, inside, [side]);
    }

    /// A window that floats takes an area of the screen, with its frame, as far as it can be shown in that size; `moved` are
    /// the edges that go, the others stay.
    pub(super) fn resize(&mut self, id: WindowId, area: PixelRect, moved: impl IntoIterator<Item = Side>) {
        let (frame_w, frame_h) = self.outer_size(id, (0, 0));
        let Some(window) = self.windows.get_mut(&id) else { return };
        // By hand, or by its program: it is no longer as large as there is room.
        (window.maximized_horz, window.maximized_vert) = (false, false);
        let screen = self.monitors[self.workspaces[window.workspace].monitor].facts.area;
        let (w, h) = window.facts.fit(((area.w - frame_w).max(1), (area.h - frame_h).max(1)));
        let (w, h) = (w.saturating_add(frame_w), h.saturating_add(frame_h));
        let (mut x, mut y) = (area.x, area.y);
        for side in moved {
            match side {
                Side::Left => x = area.x + area.w - w,
                Side::Top => y = area.y + area.h - h,
                Side::Right | Side::Bottom => {}
            }
        }
        window.floating_rect = PixelRect::new(x - screen.x, y - screen.y, w, h);
    }

    /// The pointer is at a place of the screen.
    pub fn point(&mut self, x: i32, y: i32) {
        self.pointer = Some((x, y));
    }

    /// The window that is seen at a place of the screen.
    pub fn window_at(&self, x: i32, y: i32) -> Option<(WindowId, PlacedWindow)> {
        let lies = |placed: &PlacedWindow| placed.outer.contains(x, y) && placed.clip.contains(x, y);
        self.shown.placed.iter().rev().find(|(_, placed)| lies(placed)).map(|(id, placed)| (*id, *placed))
    }

    /// The work area at a place of the screen where no window is tiled on another monitor than the one that has the focus.
    pub fn empty_at(&self, x: i32, y: i32) -> Option<PixelRect> {
        let at = self.monitors.iter().position(|monitor| monitor.facts.area.contains(x, y))?;
        let empty = at != self.monitor && self.tiled(self.monitors[at].workspace).is_empty();
        empty.then(|| self.work_area(at))
    }

    /// A tile was dropped at a place of the screen: it changes places with the tile there, or comes to that monitor.
    pub(super) fn dropped(&mut self, id: WindowId, x: i32, y: i32) {
        let Some(from) = self.windows.get(&id).map(|window| window.workspace) else { return };
        if let Some((other, _)) = self.window_at(x, y).filter(|(other, _)| *other != id && !self.floats(*other)) {
            let to = self.windows[&other].workspace;
            if to == from {
                self.swap(id, other);
            } else {
                let place = self.workspaces[to].windows.iter().position(|one| *one == other);
                self.bring(id, to, place);
                self.monitor = self.workspaces[to].monitor;
            }
        } else if self.empty_at(x, y).is_some()
            && let Some(at) = self.monitors.iter().position(|monitor| monitor.facts.area.contains(x, y))
        {
            self.bring(id, self.monitors[at].workspace, None);
            self.monitor = at;
        }
    }

    /// An area that a window is dragged to, with its edges where they snap to.
    pub fn snap(&self, id: WindowId, area: PixelRect) -> PixelRect {
        let (x, y) = (area.x + area.w / 2, area.y + area.h / 2);
        let monitor = self.monitors.iter().position(|monitor| monitor.facts.area.contains(x, y));
        self.snapped(id, area, monitor.unwrap_or(self.monitor))
    }

    /// An area that is dragged, with its edges at those of the work area or of another window where they are near.
    fn snapped(&self, id: WindowId, area: PixelRect, monitor: usize) -> PixelRect {
        let work = self.work_area(monitor);
        let others = self.shown.placed.iter().filter(|(other, placed)| **other != id && placed.level == StackingLayer::Floating);
        let others: Vec<PixelRect> = others.map(|(_, placed)| placed.outer).collect();
        let near = |at: i32, length: i32, edges: &mut dyn Iterator<Item = i32>| {
            let both = edges.flat_map(|edge| [edge - at, edge - (at + length)]);
            both.filter(|away| away.abs() <= SNAP).min_by_key(|away| away.abs()).unwrap_or(0)
        };
        let across = |other: &&PixelRect| other.y < area.y + area.h && area.y < other.y + other.h;
        let along = |other: &&PixelRect| other.x < area.x + area.w && area.x < other.x + other.w;
        let mut xs = others.iter().filter(across).flat_map(|other| [other.x, other.x + other.w]).chain([work.x, work.x + work.w]);
        let mut ys = others.iter().filter(along).flat_map(|other| [other.y, other.y + other.h]).chain([work.y, work.y + work.h]);
        let (x, y) = (near(area.x, area.w, &mut xs), near(area.y, area.h, &mut ys));
        PixelRect { x: area.x + x, y: area.y + y, ..area }
    }
}

/// Where an area covers least of others within a room; of equal places the one nearest to the middle.
fn freest(middle: PixelRect, room: PixelRect, others: &[PixelRect]) -> PixelRect {
    let (w, h) = (middle.w, middle.h);
    let mut xs = vec![middle.x, room.x, room.x + room.w - w];
    let mut ys = vec![middle.y, room.y, room.y + room.h - h];
    for other in others {
        xs.extend([other.x + other.w, other.x - w]);
        ys.extend([other.y + other.h, other.y - h]);
    }
    let covered = |area: PixelRect| -> i64 {
        others.iter().filter_map(|other| other.overlap(area)).map(|both| i64::from(both.w) * i64::from(both.h)).sum()
    };
    let away = |area: PixelRect| i64::from((area.x - middle.x).abs()) + i64::from((area.y - middle.y).abs());
    let places = xs.iter().flat_map(|x| ys.iter().map(|y| PixelRect::new(*x, *y, w, h)));
    let inside = places.filter(|area| kept(*area, room) == *area);
    inside.min_by_key(|area| (covered(*area), away(*area))).unwrap_or(middle)
}
