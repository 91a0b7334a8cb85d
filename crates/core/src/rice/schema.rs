//! The catalogue as a JSON Schema (draft 2020-12), for editors.

use jovrik_schema::catalogue::{
    InlineField, KeySyntax, Setting, SettingField, SettingShape, SettingTable, ValueConstraint, ValueType,
};
use jovrik_toml::parse_value;
use serde_json::{Map, Value, json};

use super::{OverlayFile, Rice};

/// The schema of a kind of file, by the folder it is in: `parts`, which knows what overlays say of themselves too,
/// `machines`, or `rice.toml`.
pub fn schema(of: &str) -> Value {
    let (mut schema, title) = match of {
        "machines" => (table(crate::machine::Machine::CATALOGUE), "The facts of a computer"),
        "rice.toml" => (table(super::Manifest::CATALOGUE), "The manifest of a rice"),
        _ => (table(Rice::CATALOGUE), "A part of a rice, or an overlay"),
    };
    if of == "parts" {
        schema["properties"]["overlay"] = table(OverlayFile::CATALOGUE)["properties"]["overlay"].clone();
        let mut element = of_shape(super::StyleRule::SHAPE);
        element["additionalProperties"] = json!({ "$ref": "#/$defs/element" });
        schema["$defs"] = json!({ "element": element });
    }
    if let Some(top) = schema.as_object_mut() {
        top.insert("$schema".to_owned(), json!("https://json-schema.org/draft/2020-12/schema"));
        top.insert("$id".to_owned(), json!(format!("urn:jovrik:{}:{}", env!("CARGO_PKG_VERSION"), of.trim_end_matches(".toml"))));
        top.insert("title".to_owned(), json!(title));
    }
    schema
}

fn table(table: &SettingTable) -> Value {
    let properties: Map<String, Value> = table.fields.iter().map(|one| (one.name.to_owned(), field(one))).collect();
    let rest = table.rest.map_or(json!(false), |(_, shape)| of_shape(*shape));
    let mut schema = json!({ "type": "object", "properties": properties, "additionalProperties": rest });
    if let Some((KeySyntax::Spelled(_), _)) = table.rest {
        // Its own settings are no chords.
        let own: Vec<&str> = table.fields.iter().map(|field| field.name).collect();
        schema["propertyNames"] = json!({ "pattern": format!("^({})$|{CHORDS}", own.join("|")) });
    }
    schema
}

fn field(field: &SettingField) -> Value {
    let mut schema = of_shape(field.shape);
    if let Some(schema) = schema.as_object_mut() {
        schema.insert("description".to_owned(), json!(field.help.trim()));
        // Editors that complete offer the example as a value.
        let example = parse_value(&field.example()).and_then(|node| node.to_json());
        schema.extend(example.map(|example| ("examples".to_owned(), json!([example]))));
        let default = field.default.and_then(parse_value).and_then(|node| node.to_json());
        schema.extend(default.map(|default| ("default".to_owned(), default)));
    }
    schema
}

fn of_shape(shape: SettingShape) -> Value {
    match shape {
        SettingShape::One(kind) => value(kind),
        SettingShape::Table(inner) => table(inner),
        // Elements hold elements: [`schema`] defines one.
        SettingShape::Named(KeySyntax::Elements, _) => {
            json!({ "type": "object", "additionalProperties": { "$ref": "#/$defs/element" } })
        }
        SettingShape::Named(KeySyntax::Spelled(_), inner) => {
            json!({ "type": "object", "propertyNames": { "pattern": CHORDS }, "additionalProperties": of_shape(*inner) })
        }
        SettingShape::Named(KeySyntax::Chosen | KeySyntax::Files, inner) => {
            json!({ "type": "object", "additionalProperties": of_shape(*inner) })
        }
    }
}

/// A CSS colour in outline, a role of the palette, or another setting.
const COLOUR: &str = r"^#([0-9A-Fa-f]{3,4}|[0-9A-Fa-f]{6}|[0-9A-Fa-f]{8})$|^@[a-z][a-z0-9-]*(/[0-9.]+%)?$|^(rgba?|hsla?|hwb|lab|lch|oklab|oklch|color)\(.*\)$|^[A-Za-z]+$|^=";

/// Actions by their first word.
fn action() -> String {
    let mut words: Vec<&str> = jovrik_values::action::ACTIONS.iter().filter_map(|(form, ..)| form.split(' ').next()).collect();
    words.dedup();
    words.sort_unstable();
    words.dedup();
    format!("^({})( |$)|^=", words.join("|"))
}

/// Chords and sequences of them: modifiers with +, a key, a space between two.
const CHORDS: &str = r"^(([A-Za-z0-9]+\+)*(<[A-Z0-9+-]{1,4}>|[A-Za-z0-9_]{2,}|[^\sA-Z]))( (([A-Za-z0-9]+\+)*(<[A-Z0-9+-]{1,4}>|[A-Za-z0-9_]{2,}|[^\sA-Z])))*$";

/// A table in one line, with the help of each of its fields; or something shorter.
fn inline(kind: &ValueType, shorter: &[&str]) -> Value {
    let properties: Map<String, Value> = kind.fields.iter().map(|one| (one.name.to_owned(), inline_field(one))).collect();
    let table = json!({ "type": "object", "properties": properties, "additionalProperties": false });
    if shorter.is_empty() { table } else { json!({ "anyOf": [table, { "type": shorter }] }) }
}

/// What a field of such a table is; which values it takes is the checks' to say, since some take more than one type.
fn inline_field(one: &InlineField) -> Value {
    let mut schema = json!({ "description": one.help });
    let example = parse_value(&one.example()).and_then(|node| node.to_json());
    if let (Some(schema), Some(example)) = (schema.as_object_mut(), example) {
        schema.insert("examples".to_owned(), json!([example]));
    }
    if let ValueConstraint::OneOf(words) = one.kind.allowed
        && !one.kind.is_list()
        && !["true or false", "icon"].contains(&one.kind.name)
    {
        schema["enum"] = json!(words);
    }
    schema
}

/// The value of another setting may stand anywhere.
fn or_reference(schema: Value) -> Value {
    json!({ "anyOf": [schema, { "type": "string", "pattern": "^=" }] })
}

fn value(kind: &ValueType) -> Value {
    let number = |of: &str| match kind.allowed {
        ValueConstraint::Range(from, to) => json!({ "type": of, "minimum": from, "maximum": to }),
        ValueConstraint::Any | ValueConstraint::OneOf(_) => json!({ "type": of }),
    };
    match (kind.name, kind.allowed) {
        ("true or false", _) => or_reference(json!({ "type": "boolean" })),
        ("pixels" | "whole number", _) => or_reference(number("integer")),
        ("font size" | "number" | "scale" | "speed", _) => or_reference(number("number")),
        ("comparison", _) => json!({ "anyOf": [{ "type": "integer" }, { "type": "string", "pattern": "^ *(<=|>=|<|>|=)" }] }),
        ("length", _) => {
            or_reference(json!({ "anyOf": [{ "type": "integer" }, { "type": "string", "pattern": "^[0-9.]+(%|/[0-9.]+)$" }] }))
        }
        ("duration", _) => or_reference(json!({ "type": "string", "pattern": "^([0-9]+(ms|s|m|h|d))+$" })),
        ("duration or never", _) => or_reference(json!({ "type": "string", "pattern": "^([0-9]+(ms|s|m|h|d))+$|^never$" })),
        ("number or field", _) => json!({ "type": ["number", "string"] }),
        ("two numbers", _) => json!({ "type": "array", "items": { "type": "integer" }, "minItems": 2, "maxItems": 2 }),
        ("place or widget", _) => {
            let places = super::widget::PLACES.join("|");
            json!({ "type": "string", "pattern": format!("^({places}|(below|beside|inside) [^ ]+)$|^=") })
        }
        ("colour", _) => json!({ "type": "string", "pattern": COLOUR }),
        ("list", ValueConstraint::OneOf(words)) => or_reference(json!({ "type": "array", "items": { "enum": words } })),
        ("list", _) if matches!(kind.unit, "section" | "case") => json!({ "type": "array", "items": inline(kind, &[]) }),
        ("list", _) if kind.unit == "length" => {
            or_reference(json!({ "type": "array", "items": { "type": ["integer", "string"] } }))
        }
        ("list", _) => or_reference(json!({ "type": "array", "items": { "type": "string" } })),
        ("source", _) => {
            json!({ "anyOf": [{ "enum": super::module_source::WORDS }, inline(kind, &[])] })
        }
        ("binding" | "binding of the launcher", _) => inline(kind, &["string", "array"]),
        ("program" | "placed file" | "monitor" | "line" | "binding in free words", _) => inline(kind, &["string"]),
        ("grades" | "match" | "conditions" | "press", _) => inline(kind, &[]),
        ("picture", _) => {
            let hour = json!({ "type": "string", "description": "the picture from this hour on", "examples": ["art/noon.png"] });
            json!({ "anyOf": [{ "type": "string" }, { "type": "object", "additionalProperties": hour }] })
        }
        ("table of picks", _) => {
            let pick = json!({
                "type": "string",
                "description": "where the field stands: a JSON pointer (RFC 6901), a line, or an expression after re:",
                "examples": ["/station/level", "line 2", "re:level=([0-9.]+)"],
            });
            json!({ "type": "object", "additionalProperties": pick })
        }
        ("action", _) => json!({ "type": "string", "pattern": action() }),
        ("text pattern", _) => json!({ "type": "string", "pattern": r"^([^{}]|\{\{|\}\}|\{[^{}]+\})*$" }),
        ("fill", _) => json!({ "type": "string", "pattern": format!("{COLOUR}|^(repeating-)?linear-gradient\\(") }),
        ("opacity", _) => json!({ "type": "string" }),
        ("icon", _) => json!({ "type": ["string", "object"] }),
        ("size", _) => json!({ "type": "array", "items": { "type": ["integer", "string"] }, "minItems": 2, "maxItems": 2 }),
        ("corners" | "sides", _) => or_reference(json!({ "type": ["integer", "array"], "items": { "type": "integer" } })),
        (name, _) if name.starts_with("table of ") => json!({ "type": "object" }),
        (_, ValueConstraint::OneOf(words)) => or_reference(json!({ "enum": words })),
        _ => json!({ "type": "string" }),
    }
}
