//! Why a value was refused.

use jovrik_text::Span;
use jovrik_text::problem::nearest;

use crate::{SpannedValue, quoted};

/// Why a value was refused.
#[derive(Debug, Clone)]
pub struct ValueError {
    /// `setting/type`, `setting/range`, `palette/no-role` …
    pub code: &'static str,
    /// What is said at the place.
    pub note: String,
    /// The certain correction, as TOML.
    pub mend: Option<String>,
    /// The part of the value that is meant, when it is not the whole.
    pub span: Option<Span>,
    /// The whole sentence, when the usual one does not fit.
    pub title: Option<String>,
    /// Why it matters, when it is more than that a default stands in.
    pub why: Option<&'static str>,
}

impl ValueError {
    /// Of another type than what is expected.
    pub fn kind(expected: impl Into<String>) -> Self {
        Self { code: "setting/type", note: expected.into(), mend: None, span: None, title: None, why: None }
    }

    /// Outside of what is allowed.
    pub fn range(expected: impl Into<String>) -> Self {
        Self { code: "setting/range", ..Self::kind(expected) }
    }

    /// Not one of the words that mean something here.
    pub fn not_one_of(node: &SpannedValue, words: &[&str]) -> Self {
        let list = jovrik_text::problem::few(node.text().unwrap_or_default(), words);
        let meant = |text| jovrik_text::trade_words::value_of(text, words).or_else(|| nearest(text, words.iter().copied()));
        match node.text().map(meant) {
            Some(Some(near)) => {
                let note = format!("did you mean {near}? It is one of {list}");
                Self { mend: Some(quoted(near)), ..Self::kind(note) }
            }
            _ => Self::kind(format!("one of {list}")),
        }
    }

    /// With a code of its own.
    pub fn coded(code: &'static str, title: impl Into<String>, note: impl Into<String>) -> Self {
        Self { code, title: Some(title.into()), ..Self::kind(note) }
    }

    /// At these bytes of a text, where it stands as it is: one with escapes is marked whole.
    #[must_use]
    pub fn inside(mut self, node: &SpannedValue, bytes: std::ops::Range<usize>) -> Self {
        let text = node.text().unwrap_or_default();
        if node.span.range().len() == text.len() + 2 {
            let at = |byte: usize| node.span.start + 1 + byte.min(text.len()) as u32;
            self.span = Some(Span { start: at(bytes.start), end: at(bytes.end).max(at(bytes.start) + 1), ..node.span });
        }
        self
    }

    /// At a part of the value.
    #[must_use]
    pub fn within(mut self, node: &SpannedValue) -> Self {
        self.span.get_or_insert(node.span);
        self
    }
}
