//! Files that a rice places: filled with the rice's values.

use std::path::{Component, Path};

use jovrik_core::check::Checked;
use jovrik_core::load::{Tree, Value, parse_value};
use jovrik_core::rice::Rice;
use jovrik_core::rice::catalogue::{Found, find, steps};

use crate::Error;

/// A path inside a rice's folder, refused when it leads out.
pub fn inside(folder: &Path, name: &str) -> Result<std::path::PathBuf, Error> {
    let path = Path::new(name);
    let plain = !name.is_empty() && path.components().all(|part| matches!(part, Component::Normal(_) | Component::CurDir));
    if plain { Ok(folder.join(path)) } else { Err(Error::Place(format!("{name} is not inside the rice"))) }
}

/// Replaces `{{path}}` by a setting's value and `{{@role}}` by a colour.
pub fn fill(template: &str, checked: &Checked) -> Result<String, Error> {
    let mut out = String::with_capacity(template.len());
    let mut rest = template;
    while let Some(at) = rest.find("{{") {
        out.push_str(&rest[..at]);
        let after = &rest[at + 2..];
        let end = after.find("}}").ok_or_else(|| Error::Place("a {{ is not closed by }}".to_owned()))?;
        out.push_str(&value(after[..end].trim(), checked)?);
        rest = &after[end + 2..];
    }
    out.push_str(rest);
    Ok(out)
}

fn value(name: &str, checked: &Checked) -> Result<String, Error> {
    let missing = || Error::Place(format!("{{{{{name}}}}} names no setting and no colour of the palette"));
    if let Some(role) = name.strip_prefix('@') {
        return checked.rice.palette.current.role(role).map(jovrik_core::rice::Colour::hex).ok_or_else(missing);
    }
    let steps = steps(name);
    let node = match checked.tree.get(&steps) {
        Some(Tree::Leaf(leaf)) => Some(leaf.node.clone()),
        _ => match find(Rice::CATALOGUE, &steps) {
            Ok(Found::Field(field)) => field.default.and_then(parse_value),
            _ => None,
        },
    };
    let node = node.ok_or_else(missing)?;
    match &node.value {
        Value::Text(text) => match text.strip_prefix(['=', '@']) {
            Some(_) if text.starts_with('@') => value(text, checked),
            Some(target) => value(target, checked),
            None => Ok(text.clone()),
        },
        _ => Ok(node.to_toml()),
    }
}
