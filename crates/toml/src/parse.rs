//! Text to nodes: TOML with the place of every key and value, and as much as can be recovered of a broken file.

use jovrik_text::problem::Problem;
use jovrik_text::{FileId, Source, Span};
use toml::de::{DeTable, DeValue};

use crate::{ByteRange, Header, Outline};

/// A value as it stands in a file.
#[derive(Debug, Clone)]
pub enum TomlValue {
    /// A string.
    String(String),
    /// An integer.
    Integer(i64),
    /// A float.
    Float(f64),
    /// A boolean.
    Boolean(bool),
    /// A date or time, which no setting takes.
    DateTime(String),
    /// An array.
    Array(Vec<SpannedValue>),
    /// A table, in the order of the file; a key may stand twice.
    Table(Vec<(String, SpannedValue)>),
}

/// A value with its places.
#[derive(Debug, Clone)]
pub struct SpannedValue {
    /// The value.
    pub value: TomlValue,
    /// The bytes of the value.
    pub span: Span,
    /// The bytes of its key; of an element of a list, those of the element.
    pub key: Span,
}

impl SpannedValue {
    /// A text that no file holds.
    pub fn built_in(value: TomlValue) -> Self {
        Self { value, span: Span::BUILT_IN, key: Span::BUILT_IN }
    }

    /// What stands in it, if it is a table.
    pub fn entries(&self) -> Option<&[(String, SpannedValue)]> {
        match &self.value {
            TomlValue::Table(entries) => Some(entries),
            _ => None,
        }
    }

    /// The text, if it is one.
    pub fn text(&self) -> Option<&str> {
        match &self.value {
            TomlValue::String(text) => Some(text),
            _ => None,
        }
    }

    /// Whether both hold the same value, wherever they stand.
    pub fn same(&self, other: &SpannedValue) -> bool {
        match (&self.value, &other.value) {
            (TomlValue::String(a), TomlValue::String(b)) | (TomlValue::DateTime(a), TomlValue::DateTime(b)) => a == b,
            (TomlValue::Integer(a), TomlValue::Integer(b)) => a == b,
            (TomlValue::Float(a), TomlValue::Float(b)) => a == b,
            (TomlValue::Boolean(a), TomlValue::Boolean(b)) => a == b,
            (TomlValue::Array(a), TomlValue::Array(b)) => a.len() == b.len() && a.iter().zip(b).all(|(a, b)| a.same(b)),
            (TomlValue::Table(a), TomlValue::Table(b)) => {
                a.len() == b.len() && a.iter().all(|(name, a)| b.iter().any(|(other, b)| name == other && a.same(b)))
            }
            _ => false,
        }
    }

    /// What kind of value this is, in words.
    pub fn kind(&self) -> &'static str {
        match self.value {
            TomlValue::String(_) => "a text",
            TomlValue::Integer(_) => "a whole number",
            TomlValue::Float(_) => "a number",
            TomlValue::Boolean(_) => "true or false",
            TomlValue::DateTime(_) => "a date",
            TomlValue::Array(_) => "a list",
            TomlValue::Table(_) => "a table",
        }
    }

    /// The value as JSON; nothing when it holds a number that JSON cannot say.
    pub fn to_json(&self) -> Option<serde_json::Value> {
        Some(match &self.value {
            TomlValue::String(text) | TomlValue::DateTime(text) => text.clone().into(),
            TomlValue::Integer(number) => (*number).into(),
            TomlValue::Float(number) => serde_json::Number::from_f64(*number)?.into(),
            TomlValue::Boolean(truth) => (*truth).into(),
            TomlValue::Array(items) => items.iter().map(SpannedValue::to_json).collect::<Option<Vec<_>>>()?.into(),
            TomlValue::Table(items) => {
                let items = items.iter().map(|(name, node)| Some((name.clone(), node.to_json()?)));
                items.collect::<Option<serde_json::Map<_, _>>>()?.into()
            }
        })
    }

    /// The value as TOML on one line.
    pub fn to_toml(&self) -> String {
        match &self.value {
            TomlValue::String(text) => quoted(text),
            TomlValue::Integer(number) => number.to_string(),
            TomlValue::Float(number) if number.fract() == 0.0 && number.is_finite() => format!("{number:.1}"),
            TomlValue::Float(number) => number.to_string(),
            TomlValue::Boolean(truth) => truth.to_string(),
            TomlValue::DateTime(date) => date.clone(),
            TomlValue::Array(items) => format!("[{}]", items.iter().map(SpannedValue::to_toml).collect::<Vec<_>>().join(", ")),
            TomlValue::Table(items) => {
                let items: Vec<_> = items.iter().map(|(name, node)| format!("{} = {}", bare(name), node.to_toml())).collect();
                if items.is_empty() { "{}".to_owned() } else { format!("{{ {} }}", items.join(", ")) }
            }
        }
    }
}

/// A text as a TOML basic string.
pub fn quoted(text: &str) -> String {
    let mut out = String::with_capacity(text.len() + 2);
    out.push('"');
    for c in text.chars() {
        match c {
            '"' => out.push_str("\\\""),
            '\\' => out.push_str("\\\\"),
            '\n' => out.push_str("\\n"),
            '\t' => out.push_str("\\t"),
            '\r' => out.push_str("\\r"),
            c if c.is_control() => out.push_str(&format!("\\u{:04X}", c as u32)),
            c => out.push(c),
        }
    }
    out.push('"');
    out
}

/// A key as TOML: bare where that is allowed.
pub fn bare(key: &str) -> String {
    let plain = |b: u8| b.is_ascii_alphanumeric() || b == b'-' || b == b'_';
    if !key.is_empty() && key.bytes().all(plain) { key.to_owned() } else { quoted(key) }
}

/// How many keys that stand twice are looked into, in one file.
const MAX_DUPLICATE_KEYS: usize = 200;

/// Reads a file: its top table, and what TOML refuses in it.
///
/// A key that stands twice is kept twice, so that both lines can be spoken of.
pub fn parse(file: FileId, source: &Source, problems: &mut Vec<Problem>) -> Vec<(String, SpannedValue)> {
    let (table, errors) = DeTable::parse_recoverable(&source.text);
    let mut top = convert_table(file, table.into_inner());
    let mut told: Vec<usize> = Vec::new();
    let mut twins = 0;
    for error in errors {
        let span = error.span().unwrap_or(0..0);
        let span = Span { file, start: span.start as u32, end: span.end.max(span.start) as u32 };
        if error.message().contains("duplicate key") && twins < MAX_DUPLICATE_KEYS && add_twin(&mut top, source, span) {
            twins += 1;
            continue;
        }
        if error.message().contains("duplicate key")
            && let Some(problem) = opened_twice(file, source, span)
        {
            problems.push(problem);
            continue;
        }
        // What follows a broken place is mostly its echo.
        let line = source.position(span.start).line;
        if told.len() >= 3 || told.iter().any(|earlier| line.abs_diff(*earlier) < 3) {
            continue;
        }
        told.push(line);
        problems.push(
            not_toml(error.message(), span, source)
                .because("What stands before and after it is read as far as possible; nothing is used until it is mended."),
        );
    }
    top
}

/// A header that stands twice: TOML says only that a key is double.
fn opened_twice(file: FileId, source: &Source, span: Span) -> Option<Problem> {
    let outline = source.derived(Outline::of);
    let second = outline.header_at(span.start as usize)?;
    let first = outline.headers.iter().find(|header| header.path == second.path && header.bytes.start < second.bytes.start)?;
    let place = |header: &Header| Span { file, start: header.bytes.start as u32, end: header.bytes.end as u32 };
    let name = source.text.get(second.bytes.clone()).unwrap_or_default();
    let problem = Problem::error("file/not-toml", format!("{name} is opened twice in one file"));
    let problem = problem.at(place(first), "here").at(place(second), "and again here");
    Some(problem.because("TOML opens a table only once: move what stands under the second one to the first."))
}

/// What TOML cannot be: a word without quotes is told as what it is.
fn not_toml(message: &str, span: Span, source: &Source) -> Problem {
    let word = source.text.get(span.range()).unwrap_or_default();
    let plain =
        !word.is_empty() && word.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '-' | '@' | '#' | '/' | '~' | '.'));
    if plain && message.contains("must be quoted") {
        let problem = Problem::error("file/not-toml", format!("{word} has no quotes: a text stands in them"));
        return problem.at(span, "a text in quotes").mend(span, quoted(word), quoted(word));
    }
    Problem::error("file/not-toml", format!("this is not TOML: {}", plain_words(message))).at(span, "")
}

fn plain_words(message: &str) -> String {
    let message = message.trim().trim_end_matches('.');
    let mut chars = message.chars();
    chars.next().map(|first| first.to_lowercase().chain(chars).collect()).unwrap_or_default()
}

fn convert_table(file: FileId, table: DeTable<'_>) -> Vec<(String, SpannedValue)> {
    let convert = |(key, value): (toml::Spanned<std::borrow::Cow<'_, str>>, _)| {
        let span = key.span();
        let place = Span { file, start: span.start as u32, end: span.end as u32 };
        (key.into_inner().into_owned(), convert(file, place, value))
    };
    table.into_iter().map(convert).collect()
}

fn convert(file: FileId, key: Span, value: toml::Spanned<DeValue<'_>>) -> SpannedValue {
    let span = value.span();
    let span = Span { file, start: span.start as u32, end: span.end as u32 };
    let value = match value.into_inner() {
        DeValue::String(text) => TomlValue::String(text.into_owned()),
        DeValue::Integer(number) => match i64::from_str_radix(number.as_str(), number.radix()) {
            Ok(number) => TomlValue::Integer(number),
            Err(_) => TomlValue::Float(number.as_str().parse().unwrap_or(f64::INFINITY)),
        },
        DeValue::Float(number) => TomlValue::Float(number.as_str().parse().unwrap_or(f64::NAN)),
        DeValue::Boolean(truth) => TomlValue::Boolean(truth),
        DeValue::Datetime(date) => TomlValue::DateTime(date.to_string()),
        DeValue::Array(items) => TomlValue::Array(
            items
                .into_iter()
                .map(|item| {
                    let span = item.span();
                    let key = Span { file, start: span.start as u32, end: span.end as u32 };
                    convert(file, key, item)
                })
                .collect(),
        ),
        DeValue::Table(table) => TomlValue::Table(convert_table(file, table)),
    };
    SpannedValue { value, span, key }
}

/// Puts the second of two equal keys beside the first: TOML itself drops it.
fn add_twin(top: &mut Vec<(String, SpannedValue)>, source: &Source, key: Span) -> bool {
    let Some(entry) = source.derived(Outline::of).of_key(key.start as usize).filter(|entry| !entry.listed) else { return false };
    let bytes = |bytes: &ByteRange| Span { file: key.file, start: bytes.start as u32, end: bytes.end as u32 };
    let Some(mut node) = node_at(source, bytes(&entry.value)) else { return false };
    node.key = entry.keys.last().map_or(key, bytes);
    let Some((name, parents)) = entry.path.split_last() else { return false };
    let mut table = top;
    for step in parents {
        let Some(at) = table.iter().position(|(name, _)| name == step) else { return false };
        match &mut table[at].1.value {
            TomlValue::Table(inner) => table = inner,
            _ => return false,
        }
    }
    if !table.iter().any(|(other, _)| other == name) {
        return false;
    }
    table.push((name.clone(), node));
    true
}

/// Moves all places of a node by some bytes.
fn move_by(node: &mut SpannedValue, by: i64) {
    for span in [&mut node.span, &mut node.key] {
        span.start = (i64::from(span.start) + by).max(0) as u32;
        span.end = (i64::from(span.end) + by).max(0) as u32;
    }
    match &mut node.value {
        TomlValue::Array(items) => items.iter_mut().for_each(|item| move_by(item, by)),
        TomlValue::Table(items) => items.iter_mut().for_each(|(_, item)| move_by(item, by)),
        _ => {}
    }
}

/// The value that is written at a place, with the places of all that is in it.
pub fn node_at(source: &Source, span: Span) -> Option<SpannedValue> {
    // A value alone is no document: it is read as that of a key, and moved back.
    let text = source.text.get(span.range())?;
    let line = format!("x={text}");
    let table = DeTable::parse(&line).ok()?.into_inner();
    let (_, mut node) = convert_table(span.file, table).pop()?;
    node.key.start += 2;
    node.key.end += 2;
    let by = i64::from(span.start) - 2;
    move_by(&mut node, by);
    Some(node)
}

/// A value written by a person on a command line: TOML, or a bare text.
pub fn value_of_words(words: &str) -> SpannedValue {
    parse_value(words).unwrap_or_else(|| SpannedValue::built_in(TomlValue::String(words.to_owned())))
}

/// Whether TOML reads a text without an error.
pub(super) fn is_sound(text: &str) -> bool {
    DeTable::parse(text).is_ok()
}

/// A value that can be read at a glance: a whole number, a truth, a text without anything that has a meaning of its own.
fn plain_value(text: &str) -> Option<TomlValue> {
    match text {
        "true" => return Some(TomlValue::Boolean(true)),
        "false" => return Some(TomlValue::Boolean(false)),
        "[]" => return Some(TomlValue::Array(Vec::new())),
        "{}" => return Some(TomlValue::Table(Vec::new())),
        _ => {}
    }
    if let Some(inner) = text.strip_prefix('"').and_then(|rest| rest.strip_suffix('"')) {
        let plain = |b: u8| (b' '..0x7f).contains(&b) && !matches!(b, b'"' | b'\\');
        return inner.bytes().all(plain).then(|| TomlValue::String(inner.to_owned()));
    }
    // A zero in front, a sign or a line below would ask for the whole grammar.
    let digits = !text.is_empty() && text.len() < 18 && text.bytes().all(|b| b.is_ascii_digit());
    (digits && (text == "0" || !text.starts_with('0'))).then(|| text.parse().map(TomlValue::Integer).ok()).flatten()
}

/// One TOML value.
pub fn parse_value(text: &str) -> Option<SpannedValue> {
    if let Some(value) = plain_value(text) {
        return Some(SpannedValue::built_in(value));
    }
    let line = format!("x = {text}");
    let table = DeTable::parse(&line).ok()?.into_inner();
    let mut entries = convert_table(FileId::BUILT_IN, table);
    match (entries.pop(), entries.is_empty()) {
        (Some((_, node)), true) => Some(unplaced(node)),
        _ => None,
    }
}

fn unplaced(mut node: SpannedValue) -> SpannedValue {
    node.span = Span::BUILT_IN;
    node.key = Span::BUILT_IN;
    node.value = match node.value {
        TomlValue::Array(items) => TomlValue::Array(items.into_iter().map(unplaced).collect()),
        TomlValue::Table(items) => TomlValue::Table(items.into_iter().map(|(name, node)| (name, unplaced(node))).collect()),
        other => other,
    };
    node
}
