//! What documents and pictures say is true.

use std::path::Path;

use crate::Desk;

pub fn document(name: &str) -> String {
    std::fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(name)).expect(name)
}

#[test]
fn every_command_line_of_the_readme_is_understood() {
    let readme = document("README.md");
    let desk = Desk::sample();
    let lines: Vec<&str> = readme.lines().filter_map(|line| line.strip_prefix("jovrik ")).collect();
    assert!(lines.len() >= 10, "{}", lines.len());
    for line in lines {
        let words = jovrik_text::shell_words(line.split("  ").next().unwrap_or(line)).expect("closed quotes");
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
fn what_the_standards_page_says_is_done_names_the_test_that_tries_it() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cli");
    let tests: String = std::fs::read_dir(folder)
        .expect("tests")
        .filter_map(|entry| std::fs::read_to_string(entry.expect("an entry").path()).ok())
        .collect();
    let page = document("docs/standards.md");
    let rows: Vec<&str> = page.lines().filter(|line| line.starts_with("| ") && line.contains("| done")).collect();
    assert!(rows.len() > 40, "{}", rows.len());
    for row in rows {
        let named = row.split('`').skip(1).step_by(2);
        let named: Vec<&str> = named.filter(|name| name.contains('_') && !name.contains(char::is_uppercase)).collect();
        assert!(!named.is_empty(), "no test tries this: {row}");
        for name in named {
            assert!(tests.contains(&format!("fn {name}()")), "{name} is no test: {row}");
        }
    }
    assert!(!page.contains("| in part"), "what is done in part says how far, and why not further");
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
    assert_eq!(schema["properties"]["space"]["properties"]["edge"]["anyOf"][0]["maximum"], 200);
    assert_eq!(schema["properties"]["space"]["additionalProperties"], false);
    assert!(schema["$id"].as_str().is_some_and(|id| id.starts_with("urn:jovrik:")), "{}", schema["$id"]);
    for part in ["parts/bar", "parts/desk", "parts/keys", "parts/look", "parts/start", "overlays/laptop"] {
        let table: toml::Table = toml::from_str(&desk.read(&format!("{part}.toml"))).expect("TOML");
        fits(&schema, &toml::Value::Table(table), part).expect(part);
    }
    let every = jovrik_core::rice::every_setting();
    let on = |line: &str| Some(line.strip_prefix("# ").filter(|line| line.starts_with('[') || line.contains(" = "))?.to_owned());
    let every = every.lines().filter_map(on).collect::<Vec<_>>().join("\n");
    fits(&schema, &toml::Value::Table(toml::from_str(&every).expect("TOML")), "every").expect("every setting");
    let wrong = [
        "[space]\nedge = \"wide\"",
        "[space]\negde = 3",
        "[bar.top]\nedge = \"middle\"",
        "[overlay]\nwhen = 3",
        "[space]\nedge = 300",
        "[frame]\nactive = \"#12\"",
        "[palette.x]\nink = \"#1234567\"",
        "[keys.desk]\n\"Lead+C\" = \"close\"",
        "[keys.desk]\n\"Lead+c\" = { does = \"close\" }",
        "[notices.last]\nlow = \"3\"",
        "[idle]\non-sleep = \"opne locker\"",
        "[module.x]\nsource = \"cpuu\"",
        "[module.x]\nsource = { rnu = [\"x\"] }",
        "[module.x]\ntext = \"{load\"",
        "[rule.x]\nmatch = { titel = \"x\" }",
    ];
    for text in wrong {
        let table = toml::Value::Table(toml::from_str(text).expect("TOML"));
        assert!(fits(&schema, &table, "").is_err(), "{text} passes");
    }
    let other = |of: &str| serde_json::from_str(&desk.run(&["schema", "--of", of]).clean()).expect("JSON");
    for (of, file) in [("machines", "machines/skiff.toml"), ("machines", "machines/breakwater.toml"), ("rice.toml", "rice.toml")]
    {
        let table: toml::Table = toml::from_str(&desk.read(file)).expect("TOML");
        fits(&other(of), &toml::Value::Table(table), file).expect(file);
    }
}

/// Whether a value fits a schema, as far as ours go: type, enum, bounds, pattern, properties, their names, items, anyOf.
fn fits(schema: &serde_json::Value, value: &toml::Value, path: &str) -> Result<(), String> {
    let wrong = |why: &str| Err(format!("{path}: {why}: {value:?}"));
    if let Some(all) = schema.get("anyOf").and_then(serde_json::Value::as_array) {
        return if all.iter().any(|one| fits(one, value, path).is_ok()) { Ok(()) } else { wrong("fits none") };
    }
    if let Some(words) = schema.get("enum").and_then(serde_json::Value::as_array) {
        let text = value.as_str().map(|text| serde_json::json!(text));
        return if text.is_some_and(|text| words.contains(&text)) { Ok(()) } else { wrong("no such word") };
    }
    let name = match value {
        toml::Value::String(_) | toml::Value::Datetime(_) => "string",
        toml::Value::Integer(_) => "integer",
        toml::Value::Float(_) => "number",
        toml::Value::Boolean(_) => "boolean",
        toml::Value::Array(_) => "array",
        toml::Value::Table(_) => "object",
    };
    let types: Vec<&str> = match &schema["type"] {
        serde_json::Value::String(one) => vec![one],
        serde_json::Value::Array(all) => all.iter().filter_map(serde_json::Value::as_str).collect(),
        _ => Vec::new(),
    };
    let whole_number = name == "integer" && types.contains(&"number");
    if !(types.is_empty() || types.contains(&name) || whole_number) {
        return wrong("another type");
    }
    if let Some(number) = value.as_integer() {
        let bound = |name: &str| schema.get(name).and_then(serde_json::Value::as_i64);
        if bound("minimum").is_some_and(|least| number < least) || bound("maximum").is_some_and(|most| number > most) {
            return wrong("out of bounds");
        }
    }
    let fits_pattern = |schema: &serde_json::Value, text: &str| {
        let pattern = schema.get("pattern").and_then(serde_json::Value::as_str);
        pattern.is_none_or(|pattern| regex_lite::Regex::new(pattern).expect("a pattern").is_match(text))
    };
    if value.as_str().is_some_and(|text| !fits_pattern(schema, text)) {
        return wrong("another pattern");
    }
    if let (Some(table), Some(names)) = (value.as_table(), schema.get("propertyNames"))
        && let Some(name) = table.keys().find(|name| !fits_pattern(names, name))
    {
        return Err(format!("{path}.{name}: no such name"));
    }
    if let (Some(items), Some(inner)) = (value.as_array(), schema.get("items")) {
        items.iter().try_for_each(|item| fits(inner, item, path))?;
    }
    for (name, inner) in value.as_table().into_iter().flatten() {
        let own = schema.get("properties").and_then(|own| own.get(name));
        match own.or(schema.get("additionalProperties")) {
            Some(serde_json::Value::Bool(false)) => return Err(format!("{path}.{name} is in no schema")),
            Some(own) => fits(own, inner, &format!("{path}.{name}"))?,
            None => {}
        }
    }
    Ok(())
}

/// Every source of the crates: its path from the project, and its text.
pub fn sources() -> Vec<(String, String)> {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut found = Vec::new();
    let mut open = vec![root.join("crates")];
    while let Some(folder) = open.pop() {
        for path in std::fs::read_dir(folder).expect("a folder").map(|entry| entry.expect("an entry").path()) {
            if path.is_dir() {
                open.push(path);
            } else if path.extension().is_some_and(|end| end == "rs") {
                let name = path.strip_prefix(&root).expect("inside").display().to_string();
                found.push((name, std::fs::read_to_string(&path).expect("UTF-8")));
            }
        }
    }
    found
}

#[test]
fn only_the_stage_on_x11_speaks_its_protocol_and_only_the_loop_asks_the_clock() {
    let sources = sources();
    let naming = |word: &str, within: &str, may: &[&str]| -> Vec<String> {
        let inside = |name: &str| name.starts_with(within) && !may.iter().any(|may| name.starts_with(may));
        sources.iter().filter(|(name, text)| inside(name) && text.contains(word)).map(|(name, _)| name.clone()).collect()
    };
    let tests = ["crates/cli/tests/", "crates/cli/benches/"];
    // A window of the stand-ins is a client like any other.
    let stage = ["crates/live/src/stage/x11/", "crates/standin/src/window.rs"];
    assert_eq!(naming(concat!("x11", "rb"), "crates/", &[&stage[..], &tests[..]].concat()), Vec::<String>::new());
    assert_eq!(naming("Instant::now", "crates/core/src/", &[]), Vec::<String>::new());
    // The loop and the times of a reload; the stage is told the moment, and begins with one.
    let loops = ["crates/live/src/session/mod.rs", "crates/live/src/session/reload.rs", "crates/live/src/stage/x11/mod.rs"];
    // How long others are waited for and heard: the socket's turns, whoever draws aside, and the loop of the logs.
    let others = ["crates/live/src/socket/", "crates/live/src/aside/", "crates/live/src/logs.rs"];
    let loops = [&loops[..], &others[..]].concat();
    assert_eq!(naming("Instant::now", "crates/live/src/", &loops), Vec::<String>::new());
}
