//! A whole monitor as things to draw.

use jovrik_values::Rect;

use crate::desk::{FrameState, MonitorFacts, PlacedWindow};
use crate::desktop::{Desktop, StackingEntry};
use crate::rice::{BackdropImages, BackdropPattern, Rice};
use crate::scene::{Measure, Primitive, Scene, contours, sample_windows};

/// The backdrop of a monitor that shows a workspace: what the workspace says, else the monitor, else all.
pub fn backdrop(rice: &Rice, monitor: &MonitorFacts, workspace: &str, hour: u8, area: Rect) -> Scene {
    let mut scene = Scene::default();
    let of_workspace = rice.workspace.get(workspace).map(|rule| &rule.backdrop);
    let of_monitor = rice.of_monitor(monitor).map(|rule| &rule.backdrop);
    let own = [of_workspace, of_monitor];
    let own = || own.into_iter().flatten();
    let fill = own().find_map(|own| own.fill.clone()).unwrap_or_else(|| rice.backdrop.fill.clone());
    scene.items.push(Primitive::Fill { rect: area, radius: [0.0; 4], fill });
    let with_picture = own().find_map(|own| Some((own.picture.as_ref()?, own.fit)));
    let general = rice.backdrop.picture.as_ref().map(|picture| (picture, rice.backdrop.fit));
    let filled = own().any(|own| own.fill.is_some());
    // A fill of one's own covers the picture of all.
    let picture = with_picture.or_else(|| general.filter(|_| !filled));
    if let Some((pictures, fit)) = picture
        && let Some(path) = at_hour(pictures, hour)
    {
        scene.items.push(Primitive::Picture { rect: area, path, fit, otherwise: Vec::new() });
    } else if rice.backdrop.draw == BackdropPattern::Contours && !filled {
        let path = super::icons::moved(contours::contours(area.w, area.h), area.x, area.y);
        scene.stroke(path, 1.0, rice.backdrop.line);
    }
    scene
}

/// The picture of an hour: the latest that began before it, else that of the evening before.
fn at_hour(pictures: &BackdropImages, hour: u8) -> Option<String> {
    let begun = pictures.0.iter().filter(|(from, _)| *from <= hour).max_by_key(|(from, _)| *from);
    let latest = || pictures.0.iter().max_by_key(|(from, _)| *from);
    begun.or_else(latest).map(|(_, path)| path.clone())
}

/// A frame and its glow.
pub fn frame_items(rice: &Rice, placed: &PlacedWindow) -> Scene {
    let mut scene = Scene::default();
    let rect: Rect = placed.outer.into();
    let settings = &rice.frame;
    let by = placed.scale as f32 / 100.0;
    let radius = placed.radius as f32;
    // What may lie over windows glows on none of them.
    if placed.state == FrameState::Active && settings.glow.width.0 > 0 && !placed.over() {
        scene.items.push(Primitive::Glow { rect, radius, width: settings.glow.width.0 as f32 * by, colour: settings.glow.fill });
    }
    scene.fill(rect, radius, rice.palette.current.paper);
    let width = (placed.area.x - placed.outer.x) as f32;
    if width > 0.0 {
        scene.items.push(Primitive::Border { rect, radius: [radius; 4], width, fill: placed.state.fill(settings).clone() });
    }
    scene
}

/// Everything that a desktop shows on a monitor, from below, with pretended contents of the stand-ins' windows. The monitor's
/// corner keeps its place on the screen.
pub fn seen(desktop: &Desktop, monitor: usize, measure: &mut dyn Measure) -> Scene {
    let (desk, mut scene) = (desktop.desk(), Scene::default());
    let (rice, area) = (desk.rice(), desk.monitors[monitor].facts.area);
    for stacked in desktop.stacked() {
        match stacked {
            StackingEntry::Surface(surface) if surface.area.overlap(area).is_some() => {
                scene.items.extend(surface.content.scene(rice, area.into()).items);
            }
            StackingEntry::Window(id, placed) if placed.clip == area => {
                let Some(window) = desk.windows.get(&id) else { continue };
                if placed.over() && placed.framed() {
                    scene.items.extend(frame_items(rice, &placed).items);
                }
                let by = placed.scale as f32 / 100.0;
                let mut inside = Scene::default();
                sample_windows::draw(rice, &window.facts, Rect::from(placed.area).times(1.0 / by), &mut inside, measure);
                scene.items.extend(inside.scaled(by).items);
            }
            _ => {}
        }
    }
    scene
}
