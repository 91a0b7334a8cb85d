//! The cheapest peace: new chords for bindings that fight, by branch and bound.
//!
//! The cost of a move is that of `[keys.cost]`, in hundredths. A binding keeps the number of its chords, and one that
//! uses the lead keeps it: a desk binding without it would take keys away from every program.

use std::cell::RefCell;
use std::cmp::Reverse;
use std::collections::{BTreeMap, BinaryHeap};
use std::rc::Rc;

use foldhash::{HashMap, HashMapExt, HashSet, HashSetExt};
use jovrik_values::chord::{Chord, ChordSequence, Modifier, Modifiers};

use super::assign::{GroupSolution, Offers, PricedCandidate, Rule, Work, settle_group};
use super::candidate_space::{Candidate, CandidateSpace, Choices, Mover, Near, Taken};
use super::conflict::{ComboSequences, Conflict, ConflictKind, begins, fights, ways};
use super::keyboard::{KeyCombo, KeyboardLayouts};
use super::scope::{Scopes, TableRelation};
use crate::rice::KeyCost;

/// What is to be settled.
#[derive(Debug)]
pub struct SettleProblem<'a> {
    /// Everything that is bound.
    pub scopes: &'a Scopes,
    /// The keyboards that it must work on.
    pub keyboards: &'a KeyboardLayouts,
    /// The weights.
    pub cost: &'a KeyCost,
    /// The lead.
    pub lead: Modifier,
    /// Bindings that may not move beside the fixed ones.
    pub keep: Vec<usize>,
    /// Bindings whose new chords are given; whoever is in their way moves.
    pub given: Vec<(usize, ChordSequence)>,
    /// Whether bindings that are in no fight may move too.
    pub chain: bool,
    /// The only fight in question; all when none is named.
    pub only: Option<Conflict>,
    /// Whether keys that programs use by themselves are given back to them: those of these bindings, by their numbers.
    pub give_back: Vec<usize>,
}

/// One binding's new place.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Rebinding {
    /// The binding.
    pub binding: usize,
    /// Its new chords.
    pub to: ChordSequence,
    /// What the move costs, in hundredths.
    pub cost: i64,
    /// What makes up the cost, in words.
    pub reasons: Vec<String>,
}

/// A peace.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Plan {
    /// The fights it ends.
    pub fights: Vec<Conflict>,
    /// The moves, in the order of the rice.
    pub moves: Vec<Rebinding>,
    /// The sum of their costs, in hundredths.
    pub cost: i64,
    /// By how much a better plan could be cheaper at most; zero when the search was complete.
    pub gap: i64,
}

/// Why there is no peace.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum SettleError {
    /// All who fight for one press are fixed.
    #[error("neither of the two may move")]
    AllFixed(Vec<usize>),
    /// No free chord is left.
    #[error("no free place is left for it")]
    NoPlace(usize),
    /// What is given cannot be pressed on a layout.
    #[error("no key of a layout makes it")]
    NoKey(usize),
}

/// What a search found: the groups it was split into, and their answers.
#[derive(Clone)]
struct Solution {
    groups: Vec<Vec<usize>>,
    answers: HashMap<Vec<usize>, GroupSolution>,
    price: i64,
    moves: usize,
}

impl Solution {
    fn chosen(&self) -> BTreeMap<usize, PricedCandidate> {
        let of = |group: &Vec<usize>| {
            let answer = self.answers.get(group);
            group.iter().copied().zip(answer.map(|answer| answer.chosen.clone()).unwrap_or_default()).collect::<Vec<_>>()
        };
        self.groups.iter().flat_map(of).collect()
    }
}

impl SettleProblem<'_> {
    /// The cheapest plan.
    pub fn plan(&self) -> Result<Plan, SettleError> {
        self.plans(1).map(|mut plans| plans.swap_remove(0))
    }

    /// The cheapest plans, the best first; at least one, at most as many as are asked for.
    pub fn plans(&self, most: usize) -> Result<Vec<Plan>, SettleError> {
        let quarrels = self.quarrels();
        let (mut market, groups, classes) = self.market(&quarrels)?;
        let first = self.solve(&mut market, groups.clone(), &classes, &[])?;
        let mut plans = Vec::new();
        let mut open: BinaryHeap<Reverse<(i64, usize, usize)>> = BinaryHeap::from([Reverse((first.price, first.moves, 0))]);
        let mut branches: Vec<(Vec<Rule>, Solution)> = vec![(Vec::new(), first)];
        while let Some(Reverse((.., at))) = open.pop() {
            let (rules, solution) = branches[at].clone();
            plans.push(self.told(&market, &quarrels, &solution));
            if plans.len() >= most {
                break;
            }
            // All other plans differ in somebody: each branch in another one first.
            let mut rules = rules;
            for (mover, (_, place)) in solution.chosen() {
                let mut other = rules.clone();
                other.push(Rule::Not(mover, place));
                if let Ok(next) = self.solve(&mut market, groups.clone(), &classes, &other) {
                    open.push(Reverse((next.price, next.moves, branches.len())));
                    branches.push((other, next));
                }
                rules.push(Rule::Only(mover, place));
            }
        }
        Ok(plans)
    }

    pub(super) fn stays(&self, at: usize) -> bool {
        let bound = &self.scopes.bound[at];
        let given = self.given.iter().any(|(other, _)| *other == at);
        (bound.fixed || self.keep.contains(&at) || !bound.holds && !bound.lives()) && !given
    }

    /// The bindings with their given chords.
    fn with_given(&self) -> Scopes {
        let mut scopes = self.scopes.clone();
        for (at, keys) in &self.given {
            scopes.bound[*at].keys = keys.clone();
        }
        scopes
    }

    /// Whether two bindings do the same at the same keys: they may stay there together.
    pub(super) fn friends(&self, a: usize, b: usize) -> bool {
        let (one, other) = (&self.scopes.bound[a], &self.scopes.bound[b]);
        let same = (one.table, &one.what, one.release) == (other.table, &other.what, other.release);
        same && self.keyboards.iter().all(|keyboard| ways(&one.keys, keyboard) == ways(&other.keys, keyboard))
    }

    /// The fights in question.
    pub(super) fn quarrels(&self) -> Vec<Conflict> {
        let all =
            if self.given.is_empty() { fights(self.scopes, self.keyboards) } else { fights(&self.with_given(), self.keyboards) };
        let in_question = |fight: &Conflict| match fight.kind {
            ConflictKind::Displaced => {
                fight.bindings[1..].iter().any(|at| self.give_back.contains(at) || self.keep.contains(at))
                    || self.given.iter().any(|(at, _)| *at == fight.bindings[0])
            }
            _ => true,
        };
        let named = |fight: &Conflict| self.only.as_ref().map_or_else(|| in_question(fight), |only| only == fight);
        all.into_iter().filter(named).collect()
    }

    /// Who moves, in which groups; and who may stay where they are together.
    #[expect(clippy::type_complexity, reason = "three things that are made together")]
    fn market(&self, quarrels: &[Conflict]) -> Result<(CandidateSpace<'_>, Vec<Vec<usize>>, Vec<Vec<usize>>), SettleError> {
        let mut group_of: HashMap<usize, usize> = HashMap::new();
        let mut groups: Vec<Vec<usize>> = Vec::new();
        let what = |at: usize| &self.scopes.bound[at].what;
        for fight in quarrels {
            let still: Vec<usize> = fight.bindings.iter().copied().filter(|at| self.stays(*at)).collect();
            let first_stays = self.stays(fight.bindings[0]);
            let stuck = match fight.kind {
                ConflictKind::Twice => still.iter().any(|at| what(*at) != what(still[0])),
                _ => first_stays && still.len() > 1,
            };
            if stuck {
                return Err(SettleError::AllFixed(still));
            }
            // Who stays may fight among themselves, once the first is out of the way.
            if !first_stays && still.len() > 1 && fight.kind != ConflictKind::Twice {
                let bound = still.iter().map(|at| self.scopes.bound[*at].clone()).collect();
                let rest = Scopes { bound, ..self.scopes.clone() };
                let stuck = fights(&rest, self.keyboards).into_iter().find(|fight| fight.kind != ConflictKind::Displaced);
                if let Some(stuck) = stuck {
                    return Err(SettleError::AllFixed(stuck.bindings.into_iter().map(|at| still[at]).collect()));
                }
            }
            let movers: Vec<usize> = fight.bindings.iter().copied().filter(|at| !self.stays(*at)).collect();
            join(&mut groups, &mut group_of, &movers);
        }
        let tables: HashSet<usize> =
            quarrels.iter().flat_map(|fight| &fight.bindings).map(|at| self.scopes.bound[*at].table).collect();
        if self.chain {
            let all = (0..self.scopes.bound.len()).filter(|at| !self.stays(*at) && self.scopes.bound[*at].lives());
            for at in all.filter(|at| tables.contains(&self.scopes.bound[*at].table)) {
                join(&mut groups, &mut group_of, &[at]);
            }
        }
        for (at, _) in &self.given {
            join(&mut groups, &mut group_of, &[*at]);
        }
        groups.retain(|group| !group.is_empty());
        let movers: HashSet<usize> = groups.iter().flatten().copied().collect();
        let empty = CandidateSpace {
            settling: self,
            places: RefCell::default(),
            movers: HashMap::new(),
            taken: self.taken(&movers),
            nearby: HashMap::new(),
        };
        let mut market = empty;
        for at in movers.iter().copied().collect::<std::collections::BTreeSet<_>>() {
            let mover = self.mover(&mut market, at)?;
            market.movers.insert(at, mover);
        }
        let home = |market: &CandidateSpace<'_>, at: usize| market.at(market.home(at));
        let mut classes: Vec<Vec<usize>> = Vec::new();
        for fight in quarrels {
            let (moving, still): (Vec<usize>, Vec<usize>) = fight.bindings.iter().partition(|at| movers.contains(*at));
            for at in &moving {
                let own = home(&market, *at);
                let beaten = still.iter().any(|other| {
                    let on = self.keyboards.iter().map(|keyboard| ways(&self.scopes.bound[*other].keys, keyboard)).collect();
                    let place = Candidate { keys: self.scopes.bound[*other].keys.clone(), on };
                    !self.friends(*at, *other) && self.collide((*at, &own), (*other, &place))
                });
                if beaten {
                    market.taken.ousted.insert(*at);
                }
            }
        }
        // Movers that do the same at the same keys may stay there together, whoever they fight with.
        let mut at_home: BTreeMap<(usize, Vec<ComboSequences>), Vec<usize>> = BTreeMap::new();
        for at in movers.iter().copied().collect::<std::collections::BTreeSet<_>>() {
            at_home.entry((self.scopes.bound[at].table, home(&market, at).on.clone())).or_default().push(at);
        }
        for group in at_home.into_values().filter(|group| group.len() > 1) {
            let known = classes.len();
            for at in group {
                match classes[known..].iter_mut().find(|class| self.friends(class[0], at)) {
                    Some(class) => class.push(at),
                    None => classes.push(vec![at]),
                }
            }
        }
        classes.retain(|class| class.len() > 1);
        classes.sort_unstable();
        classes.dedup();
        for (at, _) in &self.given {
            let place = home(&market, *at);
            if place.on.iter().any(Vec::is_empty) {
                return Err(SettleError::NoKey(*at));
            }
            if market.taken.refuses(self, self.scopes.bound[*at].table, &place) {
                return Err(SettleError::NoPlace(*at));
            }
        }
        Ok((market, groups, classes))
    }

    /// Solves groups each by itself; the sum of their minima is a lower bound, and the minimum when they agree. Those that
    /// do not are joined.
    fn solve(
        &self,
        market: &mut CandidateSpace<'_>,
        mut groups: Vec<Vec<usize>>,
        classes: &[Vec<usize>],
        rules: &[Rule],
    ) -> Result<Solution, SettleError> {
        let mut answers: HashMap<Vec<usize>, GroupSolution> = HashMap::new();
        let mut work = Work::default();
        loop {
            for group in &groups {
                if !answers.contains_key(group) {
                    let within = |mover: &usize| group.binary_search(mover).is_ok();
                    let own: Vec<Vec<usize>> = classes.iter().filter(|class| within(&class[0])).cloned().collect();
                    let of_group = |rule: &&Rule| matches!(rule, Rule::Not(mover, _) | Rule::Only(mover, _) if within(mover));
                    let rules: Vec<Rule> = rules.iter().filter(of_group).cloned().collect();
                    answers.insert(
                        group.clone(),
                        settle_group(group, &own, &rules, market, &mut work).map_err(SettleError::NoPlace)?,
                    );
                }
            }
            let mut group_of: HashMap<usize, usize> = HashMap::new();
            let mut chosen: Vec<(usize, usize)> = Vec::new();
            for (nth, group) in groups.iter().enumerate() {
                group_of.extend(group.iter().map(|mover| (*mover, nth)));
                let places = answers[group].chosen.iter().map(|offer| offer.1);
                chosen.extend(group.iter().copied().zip(places));
            }
            let quarrels = market.collisions(&chosen).into_iter().map(|(a, b)| (group_of[&chosen[a].0], group_of[&chosen[b].0]));
            let quarrels: Vec<(usize, usize)> = quarrels.filter(|(a, b)| a != b).collect();
            if quarrels.is_empty() {
                let all = groups.iter().flat_map(|group| answers[group].chosen.iter().zip(group));
                let moved: Vec<i64> =
                    all.filter(|(offer, mover)| offer.1 != market.movers[mover].home).map(|(offer, _)| offer.0).collect();
                let (price, moves) = (moved.iter().sum(), moved.len());
                return Ok(Solution { groups, answers, price, moves });
            }
            let mut home: Vec<usize> = (0..groups.len()).collect();
            for (a, b) in quarrels {
                let (from, to) = (home[b], home[a]);
                home.iter_mut().filter(|group| **group == from).for_each(|group| *group = to);
            }
            let mut joined: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
            for (group, home) in std::mem::take(&mut groups).into_iter().zip(home) {
                joined.entry(home).or_default().extend(group);
            }
            groups.extend(joined.into_values().map(|mut group| {
                group.sort_unstable();
                group
            }));
        }
    }

    fn told(&self, market: &CandidateSpace<'_>, quarrels: &[Conflict], solution: &Solution) -> Plan {
        let mut moves = Vec::new();
        let mut cost = 0;
        for (binding, (_, place)) in solution.chosen() {
            let place = market.at(place);
            if place.keys != self.scopes.bound[binding].keys {
                let step = self.explain(binding, &place.keys);
                cost += step.cost;
                moves.push(step);
            }
        }
        let gap = solution.groups.iter().filter_map(|group| solution.answers.get(group)).map(|answer| answer.gap).sum();
        Plan { fights: quarrels.to_vec(), moves, cost, gap }
    }

    /// Whether two bindings cannot have these places together.
    pub(super) fn collide(&self, a: (usize, &Candidate), b: (usize, &Candidate)) -> bool {
        let table = |binding: usize| self.scopes.bound[binding].table;
        let (release_a, release_b) = (self.scopes.bound[a.0].release, self.scopes.bound[b.0].release);
        let meeting = self.scopes.meeting(table(a.0), table(b.0));
        a.1.on.iter().zip(&b.1.on).any(|(on_a, on_b)| {
            on_a.iter().any(|way_a| {
                on_b.iter().any(|way_b| match meeting {
                    TableRelation::Same => begins(way_a, way_b) && (release_a == release_b || way_a.len() != way_b.len()),
                    TableRelation::Outer => way_a.first().is_some_and(|first| way_b.contains(first)),
                    TableRelation::Inner => way_b.first().is_some_and(|first| way_a.contains(first)),
                    TableRelation::Never => false,
                })
            })
        })
    }

    fn taken(&self, movers: &HashSet<usize>) -> Taken {
        let mut taken = Taken::default();
        for (layout, keyboard) in self.keyboards.iter().enumerate() {
            for (_, bound) in self.scopes.bound.iter().enumerate().filter(|(at, bound)| !movers.contains(at) && bound.lives()) {
                for way in ways(&bound.keys, keyboard) {
                    if self.scopes.takes_first(bound.table) {
                        taken.firsts.entry((layout, way[0])).or_default().push(bound.table);
                    }
                    for press in &way {
                        taken.inner.entry((layout, *press)).or_default().push(bound.table);
                    }
                    taken.starts.extend((1..way.len()).map(|len| (layout, bound.table, way[..len].to_vec())));
                    taken.whole.insert((layout, bound.table, way));
                }
            }
        }
        taken.firsts.values_mut().chain(taken.inner.values_mut()).for_each(|tables| {
            tables.sort_unstable();
            tables.dedup();
        });
        taken
    }

    fn mover(&self, market: &mut CandidateSpace<'_>, at: usize) -> Result<Mover, SettleError> {
        let bound = &self.scopes.bound[at];
        let home = market.place(&bound.keys);
        let given = self.given.iter().find(|(other, _)| *other == at).map(|(_, keys)| market.place(keys));
        let initials = self.initials(at);
        let choices = (0..bound.keys.0.len()).map(|position| self.choices(market, at, &initials, position)).collect();
        Ok(Mover {
            home,
            base: self.base(at),
            weight: self.scopes.weight(at),
            choices,
            heap: BinaryHeap::new(),
            queued: HashSet::new(),
            made: Vec::new(),
            started: false,
            given,
        })
    }

    /// The modifiers that a chord may get at a position.
    pub(super) fn usable(&self, old: KeyCombo, position: usize) -> Vec<Modifiers> {
        let usable: Vec<Modifier> = Modifier::ALL
            .into_iter()
            .filter(|m| *m == self.lead || matches!(m, Modifier::Ctrl | Modifier::Alt | Modifier::Shift) || old.modifiers.has(*m))
            .collect();
        (0..1_u32 << usable.len())
            .map(|subset| {
                let modifiers = usable.iter().enumerate().filter(|(bit, _)| subset & (1 << bit) != 0);
                modifiers.fold(Modifiers::default(), |set, (_, modifier)| set.with(*modifier))
            })
            .filter(|modifiers| position > 0 || !old.modifiers.has(self.lead) || modifiers.has(self.lead))
            .collect()
    }

    /// Whether keys with these modifiers write text.
    pub(super) fn writes(modifiers: Modifiers) -> bool {
        modifiers.0 & !(Modifier::Shift as u8 | Modifier::Level3 as u8) == 0
    }

    /// The keys that a chord could have instead, each with its distance; with `letters` only those of these letters, else
    /// only the others.
    fn near(&self, market: &mut CandidateSpace<'_>, chord: &Chord, letters: &[char], with: bool) -> Near {
        let old = self.press(chord);
        let key = (old.key, letters.to_vec(), with);
        if let Some(known) = market.nearby.get(&key) {
            return known.clone();
        }
        let first = self.keyboards.first();
        let placed = first.caps.iter().filter(|cap| first.spot(cap.code).is_some() && !first.is_modifier(cap.code));
        let codes = placed.map(|cap| cap.code).chain((old.key == 0 || first.spot(old.key).is_none()).then_some(old.key));
        let mut keys: Vec<(i64, u32)> = codes
            .filter(|code| *code > 0 && first.letter(*code).is_some_and(|letter| letters.contains(&letter)) == with)
            .map(|code| (self.distance(chord, &first.chord(KeyCombo { key: code, modifiers: Modifiers::default() })), code))
            .collect();
        keys.sort_unstable();
        let keys = Rc::new(keys);
        market.nearby.insert(key, keys.clone());
        keys
    }

    fn choices(&self, market: &mut CandidateSpace<'_>, at: usize, initials: &[char], position: usize) -> Choices {
        let bound = &self.scopes.bound[at];
        let chord = &bound.keys.0[position];
        let old = self.press(chord);
        let last = position + 1 == bound.keys.0.len();
        let first_key = self.keyboards.first();
        let meant_already = first_key.letter(old.key).is_some_and(|letter| initials.contains(&letter));
        let letters: &[char] = if last && !meant_already { initials } else { &[] };
        let (plain, meant) = (self.near(market, chord, letters, false), self.near(market, chord, letters, true));
        let mut streams = Vec::new();
        for modifiers in self.usable(old, position) {
            let types = position == 0 && Self::writes(modifiers) && !Self::writes(old.modifiers);
            if types {
                continue;
            }
            let base = self.step_base(bound.keys.0.len(), position, old.modifiers, modifiers);
            for (keys, off) in [(&plain, 0), (&meant, self.cost.letter.0)] {
                if !keys.is_empty() {
                    streams.push((base - off, modifiers, keys.clone()));
                }
            }
        }
        // What is at home costs nothing, and a sequence may keep some of its chords.
        let firsts = streams.iter().enumerate().filter_map(|(stream, (base, modifiers, keys))| {
            let (far, key) = keys.first()?;
            Some(Reverse((base + far, *key, modifiers.0, stream, 0)))
        });
        let heap = firsts.collect();
        let alone = bound.keys.0.len() == 1;
        let made = if alone { Vec::new() } else { vec![(0, chord.clone())] };
        Choices { made, heap, streams, old }
    }

    /// The chords that a binding could have, each with its price: the cheapest first, without those that are taken.
    pub fn free(&self, binding: usize, most: usize) -> Vec<(i64, ChordSequence)> {
        let only = SettleProblem { given: Vec::new(), keep: Vec::new(), give_back: Vec::new(), only: None, ..*self };
        let movers = HashSet::from_iter([binding]);
        let mut market = CandidateSpace {
            settling: &only,
            places: RefCell::default(),
            movers: HashMap::new(),
            taken: only.taken(&movers),
            nearby: HashMap::new(),
        };
        let Ok(mover) = only.mover(&mut market, binding) else { return Vec::new() };
        market.movers.insert(binding, mover);
        while market.movers[&binding].made.len() < most && market.more(binding).is_some() {}
        market.movers[&binding].made.iter().map(|(cost, place)| (*cost, market.at(*place).keys.clone())).collect()
    }

    /// Whether a binding is in nobody's way where it is.
    pub fn fits(&self, binding: usize) -> bool {
        let movers = HashSet::from_iter([binding]);
        let keys = &self.scopes.bound[binding].keys;
        let on = self.keyboards.iter().map(|keyboard| ways(keys, keyboard)).collect();
        !self.taken(&movers).refuses(self, self.scopes.bound[binding].table, &Candidate { keys: keys.clone(), on })
    }
}

/// Puts bindings into one group, with all groups that they are already in.
fn join(groups: &mut Vec<Vec<usize>>, group_of: &mut HashMap<usize, usize>, movers: &[usize]) {
    let Some(first) = movers.first() else { return };
    let home = *group_of.entry(*first).or_insert_with(|| {
        groups.push(vec![*first]);
        groups.len() - 1
    });
    for mover in &movers[1..] {
        match group_of.get(mover).copied() {
            Some(other) if other == home => {}
            Some(other) => {
                let moved = std::mem::take(&mut groups[other]);
                for at in &moved {
                    group_of.insert(*at, home);
                }
                groups[home].extend(moved);
            }
            None => {
                groups[home].push(*mover);
                group_of.insert(*mover, home);
            }
        }
    }
    groups[home].sort_unstable();
}
