//! The session: one loop over the server, the rice's folder, the socket, the sources and signals.

mod announce;
mod answers;
mod keys;
mod pointer;
mod reload;
mod sheet;
mod start;
mod tray;

use std::collections::{HashMap, HashSet};
use std::io::Read;
use std::os::fd::{AsFd, BorrowedFd};
use std::os::unix::net::UnixStream;
use std::rc::Rc;
use std::time::Instant;

use jovrik_core::bar::{Now, TrayNow};
use jovrik_core::desk::{Action, Desk, Effect, Event, Which, WindowId};
use jovrik_core::keys::{Listener, Scopes};
use jovrik_core::rice::{IconRef, PointerFocus, Rice};
use jovrik_draw::Brush;
use jovrik_source::Engine;
use rustix::event::{PollFd, PollFlags, Timespec, poll};
use serde_json::Value;
use x11rb::connection::Connection;
use x11rb::protocol::Event as XEvent;
use x11rb::protocol::xproto::{self, Allow, AtomEnum, ConfigureWindowAux, ConnectionExt, NotifyMode, Window};

use crate::bars::Bars;
use crate::keyboard::{Board, set_up};
use crate::keys::Grabs;
use crate::notifier::Notifiers;
use crate::paint::Painter;
use crate::popup::Popup;
use crate::programs::Programs;
use crate::seat::Seat;
use crate::signals::signals;
use crate::socket::{Request, Socket};
use crate::tray::Tray;
use crate::watch::Watch;
use crate::{Ended, Error, Options};

use pointer::Over;
use reload::{Reload, fingerprint};

/// A running desktop.
pub struct Session {
    options: Options,
    seat: Seat,
    desk: Desk,
    painter: Painter,
    bars: Bars,
    /// The bars that some monitor shows.
    bars_seen: HashSet<String>,
    popup: Option<Popup>,
    /// The sheet of all keys, while it is shown.
    sheet: Option<Popup>,
    tray: Option<Tray>,
    notifiers: Option<Notifiers>,
    /// The pictures of the items in the tray.
    pictures: Vec<IconRef>,
    /// The module that the pointer is over.
    over: Option<Over>,
    /// When the pointer has rested long enough for a hint.
    rest_ends: Option<Instant>,
    backdrop_changes: Option<Instant>,
    engine: Engine,
    board: Board,
    keyboard_stale: bool,
    scopes: Rc<Scopes>,
    listener: Listener,
    grabbed: Grabs,
    /// Grabs that another program has.
    held: Grabs,
    cannot: Vec<String>,
    /// Whether the whole keyboard is ours for now.
    holds: bool,
    /// Whether the keyboard stands still until we let it go on.
    stopped: bool,
    /// Keys that are down, as far as we were told.
    down: HashSet<u32>,
    /// Why the last action was not done.
    refused: Vec<String>,
    sequence_ends: Option<Instant>,
    /// Where the pointer was when it last came over a window.
    pointer: (i16, i16),
    watch: Watch,
    socket: Option<Socket>,
    signals: UnixStream,
    stop: Vec<(i32, UnixStream)>,
    interrupted: bool,
    programs: Programs,
    /// Windows that are expected of programs that were started: app name and workspace.
    expected: Vec<(String, String)>,
    hidden: HashMap<Window, u32>,
    reload: Reload,
    reload_wanted: Option<Instant>,
    bars_stale: bool,
    bars_all: bool,
    wakeups: u64,
    started: Instant,
    quit: bool,
    clients_told: Vec<u32>,
}

impl Session {
    /// Takes the display and shows what is there.
    pub fn start(options: Options) -> Result<Session, Error> {
        let seat = Seat::take(&options.display, options.replace)?;
        let rice = options.first.rice.clone();
        let seen = fingerprint(&options.first);
        let watch = Watch::new(&options.folder, options.watched)?;
        let socket = Socket::listen(&options.socket)?;
        let desk = Desk::new(rice.clone(), seat.monitors()?);
        let painter = Painter::new(&seat, &rice, &desk, Brush::new(options.fonts.clone(), &options.folder))?;
        let now = Instant::now();
        let engine = Engine::new(&rice, now);
        let refused = match set_up(&seat.connection, seat.root, &rice, &options.first.tree, None) {
            Err(Error::Refused(why)) => vec![why],
            other => other.map(|()| Vec::new())?,
        };
        let board = Board::read(&seat.connection, seat.root, rice.keyboard.latin_first)?;
        let scopes = options.first.scopes.clone();
        let (signals, stop) = signals().map_err(|error| Error::System("signals cannot be heard", error.to_string()))?;
        let mut session = Session {
            options,
            seat,
            desk,
            painter,
            bars: Bars::default(),
            bars_seen: HashSet::new(),
            popup: None,
            sheet: None,
            tray: None,
            notifiers: None,
            pictures: Vec::new(),
            over: None,
            rest_ends: None,
            backdrop_changes: None,
            engine,
            board,
            keyboard_stale: false,
            scopes,
            listener: Listener::default(),
            grabbed: Grabs::new(),
            held: Grabs::new(),
            cannot: Vec::new(),
            holds: false,
            stopped: false,
            down: HashSet::new(),
            refused,
            sequence_ends: None,
            pointer: (-1, -1),
            watch,
            socket: Some(socket),
            signals,
            stop,
            interrupted: false,
            programs: Programs::default(),
            expected: Vec::new(),
            hidden: HashMap::new(),
            reload: Reload { state: "none yet", seen, ..Reload::default() },
            reload_wanted: None,
            bars_stale: true,
            bars_all: true,
            wakeups: 0,
            started: now,
            quit: false,
            clients_told: Vec::new(),
        };
        session.keep_tray()?;
        session.backdrop_changes = session.painter.backdrop_changes(&rice, now);
        session.bind()?;
        let screen = session.desk.monitors.iter().map(|monitor| monitor.facts.area).collect::<Vec<_>>();
        session.painter.paint(&session.seat, &rice, &session.desk, &screen)?;
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
                let windows: Vec<Window> = self.desk.windows.keys().map(|id| id.0).collect();
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
            let now = Instant::now();
            if self.watch.saved() {
                self.reload_wanted.get_or_insert(now);
            }
            if let Some(since) = self.reload_wanted.take() {
                self.reload(since)?;
            }
            self.requests()?;
            self.bars_stale |= self.engine.step(now);
            self.hear_items()?;
            if self.sequence_ends.is_some_and(|ends| ends <= now) {
                self.end_sequence()?;
            }
            if self.rest_ends.is_some_and(|ends| ends <= now) {
                self.rested()?;
            }
            if self.backdrop_changes.is_some_and(|changes| changes <= now) {
                self.refresh_backdrop()?;
            }
            if self.bars_stale {
                self.draw_bars()?;
            }
            self.seat.connection.flush()?;
            // Replies may have brought events that no poll would tell of.
            if !self.drain()? && self.reload_wanted.is_none() && !self.quit {
                self.wait()?;
            }
        }
        Ok(())
    }

    /// Handles what the server sent; whether there was anything.
    fn drain(&mut self) -> Result<bool, Error> {
        let mut any = false;
        while let Some(event) = self.seat.connection.poll_for_event()? {
            any = true;
            self.event(event)?;
        }
        if self.keyboard_stale {
            self.keyboard_changed()?;
        }
        Ok(any)
    }

    fn wait(&mut self) -> Result<(), Error> {
        let next = [self.engine.next(), self.sequence_ends, self.rest_ends, self.backdrop_changes].into_iter().flatten().min();
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

    fn handle(&mut self, event: Event) -> Result<Vec<String>, Error> {
        let shown = |desk: &Desk| (desk.workspace(), desk.windows.len());
        let before = shown(&self.desk);
        let effects = self.desk.handle(event);
        let refused = self.carry_out(effects)?;
        let seen = self.desk.bars_seen();
        if seen != self.bars_seen {
            self.engine.replace(&self.desk.rice().clone(), &|bar| seen.contains(bar), Instant::now());
            self.bars_seen = seen;
        }
        if before != shown(&self.desk) {
            self.tell_current()?;
            let rice = self.desk.rice().clone();
            if self.painter.backdrop_stale(&rice, &self.desk) {
                self.refresh_backdrop()?;
            }
        }
        Ok(refused)
    }

    fn carry_out(&mut self, effects: Vec<Effect>) -> Result<Vec<String>, Error> {
        let rice = self.desk.rice().clone();
        let mut refused = Vec::new();
        let radius = |desk: &Desk, window: &WindowId| {
            corners(&rice, desk.arrangement().placed.get(window).map_or(100, |placed| placed.scale))
        };
        let mut restack = false;
        for effect in effects {
            match effect {
                Effect::Place { window, area, floating } => {
                    self.seat.place(window.0, area, radius(&self.desk, &window))?;
                    restack |= floating;
                }
                Effect::Show(window) => {
                    self.seat.show(window.0)?;
                    restack = true;
                }
                Effect::Hide(window) => {
                    *self.hidden.entry(window.0).or_default() += 1;
                    self.seat.hide(window.0)?;
                }
                Effect::Focus(window) => {
                    self.seat.focus(window.map(|id| id.0))?;
                    restack = true;
                }
                Effect::Close(window) => self.seat.close(window.0)?,
                Effect::Kill(window) => self.seat.kill(window.0)?,
                Effect::Start { argv, env } => {
                    if let Err(why) = self.programs.start(&argv, &env, &self.options.display) {
                        refused.push(why);
                    }
                }
                Effect::Paint(areas) => {
                    let desk = &self.desk;
                    self.painter.paint(&self.seat, &rice, desk, &areas)?;
                }
                Effect::Bars => self.bars_stale = true,
                Effect::Mode(mode) => self.enter_mode(mode.as_deref())?,
                Effect::Keyboard(which) => refused.extend(self.switch_keyboard(&which).err()),
                Effect::Press(keys) => self.type_keys(&keys, 0)?,
                Effect::KeysSheet => self.toggle_sheet()?,
                Effect::Reload => {
                    self.reload_wanted = Some(Instant::now());
                    self.reload.asked = true;
                }
                Effect::Quit => self.quit = true,
                Effect::Refused(why) => refused.push(why),
            }
        }
        if restack {
            let floating: Vec<Window> =
                self.desk.arrangement().placed.iter().filter(|(_, placed)| placed.floating).map(|(id, _)| id.0).collect();
            for window in floating {
                self.seat.lift(window)?;
            }
        }
        Ok(refused)
    }

    fn manage(&mut self, window: Window) -> Result<(), Error> {
        if self.desk.windows.contains_key(&WindowId(window)) {
            // It was hidden, and asks to be seen.
            self.handle(Event::Wanted(WindowId(window)))?;
            return Ok(());
        }
        let names: Vec<String> = self.desk.workspaces.iter().map(|workspace| workspace.name.clone()).collect();
        let Some(mut facts) = self.seat.facts(window, &names)? else {
            self.seat.show(window)?;
            return Ok(());
        };
        if let Some(workspace) = self.expected_at(&facts.app) {
            facts.workspace = Some(workspace);
        }
        self.seat.listen(window, self.desk.rice().pointer.focus == PointerFocus::Enter)?;
        self.seat.manage(window)?;
        self.handle(Event::Appears(WindowId(window), facts))?;
        if self.seat.calls(window)? {
            self.handle(Event::Calls(WindowId(window), true))?;
        }
        // A window that appears on a workspace nobody sees was mapped by nobody, or is adopted: it is hidden.
        if !self.desk.arrangement().placed.contains_key(&WindowId(window)) {
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
            XEvent::KeyPress(event) => self.key(event.detail, event.state.into())?,
            XEvent::KeyRelease(event) => self.key_up(event.detail)?,
            XEvent::ButtonPress(event) if self.popup.as_ref().is_some_and(Popup::is_menu) => {
                self.menu_pressed(event.root_x, event.root_y)?;
            }
            XEvent::ButtonPress(event) if self.sheet.as_ref().is_some_and(|sheet| sheet.is(event.event)) => {
                self.toggle_sheet()?
            }
            XEvent::ButtonPress(event) if event.event == self.seat.root => self.button(event.detail, event.state.into(), true)?,
            XEvent::ButtonRelease(event) if event.event == self.seat.root => {
                self.button(event.detail, event.state.into(), false)?
            }
            XEvent::ButtonPress(event) if self.bars.of(event.event).is_some() => {
                self.bar_pressed(event.event, event.detail, event.root_x, event.root_y)?;
            }
            XEvent::MotionNotify(event) => self.pointer_moved(event.event, event.root_x, event.root_y)?,
            XEvent::LeaveNotify(event) if self.bars.of(event.event).is_some() => self.pointer_left()?,
            XEvent::ButtonPress(event) => {
                self.seat.connection.allow_events(Allow::REPLAY_POINTER, event.time)?;
                if self.desk.windows.contains_key(&WindowId(event.event)) {
                    self.handle(Event::Wanted(WindowId(event.event)))?;
                }
            }
            XEvent::EnterNotify(event) if self.bars.of(event.event).is_some() => {
                self.pointer_moved(event.event, event.root_x, event.root_y)?;
            }
            XEvent::EnterNotify(event) => {
                // A window that comes to lie under a pointer at rest was not pointed at.
                let moved = std::mem::replace(&mut self.pointer, (event.root_x, event.root_y)) != (event.root_x, event.root_y);
                let wants = self.desk.rice().pointer.focus == PointerFocus::Enter && moved && event.mode == NotifyMode::NORMAL;
                if wants && self.desk.windows.contains_key(&WindowId(event.event)) {
                    self.handle(Event::Wanted(WindowId(event.event)))?;
                }
            }
            XEvent::ClientMessage(event) => self.message(&event)?,
            // Many of them come at once.
            XEvent::MappingNotify(_) | XEvent::XkbNewKeyboardNotify(_) | XEvent::XkbMapNotify(_) => self.keyboard_stale = true,
            XEvent::XkbStateNotify(event) if self.board.switched(u8::from(event.group).into()) => {
                self.bars_stale = true;
                self.bind()?;
            }
            XEvent::RandrScreenChangeNotify(event) => {
                self.seat.size = (event.width, event.height);
                let monitors = self.seat.monitors()?;
                let rice = self.desk.rice().clone();
                self.handle(Event::Monitors(monitors))?;
                self.painter.resize(&self.seat, &rice, &self.desk)?;
                let areas: Vec<_> = self.desk.monitors.iter().map(|monitor| monitor.facts.area).collect();
                self.painter.paint(&self.seat, &rice, &self.desk, &areas)?;
                self.bars_all = true;
                self.tell_workspaces()?;
                // Overlays may ask for monitors: which of them hold is found out anew.
                if !self.options.first.overlays.is_empty() {
                    self.reload(Instant::now())?;
                }
            }
            // Another tray takes over.
            XEvent::SelectionClear(event) if self.tray.as_ref().is_some_and(|tray| tray.is(event.owner)) => {
                if let Some(tray) = self.tray.take() {
                    tray.leave(&self.seat)?;
                }
                self.bars_stale = true;
            }
            // An icon was taken out of the tray.
            XEvent::ReparentNotify(event) => {
                if let Some(tray) = self.tray.as_mut().filter(|tray| !tray.is(event.parent)) {
                    self.bars_stale |= tray.gone(&self.seat, event.window)?;
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
        if let Some(tray) = &mut self.tray {
            self.bars_stale |= tray.gone(&self.seat, window)?;
        }
        self.hidden.remove(&window);
        if self.desk.windows.contains_key(&WindowId(window)) {
            self.seat.state(window, 0)?;
            self.handle(Event::Goes(WindowId(window)))?;
            self.tell_clients()?;
        }
        Ok(())
    }

    fn configure(&mut self, event: &xproto::ConfigureRequestEvent) -> Result<(), Error> {
        let id = WindowId(event.window);
        match self.desk.arrangement().placed.get(&id) {
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
            self.bars_stale |= atom == self.seat.names._XEMBED_INFO && tray.changed(&self.seat, window)?;
            return Ok(());
        }
        let id = WindowId(window);
        if !self.desk.windows.contains_key(&id) {
            return Ok(());
        }
        let names = self.seat.names;
        if atom == names._NET_WM_NAME || atom == names.WM_NAME {
            let title = self.seat.title(window)?;
            self.handle(Event::Retitled(id, title))?;
        } else if atom == u32::from(AtomEnum::WM_HINTS) {
            let calls = self.seat.calls(window)?;
            self.handle(Event::Calls(id, calls))?;
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
                self.bars_stale = true;
            }
            return Ok(());
        }
        let id = WindowId(event.window);
        if event.type_ == names._NET_ACTIVE_WINDOW {
            // A pager speaks for the person; a program only for itself (EWMH, source indication).
            let event = if data[0] == 2 { Event::Wanted(id) } else { Event::Calls(id, true) };
            self.handle(event)?;
        } else if event.type_ == names._NET_CLOSE_WINDOW && self.desk.windows.contains_key(&id) {
            self.seat.close(event.window)?;
        } else if event.type_ == names._NET_CURRENT_DESKTOP
            && let Some(name) = self.desk.workspaces.get(data[0] as usize).map(|workspace| workspace.name.clone())
        {
            self.handle(Event::Act(Action::Go(Which::Named(name))))?;
        }
        Ok(())
    }

    fn draw_bars(&mut self) -> Result<(), Error> {
        let trouble =
            self.reload.problems.first().filter(|_| self.reload.state == "refused").map(|first| format!("not reloaded: {first}"));
        let hover = self.over.as_ref().map(|over| (over.bar.as_str(), over.module.as_str()));
        let windows = self.tray.as_ref().map_or(0, Tray::count);
        let tray = TrayNow { windows, pictures: &self.pictures };
        let sequence = self.sequence();
        let (keyboard, sequence) = (self.board.now().layout.as_str(), sequence.as_str());
        let now = Now { known: self.engine.known(), trouble: trouble.as_deref(), hover, tray, keyboard, sequence };
        let before = self.bars.drawn;
        self.bars.update(&mut self.painter.pens(&self.seat), &self.desk, now, self.bars_all)?;
        if let Some(tray) = self.tray.as_mut().filter(|_| before != self.bars.drawn) {
            let rice = self.desk.rice().clone();
            tray.follow(&mut self.painter.pens(&self.seat), &self.bars, &rice)?;
        }
        self.bars_stale = false;
        self.bars_all = false;
        Ok(())
    }

    fn requests(&mut self) -> Result<(), Error> {
        let mut told: Vec<Action> = Vec::new();
        let mut broken = None;
        // The socket is taken out so that answers may look at all the rest.
        let Some(mut socket) = self.socket.take() else { return Ok(()) };
        socket.step(&mut |request| match request {
            Request::Ask(what) => self.answer(&what),
            Request::Tell(action) => {
                told.push(action.clone());
                match self.handle(Event::Act(action)) {
                    Ok(refused) if refused.is_empty() => Ok(Value::Null),
                    Ok(refused) => Err(refused.join("; ")),
                    Err(error) => {
                        let words = error.to_string();
                        broken = Some(error);
                        Err(words)
                    }
                }
            }
        });
        self.socket = Some(socket);
        broken.map_or(Ok(()), Err)
    }
}

/// How round the corners of a window are, inside of its frame.
fn corners(rice: &Rice, percent: i32) -> i32 {
    (rice.frame.radius.0 - rice.frame.width.0) * percent / 100
}
