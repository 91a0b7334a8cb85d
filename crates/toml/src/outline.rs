//! The outline of a file: every header, key, value, comma and comment with its bytes, from the TOML parser's own tokens.
//!
//! Whatever is changed in a person's file is found here: no line is ever guessed to be a header or a comment.

use std::ops::Range;

use toml_parser::parser::{Event, EventKind, RecursionGuard, parse_document};
use toml_parser::{ErrorSink, ParseError};

/// The bytes of something.
pub type ByteRange = Range<usize>;

/// `[a.b]`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Header {
    /// The table that it opens.
    pub path: Vec<String>,
    /// Each of its keys.
    pub keys: Vec<ByteRange>,
    /// Whether it opens one more of a list of tables.
    pub listed: bool,
    /// From the first bracket to the last.
    pub bytes: ByteRange,
}

/// `a.b = 1`, on lines of its own or in an inline table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeyValue {
    /// The whole path, from the top of the file.
    pub path: Vec<String>,
    /// Each of the keys that are written here: the last steps of its path.
    pub keys: Vec<ByteRange>,
    /// Its value.
    pub value: ByteRange,
    /// The header that it stands under.
    pub section: Option<usize>,
    /// Whether it stands in an inline table, which then has its place among the entries.
    pub inline: bool,
    /// Whether it stands in a list, so that no path leads to it.
    pub listed: bool,
}

/// The outline of a file.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Outline {
    /// Its headers, in order.
    pub headers: Vec<Header>,
    /// Its entries, in the order of their keys; a key may stand twice.
    pub entries: Vec<KeyValue>,
    /// Its comments, each from its `#` to the end of its line.
    pub comments: Vec<ByteRange>,
    /// The commas of its lists and inline tables.
    pub commas: Vec<usize>,
}

/// What is open.
enum Open {
    /// The inline table of an entry, or one in a list.
    Inline(Option<usize>),
    /// A list.
    List(Option<usize>),
}

/// Errors are told by whoever reads the values.
struct Silent;

/// Values that are nested deeper are left out: whoever reads TOML refuses them too.
const DEEPEST: u32 = 80;

impl ErrorSink for Silent {
    fn report_error(&mut self, _: ParseError) {}
}

struct Builder<'t> {
    source: toml_parser::Source<'t>,
    outline: Outline,
    keys: Vec<(String, ByteRange)>,
    open: Vec<Open>,
    header: Option<usize>,
    /// The entry whose value comes next.
    waiting: Option<usize>,
}

impl Builder<'_> {
    fn event(&mut self, event: Event) {
        let bytes = event.span().start()..event.span().end();
        match event.kind() {
            EventKind::StdTableOpen | EventKind::ArrayTableOpen => {
                self.keys.clear();
                self.open.clear();
                self.header = Some(bytes.start);
            }
            EventKind::StdTableClose | EventKind::ArrayTableClose => {
                let Some(start) = self.header.take() else { return };
                let (path, keys) = self.keys.drain(..).unzip();
                let listed = event.kind() == EventKind::ArrayTableClose;
                self.outline.headers.push(Header { path, keys, listed, bytes: start..bytes.end });
            }
            // One that is missing in a broken file has no bytes.
            EventKind::SimpleKey if bytes.is_empty() => {}
            EventKind::SimpleKey => {
                let mut key = String::new();
                if let Some(raw) = self.source.get(event) {
                    raw.decode_key(&mut key, &mut Silent);
                }
                self.keys.push((key, bytes));
            }
            EventKind::KeyValSep => self.entry(),
            EventKind::Scalar => self.value(bytes.start, bytes.end),
            EventKind::InlineTableOpen => {
                let entry = self.begin(bytes.start);
                self.open.push(Open::Inline(entry));
            }
            EventKind::ArrayOpen => {
                let entry = self.begin(bytes.start);
                self.open.push(Open::List(entry));
            }
            EventKind::InlineTableClose | EventKind::ArrayClose => {
                if let Some(Open::Inline(Some(entry)) | Open::List(Some(entry))) = self.open.pop() {
                    self.outline.entries[entry].value.end = bytes.end;
                }
                self.keys.clear();
            }
            EventKind::ValueSep => {
                // Of one that is missing in a broken file there are no bytes.
                if self.source.get(event).is_some_and(|raw| raw.as_str() == ",") {
                    self.outline.commas.push(bytes.start);
                }
                self.keys.clear();
            }
            EventKind::Comment => self.outline.comments.push(bytes),
            EventKind::Newline if self.open.is_empty() => {
                self.keys.clear();
                self.waiting = None;
            }
            _ => {}
        }
    }

    /// What stands before `=` is an entry's.
    fn entry(&mut self) {
        let (names, keys): (Vec<String>, Vec<ByteRange>) = self.keys.drain(..).unzip();
        let Some(end) = keys.last().map(|last| last.end) else { return };
        let section = self.outline.headers.len().checked_sub(1);
        let above = self.open.iter().rev().find_map(|open| match open {
            Open::Inline(Some(entry)) => Some(*entry),
            _ => None,
        });
        let mut path = match (above, section) {
            (Some(entry), _) => self.outline.entries[entry].path.clone(),
            (None, Some(section)) => self.outline.headers[section].path.clone(),
            (None, None) => Vec::new(),
        };
        let in_list = self.open.iter().any(|open| matches!(open, Open::List(_) | Open::Inline(None)));
        let listed = in_list || section.is_some_and(|section| self.outline.headers[section].listed);
        path.extend(names);
        self.waiting = Some(self.outline.entries.len());
        let inline = !self.open.is_empty();
        self.outline.entries.push(KeyValue { path, keys, value: end..end, section, inline, listed });
    }

    /// A value begins: of the entry that waits for one, or in a list.
    fn begin(&mut self, start: usize) -> Option<usize> {
        let entry = self.waiting.take()?;
        self.outline.entries[entry].value = start..start;
        Some(entry)
    }

    fn value(&mut self, start: usize, end: usize) {
        if let Some(entry) = self.begin(start) {
            self.outline.entries[entry].value.end = end;
        }
    }
}

impl KeyValue {
    /// From its first key to its last.
    pub fn key_bytes(&self) -> ByteRange {
        let first = self.keys.first().map_or(self.value.start, |key| key.start);
        first..self.keys.last().map_or(first, |key| key.end)
    }

    /// From its first key to the end of its value.
    pub fn bytes(&self) -> ByteRange {
        self.key_bytes().start..self.value.end
    }
}

impl Outline {
    /// The outline of a text.
    pub fn of(text: &str) -> Outline {
        let source = toml_parser::Source::new(text);
        let tokens: Vec<_> = source.lex().collect();
        let mut builder =
            Builder { source, outline: Outline::default(), keys: Vec::new(), open: Vec::new(), header: None, waiting: None };
        let mut hears = |event: Event| builder.event(event);
        parse_document(&tokens, &mut RecursionGuard::new(&mut hears, DEEPEST), &mut Silent);
        builder.outline
    }

    /// The entry whose value begins at a byte.
    pub fn of_value(&self, start: usize) -> Option<&KeyValue> {
        self.entries.binary_search_by_key(&start, |entry| entry.value.start).ok().map(|at| &self.entries[at])
    }

    /// The entry that has a key at a byte.
    pub fn of_key(&self, byte: usize) -> Option<&KeyValue> {
        let at = self.entries.partition_point(|entry| entry.key_bytes().end <= byte);
        self.entries.get(at).filter(|entry| entry.key_bytes().contains(&byte))
    }

    /// The header that a byte stands in.
    pub fn header_at(&self, byte: usize) -> Option<&Header> {
        let at = self.headers.partition_point(|header| header.bytes.end <= byte);
        self.headers.get(at).filter(|header| header.bytes.contains(&byte))
    }

    /// The first comma between two bytes.
    pub fn comma_in(&self, bytes: ByteRange) -> Option<usize> {
        let at = self.commas.partition_point(|comma| *comma < bytes.start);
        self.commas.get(at).copied().filter(|comma| *comma < bytes.end)
    }

    /// The comment that begins at a byte.
    pub fn comment_at(&self, byte: usize) -> Option<&ByteRange> {
        self.comments.binary_search_by_key(&byte, |comment| comment.start).ok().map(|at| &self.comments[at])
    }

    /// The path of the header that an entry stands under.
    pub fn section_path(&self, entry: &KeyValue) -> &[String] {
        entry.section.map_or(&[], |section| &self.headers[section].path)
    }
}

/// A line of a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct SourceLine<'t> {
    /// Its first byte; a mark of byte order belongs to no line.
    pub start: usize,
    /// Its text, without its end.
    pub text: &'t str,
    /// The byte after its end.
    pub end: usize,
    /// Whether it holds a comment and nothing else.
    pub comment: bool,
}

/// How many bytes a mark of byte order takes at the beginning.
pub fn mark(text: &str) -> usize {
    if text.starts_with('\u{feff}') { 3 } else { 0 }
}

/// All lines of a file.
pub fn lines<'t>(text: &'t str, outline: &Outline) -> Vec<SourceLine<'t>> {
    let mut at = mark(text);
    let line = |piece: &'t str| {
        let start = at;
        at += piece.len();
        let text = piece.trim_end_matches(['\n', '\r']);
        let first = start + text.len() - text.trim_start().len();
        SourceLine { start, text, end: at, comment: outline.comment_at(first).is_some() }
    };
    text[mark(text)..].split_inclusive('\n').map(line).collect()
}

/// How lines end in a file.
pub fn newline(text: &str) -> &'static str {
    match text.find('\n') {
        Some(at) if text[..at].ends_with('\r') => "\r\n",
        _ => "\n",
    }
}

/// The first byte of the line that a byte stands in.
pub fn line_start(text: &str, byte: usize) -> usize {
    text[..byte].rfind('\n').map_or(mark(text), |at| at + 1)
}

/// The byte after the end of the line that a byte stands in.
pub fn line_end(text: &str, byte: usize) -> usize {
    text[byte..].find('\n').map_or(text.len(), |at| byte + at + 1)
}
