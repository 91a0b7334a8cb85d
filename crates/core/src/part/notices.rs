//! What the desktop itself has to say: a reload that was refused, a program that is not there.

use std::rc::Rc;
use std::time::Duration;

use super::{Happens, Part, Wish, radius};
use crate::desk::{Area, Level, WindowId};
use crate::desktop::{Moment, Reads, Surface, SurfaceId, Takes, World};
use crate::scene::{Measure, NOTICE, Notice, Rect, Scene, notice, notice_size};

/// What a notice is about: a later one about the same takes its place.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Topic {
    /// A reload; it stands until one is accepted.
    Reload,
    /// Something that was asked for and not done.
    Refusal,
    /// Monitors that are tried.
    Monitors,
    /// Settings that are tried.
    Trial,
    /// A window that does not answer.
    Hangs(WindowId),
}

/// Where the seconds that are left stand in a notice that counts.
pub const LEFT: &str = "{left}";

/// How long a notice stands that nobody has to act on.
const LASTS: Duration = Duration::from_secs(8);
/// Between two notices.
const GAP: i32 = 8;

#[derive(Debug)]
struct Said {
    topic: Topic,
    notice: Notice,
    until: Option<Moment>,
    /// What it counts down to, and how many seconds it says are left.
    counts: Option<(Moment, u64)>,
}

impl Said {
    /// As it is seen.
    fn words(&self) -> Notice {
        let left = self.counts.map(|(_, left)| left.to_string()).unwrap_or_default();
        Notice { body: self.notice.body.replace(LEFT, &left), ..self.notice.clone() }
    }
}

/// The whole seconds until a moment, of which the last is not over yet.
fn seconds(now: Moment, end: Moment) -> u64 {
    end.0.saturating_sub(now.0).as_millis().div_ceil(1000) as u64
}

/// What is said now, the latest first.
#[derive(Debug, Default)]
pub(super) struct Notices(Vec<Said>);

impl Part for Notices {
    fn name(&self) -> &'static str {
        "notice"
    }

    fn reads(&self) -> Reads {
        Reads::SETTINGS.and(Reads::DESK)
    }

    fn surfaces(&self, world: &World<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let rice = world.desk.rice();
        let by = world.desk.scale(0) as f32;
        let px = |pixels: f32| (pixels * by).round() as i32;
        let (work, (wide, margin)) = (world.desk.work_area(0), NOTICE);
        let edge = px(rice.space.edge.0 as f32) + px(margin);
        let width = px(wide).min((work.w - 2 * edge).max(1));
        let mut y = work.y + edge;
        let mut surfaces = Vec::new();
        for said in &self.0 {
            let said_now = said.words();
            let states: Vec<_> = said.notice.state.into_iter().collect();
            let logical = width as f32 / by;
            let high = px(notice_size(rice, &said_now, logical, measure)).max(1);
            let area = Area::new(work.x + work.w - edge - width, y, width, high);
            let at = Rect::from(area).times(1.0 / by);
            let mut scene = Scene::default();
            notice(rice, &said_now, (at.x, at.y), logical, &mut scene, measure);
            surfaces.push(Surface {
                id: SurfaceId { part: self.name(), name: format!("{:?}", said.topic), monitor: world.monitor_name(0) },
                area,
                level: Level::Notices,
                takes: Takes::Pointer,
                radius: radius(world, "notice", &states, by),
                content: Rc::new(scene.scaled(by)),
            });
            y += high + px(GAP as f32);
        }
        surfaces
    }

    fn happens(&mut self, surface: &Surface, happens: Happens, _: &World<'_>) -> (bool, Vec<Wish>) {
        let Happens::Press(button, ..) = happens else { return (false, Vec::new()) };
        let Some(at) = self.0.iter().position(|said| format!("{:?}", said.topic) == surface.id.name) else {
            return (false, Vec::new());
        };
        let ends = match self.0.remove(at).topic {
            Topic::Hangs(window) if button == 1 => vec![Wish::End(window)],
            _ => Vec::new(),
        };
        (true, ends)
    }

    fn hears(&mut self, wish: &Wish, world: &World<'_>) -> bool {
        match wish {
            Wish::Say(topic, notice) => {
                let until = (*topic == Topic::Refusal).then(|| world.now.after(LASTS));
                self.0.retain(|said| said.topic != *topic);
                self.0.insert(0, Said { topic: *topic, notice: notice.clone(), until, counts: None });
                true
            }
            Wish::Count(topic, notice, end) => {
                self.0.retain(|said| said.topic != *topic);
                let counts = Some((*end, seconds(world.now, *end)));
                self.0.insert(0, Said { topic: *topic, notice: notice.clone(), until: Some(*end), counts });
                true
            }
            Wish::Unsay(topic) => {
                let before = self.0.len();
                self.0.retain(|said| said.topic != *topic);
                self.0.len() != before
            }
            _ => false,
        }
    }

    fn wakes(&self) -> Option<Moment> {
        let next = |(end, left): (Moment, u64)| Moment(end.0.saturating_sub(Duration::from_secs(left.saturating_sub(1))));
        let counts = self.0.iter().filter_map(|said| said.counts.map(next));
        self.0.iter().filter_map(|said| said.until).chain(counts).min()
    }

    fn passes(&mut self, now: Moment) -> bool {
        let before = self.0.len();
        self.0.retain(|said| said.until.is_none_or(|until| until > now));
        let mut counted = false;
        for (end, left) in self.0.iter_mut().filter_map(|said| said.counts.as_mut()) {
            let now = seconds(now, *end);
            counted |= std::mem::replace(left, now) != now;
        }
        counted || self.0.len() != before
    }
}
