//! A person's edit: one setting, in the file where it stands, every other byte the same.

use std::rc::Rc;

use jovrik_core::check::{CheckedRice, Files, HostInfo, check, overlay_alone};
use jovrik_core::rice::{Manifest, Rice};
use jovrik_schema::catalogue::{
    CatalogueMatch, InlineField, SettingShape, SettingTable, ValueType, each, find, near_path, normal_steps,
};
use jovrik_schema::{Branch, ConfigLayer, Tree};
use jovrik_text::problem::{Edit, Problem, in_words, nearest};
use jovrik_text::trade_words::key_of;
use jovrik_text::{FileId, Source, Span};
use jovrik_toml::{
    Outline, SpannedValue, TomlValue, bare, comment_in, comment_out, element_in, element_out, insert, insert_item, node_at,
    path_of, quoted, remove, remove_item, remove_table, replace, steps, table_in, table_out, value_of_words,
};
use jovrik_values::chord::ChordError;

use crate::Error;
use crate::edit_plan::{EditPlan, FileTexts, MANIFEST, finish, is_newer, judge, rewritten, with_texts};

/// The rice that is to be edited; one in a newer format is edited by nobody.
fn begun(files: Files, around: &dyn HostInfo) -> Result<Rc<CheckedRice>, Error> {
    let before = Rc::new(check(files, &[], around));
    if is_newer(&before) { Err(Error::Refused(before)) } else { Ok(before) }
}

/// The steps of a setting's path, with a chord normalised; an error names the nearest path.
pub fn setting_steps(path: &str, checked: &CheckedRice) -> Result<(Vec<String>, CatalogueMatch), Error> {
    let steps = steps(path);
    let missing = |near: Option<String>| Error::NoSetting { path: path.to_owned(), near };
    let found = find(Rice::CATALOGUE, &steps).map_err(|_| {
        if let Some((field, whole)) = steps.split_last()
            && let Ok(found) = find(Rice::CATALOGUE, whole)
            && let SettingShape::One(kind) = found.shape()
            && let Some(field) = field_meant(kind, field)
        {
            return Error::FieldOf { field: field.name.to_owned(), whole: path_of(whole) };
        }
        let mut known: Vec<String> = Vec::new();
        each(Rice::CATALOGUE, &mut |path, _| known.push(path.to_owned()));
        let leaves = checked.tree.entries.iter().flat_map(|(name, tree)| paths(name, tree));
        known.extend(leaves);
        known.retain(|known| !known.contains("NAME"));
        // A chord as others spell it.
        let chord = || {
            let mut meant = steps.clone();
            let last = meant.last_mut()?;
            *last = jovrik_values::chord::meant(last, checked.lead().word())?;
            find(Rice::CATALOGUE, &meant).is_ok().then(|| path_of(&meant))
        };
        // A program of the rice, by its name alone.
        if let [word] = steps.as_slice()
            && checked.rice.program.contains_key(word)
        {
            return missing(Some(format!("program.{}", bare(word))));
        }
        // A table alone is meant by whoever names one.
        let deep = |near: &String| near.contains('.') || steps.len() == 1;
        let near = near_path(Rice::CATALOGUE, &steps).filter(deep).or_else(chord);
        let near = near.or_else(|| nearest(path, known.iter().map(String::as_str)).map(str::to_owned));
        if let [keys, .., chord] = steps.as_slice()
            && keys == "keys"
            && !near.as_ref().is_some_and(|near| known.contains(near) && near.eq_ignore_ascii_case(path))
            && let Err(spelling @ ChordError::Capital { .. }) =
                jovrik_values::chord::ChordSequence::parse(chord, checked.lead().word())
        {
            let problem = spelling.problem(chord, Span::BUILT_IN, "");
            let ways = problem.advice.iter().map(|advice| advice.write.clone());
            let ways = ways.chain(problem.fix.map(|fix| fix.writes)).collect();
            return Error::Chord { title: problem.title, ways };
        }
        missing(near)
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
fn overlay_of(name: &str, checked: &CheckedRice, around: &dyn HostInfo) -> Result<Into, Error> {
    let file = format!("overlays/{name}.toml");
    if let Some((id, source)) = checked.sources.named(&file).and_then(|id| Some((id, checked.sources.get(id)?))) {
        let alone = overlay_alone(&checked.sources, id, checked.lead().word());
        return Ok(Into { file: id, source: source.clone(), alone });
    }
    let plain = !name.is_empty() && name.bytes().all(|b| b.is_ascii_alphanumeric() || matches!(b, b'-' | b'_'));
    let known = around.hostname().as_deref() == Some(name) || checked.sources.named(&format!("machines/{name}.toml")).is_some();
    if plain && known {
        let text = format!("# Only on {name}.\n\n[overlay]\nwhen = {{ host = \"{name}\" }}\n");
        return Ok(Into { file: FileId::BUILT_IN, source: Source::new(file, text), alone: Branch::default() });
    }
    let there: Vec<&str> = checked.sources.iter().filter_map(|(_, source)| source.name.strip_prefix("overlays/")).collect();
    let there: Vec<&str> = there.iter().map(|name| name.trim_end_matches(".toml")).collect();
    let list = if there.is_empty() { "the rice has none".to_owned() } else { format!("there is {}", in_words(&there)) };
    Err(Error::Place(format!("there is no overlay {name}; {list}, and one for a host is begun when machines/ has that host")))
}

/// The node of the manifest at a path, if it is written there.
fn manifest_node(checked: &CheckedRice, steps: &[String]) -> Option<SpannedValue> {
    let source = checked.sources.get(MANIFEST)?;
    let entry = source.derived(Outline::of).entries.iter().find(|entry| !entry.listed && entry.path == steps)?;
    let span = Span { file: MANIFEST, start: entry.value.start as u32, end: entry.value.end as u32 };
    node_at(source, span)
}

/// The steps of a path of the manifest, if it is one.
fn manifest_steps(path: &str) -> Option<(Vec<String>, CatalogueMatch)> {
    let steps = steps(path);
    let of_manifest = steps.len() > 1 && Manifest::CATALOGUE.field(&steps[0]).is_some();
    let found = find(Manifest::CATALOGUE, &steps).ok().filter(|_| of_manifest)?;
    Some((steps, found))
}

/// The edits that give a setting a value: in the file where it stands, else where its neighbours stand; or in an overlay.
/// With the text of the file, where that is not there yet.
fn assign(
    now: &CheckedRice,
    path: &str,
    value: &str,
    overlay: Option<&str>,
    around: &dyn HostInfo,
) -> Result<(Vec<Edit>, Option<Source>), Error> {
    let manifest = manifest_steps(path);
    let of_manifest = manifest.is_some();
    let (steps, found) = match manifest.map_or_else(|| setting_steps(path, now), Ok) {
        Err(Error::FieldOf { field, whole }) => return assign_field(now, &field, &whole, value, overlay, around),
        other => other?,
    };
    let kind = match found.shape() {
        SettingShape::One(kind) => kind,
        SettingShape::Table(_) | SettingShape::Named(..) => {
            return Err(match meant_inside(now, &steps) {
                Some(near) => Error::NoSetting { path: path.to_owned(), near: Some(near) },
                None => Error::Place(format!("{path} is a table; name one of its settings")),
            });
        }
    };
    let node = value_of_words(value);
    // What looks like a number may be meant as a text: the type of the setting decides.
    let text = if kind.is_text() && node.text().is_none() { quoted(value) } else { node.to_toml() };
    if of_manifest {
        if overlay.is_some() {
            return Err(Error::Place(format!("{path} stands in rice.toml, which no overlay changes")));
        }
        let source = now.sources.get(MANIFEST).cloned().unwrap_or_else(|| Source::new("rice.toml", ""));
        return Ok(match manifest_node(now, &steps) {
            Some(node) => (vec![replace(&source, &node, &text)], None),
            None => (insert(MANIFEST, &source, &steps, &text), None),
        });
    }
    if let Some(name) = overlay {
        let into = overlay_of(name, now, around)?;
        let edits = match into.alone.get(&steps) {
            Some(Tree::Leaf(leaf)) => vec![replace(&into.source, &leaf.node, &text)],
            _ => insert(into.file, &into.source, &person_steps(&steps, path), &text),
        };
        return Ok((edits, Some(into.source)));
    }
    if let Some(Tree::Leaf(leaf)) = now.tree.get(&steps)
        && let Some(source) = now.sources.get(leaf.node.span.file)
    {
        return Ok((vec![replace(source, &leaf.node, &text)], None));
    }
    let (file, source) = neighbour(now, &steps);
    Ok((insert(file, &source, &person_steps(&steps, path), &text), Some(source)))
}

/// The field of a table in one line that is meant by a name, also by a word of the trade.
fn field_meant(kind: &ValueType, name: &str) -> Option<&'static InlineField> {
    let names: Vec<&str> = kind.fields.iter().map(|field| field.name).collect();
    let name = key_of(name, &names).unwrap_or(name);
    kind.fields.iter().find(|field| field.name == name)
}

/// The edits that give a field of a table in one line a value: where it stands, else in the table, which is written anew.
fn assign_field(
    now: &CheckedRice,
    field: &str,
    whole: &str,
    value: &str,
    overlay: Option<&str>,
    around: &dyn HostInfo,
) -> Result<(Vec<Edit>, Option<Source>), Error> {
    let refused = || Error::FieldOf { field: field.to_owned(), whole: whole.to_owned() };
    let (steps, found) = setting_steps(whole, now)?;
    let SettingShape::One(kind) = found.shape() else { return Err(refused()) };
    let text_is_meant = field_meant(kind, field).is_some_and(|field| {
        let example = field.example();
        example.starts_with('"')
    });
    let node = match value_of_words(value) {
        node if text_is_meant && node.text().is_none() => SpannedValue::built_in(TomlValue::String(value.to_owned())),
        node => node,
    };
    let leaf = now.tree.get(&steps).and_then(Tree::leaf);
    let mut entries = match leaf.map(|leaf| &leaf.node.value) {
        None => Vec::new(),
        Some(TomlValue::Table(entries)) => entries.clone(),
        // One that is written shorter is written whole by whoever changes it.
        Some(_) => return Err(refused()),
    };
    match entries.iter_mut().find(|(name, _)| name == field) {
        Some((_, old)) if overlay.is_none() && old.span.written() => {
            let source = now.sources.get(old.span.file).ok_or_else(refused)?;
            return Ok((vec![replace(source, old, &node.to_toml())], None));
        }
        Some((_, old)) => *old = node,
        None => entries.push((field.to_owned(), node)),
    }
    assign(now, whole, &SpannedValue::built_in(TomlValue::Table(entries)).to_toml(), overlay, around)
}

/// What is meant where a setting, or a chord, stands in the place of a name: `bar.height` is `bar.top.thick`, and
/// `keys."Super+q"` is `keys.desk."Super+q"`.
fn meant_inside(now: &CheckedRice, steps: &[String]) -> Option<String> {
    let (last, table) = steps.split_last()?;
    if now.tree.get(steps).is_some() {
        return None;
    }
    if table == ["keys"] && jovrik_values::chord::ChordSequence::parse(last, now.lead().word()).is_ok() {
        return Some(path_of(&["keys".to_owned(), "desk".to_owned(), last.clone()]));
    }
    let inner = match find(Rice::CATALOGUE, table).ok()?.shape() {
        SettingShape::Named(_, SettingShape::Table(inner)) => inner,
        SettingShape::Table(SettingTable { rest: Some((_, SettingShape::Table(inner))), .. }) => inner,
        _ => return None,
    };
    let field = inner.field(last).or_else(|| inner.near(last).map(|(field, _)| field))?;
    let mut named = now.tree.get(table).and_then(Tree::branch)?.entries.iter();
    let (name, _) = named.find(|(_, tree)| tree.branch().is_some())?;
    Some(path_of(&[table, &[name.clone(), field.name.to_owned()]].concat()))
}

/// Plans `set PATH VALUE`.
pub fn set(
    files: impl Fn() -> Files,
    path: &str,
    value: &str,
    overlay: Option<&str>,
    around: &dyn HostInfo,
) -> Result<EditPlan, Error> {
    set_all(files, &[(path.to_owned(), value.to_owned())], overlay, around)
}

/// Plans several settings at once: only what comes of all of them is judged.
pub fn set_all(
    files: impl Fn() -> Files,
    pairs: &[(String, String)],
    overlay: Option<&str>,
    around: &dyn HostInfo,
) -> Result<EditPlan, Error> {
    let before = begun(files(), around)?;
    let mut texts = FileTexts::new();
    let mut now = before.clone();
    for (nth, (path, value)) in pairs.iter().enumerate() {
        let (edits, new_file) = assign(&now, path, value, overlay, around)?;
        texts.extend(rewritten(&now, edits, new_file.as_ref()));
        if nth + 1 < pairs.len() {
            now = Rc::new(check(with_texts(&before, &texts), &[], around));
        }
    }
    judge(before, texts, around)
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
    around: &dyn HostInfo,
) -> Result<EditPlan, Error> {
    let before = begun(files(), around)?;
    let manifest = manifest_steps(path);
    let of_manifest = manifest.is_some();
    let (steps, found) = manifest.map_or_else(|| setting_steps(path, &before), Ok)?;
    let default = match found {
        CatalogueMatch::Field(field) if matches!(field.shape, SettingShape::One(kind) if kind.is_list()) => {
            field.default.unwrap_or("[]")
        }
        _ => return Err(Error::Place(format!("{path} is no list"))),
    };
    let element = |text: &String| match value_of_words(text) {
        node if node.text().is_some() => node,
        other if matches!(other.value, TomlValue::Table(_) | TomlValue::Array(_)) => other,
        _ => SpannedValue::built_in(TomlValue::String(text.clone())),
    };
    let into = overlay.map(|name| overlay_of(name, &before, around)).transpose()?;
    let written = match &into {
        Some(into) => into.alone.get(&steps),
        None => before.tree.get(&steps),
    };
    let node = match written {
        _ if of_manifest => manifest_node(&before, &steps),
        Some(Tree::Leaf(leaf)) if leaf.node.span.written() => Some(leaf.node.clone()),
        _ => None,
    };
    let node = match node {
        Some(node) => node,
        None => {
            let items = match (change, default) {
                (ListEdit::Add(text, _), "[]") if into.is_none() || of_manifest => format!("[{}]", element(text).to_toml()),
                (ListEdit::Add(text, _), _) => format!("[\"...\", {}]", element(text).to_toml()),
                (ListEdit::Take(text), _) => return Err(Error::Place(format!("{text} is not in {path} of this rice"))),
            };
            return set(files, path, &items, overlay, around);
        }
    };
    let source = before.sources.get(node.span.file).cloned().unwrap_or_else(|| Source::new("", ""));
    // Where `"..."` stands the merged list is longer than what is written: edits are of what is written.
    let written = node_at(&source, node.span).unwrap_or(node);
    let edits = match change {
        ListEdit::Add(text, place) => insert_item(&source, &written, *place, &element(text).to_toml()),
        ListEdit::Take(text) => {
            let wanted = element(text);
            let which = match &written.value {
                TomlValue::Array(items) => items.iter().position(|item| item.same(&wanted)),
                _ => None,
            };
            let which = which
                .ok_or_else(|| Error::Place(format!("{text} is not in {path}, at {}", before.sources.place(written.span))))?;
            remove_item(&source, &written, which).map(|edit| vec![edit])
        }
    };
    let edits = edits.ok_or_else(|| Error::Place(format!("{path} is no list")))?;
    finish(before, edits, None, around)
}

/// Plans `toggle PATH [ELEMENT]`: a truth value is turned, anything else is commented out, or in where it is commented
/// out; with an element: that one of a list.
pub fn toggle(files: impl Fn() -> Files, path: &str, element: Option<&str>, around: &dyn HostInfo) -> Result<EditPlan, Error> {
    let before = begun(files(), around)?;
    let (steps, found) = setting_steps(path, &before)?;
    let tree = before.tree.get(&steps);
    if let Some(element) = element {
        let edits = toggle_element(&before, path, tree, element)?;
        return finish(before, edits, None, around);
    }
    if let Some(Tree::Leaf(leaf)) = tree {
        if let TomlValue::Boolean(truth) = leaf.node.value {
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
    if matches!(found.shape(), SettingShape::One(_)) {
        let lead = before.lead().word();
        let normal = |steps: &[String]| normal_steps(Rice::CATALOGUE, steps, lead);
        if let Some(edits) = sources.iter().find_map(|(id, source)| comment_in(*id, source, &steps, &normal)) {
            return finish(before, edits, None, around);
        }
        return match found {
            CatalogueMatch::Field(field) if matches!(field.default, Some("true" | "false")) => {
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
                let place = before.sources.place(first_place(tree));
                return Err(Error::Place(format!(
                    "{path} stands in one line with others, at {place}; jovrik reset {path} takes it out"
                )));
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
fn settings_files(checked: &CheckedRice) -> Vec<(FileId, &Source)> {
    let laid = |id: FileId| checked.overlays.iter().any(|overlay| overlay.file == id && overlay.verdict.holds);
    checked.sources.iter().filter(|(id, source)| source.name.starts_with("parts/") || laid(*id)).collect()
}

/// Where the first of a table stands.
fn first_place(tree: &Tree) -> Span {
    match tree {
        Tree::Leaf(leaf) => leaf.node.span,
        Tree::Branch(branch) => branch.entries.values().next().map_or(Span::BUILT_IN, first_place),
    }
}

fn toggle_element(checked: &CheckedRice, path: &str, tree: Option<&Tree>, element: &str) -> Result<Vec<Edit>, Error> {
    let leaf = tree.and_then(Tree::leaf).filter(|leaf| leaf.node.span.written());
    let leaf = leaf.ok_or_else(|| Error::Place(format!("{path} is no list that this rice sets")))?;
    let source = checked.sources.get(leaf.node.span.file).cloned().unwrap_or_else(|| Source::new("", ""));
    let list = node_at(&source, leaf.node.span).unwrap_or_else(|| leaf.node.clone());
    let TomlValue::Array(items) = &list.value else {
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
fn neighbour(checked: &CheckedRice, steps: &[String]) -> (FileId, Source) {
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
            let part =
                chain.filter(|(layer, _)| *layer == ConfigLayer::Parts).map(|(_, node)| node.span).find(|span| span.written());
            *file = part.map(|span| span.file).or(*file);
        }
        Tree::Branch(branch) => branch.entries.values().for_each(|tree| last_file(tree, file)),
    }
}

/// Plans `reset PATH`: every line that sets it is taken out.
pub fn reset(files: impl Fn() -> Files, path: &str, around: &dyn HostInfo) -> Result<EditPlan, Error> {
    let before = begun(files(), around)?;
    let (steps, _) = setting_steps(path, &before)?;
    let Some(tree) = before.tree.get(&steps) else { return Err(Error::NotSet(path.to_owned())) };
    let edits: Vec<Edit> = match tree {
        Tree::Leaf(leaf) => {
            let nodes = std::iter::once(&leaf.node).chain(leaf.over.iter().map(|(_, node)| node));
            nodes.filter_map(|node| remove(before.sources.get(node.span.file)?, node)).collect()
        }
        // A header alone would still name a bar, or something to start.
        Tree::Branch(_) => {
            settings_files(&before).into_iter().flat_map(|(id, source)| remove_table(id, source, &steps)).collect()
        }
    };
    if edits.is_empty() {
        return Err(Error::NotSet(path.to_owned()));
    }
    finish(before, edits, None, around)
}

/// Plans edits that the check itself proposes, such as those of `--fix` and `keys settle`.
pub fn edits(before: Rc<CheckedRice>, edits: Vec<Edit>, around: &dyn HostInfo) -> Result<EditPlan, Error> {
    finish(before, edits, None, around)
}

/// Plans the corrections of problems, on top of some that were planned already: those that were made, and what comes of
/// all. Of two that would change the same bytes, the first is made.
pub fn fixes(
    before: Rc<CheckedRice>,
    planned: Option<&EditPlan>,
    problems: &[Problem],
    around: &dyn HostInfo,
) -> Result<(Vec<Problem>, EditPlan), Error> {
    let now = planned.map_or(&*before, |planned| &planned.after);
    let mut made = Vec::new();
    let mut edits: Vec<Edit> = Vec::new();
    for problem in problems {
        let Some(fix) = &problem.fix else { continue };
        let fresh = fix.edits.iter().all(|edit| {
            let apart = |other: &Edit| edit.span.end < other.span.start || other.span.end < edit.span.start;
            edit.span.written() && edits.iter().filter(|other| other.span.file == edit.span.file).all(apart)
        });
        if fresh {
            edits.extend(fix.edits.iter().cloned());
            made.push(problem.clone());
        }
    }
    let mut texts = planned.map(|planned| planned.files.clone()).unwrap_or_default();
    texts.extend(rewritten(now, edits, None));
    Ok((made, judge(before, texts, around)?))
}
