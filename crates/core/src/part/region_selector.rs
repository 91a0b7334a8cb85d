//! An area of the screen that a person chooses with the pointer, of which a picture is kept.

use std::rc::Rc;

use jovrik_values::action::ScreenshotTarget;
use jovrik_values::{PixelRect, Rect};

use super::{Component, ComponentRequest, InputEvent, drag::ring, radius};
use crate::desk::{Monitor, StackingLayer};
use crate::desktop::{ChangeFlags, DesktopView, Interactivity, Surface, SurfaceId};
use crate::scene::{Measure, Scene, hint, hint_size};

/// What is said before the area begins.
const SAYS: &str = "Drag over what is to be kept; Escape leaves";
/// From the top of the monitor.
const AWAY: f32 = 48.0;
/// How thick the line round the area is.
const THICK: f64 = 2.0;

/// What is chosen for what, if something is.
#[derive(Debug, Default)]
pub(super) struct RegionSelector(Option<Choosing>);

#[derive(Debug)]
struct Choosing {
    to: ScreenshotTarget,
    /// The monitor's name.
    monitor: String,
    /// Where it began, and where the pointer is.
    corners: Option<[(i32, i32); 2]>,
}

impl Choosing {
    /// What lies between the corners, as far as the monitor goes.
    fn area(&self, screen: PixelRect) -> Option<PixelRect> {
        let [a, b] = self.corners?;
        let (x, y) = (a.0.min(b.0), a.1.min(b.1));
        PixelRect::new(x, y, (a.0 - b.0).abs() + 1, (a.1 - b.1).abs() + 1).overlap(screen)
    }
}

impl Component for RegionSelector {
    fn name(&self) -> &'static str {
        "choose"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let Some(choosing) = &self.0 else { return Vec::new() };
        let Some(monitor) = world.monitor_named(&choosing.monitor) else { return Vec::new() };
        let (rice, screen, by) = (world.desk.rice(), world.monitor_area(monitor), world.desk.scale(monitor));
        let surface = |name: &str, area: PixelRect, takes: Interactivity, radius: i32, scene: Scene| Surface {
            id: SurfaceId { part: self.name(), name: name.to_owned(), monitor: choosing.monitor.clone() },
            area,
            level: StackingLayer::Sheet,
            takes,
            radius,
            content: Rc::new(scene),
        };
        let Some(area) = choosing.area(screen) else {
            let (w, h) = hint_size(rice, SAYS, measure);
            let scale = by as f32;
            let width = screen.w as f32 / scale;
            let place = Rect::new(screen.x as f32 / scale + ((width - w) / 2.0).round(), screen.y as f32 / scale + AWAY, w, h);
            let mut scene = Scene::default();
            hint(rice, SAYS, place, &mut scene);
            let area: PixelRect = place.times(scale).into();
            let area = area.overlap(screen).unwrap_or(PixelRect { w: 1, h: 1, ..screen });
            return vec![surface("", area, Interactivity::Grab, radius(world, "hint", &[], scale), scene.scaled(scale))];
        };
        // Round the area, so that nothing of the line is on the picture; at the edges of the monitor there is no room for it.
        let thick = (THICK * by).round().max(1.0) as i32;
        let outer = PixelRect { x: area.x - thick, y: area.y - thick, w: area.w + 2 * thick, h: area.h + 2 * thick };
        let sides = ring(outer, thick).map(|side| side.overlap(screen));
        let colour = rice.palette.current.accent;
        let corner = PixelRect { w: 1, h: 1, ..area };
        // The first of them has the pointer, and is always there.
        let names = ["", "left", "right", "bottom"];
        let one = |(at, side): (usize, Option<PixelRect>)| {
            let side = side.or((at == 0).then_some(corner))?;
            let mut scene = Scene::default();
            scene.fill(side.into(), 0.0, colour);
            Some(surface(names[at], side, if at == 0 { Interactivity::Grab } else { Interactivity::Nothing }, 0, scene))
        };
        sides.into_iter().enumerate().filter_map(one).collect()
    }

    fn handle_input(&mut self, _: &Surface, happens: InputEvent, world: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let Some(choosing) = &mut self.0 else { return (false, Vec::new()) };
        match happens {
            InputEvent::Press(1, x, y) => {
                let over = |monitor: &&Monitor| monitor.facts.area.contains(x, y);
                if let Some(monitor) = world.desk.monitors.iter().find(over) {
                    choosing.monitor.clone_from(&monitor.facts.name);
                }
                choosing.corners = Some([(x, y); 2]);
            }
            InputEvent::Moved(x, y) => match &mut choosing.corners {
                Some(corners) => corners[1] = (x, y),
                None => return (false, Vec::new()),
            },
            InputEvent::Release(1, x, y) => {
                let Some(corners) = &mut choosing.corners else { return (false, Vec::new()) };
                corners[1] = (x, y);
                let monitor = world.monitor_named(&choosing.monitor);
                let area = monitor.and_then(|monitor| choosing.area(world.monitor_area(monitor)));
                let chosen = self.0.take();
                return (
                    true,
                    area.zip(chosen).map(|(area, chosen)| ComponentRequest::Keep(area, chosen.to)).into_iter().collect(),
                );
            }
            InputEvent::Key(stroke) if stroke.is("Escape") => self.0 = None,
            InputEvent::Key(_) | InputEvent::Release(..) => return (false, Vec::new()),
            // Any other button thinks better of it.
            InputEvent::Press(..) => self.0 = None,
        }
        (true, Vec::new())
    }

    fn handle_request(&mut self, wish: &ComponentRequest, world: &DesktopView<'_>) -> bool {
        match wish {
            ComponentRequest::Choose(to) => {
                let monitor = world.monitor_name(world.desk.monitor);
                self.0 = Some(Choosing { to: to.clone(), monitor, corners: None });
                true
            }
            ComponentRequest::Menu(..) | ComponentRequest::Close { menus: true } | ComponentRequest::Anew => {
                self.0.take().is_some()
            }
            _ => false,
        }
    }
}
