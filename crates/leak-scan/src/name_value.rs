//! One line of a file, and where in it a name is followed by its value.

/// What kind of file a line stands in: it decides what a bare word after a name is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Manner {
    /// A rice's own: values are quoted.
    Toml,
    /// Settings of other programs, and scripts of shells: a bare word is a value.
    Settings,
    /// A program: a bare word is something to work out.
    Code,
    /// Sentences, and comments of settings.
    Prose,
    /// Shapes and styles: full of numbers.
    Drawing,
    /// Sums of files: random by nature.
    Sums,
}

impl Manner {
    /// That of a line of a file of this name.
    pub(super) fn of(file: &str, line: &str) -> Self {
        let name = file.rsplit('/').next().unwrap_or(file).to_lowercase();
        let ending = name.rsplit_once('.').map_or("", |(_, ending)| ending);
        if name.contains("lock") && matches!(ending, "lock" | "json" | "toml" | "yaml" | "txt")
            || name.ends_with("sums")
            || ending == "sum"
        {
            return Self::Sums;
        }
        match ending {
            "toml" if line.trim_start().starts_with('#') => Self::Prose,
            "toml" => Self::Toml,
            "md" | "txt" | "rst" | "adoc" | "html" => Self::Prose,
            "svg" | "css" | "scss" | "xpm" => Self::Drawing,
            "py" | "js" | "ts" | "lua" | "rs" | "go" | "c" | "h" | "rb" | "pl" | "vala" => Self::Code,
            _ => Self::Settings,
        }
    }
}

/// How a value is tied to its name.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Tie {
    /// `name = value`, `name: value`, `<name>value`.
    Assigned,
    /// `--name value`, `"--name", "value"`.
    Option,
    /// `"name", "value"`.
    Pair,
    /// `name value`.
    Beside,
}

/// A name and the value after it.
#[derive(Debug, Clone, Copy)]
pub(super) struct Named<'l> {
    /// The name, without marks of an option.
    pub name: &'l str,
    /// How the value is tied to it.
    pub tie: Tie,
    /// The value, without quotes.
    pub value: &'l str,
    /// Where the value begins in the line, in bytes.
    pub from: usize,
    /// Whether it is quoted, or else follows a sign without a space, and so is surely a value.
    pub sure: bool,
}

fn of_name(c: char) -> bool {
    c.is_ascii_alphanumeric() || matches!(c, '_' | '-' | '.')
}

/// A quote at the beginning of a text, with a backslash before it where it stands in a quoted text itself.
fn quote(text: &str) -> Option<&str> {
    ["\\\"", "\\'", "\"", "'", "`", "[["].into_iter().find(|quote| text.starts_with(quote))
}

/// All names of a line that have a value.
pub(super) fn named(line: &str, manner: Manner) -> Vec<Named<'_>> {
    let mut all = Vec::new();
    let mut at = 0;
    while let Some(begin) = line[at..].find(|c: char| c.is_ascii_alphabetic()) {
        let start = at + begin;
        let end = line[start..].find(|c| !of_name(c)).map_or(line.len(), |len| start + len);
        let name = line[start..end].trim_end_matches(['.', '-']);
        at = end;
        let after = start + name.len();
        if let Some((tie, value_at)) = tie(line, start, after)
            && let Some(found) = value(line, name, tie, value_at, manner)
        {
            all.push(found);
        }
    }
    all
}

/// How what follows is tied to the name between two places, and where it begins.
fn tie(line: &str, start: usize, after: usize) -> Option<(Tie, usize)> {
    let rest = &line[after..];
    let at = |left: &str| line.len() - left.len();
    let before = line[..start].chars().next_back();
    if before == Some('<') && rest.starts_with('>') {
        return Some((Tie::Assigned, after + 1));
    }
    if rest.starts_with("\">") {
        return Some((Tie::Assigned, after + 2));
    }
    let bare = rest.trim_start_matches(['"', '\'', ']', '\\']);
    if let Some(value) = bare.trim_start().strip_prefix("value=").filter(|_| bare.len() < rest.len()) {
        return Some((Tie::Assigned, at(value)));
    }
    let signed = bare.trim_start();
    for sign in [":=", ":-", "=>", "=", ":"] {
        if let Some(value) = signed.strip_prefix(sign) {
            let other = value.starts_with(['=', '~', '?', '/']) || (sign == ":" && value.starts_with(':'));
            return (!other).then(|| (Tie::Assigned, at(value.trim_start())));
        }
    }
    let is_option = before == Some('-');
    let quoted = rest.strip_prefix('\\').unwrap_or(rest).strip_prefix(['"', '\'']);
    if let Some(next) = quoted {
        let next = next.trim_start().strip_prefix(',')?.trim_start();
        quote(next)?;
        return Some((if is_option { Tie::Option } else { Tie::Pair }, at(next)));
    }
    let next = rest.trim_start();
    (next.len() < rest.len() && !next.is_empty()).then(|| (if is_option { Tie::Option } else { Tie::Beside }, at(next)))
}

fn value<'l>(line: &'l str, name: &'l str, tie: Tie, at: usize, manner: Manner) -> Option<Named<'l>> {
    let rest = &line[at..];
    if let Some(quote) = quote(rest) {
        let inner = &rest[quote.len()..];
        let end = inner.find(if quote == "[[" { "]]" } else { quote })?;
        return Some(Named { name, tie, value: &inner[..end], from: at + quote.len(), sure: true });
    }
    let stop = |c: char| c.is_whitespace() || "\"'`,;&|()<>[]{}\\".contains(c);
    let word = rest.split(stop).next().unwrap_or_default();
    let line_of_its_own = line[..at].split_whitespace().count() <= 3 && line[..at].trim_end().ends_with(['=', ':']);
    let whole =
        manner == Manner::Settings && tie == Tie::Assigned && line_of_its_own && !rest.contains(['"', '\'', '(', '{', '=']);
    let value = if whole { rest.split(" #").next().unwrap_or(rest).trim_end().trim_end_matches([',', '}']) } else { word };
    let touching = line[..at].ends_with(['=', ':', '>']);
    let sure = match manner {
        Manner::Settings => tie != Tie::Beside,
        Manner::Toml | Manner::Prose | Manner::Drawing | Manner::Sums => touching || tie == Tie::Option,
        Manner::Code => return None,
    };
    Some(Named { name, tie, value, from: at, sure })
}
