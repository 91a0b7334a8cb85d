//! A person's edit: one setting, in the file where it stands, every other byte the same.

use std::collections::{BTreeMap, HashMap};
use std::path::Path;
use std::rc::Rc;

use jovrik_core::change::{changes, in_short};
use jovrik_core::check::{Checked, Files, Surroundings, check, overlay_alone};
use jovrik_core::load::{
    Branch, FileId, Layer, Source, Sources, Tree, apply_edits, bare, comment_in, comment_out, element_in, element_out, insert,
    insert_item, remove, remove_headers, remove_item, replace, table_in, table_out, value_of_words,
};
use jovrik_core::problem::{Edit, count, in_words, nearest};
use jovrik_core::rice::Rice;
use jovrik_core::rice::catalogue::{Found, Shape, each, find, normal_steps, steps};

use crate::Error;
use crate::file::{Kept, resolved};
use crate::history::FileChange;

/// A set of edits that was checked and can be written.
#[derive(Debug)]
pub struct Planned {
    /// The new text of each file, by its path from the rice's folder.
    pub files: BTreeMap<String, String>,
    /// The rice before.
    pub before: Rc<Checked>,
    /// The rice after.
    pub after: Checked,
}

impl Planned {
    /// The files to write: each as it was read, and as it is to be.
    pub fn writes(&self, folder: &Path) -> Result<Vec<FileChange>, Error> {
        rewrites(folder, &self.before.sources, &self.files)
    }

    /// What it changes, in a few words: settings that hold here, else what is changed in the files.
    pub fn what(&self) -> String {
        let here = changes(&self.before.tree, &self.after.tree);
        if !here.is_empty() {
            return in_short(&here);
        }
        let one = |name: &String| format!("{name}: {}", self.within(name));
        self.files.keys().map(one).collect::<Vec<_>>().join(", ")
    }

    /// What is changed in one file, though it changes nothing that holds here.
    fn within(&self, name: &str) -> String {
        let alone = |checked: &Checked| {
            let file = checked.sources.named(name).filter(|_| name.starts_with("overlays/"));
            file.map(|file| overlay_alone(&checked.sources, file, checked.lead().word())).unwrap_or_default()
        };
        let changed = changes(&alone(&self.before), &alone(&self.after));
        if !changed.is_empty() {
            return in_short(&changed);
        }
        let text = |checked: &Checked| {
            let file = checked.sources.named(name).and_then(|file| checked.sources.get(file));
            file.map(|source| source.text.clone()).unwrap_or_default()
        };
        count(differing_lines(&text(&self.before), &text(&self.after)), "line")
    }
}

/// The files of a rice with new texts: what each was when it was read, and what it is to be.
pub fn rewrites(folder: &Path, sources: &Sources, texts: &BTreeMap<String, String>) -> Result<Vec<FileChange>, Error> {
    let one = |(name, text): (&String, &String)| {
        let old = sources.named(name).and_then(|file| sources.get(file)).map(|source| Kept::new(source.text.clone()));
        // A manifest that is not there is read as an empty one.
        let old = old.filter(|_| name != "rice.toml" || folder.join(name).exists());
        Ok(FileChange { path: resolved(&folder.join(name))?, old, new: Some(Kept::new(text.clone())), placed: None })
    };
    texts.iter().map(one).collect()
}

/// How many lines two texts differ in: those of the longer side that the other has not.
pub fn differing_lines(old: &str, new: &str) -> usize {
    let mut left: HashMap<&str, usize> = HashMap::new();
    old.lines().for_each(|line| *left.entry(line).or_default() += 1);
    let added = new.lines().filter(|line| left.get_mut(line).filter(|n| **n > 0).map(|n| *n -= 1).is_none()).count();
    added.max(left.values().sum())
}

/// The steps of a setting's path, with a chord normalised; an error names the nearest path.
pub fn setting_steps(path: &str, checked: &Checked) -> Result<(Vec<String>, Found), Error> {
    let steps = steps(path);
    let missing = |near: Option<String>| Error::NoSetting { path: path.to_owned(), near };
    let found = find(Rice::CATALOGUE, &steps).map_err(|_| {
        let mut known: Vec<String> = Vec::new();
        each(Rice::CATALOGUE, &mut |path, _| known.push(path.to_owned()));
        let leaves = checked.tree.entries.iter().flat_map(|(name, tree)| paths(name, tree));
        known.extend(leaves);
        known.retain(|known| !known.contains("NAME"));
        missing(nearest(path, known.iter().map(String::as_str)).map(str::to_owned))
    })?;
    // A chord is found however it is spelled.
    Ok((normal_steps(Rice::CATALOGUE, &steps, checked.lead().word()), found))
}

fn paths(name: &str, tree: &Tree) -> Vec<String> {
    match tree {
        Tree::Leaf(_) => vec![bare(name)],
        Tree::Branch(branch) => branch
            .entries
            .iter()
            .flat_map(|(inner, tree)| paths(inner, tree))
            .map(|path| format!("{}.{path}", bare(name)))
            .collect(),
    }
}

/// An overlay to write into: its file, what it sets by itself, and its text when it is not there yet.
struct Into {
    file: FileId,
    source: Source,
    alone: Branch,
}

/// The overlay of a name; one for a host that the rice knows is begun when it is not there.
fn overlay_of(name: &str, checked: &Checked, around: &dyn Surroundings) -> Result<Into, Error> {
    let file = format!("overlays/{name}.toml");
    if let Some((id, source)) = checked.sources.named(&file).and_then(|id| Some((id, checked.sources.get(id)?))) {
        let alone = overlay_alone(&checked.sources, id, checked.lead().word());
        return Ok(Into { file: id, source: source.clone(), alone });
    }
    let plain = !name.is_empty() && name.bytes().all(|b| b.is_ascii_alphanumeric() || matches!(b, b'-' | b'_'));
    let known = around.host().as_deref() == Some(name) || checked.sources.named(&format!("machines/{name}.toml")).is_some();
    if plain && known {
        let text = format!("# Only on {name}.\n\n[overlay]\nwhen = {{ host = \"{name}\" }}\n");
        return Ok(Into { file: FileId::BUILT_IN, source: Source::new(file, text), alone: Branch::default() });
    }
    let there: Vec<&str> = checked.sources.iter().filter_map(|(_, source)| source.name.strip_prefix("overlays/")).collect();
    let there: Vec<&str> = there.iter().map(|name| name.trim_end_matches(".toml")).collect();
    let list = if there.is_empty() { "the rice has none".to_owned() } else { format!("there is {}", in_words(&there)) };
    Err(Error::Place(format!("there is no overlay {name}; {list}, and one for a host is begun when machines/ has that host")))
}

/// Plans `set PATH VALUE`: in the file where it stands, else where its neighbours stand; or in an overlay.
pub fn set(
    files: impl Fn() -> Files,
    path: &str,
    value: &str,
    overlay: Option<&str>,
    around: &dyn Surroundings,
) -> Result<Planned, Error> {
    let before = Rc::new(check(files(), &[], around));
    let (steps, found) = setting_steps(path, &before)?;
    if before.problems.iter().any(|problem| problem.code == "file/newer-format") {
        return Err(Error::Refused(before));
    }
    let kind = match found.shape() {
        Shape::One(kind) => kind,
        Shape::Table(_) | Shape::Named(..) => return Err(Error::Place(format!("{path} is a table; name one of its settings"))),
    };
    let node = value_of_words(value);
    // What looks like a number may be meant as a text: the type of the setting decides.
    let text = if kind.name == "text" && node.text().is_none() { jovrik_core::load::quoted(value) } else { node.to_toml() };
    if let Some(name) = overlay {
        let into = overlay_of(name, &before, around)?;
        let edit = match into.alone.get(&steps) {
            Some(Tree::Leaf(leaf)) => replace(&into.source, &leaf.node, &text),
            _ => insert(into.file, &into.source, &person_steps(&steps, path), &text),
        };
        return finish(before, vec![edit], Some(into.source), around);
    }
    let edit = match before.tree.get(&steps) {
        Some(Tree::Leaf(leaf)) => before.sources.get(leaf.node.span.file).map(|source| replace(source, &leaf.node, &text)),
        _ => None,
    };
    let (home, edit) = match edit {
        Some(edit) => (None, edit),
        None => {
            let (file, source) = neighbour(&before, &steps);
            let written_steps = person_steps(&steps, path);
            let edit = insert(file, &source, &written_steps, &text);
            (Some(source), edit)
        }
    };
    finish(before, vec![edit], home, around)
}

/// A change of a list's elements.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum ListEdit {
    /// Adds an element at the end, or before the one with a number, from 0.
    Add(String, Option<usize>),
    /// Takes an element out.
    Take(String),
}

/// Plans a change of a list: in the file where it stands; a list that only its default makes is written with the change.
pub fn list(
    files: impl Fn() -> Files,
    path: &str,
    change: &ListEdit,
    overlay: Option<&str>,
    around: &dyn Surroundings,
) -> Result<Planned, Error> {
    let before = Rc::new(check(files(), &[], around));
    let (steps, found) = setting_steps(path, &before)?;
    let default = match found {
        Found::Field(field) if matches!(field.shape, Shape::One(kind) if kind.name == "list") => field.default.unwrap_or("[]"),
        _ => return Err(Error::Place(format!("{path} is no list"))),
    };
    let element = |text: &String| match value_of_words(text) {
        node if node.text().is_some() => node,
        other if matches!(other.value, jovrik_core::load::Value::Table(_) | jovrik_core::load::Value::List(_)) => other,
        _ => jovrik_core::load::Node::built_in(jovrik_core::load::Value::Text(text.clone())),
    };
    let into = overlay.map(|name| overlay_of(name, &before, around)).transpose()?;
    let written = match &into {
        Some(into) => into.alone.get(&steps),
        None => before.tree.get(&steps),
    };
    let node = match written {
        Some(Tree::Leaf(leaf)) if leaf.node.span.written() => leaf.node.clone(),
        _ => {
            let items = match (change, default) {
                (ListEdit::Add(text, _), "[]") if into.is_none() => format!("[{}]", element(text).to_toml()),
                (ListEdit::Add(text, _), _) => format!("[\"...\", {}]", element(text).to_toml()),
                (ListEdit::Take(text), _) => return Err(Error::Place(format!("{text} is not in {path} of this rice"))),
            };
            return set(files, path, &items, overlay, around);
        }
    };
    let source = before.sources.get(node.span.file).cloned().unwrap_or_else(|| Source::new("", ""));
    // Where `"..."` stands the merged list is longer than what is written: edits are of what is written.
    let written = jovrik_core::load::node_at(&source, node.span).unwrap_or(node);
    let edit = match change {
        ListEdit::Add(text, place) => insert_item(&source, &written, *place, &element(text).to_toml()),
        ListEdit::Take(text) => {
            let wanted = element(text);
            let which = match &written.value {
                jovrik_core::load::Value::List(items) => items.iter().position(|item| item.same(&wanted)),
                _ => None,
            };
            let which = which
                .ok_or_else(|| Error::Place(format!("{text} is not in {path}, at {}", before.sources.place(written.span))))?;
            remove_item(&source, &written, which)
        }
    };
    let edit = edit.ok_or_else(|| Error::Place(format!("{path} is no list")))?;
    finish(before, vec![edit], None, around)
}

/// Plans `toggle PATH [ELEMENT]`: a truth value is turned, anything else is commented out, or in where it is commented
/// out; with an element: that one of a list.
pub fn toggle(files: impl Fn() -> Files, path: &str, element: Option<&str>, around: &dyn Surroundings) -> Result<Planned, Error> {
    let before = Rc::new(check(files(), &[], around));
    let (steps, found) = setting_steps(path, &before)?;
    let tree = before.tree.get(&steps);
    if let Some(element) = element {
        let edits = toggle_element(&before, path, tree, element)?;
        return finish(before, edits, None, around);
    }
    if let Some(Tree::Leaf(leaf)) = tree {
        if let jovrik_core::load::Value::Truth(truth) = leaf.node.value {
            return set(files, path, if truth { "false" } else { "true" }, None, around);
        }
        let source = before.sources.get(leaf.node.span.file);
        let edits = source.and_then(|source| comment_out(source, &leaf.node)).ok_or_else(|| {
            let place = before.sources.place(leaf.node.span);
            Error::Place(format!("{path} stands in one line with others, at {place}; jovrik reset {path} takes it out"))
        })?;
        return finish(before, edits, None, around);
    }
    let sources = settings_files(&before);
    if matches!(found.shape(), Shape::One(_)) {
        let lead = before.lead().word();
        if let Some(edits) = sources.iter().find_map(|(id, source)| comment_in(*id, source, &steps, lead)) {
            return finish(before, edits, None, around);
        }
        return match found {
            Found::Field(field) if matches!(field.default, Some("true" | "false")) => {
                set(files, path, if field.default == Some("true") { "false" } else { "true" }, None, around)
            }
            _ => Err(Error::Place(format!("{path} is not set, and not commented out; jovrik set {path} VALUE sets it"))),
        };
    }
    let mut edits: Vec<Edit> = Vec::new();
    match tree {
        Some(tree) => {
            edits.extend(sources.iter().flat_map(|(id, source)| table_out(*id, source, &steps)));
            if edits.is_empty() {
                // Made of dotted keys, or written in one line.
                leaves_out(tree, &before, &mut edits);
            }
        }
        None => edits.extend(sources.iter().flat_map(|(id, source)| table_in(*id, source, &steps))),
    }
    if edits.is_empty() {
        return Err(Error::Place(format!("{path} is not set, and not commented out")));
    }
    finish(before, edits, None, around)
}

/// The files whose settings are laid here: the parts, and the overlays that hold.
fn settings_files(checked: &Checked) -> Vec<(FileId, &Source)> {
    let laid = |id: FileId| checked.overlays.iter().any(|overlay| overlay.file == id && overlay.holds.is_ok());
    checked.sources.iter().filter(|(id, source)| source.name.starts_with("parts/") || laid(*id)).collect()
}

fn leaves_out(tree: &Tree, checked: &Checked, edits: &mut Vec<Edit>) {
    match tree {
        Tree::Leaf(leaf) => {
            let source = checked.sources.get(leaf.node.span.file);
            edits.extend(source.and_then(|source| comment_out(source, &leaf.node)).into_iter().flatten());
        }
        Tree::Branch(branch) => branch.entries.values().for_each(|tree| leaves_out(tree, checked, edits)),
    }
}

fn toggle_element(checked: &Checked, path: &str, tree: Option<&Tree>, element: &str) -> Result<Vec<Edit>, Error> {
    let leaf = tree.and_then(Tree::leaf).filter(|leaf| leaf.node.span.written());
    let leaf = leaf.ok_or_else(|| Error::Place(format!("{path} is no list that this rice sets")))?;
    let source = checked.sources.get(leaf.node.span.file).cloned().unwrap_or_else(|| Source::new("", ""));
    let list = jovrik_core::load::node_at(&source, leaf.node.span).unwrap_or_else(|| leaf.node.clone());
    let jovrik_core::load::Value::List(items) = &list.value else {
        return Err(Error::Place(format!("{path} is no list")));
    };
    let place = checked.sources.place(list.span);
    match items.iter().position(|item| item.text() == Some(element)) {
        Some(which) => element_out(&source, &list, which)
            .ok_or_else(|| Error::Place(format!("{path} stands in one line with others, at {place}"))),
        None => element_in(&source, &list, element).ok_or_else(|| {
            Error::Place(format!(
                "{element} is not in {path}, nor commented out there, at {place}; jovrik set {path}+={element} adds it"
            ))
        }),
    }
}

/// The steps as the person spelled them: a chord stays as it was typed.
fn person_steps(normal: &[String], path: &str) -> Vec<String> {
    let typed = steps(path);
    if typed.len() == normal.len() { typed } else { normal.to_vec() }
}

/// The file where the neighbours of a path stand; a new one when it has none.
fn neighbour(checked: &Checked, steps: &[String]) -> (FileId, Source) {
    for depth in (1..steps.len()).rev() {
        let Some(tree) = checked.tree.get(&steps[..depth]) else { continue };
        let mut file = None;
        last_file(tree, &mut file);
        if let Some((id, source)) = file.and_then(|id: FileId| Some((id, checked.sources.get(id)?))) {
            return (id, source.clone());
        }
    }
    let name = format!("parts/{}.toml", steps.first().map_or("more", String::as_str));
    match checked.sources.named(&name) {
        Some(id) => (id, checked.sources.get(id).cloned().unwrap_or_else(|| Source::new(name, ""))),
        None => (FileId::BUILT_IN, Source::new(name, "")),
    }
}

/// The last of the parts that says something there: what an overlay lays on is meant for some computers only.
fn last_file(tree: &Tree, file: &mut Option<FileId>) {
    match tree {
        Tree::Leaf(leaf) => {
            let chain = std::iter::once((leaf.layer, &leaf.node)).chain(leaf.over.iter().map(|(layer, node)| (*layer, node)));
            let part = chain.filter(|(layer, _)| *layer == Layer::Parts).map(|(_, node)| node.span).find(|span| span.written());
            *file = part.map(|span| span.file).or(*file);
        }
        Tree::Branch(branch) => branch.entries.values().for_each(|tree| last_file(tree, file)),
    }
}

/// Plans `reset PATH`: every line that sets it is taken out.
pub fn reset(files: impl Fn() -> Files, path: &str, around: &dyn Surroundings) -> Result<Planned, Error> {
    let before = Rc::new(check(files(), &[], around));
    let (steps, _) = setting_steps(path, &before)?;
    let Some(tree) = before.tree.get(&steps) else { return Err(Error::NotSet(path.to_owned())) };
    let mut edits = Vec::new();
    gather(tree, &before, &mut edits);
    if tree.branch().is_some() {
        // A header alone would still name a bar, or something to start.
        edits.extend(settings_files(&before).into_iter().flat_map(|(id, source)| remove_headers(id, source, &steps)));
    }
    if edits.is_empty() {
        return Err(Error::NotSet(path.to_owned()));
    }
    finish(before, edits, None, around)
}

fn gather(tree: &Tree, checked: &Checked, edits: &mut Vec<Edit>) {
    match tree {
        Tree::Leaf(leaf) => {
            let nodes = std::iter::once(&leaf.node).chain(leaf.over.iter().map(|(_, node)| node));
            edits.extend(nodes.filter_map(|node| Some(remove(checked.sources.get(node.span.file)?, node))));
        }
        Tree::Branch(branch) => branch.entries.values().for_each(|tree| gather(tree, checked, edits)),
    }
}

/// Plans edits that the check itself proposes, such as those of `--fix` and `keys settle`.
pub fn edits(before: Rc<Checked>, edits: Vec<Edit>, around: &dyn Surroundings) -> Result<Planned, Error> {
    finish(before, edits, None, around)
}

fn finish(before: Rc<Checked>, edits: Vec<Edit>, new_file: Option<Source>, around: &dyn Surroundings) -> Result<Planned, Error> {
    let mut by_file: BTreeMap<FileId, Vec<Edit>> = BTreeMap::new();
    for edit in edits {
        by_file.entry(edit.span.file).or_default().push(edit);
    }
    let mut changed = BTreeMap::new();
    for (file, edits) in by_file {
        let source = before.sources.get(file).or(new_file.as_ref().filter(|_| file == FileId::BUILT_IN));
        if let Some(source) = source {
            changed.insert(source.name.clone(), apply_edits(&source.text, &edits));
        }
    }
    let mut trial = Files::of(&before);
    for source in trial.sources_mut() {
        if let Some(text) = changed.get(&source.name) {
            *source = Source::new(source.name.clone(), text.clone());
        }
    }
    let added = changed.iter().filter(|(name, _)| before.sources.named(name).is_none());
    for (name, text) in added {
        trial.add(Source::new(name.clone(), text.clone()));
    }
    let after = check(trial, &[], around);
    let known: Vec<(&str, &str)> = before.problems.iter().map(|problem| (problem.code, problem.title.as_str())).collect();
    let worse = after.problems.iter().any(|problem| {
        problem.severity == jovrik_core::problem::Severity::Error && !known.contains(&(problem.code, problem.title.as_str()))
    });
    if worse {
        return Err(Error::Refused(Rc::new(after)));
    }
    Ok(Planned { files: changed, before, after })
}
