//! Notices: what the desktop itself has to say, and what programs tell over the bus.

use std::collections::HashSet;
use std::rc::Rc;
use std::time::Duration;

use super::{Drawn, Happens, Part, Wish, radius};
use crate::desk::{self, Action, Area, Level, WindowId};
use crate::desktop::{Dealing, Effect, Gone, Lasts, Moment, Reads, Surface, SurfaceId, Takes, Telling, World};
use crate::rice::{NoticeSort, NoticeTimes, ScreenCorner, Urgency};
use crate::scene::{Laid, Measure, Notice, Rect, Scene, notice};
use crate::style::State;

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
    /// What a program tells, by its number.
    Bus(u32),
}

/// Where the seconds that are left stand in a notice that counts.
pub const LEFT: &str = "{left}";

/// So many stand at once, seen or not.
const MOST: usize = 200;

/// How long a notice stands that nobody has to act on.
const LASTS: Duration = Duration::from_secs(8);

/// Until when something stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Stands {
    /// Until it is taken away.
    Ever,
    /// So long, from when it is seen.
    For(Duration),
    /// Until then.
    Until(Moment),
}

#[derive(Debug)]
struct Said {
    topic: Topic,
    notice: Notice,
    stands: Stands,
    /// What it counts down to, and how many seconds it says are left.
    counts: Option<(Moment, u64)>,
    /// The keys of what can be done about it, beside their labels in the notice; and that of a press.
    keys: Vec<String>,
    press: Option<String>,
    resident: bool,
    /// The program that tells it; nothing of what the desktop says itself.
    app: String,
}

impl Said {
    fn new(topic: Topic, notice: Notice, stands: Stands) -> Said {
        Said { topic, notice, stands, counts: None, keys: Vec::new(), press: None, resident: false, app: String::new() }
    }

    /// As it is seen.
    fn words(&self) -> Notice {
        let left = self.counts.map(|(_, left)| left.to_string()).unwrap_or_default();
        Notice { body: self.notice.body.replace(LEFT, &left), ..self.notice.clone() }
    }

    /// What a program tells.
    fn told(telling: &Telling, last: &NoticeTimes) -> Said {
        let set = match telling.urgency {
            Urgency::Low => last.low,
            Urgency::Normal => last.normal,
            Urgency::Urgent => last.urgent,
        };
        let stands = match (telling.lasts, set.0) {
            (Lasts::For(time), _) | (Lasts::AsSet, Some(time)) => Stands::For(time),
            (Lasts::Ever, _) | (Lasts::AsSet, None) => Stands::Ever,
        };
        let state = (telling.urgency == Urgency::Urgent).then_some(State::Urgent);
        let press = |key: &&(String, String)| key.0 == "default";
        let (keys, actions) = telling.actions.iter().filter(|action| !press(action)).cloned().unzip();
        let value = telling.value.map(|value| f32::from(value.min(100)) / 100.0);
        let notice = Notice {
            title: telling.title.clone(),
            body: telling.body.clone(),
            pieces: telling.pieces.clone(),
            state,
            value,
            actions,
            picture: telling.picture.clone(),
            more: 0,
        };
        let press = telling.actions.iter().find(press).map(|(key, _)| key.clone());
        let app = telling.app.clone();
        Said { keys, press, app, resident: telling.resident, ..Said::new(Topic::Bus(telling.id), notice, stands) }
    }
}

/// What the place of a link on a notice begins with.
const LINK: &str = "-> ";

/// What is done when a link is pressed: the program that the rice names for them opens it, else what the computer has.
fn leads(link: &str, world: &World<'_>) -> Option<Action> {
    // A program says where it leads: only to what is read, and never as an option of the program that opens it.
    let known = ["https://", "http://", "mailto:"].iter().any(|scheme| link.to_ascii_lowercase().starts_with(scheme));
    let own = world.desk.rice().program.get("links").map(|program| program.run.clone());
    let mut argv = own.unwrap_or_else(|| vec!["xdg-open".to_owned()]);
    argv.push(link.to_owned());
    (known && !link.chars().any(char::is_control)).then_some(Action::Run(argv))
}

/// The whole seconds until a moment, of which the last is not over yet.
fn seconds(now: Moment, end: Moment) -> u64 {
    end.0.saturating_sub(now.0).as_millis().div_ceil(1000) as u64
}

/// What is said now, the latest first.
#[derive(Debug, Default)]
pub(super) struct Notices {
    said: Vec<Said>,
    /// How many are shown at once, in which order, and whether those of one program are one.
    most: usize,
    sort: NoticeSort,
    group: bool,
    /// Since when the pointer is over them: nothing goes meanwhile.
    held: Option<Moment>,
    /// Who is told that something is gone.
    wishes: Vec<Wish>,
}

impl Notices {
    /// Says something; what was said of the same is gone without a word.
    fn say(&mut self, said: Said, now: Moment) {
        match self.said.iter().position(|other| other.topic == said.topic) {
            Some(at) => self.said[at] = said,
            None => self.said.insert(0, said),
        }
        // Whoever floods the desk loses what can wait, the oldest first.
        let can_wait = |said: &Said| matches!(said.topic, Topic::Bus(_)) && said.notice.state != Some(State::Urgent);
        if self.said.len() > MOST
            && let Some(oldest) = self.said.iter().rposition(can_wait)
            && let Topic::Bus(id) = self.said.remove(oldest).topic
        {
            self.wishes.push(Wish::Outside(Effect::Untold(id, Gone::Expired)));
        }
        self.show(now);
    }

    /// Those that are seen, in their order from the corner: their numbers, and how many more are folded into each.
    fn seen(&self) -> Vec<(usize, usize)> {
        let mut order: Vec<usize> = (0..self.said.len()).collect();
        match self.sort {
            NoticeSort::Latest => {}
            NoticeSort::Oldest => order.reverse(),
            NoticeSort::Urgent => order.sort_by_key(|at| self.said[*at].notice.state != Some(State::Urgent)),
        }
        let mut seen: Vec<(usize, usize)> = Vec::new();
        for at in order {
            let said = &self.said[at];
            // A value replaces itself, and what is urgent is never folded away.
            let folds = |said: &Said| {
                self.group && !said.app.is_empty() && said.notice.value.is_none() && said.notice.state != Some(State::Urgent)
            };
            let same =
                |(other, _): &&mut (usize, usize)| folds(&self.said[*other]) && folds(said) && self.said[*other].app == said.app;
            match seen.iter_mut().find(same) {
                Some((_, more)) => *more += 1,
                None => seen.push((at, 0)),
            }
        }
        seen.truncate(self.most.max(1));
        seen
    }

    /// The time of what comes to be seen begins, and that of what others cover waits.
    fn show(&mut self, now: Moment) {
        let seen: HashSet<usize> = self.seen().into_iter().map(|(at, _)| at).collect();
        for (at, said) in self.said.iter_mut().enumerate() {
            let seen = seen.contains(&at);
            said.stands = match said.stands {
                Stands::For(time) if seen => Stands::Until(now.after(time)),
                Stands::Until(end) if !seen && said.counts.is_none() => Stands::For(end.0.saturating_sub(now.0)),
                stands => stands,
            };
        }
    }

    /// Takes away what is meant; programs are told why.
    fn take(&mut self, now: Moment, why: Gone, meant: impl Fn(&Said) -> bool) -> bool {
        let before = self.said.len();
        let wishes = &mut self.wishes;
        self.said.retain(|said| {
            let goes = meant(said);
            if let (true, Topic::Bus(id)) = (goes, said.topic) {
                wishes.push(Wish::Outside(Effect::Untold(id, why)));
            }
            !goes
        });
        self.show(now);
        let taken = self.said.len() != before;
        // What the pointer was over may be gone: nobody tells that it left.
        self.held = self.held.filter(|_| !taken);
        taken
    }
}

impl Part for Notices {
    fn name(&self) -> &'static str {
        "notice"
    }

    fn reads(&self) -> Reads {
        Reads::SETTINGS.and(Reads::DESK)
    }

    fn surfaces(&self, world: &World<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let (rice, monitor) = (world.desk.rice(), world.desk.monitor);
        let set = &rice.notices;
        let by = world.desk.scale(monitor) as f32;
        let px = |pixels: i32| (pixels as f32 * by).round() as i32;
        let work = world.desk.work_area(monitor);
        let edge = px(rice.space.edge.0) + px(set.margin.0);
        let width = px(set.width.0).min((work.w - 2 * edge).max(1));
        let (left, top) = match set.corner {
            ScreenCorner::TopLeft => (true, true),
            ScreenCorner::TopRight => (false, true),
            ScreenCorner::BottomLeft => (true, false),
            ScreenCorner::BottomRight => (false, false),
        };
        let x = if left { work.x + edge } else { work.x + work.w - edge - width };
        let mut away = edge;
        let mut surfaces = Vec::new();
        for (at, more) in self.seen() {
            let said = &self.said[at];
            let words = Notice { more, ..said.words() };
            let states: Vec<_> = words.state.into_iter().collect();
            let logical = width as f32 / by;
            let laid = Laid::of(rice, &words, logical, measure);
            let high = px(laid.height.ceil() as i32).max(1);
            let y = if top { work.y + away } else { work.y + work.h - away - high };
            let area = Area::new(x, y, width, high);
            let at = Rect::from(area).times(1.0 / by);
            let mut scene = Scene::default();
            let pressed = notice(rice, &words, &laid, (at.x, at.y), logical, &mut scene, measure);
            let actions = pressed.actions.into_iter().enumerate().map(|(nth, rect)| (nth.to_string(), rect));
            let links = pressed.links.into_iter().map(|(link, rect)| (format!("{LINK}{link}"), rect));
            let spots = actions.chain(links).map(|(what, rect)| (what, rect.times(by))).collect();
            surfaces.push(Surface {
                id: SurfaceId { part: self.name(), name: format!("{:?}", said.topic), monitor: world.monitor_name(monitor) },
                area,
                level: if set.over_full { Level::Notices } else { Level::Bars },
                takes: Takes::Pointer,
                radius: radius(world, "notice", &states, by),
                content: Rc::new(Drawn { scene: Rc::new(scene.scaled(by)), whole: area.into(), spots }),
            });
            away += high + px(set.between.0);
        }
        surfaces
    }

    fn happens(&mut self, surface: &Surface, happens: Happens, world: &World<'_>) -> (bool, Vec<Wish>) {
        let Happens::Press(button, x, y) = happens else { return (false, Vec::new()) };
        let Some(at) = self.said.iter().position(|said| format!("{:?}", said.topic) == surface.id.name) else {
            return (false, Vec::new());
        };
        let said = &self.said[at];
        let what = surface.content.at(x as f32, y as f32).map(|at| at.what).unwrap_or_default();
        if let (1, Some(link)) = (button, what.strip_prefix(LINK)) {
            return (false, leads(link, world).map(Wish::Act).into_iter().collect());
        }
        let action = what.parse::<usize>().ok().and_then(|nth| said.keys.get(nth).cloned());
        let topic = said.topic;
        let (wishes, stays) = match topic {
            Topic::Hangs(window) if button == 1 => (vec![Wish::Outside(desk::Effect::Kill(window).into())], false),
            Topic::Bus(id) if button == 1 => {
                let key = action.or_else(|| said.press.clone());
                let stays = said.resident && key.is_some();
                (key.map(|key| Wish::Outside(Effect::Chosen(id, key))).into_iter().collect(), stays)
            }
            _ => (Vec::new(), false),
        };
        let changed = !stays && self.take(world.now, Gone::Dismissed, |said| said.topic == topic);
        (changed, wishes)
    }

    fn hears(&mut self, wish: &Wish, world: &World<'_>) -> bool {
        let now = world.now;
        let set = &world.desk.rice().notices;
        self.most = usize::try_from(set.most.0).unwrap_or(1);
        (self.sort, self.group) = (set.sort, set.group);
        match wish {
            Wish::Say(topic, notice) => {
                let stands = if *topic == Topic::Refusal { Stands::For(LASTS) } else { Stands::Ever };
                self.say(Said::new(*topic, notice.clone(), stands), now);
                true
            }
            Wish::Count(topic, notice, end) => {
                let counts = Some((*end, seconds(now, *end)));
                self.say(Said { counts, ..Said::new(*topic, notice.clone(), Stands::Until(*end)) }, now);
                true
            }
            Wish::Unsay(topic) => self.take(now, Gone::Closed, |said| said.topic == *topic),
            Wish::Tell(telling) => {
                self.say(Said::told(telling, &world.desk.rice().notices.last), now);
                true
            }
            Wish::Untell(id) => self.take(now, Gone::Closed, |said| said.topic == Topic::Bus(*id)),
            Wish::Deal(Dealing::Dismiss, _) => {
                let first = self.seen().first().map(|(at, _)| self.said[*at].topic);
                self.take(now, Gone::Dismissed, |said| Some(said.topic) == first)
            }
            Wish::Deal(Dealing::DismissAll, _) => self.take(now, Gone::Dismissed, |_| true),
            Wish::Deal(Dealing::Pause, quiet) => {
                let quiet = *quiet;
                let can_wait = |said: &Said| matches!(said.topic, Topic::Bus(_)) && said.notice.state != Some(State::Urgent);
                quiet && self.take(now, Gone::Dismissed, can_wait)
            }
            // The pointer came over something else.
            Wish::Close { menus: false } => {
                let over = world.over.is_some_and(|(id, _)| id.part == "notice");
                match (over, self.held) {
                    (true, None) => self.held = Some(now),
                    (false, Some(since)) => {
                        self.held = None;
                        let rested = now.0.saturating_sub(since.0);
                        for said in &mut self.said {
                            if let (Stands::Until(end), None) = (said.stands, said.counts) {
                                said.stands = Stands::Until(end.after(rested));
                            }
                        }
                    }
                    _ => {}
                }
                false
            }
            _ => false,
        }
    }

    fn wakes(&self) -> Option<Moment> {
        let next = |(end, left): (Moment, u64)| Moment(end.0.saturating_sub(Duration::from_secs(left.saturating_sub(1))));
        let counts = self.said.iter().filter_map(|said| said.counts.map(next));
        let end = |said: &Said| match said.stands {
            Stands::Until(end) if self.held.is_none() || said.counts.is_some() => Some(end),
            _ => None,
        };
        self.said.iter().filter_map(end).chain(counts).min()
    }

    fn passes(&mut self, now: Moment) -> bool {
        let held = self.held.is_some();
        let over = |said: &Said| matches!(said.stands, Stands::Until(end) if end <= now && (!held || said.counts.is_some()));
        let gone = self.take(now, Gone::Expired, over);
        let mut counted = false;
        for (end, left) in self.said.iter_mut().filter_map(|said| said.counts.as_mut()) {
            let now = seconds(now, *end);
            counted |= std::mem::replace(left, now) != now;
        }
        counted || gone
    }

    fn wishes(&mut self) -> Vec<Wish> {
        std::mem::take(&mut self.wishes)
    }
}
