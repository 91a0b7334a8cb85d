//! Which bindings fight for a press, across scopes, modes, layouts and the life of a sequence.

use std::collections::BTreeMap;

use foldhash::{HashMap, HashMapExt, HashSet, HashSetExt};
use jovrik_values::chord::{Chord, ChordSequence};

use super::keyboard::{KeyCombo, KeyboardLayout, KeyboardLayouts};
use super::scope::{BindingTarget, ScopedBinding, Scopes, TableRelation};

/// How bindings fight.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum ConflictKind {
    /// One press has two actions.
    Twice,
    /// A chord is a binding and also the start of a sequence.
    Stalls,
    /// An outer scope takes what an inner binding needs.
    Swallowed,
    /// A binding takes a key that a program uses by itself.
    Displaced,
}

impl ConflictKind {
    /// The code of its problem.
    pub fn code(self) -> &'static str {
        match self {
            ConflictKind::Twice => "keys/twice",
            ConflictKind::Stalls => "keys/stalls",
            ConflictKind::Swallowed => "keys/swallowed",
            ConflictKind::Displaced => "keys/displaced",
        }
    }
}

/// A fight.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct Conflict {
    /// Who fights, in the order of the rice; of a stall the short one first, else whoever takes the press from the others.
    pub bindings: Vec<usize>,
    /// How they fight.
    pub kind: ConflictKind,
    /// The layouts on which they do, by their numbers; none when on all.
    pub layouts: Vec<usize>,
}

/// How many spellings of one sequence in presses are looked at.
const WAYS: usize = 16;

/// The presses of a binding on one layout: every way to make its chords.
pub type ComboSequences = Vec<Vec<KeyCombo>>;

/// The ways to press some chords on a keyboard; none when it cannot make one of them.
pub fn ways(keys: &jovrik_values::chord::ChordSequence, keyboard: &KeyboardLayout) -> ComboSequences {
    let mut ways: ComboSequences = vec![Vec::new()];
    for chord in &keys.0 {
        let presses = keyboard.presses(chord);
        ways = ways.iter().flat_map(|way| presses.iter().map(|press| [way.as_slice(), &[*press]].concat())).take(WAYS).collect();
    }
    ways
}

/// Whether one sequence begins another, or is it.
pub fn begins(a: &[KeyCombo], b: &[KeyCombo]) -> bool {
    let len = a.len().min(b.len());
    a[..len] == b[..len]
}

/// All fights of a rice, by the first who fights.
pub fn fights(scopes: &Scopes, keyboards: &KeyboardLayouts) -> Vec<Conflict> {
    let mut found: BTreeMap<(Vec<usize>, ConflictKind), Vec<usize>> = BTreeMap::new();
    for (layout, keyboard) in keyboards.iter().enumerate() {
        let ways: Vec<ComboSequences> = scopes.bound.iter().map(|bound| ways(&bound.keys, keyboard)).collect();
        let one = OneLayout { scopes, ways: &ways };
        for (kind, bindings) in one.inside_tables().into_iter().chain(one.across()) {
            let layouts = found.entry((bindings, kind)).or_default();
            if layouts.last() != Some(&layout) {
                layouts.push(layout);
            }
        }
    }
    let all = keyboards.count();
    found
        .into_iter()
        .map(|((bindings, kind), layouts)| Conflict {
            bindings,
            kind,
            layouts: if layouts.len() == all { Vec::new() } else { layouts },
        })
        .collect()
}

struct OneLayout<'a> {
    scopes: &'a Scopes,
    ways: &'a [ComboSequences],
}

impl OneLayout<'_> {
    fn bound(&self, at: usize) -> &ScopedBinding {
        &self.scopes.bound[at]
    }

    fn living(&self) -> impl Iterator<Item = usize> {
        (0..self.scopes.bound.len()).filter(|at| self.bound(*at).lives())
    }

    /// Fights of bindings that are asked together.
    fn inside_tables(&self) -> Vec<(ConflictKind, Vec<usize>)> {
        let mut by_way: HashMap<(usize, &[KeyCombo]), Vec<usize>> = HashMap::with_capacity(self.ways.len());
        for at in self.living() {
            for way in &self.ways[at] {
                by_way.entry((self.bound(at).table, way)).or_default().push(at);
            }
        }
        let mut fights: Vec<(ConflictKind, Vec<usize>)> = Vec::new();
        let mut stalls: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
        let mut lost: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
        let known = |at: &&usize| self.bound(**at).known;
        // What a person takes away is not lost.
        let silenced: HashSet<(usize, &[KeyCombo])> = (0..self.scopes.bound.len())
            .filter(|at| !self.bound(*at).lives())
            .flat_map(|at| self.ways[at].iter().map(move |way| (self.bound(at).table, way.as_slice())))
            .collect();
        for ((table, way), group) in &by_way {
            let written: Vec<usize> = group.iter().copied().filter(|at| !self.bound(*at).known).collect();
            for release in [false, true] {
                let side: Vec<usize> = written.iter().copied().filter(|at| self.bound(*at).release == release).collect();
                if side.iter().any(|at| self.bound(*at).what != self.bound(side[0]).what) {
                    fights.push((ConflictKind::Twice, side));
                }
            }
            let lost_here = group.iter().filter(known).filter(|_| !silenced.contains(&(*table, *way)));
            if let Some(taker) = written.last() {
                lost.entry(*taker).or_default().extend(lost_here.filter(|at| self.bound(**at).what != self.bound(*taker).what));
            }
            for len in 1..way.len() {
                for short in by_way.get(&(*table, &way[..len])).into_iter().flatten() {
                    match (self.bound(*short).known, written.as_slice()) {
                        (true, []) => {}
                        (true, [first, ..]) => lost.entry(*first).or_default().push(*short),
                        (false, []) => lost.entry(*short).or_default().extend(group),
                        (false, long) => stalls.entry(*short).or_default().extend(long),
                    }
                }
            }
        }
        let one_and_all = |kind: ConflictKind| {
            move |(one, mut others): (usize, Vec<usize>)| {
                others.sort_unstable();
                others.dedup();
                (kind, std::iter::once(one).chain(others).collect())
            }
        };
        fights.extend(stalls.into_iter().map(one_and_all(ConflictKind::Stalls)));
        fights.extend(lost.into_iter().filter(|(_, lost)| !lost.is_empty()).map(one_and_all(ConflictKind::Displaced)));
        fights
    }

    /// What outer scopes take from inner ones.
    fn across(&self) -> Vec<(ConflictKind, Vec<usize>)> {
        let scopes = self.scopes;
        if scopes.readers.len() < 2 {
            return Vec::new();
        }
        let mut firsts: HashMap<KeyCombo, Vec<usize>> = HashMap::new();
        let mut overruled: HashSet<(usize, KeyCombo)> = HashSet::new();
        for at in (0..scopes.bound.len()).filter(|at| scopes.takes_first(self.bound(*at).table)) {
            for first in self.ways[at].iter().filter_map(|way| way.first()) {
                if !self.bound(at).lives() {
                    overruled.insert((self.bound(at).table, *first));
                    continue;
                }
                firsts.entry(*first).or_default().push(at);
            }
        }
        let mut taken: BTreeMap<(usize, ConflictKind), Vec<usize>> = BTreeMap::new();
        for at in self.living().filter(|at| scopes.tables[self.bound(*at).table].scope > 0) {
            let bound = self.bound(at);
            let takers = |press: &KeyCombo| {
                let outer = firsts.get(press).into_iter().flatten().copied().filter(|taker| {
                    let taker = self.bound(*taker);
                    let free = taker.known && overruled.contains(&(taker.table, *press));
                    scopes.meeting(taker.table, bound.table) == TableRelation::Outer && !free
                });
                // Whoever is asked first takes it; what a person bound speaks for the program's own.
                let rank = |taker: &usize| (scopes.tables[self.bound(*taker).table].scope, self.bound(*taker).known);
                let all: Vec<usize> = outer.collect();
                let first = all.iter().map(rank).min()?;
                Some(all.into_iter().filter(|taker| rank(taker) == first).collect::<Vec<usize>>())
            };
            let by_way: Vec<Option<Vec<usize>>> = self.ways[at].iter().map(|way| way.iter().find_map(takers)).collect();
            if !by_way.iter().all(Option::is_some) {
                continue;
            }
            for taker in by_way.into_iter().next().flatten().unwrap_or_default() {
                match (self.bound(taker).known, bound.known) {
                    // Two programs as they come out of the box: nobody here decided that.
                    (true, true) => {}
                    (_, true) => taken.entry((taker, ConflictKind::Displaced)).or_default().push(at),
                    (_, false) => taken.entry((taker, ConflictKind::Swallowed)).or_default().push(at),
                }
            }
        }
        taken.into_iter().map(|((taker, kind), inner)| (kind, std::iter::once(taker).chain(inner).collect())).collect()
    }
}

/// Modes of the desk that no binding leaves, by their tables.
pub fn traps(scopes: &Scopes) -> Vec<usize> {
    use crate::rice::UnboundKeyPolicy;
    use jovrik_values::action::Action;
    let modes: Vec<usize> =
        (0..scopes.tables.len()).filter(|at| scopes.tables[*at].scope == 0 && scopes.tables[*at].mode.is_some()).collect();
    let mut ends: HashSet<usize> =
        modes.iter().copied().filter(|at| scopes.tables[*at].others == UnboundKeyPolicy::Leave).collect();
    let mut ways: HashMap<usize, Vec<usize>> = HashMap::new();
    for bound in scopes.bound.iter().filter(|bound| bound.holds) {
        match &bound.what {
            BindingTarget::Act(Action::Mode(None)) => {
                ends.insert(bound.table);
            }
            BindingTarget::Act(Action::Mode(Some(name))) => {
                let to = modes.iter().find(|at| scopes.tables[**at].mode.as_ref() == Some(name));
                ways.entry(bound.table).or_default().extend(to);
            }
            _ => {}
        }
    }
    loop {
        let more: Vec<usize> = modes
            .iter()
            .copied()
            .filter(|at| !ends.contains(at) && ways.get(at).is_some_and(|to| to.iter().any(|to| ends.contains(to))))
            .collect();
        if more.is_empty() {
            break;
        }
        ends.extend(more);
    }
    modes.into_iter().filter(|at| !ends.contains(at)).collect()
}

/// The longest sequence that typed keys are looked for in.
const MAX_TYPED_STEPS: usize = 8;

/// Bindings that type keys which lead back to themselves: each loop once.
pub fn loops(scopes: &Scopes, keyboard: &KeyboardLayout, lead: jovrik_values::chord::Modifier) -> Vec<Vec<usize>> {
    if scopes.bound.iter().all(|bound| bound.types(lead).is_none()) {
        return Vec::new();
    }
    let mut by_press: HashMap<(usize, Vec<KeyCombo>), usize> = HashMap::new();
    for (at, bound) in scopes.bound.iter().enumerate().filter(|(_, bound)| bound.lives()) {
        for way in ways(&bound.keys, keyboard) {
            by_press.entry((bound.table, way)).or_insert(at);
        }
    }
    // What is typed is asked of the same table; and of the desk first, as any press is. The longest that is bound is done.
    let nexts = |at: usize| -> Vec<usize> {
        let bound = &scopes.bound[at];
        let chords = bound.types(lead).map(|keys| keys.0).unwrap_or_default();
        let asked = |chords: &[Chord]| {
            let way = ways(&ChordSequence(chords.to_vec()), keyboard).into_iter().next()?;
            by_press.get(&(0, way.clone())).or_else(|| by_press.get(&(bound.table, way))).copied()
        };
        let (mut found, mut from) = (Vec::new(), 0);
        while from < chords.len() {
            let most = (chords.len() - from).min(MAX_TYPED_STEPS);
            let done = (1..=most).rev().find_map(|len| Some((len, asked(&chords[from..from + len])?)));
            from += done.map_or(1, |(len, _)| len);
            found.extend(done.map(|(_, at)| at).filter(|at| !found.contains(at)));
        }
        found
    };
    let mut loops: Vec<Vec<usize>> = Vec::new();
    let mut seen: HashSet<usize> = HashSet::new();
    for start in 0..scopes.bound.len() {
        if !seen.insert(start) {
            continue;
        }
        // The way to where one is, each with what is still to be followed from there.
        let mut path: Vec<(usize, Vec<usize>)> = vec![(start, nexts(start))];
        while let Some((_, left)) = path.last_mut() {
            let Some(next) = left.pop() else {
                path.pop();
                continue;
            };
            if let Some(from) = path.iter().position(|(one, _)| *one == next) {
                loops.push(path[from..].iter().map(|(one, _)| *one).collect());
            } else if seen.insert(next) {
                path.push((next, nexts(next)));
            }
        }
    }
    loops
}
