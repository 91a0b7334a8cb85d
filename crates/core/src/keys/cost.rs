//! What a move costs, by the weights of `[keys.cost]`, and why.

use jovrik_values::chord::{Chord, ChordKey, ChordSequence, Modifier, Modifiers};

use super::keyboard::{KeyCombo, KeyboardLayout};
use super::settle::{Rebinding, SettleProblem};

impl SettleProblem<'_> {
    /// What moving costs whatever the keys.
    pub(super) fn base(&self, at: usize) -> i64 {
        self.cost.r#move.0 + if self.scopes.bound[at].place.written() { self.cost.written.0 } else { 0 }
    }

    pub(super) fn press(&self, chord: &Chord) -> KeyCombo {
        let press = self.keyboards.first().presses(chord).first().copied();
        press.unwrap_or(KeyCombo { key: 0, modifiers: chord.modifiers })
    }

    /// What a chord's change costs beside the way from key to key, in hundredths.
    pub(super) fn step_base(&self, chords: usize, position: usize, old: Modifiers, new: Modifiers) -> i64 {
        let (crossed, swapped) = modifier_changes(old, new);
        let mut cost = self.cost.modifier.0 * crossed + self.cost.swap.0 * swapped;
        if new.len() > 3 {
            cost += self.cost.crowd.0;
        }
        if position == 0 && chords > 1 {
            cost += self.cost.first.0;
        }
        cost
    }

    /// The largest distance between the keys of two chords over all layouts.
    pub(super) fn distance(&self, old: &Chord, new: &Chord) -> i64 {
        let on = |keyboard: &KeyboardLayout| {
            let key = |chord: &Chord| keyboard.presses(chord).first().map(|press| press.key);
            let far = key(old).zip(key(new)).and_then(|(old, new)| keyboard.distance(old, new));
            far.unwrap_or(self.cost.nowhere.0)
        };
        self.keyboards.iter().map(on).max().unwrap_or(0)
    }

    /// What the change of one chord costs, in hundredths.
    fn step(&self, at: usize, initials: &[char], position: usize, to: &Chord) -> i64 {
        let keys = &self.scopes.bound[at].keys.0;
        let (old, new) = (self.press(&keys[position]), self.press(to));
        if old == new {
            return 0;
        }
        let mut cost = self.step_base(keys.len(), position, old.modifiers, new.modifiers) + self.distance(&keys[position], to);
        let meant = |press: KeyCombo| self.keyboards.first().letter(press.key).is_some_and(|letter| initials.contains(&letter));
        if position + 1 == keys.len() && meant(new) && !meant(old) {
            cost -= self.cost.letter.0;
        }
        cost
    }

    /// What it costs to move a binding to other chords, in hundredths.
    pub fn price(&self, at: usize, to: &ChordSequence) -> i64 {
        let from = &self.scopes.bound[at].keys;
        if from == to {
            return 0;
        }
        let initials = self.initials(at);
        let steps: i64 =
            (0..from.0.len().min(to.0.len())).map(|position| self.step(at, &initials, position, &to.0[position])).sum();
        let longer = from.0.len().abs_diff(to.0.len()) as i64 * 200;
        (self.base(at) + steps + longer) * self.scopes.weight(at)
    }

    /// The first letters of the words of what it does and of the note.
    pub(super) fn initials(&self, binding: usize) -> Vec<char> {
        let mut initials: Vec<char> = self.words(binding).iter().filter_map(|word| word.chars().next()).collect();
        initials.sort_unstable();
        initials.dedup();
        initials
    }

    fn words(&self, binding: usize) -> Vec<String> {
        let bound = &self.scopes.bound[binding];
        let text = format!("{} {}", bound.what, bound.note.as_deref().unwrap_or_default()).to_lowercase();
        text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).map(str::to_owned).collect()
    }

    /// The word that a key is the first letter of.
    fn mnemonic(&self, binding: usize, press: KeyCombo) -> Option<String> {
        let letter = self.keyboards.first().letter(press.key)?;
        self.words(binding).into_iter().find(|word| word.starts_with(letter))
    }

    /// A move with what makes up its cost.
    pub(super) fn explain(&self, binding: usize, to: &ChordSequence) -> Rebinding {
        let from = &self.scopes.bound[binding].keys;
        let mut reasons = vec!["a move".to_owned()];
        for (position, (from_chord, to_chord)) in from.0.iter().zip(&to.0).enumerate() {
            let (old, new) = (self.press(from_chord), self.press(to_chord));
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
            let nowhere = [from_chord, to_chord].into_iter().any(|chord| match &chord.key {
                ChordKey::Button(_) => true,
                ChordKey::Sym(_) | ChordKey::Place(_) => self.keyboards.first().spot(self.press(chord).key).is_none(),
            });
            match self.distance(from_chord, to_chord) {
                0 => {}
                _ if nowhere => reasons.push("a key without a place".to_owned()),
                ..=130 => reasons.push("the key beside it".to_owned()),
                hundredths => reasons.push(format!("{} keys away", (hundredths + 50) / 100)),
            }
            if position == 0 && from.0.len() > 1 {
                reasons.push("another first chord".to_owned());
            }
            if position + 1 == from.0.len()
                && self.mnemonic(binding, old).is_none()
                && let (Some(word), Some(letter)) = (self.mnemonic(binding, new), self.keyboards.first().letter(new.key))
            {
                reasons.push(format!("{letter} for {word}"));
            }
        }
        match to.0.len().cmp(&from.0.len()) {
            std::cmp::Ordering::Greater => reasons.push("more chords".to_owned()),
            std::cmp::Ordering::Less => reasons.push("fewer chords".to_owned()),
            std::cmp::Ordering::Equal => {}
        }
        let weight = self.scopes.weight(binding);
        if weight > 1 {
            reasons.push(format!("for each of the {weight} bindings behind it"));
        }
        Rebinding { binding, to: to.clone(), cost: self.price(binding, to), reasons }
    }
}

/// Modifiers added or removed beyond swaps, and swaps.
fn modifier_changes(from: Modifiers, to: Modifiers) -> (i64, i64) {
    let added = i64::from((to.0 & !from.0).count_ones());
    let removed = i64::from((from.0 & !to.0).count_ones());
    let swapped = added.min(removed);
    (added + removed - 2 * swapped, swapped)
}
