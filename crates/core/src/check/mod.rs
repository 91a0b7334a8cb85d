//! From files to a checked rice: every problem of every file, in one pass.

mod bar;
mod capability_use;
mod danger;
mod desk;
mod dock;
mod essential_bindings;
mod gathered_files;
mod greeting;
mod host_info;
mod incremental;
mod keys;
mod launcher_lists;
mod local_choice;
mod manifest;
mod monitor;
mod name_index;
mod needs;
mod overlay;
mod picture;
mod placed_files;
mod possible_values;
mod problem_filter;
mod program;
mod style;
mod typeface;
mod unimplemented;
mod widget;
mod window_rules;

use jovrik_toml::Outline;

use crate::desk::MonitorFacts;
pub use capability_use::{CapabilityUse, hides, possible_texts, reaching, reaching_of, seen, sensitive, summed};
pub use danger::{Occasion, dangers};
pub use local_choice::{FROM_PICTURE, LocalChoice};
pub use manifest::manifest_alone;
pub use needs::{ProgramUse, commands};
pub use overlay::{OverlayRemoval, OverlayStatus, overlay_alone};
pub use placed_files::{PlaceSourceError, PlaceTargetError, of_system};
pub use possible_values::Unclear;
pub use problem_filter::ProblemFilter;

pub use host_info::{HostInfo, OverlayHost, UnknownHost};

use std::rc::Rc;

use incremental::IncrementalMerge;

use crate::keys::{ExternalBindings, KeyboardLayouts, Scopes, UnknownLayout};
use crate::machine::Machine;
use crate::rice::{ExternalAction, Manifest, Rice, ScopeBindings};
use jovrik_schema::catalogue::Setting;
use jovrik_schema::{Branch, ConfigLayer, Merger, ReadCursor, SettingReader, Tree};
use jovrik_text::problem::{Problem, Severity};
use jovrik_text::{FileId, Source, Sources};
use jovrik_toml::steps;
use jovrik_toml::{SpannedValue, TomlValue, parse, value_of_words};

/// The files of a rice as they were found.
#[derive(Debug, Clone, Default)]
pub struct Files {
    /// `rice.toml`, if it could be read.
    pub manifest: Option<Source>,
    /// `parts/*.toml`, in name order.
    pub parts: Vec<Source>,
    /// `overlays/*.toml`, in name order.
    pub overlays: Vec<Source>,
    /// `machines/*.toml`, in name order.
    pub machines: Vec<Source>,
    /// `art/*.toml`, in name order: tables that settings name, such as the keys that a program binds by itself.
    pub art: Vec<Source>,
    /// What could not be read.
    pub problems: Vec<Problem>,
    /// Files that are no settings: path, and why they are not read.
    pub skipped: Vec<(String, &'static str)>,
}

impl Files {
    /// The files that a checked rice was read from.
    pub fn of(checked: &CheckedRice) -> Files {
        let unread = |problem: &&Problem| problem.code.starts_with("file/") && problem.file.is_some();
        let mut files = Files {
            problems: checked.problems.iter().filter(unread).cloned().collect(),
            skipped: checked.skipped.clone(),
            ..Files::default()
        };
        for (_, source) in checked.sources.iter() {
            match source.name.as_str() {
                "rice.toml" => files.manifest = Some(source.clone()),
                _ => files.add(source.clone()),
            }
        }
        files
    }

    /// All files that were read.
    pub fn sources_mut(&mut self) -> impl Iterator<Item = &mut Source> {
        self.manifest.iter_mut().chain(&mut self.parts).chain(&mut self.overlays).chain(&mut self.machines).chain(&mut self.art)
    }

    /// Adds a file where its folder puts it.
    pub fn add(&mut self, source: Source) {
        let list = match source.name.split('/').next() {
            Some("overlays") => &mut self.overlays,
            Some("machines") => &mut self.machines,
            Some("art") => &mut self.art,
            _ => &mut self.parts,
        };
        list.push(source);
        list.sort_by(|a, b| a.name.cmp(&b.name));
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
    /// Rules for windows.
    pub rules: usize,
    /// Modules.
    pub modules: usize,
}

/// A rice that was read and checked.
#[derive(Debug)]
pub struct CheckedRice {
    /// Its files.
    pub sources: Sources,
    /// Its manifest.
    pub manifest: Manifest,
    /// Its settings, with defaults where nothing stands or what stands was refused.
    pub rice: Rc<Rice>,
    /// Everything that reads the keyboard, and what is bound in it.
    pub scopes: Rc<Scopes>,
    /// The merged tree, with the place of every value.
    pub tree: Branch,
    /// Its overlays, in name order.
    pub overlays: Vec<OverlayStatus>,
    /// What overlays that hold took away.
    pub dropped: Vec<OverlayRemoval>,
    /// What was picked on this computer, and holds.
    pub choices: Vec<LocalChoice>,
    /// What was, and is over since the rice says something else.
    pub over: Vec<LocalChoice>,
    /// What becomes of it on its other machines, and with overlays that hold on none: where, and the settings there.
    pub elsewhere: Vec<(String, Rc<Rice>)>,
    /// Files that are no settings: path, and why they are not read.
    pub skipped: Vec<(String, &'static str)>,
    /// All problems, by file and line.
    pub problems: Vec<Problem>,
    /// Warnings that the manifest accepts.
    pub accepted: Vec<Problem>,
    /// How much was read.
    pub counts: Counts,
}

impl CheckedRice {
    /// The first step of the path that a problem stands at; nothing where that is no setting.
    pub fn table_of(&self, problem: &Problem) -> Option<String> {
        let span = problem.marks.first()?.span;
        let outline = self.sources.get(span.file)?.derived(Outline::of);
        let at = span.start as usize;
        let entry = outline.entries.iter().find(|entry| entry.bytes().contains(&at)).map(|entry| &entry.path);
        entry.or_else(|| outline.header_at(at).map(|header| &header.path))?.first().cloned()
    }

    /// What the rice itself says of a setting, as it is written, whatever was picked on this computer; nothing where it says
    /// nothing.
    pub fn said(&self, path: &str) -> String {
        local_choice::said(&self.tree, path)
    }

    /// How many problems are errors.
    pub fn errors(&self) -> usize {
        self.problems.iter().filter(|problem| problem.severity == Severity::Error).count()
    }

    /// How many are warnings.
    pub fn warnings(&self) -> usize {
        self.problems.len() - self.errors()
    }

    /// Whether the rice can be used on the computer in question.
    pub fn usable(&self) -> bool {
        !self.problems.iter().any(|problem| problem.severity == Severity::Error && problem.elsewhere.is_none())
    }

    /// The modifier that Lead stands for.
    pub fn lead(&self) -> jovrik_values::chord::Modifier {
        self.rice.keys.lead.0
    }
}

/// A rice with some of its overlays laid on.
struct MergedRice {
    tree: Branch,
    rice: Rc<Rice>,
    scopes: Rc<Scopes>,
    known: Rc<ExternalBindings>,
    dropped: Vec<OverlayRemoval>,
    choices: Vec<LocalChoice>,
    over: Vec<LocalChoice>,
    problems: Vec<Problem>,
}

/// What was parsed of a rice, to be laid with one set of overlays or another.
struct House<'a> {
    sources: &'a Sources,
    parts: Vec<Vec<(String, SpannedValue)>>,
    overlays: Vec<overlay::Overlay>,
    with: &'a [(String, String)],
    needs: &'a manifest::Lists,
    /// The tables of `art/` that settings name.
    art: Vec<(FileId, String)>,
    /// Who knows what keyboards make.
    around: &'a dyn HostInfo,
}

impl House<'_> {
    /// Lays the parts, the overlays `which`, and the values given by hand; every check that asks nothing of a computer.
    /// Of what was laid before with the first of these overlays, what the others do not touch stays, and is not told again.
    fn lay(&self, which: &[usize], before: Option<(&[usize], &MergedRice)>, choices: Vec<LocalChoice>) -> MergedRice {
        let tables = self.parts.iter().chain(which.iter().map(|at| &self.overlays[*at].table));
        let lead = lead_of(tables, self.with);
        let goes_on = |(laid, before): &(&[usize], &MergedRice)| {
            let alike = self.with.is_empty() && before.choices.is_empty() && choices.is_empty();
            which.starts_with(laid) && alike && before.rice.keys.lead.0.word() == lead
        };
        let before = before.filter(goes_on);
        let mut merger = Merger::new(self.sources, &lead);
        let mut dropped = Vec::new();
        match before {
            Some((_, laid)) => (merger.tree, dropped) = (laid.tree.clone(), laid.dropped.clone()),
            None => self.parts.iter().for_each(|table| merger.lay(table.clone(), Rice::CATALOGUE, ConfigLayer::Parts)),
        }
        let first = before.map_or(0, |(laid, _)| laid.len());
        for (nth, at) in which.iter().enumerate().skip(first) {
            self.overlays[*at].lay(&mut merger, ConfigLayer::Overlay(nth as u16), &mut dropped);
        }
        let (choices, over) = local_choice::lay(choices, &mut merger);
        for (path, value) in self.with {
            merger.lay(nested(&steps(path), value_of_words(value)), Rice::CATALOGUE, ConfigLayer::With);
        }
        let mut problems = std::mem::take(&mut merger.problems);
        let tree = Tree::Branch(std::mem::take(&mut merger.tree));
        let nothing = Branch::default();
        let mut reader = SettingReader::new(self.sources, tree.branch().unwrap_or(&nothing), Rice::CATALOGUE, &lead);
        let again = before.map(|(_, laid)| {
            let overlays: Vec<_> = which[first..].iter().map(|at| &self.overlays[*at]).collect();
            IncrementalMerge::new(laid, &overlays, tree.branch().unwrap_or(&nothing))
        });
        let rice = match &again {
            Some(again) => again.read(&mut reader, &tree),
            None => Rice::read(&mut reader, &ReadCursor::top(&tree)),
        };
        problems.append(&mut reader.problems);
        let tree = match tree {
            Tree::Branch(tree) => tree,
            Tree::Leaf(_) => nothing,
        };
        let rice = Rc::new(rice);
        let same_keys = again.as_ref().filter(|again| again.same_keys(&tree));
        let (known, scopes) = match same_keys {
            Some(again) => (again.laid.known.clone(), again.laid.scopes.clone()),
            None => {
                let known = Rc::new(self.known(&rice, &lead, &mut problems));
                let scopes = Rc::new(self.scopes(&rice, &tree, &known));
                (known, scopes)
            }
        };
        let (keyboards, missing) = keyboards_of(&rice, self.around);
        let looker = CheckContext {
            sources: self.sources,
            tree: &tree,
            rice: &rice,
            shared: &rice,
            scopes: &scopes,
            known: &known,
            keyboards: &keyboards,
            rolls: name_index::Rolls::default(),
        };
        if same_keys.is_none() {
            keys::check(&looker, &missing, &mut problems);
        }
        desk::check(&looker, &mut problems);
        window_rules::check(&looker, &mut problems);
        bar::check(&looker, &mut problems);
        style::check(&looker, &mut problems);
        monitor::check(&looker, &mut problems);
        needs::check(&looker, self.needs, &mut problems);
        launcher_lists::check(&looker, &mut problems);
        widget::check(&looker, &mut problems);
        dock::check(&looker, &mut problems);
        greeting::check(&looker, &mut problems);
        essential_bindings::check(&looker, &mut problems);
        unimplemented::check(&looker, &mut problems);
        MergedRice { rice, tree, dropped, choices, over, problems, scopes, known }
    }

    /// What programs bind by themselves, as far as the files that say so are there.
    fn known(&self, rice: &Rice, lead: &str, problems: &mut Vec<Problem>) -> ExternalBindings {
        let mut known = Vec::new();
        for (scope, path) in rice.scope.iter().filter_map(|(name, scope)| Some((name, scope.known.as_ref()?))) {
            let file = self.art.iter().find(|(_, name)| name == path).map(|(id, _)| *id);
            if let Some((id, source)) = file.and_then(|id| Some((id, self.sources.get(id)?))) {
                let entries = parse(id, source, problems);
                let (keys, _) =
                    jovrik_schema::read_table_with::<ScopeBindings<ExternalAction>>(self.sources, entries, lead, problems);
                known.push((scope.clone(), keys));
            }
        }
        known
    }

    fn scopes(&self, rice: &Rice, tree: &Branch, known: &ExternalBindings) -> Scopes {
        let place = |name: &String| {
            let node = &tree.get(&["scope", name, "prefix"])?.leaf()?.node;
            let written = node.text().unwrap_or_default().to_owned();
            Some((name.clone(), node.span, written))
        };
        let places: Vec<_> = rice.scope.keys().filter_map(place).collect();
        Scopes::of(rice, known).with_prefixes(&places)
    }

    /// The checks that ask something of a computer.
    fn meet(&self, laid: &MergedRice, around: &dyn HostInfo, measure: &dyn HostInfo, problems: &mut Vec<Problem>) {
        let keyboards = KeyboardLayouts::new(Vec::new(), false);
        let looker = laid.looker(self.sources, &keyboards);
        program::check(&looker, around, problems);
        typeface::check(&looker, around, problems);
        picture::check(&looker, around, problems);
        bar::room(&looker, around, measure, problems);
        greeting::art(&looker, around, problems);
        dock::entries(&looker, around, problems);
        widget::room(&looker, around, measure, problems);
    }
}

/// Reads and checks a rice. `with` are values laid over it: path and value as a person types them.
pub fn check(files: Files, with: &[(String, String)], around: &dyn HostInfo) -> CheckedRice {
    let mut sources = Sources::default();
    let mut problems = files.problems;
    let read_manifest = files.manifest.is_some();
    let manifest_file = sources.add(files.manifest.unwrap_or_else(|| Source::new("rice.toml", "")));
    let (manifest, lists) = manifest::read(&sources, manifest_file, read_manifest, &mut problems);
    let newer = manifest.rice.format.0 > crate::rice::FORMAT;
    let parts: Vec<FileId> = files.parts.into_iter().map(|part| sources.add(part)).collect();
    let overlays: Vec<FileId> = files.overlays.into_iter().map(|overlay| sources.add(overlay)).collect();
    let machines: Vec<FileId> = files.machines.into_iter().map(|machine| sources.add(machine)).collect();
    let art: Vec<(FileId, String)> = files
        .art
        .into_iter()
        .map(|table| {
            let name = table.name.clone();
            (sources.add(table), name)
        })
        .collect();
    let read = parts.len() + overlays.len() + machines.len() + usize::from(read_manifest);
    // A newer format may mean anything: nothing of it is judged by today's rules.
    let some = |ids: Vec<FileId>| if newer { Vec::new() } else { ids };
    let table = |id: FileId, problems: &mut Vec<Problem>| sources.get(id).map(|source| parse(id, source, problems));
    let parts: Vec<Vec<(String, SpannedValue)>> = some(parts).into_iter().filter_map(|id| table(id, &mut problems)).collect();
    let overlays: Vec<overlay::Overlay> =
        some(overlays).into_iter().filter_map(|id| overlay::read(&sources, id, &mut problems)).collect();
    let machines: Vec<Machine> =
        some(machines).into_iter().filter_map(|id| Machine::of_file(&sources, id, &mut problems)).collect();
    let named = |name: &str| sources_named(&parts, &overlays, with, name);
    let art: Vec<(FileId, String)> = art.into_iter().filter(|(_, name)| named(name)).collect();
    let house = House { sources: &sources, parts, overlays, with, needs: &lists, art, around };

    let which = overlay::holding(&house.overlays, around);
    let mut main = house.lay(&which, None, around.choices());
    problems.append(&mut main.problems);
    house.meet(&main, around, around, &mut problems);
    placed_files::check(&main.looker(&sources, &KeyboardLayouts::new(Vec::new(), false)), around, &mut problems);
    let mut elsewhere: Vec<(String, Rc<Rice>)> = Vec::new();
    let mut laid = vec![(which.clone(), main)];
    let one = |problem: &Problem| (problem.code, problem.title.clone(), problem.marks.first().map(|mark| mark.span));
    let mut told: std::collections::HashSet<_> = problems.iter().map(one).collect();
    let mut add = |found: Vec<Problem>, place: &str, problems: &mut Vec<Problem>| {
        for problem in found.into_iter().filter(|problem| told.insert(one(problem))) {
            problems.push(Problem { elsewhere: Some(place.to_owned()), ..problem });
        }
    };
    // The computer in question was asked itself.
    let here = around.hostname();
    // What a sample made up says nothing to a person who has computers of their own.
    let own = machines.iter().any(|machine| !machine.sample);
    let others = machines.iter().filter(|machine| around.elsewhere() && !(own && machine.sample));
    for machine in others.filter(|machine| here.as_ref().is_none_or(|here| machine.host != *here)) {
        let place = format!("on {}", machine.name());
        let which = overlay::holding(&house.overlays, machine);
        let at = laid.iter().position(|(other, _)| *other == which).unwrap_or_else(|| {
            let mut new = house.lay(&which, Some((&laid[0].0, &laid[0].1)), Vec::new());
            add(std::mem::take(&mut new.problems), &place, &mut problems);
            elsewhere.push((place.clone(), new.rice.clone()));
            laid.push((which, new));
            laid.len() - 1
        });
        let mut found = Vec::new();
        house.meet(&laid[at].1, machine, around, &mut found);
        if laid[at].1.rice.place != laid[0].1.rice.place {
            placed_files::check(&laid[at].1.looker(&sources, &KeyboardLayouts::new(Vec::new(), false)), around, &mut found);
        }
        add(found, &place, &mut problems);
    }
    // An overlay that holds on none of them is looked at by itself.
    for at in 0..house.overlays.len() {
        if !around.elsewhere() || laid.iter().any(|(which, _)| which.contains(&at)) {
            continue;
        }
        let name = sources.get(house.overlays[at].file).map_or("", |source| source.name.as_str());
        let place = format!("with {name}");
        let mut new = house.lay(&[at], Some((&laid[0].0, &laid[0].1)), Vec::new());
        add(std::mem::take(&mut new.problems), &place, &mut problems);
        elsewhere.push((place, new.rice));
    }
    let main = &laid[0].1;
    let rices: Vec<&Rice> = std::iter::once(&*main.rice).chain(elsewhere.iter().map(|(_, rice)| &**rice)).collect();
    if around.elsewhere() {
        needs::idle(&lists, &rices, &mut problems);
    }
    let keyboards = KeyboardLayouts::new(Vec::new(), false);
    let looker = main.looker(&sources, &keyboards);
    let names_one = |rice: &Rice| !rice.monitor.is_empty() || rice.bar.values().any(|bar| bar.monitor.0 != "*");
    if around.elsewhere() && names_one(&main.rice) {
        let machines = machines.iter().map(|machine| machine as &dyn HostInfo);
        let monitors = machines.chain([around]).filter_map(|around| around.monitors()).flatten();
        let mut known: Vec<MonitorFacts> = monitors.collect();
        known.sort_unstable_by(|a, b| a.name.cmp(&b.name));
        if !known.is_empty() {
            monitor::never(&looker, &known, &mut problems);
        }
    }
    let seen = overlay::seen(&house.overlays, &which, around);
    drop(house);
    let main = laid.swap_remove(0).1;

    let counts = Counts {
        files: read,
        settings: main.tree.entries.values().map(Tree::leaves).sum(),
        bindings: main.rice.keys.count(),
        rules: main.rice.rule.len(),
        modules: main.rice.module.len(),
    };
    let (problems, accepted) = gathered_files::gather(problems, &lists, &sources);
    let MergedRice { tree, rice, scopes, dropped, choices, over, .. } = main;
    CheckedRice {
        sources,
        manifest,
        rice,
        scopes,
        tree,
        overlays: seen,
        dropped,
        choices,
        over,
        elsewhere,
        skipped: files.skipped,
        problems,
        accepted,
        counts,
    }
}

/// The modifier that what is laid last makes the lead.
fn lead_of<'t>(tables: impl DoubleEndedIterator<Item = &'t Vec<(String, SpannedValue)>>, with: &[(String, String)]) -> String {
    let lead = |table: &Vec<(String, SpannedValue)>| {
        let keys = table.iter().filter(|(name, _)| name == "keys");
        let inner = keys.filter_map(|(_, node)| match &node.value {
            TomlValue::Table(entries) => Some(entries),
            _ => None,
        });
        inner.flatten().rfind(|(name, _)| name == "lead").and_then(|(_, node)| node.text().map(str::to_owned))
    };
    let given = with.iter().rfind(|(path, _)| path == "keys.lead").map(|(_, value)| value.trim_matches('"').to_owned());
    let known = |word: &String| jovrik_values::chord::Modifier::LEADS.contains(&word.as_str());
    given.or_else(|| tables.rev().find_map(lead)).filter(known).unwrap_or_else(|| "Super".to_owned())
}

fn nested(steps: &[String], node: SpannedValue) -> Vec<(String, SpannedValue)> {
    match steps {
        [] => Vec::new(),
        [last] => vec![(last.clone(), node)],
        [first, rest @ ..] => vec![(first.clone(), SpannedValue::built_in(TomlValue::Table(nested(rest, node))))],
    }
}

/// What a check looks at.
struct CheckContext<'a> {
    sources: &'a Sources,
    tree: &'a Branch,
    rice: &'a Rice,
    /// The same, for those who keep it.
    shared: &'a Rc<Rice>,
    scopes: &'a Scopes,
    known: &'a ExternalBindings,
    keyboards: &'a KeyboardLayouts,
    rolls: name_index::Rolls<'a>,
}

impl MergedRice {
    fn looker<'a>(&'a self, sources: &'a Sources, keyboards: &'a KeyboardLayouts) -> CheckContext<'a> {
        let (scopes, known) = (&self.scopes, &self.known);
        CheckContext {
            sources,
            tree: &self.tree,
            rice: &self.rice,
            shared: &self.rice,
            scopes,
            known,
            keyboards,
            rolls: name_index::Rolls::default(),
        }
    }
}

/// The keyboards that the bindings of a rice are held to; layouts that do not exist, where somebody can tell.
pub fn keyboards_of(rice: &Rice, around: &dyn HostInfo) -> (KeyboardLayouts, Vec<UnknownLayout>) {
    let (asked, latin) = (rice.layouts(), rice.keyboard.latin_first);
    around.keyboards(&asked, latin).unwrap_or_else(|| (KeyboardLayouts::built_in(&asked, latin).0, Vec::new()))
}

/// Whether a setting names a table of `art/`.
fn sources_named(
    parts: &[Vec<(String, SpannedValue)>],
    overlays: &[overlay::Overlay],
    with: &[(String, String)],
    file: &str,
) -> bool {
    let names = |table: &Vec<(String, SpannedValue)>| {
        let scopes = table.iter().filter(|(name, _)| name == "scope").filter_map(|(_, node)| node.entries());
        let scopes = scopes.flatten().filter_map(|(_, node)| node.entries()).flatten();
        scopes.filter(|(name, _)| name == "known").any(|(_, node)| node.text() == Some(file))
    };
    let given = with.iter().any(|(path, value)| path.ends_with(".known") && value.trim_matches('"') == file);
    given || parts.iter().chain(overlays.iter().map(|overlay| &overlay.table)).any(names)
}

impl CheckContext<'_> {
    /// The node at a path, if the rice sets it.
    fn node(&self, path: &[&str]) -> Option<&SpannedValue> {
        self.tree.get(path).and_then(Tree::leaf).map(|leaf| &leaf.node)
    }

    /// The elements of a list, each with its place.
    fn items(&self, path: &[&str]) -> Vec<(&str, &SpannedValue)> {
        match self.node(path).map(|node| &node.value) {
            Some(TomlValue::Array(items)) => items.iter().filter_map(|item| Some((item.text()?, item))).collect(),
            _ => Vec::new(),
        }
    }

    /// The node at a key of a table that is one value.
    fn inside<'n>(&self, node: &'n SpannedValue, key: &str) -> Option<&'n SpannedValue> {
        match &node.value {
            TomlValue::Table(entries) => entries.iter().find(|(name, _)| name == key).map(|(_, node)| node),
            _ => None,
        }
    }
}
