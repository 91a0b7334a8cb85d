//! What the desk knows: monitors, workspaces, windows, and how they are arranged.

use std::collections::{HashMap, HashSet};
use std::rc::Rc;

use crate::Ordered;

use super::area::Area;
use super::layout::{Ask, Layout, Tile};
use super::window::{Window, WindowId};
use crate::bar::{Field, MarkState, Values};
use crate::rice::{LayoutRule, Rice, Side, Sides};

/// What a stage tells of a monitor.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MonitorFacts {
    /// The output's name.
    pub name: String,
    /// Where it shows.
    pub area: Area,
    /// Whether programs take it for the main one.
    pub primary: bool,
}

/// A monitor and the workspace it shows.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Monitor {
    /// Its facts.
    pub facts: MonitorFacts,
    /// The workspace it shows.
    pub workspace: usize,
}

/// A workspace.
#[derive(Debug, Clone, PartialEq)]
pub struct Workspace {
    /// Its name.
    pub name: String,
    /// The name of the monitor that it belongs to, whether that is there or not.
    pub home: String,
    /// The number of the monitor that it is on.
    pub monitor: usize,
    /// Whether it was made because nothing belonged to its monitor.
    pub own: bool,
    /// Its windows, in the order of tiling.
    pub windows: Vec<super::WindowId>,
    /// Windows by focus, the latest last.
    pub focus: Vec<super::WindowId>,
    /// Its layouts with their names, in order; never none.
    pub layouts: Rc<[(String, LayoutRule)]>,
    /// Which of them it uses.
    pub layout: usize,
    /// What each of them remembers, by its name.
    pub memory: HashMap<String, Layout>,
}

impl Workspace {
    /// One without windows, at home nowhere yet.
    pub(super) fn new(name: String) -> Workspace {
        let (home, windows, focus) = (String::new(), Vec::new(), Vec::new());
        let (layouts, memory) = (Rc::new([]), HashMap::new());
        Workspace { name, home, monitor: 0, own: false, windows, focus, layouts, layout: 0, memory }
    }

    /// The layout that it uses: its name, and what the rice says of it.
    pub fn rule(&self) -> &(String, LayoutRule) {
        &self.layouts[self.layout]
    }

    /// Takes over the layouts of a rice; what they remember stays where they are of the same kind.
    pub(super) fn lay_out(&mut self, rice: &Rice) {
        let before = self.layouts.get(self.layout).map(|(name, _)| name.clone());
        let layouts = rice.layouts_of(&self.name);
        let fits = |(name, rule): &(String, LayoutRule)| {
            self.memory.get(name).filter(|layout| layout.is(rule.kind)).cloned().unwrap_or_else(|| Layout::new(rule.kind))
        };
        self.memory = layouts.iter().map(|one| (one.0.clone(), fits(one))).collect();
        self.layout = before.and_then(|before| layouts.iter().position(|(name, _)| *name == before)).unwrap_or(0);
        self.layouts = layouts.into();
    }
}

/// What a frame says.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum FrameState {
    /// The focus is here.
    Active,
    /// It is not.
    Idle,
    /// The window calls.
    Urgent,
}

/// A frame on the screen.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct FrameAt {
    /// Its window.
    pub window: WindowId,
    /// Its outer edge.
    pub area: Area,
    /// What it says.
    pub state: FrameState,
    /// The scale of its monitor, in percent.
    pub scale: i32,
}

/// Where a window is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Placed {
    /// The area inside its frame.
    pub area: Area,
    /// Whether it lies over the tiles.
    pub floating: bool,
    /// The scale of its monitor, in percent.
    pub scale: i32,
}

/// Everything that is seen of the windows.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Arrangement {
    /// The windows that are seen, in stacking order from below.
    pub placed: Ordered<WindowId, Placed>,
    /// Their frames, in the same order.
    pub frames: Vec<FrameAt>,
    /// Who has the focus.
    pub focus: Option<WindowId>,
}

/// A layout as a small drawing: tiles in a unit square of 16.
#[derive(Debug, Clone, PartialEq)]
pub struct LayoutSketch {
    /// The layout's name.
    pub name: String,
    /// Its tiles, in 16ths.
    pub tiles: Vec<Area>,
}

/// Pixels of the settings as those of a monitor.
fn times(pixels: i32, scale: f64) -> i32 {
    (f64::from(pixels) * scale).round() as i32
}

/// The desk.
#[derive(Debug, Clone)]
pub struct Desk {
    pub(super) rice: Rc<Rice>,
    /// The monitors, from the left.
    pub monitors: Vec<Monitor>,
    /// The workspaces, in order.
    pub workspaces: Vec<Workspace>,
    /// All windows.
    pub windows: Ordered<WindowId, Window>,
    /// The monitor that has the focus.
    pub monitor: usize,
    pub(super) back: Option<usize>,
    /// What each monitor showed last, also of those that are away.
    pub(super) remembered: HashMap<String, String>,
    /// Bars that were toggled: everywhere, or on one monitor.
    pub(super) turned_bars: HashSet<(String, Option<String>)>,
    pub(super) turned_groups: HashSet<String>,
    pub(super) shown: Arrangement,
    /// The window that appeared in the step that is being taken.
    pub(super) appeared: Option<WindowId>,
}

impl Desk {
    /// A desk without windows.
    pub fn new(rice: Rc<Rice>, monitors: Vec<MonitorFacts>) -> Self {
        let mut desk = Desk {
            rice,
            monitors: Vec::new(),
            workspaces: Vec::new(),
            windows: Ordered::default(),
            monitor: 0,
            back: None,
            remembered: HashMap::new(),
            turned_bars: HashSet::new(),
            turned_groups: HashSet::new(),
            shown: Arrangement::default(),
            appeared: None,
        };
        desk.set_up(monitors);
        desk
    }

    /// The settings in force.
    pub fn rice(&self) -> &Rc<Rice> {
        &self.rice
    }

    /// The arrangement that was last told in effects.
    pub fn arrangement(&self) -> &Arrangement {
        &self.shown
    }

    /// The workspace that has the focus.
    pub fn workspace(&self) -> usize {
        self.monitors[self.monitor].workspace
    }

    /// The window that has the focus.
    pub fn focused(&self) -> Option<WindowId> {
        self.workspaces[self.workspace()].focus.last().copied()
    }

    /// The layout that a workspace uses: its name, and what the rice says of it.
    pub fn layout_of(&self, workspace: usize) -> &(String, LayoutRule) {
        self.workspaces[workspace].rule()
    }

    /// The bars that lie on a monitor, in the order of the rice.
    pub fn bars_on(&self, monitor: usize) -> impl Iterator<Item = (&String, &crate::rice::Bar)> {
        let name = self.monitors.get(monitor).map_or("", |monitor| &monitor.facts.name);
        self.rice.bar.iter().filter(move |(bar, rule)| rule.monitor.matches(name) && self.bar_shown(bar, name))
    }

    /// The bars that some monitor shows.
    pub fn bars_seen(&self) -> HashSet<String> {
        (0..self.monitors.len()).flat_map(|monitor| self.bars_on(monitor)).map(|(name, _)| name.clone()).collect()
    }

    /// Whether a bar is shown on a monitor that it is on.
    pub(super) fn bar_shown(&self, bar: &str, monitor: &str) -> bool {
        let shown = self.rice.bar.get(bar).is_some_and(|rule| rule.shown);
        let turned = |of: Option<&str>| self.turned_bars.contains(&(bar.to_owned(), of.map(str::to_owned)));
        shown != (turned(None) != turned(Some(monitor)))
    }

    /// Whether the group of a module is folded.
    pub fn folded(&self, module: &str) -> bool {
        let folded = self.rice.module.get(module).is_none_or(|module| module.folded);
        folded != self.turned_groups.contains(module)
    }

    /// How many pixels of a monitor a pixel of the settings takes.
    pub fn scale(&self, monitor: usize) -> f64 {
        let name = self.monitors.get(monitor).map_or("", |monitor| &monitor.facts.name);
        let rule = self.rice.monitor.values().find(|rule| rule.r#match.matches(name));
        rule.map_or(1.0, |rule| rule.scale.0)
    }

    /// The largest scale of all monitors.
    pub fn most_scale(&self) -> f64 {
        (0..self.monitors.len()).map(|monitor| self.scale(monitor)).fold(1.0, f64::max)
    }

    /// Where a bar lies.
    pub fn bar_rect(&self, monitor: usize, name: &str) -> Option<crate::scene::Rect> {
        self.bar_area(monitor, name).map(Into::into)
    }

    /// Where a bar lies: each lies inside of those before it that windows keep off.
    pub fn bar_area(&self, monitor: usize, name: &str) -> Option<Area> {
        let (bars, _) = self.divide(monitor);
        bars.into_iter().find(|(other, _)| *other == name).map(|(_, area)| area)
    }

    /// The bars of a monitor with their areas, and what they leave.
    fn divide(&self, monitor: usize) -> (Vec<(&String, Area)>, Area) {
        let Some(mut left) = self.monitors.get(monitor).map(|monitor| monitor.facts.area) else {
            return (Vec::new(), Area::default());
        };
        let mut bars = Vec::new();
        let scale = self.scale(monitor);
        let px = |pixels: i32| times(pixels, scale);
        for (name, bar) in self.bars_on(monitor) {
            let Sides { top, right, bottom, left: start } = bar.margin;
            let margin = Sides { top: px(top), right: px(right), bottom: px(bottom), left: px(start) };
            let thick = px(bar.thick.0);
            let (along_w, along_h) = ((left.w - margin.left - margin.right).max(1), (left.h - margin.top - margin.bottom).max(1));
            let (x, y) = (left.x + margin.left, left.y + margin.top);
            let area = match bar.edge {
                Side::Top => Area::new(x, y, along_w, thick),
                Side::Bottom => Area::new(x, left.y + left.h - margin.bottom - thick, along_w, thick),
                Side::Left => Area::new(x, y, thick, along_h),
                Side::Right => Area::new(left.x + left.w - margin.right - thick, y, thick, along_h),
            };
            bars.push((name, area));
            if bar.reserve {
                match bar.edge {
                    Side::Top => {
                        left.y += thick + margin.top;
                        left.h -= thick + margin.top;
                    }
                    Side::Bottom => left.h -= thick + margin.bottom,
                    Side::Left => {
                        left.x += thick + margin.left;
                        left.w -= thick + margin.left;
                    }
                    Side::Right => left.w -= thick + margin.right,
                }
                (left.w, left.h) = (left.w.max(1), left.h.max(1));
            }
        }
        (bars, left)
    }

    /// The area that windows of a monitor may use.
    pub fn work_area(&self, monitor: usize) -> Area {
        let (_, area) = self.divide(monitor);
        let name = &self.monitors[monitor].facts.name;
        match self.rice.monitor.values().find(|rule| rule.r#match.matches(name)) {
            Some(rule) => area.without(&rule.reserve),
            None => area,
        }
    }

    /// The tiled windows of a workspace, in order.
    pub fn tiled(&self, workspace: usize) -> Vec<WindowId> {
        let windows = self.workspaces[workspace].windows.iter();
        windows.copied().filter(|id| self.windows.get(id).is_some_and(|window| window.floating.is_none())).collect()
    }

    /// The arrangement that the state asks for.
    pub(super) fn arrange(&self) -> Arrangement {
        let mut arrangement = Arrangement { focus: self.focused(), ..Arrangement::default() };
        for monitor in 0..self.monitors.len() {
            self.arrange_monitor(monitor, &mut arrangement);
        }
        arrangement
    }

    /// What the layout of a workspace is asked, on its monitor.
    pub(super) fn ask<T>(&self, workspace: usize, asks: impl FnOnce(&Ask<'_>, &Layout) -> T) -> T {
        let own = &self.workspaces[workspace];
        let scale = self.scale(own.monitor);
        let frame = 2 * times(self.rice.frame.width.0, scale);
        let tile = |id: WindowId| {
            let (w, h) = self.windows.get(&id).map_or((1, 1), |window| window.facts.least);
            Tile { id, least: (w + frame, h + frame) }
        };
        let tiles: Vec<Tile> = self.tiled(workspace).into_iter().map(tile).collect();
        let edge = if tiles.len() == 1 { self.rice.space.alone.0 } else { self.rice.space.edge.0 };
        let (name, rule) = own.rule();
        let focus = own.focus.iter().rev().find(|id| tiles.iter().any(|tile| tile.id == **id)).copied();
        let area = self.work_area(own.monitor).inset(times(edge, scale));
        let gap = times(self.rice.space.between.0, scale);
        let plain = Layout::new(rule.kind);
        asks(&Ask { area, tiles: &tiles, gap, focus, rule }, own.memory.get(name).unwrap_or(&plain))
    }

    fn arrange_monitor(&self, monitor: usize, arrangement: &mut Arrangement) {
        let at = self.monitors[monitor].workspace;
        let workspace = &self.workspaces[at];
        let work = self.work_area(monitor);
        let scale = self.scale(monitor);
        let percent = (scale * 100.0).round() as i32;
        let tiles = self.ask(at, |ask, layout| layout.arrange(ask));
        let width = times(self.rice.frame.width.0, scale);
        let mut put = |id: WindowId, area: Area, floating: bool| {
            let urgent = self.windows.get(&id).is_some_and(|window| window.urgent);
            let state = match (arrangement.focus == Some(id), urgent) {
                (true, _) => FrameState::Active,
                (false, true) => FrameState::Urgent,
                (false, false) => FrameState::Idle,
            };
            arrangement.frames.push(FrameAt { window: id, area, state, scale: percent });
            arrangement.placed.insert(id, Placed { area: area.inset(width), floating, scale: percent });
        };
        for (id, area) in tiles {
            put(id, area, false);
        }
        let size = |id: &WindowId| Some((*id, self.windows.get(id)?.floating?));
        let by_focus = workspace.focus.iter().filter_map(size);
        let others = workspace.windows.iter().filter_map(size).filter(|(id, _)| !workspace.focus.contains(id));
        for (id, (w, h)) in by_focus.chain(others) {
            let (w, h) = ((w + 2 * width).min(work.w), (h + 2 * width).min(work.h));
            put(id, Area::new(work.x + (work.w - w) / 2, work.y + (work.h - h) / 2, w, h), true);
        }
    }

    /// The workspaces of a monitor with their states, in order.
    pub fn workspace_marks(&self, monitor: usize) -> Vec<(&str, MarkState)> {
        let Some(here) = self.monitors.get(monitor).map(|monitor| monitor.workspace) else { return Vec::new() };
        let own = self.workspaces.iter().enumerate().filter(|(at, workspace)| workspace.monitor == monitor || *at == here);
        own.map(|(at, workspace)| {
            let calls = workspace.windows.iter().any(|id| self.windows.get(id).is_some_and(|window| window.urgent));
            let state = match () {
                () if at == here => MarkState::Here,
                () if calls => MarkState::Calls,
                () if workspace.windows.is_empty() => MarkState::Empty,
                () => MarkState::Used,
            };
            (workspace.name.as_str(), state)
        })
        .collect()
    }

    /// The layout of what a monitor shows, as a small drawing.
    pub fn layout_sketch(&self, monitor: usize) -> LayoutSketch {
        let workspace = self.monitors.get(monitor).map_or(0, |monitor| monitor.workspace);
        let (name, rule) = self.layout_of(workspace);
        let rule = LayoutRule { mains: crate::rice::Whole(rule.mains.0.min(2)), ..rule.clone() };
        let windows = [0, 1, 2].map(|nth| Tile { id: WindowId(nth), least: (1, 1) });
        let ask = Ask { area: Area::new(0, 0, 16, 12), tiles: &windows, gap: 0, focus: Some(WindowId(0)), rule: &rule };
        let mut tiles: Vec<Area> = Layout::new(rule.kind).arrange(&ask).into_iter().map(|(_, area)| area).collect();
        tiles.dedup();
        LayoutSketch { name: name.clone(), tiles }
    }

    /// The title and app of the window that a monitor shows in front.
    pub fn title_values(&self, monitor: usize) -> Values {
        let workspace = self.monitors.get(monitor).map_or(0, |monitor| monitor.workspace);
        let window = self.workspaces[workspace].focus.last().and_then(|id| self.windows.get(id));
        match window {
            Some(window) => Values::one("title", Field::Text(window.facts.title.clone()))
                .and("app", Field::Text(window.facts.app.clone()))
                .and("value", Field::Text(window.facts.title.clone())),
            None => Values::default(),
        }
    }
}
