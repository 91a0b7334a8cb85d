//! What is accepted: a code, and where only some of its problems are, a name or a place.

use jovrik_text::Sources;
use jovrik_text::problem::Problem;

/// `CODE`, `CODE:NAME`, `CODE:FILE` or `CODE:FILE:LINE`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ProblemFilter {
    /// The code: `program/not-found`.
    pub code: String,
    /// A word of its sentence, or a file.
    pub of: Option<String>,
    /// A line of that file.
    pub line: Option<usize>,
}

impl ProblemFilter {
    /// Reads what is accepted.
    pub fn parse(text: &str) -> Self {
        let mut parts = text.splitn(2, ':');
        let code = parts.next().unwrap_or_default().to_owned();
        let rest = parts.next().filter(|rest| !rest.is_empty());
        let (of, line) = match rest.and_then(|rest| rest.rsplit_once(':')) {
            Some((file, line)) if line.parse::<usize>().is_ok() => (Some(file), line.parse().ok()),
            _ => (rest, None),
        };
        Self { code, of: of.map(str::to_owned), line }
    }

    /// Whether it takes a problem.
    pub fn takes(&self, problem: &Problem, sources: &Sources) -> bool {
        if self.code != problem.code {
            return false;
        }
        let Some(of) = &self.of else { return true };
        let here = |file: &str, line: Option<usize>| file == of && (self.line.is_none() || self.line == line);
        let marked = problem.marks.iter().any(|mark| {
            let source = sources.get(mark.span.file);
            source.is_some_and(|source| here(&source.name, Some(source.position(mark.span.start).line)))
        });
        let in_file = marked || problem.place(sources).is_some_and(|(file, line)| here(file, line));
        in_file || (self.line.is_none() && names(&problem.title, of))
    }
}

/// Whether a sentence names something: as a word, or as several.
fn names(sentence: &str, name: &str) -> bool {
    let part = |c: Option<char>| c.is_some_and(|c| c.is_alphanumeric() || matches!(c, '_' | '-' | '/'));
    sentence
        .match_indices(name)
        .any(|(at, _)| !part(sentence[..at].chars().next_back()) && !part(sentence[at + name.len()..].chars().next()))
}
