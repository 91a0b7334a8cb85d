//! The backdrop: what lies behind everything, with the frames of the tiles, which lie on it alone.

use std::any::Any;
use std::cell::RefCell;
use std::collections::HashMap;
use std::rc::Rc;

use jovrik_schema::Colour;
use jovrik_values::{Fill, PixelRect, Rect};

use super::Component;
use crate::desk::{FrameState, MonitorFacts, PlacedWindow, StackingLayer, WindowId};
use crate::desktop::{ChangeFlags, Content, DesktopView, Interactivity, Surface, SurfaceId};
use crate::rice::{Frame, Rice};
use crate::scene::{Measure, Scene, backdrop, frame_items};

/// The backdrops of all monitors; the scene of each is kept until something that it is made of changes.
#[derive(Debug, Default)]
pub(super) struct BackdropComponent {
    kept: RefCell<HashMap<String, CachedScene>>,
}

#[derive(Debug)]
struct CachedScene {
    rice: Rc<Rice>,
    area: PixelRect,
    workspace: String,
    hour: u8,
    scene: Rc<Scene>,
}

/// What is on a backdrop.
#[derive(Debug, Clone)]
pub struct BackdropContent {
    /// What lies behind the frames.
    pub behind: Rc<Scene>,
    /// How often the picture of a folder has changed: which of them is shown.
    pub turn: u64,
    /// The tiles with frames.
    pub(super) frames: Vec<(WindowId, PlacedWindow)>,
    /// Those of them that hide nothing.
    pub(super) shaped: Vec<WindowId>,
    pub(super) frame: Frame,
    pub(super) paper: Colour,
    /// How far a frame reaches beyond its edge, in pixels of the screen.
    pub(super) reach: i32,
}

/// An upright side of a frame, with what glows beside it.
struct FrameSide {
    state: FrameState,
    left: bool,
    area: PixelRect,
}

/// Where less than this of a tile hides what is behind, it is painted all the same, in square pixels.
const MIN_HIDDEN_AREA_PX: i32 = 2048;
/// Of more frames than this, it is not looked at what stays of each.
const FEW: usize = 12;
/// More areas than this are painted as one, and more frames are not parted.
const MANY: usize = 8 * FEW;

impl BackdropContent {
    /// The frames that reach into an area.
    pub fn frames(&self, rice: &Rice, area: PixelRect) -> Scene {
        let mut scene = Scene::default();
        for (_, placed) in &self.frames {
            if placed.outer.inset(-self.reach).overlap(area).is_some() {
                scene.items.extend(frame_items(rice, placed).items);
            }
        }
        scene
    }

    /// Whether what lies behind the frames is the same.
    pub fn same_behind(&self, other: &BackdropContent) -> bool {
        self.turn == other.turn && (Rc::ptr_eq(&self.behind, &other.behind) || self.behind == other.behind)
    }

    /// What is seen of areas that are to be drawn: in pieces that do not overlap, without what tiles cover.
    pub fn seen(&self, areas: &[Rect]) -> Vec<PixelRect> {
        let areas: Vec<PixelRect> = areas.iter().map(|area| PixelRect::from(*area)).collect();
        // Where there are many, corners and strips are more work than what they spare.
        let few = self.frames.len() <= FEW;
        let hide = self.frames.iter().filter(|(id, _)| !self.shaped.contains(id));
        visible(areas, hide.flat_map(|(_, placed)| hidden(placed, few)))
    }

    /// Where frames differ, or all of it where what is behind them does.
    fn changed(&self, before: &BackdropContent, whole: PixelRect) -> Vec<PixelRect> {
        if !self.same_behind(before) {
            return vec![whole];
        }
        let all = (&self.frame, self.paper) != (&before.frame, before.paper);
        let windows = |ground: &BackdropContent| -> Vec<WindowId> { ground.frames.iter().map(|(id, _)| *id).collect() };
        // Mostly the same windows stand in the same order.
        let (gone, come): (Vec<PlacedWindow>, Vec<PlacedWindow>) = if windows(before) == windows(self) {
            let through = |id: &WindowId| before.shaped.contains(id) != self.shaped.contains(id);
            let pairs = before.frames.iter().zip(&self.frames).filter(|(old, new)| all || old != new || through(&new.0));
            pairs.map(|((_, old), (_, new))| (*old, *new)).unzip()
        } else {
            let differ = |ground: &BackdropContent, other: &BackdropContent| -> Vec<PlacedWindow> {
                let others: HashMap<WindowId, PlacedWindow> = other.frames.iter().copied().collect();
                let own = ground.frames.iter().filter(|(id, placed)| all || others.get(id) != Some(placed));
                own.map(|(_, placed)| *placed).collect()
            };
            (differ(before, self), differ(self, before))
        };
        let both = before.around(&gone).chain(self.around(&come));
        let mut areas: Vec<PixelRect> = both.filter_map(|area| area.overlap(whole)).collect();
        if all || areas.len() > 2 * FEW || !before.apart() || !self.apart() {
            return areas;
        }
        // Where a side stood and a side like it stands, nothing is to be seen.
        let old: Vec<FrameSide> = before.sides(&gone).collect();
        for side in self.sides(&come) {
            let alike = old.iter().filter(|old| old.state == side.state && old.left == side.left);
            let alike = alike.filter(|old| (old.area.x, old.area.w) == (side.area.x, side.area.w));
            alike.filter_map(|old| old.area.overlap(side.area)).for_each(|kept| drop(cut(&mut areas, kept)));
        }
        areas
    }

    /// How far a frame reaches beyond its edge: only where the focus is it glows.
    pub(super) fn glow(&self, placed: &PlacedWindow) -> i32 {
        if placed.state == FrameState::Active { self.reach } else { 0 }
    }

    /// Frames with what glows round them.
    fn around<'a>(&'a self, frames: &'a [PlacedWindow]) -> impl Iterator<Item = PixelRect> + 'a {
        frames.iter().map(|placed| placed.outer.inset(-self.glow(placed)))
    }

    /// Whether no frame lies on another, or in its glow: there it matters which was drawn first.
    pub(super) fn apart(&self) -> bool {
        let lit = |placed: &PlacedWindow| placed.outer.inset(-self.glow(placed));
        let alone = |at: usize, own: PixelRect| self.frames[..at].iter().all(|(_, other)| lit(other).overlap(own).is_none());
        self.frames.len() <= MANY && self.frames.iter().enumerate().all(|(at, (_, placed))| alone(at, lit(placed)))
    }

    /// The upright sides of frames between their corners, where each row of pixels is like the next one.
    fn sides<'a>(&'a self, frames: &'a [PlacedWindow]) -> impl Iterator<Item = FrameSide> + 'a {
        frames.iter().filter(|placed| matches!(placed.state.fill(&self.frame), Fill::Plain(_))).flat_map(|placed| {
            let (outer, glow) = (placed.outer, self.glow(placed));
            let wide = placed.area.x - outer.x;
            let end = wide.max(placed.radius) + 1;
            let (y, h) = (outer.y + end, (outer.h - 2 * end).max(0));
            let left = PixelRect::new(outer.x - glow, y, glow + wide, h);
            let right = PixelRect::new(outer.x + outer.w - wide, y, wide + glow, h);
            let state = placed.state;
            [FrameSide { state, left: true, area: left }, FrameSide { state, left: false, area: right }]
        })
    }
}

/// What the contents of a tile hide of what is behind: all of it but their rounded corners.
/// `ends` too: what lies between those, at the upper and the lower edge.
fn hidden(placed: &PlacedWindow, ends: bool) -> impl Iterator<Item = PixelRect> {
    let (whole, cut) = (placed.outer.inset(placed.area.x - placed.outer.x), placed.inner_radius());
    let middle = PixelRect { y: whole.y + cut, h: whole.h - 2 * cut, ..whole };
    let across = |y: i32| PixelRect { x: whole.x + cut, y, w: whole.w - 2 * cut, h: cut };
    let ends = [across(whole.y), across(whole.y + whole.h - cut)].into_iter().filter(move |_| ends);
    let worth = |area: &PixelRect| area.w > 0 && area.h > 0 && area.w.saturating_mul(area.h) >= MIN_HIDDEN_AREA_PX;
    std::iter::once(middle).chain(ends).filter(worth)
}

/// Areas in pieces that do not overlap, without what nobody sees: what tiles cover.
fn visible(areas: Vec<PixelRect>, covered: impl Iterator<Item = PixelRect>) -> Vec<PixelRect> {
    let mut pieces: Vec<PixelRect> = Vec::new();
    if areas.len() > MANY {
        pieces.extend(areas.into_iter().reduce(PixelRect::union));
    } else {
        for area in areas {
            let mut new = vec![area];
            pieces.iter().for_each(|piece| drop(cut(&mut new, *piece)));
            pieces.extend(new);
        }
    }
    covered.for_each(|inner| drop(cut(&mut pieces, inner)));
    pieces
}

/// Takes an area out of others: what of it was in them.
pub(super) fn cut(areas: &mut Vec<PixelRect>, inner: PixelRect) -> Vec<PixelRect> {
    let mut taken = Vec::new();
    // Those that are left of one come at the end, and do not meet it again.
    for at in (0..areas.len()).rev() {
        if let Some(both) = areas[at].overlap(inner) {
            taken.push(both);
            let whole = areas.swap_remove(at);
            areas.extend(whole.minus(inner));
        }
    }
    taken
}

impl Content for BackdropContent {
    fn scene(&self, rice: &Rice, area: Rect) -> Scene {
        let mut scene = Scene::clone(&self.behind);
        scene.items.extend(self.frames(rice, area.into()).items);
        scene
    }
    fn damage(&self, before: &dyn Content, whole: Rect) -> Vec<Rect> {
        match before.as_any().downcast_ref::<BackdropContent>() {
            Some(before) => self.changed(before, whole.into()).into_iter().map(Rect::from).collect(),
            None => vec![whole],
        }
    }
    fn shows_through(&self, before: &dyn Content) -> bool {
        before.as_any().downcast_ref::<BackdropContent>().is_none_or(|before| !self.same_behind(before))
    }
    fn covers(&self) -> bool {
        true
    }
    fn as_any(&self) -> &dyn Any {
        self
    }
}

impl BackdropComponent {
    fn behind(&self, monitor: &MonitorFacts, workspace: &str, world: &DesktopView<'_>) -> Rc<Scene> {
        let (rice, hour, area) = (world.desk.rice(), world.hour, monitor.area);
        let mut kept = self.kept.borrow_mut();
        if let Some(kept) = kept.get(&monitor.name)
            && Rc::ptr_eq(&kept.rice, rice)
            && (kept.area, kept.workspace.as_str(), kept.hour) == (area, workspace, hour)
        {
            return kept.scene.clone();
        }
        let scene = Rc::new(backdrop(rice, monitor, workspace, hour, area.into()));
        let one = CachedScene { rice: rice.clone(), area, workspace: workspace.to_owned(), hour, scene: scene.clone() };
        kept.insert(monitor.name.clone(), one);
        scene
    }
}

impl Component for BackdropComponent {
    fn name(&self) -> &'static str {
        "backdrop"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS.and(ChangeFlags::DESK).and(ChangeFlags::DAYTIME)
    }

    fn surfaces(&self, world: &DesktopView<'_>, _: &mut dyn Measure) -> Vec<Surface> {
        let (desk, rice) = (world.desk, world.desk.rice());
        let mut surfaces = Vec::with_capacity(desk.monitors.len());
        for (nth, monitor) in desk.monitors.iter().enumerate() {
            let (name, area) = (&monitor.facts.name, monitor.facts.area);
            let workspace = &desk.workspaces[monitor.workspace].name;
            let placed = desk.arrangement().placed.iter();
            let own = placed.filter(|(_, placed)| placed.framed() && !placed.over() && placed.clip == area);
            let reach = (f64::from(rice.frame.glow.width.0 + 1) * desk.scale(nth)).ceil() as i32;
            let frames: Vec<(WindowId, PlacedWindow)> = own.map(|(id, placed)| (*id, *placed)).collect();
            let ground = BackdropContent {
                behind: self.behind(&monitor.facts, workspace, world),
                turn: world.turn,
                frame: rice.frame.clone(),
                paper: rice.palette.current.paper,
                shaped: frames.iter().map(|(id, _)| *id).filter(|id| desk.windows[id].facts.shaped).collect(),
                frames,
                reach,
            };
            surfaces.push(Surface {
                id: SurfaceId { part: self.name(), name: String::new(), monitor: name.clone() },
                area,
                level: StackingLayer::Backdrop,
                takes: Interactivity::Nothing,
                radius: 0,
                content: Rc::new(ground),
            });
        }
        surfaces
    }
}
