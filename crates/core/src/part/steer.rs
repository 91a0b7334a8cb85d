//! A window that its program lets the keyboard move or size (EWMH, `_NET_WM_MOVERESIZE`): it says which keys do that.

use std::cell::RefCell;
use std::rc::Rc;

use super::{Happens, Part, Wish, radius};
use crate::desk::{Action, Area, Level, Order, Placed, Reach, Way, WindowId};
use crate::desktop::{Reads, Stroke, Surface, SurfaceId, Takes, World};
use crate::rice::Side;
use crate::scene::{Measure, Rect, Scene, hint, hint_size};

/// The window that the keyboard steers, if one is.
#[derive(Debug, Default)]
pub(super) struct Steer(RefCell<Option<Steered>>);

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
    Place(Area),
    /// It was a tile among others.
    Order(Box<Order>),
}

impl Steered {
    /// Where it is now, and on which monitor; nothing when it is not seen, or has lost the focus.
    fn seen(&self, world: &World<'_>) -> Option<(Placed, usize)> {
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
    fn does(&self, stroke: &Stroke) -> Option<Action> {
        let (way, side) = match stroke.name.as_str() {
            "Left" => (Way::Left, Side::Right),
            "Right" => (Way::Right, Side::Right),
            "Up" => (Way::Up, Side::Bottom),
            "Down" => (Way::Down, Side::Bottom),
            _ => return None,
        };
        let reach = Reach { side, by: None };
        Some(match (self.sizes, way) {
            (false, way) => Action::Move(way),
            (true, Way::Left | Way::Up) => Action::Shrink(reach),
            (true, _) => Action::Grow(reach),
        })
    }
}

impl Part for Steer {
    fn name(&self) -> &'static str {
        "steer"
    }

    fn reads(&self) -> Reads {
        Reads::SETTINGS.and(Reads::DESK)
    }

    fn surfaces(&self, world: &World<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
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
        let area = Area {
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
            level: Level::Menus,
            takes: Takes::Keyboard,
            radius: radius(world, "hint", &[], by),
            content: Rc::new(scene.scaled(by)),
        }]
    }

    fn happens(&mut self, _: &Surface, happens: Happens, _: &World<'_>) -> (bool, Vec<Wish>) {
        let kept = self.0.get_mut();
        let (Some(steered), Happens::Key(stroke)) = (kept.as_ref(), happens) else { return (false, Vec::new()) };
        if let Some(action) = steered.does(&stroke).filter(|_| stroke.modifiers.is_empty()) {
            return (true, vec![Wish::Act(action)]);
        }
        // What is bound goes on being done.
        if !(stroke.is("Return") || stroke.is("Escape")) {
            return (false, vec![Wish::Pass]);
        }
        let Some(Steered { window, before, .. }) = kept.take().filter(|_| stroke.is("Escape")) else {
            return (true, Vec::new());
        };
        let back = match before {
            Before::Place(area) => Wish::Place(window, area),
            Before::Order(order) => Wish::Order(order),
        };
        (true, vec![back])
    }

    fn hears(&mut self, wish: &Wish, world: &World<'_>) -> bool {
        match wish {
            Wish::Steer(window, sizes) => {
                let desk = world.desk;
                let placed = desk.arrangement().placed.get(window).filter(|_| desk.floats(*window));
                let floats = placed.map(|placed| Before::Place(placed.outer));
                let before = floats.or_else(|| desk.order_round(*window).map(|order| Before::Order(Box::new(order))));
                *self.0.get_mut() = before.map(|before| Steered { window: *window, sizes: *sizes, before });
                true
            }
            Wish::Close { menus: true } | Wish::Anew => self.0.get_mut().take().is_some(),
            _ => false,
        }
    }
}
