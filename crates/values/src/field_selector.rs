//! What is picked out of what a source says.

use indexmap::IndexMap;
use jovrik_schema::SettingReader;
use jovrik_schema::catalogue::{AtomicSetting, Capability, ValueConstraint, ValueType};
use jovrik_toml::{SpannedValue, TomlValue, ValueError};

use crate::Expression;

/// How one field is picked out of an output.
#[derive(Debug, Clone, PartialEq)]
pub enum FieldSelector {
    /// By a JSON pointer (RFC 6901).
    Pointer(String),
    /// A line, from 1.
    Line(usize),
    /// What the first group of a regular expression matches, or the whole of it.
    Expression(Expression),
}

impl FieldSelector {
    fn of(node: &SpannedValue) -> Result<FieldSelector, ValueError> {
        let expected = "expected a JSON pointer such as \"/station/level\", \"line 2\", or \"re:level=([0-9.]+)\"";
        let text = node.text().ok_or_else(|| ValueError::kind(expected).within(node))?;
        if text.is_empty() || text.starts_with('/') {
            return Ok(FieldSelector::Pointer(text.to_owned()));
        }
        if let Some(number) = text.strip_prefix("line ") {
            let line = number.trim().parse().ok().filter(|line| (1..=10_000).contains(line));
            return line.map(FieldSelector::Line).ok_or_else(|| ValueError::kind("expected line 1 to line 10000").within(node));
        }
        match text.strip_prefix("re:") {
            Some(written) => {
                Expression::parse(written).map(FieldSelector::Expression).map_err(|none| none.wrong(node, "re:".len()))
            }
            None => Err(ValueError::kind(expected).within(node)),
        }
    }
}

/// Fields picked out of what a program prints.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct FieldSelectors(pub IndexMap<String, FieldSelector>);

impl FieldSelectors {
    /// Fields by JSON pointers.
    pub fn pointers(fields: &[(&str, &str)]) -> FieldSelectors {
        FieldSelectors(
            fields.iter().map(|(name, pointer)| ((*name).to_owned(), FieldSelector::Pointer((*pointer).to_owned()))).collect(),
        )
    }
}

impl AtomicSetting for FieldSelectors {
    const KIND: ValueType = ValueType {
        name: "table of picks",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ level = \"/station/level\" }",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = "expected { field = \"/json/pointer\" }, or \"line 2\", or \"re:level=([0-9.]+)\"";
        let TomlValue::Table(entries) = &node.value else { return Err(ValueError::kind(expected)) };
        let one = |(name, node): &(String, SpannedValue)| Ok((name.clone(), FieldSelector::of(node)?));
        entries.iter().map(one).collect::<Result<_, _>>().map(FieldSelectors)
    }
}
