//! The session: one loop over the server, the rice's folder, the socket, the sources and signals.

mod announce;
mod answers;
mod effects;
mod reload;
mod start;
mod tray;

use std::collections::{HashMap, HashSet, VecDeque};
use std::io::Read;
use std::os::fd::{AsFd, BorrowedFd};
use std::os::unix::net::UnixStream;
use std::time::Instant;

use jovrik_core::desk::{self, Action, MonitorFacts, Which, WindowId};
use jovrik_core::desktop::{Desktop, Event, Moment};
use jovrik_core::keys::Press;
use jovrik_core::rice::PointerFocus;
use jovrik_draw::Brush;
use jovrik_source::Engine;
use rustix::event::{PollFd, PollFlags, Timespec, poll};
use serde_json::Value;
use x11rb::connection::Connection;
use x11rb::protocol::Event as XEvent;
use x11rb::protocol::xproto::{self, Allow, AtomEnum, ConfigureWindowAux, ConnectionExt, NotifyMode, Window};

use crate::keyboard::{Board, set_up};
use crate::keys::Grabs;
use crate::paint::Painter;
use crate::programs::Programs;
use crate::seat::Seat;
use crate::signals::signals;
use crate::socket::{Request, Socket};
use crate::surfaces::Surfaces;
use crate::tray::{Notifiers, Tray};
use crate::watch::Watch;
use crate::{Ended, Error, Options};

use reload::{Reload, fingerprint};

/// A running desktop.
pub struct Session {
    options: Options,
    /// What is to be seen and done.
    desktop: Desktop,
    /// The moment that is being handled.
    now: Instant,
    started: Instant,
    // The display.
    seat: Seat,
    /// The monitors that were told.
    facts: Vec<MonitorFacts>,
    painter: Painter,
    surfaces: Surfaces,
    board: Board,
    keyboard_stale: bool,
    monitors_stale: bool,
    grabs: Grabs,
    /// Whether the whole keyboard is ours for now.
    holds: bool,
    /// Whether the keyboard stands still until we let it go on.
    stopped: bool,
    /// Where the pointer was when it last came over a window.
    pointer: (i16, i16),
    hidden: HashMap<Window, u32>,
    clients_told: Vec<u32>,
    tray: Option<Tray>,
    // What is neither.
    notifiers: Option<Notifiers>,
    backdrop_changes: Option<Instant>,
    engine: Engine,
    /// The bars that some monitor shows.
    bars_seen: HashSet<String>,
    watch: Watch,
    socket: Option<Socket>,
    signals: UnixStream,
    stop: Vec<(i32, UnixStream)>,
    interrupted: bool,
    programs: Programs,
    reload: Reload,
    reload_wanted: Option<Instant>,
    wakeups: u64,
    quit: bool,
}

impl Session {
    /// Takes the display and shows what is there.
    pub fn start(options: Options) -> Result<Session, Error> {
        let seat = Seat::take(&options.display, options.replace)?;
        let rice = options.first.rice.clone();
        let seen = fingerprint(&options.first);
        let watch = Watch::new(&options.folder, options.watched)?;
        let socket = Socket::listen(&options.socket)?;
        let facts = seat.monitors()?;
        let desktop = Desktop::new(rice.clone(), options.first.scopes.clone(), facts.clone());
        let painter = Painter::new(&seat, &rice, desktop.desk(), Brush::new(options.fonts.clone(), &options.folder))?;
        let now = Instant::now();
        let engine = Engine::new(&rice, now);
        let refused = match set_up(&seat.connection, seat.root, &rice, &options.first.tree, None) {
            Err(Error::Refused(why)) => Some(why),
            other => other.map(|()| None)?,
        };
        let board = Board::read(&seat.connection, seat.root, rice.keyboard.latin_first)?;
        let (signals, stop) = signals().map_err(|error| Error::System("signals cannot be heard", error.to_string()))?;
        let mut session = Session {
            options,
            desktop,
            now,
            started: now,
            seat,
            facts,
            painter,
            surfaces: Surfaces::default(),
            board,
            keyboard_stale: false,
            monitors_stale: false,
            grabs: Grabs::new(),
            holds: false,
            stopped: false,
            pointer: (-1, -1),
            hidden: HashMap::new(),
            clients_told: Vec::new(),
            tray: None,
            notifiers: None,
            backdrop_changes: None,
            engine,
            bars_seen: HashSet::new(),
            watch,
            socket: Some(socket),
            signals,
            stop,
            interrupted: false,
            programs: Programs::default(),
            reload: Reload { seen, ..Reload::default() },
            reload_wanted: None,
            wakeups: 0,
            quit: false,
        };
        session.keep_tray()?;
        session.backdrop_changes = session.painter.backdrop_changes(&rice, now);
        session.step(Event::Keyboards(session.board.layouts().clone(), session.board.active()))?;
        if let Some(why) = refused {
            session.step(Event::NotStarted(why))?;
        }
        let screen = session.desktop.desk().monitors.iter().map(|monitor| monitor.facts.area).collect::<Vec<_>>();
        session.painter.paint(&session.seat, &rice, session.desktop.desk(), &screen)?;
        for window in session.seat.existing()? {
            session.manage(window)?;
        }
        session.tell_workspaces()?;
        session.start_programs(None)?;
        Ok(session)
    }

    /// Runs until it is told to quit or its display is gone.
    pub fn run(&mut self) -> Result<Ended, Error> {
        let done = self.turn();
        // Before the display is given up: whoever takes over listens at the same place.
        self.socket = None;
        match done {
            // A server that ended has no windows to look after.
            Err(Error::Gone) => Err(Error::Gone),
            other => {
                if let Some(tray) = self.tray.take() {
                    tray.leave(&self.seat)?;
                }
                let windows: Vec<Window> = self.desktop.desk().windows.keys().map(|id| id.0).collect();
                self.seat.leave(windows.into_iter())?;
                other.map(|()| if self.interrupted { Ended::Interrupted } else { Ended::Quit })
            }
        }
    }

    fn turn(&mut self) -> Result<(), Error> {
        while !self.quit {
            self.drain()?;
            if self.quit {
                break;
            }
            self.now = Instant::now();
            if self.watch.saved() {
                self.reload_wanted.get_or_insert(self.now);
            }
            if let Some(since) = self.reload_wanted.take() {
                self.reload(since)?;
            }
            self.requests()?;
            if self.engine.step(self.now) {
                self.step(Event::Values(self.engine.known().clone()))?;
            }
            self.hear_items()?;
            if self.desktop.wakes().is_some_and(|wakes| wakes <= self.moment()) {
                self.step(Event::Tick)?;
            }
            if self.backdrop_changes.is_some_and(|changes| changes <= self.now) {
                self.refresh_backdrop()?;
            }
            self.seat.connection.flush()?;
            // Replies may have brought events that no poll would tell of.
            if !self.drain()? && self.reload_wanted.is_none() && !self.quit {
                self.wait()?;
            }
        }
        Ok(())
    }

    /// The moment that is being handled, as the core has it.
    fn moment(&self) -> Moment {
        Moment(self.now.saturating_duration_since(self.started))
    }

    /// Handles what the server sent; whether there was anything.
    fn drain(&mut self) -> Result<bool, Error> {
        let mut any = false;
        while let Some(event) = self.seat.connection.poll_for_event()? {
            any = true;
            self.event(event)?;
        }
        if std::mem::take(&mut self.monitors_stale) {
            self.monitors_changed()?;
        }
        if std::mem::take(&mut self.keyboard_stale) {
            self.board = Board::read(&self.seat.connection, self.seat.root, self.desktop.desk().rice().keyboard.latin_first)?;
            self.step(Event::Keyboards(self.board.layouts().clone(), self.board.active()))?;
        }
        Ok(any)
    }

    fn wait(&mut self) -> Result<(), Error> {
        let desktop = self.desktop.wakes().map(|wakes| self.started + wakes.0);
        let next = [self.engine.next(), desktop, self.backdrop_changes].into_iter().flatten().min();
        let timeout = next.map(|next| {
            let left = next.saturating_duration_since(Instant::now());
            Timespec { tv_sec: left.as_secs() as i64, tv_nsec: i64::from(left.subsec_nanos()) }
        });
        let server = self.seat.connection.stream().as_fd();
        let mut fds: Vec<BorrowedFd<'_>> = vec![server, self.watch.fd(), self.signals.as_fd()];
        fds.extend(self.socket.iter().flat_map(Socket::fds));
        fds.extend(self.engine.fds());
        fds.extend(self.notifiers.iter().map(Notifiers::fd));
        let mut polled: Vec<PollFd<'_>> = fds.iter().map(|fd| PollFd::new(fd, PollFlags::IN)).collect();
        match poll(&mut polled, timeout.as_ref()) {
            Ok(_) | Err(rustix::io::Errno::INTR) => {}
            Err(error) => return Err(Error::System("waiting failed", error.to_string())),
        }
        let signalled = !polled[2].revents().is_empty();
        drop(polled);
        self.wakeups += 1;
        if signalled {
            let mut buffer = [0; 64];
            while matches!(self.signals.read(&mut buffer), Ok(len) if len > 0) {}
            self.programs.reap();
            let mut byte = [0; 8];
            for (signal, stop) in &mut self.stop {
                if matches!(stop.read(&mut byte), Ok(len) if len > 0) {
                    self.quit = true;
                    self.interrupted = *signal == signal_hook::consts::SIGINT;
                }
            }
        }
        Ok(())
    }

    /// One event, and all answers that came of it.
    fn step(&mut self, event: Event) -> Result<(), Error> {
        let shown = |desk: &desk::Desk| (desk.workspace(), desk.windows.len());
        let before = shown(self.desktop.desk());
        let mut waiting = VecDeque::from([event]);
        while let Some(event) = waiting.pop_front() {
            let now = self.moment();
            let effects = self.desktop.handle(event, now, self.painter.fonts());
            self.carry_out(effects, &mut waiting)?;
        }
        let seen = self.desktop.desk().bars_seen();
        if seen != self.bars_seen {
            self.bars_seen = seen;
            self.feed()?;
        }
        if before != shown(self.desktop.desk()) {
            self.tell_current()?;
            let rice = self.desktop.desk().rice().clone();
            if self.painter.backdrop_stale(&rice, self.desktop.desk()) {
                self.refresh_backdrop()?;
            }
        }
        Ok(())
    }

    /// Asks the sources of what is seen.
    fn feed(&mut self) -> Result<(), Error> {
        let seen = &self.bars_seen;
        self.engine.replace(&self.desktop.desk().rice().clone(), &|bar| seen.contains(bar), self.now);
        self.engine.step(self.now);
        self.step(Event::Values(self.engine.known().clone()))
    }

    /// The monitors of the display may be others.
    fn monitors_changed(&mut self) -> Result<(), Error> {
        let (facts, size) = (self.seat.monitors()?, self.seat.size);
        if self.painter.size() == size && facts == self.facts {
            return Ok(());
        }
        self.facts = facts.clone();
        self.of_desk(desk::Event::Monitors(facts))?;
        let rice = self.desktop.desk().rice().clone();
        self.painter.resize(&self.seat, &rice, self.desktop.desk())?;
        self.paint_all()?;
        self.step(Event::Redraw)?;
        self.tell_workspaces()?;
        // Overlays may ask for monitors: which of them hold is found out anew.
        if !self.options.first.overlays.is_empty() {
            self.reload(self.now)?;
        }
        Ok(())
    }

    fn of_desk(&mut self, event: desk::Event) -> Result<(), Error> {
        self.step(Event::Desk(event))
    }

    fn manage(&mut self, window: Window) -> Result<(), Error> {
        if self.manages(window) {
            // It was hidden, and asks to be seen.
            return self.of_desk(desk::Event::Wanted(WindowId(window)));
        }
        let names: Vec<String> = self.desktop.desk().workspaces.iter().map(|workspace| workspace.name.clone()).collect();
        let Some(facts) = self.seat.facts(window, &names)? else {
            self.seat.show(window)?;
            return Ok(());
        };
        self.seat.listen(window, self.desktop.desk().rice().pointer.focus == PointerFocus::Enter)?;
        self.seat.manage(window)?;
        self.of_desk(desk::Event::Appears(WindowId(window), facts))?;
        if self.seat.calls(window)? {
            self.of_desk(desk::Event::Calls(WindowId(window), true))?;
        }
        // A window that appears on a workspace nobody sees was mapped by nobody, or is adopted: it is hidden.
        if !self.desktop.desk().arrangement().placed.contains_key(&WindowId(window)) {
            if self.seat.is_seen(window)? {
                *self.hidden.entry(window).or_default() += 1;
            }
            self.seat.hide(window)?;
        }
        self.tell_clients()
    }

    fn event(&mut self, event: XEvent) -> Result<(), Error> {
        match event {
            XEvent::MapRequest(event) => self.manage(event.window)?,
            XEvent::DestroyNotify(event) => self.gone(event.window)?,
            XEvent::UnmapNotify(event) if event.event == self.seat.root => match self.hidden.get_mut(&event.window) {
                Some(ours) if *ours > 0 => *ours -= 1,
                _ => self.gone(event.window)?,
            },
            XEvent::ConfigureRequest(event) => self.configure(&event)?,
            XEvent::PropertyNotify(event) => self.property(event.window, event.atom)?,
            XEvent::KeyPress(event) => {
                self.stopped = true;
                self.step(Event::Down(self.board.now().press_of(event.detail.into(), u16::from(event.state).into())))?;
                self.let_go_on()?;
            }
            XEvent::KeyRelease(event) => {
                // A key that comes up stops the keyboard only while all of it is ours.
                self.stopped = self.holds;
                self.step(Event::Up(event.detail.into()))?;
                self.let_go_on()?;
            }
            XEvent::ButtonPress(event) if self.surfaces.take_all() => {
                self.step(Event::Button(None, event.detail, event.root_x.into(), event.root_y.into()))?;
            }
            XEvent::ButtonPress(event) if event.event == self.seat.root => {
                let key = Press::BUTTON + u32::from(event.detail);
                self.step(Event::Down(self.board.now().press_of(key, u16::from(event.state).into())))?;
                self.seat.connection.allow_events(Allow::ASYNC_POINTER, x11rb::CURRENT_TIME)?.ignore_error();
            }
            XEvent::ButtonRelease(event) if event.event == self.seat.root && !self.surfaces.take_all() => {
                self.step(Event::Up(Press::BUTTON + u32::from(event.detail)))?;
            }
            XEvent::ButtonPress(event) => match self.surfaces.of(event.event).cloned() {
                Some(id) => self.step(Event::Button(Some(id), event.detail, event.root_x.into(), event.root_y.into()))?,
                None => {
                    self.seat.connection.allow_events(Allow::REPLAY_POINTER, event.time)?;
                    if self.manages(event.event) {
                        self.of_desk(desk::Event::Wanted(WindowId(event.event)))?;
                    }
                }
            },
            XEvent::MotionNotify(event) => {
                let over = self.surfaces.of(event.event).cloned();
                self.step(Event::Pointed(over, event.root_x.into(), event.root_y.into()))?;
            }
            XEvent::LeaveNotify(event) if self.surfaces.of(event.event).is_some() => self.step(Event::Left)?,
            XEvent::EnterNotify(event) => {
                if let Some(id) = self.surfaces.of(event.event).cloned() {
                    return self.step(Event::Pointed(Some(id), event.root_x.into(), event.root_y.into()));
                }
                // A window that comes to lie under a pointer at rest was not pointed at.
                let moved = std::mem::replace(&mut self.pointer, (event.root_x, event.root_y)) != (event.root_x, event.root_y);
                let focus = self.desktop.desk().rice().pointer.focus;
                if focus == PointerFocus::Enter && moved && event.mode == NotifyMode::NORMAL && self.manages(event.event) {
                    self.of_desk(desk::Event::Wanted(WindowId(event.event)))?;
                }
            }
            XEvent::ClientMessage(event) => self.message(&event)?,
            // Many of them come at once.
            XEvent::MappingNotify(_) | XEvent::XkbNewKeyboardNotify(_) | XEvent::XkbMapNotify(_) => self.keyboard_stale = true,
            XEvent::XkbStateNotify(event) if self.board.switched(u8::from(event.group).into()) => {
                self.step(Event::Keyboards(self.board.layouts().clone(), self.board.active()))?;
            }
            // Many of them come at once, and some change nothing.
            XEvent::RandrScreenChangeNotify(event) => {
                self.seat.size = (event.width, event.height);
                self.monitors_stale = true;
            }
            XEvent::ConfigureNotify(event) if event.window == self.seat.root => {
                self.seat.size = (event.width, event.height);
                self.monitors_stale = true;
            }
            XEvent::RandrNotify(_) => self.monitors_stale = true,
            // Another tray takes over.
            XEvent::SelectionClear(event) if self.tray.as_ref().is_some_and(|tray| tray.is(event.owner)) => {
                if let Some(tray) = self.tray.take() {
                    tray.leave(&self.seat)?;
                }
                self.tell_tray()?;
            }
            // An icon was taken out of the tray.
            XEvent::ReparentNotify(event) => {
                let gone = match self.tray.as_mut().filter(|tray| !tray.is(event.parent)) {
                    Some(tray) => tray.gone(&self.seat, event.window)?,
                    None => false,
                };
                if gone {
                    self.tell_tray()?;
                }
            }
            // Another manager takes over.
            XEvent::SelectionClear(_) => self.quit = true,
            // Errors of windows that vanished are normal.
            _ => {}
        }
        Ok(())
    }

    fn gone(&mut self, window: Window) -> Result<(), Error> {
        let gone = match &mut self.tray {
            Some(tray) => tray.gone(&self.seat, window)?,
            None => false,
        };
        if gone {
            self.tell_tray()?;
        }
        self.hidden.remove(&window);
        if self.manages(window) {
            self.seat.state(window, 0)?;
            self.of_desk(desk::Event::Goes(WindowId(window)))?;
            self.tell_clients()?;
        }
        Ok(())
    }

    fn configure(&mut self, event: &xproto::ConfigureRequestEvent) -> Result<(), Error> {
        let id = WindowId(event.window);
        match self.desktop.desk().arrangement().placed.get(&id) {
            Some(placed) => self.seat.tell_place(event.window, placed.area),
            None => {
                let asked = ConfigureWindowAux::from_configure_request(event);
                self.seat.connection.configure_window(event.window, &asked)?.ignore_error();
                Ok(())
            }
        }
    }

    fn property(&mut self, window: Window, atom: u32) -> Result<(), Error> {
        if let Some(tray) = self.tray.as_mut().filter(|tray| tray.has(window)) {
            let changed = atom == self.seat.names._XEMBED_INFO && tray.changed(&self.seat, window)?;
            return if changed { self.tell_tray() } else { Ok(()) };
        }
        let id = WindowId(window);
        if !self.manages(window) {
            return Ok(());
        }
        let names = self.seat.names;
        if atom == names._NET_WM_NAME || atom == names.WM_NAME {
            let title = self.seat.title(window)?;
            self.of_desk(desk::Event::Retitled(id, title))?;
        } else if atom == u32::from(AtomEnum::WM_HINTS) {
            let calls = self.seat.calls(window)?;
            self.of_desk(desk::Event::Calls(id, calls))?;
        }
        Ok(())
    }

    fn message(&mut self, event: &xproto::ClientMessageEvent) -> Result<(), Error> {
        if event.format != 32 {
            return Ok(());
        }
        let names = self.seat.names;
        let data = event.data.as_data32();
        if let Some(tray) = self.tray.as_mut().filter(|tray| tray.is(event.window)) {
            // SYSTEM_TRAY_REQUEST_DOCK; balloons are not ours to show.
            if event.type_ == names._NET_SYSTEM_TRAY_OPCODE && data[1] == 0 {
                tray.dock(&self.seat, data[2])?;
                return self.tell_tray();
            }
            return Ok(());
        }
        let id = WindowId(event.window);
        if event.type_ == names._NET_ACTIVE_WINDOW {
            // A pager speaks for the person; a program only for itself (EWMH, source indication).
            self.of_desk(if data[0] == 2 { desk::Event::Wanted(id) } else { desk::Event::Calls(id, true) })?;
        } else if event.type_ == names._NET_CLOSE_WINDOW && self.manages(event.window) {
            self.seat.close(event.window)?;
        } else if event.type_ == names._NET_CURRENT_DESKTOP
            && let Some(name) = self.desktop.desk().workspaces.get(data[0] as usize).map(|workspace| workspace.name.clone())
        {
            self.of_desk(desk::Event::Act(Action::Go(Which::Named(name))))?;
        }
        Ok(())
    }

    /// Whether a window is one of those on the desk.
    fn manages(&self, window: Window) -> bool {
        self.desktop.desk().windows.contains_key(&WindowId(window))
    }

    fn requests(&mut self) -> Result<(), Error> {
        let mut broken = None;
        // The socket is taken out so that answers may look at all the rest.
        let Some(mut socket) = self.socket.take() else { return Ok(()) };
        socket.step(&mut |request| match request {
            Request::Ask(what) => self.answer(&what),
            Request::Tell(action) => match self.step(Event::Act(action)) {
                Ok(()) if self.desktop.refused().is_empty() => Ok(Value::Null),
                Ok(()) => Err(self.desktop.refused().join("; ")),
                Err(error) => {
                    let words = error.to_string();
                    broken = Some(error);
                    Err(words)
                }
            },
        });
        self.socket = Some(socket);
        broken.map_or(Ok(()), Err)
    }
}
