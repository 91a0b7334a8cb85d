//! How reports look: styles by meaning, problems with their places, aligned columns.

pub mod problem;
pub mod style;
mod text;

pub use style::Meaning;
pub use text::{columns, pad, width, wrap};

use std::io::{self, Write};

/// Writes advice: what to type, then what it does.
pub fn advice(out: &mut dyn Write, indent: &str, write: &str, gloss: &str) -> io::Result<()> {
    let gap = if gloss.is_empty() { "" } else { "      " };
    writeln!(out, "{indent}{} {}{gap}{}", Meaning::Type.paint("→"), Meaning::Type.paint(write), Meaning::Second.paint(gloss))
}
