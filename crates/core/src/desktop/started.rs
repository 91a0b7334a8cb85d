//! Programs that were started, until a window of each is there.

use std::collections::VecDeque;

use crate::desk::WindowFacts;

/// So many are remembered.
const STARTED: usize = 64;

/// A program that was started.
#[derive(Debug)]
pub(super) struct Started {
    /// What its windows say that they come of.
    pub start: String,
    pub process: Option<u32>,
    /// Where that was.
    pub workspace: String,
    /// Whether by the person.
    pub sought: bool,
}

/// Those that have no window yet, the newest first.
#[derive(Debug, Default)]
pub(super) struct AllStarted(VecDeque<Started>);

impl AllStarted {
    /// Remembers one more, and forgets the oldest of too many.
    pub fn add(&mut self, started: Started) {
        self.0.truncate(STARTED - 1);
        self.0.push_front(started);
    }

    /// How the program of a window was started, for the first of its windows.
    pub fn of(&mut self, facts: &WindowFacts) -> Option<Started> {
        let own = |started: &Started| {
            !facts.startup_id.is_empty() && started.start == facts.startup_id
                || started.process.is_some() && started.process == facts.pid
        };
        let at = self.0.iter().position(own)?;
        self.0.remove(at)
    }
}
