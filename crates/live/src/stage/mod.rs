//! What the desktop plays on.

pub mod x11;
