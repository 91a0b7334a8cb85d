//! Settings that nothing acts on yet: whoever sets one is told so.

use super::Looker;
use crate::load::{Branch, Tree};
use crate::problem::Problem;
use crate::rice::Rice;
use crate::rice::catalogue::{Setting, Shape, Table, Takes, path_of};

pub(super) fn check(looker: &Looker<'_>, problems: &mut Vec<Problem>) {
    walk(looker.tree, &Rice::SHAPE, &mut Vec::new(), problems);
}

fn walk<'t>(branch: &'t Branch, shape: &Shape, path: &mut Vec<&'t str>, problems: &mut Vec<Problem>) {
    for (name, tree) in &branch.entries {
        let field = match shape {
            Shape::Table(table) => table.field(name),
            _ => None,
        };
        path.push(name);
        match (tree, field, shape) {
            (Tree::Leaf(leaf), Some(field), _) if field.takes == Takes::Later && leaf.node.key.written() => {
                problems.push(
                    Problem::warning("setting/not-yet", format!("{} does nothing yet", path_of(path)))
                        .at(leaf.node.key, "read and checked, but nothing acts on it so far")
                        .because("It is kept for a later version of this program.")
                        .advise("allow = [\"setting/not-yet\"]", "in [check] of rice.toml accepts it"),
                );
            }
            (Tree::Branch(inner), Some(field), _) => walk(inner, &field.shape, path, problems),
            (Tree::Branch(inner), None, Shape::Named(_, shape) | Shape::Table(Table { rest: Some((_, shape)), .. })) => {
                walk(inner, shape, path, problems);
            }
            _ => {}
        }
        path.pop();
    }
}
