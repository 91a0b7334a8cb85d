//! Nodes of several files to one tree, along the catalogue, with every value's chain of places.

use jovrik_text::problem::{Fix, Problem};
use jovrik_text::{Ordered, Sources, Span, limits};
use jovrik_toml::{SpannedValue, TomlValue, bare, parse_value};

use crate::catalogue::{KeySyntax, SettingField, SettingShape, SettingTable, ValueType, table_of};

/// Tables that are designed, and not built: whoever writes one is told so.
const NOT_BUILT: &[(&str, &str)] = &[("use", "dialects of other programs"), ("motion", "motions")];

/// Where in the order of merging a value was laid.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum ConfigLayer {
    /// The files of `parts/`: one layer.
    Parts,
    /// An overlay that holds, by its place among them, from 0.
    Overlay(u16),
    /// What was picked on this computer.
    Choice,
    /// `--with PATH=VALUE`.
    With,
}

/// One value with all it won over.
#[derive(Debug, Clone)]
pub struct Leaf {
    /// The value that holds.
    pub node: SpannedValue,
    /// Its layer.
    pub layer: ConfigLayer,
    /// Earlier values, the latest first.
    pub over: Vec<(ConfigLayer, SpannedValue)>,
}

/// A table of the merged tree.
#[derive(Debug, Clone, Default)]
pub struct Branch {
    /// What stands in it, in the order it was first named.
    pub entries: Ordered<String, Tree>,
    /// Where it was first named.
    pub key: Option<Span>,
}

/// The merged tree.
#[derive(Debug, Clone)]
pub enum Tree {
    /// A value.
    Leaf(Leaf),
    /// A table.
    Branch(Branch),
}

impl Tree {
    /// The table, if it is one.
    pub fn branch(&self) -> Option<&Branch> {
        match self {
            Tree::Branch(branch) => Some(branch),
            Tree::Leaf(_) => None,
        }
    }

    /// The value, if it is one.
    pub fn leaf(&self) -> Option<&Leaf> {
        match self {
            Tree::Leaf(leaf) => Some(leaf),
            Tree::Branch(_) => None,
        }
    }

    /// How many values it holds.
    pub fn leaves(&self) -> usize {
        match self {
            Tree::Leaf(_) => 1,
            Tree::Branch(branch) => branch.entries.values().map(Tree::leaves).sum(),
        }
    }
}

impl Branch {
    /// What stands at a path.
    pub fn get<S: AsRef<str>>(&self, steps: &[S]) -> Option<&Tree> {
        let (first, rest) = steps.split_first()?;
        let tree = self.entries.get(first.as_ref())?;
        if rest.is_empty() { Some(tree) } else { tree.branch()?.get(rest) }
    }

    /// The paths along a pattern such as `bar.NAME.thick`, in which `NAME` is any table that stands here, or at the end
    /// anything.
    pub fn along(&self, pattern: &str) -> Vec<Vec<String>> {
        let steps: Vec<&str> = pattern.split('.').collect();
        let mut paths: Vec<Vec<String>> = vec![Vec::new()];
        for (at, step) in steps.iter().enumerate() {
            let last = at + 1 == steps.len();
            let next = |path: Vec<String>| {
                let names: Vec<String> = match *step {
                    "NAME" => {
                        let branch = if path.is_empty() { Some(self) } else { self.get(&path).and_then(Tree::branch) };
                        let all = branch.into_iter().flat_map(|branch| &branch.entries);
                        all.filter(|(_, tree)| last || tree.branch().is_some()).map(|(name, _)| name.clone()).collect()
                    }
                    step => vec![step.to_owned()],
                };
                names.into_iter().map(move |name| [path.as_slice(), &[name]].concat()).collect::<Vec<_>>()
            };
            paths = paths.into_iter().flat_map(next).collect();
        }
        paths
    }

    /// Takes away what stands at a path.
    pub fn take(&mut self, steps: &[String]) -> Option<Tree> {
        let (first, rest) = steps.split_first()?;
        if rest.is_empty() {
            return self.entries.shift_remove(first);
        }
        match self.entries.get_mut(first)? {
            Tree::Branch(branch) => branch.take(rest),
            Tree::Leaf(_) => None,
        }
    }
}

/// Lays tables over each other.
#[derive(Debug)]
pub struct Merger<'s> {
    sources: &'s Sources,
    lead: String,
    /// The merged tree.
    pub tree: Branch,
    /// What was found on the way.
    pub problems: Vec<Problem>,
}

impl<'s> Merger<'s> {
    /// An empty tree. `lead` is the modifier that `Lead` stands for.
    pub fn new(sources: &'s Sources, lead: &str) -> Self {
        Self { sources, lead: lead.to_owned(), tree: Branch::default(), problems: Vec::new() }
    }

    /// The modifier that `Lead` stands for.
    pub fn lead(&self) -> &str {
        &self.lead
    }

    /// Lays a file's table over the tree.
    pub fn lay(&mut self, table: Vec<(String, SpannedValue)>, shape: &'static SettingTable, layer: ConfigLayer) {
        let mut tree = std::mem::take(&mut self.tree);
        self.lay_table(&mut tree, table, shape, &mut Vec::new(), layer);
        self.tree = tree;
    }

    fn lay_table(
        &mut self,
        branch: &mut Branch,
        table: Vec<(String, SpannedValue)>,
        shape: &'static SettingTable,
        path: &mut Vec<String>,
        layer: ConfigLayer,
    ) {
        for (name, node) in table {
            if let Some(field) = shape.field(&name) {
                self.lay_at(branch, name, node, field.shape, field.default, path, layer);
            } else if let Some((names, inner)) = shape.rest {
                self.lay_named(branch, name, node, names, *inner, path, layer);
            } else {
                self.unknown(&name, &node, shape, path);
            }
        }
    }

    #[expect(clippy::too_many_arguments, reason = "one step of a walk that carries its whole state")]
    fn lay_named(
        &mut self,
        branch: &mut Branch,
        name: String,
        node: SpannedValue,
        names: KeySyntax,
        shape: SettingShape,
        path: &mut Vec<String>,
        layer: ConfigLayer,
    ) {
        // A grammar has limits of its own.
        if !matches!(names, KeySyntax::Spelled(_)) && name.len() > limits::SETTING_TEXT {
            let title = format!("a name in {} has more than {} KiB", jovrik_toml::path_of(path), limits::SETTING_TEXT / 1024);
            self.problems.push(Problem::error("setting/range", title).at(node.key, "too long").because("Nobody could read it."));
            return;
        }
        let name = match names {
            KeySyntax::Chosen | KeySyntax::Files | KeySyntax::Elements => name,
            KeySyntax::Spelled(grammar) => match (grammar.normalise)(&name, &self.lead) {
                Some(name) => name,
                None => {
                    let place = Span { start: node.key.start, ..node.key };
                    self.problems.extend((grammar.problem)(&name, &self.lead, place, self.sources.slice(node.key)));
                    // It is laid as it is written: what it does may be wrong, too.
                    name
                }
            },
        };
        self.lay_at(branch, name, node, shape, None, path, layer);
    }

    #[expect(clippy::too_many_arguments, reason = "one step of a walk that carries its whole state")]
    fn lay_at(
        &mut self,
        branch: &mut Branch,
        name: String,
        node: SpannedValue,
        shape: SettingShape,
        default: Option<&'static str>,
        path: &mut Vec<String>,
        layer: ConfigLayer,
    ) {
        match (shape, node) {
            (SettingShape::One(kind), node) => self.lay_value(branch, name, node, (kind, default), path, layer),
            (SettingShape::Table(_) | SettingShape::Named(..), SpannedValue { value: TomlValue::Table(inner), key, .. }) => {
                let below = branch
                    .entries
                    .entry(name.clone())
                    .or_insert_with(|| Tree::Branch(Branch { key: Some(key), ..Branch::default() }));
                let Tree::Branch(below) = below else { return };
                path.push(name);
                match shape {
                    SettingShape::Table(table) => self.lay_table(below, inner, table, path, layer),
                    SettingShape::Named(KeySyntax::Elements, properties) => {
                        self.lay_element(below, inner, shape, table_of(*properties), path, layer);
                    }
                    SettingShape::Named(names, shape) => {
                        for (name, node) in inner {
                            self.lay_named(below, name, node, names, *shape, path, layer);
                        }
                    }
                    SettingShape::One(_) => {}
                }
                path.pop();
            }
            (_, node) => {
                path.push(name);
                let path_text = jovrik_toml::path_of(path);
                path.pop();
                let named = matches!(shape, SettingShape::Named(..)) && matches!(node.value, TomlValue::Array(_));
                self.problems.push(if named {
                    // As other formats list them.
                    Problem::error("setting/type", format!("each {path_text} has a name of its own"))
                        .at(node.span, format!("expected [{path_text}.NAME] here"))
                        .because("By their names an overlay can change one of them.")
                        .advise(format!("[{path_text}.mine]"), "in the place of each of these lines, with a name that you choose")
                } else {
                    Problem::error("setting/type", format!("{path_text} is a table, not {}", node.kind()))
                        .at(node.span, "expected a table here")
                        .because("The settings in it have names of their own.")
                        .advise(format!("jovrik settings {path_text}"), "lists them")
                });
            }
        }
    }

    /// Lays an element: its properties, and the elements in it, which have the same shape.
    fn lay_element(
        &mut self,
        branch: &mut Branch,
        entries: Vec<(String, SpannedValue)>,
        shape: SettingShape,
        properties: &'static SettingTable,
        path: &mut Vec<String>,
        layer: ConfigLayer,
    ) {
        for (name, node) in entries {
            match properties.field(&name) {
                // Properties stand in elements only.
                Some(field) if path.len() > 1 => self.lay_at(branch, name, node, field.shape, field.default, path, layer),
                _ if matches!(node.value, TomlValue::Table(_)) => self.lay_at(branch, name, node, shape, None, path, layer),
                _ => self.unknown(&name, &node, properties, path),
            }
        }
    }

    fn lay_value(
        &mut self,
        branch: &mut Branch,
        name: String,
        mut node: SpannedValue,
        (kind, default): (&'static ValueType, Option<&'static str>),
        path: &[String],
        layer: ConfigLayer,
    ) {
        let spliced = self.splice(&mut node, branch.entries.get(&name), default);
        let is_chord = kind.is_binding();
        match branch.entries.get_mut(&name) {
            Some(Tree::Leaf(leaf)) => {
                if leaf.layer == layer {
                    let raw = |node: &SpannedValue| self.sources.slice(node.key);
                    let same_line_twice =
                        leaf.node.key.file == node.key.file && raw(&leaf.node) == raw(&node) && leaf.node.same(&node);
                    if same_line_twice && node.key.written() {
                        self.problems.push(self.again(path, &name, &leaf.node, &node, is_chord));
                    } else if !is_chord && !spliced && !leaf.node.same(&node) {
                        self.problems.push(twice(path, &name, &leaf.node, &node));
                    }
                }
                let below = std::mem::replace(&mut leaf.node, node);
                leaf.over.insert(0, (leaf.layer, below));
                leaf.layer = layer;
            }
            _ => {
                branch.entries.insert(name, Tree::Leaf(Leaf { node, layer, over: Vec::new() }));
            }
        }
    }

    /// The very same assignment twice in one table, which TOML itself refuses.
    fn again(&self, path: &[String], name: &str, first: &SpannedValue, second: &SpannedValue, is_chord: bool) -> Problem {
        let mut full: Vec<&str> = path.iter().map(String::as_str).collect();
        full.push(name);
        let code = if is_chord { "keys/twice" } else { "setting/twice" };
        let problem = Problem::error(code, format!("{} stands twice in one file", jovrik_toml::path_of(&full)))
            .at(first.key, "here")
            .at(second.key, "and again here")
            .because("TOML allows a key only once in a table.");
        let edit = self.sources.get(second.key.file).and_then(|source| jovrik_toml::remove(source, second));
        Problem { fix: edit.map(|edit| Fix { edits: vec![edit], writes: "it once".to_owned() }), ..problem }
    }

    /// Puts the inherited list where `"..."` stands.
    fn splice(&self, node: &mut SpannedValue, below: Option<&Tree>, default: Option<&'static str>) -> bool {
        let TomlValue::Array(items) = &mut node.value else { return false };
        if !items.iter().any(|item| item.text() == Some("...")) {
            return false;
        }
        let below = below.and_then(Tree::leaf).map(|leaf| leaf.node.clone()).or_else(|| parse_value(default?));
        let inherited = match below {
            Some(SpannedValue { value: TomlValue::Array(items), .. }) => items,
            _ => Vec::new(),
        };
        let own = std::mem::take(items);
        for item in own {
            if item.text() == Some("...") { items.extend(inherited.iter().cloned()) } else { items.push(item) }
        }
        true
    }

    fn unknown(&mut self, name: &str, node: &SpannedValue, table: &'static SettingTable, path: &[String]) {
        let mut full: Vec<&str> = path.iter().map(String::as_str).collect();
        full.push(name);
        let title = format!("there is no {}", jovrik_toml::path_of(&full));
        if path.is_empty()
            && let Some((_, what)) = NOT_BUILT.iter().find(|(own, _)| *own == name)
        {
            let problem = Problem::warning("setting/not-yet", format!("{what} are not there yet"));
            self.problems.push(
                problem
                    .at(node.key, "nothing reads this table so far")
                    .because("It is part of what this program is to do; later versions read it."),
            );
            return;
        }
        let names = || table.fields.iter().map(|field| field.name);
        let mut problem = Problem::error("setting/unknown", title).because("Nothing reads it, so it would do nothing.");
        problem = match table.near(name) {
            Some((near, false)) => problem.at(node.key, format!("did you mean {}? it is {}", near.name, near.help.trim())),
            Some((SettingField { name: near, .. }, true)) => {
                let problem = problem.at(node.key, format!("did you mean {near}?"));
                let taken = table.fields.len() > 1 && self.sources.slice(node.key).is_empty();
                if taken { problem } else { problem.mend(node.key, bare(near), (*near).to_owned()) }
            }
            None => {
                let known: Vec<&str> = names().collect();
                problem.at(node.key, format!("known here: {}", jovrik_text::problem::in_words(&known)))
            }
        };
        self.problems.push(problem);
    }
}

fn twice(path: &[String], name: &str, first: &SpannedValue, second: &SpannedValue) -> Problem {
    let mut full: Vec<&str> = path.iter().map(String::as_str).collect();
    full.push(name);
    let full = jovrik_toml::path_of(&full);
    let same_file = first.key.file == second.key.file;
    let title = format!("{full} is set twice, to different values");
    let problem = if same_file { Problem::error("setting/twice", title) } else { Problem::warning("setting/twice", title) };
    problem
        .at(first.key, format!("{} here", first.to_toml()))
        .at(second.key, format!("{} here; read later, so it wins", second.to_toml()))
        .because("One of the two lines does nothing.")
        .advise(format!("jovrik reset {full}"), "removes both lines")
}
