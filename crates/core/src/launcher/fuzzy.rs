//! What a typed text finds in a list: letters in their order, accents folded, the most used first.

use std::cmp::Reverse;
use std::collections::HashMap;
use std::fmt;
use std::rc::Rc;

use nucleo_matcher::pattern::{AtomKind, CaseMatching, Normalization, Pattern};
use nucleo_matcher::{Config, Matcher};

use super::entry::{LauncherEntry, LauncherList};

/// A list that is searched while somebody types.
pub struct Finder {
    entries: Rc<LauncherList>,
    /// How much each was used.
    weights: Vec<u32>,
    typed: String,
    /// What was found: the numbers of entries with their scores; so many of them are in order.
    found: Vec<(u32, u32)>,
    ordered: usize,
    matcher: Matcher,
}

impl fmt::Debug for Finder {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Finder").field("typed", &self.typed).field("found", &self.found.len()).finish_non_exhaustive()
    }
}

/// So many are put in order at once: more than anybody looks at.
const CHUNK: usize = 256;
/// What a match in the name is worth over one in other words.
const NAME: u32 = 40;
/// What the one that was used most is worth.
const USED: f32 = 60.0;

impl Finder {
    /// Begins with all of a list; `uses` says how much each was used, by its id.
    pub fn new(entries: Rc<LauncherList>, uses: &HashMap<String, f32>) -> Finder {
        // It counts less and less how often more.
        let weight =
            |entry: &LauncherEntry| uses.get(&entry.id).map_or(0, |used| (USED * (1.0 - 1.0 / (1.0 + used.max(0.0)))) as u32);
        let weights = if uses.is_empty() { vec![0; entries.all.len()] } else { entries.all.iter().map(weight).collect() };
        let mut finder = Finder {
            entries,
            weights,
            typed: String::new(),
            found: Vec::new(),
            ordered: 0,
            matcher: Matcher::new(Config::DEFAULT),
        };
        finder.all();
        finder
    }

    /// The list.
    pub fn entries(&self) -> &Rc<LauncherList> {
        &self.entries
    }

    fn all(&mut self) {
        let weights = self.weights.iter().enumerate();
        self.found = weights.map(|(at, weight)| (at as u32, *weight)).collect();
        // Nobody typed anything: their own order, unless some were used.
        self.ordered = if self.weights.iter().all(|weight| *weight == 0) { self.found.len() } else { 0 };
    }

    /// Searches for a text; every word of it must be found.
    pub fn find(&mut self, typed: &str) {
        let narrower = !self.typed.is_empty() && typed.starts_with(&self.typed);
        typed.clone_into(&mut self.typed);
        if typed.trim().is_empty() {
            return self.all();
        }
        if !narrower {
            self.all();
        }
        let pattern = |kind| Pattern::new(typed, CaseMatching::Ignore, Normalization::Smart, kind);
        let (name, whole) = (pattern(AtomKind::Fuzzy), pattern(AtomKind::Substring));
        let (entries, weights, matcher) = (&self.entries, &self.weights, &mut self.matcher);
        self.found.retain_mut(|(at, score)| {
            let one = *at as usize;
            let in_name = name.score(entries.names[one].slice(..), matcher).map(|score| score + NAME);
            let found = in_name.or_else(|| whole.score(entries.whole[one].as_ref()?.slice(..), matcher));
            *score = found.unwrap_or_default() + weights[one];
            found.is_some()
        });
        self.ordered = 0;
    }

    /// How many were found.
    pub fn count(&self) -> usize {
        self.found.len()
    }

    /// Puts the best in order, up to a place and some more.
    fn order(&mut self, upto: usize) {
        if upto < self.ordered || self.ordered == self.found.len() {
            return;
        }
        let wanted = (upto + CHUNK).min(self.found.len());
        let entries = &self.entries;
        let key = |found: &(u32, u32)| (Reverse(found.1), entries.all[found.0 as usize].name.len().min(1 << 12), found.0);
        // With nothing typed the order of the list holds among those that are used alike.
        let plain = |found: &(u32, u32)| (Reverse(found.1), 0, found.0);
        let by = |found: &(u32, u32)| if self.typed.trim().is_empty() { plain(found) } else { key(found) };
        if wanted < self.found.len() {
            self.found.select_nth_unstable_by_key(wanted, by);
        }
        self.found[..wanted].sort_unstable_by_key(by);
        self.ordered = wanted;
    }

    /// One of those that were found, the best first: its number in the list.
    pub fn nth(&mut self, nth: usize) -> Option<usize> {
        self.order(nth);
        self.found.get(nth).map(|(at, _)| *at as usize)
    }

    /// The letters of a name that were typed, by their places among its characters.
    pub fn letters(&mut self, at: usize) -> Vec<usize> {
        if self.typed.trim().is_empty() {
            return Vec::new();
        }
        let (mut letters, typed) = (Vec::new(), &self.typed);
        let name = self.entries.names[at].slice(..);
        let mut one = |kind, letters: &mut Vec<u32>| {
            let pattern = Pattern::new(typed, CaseMatching::Ignore, Normalization::Smart, kind);
            pattern.indices(name, &mut self.matcher, letters).is_some()
        };
        if !one(AtomKind::Fuzzy, &mut letters) {
            // Found by other words: what of those stands in the name all the same.
            letters.clear();
        }
        letters.sort_unstable();
        letters.dedup();
        letters.into_iter().map(|at| at as usize).collect()
    }
}
