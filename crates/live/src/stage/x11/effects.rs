//! What the desktop asks for, carried out on the server.

use std::collections::HashSet;
use std::rc::Rc;

use indexmap::{IndexMap, IndexSet};
use jovrik_core::desk::{self, DisplayConfig, PlacedWindow, StackingLayer, WindowId, plan};
use jovrik_core::desktop::{
    Desktop, DesktopEffect, DesktopEvent, DisplayConfigSource, Interactivity, StackingId, Surface, SurfaceId,
};
use jovrik_core::rice::Rice;
use jovrik_core::scene::Measure;
use jovrik_core::stage::Backend;
use jovrik_schema::Branch;
use jovrik_values::Rect;
use x11rb::protocol::xproto::{Allow, ConnectionExt, GrabMode, GrabStatus, Window};

use super::X11;
use super::clipboard::ClipboardContent;
use super::key_grabs::{fake, grab, ungrab};
use super::keyboard::set_up;
use super::outputs::{light, outputs};
use super::tray::Tray;
use super::windows::stack;
use crate::Error;

/// What is to be shown, gathered until nothing more has happened: each thing is done once, however often it changed.
#[derive(Debug, Default)]
pub(super) struct Pending {
    places: IndexMap<WindowId, PlacedWindow>,
    /// Windows whose frames say something else.
    frames: IndexSet<WindowId>,
    /// A text that is to be typed.
    written: String,
    /// Windows that come into sight, or go out of it.
    seen: IndexMap<WindowId, bool>,
    stack: Option<Vec<StackingId>>,
    focus: Option<Option<WindowId>>,
    surfaces: IndexMap<SurfaceId, (Rc<Surface>, Vec<Rect>)>,
}

impl Pending {
    /// A window goes somewhere after all, unless it goes elsewhere by now.
    pub fn again(&mut self, window: WindowId, placed: PlacedWindow) {
        self.places.entry(window).or_insert(placed);
    }

    /// All of a surface is shown.
    pub fn shows(&mut self, surface: Rc<Surface>) {
        let whole = vec![Rect::from(surface.area)];
        self.surfaces.insert(surface.id.clone(), (surface, whole));
    }

    /// What lies over what is told again.
    pub fn stacks(&mut self, desktop: &Desktop) {
        self.stack = Some(desktop.stack().to_vec());
    }
}

impl Backend for X11 {
    type Error = Error;

    fn apply(&mut self, effects: Vec<DesktopEffect>, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        let mut answers = Vec::new();
        let rice = desktop.desk().rice().clone();
        for effect in effects {
            match effect {
                DesktopEffect::Wm(effect) => self.of_windows(effect)?,
                DesktopEffect::Grab(presses) => {
                    let (connection, keyboard) = (&self.server.connection, self.board.now());
                    let refused = grab(connection, self.server.root, keyboard, presses, &mut self.grabs)?;
                    if !refused.is_empty() {
                        answers.push(DesktopEvent::KeyGrabFailed(refused));
                    }
                }
                DesktopEffect::Ungrab(presses) => ungrab(&self.server.connection, self.server.root, &presses, &mut self.grabs)?,
                DesktopEffect::GrabKeyboard(holds) => {
                    if !self.hold(holds)? {
                        answers.push(DesktopEvent::KeyboardGrabFailed);
                    }
                }
                DesktopEffect::SendKey(press) => {
                    // While the key that types is held, its grab would give us what it types.
                    self.server.connection.ungrab_keyboard(x11rb::CURRENT_TIME)?.ignore_error();
                    self.stopped = false;
                    fake(&self.server.connection, self.server.root, self.board.now(), press)?;
                }
                DesktopEffect::Layout(at) => self.board.switch(&self.server.connection, at)?,
                // Whether it can have the pointer must be known at once.
                DesktopEffect::Surface(surface, areas) if surface.takes == Interactivity::Grab => {
                    let id = surface.id.clone();
                    if !self.surfaces.show(&mut self.painter.pens(&self.server), &rice, surface, &areas)? {
                        answers.push(DesktopEvent::PointerGrabFailed(id));
                    }
                }
                DesktopEffect::Surface(surface, areas) => {
                    let pending = self.pending.surfaces.entry(surface.id.clone()).or_insert((surface.clone(), Vec::new()));
                    pending.0 = surface;
                    pending.1.extend(areas);
                }
                DesktopEffect::Monitors(how) => answers.extend(self.arrange_outputs(how, &rice)?),
                DesktopEffect::WarpPointer(x, y) => {
                    let (none, root) = (x11rb::NONE, self.server.root);
                    self.server.connection.warp_pointer(none, root, 0, 0, 0, 0, x as i16, y as i16)?.ignore_error();
                }
                DesktopEffect::DestroySurface(id) => {
                    self.pending.surfaces.shift_remove(&id);
                    self.surfaces.close(&self.server, &id)?;
                }
                DesktopEffect::Tray(true) => self.tray = Tray::take(&self.server)?,
                DesktopEffect::Tray(false) => {
                    if let Some(tray) = self.tray.take() {
                        tray.leave(&self.server)?;
                    }
                }
                DesktopEffect::Stack(layers) => self.pending.stack = Some(layers),
                DesktopEffect::Follow(follow) => {
                    for id in desktop.desk().windows.keys() {
                        self.server.listen(id.0, follow)?;
                    }
                }
                DesktopEffect::Inputs => self.inputs_stale = !self.server.guest,
                DesktopEffect::SetUp(_) if self.server.guest => {}
                DesktopEffect::SetUp(old) => {
                    self.keyboard_stale |= old.keyboard.latin_first != rice.keyboard.latin_first;
                    let nothing = Branch::default();
                    match set_up(&self.server.connection, self.server.root, &rice, &nothing, Some(&old.keyboard)) {
                        Err(Error::Refused(why)) => answers.push(DesktopEvent::NotStarted(why)),
                        other => other?,
                    }
                }
                // The session's.
                DesktopEffect::Item(..) | DesktopEffect::Reload(_) | DesktopEffect::GoBack | DesktopEffect::Quit => {}
                DesktopEffect::CloseNotification(..)
                | DesktopEffect::InvokeNotificationAction(..)
                | DesktopEffect::List(_)
                | DesktopEffect::Compositions
                | DesktopEffect::Launch(..)
                | DesktopEffect::Used(_)
                | DesktopEffect::AnswerPrompt(..)
                | DesktopEffect::Backdrop(_) => {}
                // When the keyboard is whose it will be.
                DesktopEffect::Write(text) => self.pending.written.push_str(&text),
                DesktopEffect::Copy(text) => {
                    if !self.copy(ClipboardContent::Text(text))? {
                        answers.push(DesktopEvent::NotStarted("it cannot be copied".to_owned()));
                    }
                }
                DesktopEffect::Activate(window) => self.activate(window)?,
                DesktopEffect::Paste { selected } => self.paste(selected)?,
            }
        }
        Ok(answers)
    }

    fn measure(&mut self) -> &mut dyn Measure {
        self.painter.fonts()
    }
}

impl X11 {
    /// Something with windows: what is seen waits, what is asked of a program does not.
    fn of_windows(&mut self, effect: desk::WmEffect) -> Result<(), Error> {
        let pending = &mut self.pending;
        match effect {
            desk::WmEffect::Configure { window, placed } => drop(pending.places.insert(window, placed)),
            desk::WmEffect::RedrawFrame(window) => drop(pending.frames.insert(window)),
            desk::WmEffect::Map(window) => drop(pending.seen.insert(window, true)),
            desk::WmEffect::Unmap(window) => drop(pending.seen.insert(window, false)),
            desk::WmEffect::Focus(window) => pending.focus = Some(window),
            desk::WmEffect::Close(window) => self.close(window.0)?,
            desk::WmEffect::Kill(window) => self.server.kill(window.0)?,
            // The session's, and the desktop's.
            desk::WmEffect::Spawn { .. }
            | desk::WmEffect::Set(..)
            | desk::WmEffect::Pick(..)
            | desk::WmEffect::SaveScreenshot(..)
            | desk::WmEffect::ReportError(_) => {}
        }
        Ok(())
    }

    /// Shows what has gathered: windows in their places, what lies over what, the focus, what is behind, what we draw.
    pub fn show(&mut self, desktop: &Desktop) -> Result<(), Error> {
        let desk = desktop.desk();
        let Pending { places, frames, seen, stack, focus, surfaces, written } = std::mem::take(&mut self.pending);
        let rice = desk.rice();
        let moved = !places.is_empty() || !surfaces.is_empty();
        let there = |window: &WindowId| desk.windows.contains_key(window);
        let ground = |surface: &Surface| surface.level == StackingLayer::Backdrop;
        let (mut grounds, mut surfaces): (Vec<_>, Vec<_>) = surfaces.into_values().partition(|(surface, _)| ground(surface));
        if std::mem::take(&mut self.repaint) {
            let all = desktop.surfaces().filter(|surface| ground(surface));
            grounds = all.map(|surface| (surface.clone(), vec![surface.area.into()])).collect();
        }
        // Where windows go out of sight, or frames are drawn on something else, what lies behind is painted first: nothing that is
        // uncovered shows what was. Where windows only move, they go first: whoever pressed a key sees them move.
        let first = seen.values().any(|seen| !seen) || grounds.iter().any(|(surface, _)| self.painter.is_other(surface));
        if first {
            self.paint(rice, std::mem::take(&mut grounds))?;
        }
        let mut pens = self.painter.pens(&self.server);
        // The one that a person looks at goes first.
        let (focused, others): (Vec<_>, Vec<_>) = places.into_iter().partition(|(window, _)| desk.focused() == Some(*window));
        let mut leads = !focused.is_empty();
        for (window, placed) in focused.into_iter().chain(others).filter(|(window, _)| there(window)) {
            if desk.focused() != Some(window) && std::mem::take(&mut leads) {
                pens.server.flush_and_yield()?;
            }
            let size = |placed: PlacedWindow| (placed.area.w, placed.area.h);
            let resized = self.windows.placed(window.0).is_some_and(|before| size(before) != size(placed));
            if let Some(counter) = self.manners.get(&window.0).and_then(|manners| manners.counter).filter(|_| resized) {
                if self.pace.waits(window.0, placed) {
                    continue;
                }
                let time = self.times.of_this(&self.server)?;
                self.pace.resizes(&self.server, window.0, counter, time, self.now)?;
            }
            let least = desk.windows.get(&window).map_or((1, 1), |window| window.facts.min_size);
            self.windows.place(&mut pens, rice, window.0, placed, least)?;
        }
        for window in frames.into_iter().filter(there) {
            if let Some(placed) = desk.arrangement().placed.get(&window) {
                self.windows.frame(&mut pens, rice, window.0, *placed)?;
            }
        }
        // Who asked for a place and did not move is told where it is.
        for window in std::mem::take(&mut self.answers) {
            self.windows.tell_place(&self.server, window)?;
        }
        // What comes now has its place over the others before it is seen; what is there already is drawn when all has moved.
        if first || surfaces.iter().any(|(surface, _)| self.surfaces.window(&surface.id).is_none()) {
            self.draw(rice, std::mem::take(&mut surfaces))?;
        }
        // Those that come are in their place over the others before they are seen.
        if let Some(layers) = stack {
            self.restack(&layers)?;
        }
        for (window, seen) in seen.into_iter().filter(|(window, _)| there(window)) {
            match seen {
                true => self.windows.show(&self.server, window.0)?,
                false => self.windows.hide(&self.server, window.0)?,
            }
        }
        if let Some(window) = focus.filter(|_| !self.server.guest).filter(|focus| focus.is_none_or(|window| there(&window))) {
            self.focus(window)?;
        }
        if !written.is_empty() {
            self.write(&written)?;
        }
        self.announce(desktop)?;
        if !surfaces.is_empty() || !grounds.is_empty() {
            self.server.flush_and_yield()?;
        }
        self.draw(rice, surfaces)?;
        self.paint(rice, grounds)?;
        self.times.shown();
        if moved { self.windows.clear_holes(&self.server) } else { Ok(()) }
    }

    /// Draws what differs of what we draw ourselves, and what others show on it goes along.
    fn draw(&mut self, rice: &Rice, surfaces: Vec<(Rc<Surface>, Vec<Rect>)>) -> Result<(), Error> {
        let drawn = self.surfaces.drawn;
        let mut pens = self.painter.pens(&self.server);
        for (surface, areas) in surfaces {
            self.surfaces.show(&mut pens, rice, surface, &distinct(areas))?;
        }
        match &mut self.tray {
            Some(tray) if drawn != self.surfaces.drawn => tray.follow(&mut pens, &self.surfaces, rice),
            _ => Ok(()),
        }
    }

    /// Paints areas of what lies behind everything.
    fn paint(&mut self, rice: &Rice, grounds: Vec<(Rc<Surface>, Vec<Rect>)>) -> Result<(), Error> {
        grounds.iter().try_for_each(|(surface, areas)| self.painter.paint(&self.server, rice, surface, areas))
    }

    /// Lays everything over each other in an order: only what moved among the others is told to the server.
    fn restack(&mut self, layers: &[StackingId]) -> Result<(), Error> {
        if self.server.guest {
            return self.surfaces.raise(&self.server);
        }
        let window = |layer: &StackingId| match layer {
            StackingId::Window(id) => self.windows.holder(id.0).or_else(|| self.panels.has(id.0).then_some(id.0)),
            StackingId::Surface(id) => self.surfaces.window(id),
        };
        let new: Vec<Window> = layers.iter().filter_map(window).collect();
        let there: HashSet<Window> = new.iter().copied().collect();
        let old: Vec<Window> = self.stacked.iter().copied().filter(|window| there.contains(window)).collect();
        let mut moved: HashSet<Window> = HashSet::new();
        let (mut at, mut below) = (0, self.server.check);
        for window in &new {
            while old.get(at).is_some_and(|old| moved.contains(old)) {
                at += 1;
            }
            if old.get(at) == Some(window) {
                at += 1;
            } else {
                moved.insert(*window);
                stack(&self.server, *window, Some(below))?;
            }
            below = *window;
        }
        self.stacked = new;
        Ok(())
    }

    /// Lights the outputs otherwise; what there is to say of it.
    pub(super) fn arrange_outputs(&mut self, how: DisplayConfigSource, rice: &Rice) -> Result<Option<DesktopEvent>, Error> {
        if self.server.guest {
            return Ok(None);
        }
        let all = outputs(&self.server)?;
        let now = DisplayConfig::of(&all);
        let wanted = match how {
            DisplayConfigSource::AsSaid => plan(rice, &all),
            DisplayConfigSource::AsBefore => self.lit_before.take(),
        };
        let Some(wanted) = wanted.filter(|wanted| !wanted.same(&now)) else { return Ok(None) };
        tracing::info!(?wanted, "the outputs");
        if let Err(error) = light(&self.server, &wanted) {
            // Half of it is worse than nothing.
            light(&self.server, &now)?;
            return Ok(Some(DesktopEvent::NotStarted(format!("the monitors stay as they are: {error}"))));
        }
        self.monitors_stale = true;
        if how == DisplayConfigSource::AsBefore {
            return Ok(None);
        }
        self.lit_before = Some(now);
        Ok(Some(DesktopEvent::Arranged(wanted.amiss)))
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
