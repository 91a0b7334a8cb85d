//! Which bindings of one scope fight for a press.

use std::collections::HashMap;

use super::keyboard::{Keyboard, Press};
use crate::problem::Problem;
use crate::rice::BindingAt;

/// How bindings fight.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum FightKind {
    /// One press has two actions.
    Twice,
    /// A chord is a binding and also the start of a sequence.
    Stalls,
}

impl FightKind {
    /// The code of its problem.
    pub fn code(self) -> &'static str {
        match self {
            FightKind::Twice => "keys/twice",
            FightKind::Stalls => "keys/stalls",
        }
    }
}

/// A fight.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fight {
    /// How they fight.
    pub kind: FightKind,
    /// Who fights, in the order of the rice; of a stall the short one first.
    pub bindings: Vec<usize>,
}

/// The presses of each binding.
pub fn presses(bindings: &[BindingAt], keyboard: &Keyboard) -> Vec<Vec<Press>> {
    bindings.iter().map(|at| at.keys.0.iter().map(|chord| keyboard.press(chord)).collect()).collect()
}

/// All fights among the bindings of one scope and mode, by the first who fights.
pub fn fights(bindings: &[BindingAt], keyboard: &Keyboard) -> Vec<Fight> {
    let presses = presses(bindings, keyboard);
    let mut by_press: HashMap<&[Press], Vec<usize>> = HashMap::with_capacity(bindings.len());
    let lives = |at: &usize| bindings[*at].binding.action != crate::desk::Action::None;
    for at in (0..bindings.len()).filter(lives) {
        by_press.entry(&presses[at]).or_default().push(at);
    }
    let mut fights = Vec::new();
    let mut stalls: HashMap<usize, Vec<usize>> = HashMap::new();
    for (press, group) in &by_press {
        let differ = group.iter().any(|at| bindings[*at].binding.action != bindings[group[0]].binding.action);
        if differ {
            fights.push(Fight { kind: FightKind::Twice, bindings: group.clone() });
        }
        for len in 1..press.len() {
            for short in by_press.get(&press[..len]).into_iter().flatten() {
                stalls.entry(*short).or_default().extend(group);
            }
        }
    }
    fights.extend(stalls.into_iter().map(|(short, mut long)| {
        long.sort_unstable();
        Fight { kind: FightKind::Stalls, bindings: std::iter::once(short).chain(long).collect() }
    }));
    fights.sort_by(|a, b| (&a.bindings, a.kind).cmp(&(&b.bindings, b.kind)));
    fights
}

/// What a binding does, in a few words: its note, or what the action does.
pub fn meaning(at: &BindingAt) -> String {
    match &at.binding.note {
        Some(note) => note.clone(),
        None => at.binding.action.to_string(),
    }
}

impl Fight {
    /// The fight as a problem of the rice.
    pub fn problem(&self, all: &[BindingAt], lead: super::Modifier) -> Problem {
        let first = &all[self.bindings[0]];
        let keys = first.keys.with_lead(lead);
        let settle = "finds the cheapest free place for one of them";
        match self.kind {
            FightKind::Twice => {
                let actions = match self.bindings.len() {
                    2 => "two actions".to_owned(),
                    many => format!("{many} actions"),
                };
                let mut problem = Problem::error("keys/twice", format!("{keys} has {actions} on the desk"));
                for (nth, at) in self.bindings.iter().enumerate() {
                    let binding = &all[*at];
                    let spelling = if nth == 0 {
                        String::new()
                    } else if binding.written == first.written {
                        "; the same keys".to_owned()
                    } else {
                        "; the same keys, spelled differently".to_owned()
                    };
                    let wins = if nth + 1 == self.bindings.len() { "; read later, so it would win" } else { "" };
                    problem = problem.at(binding.place, format!("{}{spelling}{wins}", meaning(binding)));
                }
                problem
                    .because(if self.bindings.len() == 2 {
                        "Pressing it can do only one of the two."
                    } else {
                        "Pressing it can do only one of them."
                    })
                    .advise("jovrik keys settle", settle)
            }
            FightKind::Stalls => {
                let mut problem = Problem::error("keys/stalls", format!("{keys} is a binding and also begins a sequence"))
                    .at(first.place, format!("{}; it would have to wait", meaning(first)));
                for at in &self.bindings[1..] {
                    problem = problem.at(all[*at].place, format!("{}; begins with the same keys", meaning(&all[*at])));
                }
                problem.because("Nobody can tell which one is meant until the next press.").advise("jovrik keys settle", settle)
            }
        }
    }
}
