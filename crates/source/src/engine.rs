//! All sources of a rice: what is due when, what runs, the last values.

use std::os::fd::BorrowedFd;
use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use indexmap::IndexMap;
use jovrik_core::bar::{Known, Values};
use jovrik_core::rice::{Module, Rice, SourceKind};

use crate::command::{Outcome, Running};
use crate::machine::{Ticks, load, memory, ticks, time};

/// How a module's source is.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ModuleHealth {
    /// Why the last asking gave no value.
    pub trouble: Option<String>,
    /// How old the value is; nothing when there is none.
    pub age: Option<Duration>,
    /// How often it was asked.
    pub asked: u64,
}

struct Source {
    module: Module,
    due: Option<Instant>,
    running: Option<Running>,
    values_at: Option<Instant>,
    trouble: Option<String>,
    ticks: Option<Ticks>,
    asked: u64,
    failures: u32,
}

/// The sources of the modules that bars show.
pub struct Engine {
    sources: IndexMap<String, Source>,
    known: Known,
}

impl std::fmt::Debug for Engine {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Engine").field("sources", &self.sources.len()).finish_non_exhaustive()
    }
}

/// What falls due within this time is asked in one go: the two clocks never agree to the microsecond.
const TOGETHER: Duration = Duration::from_millis(3);

/// Whether a source is asked at times; the others change with the desk.
fn polled(kind: &SourceKind) -> bool {
    matches!(kind, SourceKind::Time | SourceKind::Cpu | SourceKind::Memory | SourceKind::Run(_))
}

impl Engine {
    /// The sources of a rice, all due at once.
    pub fn new(rice: &Rice, now: Instant) -> Engine {
        let mut engine = Engine { sources: IndexMap::new(), known: Known::new() };
        engine.replace(rice, now);
        engine
    }

    /// Takes over the modules of changed settings; what did not change goes on as it was.
    pub fn replace(&mut self, rice: &Rice, now: Instant) {
        let mut old = std::mem::take(&mut self.sources);
        let shown = |name: &String| {
            rice.bar.values().any(|bar| [&bar.start, &bar.middle, &bar.end].iter().any(|list| list.contains(name)))
        };
        for (name, module) in rice.module.iter().filter(|(name, module)| polled(&module.source.kind) && shown(name)) {
            let kept = old
                .shift_remove(name)
                .filter(|source| source.module.source == module.source && source.module.pick == module.pick);
            let source = match kept {
                Some(source) => Source { module: module.clone(), ..source },
                None => {
                    self.known.shift_remove(name);
                    Source {
                        module: module.clone(),
                        due: Some(now),
                        running: None,
                        values_at: None,
                        trouble: None,
                        ticks: None,
                        asked: 0,
                        failures: 0,
                    }
                }
            };
            self.sources.insert(name.clone(), source);
        }
        let sources = &self.sources;
        self.known.retain(|name, _| sources.contains_key(name));
    }

    /// The values of all modules.
    pub fn known(&self) -> &Known {
        &self.known
    }

    /// When something is next to be done.
    pub fn next(&self) -> Option<Instant> {
        let due = self.sources.values().filter_map(|source| match &source.running {
            Some(running) => Some(running.deadline),
            None => source.due,
        });
        due.min()
    }

    /// What runs, and is to be waited on.
    pub fn fds(&self) -> impl Iterator<Item = BorrowedFd<'_>> {
        self.sources.values().filter_map(|source| source.running.as_ref().map(Running::fd))
    }

    /// Asks what is due and reads what has come; whether a value changed.
    pub fn step(&mut self, now: Instant) -> bool {
        let mut changed = false;
        for (name, source) in &mut self.sources {
            if let Some(running) = &mut source.running {
                if let Some(outcome) = running.step(now) {
                    source.running = None;
                    changed |= source.take(name, outcome, now, &mut self.known);
                    source.plan(now);
                }
            } else if source.due.is_some_and(|due| due <= now + TOGETHER) {
                changed |= source.ask(name, now, &mut self.known);
            }
        }
        changed
    }

    /// How each module is.
    pub fn health(&self, now: Instant) -> IndexMap<String, ModuleHealth> {
        let health = |source: &Source| ModuleHealth {
            trouble: source.trouble.clone(),
            age: source.values_at.map(|at| now.saturating_duration_since(at)),
            asked: source.asked,
        };
        self.sources.iter().map(|(name, source)| (name.clone(), health(source))).collect()
    }
}

impl Source {
    fn ask(&mut self, name: &str, now: Instant, known: &mut Known) -> bool {
        self.asked += 1;
        let values = match &self.module.source.kind {
            SourceKind::Time => Some(time()),
            SourceKind::Cpu => {
                let reading = std::fs::read_to_string("/proc/stat").ok().and_then(|stat| ticks(&stat));
                let before = std::mem::replace(&mut self.ticks, reading);
                before.zip(reading).map(|(before, now)| load(before, now))
            }
            SourceKind::Memory => std::fs::read_to_string("/proc/meminfo").ok().and_then(|info| memory(&info)),
            SourceKind::Run(argv) => {
                match Running::start(argv, self.module.source.within.0, now) {
                    Ok(running) => self.running = Some(running),
                    Err(why) => self.fail(why),
                }
                if self.running.is_none() {
                    self.plan(now);
                }
                return false;
            }
            _ => None,
        };
        self.plan(now);
        // The first reading of the processor has nothing to compare with.
        if self.module.source.kind == SourceKind::Cpu && values.is_none() {
            self.due = Some(now + Duration::from_millis(250).min(self.module.source.every.0));
        }
        values.is_some_and(|values| self.keep(name, values, now, known))
    }

    fn take(&mut self, name: &str, outcome: Outcome, now: Instant, known: &mut Known) -> bool {
        let values = match outcome {
            Outcome::Printed(text) => Values::of_output(&text, &self.module.pick),
            Outcome::Failed(why) => Err(why),
        };
        match values {
            Ok(values) => self.keep(name, values, now, known),
            Err(why) => {
                self.fail(why);
                false
            }
        }
    }

    fn fail(&mut self, why: String) {
        self.trouble = Some(why);
        self.failures += 1;
    }

    fn keep(&mut self, name: &str, values: Values, now: Instant, known: &mut Known) -> bool {
        self.trouble = None;
        self.failures = 0;
        self.values_at = Some(now);
        let changed = known.get(name) != Some(&values);
        known.insert(name.to_owned(), values);
        changed
    }

    /// The next time, on whole multiples of the interval by the clock, so that polls fall due together; failures wait longer.
    fn plan(&mut self, now: Instant) {
        let every = self.module.source.every.0;
        if every.is_zero() {
            self.due = None;
            return;
        }
        let every = every * 2_u32.pow(self.failures.min(4));
        let clock = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default();
        let past = Duration::from_nanos((clock.as_nanos() % every.as_nanos()) as u64);
        // A little early counts as this time, not as another.
        let left = if every - past <= TOGETHER { every - past + every } else { every - past };
        self.due = Some(now + left + Duration::from_millis(1));
    }
}
