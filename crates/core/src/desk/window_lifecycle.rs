//! Windows appear, change, ask for something, and go.

use jovrik_values::{PixelRect, Side};

use super::event::{RestackMode, WindowRequest, WmEvent};
use super::window::{Gravity, GravityAxis, StackingState, Window, WindowFacts, WindowId};
use super::window_manager::WindowManager;
use crate::rice::{NewPosition, WindowKind, WindowOverrides, WindowPosition, WindowSize};

impl WindowManager {
    pub(super) fn appear(&mut self, id: WindowId, facts: WindowFacts) {
        if self.windows.contains_key(&id) {
            return;
        }
        let named = facts.workspace.as_ref().and_then(|name| self.workspace_named(name));
        // What belongs to a window is where that is.
        let parent = facts.transient_for.and_then(|parent| self.windows.get(&parent)).map(|parent| parent.workspace);
        let usual = parent.or(named).unwrap_or_else(|| self.workspace());
        let (set, ruled) = self.ruled(&facts, usual, false);
        let workspace = self.workspace_of(&set).unwrap_or(usual);
        let shy = matches!(facts.window_type, WindowKind::Splash | WindowKind::Notification);
        // One that takes no keys is chosen, moved and closed like any other; keys then go to none (ICCCM, section 4.1.7).
        let focusable = !shy;
        let asks = facts.asks;
        // What came by itself does not take the focus from a window that is full, unless it belongs to that one.
        let covered = self.full_on(workspace).is_some_and(|full| !facts.sought && !self.belongs(&facts, full));
        let unasked = facts.no_initial_focus || covered;
        let wanted = set.focus.or(set.steal_focus.filter(|steals| *steals)).unwrap_or(!unasked);
        let calls = unasked && !wanted && focusable;
        let window = Window {
            floating: set.float.unwrap_or_else(|| facts.floats()),
            workspace,
            urgent: calls,
            floating_rect: PixelRect::default(),
            fullscreen: set.full.unwrap_or(asks.fullscreen),
            fullscreen_area: None,
            maximized_horz: asks.maximized_horz,
            maximized_vert: asks.maximized_vert,
            stack_serial: 0,
            sticky: set.pegged.unwrap_or(asks.sticky),
            minimized: false,
            stacking: asks.stacking,
            decorated: set.frame.unwrap_or(!shy),
            quiet: set.quiet.unwrap_or_default(),
            focusable,
            opacity: set.opacity.map_or(100, |opacity| opacity.of(100)),
            ruled,
            facts,
        };
        self.appeared = Some(id);
        if let Some(kept) = self.kept_of(id, &window.facts.app_id) {
            return self.put_back(id, window, &kept);
        }
        self.bare = false;
        self.windows.insert(id, window);
        let at = self.new_at(workspace);
        self.workspaces[workspace].windows.insert(at, id);
        if focusable {
            let focus = &mut self.workspaces[workspace].focus;
            let last = if wanted { focus.len() } else { focus.len().saturating_sub(1) };
            let above = focus.get(last).copied();
            focus.insert(last, id);
            self.lift(id);
            if let Some(above) = above {
                self.restack(id, RestackMode::Under(above));
            }
        }
        self.place_first(id, &set);
        if set.tucked.unwrap_or(asks.minimized) {
            self.tuck(id);
        }
    }

    /// The place among the windows of a workspace where a new one goes.
    fn new_at(&self, workspace: usize) -> usize {
        let own = &self.workspaces[workspace];
        let rule = &own.rule().1;
        let layout = own.layout_now();
        match layout.and_then(|layout| layout.new_place()).unwrap_or(rule.new) {
            NewPosition::Main => 0,
            NewPosition::StackStart => layout.map_or(1, |layout| layout.mains(rule)).min(own.windows.len()),
            NewPosition::AfterFocus => {
                // The latest that is a tile: what floats stands nowhere.
                let tile = own.focus.iter().rev().find(|id| !self.floats(**id));
                let focused = tile.and_then(|focused| own.windows.iter().position(|id| id == focused));
                focused.map_or(own.windows.len(), |at| at + 1)
            }
            NewPosition::StackEnd => own.windows.len(),
        }
    }

    /// Where a window that floats comes to lie first, as rules say.
    fn place_first(&mut self, id: WindowId, set: &WindowOverrides) {
        let Some(workspace) = self.windows.get(&id).map(|window| window.workspace) else { return };
        if !self.floats(id) && set.size.is_none() && set.at.is_none() {
            return;
        }
        let monitor = self.workspaces[workspace].monitor;
        let work = self.work_area(monitor);
        if let (Some(WindowSize(w, h)), Some(window)) = (set.size, self.windows.get_mut(&id)) {
            window.facts.size = (w.of(work.w).max(1), h.of(work.h).max(1));
        }
        let mut place = self.first_place(id);
        let screen = self.monitors[monitor].facts.area;
        match set.at {
            Some(WindowPosition::At(x, y)) => place = PixelRect { x, y, ..place },
            Some(WindowPosition::Centre) => {
                let (x, y) = (work.x + (work.w - place.w) / 2, work.y + (work.h - place.h) / 2);
                place = PixelRect { x: x - screen.x, y: y - screen.y, ..place };
            }
            Some(WindowPosition::Pointer) => {
                if let Some((x, y)) = self.pointer {
                    place = PixelRect { x: x - screen.x - place.w / 2, y: y - screen.y - place.h / 2, ..place };
                }
            }
            None => {}
        }
        if let Some(window) = self.windows.get_mut(&id) {
            window.floating_rect = place;
        }
    }

    pub(super) fn workspace_named(&self, name: &str) -> Option<usize> {
        self.workspaces.iter().position(|workspace| workspace.name == name)
    }

    /// The workspace that rules send a window to.
    fn workspace_of(&self, set: &WindowOverrides) -> Option<usize> {
        let named = set.workspace.as_ref().and_then(|name| self.workspace_named(name));
        let on = || set.monitor.as_ref().and_then(|name| self.monitor_named(name)).map(|at| self.monitors[at].workspace);
        named.or_else(on)
    }

    pub(super) fn forget(&mut self, id: WindowId) {
        self.windows.shift_remove(&id);
        self.tucked.retain(|other| *other != id);
        for workspace in &mut self.workspaces {
            workspace.windows.retain(|other| *other != id);
            workspace.focus.retain(|other| *other != id);
        }
    }

    /// A title changed: rules that ask again are asked.
    pub(super) fn retitle(&mut self, id: WindowId, title: String) {
        let Some(window) = self.windows.get_mut(&id) else { return };
        if window.facts.title == title {
            return;
        }
        window.facts.title = title;
        if self.rice.rule.values().any(|rule| rule.again) {
            let window = &self.windows[&id];
            let (set, ruled) = self.ruled(&window.facts, window.workspace, true);
            self.rule_again(id, &set, ruled);
        }
    }

    fn rule_again(&mut self, id: WindowId, set: &WindowOverrides, ruled: Vec<(&'static str, String)>) {
        if let Some(to) =
            self.workspace_of(set).filter(|to| self.windows.get(&id).is_some_and(|w| w.workspace != *to && !w.minimized))
        {
            self.bring(id, to, None);
        }
        let Some(window) = self.windows.get_mut(&id) else { return };
        window.floating = set.float.unwrap_or(window.floating);
        window.fullscreen = set.full.unwrap_or(window.fullscreen);
        window.sticky = set.pegged.unwrap_or(window.sticky);
        window.decorated = set.frame.unwrap_or(window.decorated);
        window.quiet = set.quiet.unwrap_or(window.quiet);
        window.opacity = set.opacity.map_or(window.opacity, |opacity| opacity.of(100));
        window.ruled.retain(|(setting, _)| ruled.iter().all(|(other, _)| other != setting));
        window.ruled.extend(ruled);
        let unplaced = window.floating_rect.w == 0;
        if unplaced || set.size.is_some() || set.at.is_some() {
            self.place_first(id, set);
        }
        match set.tucked {
            Some(true) => self.tuck(id),
            Some(false) if self.windows.get(&id).is_some_and(|window| window.minimized) => self.want(id),
            _ => {}
        }
    }

    /// Whether an event tells anything that is not known: programs say the same again, some whenever their size changes.
    pub fn is_news(&self, event: &WmEvent) -> bool {
        match event {
            WmEvent::TitleChanged(id, title) => self.windows.get(id).is_some_and(|window| window.facts.title != *title),
            WmEvent::InfoChanged(id, facts) => self.windows.get(id).is_some_and(|window| {
                window.facts.title != facts.title || window.facts != window.facts.said_anew(WindowFacts::clone(facts))
            }),
            WmEvent::UrgencyChanged(id, calls) => {
                self.windows.get(id).is_some_and(|window| window.urgent != (*calls && self.focused() != Some(*id)))
            }
            WmEvent::Pointed(monitor) => self.monitor != (*monitor).min(self.monitors.len() - 1),
            _ => true,
        }
    }

    /// What is known of a window changed: what rules and the person decided stays.
    pub(super) fn changes(&mut self, id: WindowId, facts: WindowFacts) {
        let Some(window) = self.windows.get_mut(&id) else { return };
        let title = facts.title.clone();
        window.focusable = !matches!(facts.window_type, WindowKind::Splash | WindowKind::Notification);
        window.facts = window.facts.said_anew(facts);
        let (at, focusable, tucked) = (window.workspace, window.focusable, window.minimized);
        let focus = &mut self.workspaces[at].focus;
        match focus.contains(&id) {
            true if !focusable => focus.retain(|other| *other != id),
            false if focusable && !tucked => focus.insert(0, id),
            _ => {}
        }
        self.retitle(id, title);
    }

    pub(super) fn calls(&mut self, id: WindowId, calls: bool) {
        let focused = self.focused() == Some(id);
        if let Some(window) = self.windows.get_mut(&id) {
            window.urgent = calls && !focused;
        }
    }

    /// A program asks something for one of its windows.
    pub(super) fn asks(&mut self, id: WindowId, asked: WindowRequest) {
        let Some(window) = self.windows.get_mut(&id) else { return };
        match asked {
            // Only what is in front of its workspace can be full; another one calls.
            WindowRequest::Fullscreen(switch) => match switch.of(window.fullscreen) {
                true if window.focusable && self.workspaces[window.workspace].focus.last() != Some(&id) => self.calls(id, true),
                full => window.fullscreen = full,
            },
            WindowRequest::FullscreenArea(area) => window.fullscreen_area = area,
            WindowRequest::MaximizedHorz(switch) => window.maximized_horz = switch.of(window.maximized_horz),
            WindowRequest::MaximizedVert(switch) => window.maximized_vert = switch.of(window.maximized_vert),
            WindowRequest::Lift(how) => self.restack(id, how),
            WindowRequest::Sticky(switch) => window.sticky = switch.of(window.sticky),
            WindowRequest::Minimized => self.tuck(id),
            WindowRequest::Stacking(shelf, switch) => {
                window.stacking = match switch.of(window.stacking == shelf) {
                    true => shelf,
                    false if window.stacking == shelf => StackingState::Plain,
                    false => window.stacking,
                };
            }
            WindowRequest::Urgent(switch) => {
                let calls = switch.of(window.urgent);
                self.calls(id, calls);
            }
            WindowRequest::Configure { at, size, gravity } => self.asks_place(id, at, size, gravity),
            WindowRequest::Workspace(name) => {
                if let Some(to) = self.workspace_named(&name).filter(|to| self.windows[&id].workspace != *to) {
                    self.windows[&id].sticky = false;
                    if self.windows[&id].minimized { self.windows[&id].workspace = to } else { self.bring(id, to, None) }
                }
            }
        }
    }

    fn asks_place(
        &mut self,
        id: WindowId,
        at: (Option<i32>, Option<i32>),
        size: (Option<i32>, Option<i32>),
        gravity: Option<Gravity>,
    ) {
        let (frame_w, frame_h) = self.outer_size(id, (0, 0));
        let window = &mut self.windows[&id];
        let (w, h) = window.facts.size;
        window.facts.size = (size.0.unwrap_or(w).max(1), size.1.unwrap_or(h).max(1));
        if window.floating_rect.w == 0 {
            return;
        }
        let (facts, workspace) = (window.facts.clone(), window.workspace);
        let now = self.float_area(id, self.workspaces[workspace].monitor);
        let contents = (size.0.unwrap_or(now.w - frame_w).max(1), size.1.unwrap_or(now.h - frame_h).max(1));
        let (w, h) = facts.fit(contents);
        let Gravity(across, down) = gravity.unwrap_or(facts.gravity);
        let one = |pull: GravityAxis, at: Option<i32>, (now, before): (i32, i32), contents: i32, frame: i32| {
            let after = contents.saturating_add(frame);
            (at.map_or_else(|| pull.stays(now, before, after), |at| pull.outer(at, contents, after)), after)
        };
        let (x, w) = one(across, at.0, (now.x, now.w), w, frame_w);
        let (y, h) = one(down, at.1, (now.y, now.h), h, frame_h);
        self.resize(id, PixelRect::new(x, y, w, h), []);
    }

    /// A person drags a window that floats; over the edge of a monitor it goes to the next one.
    pub(super) fn dragged(&mut self, id: WindowId, area: PixelRect, edges: Vec<Side>) {
        let Some(window) = self.windows.get(&id).filter(|window| !window.minimized) else { return };
        if !self.floats(id) {
            return;
        }
        let (x, y) = (area.x + area.w / 2, area.y + area.h / 2);
        let over = self.monitors.iter().position(|monitor| monitor.facts.area.contains(x, y));
        let from = self.workspaces[window.workspace].monitor;
        if let Some(to) = over.filter(|to| *to != from) {
            self.bring(id, self.monitors[to].workspace, None);
            self.monitor = to;
        }
        self.resize(id, area, edges);
    }

    /// What is on every workspace goes along to the one that its monitor shows.
    pub(super) fn peg(&mut self) {
        let lost = |window: &Window| {
            if !window.sticky || window.minimized {
                return None;
            }
            let monitor = self.workspaces[window.workspace].monitor;
            let shown = self.monitors.get(monitor).map_or(window.workspace, |monitor| monitor.workspace);
            (shown != window.workspace).then_some(shown)
        };
        let all: Vec<(WindowId, usize)> = self.windows.iter().filter_map(|(id, one)| Some((*id, lost(one)?))).collect();
        for (id, to) in all {
            let focus = self.workspaces[to].focus.last().copied();
            self.bring(id, to, None);
            // It takes no focus along.
            if let Some(focus) = focus {
                let own = &mut self.workspaces[to].focus;
                own.retain(|other| *other != focus);
                own.push(focus);
                self.lift(focus);
            }
        }
    }
}
