//! The stage on an X11 server, by ICCCM and EWMH.

mod announce;
mod atoms;
mod clipboard;
mod connection;
mod effects;
mod error;
mod events;
mod facts;
mod foreign_grabs;
mod foreign_toplevels;
mod input;
mod key_grabs;
mod key_recorder;
mod keyboard;
mod messages;
mod outputs;
mod own_icons;
mod paint;
mod panels;
mod pick;
mod pings;
mod resources;
mod saved_state;
mod screen;
mod server;
mod shot;
mod startup_messages;
mod surfaces;
mod sync_tracker;
mod times;
mod tray;
mod windows;

pub use clipboard::ClipboardContent;
pub use facts::{keyboard, monitors};
pub use foreign_grabs::taken;
pub use key_recorder::learn;
pub use pick::pick;

use std::collections::{HashMap, HashSet};
use std::os::fd::{AsFd, BorrowedFd};
use std::time::Instant;

use indexmap::IndexSet;
use jovrik_core::bar::BarLayout;
use jovrik_core::check::CheckedRice;
use jovrik_core::desk::{self, DisplayConfig, MonitorFacts, WindowId, plan};
use jovrik_core::desktop::{Desktop, DesktopEvent, StandaloneComponent, SurfaceId};
use jovrik_draw::Brush;
use x11rb::connection::Connection;
use x11rb::protocol::xproto::Window;
use x11rb::wrapper::ConnectionExt as _;

use crate::Error;
use announce::Told;
use clipboard::Clipboard;
use effects::Pending;
use input::Inputs;
use key_grabs::Grabs;
use keyboard::{ServerKeyboard, set_up};
use paint::Painter;
use panels::Panels;
use pings::Pings;
use server::{ClientProtocols, Server};
use startup_messages::StartupMessages;
use surfaces::Surfaces;
use sync_tracker::SyncTracker;
use times::Times;
use tray::Tray;
use windows::Windows;

/// A display.
pub struct X11 {
    server: Server,
    /// The monitors that were told.
    facts: Vec<MonitorFacts>,
    monitors_stale: bool,
    /// The names of what is connected, and how it was lit before it was tried otherwise.
    connected: Vec<String>,
    lit_before: Option<DisplayConfig>,
    painter: Painter,
    /// Whether all that is behind is to be painted.
    repaint: bool,
    windows: Windows,
    /// What we laid over each other, from below.
    stacked: Vec<Window>,
    surfaces: Surfaces,
    board: ServerKeyboard,
    keyboard_stale: bool,
    grabs: Grabs,
    /// Whether the whole keyboard is ours for now.
    holds: bool,
    /// Whether the keyboard stands still until we let it go on.
    stopped: bool,
    /// Where the pointer was when it last came over a window.
    pointer: (i16, i16),
    /// How each window is spoken to.
    manners: HashMap<Window, ClientProtocols>,
    /// Windows that asked for a place, and are owed an answer.
    answers: HashSet<Window>,
    times: Times,
    /// The server's time of what the person did last; 0 when nothing was done yet.
    active: u32,
    told: Told,
    pending: Pending,
    tray: Option<Tray>,
    /// A key that was given a character which no other one makes.
    spare_key: Option<u8>,
    /// What we offer to be pasted.
    clip: Clipboard,
    panels: Panels,
    pings: Pings,
    pace: SyncTracker,
    launches: StartupMessages,
    /// The windows that tell of the person in others, and those.
    users: HashMap<Window, Window>,
    /// Whether a program's drag has the pointer.
    drags: bool,
    /// How often a window of ours was destroyed by others.
    lost: u32,
    /// The moment that is being handled.
    now: Instant,
    /// Devices, as they were set.
    inputs: Inputs,
    inputs_stale: bool,
    /// Windows that said something else of their sizes.
    sizes_stale: IndexSet<Window>,
    /// Windows whose own icons are to be read.
    icons_stale: IndexSet<Window>,
    /// What programs find on the server, as it was put there last.
    resources: Vec<String>,
    /// How the desk was kept last.
    kept: String,
    /// What was left out of what was kept, and why.
    pub kept_amiss: Vec<String>,
    /// How often something had happened to it then.
    kept_at: u64,
}

impl X11 {
    /// Takes a display; and what was refused of the keyboard that the rice wants.
    ///
    /// With parts that are meant `only`, it is a guest beside another manager: nothing of the server is changed for others.
    pub fn take(
        display: &str,
        replace: bool,
        first: &CheckedRice,
        brush: Brush,
        only: &[StandaloneComponent],
    ) -> Result<(X11, Desktop, Option<String>), Error> {
        let guest = !only.is_empty();
        let server = Server::take(display, replace, guest)?;
        let connected = outputs::outputs(&server).unwrap_or_default();
        if let Some(plan) = plan(&first.rice, &connected).filter(|wanted| !guest && !wanted.same(&DisplayConfig::of(&connected)))
            && let Err(error) = outputs::light(&server, &plan)
        {
            tracing::warn!(%error, "the monitors stay as they are");
        }
        let facts = server.monitors()?;
        let (rice, scopes) = (first.rice.clone(), first.scopes.clone());
        let desktop =
            if guest { Desktop::beside(rice, scopes, facts.clone(), only) } else { Desktop::new(rice, scopes, facts.clone()) };
        let painter = Painter::new(&server, brush)?;
        let keyboard = if guest { Ok(()) } else { set_up(&server.connection, server.root, &first.rice, &first.tree, None) };
        let refused = match keyboard {
            Err(Error::Refused(why)) => Some(why),
            other => other.map(|()| None)?,
        };
        let board = ServerKeyboard::read(&server.connection, server.root, first.rice.keyboard.latin_first)?;
        let times = Times::new(&server)?;
        let stage = X11 {
            server,
            facts,
            monitors_stale: false,
            connected: connected.into_iter().map(|output| output.name).collect(),
            lit_before: None,
            painter,
            repaint: false,
            windows: Windows::default(),
            stacked: Vec::new(),
            surfaces: Surfaces::default(),
            board,
            keyboard_stale: false,
            grabs: Grabs::new(),
            holds: false,
            stopped: false,
            pointer: (-1, -1),
            manners: HashMap::new(),
            answers: HashSet::new(),
            times,
            active: 0,
            told: Told::default(),
            pending: Pending::default(),
            tray: None,
            spare_key: None,
            clip: Clipboard::default(),
            panels: Panels::default(),
            pings: Pings::default(),
            pace: SyncTracker::default(),
            launches: StartupMessages::default(),
            users: HashMap::new(),
            drags: false,
            lost: 0,
            now: Instant::now(),
            inputs: Inputs::default(),
            inputs_stale: !guest,
            sizes_stale: IndexSet::new(),
            icons_stale: IndexSet::new(),
            resources: Vec::new(),
            kept: String::new(),
            kept_amiss: Vec::new(),
            kept_at: 0,
        };
        Ok((stage, desktop, refused))
    }

    /// The keyboards of the display, and the windows that are there: what is to be told first.
    pub fn begin(&mut self, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        let mut events = vec![self.keyboards()];
        if self.server.guest {
            events.push(DesktopEvent::Wm(desk::WmEvent::RestoreFinished));
            events.push(self.neighbours()?);
            return Ok(events);
        }
        let mut windows = self.server.existing()?;
        if let Some(kept) = self.kept()? {
            saved_state::in_order(&mut windows, &kept);
            events.push(DesktopEvent::Wm(desk::WmEvent::RestoreStarted(Box::new(kept))));
        }
        for (window, mapped) in windows {
            events.extend(self.manage(window, mapped, desktop)?);
        }
        events.push(DesktopEvent::Wm(desk::WmEvent::RestoreFinished));
        Ok(events)
    }

    /// The moment that is being handled.
    pub fn at(&mut self, now: Instant) {
        self.now = now;
    }

    /// When it wants to be looked at again, whatever happens.
    pub fn wakes(&self) -> Option<Instant> {
        [self.pings.wakes(), self.pace.wakes()].into_iter().flatten().min()
    }

    /// Time has passed: who did not answer, and who took too long to draw.
    pub fn passes(&mut self) -> Vec<DesktopEvent> {
        for (window, placed) in self.pace.late(self.now) {
            self.pending.again(WindowId(window), placed);
        }
        self.pings.late(self.now).into_iter().map(|window| DesktopEvent::ResponsivenessChanged(WindowId(window), true)).collect()
    }

    /// The server's time of what the person did last.
    pub fn active(&self) -> u32 {
        self.active
    }

    /// Tells all that a program is on its way: what its windows will say, what is run, and the number of the workspace.
    pub fn launches(&self, id: &str, program: &str, workspace: usize) -> Result<(), Error> {
        StartupMessages::begins(&self.server, id, program, workspace)
    }

    fn keyboards(&self) -> DesktopEvent {
        DesktopEvent::Keyboards(self.board.layouts().clone(), self.board.active())
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.server.connection.stream().as_fd()
    }

    /// Icons of the theme that could not be drawn: their names, and why.
    pub fn broken_icons(&self) -> impl Iterator<Item = String> {
        self.painter.broken_icons()
    }

    /// Fonts and pictures.
    pub fn brush(&mut self) -> &mut Brush {
        self.painter.brush()
    }

    /// Draws surfaces again that miss a picture, since some are there now.
    pub fn shows_missing(&mut self, desktop: &Desktop) {
        let missing: Vec<SurfaceId> = self.surfaces.missing.drain().chain(self.painter.missing()).collect();
        for surface in desktop.surfaces().filter(|surface| missing.contains(&surface.id)) {
            self.pending.shows(surface.clone());
        }
    }

    /// Files of pictures are others: all that was read of them is forgotten, and what shows one is drawn anew.
    pub fn forget_pictures(&mut self, desktop: &Desktop) {
        self.painter.forget();
        self.repaint = true;
        for surface in desktop.surfaces().filter(|surface| surface.level != desk::StackingLayer::Backdrop) {
            self.pending.shows(surface.clone());
        }
    }

    /// All bars as they are drawn, with their monitors, in order.
    pub fn strips(&self) -> impl Iterator<Item = (&str, &BarLayout)> {
        self.surfaces.strips()
    }

    /// What devices do not have that the rice says something of.
    pub fn inputs_amiss(&self) -> &[String] {
        &self.inputs.amiss
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

    /// Leaves the screen to whoever comes next; to ourselves `again` with what is out of sight as it is.
    pub fn leave(&mut self, again: bool) -> Result<(), Error> {
        if let Some(tray) = self.tray.take() {
            tray.leave(&self.server)?;
        }
        self.give_back_key()?;
        self.windows.leave(&self.server, again)?;
        self.server.leave()
    }
}
