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

/// The least room that the last column has; where there is less, the widest columns give way.
const MIN_LAST_COLUMN_CHARS: usize = 16;
/// The least room that a column is cut to.
const NARROWEST: usize = 14;

/// Rows as aligned columns, two spaces between them. The last column is not filled up; what does not fit into `most` columns is wrapped under
/// its own indent, so that an item may be several lines.
pub fn columns(rows: &[Vec<String>], indent: &str, most: usize) -> Vec<String> {
    let count = rows.iter().map(Vec::len).max().unwrap_or(0);
    let widest = |at: usize| rows.iter().filter(|row| row.len() > at + 1).map(|row| width(&row[at])).max().unwrap_or(0);
    let mut widths: Vec<usize> = (0..count).map(widest).collect();
    let last =
        rows.iter().filter(|row| row.len() == count).filter_map(|row| row.last()).map(|cell| width(cell)).max().unwrap_or(0);
    let gaps = width(indent) + 2 * count.saturating_sub(1);
    // What is words gives way first, as far as its longest word; then, where it must be, what is one: places, chords.
    let longest =
        |at: usize| rows.iter().filter_map(|row| row.get(at)).flat_map(|cell| cell.split(' ')).map(width).max().unwrap_or(0);
    for (least, narrowest) in [(MIN_LAST_COLUMN_CHARS, true), (MIN_LAST_COLUMN_CHARS - 4, false)] {
        let room = most.saturating_sub(gaps + last.min(least));
        let floor = |at: usize| if narrowest { longest(at).max(NARROWEST) } else { NARROWEST };
        let floors: Vec<usize> = (0..count).map(floor).collect();
        while count > 1 && widths.iter().sum::<usize>() > room {
            let Some(at) = (0..count - 1).filter(|at| widths[*at] > floors[*at]).max_by_key(|at| widths[*at]) else { break };
            widths[at] -= 1;
        }
    }
    rows.iter().map(|row| in_columns(row, &widths, indent, most)).collect()
}

fn in_columns(row: &[String], widths: &[usize], indent: &str, most: usize) -> String {
    let Some((last, first)) = row.split_last() else { return String::new() };
    let start = width(indent) + widths.iter().take(first.len()).map(|columns| columns + 2).sum::<usize>();
    let room = most.saturating_sub(start);
    let mut cells: Vec<Vec<String>> = first.iter().zip(widths).map(|(cell, columns)| in_cell(cell, *columns)).collect();
    // What has hardly any room is left as it is.
    cells.push(if width(last) <= room || room < 8 { vec![last.clone()] } else { in_cell(last, room) });
    let height = cells.iter().map(Vec::len).max().unwrap_or(1);
    let nothing = String::new();
    let line = |nth: usize| {
        let mut text = indent.to_owned();
        for (at, cell) in cells.iter().enumerate() {
            let piece = cell.get(nth).unwrap_or(&nothing);
            match widths.get(at).filter(|_| at + 1 < cells.len()) {
                Some(columns) => text.push_str(&format!("{}  ", pad(piece, *columns))),
                None => text.push_str(piece),
            }
        }
        text.trim_end().to_owned()
    };
    (0..height).map(line).collect::<Vec<_>>().join("\n")
}

/// A cell in lines of so many columns: at words, and a word that is too long for a line at its marks. One colour goes on in every line; what
/// has several is left as it is.
fn in_cell(cell: &str, columns: usize) -> Vec<String> {
    if width(cell) <= columns {
        return vec![cell.to_owned()];
    }
    let (before, plain, after) = match (cell.find('\x1b'), cell.rfind('\x1b')) {
        (Some(0), Some(end)) if end > 0 => {
            let begin = cell.find('m').map_or(0, |at| at + 1);
            (&cell[..begin], cell.get(begin..end).unwrap_or_default(), &cell[end..])
        }
        (None, _) => ("", cell, ""),
        _ => return vec![cell.to_owned()],
    };
    if plain.contains('\x1b') {
        return vec![cell.to_owned()];
    }
    let lines = wrap(plain, columns)
        .into_iter()
        .flat_map(|line| if width(&line) <= columns { vec![line] } else { at_marks(&line, columns) });
    lines.map(|line| format!("{before}{line}{after}")).collect()
}

/// A long word in lines: after a `/`, a `+`, a `.` or a comma where one is near, else where the line is full.
fn at_marks(word: &str, columns: usize) -> Vec<String> {
    let mut lines = Vec::new();
    let mut rest = word;
    while width(rest) > columns {
        let full = wrap_exactly(rest, columns)[0].len().max(1);
        let cut = rest[..full].rfind(['/', '+', '.', ',']).map(|at| at + 1).filter(|at| *at * 2 > full).unwrap_or(full);
        lines.push(rest[..cut].to_owned());
        rest = &rest[cut..];
    }
    lines.push(rest.to_owned());
    lines
}

#[cfg(test)]
mod tests {
    use super::*;

    fn shown(rows: &[&[&str]], most: usize) -> String {
        let rows: Vec<Vec<String>> = rows.iter().map(|row| row.iter().map(|cell| (*cell).to_owned()).collect()).collect();
        columns(&rows, "  ", most).join("\n")
    }

    #[test]
    fn the_widest_column_gives_way_and_nothing_is_lost() {
        let rows: &[&[&str]] = &[
            &["Lead+c", "close", "parts/keys.toml:8", "Close it"],
            &["XF86AudioMute", "shell one two three four five six", "parts/keys.toml:9", "Off"],
        ];
        insta::assert_snapshot!(shown(rows, 64), @"
        Lead+c         close               parts/keys.toml:8  Close it
        XF86AudioMute  shell one two       parts/keys.toml:9  Off
                       three four five
                       six
        ");
        for most in [60, 80, 200] {
            let text = shown(rows, most);
            assert!(text.lines().all(|line| width(line) <= most), "{most}\n{text}");
            let words = |text: &str| text.split_whitespace().collect::<String>().len();
            assert_eq!(words(&text), rows.iter().flat_map(|row| row.iter()).map(|cell| words(cell)).sum::<usize>(), "{text}");
        }
    }

    #[test]
    fn colours_go_on_in_every_line_of_a_cell() {
        assert_eq!(in_cell("\x1b[1mone two\x1b[0m", 4), ["\x1b[1mone\x1b[0m", "\x1b[1mtwo\x1b[0m"]);
        assert_eq!(in_cell("parts/keys.toml", 8), ["parts/", "keys.", "toml"]);
    }
}
