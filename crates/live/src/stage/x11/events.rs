//! What the server tells, in the desktop's own terms.

use jovrik_core::desk::{self, Action, Which, WindowId};
use jovrik_core::desktop::{Desktop, Event};
use jovrik_core::keys::Press;
use jovrik_core::rice::PointerFocus;
use x11rb::connection::Connection;
use x11rb::protocol::Event as XEvent;
use x11rb::protocol::xproto::{self, Allow, AtomEnum, ConfigureWindowAux, ConnectionExt, NotifyMode, Window};

use super::X11;
use super::keyboard::Board;
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
        let facts = self.server.monitors()?;
        if self.painter.size() == self.server.size && facts == self.facts {
            return Ok(Vec::new());
        }
        self.facts = facts.clone();
        // The picture behind is made anew once the desk knows.
        self.painter.resize(&self.server, desktop.desk().rice(), desktop.desk())?;
        Ok(vec![Event::Desk(desk::Event::Monitors(facts))])
    }

    fn event(&mut self, event: XEvent, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let of_desk = |event: desk::Event| vec![Event::Desk(event)];
        Ok(match event {
            XEvent::MapRequest(event) => self.manage(event.window, desktop)?,
            XEvent::DestroyNotify(event) => self.gone(event.window, desktop)?,
            XEvent::UnmapNotify(event) if event.event == self.server.root => match self.hidden.get_mut(&event.window) {
                Some(ours) if *ours > 0 => {
                    *ours -= 1;
                    Vec::new()
                }
                _ => self.gone(event.window, desktop)?,
            },
            XEvent::ConfigureRequest(event) => self.configure(&event, desktop)?,
            XEvent::PropertyNotify(event) => self.property(event.window, event.atom, desktop)?,
            XEvent::KeyPress(event) => {
                self.stopped = true;
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
                vec![Event::Down(self.board.now().press_of(key, u16::from(event.state).into()))]
            }
            XEvent::ButtonRelease(event) if event.event == self.server.root && !self.surfaces.take_all() => {
                vec![Event::Up(Press::BUTTON + u32::from(event.detail))]
            }
            XEvent::ButtonPress(event) => match self.surfaces.of(event.event).cloned() {
                Some(id) => vec![Event::Button(Some(id), event.detail, event.root_x.into(), event.root_y.into())],
                None => {
                    self.server.connection.allow_events(Allow::REPLAY_POINTER, event.time)?;
                    let ours = manages(desktop, event.event);
                    if ours { of_desk(desk::Event::Wanted(WindowId(event.event))) } else { Vec::new() }
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
                let gone = match self.tray.as_mut().filter(|tray| !tray.is(event.parent)) {
                    Some(tray) => tray.gone(&self.server, event.window)?,
                    None => false,
                };
                if gone { self.tray_windows() } else { Vec::new() }
            }
            // Another manager takes over.
            XEvent::SelectionClear(_) => vec![Event::Replaced],
            // Errors of windows that vanished are normal.
            _ => Vec::new(),
        })
    }

    fn tray_windows(&self) -> Vec<Event> {
        vec![Event::TrayWindows(self.tray.as_ref().map_or(0, Tray::count))]
    }

    /// A window that wants to be seen.
    pub(super) fn manage(&mut self, window: Window, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let id = WindowId(window);
        if manages(desktop, window) {
            // It was hidden, and asks to be seen.
            return Ok(vec![Event::Desk(desk::Event::Wanted(id))]);
        }
        let desk = desktop.desk();
        let names: Vec<String> = desk.workspaces.iter().map(|workspace| workspace.name.clone()).collect();
        let Some((facts, calls)) = self.server.facts(window, &names)? else {
            self.server.show(window)?;
            return Ok(Vec::new());
        };
        self.server.listen(window, desk.rice().pointer.focus == PointerFocus::Enter)?;
        self.server.manage(window)?;
        let mut events = vec![Event::Desk(desk::Event::Appears(id, facts))];
        if calls {
            events.push(Event::Desk(desk::Event::Calls(id, true)));
        }
        Ok(events)
    }

    fn gone(&mut self, window: Window, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let gone = match &mut self.tray {
            Some(tray) => tray.gone(&self.server, window)?,
            None => false,
        };
        let mut events = if gone { self.tray_windows() } else { Vec::new() };
        self.hidden.remove(&window);
        self.mapped.remove(&window);
        if manages(desktop, window) {
            self.server.state(window, 0)?;
            events.push(Event::Desk(desk::Event::Goes(WindowId(window))));
        }
        Ok(events)
    }

    fn configure(&mut self, event: &xproto::ConfigureRequestEvent, desktop: &Desktop) -> Result<Vec<Event>, Error> {
        let id = WindowId(event.window);
        match desktop.desk().arrangement().placed.get(&id) {
            Some(placed) => self.server.tell_place(event.window, placed.area)?,
            None => {
                let asked = ConfigureWindowAux::from_configure_request(event);
                self.server.connection.configure_window(event.window, &asked)?.ignore_error();
            }
        }
        Ok(Vec::new())
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
        } else if atom == u32::from(AtomEnum::WM_HINTS) {
            let calls = self.server.calls(window)?;
            return Ok(vec![Event::Desk(desk::Event::Calls(id, calls))]);
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
            // A pager speaks for the person; a program only for itself (EWMH, source indication).
            let event = if data[0] == 2 { desk::Event::Wanted(id) } else { desk::Event::Calls(id, true) };
            return Ok(vec![Event::Desk(event)]);
        } else if event.type_ == names._NET_CLOSE_WINDOW && manages(desktop, event.window) {
            self.server.close(event.window)?;
        } else if event.type_ == names._NET_CURRENT_DESKTOP
            && let Some(name) = desktop.desk().workspaces.get(data[0] as usize).map(|workspace| workspace.name.clone())
        {
            return Ok(vec![Event::Desk(desk::Event::Act(Action::Go(Which::Named(name))))]);
        }
        Ok(Vec::new())
    }
}
