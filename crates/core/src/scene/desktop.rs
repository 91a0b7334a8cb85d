//! A whole monitor as things to draw.

use super::{Item, Measure, NOTICE, Notice, Rect, Scene, contours, notice, pretend, strip_items};
use crate::bar::{Now, arrange};
use crate::desk::{Desk, FrameAt, FrameState};
use crate::rice::{Drawing, Fill, Pictures, Rice};
use crate::style::State;

/// The backdrop of a monitor that shows a workspace: what the workspace says, else the monitor, else all.
pub fn backdrop(rice: &Rice, monitor: &str, workspace: &str, hour: u8, area: Rect) -> Scene {
    let mut scene = Scene::default();
    let of_workspace = rice.workspace.get(workspace).map(|rule| &rule.backdrop);
    let of_monitor = rice.monitor.values().find(|rule| rule.r#match.matches(monitor)).map(|rule| &rule.backdrop);
    let own = [of_workspace, of_monitor];
    let own = || own.into_iter().flatten();
    let fill = own().find_map(|own| own.fill.clone()).unwrap_or_else(|| rice.backdrop.fill.clone());
    scene.items.push(Item::Fill { rect: area, radius: [0.0; 4], fill });
    let with_picture = own().find_map(|own| Some((own.picture.as_ref()?, own.fit)));
    let general = rice.backdrop.picture.as_ref().map(|picture| (picture, rice.backdrop.fit));
    let filled = own().any(|own| own.fill.is_some());
    // A fill of one's own covers the picture of all.
    let picture = with_picture.or_else(|| general.filter(|_| !filled));
    if let Some((pictures, fit)) = picture
        && let Some(path) = at_hour(pictures, hour)
    {
        scene.items.push(Item::Picture { rect: area, path, fit });
    } else if rice.backdrop.draw == Drawing::Contours && !filled {
        let path = super::icons::moved(contours::contours(area.w, area.h), area.x, area.y);
        scene.stroke(path, 1.0, rice.backdrop.line);
    }
    scene
}

/// The picture of an hour: the latest that began before it, else that of the evening before.
fn at_hour(pictures: &Pictures, hour: u8) -> Option<String> {
    let begun = pictures.0.iter().filter(|(from, _)| *from <= hour).max_by_key(|(from, _)| *from);
    let latest = || pictures.0.iter().max_by_key(|(from, _)| *from);
    begun.or_else(latest).map(|(_, path)| path.clone())
}

/// A frame and its glow.
pub fn frame_items(rice: &Rice, frame: &FrameAt) -> Scene {
    let mut scene = Scene::default();
    let rect: Rect = frame.area.into();
    let settings = &rice.frame;
    let by = frame.scale as f32 / 100.0;
    let radius = (settings.radius.0 as f32 * by).round();
    let fill: &Fill = match frame.state {
        FrameState::Active => &settings.active,
        FrameState::Idle => &settings.idle,
        FrameState::Urgent => &settings.urgent,
    };
    if frame.state == FrameState::Active && settings.glow.width.0 > 0 {
        scene.items.push(Item::Glow { rect, radius, width: settings.glow.width.0 as f32 * by, colour: settings.glow.fill });
    }
    scene.fill(rect, radius, rice.palette.current.paper);
    if settings.width.0 > 0 {
        let width = (settings.width.0 as f32 * by).round();
        scene.items.push(Item::Border { rect, radius: [radius; 4], width, fill: fill.clone() });
    }
    scene
}

/// Everything that a monitor shows, with pretended contents of the stand-ins' windows. The monitor's corner is the origin.
pub fn desktop(rice: &Rice, desk: &Desk, monitor: usize, now: Now<'_>, measure: &mut dyn Measure) -> Scene {
    let facts = &desk.monitors[monitor].facts;
    let area = facts.area;
    let workspace = &desk.workspaces[desk.monitors[monitor].workspace].name;
    let mut scene = backdrop(rice, &facts.name, workspace, 12, area.into());
    let arrangement = desk.arrangement();
    for frame in arrangement.frames.iter().filter(|frame| frame.area.overlap(area).is_some()) {
        scene.items.extend(frame_items(rice, frame).items);
        let (Some(window), Some(placed)) = (desk.windows.get(&frame.window), arrangement.placed.get(&frame.window)) else {
            continue;
        };
        let by = placed.scale as f32 / 100.0;
        let mut inside = Scene::default();
        pretend::draw(rice, &window.facts, Rect::from(placed.area).times(1.0 / by), &mut inside, measure);
        scene.items.extend(inside.scaled(by).items);
    }
    for (name, bar) in desk.bars_on(monitor) {
        let strip = arrange(desk, monitor, name, bar, now, measure);
        scene.items.extend(strip_items(rice, &strip).items);
    }
    scene
}

/// A notice such as the station's gauge would send, in the corner of a monitor's work area.
pub fn pretended_notice(rice: &Rice, desk: &Desk, monitor: usize, scene: &mut Scene, measure: &mut dyn Measure) {
    let said = Notice {
        title: "Low water in two hours".to_owned(),
        body: "Channel 4 dries at 09:00. Bring the boat past the bar before 08:30.".to_owned(),
        state: Some(State::Warn),
    };
    let by = desk.scale(monitor) as f32;
    let work = Rect::from(desk.work_area(monitor)).times(1.0 / by);
    let (width, margin) = NOTICE;
    if work.w < width * 2.0 {
        return;
    }
    let edge = rice.space.edge.0 as f32;
    let (x, y) = (work.x + work.w - edge - margin - width, work.y + edge + margin);
    let mut own = Scene::default();
    notice(rice, &said, (x, y), width, &mut own, measure);
    scene.items.extend(own.scaled(by).items);
}
