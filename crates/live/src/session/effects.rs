//! What the desktop asks for, carried out on the display.

use std::collections::VecDeque;

use jovrik_core::desk::{self, WindowId};
use jovrik_core::desktop::{Effect, Event, ItemDeed};
use jovrik_core::rice::Rice;
use x11rb::protocol::xproto::{Allow, ConnectionExt, GrabMode, GrabStatus, Window};

use super::Session;
use crate::Error;
use crate::keyboard::set_up;
use crate::keys::{fake, grab, ungrab};

/// How round the corners of a window are, inside of its frame.
fn corners(rice: &Rice, percent: i32) -> i32 {
    (rice.frame.radius.0 - rice.frame.width.0) * percent / 100
}

impl Session {
    /// Carries out effects in their order; what comes back of it is to be handled next.
    pub(super) fn carry_out(&mut self, effects: Vec<Effect>, answers: &mut VecDeque<Event>) -> Result<(), Error> {
        let rice = self.desktop.desk().rice().clone();
        let drawn = self.surfaces.drawn;
        let mut restack = false;
        for effect in effects {
            match effect {
                Effect::Desk(effect) => restack |= self.of_windows(effect, &rice, answers)?,
                Effect::Grab(presses) => {
                    let (connection, keyboard) = (&self.seat.connection, self.board.now());
                    let refused = grab(connection, self.seat.root, keyboard, presses, &mut self.grabs)?;
                    if !refused.is_empty() {
                        answers.push_back(Event::NotGrabbed(refused));
                    }
                }
                Effect::Ungrab(presses) => ungrab(&self.seat.connection, self.seat.root, &presses, &mut self.grabs)?,
                Effect::Hold(holds) => {
                    if !self.hold(holds)? {
                        answers.push_back(Event::NotHeld);
                    }
                }
                Effect::Type(press) => fake(&self.seat.connection, self.seat.root, self.board.now(), press)?,
                Effect::Layout(at) => self.board.switch(&self.seat.connection, at)?,
                Effect::Surface(surface, areas) => {
                    let id = surface.id.clone();
                    if !self.surfaces.show(&mut self.painter.pens(&self.seat), &rice, surface, &areas)? {
                        answers.push_back(Event::NotTaken(id));
                    }
                }
                Effect::Gone(id) => self.surfaces.close(&self.seat, &id)?,
                Effect::Item(key, deed) => self.ask_item(&key, deed),
                Effect::Backdrop => {
                    self.painter.forget_pictures();
                    self.painter.remake_backdrop(&rice, self.desktop.desk())?;
                    self.backdrop_changes = self.painter.backdrop_changes(&rice, self.now);
                }
                Effect::Corners => {
                    for (id, placed) in &self.desktop.desk().arrangement().placed {
                        self.seat.round(id.0, placed.area, corners(&rice, placed.scale))?;
                    }
                }
                Effect::Follow(follow) => {
                    for id in self.desktop.desk().windows.keys() {
                        self.seat.listen(id.0, follow)?;
                    }
                }
                Effect::SetUp(old) => {
                    self.keyboard_stale |= old.keyboard.latin_first != rice.keyboard.latin_first;
                    let tree = &self.options.first.tree;
                    match set_up(&self.seat.connection, self.seat.root, &rice, tree, Some(&old.keyboard)) {
                        Err(Error::Refused(why)) => answers.push_back(Event::NotStarted(why)),
                        other => other?,
                    }
                }
                Effect::Reload => {
                    self.reload_wanted = Some(self.now);
                    self.reload.asked = true;
                }
                Effect::Quit => self.quit = true,
            }
        }
        if restack {
            self.restack()?;
        }
        if drawn != self.surfaces.drawn
            && let Some(tray) = &mut self.tray
        {
            tray.follow(&mut self.painter.pens(&self.seat), &self.surfaces, &rice)?;
        }
        Ok(())
    }

    /// Something with windows; whether what lies over what may be another order now.
    fn of_windows(&mut self, effect: desk::Effect, rice: &Rice, answers: &mut VecDeque<Event>) -> Result<bool, Error> {
        let mut restack = false;
        let placed = |window: &WindowId| self.desktop.desk().arrangement().placed.get(window).map_or(100, |placed| placed.scale);
        match effect {
            desk::Effect::Place { window, area, floating } => {
                self.seat.place(window.0, area, corners(rice, placed(&window)))?;
                restack = floating;
            }
            desk::Effect::Show(window) => {
                self.seat.show(window.0)?;
                restack = true;
            }
            desk::Effect::Hide(window) => {
                *self.hidden.entry(window.0).or_default() += 1;
                self.seat.hide(window.0)?;
            }
            desk::Effect::Focus(window) => {
                self.seat.focus(window.map(|id| id.0))?;
                restack = true;
            }
            desk::Effect::Close(window) => self.seat.close(window.0)?,
            desk::Effect::Kill(window) => self.seat.kill(window.0)?,
            desk::Effect::Start { argv, env } => {
                if let Err(why) = self.programs.start(&argv, &env, &self.options.display) {
                    answers.push_back(Event::NotStarted(why));
                }
            }
            desk::Effect::Paint(areas) => self.painter.paint(&self.seat, rice, self.desktop.desk(), &areas)?,
            desk::Effect::Refused(why) => answers.push_back(Event::NotStarted(why)),
        }
        Ok(restack)
    }

    /// What floats lies over the tiles, and what we draw over both.
    fn restack(&mut self) -> Result<(), Error> {
        let arrangement = self.desktop.desk().arrangement();
        let floating: Vec<Window> = arrangement.placed.iter().filter(|(_, placed)| placed.floating).map(|(id, _)| id.0).collect();
        floating.iter().try_for_each(|window| self.seat.lift(*window))?;
        if floating.is_empty() { Ok(()) } else { self.surfaces.lift(&self.seat) }
    }

    /// Paints everything behind the windows.
    pub(super) fn paint_all(&mut self) -> Result<(), Error> {
        let desk = self.desktop.desk();
        let areas: Vec<_> = desk.monitors.iter().map(|monitor| monitor.facts.area).collect();
        self.painter.paint(&self.seat, desk.rice(), desk, &areas)
    }

    /// Takes the whole keyboard, or gives it back; whether that could be done. It then stands still, or goes on by itself.
    fn hold(&mut self, holds: bool) -> Result<bool, Error> {
        let connection = &self.seat.connection;
        if holds {
            let (free, still) = (GrabMode::ASYNC, GrabMode::SYNC);
            let reply = connection.grab_keyboard(false, self.seat.root, x11rb::CURRENT_TIME, free, still)?.reply();
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
            self.seat.connection.allow_events(how, x11rb::CURRENT_TIME)?.ignore_error();
        }
        Ok(())
    }

    fn ask_item(&self, key: &str, deed: ItemDeed) {
        let Some(notifiers) = &self.notifiers else { return };
        let Some(key) = notifiers.items().find(|item| item.key.to_string() == key).map(|item| &item.key) else { return };
        match deed {
            ItemDeed::Press(button, x, y) => notifiers.press(key, button, x, y),
            ItemDeed::Menu(x, y) => {
                if !notifiers.ask_menu(key) {
                    notifiers.press(key, 3, x, y);
                }
            }
            ItemDeed::Choose(line) => notifiers.choose(key, line),
        }
    }
}
