//! Chords, the keyboard they are pressed on, which of them fight, and the cheapest peace.

mod assign;
mod binding_labels;
mod binding_matcher;
mod brute_force;
mod candidate_space;
mod compose;
mod conflict;
mod cost;
mod geometry;
mod keyboard;
mod scope;
mod settle;
mod sheet;
mod trace;

pub use binding_labels::BindingLabels;
pub use binding_matcher::{BindingMatcher, ConsumeReason, MatchResult};
pub use compose::{ComposeResult, ComposeState, Compositions};
pub use conflict::{ComboSequences, Conflict, ConflictKind, begins, fights, loops, traps, ways};
pub use geometry::{Geometry, Spot};
pub use keyboard::{KeyCombo, KeyboardLayout, KeyboardLayouts, LayoutKey, RuleNames, UnknownLayout};
pub use scope::{
    BindingTable, BindingTarget, ExternalBindings, KeyScope, LAUNCHER, MAX_SCOPES, ScopedBinding, Scopes, TableRelation,
};
pub use settle::{Plan, Rebinding, SettleError, SettleProblem};
pub use sheet::{ModifierLayer, SheetEntry, SheetFilter, label, layers};
pub use trace::{ActionRoute, Answer, Reaction, TraceContext, TraceError, TraceStep, Tracer, ways_to};
