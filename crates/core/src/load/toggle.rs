//! Commenting out and in: what people do while trying.
//!
//! Out and in again gives the same bytes. A line is switched off with `# ` at its start; an element of a list that is
//! written on one line is noted in a comment behind the list.

use super::parse::parse;
use super::source::{FileId, Source, Span};
use super::{Node, Value};
use crate::problem::Edit;
use crate::rice::Rice;
use crate::rice::catalogue::normal_steps;

/// The lines of a file: first byte and text, without its end.
fn lines(text: &str) -> impl Iterator<Item = (usize, &str)> {
    text.split_inclusive('\n').scan(0, |at, line| {
        let start = *at;
        *at += line.len();
        Some((start, line.trim_end_matches(['\n', '\r'])))
    })
}

fn edit(file: FileId, start: usize, end: usize, text: &str) -> Edit {
    Edit { span: Span { file, start: start as u32, end: end as u32 }, text: text.to_owned() }
}

/// Switches lines off: from the one that holds the first byte to the one that holds the last.
fn off(file: FileId, source: &Source, from: usize, to: usize) -> Vec<Edit> {
    let touched = lines(&source.text).filter(|(start, line)| start + line.len() >= from && *start < to.max(from + 1));
    touched
        .map(|(start, line)| {
            let indent = line.len() - line.trim_start().len();
            // An empty line gets its mark too, so that the block stays one.
            edit(file, start + indent, start + indent, if line.trim().is_empty() { "#" } else { "# " })
        })
        .collect()
}

/// What a line says once it is switched on; nothing when it is not switched off.
fn on_text(line: &str) -> Option<(usize, usize)> {
    let indent = line.len() - line.trim_start().len();
    let rest = line[indent..].strip_prefix('#')?;
    Some((indent, indent + 1 + usize::from(rest.starts_with(' '))))
}

fn switched_on(line: &str) -> Option<String> {
    let (from, to) = on_text(line)?;
    Some(format!("{}{}", &line[..from], &line[to..]))
}

fn on(file: FileId, start: usize, line: &str) -> Option<Edit> {
    let (from, to) = on_text(line)?;
    Some(edit(file, start + from, start + to, ""))
}

/// Switches an assignment off, all of its lines; nothing when it shares a line with others.
pub fn comment_out(source: &Source, node: &Node) -> Option<Vec<Edit>> {
    let text = &source.text;
    let (from, to) = (node.key.start as usize, node.span.end as usize);
    // Dotted keys stand before the last one.
    let line_start = text[..from].rfind('\n').map_or(0, |at| at + 1);
    let line_end = text[to..].find('\n').map_or(text.len(), |at| to + at);
    let (lead, tail) = (text[line_start..from].trim(), text[to..line_end].trim());
    let alone = (lead.is_empty() || lead.ends_with('.')) && (tail.is_empty() || tail.starts_with('#'));
    let own = lead.chars().all(|c| c.is_alphanumeric() || matches!(c, '.' | '-' | '_' | '"' | '\'' | ' ' | '+'));
    (alone && own).then(|| off(node.span.file, source, line_start, line_end))
}

/// The path of a line that opens a table.
fn header(line: &str) -> Option<Vec<String>> {
    let line = line.trim();
    if !line.starts_with('[') || line.starts_with("[[") {
        return None;
    }
    let mut problems = Vec::new();
    let mut table = parse(FileId(0), &Source::new("", line), &mut problems);
    if !problems.is_empty() {
        return None;
    }
    let mut path = Vec::new();
    while let Some((name, node)) = table.pop() {
        path.push(name);
        match node.value {
            Value::Table(inner) => table = inner,
            _ => return None,
        }
    }
    Some(path)
}

/// The path that an assignment of one line or several gives, below its table; nothing when it is none, or not a whole one.
fn assigned(text: &str) -> Option<Vec<String>> {
    let mut problems = Vec::new();
    let mut table = parse(FileId(0), &Source::new("", text), &mut problems);
    if !problems.is_empty() || table.len() != 1 {
        return None;
    }
    let mut path = Vec::new();
    // `a.b = 1` are tables by their dots; `a = { b = 1 }` is a value.
    while let Some((name, node)) = table.pop() {
        path.push(name);
        let inline = text.get(node.span.range()).is_some_and(|written| written.starts_with('{'));
        match node.value {
            Value::Table(inner) if !inline => table = inner,
            _ => break,
        }
    }
    Some(path)
}

/// Whether a byte lies in a text of several lines, where a `#` begins no comment.
fn in_texts(table: &[(String, Node)], source: &Source, byte: usize) -> bool {
    table.iter().any(|(_, node)| within(node, source, byte))
}

fn within(node: &Node, source: &Source, byte: usize) -> bool {
    match &node.value {
        Value::Text(_) => node.span.range().contains(&byte) && source.slice_starts_text(node.span),
        Value::List(items) => items.iter().any(|item| within(item, source, byte)),
        Value::Table(items) => items.iter().any(|(_, item)| within(item, source, byte)),
        _ => false,
    }
}

impl Source {
    fn slice_starts_text(&self, span: Span) -> bool {
        self.text.get(span.range()).is_some_and(|text| text.starts_with("\"\"\"") || text.starts_with("'''"))
    }
}

/// Finds a setting that is commented out and switches it on; its table's header too, where that is commented out.
pub fn comment_in(file: FileId, source: &Source, path: &[String], lead: &str) -> Option<Vec<Edit>> {
    let path = normal_steps(Rice::CATALOGUE, path, lead);
    let parsed = parse(file, source, &mut Vec::new());
    let all: Vec<(usize, &str)> = lines(&source.text).collect();
    let mut table: Vec<String> = Vec::new();
    // A header that is commented out opens its table for the comments below it, up to the next real line.
    let mut quiet: Option<(usize, Vec<String>)> = None;
    let mut found = None;
    for (at, (start, line)) in all.iter().enumerate() {
        if in_texts(&parsed, source, *start) {
            continue;
        }
        if let Some(path) = header(line) {
            (table, quiet) = (path, None);
            continue;
        }
        let Some(text) = switched_on(line) else {
            if !line.trim().is_empty() {
                quiet = None;
            }
            continue;
        };
        if let Some(path) = header(&text) {
            quiet = Some((at, path));
            continue;
        }
        if !text.contains('=') {
            continue;
        }
        let mut whole = String::new();
        for count in 1..=all.len() - at {
            let Some(next) = switched_on(all[at + count - 1].1) else { break };
            whole.push_str(&next);
            whole.push('\n');
            let Some(own) = assigned(&whole).filter(|_| count <= 200) else { continue };
            let base = quiet.as_ref().map_or(&table, |(_, path)| path);
            let full = normal_steps(Rice::CATALOGUE, &[base.as_slice(), &own].concat(), lead);
            if full == path {
                // One below a real header is meant before one whose header must be switched on.
                let edits = (at..at + count).filter_map(|at| on(file, all[at].0, all[at].1));
                let header = quiet.as_ref().and_then(|(at, _)| on(file, all[*at].0, all[*at].1));
                if header.is_none() {
                    return Some(edits.collect());
                }
                found.get_or_insert_with(|| header.into_iter().chain(edits).collect::<Vec<_>>());
            }
            break;
        }
    }
    found
}

/// Switches a table off: each of its headers with what stands below, tables in it included.
pub fn table_out(file: FileId, source: &Source, path: &[String]) -> Vec<Edit> {
    let parsed = parse(file, source, &mut Vec::new());
    let all: Vec<(usize, &str)> = lines(&source.text).collect();
    let headers: Vec<(usize, Vec<String>)> = all
        .iter()
        .enumerate()
        .filter(|(_, (start, _))| !in_texts(&parsed, source, *start))
        .filter_map(|(at, (_, line))| Some((at, header(line)?)))
        .collect();
    let mut edits = Vec::new();
    for (nth, (from, _)) in headers.iter().enumerate().filter(|(_, (_, own))| own.starts_with(path)) {
        let next = headers.get(nth + 1).map_or(all.len(), |(at, _)| *at);
        // What stands above the next header, after an empty line, speaks of that one.
        let mut to = next;
        while to > from + 1 && all[to - 1].1.trim_start().starts_with('#') {
            to -= 1;
        }
        let spoken_of = to < next && (to == from + 1 || all[to - 1].1.trim().is_empty()) && next < all.len();
        let mut end = if spoken_of { to } else { next };
        while end > from + 1 && all[end - 1].1.trim().is_empty() {
            end -= 1;
        }
        let (first, last) = (all[*from].0, all[end - 1].0 + all[end - 1].1.len());
        edits.extend(off(file, source, first, last));
    }
    edits
}

/// Takes out the headers of a table and of those in it, each with the empty line above it.
pub fn remove_headers(file: FileId, source: &Source, path: &[String]) -> Vec<Edit> {
    let parsed = parse(file, source, &mut Vec::new());
    let all: Vec<(usize, &str)> = lines(&source.text).collect();
    let mut edits = Vec::new();
    for (at, (start, line)) in all.iter().enumerate() {
        if in_texts(&parsed, source, *start) || !header(line).is_some_and(|own| own.starts_with(path)) {
            continue;
        }
        let end = all.get(at + 1).map_or(source.text.len(), |(next, _)| *next);
        let above = at.checked_sub(1).map(|above| all[above]).filter(|(_, line)| line.trim().is_empty());
        edits.push(edit(file, above.map_or(*start, |(start, _)| start), end, ""));
    }
    edits
}

/// Finds a table that is commented out and switches it on: its headers, and the comments right below each.
pub fn table_in(file: FileId, source: &Source, path: &[String]) -> Vec<Edit> {
    let parsed = parse(file, source, &mut Vec::new());
    let mut edits = Vec::new();
    let mut inside = false;
    for (start, line) in lines(&source.text) {
        let Some(text) = switched_on(line).filter(|_| !in_texts(&parsed, source, start)) else {
            inside = false;
            continue;
        };
        if let Some(own) = header(&text) {
            inside = own.starts_with(path);
        }
        if inside {
            edits.extend(on(file, start, line));
        }
    }
    edits
}

/// Switches an element of a list off.
pub fn element_out(source: &Source, list: &Node, which: usize) -> Option<Vec<Edit>> {
    let Value::List(items) = &list.value else { return None };
    let item = items.get(which)?;
    let text = &source.text;
    let (from, to) = (item.span.start as usize, item.span.end as usize);
    let line = text[..from].rfind('\n').map_or(0, |at| at + 1);
    let line_end = text[to..].find('\n').map_or(text.len(), |at| to + at);
    let tail = text[to..line_end].trim_start().trim_start_matches(',').trim();
    let own_line = line > list.span.start as usize && text[line..from].trim().is_empty();
    if own_line && (tail.is_empty() || tail.starts_with('#')) {
        return Some(off(list.span.file, source, line, line_end));
    }
    let note = format!("off: {} ({})", text.get(item.span.range())?, which + 1);
    let mut edits = vec![super::edit::remove_item(source, list, which)?];
    let end = list.span.end as usize;
    let line_end = text[end..].find('\n').map_or(text.len(), |at| end + at);
    let behind = text[end..line_end].trim();
    if !(behind.is_empty() || behind.starts_with('#')) {
        return None;
    }
    let gap = if behind.is_empty() { "  # " } else { "; " };
    let end = end + text[end..line_end].trim_end().len();
    edits.push(edit(list.span.file, end, end, &format!("{gap}{note}")));
    Some(edits)
}

/// Finds an element of a list that is switched off, and switches it on where it was.
pub fn element_in(source: &Source, list: &Node, name: &str) -> Option<Vec<Edit>> {
    let Value::List(items) = &list.value else { return None };
    let file = list.span.file;
    let text = &source.text;
    let range = list.span.range();
    let spelled = [crate::load::quoted(name), format!("'{name}'")];
    for (start, line) in lines(text).filter(|(start, _)| range.contains(start)) {
        let Some(own) = switched_on(line) else { continue };
        let own = own.trim();
        let Some(spelled) = spelled.iter().find(|spelled| own.starts_with(spelled.as_str())) else { continue };
        let mut edits = vec![on(file, start, line)?];
        // Elements on both sides want a comma between.
        let before = items.iter().rfind(|item| (item.span.end as usize) <= start);
        let has_comma = |from: usize| text[from..].trim_start().starts_with(',');
        if let Some(before) = before.filter(|before| !has_comma(before.span.end as usize)) {
            edits.push(edit(file, before.span.end as usize, before.span.end as usize, ","));
        }
        let after = items.iter().any(|item| item.span.start as usize > start);
        if after && !own[spelled.len()..].trim_start().starts_with(',') {
            let at = start + line.find(spelled.as_str())? + spelled.len();
            edits.push(edit(file, at, at, ","));
        }
        return Some(edits);
    }
    // A list on one line has its notes behind it.
    let end = list.span.end as usize;
    let line_end = text[end..].find('\n').map_or(text.len(), |at| end + at);
    let behind = &text[end..line_end];
    let (from, spelled) = spelled.iter().find_map(|spelled| Some((behind.find(&format!("off: {spelled} ("))?, spelled)))?;
    let rest = &behind[from + "off: ".len() + spelled.len() + 2..];
    let close = rest.find(')')?;
    let place: usize = rest[..close].parse().ok()?;
    let mut to = from + "off: ".len() + spelled.len() + 2 + close + 1;
    // The note goes with what parted it from others.
    let lead = &behind[..from];
    let from = match (lead.strip_suffix("; "), lead.trim() == "#") {
        (Some(kept), _) => kept.len(),
        (None, true) if behind[to..].trim().is_empty() => 0,
        _ => {
            to += if behind[to..].starts_with("; ") { 2 } else { 0 };
            from
        }
    };
    let put = super::edit::insert_item(source, list, Some(place.saturating_sub(1)), spelled)?;
    Some(vec![put, edit(file, end + from, end + to, "")])
}
