//! A problem of a rice: data with places, gathered by the core and drawn by whoever shows it.

use std::collections::HashSet;

use serde::Serialize;

use crate::{Position, Sources, Span};

/// How bad a problem is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Severity {
    /// The rice cannot be used as it is written.
    Error,
    /// It can be used, but hardly as it was meant.
    Warning,
}

/// One place that a problem speaks of.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SpanLabel {
    /// The bytes that are marked.
    pub span: Span,
    /// What is to be said of them; may be empty.
    pub note: String,
}

/// A place in a file whose text is not at hand: it could not be read, or is no text.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FileLocation {
    /// Its path from the rice's folder, with `/`.
    pub file: String,
    /// The line and column, where there is one.
    pub at: Option<Position>,
}

/// Something to do about a problem.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Suggestion {
    /// What to write or type.
    pub write: String,
    /// What that does.
    pub gloss: String,
}

/// One replacement of bytes in one file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Edit {
    /// The bytes to replace; empty for an insertion.
    pub span: Span,
    /// What to put there.
    pub text: String,
}

/// A correction that is certain enough to be made without asking.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fix {
    /// All edits; they do not overlap.
    pub edits: Vec<Edit>,
    /// What is written, in words: `width`.
    pub writes: String,
}

/// What computers lack.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MissingDependency {
    /// A program, or a font in words.
    pub what: String,
    /// The computers.
    pub on: Vec<String>,
}

/// One problem.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Problem {
    /// How bad it is.
    pub severity: Severity,
    /// `area/word`.
    pub code: &'static str,
    /// One sentence that says what is wrong.
    pub title: String,
    /// Where; the first is the main place. Empty only when no file is to blame, or one whose text is not at hand.
    pub marks: Vec<SpanLabel>,
    /// Where, in a file whose text is not at hand.
    pub file: Option<FileLocation>,
    /// What is lacking, where that is the problem: the title says so.
    pub lack: Option<MissingDependency>,
    /// Why it matters.
    pub why: String,
    /// What to do.
    pub advice: Vec<Suggestion>,
    /// The certain correction, if there is one.
    pub fix: Option<Fix>,
    /// Where it occurs, when that is not the computer in question: `on skiff`.
    pub elsewhere: Option<String>,
}

impl MissingDependency {
    fn title(&self) -> String {
        format!("{} is not on {}", self.what, in_words(&self.on))
    }
}

impl Problem {
    /// An error with its code and sentence.
    pub fn error(code: &'static str, title: impl Into<String>) -> Self {
        Self {
            severity: Severity::Error,
            code,
            title: title.into(),
            marks: Vec::new(),
            file: None,
            lack: None,
            why: String::new(),
            advice: Vec::new(),
            fix: None,
            elsewhere: None,
        }
    }

    /// A warning with its code and sentence.
    pub fn warning(code: &'static str, title: impl Into<String>) -> Self {
        Self { severity: Severity::Warning, ..Self::error(code, title) }
    }

    /// A warning that a computer lacks something.
    pub fn lacking(code: &'static str, what: impl Into<String>, on: impl Into<String>) -> Self {
        let lack = MissingDependency { what: what.into(), on: vec![on.into()] };
        Self { title: lack.title(), lack: Some(lack), ..Self::warning(code, "") }
    }

    /// Takes in another one that says that the same is lacking: its computers, and those of its places that are not among the
    /// `known` ones.
    pub fn join(&mut self, other: Problem, known: &mut HashSet<Span>) {
        let (Some(own), Some(lack)) = (&mut self.lack, &other.lack) else { return };
        let new: Vec<String> = lack.on.iter().filter(|on| !own.on.contains(on)).cloned().collect();
        own.on.extend(new);
        self.title = own.title();
        // What holds in several places is of none of them alone.
        self.elsewhere = self.elsewhere.take().filter(|_| own.on.len() == 1);
        self.marks.extend(other.marks.into_iter().filter(|mark| known.insert(mark.span)));
    }

    /// Adds a place.
    #[must_use]
    pub fn at(mut self, span: Span, note: impl Into<String>) -> Self {
        self.marks.push(SpanLabel { span, note: note.into() });
        self
    }

    /// Names a file whose text is not at hand, and the place in it where there is one.
    #[must_use]
    pub fn in_file(mut self, file: impl Into<String>, at: Option<Position>) -> Self {
        self.file = Some(FileLocation { file: file.into(), at });
        self
    }

    /// The file and line of its main place.
    pub fn place<'p>(&'p self, sources: &'p Sources) -> Option<(&'p str, Option<usize>)> {
        match self.marks.first() {
            Some(mark) => {
                let source = sources.get(mark.span.file)?;
                Some((&source.name, Some(source.position(mark.span.start).line)))
            }
            None => self.file.as_ref().map(|place| (place.file.as_str(), place.at.map(|at| at.line))),
        }
    }

    /// Says why it matters.
    #[must_use]
    pub fn because(mut self, why: impl Into<String>) -> Self {
        self.why = why.into();
        self
    }

    /// Adds something to do.
    #[must_use]
    pub fn advise(mut self, write: impl Into<String>, gloss: impl Into<String>) -> Self {
        self.advice.push(Suggestion { write: write.into(), gloss: gloss.into() });
        self
    }

    /// Adds the certain correction: put `text` where `span` is.
    #[must_use]
    pub fn mend(mut self, span: Span, text: impl Into<String>, writes: impl Into<String>) -> Self {
        self.fix = Some(Fix { edits: vec![Edit { span, text: text.into() }], writes: writes.into() });
        self
    }
}

/// The nearest of `names` to `word`, if one is near enough to be meant.
pub fn nearest<'n>(word: &str, names: impl IntoIterator<Item = &'n str>) -> Option<&'n str> {
    let word = word.to_lowercase();
    let long = word.chars().count();
    let one = |name: &'n str| {
        let most = 1 + word.len().max(name.len()).saturating_sub(1) / 5;
        // Words of such different lengths are at least so far apart.
        if long.abs_diff(name.chars().count()) > most {
            return None;
        }
        Some((strsim::damerau_levenshtein(&word, &name.to_lowercase()), name)).filter(|(distance, _)| *distance <= most)
    };
    names.into_iter().filter_map(one).min_by_key(|(distance, _)| *distance).map(|(_, name)| name)
}

/// Whether two words are one typing error apart: a letter more, fewer, other, or two in each other's place.
pub fn is_slip(a: &str, b: &str) -> bool {
    a.len().min(b.len()) > 2 && strsim::damerau_levenshtein(a, b) <= 1
}

/// `a, b and c`.
pub fn in_words<S: AsRef<str>>(items: &[S]) -> String {
    match items {
        [] => String::new(),
        [one] => one.as_ref().to_owned(),
        [most @ .., last] => {
            let most: Vec<&str> = most.iter().map(AsRef::as_ref).collect();
            format!("{} and {}", most.join(", "), last.as_ref())
        }
    }
}

/// The same of a long list: those that are nearest to what was typed, and how many more there are; none of them twice.
pub fn few<S: AsRef<str>>(typed: &str, items: &[S]) -> String {
    let mut known: Vec<&str> = Vec::with_capacity(items.len());
    for item in items.iter().map(AsRef::as_ref) {
        if !known.contains(&item) {
            known.push(item);
        }
    }
    if known.len() <= MAX_LISTED_NAMES {
        return in_words(&known);
    }
    // What is longer than any word is like none of them.
    let typed: String = typed.chars().take(MAX_COMPARED_CHARS).collect::<String>().to_lowercase();
    let mut near = known.clone();
    near.sort_by_key(|item| strsim::damerau_levenshtein(&typed, &item.to_lowercase()));
    near.truncate(NEAREST);
    // In their own order, which mostly means something.
    let shown: Vec<&str> = known.iter().filter(|item| near.contains(item)).copied().collect();
    format!("{} and {} more", shown.join(", "), known.len() - shown.len())
}

/// Of a list that is longer than this so many are named.
const MAX_LISTED_NAMES: usize = 8;
/// So many characters of what was typed are compared.
const MAX_COMPARED_CHARS: usize = 40;
const NEAREST: usize = 5;

/// `1 file`, `2 files`, `2 entries`.
pub fn count(number: usize, one: &str) -> String {
    // A y after a vowel stays: ways, keys.
    let many = one.strip_suffix('y').filter(|stem| !stem.ends_with(['a', 'e', 'o', 'u']));
    match (number, many) {
        (1, _) => format!("1 {one}"),
        (_, Some(stem)) => format!("{number} {stem}ies"),
        _ => format!("{number} {one}s"),
    }
}
