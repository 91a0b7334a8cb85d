//! How reports look: styles by meaning, problems with their places, aligned columns.

pub mod problem;
pub mod style;
mod text;
mod unhidden;

pub use style::Meaning;
pub use text::{columns, pad, width, wrap, wrap_exactly};
pub use unhidden::Unhidden;

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

/// Says something beside the result, on standard error: nothing where results alone are wanted.
pub fn remark(text: &str) {
    if !is_quiet() {
        let _ = writeln!(Unhidden::new(anstream::stderr()), "{text}");
    }
}

/// Whether reports are in colour.
pub fn in_colour() -> bool {
    anstream::AutoStream::choice(&std::io::stdout()) != anstream::ColorChoice::Never
}

/// Writes a sentence, at words in as many lines as it takes; what follows the first is indented as deep as it is.
pub fn sentence(out: &mut dyn Write, text: &str, most: usize) -> io::Result<()> {
    let indent = text.len() - text.trim_start().len();
    let lines = wrap(text.trim_start(), most.saturating_sub(indent));
    lines.iter().try_for_each(|line| writeln!(out, "{}{line}", " ".repeat(indent)))
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
    let most = crate::context::columns(std::env::var("COLUMNS").ok());
    let long = width(indent) + 2 + width(write.trim_end()) + 6 + width(gloss);
    if long > most && !gloss.is_empty() {
        writeln!(out, "{indent}{} {}", Meaning::Type.paint("→"), Meaning::Type.paint(write.trim_end()))?;
        let below = format!("{indent}      ");
        return wrap(gloss, most.saturating_sub(width(&below)))
            .iter()
            .try_for_each(|line| writeln!(out, "{below}{}", Meaning::Second.paint(line)));
    }
    let gap = if gloss.is_empty() { "" } else { "      " };
    writeln!(out, "{indent}{} {}{gap}{}", Meaning::Type.paint("→"), Meaning::Type.paint(write), Meaning::Second.paint(gloss))
}
