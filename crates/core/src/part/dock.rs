//! The dock: a surface on each of its monitors, or the edge that brings it back; what presses do.

use std::any::Any;
use std::rc::Rc;
use std::time::Duration;

use jovrik_values::action::{Action, SettingAssignment};
use jovrik_values::{Align, PixelRect, Rect, Side};

use super::{Component, ComponentRequest, InputEvent, MenuAction, PopupAnchor, radius};
use crate::desk::{StackingLayer, WindowId};
use crate::desktop::{
    ChangeFlags, Content, DesktopEffect, DesktopView, HitTarget, Interactivity, MonotonicTime, Surface, SurfaceId,
};
use crate::dock::{DockItem, DockItemKind, focused, items};
use crate::rice::{DockHides, DockLabels, Rice};
use crate::scene::{Measure, Scene, dock};

/// The docks of all monitors.
#[derive(Debug, Default)]
pub(super) struct DocksComponent {
    /// The monitor on which it was brought back.
    out: Option<String>,
    /// When it comes there, and when it goes.
    comes: Option<(String, MonotonicTime)>,
    goes: Option<MonotonicTime>,
    /// Whether a menu is open, which may be its own: it stays out as long as that.
    menu: bool,
    /// What a person holds of it.
    held: Option<DockDrag>,
    wishes: Vec<ComponentRequest>,
}

/// Something that a button went down on, and has not come up.
#[derive(Debug)]
struct DockDrag {
    monitor: String,
    /// Which it is, and where the pointer was.
    nth: usize,
    from: (i32, i32),
    /// When its menu opens, if it stays where it is; and that.
    opens: Option<MonotonicTime>,
    menu: Option<(Vec<(String, MenuAction)>, PopupAnchor)>,
    /// Where it would go among the others: nowhere beside the dock.
    to: Option<Option<usize>>,
}

/// How long something is held until its menu opens.
const HOLD_TIMEOUT: Duration = Duration::from_millis(450);
/// How far something is dragged before it moves, and how far from the dock until it is out, in pixels.
const DRAGS: u32 = 6;
const OUT: i32 = 80;

/// How thick the edge is that brings a dock back, in pixels of the screen.
const EDGE: i32 = 2;

/// What is on a dock.
#[derive(Debug, PartialEq)]
struct Shelf {
    items: Vec<DockItem>,
    scene: Scene,
    whole: Rect,
    spots: Vec<Rect>,
    inner: Side,
    says: bool,
}

impl Content for Shelf {
    fn scene(&self, _: &Rice, _: Rect) -> Scene {
        self.scene.clone()
    }
    fn damage(&self, before: &dyn Content, whole: Rect) -> Vec<Rect> {
        let before = before.as_any().downcast_ref::<Shelf>();
        if before.is_some_and(|before| before.scene == self.scene) { Vec::new() } else { vec![whole] }
    }
    fn same(&self, before: &dyn Content, _: Rect) -> bool {
        before.as_any().downcast_ref::<Shelf>() == Some(self)
    }
    fn at(&self, x: f32, y: f32) -> Option<HitTarget> {
        let inside = |rect: &Rect| (rect.x..rect.x + rect.w).contains(&x) && (rect.y..rect.y + rect.h).contains(&y);
        let (what, rect, says) = match self.spots.iter().position(inside) {
            Some(nth) => {
                let says = self.items.get(nth).map(|item| item.name.clone()).filter(|name| self.says && !name.is_empty());
                (nth.to_string(), self.spots[nth], says)
            }
            None => (String::new(), self.whole, None),
        };
        Some(HitTarget { what, rect, inner: self.inner, says })
    }
    fn as_any(&self) -> &dyn Any {
        self
    }
}

/// Where something of a size lies at an edge of an area.
fn at_edge(room: PixelRect, edge: Side, align: Align, (w, h): (i32, i32), margin: i32) -> PixelRect {
    let along = |from: i32, long: i32, own: i32| match align {
        Align::Start => from + margin,
        Align::Middle => from + (long - own) / 2,
        Align::End => from + long - own - margin,
    };
    let (x, y) = match edge {
        Side::Bottom => (along(room.x, room.w, w), room.y + room.h - margin - h),
        Side::Top => (along(room.x, room.w, w), room.y + margin),
        Side::Left => (room.x + margin, along(room.y, room.h, h)),
        Side::Right => (room.x + room.w - margin - w, along(room.y, room.h, h)),
    };
    PixelRect::new(x, y, w.max(1), h.max(1))
}

impl DocksComponent {
    /// Whether it is out of sight on a monitor where it would lie so.
    fn hides(&self, world: &DesktopView<'_>, monitor: usize, area: PixelRect) -> bool {
        let facts = &world.desk.monitors[monitor].facts;
        if self.out.as_ref() == Some(&facts.name) {
            return false;
        }
        match world.desk.rice().dock.hide {
            DockHides::Never => false,
            DockHides::Always => true,
            DockHides::Overlapped => {
                let placed = world.desk.arrangement().placed.values();
                placed.filter(|placed| placed.clip == facts.area).any(|placed| placed.outer.overlap(area).is_some())
            }
        }
    }

    /// What a left press on something does: it starts, or goes through its windows.
    fn pressed(item: &DockItem, world: &DesktopView<'_>, step: Option<i64>) -> Vec<ComponentRequest> {
        let windows = &item.windows;
        if windows.is_empty() {
            return if step.is_none() { starts(item) } else { Vec::new() };
        }
        let focused = focused(world);
        let at = windows.iter().position(|id| Some(*id) == focused);
        let next = match (at, step.unwrap_or(1)) {
            (Some(_), _) if windows.len() == 1 => return Vec::new(),
            (Some(at), step) => (at as i64 + step).rem_euclid(windows.len() as i64) as usize,
            // The one that had the focus last among them.
            (None, _) => latest(windows, world),
        };
        vec![ComponentRequest::ActivateWindow(windows[next])]
    }

    /// Where something would go that is dragged to a place.
    fn slot(shelf: &Shelf, held: &DockDrag, (x, y): (i32, i32)) -> Option<usize> {
        let whole: PixelRect = shelf.whole.into();
        whole.inset(-OUT).contains(x, y).then(|| {
            let upright = matches!(shelf.inner, Side::Left | Side::Right);
            let before = |rect: &Rect| if upright { rect.y + rect.h <= y as f32 } else { rect.x + rect.w <= x as f32 };
            // Among those that are kept: the others stand behind them.
            let kept = shelf.items.iter().filter(|item| item.at.is_some()).count();
            let last = if held.to.flatten().is_some_and(|to| to < kept) { kept.saturating_sub(1) } else { kept };
            shelf.spots.iter().filter(|rect| before(rect)).count().min(last)
        })
    }

    /// What is written when something was dragged to its place, or out.
    fn dropped(item: &DockItem, to: Option<usize>, world: &DesktopView<'_>) -> Option<ComponentRequest> {
        let mut keep = world.desk.rice().dock.keep.clone();
        match (item.at, to) {
            (Some(at), Some(to)) if at != to && at < keep.len() => {
                let name = keep.remove(at);
                keep.insert(to.min(keep.len()), name);
            }
            (Some(at), None) if at < keep.len() => drop(keep.remove(at)),
            (None, Some(to)) => keep.insert(to.min(keep.len()), item.keep.clone()?),
            _ => return None,
        }
        Some(ComponentRequest::Act(written(&keep)))
    }

    /// What stands in it while something is dragged.
    fn arranged(&self, mut items: Vec<DockItem>, monitor: &str) -> Vec<DockItem> {
        let held = self.held.as_ref().filter(|held| held.monitor == monitor && held.nth < items.len());
        if let Some((nth, to)) = held.and_then(|held| Some((held.nth, held.to?))) {
            let item = items.remove(nth);
            if let Some(to) = to {
                items.insert(to.min(items.len()), item);
            }
        }
        items
    }

    fn menu(item: &DockItem, world: &DesktopView<'_>) -> Vec<(String, MenuAction)> {
        let title = |id: &WindowId| {
            let own = world.desk.windows.get(id).map(|window| &window.facts);
            let other = || world.neighbours.iter().find(|one| one.id == *id).map(|one| &one.facts);
            let facts = own.or_else(other)?;
            let title = if facts.title.is_empty() { &facts.app_id } else { &facts.title };
            Some((title.clone(), MenuAction::Do(Box::new(ComponentRequest::ActivateWindow(*id)))))
        };
        let mut lines: Vec<(String, MenuAction)> = item.windows.iter().filter_map(title).collect();
        lines.extend(item.more.iter().filter_map(|(label, deed)| match deed {
            crate::launcher::EntryCommand::App(id, action) => {
                let launch = DesktopEffect::Launch(id.clone(), action.clone());
                Some((label.clone(), MenuAction::Do(Box::new(ComponentRequest::Outside(launch)))))
            }
            _ => None,
        }));
        if let (false, Some(start)) = (item.windows.is_empty(), starts(item).pop()) {
            lines.push(("Start another".to_owned(), MenuAction::Do(Box::new(start))));
        }
        let keep = &world.desk.rice().dock.keep;
        let write = |label: &str, keep: Vec<String>| (label.to_owned(), MenuAction::Act(written(&keep)));
        match &item.keep {
            Some(name) if item.at.is_none() => lines.push(write("Keep it here", keep.iter().chain([name]).cloned().collect())),
            Some(name) if item.at.and_then(|at| keep.get(at)) == Some(name) => {
                let nth = item.at.unwrap_or_default();
                let moved = |to: usize| {
                    let mut other = keep.clone();
                    other.swap(nth, to);
                    other
                };
                let upright = matches!(world.desk.rice().dock.edge, Side::Left | Side::Right);
                let (before, after) = if upright { ("Further up", "Further down") } else { ("Further left", "Further right") };
                if nth > 0 {
                    lines.push(write(before, moved(nth - 1)));
                }
                if nth + 1 < keep.len() {
                    lines.push(write(after, moved(nth + 1)));
                }
                let without = keep.iter().enumerate().filter(|(at, _)| *at != nth).map(|(_, name)| name.clone()).collect();
                lines.push(write("Take it out", without));
            }
            _ => {}
        }
        lines
    }
}

/// The action that writes what is kept into the rice.
fn written(keep: &[String]) -> Action {
    let names: Vec<String> = keep.iter().map(|name| jovrik_toml::quoted(name)).collect();
    Action::Set(SettingAssignment { path: "dock.keep".to_owned(), value: format!("[{}]", names.join(", ")), keep: true })
}

/// What starts an item.
fn starts(item: &DockItem) -> Vec<ComponentRequest> {
    match &item.stands {
        DockItemKind::Program(name) => vec![ComponentRequest::Act(Action::Open(name.clone()))],
        DockItemKind::Entry(id) => vec![ComponentRequest::Outside(DesktopEffect::Launch(id.clone(), None))],
        DockItemKind::Act(action) => vec![ComponentRequest::Act(action.clone())],
        DockItemKind::Windows | DockItemKind::Separator => Vec::new(),
    }
}

/// Which of some windows had the focus last.
fn latest(windows: &[WindowId], world: &DesktopView<'_>) -> usize {
    let desk = world.desk;
    let here = desk.workspace();
    let order = std::iter::once(here).chain((0..desk.workspaces.len()).filter(|at| *at != here));
    let mut by_focus = order.flat_map(|at| desk.workspaces[at].focus.iter().rev());
    by_focus.find_map(|id| windows.iter().position(|own| own == id)).unwrap_or(0)
}

impl Component for DocksComponent {
    fn name(&self) -> &'static str {
        "dock"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS.and(ChangeFlags::DESK).and(ChangeFlags::POINTER).and(ChangeFlags::TOLD)
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let rice = world.desk.rice();
        let set = &rice.dock;
        let mut surfaces = Vec::new();
        if !set.is_there() {
            return surfaces;
        }
        for (nth, monitor) in world.desk.monitors.iter().enumerate().filter(|(_, monitor)| monitor.facts.is(&set.monitor)) {
            let name = &monitor.facts.name;
            let by = world.desk.scale(nth) as f32;
            let over = world.over.filter(|(id, _)| id.part == self.name() && id.monitor == *name);
            let hovered = over.and_then(|(_, what)| what.parse().ok());
            let items = self.arranged(items(world, nth), name);
            let laid = dock(rice, &items, hovered, measure);
            let px = |pixels: f32| (pixels * by).round() as i32;
            let size = (px(laid.size.0), px(laid.size.1));
            let room = world.desk.dock_room(nth);
            let area = at_edge(room, set.edge, set.align, size, px(set.margin.0 as f32));
            let id = |what: &str| SurfaceId { part: self.name(), name: what.to_owned(), monitor: name.clone() };
            let hides = self.hides(world, nth, area);
            // While it is out, the edge still holds it there.
            if hides || self.out.as_ref() == Some(name) {
                let strip = if matches!(set.edge, Side::Left | Side::Right) { (EDGE, size.1) } else { (size.0, EDGE) };
                let area = at_edge(monitor.facts.area, set.edge, set.align, strip, 0);
                let scene = Scene::default();
                let (items, spots) = (Vec::new(), Vec::new());
                let shelf = Shelf { items, scene, whole: area.into(), spots, inner: set.edge.opposite(), says: false };
                let content = Rc::new(shelf);
                surfaces.push(Surface {
                    id: id("edge"),
                    area,
                    level: StackingLayer::Bars,
                    takes: Interactivity::Pointer,
                    radius: 0,
                    content,
                });
            }
            if hides {
                continue;
            }
            let to = |rect: &Rect| {
                let rect = rect.times(by);
                Rect { x: rect.x + area.x as f32, y: rect.y + area.y as f32, ..rect }
            };
            let shelf = Shelf {
                spots: laid.spots.iter().map(to).collect(),
                scene: laid.scene.placed(by, (area.x as f32, area.y as f32)),
                items,
                whole: area.into(),
                inner: set.edge.opposite(),
                says: match set.labels {
                    DockLabels::Hover => true,
                    DockLabels::Never => false,
                    DockLabels::Always => matches!(set.edge, Side::Left | Side::Right),
                },
            };
            surfaces.push(Surface {
                id: id(""),
                area,
                level: StackingLayer::Bars,
                takes: Interactivity::Pointer,
                radius: radius(world, "dock", &[], by),
                content: Rc::new(shelf),
            });
        }
        surfaces
    }

    fn handle_input(&mut self, surface: &Surface, happens: InputEvent, world: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let Some(shelf) = surface.content::<Shelf>() else { return (false, Vec::new()) };
        let Some(monitor) = world.monitor_named(&surface.id.monitor) else { return (false, Vec::new()) };
        match happens {
            InputEvent::Press(button, x, y) => {
                let Some(at) = shelf.at(x as f32, y as f32) else { return (false, Vec::new()) };
                let Some((nth, item)) = at.what.parse::<usize>().ok().and_then(|nth| Some((nth, shelf.items.get(nth)?))) else {
                    return (false, Vec::new());
                };
                let mut wishes = vec![ComponentRequest::Point(monitor)];
                let menu = || (DocksComponent::menu(item, world), PopupAnchor { rect: at.rect, inner: shelf.inner, monitor });
                match button {
                    1 => {
                        let opens = Some(world.now.after(HOLD_TIMEOUT));
                        let monitor = surface.id.monitor.clone();
                        self.held = Some(DockDrag { monitor, nth, from: (x, y), opens, menu: Some(menu()), to: None });
                    }
                    2 => wishes.extend(starts(item)),
                    3 => {
                        let (lines, beside) = menu();
                        wishes.push(ComponentRequest::Menu(lines, beside));
                    }
                    4 => wishes.extend(DocksComponent::pressed(item, world, Some(-1))),
                    5 => wishes.extend(DocksComponent::pressed(item, world, Some(1))),
                    _ => {}
                }
                (false, wishes)
            }
            InputEvent::Moved(x, y) => {
                let Some(held) = &mut self.held else { return (false, Vec::new()) };
                let (from_x, from_y) = held.from;
                if held.to.is_none() && x.abs_diff(from_x) < DRAGS && y.abs_diff(from_y) < DRAGS {
                    return (false, Vec::new());
                }
                held.opens = None;
                let to = Some(DocksComponent::slot(shelf, held, (x, y)));
                (std::mem::replace(&mut held.to, to) != to, Vec::new())
            }
            InputEvent::Release(1, ..) => {
                let Some(held) = self.held.take() else { return (false, Vec::new()) };
                let items = items(world, monitor);
                let Some(item) = items.get(held.nth) else { return (true, Vec::new()) };
                match held.to {
                    None if held.menu.is_some() => (false, DocksComponent::pressed(item, world, None)),
                    None => (false, Vec::new()),
                    Some(to) => (true, DocksComponent::dropped(item, to, world).into_iter().collect()),
                }
            }
            InputEvent::Release(..) | InputEvent::Key(_) => (false, Vec::new()),
        }
    }

    fn handle_request(&mut self, wish: &ComponentRequest, world: &DesktopView<'_>) -> bool {
        match wish {
            ComponentRequest::Menu(..) => {
                (self.menu, self.goes) = (true, None);
                false
            }
            ComponentRequest::Close { menus: true } | ComponentRequest::Anew if std::mem::take(&mut self.menu) => {
                let over = world.over.is_some_and(|(id, _)| id.part == self.name());
                if self.out.is_some() && !over {
                    self.goes = Some(world.now.after(world.desk.rice().dock.hide_after.0));
                }
                false
            }
            ComponentRequest::Listed(list) => list == "apps",
            // The pointer came over something else.
            ComponentRequest::Close { menus: false } if world.desk.rice().dock.hide != DockHides::Never => {
                let set = &world.desk.rice().dock;
                let over = world.over.filter(|(id, _)| id.part == self.name()).map(|(id, _)| &id.monitor);
                match over {
                    Some(monitor) if self.out.as_ref() == Some(monitor) => self.goes = None,
                    Some(monitor) => {
                        let begun = self.comes.take().filter(|(own, _)| own == monitor);
                        self.comes = begun.or_else(|| Some((monitor.clone(), world.now.after(set.show_after.0))));
                    }
                    None => {
                        self.comes = None;
                        if self.out.is_some() && self.goes.is_none() && !self.menu {
                            self.goes = Some(world.now.after(set.hide_after.0));
                        }
                    }
                }
                false
            }
            _ => false,
        }
    }

    fn grabs_pointer(&self) -> bool {
        true
    }

    fn next_wakeup(&self) -> Option<MonotonicTime> {
        let opens = self.held.as_ref().and_then(|held| held.opens);
        self.comes.as_ref().map(|(_, at)| *at).into_iter().chain(self.goes).chain(opens).min()
    }

    fn tick(&mut self, now: MonotonicTime) -> bool {
        let came = self.comes.take_if(|(_, at)| *at <= now);
        let went = self.goes.take_if(|at| *at <= now).is_some();
        if went {
            self.out = None;
        }
        if let Some((monitor, _)) = &came {
            (self.out, self.goes) = (Some(monitor.clone()), None);
        }
        if let Some(held) = self.held.as_mut().filter(|held| held.opens.is_some_and(|opens| opens <= now)) {
            held.opens = None;
            self.wishes.extend(held.menu.take().map(|(lines, beside)| ComponentRequest::Menu(lines, beside)));
        }
        went || came.is_some()
    }

    fn take_requests(&mut self) -> Vec<ComponentRequest> {
        std::mem::take(&mut self.wishes)
    }
}
