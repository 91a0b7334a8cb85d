//! What the shell is offered: commands and options by clap, paths, values and names by the catalogue and the rice.

use std::ffi::{OsStr, OsString};
use std::path::PathBuf;
use std::sync::OnceLock;

use clap_complete::engine::{ArgValueCompleter, CompletionCandidate};
use jovrik_core::check::CheckedRice;
use jovrik_core::rice::{Choice, Rice, actions, choices};
use jovrik_core::style::ELEMENTS;
use jovrik_home::rename::RenameKind;
use jovrik_leak_scan::LeakKind;
use jovrik_schema::catalogue::{SettingField, SettingShape, each, find};
use jovrik_schema::{Branch, Tree};
use jovrik_toml::{TomlValue, bare, path_of, steps};

use crate::context::Context;

/// The variable by which the shell's script asks.
pub const VARIABLE: &str = "JOVRIK_COMPLETE";

/// The words of the command line so far, without the quotes that shells leave on them.
static WORDS: OnceLock<Vec<String>> = OnceLock::new();

/// Answers the shell if it is the one that asks.
pub fn answer(arguments: &[OsString]) -> bool {
    let Some(shell) = std::env::var_os(VARIABLE) else { return false };
    let here = std::env::current_dir().ok();
    // These hand on what was typed; the others what it means.
    let typed = ["bash", "zsh", "fish"].iter().any(|own| shell == *own);
    let mut arguments = arguments.to_vec();
    let from = arguments.iter().position(|word| word == "--").map_or(arguments.len(), |at| at + 1);
    for word in arguments[from..].iter_mut().filter(|_| typed) {
        if let Some(text) = word.to_str() {
            *word = unquoted(text).into();
        }
    }
    let _ = WORDS.set(arguments[from..].iter().map(|word| word.to_string_lossy().into_owned()).collect());
    let env = clap_complete::CompleteEnv::with_factory(crate::run::command).var(VARIABLE).bin("jovrik").completer("jovrik");
    // What cannot be answered is not offered; the prompt of a person stays clean.
    env.try_complete(arguments, here.as_deref()).unwrap_or(true)
}

/// What a word means that is typed in a shell, also where its quotes are still open.
fn unquoted(typed: &str) -> String {
    let mut word = String::with_capacity(typed.len());
    let mut open = None;
    let mut chars = typed.chars();
    while let Some(c) = chars.next() {
        match (open, c) {
            (None, '"' | '\'') => open = Some(c),
            (Some(quote), c) if quote == c => open = None,
            (None | Some('"'), '\\') => word.extend(chars.next()),
            (_, c) => word.push(c),
        }
    }
    word
}

fn words() -> &'static [String] {
    WORDS.get().map_or(&[], Vec::as_slice)
}

/// A path as it is typed: quotes round a chord are for whoever began one; the shell would take them off.
fn spelled(path: &str, current: &OsStr) -> String {
    if current.to_string_lossy().contains('"') || !path.contains('"') {
        return path.to_owned();
    }
    let steps = steps(path);
    if steps.iter().any(|step| step.contains(['.', '"'])) { path.to_owned() } else { steps.join(".") }
}

/// Those of some paths that fit, as they are typed.
fn fitting_paths(all: Vec<(String, String)>, current: &OsStr) -> Vec<CompletionCandidate> {
    fitting(all.into_iter().map(|(path, gloss)| (spelled(&path, current), gloss)), current)
}

/// The word after an option.
fn given(option: &str) -> Option<String> {
    let words = words();
    let at = words.iter().position(|word| word == option)?;
    words.get(at + 1).cloned()
}

/// The rice that the command line is about.
fn checked() -> Option<CheckedRice> {
    Context::of_process(given("--rice").map(PathBuf::from), None, Vec::new()).ok()?.read().ok()
}

fn candidate(value: impl Into<OsString>, gloss: &str) -> CompletionCandidate {
    CompletionCandidate::new(value).help((!gloss.is_empty()).then(|| gloss.to_owned().into()))
}

fn fitting(all: impl IntoIterator<Item = (String, String)>, current: &OsStr) -> Vec<CompletionCandidate> {
    let current = current.to_string_lossy();
    let fits = all.into_iter().filter(|(value, _)| value.starts_with(&*current));
    fits.map(|(value, gloss)| candidate(value, &gloss)).collect()
}

fn of_choices(all: Vec<Choice>) -> impl Iterator<Item = (String, String)> {
    all.into_iter().map(|choice| (choice.value, choice.gloss))
}

/// All paths: those of the catalogue without a person's names, and those below the names that the rice has given.
fn all_paths(checked: Option<&CheckedRice>, tables: bool) -> Vec<(String, String)> {
    let mut all: Vec<(String, String)> = Vec::new();
    each(Rice::CATALOGUE, &mut |path, field: &'static SettingField| {
        let mut add = |path: String| {
            if !all.iter().any(|(own, _)| *own == path) {
                all.push((path, field.help.trim().to_owned()));
            }
        };
        if !path.contains("NAME") {
            add(path.to_owned());
            return;
        }
        if let Some(property) = path.strip_prefix("style.NAME.") {
            // Elements have names of ours.
            ELEMENTS.iter().for_each(|element| add(format!("style.{}.{property}", element.path)));
            return;
        }
        for steps in checked.map(|checked| checked.tree.along(path)).unwrap_or_default() {
            add(path_of(&steps));
        }
    });
    let Some(checked) = checked else { return all };
    // What is set below names, such as bindings and programs, and tables for the commands that take them.
    fn walk(branch: &Branch, path: &mut Vec<String>, checked: &CheckedRice, tables: bool, all: &mut Vec<(String, String)>) {
        for (name, tree) in &branch.entries {
            // A chord as its file spells it.
            let raw = tree.leaf().filter(|_| path.first().is_some_and(|part| part == "keys"));
            let raw =
                raw.map(|leaf| checked.sources.slice(leaf.node.key).trim_matches(['"', '\''])).filter(|raw| !raw.is_empty());
            path.push(raw.unwrap_or(name).to_owned());
            let full = path.iter().map(|step| bare(step)).collect::<Vec<_>>().join(".");
            let new = !all.iter().any(|(own, _)| *own == full);
            match tree {
                Tree::Leaf(leaf) if new => all.push((full, leaf.node.to_toml())),
                Tree::Leaf(_) => {}
                Tree::Branch(inner) => {
                    if tables {
                        all.push((full, "table".to_owned()));
                    }
                    walk(inner, path, checked, tables, all);
                }
            }
            path.pop();
        }
    }
    walk(&checked.tree, &mut Vec::new(), checked, tables, &mut all);
    all
}

fn kind_of(path: &str) -> Option<&'static jovrik_schema::catalogue::ValueType> {
    match find(Rice::CATALOGUE, &steps(path)).ok()?.shape() {
        SettingShape::One(kind) => Some(kind),
        SettingShape::Table(_) | SettingShape::Named(..) => None,
    }
}

fn values_of(path: &str, checked: &CheckedRice) -> Vec<(String, String)> {
    let Some(kind) = kind_of(path) else { return Vec::new() };
    match path {
        "type.text" | "type.mono" | "type.icon" => return facts_of("fonts", "font of this computer"),
        "keyboard.layouts" | "keys.must-work-on" => return layouts(),
        path if path.starts_with("style.") && path.ends_with(".font") => return facts_of("fonts", "font of this computer"),
        _ => {}
    }
    of_choices(choices(&steps(path), kind, &checked.rice)).collect()
}

/// What a list of this computer's facts holds.
fn facts_of(name: &str, gloss: &str) -> Vec<(String, String)> {
    let Ok(context) = Context::of_process(given("--rice").map(PathBuf::from), None, Vec::new()) else { return Vec::new() };
    let facts = context.this_computer().all_facts();
    let list = facts.into_iter().find(|(own, _)| own == name).map(|(_, node)| node.value);
    let Some(TomlValue::Array(items)) = list else { return Vec::new() };
    items.iter().filter_map(|item| Some((item.text()?.to_owned(), gloss.to_owned()))).collect()
}

/// The keyboard layouts that the XKB data list, with their names.
fn layouts() -> Vec<(String, String)> {
    let list =
        jovrik_home::xkb_root().and_then(|root| std::fs::read_to_string(root.join("rules/base.lst")).ok()).unwrap_or_default();
    let rows = list.lines().skip_while(|line| !line.starts_with("! layout")).skip(1).take_while(|line| !line.starts_with('!'));
    rows.filter_map(|line| line.trim().split_once(char::is_whitespace))
        .map(|(name, says)| (name.to_owned(), says.trim().to_owned()))
        .collect()
}

/// Paths of settings.
pub fn setting() -> ArgValueCompleter {
    ArgValueCompleter::new(|current: &OsStr| fitting_paths(all_paths(checked().as_ref(), false), current))
}

/// Paths of settings and of tables.
pub fn setting_or_table() -> ArgValueCompleter {
    ArgValueCompleter::new(|current: &OsStr| fitting_paths(all_paths(checked().as_ref(), true), current))
}

/// Paths for `set`; behind `+=` and `-=` the elements that a list can take or lose.
pub fn setting_to_set() -> ArgValueCompleter {
    ArgValueCompleter::new(|current: &OsStr| {
        let checked = checked();
        let text = current.to_string_lossy().into_owned();
        for (sign, adding) in [("+=", true), ("-=", false)] {
            let Some((path, _)) = text.split_once(sign) else { continue };
            let Some(checked) = &checked else { return Vec::new() };
            let there: Vec<String> = match checked.tree.get(&steps(path)).and_then(Tree::leaf).map(|leaf| &leaf.node.value) {
                Some(jovrik_toml::TomlValue::Array(items)) => {
                    items.iter().filter_map(|item| Some(item.text()?.to_owned())).collect()
                }
                _ => Vec::new(),
            };
            let all: Vec<(String, String)> = if adding {
                values_of(path, checked).into_iter().filter(|(value, _)| !there.contains(value)).collect()
            } else {
                there.into_iter().map(|value| (value, String::new())).collect()
            };
            return fitting(all.into_iter().map(|(value, gloss)| (format!("{path}{sign}{value}"), gloss)), current);
        }
        match text.split_once('=') {
            Some((path, _)) => valued(path, checked.as_ref(), current),
            None => fitting_paths(all_paths(checked.as_ref(), false), current),
        }
    })
}

/// `PATH=VALUE` for each value of a path.
fn valued(path: &str, checked: Option<&CheckedRice>, current: &OsStr) -> Vec<CompletionCandidate> {
    let values = checked.map(|checked| values_of(path, checked)).unwrap_or_default();
    fitting(values.into_iter().map(|(value, gloss)| (format!("{path}={value}"), gloss)), current)
}

/// Values for the path that stands before; where that has its own, another pair.
pub fn value() -> ArgValueCompleter {
    ArgValueCompleter::new(|current: &OsStr| {
        let path = words().iter().skip_while(|word| !matches!(word.as_str(), "set" | "toggle")).nth(1);
        let Some(path) = path else { return Vec::new() };
        if path.contains('=') {
            return pairs(current);
        }
        let Some(checked) = checked() else { return Vec::new() };
        fitting(values_of(path, &checked), current)
    })
}

fn pairs(current: &OsStr) -> Vec<CompletionCandidate> {
    let checked = checked();
    match current.to_string_lossy().split_once('=') {
        Some((path, _)) => valued(path, checked.as_ref(), current),
        None => {
            let all = all_paths(checked.as_ref(), false);
            fitting(all.into_iter().map(|(path, help)| (format!("{}=", spelled(&path, current)), help)), current)
        }
    }
}

/// `PATH=VALUE`.
pub fn pair() -> ArgValueCompleter {
    ArgValueCompleter::new(pairs)
}

/// What a rice has of the kind of thing that stands before.
pub fn thing() -> ArgValueCompleter {
    ArgValueCompleter::new(|current: &OsStr| {
        let kind = words().iter().skip_while(|word| *word != "rename").nth(1);
        let (Some(kind), Some(checked)) = (kind, checked()) else { return Vec::new() };
        let thing = RenameKind::ALL.into_iter().find(|(word, _)| word == kind).map(|(_, thing)| thing);
        let names = thing.map(|thing| thing.names(&checked.rice)).unwrap_or_default();
        fitting(names.into_iter().map(|name| (name.to_owned(), kind.clone())), current)
    })
}

/// The next word of an action.
pub fn action() -> ArgValueCompleter {
    ArgValueCompleter::new(|current: &OsStr| {
        let Some(checked) = checked() else { return Vec::new() };
        let said: Vec<&str> = words().iter().skip_while(|word| *word != "tell").skip(1).map(String::as_str).collect();
        // The word that is being typed is the last.
        let said = said.split_last().map_or(&[][..], |(_, said)| said);
        let mut all: Vec<(String, String)> = Vec::new();
        for choice in actions(&checked.rice) {
            let own: Vec<&str> = choice.value.split(' ').collect();
            if own.len() > said.len() && own.starts_with(said) {
                let word = own[said.len()].to_owned();
                if !all.iter().any(|(known, _)| *known == word) {
                    all.push((word, choice.gloss));
                }
            }
        }
        fitting(all, current)
    })
}

/// Names of files in a folder of the rice, without their ending.
fn in_folder(folder: &'static str, gloss: &'static str) -> ArgValueCompleter {
    ArgValueCompleter::new(move |current: &OsStr| {
        let Some(checked) = checked() else { return Vec::new() };
        let names = checked.sources.iter().filter_map(|(_, source)| source.name.strip_prefix(folder)?.strip_suffix(".toml"));
        fitting(names.map(|name| (name.to_owned(), gloss.to_owned())).collect::<Vec<_>>(), current)
    })
}

/// Machines of the rice.
pub fn machine() -> ArgValueCompleter {
    in_folder("machines/", "machine of the rice")
}

/// Overlays of the rice.
pub fn overlay() -> ArgValueCompleter {
    in_folder("overlays/", "overlay of the rice")
}

/// Names of a table of the rice.
fn named(names: fn(&Rice) -> Vec<String>, gloss: &'static str) -> ArgValueCompleter {
    ArgValueCompleter::new(move |current: &OsStr| {
        let names = checked().map(|checked| names(&checked.rice)).unwrap_or_default();
        fitting(names.into_iter().map(|name| (name, gloss.to_owned())).collect::<Vec<_>>(), current)
    })
}

/// Palettes of the rice.
pub fn palette() -> ArgValueCompleter {
    named(|rice| rice.palette.all.keys().cloned().collect(), "palette")
}

/// Modules of the rice.
pub fn module() -> ArgValueCompleter {
    named(|rice| rice.module.keys().cloned().collect(), "module")
}

/// Facts of the greeting.
pub fn fact() -> ArgValueCompleter {
    let all = |rice: &Rice| rice.module.keys().cloned().chain(jovrik_core::greeting::FACTS.map(str::to_owned)).collect();
    named(all, "fact")
}

/// Bars of the rice.
pub fn bar() -> ArgValueCompleter {
    named(|rice| rice.bar.keys().cloned().collect(), "bar")
}

/// Pages of grammar.
pub fn topic() -> ArgValueCompleter {
    ArgValueCompleter::new(|current: &OsStr| {
        let topics = jovrik_core::rice::TOPICS.iter().map(|topic| (topic.name.to_owned(), topic.about.to_owned()));
        fitting(topics.collect::<Vec<_>>(), current)
    })
}

/// Parts of a desktop.
pub fn part() -> ArgValueCompleter {
    ArgValueCompleter::new(|current: &OsStr| {
        let parts = Rice::CATALOGUE.fields.iter().map(|field| (field.name.to_owned(), field.help.trim().to_owned()));
        fitting(parts.collect::<Vec<_>>(), current)
    })
}

/// What the rice has of something, each with what it is.
fn of_rice(all: fn(&CheckedRice) -> Vec<(String, String)>) -> ArgValueCompleter {
    ArgValueCompleter::new(move |current: &OsStr| fitting(checked().map(|checked| all(&checked)).unwrap_or_default(), current))
}

fn with<'n>(names: impl IntoIterator<Item = &'n String>, gloss: &str) -> Vec<(String, String)> {
    names.into_iter().map(|name| (name.clone(), gloss.to_owned())).collect()
}

/// Readers of the keyboard.
pub fn scope() -> ArgValueCompleter {
    of_rice(|checked| {
        let own = [("desk".to_owned(), "the desk itself".to_owned()), ("launcher".to_owned(), "while it is open".to_owned())];
        own.into_iter().chain(with(checked.rice.scope.keys(), "scope of the rice")).collect()
    })
}

/// Modes of the keys.
pub fn mode() -> ArgValueCompleter {
    of_rice(|checked| {
        let modes = checked.rice.keys.desk.modes.keys();
        std::iter::once(("plain".to_owned(), "outside of any mode".to_owned())).chain(with(modes, "mode of the desk")).collect()
    })
}

/// Whole actions.
pub fn whole_action() -> ArgValueCompleter {
    of_rice(|checked| of_choices(actions(&checked.rice)).collect())
}

/// Keyboard layouts.
pub fn layout() -> ArgValueCompleter {
    ArgValueCompleter::new(|current: &OsStr| fitting(layouts(), current))
}

/// Parts that can be drawn by themselves.
pub fn look_part() -> ArgValueCompleter {
    of_rice(|checked| {
        let plain = ["desktop", "backdrop", "bar", "notices", "launcher", "menu", "hint", "sheet"];
        let mut all: Vec<(String, String)> = plain.map(|part| (part.to_owned(), String::new())).to_vec();
        all.extend(checked.rice.bar.keys().map(|name| (format!("bar.{}", bare(name)), "bar".to_owned())));
        all.extend(checked.rice.module.keys().map(|name| (format!("module.{}", bare(name)), "module".to_owned())));
        all
    })
}

/// States that a look can show beside the rice.
pub fn beside() -> ArgValueCompleter {
    of_rice(|checked| {
        let mut all = with(checked.rice.palette.all.keys(), "palette");
        let files = |folder: &'static str| {
            checked.sources.iter().filter_map(move |(_, source)| source.name.strip_prefix(folder)?.strip_suffix(".toml"))
        };
        all.extend(files("overlays/").map(|name| (name.to_owned(), "overlay".to_owned())));
        all.extend(files("machines/").map(|name| (name.to_owned(), "machine".to_owned())));
        all
    })
}

/// Workspaces of the rice.
pub fn workspace() -> ArgValueCompleter {
    named(|rice| rice.workspace_names().into_iter().map(str::to_owned).collect(), "workspace")
}

/// Lists of the launcher.
pub fn list() -> ArgValueCompleter {
    named(|rice| jovrik_core::launcher::lists(rice).into_iter().map(str::to_owned).collect(), "list")
}

/// What publishing can be told to accept.
pub fn shared() -> ArgValueCompleter {
    ArgValueCompleter::new(|current: &OsStr| {
        let kinds = [LeakKind::Secret, LeakKind::Home, LeakKind::Place, LeakKind::Address, LeakKind::Name];
        fitting(kinds.map(|kind| (kind.code().to_owned(), "all of this kind; :FILE:LINE for one".to_owned())), current)
    })
}

/// Files that the rice places.
pub fn placed() -> ArgValueCompleter {
    of_rice(|checked| with(checked.rice.place.0.keys(), "placed by the rice"))
}
