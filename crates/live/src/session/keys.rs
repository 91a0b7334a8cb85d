//! Keys: presses, sequences, modes, grabs.

use std::time::Instant;

use jovrik_core::desk::{Action, Event, Which};
use jovrik_core::keys::{Heard, Keys, Listener, Press, Why};
use x11rb::protocol::xproto::{Allow, ConnectionExt, GrabMode};

use super::Session;
use crate::Error;
use crate::keys::{fake, regrab, wanted};

/// How deep keys may be typed by keys.
const DEEP: usize = 8;

impl Session {
    /// A key went down.
    pub(super) fn key(&mut self, key: u8, state: u16) -> Result<(), Error> {
        self.stopped = true;
        let press = self.board.now().press_of(key.into(), state.into());
        if !self.board.now().is_modifier(press.key) {
            let again = !self.down.insert(press.key);
            self.pressed(press, again, 0)?;
        }
        self.hold()
    }

    /// A key came up.
    pub(super) fn key_up(&mut self, key: u8) -> Result<(), Error> {
        // A key that comes up stops the keyboard only while all of it is ours.
        self.stopped = self.holds;
        self.down.remove(&u32::from(key));
        self.released(key.into())
    }

    /// A button of the pointer that is bound.
    pub(super) fn button(&mut self, button: u8, state: u16, down: bool) -> Result<(), Error> {
        let press = self.board.now().press_of(Press::BUTTON + u32::from(button), state.into());
        if down {
            self.pressed(press, false, 0)?;
            self.seat.connection.allow_events(Allow::ASYNC_POINTER, x11rb::CURRENT_TIME)?.ignore_error();
            Ok(())
        } else {
            self.released(press.key)
        }
    }

    fn released(&mut self, key: u32) -> Result<(), Error> {
        if let Some(at) = self.listener.release(key) {
            self.act(at)?;
        }
        self.hold()
    }

    /// One press; `deep` of those that were typed by another one.
    fn pressed(&mut self, press: Press, again: bool, deep: usize) -> Result<bool, Error> {
        let waited = !self.listener.so_far.is_empty();
        let heard = self.listener.press(press, again);
        let waits = heard == Heard::Wait;
        if waits {
            self.sequence_ends = Some(Instant::now() + self.desk.rice().keys.wait());
        } else if self.listener.so_far.is_empty() {
            self.sequence_ends = None;
        }
        self.bars_stale |= waits || waited;
        match heard {
            Heard::Act(at) => match self.scopes.action(at).cloned() {
                Some(Action::Press(text)) => self.type_keys(&text, deep)?,
                _ => self.act(at)?,
            },
            Heard::Eaten(Why::LeavesMode) => {
                self.handle(Event::Act(Action::Mode(None)))?;
            }
            Heard::Wait | Heard::Eaten(_) | Heard::Passed => {}
        }
        self.hold()?;
        Ok(heard != Heard::Passed)
    }

    fn act(&mut self, at: usize) -> Result<(), Error> {
        if let Some(action) = self.scopes.action(at).cloned() {
            self.refused = self.handle(Event::Act(action))?;
        }
        Ok(())
    }

    /// Holds the whole keyboard while a sequence is under way or a mode keeps all keys, and lets go of it after that.
    ///
    /// A keyboard that stands still goes on, once: to us, press by press, while it is held, else to whoever has the focus.
    /// Letting it go on a second time would let the next press through before it is judged.
    pub(super) fn hold(&mut self) -> Result<(), Error> {
        let wants = !self.listener.so_far.is_empty() || self.listener.keeps_all() || self.listener.holds_keys() && self.holds;
        if self.holds && !wants {
            self.let_go()?;
            self.down.clear();
        } else if wants && !self.holds {
            let (free, still) = (GrabMode::ASYNC, GrabMode::SYNC);
            let connection = &self.seat.connection;
            let reply = connection.grab_keyboard(false, self.seat.root, x11rb::CURRENT_TIME, free, still)?.reply();
            self.holds = reply.is_ok_and(|reply| reply.status == x11rb::protocol::xproto::GrabStatus::SUCCESS);
            if !self.holds {
                return self.held_elsewhere();
            }
            self.stopped = true;
        }
        if std::mem::take(&mut self.stopped) {
            let how = if self.holds { Allow::SYNC_KEYBOARD } else { Allow::ASYNC_KEYBOARD };
            self.seat.connection.allow_events(how, x11rb::CURRENT_TIME)?.ignore_error();
        }
        Ok(())
    }

    /// Gives the keyboard back, which then goes on by itself.
    fn let_go(&mut self) -> Result<(), Error> {
        (self.holds, self.stopped) = (false, false);
        self.seat.connection.ungrab_keyboard(x11rb::CURRENT_TIME)?.ignore_error();
        Ok(())
    }

    /// Somebody else has the keyboard: neither sequence nor mode would ever hear the next press.
    fn held_elsewhere(&mut self) -> Result<(), Error> {
        if self.listener.keeps_all() {
            self.refused = vec!["another program holds the keyboard".to_owned()];
            self.listener.enter(None);
            self.handle(Event::Act(Action::Mode(None)))?;
        }
        self.end_sequence()
    }

    /// Types chords into the focused window; what is bound of them is done instead, as with any press.
    pub(super) fn type_keys(&mut self, text: &str, deep: usize) -> Result<(), Error> {
        let lead = self.desk.rice().keys.lead.0.word();
        let Ok(keys) = Keys::parse(text, lead) else { return Ok(()) };
        for chord in &keys.0 {
            let Some(press) = self.board.now().presses(chord).first().copied() else { continue };
            if deep >= DEEP || self.pressed(press, false, deep + 1)? || press.button().is_some() {
                continue;
            }
            // Whoever holds the keyboard would get what is typed.
            self.let_go()?;
            fake(&self.seat.connection, self.seat.root, self.board.now(), press)?;
            self.hold()?;
        }
        Ok(())
    }

    /// Drops an unfinished sequence.
    pub(super) fn end_sequence(&mut self) -> Result<(), Error> {
        self.listener.so_far.clear();
        self.bars_stale = true;
        self.sequence_ends = None;
        self.hold()
    }

    /// A mode is entered or left.
    pub(super) fn enter_mode(&mut self, mode: Option<&str>) -> Result<(), Error> {
        self.listener.enter(mode);
        self.bars_stale = true;
        self.regrab()?;
        self.refresh_sheet()?;
        self.hold()
    }

    /// Another layout is asked for.
    pub(super) fn switch_keyboard(&mut self, which: &Which) -> Result<(), String> {
        let name = match which {
            Which::Named(name) => Some(name.as_str()),
            _ => None,
        };
        self.board.switch(&self.seat.connection, name)
    }

    /// The keyboard of the server is another one, or another of its layouts is active.
    pub(super) fn keyboard_changed(&mut self) -> Result<(), Error> {
        self.keyboard_stale = false;
        self.board = crate::keyboard::Board::read(&self.seat.connection, self.seat.root, self.desk.rice().keyboard.latin_first)?;
        self.bars_stale = true;
        self.bind()
    }

    /// Listens for the bindings of the rice on the layout that is active, and grabs what changed.
    pub(super) fn bind(&mut self) -> Result<(), Error> {
        let (listener, cannot) = Listener::new(&self.scopes, 0, self.board.now());
        self.listener = listener.like(&self.listener);
        self.cannot = cannot.into_iter().map(|at| self.scopes.bound[at].written.clone()).collect();
        self.refresh_sheet()?;
        self.regrab()
    }

    /// Grabs what is to be heard and is not grabbed yet; also what another program held until now.
    pub(super) fn regrab(&mut self) -> Result<(), Error> {
        // Then the whole keyboard is held, and what was grabbed waits for the end of the mode.
        if self.listener.keeps_all() {
            return Ok(());
        }
        let wanted = wanted(&self.listener, self.board.now());
        let locks = self.board.now().lock_states();
        let before = (&self.grabbed, &self.held);
        self.held = regrab(&self.seat.connection, self.seat.root, &locks, before, &wanted)?;
        self.grabbed = wanted;
        self.grabbed.retain(|grab, _| !self.held.contains_key(grab));
        Ok(())
    }

    /// The sequence so far, as the rice writes it; nothing outside of one.
    pub(super) fn sequence(&self) -> String {
        let Some((at, chords)) = self.listener.waiting() else { return String::new() };
        let written: Vec<&str> = self.scopes.bound[at].written.split_whitespace().take(chords).collect();
        written.join(" ")
    }
}
