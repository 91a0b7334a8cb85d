//! Problems as people read them, and as programs do.

use std::io::{self, Write};

use jovrik_text::Sources;
use jovrik_text::problem::{Problem, Severity};
use serde_json::json;

use super::{Meaning, advice, width, wrap};

/// Writes one problem: severity, code, sentence, places with their lines, why, what to do.
pub fn write(out: &mut dyn Write, problem: &Problem, sources: &Sources, columns: usize) -> io::Result<()> {
    let (word, meaning) = match problem.severity {
        Severity::Error => ("error", Meaning::Error),
        Severity::Warning => ("warning", Meaning::Warning),
    };
    let head = format!("{}  {}  ", meaning.paint(word), problem.code);
    let room = columns.saturating_sub(width(&head)).max(30);
    let title = match &problem.elsewhere {
        Some(place) if !problem.title.ends_with(place.as_str()) => format!("{}, {place}", problem.title),
        _ => problem.title.clone(),
    };
    let lines = wrap(&title, room);
    for (at, line) in lines.iter().enumerate() {
        let start = if at == 0 { head.clone() } else { " ".repeat(width(&head)) };
        writeln!(out, "{start}{}", Meaning::Heading.paint(line))?;
    }
    let gutter =
        problem.marks.iter().filter_map(|mark| sources.get(mark.span.file).map(|file| file.position(mark.span.start).line));
    let gutter = gutter.max().unwrap_or(0).to_string().len().max(2);
    for mark in &problem.marks {
        place(out, mark, sources, meaning, gutter, columns)?;
    }
    if let Some(place) = &problem.file {
        let at = place.at.map(|at| format!(":{}:{}", at.line, at.column)).unwrap_or_default();
        writeln!(out, "  {}", Meaning::Place.paint(&format!("{}{at}", place.file)))?;
    }
    if !problem.why.is_empty() {
        for line in wrap(&problem.why, columns.saturating_sub(2)) {
            writeln!(out, "  {line}")?;
        }
    }
    if let Some(fix) = &problem.fix {
        advice(out, "  ", "jovrik check --fix", &format!("writes {}", fix.writes))?;
    }
    let longest = problem.advice.iter().map(|advice| width(&advice.write)).max().unwrap_or(0);
    for one in &problem.advice {
        let fits = longest + 10 + width(&one.gloss) <= columns;
        let write = if fits { super::pad(&one.write, longest) } else { one.write.clone() };
        advice(out, "  ", &write, &one.gloss)?;
    }
    Ok(())
}

fn place(
    out: &mut dyn Write,
    mark: &jovrik_text::problem::SpanLabel,
    sources: &Sources,
    meaning: Meaning,
    gutter: usize,
    columns: usize,
) -> io::Result<()> {
    let Some(file) = sources.get(mark.span.file) else {
        return if mark.note.is_empty() { Ok(()) } else { writeln!(out, "  {}", mark.note) };
    };
    let start = file.position(mark.span.start);
    let end = file.position(mark.span.end.max(mark.span.start));
    writeln!(out, "  {}", Meaning::Place.paint(&format!("{}:{}:{}", file.name, start.line, start.column)))?;
    let line: Vec<char> = file.line(start.line).chars().map(|c| if c.is_control() { ' ' } else { c }).collect();
    let room = columns.saturating_sub(gutter + 5).max(20);
    let from = start.column - 1;
    let to = if end.line == start.line { end.column - 1 } else { line.len() };
    // A long line is shown round its mark.
    let shift = if line.len() <= room || from < room / 2 { 0 } else { (from - room / 3).min(line.len().saturating_sub(1)) };
    let mut shown: String = line.iter().skip(shift).take(room).collect();
    if shift > 0 {
        shown = format!("…{}", shown.chars().skip(1).collect::<String>());
    }
    if line.len() > shift + room {
        shown = format!("{}…", shown.chars().take(room - 1).collect::<String>());
    }
    writeln!(out, "  {:>gutter$} | {}", start.line, shown.trim_end())?;
    let before: String = line.iter().skip(shift).take(from - shift.min(from)).collect();
    let marked: String = line.iter().skip(from).take((to.max(from) - from).min((shift + room).saturating_sub(from))).collect();
    let carets = "^".repeat(width(&marked).max(1));
    let lead = format!("  {:gutter$} | {}", "", " ".repeat(width(&before)));
    let note_room = columns.saturating_sub(width(&lead) + carets.len() + 1);
    if width(&mark.note) <= note_room || note_room >= 36 {
        let lines = wrap(&mark.note, note_room.max(36));
        let first = format!("{carets} {}", lines[0]);
        writeln!(out, "{lead}{}", meaning.paint(first.trim_end()))?;
        for line in &lines[1..] {
            writeln!(out, "{lead}{}{}", " ".repeat(carets.len() + 1), meaning.paint(line))?;
        }
    } else {
        writeln!(out, "{lead}{}", meaning.paint(&carets))?;
        for line in wrap(&mark.note, columns.saturating_sub(gutter + 5)) {
            writeln!(out, "  {:gutter$} | {}", "", meaning.paint(&line))?;
        }
    }
    Ok(())
}

/// One problem as JSON: `severity`, `code`, `title`, `places` (`file`, `line`, `column`, `end-line`, `end-column`, `note`), `why`,
/// `advice` (`write`, `gloss`), `fix` (what would be written) or null, `elsewhere` (`on skiff`) or null.
pub fn json(problem: &Problem, sources: &Sources) -> serde_json::Value {
    let place = |mark: &jovrik_text::problem::SpanLabel| {
        let file = sources.get(mark.span.file)?;
        let (start, end) = (file.position(mark.span.start), file.position(mark.span.end));
        Some(json!({
            "file": file.name, "line": start.line, "column": start.column,
            "end-line": end.line, "end-column": end.column, "note": mark.note,
        }))
    };
    let unread = problem.file.iter().map(|place| {
        let at = |of: fn(jovrik_text::Position) -> usize| place.at.map(of);
        json!({ "file": place.file, "line": at(|at| at.line), "column": at(|at| at.column), "end-line": null, "end-column": null, "note": "" })
    });
    json!({
        "severity": problem.severity,
        "code": problem.code,
        "title": problem.title,
        "places": problem.marks.iter().filter_map(place).chain(unread).collect::<Vec<_>>(),
        "why": problem.why,
        "elsewhere": problem.elsewhere,
        "advice": problem.advice,
        "fix": problem.fix.as_ref().map(|fix| &fix.writes),
    })
}
