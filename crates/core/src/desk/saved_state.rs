//! What a desk keeps over a new start: where every window is, what each monitor shows, what layouts remember.

use std::collections::BTreeMap;

use jovrik_text::limits::{self, cut};
use jovrik_values::PixelRect;
use serde::{Deserialize, Serialize};
use serde_json::Value;

use super::layout::LayoutState;
use super::window::{StackingState, Window, WindowId};
use super::window_manager::{WindowManager, Workspace};
use crate::rice::LayoutRule;

/// A desk, as far as it is kept. What a later version does not understand of it is left out, and the rest holds.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct SavedState {
    /// The workspace that each monitor shows, by their names.
    pub monitors: BTreeMap<String, String>,
    /// The monitor that has the focus.
    pub monitor: String,
    /// The workspace to go back to.
    pub back: Option<String>,
    /// Bars that were toggled: everywhere, or on one monitor.
    pub bars: Vec<(String, Option<String>)>,
    /// Groups of modules that were opened or folded.
    pub groups: Vec<String>,
    /// The workspaces.
    pub workspaces: BTreeMap<String, SavedWorkspace>,
    /// The windows in the order of tiling, workspace by workspace; then those that are tucked away, the latest last.
    pub windows: Vec<SavedWindow>,
}

/// A workspace, as far as it is kept.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct SavedWorkspace {
    /// The monitor that it belongs to.
    pub home: String,
    /// The layout in use.
    pub layout: String,
    /// What each layout remembers, if it does.
    pub memory: BTreeMap<String, Value>,
    /// Its windows by focus, the latest last.
    pub focus: Vec<u32>,
}

/// A window, as far as it is kept.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct SavedWindow {
    /// Its number.
    pub id: u32,
    /// Its app name: another window may have its number by now.
    pub app: String,
    /// Its workspace.
    pub workspace: String,
    /// When it appeared among the others: its place in their order.
    pub nth: usize,
    /// Whether it floats.
    pub floating: bool,
    /// Where it floats.
    pub place: PixelRect,
    /// Whether it is over all of its monitor.
    pub full: bool,
    /// Over which part of the screen, where that is more.
    pub spread: Option<PixelRect>,
    /// Whether it is as wide as there is room, and as high.
    pub most: (bool, bool),
    /// Whether it is on every workspace.
    pub pegged: bool,
    /// Whether it is out of sight.
    pub tucked: bool,
    /// Whether it lies over the others, or below them.
    pub shelf: StackingState,
    /// Whether it has a frame.
    pub framed: bool,
    /// Whether it calls.
    pub urgent: bool,
    /// How high it lies among those that float.
    pub lift: u64,
}

/// So many names and windows are kept, so long a name is, and so far a place lies, in pixels: more than any desk has.
const MAX_SAVED_EXTENT: usize = 20_000;
const LONGEST: usize = 1000;
const FARTHEST: i32 = 1_000_000;

/// Whether a place is one on a screen, or near it.
fn is_near(area: &PixelRect) -> bool {
    let near = -FARTHEST..=FARTHEST;
    near.contains(&area.x) && near.contains(&area.y) && (1..=FARTHEST).contains(&area.w) && (1..=FARTHEST).contains(&area.h)
}

impl SavedState {
    /// Reads what was kept. Whoever is on the display may have written it: what makes no sense is left out, and told.
    pub fn read(bytes: &[u8]) -> (Option<SavedState>, Vec<String>) {
        let left_out = |why: String| (None, vec![format!("the desk that was kept: {why}")]);
        if bytes.len() > limits::KEPT_DESK_BYTES {
            return left_out(format!("it has more than {} MiB", limits::KEPT_DESK_BYTES / 1024 / 1024));
        }
        let mut kept = match serde_json::from_slice::<SavedState>(bytes) {
            Ok(kept) => kept,
            Err(error) => return left_out(format!("it cannot be read, {error}")),
        };
        let mut told = Vec::new();
        let mut tell = |what: &str, why: &str| told.push(format!("{what} that was kept: {why}"));
        let named = |name: &String| name.len() <= LONGEST;
        let (windows, workspaces) = (kept.windows.len(), kept.workspaces.len());
        let mut seen = std::collections::HashSet::new();
        kept.windows.retain(|window| {
            let place = !window.floating || is_near(&window.place);
            let fits = named(&window.app) && named(&window.workspace) && place && window.spread.as_ref().is_none_or(is_near);
            fits && window.lift < u64::from(u32::MAX) && seen.insert(window.id)
        });
        kept.windows.truncate(MAX_SAVED_EXTENT);
        if kept.windows.len() < windows {
            tell("a window", "it stands twice, or at no place on a screen");
        }
        for (name, workspace) in &mut kept.workspaces {
            workspace.focus.truncate(MAX_SAVED_EXTENT);
            workspace.memory.retain(|layout, value| {
                let sound = serde_json::from_value::<LayoutState>(value.clone()).is_ok_and(|layout| layout.is_sound());
                if !sound {
                    tell(&format!("layout {} of {}", cut(layout, 40), cut(name, 40)), "it does not fit together");
                }
                sound
            });
        }
        kept.workspaces.retain(|name, workspace| named(name) && named(&workspace.home) && named(&workspace.layout));
        kept.monitors.retain(|name, workspace| named(name) && named(workspace));
        if kept.workspaces.len() < workspaces {
            tell("a workspace", "its name is too long");
        }
        kept.bars.retain(|(name, monitor)| named(name) && monitor.as_ref().is_none_or(named));
        kept.groups.retain(named);
        kept.bars.truncate(MAX_SAVED_EXTENT);
        kept.groups.truncate(MAX_SAVED_EXTENT);
        told.truncate(16);
        (Some(kept), told)
    }
}

impl WindowManager {
    /// All that is to be known to begin again as it is.
    pub fn keep(&self) -> SavedState {
        let workspace = |at: usize| self.workspaces.get(at).map(|one| one.name.clone()).unwrap_or_default();
        let one = |id: &WindowId| {
            let window = self.windows.get(id)?;
            Some(SavedWindow {
                id: id.0,
                app: window.facts.app_id.clone(),
                workspace: workspace(window.workspace),
                nth: self.windows.get_index_of(id).unwrap_or(usize::MAX),
                floating: window.floating,
                place: window.floating_rect,
                full: window.fullscreen,
                spread: window.fullscreen_area,
                most: (window.maximized_horz, window.maximized_vert),
                pegged: window.sticky,
                tucked: window.minimized,
                shelf: window.stacking,
                framed: window.decorated,
                urgent: window.urgent,
                lift: window.stack_serial,
            })
        };
        let windows = self.workspaces.iter().flat_map(|workspace| &workspace.windows).chain(&self.tucked);
        // Those that remember nothing are as good as new.
        let memory = |workspace: &Workspace| {
            let written = |(name, rule): &(String, LayoutRule)| {
                let layout = workspace.memory.get(name).filter(|layout| **layout != LayoutState::new(rule.kind))?;
                Some((name.clone(), serde_json::to_value(layout).ok()?))
            };
            workspace.layouts.iter().filter_map(written).collect()
        };
        let workspaces = self.workspaces.iter().map(|workspace| {
            let kept = SavedWorkspace {
                home: workspace.home.clone(),
                layout: workspace.rule().0.clone(),
                memory: memory(workspace),
                focus: workspace.focus.iter().map(|id| id.0).collect(),
            };
            (workspace.name.clone(), kept)
        });
        let mut bars: Vec<(String, Option<String>)> = self.turned_bars.iter().cloned().collect();
        let mut groups: Vec<String> = self.turned_groups.iter().cloned().collect();
        // The same desk is kept in the same words.
        bars.sort_unstable();
        groups.sort_unstable();
        SavedState {
            back: self.back.map(workspace),
            bars,
            groups,
            monitors: self.monitors.iter().map(|one| (one.facts.name.clone(), workspace(one.workspace))).collect(),
            monitor: self.monitors[self.monitor].facts.name.clone(),
            workspaces: workspaces.collect(),
            windows: windows.filter_map(one).collect(),
        }
    }

    /// Begins again as it was kept: windows that appear next come where they were.
    pub(super) fn restore(&mut self, kept: SavedState) {
        for workspace in &mut self.workspaces {
            let home = kept.workspaces.get(&workspace.name).map(|kept| kept.home.clone());
            workspace.home = home.unwrap_or(std::mem::take(&mut workspace.home));
        }
        self.set_up(self.monitors.iter().map(|monitor| monitor.facts.clone()).collect());
        self.turned_bars = kept.bars.iter().cloned().collect();
        self.turned_groups = kept.groups.iter().cloned().collect();
        self.back = kept.back.as_ref().and_then(|name| self.workspace_named(name));
        for at in 0..self.monitors.len() {
            let shown = kept.monitors.get(&self.monitors[at].facts.name).and_then(|name| self.workspace_named(name));
            if let Some(shown) = shown.filter(|shown| self.workspaces[*shown].monitor == at) {
                self.monitors[at].workspace = shown;
            }
        }
        self.monitor = self.monitors.iter().position(|one| one.facts.name == kept.monitor).unwrap_or(self.monitor);
        self.kept = Some(Box::new(kept));
    }

    /// What was kept of a window that appears.
    pub(super) fn kept_of(&self, id: WindowId, app: &str) -> Option<SavedWindow> {
        self.kept.as_ref()?.windows.iter().find(|kept| kept.id == id.0 && kept.app == app).cloned()
    }

    /// A window is as it was before.
    pub(super) fn put_back(&mut self, id: WindowId, mut window: Window, kept: &SavedWindow) {
        let workspace = self.workspace_named(&kept.workspace).unwrap_or(window.workspace);
        window.workspace = workspace;
        window.floating = kept.floating;
        window.floating_rect = kept.place;
        (window.fullscreen, window.fullscreen_area, (window.maximized_horz, window.maximized_vert)) =
            (kept.full, kept.spread, kept.most);
        (window.sticky, window.stacking, window.decorated) = (kept.pegged, kept.shelf, kept.framed);
        window.minimized = kept.tucked;
        window.stack_serial = kept.lift;
        self.lifts = self.lifts.max(kept.lift.min(u32::MAX.into()));
        let focusable = window.focusable;
        self.windows.insert(id, window);
        if kept.tucked {
            self.tucked.push(id);
            return;
        }
        let own = &mut self.workspaces[workspace];
        own.windows.push(id);
        if focusable {
            own.focus.push(id);
        }
    }

    /// All windows that are there have appeared: they stand in their old order, and layouts remember what they did.
    pub(super) fn restored(&mut self) {
        let Some(kept) = self.kept.take() else { return };
        let place = |id: &WindowId| kept.windows.iter().position(|kept| kept.id == id.0).unwrap_or(usize::MAX);
        self.tucked.sort_by_key(place);
        // One that had the focus on the way was looked at by nobody.
        for kept in &kept.windows {
            if let Some(window) = self.windows.get_mut(&WindowId(kept.id)) {
                window.urgent = kept.urgent;
            }
        }
        for workspace in &mut self.workspaces {
            workspace.windows.sort_by_key(place);
            let Some(before) = kept.workspaces.get(&workspace.name) else { continue };
            let rank = |id: &WindowId| before.focus.iter().position(|other| *other == id.0).unwrap_or(usize::MAX);
            workspace.focus.sort_by_key(rank);
            workspace.layout = workspace.layouts.iter().position(|(name, _)| *name == before.layout).unwrap_or(workspace.layout);
            for (name, rule) in workspace.layouts.iter() {
                let layout = before.memory.get(name).and_then(|value| serde_json::from_value::<LayoutState>(value.clone()).ok());
                if let Some(layout) = layout.filter(|layout| layout.is(rule.kind) && layout.is_sound()) {
                    workspace.memory.insert(name.clone(), layout);
                }
            }
        }
    }
}
