//! The layers, as the sources have them: what each crate may name, and that a public name means one thing.

use std::collections::BTreeMap;

use crate::documents::{document, sources};

/// The crates that touch nothing outside of them, from the ground, and those of our own that each may name.
const PURE: &[(&str, &[&str])] = &[
    ("text", &[]),
    ("toml", &["text"]),
    ("leak-scan", &["text"]),
    ("schema", &["text", "toml"]),
    ("values", &["text", "toml", "schema"]),
    ("core", &["text", "toml", "schema", "values"]),
];

/// The others, and what they may not name: whoever starts or shows something.
const OTHERS: &[(&str, &[&str])] = &[
    ("file", &["core", "draw", "source", "home", "live"]),
    ("apps", &["core", "draw", "source", "home", "live"]),
    ("fuzz", &["core", "draw", "source", "home", "live"]),
    ("draw", &["source", "home", "live"]),
    ("source", &["draw", "home", "live"]),
    ("home", &["draw", "source", "live"]),
    ("live", &["home"]),
    ("standin", &["source", "home", "live"]),
];

/// What a pure crate may not name: files, the environment, the network, programs, threads, clocks.
const OUTSIDE: [&str; 9] =
    ["std::fs", "std::env", "std::net", "std::process", "std::thread", "std::os::", "Instant::now", "SystemTime", "std::io"];

/// Our own crates that a manifest names for its sources.
fn dependencies(layer: &str) -> Vec<String> {
    let manifest = document(&format!("crates/{layer}/Cargo.toml"));
    let own = manifest.split("[dev-dependencies]").next().unwrap_or_default();
    let names = own.lines().filter_map(|line| line.strip_prefix("jovrik-")?.split(['.', ' ']).next());
    names.map(str::to_owned).collect()
}

#[test]
fn each_layer_names_only_those_below_it() {
    for (layer, may) in PURE {
        let more: Vec<String> = dependencies(layer).into_iter().filter(|name| !may.contains(&name.as_str())).collect();
        assert!(more.is_empty(), "{layer} may not name {more:?}");
    }
    // Those that the chores build a little faster are the same.
    let chores = document("xtask/src/main.rs");
    let faster = chores.split("const PURE").nth(1).and_then(|rest| rest.split(';').nth(1)).unwrap_or_default();
    let faster: Vec<&str> = faster.split('"').skip(1).step_by(2).collect();
    assert_eq!(faster, PURE.iter().map(|(layer, _)| *layer).collect::<Vec<_>>());
    for (layer, may_not) in OTHERS {
        let wrong: Vec<String> = dependencies(layer).into_iter().filter(|name| may_not.contains(&name.as_str())).collect();
        assert!(wrong.is_empty(), "{layer} may not name {wrong:?}");
    }
}

#[test]
fn pure_layers_touch_nothing_outside() {
    let sources = sources();
    for (layer, _) in PURE {
        let within = format!("crates/{layer}/src/");
        let inside: Vec<_> = sources.iter().filter(|(name, _)| name.starts_with(&within)).collect();
        assert!(!inside.is_empty(), "{layer} has sources");
        for (name, text) in inside {
            let named: Vec<&str> = OUTSIDE.into_iter().filter(|outside| text.contains(outside)).collect();
            assert!(named.is_empty(), "{name} names {named:?}");
        }
    }
}

#[test]
fn a_crate_shows_only_what_is_its_own() {
    for (name, text) in sources() {
        let others = text.lines().find(|line| line.trim_start().starts_with("pub use jovrik_"));
        assert!(others.is_none(), "{name}: {}", others.unwrap_or_default());
        assert!(!name.contains("/src/") || text.lines().count() <= 600, "{name} has {} lines", text.lines().count());
    }
}

#[test]
fn one_public_name_means_one_type() {
    let mut places: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for (file, text) in sources().into_iter().filter(|(file, _)| file.contains("/src/")) {
        for line in text.lines() {
            let mut words = line.split(|c: char| !c.is_alphanumeric() && c != '_' && c != '$').filter(|word| !word.is_empty());
            let kinds = ["struct", "enum", "trait", "type", "union"];
            if !line.trim_start().starts_with("pub ") || !words.nth(1).is_some_and(|word| kinds.contains(&word)) {
                continue;
            }
            let Some(name) = words.next().filter(|name| !name.starts_with('$')) else { continue };
            places.entry(name.to_owned()).or_default().push(file.clone());
        }
    }
    assert!(places.len() > 300, "{}", places.len());
    // Each command has arguments, each crate that can fail its error.
    let twice: Vec<_> =
        places.iter().filter(|(name, files)| files.len() > 1 && !["Arguments", "Error"].contains(&name.as_str())).collect();
    assert!(twice.is_empty(), "{twice:#?}");
}
