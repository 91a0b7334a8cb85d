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

/// Rows as aligned columns, two spaces between them; the last column is not filled up.
pub fn columns(rows: &[Vec<String>], indent: &str) -> Vec<String> {
    let count = rows.iter().map(Vec::len).max().unwrap_or(0);
    let widths: Vec<usize> =
        (0..count).map(|at| rows.iter().filter_map(|row| row.get(at)).map(|cell| width(cell)).max().unwrap_or(0)).collect();
    let line = |row: &Vec<String>| {
        let cells: Vec<String> = row
            .iter()
            .enumerate()
            .map(|(at, cell)| if at + 1 == row.len() { cell.clone() } else { pad(cell, widths[at]) })
            .collect();
        format!("{indent}{}", cells.join("  ")).trim_end().to_owned()
    };
    rows.iter().map(line).collect()
}
