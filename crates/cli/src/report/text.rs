//! Text in columns.

use unicode_width::UnicodeWidthStr;

/// How many columns a text takes, without its colours.
pub fn width(text: &str) -> usize {
    let mut plain = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(at) = rest.find('\x1b') {
        plain.push_str(&rest[..at]);
        rest = rest[at..].find('m').map_or("", |end| &rest[at + end + 1..]);
    }
    plain.push_str(rest);
    plain.width()
}

/// A text filled up with spaces to so many columns.
pub fn pad(text: &str, columns: usize) -> String {
    format!("{text}{}", " ".repeat(columns.saturating_sub(width(text))))
}

/// Lines of words, each at most so many columns where its words allow.
pub fn wrap(text: &str, columns: usize) -> Vec<String> {
    let mut lines = vec![String::new()];
    for word in text.split(' ') {
        let Some(line) = lines.last_mut() else { break };
        if line.is_empty() {
            line.push_str(word);
        } else if width(line) + 1 + width(word) <= columns {
            line.push(' ');
            line.push_str(word);
        } else {
            lines.push(word.to_owned());
        }
    }
    lines
}

/// Lines of exactly what a text holds, cut where so many columns are full.
pub fn wrap_exactly(text: &str, columns: usize) -> Vec<String> {
    let mut lines = vec![String::new()];
    for c in text.chars() {
        let mut own = [0; 4];
        let own = c.encode_utf8(&mut own);
        if lines.last().is_some_and(|line| width(line) + own.width() > columns.max(1)) {
            lines.push(String::new());
        }
        if let Some(line) = lines.last_mut() {
            line.push_str(own);
        }
    }
    lines
}

/// Rows as aligned columns, two spaces between them. The last column is not filled up; what does not fit into `most`
/// columns is wrapped under its own indent, so that an item may be several lines.
pub fn columns(rows: &[Vec<String>], indent: &str, most: usize) -> Vec<String> {
    let count = rows.iter().map(Vec::len).max().unwrap_or(0);
    let widest = |at: usize| rows.iter().filter(|row| row.len() > at + 1).map(|row| width(&row[at])).max().unwrap_or(0);
    let widths: Vec<usize> = (0..count).map(widest).collect();
    let line = |row: &Vec<String>| {
        let Some((last, first)) = row.split_last() else { return String::new() };
        let mut text = indent.to_owned();
        for (cell, columns) in first.iter().zip(&widths) {
            text.push_str(&pad(cell, *columns));
            text.push_str("  ");
        }
        let start = width(&text);
        // Coloured cells are short; only plain words are wrapped.
        let room = most.saturating_sub(start);
        if last.contains('\x1b') || width(last) <= room || room < 16 {
            text.push_str(last);
        } else {
            text.push_str(&wrap(last, room).join(&format!("\n{}", " ".repeat(start))));
        }
        text.trim_end().to_owned()
    };
    rows.iter().map(line).collect()
}
