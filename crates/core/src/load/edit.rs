//! Edits of a person's file: only the bytes that must change do.

use super::parse::{bare, parse};
use super::source::{FileId, Source, Span};
use super::{Node, Value};
use crate::problem::Edit;

/// The text after non-overlapping edits of one file.
pub fn apply_edits(text: &str, edits: &[Edit]) -> String {
    let mut edits: Vec<&Edit> = edits.iter().collect();
    edits.sort_by_key(|edit| edit.span);
    let mut out = String::with_capacity(text.len() + 64);
    let mut done = 0;
    for edit in edits {
        let range = edit.span.range();
        if range.start < done || range.end > text.len() {
            continue;
        }
        out.push_str(&text[done..range.start]);
        out.push_str(&edit.text);
        done = range.end;
    }
    out.push_str(&text[done..]);
    out
}

/// Puts another value where one stands, in the quotes that a person chose where those can hold it.
pub fn replace(source: &Source, node: &Node, value: &str) -> Edit {
    let old = source.text.get(node.span.range()).unwrap_or_default();
    let literal = value.strip_prefix('"').and_then(|rest| rest.strip_suffix('"'));
    let text = match literal {
        Some(inner) if old.starts_with('\'') && !old.starts_with("'''") && !inner.contains(['\\', '\'', '"']) => {
            format!("'{inner}'")
        }
        _ => value.to_owned(),
    };
    Edit { span: node.span, text }
}

/// Takes an assignment out: its whole line where it stands alone there, else just it and its comma.
pub fn remove(source: &Source, node: &Node) -> Edit {
    let text = &source.text;
    let (key, end) = (node.key.start as usize, node.span.end as usize);
    let line_start = text[..key].rfind('\n').map_or(0, |at| at + 1);
    let line_end = text[end..].find('\n').map_or(text.len(), |at| end + at + 1);
    let tail = text[end..line_end].trim();
    let alone = text[line_start..key].trim().is_empty() && (tail.is_empty() || tail.starts_with('#'));
    let (start, end) = if alone {
        (line_start, line_end)
    } else {
        let before = text[..key].trim_end();
        let after = text[end..].trim_start();
        if after.starts_with(',') {
            let comma = text.len() - after.len() + 1;
            (key, comma + text[comma..].len() - text[comma..].trim_start_matches(' ').len())
        } else if before.ends_with(',') {
            (before.len() - 1, end)
        } else {
            (key, end)
        }
    };
    Edit { span: Span { file: node.key.file, start: start as u32, end: end as u32 }, text: String::new() }
}

/// Adds a setting that does not stand in the file: after the last of its table, else in a new table at the end.
pub fn insert<S: AsRef<str>>(file: FileId, source: &Source, steps: &[S], value: &str) -> Edit {
    let text = &source.text;
    let table = parse(file, source, &mut Vec::new());
    let steps: Vec<&str> = steps.iter().map(AsRef::as_ref).collect();
    let (last, parents) = steps.split_last().map_or(("", &[][..]), |(last, parents)| (*last, parents));
    let at = |byte: usize| Span { file, start: byte as u32, end: byte as u32 };
    let assignment = format!("{} = {value}", bare(last));

    let mut inside = None;
    let mut entries = &table;
    for (depth, parent) in parents.iter().enumerate() {
        let Some((_, node)) = entries.iter().find(|(name, _)| name == parent) else { break };
        let Value::Table(inner) = &node.value else { break };
        entries = inner;
        if depth + 1 == parents.len() {
            inside = Some(node);
        }
    }
    if let Some(node) = inside {
        let written = text.get(node.span.range()).unwrap_or_default();
        // An inline table: before its brace.
        if written.starts_with('{') && written.ends_with('}') {
            let body = written[1..written.len() - 1].trim_end();
            let byte = node.span.start as usize + 1 + body.len();
            let text = if body.trim().is_empty() { format!(" {assignment} ") } else { format!(", {assignment}") };
            return Edit { span: at(byte), text };
        }
    }
    let header = format!("[{}]", crate::rice::catalogue::path_of(parents));
    let mut byte = 0;
    let mut header_end = None;
    for line in text.split_inclusive('\n') {
        byte += line.len();
        let bare_line = line.split('#').next().unwrap_or_default().trim();
        if bare_line.replace(' ', "") == header.replace(' ', "") {
            header_end = Some(byte);
            break;
        }
    }
    if let (Some(header_end), Some(node)) = (header_end, inside) {
        let Value::Table(entries) = &node.value else { return Edit { span: at(text.len()), text: String::new() } };
        let next_header = next_header(text, header_end);
        let last =
            entries.iter().map(|(_, node)| node.span.end as usize).filter(|end| (header_end..next_header).contains(end)).max();
        let byte = last.map_or(header_end, |end| text[end..].find('\n').map_or(text.len(), |at| end + at + 1));
        let lead_in = if byte > 0 && !text[..byte].ends_with('\n') { "\n" } else { "" };
        return Edit { span: at(byte), text: format!("{lead_in}{assignment}\n") };
    }
    if parents.is_empty() {
        return Edit { span: at(0), text: format!("{assignment}\n") };
    }
    // A table that dotted keys or nothing at all made: a header of its own cannot be opened twice.
    if inside.is_some_and(|node| !text.get(node.span.range()).unwrap_or_default().starts_with('['))
        && dotted(text, &table, parents)
    {
        let full = format!("{} = {value}\n", crate::rice::catalogue::path_of(&steps));
        let first = next_header(text, 0);
        return Edit { span: at(first), text: full };
    }
    let gap = match text.as_str() {
        "" => "",
        text if text.ends_with("\n\n") => "",
        text if text.ends_with('\n') => "\n",
        _ => "\n\n",
    };
    Edit { span: at(text.len()), text: format!("{gap}{header}\n{assignment}\n") }
}

/// Whether the table at `parents` exists only through dotted keys at the top of the file.
fn dotted(text: &str, table: &[(String, Node)], parents: &[&str]) -> bool {
    let first = next_header(text, 0);
    let named =
        |(name, node): &(String, Node)| Some(name.as_str()) == parents.first().copied() && (node.key.start as usize) < first;
    table.iter().any(named)
}

fn next_header(text: &str, from: usize) -> usize {
    let mut byte = from;
    for line in text[from..].split_inclusive('\n') {
        let trimmed = line.trim_start();
        if trimmed.starts_with('[')
            && trimmed.trim_end().split('#').next().is_some_and(|line| line.trim_end().ends_with(']'))
            && !trimmed.contains('=')
        {
            return byte;
        }
        byte += line.len();
    }
    text.len()
}

/// Adds an element to a list, before the element with a number or at the end, in the way the list is written.
pub fn insert_item(source: &Source, list: &Node, place: Option<usize>, value: &str) -> Option<Edit> {
    let Value::List(items) = &list.value else { return None };
    let at = |byte: u32| Span { file: list.span.file, start: byte, end: byte };
    let text = &source.text;
    let Some(last) = items.last() else {
        // Between the brackets; what stands there, such as a comment, stays behind it.
        return Some(Edit { span: at(list.span.start + 1), text: value.to_owned() });
    };
    // Elements on lines of their own stay so.
    let line_start = |byte: usize| text[..byte].rfind('\n').map_or(0, |at| at + 1);
    let before = |item: &Node| &text[line_start(item.span.start as usize)..item.span.start as usize];
    let own_line = before(last).trim().is_empty() && line_start(last.span.start as usize) > list.span.start as usize;
    let between = if own_line { format!("\n{}", before(last)) } else { " ".to_owned() };
    match place.and_then(|place| items.get(place)) {
        Some(next) => Some(Edit { span: at(next.span.start), text: format!("{value},{between}") }),
        None => Some(Edit { span: at(last.span.end), text: format!(",{between}{value}") }),
    }
}

/// Takes an element out of a list, with its comma.
pub fn remove_item(source: &Source, list: &Node, which: usize) -> Option<Edit> {
    let Value::List(items) = &list.value else { return None };
    let item = items.get(which)?;
    let text = &source.text;
    let (from, to) = (item.span.start as usize, item.span.end as usize);
    let line = text[..from].rfind('\n').map_or(0, |at| at + 1);
    let line_end = text[to..].find('\n').map_or(text.len(), |at| to + at + 1);
    let tail = text[to..line_end].trim_start().trim_start_matches(',').trim();
    if line > list.span.start as usize && text[line..from].trim().is_empty() && (tail.is_empty() || tail.starts_with('#')) {
        // Alone on its line: the line goes, and the others keep theirs.
        return Some(Edit { span: Span { file: list.span.file, start: line as u32, end: line_end as u32 }, text: String::new() });
    }
    let (start, end) = match (items.get(which + 1), which.checked_sub(1).and_then(|before| items.get(before))) {
        (Some(next), _) => (item.span.start, next.span.start),
        (None, Some(before)) => (before.span.end, item.span.end),
        (None, None) => {
            let inside = source.text.get(item.span.end as usize..list.span.end as usize - 1)?;
            let comma = inside.find(',').filter(|at| inside[..*at].trim().is_empty()).map_or(0, |at| at as u32 + 1);
            (item.span.start, item.span.end + comma)
        }
    };
    Some(Edit { span: Span { file: list.span.file, start, end }, text: String::new() })
}
