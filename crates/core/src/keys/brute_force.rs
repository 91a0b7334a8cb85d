//! Every choice tried: what the cheapest peace is held to.

use std::rc::Rc;

use jovrik_values::chord::{Chord, ChordSequence};

use super::candidate_space::Candidate;
use super::conflict::{ComboSequences, ways};
use super::keyboard::KeyCombo;
use super::settle::SettleProblem;

impl SettleProblem<'_> {
    /// The cheapest total by trying everything: the measure for [`SettleProblem::plan`] in tests, for small cases only.
    pub fn brute_force(&self) -> Option<i64> {
        let quarrels = self.quarrels();
        let mut movers: Vec<usize> =
            quarrels.iter().flat_map(|fight| fight.bindings.iter().copied()).filter(|at| !self.stays(*at)).collect();
        movers.sort_unstable();
        movers.dedup();
        let place = |keys: &ChordSequence| {
            let on = self.keyboards.iter().map(|keyboard| ways(keys, keyboard)).collect();
            Rc::new(Candidate { keys: keys.clone(), on })
        };
        let homes: Vec<Rc<Candidate>> = self.scopes.bound.iter().map(|bound| place(&bound.keys)).collect();
        let mut places = homes.clone();
        let mut best = None;
        self.try_all(&movers, 0, 0, &homes, &mut places, &mut best);
        best
    }

    fn try_all(
        &self,
        movers: &[usize],
        nth: usize,
        spent: i64,
        homes: &[Rc<Candidate>],
        places: &mut Vec<Rc<Candidate>>,
        best: &mut Option<i64>,
    ) {
        if best.is_some_and(|best| spent >= best) {
            return;
        }
        if nth == movers.len() {
            let bound = &self.scopes.bound;
            let peace = (0..places.len()).filter(|a| bound[*a].lives()).all(|a| {
                (0..a).filter(|b| bound[*b].lives()).all(|b| {
                    let home = places[a].keys == homes[a].keys && places[b].keys == homes[b].keys;
                    let both_known = bound[a].known && bound[b].known;
                    let same = home && self.friends(a, b);
                    both_known || same || !self.collide((a, &places[a]), (b, &places[b]))
                })
            });
            if peace {
                *best = Some(spent);
            }
            return;
        }
        let mover = movers[nth];
        self.try_all(movers, nth + 1, spent, homes, places, best);
        let keys = &self.scopes.bound[mover].keys;
        let first = self.keyboards.first();
        let mut all: Vec<Vec<Chord>> = vec![Vec::new()];
        for (position, chord) in keys.0.iter().enumerate() {
            let old = self.press(chord);
            let mut choices = vec![chord.clone()];
            for modifiers in self.usable(old, position) {
                if position > 0 || !Self::writes(modifiers) || Self::writes(old.modifiers) {
                    let presses = first.caps.iter().map(|cap| KeyCombo { key: cap.code, modifiers });
                    choices.extend(
                        presses.filter(|press| *press != old && first.reserved(*press).is_none()).map(|press| first.chord(press)),
                    );
                }
            }
            all = all
                .iter()
                .flat_map(|prefix| choices.iter().map(|to| [prefix.as_slice(), std::slice::from_ref(to)].concat()))
                .collect();
        }
        for to in all.into_iter().map(ChordSequence).filter(|to| to != keys) {
            let on: Vec<ComboSequences> = self.keyboards.iter().map(|keyboard| ways(&to, keyboard)).collect();
            if on.iter().any(Vec::is_empty) {
                continue;
            }
            let cost = self.price(mover, &to);
            places[mover] = Rc::new(Candidate { keys: to, on });
            self.try_all(movers, nth + 1, spent + cost, homes, places, best);
        }
        places[mover] = homes[mover].clone();
    }
}
