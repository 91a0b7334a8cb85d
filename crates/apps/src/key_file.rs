//! Files of groups and keys, as desktop entries and icon themes are (Desktop Entry Specification, "Basic format of the file").

use std::collections::HashMap;

/// A line that says nothing that can be understood.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {why}")]
pub struct KeyFileError {
    /// Its number, from 1.
    pub line: usize,
    /// What is wrong with it.
    pub why: &'static str,
}

/// The keys of one group, each with its value as it is written and its line.
pub type KeyFileGroup = HashMap<String, (String, usize)>;

/// All groups of a file, in their order.
#[derive(Debug, Clone, Default)]
pub struct KeyFile(pub Vec<(String, KeyFileGroup)>);

impl KeyFile {
    /// A group by its name.
    pub fn get(&self, name: &str) -> Option<&KeyFileGroup> {
        self.0.iter().find(|(own, _)| own == name).map(|(_, group)| group)
    }
}

/// Reads a file of groups; of a key that stands twice the first holds.
///
/// # Errors
///
/// The first line that is neither a group, a key with its value, a comment nor empty.
pub fn groups(text: &str) -> Result<KeyFile, KeyFileError> {
    let mut all = KeyFile::default();
    for (nth, line) in text.lines().enumerate() {
        let bad = |why| KeyFileError { line: nth + 1, why };
        let line = line.trim();
        if line.is_empty() || line.starts_with('#') {
            continue;
        }
        if let Some(rest) = line.strip_prefix('[') {
            let name = rest.strip_suffix(']').ok_or_else(|| bad("the name of a group is not closed by ]"))?;
            if all.get(name).is_some() {
                return Err(bad("this group stands twice"));
            }
            all.0.push((name.to_owned(), KeyFileGroup::new()));
            continue;
        }
        let (key, value) = line.split_once('=').ok_or_else(|| bad("neither a group nor a key with its value"))?;
        let Some((_, group)) = all.0.last_mut() else { return Err(bad("a key stands before the first group")) };
        group.entry(key.trim_end().to_owned()).or_insert_with(|| (value.trim_start().to_owned(), nth + 1));
    }
    Ok(all)
}

/// A value without its escapes: `\s`, `\n`, `\t`, `\r`, `\\`.
pub(crate) fn unescaped(value: &str) -> String {
    pieces(value, None).concat()
}

/// The values of a list, without their escapes; `\;` is no end of one.
pub(crate) fn list(value: &str) -> Vec<String> {
    let mut all = pieces(value, Some(';'));
    if all.last().is_some_and(String::is_empty) {
        all.pop();
    }
    all
}

fn pieces(value: &str, end: Option<char>) -> Vec<String> {
    let (mut all, mut one) = (Vec::new(), String::new());
    let mut chars = value.chars();
    while let Some(c) = chars.next() {
        match c {
            '\\' => match chars.next() {
                Some('s') => one.push(' '),
                Some('n') => one.push('\n'),
                Some('t') => one.push('\t'),
                Some('r') => one.push('\r'),
                Some('\\') => one.push('\\'),
                Some(';') if end.is_some() => one.push(';'),
                Some(other) => one.extend(['\\', other]),
                None => one.push('\\'),
            },
            c if Some(c) == end => all.push(std::mem::take(&mut one)),
            c => one.push(c),
        }
    }
    all.push(one);
    all
}
