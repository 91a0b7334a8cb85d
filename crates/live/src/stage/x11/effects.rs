//! What the desktop asks for, carried out on the server.

use std::time::Instant;

use jovrik_core::desk::{self, WindowId};
use jovrik_core::desktop::{Desktop, Effect, Event};
use jovrik_core::load::Branch;
use jovrik_core::rice::Rice;
use jovrik_core::scene::Measure;
use jovrik_core::stage::Stage;
use x11rb::protocol::xproto::{Allow, ConnectionExt, GrabMode, GrabStatus};

use super::X11;
use super::keyboard::set_up;
use super::keys::{fake, grab, ungrab};
use super::tray::Tray;
use crate::Error;

/// How round the corners of a window are, inside of its frame.
fn corners(rice: &Rice, percent: i32) -> i32 {
    (rice.frame.radius.0 - rice.frame.width.0) * percent / 100
}

impl Stage for X11 {
    type Error = Error;

    fn carry_out(&mut self, effects: Vec<Effect>, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let mut answers = Vec::new();
        let rice = desktop.desk().rice().clone();
        let drawn = self.surfaces.drawn;
        let mut lifted = false;
        for effect in effects {
            match effect {
                Effect::Desk(effect) => lifted |= self.of_windows(effect, desktop)?,
                Effect::Grab(presses) => {
                    let (connection, keyboard) = (&self.server.connection, self.board.now());
                    let refused = grab(connection, self.server.root, keyboard, presses, &mut self.grabs)?;
                    if !refused.is_empty() {
                        answers.push(Event::NotGrabbed(refused));
                    }
                }
                Effect::Ungrab(presses) => ungrab(&self.server.connection, self.server.root, &presses, &mut self.grabs)?,
                Effect::Hold(holds) => {
                    if !self.hold(holds)? {
                        answers.push(Event::NotHeld);
                    }
                }
                Effect::Type(press) => fake(&self.server.connection, self.server.root, self.board.now(), press)?,
                Effect::Layout(at) => self.board.switch(&self.server.connection, at)?,
                Effect::Surface(surface, areas) => {
                    let id = surface.id.clone();
                    if !self.surfaces.show(&mut self.painter.pens(&self.server), &rice, surface, &areas)? {
                        answers.push(Event::NotTaken(id));
                    }
                }
                Effect::Gone(id) => self.surfaces.close(&self.server, &id)?,
                Effect::Tray(true) => self.tray = Tray::take(&self.server)?,
                Effect::Tray(false) => {
                    if let Some(tray) = self.tray.take() {
                        tray.leave(&self.server)?;
                    }
                }
                Effect::Backdrop => {
                    self.painter.forget_pictures();
                    self.painter.remake_backdrop(&rice, desktop.desk())?;
                    self.backdrop_changes = self.painter.backdrop_changes(&rice, Instant::now());
                }
                Effect::Corners => {
                    for (id, placed) in &desktop.desk().arrangement().placed {
                        self.server.round(id.0, placed.area, corners(&rice, placed.scale))?;
                    }
                }
                Effect::Follow(follow) => {
                    for id in desktop.desk().windows.keys() {
                        self.server.listen(id.0, follow)?;
                    }
                }
                Effect::SetUp(old) => {
                    self.keyboard_stale |= old.keyboard.latin_first != rice.keyboard.latin_first;
                    let nothing = Branch::default();
                    match set_up(&self.server.connection, self.server.root, &rice, &nothing, Some(&old.keyboard)) {
                        Err(Error::Refused(why)) => answers.push(Event::NotStarted(why)),
                        other => other?,
                    }
                }
                // The session's.
                Effect::Item(..) | Effect::Reload | Effect::Quit => {}
            }
        }
        if lifted {
            self.surfaces.lift(&self.server)?;
        }
        if drawn != self.surfaces.drawn
            && let Some(tray) = &mut self.tray
        {
            tray.follow(&mut self.painter.pens(&self.server), &self.surfaces, &rice)?;
        }
        if self.painter.backdrop_stale(&rice, desktop.desk()) {
            answers.extend(self.refresh_backdrop(desktop)?);
        }
        Ok(answers)
    }

    fn measure(&mut self) -> &mut dyn Measure {
        self.painter.fonts()
    }
}

impl X11 {
    /// Something with windows; whether one may lie over what we draw now.
    fn of_windows(&mut self, effect: desk::Effect, desktop: &Desktop) -> Result<bool, Error> {
        let mut lifted = false;
        let rice = desktop.desk().rice();
        let placed = |window: &WindowId| desktop.desk().arrangement().placed.get(window).map_or(100, |placed| placed.scale);
        match effect {
            desk::Effect::Place { window, area } => {
                self.server.place(window.0, area, corners(rice, placed(&window)))?;
            }
            desk::Effect::Show(window) => {
                self.server.show(window.0)?;
                self.mapped.insert(window.0);
                lifted = true;
            }
            desk::Effect::Stack(windows) => {
                windows.iter().try_for_each(|window| self.server.lift(window.0))?;
                lifted = true;
            }
            desk::Effect::Hide(window) => {
                if self.mapped.remove(&window.0) || self.server.is_seen(window.0)? {
                    *self.hidden.entry(window.0).or_default() += 1;
                }
                self.server.hide(window.0)?;
            }
            desk::Effect::Focus(window) => self.server.focus(window.map(|id| id.0))?,
            desk::Effect::Close(window) => self.server.close(window.0)?,
            desk::Effect::Kill(window) => self.server.kill(window.0)?,
            desk::Effect::Paint(areas) => self.painter.paint(&self.server, rice, desktop.desk(), &areas)?,
            // The session's, and the desktop's.
            desk::Effect::Start { .. } | desk::Effect::Refused(_) => {}
        }
        Ok(lifted)
    }

    /// Takes the whole keyboard, or gives it back; whether that could be done. It then stands still, or goes on by itself.
    fn hold(&mut self, holds: bool) -> Result<bool, Error> {
        let connection = &self.server.connection;
        if holds {
            let (free, still) = (GrabMode::ASYNC, GrabMode::SYNC);
            let reply = connection.grab_keyboard(false, self.server.root, x11rb::CURRENT_TIME, free, still)?.reply();
            self.holds = reply.is_ok_and(|reply| reply.status == GrabStatus::SUCCESS);
            self.stopped |= self.holds;
            let held = self.holds;
            self.let_go_on()?;
            return Ok(held);
        }
        (self.holds, self.stopped) = (false, false);
        connection.ungrab_keyboard(x11rb::CURRENT_TIME)?.ignore_error();
        Ok(true)
    }

    /// Lets a keyboard that stands still go on, once: to us, press by press, while all of it is ours, else to whoever has the
    /// focus. Letting it go on a second time would let the next press through before it is judged.
    pub(super) fn let_go_on(&mut self) -> Result<(), Error> {
        if std::mem::take(&mut self.stopped) {
            let how = if self.holds { Allow::SYNC_KEYBOARD } else { Allow::ASYNC_KEYBOARD };
            self.server.connection.allow_events(how, x11rb::CURRENT_TIME)?.ignore_error();
        }
        Ok(())
    }
}
