//! The tray and the backdrop: what lies on bars and behind windows without being one.

use jovrik_core::desktop::{Event, TrayItem};
use jovrik_core::rice::BuiltIn;

use super::Session;
use crate::Error;
use crate::tray::{Item, Notifiers, Told, Tray};

impl Session {
    /// Is the tray of the screen while a bar shows one.
    pub(super) fn keep_tray(&mut self) -> Result<(), Error> {
        let rice = self.desktop.desk().rice();
        let tray = |name: &String| rice.module.get(name).is_some_and(|module| module.source.kind.is(BuiltIn::Tray));
        let wanted = rice.bar.values().flat_map(|bar| bar.modules()).any(tray);
        match (wanted, self.tray.is_some() || self.notifiers.is_some()) {
            (true, false) => {
                self.tray = Tray::take(&self.seat)?;
                self.notifiers = Notifiers::take();
            }
            (false, true) => {
                if let Some(tray) = self.tray.take() {
                    tray.leave(&self.seat)?;
                }
                if let Some(notifiers) = self.notifiers.take() {
                    notifiers.leave();
                }
                self.tell_tray()?;
            }
            _ => {}
        }
        Ok(())
    }

    /// Tells the desktop what is in the tray.
    pub(super) fn tell_tray(&mut self) -> Result<(), Error> {
        let items: Vec<Item> = self.notifiers.iter().flat_map(Notifiers::items).cloned().collect();
        let shown = |item: &Item| TrayItem { key: item.key.to_string(), icon: self.painter.picture_of(item) };
        let items = items.iter().map(shown).collect();
        self.step(Event::Tray(self.tray.as_ref().map_or(0, Tray::count), items))
    }

    /// What items of the tray have said.
    pub(super) fn hear_items(&mut self) -> Result<(), Error> {
        let Some(notifiers) = &mut self.notifiers else { return Ok(()) };
        for told in notifiers.step() {
            match told {
                Told::Items => self.tell_tray()?,
                Told::Menu(key, lines) => {
                    let lines = lines.into_iter().map(|line| (line.label, line.id)).collect();
                    self.step(Event::ItemMenu(key.to_string(), lines))?;
                }
            }
        }
        Ok(())
    }

    /// Draws the backdrop anew, and all that lies on it.
    pub(super) fn refresh_backdrop(&mut self) -> Result<(), Error> {
        let rice = self.desktop.desk().rice().clone();
        self.backdrop_changes = self.painter.backdrop_changes(&rice, self.now);
        self.painter.remake_backdrop(&rice, self.desktop.desk())?;
        self.paint_all()?;
        self.step(Event::Redraw)
    }
}
