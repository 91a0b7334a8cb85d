//! The tray and the backdrop: what lies on bars and behind windows without being one.

use std::time::Instant;

use jovrik_core::rice::BuiltIn;

use super::Session;
use crate::Error;
use crate::notifier::{Item, Notifiers, Told};
use crate::tray::Tray;

impl Session {
    /// Is the tray of the screen while a bar shows one.
    pub(super) fn keep_tray(&mut self) -> Result<(), Error> {
        let rice = self.desk.rice();
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
                self.pictures.clear();
            }
            _ => {}
        }
        Ok(())
    }

    /// What items of the tray have said.
    pub(super) fn hear_items(&mut self) -> Result<(), Error> {
        let Some(notifiers) = &mut self.notifiers else { return Ok(()) };
        for told in notifiers.step() {
            match told {
                Told::Items => {
                    let Some(notifiers) = &self.notifiers else { return Ok(()) };
                    let items: Vec<Item> = notifiers.items().cloned().collect();
                    self.pictures = items.iter().map(|item| self.painter.picture_of(item)).collect();
                    self.bars_all = true;
                    self.bars_stale = true;
                }
                Told::Menu(key, lines) => self.open_item_menu(&key, &lines)?,
            }
        }
        Ok(())
    }

    /// Draws the backdrop anew, and all that lies on it.
    pub(super) fn refresh_backdrop(&mut self) -> Result<(), Error> {
        let rice = self.desk.rice().clone();
        self.backdrop_changes = self.painter.backdrop_changes(&rice, Instant::now());
        self.painter.remake_backdrop(&rice, &self.desk)?;
        let areas: Vec<_> = self.desk.monitors.iter().map(|monitor| monitor.facts.area).collect();
        self.painter.paint(&self.seat, &rice, &self.desk, &areas)?;
        self.bars_all = true;
        self.bars_stale = true;
        Ok(())
    }
}
