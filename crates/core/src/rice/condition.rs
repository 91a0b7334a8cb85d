//! Comparisons with numbers and words.

use super::catalogue::{Allowed, InlineField, Kind, OneValue, Reach};
use super::kinds::Inline;
use crate::bar::Values;
use crate::load::{Node, Reader, Value, Wrong};

/// A comparison.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Compare {
    /// `<`
    Less,
    /// `<=`
    AtMost,
    /// `>`
    More,
    /// `>=`
    AtLeast,
    /// `=`
    Equal,
}

impl Compare {
    /// The signs, the longer ones first.
    const SIGNS: [(&str, Compare); 5] =
        [("<=", Compare::AtMost), (">=", Compare::AtLeast), ("<", Compare::Less), (">", Compare::More), ("=", Compare::Equal)];
}

/// A comparison with a number: `>= 80`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Comparison {
    /// How it is compared.
    pub compare: Compare,
    /// With what.
    pub value: f64,
}

impl Default for Comparison {
    fn default() -> Self {
        Self { compare: Compare::Equal, value: 0.0 }
    }
}

impl Comparison {
    /// Reads `>= 80`; what stands before the sign is handed back.
    fn parse(text: &str) -> Option<(&str, Comparison)> {
        let (at, sign, compare) =
            Compare::SIGNS.into_iter().find_map(|(sign, compare)| text.find(sign).map(|at| (at, sign, compare)))?;
        let value = text[at + sign.len()..].trim().trim_end_matches('%').trim().parse().ok()?;
        Some((text[..at].trim(), Comparison { compare, value }))
    }

    /// Whether a number meets it.
    pub fn holds(&self, number: f64) -> bool {
        match self.compare {
            Compare::Less => number < self.value,
            Compare::AtMost => number <= self.value,
            Compare::More => number > self.value,
            Compare::AtLeast => number >= self.value,
            Compare::Equal => (number - self.value).abs() < f64::EPSILON,
        }
    }
}

impl std::fmt::Display for Comparison {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let sign = Compare::SIGNS.iter().find(|(_, compare)| *compare == self.compare).map_or("", |(sign, _)| sign);
        match self.compare {
            Compare::Equal => write!(f, "{}", self.value),
            _ => write!(f, "{sign} {}", self.value),
        }
    }
}

impl OneValue for Comparison {
    const KIND: Kind =
        Kind { name: "comparison", unit: "", allowed: Allowed::Any, example: "\">= 4\"", reach: Reach::Inside, fields: &[] };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let expected = || Wrong::kind("expected a number, or a comparison such as \"< 1000\" or \">= 4\"");
        match &node.value {
            Value::Whole(number) => Ok(Comparison { compare: Compare::Equal, value: *number as f64 }),
            Value::Text(text) => match Comparison::parse(text) {
                Some(("", comparison)) => Ok(comparison),
                _ => Err(expected()),
            },
            _ => Err(expected()),
        }
    }
}

/// What a field is compared with.
#[derive(Debug, Clone, PartialEq)]
pub enum Against {
    /// A number.
    Number(Comparison),
    /// A word that it must be, or must not be.
    Word {
        /// The word.
        word: String,
        /// Whether it must be this one.
        is: bool,
    },
}

impl Default for Against {
    fn default() -> Self {
        Against::Number(Comparison::default())
    }
}

/// A comparison of a field: `load >= 80`, `state = full`, `state != full`.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Condition {
    /// The field.
    pub field: String,
    /// What it is compared with, and how.
    pub is: Against,
}

impl Condition {
    /// Reads `load >= 80` or `state = full`.
    pub fn parse(text: &str) -> Option<Condition> {
        if let Some((field, is)) = Comparison::parse(text) {
            let field = field.trim_end_matches('!').trim();
            let not = text.contains("!=");
            return match (field.is_empty(), not) {
                (true, _) => None,
                (false, false) => Some(Condition { field: field.to_owned(), is: Against::Number(is) }),
                (false, true) => {
                    Some(Condition { field: field.to_owned(), is: Against::Word { word: is.value.to_string(), is: false } })
                }
            };
        }
        let (field, word, is) = match text.split_once("!=") {
            Some((field, word)) => (field, word, false),
            None => text.split_once('=').map(|(field, word)| (field, word, true))?,
        };
        let word = word.trim().trim_matches(['"', '\'']);
        let field = field.trim();
        let fair = !field.is_empty() && !word.is_empty() && !field.ends_with(['<', '>']) && !word.starts_with(['<', '>', '=']);
        fair.then(|| Condition { field: field.to_owned(), is: Against::Word { word: word.to_owned(), is } })
    }

    /// Whether values meet it; without the field they do not.
    pub fn holds(&self, values: &Values) -> bool {
        let Some(field) = values.0.get(&self.field) else { return false };
        match &self.is {
            Against::Number(comparison) => field.number().is_some_and(|number| comparison.holds(number)),
            Against::Word { word, is } => (field.plain() == *word) == *is,
        }
    }
}

/// Conditions that must all hold: one text, or a list.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Conditions(pub Vec<Condition>);

impl Conditions {
    /// Whether values meet all of them; none are met by nothing.
    pub fn hold(&self, values: &Values) -> bool {
        !self.0.is_empty() && self.0.iter().all(|condition| condition.holds(values))
    }
}

/// When a module calls for attention.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Grades {
    /// Something is on.
    pub active: Conditions,
    /// Look soon.
    pub warn: Conditions,
    /// Look now.
    pub urgent: Conditions,
}

impl Grades {
    /// All conditions.
    pub fn conditions(&self) -> impl Iterator<Item = &Condition> {
        [&self.active, &self.warn, &self.urgent].into_iter().flat_map(|conditions| &conditions.0)
    }
}

impl OneValue for Grades {
    const KIND: Kind = Kind {
        name: "grades",
        unit: "",
        allowed: Allowed::Any,
        example: "{ warn = \"load >= 80\" }",
        reach: Reach::Inside,
        fields: &[
            InlineField::new("active", "when something is on: a condition, or a list of them", &String::KIND)
                .such("\"state = on\""),
            InlineField::new("warn", "when somebody should look soon", &String::KIND).such("\"load >= 80\""),
            InlineField::new("urgent", "when somebody should look now", &String::KIND).such("\"load >= 95\""),
        ],
    };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let expected = "expected { warn = \"load >= 80\", urgent = \"load >= 95\" }";
        let inline = Inline::of(node, Self::KIND.fields, expected)?;
        let one = |node: &Node| -> Result<Condition, Wrong> {
            let expected = "expected a condition such as \"load >= 80\" or \"state = full\"";
            let parsed = node.text().and_then(Condition::parse);
            parsed.ok_or_else(|| Wrong::kind(expected).within(node))
        };
        let conditions = |name| -> Result<Conditions, Wrong> {
            let Some(node) = inline.node(name) else { return Ok(Conditions::default()) };
            let node = reader.resolved(node)?;
            match &node.value {
                Value::List(items) => items.iter().map(one).collect::<Result<_, _>>().map(Conditions),
                _ => one(&node).map(|condition| Conditions(vec![condition])),
            }
        };
        Ok(Grades { active: conditions("active")?, warn: conditions("warn")?, urgent: conditions("urgent")? })
    }
}
