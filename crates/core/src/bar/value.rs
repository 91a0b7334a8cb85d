//! Values of a module's source.

use indexmap::IndexMap;

/// One field of a value.
#[derive(Debug, Clone, PartialEq)]
pub enum Field {
    /// A number.
    Number(f64),
    /// A text.
    Text(String),
    /// A time, in its time zone.
    Time(Box<jiff::Zoned>),
}

impl Field {
    /// The number, also when a text spells one.
    pub fn number(&self) -> Option<f64> {
        match self {
            Field::Number(number) => Some(*number),
            Field::Text(text) => text.trim().parse().ok(),
            Field::Time(_) => None,
        }
    }
}

/// How loudly a module calls.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default)]
pub enum Grade {
    /// Not at all.
    #[default]
    Plain,
    /// Look soon.
    Warn,
    /// Look now.
    Urgent,
}

/// The fields of a value, by name; none when there is no value.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Values(pub IndexMap<String, Field>);

impl Values {
    /// One field.
    pub fn one(name: &str, field: Field) -> Self {
        Self([(name.to_owned(), field)].into_iter().collect())
    }

    /// With one more field.
    #[must_use]
    pub fn and(mut self, name: &str, field: Field) -> Self {
        self.0.insert(name.to_owned(), field);
        self
    }

    /// What a program printed: fields picked out of JSON, else the text as `value`.
    pub fn of_output(output: &str, pick: &crate::rice::Pick) -> Result<Self, String> {
        let text = output.trim_end();
        if pick.0.is_empty() {
            let line = text.lines().next().unwrap_or_default();
            return Ok(if line.is_empty() { Self::default() } else { Self::one("value", Field::Text(line.to_owned())) });
        }
        let json: serde_json::Value =
            serde_json::from_str(text).map_err(|error| format!("what it printed is not JSON: {error}"))?;
        let field = |pointer: &str| match json.pointer(pointer)? {
            serde_json::Value::Number(number) => number.as_f64().map(Field::Number),
            serde_json::Value::String(text) => Some(Field::Text(text.clone())),
            serde_json::Value::Bool(truth) => Some(Field::Text(truth.to_string())),
            _ => None,
        };
        Ok(Self(pick.0.iter().filter_map(|(name, pointer)| Some((name.clone(), field(pointer)?))).collect()))
    }

    /// The grade that these values reach.
    pub fn grade(&self, grades: &crate::rice::Grades) -> Grade {
        let holds = |condition: &Option<crate::rice::Condition>| {
            condition
                .as_ref()
                .is_some_and(|condition| self.0.get(&condition.field).and_then(Field::number).is_some_and(|n| condition.holds(n)))
        };
        if holds(&grades.urgent) {
            Grade::Urgent
        } else if holds(&grades.warn) {
            Grade::Warn
        } else {
            Grade::Plain
        }
    }
}
