//! Keys: presses, sequences, grabs.

use std::time::Instant;

use jovrik_core::desk::Event;
use jovrik_core::rice::Rice;
use x11rb::protocol::xproto::{Allow, ConnectionExt, GrabMode};

use super::Session;
use crate::Error;
use crate::keys::{Outcome, Table, regrab};

impl Session {
    pub(super) fn key(&mut self, key: u8, state: u16) -> Result<(), Error> {
        self.pressed(key, state)?;
        // What was typed meanwhile goes on, to whoever holds the keyboard now.
        self.seat.connection.allow_events(Allow::ASYNC_KEYBOARD, x11rb::CURRENT_TIME)?;
        Ok(())
    }

    pub(super) fn pressed(&mut self, key: u8, state: u16) -> Result<(), Error> {
        if self.layout.is_modifier(key) {
            return Ok(());
        }
        let waiting = !self.table.so_far.is_empty();
        match self.table.press(self.layout.code(key, state)) {
            Outcome::Wait => {
                self.bars_stale = true;
                self.sequence_ends = Some(Instant::now() + self.desk.rice().keys.sequence_wait.0);
                if !waiting {
                    let reply = self.seat.connection.grab_keyboard(
                        false,
                        self.seat.root,
                        x11rb::CURRENT_TIME,
                        GrabMode::ASYNC,
                        GrabMode::ASYNC,
                    )?;
                    if reply.reply().is_err() {
                        self.end_sequence()?;
                    }
                }
            }
            Outcome::Act(action) => {
                if waiting {
                    self.end_sequence()?;
                }
                self.handle(Event::Act(action))?;
            }
            Outcome::Nothing if waiting => self.end_sequence()?,
            Outcome::Nothing => {}
        }
        Ok(())
    }

    pub(super) fn end_sequence(&mut self) -> Result<(), Error> {
        self.table.so_far.clear();
        self.bars_stale = true;
        self.sequence_ends = None;
        self.seat.connection.ungrab_keyboard(x11rb::CURRENT_TIME)?;
        Ok(())
    }

    /// Grabs the chords of a rice; only those that changed.
    pub(super) fn bind(&mut self, rice: &Rice) -> Result<(), Error> {
        let (table, cannot) = Table::new(&rice.keys.desk.0, &self.layout);
        let wanted = table.grabs();
        let held = regrab(&self.seat.connection, self.seat.root, &self.layout, &self.grabbed, &wanted)?;
        self.held.retain(|code| wanted.iter().any(|grab| grab.code == *code));
        self.held.extend(held);
        self.grabbed = wanted;
        self.table = table;
        self.cannot = cannot;
        Ok(())
    }
}
