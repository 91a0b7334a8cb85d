//! Templates: files that a rice carries, filled with its values.

use crate::load::{Branch, MAX_REFERENCE_STEPS, Tree, Value, parse_value};
use crate::rice::Rice;
use crate::rice::catalogue::{Found, find, steps};

/// What cannot be filled in, and at which byte of the template.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unfilled {
    /// The first byte of `{{`.
    pub at: usize,
    /// What stands between the braces; nothing when they are not closed.
    pub name: Option<String>,
}

impl std::fmt::Display for Unfilled {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match &self.name {
            Some(name) => write!(f, "{{{{{name}}}}} names no setting and no colour of the palette"),
            None => f.write_str("a {{ is not closed by }}"),
        }
    }
}

/// The paths of the settings that a template takes in, as they are written there; colours of the palette aside.
pub fn holes(template: &str) -> Vec<&str> {
    let names = template.split("{{").skip(1).filter_map(|after| after.split_once("}}")).map(|(name, _)| name.trim());
    names.filter(|name| !name.starts_with('@')).collect()
}

/// Replaces `{{path}}` by a setting's value and `{{@role}}` by a colour; everything that cannot be filled in otherwise.
pub fn fill(template: &str, tree: &Branch, rice: &Rice) -> Result<String, Vec<Unfilled>> {
    let mut out = String::with_capacity(template.len());
    let mut wrong = Vec::new();
    let mut rest = template;
    while let Some(at) = rest.find("{{") {
        let place = template.len() - rest.len() + at;
        out.push_str(&rest[..at]);
        let after = &rest[at + 2..];
        let Some(end) = after.find("}}") else {
            wrong.push(Unfilled { at: place, name: None });
            rest = "";
            break;
        };
        let name = after[..end].trim();
        match value(name, tree, rice, 0) {
            Some(text) => out.push_str(&text),
            None => wrong.push(Unfilled { at: place, name: Some(name.to_owned()) }),
        }
        rest = &after[end + 2..];
    }
    out.push_str(rest);
    if wrong.is_empty() { Ok(out) } else { Err(wrong) }
}

fn value(name: &str, tree: &Branch, rice: &Rice, depth: usize) -> Option<String> {
    if depth > MAX_REFERENCE_STEPS {
        return None;
    }
    if name.starts_with('@') {
        return colour(name, rice);
    }
    let steps = steps(name);
    let node = match tree.get(&steps) {
        Some(Tree::Leaf(leaf)) => leaf.node.clone(),
        _ => match find(Rice::CATALOGUE, &steps) {
            Ok(Found::Field(field)) => field.default.and_then(parse_value)?,
            _ => return None,
        },
    };
    match &node.value {
        Value::Text(text) => match text.strip_prefix('=') {
            Some(target) => value(target, tree, rice, depth + 1),
            None => Some(coloured(text, rice)),
        },
        _ => Some(node.to_toml()),
    }
}

/// The colour of a role, also with an opacity: `@accent/40%`.
fn colour(text: &str, rice: &Rice) -> Option<String> {
    let (role, percent) = text.strip_prefix('@')?.split_once('/').unwrap_or((&text[1..], "100%"));
    let percent: f32 = percent.strip_suffix('%')?.trim().parse().ok().filter(|percent| (0.0..=100.0).contains(percent))?;
    rice.palette.current.role(role).map(|colour| colour.faded(percent / 100.0).hex())
}

/// A value with its roles as colours: one by itself, or those of a gradient. Another text that begins with `@` is none.
fn coloured(text: &str, rice: &Rice) -> String {
    if !text.starts_with("linear-gradient(") {
        return colour(text, rice).unwrap_or_else(|| text.to_owned());
    }
    let ends = |c: char| matches!(c, '(' | ')' | ',' | ' ');
    text.split_inclusive(ends)
        .map(|piece| {
            let word = piece.trim_end_matches(ends);
            colour(word, rice).map_or_else(|| piece.to_owned(), |hex| hex + &piece[word.len()..])
        })
        .collect()
}
