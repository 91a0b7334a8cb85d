//! Chords, the keyboard they are pressed on, which of them fight, and the cheapest peace.

mod assign;
mod chord;
mod clash;
mod keyboard;
mod settle;

pub use chord::{Chord, Key, Keys, Modifier, Modifiers, Spelling, sym_of as keysym};
pub use clash::{Fight, FightKind, fights};
pub use keyboard::{Keyboard, Place, Press};
pub use settle::{Move, NoPlan, Plan, Settling};
