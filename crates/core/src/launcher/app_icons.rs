//! The icons of running programs: of the rice, else of their desktop entries, else their own.

use jovrik_text::Ordered;
use jovrik_values::{Icon, IconRef};

use super::{LauncherEntry, LauncherList};
use crate::desk::{Window, WindowFacts, WindowId};
use crate::rice::Rice;

/// Where the icon of a program is looked for.
#[derive(Debug, Clone, Copy, Default)]
pub struct AppIcons<'a> {
    /// The desktop entries, as far as they were read.
    pub entries: Option<&'a LauncherList>,
    /// The windows that are there.
    pub windows: Option<&'a Ordered<WindowId, Window>>,
}

/// What the windows of a desktop entry may be called (Desktop Entry Specification, `StartupWMClass`): that, its program, its id.
pub fn names_of(entry: &LauncherEntry) -> impl Iterator<Item = &str> {
    [entry.class.as_str(), entry.program.as_str(), plain(&entry.id)].into_iter().filter(|name| !name.is_empty())
}

/// The id of a desktop entry as it is kept: without what all of them end in.
pub fn plain(id: &str) -> &str {
    let id = id.strip_prefix("apps/").unwrap_or(id);
    id.strip_suffix(".desktop").unwrap_or(id)
}

impl AppIcons<'_> {
    fn entry(&self, name: &str) -> Option<&LauncherEntry> {
        let called = |entry: &&LauncherEntry| names_of(entry).any(|own| own.eq_ignore_ascii_case(name));
        self.entries.filter(|_| !name.is_empty())?.all.iter().find(called)
    }

    /// The icon of a window.
    pub fn of(&self, rice: &Rice, facts: &WindowFacts) -> IconRef {
        let own = rice.icon_of(&facts.app_id);
        if own != IconRef::Drawn(Icon::Window) {
            return own;
        }
        let entry = self.entry(&facts.app_id).or_else(|| self.entry(&facts.instance)).map(|entry| entry.icon.clone());
        let entry = entry.filter(|icon| !icon.is_none());
        entry.or_else(|| facts.picture.clone().map(IconRef::Picture)).unwrap_or(own)
    }

    /// The icon of an app, by its name.
    pub fn of_app(&self, rice: &Rice, app: &str) -> IconRef {
        let window = self.windows.and_then(|windows| windows.values().rev().find(|window| window.facts.app_id == app));
        match window {
            Some(window) => self.of(rice, &window.facts),
            None => self.of(rice, &WindowFacts { app_id: app.to_owned(), ..WindowFacts::default() }),
        }
    }
}
