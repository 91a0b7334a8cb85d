//! One name for another, everywhere it is used: in headers and keys, lists, actions, references and styles, also in overlays
//! that do not hold here.

use std::rc::Rc;

use indexmap::IndexSet;
use jovrik_core::check::{CheckedRice, HostInfo};
use jovrik_core::rice::Rice;
use jovrik_schema::catalogue::{SettingShape, find, pattern_of};
use jovrik_text::problem::{Edit, in_words, nearest};
use jovrik_text::{FileId, Source, Span, shell_line, shell_words};
use jovrik_toml::{ByteRange, Outline, SpannedValue, TomlValue, bare, node_at, path_of, quoted, replace, steps};

use crate::Error;
use crate::edit_plan::{EditPlan, finish};

/// A kind of thing that a person names.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RenameKind {
    /// A workspace.
    Workspace,
    /// A module of a bar.
    Module,
    /// A program.
    Program,
    /// A palette.
    Palette,
    /// A layout.
    Layout,
    /// A mode of the desk.
    Mode,
}

impl RenameKind {
    /// All of them, by their words.
    pub const ALL: [(&'static str, RenameKind); 6] = [
        ("workspace", RenameKind::Workspace),
        ("module", RenameKind::Module),
        ("program", RenameKind::Program),
        ("palette", RenameKind::Palette),
        ("layout", RenameKind::Layout),
        ("mode", RenameKind::Mode),
    ];

    /// Its word.
    pub fn word(self) -> &'static str {
        Self::ALL.into_iter().find(|(_, thing)| *thing == self).map_or("", |(word, _)| word)
    }

    /// The tables whose names are such names.
    fn tables(self) -> &'static [&'static [&'static str]] {
        match self {
            RenameKind::Workspace => &[&["workspace"]],
            RenameKind::Module => &[&["module"], &["style", "bar", "module"]],
            RenameKind::Program => &[&["program"]],
            RenameKind::Palette => &[&["palette"]],
            RenameKind::Layout => &[&["layout"]],
            RenameKind::Mode => &[&["keys", "desk", "modes"]],
        }
    }

    /// The settings whose texts, or the texts of whose lists, are such names.
    fn settings(self) -> &'static [&'static str] {
        match self {
            RenameKind::Workspace => {
                &["workspaces.order", "monitor.NAME.workspaces", "start.NAME.workspace", "rule.NAME.set.workspace"]
            }
            RenameKind::Module => &["bar.NAME.start", "bar.NAME.middle", "bar.NAME.end", "module.NAME.group"],
            RenameKind::Program => &["start.NAME.open", "scope.NAME.inside"],
            RenameKind::Palette => &["palette.use"],
            RenameKind::Layout => &["workspaces.layouts", "workspace.NAME.layouts"],
            RenameKind::Mode => &[],
        }
    }

    /// Keys of inline tables that hold such names: the setting, and the key.
    fn inner(self) -> &'static [(&'static str, &'static str)] {
        match self {
            RenameKind::Workspace => &[("rule.NAME.match", "workspace")],
            RenameKind::Program => &[("rule.NAME.match", "program")],
            RenameKind::Module => &[("bar.NAME.sections", "show")],
            RenameKind::Palette | RenameKind::Layout | RenameKind::Mode => &[],
        }
    }

    /// The actions that name one.
    fn verbs(self) -> &'static [&'static str] {
        match self {
            RenameKind::Workspace => &["go", "send", "carry"],
            RenameKind::Module => &["fold"],
            RenameKind::Program => &["open", "summon"],
            RenameKind::Palette => &["palette"],
            RenameKind::Layout => &["layout"],
            RenameKind::Mode => &["mode"],
        }
    }

    /// The names that there are, each once.
    pub fn names(self, rice: &Rice) -> Vec<&str> {
        let all: Vec<&String> = match self {
            RenameKind::Workspace => {
                let listed = rice.monitor.values().flat_map(|rule| &rule.workspaces);
                rice.workspaces.order.iter().chain(listed).chain(rice.workspace.keys()).collect()
            }
            RenameKind::Module => rice.module.keys().collect(),
            RenameKind::Program => rice.program.keys().collect(),
            RenameKind::Palette => rice.palette.all.keys().collect(),
            RenameKind::Layout => rice.layout.keys().collect(),
            RenameKind::Mode => rice.keys.desk.modes.keys().collect(),
        };
        all.into_iter().map(String::as_str).collect::<IndexSet<_>>().into_iter().collect()
    }
}

/// A renaming that can be written.
#[derive(Debug)]
pub struct RenamePlan {
    /// The edits.
    pub planned: EditPlan,
    /// The places that change, in order.
    pub places: Vec<Span>,
}

struct Renaming<'a> {
    thing: RenameKind,
    old: &'a str,
    new: &'a str,
    edits: Vec<Edit>,
}

/// Plans to rename a thing.
pub fn rename(
    before: Rc<CheckedRice>,
    thing: RenameKind,
    old: &str,
    new: &str,
    around: &dyn HostInfo,
) -> Result<RenamePlan, Error> {
    let names = thing.names(&before.rice);
    let word = thing.word();
    if !names.contains(&old) {
        let hint = match nearest(old, names.iter().copied()) {
            Some(near) => format!("; did you mean {near}?"),
            None if names.is_empty() => String::new(),
            None => format!("; there is {}", in_words(&names)),
        };
        return Err(Error::Place(format!("the rice has no {word} {old}{hint}")));
    }
    if names.contains(&new) {
        return Err(Error::Place(format!("there is a {word} {new} already")));
    }
    let mut renaming = Renaming { thing, old, new, edits: Vec::new() };
    let settings = |name: &str| name.starts_with("parts/") || name.starts_with("overlays/");
    for (file, source) in before.sources.iter().filter(|(_, source)| settings(&source.name)) {
        renaming.file(file, source);
    }
    renaming.edits.sort_by_key(|edit| edit.span);
    renaming.edits.dedup();
    let places = renaming.edits.iter().map(|edit| edit.span).collect();
    Ok(RenamePlan { planned: finish(before, renaming.edits, None, around)?, places })
}

impl Renaming<'_> {
    fn file(&mut self, file: FileId, source: &Source) {
        let outline = source.derived(Outline::of);
        let span = |bytes: &ByteRange| Span { file, start: bytes.start as u32, end: bytes.end as u32 };
        for header in &outline.headers {
            self.keys(&header.path, &header.keys, &span);
        }
        for entry in outline.entries.iter().filter(|entry| !entry.listed) {
            self.keys(&entry.path, &entry.keys, &span);
            if let Some(node) = node_at(source, span(&entry.value)) {
                self.value(source, &entry.path, &node);
            }
        }
    }

    /// Keys that are the name: `keys` are the last steps of the path.
    fn keys(&mut self, path: &[String], keys: &[ByteRange], span: &dyn Fn(&ByteRange) -> Span) {
        let unwritten = path.len() - keys.len();
        for table in self.thing.tables() {
            let at = table.len();
            let fits = path.len() > at && path.iter().zip(*table).all(|(a, b)| a == b) && path[at] == self.old;
            if let Some(key) = at.checked_sub(unwritten).and_then(|at| keys.get(at)).filter(|_| fits) {
                self.edits.push(Edit { span: span(key), text: bare(self.new) });
            }
        }
    }

    fn value(&mut self, source: &Source, path: &[String], node: &SpannedValue) {
        self.references(source, node);
        if path == ["overlay", "drop"] {
            self.dropped(source, node);
        }
        let Ok(SettingShape::One(kind)) = find(Rice::CATALOGUE, path).map(|found| found.shape()) else { return };
        let pattern = pattern_of(Rice::CATALOGUE, path);
        if self.thing.settings().contains(&pattern.as_str()) {
            self.names(source, node);
        }
        for (setting, key) in self.thing.inner() {
            if *setting == pattern {
                self.inner(source, node, key);
            }
        }
        if matches!(kind.name, "binding" | "press" | "table of times" | "action") {
            self.actions(source, node);
        }
    }

    fn put(&mut self, source: &Source, node: &SpannedValue, text: &str) {
        self.edits.push(replace(source, node, &quoted(text)));
    }

    /// Texts that are the name.
    fn names(&mut self, source: &Source, node: &SpannedValue) {
        match &node.value {
            TomlValue::String(text) if text == self.old => self.put(source, node, self.new),
            TomlValue::Array(items) => items.iter().for_each(|item| self.names(source, item)),
            _ => {}
        }
    }

    fn inner(&mut self, source: &Source, node: &SpannedValue, key: &str) {
        match &node.value {
            TomlValue::Table(entries) => {
                entries.iter().filter(|(name, _)| name == key).for_each(|(_, node)| self.names(source, node));
            }
            TomlValue::Array(items) => items.iter().for_each(|item| self.inner(source, item, key)),
            _ => {}
        }
    }

    fn actions(&mut self, source: &Source, node: &SpannedValue) {
        match &node.value {
            TomlValue::String(text) => match shell_words(text).as_deref() {
                Some([verb, name]) if self.thing.verbs().contains(&verb.as_str()) && name == self.old => {
                    self.put(source, node, &shell_line(&[verb.as_str(), self.new]));
                }
                _ => {}
            },
            TomlValue::Array(items) => items.iter().for_each(|item| self.actions(source, item)),
            // What a note says is not what is done.
            TomlValue::Table(entries) => {
                let does = |name: &str| !matches!(name, "note" | "label" | "on");
                entries.iter().filter(|(name, _)| does(name)).for_each(|(_, node)| self.actions(source, node));
            }
            _ => {}
        }
    }

    /// The path of a setting with the other name, if it leads through the one.
    fn path(&self, path: &str) -> Option<String> {
        let mut steps = steps(path);
        let table = self.thing.tables().iter().find(|table| {
            steps.len() > table.len() && steps.iter().zip(**table).all(|(a, b)| a == b) && steps[table.len()] == self.old
        })?;
        steps[table.len()] = self.new.to_owned();
        Some(path_of(&steps))
    }

    /// `=module.tide.text`
    fn references(&mut self, source: &Source, node: &SpannedValue) {
        match &node.value {
            TomlValue::String(text) => {
                let target = text.strip_prefix('=').filter(|target| !target.starts_with('='));
                if let Some(path) = target.and_then(|target| self.path(target)) {
                    self.put(source, node, &format!("={path}"));
                }
            }
            TomlValue::Array(items) => items.iter().for_each(|item| self.references(source, item)),
            _ => {}
        }
    }

    /// What an overlay takes away, by its path.
    fn dropped(&mut self, source: &Source, node: &SpannedValue) {
        let TomlValue::Array(items) = &node.value else { return };
        for item in items {
            if let Some(path) = item.text().and_then(|text| self.path(text)) {
                self.put(source, item, &path);
            }
        }
    }
}
