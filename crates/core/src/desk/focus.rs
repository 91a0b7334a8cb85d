//! Who has the focus next, and which monitor lies where.

use jovrik_values::Side;
use jovrik_values::action::{Direction, FocusTarget, MonitorTarget};

use super::action_error::ActionError;
use super::arrangement::PlacedWindow;
use super::layout::AdjacentWindow;
use super::window::WindowId;
use super::window_manager::WindowManager;

impl WindowManager {
    /// The window that is meant; why there is none.
    pub(super) fn target(&self, target: &FocusTarget) -> Result<Option<WindowId>, ActionError> {
        let focused = self.focused();
        match target {
            FocusTarget::Way(way) => Ok(self.neighbour(*way)),
            FocusTarget::Urgent => {
                let calling = self.windows.iter().rev().find(|(_, window)| window.urgent).map(|(id, _)| *id);
                calling.map(Some).ok_or(ActionError::NobodyCalls)
            }
            FocusTarget::Parent => {
                let parent = focused.and_then(|id| self.windows.get(&id)?.facts.transient_for);
                let there = parent.filter(|parent| self.windows.contains_key(parent));
                there.map(Some).ok_or(ActionError::NoParent)
            }
            FocusTarget::Like(like) => {
                let all: Vec<WindowId> = self
                    .windows
                    .iter()
                    .filter(|(_, w)| like.matches(&w.facts.app_id, &w.facts.title))
                    .map(|(id, _)| *id)
                    .collect();
                // The one after the focused one, so that asking again goes through all of them.
                let at = all.iter().position(|id| Some(*id) == focused).map_or(0, |at| at + 1);
                let found = (!all.is_empty()).then(|| all[at % all.len()]);
                found.map(Some).ok_or_else(|| ActionError::NoWindow(like.clone()))
            }
        }
    }

    /// The window that lies in a direction, over the edge of a monitor too.
    pub(super) fn neighbour(&self, way: Direction) -> Option<WindowId> {
        self.nearest(way, &|id| self.windows.get(&id).is_some_and(|window| window.focusable))
    }

    /// The tile that lies in a direction of the focused one: what floats over them is none.
    pub(super) fn tile_beside(&self, way: Direction) -> Option<WindowId> {
        self.nearest(way, &|id| self.windows.contains_key(&id) && !self.floats(id))
    }

    fn nearest(&self, way: Direction, takes: &dyn Fn(WindowId) -> bool) -> Option<WindowId> {
        let at = self.workspace();
        let workspace = &self.workspaces[at];
        let focused = self.focused()?;
        let Some(side) = way.side() else {
            let order: Vec<WindowId> = workspace.windows.iter().copied().filter(|id| takes(*id)).collect();
            let here = order.iter().position(|id| *id == focused)?;
            return match way {
                Direction::Next => order.get((here + 1) % order.len()).copied(),
                Direction::Prev => order.get((here + order.len() - 1) % order.len()).copied(),
                _ => workspace.focus.iter().rev().copied().filter(|id| takes(*id)).nth(1),
            };
        };
        if !self.floats(focused)
            && let AdjacentWindow::Own(Some(beside)) = self.ask(at, |ask, layout| layout.beside(side, ask))
        {
            return Some(beside);
        }
        let placed = &self.shown.placed;
        let from = placed.get(&focused)?.outer;
        let (fx, fy) = from.centre2();
        let score = |(id, placed): (&WindowId, &PlacedWindow)| {
            let (x, y) = placed.outer.centre2();
            let (along, across) = match side {
                Side::Left => (fx - x, y - fy),
                Side::Right => (x - fx, y - fy),
                Side::Top => (fy - y, x - fx),
                Side::Bottom => (y - fy, x - fx),
            };
            let lies = *id != focused && takes(*id) && along > 0 && along >= across.abs() / 2;
            lies.then_some((along + 2 * across.abs(), *id))
        };
        placed.iter().filter_map(score).min_by_key(|(score, _)| *score).map(|(_, id)| id)
    }

    /// The number of a monitor; why there is none.
    pub(super) fn which_monitor(&self, to: &MonitorTarget) -> Result<usize, ActionError> {
        let count = self.monitors.len();
        match to {
            MonitorTarget::Way(Direction::Next) => Ok((self.monitor + 1) % count),
            MonitorTarget::Way(Direction::Prev) => Ok((self.monitor + count - 1) % count),
            MonitorTarget::Way(way) => self.beyond(*way).ok_or(ActionError::NothingThere),
            MonitorTarget::Named(name) => self.monitor_named(name).ok_or_else(|| {
                let names: Vec<&str> = self.monitors.iter().map(|monitor| monitor.facts.name.as_str()).collect();
                ActionError::NoMonitor(name.clone(), jovrik_text::problem::in_words(&names))
            }),
        }
    }

    /// The number of a monitor by its output's name, or by its name in the rice.
    pub(super) fn monitor_named(&self, name: &str) -> Option<usize> {
        let output = self.monitors.iter().position(|monitor| monitor.facts.name == name);
        let rule = || {
            let rule = self.rice.monitor.get(name)?;
            self.monitors.iter().position(|monitor| monitor.facts.is(&rule.r#match))
        };
        output.or_else(rule)
    }
}
