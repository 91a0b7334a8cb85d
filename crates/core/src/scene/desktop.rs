//! A whole monitor as things to draw.

use super::{Item, Measure, Rect, Scene, contours, pretend, strip_items};
use crate::bar::{Known, arrange};
use crate::desk::{Desk, FrameAt, FrameState};
use crate::rice::{Drawing, Rice};

/// The backdrop of an area.
pub fn backdrop(rice: &Rice, area: Rect) -> Scene {
    let mut scene = Scene::default();
    scene.fill(area, 0.0, rice.backdrop.fill);
    if rice.backdrop.draw == Drawing::Contours {
        let path = super::icons::moved(contours::contours(area.w, area.h), area.x, area.y);
        scene.stroke(path, 1.0, rice.backdrop.line);
    }
    scene
}

/// A frame and its glow.
pub fn frame_items(rice: &Rice, frame: &FrameAt) -> Scene {
    let mut scene = Scene::default();
    let rect: Rect = frame.area.into();
    let settings = &rice.frame;
    let radius = settings.radius.0 as f32;
    let colour = match frame.state {
        FrameState::Active => settings.active,
        FrameState::Idle => settings.idle,
        FrameState::Urgent => settings.urgent,
    };
    if frame.state == FrameState::Active && settings.glow.width.0 > 0 {
        scene.items.push(Item::Glow { rect, radius, width: settings.glow.width.0 as f32, colour: settings.glow.fill });
    }
    scene.fill(rect, radius, rice.palette.current.paper);
    if settings.width.0 > 0 {
        scene.items.push(Item::Border { rect, radius, width: settings.width.0 as f32, colour });
    }
    scene
}

/// Everything that a monitor shows, with pretended contents of the stand-ins' windows. The monitor's corner is the origin.
pub fn desktop(rice: &Rice, desk: &Desk, monitor: usize, known: &Known, measure: &mut dyn Measure) -> Scene {
    let area = desk.monitors[monitor].facts.area;
    let mut scene = backdrop(rice, area.into());
    let arrangement = desk.arrangement();
    for frame in arrangement.frames.iter().filter(|frame| frame.area.overlap(area).is_some()) {
        scene.items.extend(frame_items(rice, frame).items);
        let (Some(window), Some(placed)) = (desk.windows.get(&frame.window), arrangement.placed.get(&frame.window)) else {
            continue;
        };
        pretend::draw(rice, &window.facts, placed.area.into(), &mut scene, measure);
    }
    for (name, bar) in desk.bars_on(monitor) {
        let strip = arrange(desk, monitor, name, bar, known, None, measure);
        scene.items.extend(strip_items(rice, &strip).items);
    }
    scene
}
