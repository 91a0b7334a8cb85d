//! One press followed inwards: who is asked, what each does, who gets it.

use jovrik_values::action::Action;
use jovrik_values::chord::ChordSequence;

use super::binding_matcher::{BindingMatcher, ConsumeReason, MatchResult};
use super::keyboard::{KeyCombo, KeyboardLayout};
use super::scope::{BindingTarget, Scopes};

/// Where a press begins.
#[derive(Debug, Clone, Default)]
pub struct TraceContext {
    /// The app name of the focused window, or the name of a scope that is open in it; the first scope's when nobody says.
    pub focus: Option<String>,
    /// Modes that hold, each for the scope that has it: `sizing`, `editor:normal`.
    pub modes: Vec<String>,
}

/// What a reader did with a press.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reaction {
    /// It is bound here, and done.
    Takes(usize),
    /// It begins or goes on with a sequence; one binding that it may become.
    Waits(usize),
    /// It does nothing, and nobody else gets it.
    Eats(ConsumeReason),
    /// It is not theirs.
    Passes,
    /// It would have been done, had somebody else not taken it.
    Misses(usize),
    /// It was not asked, and would have done nothing.
    NotAsked,
}

/// One reader's part.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Answer {
    /// The reader, by its number.
    pub reader: usize,
    /// The mode it was in.
    pub mode: Option<String>,
    /// What it did.
    pub reaction: Reaction,
}

/// One press and what became of it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TraceStep {
    /// The press.
    pub press: KeyCombo,
    /// Who takes it before any desktop is asked.
    pub reserved: Option<&'static str>,
    /// What the readers did, from the desk inwards.
    pub answers: Vec<Answer>,
}

impl TraceStep {
    /// Who got it: the reader and what it did.
    pub fn taker(&self) -> Option<(usize, Reaction)> {
        let took = |answer: &&Answer| matches!(answer.reaction, Reaction::Takes(_) | Reaction::Waits(_) | Reaction::Eats(_));
        self.answers.iter().find(took).map(|answer| (answer.reader, answer.reaction))
    }
}

/// Why a press cannot be followed.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum TraceError {
    /// No key makes a chord.
    #[error("no key of the layout {1} makes {0}")]
    NoKey(String, String),
    /// No scope has this mode.
    #[error("no scope has a mode {0}")]
    NoMode(String),
}

/// Readers that are asked for one press after another.
#[derive(Debug, Clone)]
pub struct Tracer<'a> {
    scopes: &'a Scopes,
    keyboard: &'a KeyboardLayout,
    readers: Vec<(usize, BindingMatcher)>,
}

impl<'a> Tracer<'a> {
    /// The readers that are open, in the modes that are asked for.
    pub fn new(scopes: &'a Scopes, keyboard: &'a KeyboardLayout, asking: &TraceContext) -> Result<Tracer<'a>, TraceError> {
        let open = scopes.open(asking.focus.as_deref());
        let mut readers: Vec<(usize, BindingMatcher)> =
            open.into_iter().map(|reader| (reader, BindingMatcher::new(scopes, reader, keyboard).0)).collect();
        for asked in &asking.modes {
            let (scope, mode) =
                asked.split_once(':').map_or((None, asked.as_str()), |(scope, mode)| (Some(scope.trim()), mode.trim()));
            let fits = |(reader, listener): &&mut (usize, BindingMatcher)| {
                listener.has_mode(mode) && scope.is_none_or(|scope| scopes.readers[*reader].name == scope)
            };
            match readers.iter_mut().find(fits) {
                Some((_, listener)) => listener.enter(Some(mode)),
                // Plain is no mode at all.
                None if mode == "plain" => true,
                None => return Err(TraceError::NoMode(asked.clone())),
            };
        }
        Ok(Tracer { scopes, keyboard, readers })
    }

    /// The readers that are asked, with their modes.
    pub fn readers(&self) -> impl Iterator<Item = (usize, Option<&str>)> {
        self.readers.iter().map(|(reader, listener)| (*reader, listener.mode.as_deref()))
    }

    /// Follows chords, one press after another.
    pub fn follow(&mut self, keys: &ChordSequence) -> Result<Vec<TraceStep>, TraceError> {
        let one = |tracer: &mut Self, chord: &jovrik_values::chord::Chord| {
            let press = tracer.keyboard.presses(chord).first().copied();
            let press = press.ok_or_else(|| TraceError::NoKey(chord.to_string(), tracer.keyboard.layout.clone()))?;
            Ok(tracer.press(press))
        };
        keys.0.iter().map(|chord| one(self, chord)).collect()
    }

    /// One press.
    pub fn press(&mut self, press: KeyCombo) -> TraceStep {
        let reserved = self.keyboard.reserved(press);
        let mut taken = reserved.is_some();
        let mut answers = Vec::new();
        for (reader, listener) in &mut self.readers {
            let mode = listener.mode.clone();
            let reaction = if taken {
                match listener.clone().press(press, false) {
                    MatchResult::Act(at) => Reaction::Misses(at),
                    MatchResult::Wait => {
                        let mut other = listener.clone();
                        other.press(press, false);
                        other.waiting().map_or(Reaction::NotAsked, |(at, _)| Reaction::Misses(at))
                    }
                    MatchResult::Consumed(_) | MatchResult::Passed => Reaction::NotAsked,
                }
            } else {
                let heard = listener.press(press, false);
                taken = heard != MatchResult::Passed;
                match heard {
                    MatchResult::Act(at) => Reaction::Takes(at),
                    MatchResult::Wait => listener.waiting().map_or(Reaction::Passes, |(at, _)| Reaction::Waits(at)),
                    MatchResult::Consumed(ConsumeReason::Release) => {
                        listener.release(press.key).map_or(Reaction::Eats(ConsumeReason::Release), Reaction::Takes)
                    }
                    MatchResult::Consumed(why) => Reaction::Eats(why),
                    MatchResult::Passed => Reaction::Passes,
                }
            };
            if let Reaction::Takes(at) = reaction
                && let Some(Action::Mode(mode)) = self.scopes.action(at)
            {
                listener.enter(mode.as_deref());
            }
            answers.push(Answer { reader: *reader, mode, reaction });
        }
        TraceStep { press, reserved, answers }
    }
}

/// A way to reach an action.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ActionRoute {
    /// The binding.
    pub bound: usize,
    /// Whether its keys arrive there.
    pub arrives: bool,
    /// Why they do not: who takes them, and what is done instead.
    pub instead: Option<(usize, Reaction)>,
    /// Whether no key makes them, or somebody takes them before any desktop is asked.
    pub never: Option<String>,
}

/// Every way to reach something, and whether it arrives.
pub fn ways_to(scopes: &Scopes, keyboard: &KeyboardLayout, wanted: &dyn Fn(usize) -> bool) -> Vec<ActionRoute> {
    let bound = scopes.bound.iter().enumerate();
    let all = bound.filter(|(at, bound)| bound.lives() && bound.what != BindingTarget::Prefix && wanted(*at));
    all.map(|(at, bound)| {
        let table = &scopes.tables[bound.table];
        let reader = &scopes.readers[table.scope];
        let modes = table.mode.iter().map(|mode| format!("{}:{mode}", reader.name)).collect();
        let asking = TraceContext { focus: Some(reader.name.clone()).filter(|_| table.scope > 0), modes };
        let lead = reader.prefix.iter().filter(|_| table.after_prefix).flat_map(|prefix| prefix.0.clone());
        let keys = ChordSequence(lead.chain(bound.keys.0.iter().cloned()).collect());
        let steps = Tracer::new(scopes, keyboard, &asking).and_then(|mut tracer| tracer.follow(&keys));
        match steps {
            Err(why) => ActionRoute { bound: at, arrives: false, instead: None, never: Some(why.to_string()) },
            Ok(steps) => {
                let reserved = steps.iter().find_map(|step| step.reserved);
                let last = steps.last().and_then(TraceStep::taker);
                let arrives = reserved.is_none() && matches!(last, Some((_, Reaction::Takes(taker))) if taker == at);
                // Whoever took a press from this reader on the way.
                let thief = steps.iter().filter_map(TraceStep::taker).find(|(taker, _)| *taker != table.scope).or(last);
                ActionRoute { bound: at, arrives, instead: thief.filter(|_| !arrives), never: reserved.map(str::to_owned) }
            }
        }
    })
    .collect()
}

impl Scopes {
    /// The readers that are open while a program has the focus, the desk first. A scope may be named instead: then those
    /// that lead to it.
    pub fn open(&self, focus: Option<&str>) -> Vec<usize> {
        if let Some(scope) = focus.and_then(|focus| self.readers.iter().position(|reader| reader.name == focus)) {
            let mut chain: Vec<usize> = std::iter::once(scope).chain(self.outers(scope)).collect();
            chain.reverse();
            return chain;
        }
        let focus = focus.map(str::to_lowercase);
        let first = || self.readers.iter().skip(1).find_map(|reader| reader.inside.as_ref());
        (0..self.readers.len())
            .filter(|reader| match (&self.readers[*reader].inside, &focus) {
                (None, _) => true,
                (Some(inside), Some(focus)) => inside.matches(focus),
                (Some(inside), None) => first() == Some(inside),
            })
            .collect()
    }
}
