//! Notices: what the desktop itself has to say, and what programs tell over the bus.

use std::collections::HashSet;
use std::rc::Rc;
use std::time::Duration;

use jovrik_values::action::Action;
use jovrik_values::{ElementState, NotificationCommand, PixelRect, Rect};

use super::{Component, ComponentRequest, Drawn, InputEvent, radius};
use crate::desk::{self, StackingLayer, WindowId};
use crate::desktop::{
    ChangeFlags, CloseReason, DesktopEffect, DesktopView, ExpireTimeout, Interactivity, MonotonicTime, Notification, Surface,
    SurfaceId,
};
use crate::rice::{NotificationSort, NotificationTimes, ScreenCorner, Urgency};
use crate::scene::{Measure, NotificationContent, NotificationLayout, Scene, notice};

/// What a notice is about: a later one about the same takes its place.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NotificationTopic {
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
const MAX_ACTIVE_NOTIFICATIONS: usize = 200;

/// How long a notice stands that nobody has to act on.
const NOTIFICATION_TIMEOUT: Duration = Duration::from_secs(8);

/// Until when something stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Stands {
    /// Until it is taken away.
    Ever,
    /// So long, from when it is seen.
    For(Duration),
    /// Until then.
    Until(MonotonicTime),
}

#[derive(Debug)]
struct ActiveNotification {
    topic: NotificationTopic,
    notice: NotificationContent,
    stands: Stands,
    /// What it counts down to, and how many seconds it says are left.
    counts: Option<(MonotonicTime, u64)>,
    /// The keys of what can be done about it, beside their labels in the notice; and that of a press.
    keys: Vec<String>,
    press: Option<String>,
    resident: bool,
    /// The program that tells it; nothing of what the desktop says itself.
    app: String,
}

impl ActiveNotification {
    fn new(topic: NotificationTopic, notice: NotificationContent, stands: Stands) -> ActiveNotification {
        ActiveNotification {
            topic,
            notice,
            stands,
            counts: None,
            keys: Vec::new(),
            press: None,
            resident: false,
            app: String::new(),
        }
    }

    /// As it is seen.
    fn words(&self) -> NotificationContent {
        let left = self.counts.map(|(_, left)| left.to_string()).unwrap_or_default();
        NotificationContent { body: self.notice.body.replace(LEFT, &left), ..self.notice.clone() }
    }

    /// What a program tells.
    fn told(telling: &Notification, last: &NotificationTimes) -> ActiveNotification {
        let set = match telling.urgency {
            Urgency::Low => last.low,
            Urgency::Normal => last.normal,
            Urgency::Urgent => last.urgent,
        };
        let stands = match (telling.lasts, set.0) {
            (ExpireTimeout::For(time), _) | (ExpireTimeout::AsSet, Some(time)) => Stands::For(time),
            (ExpireTimeout::Ever, _) | (ExpireTimeout::AsSet, None) => Stands::Ever,
        };
        let state = (telling.urgency == Urgency::Urgent).then_some(ElementState::Urgent);
        let press = |key: &&(String, String)| key.0 == "default";
        let (keys, actions) = telling.actions.iter().filter(|action| !press(action)).cloned().unzip();
        let value = telling.value.map(|value| f32::from(value.min(100)) / 100.0);
        let notice = NotificationContent {
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
        ActiveNotification {
            keys,
            press,
            app,
            resident: telling.resident,
            ..ActiveNotification::new(NotificationTopic::Bus(telling.id), notice, stands)
        }
    }
}

/// What the place of a link on a notice begins with.
const LINK: &str = "-> ";

/// What is done when a link is pressed: the program that the rice names for them opens it, else what the computer has.
fn leads(link: &str, world: &DesktopView<'_>) -> Option<Action> {
    // A program says where it leads: only to what is read, and never as an option of the program that opens it.
    let known = ["https://", "http://", "mailto:"].iter().any(|scheme| link.to_ascii_lowercase().starts_with(scheme));
    let own = world.desk.rice().program.get("links").map(|program| program.run.clone());
    let mut argv = own.unwrap_or_else(|| vec!["xdg-open".to_owned()]);
    argv.push(link.to_owned());
    (known && !link.chars().any(char::is_control)).then_some(Action::Run(argv))
}

/// The whole seconds until a moment, of which the last is not over yet.
fn seconds(now: MonotonicTime, end: MonotonicTime) -> u64 {
    end.0.saturating_sub(now.0).as_millis().div_ceil(1000) as u64
}

/// What is said now, the latest first.
#[derive(Debug, Default)]
pub(super) struct NotificationsComponent {
    said: Vec<ActiveNotification>,
    /// How many are shown at once, in which order, and whether those of one program are one.
    most: usize,
    sort: NotificationSort,
    group: bool,
    /// Since when the pointer is over them: nothing goes meanwhile.
    held: Option<MonotonicTime>,
    /// Who is told that something is gone.
    wishes: Vec<ComponentRequest>,
}

impl NotificationsComponent {
    /// Says something; what was said of the same is gone without a word.
    fn say(&mut self, said: ActiveNotification, now: MonotonicTime) {
        match self.said.iter().position(|other| other.topic == said.topic) {
            Some(at) => self.said[at] = said,
            None => self.said.insert(0, said),
        }
        // Whoever floods the desk loses what can wait, the oldest first.
        let can_wait = |said: &ActiveNotification| {
            matches!(said.topic, NotificationTopic::Bus(_)) && said.notice.state != Some(ElementState::Urgent)
        };
        if self.said.len() > MAX_ACTIVE_NOTIFICATIONS
            && let Some(oldest) = self.said.iter().rposition(can_wait)
            && let NotificationTopic::Bus(id) = self.said.remove(oldest).topic
        {
            self.wishes.push(ComponentRequest::Outside(DesktopEffect::CloseNotification(id, CloseReason::Expired)));
        }
        self.show(now);
    }

    /// Those that are seen, in their order from the corner: their numbers, and how many more are folded into each.
    fn seen(&self) -> Vec<(usize, usize)> {
        let mut order: Vec<usize> = (0..self.said.len()).collect();
        match self.sort {
            NotificationSort::Latest => {}
            NotificationSort::Oldest => order.reverse(),
            NotificationSort::Urgent => order.sort_by_key(|at| self.said[*at].notice.state != Some(ElementState::Urgent)),
        }
        let mut seen: Vec<(usize, usize)> = Vec::new();
        for at in order {
            let said = &self.said[at];
            // A value replaces itself, and what is urgent is never folded away.
            let folds = |said: &ActiveNotification| {
                self.group
                    && !said.app.is_empty()
                    && said.notice.value.is_none()
                    && said.notice.state != Some(ElementState::Urgent)
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
    fn show(&mut self, now: MonotonicTime) {
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
    fn take(&mut self, now: MonotonicTime, why: CloseReason, meant: impl Fn(&ActiveNotification) -> bool) -> bool {
        let before = self.said.len();
        let wishes = &mut self.wishes;
        self.said.retain(|said| {
            let goes = meant(said);
            if let (true, NotificationTopic::Bus(id)) = (goes, said.topic) {
                wishes.push(ComponentRequest::Outside(DesktopEffect::CloseNotification(id, why)));
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

impl Component for NotificationsComponent {
    fn name(&self) -> &'static str {
        "notice"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS.and(ChangeFlags::DESK)
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
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
            let words = NotificationContent { more, ..said.words() };
            let states: Vec<_> = words.state.into_iter().collect();
            let logical = width as f32 / by;
            let laid = NotificationLayout::of(rice, &words, logical, measure);
            let high = px(laid.height.ceil() as i32).max(1);
            let y = if top { work.y + away } else { work.y + work.h - away - high };
            let area = PixelRect::new(x, y, width, high);
            let at = Rect::from(area).times(1.0 / by);
            let mut scene = Scene::default();
            let pressed = notice(rice, &words, &laid, (at.x, at.y), logical, &mut scene, measure);
            let actions = pressed.actions.into_iter().enumerate().map(|(nth, rect)| (nth.to_string(), rect));
            let links = pressed.links.into_iter().map(|(link, rect)| (format!("{LINK}{link}"), rect));
            let spots = actions.chain(links).map(|(what, rect)| (what, rect.times(by))).collect();
            surfaces.push(Surface {
                id: SurfaceId { part: self.name(), name: format!("{:?}", said.topic), monitor: world.monitor_name(monitor) },
                area,
                level: if set.over_full { StackingLayer::Notices } else { StackingLayer::Bars },
                takes: Interactivity::Pointer,
                radius: radius(world, "notice", &states, by),
                content: Rc::new(Drawn { scene: Rc::new(scene.scaled(by)), whole: area.into(), spots }),
            });
            away += high + px(set.between.0);
        }
        surfaces
    }

    fn handle_input(&mut self, surface: &Surface, happens: InputEvent, world: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let InputEvent::Press(button, x, y) = happens else { return (false, Vec::new()) };
        let Some(at) = self.said.iter().position(|said| format!("{:?}", said.topic) == surface.id.name) else {
            return (false, Vec::new());
        };
        let said = &self.said[at];
        let what = surface.content.at(x as f32, y as f32).map(|at| at.what).unwrap_or_default();
        if let (1, Some(link)) = (button, what.strip_prefix(LINK)) {
            return (false, leads(link, world).map(ComponentRequest::Act).into_iter().collect());
        }
        let action = what.parse::<usize>().ok().and_then(|nth| said.keys.get(nth).cloned());
        let topic = said.topic;
        let (wishes, stays) = match topic {
            NotificationTopic::Hangs(window) if button == 1 => {
                (vec![ComponentRequest::Outside(desk::WmEffect::Kill(window).into())], false)
            }
            NotificationTopic::Bus(id) if button == 1 => {
                let key = action.or_else(|| said.press.clone());
                let stays = said.resident && key.is_some();
                (
                    key.map(|key| ComponentRequest::Outside(DesktopEffect::InvokeNotificationAction(id, key)))
                        .into_iter()
                        .collect(),
                    stays,
                )
            }
            _ => (Vec::new(), false),
        };
        let changed = !stays && self.take(world.now, CloseReason::Dismissed, |said| said.topic == topic);
        (changed, wishes)
    }

    fn handle_request(&mut self, wish: &ComponentRequest, world: &DesktopView<'_>) -> bool {
        let now = world.now;
        let set = &world.desk.rice().notices;
        self.most = usize::try_from(set.most.0).unwrap_or(1);
        (self.sort, self.group) = (set.sort, set.group);
        match wish {
            ComponentRequest::ShowMessage(topic, notice) => {
                let stands = if *topic == NotificationTopic::Refusal { Stands::For(NOTIFICATION_TIMEOUT) } else { Stands::Ever };
                self.say(ActiveNotification::new(*topic, notice.clone(), stands), now);
                true
            }
            ComponentRequest::Count(topic, notice, end) => {
                let counts = Some((*end, seconds(now, *end)));
                self.say(
                    ActiveNotification { counts, ..ActiveNotification::new(*topic, notice.clone(), Stands::Until(*end)) },
                    now,
                );
                true
            }
            ComponentRequest::ClearMessage(topic) => self.take(now, CloseReason::Closed, |said| said.topic == *topic),
            ComponentRequest::ShowNotification(telling) => {
                self.say(ActiveNotification::told(telling, &world.desk.rice().notices.last), now);
                true
            }
            ComponentRequest::Untell(id) => self.take(now, CloseReason::Closed, |said| said.topic == NotificationTopic::Bus(*id)),
            ComponentRequest::Deal(NotificationCommand::Dismiss, _) => {
                let first = self.seen().first().map(|(at, _)| self.said[*at].topic);
                self.take(now, CloseReason::Dismissed, |said| Some(said.topic) == first)
            }
            ComponentRequest::Deal(NotificationCommand::DismissAll, _) => self.take(now, CloseReason::Dismissed, |_| true),
            ComponentRequest::Deal(NotificationCommand::Pause, quiet) => {
                let quiet = *quiet;
                let can_wait = |said: &ActiveNotification| {
                    matches!(said.topic, NotificationTopic::Bus(_)) && said.notice.state != Some(ElementState::Urgent)
                };
                quiet && self.take(now, CloseReason::Dismissed, can_wait)
            }
            // The pointer came over something else.
            ComponentRequest::Close { menus: false } => {
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

    fn next_wakeup(&self) -> Option<MonotonicTime> {
        let next =
            |(end, left): (MonotonicTime, u64)| MonotonicTime(end.0.saturating_sub(Duration::from_secs(left.saturating_sub(1))));
        let counts = self.said.iter().filter_map(|said| said.counts.map(next));
        let end = |said: &ActiveNotification| match said.stands {
            Stands::Until(end) if self.held.is_none() || said.counts.is_some() => Some(end),
            _ => None,
        };
        self.said.iter().filter_map(end).chain(counts).min()
    }

    fn tick(&mut self, now: MonotonicTime) -> bool {
        let held = self.held.is_some();
        let over = |said: &ActiveNotification| matches!(said.stands, Stands::Until(end) if end <= now && (!held || said.counts.is_some()));
        let gone = self.take(now, CloseReason::Expired, over);
        let mut counted = false;
        for (end, left) in self.said.iter_mut().filter_map(|said| said.counts.as_mut()) {
            let now = seconds(now, *end);
            counted |= std::mem::replace(left, now) != now;
        }
        counted || gone
    }

    fn take_requests(&mut self) -> Vec<ComponentRequest> {
        std::mem::take(&mut self.wishes)
    }
}
