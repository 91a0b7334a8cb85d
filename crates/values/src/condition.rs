//! Comparisons with numbers and words.

use jovrik_schema::catalogue::{AtomicSetting, Capability, InlineField, ValueConstraint, ValueType};
use jovrik_schema::{InlineTable, SettingReader};
use jovrik_toml::{SpannedValue, TomlValue, ValueError};

use crate::Values;

/// A comparison.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ComparisonOp {
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

impl ComparisonOp {
    /// The signs, the longer ones first.
    const SIGNS: [(&str, ComparisonOp); 5] = [
        ("<=", ComparisonOp::AtMost),
        (">=", ComparisonOp::AtLeast),
        ("<", ComparisonOp::Less),
        (">", ComparisonOp::More),
        ("=", ComparisonOp::Equal),
    ];
}

/// A comparison with a number: `>= 80`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Comparison {
    /// How it is compared.
    pub compare: ComparisonOp,
    /// With what.
    pub value: f64,
}

impl Default for Comparison {
    fn default() -> Self {
        Self { compare: ComparisonOp::Equal, value: 0.0 }
    }
}

impl Comparison {
    /// Reads `>= 80`; what stands before the sign is handed back.
    fn parse(text: &str) -> Option<(&str, Comparison)> {
        let (at, sign, compare) =
            ComparisonOp::SIGNS.into_iter().find_map(|(sign, compare)| text.find(sign).map(|at| (at, sign, compare)))?;
        let value = text[at + sign.len()..].trim().trim_end_matches('%').trim().parse().ok()?;
        Some((text[..at].trim(), Comparison { compare, value }))
    }

    /// Whether a number meets it.
    pub fn holds(&self, number: f64) -> bool {
        match self.compare {
            ComparisonOp::Less => number < self.value,
            ComparisonOp::AtMost => number <= self.value,
            ComparisonOp::More => number > self.value,
            ComparisonOp::AtLeast => number >= self.value,
            ComparisonOp::Equal => (number - self.value).abs() < f64::EPSILON,
        }
    }
}

impl std::fmt::Display for Comparison {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let sign = ComparisonOp::SIGNS.iter().find(|(_, compare)| *compare == self.compare).map_or("", |(sign, _)| sign);
        match self.compare {
            ComparisonOp::Equal => write!(f, "{}", self.value),
            _ => write!(f, "{sign} {}", self.value),
        }
    }
}

impl AtomicSetting for Comparison {
    const KIND: ValueType = ValueType {
        name: "comparison",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\">= 4\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = || ValueError::kind("expected a number, or a comparison such as \"< 1000\" or \">= 4\"");
        match &node.value {
            TomlValue::Integer(number) => Ok(Comparison { compare: ComparisonOp::Equal, value: *number as f64 }),
            TomlValue::String(text) => match Comparison::parse(text) {
                Some(("", comparison)) => Ok(comparison),
                _ => Err(expected()),
            },
            _ => Err(expected()),
        }
    }
}

/// What a field is compared with.
#[derive(Debug, Clone, PartialEq)]
pub enum Operand {
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

impl Default for Operand {
    fn default() -> Self {
        Operand::Number(Comparison::default())
    }
}

/// A comparison of a field: `load >= 80`, `state = full`, `state != full`.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Condition {
    /// The field.
    pub field: String,
    /// What it is compared with, and how.
    pub is: Operand,
}

impl Condition {
    /// Reads `load >= 80` or `state = full`.
    pub fn parse(text: &str) -> Option<Condition> {
        if let Some((field, is)) = Comparison::parse(text) {
            let field = field.trim_end_matches('!').trim();
            let not = text.contains("!=");
            return match (field.is_empty(), not) {
                (true, _) => None,
                (false, false) => Some(Condition { field: field.to_owned(), is: Operand::Number(is) }),
                (false, true) => {
                    Some(Condition { field: field.to_owned(), is: Operand::Word { word: is.value.to_string(), is: false } })
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
        fair.then(|| Condition { field: field.to_owned(), is: Operand::Word { word: word.to_owned(), is } })
    }

    /// Whether values meet it; without the field they do not.
    pub fn holds(&self, values: &Values) -> bool {
        let Some(field) = values.0.get(&self.field) else { return false };
        match &self.is {
            Operand::Number(comparison) => field.number().is_some_and(|number| comparison.holds(number)),
            Operand::Word { word, is } => (field.plain() == *word) == *is,
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

impl AtomicSetting for Grades {
    const KIND: ValueType = ValueType {
        name: "grades",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ warn = \"load >= 80\" }",
        reach: Capability::None,
        fields: &[
            InlineField::new("active", "when something is on: a condition, or a list of them", &String::KIND)
                .such("\"state = on\""),
            InlineField::new("warn", "when somebody should look soon", &String::KIND).such("\"load >= 80\""),
            InlineField::new("urgent", "when somebody should look now", &String::KIND).such("\"load >= 95\""),
        ],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = "expected { warn = \"load >= 80\", urgent = \"load >= 95\" }";
        let inline = InlineTable::of(node, Self::KIND.fields, expected)?;
        let one = |node: &SpannedValue| -> Result<Condition, ValueError> {
            let expected = "expected a condition such as \"load >= 80\" or \"state = full\"";
            let parsed = node.text().and_then(Condition::parse);
            parsed.ok_or_else(|| ValueError::kind(expected).within(node))
        };
        let conditions = |name| -> Result<Conditions, ValueError> {
            let Some(node) = inline.node(name) else { return Ok(Conditions::default()) };
            let node = reader.resolved(node)?;
            match &node.value {
                TomlValue::Array(items) => items.iter().map(one).collect::<Result<_, _>>().map(Conditions),
                _ => one(&node).map(|condition| Conditions(vec![condition])),
            }
        };
        Ok(Grades { active: conditions("active")?, warn: conditions("warn")?, urgent: conditions("urgent")? })
    }
}
