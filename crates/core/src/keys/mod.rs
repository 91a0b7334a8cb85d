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

pub use chord::{Chord, Key, Keys, Modifier, Modifiers, Spelling, meant, sym_char, sym_name, sym_of as keysym};
pub use clash::{Fight, FightKind, Ways, begins, fights, loops, traps, ways};
pub use compose::{Composed, Composing, Compositions};
pub use geometry::{Geometry, Spot};
pub use keyboard::{Cap, Keyboard, Keyboards, Layouts, NoLayout, Press};
pub use listen::{Heard, Listener, Why};
pub use names::Names;
pub use scope::{Bound, Known, LAUNCHER, MOST_SCOPES, Meeting, Reader, Scopes, Table, What};
pub use settle::{Move, NoPlan, Plan, Settling};
pub use sheet::{Entry, Layer, Shown, label, layers};
pub use trace::{Answer, Asking, NoTrace, Reaction, Step, Tracer, Way, ways_to};
