//! The places that bindings could have, made as they are asked for, the cheapest first; and what is taken.

use std::cell::RefCell;
use std::cmp::Reverse;
use std::collections::BinaryHeap;
use std::rc::Rc;

use foldhash::{HashMap, HashMapExt, HashSet};
use jovrik_values::chord::{Chord, ChordSequence, Modifiers};

use super::assign::{Offers, PricedCandidate};
use super::conflict::{ComboSequences, ways};
use super::keyboard::{KeyCombo, KeyboardLayout};
use super::scope::TableRelation;
use super::settle::SettleProblem;

/// Keys with their distances in hundredths of a key width, the nearest first.
pub(super) type Near = Rc<Vec<(i64, u32)>>;
/// What a chord costs, its key, its modifiers, the stream it is from, and how far that was followed.
pub(super) type HeapEntry = (i64, u32, u8, usize, usize);

/// Some chords, and how they are pressed on each layout.
#[derive(Debug)]
pub(super) struct Candidate {
    pub(super) keys: ChordSequence,
    pub(super) on: Vec<ComboSequences>,
}

/// The places that were looked at, each once.
#[derive(Debug, Default)]
pub(super) struct Places {
    pub(super) all: Vec<Rc<Candidate>>,
    pub(super) by_keys: HashMap<ChordSequence, usize>,
}

/// The choices for one chord of a binding, cheapest first, made as they are asked for.
pub(super) struct Choices {
    pub(super) made: Vec<(i64, Chord)>,
    pub(super) heap: BinaryHeap<Reverse<HeapEntry>>,
    pub(super) streams: Vec<(i64, Modifiers, Near)>,
    pub(super) old: KeyCombo,
}

/// The places of one binding, cheapest first, made as they are asked for.
pub(super) struct Mover {
    pub(super) home: usize,
    pub(super) base: i64,
    pub(super) weight: i64,
    pub(super) choices: Vec<Choices>,
    pub(super) heap: BinaryHeap<Reverse<(i64, Vec<usize>)>>,
    pub(super) queued: HashSet<Vec<usize>>,
    pub(super) made: Vec<PricedCandidate>,
    pub(super) started: bool,
    /// The only place it may have.
    pub(super) given: Option<usize>,
}

/// What those who do not move have taken, by layout.
#[derive(Default)]
pub(super) struct Taken {
    pub(super) whole: HashSet<(usize, usize, Vec<KeyCombo>)>,
    pub(super) starts: HashSet<(usize, usize, Vec<KeyCombo>)>,
    /// First presses of tables that are asked before others.
    pub(super) firsts: HashMap<(usize, KeyCombo), Vec<usize>>,
    /// All presses that tables further in need.
    pub(super) inner: HashMap<(usize, KeyCombo), Vec<usize>>,
    /// Movers that cannot stay beside those who do not move.
    pub(super) ousted: HashSet<usize>,
}

/// How many places a binding is tried at; sequences have more than anybody would want to see.
const TRIED: usize = 100_000;

/// All movers and what is in their way.
pub(super) struct CandidateSpace<'a> {
    pub(super) settling: &'a SettleProblem<'a>,
    pub(super) places: RefCell<Places>,
    pub(super) movers: HashMap<usize, Mover>,
    pub(super) taken: Taken,
    pub(super) nearby: HashMap<(u32, Vec<char>, bool), Near>,
}

impl Taken {
    pub(super) fn refuses(&self, settling: &SettleProblem<'_>, table: usize, place: &Candidate) -> bool {
        let scopes = settling.scopes;
        let meets = |tables: Option<&Vec<usize>>, wanted: TableRelation| {
            tables.into_iter().flatten().any(|other| scopes.meeting(*other, table) == wanted)
        };
        place.on.iter().enumerate().any(|(layout, ways)| {
            // A place must work on every layout.
            ways.is_empty()
                || ways.iter().any(|way| {
                    self.whole.contains(&(layout, table, way.clone()))
                        || self.starts.contains(&(layout, table, way.clone()))
                        || (1..way.len()).any(|len| self.whole.contains(&(layout, table, way[..len].to_vec())))
                        || way.iter().any(|press| meets(self.firsts.get(&(layout, *press)), TableRelation::Outer))
                        || (scopes.takes_first(table) && meets(self.inner.get(&(layout, way[0])), TableRelation::Inner))
                })
        })
    }
}

impl Choices {
    pub(super) fn get(&mut self, nth: usize, keyboard: &KeyboardLayout) -> Option<(i64, Chord)> {
        while self.made.len() <= nth {
            let Reverse((cost, key, modifiers, stream, at)) = self.heap.pop()?;
            let (base, _, keys) = &self.streams[stream];
            if let Some((far, next)) = keys.get(at + 1) {
                self.heap.push(Reverse((base + far, *next, modifiers, stream, at + 1)));
            }
            let press = KeyCombo { key, modifiers: Modifiers(modifiers) };
            if press != self.old && keyboard.reserved(press).is_none() {
                self.made.push((cost, keyboard.chord(press)));
            }
        }
        self.made.get(nth).cloned()
    }
}

impl CandidateSpace<'_> {
    pub(super) fn place(&self, keys: &ChordSequence) -> usize {
        if let Some(known) = self.places.borrow().by_keys.get(keys) {
            return *known;
        }
        let on = self.settling.keyboards.iter().map(|keyboard| ways(keys, keyboard)).collect();
        let mut places = self.places.borrow_mut();
        places.all.push(Rc::new(Candidate { keys: keys.clone(), on }));
        let at = places.all.len() - 1;
        places.by_keys.insert(keys.clone(), at);
        at
    }

    pub(super) fn at(&self, place: usize) -> Rc<Candidate> {
        self.places.borrow().all[place].clone()
    }

    /// The next place of a mover, whoever is in the way of it.
    pub(super) fn more(&mut self, binding: usize) -> Option<()> {
        let table = self.settling.scopes.bound[binding].table;
        let first = self.settling.keyboards.first();
        let (cost, keys) = {
            let mover = self.movers.get_mut(&binding)?;
            if !mover.started {
                mover.started = true;
                let picks = vec![0; mover.choices.len()];
                let sum: Option<i64> = mover.choices.iter_mut().map(|choices| Some(choices.get(0, first)?.0)).sum();
                mover.heap.extend(sum.map(|sum| Reverse((sum, picks))));
            }
            if mover.queued.len() > TRIED {
                return None;
            }
            let Reverse((cost, picks)) = mover.heap.pop()?;
            for position in 0..picks.len() {
                let mut next = picks.clone();
                next[position] += 1;
                let Some(option) = mover.choices[position].get(next[position], first) else { continue };
                let step = option.0 - mover.choices[position].made[picks[position]].0;
                if mover.queued.insert(next.clone()) {
                    mover.heap.push(Reverse((cost + step, next)));
                }
            }
            let chords = picks.iter().enumerate().map(|(position, pick)| mover.choices[position].made[*pick].1.clone());
            ((mover.base + cost) * mover.weight, ChordSequence(chords.collect()))
        };
        let at = self.place(&keys);
        let (home, place) = (self.movers[&binding].home, self.at(at));
        if at != home && !self.taken.refuses(self.settling, table, &place) {
            self.movers.get_mut(&binding)?.made.push((cost, at));
        }
        Some(())
    }
}

impl Offers for CandidateSpace<'_> {
    fn offer(&mut self, mover: usize, nth: usize) -> Option<PricedCandidate> {
        let own = self.movers.get(&mover)?;
        if let Some(given) = own.given {
            return (nth == 0).then_some((0, given));
        }
        let stays = usize::from(!self.taken.ousted.contains(&mover));
        if nth < stays {
            return Some((0, own.home));
        }
        while self.movers.get(&mover)?.made.len() <= nth - stays {
            self.more(mover)?;
        }
        self.movers.get(&mover)?.made.get(nth - stays).copied()
    }

    fn home(&self, mover: usize) -> usize {
        self.movers.get(&mover).map_or(0, |own| own.given.unwrap_or(own.home))
    }

    fn table(&self, mover: usize) -> usize {
        self.settling.scopes.bound[mover].table
    }

    fn collide(&self, a: (usize, usize), b: (usize, usize)) -> bool {
        let (on_a, on_b) = (self.at(a.1), self.at(b.1));
        self.settling.collide((a.0, &on_a), (b.0, &on_b))
    }

    fn collisions(&self, chosen: &[(usize, usize)]) -> Vec<(usize, usize)> {
        let scopes = self.settling.scopes;
        let mut found = Vec::new();
        let mut whole: HashMap<(usize, usize, &[KeyCombo]), Vec<usize>> = HashMap::with_capacity(chosen.len());
        let mut firsts: HashMap<(usize, KeyCombo), Vec<usize>> = HashMap::new();
        let places: Vec<Rc<Candidate>> = chosen.iter().map(|(_, place)| self.at(*place)).collect();
        let tables: Vec<usize> = chosen.iter().map(|(mover, _)| self.table(*mover)).collect();
        for (nth, table) in tables.iter().copied().enumerate() {
            for (layout, ways) in places[nth].on.iter().enumerate() {
                for way in ways {
                    whole.entry((layout, table, way)).or_default().push(nth);
                    if scopes.takes_first(table) {
                        firsts.entry((layout, way[0])).or_default().push(nth);
                    }
                }
            }
        }
        for (nth, table) in tables.iter().copied().enumerate() {
            for (layout, way) in
                places[nth].on.iter().enumerate().flat_map(|(layout, ways)| ways.iter().map(move |way| (layout, way)))
            {
                for len in 1..=way.len() {
                    let others = whole.get(&(layout, table, &way[..len])).into_iter().flatten();
                    // Pressing and letting go of the same keys may differ.
                    let release = |nth: usize| scopes.bound[chosen[nth].0].release;
                    let beside = |other: usize| len < way.len() || other < nth && release(other) == release(nth);
                    found.extend(others.copied().filter(|other| beside(*other)).map(|other| (other, nth)));
                }
                for press in way {
                    let outer = firsts.get(&(layout, *press)).into_iter().flatten();
                    let outer =
                        outer.filter(|other| **other != nth && scopes.meeting(tables[**other], table) == TableRelation::Outer);
                    found.extend(outer.map(|other| (*other, nth)));
                }
            }
        }
        found.sort_unstable();
        found.dedup();
        found
    }
}
