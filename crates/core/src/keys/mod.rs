//! Chords, the keyboard they are pressed on, which of them fight, and the cheapest peace.

mod assign;
mod chord;
mod clash;
mod compose;
mod cost;
mod exhaust;
mod geometry;
mod keyboard;
mod listen;
mod market;
mod names;
mod scope;
mod settle;
mod sheet;
mod trace;

pub use chord::{Chord, ChordError, ChordKey, ChordSequence, Modifier, Modifiers, meant, sym_char, sym_name, sym_of as keysym};
pub use clash::{ComboSequences, Conflict, ConflictKind, begins, fights, loops, traps, ways};
pub use compose::{ComposeResult, ComposeState, Compositions};
pub use geometry::{Geometry, Spot};
pub use keyboard::{KeyCombo, KeyboardLayout, KeyboardLayouts, LayoutKey, RuleNames, UnknownLayout};
pub use listen::{BindingMatcher, ConsumeReason, MatchResult};
pub use names::BindingLabels;
pub use scope::{
    BindingTable, BindingTarget, ExternalBindings, KeyScope, LAUNCHER, MAX_SCOPES, ScopedBinding, Scopes, TableRelation,
};
pub use settle::{Plan, Rebinding, SettleError, SettleProblem};
pub use sheet::{ModifierLayer, SheetEntry, SheetFilter, label, layers};
pub use trace::{ActionRoute, Answer, Reaction, TraceContext, TraceError, TraceStep, Tracer, ways_to};
