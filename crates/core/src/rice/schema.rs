//! The catalogue as a JSON Schema (draft 2020-12), for editors.

use serde_json::{Map, Value, json};

use super::catalogue::{Allowed, Field, Kind, Names, Setting, Shape, Table};
use super::{OverlayFile, Rice};
use crate::load::parse_value;

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
        top.insert("title".to_owned(), json!(title));
    }
    schema
}

fn table(table: &Table) -> Value {
    let properties: Map<String, Value> = table.fields.iter().map(|one| (one.name.to_owned(), field(one))).collect();
    let rest = table.rest.map_or(json!(false), |(_, shape)| of_shape(*shape));
    json!({ "type": "object", "properties": properties, "additionalProperties": rest })
}

fn field(field: &Field) -> Value {
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

fn of_shape(shape: Shape) -> Value {
    match shape {
        Shape::One(kind) => value(kind),
        Shape::Table(inner) => table(inner),
        // Elements hold elements: [`schema`] defines one.
        Shape::Named(Names::Elements, _) => {
            json!({ "type": "object", "additionalProperties": { "$ref": "#/$defs/element" } })
        }
        Shape::Named(Names::Chosen | Names::Files | Names::Chords, inner) => {
            json!({ "type": "object", "additionalProperties": of_shape(*inner) })
        }
    }
}

/// The value of another setting may stand anywhere.
fn or_reference(schema: Value) -> Value {
    json!({ "anyOf": [schema, { "type": "string", "pattern": "^=" }] })
}

fn value(kind: &Kind) -> Value {
    let number = |of: &str| match kind.allowed {
        Allowed::Range(from, to) => json!({ "type": of, "minimum": from, "maximum": to }),
        Allowed::Any | Allowed::OneOf(_) => json!({ "type": of }),
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
        ("colour", _) => json!({ "type": "string", "description": "a CSS colour, or a role such as @accent or @accent/40%" }),
        ("list", Allowed::OneOf(words)) => or_reference(json!({ "type": "array", "items": { "enum": words } })),
        ("list", _) if matches!(kind.unit, "section" | "case") => json!({ "type": "array", "items": { "type": "object" } }),
        ("list", _) => or_reference(json!({ "type": "array", "items": { "type": "string" } })),
        ("source", Allowed::OneOf(words)) => json!({ "anyOf": [{ "enum": words }, { "type": "object" }] }),
        ("program" | "binding" | "binding in free words" | "placed file" | "monitor" | "picture", _) => {
            json!({ "type": ["string", "object"] })
        }
        ("grades" | "conditions" | "match", _) => json!({ "type": "object" }),
        ("fill" | "opacity", _) => json!({ "type": "string" }),
        ("line" | "icon" | "press", _) => json!({ "type": ["string", "object"] }),
        ("size", _) => json!({ "type": "array", "items": { "type": ["integer", "string"] }, "minItems": 2, "maxItems": 2 }),
        ("corners" | "sides", _) => json!({ "type": ["integer", "array"], "items": { "type": "integer" } }),
        (name, _) if name.starts_with("table of ") => json!({ "type": "object" }),
        (_, Allowed::OneOf(words)) => or_reference(json!({ "enum": words })),
        _ => json!({ "type": "string" }),
    }
}
