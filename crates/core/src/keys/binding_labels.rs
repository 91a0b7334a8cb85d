//! What bindings, tables and fights are called in reports.

use jovrik_text::problem::in_words;
use jovrik_values::chord::Modifier;

use super::conflict::{Conflict, ConflictKind};
use super::keyboard::KeyboardLayouts;
use super::scope::{BindingTarget, ScopedBinding, Scopes};

/// Names of what is bound.
#[derive(Debug, Clone, Copy)]
pub struct BindingLabels<'a> {
    /// Everything that is bound.
    pub scopes: &'a Scopes,
    /// The keyboards it is pressed on.
    pub keyboards: &'a KeyboardLayouts,
    /// The lead.
    pub lead: Modifier,
}

impl BindingLabels<'_> {
    /// The chords of a binding, as the rice would write them.
    pub fn chord(&self, bound: &ScopedBinding) -> String {
        bound.keys.with_lead(self.lead)
    }

    /// The same with the prefix of its scope before it.
    pub fn whole(&self, bound: &ScopedBinding) -> String {
        let table = &self.scopes.tables[bound.table];
        let prefix = self.scopes.readers[table.scope].prefix.as_ref().filter(|_| table.after_prefix);
        prefix.map_or_else(|| self.chord(bound), |prefix| format!("{} {}", prefix.with_lead(self.lead), self.chord(bound)))
    }

    /// Where a table is, after a verb: `on the desk`, `in mux`, `on the desk in the mode sizing`.
    pub fn place(&self, table: usize) -> String {
        let table = &self.scopes.tables[table];
        let scope = match table.scope {
            0 => "on the desk".to_owned(),
            scope => format!("in {}", self.scopes.readers[scope].name),
        };
        match &table.mode {
            Some(mode) => format!("{scope} in the mode {mode}"),
            None => scope,
        }
    }

    /// `, on the layout fr`, where that is not on all.
    pub fn on(&self, layouts: &[usize]) -> String {
        let names: Vec<&str> = layouts.iter().map(|at| self.keyboards.nth(*at).layout.as_str()).collect();
        match names.len() {
            0 => String::new(),
            1 => format!(", on the layout {}", names[0]),
            _ => format!(", on the layouts {}", in_words(&names)),
        }
    }

    /// Who takes a key: `the desk`, `the prefix of mux`.
    pub fn who(&self, bound: &ScopedBinding) -> String {
        let name = self.scopes.table_name(bound.table);
        if bound.what == BindingTarget::Prefix { format!("the prefix of {name}") } else { name }
    }

    /// A fight in one sentence.
    pub fn title(&self, fight: &Conflict) -> String {
        let bound = |at: usize| &self.scopes.bound[at];
        let first = bound(fight.bindings[0]);
        let (keys, on) = (self.chord(first), self.on(&fight.layouts));
        match (fight.kind, &fight.bindings[1..]) {
            (ConflictKind::Twice, others) => {
                let many = match others.len() + 1 {
                    2 => "two".to_owned(),
                    many => many.to_string(),
                };
                format!("{keys} has {many} actions {}{on}", self.place(first.table))
            }
            (ConflictKind::Stalls, _) => {
                format!("{keys} is a binding and also begins a sequence {}{on}", self.place(first.table))
            }
            (ConflictKind::Swallowed, [one]) => {
                let inner = bound(*one);
                let scope = self.scopes.table_name(inner.table);
                format!(
                    "{} never gets to {scope}{on}: {} takes {}",
                    self.chord(inner),
                    self.who(first),
                    if inner.keys == first.keys { "it" } else { &keys }
                )
            }
            (ConflictKind::Swallowed, many) => {
                let who = self.who(first);
                format!(
                    "{keys} is taken by {who}{on}: {} further in never get it",
                    jovrik_text::problem::count(many.len(), "binding")
                )
            }
            (ConflictKind::Displaced, lost) => {
                let reader = lost.first().map_or("", |at| self.scopes.reader_of(*at).name.as_str());
                format!("{keys} takes a key that {reader} uses by itself{on}")
            }
        }
    }
}
