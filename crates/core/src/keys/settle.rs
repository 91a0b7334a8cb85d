//! The cheapest peace: new chords for bindings that fight, by branch and bound.
//!
//! The cost of a move is that of `[keys.cost]`, in hundredths. A binding keeps the number of its chords, and one that
//! uses the lead keeps it: a desk binding without it would take keys away from every program.

use std::cmp::Reverse;
use std::collections::{BTreeMap, BinaryHeap, HashMap, HashSet};

use super::assign::{Answer, Offer, Offers, collide, settle_group};
use super::chord::{Keys, Modifier, Modifiers};
use super::clash::{Fight, fights, presses};
use super::keyboard::{Keyboard, Press};
use crate::rice::{BindingAt, KeyCost};

/// What is to be settled.
#[derive(Debug)]
pub struct Settling<'a> {
    /// All bindings of the scope and mode.
    pub bindings: &'a [BindingAt],
    /// The keyboard.
    pub keyboard: &'a Keyboard,
    /// The weights.
    pub cost: &'a KeyCost,
    /// The lead.
    pub lead: Modifier,
    /// Bindings that may not move beside the fixed ones.
    pub keep: Vec<usize>,
}

/// One binding's new place.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Move {
    /// The binding.
    pub binding: usize,
    /// Its new chords.
    pub to: Keys,
    /// What the move costs, in hundredths.
    pub cost: i64,
    /// What makes up the cost, in words.
    pub reasons: Vec<String>,
}

/// A peace.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Plan {
    /// The fights it ends.
    pub fights: Vec<Fight>,
    /// The moves, in the order of the rice.
    pub moves: Vec<Move>,
    /// The sum of their costs, in hundredths.
    pub cost: i64,
    /// By how much a better plan could be cheaper at most; zero when the search was complete.
    pub gap: i64,
}

/// Why there is no peace.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NoPlan {
    /// All who fight for one press are fixed.
    #[error("neither of the two may move")]
    AllFixed(Vec<usize>),
    /// No free chord is left.
    #[error("no free place is left for it")]
    NoPlace(usize),
}

/// The places of one binding, cheapest first, made as they are asked for.
struct Places {
    stay: Vec<Press>,
    base: i64,
    options: Vec<Vec<(i64, Press)>>,
    heap: BinaryHeap<Reverse<(i64, Vec<usize>)>>,
    queued: HashSet<Vec<usize>>,
    made: Vec<Offer>,
}

/// Presses that bindings which do not move have taken.
struct Taken {
    whole: HashSet<Vec<Press>>,
    starts: HashSet<Vec<Press>>,
    /// Movers that cannot stay beside those who do not move.
    ousted: HashSet<usize>,
}

impl Taken {
    fn refuses(&self, presses: &[Press]) -> bool {
        self.whole.contains(presses)
            || self.starts.contains(presses)
            || (1..presses.len()).any(|len| self.whole.contains(&presses[..len]))
    }
}

impl Places {
    fn get(&mut self, nth: usize, taken: &Taken) -> Option<&Offer> {
        while self.made.len() <= nth {
            let Reverse((cost, picks)) = self.heap.pop()?;
            for position in 0..picks.len() {
                let mut next = picks.clone();
                next[position] += 1;
                let Some(option) = self.options[position].get(next[position]) else { continue };
                let step = option.0 - self.options[position][picks[position]].0;
                if self.queued.insert(next.clone()) {
                    self.heap.push(Reverse((cost + step, next)));
                }
            }
            let presses: Vec<Press> = picks.iter().enumerate().map(|(position, pick)| self.options[position][*pick].1).collect();
            if presses != self.stay && !taken.refuses(&presses) {
                self.made.push((self.base + cost, presses));
            }
        }
        self.made.get(nth)
    }
}

/// The places of all movers.
struct Market {
    places: HashMap<usize, Places>,
    taken: Taken,
}

impl Offers for Market {
    fn offer(&mut self, mover: usize, nth: usize) -> Option<Offer> {
        let places = self.places.get_mut(&mover)?;
        let stays = usize::from(!self.taken.ousted.contains(&mover));
        if nth < stays { Some((0, places.stay.clone())) } else { places.get(nth - stays, &self.taken).cloned() }
    }

    fn home(&self, mover: usize) -> &[Press] {
        self.places.get(&mover).map_or(&[], |places| &places.stay)
    }
}

impl Settling<'_> {
    /// The cheapest plan.
    pub fn plan(&self) -> Result<Plan, NoPlan> {
        let fights = fights(self.bindings, self.keyboard);
        let presses = presses(self.bindings, self.keyboard);
        let stays = |at: &usize| self.bindings[*at].binding.fixed || self.keep.contains(at);
        let mut group_of: HashMap<usize, usize> = HashMap::new();
        let mut groups: Vec<Vec<usize>> = Vec::new();
        for fight in &fights {
            let still: Vec<usize> = fight.bindings.iter().copied().filter(stays).collect();
            let first_fixed = fight.bindings.first().is_some_and(&stays);
            let stuck = match fight.kind {
                super::FightKind::Twice => {
                    still.iter().any(|at| self.bindings[*at].binding.action != self.bindings[still[0]].binding.action)
                }
                super::FightKind::Stalls => first_fixed && still.len() > 1,
            };
            if stuck {
                return Err(NoPlan::AllFixed(still));
            }
            let movers: Vec<usize> = fight.bindings.iter().copied().filter(|at| !stays(at)).collect();
            join(&mut groups, &mut group_of, &movers);
        }
        let movers: HashSet<usize> = groups.iter().flatten().copied().collect();
        let mut taken = self.taken(&movers, &presses);
        let friends =
            |a: usize, b: usize| self.bindings[a].binding.action == self.bindings[b].binding.action && presses[a] == presses[b];
        let mut classes: Vec<Vec<usize>> = Vec::new();
        for fight in &fights {
            let (moving, still): (Vec<usize>, Vec<usize>) = fight.bindings.iter().partition(|at| movers.contains(*at));
            let beaten = |at: &usize| still.iter().any(|other| collide(&presses[*at], &presses[*other]) && !friends(*at, *other));
            taken.ousted.extend(moving.iter().copied().filter(beaten));
            let known = classes.len();
            for at in moving.iter().filter(|_| fight.kind == super::FightKind::Twice) {
                match classes[known..].iter_mut().find(|class| friends(class[0], *at)) {
                    Some(class) => class.push(*at),
                    None => classes.push(vec![*at]),
                }
            }
        }
        classes.retain(|class| class.len() > 1);
        let places = movers.iter().map(|at| (*at, self.places(*at, &presses[*at]))).collect();
        let mut market = Market { places, taken };
        let mut solved: HashMap<Vec<usize>, Answer> = HashMap::new();
        loop {
            for group in &groups {
                if !solved.contains_key(group) {
                    let own: Vec<Vec<usize>> = classes.iter().filter(|class| group.contains(&class[0])).cloned().collect();
                    let answer = settle_group(group, &own, &mut market).map_err(NoPlan::NoPlace)?;
                    solved.insert(group.clone(), answer);
                }
            }
            // Groups were solved each by itself: the sum of their minima is a lower bound, and the minimum when they agree.
            if !join_quarrels(&mut groups, &solved) {
                break;
            }
        }
        let mut moves = Vec::new();
        let (mut cost, mut gap) = (0, 0);
        for group in &groups {
            let Some(answer) = solved.get(group) else { continue };
            gap += answer.gap;
            for (binding, (price, to)) in group.iter().zip(&answer.chosen) {
                if *to != presses[*binding] {
                    cost += price;
                    moves.push(self.explain(*binding, &presses[*binding], to, *price));
                }
            }
        }
        moves.sort_by_key(|step| step.binding);
        Ok(Plan { fights, moves, cost, gap })
    }

    fn taken(&self, movers: &HashSet<usize>, presses: &[Vec<Press>]) -> Taken {
        let mut taken = Taken { whole: HashSet::new(), starts: HashSet::new(), ousted: HashSet::new() };
        for (at, presses) in presses.iter().enumerate() {
            if movers.contains(&at) || self.bindings[at].binding.action == crate::desk::Action::None {
                continue;
            }
            taken.whole.insert(presses.clone());
            taken.starts.extend((1..presses.len()).map(|len| presses[..len].to_vec()));
        }
        taken
    }

    fn places(&self, binding: usize, from: &[Press]) -> Places {
        let at = &self.bindings[binding];
        let initials = self.initials(binding);
        let options: Vec<Vec<(i64, Press)>> = (0..from.len())
            .map(|position| {
                let mut options: Vec<(i64, Press)> =
                    self.choices(from, position).into_iter().map(|to| (self.step(&initials, from, position, to), to)).collect();
                options.sort_unstable();
                options
            })
            .collect();
        let base = self.cost.r#move.0 + if at.place.written() { self.cost.written.0 } else { 0 };
        let first: i64 = options.iter().filter_map(|options| options.first()).map(|option| option.0).sum();
        let picks = vec![0; from.len()];
        let empty = options.iter().any(Vec::is_empty);
        let heap = if empty { BinaryHeap::new() } else { BinaryHeap::from([Reverse((first, picks))]) };
        Places { stay: from.to_vec(), base, options, heap, queued: HashSet::new(), made: Vec::new() }
    }

    /// The presses that could stand at a position of a binding.
    fn choices(&self, from: &[Press], position: usize) -> Vec<Press> {
        let old = from[position];
        let usable: Vec<Modifier> = Modifier::ALL
            .into_iter()
            .filter(|m| *m == self.lead || matches!(m, Modifier::Ctrl | Modifier::Alt | Modifier::Shift) || old.modifiers.has(*m))
            .collect();
        let mut choices = Vec::new();
        for key in (0..self.keyboard.places.len() as u32).chain((old.key >= Press::NOWHERE).then_some(old.key)) {
            for subset in 0..1_u32 << usable.len() {
                let modifiers = usable.iter().enumerate().filter(|(bit, _)| subset & (1 << bit) != 0);
                let modifiers = modifiers.fold(Modifiers::default(), |set, (_, modifier)| set.with(*modifier));
                let press = Press { key, modifiers };
                let keeps_lead = !old.modifiers.has(self.lead) || modifiers.has(self.lead);
                let types = modifiers.0 & !(Modifier::Shift as u8 | Modifier::Level3 as u8) == 0 && key < Press::NOWHERE;
                let fit = position > 0 || (keeps_lead && !types);
                if press == old || (fit && !self.keyboard.reserved(press)) {
                    choices.push(press);
                }
            }
        }
        choices
    }

    /// What one chord's change costs, in hundredths.
    fn step(&self, initials: &[char], from: &[Press], position: usize, to: Press) -> i64 {
        let old = from[position];
        if old == to {
            return 0;
        }
        let (crossed, swapped) = modifier_changes(old.modifiers, to.modifiers);
        let mut cost = self.cost.modifier.0 * crossed + self.cost.swap.0 * swapped;
        if to.modifiers.len() > 3 {
            cost += self.cost.crowd.0;
        }
        cost += self.keyboard.distance(old, to).unwrap_or(self.cost.nowhere.0);
        if position == 0 && from.len() > 1 {
            cost += self.cost.first.0;
        }
        let meant = |press: Press| self.keyboard.letter(press).is_some_and(|letter| initials.contains(&letter));
        if position + 1 == from.len() && meant(to) && !meant(old) {
            cost -= self.cost.letter.0;
        }
        cost
    }

    /// The first letters of the words of the action and the note.
    fn initials(&self, binding: usize) -> Vec<char> {
        self.words(binding).iter().filter_map(|word| word.chars().next()).collect()
    }

    fn words(&self, binding: usize) -> Vec<String> {
        let at = &self.bindings[binding].binding;
        let text = format!("{} {}", at.action, at.note.as_deref().unwrap_or_default()).to_lowercase();
        text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).map(str::to_owned).collect()
    }

    /// The word that a press's key is the first letter of.
    fn mnemonic(&self, binding: usize, press: Press) -> Option<String> {
        let letter = self.keyboard.letter(press)?;
        self.words(binding).into_iter().find(|word| word.starts_with(letter))
    }

    fn explain(&self, binding: usize, from: &[Press], to: &[Press], cost: i64) -> Move {
        let mut reasons = vec!["a move".to_owned()];
        for (position, (old, new)) in from.iter().zip(to).enumerate() {
            if old == new {
                continue;
            }
            let (crossed, swapped) = modifier_changes(old.modifiers, new.modifiers);
            let names = |set: u8| {
                Modifier::ALL.into_iter().filter(|m| set & *m as u8 != 0).map(Modifier::word).collect::<Vec<_>>().join(" and ")
            };
            let (added, removed) = (names(new.modifiers.0 & !old.modifiers.0), names(old.modifiers.0 & !new.modifiers.0));
            match (crossed, swapped) {
                (0, 0) => {}
                (0, _) => reasons.push(format!("{added} for {removed}")),
                _ if removed.is_empty() => reasons.push(format!("{added} as well")),
                _ if added.is_empty() => reasons.push(format!("without {removed}")),
                _ => reasons.push(format!("{added} for {removed}")),
            }
            match self.keyboard.distance(*old, *new) {
                Some(0) => {}
                Some(..=130) => reasons.push("the key beside it".to_owned()),
                Some(hundredths) => reasons.push(format!("{} keys away", (hundredths + 50) / 100)),
                None => reasons.push("a key without a place".to_owned()),
            }
            if position == 0 && from.len() > 1 {
                reasons.push("another first chord".to_owned());
            }
            if position + 1 == from.len()
                && self.mnemonic(binding, *old).is_none()
                && let (Some(word), Some(letter)) = (self.mnemonic(binding, *new), self.keyboard.letter(*new))
            {
                reasons.push(format!("{letter} for {word}"));
            }
        }
        let to = Keys(to.iter().map(|press| self.keyboard.chord(*press)).collect());
        Move { binding, to, cost, reasons }
    }

    /// The cheapest total by trying everything: the measure for [`Settling::plan`] in tests, for small cases only.
    pub fn brute_force(&self) -> Option<i64> {
        let fights = fights(self.bindings, self.keyboard);
        let presses = presses(self.bindings, self.keyboard);
        let stays = |at: &usize| self.bindings[*at].binding.fixed || self.keep.contains(at);
        let movers: Vec<usize> = {
            let mut movers: Vec<usize> =
                fights.iter().flat_map(|fight| fight.bindings.iter().copied()).filter(|at| !stays(at)).collect();
            movers.sort_unstable();
            movers.dedup();
            movers
        };
        let mut best = None;
        let mut places = presses.clone();
        self.try_all(&movers, 0, 0, &presses, &mut places, &mut best);
        best
    }

    fn try_all(
        &self,
        movers: &[usize],
        nth: usize,
        spent: i64,
        from: &[Vec<Press>],
        places: &mut Vec<Vec<Press>>,
        best: &mut Option<i64>,
    ) {
        if nth == movers.len() {
            let peace = (0..places.len()).all(|a| {
                (0..a).all(|b| {
                    let same = places[a] == from[a]
                        && places[b] == from[b]
                        && self.bindings[a].binding.action == self.bindings[b].binding.action;
                    !collide(&places[a], &places[b]) || (same && places[a] == places[b])
                })
            });
            if peace && best.is_none_or(|best| spent < best) {
                *best = Some(spent);
            }
            return;
        }
        let mover = movers[nth];
        self.try_all(movers, nth + 1, spent, from, places, best);
        let base = self.cost.r#move.0 + if self.bindings[mover].place.written() { self.cost.written.0 } else { 0 };
        let initials = self.initials(mover);
        let initials = initials.as_slice();
        let mut all: Vec<(i64, Vec<Press>)> = vec![(base, Vec::new())];
        for position in 0..from[mover].len() {
            let choices = self.choices(&from[mover], position);
            let longer = |(cost, prefix): &(i64, Vec<Press>)| {
                let (cost, prefix) = (*cost, prefix.clone());
                choices
                    .iter()
                    .map(move |to| {
                        (cost + self.step(initials, &from[mover], position, *to), [prefix.as_slice(), &[*to]].concat())
                    })
                    .collect::<Vec<_>>()
            };
            all = all.iter().flat_map(longer).collect();
        }
        for (cost, to) in all {
            if to != from[mover] {
                places[mover] = to;
                self.try_all(movers, nth + 1, spent + cost, from, places, best);
            }
        }
        places[mover] = from[mover].clone();
    }
}

/// Modifiers added or removed beyond swaps, and swaps.
fn modifier_changes(from: Modifiers, to: Modifiers) -> (i64, i64) {
    let added = i64::from((to.0 & !from.0).count_ones());
    let removed = i64::from((from.0 & !to.0).count_ones());
    let swapped = added.min(removed);
    (added + removed - 2 * swapped, swapped)
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

/// Joins groups whose answers collide; whether there were any.
fn join_quarrels(groups: &mut Vec<Vec<usize>>, solved: &HashMap<Vec<usize>, Answer>) -> bool {
    let mut owners: HashMap<&[Press], usize> = HashMap::new();
    let mut quarrels: Vec<(usize, usize)> = Vec::new();
    for (nth, answer) in groups.iter().enumerate().filter_map(|(nth, group)| Some((nth, solved.get(group)?))) {
        for (_, presses) in &answer.chosen {
            if let Some(other) = owners.insert(presses, nth).filter(|other| *other != nth) {
                quarrels.push((other, nth));
            }
        }
    }
    for (presses, nth) in &owners {
        for len in 1..presses.len() {
            if let Some(other) = owners.get(&presses[..len]).filter(|other| *other != nth) {
                quarrels.push((*other, *nth));
            }
        }
    }
    if quarrels.is_empty() {
        return false;
    }
    // Each pair becomes one group, with all that are joined to either already.
    let mut home: Vec<usize> = (0..groups.len()).collect();
    for (a, b) in quarrels {
        let (from, to) = (home[b], home[a]);
        home.iter_mut().filter(|group| **group == from).for_each(|group| *group = to);
    }
    let mut joined: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
    for (group, home) in std::mem::take(groups).into_iter().zip(home) {
        joined.entry(home).or_default().extend(group);
    }
    groups.extend(joined.into_values().map(|mut group| {
        group.sort_unstable();
        group
    }));
    true
}
