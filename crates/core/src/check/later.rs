//! Settings that nothing acts on yet: whoever sets one is told so.

use super::Looker;
use crate::load::{Branch, Tree};
use crate::problem::Problem;
use crate::rice::catalogue::{Setting, Shape, Table, Takes, path_of};
use crate::rice::{BuiltIn, LayoutKind, Rice, SourceKind};

pub(super) fn check(looker: &Looker<'_>, problems: &mut Vec<Problem>) {
    walk(looker.tree, &Rice::SHAPE, &mut Vec::new(), problems);
    for (name, module) in looker.rice.module.iter() {
        let SourceKind::BuiltIn(source @ BuiltIn::Tucked) = module.source.kind else { continue };
        if let Some(node) = looker.node(&["module", name, "source"]) {
            let title = format!("the source {} has no values yet", source.word());
            let note = "the desk has no tucked windows so far";
            problems.push(
                Problem::warning("setting/not-yet", title)
                    .at(node.span, note)
                    .because("It is kept for a later version of this program."),
            );
        }
    }
    for (name, rule) in looker.rice.layout.iter().filter(|(_, rule)| !LayoutKind::BUILT.contains(&rule.kind)) {
        if let Some(node) = looker.node(&["layout", name, "kind"]) {
            problems.push(
                Problem::warning("setting/not-yet", format!("layouts of the kind {} are not built yet", rule.kind.word()))
                    .at(node.span, "windows are arranged as in main")
                    .because("It is kept for a later version of this program."),
            );
        }
    }
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
