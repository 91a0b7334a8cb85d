//! What the desk knows: monitors, workspaces, windows, and how they are arranged.

use std::collections::{HashMap, HashSet};
use std::rc::Rc;

use jovrik_text::Ordered;
use jovrik_values::{FieldValue, PixelRect, Values};

use super::arrangement::Arrangement;
use super::layout::{LayoutInput, LayoutState, Tile};
use super::panel::Panel;
use super::saved_state::SavedState;
use super::window::{Window, WindowId};
use crate::bar::WorkspaceState;
use crate::rice::{LayoutRule, Rice, layout_named};

/// What a stage tells of a monitor.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MonitorFacts {
    /// The output's name.
    pub name: String,
    /// Maker, model and number of what is connected, as far as it says.
    pub maker: String,
    /// Where it shows.
    pub area: PixelRect,
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
    pub memory: HashMap<String, LayoutState>,
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

    /// The layout that it uses, with what that remembers.
    pub(super) fn layout_now(&self) -> Option<&LayoutState> {
        self.layouts.get(self.layout).and_then(|(name, _)| self.memory.get(name))
    }

    /// Takes in a layout of the rice that is none of its own: its place among them.
    pub(super) fn visit(&mut self, rice: &Rice, name: &str) -> Option<usize> {
        let rule = layout_named(&rice.layout, name)?;
        self.memory.entry(name.to_owned()).or_insert_with(|| LayoutState::new(rule.kind));
        self.layouts = self.layouts.iter().cloned().chain([(name.to_owned(), rule)]).collect();
        Some(self.layouts.len() - 1)
    }

    /// Layouts that are none of its own are its own no longer than they are in use.
    pub(super) fn leave_visited(&mut self, rice: &Rice) {
        let own = rice.layouts_of(&self.name).len();
        if self.layouts.len() > own + usize::from(self.layout >= own) {
            let visited = self.layouts.get(self.layout).filter(|_| self.layout >= own).cloned();
            self.layouts = self.layouts[..own].iter().cloned().chain(visited).collect();
            self.layout = self.layout.min(self.layouts.len() - 1);
        }
    }

    /// Takes over the layouts of a rice; what they remember stays where they are of the same kind.
    pub(super) fn lay_out(&mut self, rice: &Rice) {
        let before = self.layouts.get(self.layout).map(|(name, _)| name.clone());
        let mut layouts = rice.layouts_of(&self.name);
        // One that it visits is visited further, if it is still there.
        let visited = before.as_ref().filter(|before| layouts.iter().all(|(name, _)| name != *before));
        layouts.extend(visited.and_then(|name| rice.layout.get(name).map(|rule| (name.clone(), rule.clone()))));
        let fits = |(name, rule): &(String, LayoutRule)| {
            self.memory.get(name).filter(|layout| layout.is(rule.kind)).cloned().unwrap_or_else(|| LayoutState::new(rule.kind))
        };
        self.memory = layouts.iter().map(|one| (one.0.clone(), fits(one))).collect();
        self.layout = before.and_then(|before| layouts.iter().position(|(name, _)| *name == before)).unwrap_or(0);
        self.layouts = layouts.into();
    }
}

/// A layout as a small drawing: tiles in a unit square of 16.
#[derive(Debug, Clone, PartialEq)]
pub struct LayoutSketch {
    /// The layout's name.
    pub name: String,
    /// Its tiles, in 16ths.
    pub tiles: Vec<PixelRect>,
}

/// Pixels of the settings as those of a monitor.
pub(super) fn times(pixels: i32, scale: f64) -> i32 {
    (f64::from(pixels) * scale).round() as i32
}

/// The desk.
#[derive(Debug, Clone)]
pub struct WindowManager {
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
    /// Windows that were put out of sight, the latest last.
    pub tucked: Vec<WindowId>,
    /// Panels and desktops of other programs.
    pub(super) panels: Ordered<WindowId, Panel>,
    /// How often something happened to it.
    pub(super) steps: u64,
    /// Whether all windows are out of the way for now.
    pub(super) bare: bool,
    /// How often a window was lifted over others.
    pub(super) lifts: u64,
    /// What is to be as it was before, until all windows that were there have appeared.
    pub(super) kept: Option<Box<SavedState>>,
    /// Where the pointer was last, on the screen.
    pub(super) pointer: Option<(i32, i32)>,
    pub(super) shown: Arrangement,
    /// The window that appeared in the step that is being taken.
    pub(super) appeared: Option<WindowId>,
}

impl WindowManager {
    /// A desk without windows.
    pub fn new(rice: Rc<Rice>, monitors: Vec<MonitorFacts>) -> Self {
        let mut desk = WindowManager {
            rice,
            monitors: Vec::new(),
            workspaces: Vec::new(),
            windows: Ordered::default(),
            monitor: 0,
            back: None,
            remembered: HashMap::new(),
            turned_bars: HashSet::new(),
            turned_groups: HashSet::new(),
            tucked: Vec::new(),
            panels: Ordered::default(),
            steps: 0,
            bare: false,
            lifts: 0,
            kept: None,
            pointer: None,
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

    /// The panels and desktops of other programs, from below as they came.
    pub fn panels(&self) -> &Ordered<WindowId, Panel> {
        &self.panels
    }

    /// How often something happened to it: when this is as it was, all of it is.
    pub fn steps(&self) -> u64 {
        self.steps
    }

    /// Whether all windows are out of the way for now.
    pub fn bare(&self) -> bool {
        self.bare
    }

    /// The window that has the focus.
    pub fn focused(&self) -> Option<WindowId> {
        if self.bare {
            return None;
        }
        self.workspaces[self.workspace()].focus.last().copied()
    }

    /// The layout that a workspace uses: its name, and what the rice says of it.
    pub fn layout_of(&self, workspace: usize) -> &(String, LayoutRule) {
        self.workspaces[workspace].rule()
    }

    /// How many pixels of a monitor a pixel of the settings takes.
    pub fn scale(&self, monitor: usize) -> f64 {
        let rule = self.monitors.get(monitor).and_then(|monitor| self.rice.of_monitor(&monitor.facts));
        rule.map_or(1.0, |rule| rule.scale.0)
    }

    /// How thick frames are on the monitor that has the focus, in pixels.
    pub fn frame_width(&self) -> i32 {
        times(self.rice.frame.width.0, self.scale(self.monitor))
    }

    /// The scale of the primary monitor, which is the only one that programs are told.
    pub fn main_scale(&self) -> f64 {
        self.scale(self.monitors.iter().position(|monitor| monitor.facts.primary).unwrap_or(0))
    }

    /// The largest scale of all monitors.
    pub fn most_scale(&self) -> f64 {
        (0..self.monitors.len()).map(|monitor| self.scale(monitor)).fold(1.0, f64::max)
    }

    /// The workspaces of a monitor with their states, in order.
    pub fn workspace_marks(&self, monitor: usize) -> Vec<(&str, WorkspaceState)> {
        let Some(here) = self.monitors.get(monitor).map(|monitor| monitor.workspace) else { return Vec::new() };
        let own = self.workspaces.iter().enumerate().filter(|(at, workspace)| workspace.monitor == monitor || *at == here);
        own.map(|(at, workspace)| {
            let calls = workspace.windows.iter().any(|id| self.windows.get(id).is_some_and(|window| window.urgent));
            let state = match () {
                () if at == here => WorkspaceState::Active,
                () if calls => WorkspaceState::Urgent,
                () if workspace.windows.is_empty() => WorkspaceState::Empty,
                () => WorkspaceState::Populated,
            };
            (workspace.name.as_str(), state)
        })
        .collect()
    }

    /// The layout of what a monitor shows, as a small drawing.
    pub fn layout_sketch(&self, monitor: usize) -> LayoutSketch {
        let workspace = self.monitors.get(monitor).map_or(0, |monitor| monitor.workspace);
        let (name, rule) = self.layout_of(workspace);
        let rule = LayoutRule { mains: jovrik_schema::Integer(rule.mains.0.min(2)), ..rule.clone() };
        let windows = [0, 1, 2].map(|nth| Tile { id: WindowId(nth), least: (1, 1) });
        let area = PixelRect::new(0, 0, 16, 12);
        let ask = LayoutInput { area, screen: area, tiles: &windows, gap: 0, strip: 3, focus: Some(WindowId(0)), rule: &rule };
        let mut layout = LayoutState::new(rule.kind);
        layout.settle(&ask);
        let laid = layout.arrange(&ask);
        // A strip of titles is drawn as three of them.
        let titles = if laid.strip { [0, 5, 10].map(|x| PixelRect { x, w: 5, h: 3, ..area }).to_vec() } else { Vec::new() };
        let below = |tile: PixelRect| if laid.strip { PixelRect { y: tile.y + 3, h: tile.h - 3, ..tile } } else { tile };
        let inside = laid.tiles.into_iter().filter_map(|(_, tile)| tile.overlap(area));
        let mut tiles: Vec<PixelRect> = titles.into_iter().chain(inside.map(below)).collect();
        if tiles.is_empty() {
            // Windows as they ask: one over another.
            tiles = vec![PixelRect::new(1, 1, 9, 7), PixelRect::new(6, 4, 9, 7)];
        }
        tiles.dedup();
        LayoutSketch { name: name.clone(), tiles }
    }

    /// The title and app of the window that a monitor shows in front.
    pub fn title_values(&self, monitor: usize) -> Values {
        let workspace = self.monitors.get(monitor).map_or(0, |monitor| monitor.workspace);
        let window = self.workspaces[workspace].focus.last().and_then(|id| self.windows.get(id));
        match window {
            Some(window) => Values::one("title", FieldValue::Text(window.facts.title.clone()))
                .and("app", FieldValue::Text(window.facts.app_id.clone()))
                .and("value", FieldValue::Text(window.facts.title.clone())),
            None => Values::default(),
        }
    }
}
