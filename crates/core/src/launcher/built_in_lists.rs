//! The lists that the desktop knows by itself: windows, programs, chords, and those of the rice.

use std::collections::HashMap;
use std::rc::Rc;

use indexmap::IndexSet;
use jovrik_values::action::Action;
use jovrik_values::chord::Chord;
use jovrik_values::{Icon, IconRef};

use super::entry::{EntryCommand, LauncherEntry, LauncherList};
use crate::desk::WindowId;
use crate::desktop::{DesktopView, ForeignToplevel};
use crate::keys::BindingTarget;
use crate::rice::{CustomEntry, LauncherCommand, Rice, launcher_keys};

/// The lists that every rice has.
pub const BUILT_IN_LISTS: [&str; 8] = ["apps", "programs", "commands", "windows", "chords", "notices", "pictures", "characters"];

/// The lists of a rice: its own, then those that are built in.
pub fn lists(rice: &Rice) -> Vec<&str> {
    let own = rice.launcher.own.keys().map(String::as_str).filter(|name| !BUILT_IN_LISTS.contains(name));
    own.chain(BUILT_IN_LISTS).collect()
}

/// The chord of the desk that opens each program, by the name of the program itself.
fn chords(world: &DesktopView<'_>) -> HashMap<String, String> {
    let rice = world.desk.rice();
    let mut chords = HashMap::new();
    for bound in world.hands.scopes().bound.iter().filter(|bound| bound.table == 0 && bound.holds) {
        let BindingTarget::Act(action) = &bound.what else { continue };
        for action in action.each() {
            let program = match action {
                Action::Open(name) | Action::Summon(name) => rice
                    .program
                    .get(name)
                    .and_then(|program| program.run.first())
                    .map(|run| run.rsplit('/').next().unwrap_or(run)),
                Action::Run(argv) => argv.first().map(String::as_str),
                _ => None,
            };
            if let Some(program) = program {
                chords.entry(program.to_owned()).or_insert_with(|| bound.written.clone());
            }
        }
    }
    chords
}

/// A list, where it is one that the desktop knows by itself.
pub fn gather(list: &str, world: &DesktopView<'_>) -> Option<Rc<LauncherList>> {
    let rice = world.desk.rice();
    let all = match list {
        "windows" => windows(world),
        "programs" => programs(world),
        "chords" => bindings(world),
        "notices" => told(world),
        _ if rice.launcher.own.contains_key(list) => {
            rice.launcher.own[list].iter().map(|(name, line)| own(list, name, line)).collect()
        }
        // One that is none is empty: a check has told of it.
        _ if !BUILT_IN_LISTS.contains(&list) => Vec::new(),
        _ => {
            let chords = chords(world);
            let outside = world.lists.get(list)?;
            if chords.is_empty() || outside.all.iter().all(|entry| entry.program.is_empty()) {
                return Some(outside.clone());
            }
            let with_chord = |entry: &LauncherEntry| match chords.get(&entry.program) {
                Some(chord) => LauncherEntry { note: chord.clone(), icon: icon(rice, entry), ..entry.clone() },
                None => LauncherEntry { icon: icon(rice, entry), ..entry.clone() },
            };
            outside.all.iter().map(with_chord).collect()
        }
    };
    Some(Rc::new(LauncherList::new(all)))
}

/// The drawing of a rice for a program, else that of the entry.
fn icon(rice: &Rice, entry: &LauncherEntry) -> IconRef {
    let own = rice.icon_of(&entry.program);
    if own == IconRef::Drawn(Icon::Window) { entry.icon.clone() } else { own }
}

fn own(list: &str, name: &str, line: &CustomEntry) -> LauncherEntry {
    let action = Action::parse(&line.r#do).unwrap_or_default();
    LauncherEntry {
        note: line.note.clone(),
        icon: line.icon.clone(),
        ..LauncherEntry::new(format!("{list}/{name}"), name, EntryCommand::Act(action))
    }
}

/// The windows, the one that had the focus before first.
fn windows(world: &DesktopView<'_>) -> Vec<LauncherEntry> {
    let desk = world.desk;
    let (focused, here) = (desk.focused(), desk.workspace());
    let others = (0..desk.workspaces.len()).filter(|at| *at != here);
    let by_focus = std::iter::once(here).chain(others).flat_map(|at| desk.workspaces[at].focus.iter().rev());
    let mut ids: IndexSet<WindowId> = by_focus.copied().filter(|id| Some(*id) != focused).collect();
    // Those that are out of sight, and the one that is in front already.
    ids.extend(desk.windows.keys().copied().filter(|id| Some(*id) != focused));
    ids.extend(focused);
    let one = |id: WindowId| {
        let window = desk.windows.get(&id)?;
        let facts = &window.facts;
        let name = if facts.title.is_empty() { facts.app_id.clone() } else { facts.title.clone() };
        let workspace = desk.workspaces.get(window.workspace).map(|workspace| workspace.name.clone());
        Some(LauncherEntry {
            note: workspace.unwrap_or_default(),
            words: facts.app_id.clone(),
            icon: world.icons().of(desk.rice(), facts),
            ..LauncherEntry::new(format!("windows/{}", facts.app_id), name, EntryCommand::Window(id))
        })
    };
    let own: Vec<LauncherEntry> = ids.into_iter().filter_map(one).collect();
    let other = |one: &ForeignToplevel| {
        let facts = &one.facts;
        let name = if facts.title.is_empty() { &facts.app_id } else { &facts.title };
        LauncherEntry {
            words: facts.app_id.clone(),
            icon: world.icons().of(desk.rice(), facts),
            ..LauncherEntry::new(format!("windows/{}", facts.app_id), name, EntryCommand::Window(one.id))
        }
    };
    own.into_iter().chain(world.neighbours.iter().map(other)).collect()
}

fn programs(world: &DesktopView<'_>) -> Vec<LauncherEntry> {
    let (rice, chords) = (world.desk.rice(), chords(world));
    let one = |(name, program): (&String, &crate::rice::Program)| {
        let run = program.run.first().map_or("", |run| run.rsplit('/').next().unwrap_or(run));
        LauncherEntry {
            note: chords.get(run).cloned().unwrap_or_else(|| program.run.join(" ")),
            words: program.run.join(" "),
            icon: rice.icon_of(program.app()),
            ..LauncherEntry::new(format!("programs/{name}"), name, EntryCommand::Act(Action::Open(name.clone())))
        }
    };
    rice.program.iter().map(one).collect()
}

/// What programs told, the latest first.
fn told(world: &DesktopView<'_>) -> Vec<LauncherEntry> {
    let one = |telling: &crate::desktop::Notification| LauncherEntry {
        note: telling.app.clone(),
        words: format!("{} {}", telling.app, telling.body),
        icon: telling.picture.clone().unwrap_or(IconRef::Drawn(Icon::Bell)),
        ..LauncherEntry::new(format!("notices/{}", telling.app), telling.title.clone(), EntryCommand::Told(telling.id))
    };
    world.told.0.iter().map(one).collect()
}

/// What is bound on the desk, by what it does.
fn bindings(world: &DesktopView<'_>) -> Vec<LauncherEntry> {
    let bound = world.hands.scopes().bound.iter().filter(|bound| bound.table == 0 && bound.holds && bound.lives());
    let one = |bound: &crate::keys::ScopedBinding| {
        let BindingTarget::Act(action) = &bound.what else { return None };
        let written = action.to_string();
        let name = bound.note.clone().unwrap_or_else(|| written.clone());
        Some(LauncherEntry {
            note: bound.written.clone(),
            words: format!("{written} {} {}", action.does(), bound.written),
            icon: IconRef::Drawn(Icon::Keyboard),
            ..LauncherEntry::new(format!("chords/{written}"), name, EntryCommand::Act(action.clone()))
        })
    };
    bound.filter_map(one).collect()
}

/// What a press does in the launcher of a rice: `same` says whether a chord is that press.
pub fn key_of(rice: &Rice, same: impl Fn(&Chord) -> bool) -> Option<LauncherCommand> {
    let own = rice.keys.launcher.plain.0.iter().map(|at| (&at.keys, at.binding.action));
    let built_in = launcher_keys().iter().map(|(keys, _, key)| (keys, *key));
    own.chain(built_in).find(|(keys, _)| matches!(keys.0.as_slice(), [chord] if same(chord))).map(|(_, key)| key)
}
