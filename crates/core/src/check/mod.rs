//! From files to a checked rice: every problem of every file, in one pass.

mod bar;
mod desk;
mod keys;
mod manifest;
mod program;
mod share;

pub use share::{Person, share};

use std::rc::Rc;

use crate::load::{At, Branch, FileId, Layer, Merger, Node, Reader, Source, Sources, Tree, Value, parse, value_of_words};
use crate::problem::{Problem, Severity};
use crate::rice::catalogue::{Setting, steps};
use crate::rice::{Manifest, Rice};

/// The files of a rice as they were found.
#[derive(Debug, Default)]
pub struct Files {
    /// `rice.toml`, if it could be read.
    pub manifest: Option<Source>,
    /// `parts/*.toml`, in name order.
    pub parts: Vec<Source>,
    /// What could not be read.
    pub problems: Vec<Problem>,
}

/// What the core must ask of the computer.
pub trait Surroundings {
    /// Whether a program is there; `None` when nobody knows.
    fn has_program(&self, name: &str) -> Option<bool>;
}

/// A computer of which nothing is known.
#[derive(Debug, Clone, Copy)]
pub struct Nowhere;

impl Surroundings for Nowhere {
    fn has_program(&self, _: &str) -> Option<bool> {
        None
    }
}

/// How much was read.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, serde::Serialize)]
pub struct Counts {
    /// Files.
    pub files: usize,
    /// Settings that the rice sets.
    pub settings: usize,
    /// Bindings.
    pub bindings: usize,
    /// Modules.
    pub modules: usize,
}

/// A rice that was read and checked.
#[derive(Debug)]
pub struct Checked {
    /// Its files.
    pub sources: Sources,
    /// Its manifest.
    pub manifest: Manifest,
    /// Its settings, with defaults where nothing stands or what stands was refused.
    pub rice: Rc<Rice>,
    /// The merged tree, with the place of every value.
    pub tree: Branch,
    /// All problems, by file and line.
    pub problems: Vec<Problem>,
    /// Warnings that the manifest accepts.
    pub accepted: usize,
    /// How much was read.
    pub counts: Counts,
}

impl Checked {
    /// How many problems are errors.
    pub fn errors(&self) -> usize {
        self.problems.iter().filter(|problem| problem.severity == Severity::Error).count()
    }

    /// How many are warnings.
    pub fn warnings(&self) -> usize {
        self.problems.len() - self.errors()
    }

    /// Whether the rice can be used.
    pub fn usable(&self) -> bool {
        self.errors() == 0
    }

    /// The modifier that Lead stands for.
    pub fn lead(&self) -> crate::keys::Modifier {
        self.rice.keys.lead.0
    }
}

/// Reads and checks a rice. `with` are values laid over it: path and value as a person types them.
pub fn check(files: Files, with: &[(String, String)], around: &dyn Surroundings) -> Checked {
    let mut sources = Sources::default();
    let mut problems = files.problems;
    let read_manifest = files.manifest.is_some();
    let manifest_file = sources.add(files.manifest.unwrap_or_else(|| Source::new("rice.toml", "")));
    let (manifest, allowed) = manifest::read(&sources, manifest_file, read_manifest, &mut problems);
    let newer = manifest.rice.format.0 > crate::rice::FORMAT;
    let ids: Vec<FileId> = files.parts.into_iter().map(|part| sources.add(part)).collect();
    let mut counts = Counts { files: ids.len() + usize::from(read_manifest), ..Counts::default() };

    let mut tables = Vec::new();
    // A newer format may mean anything: nothing of it is judged by today's rules.
    if !newer {
        for id in &ids {
            if let Some(source) = sources.get(*id) {
                tables.push(parse(*id, source, &mut problems));
            }
        }
    }
    let lead = lead_of(&tables);
    let mut merger = Merger::new(&sources, &lead);
    for table in tables {
        merger.lay(table, Rice::CATALOGUE, Layer::Parts);
    }
    for (path, value) in with {
        merger.lay(nested(&steps(path), value_of_words(value)), Rice::CATALOGUE, Layer::With);
    }
    problems.append(&mut merger.problems);
    let tree = Tree::Branch(std::mem::take(&mut merger.tree));
    let nothing = Branch::default();
    let branch = tree.branch().unwrap_or(&nothing);
    let mut reader = Reader::new(&sources, branch, Rice::CATALOGUE, &lead);
    let rice = Rice::read(&mut reader, &At::top(&tree));
    problems.append(&mut reader.problems);

    counts.bindings = rice.keys.desk.0.len();
    counts.modules = rice.module.len();
    counts.settings = tree.leaves();
    if !newer {
        let looker = Looker { sources: &sources, tree: branch, rice: &rice };
        keys::check(&looker, &mut problems);
        desk::check(&looker, &mut problems);
        bar::check(&looker, &mut problems);
        program::check(&looker, around, &mut problems);
    }
    drop_echoes(&sources, &mut problems);
    // Whether a program is there is a matter of the computer, not of the rice.
    let unused =
        allowed.iter().filter(|(code, _)| !code.starts_with("program/") && problems.iter().all(|problem| problem.code != code));
    let unused: Vec<Problem> = unused.map(|(code, span)| unused_allow(code, *span)).collect();
    let before = problems.len();
    problems
        .retain(|problem| problem.severity == Severity::Error || !manifest.check.allow.iter().any(|code| code == problem.code));
    let accepted = before - problems.len();
    problems.extend(unused);
    problems.sort_by_key(|problem| (problem.marks.first().map(|mark| mark.span), problem.code));
    let Tree::Branch(tree) = tree else { return Checked::empty(sources, manifest, rice, problems) };
    Checked { sources, manifest, rice: Rc::new(rice), tree, problems, accepted, counts }
}

/// A code that a rice accepts and that no longer occurs.
fn unused_allow(code: &str, span: crate::load::Span) -> Problem {
    Problem::warning("check/unused-allow", format!("nothing here is {code} any more"))
        .at(span, "no longer needed")
        .because("Left in, it would hide the next one.")
        .advise("delete it", "in [check] of rice.toml")
}

/// Where TOML could not be read, what was made of the rest of the line says nothing; after a header that could not be
/// read, the same holds up to the next header.
fn drop_echoes(sources: &Sources, problems: &mut Vec<Problem>) {
    let doubtful = |problem: &Problem| {
        let span = problem.marks.first().filter(|_| problem.code == "file/not-toml" && problem.marks.len() == 1)?.span;
        let text = &sources.get(span.file)?.text;
        let start = text[..span.start as usize].rfind('\n').map_or(0, |at| at + 1);
        let next = if text[start..].trim_start().starts_with('[') { "\n[" } else { "\n" };
        let end = text[span.end as usize..].find(next).map_or(text.len(), |at| span.end as usize + at);
        Some((span.file, start as u32..=end as u32))
    };
    let doubtful: Vec<_> = problems.iter().filter_map(doubtful).collect();
    problems.retain(|problem| {
        let Some(span) = problem.marks.first().map(|mark| mark.span).filter(|_| problem.code != "file/not-toml") else {
            return true;
        };
        !doubtful.iter().any(|(file, bytes)| *file == span.file && bytes.contains(&span.start))
    });
}

impl Checked {
    fn empty(sources: Sources, manifest: Manifest, rice: Rice, problems: Vec<Problem>) -> Self {
        Self { sources, manifest, rice: Rc::new(rice), tree: Branch::default(), problems, accepted: 0, counts: Counts::default() }
    }
}

/// The modifier that the last file to say so makes the lead.
fn lead_of(tables: &[Vec<(String, Node)>]) -> String {
    let lead = |table: &Vec<(String, Node)>| {
        let keys = table.iter().filter(|(name, _)| name == "keys");
        let inner = keys.filter_map(|(_, node)| match &node.value {
            Value::Table(entries) => Some(entries),
            _ => None,
        });
        inner.flatten().rfind(|(name, _)| name == "lead").and_then(|(_, node)| node.text().map(str::to_owned))
    };
    let known = |word: &String| crate::keys::Modifier::LEADS.contains(&word.as_str());
    tables.iter().rev().find_map(lead).filter(known).unwrap_or_else(|| "Super".to_owned())
}

fn nested(steps: &[String], node: Node) -> Vec<(String, Node)> {
    match steps {
        [] => Vec::new(),
        [last] => vec![(last.clone(), node)],
        [first, rest @ ..] => vec![(first.clone(), Node::built_in(Value::Table(nested(rest, node))))],
    }
}

/// What a check looks at.
struct Looker<'a> {
    sources: &'a Sources,
    tree: &'a Branch,
    rice: &'a Rice,
}

impl Looker<'_> {
    /// The node at a path, if the rice sets it.
    fn node(&self, path: &[&str]) -> Option<&Node> {
        self.tree.get(path).and_then(Tree::leaf).map(|leaf| &leaf.node)
    }

    /// The elements of a list, each with its place.
    fn items(&self, path: &[&str]) -> Vec<(&str, &Node)> {
        match self.node(path).map(|node| &node.value) {
            Some(Value::List(items)) => items.iter().filter_map(|item| Some((item.text()?, item))).collect(),
            _ => Vec::new(),
        }
    }

    /// The node at a key of a table that is one value.
    fn inside<'n>(&self, node: &'n Node, key: &str) -> Option<&'n Node> {
        match &node.value {
            Value::Table(entries) => entries.iter().find(|(name, _)| name == key).map(|(_, node)| node),
            _ => None,
        }
    }
}

/// A name in a rice that names nothing: with the nearest one that would.
fn no_such(code: &'static str, what: &str, name: &str, node: &Node, known: &[&str], why: &str) -> Problem {
    let problem = Problem::error(code, format!("there is no {what} {name}")).because(why);
    match crate::problem::nearest(name, known.iter().copied()) {
        Some(near) => {
            let text = node.text().unwrap_or(name).replacen(name, near, 1);
            problem.at(node.span, format!("did you mean {near}?")).mend(node.span, crate::load::quoted(&text), near)
        }
        None if known.is_empty() => problem.at(node.span, format!("the rice has no {what} at all")),
        None => problem.at(node.span, format!("the {what}s are {}", crate::problem::in_words(known))),
    }
}
