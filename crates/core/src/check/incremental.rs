//! A rice that is laid a second time with other overlays: what they do not touch is not read and judged again.

use foldhash::HashSet;
use jovrik_schema::catalogue::each;
use jovrik_schema::{Branch, ReadCursor, SettingReader, Tree};
use jovrik_toml::{SpannedValue, TomlValue, steps};

use super::{MergedRice, overlay};
use crate::rice::Rice;

/// What the overlays of two layings set, and what follows it by reference.
pub(super) struct IncrementalMerge<'a> {
    /// The laying before.
    pub laid: &'a MergedRice,
    touched: HashSet<String>,
}

impl<'a> IncrementalMerge<'a> {
    /// Of a tree that `overlays` were laid on; of those that were laid before, all are among them.
    pub fn new(laid: &'a MergedRice, overlays: &[&overlay::Overlay], tree: &Branch) -> IncrementalMerge<'a> {
        let mut touched: HashSet<String> = HashSet::default();
        for overlay in overlays {
            touched.extend(overlay.table.iter().map(|(name, _)| name.clone()));
            touched.extend(overlay.drop.iter().filter_map(|(path, _)| path.first().cloned()));
        }
        let mut follows: Vec<(String, String)> = Vec::new();
        for (name, tree) in &tree.entries {
            references(tree, &mut |target| follows.push((name.clone(), target)));
        }
        each(Rice::CATALOGUE, &mut |path, field| {
            let target = field.default.and_then(|default| default.trim_matches('"').strip_prefix('='));
            if let Some(target) = target.and_then(|target| steps(target).into_iter().next()) {
                follows.extend(steps(path).into_iter().next().map(|name| (name, target)));
            }
        });
        // Colours are named by their roles everywhere.
        let all = touched.contains("palette");
        while let Some((name, _)) = follows.iter().find(|(name, target)| touched.contains(target) && !touched.contains(name)) {
            touched.insert(name.clone());
        }
        if all {
            touched.extend(Rice::CATALOGUE.fields.iter().map(|field| field.name.to_owned()));
        }
        IncrementalMerge { laid, touched }
    }

    /// Whether nothing of a table of the rice is other than before.
    pub fn same(&self, table: &str) -> bool {
        !self.touched.contains(table)
    }

    /// Whether none of some tables is other than before, and the bars are called as they were.
    pub fn same_keys(&self, tree: &Branch) -> bool {
        let bars = |tree: &Branch| -> Vec<String> {
            let bars = tree.entries.get("bar").and_then(Tree::branch);
            bars.into_iter().flat_map(|bars| bars.entries.keys().cloned()).collect()
        };
        super::keys::READS.iter().all(|table| self.same(table)) && bars(tree) == bars(&self.laid.tree)
    }

    /// Reads the rice: what is as before is taken from there.
    pub fn read(&self, reader: &mut SettingReader<'_>, tree: &Tree) -> Rice {
        Rice::read_again(reader, &ReadCursor::top(tree), &self.laid.rice, &|table| self.same(table))
    }
}

/// The first steps of all references in a tree.
fn references(tree: &Tree, found: &mut dyn FnMut(String)) {
    match tree {
        Tree::Branch(branch) => branch.entries.values().for_each(|tree| references(tree, found)),
        Tree::Leaf(leaf) => in_node(&leaf.node, found),
    }
}

fn in_node(node: &SpannedValue, found: &mut dyn FnMut(String)) {
    match &node.value {
        TomlValue::String(text) => {
            if let Some(target) = text.strip_prefix('=').filter(|target| !target.starts_with('=')) {
                steps(target).into_iter().next().into_iter().for_each(&mut *found);
            }
        }
        TomlValue::Array(items) => items.iter().for_each(|item| in_node(item, found)),
        TomlValue::Table(items) => items.iter().for_each(|(_, item)| in_node(item, found)),
        _ => {}
    }
}
