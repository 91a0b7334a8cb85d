//! What the desktop asks for, carried out on the server.

use std::rc::Rc;
use std::time::Instant;

use indexmap::IndexMap;
use jovrik_core::desk::{self, Area, WindowId};
use jovrik_core::desktop::{Desktop, Effect, Event, Surface, SurfaceId, Takes};
use jovrik_core::load::Branch;
use jovrik_core::rice::Rice;
use jovrik_core::scene::{Measure, Rect};
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

/// What is to be shown, gathered until nothing more has happened: each thing is done once, however often it changed.
#[derive(Debug, Default)]
pub(super) struct Pending {
    places: IndexMap<WindowId, Area>,
    /// Windows that come into sight, or go out of it.
    seen: IndexMap<WindowId, bool>,
    stack: Option<Vec<WindowId>>,
    focus: Option<Option<WindowId>>,
    paint: Vec<Area>,
    surfaces: IndexMap<SurfaceId, (Rc<Surface>, Vec<Rect>)>,
}

impl Stage for X11 {
    type Error = Error;

    fn carry_out(&mut self, effects: Vec<Effect>, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let mut answers = Vec::new();
        let rice = desktop.desk().rice().clone();
        for effect in effects {
            match effect {
                Effect::Desk(effect) => self.of_windows(effect)?,
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
                // Whether it can have the pointer must be known at once.
                Effect::Surface(surface, areas) if surface.takes == Takes::All => {
                    let id = surface.id.clone();
                    if !self.surfaces.show(&mut self.painter.pens(&self.server), &rice, surface, &areas)? {
                        answers.push(Event::NotTaken(id));
                    }
                }
                Effect::Surface(surface, areas) => {
                    let pending = self.pending.surfaces.entry(surface.id.clone()).or_insert((surface.clone(), Vec::new()));
                    pending.0 = surface;
                    pending.1.extend(areas);
                }
                Effect::Gone(id) => {
                    self.pending.surfaces.shift_remove(&id);
                    self.surfaces.close(&self.server, &id)?;
                }
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
                    let placed = desktop.desk().arrangement().placed.iter();
                    self.pending.places.extend(placed.map(|(id, placed)| (*id, placed.area)));
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
    /// Something with windows: what is seen waits, what is asked of a program does not.
    fn of_windows(&mut self, effect: desk::Effect) -> Result<(), Error> {
        let pending = &mut self.pending;
        match effect {
            desk::Effect::Place { window, area } => drop(pending.places.insert(window, area)),
            desk::Effect::Show(window) => drop(pending.seen.insert(window, true)),
            desk::Effect::Hide(window) => drop(pending.seen.insert(window, false)),
            desk::Effect::Stack(windows) => pending.stack = Some(windows),
            desk::Effect::Focus(window) => pending.focus = Some(window),
            desk::Effect::Paint(areas) => pending.paint.extend(areas),
            desk::Effect::Close(window) => self.server.close(window.0)?,
            desk::Effect::Kill(window) => self.server.kill(window.0)?,
            // The session's, and the desktop's.
            desk::Effect::Start { .. } | desk::Effect::Refused(_) => {}
        }
        Ok(())
    }

    /// Shows what has gathered: windows in their places, what lies over what, the focus, what is behind, what we draw.
    pub fn show(&mut self, desktop: &Desktop) -> Result<(), Error> {
        let desk = desktop.desk();
        let Pending { places, seen, stack, focus, paint, surfaces } = std::mem::take(&mut self.pending);
        let (rice, arrangement) = (desk.rice(), desk.arrangement());
        for (window, area) in places.into_iter().filter(|(window, _)| desk.windows.contains_key(window)) {
            let scale = arrangement.placed.get(&window).map_or(100, |placed| placed.scale);
            self.server.place(window.0, area, corners(rice, scale))?;
        }
        let mut lifted = false;
        for (window, seen) in seen.into_iter().filter(|(window, _)| desk.windows.contains_key(window)) {
            if seen {
                lifted |= self.mapped.insert(window.0);
                self.server.show(window.0)?;
                continue;
            }
            if self.mapped.remove(&window.0) || self.server.is_seen(window.0)? {
                *self.hidden.entry(window.0).or_default() += 1;
            }
            self.server.hide(window.0)?;
        }
        if let Some(windows) = stack {
            lifted = true;
            windows.iter().try_for_each(|window| self.server.lift(window.0))?;
        }
        if let Some(window) = focus.filter(|focus| focus.is_none_or(|window| desk.windows.contains_key(&window))) {
            self.server.focus(window.map(|id| id.0))?;
        }
        if !paint.is_empty() {
            self.painter.paint(&self.server, rice, desk, &paint)?;
        }
        let drawn = self.surfaces.drawn;
        let mut surfaces: Vec<(Rc<Surface>, Vec<Rect>)> = surfaces.into_values().collect();
        surfaces.sort_by_key(|(surface, _)| surface.level);
        for (surface, areas) in surfaces {
            self.surfaces.show(&mut self.painter.pens(&self.server), rice, surface, &distinct(areas))?;
        }
        if lifted {
            self.surfaces.lift(&self.server)?;
        }
        if drawn != self.surfaces.drawn
            && let Some(tray) = &mut self.tray
        {
            tray.follow(&mut self.painter.pens(&self.server), &self.surfaces, rice)?;
        }
        self.announce(desktop)
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
    pub fn let_go_on(&mut self) -> Result<(), Error> {
        if std::mem::take(&mut self.stopped) {
            let how = if self.holds { Allow::SYNC_KEYBOARD } else { Allow::ASYNC_KEYBOARD };
            self.server.connection.allow_events(how, x11rb::CURRENT_TIME)?.ignore_error();
        }
        Ok(())
    }
}

/// Areas without those that lie in another one.
fn distinct(areas: Vec<Rect>) -> Vec<Rect> {
    let mut kept: Vec<Rect> = Vec::new();
    for area in areas {
        if kept.iter().any(|other| other.union(area) == *other) {
            continue;
        }
        kept.retain(|other| area.union(*other) != area);
        kept.push(area);
    }
    kept
}
