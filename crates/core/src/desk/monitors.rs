//! Monitors come and go: they are known by name, and workspaces come home.

use jovrik_schema::Glob;
use jovrik_values::PixelRect;
use jovrik_values::action::Direction;

use super::window_manager::{Monitor, MonitorFacts, WindowManager, Workspace};
use crate::desk::WindowId;
use crate::rice::{MonitorRule, Rice};

impl MonitorFacts {
    /// A monitor that is not the primary one.
    pub fn new(name: impl Into<String>, area: PixelRect) -> MonitorFacts {
        MonitorFacts { name: name.into(), maker: String::new(), area, primary: false }
    }

    /// Whether a pattern of a rice means it: by its output, by its maker, or by its place.
    pub fn is(&self, pattern: &Glob) -> bool {
        let place = || format!("{},{}", self.area.x, self.area.y);
        let may_be_place = pattern.0.contains([',', '*', '?']);
        pattern.matches(&self.name) || pattern.matches(&self.maker) || may_be_place && pattern.matches(&place())
    }
}

impl Rice {
    /// What it says of a monitor.
    pub fn of_monitor(&self, facts: &MonitorFacts) -> Option<&MonitorRule> {
        self.monitor.values().find(|rule| facts.is(&rule.r#match))
    }
}

/// The monitors of a display, from the left: what only shows a part of another one is no monitor of its own.
fn distinct(mut facts: Vec<MonitorFacts>) -> Vec<MonitorFacts> {
    let large = |facts: &MonitorFacts| i64::from(facts.area.w) * i64::from(facts.area.h);
    facts.sort_by_key(|facts| (std::cmp::Reverse(large(facts)), !facts.primary));
    let mut kept: Vec<MonitorFacts> = Vec::new();
    for one in facts {
        match kept.iter_mut().find(|other| other.area.overlap(one.area) == Some(one.area)) {
            Some(other) => other.primary |= one.primary,
            None => kept.push(one),
        }
    }
    kept.sort_by_key(|facts| (facts.area.x, facts.area.y));
    if kept.is_empty() {
        kept.push(MonitorFacts::new("none", PixelRect::new(0, 0, 640, 480)));
    }
    kept
}

impl WindowManager {
    /// Makes workspaces and monitors from the settings and the facts; windows stay on workspaces of the same name.
    ///
    /// A workspace belongs to the monitor that the rice says, else to the one it was on first. While that one is away it is on
    /// the primary one, and comes home with it. A monitor that nothing belongs to gets a workspace of its own.
    pub(super) fn set_up(&mut self, facts: Vec<MonitorFacts>) {
        let facts = distinct(facts);
        let focused = self.monitors.get(self.monitor).map(|monitor| monitor.facts.name.clone());
        for monitor in &self.monitors {
            self.remembered.insert(monitor.facts.name.clone(), self.workspaces[monitor.workspace].name.clone());
        }
        let back = self.back.and_then(|back| self.workspaces.get(back)).map(|workspace| workspace.name.clone());
        let primary = facts.iter().position(|facts| facts.primary).unwrap_or(0);
        let there = |name: &str| facts.iter().position(|facts| facts.name == name);
        let rice = self.rice.clone();
        let says = |name: &str| {
            let listed = rice.monitor.values().filter(|rule| rule.workspaces.iter().any(|listed| listed == name));
            let mut found = listed.filter_map(|rule| facts.iter().find(|facts| facts.is(&rule.r#match)));
            found.next().map(|facts| facts.name.clone())
        };
        let was_on = |id: &WindowId| Some((*id, self.workspaces[self.windows.get(id)?.workspace].name.clone()));
        let tucked: Vec<(WindowId, String)> = self.tucked.iter().filter_map(was_on).collect();
        let mut old = std::mem::take(&mut self.workspaces);
        let listed = rice.monitor.values().flat_map(|rule| &rule.workspaces);
        for name in rice.workspaces.order.iter().chain(listed) {
            if self.workspaces.iter().any(|workspace| workspace.name == *name) {
                continue;
            }
            let before = old.iter().position(|workspace| workspace.name == *name).map(|at| old.remove(at));
            let remembered = before.as_ref().map(|workspace| workspace.home.clone());
            let home = says(name).or(remembered).unwrap_or_else(|| facts[primary].name.clone());
            let workspace = before.unwrap_or_else(|| Workspace::new(name.clone()));
            self.workspaces.push(Workspace { home, own: false, ..workspace });
        }
        // Those that were made for a monitor stay with it, and as long as something is on them.
        let (stay, lost): (Vec<Workspace>, Vec<Workspace>) = old
            .into_iter()
            .partition(|workspace| workspace.own && (!workspace.windows.is_empty() || there(&workspace.home).is_some()));
        self.workspaces.extend(stay);
        for workspace in &mut self.workspaces {
            workspace.monitor = there(&workspace.home).unwrap_or(primary);
        }
        for (at, facts) in facts.iter().enumerate() {
            let mine: Vec<usize> = (0..self.workspaces.len()).filter(|nth| self.workspaces[*nth].monitor == at).collect();
            match mine.iter().find(|nth| !self.workspaces[**nth].own) {
                // What was made for want of another is not needed any more.
                Some(_) => {
                    let idle = |workspace: &Workspace| workspace.own && workspace.monitor == at && workspace.windows.is_empty();
                    self.workspaces.retain(|workspace| !idle(workspace));
                }
                None if !mine.is_empty() => {}
                None => {
                    let taken = |name: &str| self.workspaces.iter().any(|workspace| workspace.name == name);
                    let plain = facts.name.clone();
                    let mut names = std::iter::once(plain.clone()).chain((2..).map(|nth| format!("{plain} {nth}")));
                    let name = names.find(|name| !taken(name)).unwrap_or(plain);
                    let home = facts.name.clone();
                    self.workspaces.push(Workspace { home, own: true, monitor: at, ..Workspace::new(name) });
                }
            }
        }
        self.workspaces.iter_mut().for_each(|workspace| workspace.lay_out(&rice));
        let refuge = self.workspaces.iter().position(|workspace| workspace.monitor == primary).unwrap_or(0);
        for lost in lost {
            self.workspaces[refuge].windows.extend(lost.windows);
            self.workspaces[refuge].focus.splice(0..0, lost.focus);
        }
        for at in 0..self.workspaces.len() {
            for id in self.workspaces[at].windows.clone() {
                if let Some(window) = self.windows.get_mut(&id) {
                    window.workspace = at;
                }
            }
        }
        for (id, name) in tucked {
            let at = self.workspace_named(&name).unwrap_or(refuge);
            if let Some(window) = self.windows.get_mut(&id) {
                window.workspace = at;
            }
        }
        self.monitors = facts
            .into_iter()
            .enumerate()
            .map(|(at, facts)| {
                let before = self.remembered.get(&facts.name);
                let mine = |workspace: &&Workspace| workspace.monitor == at;
                let kept = self.workspaces.iter().position(|workspace| mine(&workspace) && Some(&workspace.name) == before);
                let workspace = kept.or_else(|| self.workspaces.iter().position(|workspace| mine(&workspace))).unwrap_or(0);
                Monitor { facts, workspace }
            })
            .collect();
        let named = |name: &String| self.monitors.iter().position(|monitor| monitor.facts.name == *name);
        self.monitor = focused.as_ref().and_then(named).unwrap_or(primary);
        self.back = back.and_then(|name| self.workspaces.iter().position(|workspace| workspace.name == name));
    }

    /// The monitor beyond the edge of the one that has the focus.
    pub(super) fn beyond(&self, way: Direction) -> Option<usize> {
        let from = self.monitors[self.monitor].facts.area;
        let (fx, fy) = from.centre2();
        let score = |area: PixelRect| {
            let (x, y) = area.centre2();
            let beside = area.y < from.y + from.h && from.y < area.y + area.h;
            let over = area.x < from.x + from.w && from.x < area.x + area.w;
            let (along, meets) = match way {
                Direction::Left => (fx - x, beside),
                Direction::Right => (x - fx, beside),
                Direction::Up => (fy - y, over),
                Direction::Down => (y - fy, over),
                Direction::Next | Direction::Prev | Direction::Last => return None,
            };
            (along > 0 && meets).then_some(along)
        };
        let others = self.monitors.iter().enumerate().filter(|(at, _)| *at != self.monitor);
        let scored = others.filter_map(|(at, monitor)| Some((score(monitor.facts.area)?, at)));
        scored.min().map(|(_, at)| at)
    }

    /// Brings a window to a workspace: to a place among its windows, or after them.
    pub(super) fn bring(&mut self, id: WindowId, to: usize, place: Option<usize>) {
        let Some(window) = self.windows.get_mut(&id) else { return };
        let left = &mut self.workspaces[std::mem::replace(&mut window.workspace, to)];
        left.windows.retain(|other| *other != id);
        left.focus.retain(|other| *other != id);
        let workspace = &mut self.workspaces[to];
        workspace.windows.insert(place.unwrap_or(usize::MAX).min(workspace.windows.len()), id);
        if window.focusable {
            workspace.focus.push(id);
            self.lift(id);
        }
    }
}
