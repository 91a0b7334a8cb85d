//! A window that its program lets the keyboard move or size (EWMH, `_NET_WM_MOVERESIZE`): it says which keys do that.

use std::cell::RefCell;
use std::rc::Rc;

use jovrik_values::action::{Action, Direction, EdgeResize};
use jovrik_values::{PixelRect, Rect, Side};

use super::{Component, ComponentRequest, InputEvent, radius};
use crate::desk::{PlacedWindow, StackingLayer, TileOrder, WindowId};
use crate::desktop::{ChangeFlags, DesktopView, Interactivity, KeyEvent, Surface, SurfaceId};
use crate::scene::{Measure, Scene, hint, hint_size};

/// The window that the keyboard steers, if one is.
#[derive(Debug, Default)]
pub(super) struct KeyboardMover(RefCell<Option<Steered>>);

#[derive(Debug)]
struct Steered {
    window: WindowId,
    /// Whether it is sized, and not moved.
    sizes: bool,
    before: Before,
}

/// Where a window was before.
#[derive(Debug)]
enum Before {
    /// It floated, here with its frame.
    Place(PixelRect),
    /// It was a tile among others.
    Order(Box<TileOrder>),
}

impl Steered {
    /// Where it is now, and on which monitor; nothing when it is not seen, or has lost the focus.
    fn seen(&self, world: &DesktopView<'_>) -> Option<(PlacedWindow, usize)> {
        let focused = world.desk.focused() == Some(self.window);
        let placed = world.desk.arrangement().placed.get(&self.window).filter(|_| focused)?;
        let monitor = world.desk.monitors.iter().position(|monitor| monitor.facts.area == placed.clip)?;
        Some((*placed, monitor))
    }

    fn says(&self) -> String {
        let does = if self.sizes { "The arrows size it" } else { "The arrows move it" };
        format!("{does}\nReturn keeps that, Escape takes it back")
    }

    /// What a key does; nothing of one that does nothing here.
    fn does(&self, stroke: &KeyEvent) -> Option<Action> {
        let (way, side) = match stroke.name.as_str() {
            "Left" => (Direction::Left, Side::Right),
            "Right" => (Direction::Right, Side::Right),
            "Up" => (Direction::Up, Side::Bottom),
            "Down" => (Direction::Down, Side::Bottom),
            _ => return None,
        };
        let reach = EdgeResize { side, by: None };
        Some(match (self.sizes, way) {
            (false, way) => Action::Move(way),
            (true, Direction::Left | Direction::Up) => Action::Shrink(reach),
            (true, _) => Action::Grow(reach),
        })
    }
}

impl Component for KeyboardMover {
    fn name(&self) -> &'static str {
        "steer"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS.and(ChangeFlags::DESK)
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let mut kept = self.0.borrow_mut();
        let Some(steered) = kept.as_ref() else { return Vec::new() };
        let Some((placed, monitor)) = steered.seen(world) else {
            // It does not come back with the window.
            *kept = None;
            return Vec::new();
        };
        let (rice, by, text) = (world.desk.rice(), world.desk.scale(monitor) as f32, steered.says());
        let (w, h) = hint_size(rice, &text, measure);
        let (w, h) = ((w * by).ceil() as i32, (h * by).ceil() as i32);
        let middle = placed.outer.centre2();
        let screen = world.monitor_area(monitor);
        let within = |at: i32, from: i32, room: i32| at.clamp(from, from + room.max(0));
        let area = PixelRect {
            x: within(middle.0 / 2 - w / 2, screen.x, screen.w - w),
            y: within(middle.1 / 2 - h / 2, screen.y, screen.h - h),
            w,
            h,
        };
        let mut scene = Scene::default();
        hint(rice, &text, Rect::from(area).times(1.0 / by), &mut scene);
        vec![Surface {
            id: SurfaceId { part: self.name(), name: String::new(), monitor: world.monitor_name(monitor) },
            area,
            level: StackingLayer::Menus,
            takes: Interactivity::Keyboard,
            radius: radius(world, "hint", &[], by),
            content: Rc::new(scene.scaled(by)),
        }]
    }

    fn handle_input(&mut self, _: &Surface, happens: InputEvent, _: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let kept = self.0.get_mut();
        let (Some(steered), InputEvent::Key(stroke)) = (kept.as_ref(), happens) else { return (false, Vec::new()) };
        if let Some(action) = steered.does(&stroke).filter(|_| stroke.modifiers.is_empty()) {
            return (true, vec![ComponentRequest::Act(action)]);
        }
        // What is bound goes on being done.
        if !(stroke.is("Return") || stroke.is("Escape")) {
            return (false, vec![ComponentRequest::PassThrough]);
        }
        let Some(Steered { window, before, .. }) = kept.take().filter(|_| stroke.is("Escape")) else {
            return (true, Vec::new());
        };
        let back = match before {
            Before::Place(area) => ComponentRequest::Place(window, area),
            Before::Order(order) => ComponentRequest::Order(order),
        };
        (true, vec![back])
    }

    fn handle_request(&mut self, wish: &ComponentRequest, world: &DesktopView<'_>) -> bool {
        match wish {
            ComponentRequest::Steer(window, sizes) => {
                let desk = world.desk;
                let placed = desk.arrangement().placed.get(window).filter(|_| desk.floats(*window));
                let floats = placed.map(|placed| Before::Place(placed.outer));
                let before = floats.or_else(|| desk.order_round(*window).map(|order| Before::Order(Box::new(order))));
                *self.0.get_mut() = before.map(|before| Steered { window: *window, sizes: *sizes, before });
                true
            }
            ComponentRequest::Close { menus: true } | ComponentRequest::Anew => self.0.get_mut().take().is_some(),
            _ => false,
        }
    }
}
