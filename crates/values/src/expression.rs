//! Regular expressions that a rice writes.

use std::ops::Range;

use jovrik_toml::{SpannedValue, ValueError};

/// A regular expression that knows how it was written.
#[derive(Debug, Clone)]
pub struct Expression {
    text: String,
    regex: regex_lite::Regex,
}

impl PartialEq for Expression {
    fn eq(&self, other: &Self) -> bool {
        self.text == other.text
    }
}

/// A text that is no regular expression.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("no regular expression: {why}")]
pub struct ExpressionError {
    why: String,
    /// The bytes of the text that it is about, where that is known.
    bytes: Option<Range<usize>>,
}

impl ExpressionError {
    /// As the refusal of a value whose expression begins after so many bytes.
    pub(super) fn wrong(self, node: &SpannedValue, before: usize) -> ValueError {
        let wrong = ValueError::kind(self.to_string()).within(node);
        match self.bytes {
            Some(bytes) => wrong.inside(node, before + bytes.start..before + bytes.end),
            None => wrong,
        }
    }
}

impl Expression {
    /// Reads an expression.
    ///
    /// # Errors
    ///
    /// When it is none: why, and where in it.
    pub fn parse(text: &str) -> Result<Expression, ExpressionError> {
        regex_lite::Regex::new(text).map(|regex| Expression { text: text.to_owned(), regex }).map_err(|error| {
            // The small engine does not say where.
            match regex_syntax::ast::parse::Parser::new().parse(text) {
                Err(at) => {
                    let (span, why) = (at.span(), at.kind().to_string());
                    ExpressionError { why, bytes: Some(span.start.offset..span.end.offset) }
                }
                Ok(_) => ExpressionError { why: error.to_string(), bytes: None },
            }
        })
    }

    /// As it is written.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Whether it matches somewhere in a text.
    pub fn is_match(&self, text: &str) -> bool {
        self.regex.is_match(text)
    }

    /// The first group of the first match, or the whole match.
    pub fn find<'t>(&self, text: &'t str) -> Option<&'t str> {
        let groups = self.regex.captures(text)?;
        groups.get(1).or(groups.get(0)).map(|found| found.as_str())
    }
}
