//! What stands in the dock: what is kept, then what runs besides.

use jovrik_values::action::Action;
use jovrik_values::{Icon, IconRef};

use crate::desk::{WindowFacts, WindowId};
use crate::desktop::DesktopView;
use crate::launcher::{EntryCommand, LauncherEntry, names_of, plain};
use crate::rice::{Rice, SEPARATOR, WindowKind};

/// What something in the dock is.
#[derive(Debug, Clone, PartialEq)]
pub enum DockItemKind {
    /// A program of the rice, by its name there.
    Program(String),
    /// A desktop entry, by its id.
    Entry(String),
    /// An action.
    Act(Action),
    /// A program of which only windows are known.
    Windows,
    /// A line between two others.
    Separator,
}

/// Something that stands in the dock.
#[derive(Debug, Clone, PartialEq)]
pub struct DockItem {
    /// What it is.
    pub stands: DockItemKind,
    /// What it is kept by, or would be; nothing where it cannot be kept.
    pub keep: Option<String>,
    /// Which of those that are kept it is; nothing for what only runs.
    pub at: Option<usize>,
    /// What it is called.
    pub name: String,
    /// Its drawing.
    pub icon: IconRef,
    /// Its windows, in the order in which they appeared.
    pub windows: Vec<WindowId>,
    /// Whether one of them has the focus.
    pub active: bool,
    /// Whether one of them calls.
    pub urgent: bool,
    /// How much its program has told that nobody has dealt with.
    pub count: usize,
    /// What else can be done with it.
    pub more: Vec<(String, EntryCommand)>,
}

/// A window that counts: its app and instance in small letters.
struct DockWindow<'d> {
    id: WindowId,
    names: [String; 2],
    app: &'d str,
    facts: &'d WindowFacts,
    urgent: bool,
    taken: bool,
}

/// So much stands in a dock at most.
const MAX_DOCK_ITEMS: usize = 200;

fn item(stands: DockItemKind, keep: &str, name: &str, icon: IconRef) -> DockItem {
    DockItem {
        stands,
        keep: Some(keep.to_owned()),
        at: None,
        name: name.to_owned(),
        icon,
        windows: Vec::new(),
        active: false,
        urgent: false,
        count: 0,
        more: Vec::new(),
    }
}

/// The drawing of an app: what the rice has for it, else that of its desktop entry.
fn icon(rice: &Rice, app: &str, entry: Option<&LauncherEntry>) -> IconRef {
    let own = rice.icon_of(app);
    match entry.filter(|_| own == IconRef::Drawn(Icon::Window)) {
        Some(entry) => entry.icon.clone(),
        None => own,
    }
}

struct Gatherer<'w> {
    world: &'w DesktopView<'w>,
    entries: &'w [LauncherEntry],
    windows: Vec<DockWindow<'w>>,
}

impl<'w> Gatherer<'w> {
    fn rice(&self) -> &'w Rice {
        self.world.desk.rice()
    }

    /// The desktop entry whose windows, or whose program, are called so.
    fn entry_of(&self, name: &str) -> Option<&'w LauncherEntry> {
        self.entries.iter().find(|entry| names_of(entry).any(|own| own.eq_ignore_ascii_case(name)))
    }

    /// The window that has the focus.
    fn focused(&self) -> Option<WindowId> {
        focused(self.world)
    }

    /// Gives an item its windows, by the names that those have.
    fn furnish(&mut self, item: &mut DockItem, names: &[&str]) {
        let names: Vec<String> = names.iter().filter(|name| !name.is_empty()).map(|name| name.to_lowercase()).collect();
        let focused = self.focused();
        for window in self.windows.iter_mut().filter(|window| !window.taken) {
            if window.names.iter().any(|own| names.contains(own)) {
                window.taken = true;
                item.windows.push(window.id);
                item.active |= focused == Some(window.id);
                item.urgent |= window.urgent;
            }
        }
        let (told, waiting) = (self.world.told.0, self.world.waiting);
        let says = |app: &str| names.contains(&app.to_lowercase()) || app.eq_ignore_ascii_case(&item.name);
        item.count = told.iter().filter(|telling| waiting.contains(&telling.id) && says(&telling.app)).count();
    }

    fn kept(&mut self, name: &str) -> Option<DockItem> {
        let rice = self.rice();
        if name == SEPARATOR {
            return Some(item(DockItemKind::Separator, name, "", IconRef::default()));
        }
        if let Some(own) = rice.dock.own.get(name) {
            let icon = if own.icon.is_none() { IconRef::Drawn(Icon::More) } else { own.icon.clone() };
            return Some(item(DockItemKind::Act(Action::parse(&own.r#do).unwrap_or_default()), name, name, icon));
        }
        if let Some(program) = rice.program.get(name) {
            let app = program.app();
            let entry = self.entry_of(app);
            let mut new = item(
                DockItemKind::Program(name.to_owned()),
                name,
                entry.map_or(name, |entry| &entry.name),
                icon(rice, app, entry),
            );
            new.more = entry.map(|entry| entry.more.clone()).unwrap_or_default();
            self.furnish(&mut new, &[app, name]);
            return Some(new);
        }
        let entry = self.entries.iter().find(|entry| plain(&entry.id) == plain(name))?;
        Some(self.of_entry(entry))
    }

    fn of_entry(&mut self, entry: &LauncherEntry) -> DockItem {
        let EntryCommand::App(id, _) = &entry.deed else {
            return item(DockItemKind::Separator, SEPARATOR, "", IconRef::default());
        };
        let mut new =
            item(DockItemKind::Entry(id.clone()), plain(&entry.id), &entry.name, icon(self.rice(), &entry.program, Some(entry)));
        new.more.clone_from(&entry.more);
        let names: Vec<&str> = names_of(entry).collect();
        self.furnish(&mut new, &names);
        new
    }
}

/// The window that has the focus, also with another manager.
pub fn focused(world: &DesktopView<'_>) -> Option<WindowId> {
    let other = || world.neighbours.iter().find(|one| one.active).map(|one| one.id);
    world.desk.focused().or_else(other)
}

/// What stands in the dock of a monitor.
pub fn items<'w>(world: &'w DesktopView<'w>, monitor: usize) -> Vec<DockItem> {
    let (desk, rice) = (world.desk, world.desk.rice());
    let here = desk.monitors.get(monitor).map(|monitor| monitor.workspace);
    let counts = |window: &crate::desk::Window| {
        let seen = rice.dock.everywhere || Some(window.workspace) == here;
        seen && window.facts.transient_for.is_none() && window.facts.window_type == WindowKind::Normal
    };
    let shown = |id: WindowId, facts: &'w WindowFacts, urgent: bool| DockWindow {
        id,
        names: [facts.app_id.to_lowercase(), facts.instance.to_lowercase()],
        app: &facts.app_id,
        facts,
        urgent,
        taken: false,
    };
    let own = desk.windows.iter().filter(|(_, window)| counts(window));
    let own = own.map(|(id, window)| shown(*id, &window.facts, window.urgent));
    let normal = |facts: &WindowFacts| facts.transient_for.is_none() && facts.window_type == WindowKind::Normal;
    let others = world.neighbours.iter().filter(|one| normal(&one.facts));
    let windows = own.chain(others.map(|one| shown(one.id, &one.facts, one.urgent)));
    let entries = world.lists.get("apps").map_or(&[][..], |entries| &entries.all[..]);
    let mut gatherer = Gatherer { world, entries, windows: windows.collect() };
    let kept = rice.dock.keep.iter().enumerate().take(MAX_DOCK_ITEMS);
    let mut items: Vec<DockItem> =
        kept.filter_map(|(at, name)| Some(DockItem { at: Some(at), ..gatherer.kept(name)? })).collect();
    if !rice.dock.running {
        return items;
    }
    // One without any name stands nowhere.
    while let Some(next) = gatherer.windows.iter().find(|window| !window.taken && !window.app.is_empty()) {
        if items.len() >= MAX_DOCK_ITEMS {
            break;
        }
        let app = next.app;
        let known = gatherer.entry_of(app);
        let new = match known {
            Some(entry) => gatherer.of_entry(entry),
            None => {
                let program = rice.program.iter().find(|(_, program)| program.app().eq_ignore_ascii_case(app));
                let mut new = item(DockItemKind::Windows, app, app, world.icons().of(rice, next.facts));
                new.keep = program.map(|(name, _)| name.clone());
                gatherer.furnish(&mut new, &[app]);
                new
            }
        };
        // Whatever is called so and took none is not looked at again.
        match new.windows.is_empty() {
            true => gatherer.windows.iter_mut().filter(|window| window.app == app).for_each(|window| window.taken = true),
            false => items.push(new),
        }
    }
    items
}
