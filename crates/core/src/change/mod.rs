//! What differs between two rices, in words.

use jovrik_schema::catalogue::{CatalogueMatch, ReloadPolicy, find};
use jovrik_schema::{Branch, Tree};
use jovrik_toml::{path_of, steps};

use crate::rice::Rice;

/// One setting that differs.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize)]
pub struct Change {
    /// Its path.
    pub path: String,
    /// What it was, as TOML; nothing when it was not set.
    pub old: Option<String>,
    /// What it is.
    pub new: Option<String>,
}

impl std::fmt::Display for Change {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match (&self.old, &self.new) {
            (Some(old), Some(new)) => write!(f, "{} {old} → {new}", self.path),
            (None, Some(new)) => write!(f, "{} = {new}", self.path),
            (Some(_), None) => write!(f, "{} is no longer set", self.path),
            (None, None) => f.write_str(&self.path),
        }
    }
}

/// All settings that differ, in the order of the newer rice.
pub fn changes(old: &Branch, new: &Branch) -> Vec<Change> {
    let mut changes = Vec::new();
    walk(Some(old), Some(new), &mut Vec::new(), &mut changes);
    changes
}

fn walk<'t>(old: Option<&'t Branch>, new: Option<&'t Branch>, path: &mut Vec<&'t str>, changes: &mut Vec<Change>) {
    let names = |branch: Option<&'t Branch>| branch.into_iter().flat_map(|branch| branch.entries.keys());
    let gone = names(old).filter(|name| new.is_none_or(|new| !new.entries.contains_key(*name)));
    for name in names(new).chain(gone) {
        let at = |branch: Option<&'t Branch>| branch.and_then(|branch| branch.entries.get(name));
        let (before, after) = (at(old), at(new));
        path.push(name);
        let (old_leaf, new_leaf) = (before.and_then(Tree::leaf), after.and_then(Tree::leaf));
        let same = match (old_leaf, new_leaf) {
            (Some(old), Some(new)) => old.node.same(&new.node),
            (None, None) => true,
            _ => false,
        };
        if !same {
            let text = |leaf: Option<&jovrik_schema::Leaf>| leaf.map(|leaf| leaf.node.to_toml());
            changes.push(Change { path: path_of(path), old: text(old_leaf), new: text(new_leaf) });
        }
        walk(before.and_then(Tree::branch), after.and_then(Tree::branch), path, changes);
        path.pop();
    }
}

/// What of the changes does not hold yet, and what that takes: the path, and words for it.
pub fn held_back(changes: &[Change]) -> Vec<(String, &'static str)> {
    let one = |change: &Change| {
        let Ok(CatalogueMatch::Field(field)) = find(Rice::CATALOGUE, &steps(&change.path)) else { return None };
        (field.takes != ReloadPolicy::Immediate).then(|| (change.path.clone(), field.takes.words()))
    };
    changes.iter().filter_map(one).collect()
}

/// The changes in a few words: `bar.top.thick 28 → 32`, `3 bindings`.
pub fn in_short(changes: &[Change]) -> String {
    match changes {
        [] => "nothing".to_owned(),
        [one] => one.to_string(),
        many => {
            let binds = |change: &&Change| {
                let path = change.path.as_str();
                path.starts_with("keys.")
                    && path.matches('.').count() > 1
                    && !path.starts_with("keys.cost.")
                    && !path.ends_with(".others")
            };
            let bindings = many.iter().filter(binds).count();
            let others: Vec<&Change> = many.iter().filter(|change| !binds(change)).collect();
            let mut words: Vec<String> = match others.as_slice() {
                few if few.len() <= 2 => few.iter().map(ToString::to_string).collect(),
                many => vec![jovrik_text::problem::count(many.len(), "setting")],
            };
            if bindings > 0 {
                words.push(jovrik_text::problem::count(bindings, "binding"));
            }
            words.join(", ")
        }
    }
}
