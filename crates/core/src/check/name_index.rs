//! Names of one kind of thing in a rice: who is among them, and who is nearest, however many there are.

use std::cell::OnceCell;

use foldhash::{HashMap, HashMapExt, HashSet};
use jovrik_text::problem::{Problem, in_words, nearest};
use jovrik_toml::SpannedValue;

use crate::launcher::BUILT_IN_LISTS;
use crate::rice::{LayoutKind, Rice};

/// How many names are compared one by one, and how many are listed in a sentence.
const FEW: usize = 300;
const MAX_LISTED_NAMES: usize = 12;
/// Longer names are compared as they are only.
const LONG: usize = 48;

/// The names of one kind of thing.
pub(super) struct NameIndex<'r> {
    what: &'static str,
    names: Vec<&'r str>,
    all: HashSet<&'r str>,
    /// Names by what is left of them without one of their letters.
    near: OnceCell<HashMap<String, Vec<usize>>>,
}

/// A word, and what is left of it without one of its letters.
fn stems(word: &str) -> Vec<String> {
    let word = word.to_lowercase();
    let mut stems = Vec::new();
    if word.len() <= LONG {
        for (at, c) in word.char_indices() {
            stems.push(format!("{}{}", &word[..at], &word[at + c.len_utf8()..]));
        }
    }
    stems.push(word);
    stems
}

impl<'r> NameIndex<'r> {
    /// Of the names of some things, which are called `what`.
    pub fn of(what: &'static str, names: impl IntoIterator<Item = &'r str>) -> NameIndex<'r> {
        let names: Vec<&str> = names.into_iter().collect();
        NameIndex { what, all: names.iter().copied().collect(), names, near: OnceCell::new() }
    }

    /// Whether somebody is called so.
    pub fn has(&self, name: &str) -> bool {
        self.all.contains(name)
    }

    /// The nearest name, if one is near enough to be meant.
    pub fn nearest(&self, name: &str) -> Option<&'r str> {
        if self.names.len() <= FEW {
            return nearest(name, self.names.iter().copied());
        }
        let near = self.near.get_or_init(|| {
            let mut near: HashMap<String, Vec<usize>> = HashMap::new();
            for (at, name) in self.names.iter().enumerate() {
                stems(name).into_iter().for_each(|stem| near.entry(stem).or_default().push(at));
            }
            near
        });
        // Of many that are as near, some do.
        let found = stems(name).into_iter().filter_map(|stem| near.get(&stem)).flat_map(|all| all.iter().take(8));
        nearest(name, found.map(|at| self.names[*at]))
    }

    /// A name that names nothing: with the nearest one that would.
    pub fn no_such(&self, code: &'static str, name: &str, node: &SpannedValue, why: &str) -> Problem {
        let what = self.what;
        let problem = Problem::error(code, format!("there is no {what} {name}")).because(why);
        match self.nearest(name) {
            Some(near) => {
                let text = node.text().unwrap_or(name).replacen(name, near, 1);
                problem.at(node.span, format!("did you mean {near}?")).mend(node.span, jovrik_toml::quoted(&text), near)
            }
            None if self.names.is_empty() => problem.at(node.span, format!("the rice has no {what} at all")),
            None if self.names.len() > MAX_LISTED_NAMES => {
                problem.at(node.span, format!("it is none of the {} {what}s of this rice", self.names.len()))
            }
            None => problem.at(node.span, format!("the {what}s are {}", in_words(&self.names))),
        }
    }
}

/// The rolls of a rice, each made when it is first asked for.
#[derive(Default)]
pub(super) struct Rolls<'r> {
    workspaces: OnceCell<NameIndex<'r>>,
    layouts: OnceCell<NameIndex<'r>>,
    programs: OnceCell<NameIndex<'r>>,
    modules: OnceCell<NameIndex<'r>>,
    groups: OnceCell<NameIndex<'r>>,
    widgets: OnceCell<NameIndex<'r>>,
    bars: OnceCell<NameIndex<'r>>,
    modes: OnceCell<NameIndex<'r>>,
    scopes: OnceCell<NameIndex<'r>>,
    keyboards: OnceCell<NameIndex<'r>>,
    palettes: OnceCell<NameIndex<'r>>,
    lists: OnceCell<NameIndex<'r>>,
}

fn strs<'r>(names: impl IntoIterator<Item = &'r String>) -> impl Iterator<Item = &'r str> {
    names.into_iter().map(String::as_str)
}

impl<'r> Rolls<'r> {
    pub fn workspaces(&self, rice: &'r Rice) -> &NameIndex<'r> {
        let listed = rice.monitor.values().flat_map(|rule| &rule.workspaces);
        self.workspaces.get_or_init(|| NameIndex::of("workspace", strs(rice.workspaces.order.iter().chain(listed))))
    }

    pub fn layouts(&self, rice: &'r Rice) -> &NameIndex<'r> {
        self.layouts.get_or_init(|| {
            NameIndex::of("layout", strs(rice.layout.keys()).chain(LayoutKind::ALL.iter().map(|kind| kind.word())))
        })
    }

    pub fn palettes(&self, rice: &'r Rice) -> &NameIndex<'r> {
        self.palettes.get_or_init(|| NameIndex::of("palette", strs(rice.palette.all.keys())))
    }

    pub fn programs(&self, rice: &'r Rice) -> &NameIndex<'r> {
        self.programs.get_or_init(|| NameIndex::of("program", strs(rice.program.keys())))
    }

    pub fn modules(&self, rice: &'r Rice) -> &NameIndex<'r> {
        self.modules.get_or_init(|| NameIndex::of("module", strs(rice.module.keys())))
    }

    pub fn widgets(&self, rice: &'r Rice) -> &NameIndex<'r> {
        self.widgets.get_or_init(|| NameIndex::of("widget", strs(rice.widget.keys())))
    }

    pub fn groups(&self, rice: &'r Rice) -> &NameIndex<'r> {
        let groups = rice.module.iter().filter(|(_, module)| !module.group.is_empty());
        self.groups.get_or_init(|| NameIndex::of("module with a group", strs(groups.map(|(name, _)| name))))
    }

    pub fn bars(&self, rice: &'r Rice) -> &NameIndex<'r> {
        self.bars.get_or_init(|| NameIndex::of("bar", strs(rice.bar.keys())))
    }

    pub fn modes(&self, rice: &'r Rice) -> &NameIndex<'r> {
        self.modes.get_or_init(|| NameIndex::of("mode", strs(rice.keys.desk.modes.keys())))
    }

    pub fn scopes(&self, rice: &'r Rice) -> &NameIndex<'r> {
        self.scopes.get_or_init(|| NameIndex::of("scope", strs(rice.scope.keys())))
    }

    pub fn lists(&self, rice: &'r Rice) -> &NameIndex<'r> {
        let known = rice.launcher.own.keys().map(String::as_str).chain(BUILT_IN_LISTS);
        self.lists.get_or_init(|| NameIndex::of("list", known))
    }

    pub fn keyboards(&self, rice: &'r Rice) -> &NameIndex<'r> {
        self.keyboards.get_or_init(|| NameIndex::of("keyboard layout", strs(&rice.keyboard.layouts)))
    }
}
