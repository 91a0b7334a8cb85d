//! Commenting out and in: what people do while trying.
//!
//! Out and in again gives the same bytes. A line is switched off with `# ` at its start; an element of a list that is
//! written on one line is noted in a comment behind the list.

use jovrik_text::problem::Edit;
use jovrik_text::{FileId, Source};

use crate::edit::edit;
use crate::outline::{SourceLine, line_end, line_start, lines};
use crate::parse::{is_sound, parse_value};
use crate::{ByteRange, Outline, SpannedValue, TomlValue};

/// Switches the lines off that some bytes touch.
fn off(file: FileId, all: &[SourceLine<'_>], bytes: &ByteRange) -> Vec<Edit> {
    let touched = all.iter().filter(|line| line.start < bytes.end && bytes.start < line.end.max(line.start + 1));
    let one = |line: &SourceLine<'_>| {
        let at = line.start + line.text.len() - line.text.trim_start().len();
        // An empty line gets its mark too, so that the block stays one.
        edit(file, at..at, if line.text.trim().is_empty() { "#" } else { "# " })
    };
    touched.map(one).collect()
}

/// The bytes of a line, from its start, that switch it off; nothing when it is not switched off.
fn marked(line: &str) -> Option<ByteRange> {
    let indent = line.len() - line.trim_start().len();
    let rest = line[indent..].strip_prefix('#')?;
    Some(indent..indent + 1 + usize::from(rest.starts_with(' ')))
}

/// What a line says once it is switched on.
fn switched_on(line: &str) -> Option<String> {
    let mark = marked(line)?;
    Some(format!("{}{}", &line[..mark.start], &line[mark.end..]))
}

fn on(file: FileId, line: &SourceLine<'_>) -> Option<Edit> {
    let mark = marked(line.text)?;
    Some(edit(file, line.start + mark.start..line.start + mark.end, ""))
}

/// Switches an assignment off, all of its lines; nothing when it shares a line with others.
pub fn comment_out(source: &Source, node: &SpannedValue) -> Option<Vec<Edit>> {
    let outline = source.derived(Outline::of);
    let entry = outline.of_value(node.span.start as usize).filter(|entry| !entry.inline && !entry.listed)?;
    Some(off(node.span.file, &lines(&source.text, outline), &entry.bytes()))
}

/// The path of a line that opens a table, and nothing else.
fn header(line: &str) -> Option<Vec<String>> {
    let outline = Outline::of(line);
    match (outline.headers.as_slice(), outline.entries.is_empty() && is_sound(line)) {
        ([header], true) if !header.listed => Some(header.path.clone()),
        _ => None,
    }
}

/// The path that an assignment of one line or several gives, below its table; nothing when it is none, or not a whole one.
fn assigned(text: &str) -> Option<Vec<String>> {
    let outline = Outline::of(text);
    let mut whole = outline.entries.iter().filter(|entry| !entry.inline);
    match (whole.next(), whole.next(), outline.headers.is_empty() && is_sound(text)) {
        (Some(entry), None, true) => Some(entry.path.clone()),
        _ => None,
    }
}

/// The most lines that one assignment is looked for in.
const MAX_ASSIGNMENT_LINES: usize = 200;

/// A setting that is commented out.
struct Quiet {
    /// Its whole path.
    path: Vec<String>,
    /// Its lines.
    lines: std::ops::Range<usize>,
    /// The line of the header above it that is commented out as well.
    header: Option<usize>,
}

/// All settings that are commented out.
fn quiet(source: &Source, all: &[SourceLine<'_>]) -> Vec<Quiet> {
    let outline = source.derived(Outline::of);
    let mut found = Vec::new();
    let mut table: Vec<String> = Vec::new();
    // A header that is commented out opens its table for the comments below it, up to the next real line.
    let mut above: Option<(usize, Vec<String>)> = None;
    let mut at = 0;
    while at < all.len() {
        let line = &all[at];
        at += 1;
        let indent = line.text.len() - line.text.trim_start().len();
        if let Some(real) = outline.header_at(line.start + indent) {
            (table, above) = (real.path.clone(), None);
            continue;
        }
        let Some(text) = switched_on(line.text).filter(|_| line.comment) else {
            if !line.text.trim().is_empty() {
                above = None;
            }
            continue;
        };
        if let Some(path) = header(&text) {
            above = Some((at - 1, path));
            continue;
        }
        if !text.contains('=') {
            continue;
        }
        let mut whole = String::new();
        for count in 1..=MAX_ASSIGNMENT_LINES.min(all.len() + 1 - at) {
            let next = &all[at + count - 2];
            let Some(text) = switched_on(next.text).filter(|_| next.comment) else { break };
            whole.push_str(&text);
            whole.push('\n');
            let Some(own) = assigned(&whole) else { continue };
            let base = above.as_ref().map_or(&table, |(_, path)| path);
            let path = [base.as_slice(), &own].concat();
            let header = above.as_ref().map(|(at, _)| *at);
            found.push(Quiet { path, lines: at - 1..at - 1 + count, header });
            at += count - 1;
            break;
        }
    }
    found
}

/// Finds a setting that is commented out and switches it on; its table's header too, where that is commented out. `normal`
/// spells a path in one way.
pub fn comment_in(
    file: FileId,
    source: &Source,
    path: &[String],
    normal: &dyn Fn(&[String]) -> Vec<String>,
) -> Option<Vec<Edit>> {
    let path = normal(path);
    let all = lines(&source.text, source.derived(Outline::of));
    let found: Vec<Quiet> = quiet(source, &all);
    let fits = |quiet: &&Quiet| normal(&quiet.path) == path;
    // One below a real header is meant before one whose header must be switched on.
    let best = found.iter().filter(fits).min_by_key(|quiet| quiet.header.is_some())?;
    let header = best.header.and_then(|at| on(file, &all[at]));
    Some(header.into_iter().chain(best.lines.clone().filter_map(|at| on(file, &all[at]))).collect())
}

/// Switches a table off: each of its headers with what stands below, tables in it included, and what is written of it
/// elsewhere in dotted keys or as an inline table.
pub fn table_out(file: FileId, source: &Source, path: &[String]) -> Vec<Edit> {
    let outline = source.derived(Outline::of);
    let all = lines(&source.text, outline);
    let line_of = |byte: usize| all.partition_point(|line| line.end <= byte);
    let mut edits = Vec::new();
    for (nth, header) in outline.headers.iter().enumerate().filter(|(_, header)| header.path.starts_with(path)) {
        let from = line_of(header.bytes.start);
        let next = outline.headers.get(nth + 1).map_or(all.len(), |header| line_of(header.bytes.start));
        // What stands above the next header, after an empty line, speaks of that one.
        let mut to = next;
        while to > from + 1 && all[to - 1].comment {
            to -= 1;
        }
        let spoken_of = to < next && (to == from + 1 || all[to - 1].text.trim().is_empty()) && next < all.len();
        let mut end = if spoken_of { to } else { next };
        while end > from + 1 && all[end - 1].text.trim().is_empty() {
            end -= 1;
        }
        edits.extend(off(file, &all, &(all[from].start..all[end - 1].start + all[end - 1].text.len())));
    }
    let beside = outline.entries.iter().filter(|entry| {
        !entry.inline && !entry.listed && entry.path.starts_with(path) && !outline.section_path(entry).starts_with(path)
    });
    edits.extend(beside.flat_map(|entry| off(file, &all, &entry.bytes())));
    edits
}

/// Finds a table that is commented out and switches it on: its headers, and the comments right below each; what is written
/// of it in dotted keys or as an inline table.
pub fn table_in(file: FileId, source: &Source, path: &[String]) -> Vec<Edit> {
    let all = lines(&source.text, source.derived(Outline::of));
    let mut chosen = vec![false; all.len()];
    // Lines of a text of several lines open no table, whatever they look like.
    let mut within = vec![false; all.len()];
    for quiet in quiet(source, &all) {
        quiet.lines.clone().for_each(|at| within[at] = true);
        let alone = quiet.header.is_none() && quiet.path.starts_with(path);
        quiet.lines.filter(|_| alone).for_each(|at| chosen[at] = true);
    }
    let mut inside = false;
    for (at, line) in all.iter().enumerate() {
        let Some(text) = switched_on(line.text).filter(|_| line.comment) else {
            inside = false;
            continue;
        };
        if let Some(own) = header(&text).filter(|_| !within[at]) {
            inside = own.starts_with(path);
        }
        chosen[at] |= inside;
    }
    all.iter().zip(chosen).filter(|(_, chosen)| *chosen).filter_map(|(line, _)| on(file, line)).collect()
}

/// Switches an element of a list off; nothing when it shares a line of several with others.
pub fn element_out(source: &Source, list: &SpannedValue, which: usize) -> Option<Vec<Edit>> {
    let TomlValue::Array(items) = &list.value else { return None };
    let (text, file) = (&source.text, list.span.file);
    let item = items.get(which)?.span.range();
    let line = line_start(text, item.start);
    let tail = text[item.end..line_end(text, item.end)].trim_start().trim_start_matches(',').trim();
    let own_line = line > list.span.start as usize && text[line..item.start].trim().is_empty();
    if own_line && (tail.is_empty() || tail.starts_with('#')) {
        return Some(off(file, &lines(text, source.derived(Outline::of)), &item));
    }
    let written = text.get(item.clone())?;
    let whole = text.get(list.span.range())?;
    if whole.contains('\n') {
        return None;
    }
    let taken = crate::remove_item(source, list, which)?;
    // The note says what was taken out byte by byte, where that is not the usual comma and space.
    let raw = text.get(taken.span.range())?;
    let usual = [format!("{written}, "), format!(", {written}"), written.to_owned()];
    let note = if usual.iter().any(|usual| usual == raw) { written } else { raw.trim_end() };
    if note != written && note != raw {
        // Space at its end would be lost in a comment.
        return None;
    }
    let note = format!("off: {note} ({})", which + 1);
    let end = list.span.end as usize;
    let behind = text[end..line_end(text, end)].trim();
    if !(behind.is_empty() || behind.starts_with('#')) {
        return None;
    }
    let gap = if behind.is_empty() { "  # " } else { "; " };
    let end = end + text[end..line_end(text, end)].trim_end().len();
    Some(vec![taken, edit(file, end..end, format!("{gap}{note}"))])
}

/// The text of a value that is written somewhere, whatever its quotes.
fn text_of(written: &str) -> Option<String> {
    parse_value(written)?.text().map(str::to_owned)
}

/// A note of an element behind its list.
struct Noted {
    /// Its bytes, from `off:` to the bracket.
    bytes: ByteRange,
    /// What was taken out.
    raw: String,
    /// Its place in the list, from 1.
    place: usize,
}

/// The note of an element of a name, in what stands behind a list.
fn note_of(behind: &str, name: &str) -> Option<Noted> {
    for (from, mark) in behind.match_indices("off: ") {
        let rest = &behind[from + mark.len()..];
        for (open, _) in rest.match_indices(" (") {
            let raw = &rest[..open];
            let number = rest[open + 2..].split(')').next().and_then(|number| number.parse().ok());
            if let (Some(place), Some(text)) = (number, text_of(raw.trim_matches([',', ' ', '\t'])))
                && text == name
            {
                let end = from + mark.len() + open + 2 + rest[open + 2..].find(')')? + 1;
                return Some(Noted { bytes: from..end, raw: raw.to_owned(), place });
            }
        }
    }
    None
}

/// Finds an element of a list that is switched off, and switches it on where it was.
pub fn element_in(source: &Source, list: &SpannedValue, name: &str) -> Option<Vec<Edit>> {
    let TomlValue::Array(items) = &list.value else { return None };
    let (text, file, range) = (&source.text, list.span.file, list.span.range());
    let all = lines(text, source.derived(Outline::of));
    for line in all.iter().filter(|line| line.comment && range.contains(&line.start)) {
        let Some(own) = switched_on(line.text) else { continue };
        // An element, perhaps with a comma and a comment behind it.
        let first = parse_value(&format!("[{own}\n]")).map(|node| node.value);
        let Some(TomlValue::Array(found)) = first else { continue };
        if !matches!(found.as_slice(), [one] if one.text() == Some(name)) {
            continue;
        }
        let mut edits = vec![on(file, line)?];
        // Elements on both sides want a comma between.
        let has_comma = |from: usize, to: usize| source.derived(Outline::of).comma_in(from..to).is_some();
        let before = items.iter().rfind(|item| (item.span.end as usize) <= line.start);
        if let Some(before) = before.map(|before| before.span.end as usize).filter(|end| !has_comma(*end, line.start)) {
            edits.push(edit(file, before..before, ","));
        }
        let after = items.iter().any(|item| item.span.start as usize > line.start);
        let written = Outline::of(&format!("x = [{own}\n]"));
        if after && written.commas.is_empty() {
            let behind = written.comments.first().map_or(own.len(), |comment| comment.start - "x = [".len());
            let end = own[..behind].trim_end().len();
            let mark = marked(line.text)?;
            let at = line.start + end + mark.len();
            edits.push(edit(file, at..at, ","));
        }
        return Some(edits);
    }
    // A list on one line has its notes behind it.
    let end = range.end;
    let behind = text[end..line_end(text, end)].trim_end_matches(['\n', '\r']);
    let noted = note_of(behind, name)?;
    // The note goes with what parted it from others.
    let (mut from, mut to) = (noted.bytes.start, noted.bytes.end);
    let lead = &behind[..from];
    match (lead.strip_suffix("; "), lead.trim() == "#") {
        (Some(kept), _) => from = kept.len(),
        (None, true) if behind[to..].trim().is_empty() => from = 0,
        _ => to += if behind[to..].starts_with("; ") { 2 } else { 0 },
    }
    let place = noted.place.saturating_sub(1);
    let plain = noted.raw.trim_matches([',', ' ', '\t']);
    let put = match (noted.raw.trim_start().starts_with(','), noted.raw.trim_end().ends_with(',')) {
        (true, _) if place == items.len() && place > 0 => {
            let at = items[place - 1].span.end as usize;
            vec![edit(file, at..at, noted.raw.clone())]
        }
        (_, true) if place < items.len() => {
            let at = items[place].span.start as usize;
            vec![edit(file, at..at, noted.raw.clone())]
        }
        (_, true) if items.is_empty() => crate::insert_item(source, list, None, &noted.raw)?,
        _ => crate::insert_item(source, list, Some(place), plain)?,
    };
    Some(put.into_iter().chain([edit(file, end + from..end + to, "")]).collect())
}
