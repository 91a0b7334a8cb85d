//! All sources of a rice: what is due when, what runs, the last values.

use std::collections::HashMap;
use std::os::fd::BorrowedFd;
use std::rc::Rc;
use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use indexmap::IndexMap;
use jovrik_core::rice::{BuiltInSource, Module, ModuleSource, Rice, SourceKind, Widget, WidgetKind};
use jovrik_core::widget::{NUMBERS, module_of};
use jovrik_values::{FieldValue, MAX_PAST_VALUES, ModuleValues, Values, past_of};

use crate::command::{Outcome, RunningProgram};
use crate::file::{Watched, content, expanded};
use crate::kernel::{Kernel, PreviousSample};
use crate::process_tree::ProcessTree;
use crate::source_error::SourceError;
use crate::stream::{News, Stream};

/// How a module's source is.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ModuleHealth {
    /// Why the last asking gave no value.
    pub trouble: Option<String>,
    /// How old the value is; nothing when there is none.
    pub age: Option<Duration>,
    /// How often it was asked.
    pub asked: u64,
    /// How long the last run of its program took.
    pub took: Option<Duration>,
    /// The beginning of what its program wrote to standard error.
    pub complaint: String,
}

/// What a source said last, before anything is picked out of it.
#[derive(Debug, Clone, PartialEq)]
enum Raw {
    Fields(Values),
    Text(String),
}

/// One source; modules that want the same share it.
struct Feed {
    source: ModuleSource,
    due: Option<Instant>,
    running: Option<RunningProgram>,
    stream: Option<Stream>,
    /// Its programs, and all that they started.
    family: Rc<ProcessTree>,
    file: Option<Watched>,
    raw: Option<Raw>,
    values_at: Option<Instant>,
    before: PreviousSample,
    health: ModuleHealth,
    failures: u32,
    /// How often in a row its program was still being written.
    written: u32,
}

/// What fields were, by module and field, the latest last.
pub type FieldHistory = HashMap<String, HashMap<String, Vec<f64>>>;

/// A module that is seen: its feed, and which of its fields are kept, and how far back.
struct ActiveModule {
    feed: usize,
    module: Module,
    past: Vec<(String, usize)>,
}

/// The sources of the modules that bars and widgets show.
pub struct Engine {
    feeds: Vec<Feed>,
    modules: IndexMap<String, ActiveModule>,
    known: ModuleValues,
    /// What fields were before this began, until they say something.
    recalled: FieldHistory,
    kernel: Kernel,
    wall: fn(Instant) -> Duration,
}

impl std::fmt::Debug for Engine {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Engine").field("feeds", &self.feeds.len()).field("modules", &self.modules.len()).finish_non_exhaustive()
    }
}

/// How soon a program that is still being written (`ETXTBSY`) is tried again, and how often.
const WRITER_DELAY: Duration = Duration::from_millis(50);
const MAX_WRITER_TRIES: u32 = 40;

/// What falls due within this time is asked in one go: the two clocks never agree to the microsecond.
const COALESCE_TIMEOUT: Duration = Duration::from_millis(3);
/// What fails is asked again after no longer than this, or its own interval when that is longer.
const MAX_RETRY_DELAY: Duration = Duration::from_secs(300);

/// Whether a source is asked of the computer; the others change with the desk.
fn asked(kind: &SourceKind) -> bool {
    match kind {
        SourceKind::BuiltIn(built_in) => !built_in.of_desk(),
        SourceKind::None => false,
        SourceKind::Run(_) | SourceKind::File(_) | SourceKind::Stream(_) => true,
    }
}

/// The program that plays the mixer, which ships with this one: beside it, else on PATH.
fn mixer() -> Vec<String> {
    const NAME: &str = "jovrik-mixer";
    let beside = std::env::current_exe().ok().and_then(|exe| Some(exe.parent()?.join(NAME))).filter(|path| path.is_file());
    let program = beside.map_or_else(|| NAME.to_owned(), |path| path.display().to_string());
    vec![program, "follow".to_owned()]
}

/// The program whose lines are a source's values.
pub(crate) fn streams(kind: &SourceKind) -> Option<Vec<String>> {
    match kind {
        SourceKind::Stream(argv) => Some(argv.clone()),
        SourceKind::BuiltIn(BuiltInSource::Volume) => Some(mixer()),
        _ => None,
    }
}

/// Whether a widget shows something of a module.
fn shows(rice: &Rice, widget: &Widget, name: &str) -> bool {
    module_of(rice, widget).is_some_and(|(own, _)| own == name) || widget.modules().any(|own| own == name)
}

/// The fields of a module of which lines are drawn, and how long those are.
fn past_wanted(rice: &Rice, name: &str, module: &Module) -> Vec<(String, usize)> {
    let mut past: Vec<(String, usize)> =
        module.patterns().flat_map(|pattern| pattern.past()).map(|(field, len)| (field.to_owned(), len)).collect();
    for widget in rice.widget.values().filter(|widget| widget.kind == WidgetKind::Graph && widget.module == name) {
        past.extend(widget.text.iter().flat_map(|text| text.past()).map(|(field, len)| (field.to_owned(), len)));
        // Which of its fields is drawn may be seen from its values alone.
        let fields = if widget.field.is_empty() { &NUMBERS[..] } else { &[widget.field.as_str()] };
        let len = usize::try_from(widget.samples.0).unwrap_or(MAX_PAST_VALUES);
        past.extend(fields.iter().map(|field| ((*field).to_owned(), len)));
    }
    // Of several the longest.
    past.sort_by(|(a, long), (b, other)| a.cmp(b).then(other.cmp(long)));
    past.dedup_by(|(a, _), (b, _)| a == b);
    past
}

/// Time since 1970 by the computer's clock.
fn clock(_: Instant) -> Duration {
    SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default()
}

impl Engine {
    /// The sources of a rice, all due at once.
    pub fn new(rice: &Rice, now: Instant) -> Engine {
        Engine::with(rice, now, Kernel::default(), clock)
    }

    /// With another kernel, and another clock that tells the time of day.
    pub fn with(rice: &Rice, now: Instant, kernel: Kernel, wall: fn(Instant) -> Duration) -> Engine {
        let (feeds, modules) = (Vec::new(), IndexMap::new());
        let mut engine = Engine { feeds, modules, known: ModuleValues::new(), recalled: FieldHistory::new(), kernel, wall };
        engine.replace(rice, &|_| true, now);
        engine
    }

    /// Some modules alone, whether a bar shows them or not.
    pub fn of_modules(rice: &Rice, which: &dyn Fn(&str) -> bool, now: Instant) -> Engine {
        let (feeds, modules) = (Vec::new(), IndexMap::new());
        let mut engine = Engine {
            feeds,
            modules,
            known: ModuleValues::new(),
            recalled: FieldHistory::new(),
            kernel: Kernel::default(),
            wall: clock,
        };
        engine.take(rice, which, now);
        engine
    }

    /// Takes over the modules of changed settings, of those bars that are seen; what did not change goes on as it was.
    pub fn replace(&mut self, rice: &Rice, seen: &dyn Fn(&str) -> bool, now: Instant) {
        let bars = || rice.bar.iter().filter(|(bar, _)| seen(bar)).flat_map(|(_, bar)| bar.modules());
        let shown = |name: &str| {
            bars().any(|module| {
                module == name || rice.module.get(module).is_some_and(|head| head.group.iter().any(|own| own == name))
            }) || rice.widget.values().any(|widget| shows(rice, widget, name))
        };
        self.take(rice, &shown, now);
    }

    fn take(&mut self, rice: &Rice, shown: &dyn Fn(&str) -> bool, now: Instant) {
        let mut old = std::mem::take(&mut self.feeds);
        let old_modules = std::mem::take(&mut self.modules);
        for (name, module) in rice.module.iter().filter(|(name, module)| asked(&module.source.kind) && shown(name)) {
            let at = match self.feeds.iter().position(|feed| feed.source == module.source) {
                Some(at) => at,
                None => {
                    let kept = old.iter().position(|feed| feed.source == module.source).map(|at| old.swap_remove(at));
                    self.feeds.push(kept.unwrap_or_else(|| Feed::new(module.source.clone(), now)));
                    self.feeds.len() - 1
                }
            };
            let same =
                old_modules.get(name).is_some_and(|old| old.module.source == module.source && old.module.pick == module.pick);
            if !same {
                self.known.shift_remove(name);
            }
            let past = past_wanted(rice, name, module);
            self.modules.insert(name.clone(), ActiveModule { feed: at, module: module.clone(), past });
        }
        let modules = &self.modules;
        self.known.retain(|name, _| modules.contains_key(name));
        // What was read for others serves those who come new.
        for at in 0..self.feeds.len() {
            self.spread(at, false);
        }
    }

    /// The values of all modules.
    pub fn known(&self) -> &ModuleValues {
        &self.known
    }

    /// What fields were, for the graphs of a rice that are to be remembered.
    pub fn past(&self, rice: &Rice) -> FieldHistory {
        let of_module = |(name, values): (&String, &Values)| {
            let asked = |widget: &Widget| widget.remember && shows(rice, widget, name);
            let fields = values.0.iter().filter_map(|(field, value)| match value {
                FieldValue::Past(numbers) => Some((field.strip_suffix(&past_of(""))?.to_owned(), numbers.clone())),
                _ => None,
            });
            rice.widget.values().any(asked).then(|| (name.clone(), fields.collect()))
        };
        self.known.iter().filter_map(of_module).collect()
    }

    /// Fields go on where they were before this began.
    pub fn recall(&mut self, past: FieldHistory) {
        self.recalled = past;
        for numbers in self.recalled.values_mut().flat_map(|fields| fields.values_mut()) {
            numbers.retain(|number| number.is_finite());
            numbers.truncate(MAX_PAST_VALUES);
        }
    }

    /// The clock was set: what shows the time is asked anew, and nothing waits for a moment that is far away by now.
    pub fn clock_set(&mut self, now: Instant) {
        let wall = (self.wall)(now);
        for feed in self.feeds.iter_mut().filter(|feed| feed.due.is_some()) {
            match feed.source.kind.is(BuiltInSource::Time) {
                true => feed.due = Some(now),
                false => feed.plan(now, wall),
            }
        }
    }

    /// What runs some command runs it anew, as if it had not run before; what it said last is shown until then.
    pub fn again(&mut self, meant: &dyn Fn(&[String]) -> bool, now: Instant) {
        for feed in self.feeds.iter_mut().filter(|feed| feed.source.kind.command().is_some_and(meant)) {
            let mut new = Feed::new(feed.source.clone(), now);
            (new.raw, new.values_at) = (feed.raw.take(), feed.values_at);
            *feed = new;
        }
    }

    /// When something is next to be done.
    pub fn next(&self) -> Option<Instant> {
        self.feeds.iter().filter_map(Feed::next).min()
    }

    /// What runs, and is to be waited on.
    pub fn fds(&self) -> impl Iterator<Item = BorrowedFd<'_>> {
        self.feeds.iter().flat_map(|feed| {
            let running = feed.running.iter().flat_map(RunningProgram::fds);
            let stream = feed.stream.iter().flat_map(Stream::fds);
            running.chain(stream).chain(feed.file.as_ref().and_then(Watched::fd))
        })
    }

    /// Asks what is due and reads what has come; whether a value changed.
    pub fn step(&mut self, now: Instant) -> bool {
        let mut changed = false;
        for at in 0..self.feeds.len() {
            let wall = (self.wall)(now);
            match self.feeds[at].step(&self.kernel, now, wall) {
                PollOutcome::Nothing => {}
                PollOutcome::New => changed |= self.spread(at, true),
                PollOutcome::Expired => {
                    for (name, _) in self.modules.iter().filter(|(_, shown)| shown.feed == at) {
                        changed |= self.known.shift_remove(name).is_some();
                    }
                }
            }
        }
        changed
    }

    /// Gives what a source said to the modules that show it. `again`: it was said anew, so that the past grows.
    fn spread(&mut self, at: usize, again: bool) -> bool {
        let Some(raw) = self.feeds[at].raw.clone() else { return false };
        let mut changed = false;
        for (name, shown) in self.modules.iter().filter(|(_, shown)| shown.feed == at) {
            if !again && self.known.contains_key(name) {
                continue;
            }
            let values = match &raw {
                Raw::Fields(values) => Ok(values.clone()),
                Raw::Text(text) => Values::of_output(text, &shown.module.picks()),
            };
            match values {
                Ok(mut values) => {
                    for (field, len) in shown.past.iter().map(|(field, len)| (field.as_str(), *len)) {
                        let Some(number) = values.0.get(field).and_then(FieldValue::number) else { continue };
                        let before = self.known.get(name).and_then(|values| values.0.get(&past_of(field)));
                        let mut past = match before {
                            Some(FieldValue::Past(past)) => past.clone(),
                            _ => self.recalled.get_mut(name).and_then(|fields| fields.remove(field)).unwrap_or_default(),
                        };
                        past.push(number);
                        let spare = past.len().saturating_sub(len.min(MAX_PAST_VALUES));
                        past.drain(..spare);
                        values = values.and(&past_of(field), FieldValue::Past(past));
                    }
                    changed |= self.known.get(name) != Some(&values);
                    self.known.insert(name.clone(), values);
                }
                Err(why) => self.feeds[at].health.trouble = Some(why.to_string()),
            }
        }
        changed
    }

    /// How each module is.
    pub fn health(&self, now: Instant) -> IndexMap<String, ModuleHealth> {
        let health =
            |feed: &Feed| ModuleHealth { age: feed.values_at.map(|at| now.saturating_duration_since(at)), ..feed.health.clone() };
        self.modules.iter().map(|(name, shown)| (name.clone(), health(&self.feeds[shown.feed]))).collect()
    }
}

/// What a step brought.
enum PollOutcome {
    Nothing,
    New,
    Expired,
}

impl Drop for Feed {
    fn drop(&mut self) {
        self.running = None;
        self.stream = None;
        self.family.end_all();
    }
}

impl Feed {
    fn new(source: ModuleSource, now: Instant) -> Feed {
        let file = match &source.kind {
            SourceKind::File(path) => Some(Watched::new(expanded(path))),
            _ => None,
        };
        Feed {
            source,
            due: Some(now),
            running: None,
            stream: None,
            family: Rc::new(ProcessTree::new()),
            file,
            raw: None,
            values_at: None,
            before: PreviousSample::default(),
            health: ModuleHealth::default(),
            failures: 0,
            written: 0,
        }
    }

    /// When the last good value is too old.
    fn expires(&self) -> Option<Instant> {
        self.raw.as_ref()?;
        Some(self.values_at? + self.source.keep?.0)
    }

    fn next(&self) -> Option<Instant> {
        let doing = match (&self.running, &self.stream) {
            (Some(running), _) => Some(running.deadline),
            (None, Some(stream)) => stream.quiet_until,
            (None, None) => self.due,
        };
        doing.into_iter().chain(self.expires()).min()
    }

    fn step(&mut self, kernel: &Kernel, now: Instant, wall: Duration) -> PollOutcome {
        if let Some(running) = &mut self.running {
            if let Some(outcome) = running.step(now) {
                self.health.took = Some(now.saturating_duration_since(running.began));
                self.health.complaint = running.complaint();
                self.running = None;
                let new = self.take(outcome, now);
                self.plan(now, wall);
                return if new { PollOutcome::New } else { PollOutcome::Nothing };
            }
        } else if self.stream.is_some() {
            if self.read_stream(now) {
                return PollOutcome::New;
            }
        } else {
            let due = self.due.is_some_and(|due| due <= now + COALESCE_TIMEOUT) || self.file.as_ref().is_some_and(Watched::saved);
            if due && self.ask(kernel, now, wall) {
                return PollOutcome::New;
            }
        }
        if self.expires().is_some_and(|expires| expires <= now) {
            self.raw = None;
            self.values_at = None;
            return PollOutcome::Expired;
        }
        PollOutcome::Nothing
    }

    fn read_stream(&mut self, now: Instant) -> bool {
        let Some(stream) = &mut self.stream else { return false };
        let news = stream.step(now);
        if !matches!(news, News::None) {
            self.health.complaint = stream.complaint();
        }
        match news {
            News::None => false,
            News::Line(line) => {
                self.health.asked += 1;
                self.keep(Raw::Text(line), now);
                true
            }
            News::Ended(line, how) => {
                self.stream = None;
                let new = line.is_some();
                if let Some(line) = line {
                    self.keep(Raw::Text(line), now);
                }
                self.fail(how);
                // A second, then twice as long each time.
                self.due = Some(now + Duration::from_secs(1 << self.failures.min(8).saturating_sub(1)));
                new
            }
        }
    }

    /// Asks; whether there is an answer at once.
    fn ask(&mut self, kernel: &Kernel, now: Instant, wall: Duration) -> bool {
        if let Some(argv) = streams(&self.source.kind) {
            self.due = None;
            match Stream::start(&argv, &self.family) {
                Ok(stream) => self.stream = Some(stream),
                Err(why) if self.waits_for_writer(&why, now) => {}
                Err(why) => {
                    self.fail(why.to_string());
                    self.due = Some(now + Duration::from_secs(1 << self.failures.min(8)));
                }
            }
            return false;
        }
        self.health.asked += 1;
        let answer = match &self.source.kind {
            SourceKind::Run(argv) => {
                match RunningProgram::start(argv, &self.family, self.source.within.0, now) {
                    Ok(running) => self.running = Some(running),
                    Err(why) if self.waits_for_writer(&why, now) => {}
                    Err(why) => {
                        self.fail(why.to_string());
                        self.plan(now, wall);
                    }
                }
                return false;
            }
            SourceKind::File(_) => {
                let path = self.file.as_ref().map(Watched::path);
                path.map_or(Ok(None), |path| content(path).map(|text| Some(Raw::Text(text))))
            }
            SourceKind::BuiltIn(built_in) => {
                let answer = kernel.ask(*built_in, &self.source.of, &mut self.before, now);
                answer.map(|values| values.map(Raw::Fields))
            }
            SourceKind::None | SourceKind::Stream(_) => Ok(None),
        };
        let new = match answer {
            Ok(Some(raw)) => {
                self.keep(raw, now);
                true
            }
            Ok(None) => false,
            Err(why) => {
                self.fail(why.to_string());
                false
            }
        };
        self.plan(now, wall);
        // The first reading of the processor has nothing to compare with.
        if self.source.kind.is(BuiltInSource::Cpu) && self.raw.is_none() && self.failures == 0 {
            self.due = Some(now + Duration::from_millis(250).min(self.source.every.0));
        }
        new
    }

    fn take(&mut self, outcome: Outcome, now: Instant) -> bool {
        match outcome {
            Outcome::Printed(text) => {
                self.keep(Raw::Text(text), now);
                true
            }
            Outcome::Failed(why) => {
                self.fail(why);
                false
            }
        }
    }

    /// Whether the program is still being written and so is tried again soon; for so long only.
    fn waits_for_writer(&mut self, why: &SourceError, now: Instant) -> bool {
        if !matches!(why, SourceError::BeingWritten(_)) || self.written >= MAX_WRITER_TRIES {
            self.written = 0;
            return false;
        }
        self.written += 1;
        self.due = Some(now + WRITER_DELAY);
        true
    }

    fn fail(&mut self, why: String) {
        self.health.trouble = Some(why);
        self.failures += 1;
    }

    fn keep(&mut self, raw: Raw, now: Instant) {
        self.health.trouble = None;
        self.failures = 0;
        self.written = 0;
        self.values_at = Some(now);
        self.raw = Some(raw);
    }

    /// The next time, on whole multiples of the interval by the clock, so that polls fall due together; failures wait longer.
    fn plan(&mut self, now: Instant, wall: Duration) {
        let every = self.source.every.0;
        if every.is_zero() {
            self.due = None;
            return;
        }
        let longer = every * 2_u32.pow(self.failures.min(8));
        let every = longer.min(MAX_RETRY_DELAY.max(every));
        let past = Duration::from_nanos((wall.as_nanos() % every.as_nanos()) as u64);
        // A little early counts as this time, not as another.
        let left = if every - past <= COALESCE_TIMEOUT { every - past + every } else { every - past };
        self.due = Some(now + left + Duration::from_millis(1));
    }
}
