//! One reader at work: presses go in, what they do comes out. The live desktop and every trace run this one machine.

use foldhash::{HashMap, HashSet, HashSetExt};
use jovrik_values::action::Action;
use jovrik_values::chord::sym_name;

use super::conflict::ways;
use super::keyboard::{KeyCombo, KeyboardLayout};
use super::scope::{BindingTarget, Scopes};
use crate::rice::UnboundKeyPolicy;

/// What a reader did with a press.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MatchResult {
    /// It is bound, by its number in [`Scopes::bound`].
    Act(usize),
    /// It begins or goes on with a sequence.
    Wait,
    /// It means nothing, and nobody else gets it.
    Consumed(ConsumeReason),
    /// It is not theirs: it goes on.
    Passed,
}

/// Why a press that means nothing is kept from everybody else.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ConsumeReason {
    /// The mode eats what it does not bind.
    Mode,
    /// The mode is left by it.
    LeavesMode,
    /// It ends a sequence that has no such step.
    EndsSequence,
    /// What is bound happens when the keys come up.
    Release,
    /// What is bound happens once, however long the keys are held.
    Held,
}

/// The presses of one table.
#[derive(Debug, Clone, Default)]
struct Bindings {
    bound: HashMap<Vec<KeyCombo>, usize>,
    released: HashMap<Vec<KeyCombo>, usize>,
    /// The beginnings of sequences: a binding that begins so, and how many chords of it.
    starts: HashMap<Vec<KeyCombo>, (usize, usize)>,
}

/// One reader of the keyboard on one layout.
#[derive(Debug, Clone, Default)]
pub struct BindingMatcher {
    plain: usize,
    tables: HashMap<usize, Bindings>,
    modes: HashMap<String, (usize, UnboundKeyPolicy)>,
    /// Keys that work in every mode.
    media: HashSet<u32>,
    escape: HashSet<u32>,
    /// Which of the bindings are done again while held.
    repeats: HashSet<usize>,
    /// Keys that are down, and what is done when they come up.
    down: HashMap<u32, usize>,
    /// The mode that holds.
    pub mode: Option<String>,
    /// The presses of the sequence so far.
    pub so_far: Vec<KeyCombo>,
    /// The table that it goes on in: one that a media key begins goes on outside of the mode that holds.
    within: usize,
}

impl BindingMatcher {
    /// A reader, by its number in [`Scopes::readers`], on a keyboard; and the bindings that this keyboard cannot make.
    pub fn new(scopes: &Scopes, reader: usize, keyboard: &KeyboardLayout) -> (BindingMatcher, Vec<usize>) {
        let own = &scopes.readers[reader];
        let prefixes = own.prefix.as_ref().map(|keys| ways(keys, keyboard)).unwrap_or_default();
        let mut listener = BindingMatcher { plain: own.tables[0], ..BindingMatcher::default() };
        for at in &own.tables {
            listener.tables.entry(*at).or_default();
            if let Some(mode) = &scopes.tables[*at].mode {
                listener.modes.insert(mode.clone(), (*at, scopes.tables[*at].others));
            }
        }
        // A reader that has nothing but modes is always in one of them.
        let plain = scopes.bound.iter().any(|bound| bound.table == own.tables[0]);
        if reader > 0 && !plain {
            listener.mode = own.tables.iter().find_map(|at| scopes.tables[*at].mode.clone());
        }
        let mut cannot = Vec::new();
        let mut silent: HashSet<(usize, Vec<KeyCombo>)> = HashSet::new();
        // In order of the rice, what programs bind by themselves last: the last written one wins, and wins over those.
        for (at, bound) in scopes.bound.iter().enumerate().filter(|(_, bound)| own.tables.contains(&bound.table)) {
            let table = &scopes.tables[bound.table];
            if table.prefix {
                continue;
            }
            let all = ways(&bound.keys, keyboard);
            if all.is_empty() && bound.lives() && bound.holds {
                cannot.push(at);
            }
            let lead: Vec<Vec<KeyCombo>> = if table.after_prefix { prefixes.clone() } else { vec![Vec::new()] };
            let bindings = listener.tables.entry(bound.table).or_default();
            for way in lead.iter().flat_map(|lead| all.iter().map(move |way| [lead.as_slice(), way].concat())) {
                let side = if bound.release { &mut bindings.released } else { &mut bindings.bound };
                if !bound.lives() {
                    side.remove(&way);
                    silent.insert((bound.table, way));
                    continue;
                }
                let taken = bound.known && (side.contains_key(&way) || silent.contains(&(bound.table, way.clone())));
                if !bound.holds || taken {
                    continue;
                }
                for len in 1..way.len() {
                    let chords = len.saturating_sub(way.len() - bound.keys.0.len());
                    bindings.starts.entry(way[..len].to_vec()).or_insert((at, chords));
                }
                side.insert(way, at);
            }
            if bound.repeat {
                listener.repeats.insert(at);
            }
        }
        for cap in &keyboard.caps {
            let plain = cap.levels.first().map(|(sym, _)| sym_name(*sym)).unwrap_or_default();
            if plain.starts_with("XF86") {
                listener.media.insert(cap.code);
            } else if plain == "Escape" {
                listener.escape.insert(cap.code);
            }
        }
        (listener, cannot)
    }

    /// Takes over where another one was, such as one for another layout.
    pub fn like(mut self, other: &BindingMatcher) -> BindingMatcher {
        self.mode = other.mode.clone().filter(|mode| self.modes.contains_key(mode));
        self.so_far = other.so_far.clone();
        self.within = if other.within == other.plain { self.plain } else { self.current().0 };
        // What was begun may be the beginning of nothing now.
        if self.waiting().is_none() {
            self.so_far.clear();
        }
        self.down = other.down.clone();
        self
    }

    /// Whether there is a mode of this name.
    pub fn has_mode(&self, mode: &str) -> bool {
        self.modes.contains_key(mode)
    }

    /// Enters a mode, or leaves the one that holds; whether there is such a mode.
    pub fn enter(&mut self, mode: Option<&str>) -> bool {
        self.so_far.clear();
        let known = mode.is_none_or(|mode| self.modes.contains_key(mode));
        if known {
            self.mode = mode.map(str::to_owned);
        }
        known
    }

    fn current(&self) -> (usize, UnboundKeyPolicy) {
        let mode = self.mode.as_ref().and_then(|mode| self.modes.get(mode));
        mode.copied().unwrap_or((self.plain, UnboundKeyPolicy::Pass))
    }

    /// Keys go down. `again`: they are held, and the keyboard repeats them.
    pub fn press(&mut self, press: KeyCombo, again: bool) -> MatchResult {
        let (table, others) = self.current();
        let waiting = !self.so_far.is_empty();
        self.within = if waiting { self.within } else { table };
        // A step of a sequence that is held is that step, once.
        if again && self.so_far.last().is_some_and(|last| last.key == press.key) {
            return MatchResult::Consumed(ConsumeReason::Held);
        }
        if waiting && self.escape.contains(&press.key) && press.modifiers.is_empty() {
            let mut with = self.so_far.clone();
            with.push(press);
            let bound =
                self.tables.get(&self.within).is_some_and(|one| one.bound.contains_key(&with) || one.starts.contains_key(&with));
            if !bound {
                self.so_far.clear();
                return MatchResult::Consumed(ConsumeReason::EndsSequence);
            }
        }
        self.so_far.push(press);
        let mut heard = self.look();
        // Media keys work in every mode.
        if heard.is_none() && !waiting && table != self.plain && self.media.contains(&press.key) {
            self.within = self.plain;
            heard = self.look();
        }
        if heard != Some(MatchResult::Wait) {
            self.so_far.clear();
        }
        match heard {
            Some(MatchResult::Act(at)) if again && !self.repeats.contains(&at) => MatchResult::Consumed(ConsumeReason::Held),
            Some(heard) => heard,
            None if waiting => MatchResult::Consumed(ConsumeReason::EndsSequence),
            None => match others {
                UnboundKeyPolicy::Pass => MatchResult::Passed,
                UnboundKeyPolicy::Eat => MatchResult::Consumed(ConsumeReason::Mode),
                UnboundKeyPolicy::Leave => {
                    self.mode = None;
                    MatchResult::Consumed(ConsumeReason::LeavesMode)
                }
            },
        }
    }

    fn look(&mut self) -> Option<MatchResult> {
        let bindings = self.tables.get(&self.within)?;
        let released = bindings.released.get(&self.so_far).copied();
        if let (Some(at), Some(last)) = (released, self.so_far.last()) {
            self.down.insert(last.key, at);
        }
        if let Some(at) = bindings.bound.get(&self.so_far) {
            return Some(MatchResult::Act(*at));
        }
        if bindings.starts.contains_key(&self.so_far) {
            return Some(MatchResult::Wait);
        }
        released.map(|_| MatchResult::Consumed(ConsumeReason::Release))
    }

    /// Whether a key is down whose coming up is bound.
    pub fn holds_keys(&self) -> bool {
        !self.down.is_empty()
    }

    /// Keys that are down do nothing when they come up: other things are bound now.
    pub fn forget(&mut self) {
        self.down.clear();
    }

    /// A key comes up: what is bound to that.
    pub fn release(&mut self, key: u32) -> Option<usize> {
        self.down.remove(&key)
    }

    /// The binding that the sequence so far may become, and how many of its chords there are; nothing outside of one.
    pub fn waiting(&self) -> Option<(usize, usize)> {
        self.tables.get(&self.within)?.starts.get(&self.so_far).copied()
    }

    /// The presses that the server must hand over, unless the mode that holds keeps every key to itself.
    pub fn grabs(&self) -> HashSet<KeyCombo> {
        let mut grabs = HashSet::new();
        let mut add = |table: usize, only: Option<&HashSet<u32>>| {
            let Some(bindings) = self.tables.get(&table) else { return };
            for first in bindings.bound.keys().chain(bindings.released.keys()).filter_map(|way| way.first()) {
                if only.is_none_or(|only| only.contains(&first.key)) {
                    grabs.insert(*first);
                }
            }
        };
        let (table, _) = self.current();
        add(table, None);
        if table != self.plain {
            add(self.plain, Some(&self.media));
        }
        grabs
    }

    /// Whether the mode that holds keeps every key to itself.
    pub fn keeps_all(&self) -> bool {
        self.current().1 != UnboundKeyPolicy::Pass
    }
}

impl Scopes {
    /// What a binding of the desk does, if it is one.
    pub fn action(&self, bound: usize) -> Option<&Action> {
        match &self.bound.get(bound)?.what {
            BindingTarget::Act(action) => Some(action),
            BindingTarget::Says(_) | BindingTarget::Prefix => None,
        }
    }
}
