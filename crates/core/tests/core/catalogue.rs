use jovrik_core::rice::Rice;
use jovrik_core::rice::catalogue::{Found, Shape, each, find, path_of, steps};

use crate::checked;

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
            .filter(|code| code.starts_with("setting/") || code.starts_with("file/"))
            .collect();
        assert!(codes.is_empty(), "{path} = {default}: {codes:?}");
    });
    assert!(seen > 60, "{seen}");
}

#[test]
fn paths_are_found_and_quoted_where_they_must_be() {
    let parts = steps("keys.desk.\"Lead+.\"");
    assert_eq!(parts, ["keys", "desk", "Lead+."]);
    assert_eq!(path_of(&parts), "keys.desk.\"Lead+.\"");
    assert!(matches!(find(Rice::CATALOGUE, &parts), Ok(Found::Named(Shape::One(kind))) if kind.name == "binding"));
    assert!(matches!(find(Rice::CATALOGUE, &steps("bar.top.thick")), Ok(Found::Field(field)) if field.name == "thick"));
    assert_eq!(find(Rice::CATALOGUE, &steps("bar.top.thin")).map(|_| ()), Err(2));
    assert_eq!(find(Rice::CATALOGUE, &steps("space.edge.more")).map(|_| ()), Err(2));
    assert!(find(Rice::CATALOGUE, &steps("palette.ebb.ink")).is_ok(), "a name beside the table's own fields");
}
