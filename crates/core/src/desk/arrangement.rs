//! What is seen of the windows: each in its place, what lies over what, and who has the focus.

use jovrik_text::Ordered;
use jovrik_values::{Fill, PixelRect};

use super::floating::kept;
use super::layout::{LayoutInput, LayoutResult, LayoutState, Tile};
use super::stacking_layer::StackingLayer;
use super::window::WindowId;
use super::window_manager::{WindowManager, times};
use crate::rice::Frame;

/// The room that the needs of one tile leave to the others, across and down, in pixels of the settings.
const SPARED: (i32, i32) = (240, 160);

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

impl FrameState {
    /// What a frame that says this is filled with.
    pub fn fill(self, frame: &Frame) -> &Fill {
        match self {
            FrameState::Active => &frame.active,
            FrameState::Idle => &frame.idle,
            FrameState::Urgent => &frame.urgent,
        }
    }
}

/// Where a window is. All in pixels of the screen.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PlacedWindow {
    /// The area inside its frame.
    pub area: PixelRect,
    /// The area with its frame; the same where it has none.
    pub outer: PixelRect,
    /// What it is seen in: its monitor.
    pub clip: PixelRect,
    /// What it lies over.
    pub level: StackingLayer,
    /// What its frame says.
    pub state: FrameState,
    /// How high the strip of titles is that lies above its contents, inside its frame.
    pub strip: i32,
    /// How round its outer corners are.
    pub radius: i32,
    /// The scale of its monitor, in percent.
    pub scale: i32,
}

impl PlacedWindow {
    /// Whether it has a frame.
    pub fn framed(&self) -> bool {
        self.area != self.outer
    }

    /// Whether it lies over other windows, and not on the backdrop alone.
    pub fn over(&self) -> bool {
        self.level != StackingLayer::Tiles
    }

    /// How round the corners are inside of its frame.
    pub fn inner_radius(&self) -> i32 {
        (self.radius - (self.area.x - self.outer.x)).max(0)
    }

    /// Where the strip of titles lies, if there is one.
    pub fn strip_area(&self) -> PixelRect {
        PixelRect { y: self.area.y - self.strip, h: self.strip, ..self.area }
    }

    /// Whether another one is in the same place: only its frame may say something else.
    pub fn same_place(&self, other: &PlacedWindow) -> bool {
        *self == PlacedWindow { state: self.state, ..*other }
    }
}

/// A strip with the titles of the windows of a workspace, of which one is seen.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TabStrip {
    /// The number of its monitor.
    pub monitor: usize,
    /// The window that is seen, in whose frame it lies.
    pub placed: PlacedWindow,
    /// Which one that is.
    pub front: WindowId,
    /// All windows, in order.
    pub windows: Vec<WindowId>,
}

/// Everything that is seen of the windows.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Arrangement {
    /// The windows that are seen, in stacking order from below.
    pub placed: Ordered<WindowId, PlacedWindow>,
    /// Strips of titles.
    pub strips: Vec<TabStrip>,
    /// Who has the focus.
    pub focus: Option<WindowId>,
}

impl WindowManager {
    /// The windows of a workspace that its layout arranges, in order.
    pub fn tiled(&self, workspace: usize) -> Vec<WindowId> {
        let windows = self.workspaces[workspace].windows.iter();
        windows.copied().filter(|id| !self.floats(*id)).collect()
    }

    /// Whether a window floats: by itself, or because all do on its workspace.
    pub fn floats(&self, id: WindowId) -> bool {
        let Some(window) = self.windows.get(&id) else { return false };
        window.floating || matches!(self.workspaces[window.workspace].layout_now(), Some(LayoutState::Free))
    }

    /// The arrangement that the state asks for, with what the layouts of the monitors gave.
    pub(super) fn arrange(&self, laid: Vec<LayoutResult>) -> Arrangement {
        let mut strips = Vec::new();
        let mut placed = Vec::with_capacity(self.shown.placed.len() + 1);
        for (monitor, laid) in laid.into_iter().enumerate().filter(|_| !self.bare) {
            self.arrange_monitor(monitor, laid, &mut placed, &mut strips);
        }
        if !placed.is_sorted_by_key(|(_, placed): &(WindowId, PlacedWindow)| placed.level) {
            placed.sort_by_key(|(_, placed)| placed.level);
        }
        let placed: Ordered<WindowId, PlacedWindow> = placed.into_iter().collect();
        let focus = self.focused().filter(|focus| placed.contains_key(focus));
        Arrangement { placed, strips, focus }
    }

    /// What the layout of a workspace is asked, on its monitor.
    pub(super) fn ask<T>(&self, workspace: usize, asks: impl FnOnce(&LayoutInput<'_>, &LayoutState) -> T) -> T {
        let own = &self.workspaces[workspace];
        let scale = self.scale(own.monitor);
        let frame = times(self.rice.frame.width.0, scale);
        let all_float = matches!(own.layout_now(), Some(LayoutState::Free));
        let tile = |id: &WindowId| {
            let window = self.windows.get(id).filter(|window| !window.floating && !all_float)?;
            let around = if window.decorated { 2 * frame } else { 0 };
            let (w, h) = window.facts.min_size;
            Some(Tile { id: *id, least: (w + around, h + around) })
        };
        let mut tiles: Vec<Tile> = own.windows.iter().filter_map(tile).collect();
        let edge = if tiles.len() == 1 { self.rice.space.alone.0 } else { self.rice.space.edge.0 };
        let (name, rule) = own.rule();
        let focus = own.focus.iter().rev().find(|id| !self.floats(**id)).copied();
        let area = self.work_area(own.monitor).inset(times(edge, scale));
        let screen = self.monitors[own.monitor].facts.area;
        let gap = times(self.rice.space.between.0, scale);
        if tiles.len() > 1 {
            // What one says that it needs does not leave the others without what is of use.
            let most = |length: i32, spared: i32| (length - gap - times(spared, scale)).max(length / 2).max(1);
            let (w, h) = (most(area.w, SPARED.0), most(area.h, SPARED.1));
            tiles.iter_mut().for_each(|tile| tile.least = (tile.least.0.min(w), tile.least.1.min(h)));
        }
        let strip = times(crate::scene::tab_height(&self.rice), scale);
        let plain = LayoutState::new(rule.kind);
        asks(&LayoutInput { area, screen, tiles: &tiles, gap, strip, focus, rule }, own.memory.get(name).unwrap_or(&plain))
    }

    /// Each layout that is seen takes over which windows there are, and where the focus is; what each gives, by monitor.
    pub(super) fn settle(&mut self) -> Vec<LayoutResult> {
        (0..self.monitors.len()).map(|monitor| self.lay(self.monitors[monitor].workspace)).collect()
    }

    fn lay(&mut self, at: usize) -> LayoutResult {
        let name = self.workspaces[at].rule().0.clone();
        let kind = self.workspaces[at].rule().1.kind;
        let mut layout = self.workspaces[at].memory.remove(&name).unwrap_or_else(|| LayoutState::new(kind));
        // All of them float: that is known by the layout, which is away for now.
        if matches!(layout, LayoutState::Free) {
            self.workspaces[at].memory.insert(name, layout);
            return LayoutResult::default();
        }
        let mut settled = |desk: &WindowManager| {
            desk.ask(at, |ask, _| match layout.settle(ask) {
                Some(order) => Err(order),
                None => Ok(layout.arrange(ask)),
            })
        };
        let laid = match settled(self) {
            Ok(laid) => laid,
            Err(order) => {
                self.reorder(at, &order);
                settled(self).unwrap_or_default()
            }
        };
        self.workspaces[at].memory.insert(name, layout);
        laid
    }

    /// The tiled windows of a workspace stand in another order.
    pub(super) fn reorder(&mut self, workspace: usize, order: &[WindowId]) {
        let tiled = self.tiled(workspace);
        let windows = &mut self.workspaces[workspace].windows;
        let places: Vec<usize> = (0..windows.len()).filter(|at| tiled.contains(&windows[*at])).collect();
        if places.len() == order.len() {
            places.into_iter().zip(order).for_each(|(at, id)| windows[at] = *id);
        }
    }

    fn arrange_monitor(
        &self,
        monitor: usize,
        LayoutResult { tiles, strip }: LayoutResult,
        placed: &mut Vec<(WindowId, PlacedWindow)>,
        strips: &mut Vec<TabStrip>,
    ) {
        let at = self.monitors[monitor].workspace;
        let screen = self.monitors[monitor].facts.area;
        let scale = self.scale(monitor);
        let percent = (scale * 100.0).round() as i32;
        let (width, radius) = (times(self.rice.frame.width.0, scale), times(self.rice.frame.radius.0, scale));
        let focus = self.focused();
        let full = self.full_on(at);
        let mut put = |id: WindowId, outer: PixelRect, level: StackingLayer, strip: i32| {
            let Some(window) = self.windows.get(&id) else { return };
            // A monitor of a few pixels has no room for two: they lie over each other, and none beyond it.
            let outer = if outer.overlap(screen).is_some() { outer } else { kept(outer, screen) };
            let state = match (focus == Some(id), window.urgent) {
                (true, _) => FrameState::Active,
                (false, true) => FrameState::Urgent,
                (false, false) => FrameState::Idle,
            };
            let plain = PlacedWindow { area: outer, outer, clip: screen, level, state, strip: 0, radius: 0, scale: percent };
            let below = |inner: PixelRect| PixelRect { y: inner.y + strip, h: (inner.h - strip).max(1), ..inner };
            let one = match (full == Some(id), window.decorated) {
                (true, _) => {
                    let whole = window.fullscreen_area.unwrap_or(screen);
                    PlacedWindow { area: whole, outer: whole, clip: whole, level: StackingLayer::Full, ..plain }
                }
                (false, true) => PlacedWindow { area: below(outer.inset(width)), strip, radius, ..plain },
                (false, false) => PlacedWindow { area: below(outer), strip, ..plain },
            };
            placed.push((id, one));
        };
        let front = tiles.first().map(|(id, _)| *id);
        let high = if strip { times(crate::scene::tab_height(&self.rice), scale) } else { 0 };
        for (id, area) in tiles {
            put(id, area, StackingLayer::Tiles, high);
        }
        for id in self.floating_order(at) {
            let area = self.most_area(id, monitor);
            put(id, area, self.level_of(id, full, 0), 0);
        }
        // A window over all of the monitor has no strip.
        let seen = front.and_then(|front| placed.iter().rev().find(|(id, _)| *id == front));
        if let Some((front, one)) = seen.filter(|(_, one)| one.strip > 0) {
            strips.push(TabStrip { monitor, placed: *one, windows: self.tiled(at), front: *front });
        }
    }
}
