//! Edits of a person's file: only the bytes that must change do.

use jovrik_text::problem::Edit;
use jovrik_text::{FileId, Source, Span};

use crate::outline::{line_end, line_start, mark, newline};
use crate::{ByteRange, Header, KeyValue, Outline, SpannedValue, TomlValue};

/// The text after non-overlapping edits of one file; of two that overlap, the first is made.
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

pub(super) fn edit(file: FileId, bytes: ByteRange, text: impl Into<String>) -> Edit {
    Edit { span: Span { file, start: bytes.start as u32, end: bytes.end as u32 }, text: text.into() }
}

/// Puts another value where one stands, in the quotes that a person chose where those can hold it.
pub fn replace(source: &Source, node: &SpannedValue, value: &str) -> Edit {
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

/// Something in a list or an inline table, and what holds it.
struct Held {
    bytes: ByteRange,
    holder: ByteRange,
    /// The end of the one before it.
    before: Option<usize>,
}

/// Takes one of several out of what holds them, with its comma; comments stay.
fn take(text: &str, outline: &Outline, held: &Held) -> ByteRange {
    let ByteRange { start, end } = held.bytes;
    let comma = outline.comma_in(end..held.holder.end).filter(|comma| only_space_or_comment(text, outline, end..*comma));
    let line = line_start(text, start);
    let last = comma.map_or(end, |comma| comma + 1);
    let rest = text[last..line_end(text, last)].trim();
    if line > held.holder.start && text[line..start].trim().is_empty() && (rest.is_empty() || rest.starts_with('#')) {
        // Alone on its lines: they go, and the others keep theirs.
        return line..line_end(text, last);
    }
    if let Some(comma) = comma {
        let behind = &text[comma + 1..];
        return start..comma + 1 + behind.len() - behind.trim_start_matches([' ', '\t']).len();
    }
    match held.before.and_then(|before| Some((before, outline.comma_in(before..start)?))) {
        Some((before, comma)) if text[before..comma].trim().is_empty() && text[comma + 1..start].trim().is_empty() => before..end,
        _ => start..end,
    }
}

/// Whether nothing but space and comments stands between two bytes.
fn only_space_or_comment(text: &str, outline: &Outline, bytes: ByteRange) -> bool {
    let mut at = bytes.start;
    while at < bytes.end {
        let rest = &text[at..bytes.end];
        at += rest.len() - rest.trim_start().len();
        match outline.comment_at(at) {
            Some(comment) => at = comment.end,
            None => return at >= bytes.end,
        }
    }
    true
}

/// Takes an assignment out: its lines, or in an inline table just it and its comma. Nothing when it stands in no file.
pub fn remove(source: &Source, node: &SpannedValue) -> Option<Edit> {
    let (text, outline) = (&source.text, source.derived(Outline::of));
    let entry = outline.of_value(node.span.start as usize)?;
    let bytes = if entry.inline {
        let holder = holder(outline, entry)?;
        let earlier = inside(outline, &holder).filter(|other| other.value.end <= entry.key_bytes().start);
        let before = earlier.map(|other| other.value.end).max();
        take(text, outline, &Held { bytes: entry.bytes(), holder, before })
    } else {
        line_start(text, entry.key_bytes().start)..line_end(text, entry.value.end)
    };
    Some(edit(node.span.file, bytes, ""))
}

/// Takes a table out: its headers, each with the empty line above it, and all that is written of it, wherever that stands.
pub fn remove_table(file: FileId, source: &Source, path: &[String]) -> Vec<Edit> {
    let (text, outline) = (&source.text, source.derived(Outline::of));
    let header = |header: &Header| {
        let start = line_start(text, header.bytes.start);
        let above =
            (start > mark(text)).then(|| line_start(text, start - 1)).filter(|above| text[*above..start].trim().is_empty());
        edit(file, above.unwrap_or(start)..line_end(text, header.bytes.end), "")
    };
    let mut edits: Vec<Edit> = outline.headers.iter().filter(|header| header.path.starts_with(path)).map(header).collect();
    let mut done = 0;
    for entry in outline.entries.iter().filter(|entry| !entry.listed && entry.path.starts_with(path)) {
        // What stands in an inline table that goes as a whole goes with it.
        if entry.value.end <= done {
            continue;
        }
        let bytes = match holder(outline, entry).filter(|_| entry.inline) {
            None => line_start(text, entry.key_bytes().start)..line_end(text, entry.value.end),
            Some(table) => {
                let rest = path.get(entry.path.len() - entry.keys.len()..).unwrap_or_default();
                edits.push(edit(file, table.clone(), without(&text[table.clone()], rest)));
                done = table.end;
                continue;
            }
        };
        done = bytes.end;
        edits.push(edit(file, bytes, ""));
    }
    edits
}

/// An inline table without what is written below a path in it.
fn without(table: &str, path: &[String]) -> String {
    let mut written = format!("x = {table}");
    loop {
        let outline = Outline::of(&written);
        let Some(whole) = outline.entries.first() else { return table.to_owned() };
        let mut inner = inside(&outline, &whole.value).filter(|entry| entry.path[1..].starts_with(path));
        let Some(entry) = inner.next() else { return written["x = ".len()..].to_owned() };
        let earlier = inside(&outline, &whole.value).filter(|other| other.value.end <= entry.key_bytes().start);
        let before = earlier.map(|other| other.value.end).max();
        let gone = take(&written, &outline, &Held { bytes: entry.bytes(), holder: whole.value.clone(), before });
        written.replace_range(gone, "");
    }
}

/// The inline table that an entry stands in: the innermost value of another that holds it.
fn holder(outline: &Outline, entry: &KeyValue) -> Option<ByteRange> {
    let holds = |other: &&KeyValue| other.value.start < entry.key_bytes().start && entry.value.end < other.value.end;
    outline.entries.iter().filter(holds).map(|other| other.value.clone()).max_by_key(|bytes| bytes.start)
}

/// The entries that stand in an inline table, not deeper.
fn inside<'o>(outline: &'o Outline, table: &ByteRange) -> impl Iterator<Item = &'o KeyValue> {
    let within = |entry: &&KeyValue| table.start < entry.key_bytes().start && entry.value.end < table.end;
    outline.entries.iter().filter(within).filter(move |entry| holder(outline, entry).as_ref() == Some(table))
}

/// Adds a setting that does not stand in the file: after the last of its table, else in a new table at the end.
pub fn insert<S: AsRef<str>>(file: FileId, source: &Source, steps: &[S], value: &str) -> Vec<Edit> {
    let (text, outline) = (&source.text, source.derived(Outline::of));
    let steps: Vec<&str> = steps.iter().map(AsRef::as_ref).collect();
    let parents = &steps[..steps.len().saturating_sub(1)];
    let assignment = |from: usize| format!("{} = {value}", crate::path_of(&steps[from..]));
    let starts = |path: &[String], with: &[&str]| path.len() >= with.len() && path.iter().zip(with).all(|(a, b)| a == b);
    for depth in (0..=parents.len()).rev() {
        let table = &parents[..depth];
        let inline = outline.entries.iter().find(|entry| {
            !entry.listed && entry.path.len() == depth && starts(&entry.path, table) && text[entry.value.clone()].starts_with('{')
        });
        if let Some(entry) = inline.filter(|_| depth > 0) {
            return into_inline(file, source, entry, &assignment(depth));
        }
        let header = outline.headers.iter().position(|header| !header.listed && header.path == table);
        if let Some(header) = header {
            if depth < parents.len() {
                break;
            }
            let own = outline.entries.iter().rfind(|entry| entry.section == Some(header) && !entry.inline);
            let after = own.map_or(outline.headers[header].bytes.end, |entry| entry.value.end);
            return vec![line_after(file, source, after, own, &assignment(depth))];
        }
        // A table that dotted keys made has no header: what is new is dotted, too.
        let dotted = outline.entries.iter().rfind(|entry| {
            let section = outline.section_path(entry).len();
            !entry.listed && !entry.inline && section < depth && entry.path.len() > depth && starts(&entry.path, table)
        });
        if let Some(entry) = dotted {
            let from = outline.section_path(entry).len();
            return vec![line_after(file, source, entry.value.end, Some(entry), &assignment(from))];
        }
    }
    if parents.is_empty() {
        let end = newline(text);
        let top = outline.entries.iter().rfind(|entry| entry.section.is_none() && !entry.inline);
        return match top {
            Some(entry) => vec![line_after(file, source, entry.value.end, Some(entry), &assignment(0))],
            None => vec![edit(file, mark(text)..mark(text), format!("{}{end}", assignment(0)))],
        };
    }
    let end = newline(text);
    let gap = match &text[mark(text)..] {
        "" => String::new(),
        text if text.ends_with(&format!("{end}{end}")) => String::new(),
        text if text.ends_with('\n') => end.to_owned(),
        _ => format!("{end}{end}"),
    };
    let header = format!("[{}]", crate::path_of(parents));
    vec![edit(file, text.len()..text.len(), format!("{gap}{header}{end}{}{end}", assignment(parents.len())))]
}

/// A new line after the one that a byte stands in, indented as a neighbour is.
fn line_after(file: FileId, source: &Source, byte: usize, beside: Option<&KeyValue>, assignment: &str) -> Edit {
    let text = &source.text;
    let (at, end) = (line_end(text, byte), newline(text));
    let lead = if text[..at].ends_with('\n') { "" } else { end };
    let indent = beside.map_or("", |entry| &text[line_start(text, entry.key_bytes().start)..entry.key_bytes().start]);
    let indent = if indent.trim().is_empty() { indent } else { "" };
    edit(file, at..at, format!("{lead}{indent}{assignment}{end}"))
}

/// A new entry at the end of an inline table.
fn into_inline(file: FileId, source: &Source, table: &KeyValue, assignment: &str) -> Vec<Edit> {
    let (text, outline) = (&source.text, source.derived(Outline::of));
    match inside(outline, &table.value).last() {
        Some(last) => append(file, source, &table.value, last.bytes(), assignment),
        None => {
            let body = &text[table.value.start + 1..table.value.end - 1];
            let at = table.value.start + 1 + body.trim_end().len();
            let put = if body.trim().is_empty() { format!(" {assignment} ") } else { format!("{}{assignment} ", newline(text)) };
            vec![edit(file, at..at + if body.trim().is_empty() { body.len() } else { 0 }, put)]
        }
    }
}

/// Adds one more behind the last of several, in the way they are written.
fn append(file: FileId, source: &Source, holder: &ByteRange, last: ByteRange, new: &str) -> Vec<Edit> {
    let (text, outline) = (&source.text, source.derived(Outline::of));
    let line = line_start(text, last.start);
    let before = &text[line..last.start];
    if line <= holder.start || !before.trim().is_empty() {
        return vec![edit(file, last.end..last.end, format!(", {new}"))];
    }
    // Those on lines of their own stay so, and a comment behind the last one stays behind it.
    let comma = outline.comma_in(last.end..holder.end);
    let end = comma.map_or(last.end, |comma| comma + 1);
    let rest = &text[end..line_end(text, end)];
    let behind = if rest.trim_start().starts_with('#') { end + rest.trim_end().len() } else { end };
    let put = format!("{}{before}{new}", newline(text));
    match comma {
        Some(_) => vec![edit(file, behind..behind, format!("{put},"))],
        None if behind == end => vec![edit(file, end..end, format!(",{put}"))],
        None => vec![edit(file, end..end, ","), edit(file, behind..behind, put)],
    }
}

/// Adds an element to a list, before the element with a number or at the end, in the way the list is written.
pub fn insert_item(source: &Source, list: &SpannedValue, place: Option<usize>, value: &str) -> Option<Vec<Edit>> {
    let TomlValue::Array(items) = &list.value else { return None };
    let (text, file) = (&source.text, list.span.file);
    let range = list.span.range();
    let Some(last) = items.last() else {
        // Between the brackets; what stands there, such as a comment, stays behind it.
        let inside = &text[range.start + 1..range.end - 1];
        let at = range.start + 1 + if inside.trim_matches(' ').is_empty() { inside.len() / 2 } else { 0 };
        return Some(vec![edit(file, at..at, value)]);
    };
    match place.and_then(|place| items.get(place)) {
        Some(next) => {
            let at = next.span.start as usize;
            let line = line_start(text, at);
            let own_line = line > range.start && text[line..at].trim().is_empty();
            let between = if own_line { format!("{}{}", newline(text), &text[line..at]) } else { " ".to_owned() };
            Some(vec![edit(file, at..at, format!("{value},{between}"))])
        }
        None => Some(append(file, source, &range, last.span.range(), value)),
    }
}

/// Takes an element out of a list, with its comma.
pub fn remove_item(source: &Source, list: &SpannedValue, which: usize) -> Option<Edit> {
    let TomlValue::Array(items) = &list.value else { return None };
    let item = items.get(which)?;
    let before = which.checked_sub(1).and_then(|before| items.get(before)).map(|before| before.span.end as usize);
    let held = Held { bytes: item.span.range(), holder: list.span.range(), before };
    Some(edit(list.span.file, take(&source.text, source.derived(Outline::of), &held), ""))
}
