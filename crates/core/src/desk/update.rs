//! State and event give state and effects.

use std::rc::Rc;

use jovrik_values::action::{
    Action, Bars, CycleTarget, Direction, EdgeResize, FocusTarget, ScreenshotSource, Switch, WindowQuery,
};
use jovrik_values::{PixelRect, Side};

use super::action_error::ActionError;
use super::arrangement::Arrangement;
use super::event::{WmEffect, WmEvent};
use super::layout::{LayoutChange, LayoutError};
use super::window::WindowId;
use super::window_manager::WindowManager;
use crate::rice::Rice;

/// One step of `grow`, `shrink`, and of moving what floats, in pixels of the settings.
const STEP: i32 = 40;

impl WindowManager {
    /// One step.
    pub fn handle(&mut self, event: WmEvent) -> Vec<WmEffect> {
        let mut effects = Vec::new();
        let old_rice = self.rice.clone();
        self.appeared = None;
        self.steps += 1;
        match event {
            WmEvent::Mapped(id, facts) => self.appear(id, facts),
            WmEvent::Unmapped(id) => self.forget(id),
            WmEvent::TitleChanged(id, title) => self.retitle(id, title),
            WmEvent::InfoChanged(id, facts) => self.changes(id, *facts),
            WmEvent::Requested(id, asked) => self.asks(id, asked),
            WmEvent::UrgencyChanged(id, calls) => self.calls(id, calls),
            WmEvent::ActivationRequested(id) => self.want(id),
            WmEvent::Pointed(monitor) => self.monitor = monitor.min(self.monitors.len() - 1),
            WmEvent::EdgeDragged(EdgeResize { side, by }) => drop(self.change_tiles(LayoutChange::Edge(side, by.unwrap_or(0)))),
            WmEvent::Dropped(id, x, y) => self.dropped(id, x, y),
            WmEvent::Dragged(id, area, edges) => self.dragged(id, area, edges),
            WmEvent::Ordered(order) => self.stand_again(*order),
            WmEvent::Panel(id, panel) => self.panel(id, panel),
            WmEvent::ShowingDesktopChanged(bare) => self.bare = bare,
            WmEvent::RestoreStarted(kept) => self.restore(*kept),
            WmEvent::RestoreFinished => self.restored(),
            WmEvent::Monitors(facts) => self.set_up(facts),
            WmEvent::Settings(rice) => {
                let facts = self.monitors.iter().map(|monitor| monitor.facts.clone()).collect();
                self.rice = rice;
                self.set_up(facts);
            }
            WmEvent::ActionInvoked(action) => self.act(action, &mut effects),
        }
        self.peg();
        self.one_full();
        let laid = self.settle();
        if let Some(window) = self.focused().and_then(|id| self.windows.get_mut(&id)) {
            window.urgent = false;
        }
        let new = self.arrange(laid);
        self.tell(&old_rice, &new, &mut effects);
        self.shown = new;
        effects
    }

    /// The difference between what is shown and what is to be shown, as effects.
    fn tell(&self, old_rice: &Rc<Rice>, new: &Arrangement, effects: &mut Vec<WmEffect>) {
        let old = &self.shown;
        let other_frames = !Rc::ptr_eq(old_rice, &self.rice)
            && (old_rice.frame != self.rice.frame || old_rice.palette.current.paper != self.rice.palette.current.paper);
        // Mostly the same windows are seen in the same order.
        let alike = old.placed.len() == new.placed.len() && old.placed.keys().eq(new.placed.keys());
        for (at, (id, placed)) in new.placed.iter().enumerate() {
            let before = if alike { old.placed.get_index(at).map(|(_, before)| before) } else { old.placed.get(id) };
            match before {
                Some(before) if before.same_place(placed) => {
                    if placed.framed() && placed.over() && (other_frames || before.state != placed.state) {
                        effects.push(WmEffect::RedrawFrame(*id));
                    }
                }
                _ => effects.push(WmEffect::Configure { window: *id, placed: *placed }),
            }
        }
        if !alike {
            effects.extend(new.placed.keys().filter(|id| !old.placed.contains_key(*id)).map(|id| WmEffect::Map(*id)));
            let gone = old.placed.keys().filter(|id| !new.placed.contains_key(*id));
            effects.extend(gone.filter(|id| self.windows.contains_key(*id)).map(|id| WmEffect::Unmap(*id)));
        }
        // One that appears where nobody sees it was mapped by nobody, or is there already.
        effects.extend(self.appeared.filter(|id| !new.placed.contains_key(id)).map(WmEffect::Unmap));
        if old.focus != new.focus {
            effects.push(WmEffect::Focus(new.focus));
        }
    }

    pub(super) fn want(&mut self, id: WindowId) {
        if self.windows.get(&id).is_some_and(|window| window.minimized) {
            self.untuck(id);
        }
        let Some((at, focusable)) = self.windows.get(&id).map(|window| (window.workspace, window.focusable)) else { return };
        self.lift(id);
        self.show(at);
        if focusable {
            let focus = &mut self.workspaces[at].focus;
            focus.retain(|other| *other != id);
            focus.push(id);
        }
    }

    /// Shows a workspace on its monitor and takes the focus there.
    fn show(&mut self, workspace: usize) {
        self.bare = false;
        let before = self.workspace();
        let seen = self.monitors.iter().position(|monitor| monitor.workspace == workspace);
        self.monitor = seen.unwrap_or(self.workspaces[workspace].monitor).min(self.monitors.len() - 1);
        self.monitors[self.monitor].workspace = workspace;
        if before != workspace {
            self.back = Some(before);
        }
    }

    fn which(&self, which: &CycleTarget) -> Result<usize, ActionError> {
        let here = self.workspace();
        let own: Vec<usize> =
            (0..self.workspaces.len()).filter(|at| self.workspaces[*at].monitor == self.monitor || *at == here).collect();
        let at = own.iter().position(|at| *at == here).unwrap_or(0);
        Ok(match which {
            CycleTarget::Next => own[(at + 1) % own.len()],
            CycleTarget::Prev => own[(at + own.len() - 1) % own.len()],
            CycleTarget::Previous => self.back.filter(|back| *back < self.workspaces.len()).unwrap_or(here),
            CycleTarget::Named(name) => {
                let found = self.workspaces.iter().position(|workspace| workspace.name == *name);
                found.ok_or_else(|| ActionError::No("workspace", name.clone()))?
            }
        })
    }

    /// The variables that everything the desk starts is given.
    fn environment(&self) -> impl Iterator<Item = (String, String)> {
        self.rice.environment.iter().map(|(name, value)| (name.clone(), value.0.clone()))
    }

    fn act(&mut self, action: Action, effects: &mut Vec<WmEffect>) {
        if let Err(why) = self.done(action, effects) {
            effects.push(WmEffect::ReportError(why));
        }
    }

    /// An action; why it was not done.
    fn done(&mut self, action: Action, effects: &mut Vec<WmEffect>) -> Result<(), ActionError> {
        let start = |desk: &WindowManager, argv: Vec<String>| WmEffect::Spawn { argv, env: desk.environment().collect() };
        // Whoever goes somewhere sees it.
        self.bare &= !matches!(action, Action::Focus(_) | Action::FocusMonitor(_) | Action::Layout(_));
        match action {
            Action::None => {}
            Action::All(all) => all.into_iter().try_for_each(|action| self.done(action, effects))?,
            Action::Open(name) => effects.push(self.open(&name)?),
            Action::Summon(name) => effects.extend(self.summon(&name)?),
            Action::Run(argv) => effects.push(start(self, argv)),
            Action::Shell(line) => effects.push(start(self, ["/bin/sh", "-c", line.as_str()].map(str::to_owned).to_vec())),
            Action::Close => effects.extend(self.focused().map(WmEffect::Close)),
            Action::Kill => effects.extend(self.focused().map(WmEffect::Kill)),
            Action::FocusMonitor(to) => self.monitor = self.which_monitor(&to)?,
            Action::Focus(target) => match (self.target(&target)?, target) {
                (Some(to), _) => self.want(to),
                (None, FocusTarget::Way(way)) => self.monitor = self.beyond(way).unwrap_or(self.monitor),
                (None, _) => {}
            },
            Action::Move(way) => self.move_window(way),
            Action::Grow(EdgeResize { side, by }) => self.reach(side, by.unwrap_or(STEP))?,
            Action::Shrink(EdgeResize { side, by }) => self.reach(side, -by.unwrap_or(STEP))?,
            Action::Float(switch) => self.float(switch),
            Action::Full(switch) => self.change(|window| window.fullscreen = switch.of(window.fullscreen)),
            Action::Peg(switch) => self.change(|window| window.sticky = switch.of(window.sticky)),
            Action::Tuck => self.focused().into_iter().for_each(|id| self.tuck(id)),
            Action::Untuck(like) => self.fetch(like.as_ref())?,
            Action::Go(which) => {
                let at = self.which(&which)?;
                self.show(at);
            }
            Action::Send(which) => {
                let to = self.which(&which)?;
                self.send(to, false);
            }
            Action::Carry(which) => {
                let to = self.which(&which)?;
                self.send(to, true);
            }
            Action::SendMonitor(to) => self.send(self.monitors[self.which_monitor(&to)?].workspace, false),
            Action::CarryMonitor(to) => self.send(self.monitors[self.which_monitor(&to)?].workspace, true),
            Action::Layout(which) => self.change_layout(&which)?,
            Action::Main(change) => self.change_tiles(LayoutChange::Main(change))?,
            Action::Column(change) => self.change_tiles(LayoutChange::Column(change))?,
            Action::BarToggle(Bars { name, here }) => self.toggle_bars(name.as_deref(), here)?,
            Action::Fold(name) => self.fold(&name)?,
            Action::Palette(which) => effects.push(self.other_palette(&which)?),
            Action::Screenshot(shot) => effects.push(WmEffect::SaveScreenshot(self.shot(shot.of)?, shot.to)),
            Action::Set(setting) => effects.push(WmEffect::Set(setting)),
            // Keys and the session itself are the desktop's.
            Action::Mode(_) | Action::Keyboard(_) | Action::Press(_) | Action::KeysSheet | Action::MonitorsKeep => {}
            Action::Notices(_) | Action::Launcher(_) | Action::Backdrop(_) => {}
            Action::Reload(_) | Action::Quit => {}
        }
        Ok(())
    }

    fn open(&self, name: &str) -> Result<WmEffect, ActionError> {
        let program = self.rice.program.get(name).ok_or_else(|| ActionError::No("program", name.to_owned()))?;
        let own = program.env.iter().map(|(name, value)| (name.clone(), value.clone()));
        Ok(WmEffect::Spawn { argv: program.run.clone(), env: self.environment().chain(own).collect() })
    }

    /// The window of a program is fetched, or tucked away when it has the focus; without one the program is started.
    fn summon(&mut self, name: &str) -> Result<Option<WmEffect>, ActionError> {
        let program = self.rice.program.get(name).ok_or_else(|| ActionError::No("program", name.to_owned()))?;
        let own = |id: &WindowId| self.windows.get(id).is_some_and(|one| one.facts.app_id.eq_ignore_ascii_case(program.app()));
        let focused = self.focused().filter(own);
        let latest = || self.tucked.iter().rev().chain(self.windows.keys()).find(|id| own(id)).copied();
        match (focused, latest()) {
            (Some(id), _) => self.tuck(id),
            (None, Some(id)) => {
                let here = self.workspace();
                let elsewhere = self.windows.get(&id).is_some_and(|window| !window.minimized && window.workspace != here);
                if elsewhere && self.floats(id) {
                    self.bring(id, here, None);
                }
                self.want(id);
            }
            (None, None) => return self.open(name).map(Some),
        }
        Ok(None)
    }

    /// Changes something of the focused window.
    fn change(&mut self, change: impl FnOnce(&mut super::window::Window)) {
        if let Some(window) = self.focused().and_then(|id| self.windows.get_mut(&id)) {
            change(window);
        }
    }

    /// The focused window floats, or is a tile.
    fn float(&mut self, switch: Switch) {
        let Some(id) = self.focused() else { return };
        let unplaced = self.windows.get(&id).is_some_and(|window| window.floating_rect.w == 0);
        let place = unplaced.then(|| self.first_place(id));
        if let Some(window) = self.windows.get_mut(&id) {
            window.floating = switch.of(window.floating);
            window.floating_rect = place.unwrap_or(window.floating_rect);
        }
    }

    /// Puts a window out of sight until it is fetched.
    pub(super) fn tuck(&mut self, id: WindowId) {
        if let Some(window) = self.windows.get_mut(&id).filter(|window| !window.minimized) {
            window.minimized = true;
            let workspace = &mut self.workspaces[window.workspace];
            workspace.windows.retain(|other| *other != id);
            workspace.focus.retain(|other| *other != id);
            self.tucked.push(id);
        }
    }

    /// A window that was put out of sight comes to the workspace that has the focus.
    fn untuck(&mut self, id: WindowId) {
        let here = self.workspace();
        self.tucked.retain(|other| *other != id);
        if let Some(window) = self.windows.get_mut(&id) {
            window.minimized = false;
            self.bring(id, here, None);
        }
    }

    /// A window that was put out of sight is fetched: the last one, or one that matches.
    fn fetch(&mut self, like: Option<&WindowQuery>) -> Result<(), ActionError> {
        let meant = |id: &&WindowId| {
            let facts = self.windows.get(*id).map(|window| &window.facts);
            like.is_none_or(|like| facts.is_some_and(|facts| like.matches(&facts.app_id, &facts.title)))
        };
        let found = self.tucked.iter().rev().find(meant).copied();
        let none = || like.map_or(ActionError::NothingTucked, |like| ActionError::NotTucked(like.clone()));
        self.want(found.ok_or_else(none)?);
        Ok(())
    }

    /// The focused window goes to a workspace; `follow`: the focus goes there too.
    fn send(&mut self, to: usize, follow: bool) {
        let here = self.workspace();
        if let Some(id) = self.focused().filter(|_| to != here) {
            if let Some(window) = self.windows.get_mut(&id) {
                window.sticky = false;
            }
            self.bring(id, to, None);
        }
        if follow {
            self.show(to);
        }
    }

    /// The window changes places with its neighbour; over the edge of a monitor it takes a place there. One that floats goes
    /// a step that way.
    fn move_window(&mut self, way: Direction) {
        let Some(id) = self.focused() else { return };
        let here = self.workspace();
        if self.floats(id)
            && let Some(side) = way.side()
        {
            let monitor = self.workspaces[here].monitor;
            let (step, area) = (super::window_manager::times(STEP, self.scale(monitor)), self.most_area(id, monitor));
            let (x, y) = match side {
                Side::Left => (-step, 0),
                Side::Right => (step, 0),
                Side::Top => (0, -step),
                Side::Bottom => (0, step),
            };
            let screen = self.monitors[monitor].facts.area;
            let to = super::floating::kept(PixelRect { x: area.x + x, y: area.y + y, ..area }, screen);
            return self.resize(id, to, []);
        }
        let beside = if self.floats(id) { self.neighbour(way) } else { self.tile_beside(way) };
        match beside.map(|to| (to, self.windows[&to].workspace)) {
            Some((to, at)) if at == here => self.swap(id, to),
            Some((to, at)) => {
                let place = self.workspaces[at].windows.iter().position(|other| *other == to);
                self.bring(id, at, place);
                self.monitor = self.workspaces[at].monitor;
            }
            None => {
                if let Some(monitor) = self.beyond(way) {
                    self.bring(id, self.monitors[monitor].workspace, None);
                    self.monitor = monitor;
                }
            }
        }
    }

    /// Two windows of one workspace change places.
    pub(super) fn swap(&mut self, a: WindowId, b: WindowId) {
        let Some(at) = self.windows.get(&a).map(|window| window.workspace) else { return };
        let windows = &mut self.workspaces[at].windows;
        if let (Some(a), Some(b)) = (windows.iter().position(|id| *id == a), windows.iter().position(|id| *id == b)) {
            windows.swap(a, b);
        }
    }

    /// An edge of the focused window goes out by so many pixels of the settings, or in.
    fn reach(&mut self, side: Side, by: i32) -> Result<(), ActionError> {
        let Some(id) = self.focused() else { return Ok(()) };
        let by = super::window_manager::times(by, self.scale(self.monitor));
        if self.floats(id) {
            self.stretch(id, side, by);
            return Ok(());
        }
        self.change_tiles(LayoutChange::Edge(side, by))
    }

    /// Changes something of the layout of the workspace that has the focus.
    pub(super) fn change_tiles(&mut self, change: LayoutChange) -> Result<(), ActionError> {
        let at = self.workspace();
        let name = self.workspaces[at].rule().0.clone();
        let Some(mut layout) = self.workspaces[at].memory.remove(&name) else { return Ok(()) };
        let changed = self.ask(at, |ask, _| layout.change(change, ask));
        self.workspaces[at].memory.insert(name.clone(), layout);
        match changed {
            Ok(order) => self.reorder(at, &order),
            Err(LayoutError::Stays) => {}
            Err(LayoutError::Nothing) => {
                let what = match change {
                    LayoutChange::Main(_) => "no main area",
                    LayoutChange::Column(_) => "no columns",
                    LayoutChange::Edge(..) => "no edges that can be moved",
                };
                return Err(ActionError::Layout(name, what));
            }
        }
        Ok(())
    }

    /// The area of a picture: all monitors, or the focused window with its frame.
    fn shot(&self, of: ScreenshotSource) -> Result<PixelRect, ActionError> {
        if of != ScreenshotSource::Window {
            let all = self.monitors.iter().map(|monitor| monitor.facts.area).reduce(PixelRect::union);
            return Ok(all.unwrap_or_default());
        }
        let placed = self.focused().and_then(|id| self.shown.placed.get(&id)).ok_or(ActionError::NoFocus)?;
        Ok(placed.outer.overlap(placed.clip).unwrap_or(placed.area))
    }

    /// The effect of using another palette.
    fn other_palette(&self, which: &CycleTarget) -> Result<WmEffect, ActionError> {
        let palettes: Vec<&String> = self.rice.palette.all.keys().collect();
        let name = match which {
            CycleTarget::Named(name) => palettes.iter().find(|known| **known == name).copied(),
            _ => {
                let at = palettes.iter().position(|name| **name == self.rice.palette.name).map_or(0, |at| at + 1);
                palettes.get(at % palettes.len().max(1)).copied()
            }
        };
        match name {
            Some(name) => Ok(WmEffect::Pick("palette.use".to_owned(), jovrik_toml::quoted(name))),
            None => Err(ActionError::No("palette", which.to_string())),
        }
    }

    fn change_layout(&mut self, which: &CycleTarget) -> Result<(), ActionError> {
        let at = self.workspace();
        let layouts = self.workspaces[at].layouts.clone();
        let now = self.workspaces[at].layout;
        let to = match which {
            CycleTarget::Next => Some((now + 1) % layouts.len()),
            CycleTarget::Prev => Some((now + layouts.len() - 1) % layouts.len()),
            CycleTarget::Previous => Some(now),
            CycleTarget::Named(name) => layouts.iter().position(|(layout, _)| layout == name),
        };
        let to = match (to, which) {
            (Some(to), _) => to,
            // Any layout of the rice, as long as the workspace shows it.
            (None, CycleTarget::Named(name)) => self.workspaces[at].visit(&self.rice, name).ok_or_else(|| {
                let mut names: Vec<&str> = layouts.iter().map(|(name, _)| name.as_str()).collect();
                names
                    .extend(self.rice.layout.keys().map(String::as_str).filter(|name| !names.contains(name)).collect::<Vec<_>>());
                ActionError::NotAmong(which.clone(), jovrik_text::problem::in_words(&names))
            })?,
            (None, _) => now,
        };
        self.workspaces[at].layout = to;
        self.workspaces[at].leave_visited(&self.rice);
        // What has never floated gets a place where all do.
        for id in self.workspaces[at].windows.clone() {
            if self.floats(id) && self.windows[&id].floating_rect.w == 0 {
                let place = self.first_place(id);
                self.windows[&id].floating_rect = place;
            }
        }
        Ok(())
    }

    fn toggle_bars(&mut self, name: Option<&str>, here: bool) -> Result<(), ActionError> {
        let names: Vec<String> = match name {
            Some(name) if self.rice.bar.contains_key(name) => vec![name.to_owned()],
            Some(name) => return Err(ActionError::No("bar", name.to_owned())),
            None => self.rice.bar.keys().cloned().collect(),
        };
        let monitor = self.monitors[self.monitor].facts.name.clone();
        // Those that are shown are hidden; when none is, all are shown.
        let hide = names.iter().any(|name| self.bar_shown(name, &monitor));
        for name in names.into_iter().filter(|name| self.bar_shown(name, &monitor) == hide).collect::<Vec<_>>() {
            if !here {
                // What was toggled on one monitor does not outlive what is toggled everywhere.
                self.turned_bars.retain(|(bar, monitor)| *bar != name || monitor.is_none());
            }
            let key = (name.clone(), here.then(|| monitor.clone()));
            if self.bar_shown(&name, &monitor) == hide && !self.turned_bars.remove(&key) {
                self.turned_bars.insert(key);
            }
        }
        Ok(())
    }

    fn fold(&mut self, name: &str) -> Result<(), ActionError> {
        match self.rice.module.get(name) {
            Some(module) if !module.group.is_empty() => {
                if !self.turned_groups.remove(name) {
                    self.turned_groups.insert(name.to_owned());
                }
            }
            Some(_) => return Err(ActionError::NoGroup(name.to_owned())),
            None => return Err(ActionError::No("module", name.to_owned())),
        }
        Ok(())
    }
}
