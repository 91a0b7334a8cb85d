//! Colours that a rice writes out where a role would do.

use jovrik_schema::{Branch, Colour, Tree};
use jovrik_text::Span;
use jovrik_toml::{SpannedValue, TomlValue};

use super::difference;
use crate::rice::Palette;

/// A colour that is written out.
#[derive(Debug, Clone, PartialEq)]
pub struct Literal {
    /// The path of its setting.
    pub path: String,
    /// The value that it stands in.
    pub span: Span,
    /// As it is written: `#74d4b1`.
    pub written: String,
    /// The colour.
    pub colour: Colour,
}

/// The nearest role to a colour, and how far it is apart; opacity is kept aside.
pub fn nearest_role(palette: &Palette, colour: Colour) -> Option<(&'static str, f32)> {
    let opaque = Colour { a: 255, ..colour };
    let roles = Palette::ROLES.iter().filter_map(|role| Some((*role, difference(palette.role(role)?, opaque))));
    roles.min_by(|(_, a), (_, b)| a.total_cmp(b))
}

/// All colours of a merged tree that are written in digits, outside of palettes.
pub fn literals(tree: &Branch) -> Vec<Literal> {
    let mut found = Vec::new();
    for (name, tree) in tree.entries.iter().filter(|(name, _)| *name != "palette") {
        walk(tree, &mut vec![name.as_str()], &mut found);
    }
    found
}

fn walk<'t>(tree: &'t Tree, path: &mut Vec<&'t str>, found: &mut Vec<Literal>) {
    match tree {
        Tree::Leaf(leaf) => node(&leaf.node, &jovrik_toml::path_of(path), found),
        Tree::Branch(branch) => {
            for (name, tree) in &branch.entries {
                path.push(name);
                walk(tree, path, found);
                path.pop();
            }
        }
    }
}

fn node(node_: &SpannedValue, path: &str, found: &mut Vec<Literal>) {
    match &node_.value {
        TomlValue::String(text) if node_.span.written() => {
            let digits = |c: char| c.is_ascii_hexdigit();
            for (at, _) in text.match_indices('#') {
                let len = text[at + 1..].find(|c| !digits(c)).unwrap_or(text.len() - at - 1);
                let written = &text[at..at + 1 + len];
                // Only where the whole text is a colour, or a gradient of colours.
                let alone = written == text || text.starts_with("linear-gradient(");
                if let (true, Some(colour)) = (alone && matches!(len, 3 | 4 | 6 | 8), Colour::css(written)) {
                    let (path, written) = (path.to_owned(), written.to_owned());
                    found.push(Literal { path, span: node_.span, written, colour });
                }
            }
        }
        TomlValue::Array(items) => items.iter().for_each(|item| node(item, path, found)),
        TomlValue::Table(entries) => entries.iter().for_each(|(_, inner)| node(inner, path, found)),
        _ => {}
    }
}
