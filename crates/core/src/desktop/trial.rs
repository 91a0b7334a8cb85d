//! What is tried goes back by itself unless somebody who still sees something keeps it: outputs, and settings.

use std::time::Duration;

use super::effect::Effect;
use super::machine::Desktop;
use crate::desk::Again;
use crate::part::{LEFT, Topic, Wish};
use crate::scene::Notice;
use crate::style::State;

/// How long outputs are tried.
const TRIED: Duration = Duration::from_secs(15);

impl Desktop {
    /// Outputs are lit otherwise: they go back unless somebody who still sees something keeps them.
    pub(super) fn tried(&mut self, amiss: &[String], effects: &mut Vec<Effect>) {
        let ends = self.now.after(TRIED);
        self.tried_until = Some(ends);
        let mut body = format!("They go back in {LEFT} s, unless `monitors keep` is told or bound.");
        amiss.iter().for_each(|why| body.push_str(&format!(" {why}.")));
        let notice = Notice { title: "The monitors are tried".to_owned(), body, state: Some(State::Warn), ..Notice::default() };
        self.wish(Wish::Count(Topic::Monitors, notice, ends), effects);
    }

    /// Settings are tried: they go back unless somebody who still can keeps them.
    pub(super) fn trial(&mut self, time: Duration, effects: &mut Vec<Effect>) {
        let ends = self.now.after(time);
        self.trial_ends = Some(ends);
        let body = format!("It goes back in {LEFT} s, unless `reload keep` is told or bound.");
        let notice = Notice { title: "The reload is tried".to_owned(), body, state: Some(State::Warn), ..Notice::default() };
        self.wish(Wish::Count(Topic::Trial, notice, ends), effects);
    }

    pub(super) fn keep_reload(&mut self, effects: &mut Vec<Effect>) {
        match self.trial_ends.take() {
            Some(_) => {
                self.wish(Wish::Unsay(Topic::Trial), effects);
                effects.push(Effect::Reload(Again::Keep));
            }
            None => self.refuse("no reload is tried".to_owned(), effects),
        }
    }

    pub(super) fn keep_monitors(&mut self, effects: &mut Vec<Effect>) {
        match self.tried_until.take() {
            Some(_) => self.wish(Wish::Unsay(Topic::Monitors), effects),
            None => self.refuse("no monitors are tried".to_owned(), effects),
        }
    }
}
