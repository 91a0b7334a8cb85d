//! What programs tell over the bus (the Desktop Notifications Specification), as the machine has it.

use std::time::Duration;

use jovrik_values::{IconRef, NotificationCommand};

use super::effect::DesktopEffect;
use super::markup::MarkupRun;
use super::surface::ChangeFlags;
use super::update::Desktop;
use crate::part::ComponentRequest;
use crate::rice::{Rice, Urgency};

/// Something that a program tells.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Notification {
    /// Its number.
    pub id: u32,
    /// The program's name.
    pub app: String,
    /// The first line.
    pub title: String,
    /// What follows, without markup.
    pub body: String,
    /// The same in pieces that look alike; none where all of it is plain.
    pub pieces: Vec<MarkupRun>,
    /// The picture beside it.
    pub picture: Option<IconRef>,
    /// How urgent it is.
    pub urgency: Urgency,
    /// How long it stays: as the settings say, a time, or until it is taken away.
    pub lasts: ExpireTimeout,
    /// What can be done about it: a key, and its label; the key `default` is that of a press.
    pub actions: Vec<(String, String)>,
    /// A value in hundredths.
    pub value: Option<u8>,
    /// Whether it stays after something was done about it.
    pub resident: bool,
    /// Whether it is not worth being remembered.
    pub transient: bool,
}

/// How long one stays.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum ExpireTimeout {
    /// As the settings say for its urgency.
    #[default]
    AsSet,
    /// So long.
    For(Duration),
    /// Until it is taken away.
    Ever,
}

/// Why one is gone (the specification's reasons).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum CloseReason {
    /// Its time was over.
    Expired = 1,
    /// A person took it away.
    Dismissed = 2,
    /// Its program took it back.
    Closed = 3,
}

/// So many are remembered.
const MAX_NOTIFICATIONS: usize = jovrik_text::limits::NOTICES_KEPT;

/// What the rules of a rice make of it; whether it is to be shown.
fn ruled(rice: &Rice, mut telling: Notification) -> (Notification, bool) {
    let mut shown = true;
    for rule in rice.notices.rule.values() {
        let fits = |pattern: &Option<jovrik_values::WindowPattern>, text: &str| {
            pattern.as_ref().is_none_or(|pattern| pattern.matches(text))
        };
        let words = format!("{}\n{}", telling.title, telling.body);
        let urgency = rule.urgency.is_none_or(|urgency| urgency == telling.urgency);
        if !(fits(&rule.app, &telling.app) && fits(&rule.words, &words) && urgency) {
            continue;
        }
        shown &= !rule.quiet;
        if let Some(shown_as) = rule.shown_as {
            telling.urgency = shown_as;
        }
        if let Some(last) = rule.last {
            telling.lasts = last.0.map_or(ExpireTimeout::Ever, ExpireTimeout::For);
        }
    }
    (telling, shown)
}

impl Desktop {
    /// What programs have told, the latest first.
    pub fn tellings(&self) -> impl Iterator<Item = &Notification> {
        self.tellings.iter()
    }

    /// Whether only urgent ones are shown.
    pub fn quiet(&self) -> bool {
        self.quiet
    }

    /// A program tells something, or tells it otherwise.
    pub(super) fn told(&mut self, telling: Notification, effects: &mut Vec<DesktopEffect>) {
        let (telling, shown) = ruled(self.desk.rice(), telling);
        self.tellings.retain(|other| other.id != telling.id);
        if !telling.transient {
            self.tellings.push_front(telling.clone());
            self.tellings.truncate(MAX_NOTIFICATIONS);
        }
        let urgent = telling.urgency == Urgency::Urgent;
        if !shown || !urgent && (self.quiet || self.hushed()) {
            self.waiting.insert(telling.id);
            self.changed = self.changed.and(ChangeFlags::TOLD);
            return;
        }
        self.standing(telling.id, true);
        self.wish(ComponentRequest::ShowNotification(Box::new(telling)), effects);
    }

    /// Whether a window is seen while which only urgent ones are shown.
    fn hushed(&self) -> bool {
        let seen = self.desk.arrangement().placed.keys();
        seen.into_iter().any(|id| self.desk.windows.get(id).is_some_and(|window| window.quiet))
    }

    /// How many of them nobody has dealt with yet.
    pub fn waits(&self) -> usize {
        self.waiting.len()
    }

    /// Something stands from now on, or no longer.
    pub(super) fn standing(&mut self, id: u32, stands: bool) {
        let changed = if stands { self.waiting.insert(id) } else { self.waiting.shift_remove(&id) };
        if changed {
            self.changed = self.changed.and(ChangeFlags::TOLD);
        }
    }

    /// One is told again, as if it had just come.
    pub(super) fn tell_again(&mut self, id: u32, effects: &mut Vec<DesktopEffect>) {
        if let Some(telling) = self.tellings.iter().find(|telling| telling.id == id).cloned() {
            self.standing(id, true);
            self.wish(ComponentRequest::ShowNotification(Box::new(telling)), effects);
        }
    }

    pub(super) fn deal(&mut self, dealing: NotificationCommand, effects: &mut Vec<DesktopEffect>) {
        match dealing {
            NotificationCommand::Pause => (self.quiet, self.quiet_ends) = (!self.quiet, None),
            NotificationCommand::PauseFor(time) => (self.quiet, self.quiet_ends) = (true, Some(self.now.after(time))),
            NotificationCommand::DismissAll => self.waiting.clear(),
            NotificationCommand::Dismiss => {}
        }
        self.changed = self.changed.and(ChangeFlags::TOLD);
        self.wish(ComponentRequest::Deal(dealing, self.quiet), effects);
    }
}
