//! One reader of the keyboard, against what the rice says read line by line: whatever is bound, and whatever is pressed.

use std::collections::BTreeMap;
use std::fmt::Write as _;

use jovrik_core::desktop::DesktopEvent;
use jovrik_core::keys::{BindingMatcher, ConsumeReason, KeyCombo, KeyboardLayout, MatchResult};
use jovrik_values::action::Action;
use jovrik_values::chord::ChordSequence;
use proptest::prelude::*;

use crate::checked;
use crate::pretended::{Pretended, press};

/// Chords, and the key of each.
const CHORDS: [(&str, &str); 8] = [
    ("Lead+a", "a"),
    ("Lead+b", "b"),
    ("a", "a"),
    ("b", "b"),
    ("Ctrl+c", "c"),
    ("Escape", "Escape"),
    ("F5", "F5"),
    ("XF86AudioMute", "XF86AudioMute"),
];
const MEDIA: usize = 7;
const OTHERS: [&str; 3] = ["pass", "eat", "leave"];

/// What is bound in a mode: whether it happens when the keys come up, and whether it is done again while they are held.
type Table = BTreeMap<Vec<usize>, (bool, bool)>;

/// A rice: what is bound outside of the modes, and in each of them with what becomes of all other keys.
#[derive(Debug, Clone)]
struct Bound {
    plain: Table,
    modes: Vec<(Table, usize)>,
}

#[derive(Debug, Clone, Copy)]
enum Step {
    Press(usize),
    /// Held, and repeated by the keyboard.
    Again(usize),
    Release(usize),
    Enter(Option<usize>),
}

/// The number of a binding: that of its table times 100, and its place there.
fn number(table: usize, nth: usize) -> usize {
    table * 100 + nth
}

impl Bound {
    fn table(&self, mode: Option<usize>) -> &Table {
        mode.map_or(&self.plain, |mode| &self.modes[mode].0)
    }

    fn toml(&self) -> String {
        let mut text = String::new();
        let tables = std::iter::once((&self.plain, None)).chain(self.modes.iter().map(|(table, others)| (table, Some(others))));
        for (at, (table, others)) in tables.enumerate() {
            let _ = match others {
                None => writeln!(text, "[keys.desk]"),
                Some(others) => writeln!(text, "[keys.desk.modes.m{}]\nothers = \"{}\"", at - 1, OTHERS[*others]),
            };
            for (nth, (chords, (release, repeat))) in table.iter().enumerate() {
                let chords: Vec<&str> = chords.iter().map(|chord| CHORDS[*chord].0).collect();
                let on = if *release { ", on = \"release\"" } else { "" };
                let number = number(at, nth);
                let _ = writeln!(text, "\"{}\" = {{ do = \"go w{number}\", repeat = {repeat}{on} }}", chords.join(" "));
            }
        }
        text
    }
}

/// What becomes of presses, told from the rice alone.
struct Told<'b> {
    bound: &'b Bound,
    mode: Option<usize>,
    so_far: Vec<usize>,
    /// Where the sequence began.
    within: Option<usize>,
    down: BTreeMap<&'static str, usize>,
}

#[derive(Debug, PartialEq, Eq)]
enum Became {
    Act(usize),
    Wait,
    Eaten(ConsumeReason),
    Passed,
}

impl Told<'_> {
    /// What the sequence so far means in a mode.
    fn means(&mut self, again: bool) -> Option<Became> {
        let table = self.bound.table(self.within);
        let at = self.within.map_or(0, |mode| mode + 1);
        let exact = table.iter().position(|(chords, _)| *chords == self.so_far);
        let begins = table.keys().any(|chords| chords.len() > self.so_far.len() && chords.starts_with(&self.so_far));
        let own = exact.map(|nth| (number(at, nth), table[&self.so_far]));
        match own {
            Some((number, (true, _))) => {
                let last = *self.so_far.last().expect("one was pressed");
                self.down.insert(CHORDS[last].1, number);
                Some(if begins { Became::Wait } else { Became::Eaten(ConsumeReason::Release) })
            }
            Some((_, (false, false))) if again => Some(Became::Eaten(ConsumeReason::Held)),
            Some((number, (false, _))) => Some(Became::Act(number)),
            None => begins.then_some(Became::Wait),
        }
    }

    fn press(&mut self, chord: usize, again: bool) -> Became {
        let waited = !self.so_far.is_empty();
        if again && self.so_far.last().is_some_and(|last| CHORDS[*last].1 == CHORDS[chord].1) {
            return Became::Eaten(ConsumeReason::Held);
        }
        self.so_far.push(chord);
        if !waited {
            self.within = self.mode;
        }
        let goes_on = self.bound.table(self.within).keys().any(|chords| chords.starts_with(&self.so_far));
        if waited && !goes_on {
            self.so_far.clear();
            return Became::Eaten(ConsumeReason::EndsSequence);
        }
        let mut became = self.means(again);
        if became.is_none() && !waited && self.mode.is_some() && chord == MEDIA {
            self.within = None;
            became = self.means(again);
        }
        if became != Some(Became::Wait) {
            self.so_far.clear();
        }
        became.unwrap_or_else(|| match self.mode.map(|mode| OTHERS[self.bound.modes[mode].1]) {
            None | Some("pass") => Became::Passed,
            Some("eat") => Became::Eaten(ConsumeReason::Mode),
            Some(_) => {
                self.mode = None;
                Became::Eaten(ConsumeReason::LeavesMode)
            }
        })
    }
}

fn table() -> impl Strategy<Value = Table> {
    let chords = prop::collection::vec(0..CHORDS.len(), 1..4);
    // Only what is one chord may wait for its keys to come up.
    let how = (chords, any::<(bool, bool)>()).prop_map(|(chords, (release, repeat))| {
        let release = release && chords.len() == 1;
        (chords, (release, repeat))
    });
    prop::collection::vec(how, 0..7).prop_map(|all| all.into_iter().collect())
}

fn bound() -> impl Strategy<Value = Bound> {
    (table(), prop::collection::vec((table(), 0..OTHERS.len()), 0..3)).prop_map(|(plain, modes)| Bound { plain, modes })
}

fn steps() -> impl Strategy<Value = Vec<Step>> {
    let chord = || 0..CHORDS.len();
    let step = prop_oneof![
        8 => chord().prop_map(Step::Press),
        2 => chord().prop_map(Step::Again),
        2 => chord().prop_map(Step::Release),
        1 => prop::option::of(0usize..2).prop_map(Step::Enter),
    ];
    prop::collection::vec(step, 1..40)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn what_is_bound_is_heard_and_nothing_else(bound in bound(), steps in steps()) {
        let text = bound.toml();
        let rice = checked(&text);
        let us = KeyboardLayout::us();
        let presses: Vec<KeyCombo> =
            CHORDS.iter().map(|(chord, _)| us.presses(&ChordSequence::parse(chord, "Super").expect("a chord").0[0])[0]).collect();
        let (mut desk, cannot) = BindingMatcher::new(&rice.scopes, 0, us);
        prop_assert_eq!(cannot, Vec::<usize>::new());
        let mut told = Told { bound: &bound, mode: None, so_far: Vec::new(), within: None, down: BTreeMap::new() };
        let number = |at: usize| match rice.scopes.action(at) {
            Some(Action::Go(place)) => {
                let word = format!("{place:?}");
                let digits: String = word.chars().filter(char::is_ascii_digit).collect();
                digits.parse::<usize>().expect("a number")
            }
            other => unreachable!("{other:?} is bound by nobody"),
        };
        for (nth, step) in steps.iter().enumerate() {
            match *step {
                Step::Press(chord) | Step::Again(chord) => {
                    let again = matches!(step, Step::Again(_));
                    let became = match desk.press(presses[chord], again) {
                        MatchResult::Act(at) => Became::Act(number(at)),
                        MatchResult::Wait => Became::Wait,
                        MatchResult::Consumed(why) => Became::Eaten(why),
                        MatchResult::Passed => Became::Passed,
                    };
                    prop_assert_eq!(became, told.press(chord, again), "step {}: {:?} in\n{}", nth, step, text);
                }
                Step::Release(chord) => {
                    let wanted = told.down.remove(CHORDS[chord].1);
                    prop_assert_eq!(desk.release(presses[chord].key).map(number), wanted, "step {} in\n{}", nth, text);
                }
                Step::Enter(mode) => {
                    let known = mode.is_none_or(|mode| mode < bound.modes.len());
                    let name = mode.map(|mode| format!("m{mode}"));
                    prop_assert_eq!(desk.enter(name.as_deref()), known, "step {} in\n{}", nth, text);
                    told.so_far.clear();
                    if known {
                        told.mode = mode;
                    }
                }
            }
            let wanted = told.mode.map(|mode| format!("m{mode}"));
            prop_assert_eq!(&desk.mode, &wanted, "after step {} in\n{}", nth, text);
            let so_far: Vec<KeyCombo> = told.so_far.iter().map(|chord| presses[*chord]).collect();
            prop_assert_eq!(&desk.so_far, &so_far, "after step {} in\n{}", nth, text);
            prop_assert_eq!(desk.holds_keys(), !told.down.is_empty());
            // What can be pressed first is asked of the server, and no more than that.
            let wants = desk.grabs();
            let first = |mode: Option<usize>, chord: usize| bound.table(mode).keys().any(|chords| chords[0] == chord);
            for (chord, press) in presses.iter().enumerate() {
                let wanted = first(told.mode, chord) || chord == MEDIA && first(None, chord);
                prop_assert_eq!(wants.contains(press), wanted, "{} after step {} in\n{}", CHORDS[chord].0, nth, text);
            }
            prop_assert_eq!(desk.keeps_all(), told.mode.is_some_and(|mode| OTHERS[bound.modes[mode].1] != "pass"));
        }
    }

    #[test]
    fn another_layout_takes_over_where_the_first_was(bound in bound(), steps in steps()) {
        let rice = checked(&bound.toml());
        let us = KeyboardLayout::us();
        let press = |chord: usize| us.presses(&ChordSequence::parse(CHORDS[chord].0, "Super").expect("a chord").0[0])[0];
        let (mut stays, _) = BindingMatcher::new(&rice.scopes, 0, us);
        let (mut changes, _) = BindingMatcher::new(&rice.scopes, 0, us);
        for step in steps {
            // The same keyboard again: nobody notices.
            changes = BindingMatcher::new(&rice.scopes, 0, us).0.like(&changes);
            match step {
                Step::Press(chord) => prop_assert_eq!(stays.press(press(chord), false), changes.press(press(chord), false)),
                Step::Again(chord) => prop_assert_eq!(stays.press(press(chord), true), changes.press(press(chord), true)),
                Step::Release(chord) => {
                    prop_assert_eq!(stays.release(press(chord).key), changes.release(press(chord).key));
                }
                Step::Enter(mode) => {
                    let name = mode.map(|mode| format!("m{mode}"));
                    prop_assert_eq!(stays.enter(name.as_deref()), changes.enter(name.as_deref()));
                }
            }
            prop_assert_eq!(stays.waiting(), changes.waiting());
            prop_assert_eq!(stays.grabs(), changes.grabs());
        }
    }
}

#[test]
fn what_was_pressed_under_other_bindings_does_nothing_when_it_comes_up() {
    let own = "[workspaces]\norder = [\"one\", \"two\", \"three\"]\n[keys.desk]\n";
    let last = "\"Lead+r\" = { do = \"go two\", on = \"release\" }\n";
    let mut it = Pretended::of(&format!("{own}{last}"));
    it.down("Lead+r");
    // Another binding has its number now.
    let rice = checked(&format!("{own}\"Lead+w\" = \"go three\"\n{last}"));
    it.tell(DesktopEvent::Settings(rice.rice.clone(), rice.scopes.clone()));
    it.tell(DesktopEvent::KeyReleased(press("Lead+r").key));
    assert_eq!(it.workspace(), "one");
    it.down("Lead+r");
    it.tell(DesktopEvent::KeyReleased(press("Lead+r").key));
    assert_eq!(it.workspace(), "two", "pressed again, it is what it is now");
}
