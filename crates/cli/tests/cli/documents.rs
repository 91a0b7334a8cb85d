//! What documents and pictures say is true.

use std::path::Path;

use crate::Desk;

fn document(name: &str) -> String {
    std::fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(name)).expect(name)
}

#[test]
fn every_command_line_of_the_readme_is_understood() {
    let readme = document("README.md");
    let desk = Desk::sample();
    let lines: Vec<&str> = readme.lines().filter_map(|line| line.strip_prefix("jovrik ")).collect();
    assert!(lines.len() >= 10, "{}", lines.len());
    for line in lines {
        let words = jovrik_core::desk::shell_words(line.split("  ").next().unwrap_or(line)).expect("closed quotes");
        let mut arguments: Vec<&str> = words.iter().map(String::as_str).collect();
        // What follows `tell` is the action.
        let at = if arguments[0] == "tell" { 1 } else { arguments.len() };
        arguments.insert(at, "--help");
        desk.run(&arguments).clean();
    }
}

#[test]
fn every_picture_of_the_readme_is_there_and_every_picture_is_shown() {
    let readme = document("README.md");
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/screenshots");
    let mut count = 0;
    for entry in std::fs::read_dir(folder).expect("pictures") {
        let name = entry.expect("an entry").file_name().to_string_lossy().into_owned();
        assert!(readme.contains(&format!("docs/screenshots/{name}")), "{name} is not in the README");
        count += 1;
    }
    assert!((5..20).contains(&count), "{count}");
    assert_eq!(readme.matches("docs/screenshots/").count(), count);
}

#[test]
fn the_documents_name_files_that_exist() {
    for name in ["README.md", "CONTRIBUTING.md", "docs/architecture.md"] {
        let text = document(name);
        for piece in
            text.split('`').skip(1).step_by(2).filter(|piece| piece.starts_with("crates/") && !piece.contains(['*', ' ', 'N']))
        {
            assert!(Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(piece).exists(), "{name} names {piece}");
        }
    }
}

#[test]
fn the_reference_in_the_documents_is_made_from_the_catalogue() {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/reference.md");
    let text = jovrik_core::rice::reference();
    if std::env::var_os("JOVRIK_REPORTS").is_some() {
        std::fs::write(&path, &text).expect("written");
    }
    assert!(std::fs::read_to_string(path).expect("docs/reference.md") == text, "cargo xtask reference writes it anew");
    assert!(text.lines().filter(|line| line.starts_with("| `")).count() > 110);
}

#[test]
fn the_schema_in_the_documents_is_the_program_s_and_knows_the_sample() {
    let desk = Desk::sample();
    let text = desk.run(&["schema"]).clean();
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/schema.json");
    if std::env::var_os("JOVRIK_REPORTS").is_some() {
        std::fs::write(&path, &text).expect("written");
    }
    assert!(std::fs::read_to_string(path).expect("docs/schema.json") == text, "cargo xtask reference writes it anew");
    let schema: serde_json::Value = serde_json::from_str(&text).expect("JSON");
    // Every key of the sample is a property, or falls under a table of names.
    fn known(schema: &serde_json::Value, value: &toml::Value, path: &str) {
        let (Some(table), Some(properties)) = (value.as_table(), schema.get("properties").or(schema.get("additionalProperties")))
        else {
            return;
        };
        for (name, inner) in table {
            let own = schema.get("properties").and_then(|own| own.get(name));
            let rest = schema.get("additionalProperties").filter(|rest| rest.is_object());
            let found = own.or(rest);
            assert!(found.is_some(), "{path}.{name} is in no schema: {properties}");
            known(found.expect("it is there"), inner, &format!("{path}.{name}"));
        }
    }
    for part in ["bar", "desk", "keys", "look", "start"] {
        let text = desk.read(&format!("parts/{part}.toml"));
        known(&schema, &toml::Value::Table(toml::from_str(&text).expect("TOML")), part);
    }
    assert_eq!(schema["properties"]["space"]["properties"]["edge"]["anyOf"][0]["maximum"], 200);
    assert_eq!(schema["properties"]["space"]["additionalProperties"], false);
}
