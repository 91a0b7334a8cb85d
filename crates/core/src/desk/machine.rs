//! State and event give state and effects.

use std::rc::Rc;

use foldhash::HashMap;

use super::action::{Action, Bars, MainChange, Way, Which};
use super::area::Area;
use super::state::{Arrangement, Desk, FrameAt, MonitorFacts};
use super::window::{Window, WindowFacts, WindowId};
use crate::rice::{NewPlace, Rice};

/// What happens to a desk.
#[derive(Debug, Clone)]
pub enum Event {
    /// A window wants to be seen.
    Appears(WindowId, WindowFacts),
    /// A window is gone.
    Goes(WindowId),
    /// A window's title changed.
    Retitled(WindowId, String),
    /// A window calls, or no longer does.
    Calls(WindowId, bool),
    /// The person points at a window, or asks for it.
    Wanted(WindowId),
    /// The person points at something of ours on a monitor, by its number.
    Pointed(usize),
    /// The monitors are these now.
    Monitors(Vec<MonitorFacts>),
    /// The settings are these now.
    Settings(Rc<Rice>),
    /// An action, from a key or told.
    Act(Action),
}

/// What a stage must do.
#[derive(Debug, Clone, PartialEq)]
pub enum Effect {
    /// Put a window into an area.
    Place {
        /// The window.
        window: WindowId,
        /// The area inside its frame.
        area: Area,
    },
    /// Lay these windows over all the others, the first lowest.
    Stack(Vec<WindowId>),
    /// Show a window.
    Show(WindowId),
    /// Take a window out of sight.
    Hide(WindowId),
    /// Give the focus.
    Focus(Option<WindowId>),
    /// Ask a window to close.
    Close(WindowId),
    /// End a window's connection.
    Kill(WindowId),
    /// Start a program.
    Start {
        /// What is run.
        argv: Vec<String>,
        /// Added to its environment.
        env: Vec<(String, String)>,
    },
    /// Paint these areas behind the windows again.
    Paint(Vec<Area>),
    /// Why nothing happened, for whoever asked.
    Refused(String),
}

impl Desk {
    /// One step.
    pub fn handle(&mut self, event: Event) -> Vec<Effect> {
        let mut effects = Vec::new();
        let old_rice = self.rice.clone();
        self.appeared = None;
        match event {
            Event::Appears(id, facts) => self.appear(id, facts),
            Event::Goes(id) => self.forget(id),
            Event::Retitled(id, title) => {
                if let Some(window) = self.windows.get_mut(&id) {
                    window.facts.title = title;
                }
            }
            Event::Calls(id, calls) => {
                let focused = self.focused() == Some(id);
                if let Some(window) = self.windows.get_mut(&id) {
                    window.urgent = calls && !focused;
                }
            }
            Event::Wanted(id) => self.want(id),
            Event::Pointed(monitor) => self.monitor = monitor.min(self.monitors.len() - 1),
            Event::Monitors(facts) => self.set_up(facts),
            Event::Settings(rice) => {
                let facts = self.monitors.iter().map(|monitor| monitor.facts.clone()).collect();
                self.rice = rice;
                self.set_up(facts);
            }
            Event::Act(action) => self.act(action, &mut effects),
        }
        if let Some(window) = self.focused().and_then(|id| self.windows.get_mut(&id)) {
            window.urgent = false;
        }
        let new = self.arrange();
        self.tell(&old_rice, &new, &mut effects);
        self.shown = new;
        effects
    }

    /// The difference between what is shown and what is to be shown, as effects.
    fn tell<'a>(&'a self, old_rice: &Rc<Rice>, new: &'a Arrangement, effects: &mut Vec<Effect>) {
        let old = &self.shown;
        for (id, placed) in &new.placed {
            if old.placed.get(id) != Some(placed) {
                effects.push(Effect::Place { window: *id, area: placed.area });
            }
        }
        effects.extend(new.placed.keys().filter(|id| !old.placed.contains_key(*id)).map(|id| Effect::Show(*id)));
        let over = |all: &Arrangement| -> Vec<WindowId> {
            all.placed.iter().filter(|(_, placed)| placed.floating).map(|(id, _)| *id).collect()
        };
        let (shown, above) = (new.placed.keys().any(|id| !old.placed.contains_key(id)), over(new));
        // A window that is shown comes over all that is there.
        if !above.is_empty() && (shown || above != over(old)) {
            effects.push(Effect::Stack(above));
        }
        let gone = old.placed.keys().filter(|id| !new.placed.contains_key(*id));
        effects.extend(gone.filter(|id| self.windows.contains_key(*id)).map(|id| Effect::Hide(*id)));
        // One that appears where nobody sees it was mapped by nobody, or is there already.
        effects.extend(self.appeared.filter(|id| !new.placed.contains_key(id)).map(Effect::Hide));
        if old.focus != new.focus {
            effects.push(Effect::Focus(new.focus));
        }
        let mut damage: Vec<Area> = Vec::new();
        if !Rc::ptr_eq(old_rice, &self.rice) && old_rice.backdrop != self.rice.backdrop {
            damage.extend(self.monitors.iter().map(|monitor| monitor.facts.area));
        } else {
            let looks_change = !Rc::ptr_eq(old_rice, &self.rice) && old_rice.frame != self.rice.frame;
            let reach = old_rice.frame.glow.width.0.max(self.rice.frame.glow.width.0) + 1;
            let reach = (f64::from(reach) * self.most_scale()).ceil() as i32;
            let by_window = |all: &'a [FrameAt]| -> HashMap<WindowId, &'a FrameAt> {
                all.iter().map(|frame| (frame.window, frame)).collect()
            };
            let (before, after) = (by_window(&old.frames), by_window(&new.frames));
            let changed =
                |frame: &&FrameAt, others: &HashMap<WindowId, &FrameAt>| looks_change || others.get(&frame.window) != Some(frame);
            let gone = old.frames.iter().filter(|frame| changed(frame, &after));
            let frames = gone.chain(new.frames.iter().filter(|frame| changed(frame, &before)));
            damage.extend(frames.map(|frame| frame.area.inset(-reach)));
        }
        damage.dedup();
        if !damage.is_empty() {
            effects.push(Effect::Paint(damage));
        }
    }

    fn appear(&mut self, id: WindowId, facts: WindowFacts) {
        if self.windows.contains_key(&id) {
            return;
        }
        let named =
            facts.workspace.as_ref().and_then(|name| self.workspaces.iter().position(|workspace| workspace.name == *name));
        // What belongs to a window is where that is.
        let parent = facts.parent.and_then(|parent| self.windows.get(&parent)).map(|parent| parent.workspace);
        let at = parent.or(named).unwrap_or_else(|| self.workspace());
        let (name, rule) = self.workspaces[at].rule();
        let (new, mains) = (rule.new, self.workspaces[at].memory.get(name).map_or(1, |layout| layout.mains(rule)));
        let workspace = &mut self.workspaces[at];
        let place = match new {
            NewPlace::Main => 0,
            NewPlace::StackStart => mains.min(workspace.windows.len()),
            NewPlace::AfterFocus => {
                let focused = workspace.focus.last().and_then(|focused| workspace.windows.iter().position(|id| id == focused));
                focused.map_or(workspace.windows.len(), |at| at + 1)
            }
            NewPlace::StackEnd => workspace.windows.len(),
        };
        workspace.windows.insert(place, id);
        workspace.focus.push(id);
        let floating = facts.floats();
        self.windows.insert(id, Window { facts, workspace: at, urgent: false, floating });
        self.appeared = Some(id);
    }

    fn forget(&mut self, id: WindowId) {
        self.windows.shift_remove(&id);
        for workspace in &mut self.workspaces {
            workspace.windows.retain(|other| *other != id);
            workspace.focus.retain(|other| *other != id);
        }
    }

    fn want(&mut self, id: WindowId) {
        let Some(at) = self.windows.get(&id).map(|window| window.workspace) else { return };
        self.show(at);
        let focus = &mut self.workspaces[at].focus;
        focus.retain(|other| *other != id);
        focus.push(id);
    }

    /// Shows a workspace on its monitor and takes the focus there.
    fn show(&mut self, workspace: usize) {
        let before = self.workspace();
        let seen = self.monitors.iter().position(|monitor| monitor.workspace == workspace);
        self.monitor = seen.unwrap_or(self.workspaces[workspace].monitor).min(self.monitors.len() - 1);
        self.monitors[self.monitor].workspace = workspace;
        if before != workspace {
            self.back = Some(before);
        }
    }

    fn which(&self, which: &Which) -> Result<usize, String> {
        let here = self.workspace();
        let own: Vec<usize> =
            (0..self.workspaces.len()).filter(|at| self.workspaces[*at].monitor == self.monitor || *at == here).collect();
        let at = own.iter().position(|at| *at == here).unwrap_or(0);
        Ok(match which {
            Which::Next => own[(at + 1) % own.len()],
            Which::Prev => own[(at + own.len() - 1) % own.len()],
            Which::Back => self.back.filter(|back| *back < self.workspaces.len()).unwrap_or(here),
            Which::Named(name) => {
                let found = self.workspaces.iter().position(|workspace| workspace.name == *name);
                found.ok_or_else(|| format!("there is no workspace {name}"))?
            }
        })
    }

    fn send(&mut self, which: &Which, effects: &mut Vec<Effect>) -> Option<usize> {
        let to = match self.which(which) {
            Ok(to) => to,
            Err(why) => {
                effects.push(Effect::Refused(why));
                return None;
            }
        };
        let here = self.workspace();
        if let Some(id) = self.focused().filter(|_| to != here) {
            self.bring(id, to, None);
        }
        Some(to)
    }

    /// The variables that everything the desk starts is given.
    fn environment(&self) -> impl Iterator<Item = (String, String)> {
        self.rice.environment.iter().map(|(name, value)| (name.clone(), value.0.clone()))
    }

    fn act(&mut self, action: Action, effects: &mut Vec<Effect>) {
        match action {
            Action::None => {}
            Action::Open(name) => match self.rice.program.get(&name) {
                Some(program) => {
                    let own = program.env.iter().map(|(name, value)| (name.clone(), value.clone()));
                    effects.push(Effect::Start { argv: program.run.clone(), env: self.environment().chain(own).collect() });
                }
                None => effects.push(Effect::Refused(format!("there is no program {name}"))),
            },
            Action::Run(argv) => effects.push(Effect::Start { argv, env: self.environment().collect() }),
            Action::Close => effects.extend(self.focused().map(Effect::Close)),
            Action::Kill => effects.extend(self.focused().map(Effect::Kill)),
            Action::Focus(way) => match self.neighbour(way) {
                Some(to) => self.want(to),
                None => self.monitor = self.beyond(way).unwrap_or(self.monitor),
            },
            Action::Move(way) => self.move_window(way),
            Action::Go(which) => match self.which(&which) {
                Ok(at) => self.show(at),
                Err(why) => effects.push(Effect::Refused(why)),
            },
            Action::Send(which) => {
                self.send(&which, effects);
            }
            Action::Carry(which) => {
                if let Some(to) = self.send(&which, effects) {
                    self.show(to);
                }
            }
            Action::Layout(which) => self.change_layout(&which, effects),
            Action::Main(change) => self.change_main(change, effects),
            Action::BarToggle(Bars { name, here }) => self.toggle_bars(name.as_deref(), here, effects),
            Action::Fold(name) => self.fold(&name, effects),
            // Keys and the session itself are the desktop's.
            Action::Mode(_) | Action::Keyboard(_) | Action::Press(_) | Action::KeysSheet | Action::Reload | Action::Quit => {}
        }
    }

    /// The window changes places with its neighbour; over the edge of a monitor it takes a place there.
    fn move_window(&mut self, way: Way) {
        let Some(id) = self.focused() else { return };
        let here = self.workspace();
        match self.neighbour(way).map(|to| (to, self.windows[&to].workspace)) {
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
    fn swap(&mut self, a: WindowId, b: WindowId) {
        let Some(at) = self.windows.get(&a).map(|window| window.workspace) else { return };
        let windows = &mut self.workspaces[at].windows;
        if let (Some(a), Some(b)) = (windows.iter().position(|id| *id == a), windows.iter().position(|id| *id == b)) {
            windows.swap(a, b);
        }
    }

    fn change_layout(&mut self, which: &Which, effects: &mut Vec<Effect>) {
        let at = self.workspace();
        let layouts = self.workspaces[at].layouts.clone();
        let now = self.workspaces[at].layout;
        let to = match which {
            Which::Next => Some((now + 1) % layouts.len()),
            Which::Prev => Some((now + layouts.len() - 1) % layouts.len()),
            Which::Back => Some(now),
            Which::Named(name) => layouts.iter().position(|(layout, _)| layout == name),
        };
        match to {
            Some(to) => self.workspaces[at].layout = to,
            None => {
                let names: Vec<&str> = layouts.iter().map(|(name, _)| name.as_str()).collect();
                effects.push(Effect::Refused(format!(
                    "{which} is not among the layouts here: {}",
                    crate::problem::in_words(&names)
                )));
            }
        }
    }

    fn change_main(&mut self, change: MainChange, effects: &mut Vec<Effect>) {
        let at = self.workspace();
        let (done, layout, first, second) = self.ask(at, |ask, layout| {
            let mut layout = layout.clone();
            let done = layout.change(change, ask);
            (done, layout, ask.tiles.first().map(|tile| tile.id), ask.tiles.get(1).map(|tile| tile.id))
        });
        let name = self.workspaces[at].rule().0.clone();
        if done.is_err() {
            effects.push(Effect::Refused(format!("the layout {name} has no main area")));
            return;
        }
        self.workspaces[at].memory.insert(name, layout);
        if change == MainChange::Swap {
            let focused = self.focused();
            let other = if focused == first { second } else { focused };
            if let (Some(first), Some(other)) = (first, other) {
                self.swap(first, other);
            }
        }
    }

    fn toggle_bars(&mut self, name: Option<&str>, here: bool, effects: &mut Vec<Effect>) {
        let names: Vec<String> = match name {
            Some(name) if self.rice.bar.contains_key(name) => vec![name.to_owned()],
            Some(name) => {
                effects.push(Effect::Refused(format!("there is no bar {name}")));
                return;
            }
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
    }

    fn fold(&mut self, name: &str, effects: &mut Vec<Effect>) {
        match self.rice.module.get(name) {
            Some(module) if !module.group.is_empty() => {
                if !self.turned_groups.remove(name) {
                    self.turned_groups.insert(name.to_owned());
                }
            }
            Some(_) => effects.push(Effect::Refused(format!("the module {name} has no group to fold"))),
            None => effects.push(Effect::Refused(format!("there is no module {name}"))),
        }
    }

    /// The window that lies in a direction, over the edge of a monitor too.
    fn neighbour(&self, way: Way) -> Option<WindowId> {
        let at = self.workspace();
        let workspace = &self.workspaces[at];
        let focused = self.focused()?;
        let order = &workspace.windows;
        let here = order.iter().position(|id| *id == focused)?;
        match way {
            Way::Next => order.get((here + 1) % order.len()).copied(),
            Way::Prev => order.get((here + order.len() - 1) % order.len()).copied(),
            Way::Last => workspace.focus.iter().rev().nth(1).copied(),
            Way::Left | Way::Right | Way::Up | Way::Down => {
                let arrangement = &self.shown;
                let from = arrangement.frames.iter().find(|frame| frame.window == focused)?.area;
                let (fx, fy) = from.centre2();
                let score = |frame: &&FrameAt| {
                    let (x, y) = frame.area.centre2();
                    let (along, across) = match way {
                        Way::Left => (fx - x, y - fy),
                        Way::Right => (x - fx, y - fy),
                        Way::Up => (fy - y, x - fx),
                        _ => (y - fy, x - fx),
                    };
                    (frame.window != focused && along > 0 && along >= across.abs() / 2).then_some(along + 2 * across.abs())
                };
                arrangement
                    .frames
                    .iter()
                    .filter_map(|frame| Some((score(&frame)?, frame.window)))
                    .min_by_key(|(score, _)| *score)
                    .map(|(_, id)| id)
            }
        }
    }
}
