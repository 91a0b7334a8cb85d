//! What is tried goes back by itself unless somebody who still sees something keeps it: outputs, and settings.

use std::time::Duration;

use jovrik_values::ElementState;
use jovrik_values::action::ReloadMode;

use super::effect::DesktopEffect;
use super::update::Desktop;
use crate::part::{ComponentRequest, LEFT, NotificationTopic};
use crate::scene::NotificationContent;

/// How long outputs are tried.
const TRIAL_TIMEOUT: Duration = Duration::from_secs(15);

impl Desktop {
    /// Outputs are lit otherwise: they go back unless somebody who still sees something keeps them.
    pub(super) fn tried(&mut self, amiss: &[String], effects: &mut Vec<DesktopEffect>) {
        let ends = self.now.after(TRIAL_TIMEOUT);
        self.tried_until = Some(ends);
        let mut body = format!("They go back in {LEFT} s, unless `monitors keep` is told or bound.");
        amiss.iter().for_each(|why| body.push_str(&format!(" {why}.")));
        let notice = NotificationContent {
            title: "The monitors are tried".to_owned(),
            body,
            state: Some(ElementState::Warn),
            ..NotificationContent::default()
        };
        self.wish(ComponentRequest::Count(NotificationTopic::Monitors, notice, ends), effects);
    }

    /// Settings are tried: they go back unless somebody who still can keeps them.
    pub(super) fn trial(&mut self, time: Duration, effects: &mut Vec<DesktopEffect>) {
        let ends = self.now.after(time);
        self.trial_ends = Some(ends);
        let body = format!("It goes back in {LEFT} s, unless `reload keep` is told or bound.");
        let notice = NotificationContent {
            title: "The reload is tried".to_owned(),
            body,
            state: Some(ElementState::Warn),
            ..NotificationContent::default()
        };
        self.wish(ComponentRequest::Count(NotificationTopic::Trial, notice, ends), effects);
    }

    pub(super) fn keep_reload(&mut self, effects: &mut Vec<DesktopEffect>) {
        match self.trial_ends.take() {
            Some(_) => {
                self.wish(ComponentRequest::ClearMessage(NotificationTopic::Trial), effects);
                effects.push(DesktopEffect::Reload(ReloadMode::Keep));
            }
            None => self.refuse("no reload is tried".to_owned(), effects),
        }
    }

    pub(super) fn keep_monitors(&mut self, effects: &mut Vec<DesktopEffect>) {
        match self.tried_until.take() {
            Some(_) => self.wish(ComponentRequest::ClearMessage(NotificationTopic::Monitors), effects),
            None => self.refuse("no monitors are tried".to_owned(), effects),
        }
    }
}
