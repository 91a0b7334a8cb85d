//! Files as they were read, and places in them.

use std::any::Any;
use std::cell::OnceCell;
use std::rc::Rc;

/// Which file of a [`Sources`].
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct FileId(pub u16);

impl FileId {
    /// The file that no disk holds: built-in defaults.
    pub const BUILT_IN: FileId = FileId(u16::MAX);
}

/// A run of bytes in a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Span {
    /// The file.
    pub file: FileId,
    /// The first byte.
    pub start: u32,
    /// The byte after the last.
    pub end: u32,
}

impl Span {
    /// No place: a built-in default.
    pub const BUILT_IN: Span = Span { file: FileId::BUILT_IN, start: 0, end: 0 };

    /// The bytes as an index.
    pub fn range(self) -> std::ops::Range<usize> {
        self.start as usize..self.end as usize
    }

    /// Whether the place is in a file that a person wrote.
    pub fn written(self) -> bool {
        self.file != FileId::BUILT_IN
    }

    /// The empty span at the end of this one.
    #[must_use]
    pub fn after(self) -> Span {
        Span { start: self.end, ..self }
    }
}

/// A place as people count: both from 1, columns in characters.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Position {
    /// The line.
    pub line: usize,
    /// The column.
    pub column: usize,
}

/// One file of a rice.
#[derive(Debug, Clone)]
pub struct Source {
    /// Its path from the rice's folder, with `/`.
    pub name: String,
    /// Its whole text.
    pub text: String,
    lines: OnceCell<Vec<u32>>,
    derived: OnceCell<Rc<dyn Any>>,
}

impl Source {
    /// A file with its text.
    pub fn new(name: impl Into<String>, text: impl Into<String>) -> Self {
        Self { name: name.into(), text: text.into(), lines: OnceCell::new(), derived: OnceCell::new() }
    }

    /// What is made of its text, made when it is first asked for and kept: one type for each text.
    ///
    /// # Panics
    ///
    /// When two types are asked of one text, which is a mistake of the caller.
    pub fn derived<T: 'static>(&self, make: fn(&str) -> T) -> &T {
        let derived = self.derived.get_or_init(|| Rc::new(make(&self.text)));
        derived.downcast_ref().expect("one type is made of a text")
    }

    fn lines(&self) -> &[u32] {
        self.lines.get_or_init(|| {
            let ends = self.text.bytes().enumerate().filter(|(_, b)| *b == b'\n');
            std::iter::once(0).chain(ends.map(|(at, _)| at as u32 + 1)).collect()
        })
    }

    /// The position of a byte.
    pub fn position(&self, byte: u32) -> Position {
        let byte = (byte as usize).min(self.text.len()) as u32;
        let line = self.lines().partition_point(|start| *start <= byte).max(1);
        let start = self.lines()[line - 1] as usize;
        let before = self.text.as_bytes().get(start..byte as usize).unwrap_or_default();
        let column = before.iter().filter(|b| (**b & 0xc0) != 0x80).count() + 1;
        Position { line, column }
    }

    /// The first byte of a line.
    pub fn start_of(&self, line: usize) -> u32 {
        line.checked_sub(1).and_then(|at| self.lines().get(at)).copied().unwrap_or(self.text.len() as u32)
    }

    /// The text of a line, without its end.
    pub fn line(&self, line: usize) -> &str {
        let starts = self.lines();
        let Some(start) = line.checked_sub(1).and_then(|at| starts.get(at)) else { return "" };
        let end = starts.get(line).map_or(self.text.len(), |next| *next as usize);
        self.text[*start as usize..end].trim_end_matches(['\n', '\r'])
    }
}

/// All files of a rice, in the order of reading.
#[derive(Debug, Clone, Default)]
pub struct Sources {
    files: Vec<Source>,
}

impl Sources {
    /// Adds a file.
    pub fn add(&mut self, source: Source) -> FileId {
        self.files.push(source);
        FileId(self.files.len() as u16 - 1)
    }

    /// The file, unless it is the built-in one.
    pub fn get(&self, file: FileId) -> Option<&Source> {
        self.files.get(file.0 as usize)
    }

    /// All files with their numbers.
    pub fn iter(&self) -> impl Iterator<Item = (FileId, &Source)> {
        self.files.iter().enumerate().map(|(at, file)| (FileId(at as u16), file))
    }

    /// The file of this name.
    pub fn named(&self, name: &str) -> Option<FileId> {
        self.iter().find(|(_, file)| file.name == name).map(|(id, _)| id)
    }

    /// The bytes of a span; empty for the built-in file.
    pub fn slice(&self, span: Span) -> &str {
        self.get(span.file).and_then(|file| file.text.get(span.range())).unwrap_or_default()
    }

    /// `parts/keys.toml:14`, or `built-in default`.
    pub fn place(&self, span: Span) -> String {
        match self.get(span.file) {
            Some(file) => format!("{}:{}", file.name, file.position(span.start).line),
            None => "built-in default".to_owned(),
        }
    }
}
