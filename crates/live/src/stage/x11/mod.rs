//! The stage on an X11 server, by ICCCM and EWMH.

mod announce;
mod effects;
mod error;
mod events;
mod facts;
mod keyboard;
mod keys;
mod learn;
mod names;
mod paint;
mod screen;
mod server;
mod surfaces;
mod tray;

pub use facts::{keyboard, monitors};
pub use learn::learn;

use std::collections::{HashMap, HashSet};
use std::os::fd::{AsFd, BorrowedFd};
use std::time::Instant;

use jovrik_core::bar::Strip;
use jovrik_core::check::Checked;
use jovrik_core::desk::MonitorFacts;
use jovrik_core::desktop::{Desktop, Event};
use jovrik_draw::Brush;
use x11rb::connection::Connection;
use x11rb::protocol::xproto::Window;
use x11rb::wrapper::ConnectionExt as _;

use crate::Error;
use announce::Told;
use effects::Pending;
use keyboard::{Board, set_up};
use keys::Grabs;
use paint::Painter;
use server::Server;
use surfaces::Surfaces;
use tray::Tray;

/// A display.
pub struct X11 {
    server: Server,
    /// The monitors that were told.
    facts: Vec<MonitorFacts>,
    monitors_stale: bool,
    painter: Painter,
    backdrop_changes: Option<Instant>,
    surfaces: Surfaces,
    board: Board,
    keyboard_stale: bool,
    grabs: Grabs,
    /// Whether the whole keyboard is ours for now.
    holds: bool,
    /// Whether the keyboard stands still until we let it go on.
    stopped: bool,
    /// Where the pointer was when it last came over a window.
    pointer: (i16, i16),
    /// How often each window was taken out of sight by us, and the server has not said so yet.
    hidden: HashMap<Window, u32>,
    /// The windows that we have shown.
    mapped: HashSet<Window>,
    told: Told,
    pending: Pending,
    tray: Option<Tray>,
}

impl X11 {
    /// Takes a display; and what was refused of the keyboard that the rice wants.
    pub fn take(display: &str, replace: bool, first: &Checked, brush: Brush) -> Result<(X11, Desktop, Option<String>), Error> {
        let server = Server::take(display, replace)?;
        let facts = server.monitors()?;
        let desktop = Desktop::new(first.rice.clone(), first.scopes.clone(), facts.clone());
        let painter = Painter::new(&server, &first.rice, desktop.desk(), brush)?;
        let refused = match set_up(&server.connection, server.root, &first.rice, &first.tree, None) {
            Err(Error::Refused(why)) => Some(why),
            other => other.map(|()| None)?,
        };
        let board = Board::read(&server.connection, server.root, first.rice.keyboard.latin_first)?;
        let mut stage = X11 {
            server,
            facts,
            monitors_stale: false,
            backdrop_changes: painter.backdrop_changes(&first.rice, Instant::now()),
            painter,
            surfaces: Surfaces::default(),
            board,
            keyboard_stale: false,
            grabs: Grabs::new(),
            holds: false,
            stopped: false,
            pointer: (-1, -1),
            hidden: HashMap::new(),
            mapped: HashSet::new(),
            told: Told::default(),
            pending: Pending::default(),
            tray: None,
        };
        stage.paint_all(&desktop)?;
        Ok((stage, desktop, refused))
    }

    /// The keyboards of the display, and the windows that are there: what is to be told first.
    pub fn begin(&mut self, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let mut events = vec![self.keyboards()];
        for window in self.server.existing()? {
            events.extend(self.manage(window, desktop)?);
        }
        Ok(events)
    }

    fn keyboards(&self) -> Event {
        Event::Keyboards(self.board.layouts().clone(), self.board.active())
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.server.connection.stream().as_fd()
    }

    /// When something of it changes by itself.
    pub fn wakes(&self) -> Option<Instant> {
        self.backdrop_changes
    }

    /// What changes by itself is done.
    pub fn passes(&mut self, now: Instant, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        match self.backdrop_changes.is_some_and(|changes| changes <= now) {
            true => self.refresh_backdrop(desktop),
            false => Ok(Vec::new()),
        }
    }

    /// Fonts and pictures.
    pub fn brush(&mut self) -> &mut Brush {
        self.painter.brush()
    }

    /// All bars as they are drawn, with their monitors, in order.
    pub fn strips(&self) -> impl Iterator<Item = (&str, &Strip)> {
        self.surfaces.strips()
    }

    /// How often something on a bar was drawn.
    pub fn drawn(&self) -> u64 {
        self.surfaces.drawn
    }

    /// Hands over what was asked of the server, and waits until it is done.
    pub fn sync(&self) -> Result<(), Error> {
        Ok(self.server.connection.sync()?)
    }

    /// Hands over what was asked of the server.
    pub fn flush(&self) -> Result<(), Error> {
        Ok(self.server.connection.flush()?)
    }

    /// Leaves the screen to whoever comes next.
    pub fn leave(&mut self, desktop: &Desktop) -> Result<(), Error> {
        if let Some(tray) = self.tray.take() {
            tray.leave(&self.server)?;
        }
        self.server.leave(desktop.desk().windows.keys().map(|id| id.0))
    }

    /// Paints everything behind the windows.
    fn paint_all(&mut self, desktop: &Desktop) -> Result<(), Error> {
        let desk = desktop.desk();
        let areas: Vec<_> = desk.monitors.iter().map(|monitor| monitor.facts.area).collect();
        self.painter.paint(&self.server, desk.rice(), desk, &areas)
    }

    /// Draws the backdrop anew; what lies on it lets it through.
    fn refresh_backdrop(&mut self, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let rice = desktop.desk().rice().clone();
        self.backdrop_changes = self.painter.backdrop_changes(&rice, Instant::now());
        self.painter.remake_backdrop(&rice, desktop.desk())?;
        self.paint_all(desktop)?;
        Ok(vec![Event::Redraw])
    }
}
