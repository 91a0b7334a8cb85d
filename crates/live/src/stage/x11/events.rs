//! What the server tells, in the desktop's own terms.

use jovrik_core::desk::{self, Action, Asked, Shelf, Switch, Which, WindowId};
use jovrik_core::desktop::{Arranged, Desktop, Event};
use jovrik_core::keys::Press;
use jovrik_core::rice::PointerFocus;
use x11rb::connection::Connection;
use x11rb::protocol::Event as XEvent;
use x11rb::protocol::xproto::{self, Allow, AtomEnum, ConfigWindow, ConfigureWindowAux, ConnectionExt, NotifyMode, Window};

use super::X11;
use super::clip::Clip;
use super::keyboard::Board;
use super::outputs::outputs;
use super::tray::Tray;
use crate::Error;

/// Whether a window is one of those on the desk.
fn manages(desktop: &Desktop, window: Window) -> bool {
    desktop.desk().windows.contains_key(&WindowId(window))
}

impl X11 {
    /// What has happened next: nothing when the server has nothing more to tell. What comes of it is to be carried out before
    /// [`X11::let_go_on`] is called, and that before the next.
    pub fn next(&mut self, desktop: &Desktop) -> Result<Option<Vec<Event>>, Error> {
        if let Some(event) = self.server.connection.poll_for_event()? {
            return self.event(event, desktop).map(Some);
        }
        // Many of these come at once, and some change nothing.
        if std::mem::take(&mut self.monitors_stale) {
            return self.monitors(desktop).map(Some);
        }
        if std::mem::take(&mut self.keyboard_stale) {
            let latin = desktop.desk().rice().keyboard.latin_first;
            self.board = Board::read(&self.server.connection, self.server.root, latin)?;
            return Ok(Some(vec![self.keyboards()]));
        }
        Ok(None)
    }

    fn monitors(&mut self, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        // Another set of outputs is lit as the rice says of it, untried: what was there before cannot come back.
        let connected: Vec<String> = outputs(&self.server)?.into_iter().map(|output| output.name).collect();
        let mut before = std::mem::replace(&mut self.connected, connected.clone());
        before.sort_unstable();
        let mut now = connected;
        now.sort_unstable();
        if before != now {
            self.arrange_outputs(Arranged::AsSaid, desktop.desk().rice())?;
            self.lit_before = None;
        }
        let facts = self.server.monitors()?;
        self.repaint |= self.painter.resize(&self.server)?;
        if facts == self.facts {
            return Ok(Vec::new());
        }
        self.facts = facts.clone();
        Ok(vec![Event::Desk(desk::Event::Monitors(facts))])
    }

    fn event(&mut self, event: XEvent, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let of_desk = |event: desk::Event| vec![Event::Desk(event)];
        if let XEvent::ButtonPress(event) = &event {
            (self.time, self.active) = (event.time, event.time);
        }
        Ok(match event {
            XEvent::MapRequest(event) => self.manage(event.window, false, desktop)?,
            XEvent::DestroyNotify(event) => self.gone(event.window, desktop)?,
            XEvent::UnmapNotify(event) => self.unmapped(&event, desktop)?,
            XEvent::ConfigureRequest(event) => self.configure(&event, desktop)?,
            XEvent::PropertyNotify(event) => self.property(event.window, event.atom, desktop)?,
            XEvent::KeyPress(event) => {
                self.stopped = true;
                (self.time, self.active) = (event.time, event.time);
                vec![Event::Down(self.board.now().press_of(event.detail.into(), u16::from(event.state).into()))]
            }
            XEvent::KeyRelease(event) => {
                // A key that comes up stops the keyboard only while all of it is ours.
                self.stopped = self.holds;
                vec![Event::Up(event.detail.into())]
            }
            XEvent::ButtonPress(event) if self.surfaces.take_all() => {
                vec![Event::Button(None, event.detail, event.root_x.into(), event.root_y.into())]
            }
            XEvent::ButtonPress(event) if event.event == self.server.root => {
                let key = Press::BUTTON + u32::from(event.detail);
                let at = Event::Pointed(None, event.root_x.into(), event.root_y.into());
                vec![at, Event::Down(self.board.now().press_of(key, u16::from(event.state).into()))]
            }
            XEvent::ButtonRelease(event) if event.event == self.server.root && !self.surfaces.take_all() => {
                vec![Event::Up(Press::BUTTON + u32::from(event.detail))]
            }
            XEvent::ButtonRelease(event) if self.surfaces.take_all() => {
                vec![Event::Released(event.detail, event.root_x.into(), event.root_y.into())]
            }
            XEvent::ButtonPress(event) => match self.surfaces.of(event.event).cloned() {
                Some(id) => vec![Event::Button(Some(id), event.detail, event.root_x.into(), event.root_y.into())],
                None => {
                    self.server.connection.allow_events(Allow::REPLAY_POINTER, event.time)?;
                    let window = self.windows.of(event.event).filter(|window| manages(desktop, *window));
                    window.map_or_else(Vec::new, |window| of_desk(desk::Event::Wanted(WindowId(window))))
                }
            },
            XEvent::MotionNotify(event) => {
                let over = self.surfaces.of(event.event).cloned();
                vec![Event::Pointed(over, event.root_x.into(), event.root_y.into())]
            }
            XEvent::LeaveNotify(event) if self.surfaces.of(event.event).is_some() => vec![Event::Left],
            XEvent::EnterNotify(event) => {
                if let Some(id) = self.surfaces.of(event.event).cloned() {
                    return Ok(vec![Event::Pointed(Some(id), event.root_x.into(), event.root_y.into())]);
                }
                // A window that comes to lie under a pointer at rest was not pointed at.
                let moved = std::mem::replace(&mut self.pointer, (event.root_x, event.root_y)) != (event.root_x, event.root_y);
                let follows = desktop.desk().rice().pointer.focus == PointerFocus::Enter;
                let wants = follows && moved && event.mode == NotifyMode::NORMAL && manages(desktop, event.event);
                if wants { of_desk(desk::Event::Wanted(WindowId(event.event))) } else { Vec::new() }
            }
            XEvent::ClientMessage(event) => self.message(&event, desktop)?,
            // Many of them come at once.
            XEvent::MappingNotify(_) | XEvent::XkbNewKeyboardNotify(_) | XEvent::XkbMapNotify(_) => {
                self.keyboard_stale = true;
                Vec::new()
            }
            XEvent::XkbStateNotify(event) if self.board.switched(u8::from(event.group).into()) => {
                vec![self.keyboards()]
            }
            // Many of them come at once, and some change nothing.
            XEvent::RandrScreenChangeNotify(event) => {
                self.server.size = (event.width, event.height);
                self.monitors_stale = true;
                Vec::new()
            }
            XEvent::ConfigureNotify(event) if event.window == self.server.root => {
                self.server.size = (event.width, event.height);
                self.monitors_stale = true;
                Vec::new()
            }
            XEvent::RandrNotify(_) => {
                self.monitors_stale = true;
                Vec::new()
            }
            // Another tray takes over.
            XEvent::SelectionClear(event) if self.tray.as_ref().is_some_and(|tray| tray.is(event.owner)) => {
                if let Some(tray) = self.tray.take() {
                    tray.leave(&self.server)?;
                }
                self.tray_windows()
            }
            // An icon was taken out of the tray.
            XEvent::ReparentNotify(event) => {
                let holder = self.windows.holder(event.window);
                if holder.is_some_and(|holder| event.event == holder && event.parent != holder) {
                    // Another program took it.
                    return self.gone(event.window, desktop);
                }
                let gone = match self.tray.as_mut().filter(|tray| !tray.is(event.parent)) {
                    Some(tray) => tray.gone(&self.server, event.window)?,
                    None => false,
                };
                if gone { self.tray_windows() } else { Vec::new() }
            }
            XEvent::SelectionRequest(event) => {
                self.clip.answer(&self.server, &event)?;
                Vec::new()
            }
            // Somebody else copied something.
            XEvent::SelectionClear(event) if event.selection == self.server.names.CLIPBOARD => {
                self.clip = Clip::default();
                Vec::new()
            }
            // Another manager takes over.
            XEvent::SelectionClear(_) => vec![Event::Replaced],
            // Errors of windows that vanished are normal.
            XEvent::Error(error) => {
                tracing::debug!(?error, "refused by the server");
                Vec::new()
            }
            _ => Vec::new(),
        })
    }

    fn tray_windows(&self) -> Vec<Event> {
        vec![Event::TrayWindows(self.tray.as_ref().map_or(0, Tray::count))]
    }

    /// A window that wants to be seen.
    pub(super) fn manage(&mut self, window: Window, mapped: bool, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let id = WindowId(window);
        if manages(desktop, window) {
            // It was hidden, and asks to be seen.
            return Ok(vec![Event::Desk(desk::Event::Wanted(id))]);
        }
        let desk = desktop.desk();
        let names: Vec<String> = desk.workspaces.iter().map(|workspace| workspace.name.clone()).collect();
        let Some(asked) = self.server.facts(window, &names, self.active)? else {
            self.server.connection.map_window(window)?.ignore_error();
            return Ok(Vec::new());
        };
        self.server.listen(window, desk.rice().pointer.focus == PointerFocus::Enter)?;
        self.windows.take(&self.server, window, mapped)?;
        self.manners.insert(window, asked.manners);
        let mut events = vec![Event::Desk(desk::Event::Appears(id, asked.facts))];
        if asked.calls {
            events.push(Event::Desk(desk::Event::Calls(id, true)));
        }
        Ok(events)
    }

    /// A window was taken out of sight: by us, on its way into one of ours, or by its program, which also says so when it was
    /// out of sight already (ICCCM, section 4.1.4).
    fn unmapped(&mut self, event: &xproto::UnmapNotifyEvent, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let said = event.response_type & 0x80 != 0;
        let goes = match self.windows.holder(event.window) {
            Some(holder) if event.event == holder => self.windows.withdrew(event.window),
            Some(_) => said,
            None => event.event == self.server.root,
        };
        if goes { self.gone(event.window, desktop) } else { Ok(Vec::new()) }
    }

    fn gone(&mut self, window: Window, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let gone = match &mut self.tray {
            Some(tray) => tray.gone(&self.server, window)?,
            None => false,
        };
        let mut events = if gone { self.tray_windows() } else { Vec::new() };
        if manages(desktop, window) {
            self.windows.give_back(&self.server, window)?;
            self.manners.remove(&window);
            self.server.withdrawn(window)?;
            events.push(Event::Desk(desk::Event::Goes(WindowId(window))));
        }
        Ok(events)
    }

    fn configure(&mut self, event: &xproto::ConfigureRequestEvent, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        if !manages(desktop, event.window) {
            let asked = ConfigureWindowAux::from_configure_request(event);
            self.server.connection.configure_window(event.window, &asked)?.ignore_error();
            return Ok(Vec::new());
        }
        let id = WindowId(event.window);
        let has = |part: ConfigWindow| u16::from(event.value_mask) & u16::from(part) != 0;
        let one = |part: ConfigWindow, value: i32| has(part).then_some(value);
        let at = (one(ConfigWindow::X, event.x.into()), one(ConfigWindow::Y, event.y.into()));
        let size = (one(ConfigWindow::WIDTH, event.width.into()), one(ConfigWindow::HEIGHT, event.height.into()));
        // A tile is told where it is; what floats has a say, and is told when it moved.
        if !desktop.desk().floats(id) || (at, size) == ((None, None), (None, None)) {
            self.windows.tell_place(&self.server, event.window)?;
            return Ok(Vec::new());
        }
        self.answers.insert(event.window);
        Ok(vec![Event::Desk(desk::Event::Asks(id, Asked::Place { at, size }))])
    }

    fn property(&mut self, window: Window, atom: u32, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        if let Some(tray) = self.tray.as_mut().filter(|tray| tray.has(window)) {
            let changed = atom == self.server.names._XEMBED_INFO && tray.changed(&self.server, window)?;
            return Ok(if changed { self.tray_windows() } else { Vec::new() });
        }
        let id = WindowId(window);
        if !manages(desktop, window) {
            return Ok(Vec::new());
        }
        let names = self.server.names;
        if atom == names._NET_WM_NAME || atom == names.WM_NAME {
            let title = self.server.title(window)?;
            return Ok(vec![Event::Desk(desk::Event::Retitled(id, title))]);
        } else if atom == names._NET_WM_USER_TIME {
            // The person did something in it.
            if desktop.desk().focused() == Some(id) {
                self.active = self.server.number(window, atom)?.unwrap_or(self.active);
            }
        } else if [u32::from(AtomEnum::WM_HINTS), names.WM_NORMAL_HINTS, names.WM_TRANSIENT_FOR, names.WM_PROTOCOLS]
            .contains(&atom)
            && let Some(asked) = self.server.facts(window, &[], self.active)?
        {
            self.manners.insert(window, asked.manners);
            let mut events = vec![Event::Desk(desk::Event::Changes(id, Box::new(asked.facts)))];
            if atom == u32::from(AtomEnum::WM_HINTS) {
                events.push(Event::Desk(desk::Event::Calls(id, asked.calls)));
            }
            return Ok(events);
        }
        Ok(Vec::new())
    }

    fn message(&mut self, event: &xproto::ClientMessageEvent, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        if event.format != 32 {
            return Ok(Vec::new());
        }
        let names = self.server.names;
        let data = event.data.as_data32();
        if let Some(tray) = self.tray.as_mut().filter(|tray| tray.is(event.window)) {
            // SYSTEM_TRAY_REQUEST_DOCK; balloons are not ours to show.
            if event.type_ == names._NET_SYSTEM_TRAY_OPCODE && data[1] == 0 {
                tray.dock(&self.server, data[2])?;
                return Ok(self.tray_windows());
            }
            return Ok(Vec::new());
        }
        let id = WindowId(event.window);
        if event.type_ == names._NET_ACTIVE_WINDOW {
            // A pager speaks for the person; a program does where it comes of what the person did last (EWMH, source
            // indication and its time), else only for itself.
            let recent = data[1] != 0 && self.active != 0 && (data[1].wrapping_sub(self.active) as i32) >= 0;
            let event = if data[0] == 2 || recent { desk::Event::Wanted(id) } else { desk::Event::Calls(id, true) };
            return Ok(vec![Event::Desk(event)]);
        } else if event.type_ == names._NET_CLOSE_WINDOW && manages(desktop, event.window) {
            self.close(event.window)?;
        } else if event.type_ == names._NET_WM_STATE && manages(desktop, event.window) {
            return Ok(self.states(id, data));
        } else if event.type_ == names.WM_CHANGE_STATE && manages(desktop, event.window) && data[0] == 3 {
            return Ok(vec![Event::Desk(desk::Event::Asks(id, Asked::Tuck))]);
        } else if event.type_ == names._NET_WM_DESKTOP && manages(desktop, event.window) {
            let asked = match data[0] {
                u32::MAX => Some(Asked::Peg(Switch::On)),
                at => desktop.desk().workspaces.get(at as usize).map(|to| Asked::Workspace(to.name.clone())),
            };
            return Ok(asked.map(|asked| Event::Desk(desk::Event::Asks(id, asked))).into_iter().collect());
        } else if event.type_ == names._NET_CURRENT_DESKTOP
            && let Some(name) = desktop.desk().workspaces.get(data[0] as usize).map(|workspace| workspace.name.clone())
        {
            return Ok(vec![Event::Desk(desk::Event::Act(Action::Go(Which::Named(name))))]);
        }
        Ok(Vec::new())
    }

    /// What a message asks a window to be (EWMH, `_NET_WM_STATE`).
    fn states(&self, id: WindowId, data: [u32; 5]) -> Vec<Event> {
        let (names, Some(switch)) = (self.server.names, Switch::of_number(data[0])) else { return Vec::new() };
        let asked = |state: u32| match state {
            state if state == names._NET_WM_STATE_FULLSCREEN => Some(Asked::Full(switch)),
            state if state == names._NET_WM_STATE_STICKY => Some(Asked::Peg(switch)),
            state if state == names._NET_WM_STATE_ABOVE => Some(Asked::Shelf(Shelf::Above, switch)),
            state if state == names._NET_WM_STATE_BELOW => Some(Asked::Shelf(Shelf::Below, switch)),
            state if state == names._NET_WM_STATE_DEMANDS_ATTENTION => Some(Asked::Call(switch)),
            _ => None,
        };
        let both = [data[1], data[2]].into_iter().filter_map(asked);
        both.map(|asked| Event::Desk(desk::Event::Asks(id, asked))).collect()
    }

    /// Asks a window to close; one that does not know how is ended.
    pub(super) fn close(&self, window: Window) -> Result<(), Error> {
        if self.manners.get(&window).is_some_and(|manners| manners.closes) {
            return self.server.ask_to_close(window, self.time);
        }
        self.server.kill(window)
    }
}
