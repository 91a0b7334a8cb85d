//! Text patterns: `{field[:spec][|literal]}`.

use jovrik_schema::SettingReader;
use jovrik_schema::catalogue::{AtomicSetting, Capability, ValueConstraint, ValueType};
use jovrik_text::limits::{self, cut};
use jovrik_toml::{SpannedValue, ValueError};

use crate::value::{FieldValue, Values};

/// A text pattern, read.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Pattern {
    pieces: Vec<PatternSegment>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
enum PatternSegment {
    Literal(String),
    Field { name: String, spec: Spec, otherwise: Option<String> },
}

#[derive(Debug, Clone, PartialEq, Eq, Default)]
enum Spec {
    #[default]
    Plain,
    Number {
        align: char,
        width: usize,
        decimals: Option<usize>,
    },
    Bytes,
    DecimalBytes,
    Celsius,
    Fahrenheit,
    Percent,
    Upper,
    Cut(usize),
    Meter(usize),
    Spark(usize),
    Time(String),
}

/// Why a text is no pattern.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum PatternError {
    /// A `{` without its `}`.
    #[error("a {{ is not closed; {{{{ writes one")]
    Open,
    /// A `}` without its `{`.
    #[error("a }} closes nothing; }}}} writes one")]
    Close,
    /// Nothing between the braces.
    #[error("a field's name is missing between {{ and }}")]
    NoName,
    /// What follows the colon means nothing.
    #[error(
        "{0} says nothing; it may be [<^>][width][.decimals], bytes, bytes 1000, celsius, fahrenheit, percent, meter N, spark N, upper, cut N, or a time such as %H:%M"
    )]
    Spec(String),
}

impl Spec {
    fn parse(text: &str) -> Option<Spec> {
        if text.contains('%') {
            // What no letter stands for is found out now, and not when the time is shown.
            if !is_strftime(text) {
                return None;
            }
            let moment = jiff::Zoned::new(jiff::Timestamp::UNIX_EPOCH, jiff::tz::TimeZone::UTC);
            return jiff::fmt::strtime::format(text, &moment).is_ok().then(|| Spec::Time(text.to_owned()));
        }
        Some(match text {
            "" => Spec::Plain,
            "bytes" => Spec::Bytes,
            "bytes 1000" => Spec::DecimalBytes,
            "celsius" => Spec::Celsius,
            "fahrenheit" => Spec::Fahrenheit,
            "percent" => Spec::Percent,
            "upper" => Spec::Upper,
            _ => {
                let counted = |word: &str, most: usize| {
                    let number = text.strip_prefix(word)?.strip_prefix(' ')?.trim();
                    Some(number.parse().ok().filter(|number| (1..=most).contains(number)))
                };
                if let Some(len) = counted("cut", 500) {
                    return len.map(Spec::Cut);
                }
                if let Some(len) = counted("meter", 100) {
                    return len.map(Spec::Meter);
                }
                if let Some(len) = counted("spark", MAX_PAST_VALUES) {
                    return len.map(Spec::Spark);
                }
                let (align, rest) = match text.chars().next() {
                    Some(c @ ('<' | '^' | '>')) => (c, &text[1..]),
                    _ => ('>', text),
                };
                let (width, decimals) = match rest.split_once('.') {
                    Some((width, decimals)) => (width, Some(decimals.parse().ok().filter(|n| *n <= 12)?)),
                    None => (rest, None),
                };
                let width = if width.is_empty() { 0 } else { width.parse().ok().filter(|n| *n <= 200)? };
                Spec::Number { align, width, decimals }
            }
        })
    }

    fn apply(&self, field: &FieldValue) -> String {
        match (self, field) {
            (Spec::Time(format), FieldValue::Time(time)) => jiff::fmt::strtime::format(format, time.as_ref()).unwrap_or_default(),
            (_, FieldValue::Time(time)) => jiff::fmt::strtime::format("%H:%M", time.as_ref()).unwrap_or_default(),
            (Spec::Bytes, field) => field.number().map_or_else(|| plain(field), |number| bytes(number, 1024.0, BINARY)),
            (Spec::DecimalBytes, field) => field.number().map_or_else(|| plain(field), |number| bytes(number, 1000.0, DECIMAL)),
            (Spec::Celsius, field) => field.number().map_or_else(|| plain(field), |number| format!("{number:.0} °C")),
            (Spec::Fahrenheit, field) => {
                field.number().map_or_else(|| plain(field), |number| format!("{:.0} °F", number * 1.8 + 32.0))
            }
            (Spec::Percent, field) => field.number().map_or_else(|| plain(field), |number| format!("{number:.0} %")),
            (Spec::Upper, field) => plain(field).to_uppercase(),
            (Spec::Meter(len), field) => field.number().map_or_else(|| plain(field), |number| meter(number, *len)),
            (Spec::Spark(len), FieldValue::Past(numbers)) => spark(numbers, *len),
            (Spec::Spark(len), field) => field.number().map_or_else(|| plain(field), |number| spark(&[number], *len)),
            (Spec::Cut(len), field) => {
                let text = plain(field);
                if text.chars().count() <= *len { text } else { text.chars().take(len - 1).chain(['…']).collect() }
            }
            (Spec::Number { align, width, decimals }, field) => {
                let text = match (decimals, field.number()) {
                    (Some(decimals), Some(number)) => format!("{number:.decimals$}"),
                    _ => plain(field),
                };
                // A number is filled up with spaces as wide as a figure, so that nothing moves when it changes.
                let space = if field.number().is_some() { '\u{2007}' } else { ' ' };
                let spare = width.saturating_sub(text.chars().count());
                let before = match align {
                    '<' => 0,
                    '^' => spare / 2,
                    _ => spare,
                };
                let fill = |count: usize| std::iter::repeat_n(space, count).collect::<String>();
                format!("{}{text}{}", fill(before), fill(spare - before))
            }
            (_, field) => plain(field),
        }
    }
}

/// Whether each letter after a `%` is one of strftime's (POSIX, and what the GNU C library adds), with its flags and width.
fn is_strftime(text: &str) -> bool {
    text.split('%')
        .skip(1)
        .scan(false, |literal, part| {
            // `%%` is one.
            if std::mem::take(literal) {
                return Some(true);
            }
            let letters = part
                .trim_start_matches(['-', '_', '^', '#', '0', ':', '.', 'E', 'O'])
                .trim_start_matches(|c: char| c.is_ascii_digit());
            *literal = part.is_empty();
            Some(part.is_empty() || letters.starts_with(|c: char| "aAbBcCdDeFgGhHIjklmMnNpPrRsStTuUVwWxXyYzZf".contains(c)))
        })
        .all(|known| known)
}

fn plain(field: &FieldValue) -> String {
    field.plain()
}

/// The most values of the past that a line shows.
pub const MAX_PAST_VALUES: usize = 200;

/// A number from 0 to 100 as a bar of so many characters.
fn meter(number: f64, len: usize) -> String {
    let full = (number.clamp(0.0, 100.0) * len as f64 / 100.0).round() as usize;
    (0..len).map(|at| if at < full { '━' } else { '─' }).collect()
}

/// The latest of some numbers as columns, from 0, or the least, to 100, or the most when that is more.
fn spark(numbers: &[f64], len: usize) -> String {
    const COLUMNS: [char; 8] = ['▁', '▂', '▃', '▄', '▅', '▆', '▇', '█'];
    let shown = &numbers[numbers.len().saturating_sub(len)..];
    let low = shown.iter().copied().fold(0.0, f64::min);
    let most = shown.iter().copied().fold(f64::MIN, f64::max);
    let high = if most <= 100.0 && most > 1.0 { 100.0 } else { most };
    let column = |number: &f64| {
        let part = if high > low { (number - low) / (high - low) } else { 0.0 };
        COLUMNS[(part * 7.0).round().clamp(0.0, 7.0) as usize]
    };
    // The line has its whole width from the beginning, so that nothing moves while it fills.
    std::iter::repeat_n(COLUMNS[0], len - shown.len().min(len)).chain(shown.iter().map(column)).collect()
}

/// The units of bytes, in steps of 1024 and of 1000 (IEC 80000-13).
const BINARY: [&str; 5] = ["B", "KiB", "MiB", "GiB", "TiB"];
const DECIMAL: [&str; 5] = ["B", "kB", "MB", "GB", "TB"];

/// `3.1 GiB`.
fn bytes(number: f64, step: f64, units: [&str; 5]) -> String {
    let mut number = number;
    for (nth, unit) in units.iter().enumerate() {
        if number.abs() < step || nth == units.len() - 1 {
            return if nth == 0 { format!("{number:.0} {unit}") } else { format!("{number:.1} {unit}") };
        }
        number /= step;
    }
    String::new()
}

impl Pattern {
    /// A time's letters that stand outside a pattern, where they are shown as they are: `%H:%M`.
    pub fn stray_time(&self) -> Option<&str> {
        let stray = |piece: &'_ PatternSegment| match piece {
            PatternSegment::Literal(text) => {
                ["%H", "%M", "%S", "%I", "%Y", "%d", "%a", "%b", "%T", "%F", "%R"].iter().any(|letters| text.contains(letters))
            }
            PatternSegment::Field { .. } => false,
        };
        let found = self.pieces.iter().find(|piece| stray(piece))?;
        if let PatternSegment::Literal(text) = found { Some(text.trim()) } else { None }
    }

    /// Reads a pattern.
    pub fn parse(text: &str) -> Result<Pattern, PatternError> {
        Self::parse_at(text).map_err(|(error, _)| error)
    }

    /// The same; of what is wrong also the bytes that it is about.
    fn parse_at(text: &str) -> Result<Pattern, (PatternError, std::ops::Range<usize>)> {
        let mut pieces = Vec::new();
        let mut literal = String::new();
        let mut rest = text;
        while let Some(at) = rest.find(['{', '}']) {
            literal.push_str(&rest[..at]);
            let brace = &rest[at..=at];
            rest = &rest[at + 1..];
            // Where the field begins.
            let start = text.len() - rest.len();
            if let Some(after) = rest.strip_prefix(brace) {
                literal.push_str(brace);
                rest = after;
                continue;
            }
            if brace == "}" {
                return Err((PatternError::Close, start - 1..start));
            }
            let end = rest.find('}').ok_or((PatternError::Open, start - 1..start))?;
            let (inside, after) = (&rest[..end], &rest[end + 1..]);
            let (inside, otherwise) = match inside.split_once('|') {
                Some((inside, otherwise)) => (inside, Some(otherwise.to_owned())),
                None => (inside, None),
            };
            let (name, spec) = inside.split_once(':').unwrap_or((inside, ""));
            if name.trim().is_empty() {
                return Err((PatternError::NoName, start - 1..start + end + 1));
            }
            let from = start + inside.len() - spec.len();
            let spec = Spec::parse(spec).ok_or_else(|| (PatternError::Spec(spec.to_owned()), from..from + spec.len()))?;
            if !literal.is_empty() {
                pieces.push(PatternSegment::Literal(std::mem::take(&mut literal)));
            }
            pieces.push(PatternSegment::Field { name: name.trim().to_owned(), spec, otherwise });
            rest = after;
        }
        literal.push_str(rest);
        if !literal.is_empty() {
            pieces.push(PatternSegment::Literal(literal));
        }
        Ok(Pattern { pieces })
    }

    /// The fields that it names.
    pub fn fields(&self) -> impl Iterator<Item = &str> {
        self.pieces.iter().filter_map(|piece| match piece {
            PatternSegment::Field { name, .. } => Some(name.as_str()),
            PatternSegment::Literal(_) => None,
        })
    }

    /// The fields whose past it shows, and how much of it.
    pub fn past(&self) -> impl Iterator<Item = (&str, usize)> {
        self.pieces.iter().filter_map(|piece| match piece {
            PatternSegment::Field { name, spec: Spec::Spark(len), .. } => Some((name.as_str(), *len)),
            _ => None,
        })
    }

    /// Whether it says nothing of its own, but the value alone.
    pub fn is_plain(&self) -> bool {
        matches!(&self.pieces[..], [PatternSegment::Field { name, spec: Spec::Plain, otherwise: None }] if name == "value")
    }

    /// The text for some values; `None` when a field has no value and no literal stands in.
    pub fn fill(&self, values: &Values) -> Option<String> {
        let mut out = String::new();
        for piece in &self.pieces {
            match piece {
                PatternSegment::Literal(text) => out.push_str(text),
                PatternSegment::Field { name, spec, otherwise } => {
                    match (values.for_spec(name, matches!(spec, Spec::Spark(_))), otherwise) {
                        (Some(field), _) => out.push_str(&spec.apply(field)),
                        (None, Some(text)) => out.push_str(text),
                        (None, None) => return None,
                    }
                }
            }
        }
        // What programs say may be long: no more of it than anybody sees is laid out.
        out.truncate(cut(&out, limits::MODULE_TEXT).len());
        Some(out)
    }
}

impl AtomicSetting for Pattern {
    const KIND: ValueType = ValueType {
        name: "text pattern",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"{value} m\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let text = node.text().ok_or_else(|| ValueError::kind("expected a text such as \"{load}%\""))?;
        Pattern::parse_at(text).map_err(|(error, bytes)| ValueError::kind(error.to_string()).inside(node, bytes))
    }
}
