//! Where a dragged tile would go: a line round the place, over all windows.

use std::rc::Rc;

use jovrik_values::PixelRect;

use super::Component;
use crate::desk::StackingLayer;
use crate::desktop::{ChangeFlags, DesktopView, Interactivity, Surface, SurfaceId};
use crate::scene::{Measure, Scene};

/// The line round the place.
#[derive(Debug)]
pub(super) struct DragComponent;

/// How thick the line is.
const THICK: f64 = 4.0;

/// The four sides of a line inside of an area: top, left, right, bottom.
pub(super) fn ring(area: PixelRect, thick: i32) -> [PixelRect; 4] {
    [
        PixelRect { h: thick, ..area },
        PixelRect { w: thick, ..area },
        PixelRect { x: area.x + area.w - thick, w: thick, ..area },
        PixelRect { y: area.y + area.h - thick, h: thick, ..area },
    ]
}

impl Component for DragComponent {
    fn name(&self) -> &'static str {
        "drag"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS.and(ChangeFlags::DESK).and(ChangeFlags::POINTER)
    }

    fn surfaces(&self, world: &DesktopView<'_>, _: &mut dyn Measure) -> Vec<Surface> {
        let Some(to) = world.goes_to else { return Vec::new() };
        let desk = world.desk;
        let lies = |monitor: &crate::desk::Monitor| monitor.facts.area.overlap(to).is_some();
        let Some(monitor) = desk.monitors.iter().position(lies) else { return Vec::new() };
        let thick = (THICK * desk.scale(monitor)).round() as i32;
        let colour = desk.rice().palette.current.accent;
        let sides = ["top", "left", "right", "bottom"];
        let one = |(name, area): (&str, PixelRect)| {
            let mut scene = Scene::default();
            scene.fill(area.into(), 0.0, colour);
            Surface {
                id: SurfaceId { part: self.name(), name: name.to_owned(), monitor: world.monitor_name(monitor) },
                area,
                level: StackingLayer::Drag,
                takes: Interactivity::Nothing,
                radius: 0,
                content: Rc::new(scene),
            }
        };
        sides.into_iter().zip(ring(to, thick)).map(one).collect()
    }
}
