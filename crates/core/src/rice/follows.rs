//! What follows a setting: the settings that take its value, and what of the desktop goes with it.

use jovrik_schema::catalogue::{SettingField, SettingShape, each};
use jovrik_schema::{Branch, Tree};
use jovrik_toml::{SpannedValue, TomlValue, bare, parse_value};

use super::Rice;

/// What goes with a setting without naming it, by its path in the catalogue.
const WITH: &[(&str, &str)] = &[
    ("bar.NAME.edge", "windows keep off that edge of every monitor with this bar"),
    ("bar.NAME.margin", "the room that windows have on every monitor with this bar"),
    ("bar.NAME.thick", "the room that windows have on every monitor with this bar"),
    ("bar.NAME.monitor", "the room that windows have on those monitors"),
    ("palette.use", "every colour that names a role"),
    ("keys.lead", "every chord with Lead"),
    ("frame.width", "the corners of windows are cut that much inside radius"),
    ("workspaces.order", "the marks of workspaces on the bar, and go next"),
];

/// What of the desktop goes with a setting, by its path in the catalogue.
pub fn goes_with(path: &str) -> Option<&'static str> {
    WITH.iter().find(|(own, _)| *own == path).map(|(_, what)| *what)
}

/// The settings that take their value from `target`, a path or an `@role`, in the order of the catalogue and the rice;
/// the second is whether they do so by default.
pub fn followers(tree: &Branch, target: &str) -> Vec<(String, bool)> {
    let mut found = Vec::new();
    written(tree, &mut Vec::new(), target, &mut found);
    each(Rice::CATALOGUE, &mut |path, field: &'static SettingField| {
        let Some(node) = field.default.filter(|_| matches!(field.shape, SettingShape::One(_))).and_then(parse_value) else {
            return;
        };
        if !names(&node, target) {
            return;
        }
        for steps in tree.along(path) {
            if tree.get(&steps).is_none() {
                found.push((steps.iter().map(|step| bare(step)).collect::<Vec<_>>().join("."), true));
            }
        }
    });
    found
}

/// Whether a value names the target, itself or in a part of it.
fn names(node: &SpannedValue, target: &str) -> bool {
    match &node.value {
        TomlValue::String(text) => match target.strip_prefix('@') {
            // A gradient names several.
            Some(_) => text.split([',', '(', ')', ' ']).any(|piece| piece.split('/').next() == Some(target)),
            None => text.strip_prefix('=').is_some_and(|path| jovrik_toml::path_of(&jovrik_toml::steps(path)) == target),
        },
        TomlValue::Array(items) => items.iter().any(|item| names(item, target)),
        TomlValue::Table(entries) => entries.iter().any(|(_, node)| names(node, target)),
        _ => false,
    }
}

fn written<'t>(branch: &'t Branch, path: &mut Vec<&'t str>, target: &str, found: &mut Vec<(String, bool)>) {
    for (name, tree) in &branch.entries {
        path.push(name);
        match tree {
            Tree::Leaf(leaf) if names(&leaf.node, target) => found.push((jovrik_toml::path_of(path), false)),
            Tree::Leaf(_) => {}
            Tree::Branch(inner) => written(inner, path, target, found),
        }
        path.pop();
    }
}
