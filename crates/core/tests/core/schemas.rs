//! The schema that editors read: whatever the program takes is taken by it, and names that do not exist are not.

use jovrik_core::rice::{Rice, schema};
use jovrik_schema::catalogue::{SettingShape, each};
use jovrik_text::{FileId, Source};
use jovrik_toml::{bare, parse, steps};
use regex_lite::Regex;
use serde_json::{Value, json};

use crate::checked;

/// As much of JSON Schema (2020-12) as ours is written in: what is wrong with a value, if something is.
fn wrong(root: &Value, schema: &Value, value: &Value) -> Option<String> {
    let schema = match schema.get("$ref").and_then(Value::as_str) {
        Some(at) => root.pointer(at.trim_start_matches('#'))?,
        None => schema,
    };
    if let Some(any) = schema.get("anyOf").and_then(Value::as_array) {
        let all: Vec<String> = any.iter().filter_map(|one| wrong(root, one, value)).collect();
        if all.len() == any.len() {
            return Some(all.join(", nor "));
        }
    }
    if let Some(kind) = schema.get("type") {
        let is = |kind: &Value| match (kind.as_str().unwrap_or_default(), value) {
            ("object", Value::Object(_)) | ("array", Value::Array(_)) | ("string", Value::String(_)) => true,
            ("boolean", Value::Bool(_)) | ("number", Value::Number(_)) => true,
            ("integer", Value::Number(number)) => number.is_i64() || number.is_u64(),
            _ => false,
        };
        let fits = kind.as_array().map_or_else(|| is(kind), |kinds| kinds.iter().any(is));
        if !fits {
            return Some(format!("{value} is no {kind}"));
        }
    }
    if let Some(all) = schema.get("enum").and_then(Value::as_array)
        && !all.contains(value)
    {
        return Some(format!("{value} is none of {all:?}"));
    }
    if let (Some(number), Some(least)) = (value.as_f64(), schema.get("minimum").and_then(Value::as_f64))
        && number < least
    {
        return Some(format!("{number} is less than {least}"));
    }
    if let (Some(number), Some(most)) = (value.as_f64(), schema.get("maximum").and_then(Value::as_f64))
        && number > most
    {
        return Some(format!("{number} is more than {most}"));
    }
    if let (Some(text), Some(pattern)) = (value.as_str(), schema.get("pattern").and_then(Value::as_str))
        && !Regex::new(pattern).expect("a pattern").is_match(text)
    {
        return Some(format!("{text:?} is not {pattern}"));
    }
    if let Some(items) = value.as_array() {
        let count = |name: &str| schema.get(name).and_then(Value::as_u64).map(|count| count as usize);
        if count("minItems").is_some_and(|least| items.len() < least) || count("maxItems").is_some_and(|most| items.len() > most)
        {
            return Some(format!("{} elements", items.len()));
        }
        let own = schema.get("items")?;
        return items.iter().find_map(|item| wrong(root, own, item));
    }
    let entries = value.as_object()?;
    let names = schema.get("propertyNames").and_then(|names| names.get("pattern")).and_then(Value::as_str);
    let names = names.map(|pattern| Regex::new(pattern).expect("a pattern"));
    for (name, inner) in entries {
        if names.as_ref().is_some_and(|names| !names.is_match(name)) {
            return Some(format!("{name} is no name here"));
        }
        let own = schema.get("properties").and_then(|all| all.get(name)).or_else(|| schema.get("additionalProperties"));
        let bad = match own {
            Some(Value::Bool(false)) => Some(format!("there is no {name}")),
            Some(own) => wrong(root, own, inner),
            None => None,
        };
        if let Some(bad) = bad {
            return Some(format!("{name}: {bad}"));
        }
    }
    None
}

fn parts() -> Value {
    schema("parts")
}

/// A TOML text as JSON.
fn read(text: &str) -> Value {
    let mut problems = Vec::new();
    let entries = parse(FileId(0), &Source::new("parts/a.toml", text), &mut problems);
    assert_eq!(problems, [], "{text}");
    entries.into_iter().map(|(name, node)| (name, node.to_json().expect("it is JSON"))).collect::<serde_json::Map<_, _>>().into()
}

/// Whether the program understands a part: what it says of what is not there is another matter.
fn understood(text: &str) -> bool {
    let wrong = checked(text).problems.into_iter();
    let read = |code: &str| {
        let about = ["setting/", "file/", "keys/no-key", "keys/capital", "keys/unknown-action", "style/", "module/"];
        about.iter().any(|area| code.starts_with(area)) && code != "setting/not-yet" && code != "file/not-found"
    };
    wrong.filter(|problem| read(problem.code)).count() == 0
}

/// A part that sets one setting to a value as it is written.
fn set(path: &str, value: &str) -> String {
    let steps: Vec<String> = steps(&path.replace("NAME", "n")).iter().map(|step| bare(step)).collect();
    format!("{} = {value}\n", steps.join("."))
}

fn settings() -> Vec<(String, String)> {
    let mut all = Vec::new();
    each(Rice::CATALOGUE, &mut |path, field| {
        if let SettingShape::One(_) = field.shape {
            all.push((path.to_owned(), field.example()));
        }
    });
    all
}

#[test]
fn the_sample_is_taken_and_what_does_not_exist_is_not() {
    let schema = parts();
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../samples/saltmarsh/parts");
    let mut read_all = 0;
    for entry in std::fs::read_dir(folder).expect("the sample") {
        let path = entry.expect("a file").path();
        let text = std::fs::read_to_string(&path).expect("text");
        assert_eq!(wrong(&schema, &schema, &read(&text)), None, "{}", path.display());
        read_all += 1;
    }
    assert!(read_all > 5);
    for text in [
        "egde = 4",
        "[space]\negde = 4",
        "[bar.top]\nthikc = 4",
        "[module.a]\nsource = \"tmie\"",
        "[keys.desk]\n\"Lead+\" = \"close\"",
    ] {
        assert!(wrong(&schema, &schema, &read(text)).is_some(), "{text}");
    }
}

#[test]
fn defaults_and_examples_of_all_settings_are_taken() {
    let schema = parts();
    let mut seen = 0;
    each(Rice::CATALOGUE, &mut |path, field| {
        let SettingShape::One(_) = field.shape else { return };
        for value in field.default.into_iter().map(str::to_owned).chain([field.example()]) {
            let text = set(path, &value);
            assert_eq!(wrong(&schema, &schema, &read(&text)), None, "{text}");
            seen += 1;
        }
    });
    assert!(seen > 400, "{seen}");
}

#[test]
fn whatever_the_program_understands_the_schema_takes() {
    let schema = parts();
    let probes = [
        "true",
        "0",
        "1",
        "7",
        "-3",
        "100000",
        "0.5",
        "1.5",
        "\"\"",
        "\"word\"",
        "\"two words\"",
        "\"50%\"",
        "\"2s\"",
        "\"1h30m\"",
        "\"@accent\"",
        "\"@accent/40%\"",
        "\"#102030\"",
        "\"tide\"",
        "\"left\"",
        "\"never\"",
        "\"toggle\"",
        "\"none\"",
        "\"close\"",
        "\"Lead+x\"",
        "\"/a/b\"",
        "\"~/x\"",
        "\"*\"",
        "\"=space.edge\"",
        "\">= 3\"",
        "[]",
        "[1, 2]",
        "[\"a\"]",
        "[\"a\", \"b\"]",
        "{}",
        "{ left = 4 }",
        "{ width = 3 }",
        "{ 7 = \"a\" }",
    ];
    let mut strict: Vec<String> = Vec::new();
    for (path, _) in settings() {
        for probe in probes {
            let text = set(&path, probe);
            if let Some(why) = wrong(&schema, &schema, &read(&text))
                && understood(&text)
            {
                strict.push(format!("{}: {why}", text.trim()));
            }
        }
    }
    assert!(strict.is_empty(), "{}", strict.join("\n"));
}

#[test]
fn every_property_is_told_in_words_and_every_name_is_that_of_the_catalogue() {
    let schema = parts();
    let mut told = 0;
    each(Rice::CATALOGUE, &mut |path, field| {
        let mut at = &schema;
        for step in steps(path) {
            at = match at.get("$ref").and_then(Value::as_str) {
                Some(to) => schema.pointer(to.trim_start_matches('#')).expect("a definition"),
                None => at,
            };
            let own = at.get("properties").and_then(|all| all.get(&step)).filter(|_| step != "NAME");
            at = own.or_else(|| at.get("additionalProperties")).unwrap_or_else(|| panic!("{path} stops at {step}"));
        }
        if let SettingShape::One(_) = field.shape {
            assert_eq!(at.get("description"), Some(&json!(field.help.trim())), "{path}");
            told += 1;
        }
    });
    assert!(told > 200, "{told}");
}

#[test]
fn machines_and_manifests_have_one_as_well() {
    let machines = schema("machines");
    let facts = "host = \"skiff\"\ncores = 4\n[monitor]\nDP-1 = \"1920x1080\"\nDP-2 = { size = \"1280x1024\", at = \"1920,0\" }\n[values.tide]\nlevel = 3\n";
    assert_eq!(wrong(&machines, &machines, &read(facts)), None);
    assert!(wrong(&machines, &machines, &read("coers = 4\n")).is_some());
    let manifest = schema("rice.toml");
    let whole = "[rice]\nname = \"ebb\"\n[check]\nallow = [\"keys/twice\"]\n[needs]\nprograms = [\"xterm\"]\n";
    assert_eq!(wrong(&manifest, &manifest, &read(whole)), None);
    assert!(wrong(&manifest, &manifest, &read("[rice]\nnmae = \"ebb\"\n")).is_some());
    for (of, title) in [
        ("parts", "A part of a rice, or an overlay"),
        ("machines", "The facts of a computer"),
        ("rice.toml", "The manifest of a rice"),
    ] {
        let schema = schema(of);
        assert_eq!(schema["title"], json!(title));
        assert!(schema["$id"].as_str().is_some_and(|id| id.starts_with("urn:jovrik:")), "{}", schema["$id"]);
    }
}
