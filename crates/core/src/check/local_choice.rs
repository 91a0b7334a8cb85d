//! What a person picked on a computer: laid over the rice there, and no part of it.

use jovrik_schema::{Branch, ConfigLayer, Merger};
use jovrik_toml::{SpannedValue, steps};
use serde::{Deserialize, Serialize};

use super::{nested, value_of_words};
use crate::rice::Rice;

/// A setting that was picked on this computer.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct LocalChoice {
    /// The setting's path.
    pub path: String,
    /// What was picked, as it is written in a rice.
    pub value: String,
    /// What the rice said then, as it is written; nothing where it said nothing. When it says something else, the choice is over.
    pub over: String,
}

impl LocalChoice {
    /// Whether a setting can be picked at all: the palette, the picture behind everything, and the colours that come of it.
    pub fn can_be(path: &str) -> bool {
        matches!(path, "palette.use" | "backdrop.picture") || is_from_picture(path)
    }
}

/// What a palette is called that came of a picture.
pub const FROM_PICTURE: &str = "from-picture";

/// Whether a setting is a colour of that palette.
fn is_from_picture(path: &str) -> bool {
    path.strip_prefix("palette.").and_then(|rest| rest.strip_prefix(FROM_PICTURE)).is_some_and(|rest| rest.starts_with('.'))
}

/// What a rice itself says of a setting, as it is written; nothing where it says nothing.
pub(super) fn said(tree: &Branch, path: &str) -> String {
    let leaf = tree.get(&steps(path)).and_then(jovrik_schema::Tree::leaf);
    let own = leaf.and_then(|leaf| match leaf.layer {
        ConfigLayer::Choice | ConfigLayer::With => {
            leaf.over.iter().find(|(layer, _)| *layer < ConfigLayer::Choice).map(|(_, node)| node)
        }
        ConfigLayer::Parts | ConfigLayer::Overlay(_) => Some(&leaf.node),
    });
    own.map(SpannedValue::to_toml).unwrap_or_default()
}

/// Lays the choices that hold; those, and those that are over since the rice says something else.
pub(super) fn lay(choices: Vec<LocalChoice>, merger: &mut Merger<'_>) -> (Vec<LocalChoice>, Vec<LocalChoice>) {
    let holds =
        |choice: &LocalChoice, tree: &Branch| LocalChoice::can_be(&choice.path) && said(tree, &choice.path) == choice.over;
    // All are judged by what the rice says, before any of them is laid.
    let (holding, over): (Vec<LocalChoice>, Vec<LocalChoice>) =
        choices.into_iter().partition(|choice| holds(choice, &merger.tree));
    // A palette that is not there any more cannot be used.
    let named = |choice: &LocalChoice| choice.value.trim_matches('"').to_owned();
    let made = holding.iter().any(|choice| is_from_picture(&choice.path));
    let there = |name: &str| merger.tree.get(&["palette", name]).is_some() || made && name == FROM_PICTURE;
    let usable = |choice: &LocalChoice| choice.path != "palette.use" || there(&named(choice));
    let holding: Vec<LocalChoice> = holding.into_iter().filter(usable).collect();
    for choice in &holding {
        merger.lay(nested(&steps(&choice.path), value_of_words(&choice.value)), Rice::CATALOGUE, ConfigLayer::Choice);
    }
    (holding, over)
}
