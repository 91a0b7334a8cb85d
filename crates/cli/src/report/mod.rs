//! How reports look: styles by meaning, problems with their places, aligned columns.

pub mod problem;
pub mod style;
mod text;

pub use style::Meaning;
pub use text::{columns, pad, width, wrap, wrap_exactly};

use std::io::{self, Write};

/// Whether results alone are wanted.
static QUIET: std::sync::atomic::AtomicBool = std::sync::atomic::AtomicBool::new(false);

/// Says once whether results alone are wanted: no advice then.
pub fn quiet(quiet: bool) {
    QUIET.store(quiet, std::sync::atomic::Ordering::Relaxed);
}

/// Whether results alone are wanted.
pub fn is_quiet() -> bool {
    QUIET.load(std::sync::atomic::Ordering::Relaxed)
}

/// Whether reports are in colour.
pub fn in_colour() -> bool {
    anstream::AutoStream::choice(&std::io::stdout()) != anstream::ColorChoice::Never
}

/// Writes several pieces of advice, what they do in line.
pub fn advise(out: &mut dyn Write, indent: &str, all: &[(String, &str)]) -> io::Result<()> {
    let longest = all.iter().map(|(write, _)| width(write)).max().unwrap_or(0);
    all.iter().try_for_each(|(write, gloss)| advice(out, indent, &pad(write, longest), gloss))
}

/// Writes advice: what to type, then what it does.
pub fn advice(out: &mut dyn Write, indent: &str, write: &str, gloss: &str) -> io::Result<()> {
    if is_quiet() {
        return Ok(());
    }
    let gap = if gloss.is_empty() { "" } else { "      " };
    writeln!(out, "{indent}{} {}{gap}{}", Meaning::Type.paint("→"), Meaning::Type.paint(write), Meaning::Second.paint(gloss))
}
