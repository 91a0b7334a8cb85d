//! From the `Exec` of an entry to a program and its arguments (Desktop Entry Specification, "The Exec key").

use std::path::Path;

use crate::key_file::unescaped;

/// Why nothing can be run.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum ExecError {
    /// A quote is not closed.
    #[error("Exec has a quote that is not closed: {0}")]
    Quote(String),
    /// A field code that is none.
    #[error("Exec has the field code %{0}, which is none")]
    Code(char),
    /// A field code that is not ended.
    #[error("Exec ends in a single %")]
    Open,
    /// Nothing is named.
    #[error("Exec names no program")]
    Empty,
}

/// The words of a line: unquoted ones, and quoted ones with whether they were.
fn words(exec: &str) -> Result<Vec<(String, bool)>, ExecError> {
    let line = unescaped(exec);
    let (mut all, mut chars) = (Vec::new(), line.chars().peekable());
    loop {
        while chars.next_if(|c| *c == ' ' || *c == '\t').is_some() {}
        let Some(first) = chars.peek().copied() else { return Ok(all) };
        let (mut word, mut quoted) = (String::new(), false);
        if first == '"' {
            chars.next();
            quoted = true;
            loop {
                match chars.next() {
                    Some('"') => break,
                    // Within quotes these four are written with a backslash.
                    Some('\\') => match chars.next() {
                        Some(c @ ('"' | '`' | '$' | '\\')) => word.push(c),
                        Some(c) => word.extend(['\\', c]),
                        None => return Err(ExecError::Quote(line)),
                    },
                    Some(c) => word.push(c),
                    None => return Err(ExecError::Quote(line)),
                }
            }
        }
        // What follows a quote at once belongs to it, as programs write it.
        while let Some(c) = chars.next_if(|c| *c != ' ' && *c != '\t') {
            if c == '"' {
                // A quote within a word: some entries have `--name="two words"`.
                loop {
                    match chars.next() {
                        Some('"') => break,
                        Some(c) => word.push(c),
                        None => return Err(ExecError::Quote(line)),
                    }
                }
                quoted = true;
            } else {
                word.push(c);
            }
        }
        all.push((word, quoted));
    }
}

/// The program and the arguments of an `Exec`, without files: `icon`, `name` and `file` fill `%i`, `%c` and `%k`.
///
/// # Errors
///
/// What cannot be understood.
pub fn command(exec: &str, icon: &str, name: &str, file: &Path) -> Result<Vec<String>, ExecError> {
    let mut argv = Vec::new();
    for (word, quoted) in words(exec)? {
        if !quoted {
            match word.as_str() {
                // Nothing is handed over to them here, and these are no longer used.
                "%f" | "%F" | "%u" | "%U" | "%d" | "%D" | "%n" | "%N" | "%v" | "%m" => continue,
                "%i" => {
                    if !icon.is_empty() {
                        argv.extend(["--icon".to_owned(), icon.to_owned()]);
                    }
                    continue;
                }
                _ => {}
            }
        }
        let (mut filled, mut chars) = (String::new(), word.chars());
        while let Some(c) = chars.next() {
            if c != '%' {
                filled.push(c);
                continue;
            }
            match chars.next().ok_or(ExecError::Open)? {
                '%' => filled.push('%'),
                'c' => filled.push_str(name),
                'k' => filled.push_str(&file.to_string_lossy()),
                'f' | 'F' | 'u' | 'U' | 'd' | 'D' | 'n' | 'N' | 'v' | 'm' | 'i' => {}
                other => return Err(ExecError::Code(other)),
            }
        }
        argv.push(filled);
    }
    if argv.first().is_none_or(String::is_empty) { Err(ExecError::Empty) } else { Ok(argv) }
}
