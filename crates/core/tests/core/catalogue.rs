use jovrik_core::rice::{Rice, every_setting};
use jovrik_schema::catalogue::{CatalogueMatch, SettingShape, each, find, pattern_of};
use jovrik_schema::{Branch, Tree};
use jovrik_toml::{path_of, steps};

use crate::{checked, found};

#[test]
fn every_setting_has_help_and_a_default_that_it_accepts() {
    let mut seen = 0;
    each(Rice::CATALOGUE, &mut |path, field| {
        seen += 1;
        assert!(field.help.trim().len() > 8, "{path} has no help");
        assert!(!field.help.trim().ends_with('.'), "{path}: help is a phrase");
        assert!(field.name.bytes().all(|b| b.is_ascii_lowercase() || b == b'-'), "{path} is not kebab-case");
        let Some(default) = field.default else { return };
        let text = format!("{} = {default}\n", path.replace("NAME", "n"));
        let checked = checked(&text);
        let codes: Vec<&str> = checked
            .problems
            .iter()
            .map(|problem| problem.code)
            .filter(|code| (code.starts_with("setting/") && *code != "setting/not-yet") || code.starts_with("file/"))
            .collect();
        assert!(codes.is_empty(), "{path} = {default}: {codes:?}");
    });
    assert!(seen > 60, "{seen}");
}

/// The codes of a rice of one part that say that a setting was not understood.
fn misread(text: &str) -> Vec<String> {
    let found = checked(text).problems.into_iter();
    found
        .filter(|problem| {
            // What a file of the folder would say is not asked here.
            let file = problem.code.starts_with("file/") && problem.code != "file/not-found";
            problem.code.starts_with("setting/") && problem.code != "setting/not-yet" || file
        })
        .map(|problem| format!("{} {}", problem.code, problem.title))
        .collect()
}

#[test]
fn every_setting_has_an_example_that_it_accepts_and_that_is_not_its_default() {
    each(Rice::CATALOGUE, &mut |path, field| {
        let SettingShape::One(kind) = field.shape else { return };
        let example = field.example();
        let wrong = misread(&format!("[{}]\n{} = {example}\n", table_of(path), field.name));
        assert!(wrong.is_empty(), "{path} = {example}: {wrong:?}");
        let may_repeat = kind.name == "text pattern";
        assert!(may_repeat || Some(example.as_str()) != field.default, "{path}: its example is its default");
    });
}

fn table_of(path: &str) -> String {
    let path = path.replace("NAME", "n");
    path.rsplit_once('.').map_or(path.clone(), |(table, _)| table.to_owned())
}

#[test]
fn the_exhaustive_sample_names_every_setting_and_is_understood_when_it_is_switched_on() {
    let text = every_setting();
    assert!(text.lines().all(|line| line.is_empty() || line.starts_with('#')), "it is switched off");
    assert_eq!(found(&checked(&text)), Vec::<String>::new());
    let line = |line: &str| {
        line.strip_prefix("# ").filter(|line| line.starts_with('[') || line.contains(" = ")).map(|line| format!("{line}\n"))
    };
    let on: String = text.lines().filter_map(line).collect();
    assert_eq!(misread(&on), Vec::<String>::new());
    let whole = checked(&on);
    let mut set = Vec::new();
    fn walk(branch: &Branch, path: &mut Vec<String>, set: &mut Vec<String>) {
        for (name, tree) in &branch.entries {
            path.push(name.clone());
            match tree {
                Tree::Leaf(_) => set.push(pattern_of(Rice::CATALOGUE, path)),
                Tree::Branch(inner) => walk(inner, path, set),
            }
            path.pop();
        }
    }
    walk(&whole.tree, &mut Vec::new(), &mut set);
    let mut missing = Vec::new();
    each(Rice::CATALOGUE, &mut |path, _| {
        if !set.iter().any(|own| own == path) {
            missing.push(path.to_owned());
        }
    });
    assert_eq!(missing, Vec::<String>::new());
}

#[test]
fn what_nothing_acts_on_is_said_to_whoever_sets_it() {
    let told = checked("[idle]\non-sleep = \"close\"\n[space]\nedge = 3\n");
    assert_eq!(found(&told), ["setting/not-yet parts/a.toml:2:1"]);
    assert!(told.usable());
}

#[test]
fn paths_are_found_and_quoted_where_they_must_be() {
    let parts = steps("keys.desk.\"Lead+.\"");
    assert_eq!(parts, ["keys", "desk", "Lead+."]);
    assert_eq!(path_of(&parts), "keys.desk.\"Lead+.\"");
    assert!(
        matches!(find(Rice::CATALOGUE, &parts), Ok(CatalogueMatch::Named(SettingShape::One(kind))) if kind.name == "binding")
    );
    assert!(matches!(find(Rice::CATALOGUE, &steps("bar.top.thick")), Ok(CatalogueMatch::Field(field)) if field.name == "thick"));
    assert_eq!(find(Rice::CATALOGUE, &steps("bar.top.thin")).map(|_| ()), Err(2));
    assert_eq!(find(Rice::CATALOGUE, &steps("space.edge.more")).map(|_| ()), Err(2));
    assert!(find(Rice::CATALOGUE, &steps("palette.ebb.ink")).is_ok(), "a name beside the table's own fields");
}
