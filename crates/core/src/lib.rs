//! The pure core of Jovrik: from text to a checked rice, its keys, its desk and the scene that is drawn.
//!
//! It touches no files, no clock, no environment and no screen, and prints nothing.

pub mod bar;
pub mod change;
pub mod check;
pub mod colour;
pub mod desk;
pub mod desktop;
pub mod dock;
pub mod greeting;
pub mod keys;
pub mod launcher;
pub mod machine;
pub mod part;
pub mod rice;
pub mod scene;
pub mod stage;
pub mod style;
pub mod template;
pub mod widget;
