//! Hot reload: read, check, compare, and touch only what differs.

use std::collections::VecDeque;
use std::hash::{Hash, Hasher};
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use jovrik_core::change::{changes, held_back, in_short};
use jovrik_core::check::{CheckedRice, LocalChoice, reaching_of};
use jovrik_core::desktop::DesktopEvent;
use jovrik_core::rice::{AutostartEntry, AutostartTrigger, Rice, reach_of};
use jovrik_file::at_home;
use jovrik_schema::catalogue::Capability;
use jovrik_text::problem::{Severity, count};
use jovrik_text::shell_line;
use jovrik_values::action::{Action, SettingAssignment};
use serde_json::{Value, json};

use super::Session;
use crate::watch::ReadFor;
use crate::{Error, RequestError};

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
    /// For how long the next one is tried.
    pub trial: Option<Duration>,
    /// What goes back unless it is kept, and for how long reloads are tried meanwhile.
    pub tried: Option<(CheckedRice, Duration)>,
    /// What the last one changed, in words.
    pub changed: String,
    /// What of that does not hold yet, and what it takes.
    pub held_back: Vec<String>,
    /// The rice before each accepted one that could not be written down yet; what came of it is the next one, or holds now.
    pub unrecorded: VecDeque<CheckedRice>,
    /// When that is tried again, how often it was, and why it failed; and how many of them were forgotten.
    pub record_due: Option<Instant>,
    pub record_tries: u32,
    pub record_amiss: Option<String>,
    pub forgotten: usize,
}

/// So many reloads wait to be written down; of more the oldest is forgotten, which is told.
const MAX_UNRECORDED_RELOADS: usize = 32;
/// How soon that is tried again: a command mostly holds the lock for some milliseconds, and what comes after it must find this
/// written down; one that holds it for long is asked less and less often.
const RECORD_DELAY: Duration = Duration::from_millis(15);
const RECORD_TIMEOUT: Duration = Duration::from_secs(60);
const SOON: u32 = 100;

impl Session {
    /// Reads it again where overlays follow the time of the day, and others hold now.
    pub(super) fn reload_by_hour(&mut self) -> Result<(), Error> {
        let by_hour = self.options.first.overlays.iter().any(|overlay| overlay.by_hour);
        let others = by_hour && fingerprint(&(self.options.load)(&[])) != self.reload.seen;
        if others { self.reload(self.now) } else { Ok(()) }
    }

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
        self.reload.changed.clear();
        self.reload.held_back.clear();
        // Also what is refused is read from somewhere.
        self.watch.look_after(self.named_by(&checked));
        tracing::info!(usable = checked.usable(), problems = checked.problems.len(), read = ?read, "reload");
        if !checked.usable() {
            self.reload.refused += 1;
            self.reload.last = Last::Refused;
            self.reload.problems = errors(&checked);
            let first = self.reload.problems.first().cloned().unwrap_or_default();
            self.step(DesktopEvent::Refused(first))?;
            self.reload.stages = vec![("read-and-check", read), ("total", since.elapsed())];
            return Ok(());
        }
        self.set.clear();
        let mark = Instant::now();
        let (rice, scopes) = (checked.rice.clone(), checked.scopes.clone());
        let before = std::mem::replace(&mut self.options.first, checked);
        let changed = changes(&before.tree, &self.options.first.tree);
        self.reload.changed = in_short(&changed);
        self.forget_over();
        // Of programs of the login more can be said.
        let others = held_back(&changed).into_iter().filter(|(path, _)| !path.starts_with("start."));
        let others = others.map(|(path, takes)| format!("{path} takes effect {takes}"));
        self.reload.held_back = others.chain(self.not_run_again(&before.rice)).collect();
        self.dress_wanted = true;
        self.step(DesktopEvent::Settings(rice, scopes))?;
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
        self.start_programs(Some(&before.rice))?;
        // Seen first, written down afterwards; what is only tried not before it is kept. Who asks for a trial tries what is
        // saved from now on, too.
        let tried = self.reload.tried.as_ref().map(|(_, time)| *time);
        let usual = self.options.trial.filter(|_| !changed.is_empty());
        let trial = self.reload.trial.take().or(usual).or(tried);
        match trial {
            Some(time) => {
                self.reload.tried.get_or_insert((before, time));
                self.step(DesktopEvent::Trial(time))
            }
            None => {
                self.record(before);
                Ok(())
            }
        }
    }
}

impl Session {
    /// What was saved: settings are read again, pictures drawn anew, programs of modules run again.
    pub(super) fn hear_saved(&mut self) -> Result<(), Error> {
        let saved = self.watch.saved();
        if saved.settings {
            self.reload_wanted.get_or_insert(self.now);
        }
        if saved.pictures {
            self.stage.forget_pictures(&self.desktop);
            self.seen()?;
        }
        if !saved.programs.is_empty() {
            let meant =
                |argv: &[String]| argv.iter().filter_map(|word| program_at(word)).any(|path| saved.programs.contains(&path));
            self.engine.again(&meant, self.now);
        }
        Ok(())
    }

    /// The files that settings name, and that of what was picked on this computer, which a command may take back.
    pub(super) fn named_by(&self, checked: &CheckedRice) -> Vec<(PathBuf, ReadFor)> {
        let choices = (self.options.choices.clone(), ReadFor::Choices);
        named_by(&self.options.folder, checked).into_iter().chain([choices]).collect()
    }

    /// Settings hold from now on; what the desktop is told.
    fn take_over(&mut self, checked: CheckedRice) -> DesktopEvent {
        self.watch.look_after(self.named_by(&checked));
        (self.feed_wanted, self.dress_wanted) = (true, true);
        let settings = DesktopEvent::Settings(checked.rice.clone(), checked.scopes.clone());
        self.options.first = checked;
        settings
    }
}

/// The file of a word of a command, where that is a program or a file of this person: by its path, or found on `PATH` below the
/// home.
fn program_at(word: &str) -> Option<PathBuf> {
    if word.contains('/') {
        let path = at_home(word).or_else(|| std::path::absolute(word).ok())?;
        return path.is_file().then_some(path);
    }
    let home = at_home("~/")?;
    let path = std::env::var_os("PATH")?;
    std::env::split_paths(&path)
        .map(|folder| folder.join(word))
        .find(|path| path.is_file())
        .filter(|path| path.starts_with(&home))
}

/// What a rice names of pictures and programs.
fn named_by(folder: &Path, checked: &CheckedRice) -> Vec<(PathBuf, ReadFor)> {
    let pictures =
        checked.rice.pictures().into_iter().map(|path| (at_home(path).unwrap_or_else(|| folder.join(path)), ReadFor::Picture));
    let programs = checked.rice.module_commands().flatten().filter_map(|word| Some((program_at(word)?, ReadFor::Program)));
    pictures.chain(programs).collect()
}

impl Session {
    /// The settings that are tried stay.
    pub(super) fn keep_tried(&mut self) {
        if let Some((before, _)) = self.reload.tried.take()
            && fingerprint(&before) != fingerprint(&self.options.first)
        {
            self.record(before);
        }
    }

    /// The settings that were tried go back to those before.
    pub(super) fn go_back(&mut self) -> Option<DesktopEvent> {
        let (before, _) = self.reload.tried.take()?;
        if fingerprint(&before) == fingerprint(&self.options.first) {
            return None;
        }
        self.reload.last = Last::Refused;
        self.reload.problems = vec!["the last reload was tried, and nobody kept it".to_owned()];
        Some(self.take_over(before))
    }

    /// Writes down that the rice was another one before.
    fn record(&mut self, before: CheckedRice) {
        self.reload.unrecorded.push_back(before);
        if self.reload.unrecorded.len() > MAX_UNRECORDED_RELOADS {
            self.reload.unrecorded.pop_front();
            self.reload.forgotten += 1;
        }
        self.record_all();
    }

    /// Writes down what could not be written down before, in its order.
    pub(super) fn record_all(&mut self) {
        self.reload.record_due = None;
        while let Some(before) = self.reload.unrecorded.front() {
            let after = self.reload.unrecorded.get(1).unwrap_or(&self.options.first);
            if let Err(why) = (self.options.accepted)(before, after) {
                self.reload.record_tries += 1;
                let later = RECORD_DELAY * 2_u32.saturating_pow(self.reload.record_tries.saturating_sub(SOON).min(16));
                self.reload.record_due = Some(Instant::now() + later.min(RECORD_TIMEOUT));
                self.reload.record_amiss = Some(why);
                return;
            }
            self.reload.record_tries = 0;
            self.reload.record_amiss = None;
            self.reload.unrecorded.pop_front();
        }
    }

    /// What there is to say of reloads that are in no history, if there is something.
    pub(super) fn unrecorded(&self) -> Option<String> {
        let waits = self.reload.unrecorded.len();
        let forgotten = self.reload.forgotten;
        let why = self.reload.record_amiss.as_deref().unwrap_or("the history was busy");
        match (waits, forgotten) {
            (0, 0) => None,
            (_, 0) => Some(format!("{} not written down yet: {why}", count(waits, "reload"))),
            _ => Some(format!("{} not written down, and {forgotten} never will be: {why}", count(waits + forgotten, "reload"))),
        }
    }

    /// Programs of the login that are others than before: they are not run again, and this would do it now.
    fn not_run_again(&self, before: &Rice) -> Vec<String> {
        let rice = &self.options.first.rice;
        let changed = rice.start.iter().filter(|(name, start)| {
            let before = before.start.get(*name);
            start.when == AutostartTrigger::Login && before.is_some_and(|before| !before.starts_the_same(start))
        });
        let now = |(name, start): (&String, &AutostartEntry)| {
            let action = match start.argv() {
                Some(argv) => Action::Run(argv),
                None => Action::Open(start.open.clone()),
            };
            format!("start.{name} is run at login: jovrik tell {} runs it now", shell_line(&[action.to_string()]))
        };
        changed.map(now).collect()
    }

    /// Reads the rice again as somebody asks who waits for the answer; what there is to say of it.
    pub(super) fn reload_for(&mut self, since: Instant) -> Result<Result<Value, RequestError>, Error> {
        self.reload(since)?;
        Ok(match self.reload.last {
            Last::Refused => Err(RequestError::Rice(self.reload.problems.first().cloned().unwrap_or_default())),
            _ => Ok(json!({ "changed": self.reload.changed, "held-back": self.reload.held_back })),
        })
    }

    /// The program as it is on disk takes over in place, as far as it can read this rice; why it cannot.
    pub(super) fn begin_again(&mut self) -> Result<Value, RequestError> {
        let checked = (self.options.load)(&[]);
        if !checked.usable() {
            return Err(RequestError::Rice(errors(&checked).into_iter().next().unwrap_or_default()));
        }
        (self.options.renewed)()?;
        (self.quit, self.again) = (true, true);
        Ok(Value::Null)
    }

    /// A setting is another one until the next reload, or is written into the rice, whose reload then takes it over: what
    /// there is to tell of it.
    pub(super) fn set(&mut self, SettingAssignment { path, value, keep }: SettingAssignment) -> Option<DesktopEvent> {
        let steps: Vec<&str> = path.split('.').collect();
        if reach_of(&steps) != Some(Capability::None) {
            return Some(DesktopEvent::NotStarted(match reach_of(&steps) {
                None => format!("there is no setting {path}"),
                Some(_) => format!("{path} reaches beyond the desk: it is set in the rice alone"),
            }));
        }
        if keep {
            let kept = [self.set.as_slice(), &[(path.clone(), value.clone())]].concat();
            let checked = (self.options.load)(&kept);
            return match self.reaches_otherwise(&checked) {
                Some(why) => Some(DesktopEvent::NotStarted(why)),
                None => (self.options.keep)(&path, &value).err().map(|why| DesktopEvent::NotStarted(why.to_string())),
            };
        }
        Some(self.set_all(vec![(path, value)]))
    }

    /// Why settings are not laid over the rice: the first error, or what of them reaches beyond the desk.
    fn refusal(&self, checked: &CheckedRice) -> Option<String> {
        match checked.usable() {
            true => self.reaches_otherwise(checked),
            false => errors(checked).into_iter().next(),
        }
    }

    /// Why settings may not be taken over without the leave of whoever wrote the rice: what it starts, sets in the environment
    /// or writes would be something else, after all references.
    fn reaches_otherwise(&self, checked: &CheckedRice) -> Option<String> {
        let listed = |checked: &CheckedRice| -> Result<Vec<(String, Capability, String)>, String> {
            let all = reaching_of(&checked.tree).map_err(|unclear| unclear.to_string())?;
            Ok(all.into_iter().map(|one| (one.path, one.reach, one.what)).collect())
        };
        let (before, after) = match (listed(&self.options.first), listed(checked)) {
            (Ok(before), Ok(after)) => (before, after),
            (Err(why), _) | (_, Err(why)) => return Some(why),
        };
        let other = after.iter().find(|one| !before.contains(one)).or_else(|| before.iter().find(|one| !after.contains(one)));
        other.map(|(path, ..)| format!("it changes {path}, which reaches beyond the desk: that is set in the rice alone"))
    }

    /// What was picked before the rice said something else does not come back with what it said.
    pub(super) fn forget_over(&mut self) {
        let over = std::mem::take(&mut self.options.first.over);
        if !over.is_empty() {
            let forgotten = over.into_iter().map(|choice| LocalChoice { value: choice.over.clone(), ..choice }).collect();
            if let Err(why) = (self.options.pick)(forgotten, self.turned) {
                tracing::warn!(%why, "what was picked is remembered");
            }
        }
    }

    /// Settings are picked on this computer: they hold until the rice itself says something else of them.
    pub(super) fn pick(&mut self, all: Vec<(String, String)>) -> DesktopEvent {
        let kept = self.set.iter().filter(|(other, _)| all.iter().all(|(path, _)| other != path)).cloned();
        let set: Vec<(String, String)> = kept.collect();
        let tried = (self.options.load)(&[set.as_slice(), all.as_slice()].concat());
        if let Some(why) = self.refusal(&tried) {
            return DesktopEvent::NotStarted(why);
        }
        let choice = |(path, value): (String, String)| LocalChoice { over: self.options.first.said(&path), path, value };
        let picked = all.into_iter().map(choice).collect();
        if let Err(why) = (self.options.pick)(picked, self.turned) {
            return DesktopEvent::NotStarted(why.to_string());
        }
        self.set = set;
        let checked = (self.options.load)(&self.set);
        self.reload.seen = fingerprint(&checked);
        self.take_over(checked)
    }

    /// Lays settings over the rice until the next reload.
    pub(super) fn set_all(&mut self, all: Vec<(String, String)>) -> DesktopEvent {
        let mut set = self.set.clone();
        set.retain(|(other, _)| all.iter().all(|(path, _)| other != path));
        set.extend(all);
        let checked = (self.options.load)(&set);
        if let Some(why) = self.refusal(&checked) {
            return DesktopEvent::NotStarted(why);
        }
        self.set = set;
        self.take_over(checked)
    }
}

/// The errors of a rice, one line each: place and sentence.
fn errors(checked: &CheckedRice) -> Vec<String> {
    let here = checked.problems.iter().filter(|problem| problem.severity == Severity::Error && problem.elsewhere.is_none());
    here.map(|problem| match problem.marks.first() {
        Some(mark) => format!("{}: {}", checked.sources.place(mark.span), problem.title),
        None => problem.title.clone(),
    })
    .collect()
}

/// A number for what all files of a rice hold, and which of its overlays are laid.
pub(super) fn fingerprint(checked: &CheckedRice) -> u64 {
    let mut hasher = std::hash::DefaultHasher::new();
    for (_, source) in checked.sources.iter() {
        (&source.name, &source.text).hash(&mut hasher);
    }
    for overlay in &checked.overlays {
        overlay.layer.hash(&mut hasher);
    }
    checked.choices.hash(&mut hasher);
    // Files that could not be read are told of by problems alone.
    for problem in &checked.problems {
        (problem.code, &problem.title).hash(&mut hasher);
    }
    hasher.finish()
}
