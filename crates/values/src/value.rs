//! Values of a module's source.

use indexmap::IndexMap;

use crate::pattern::MAX_PAST_VALUES;
use crate::{ElementState, FieldSelector, FieldSelectors};

/// One field of a value.
#[derive(Debug, Clone, PartialEq)]
pub enum FieldValue {
    /// A number.
    Number(f64),
    /// A text.
    Text(String),
    /// A time, in its time zone.
    Time(Box<jiff::Zoned>),
    /// Earlier numbers of a field, the latest last.
    Past(Vec<f64>),
}

impl FieldValue {
    /// The number, also when a text spells one.
    pub fn number(&self) -> Option<f64> {
        match self {
            FieldValue::Number(number) => Some(*number),
            FieldValue::Text(text) => text.trim().parse().ok(),
            FieldValue::Time(_) => None,
            FieldValue::Past(numbers) => numbers.last().copied(),
        }
    }

    /// The field as a text.
    pub fn plain(&self) -> String {
        match self {
            FieldValue::Number(number) if number.fract() == 0.0 && number.abs() < 1e15 => format!("{number:.0}"),
            FieldValue::Number(number) => format!("{number:.1}"),
            FieldValue::Text(text) => text.chars().filter(|c| !c.is_control()).collect(),
            FieldValue::Time(time) => time.to_string(),
            FieldValue::Past(numbers) => numbers.last().map_or_else(String::new, |number| FieldValue::Number(*number).plain()),
        }
    }
}

/// How loudly a module calls.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default)]
pub enum Grade {
    /// Not at all.
    #[default]
    Plain,
    /// Something is on.
    Active,
    /// Look soon.
    Warn,
    /// Look now.
    Urgent,
}

impl Grade {
    /// The state of its element.
    pub fn state(self) -> Option<ElementState> {
        match self {
            Grade::Plain => None,
            Grade::Active => Some(ElementState::Active),
            Grade::Warn => Some(ElementState::Warn),
            Grade::Urgent => Some(ElementState::Urgent),
        }
    }
}

/// The fields of a value, by name; none when there is no value.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Values(pub IndexMap<String, FieldValue>);

/// What a program printed is not what is picked from.
#[derive(Debug, thiserror::Error)]
#[error("what it printed is not JSON: {0}")]
pub struct JsonError(serde_json::Error);

impl Values {
    /// One field.
    pub fn one(name: &str, field: FieldValue) -> Self {
        Self([(name.to_owned(), field)].into_iter().collect())
    }

    /// With one more field.
    #[must_use]
    pub fn and(mut self, name: &str, field: FieldValue) -> Self {
        self.0.insert(name.to_owned(), field);
        self
    }

    /// The field of this name; with `past`, what it was before too.
    pub(super) fn for_spec(&self, name: &str, past: bool) -> Option<&FieldValue> {
        let before = if past { self.0.get(&past_of(name)) } else { None };
        before.or_else(|| self.0.get(name))
    }

    /// What a program printed: fields picked out of it, else its first line as `value`.
    ///
    /// # Errors
    ///
    /// When something is to be picked out of JSON, and it is none.
    pub fn of_output(output: &str, pick: &FieldSelectors) -> Result<Self, JsonError> {
        let text = output.trim_end();
        let words = |text: &str| FieldValue::Text(text.to_owned());
        let mut values = Self::default();
        let mut json: Option<serde_json::Value> = None;
        for (name, by) in &pick.0 {
            let field = match by {
                FieldSelector::Line(line) => text.lines().nth(line - 1).map(|line| words(line.trim())),
                FieldSelector::Expression(expression) => expression.find(text).map(words),
                FieldSelector::Pointer(pointer) => {
                    if json.is_none() {
                        let read = serde_json::from_str(text);
                        json = Some(read.map_err(JsonError)?);
                    }
                    json.as_ref().and_then(|json| json.pointer(pointer)).and_then(plain)
                }
            };
            if let Some(field) = field {
                values = values.and(name, field);
            }
        }
        // An object that holds one thing needs nobody to pick it.
        let whole = pick.0.is_empty().then(|| serde_json::from_str(text).ok()).flatten();
        if let Some(serde_json::Value::Object(fields)) = whole
            && let Some(only) = the_only(&fields)
        {
            return Ok(values.and("value", only));
        }
        // The first line of JSON is no value.
        let line = text.lines().next().map(str::trim).filter(|line| !line.is_empty() && json.is_none());
        if let (Some(line), false) = (line, values.0.contains_key("value")) {
            values = values.and("value", words(line));
        }
        Ok(values)
    }

    /// The grade that these values reach.
    pub fn grade(&self, grades: &crate::Grades) -> Grade {
        if grades.urgent.hold(self) {
            Grade::Urgent
        } else if grades.warn.hold(self) {
            Grade::Warn
        } else if grades.active.hold(self) {
            Grade::Active
        } else {
            Grade::Plain
        }
    }
}

/// A number, a text, a truth value or a line of numbers of JSON.
fn plain(json: &serde_json::Value) -> Option<FieldValue> {
    match json {
        serde_json::Value::Number(number) => number.as_f64().map(FieldValue::Number),
        serde_json::Value::String(text) => Some(FieldValue::Text(text.clone())),
        serde_json::Value::Bool(truth) => Some(FieldValue::Text(truth.to_string())),
        serde_json::Value::Array(all) => {
            let numbers: Vec<f64> = all.iter().take(MAX_PAST_VALUES).map(serde_json::Value::as_f64).collect::<Option<_>>()?;
            (!numbers.is_empty()).then_some(FieldValue::Past(numbers))
        }
        _ => None,
    }
}

/// The only plain value of an object, where it has one.
fn the_only(fields: &serde_json::Map<String, serde_json::Value>) -> Option<FieldValue> {
    let mut all = fields.values().filter_map(plain);
    all.next().filter(|_| all.next().is_none())
}

/// The name of the field that has one number of another for each of several.
pub fn each_of(name: &str) -> String {
    format!("{name} each")
}

/// The name of the field that keeps what another was before.
pub fn past_of(name: &str) -> String {
    format!("{name} before")
}

/// The values of all modules, by name.
pub type ModuleValues = IndexMap<String, Values>;
