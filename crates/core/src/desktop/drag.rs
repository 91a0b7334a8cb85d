//! Windows that a person drags by the rice's chords: what floats goes along with the pointer, tiles change places, and edges
//! go where the pointer goes.

use jovrik_values::action::{Action, EdgeResize};
use jovrik_values::{PixelRect, Side};

use super::effect::DesktopEffect;
use super::event::MoveResizeRequest;
use super::surface::ChangeFlags;
use super::update::Desktop;
use crate::desk::{self, WindowId};
use crate::keys::KeyCombo;

/// A window under way.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Drag {
    window: WindowId,
    /// The button that holds it.
    key: u32,
    /// Where the pointer began.
    from: (i32, i32),
    /// Where the window was then, with its frame.
    area: PixelRect,
    /// The edges that go along; all of the window when there are none.
    edges: Vec<Side>,
    /// Whether it floats.
    floats: bool,
    /// What is seen of where it would go: the area of the tile that it would change places with.
    pub goes_to: Option<PixelRect>,
}

/// The edges of an area that are nearest to a point.
fn nearest_edges(area: PixelRect, (x, y): (i32, i32)) -> Vec<Side> {
    let (cx, cy) = area.centre2();
    vec![if 2 * x < cx { Side::Left } else { Side::Right }, if 2 * y < cy { Side::Top } else { Side::Bottom }]
}

impl Desktop {
    /// Begins a drag where a press is one of the rice's for that, and a window lies under the pointer.
    pub(super) fn begin_drag(&mut self, press: KeyCombo, effects: &mut Vec<DesktopEffect>) -> bool {
        let Some(moves) = self.hands.drags(press) else { return false };
        let Some(at) = self.pointer.at else { return true };
        let Some((window, placed)) = self.desk.window_at(at.0, at.1) else { return true };
        self.of_desk(desk::WmEvent::ActivationRequested(window), effects);
        let floats = self.desk.floats(window);
        let edges = if moves { Vec::new() } else { nearest_edges(placed.outer, at) };
        let (key, area) = (press.key, placed.outer);
        self.drag = Some(Drag { window, key, from: at, area, edges, floats, goes_to: None });
        true
    }

    /// Begins a drag that the window's program asks for.
    pub(super) fn drag_asked(&mut self, window: WindowId, asked: MoveResizeRequest, effects: &mut Vec<DesktopEffect>) {
        let Some(placed) = self.desk.arrangement().placed.get(&window).copied() else { return };
        self.of_desk(desk::WmEvent::ActivationRequested(window), effects);
        let (key, floats) = (KeyCombo::BUTTON + u32::from(asked.button), self.desk.floats(window));
        let MoveResizeRequest { edges, from, .. } = asked;
        self.drag = Some(Drag { window, key, from, area: placed.outer, edges, floats, goes_to: None });
    }

    /// The pointer went on.
    pub(super) fn drag_on(&mut self, x: i32, y: i32, effects: &mut Vec<DesktopEffect>) {
        let Some(drag) = self.drag.clone() else { return };
        if !self.desk.windows.contains_key(&drag.window) {
            self.end_drag(effects);
            return;
        }
        let (dx, dy) = (x - drag.from.0, y - drag.from.1);
        match (drag.floats, drag.edges.is_empty()) {
            (true, true) => {
                let to = PixelRect { x: drag.area.x + dx, y: drag.area.y + dy, ..drag.area };
                let to = self.desk.snap(drag.window, to);
                self.of_desk(desk::WmEvent::Dragged(drag.window, to, Vec::new()), effects);
            }
            (true, false) => {
                let to = stretched(drag.area, &drag.edges, dx, dy);
                self.of_desk(desk::WmEvent::Dragged(drag.window, to, drag.edges.clone()), effects);
            }
            (false, true) => {
                let over = self.desk.window_at(x, y).filter(|(id, _)| *id != drag.window && !self.desk.floats(*id));
                let beyond = self.desk.empty_at(x, y);
                let goes_to = over.map(|(_, placed)| placed.outer).or(beyond);
                if let Some(drag) = self.drag.as_mut().filter(|drag| drag.goes_to != goes_to) {
                    drag.goes_to = goes_to;
                    self.changed = self.changed.and(ChangeFlags::POINTER);
                }
            }
            (false, false) => {
                for side in &drag.edges {
                    let Some(now) = self.desk.arrangement().placed.get(&drag.window).map(|placed| placed.outer) else { return };
                    // From where the edge is to where the pointer took it: rounding never adds up.
                    let by = match side {
                        Side::Left => now.x - (drag.area.x + dx),
                        Side::Right => drag.area.x + drag.area.w + dx - (now.x + now.w),
                        Side::Top => now.y - (drag.area.y + dy),
                        Side::Bottom => drag.area.y + drag.area.h + dy - (now.y + now.h),
                    };
                    if by != 0 && self.desk.focused() == Some(drag.window) {
                        self.of_desk(desk::WmEvent::EdgeDragged(EdgeResize { side: *side, by: Some(by) }), effects);
                    }
                }
            }
        }
    }

    /// The button came up: a tile changes places with the one that it was dragged to.
    pub(super) fn end_drag(&mut self, effects: &mut Vec<DesktopEffect>) {
        let Some(drag) = self.drag.take() else { return };
        self.changed = self.changed.and(ChangeFlags::POINTER);
        if let (Some(_), Some((x, y))) = (drag.goes_to, self.pointer.at) {
            self.of_desk(desk::WmEvent::Dropped(drag.window, x, y), effects);
        }
    }

    /// Whether a key that comes up ends the drag.
    pub(super) fn ends_drag(&self, key: u32) -> bool {
        self.drag.as_ref().is_some_and(|drag| drag.key == key)
    }

    /// Where the pointer goes when the focus goes somewhere by itself.
    pub(super) fn follow(&self, before: Option<WindowId>, effects: &mut Vec<DesktopEffect>) {
        let focus = self.desk.focused().filter(|focus| Some(*focus) != before);
        let placed = focus.and_then(|focus| self.desk.arrangement().placed.get(&focus));
        if let Some(placed) = placed.filter(|_| self.desk.rice().pointer.follows_focus) {
            let seen = placed.area.overlap(placed.clip).unwrap_or(placed.area);
            let inside = self.pointer.at.is_some_and(|(x, y)| seen.contains(x, y));
            if !inside {
                effects.push(DesktopEffect::WarpPointer(seen.x + seen.w / 2, seen.y + seen.h / 2));
            }
        }
    }

    /// Whether an action is one that a person does with the keyboard to go somewhere.
    pub(super) fn leads(action: &Action) -> bool {
        use Action::{Carry, CarryMonitor, Focus, FocusMonitor, Go, Move, Summon, Untuck};
        matches!(action, Focus(_) | FocusMonitor(_) | Move(_) | Go(_) | Carry(_) | CarryMonitor(_) | Summon(_) | Untuck(_))
    }
}

fn stretched(area: PixelRect, edges: &[Side], dx: i32, dy: i32) -> PixelRect {
    let one = |area: PixelRect, side: &Side| match side {
        Side::Left => PixelRect { x: area.x + dx, w: area.w - dx, ..area },
        Side::Right => PixelRect { w: area.w + dx, ..area },
        Side::Top => PixelRect { y: area.y + dy, h: area.h - dy, ..area },
        Side::Bottom => PixelRect { h: area.h + dy, ..area },
    };
    let to = edges.iter().fold(area, one);
    PixelRect { w: to.w.max(1), h: to.h.max(1), ..to }
}
