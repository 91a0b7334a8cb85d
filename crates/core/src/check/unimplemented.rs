//! Settings that nothing acts on yet: whoever sets one is told so.

use jovrik_schema::catalogue::{ReloadPolicy, Setting, SettingShape, SettingTable};
use jovrik_schema::{Branch, Tree};
use jovrik_text::Span;
use jovrik_text::problem::{Problem, in_words};
use jovrik_toml::path_of;

use super::CheckContext;
use crate::rice::Rice;

pub(super) fn check(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let mut found = Vec::new();
    walk(looker.tree, &Rice::SHAPE, &mut Vec::new(), &mut found);
    let paths: Vec<String> = found.iter().map(|(path, _)| path.clone()).collect();
    let Some(first) = paths.first() else { return };
    let title = match paths.len() {
        1 => format!("{first} does nothing yet"),
        many => format!("{many} settings do nothing yet: {}", in_words(&paths)),
    };
    let problem = Problem::warning("setting/not-yet", title)
        .because("It is kept for a later version of this program.")
        .advise("allow = [\"setting/not-yet\"]", "in [check] of rice.toml accepts it");
    let note = "read and checked, but nothing acts on it so far";
    problems.push(found.into_iter().fold(problem, |problem, (_, span)| problem.at(span, note)));
}

fn walk<'t>(branch: &'t Branch, shape: &SettingShape, path: &mut Vec<&'t str>, found: &mut Vec<(String, Span)>) {
    for (name, tree) in &branch.entries {
        let field = match shape {
            SettingShape::Table(table) => table.field(name),
            _ => None,
        };
        path.push(name);
        match (tree, field, shape) {
            (Tree::Leaf(leaf), Some(field), _) if field.takes == ReloadPolicy::Unimplemented && leaf.node.key.written() => {
                found.push((path_of(path), leaf.node.key));
            }
            (Tree::Branch(inner), Some(field), _) => walk(inner, &field.shape, path, found),
            (
                Tree::Branch(inner),
                None,
                SettingShape::Named(_, shape) | SettingShape::Table(SettingTable { rest: Some((_, shape)), .. }),
            ) => {
                walk(inner, shape, path, found);
            }
            _ => {}
        }
        path.pop();
    }
}
