//! What a value may come to once all references are followed, whichever of a rice's layers hold.

use std::collections::{HashMap, HashSet, VecDeque};

use jovrik_schema::catalogue::{CatalogueMatch, SettingShape, find, normal_steps};
use jovrik_schema::{Branch, Tree};
use jovrik_text::Span;
use jovrik_toml::{SpannedValue, TomlValue, parse_value, path_of, steps};

use crate::rice::Rice;

/// So many references are followed one after another, as by whoever reads a rice.
const MAX_STEPS: usize = jovrik_schema::MAX_REFERENCE_STEPS;
/// So many different values one may come to; who could read more of them.
const MAX_VALUES: usize = jovrik_text::limits::POSSIBLE_VALUES;
/// So deep lists and tables lie in each other.
const MAX_DEPTH: usize = 8;

/// The settings of one layer, as a file or a merged tree holds them.
pub(super) struct Layer {
    /// What stands in it.
    pub entries: Vec<(String, SpannedValue)>,
    /// Whether it holds whatever the computer: it is no overlay.
    pub always: bool,
}

/// A value of which it cannot be said what it comes to.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{path} {why}, so nobody can say what it comes to")]
pub struct Unclear {
    /// The path of its setting.
    pub path: String,
    /// Where it stands.
    pub span: Span,
    /// Why, in words that follow the path.
    pub why: String,
}

/// Every value that stands anywhere in the layers of a rice, by the path of its setting.
pub(super) struct Possible {
    values: HashMap<String, Vec<SpannedValue>>,
    /// The paths at which something stands whichever overlays hold.
    always: HashSet<String>,
}

/// Every leaf of the catalogue that stands in a layer, with its path as it is written.
pub(super) fn leaves<'n>(layer: &'n Layer, each: &mut dyn FnMut(&[String], &'n SpannedValue)) {
    fn walk<'n>(
        entries: &'n [(String, SpannedValue)],
        path: &mut Vec<String>,
        each: &mut dyn FnMut(&[String], &'n SpannedValue),
    ) {
        for (name, node) in entries {
            path.push(name.clone());
            match (find(Rice::CATALOGUE, path).map(CatalogueMatch::shape), &node.value) {
                (Ok(SettingShape::One(_)), _) => each(path, node),
                (_, TomlValue::Table(inner)) => walk(inner, path, each),
                // A name that no catalogue has yet says nothing.
                _ => {}
            }
            path.pop();
        }
    }
    walk(&layer.entries, &mut Vec::new(), each);
}

/// A merged tree as one layer.
pub(super) fn layer_of(tree: &Branch) -> Layer {
    fn entries(tree: &Branch) -> Vec<(String, SpannedValue)> {
        let node = |tree: &Tree| match tree {
            Tree::Leaf(leaf) => leaf.node.clone(),
            Tree::Branch(branch) => SpannedValue::built_in(TomlValue::Table(entries(branch))),
        };
        tree.entries.iter().map(|(name, tree)| (name.clone(), node(tree))).collect()
    }
    Layer { entries: entries(tree), always: true }
}

/// The settings and tables that an overlay takes away.
fn dropped(layer: &Layer, lead: &str) -> Vec<String> {
    let head = layer.entries.iter().filter(|(name, _)| name == "overlay").filter_map(|(_, node)| node.entries()).flatten();
    let texts = head.filter(|(name, _)| name == "drop").flat_map(|(_, node)| all_texts(node)).filter_map(SpannedValue::text);
    texts.map(|path| path_of(&normal_steps(Rice::CATALOGUE, &steps(path), lead))).collect()
}

/// The path that a text refers to, spelled in one way; nothing when it is a plain text.
fn target(node: &SpannedValue) -> Option<String> {
    let path = node.text()?.strip_prefix('=').filter(|path| !path.starts_with('='))?;
    Some(path_of(&steps(path)))
}

impl Possible {
    pub(super) fn new(layers: &[Layer], lead: &str) -> Self {
        let mut values: HashMap<String, Vec<SpannedValue>> = HashMap::new();
        let mut always = HashSet::new();
        for layer in layers {
            leaves(layer, &mut |path, node| {
                let path = path_of(&normal_steps(Rice::CATALOGUE, path, lead));
                if layer.always {
                    always.insert(path.clone());
                }
                values.entry(path).or_default().push(node.clone());
            });
        }
        for gone in layers.iter().flat_map(|layer| dropped(layer, lead)) {
            always.retain(|path| path.strip_prefix(&gone).is_none_or(|rest| !rest.is_empty() && !rest.starts_with('.')));
        }
        Self { values, always }
    }

    /// What stands at a path in any layer, and its default where it may be that nothing does.
    fn at(&self, path: &str) -> Vec<SpannedValue> {
        let default = match find(Rice::CATALOGUE, &steps(path)) {
            Ok(CatalogueMatch::Field(field)) if !self.always.contains(path) => field.default.and_then(parse_value),
            _ => None,
        };
        self.values.get(path).into_iter().flatten().cloned().chain(default).collect()
    }

    /// Every path that a value takes something from, also through others.
    pub(super) fn sources_of(&self, node: &SpannedValue) -> HashSet<String> {
        let mut found = HashSet::new();
        let mut next = Vec::new();
        let targets = |node: &SpannedValue| all_texts(node).into_iter().filter_map(target).collect::<Vec<_>>();
        next.extend(targets(node));
        while let Some(path) = next.pop() {
            if found.insert(path.clone()) {
                self.at(&path).iter().for_each(|node| next.extend(targets(node)));
            }
        }
        found
    }

    /// Everything that a value at a path may come to: no reference stands in it any more. Nothing when it refers to what is
    /// not there, or to itself.
    pub(super) fn of(&self, path: &str, node: &SpannedValue) -> Result<Vec<SpannedValue>, Unclear> {
        let at = |node| self.resolve(path, node, MAX_DEPTH);
        at(node).map_err(|why| Unclear { path: path.to_owned(), span: node.span, why })
    }

    /// The same of what a setting may be.
    pub(super) fn of_path(&self, path: &str) -> Result<Vec<SpannedValue>, Unclear> {
        let mut all = Vec::new();
        for node in self.at(path) {
            all.extend(self.of(path, &node)?);
        }
        Ok(all)
    }

    fn resolve(&self, path: &str, node: &SpannedValue, depth: usize) -> Result<Vec<SpannedValue>, String> {
        if depth == 0 {
            return Err("holds lists in lists too deep".to_owned());
        }
        let with = |value: TomlValue| SpannedValue { value, ..node.clone() };
        match &node.value {
            TomlValue::String(text) => match target(node) {
                Some(first) => {
                    let mut found = Vec::new();
                    for end in self.ends(first)? {
                        found.extend(self.resolve(path, &end, depth - 1)?.into_iter().map(|end| with(end.value)));
                    }
                    distinct(found)
                }
                None => Ok(vec![with(TomlValue::String(text.strip_prefix('=').unwrap_or(text).to_owned()))]),
            },
            TomlValue::Array(items) => {
                let mut lists: Vec<Vec<SpannedValue>> = vec![Vec::new()];
                for item in items {
                    let ways: Vec<Vec<SpannedValue>> = if item.text() == Some("...") {
                        self.inherited(path, node, depth)?
                    } else {
                        self.resolve(path, item, depth - 1)?.into_iter().map(|one| vec![one]).collect()
                    };
                    lists = product(lists, &ways, |list, way| list.iter().chain(way).cloned().collect())?;
                }
                distinct(lists.into_iter().map(|list| with(TomlValue::Array(list))).collect())
            }
            TomlValue::Table(entries) => {
                let mut tables: Vec<Vec<(String, SpannedValue)>> = vec![Vec::new()];
                for (name, inner) in entries {
                    let ways = self.resolve(path, inner, depth - 1)?;
                    tables = product(tables, &ways, |table, way| {
                        table.iter().cloned().chain([(name.clone(), way.clone())]).collect()
                    })?;
                }
                Ok(tables.into_iter().map(|table| with(TomlValue::Table(table))).collect())
            }
            _ => Ok(vec![node.clone()]),
        }
    }

    /// The lists that `"..."` may stand for in a list: what another layer has there.
    fn inherited(&self, path: &str, node: &SpannedValue, depth: usize) -> Result<Vec<Vec<SpannedValue>>, String> {
        let mut lists = vec![Vec::new()];
        for other in self.at(path).iter().filter(|other| !other.same(node) || other.span != node.span) {
            if matches!(other.value, TomlValue::Array(_)) {
                let all = self.resolve(path, other, depth - 1)?;
                lists.extend(
                    all.into_iter().filter_map(|node| if let TomlValue::Array(items) = node.value { Some(items) } else { None }),
                );
            }
        }
        Ok(lists)
    }

    /// The values at the end of references that begin with one to a path.
    fn ends(&self, first: String) -> Result<Vec<SpannedValue>, String> {
        let mut seen = HashSet::from([first.clone()]);
        let mut next = VecDeque::from([(first, 1)]);
        let mut ends = Vec::new();
        while let Some((path, steps)) = next.pop_front() {
            if steps > MAX_STEPS {
                return Err(format!("takes its value through more than {MAX_STEPS} others"));
            }
            for node in self.at(&path) {
                match target(&node) {
                    Some(path) if seen.insert(path.clone()) => next.push_back((path, steps + 1)),
                    Some(_) => {}
                    None => ends.push(node),
                }
            }
        }
        distinct(ends)
    }
}

fn too_many() -> String {
    format!("may come to more than {MAX_VALUES} values")
}

/// Each of some with each of others.
fn product<T, U>(some: Vec<T>, others: &[U], with: impl Fn(&T, &U) -> T) -> Result<Vec<T>, String> {
    if some.len() * others.len() > MAX_VALUES {
        return Err(too_many());
    }
    Ok(some.iter().flat_map(|one| others.iter().map(|other| with(one, other)).collect::<Vec<_>>()).collect())
}

fn distinct(nodes: Vec<SpannedValue>) -> Result<Vec<SpannedValue>, String> {
    let mut all: Vec<SpannedValue> = Vec::new();
    for node in nodes {
        if !all.iter().any(|other| other.same(&node)) {
            all.push(node);
        }
        if all.len() > MAX_VALUES {
            return Err(too_many());
        }
    }
    Ok(all)
}

/// Every text in a value.
pub(super) fn all_texts(node: &SpannedValue) -> Vec<&SpannedValue> {
    match &node.value {
        TomlValue::String(_) => vec![node],
        TomlValue::Array(items) => items.iter().flat_map(all_texts).collect(),
        TomlValue::Table(items) => items.iter().flat_map(|(_, item)| all_texts(item)).collect(),
        _ => Vec::new(),
    }
}
