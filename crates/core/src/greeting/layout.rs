//! Facts and a drawing in the lines of a terminal.

use super::Art;
use crate::rice::GreetingSettings;

/// A piece of a line in one colour: a role of the palette, or the terminal's own where it is empty.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ColouredText {
    /// The role.
    pub role: &'static str,
    /// The text.
    pub text: String,
}

/// A fact as it is shown.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Fact {
    /// Its name, as the rice has it.
    pub name: String,
    /// What it is called.
    pub label: String,
    /// The sign before that.
    pub sign: String,
    /// What it says.
    pub text: String,
    /// The role of that: nothing for the one of the rice.
    pub role: &'static str,
    /// What it is of a whole, from 0 to 1.
    pub part: Option<f32>,
    /// How old it is, where it is not of now.
    pub age: String,
}

/// Between the drawing and facts, and between names and what they say.
const GAP: usize = 4;
const STEP: usize = 3;
/// Facts in fewer characters than this are of no use beside a drawing.
const MIN_FACT_CHARS: usize = 24;

fn piece(role: &'static str, text: impl Into<String>) -> ColouredText {
    ColouredText { role, text: text.into() }
}

fn role_of(role: &str) -> &'static str {
    crate::rice::Palette::ROLES.iter().find(|own| **own == role).copied().unwrap_or("")
}

/// As much of a text as fits into so many cells.
fn fitted(text: &str, room: usize, wide: &dyn Fn(&str) -> usize) -> String {
    if wide(text) <= room {
        return text.to_owned();
    }
    let mut kept = String::new();
    for c in text.chars() {
        kept.push(c);
        if wide(&kept) + 1 > room {
            kept.pop();
            break;
        }
    }
    if room == 0 { String::new() } else { format!("{}…", kept.trim_end()) }
}

/// A line cut to so many cells.
fn cut(line: Vec<ColouredText>, room: usize, wide: &dyn Fn(&str) -> usize) -> Vec<ColouredText> {
    let mut left = room;
    let mut kept = Vec::new();
    for piece in line {
        if left == 0 {
            break;
        }
        let text = fitted(&piece.text, left, wide);
        left -= wide(&text).min(left);
        kept.push(ColouredText { text, ..piece });
    }
    kept
}

fn length(line: &[ColouredText], wide: &dyn Fn(&str) -> usize) -> usize {
    line.iter().map(|piece| wide(&piece.text)).sum()
}

/// One fact in a column: its name filled up to those of the others.
fn fact(set: &GreetingSettings, fact: &Fact, named: usize, signed: usize, wide: &dyn Fn(&str) -> usize) -> Vec<ColouredText> {
    let fill = |text: &str, to: usize| format!("{text}{}", " ".repeat(to.saturating_sub(wide(text))));
    let (names, values) = (role_of(&set.names.0), role_of(&set.values.0));
    let mut line = Vec::new();
    if signed > 0 {
        line.push(piece("accent", fill(&fact.sign, signed + 1)));
    }
    line.push(piece(names, fill(&fact.label, named + STEP)));
    line.push(piece(if fact.role.is_empty() { values } else { fact.role }, fact.text.clone()));
    let cells = usize::try_from(set.bar.0).unwrap_or(0);
    if let (Some(part), true) = (fact.part, cells > 0) {
        let full = (part.clamp(0.0, 1.0) * cells as f32).round() as usize;
        line.push(piece("calm", format!("  {}", "━".repeat(full))));
        line.push(piece("line", "━".repeat(cells - full)));
    }
    if !fact.age.is_empty() {
        line.push(piece(names, format!("  {}", fact.age)));
    }
    line
}

/// Lays facts out beside the first drawing that there is room for: as many cells wide as the terminal is. `wide` tells how many
/// cells a text takes.
pub fn lay(
    set: &GreetingSettings,
    facts: &[Fact],
    drawings: &[Art],
    room: usize,
    wide: &dyn Fn(&str) -> usize,
) -> Vec<Vec<ColouredText>> {
    let named = facts.iter().map(|fact| wide(&fact.label)).max().unwrap_or(0);
    let signed = facts.iter().map(|fact| wide(&fact.sign)).max().unwrap_or(0);
    let cells: Vec<Vec<ColouredText>> = facts.iter().map(|one| fact(set, one, named, signed, wide)).collect();
    let broad = |art: &Art| art.0.iter().map(|line| length(line, wide)).max().unwrap_or(0);
    let least = if facts.is_empty() { 0 } else { GAP + MIN_FACT_CHARS };
    let drawing = drawings.iter().find(|art| !art.0.is_empty() && broad(art) + least <= room);
    let (beside, art_wide) = drawing.map_or((0, 0), |art| (broad(art) + GAP, broad(art)));
    let left = room.saturating_sub(beside);
    // As many columns as there is room for, filled from above.
    let longest = cells.iter().map(|cell| length(cell, wide)).max().unwrap_or(0);
    let asked = usize::try_from(set.columns.0).unwrap_or(1).max(1);
    let columns = (1..=asked).rev().find(|count| longest * count + GAP * (count - 1) <= left).unwrap_or(1);
    let rows = cells.len().div_ceil(columns);
    let art_lines = drawing.map_or(&[][..], |art| &art.0[..]);
    let high = rows.max(art_lines.len());
    let mut lines = Vec::with_capacity(high);
    for row in 0..high {
        let mut line = art_lines.get(row).cloned().unwrap_or_default();
        let mut so_far = length(&line, wide);
        for column in 0..columns {
            let Some(cell) = (row < rows).then(|| cells.get(column * rows + row)).flatten() else { continue };
            let at = if beside > 0 { art_wide + GAP } else { 0 } + column * (longest + GAP);
            line.push(piece("", " ".repeat(at.saturating_sub(so_far))));
            line.extend(cell.iter().cloned());
            so_far = length(&line, wide);
        }
        line.retain(|piece| !piece.text.is_empty());
        lines.push(cut(line, room, wide));
    }
    lines
}
