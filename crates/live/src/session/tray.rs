//! Items that other programs put into the tray over the bus.

use jovrik_core::desktop::{DesktopEvent, TrayItem, TrayItemAction};
use jovrik_values::IconRef;

use super::Session;
use crate::Error;
use crate::icons::{HELD, picture_of};
use crate::status_notifier::{ItemUpdate, StatusNotifierHost, StatusNotifierItem};

impl Session {
    /// Listens to items while a bar shows the tray; what there is to tell.
    pub(super) fn keep_items(&mut self, wanted: bool) -> Option<DesktopEvent> {
        match (wanted, self.notifiers.take()) {
            (true, None) => self.notifiers_coming = self.notifiers_coming.take().or_else(StatusNotifierHost::begin),
            (true, some) => self.notifiers = some,
            (false, here) => {
                self.notifiers_coming = None;
                here.into_iter().for_each(StatusNotifierHost::leave);
            }
        }
        self.notifiers.is_some().then(|| self.items())
    }

    /// Whoever was asked for has come.
    fn notifiers_come(&mut self) -> Option<DesktopEvent> {
        let come = self.notifiers_coming.as_mut()?.take()?;
        self.notifiers_coming = None;
        self.notifiers = come;
        self.notifiers.is_some().then(|| self.items())
    }

    fn items(&mut self) -> DesktopEvent {
        let items: Vec<StatusNotifierItem> = self.notifiers.iter().flat_map(StatusNotifierHost::items).cloned().collect();
        let brush = self.stage.brush();
        let mut shown = |item: &StatusNotifierItem| TrayItem { key: item.key.to_string(), icon: picture_of(brush, item) };
        let all: Vec<TrayItem> = items.iter().map(&mut shown).collect();
        let held = all.iter().filter_map(|item| if let IconRef::Picture(name) = &item.icon { Some(name.as_str()) } else { None });
        brush.pictures.keep_held(HELD, &held.collect::<Vec<_>>());
        DesktopEvent::TrayItems(all)
    }

    /// What items of the tray have said.
    pub(super) fn hear_items(&mut self) -> Result<(), Error> {
        if let Some(event) = self.notifiers_come() {
            self.step(event)?;
        }
        let Some(notifiers) = &mut self.notifiers else { return Ok(()) };
        for told in notifiers.step() {
            let event = match told {
                ItemUpdate::Items => self.items(),
                ItemUpdate::Menu(key, lines) => {
                    DesktopEvent::ItemMenu(key.to_string(), lines.into_iter().map(|line| (line.label, line.id)).collect())
                }
            };
            self.step(event)?;
        }
        Ok(())
    }

    /// Asks something of the program of an item.
    pub(super) fn ask_item(&self, key: &str, deed: TrayItemAction) {
        let Some(notifiers) = &self.notifiers else { return };
        let Some(key) = notifiers.items().find(|item| item.key.to_string() == key).map(|item| &item.key) else { return };
        match deed {
            TrayItemAction::Press(button, x, y) => notifiers.press(key, button, x, y),
            TrayItemAction::Menu(x, y) => {
                if !notifiers.ask_menu(key) {
                    notifiers.press(key, 3, x, y);
                }
            }
            TrayItemAction::Choose(line) => notifiers.choose(key, line),
        }
    }
}
