//! Patterns that windows match.

use jovrik_schema::SettingReader;
use jovrik_schema::catalogue::{AtomicSetting, Capability, ValueConstraint, ValueType};
use jovrik_toml::{SpannedValue, ValueError};

use crate::{Expression, ExpressionError};

/// A pattern that windows match: a glob, or `re:` and a regular expression.
#[derive(Debug, Clone, PartialEq)]
pub enum WindowPattern {
    /// A glob over the whole text.
    Glob(jovrik_schema::Glob),
    /// A regular expression, somewhere in the text.
    Expression(Expression),
}

impl Default for WindowPattern {
    fn default() -> Self {
        WindowPattern::Glob(jovrik_schema::Glob::default())
    }
}

impl WindowPattern {
    /// Reads a glob, or an expression after `re:`.
    ///
    /// # Errors
    ///
    /// When the expression is none: why.
    pub fn parse(text: &str) -> Result<WindowPattern, ExpressionError> {
        match text.strip_prefix("re:") {
            None => Ok(WindowPattern::Glob(jovrik_schema::Glob(text.to_owned()))),
            Some(expression) => Expression::parse(expression).map(WindowPattern::Expression),
        }
    }

    /// Whether a text matches.
    pub fn matches(&self, text: &str) -> bool {
        match self {
            WindowPattern::Glob(glob) => glob.matches(text),
            WindowPattern::Expression(expression) => expression.is_match(text),
        }
    }

    /// As it is written.
    pub fn words(&self) -> String {
        match self {
            WindowPattern::Glob(glob) => glob.0.clone(),
            WindowPattern::Expression(expression) => format!("re:{}", expression.text()),
        }
    }
}

impl AtomicSetting for WindowPattern {
    const KIND: ValueType = ValueType {
        name: "window pattern",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"re:^Compose\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let text = node.text().ok_or_else(|| ValueError::kind("expected a pattern such as \"tide*\" or \"re:^Compose\""))?;
        WindowPattern::parse(text).map_err(|none| none.wrong(node, "re:".len()))
    }
}
