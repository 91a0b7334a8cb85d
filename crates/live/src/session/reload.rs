//! Hot reload: read, check, compare, and touch only what differs.

use std::hash::{Hash, Hasher};
use std::time::{Duration, Instant};

use jovrik_core::check::Checked;
use jovrik_core::desk::Setting;
use jovrik_core::desktop::Event;
use jovrik_core::problem::Severity;
use jovrik_core::rice::catalogue::Reach;
use jovrik_core::rice::reach_of;

use super::Session;
use crate::Error;

/// What became of the last reload.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) enum Last {
    /// There was none.
    #[default]
    None,
    /// It is in force.
    Accepted,
    /// The settings before stay.
    Refused,
}

impl Last {
    /// Its word in `ask health`.
    pub fn word(self) -> &'static str {
        match self {
            Last::None => "none yet",
            Last::Accepted => "accepted",
            Last::Refused => "refused",
        }
    }
}

/// How the last reload went.
#[derive(Debug, Default)]
pub(super) struct Reload {
    pub last: Last,
    pub problems: Vec<String>,
    pub stages: Vec<(&'static str, Duration)>,
    pub accepted: u64,
    pub refused: u64,
    /// What the files held when they were last read.
    pub seen: u64,
    /// Whether a person asked for the next one.
    pub asked: bool,
}

impl Session {
    /// Reads the rice again: with errors nothing changes, else what differs is the desktop's to find out.
    pub(super) fn reload(&mut self, since: Instant) -> Result<(), Error> {
        let began = Instant::now();
        let checked = (self.options.load)(&[]);
        let read = began.elapsed();
        // One save may tell of itself more than once; what was read already is not judged again, unless that was asked for.
        let seen = std::mem::replace(&mut self.reload.seen, fingerprint(&checked));
        let asked = std::mem::take(&mut self.reload.asked) || !self.set.is_empty();
        if seen == self.reload.seen && !asked {
            return Ok(());
        }
        tracing::info!(usable = checked.usable(), problems = checked.problems.len(), read = ?read, "reload");
        if !checked.usable() {
            self.reload.refused += 1;
            self.reload.last = Last::Refused;
            self.reload.problems = errors(&checked);
            let first = self.reload.problems.first().cloned().unwrap_or_default();
            self.step(Event::Refused(first))?;
            self.reload.stages = vec![("read-and-check", read), ("total", since.elapsed())];
            return Ok(());
        }
        self.set.clear();
        let mark = Instant::now();
        let (rice, scopes) = (checked.rice.clone(), checked.scopes.clone());
        let before = std::mem::replace(&mut self.options.first, checked);
        self.step(Event::Settings(rice, scopes))?;
        self.tell_daytime()?;
        self.bars_seen = self.desktop.desk().bars_seen();
        self.feed()?;
        self.reload.accepted += 1;
        self.reload.last = Last::Accepted;
        self.reload.problems.clear();
        let apply = mark.elapsed();
        let mark = Instant::now();
        self.stage.sync()?;
        self.reload.stages =
            vec![("read-and-check", read), ("apply", apply), ("paint", mark.elapsed()), ("total", since.elapsed())];
        // Seen first, written down afterwards.
        (self.options.accepted)(&before, &self.options.first);
        self.start_programs(Some(&before.rice))
    }
}

impl Session {
    /// A setting is another one until the next reload, or is written into the rice, whose reload then takes it over: what
    /// there is to tell of it.
    pub(super) fn set(&mut self, Setting { path, value, keep }: Setting) -> Option<Event> {
        let steps: Vec<&str> = path.split('.').collect();
        if reach_of(&steps) != Some(Reach::Inside) {
            return Some(Event::NotStarted(match reach_of(&steps) {
                None => format!("there is no setting {path}"),
                Some(_) => format!("{path} reaches beyond the desk: it is set in the rice alone"),
            }));
        }
        if keep {
            return (self.options.keep)(&path, &value).err().map(Event::NotStarted);
        }
        let mut set = self.set.clone();
        set.retain(|(other, _)| *other != path);
        set.push((path, value));
        let checked = (self.options.load)(&set);
        if !checked.usable() {
            return Some(Event::NotStarted(errors(&checked).into_iter().next().unwrap_or_default()));
        }
        self.set = set;
        self.feed_wanted = true;
        let settings = Event::Settings(checked.rice.clone(), checked.scopes.clone());
        self.options.first = checked;
        Some(settings)
    }
}

/// The errors of a rice, one line each: place and sentence.
fn errors(checked: &Checked) -> Vec<String> {
    let here = checked.problems.iter().filter(|problem| problem.severity == Severity::Error && problem.elsewhere.is_none());
    here.map(|problem| match problem.marks.first() {
        Some(mark) => format!("{}: {}", checked.sources.place(mark.span), problem.title),
        None => problem.title.clone(),
    })
    .collect()
}

/// A number for what all files of a rice hold, and which of its overlays are laid.
pub(super) fn fingerprint(checked: &Checked) -> u64 {
    let mut hasher = std::hash::DefaultHasher::new();
    for (_, source) in checked.sources.iter() {
        (&source.name, &source.text).hash(&mut hasher);
    }
    for overlay in &checked.overlays {
        overlay.layer.hash(&mut hasher);
    }
    // Files that could not be read are told of by problems alone.
    for problem in &checked.problems {
        (problem.code, &problem.title).hash(&mut hasher);
    }
    hasher.finish()
}
