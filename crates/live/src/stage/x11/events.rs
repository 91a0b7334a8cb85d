//! What the server tells, in the desktop's own terms.

use jovrik_core::desk::{self, WindowId};
use jovrik_core::desktop::{Desktop, DesktopEvent, DisplayConfigSource};
use jovrik_core::keys::KeyCombo;
use jovrik_core::rice::FocusPolicy;
use x11rb::connection::Connection;
use x11rb::protocol::xinput::HierarchyMask;
use x11rb::protocol::xproto::{self, Allow, AtomEnum, ConnectionExt, NotifyMode, Window};
use x11rb::protocol::{Event as XEvent, shape};

use super::X11;
use super::keyboard::ServerKeyboard;
use super::outputs::outputs;
use super::server::{ClientInfo, ClientRole};
use super::startup_messages::StartupMessages;
use super::tray::Tray;
use crate::Error;

/// So often windows of ours come back that others destroy.
const MAX_LOST_SURFACES: u32 = 64;

/// Whether a window is one of those on the desk.
pub(super) fn manages(desktop: &Desktop, window: Window) -> bool {
    desktop.desk().windows.contains_key(&WindowId(window))
}

impl X11 {
    /// What has happened next: nothing when the server has nothing more to tell. What comes of it is to be carried out before
    /// [`X11::let_go_on`] is called, and that before the next.
    pub fn next(&mut self, desktop: &Desktop) -> Result<Option<Vec<DesktopEvent>>, Error> {
        if let Some(event) = self.server.connection.poll_for_event()? {
            // Whoever asks for a place after it said which sizes it takes is judged by those.
            let mut events = if matches!(event, XEvent::PropertyNotify(_)) { Vec::new() } else { self.sizes(desktop)? };
            events.extend(self.event(event, desktop)?);
            return Ok(Some(events));
        }
        // Many of these come at once, and some change nothing.
        if !self.sizes_stale.is_empty() {
            return self.sizes(desktop).map(Some);
        }
        if !self.icons_stale.is_empty() {
            return self.own_icons(desktop).map(Some);
        }
        if std::mem::take(&mut self.monitors_stale) {
            return self.monitors(desktop).map(Some);
        }
        if std::mem::take(&mut self.inputs_stale) {
            self.inputs.set(&self.server.connection, self.server.root, desktop.desk().rice())?;
            self.flush()?;
        }
        if std::mem::take(&mut self.keyboard_stale) {
            let latin = desktop.desk().rice().keyboard.latin_first;
            self.board = ServerKeyboard::read(&self.server.connection, self.server.root, latin)?;
            return Ok(Some(vec![self.keyboards()]));
        }
        Ok(None)
    }

    fn monitors(&mut self, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        // Another set of outputs is lit as the rice says of it, untried: what was there before cannot come back.
        let connected: Vec<String> = outputs(&self.server)?.into_iter().map(|output| output.name).collect();
        let mut before = std::mem::replace(&mut self.connected, connected.clone());
        before.sort_unstable();
        let mut now = connected;
        now.sort_unstable();
        if before != now {
            self.arrange_outputs(DisplayConfigSource::AsSaid, desktop.desk().rice())?;
            self.lit_before = None;
        }
        let facts = self.server.monitors()?;
        self.repaint |= self.painter.resize(&self.server)?;
        if facts == self.facts {
            return Ok(Vec::new());
        }
        self.facts = facts.clone();
        Ok(vec![DesktopEvent::Wm(desk::WmEvent::Monitors(facts))])
    }

    /// What windows say of their sizes by now: terminals say it anew whenever they are resized, and all are asked at once.
    fn sizes(&mut self, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        if self.sizes_stale.is_empty() {
            return Ok(Vec::new());
        }
        let facts = |window: &Window| Some((*window, desktop.desk().windows.get(&WindowId(*window))?.facts.clone()));
        let changed = self.server.sizes(std::mem::take(&mut self.sizes_stale).iter().filter_map(facts))?;
        let change = |(window, facts)| DesktopEvent::Wm(desk::WmEvent::InfoChanged(WindowId(window), Box::new(facts)));
        Ok(changed.into_iter().map(change).collect())
    }

    fn event(&mut self, event: XEvent, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        let of_desk = |event: desk::WmEvent| vec![DesktopEvent::Wm(event)];
        if let XEvent::ButtonPress(event) = &event {
            self.did(event.time);
        }
        if let XEvent::PropertyNotify(event) = &event {
            if event.window == self.server.check {
                return Ok(self.piece(event)?.map(DesktopEvent::Pasted).into_iter().collect());
            }
            if self.clip.taken(&self.server, event)? {
                return Ok(Vec::new());
            }
        }
        if self.server.guest {
            match &event {
                // What others lift does not cover what we show.
                XEvent::ConfigureNotify(event) if event.window != self.server.root => {
                    self.lift_again(event.window)?;
                    return Ok(Vec::new());
                }
                XEvent::MapNotify(event) => {
                    self.lift_again(event.window)?;
                    return Ok(Vec::new());
                }
                XEvent::PropertyNotify(event) if event.window == self.server.root => {
                    let names = &self.server.names;
                    let told = [names._NET_CLIENT_LIST, names._NET_ACTIVE_WINDOW].contains(&event.atom);
                    return if told { Ok(vec![self.neighbours()?]) } else { Ok(Vec::new()) };
                }
                XEvent::UnmapNotify(_) | XEvent::DestroyNotify(_) | XEvent::PropertyNotify(_) => return Ok(Vec::new()),
                XEvent::ClientMessage(message) if message.type_ != self.server.names._NET_SYSTEM_TRAY_OPCODE => {
                    return Ok(Vec::new());
                }
                _ => {}
            }
        }
        Ok(match event {
            XEvent::MapRequest(event) => self.manage(event.window, false, desktop)?,
            XEvent::DestroyNotify(event) => self.gone(event.window, desktop)?,
            XEvent::UnmapNotify(event) => self.unmapped(&event, desktop)?,
            XEvent::ConfigureRequest(event) => self.configure(&event, desktop)?,
            XEvent::PropertyNotify(event) => self.property(event.window, event.atom, desktop)?,
            XEvent::KeyPress(event) => {
                self.stopped = true;
                self.did(event.time);
                vec![DesktopEvent::KeyPressed(self.board.now().press_of(event.detail.into(), u16::from(event.state).into()))]
            }
            XEvent::KeyRelease(event) => {
                // A key that comes up stops the keyboard only while all of it is ours.
                self.stopped = self.holds;
                vec![DesktopEvent::KeyReleased(event.detail.into())]
            }
            XEvent::ButtonPress(event) if self.surfaces.take_all() => {
                vec![DesktopEvent::Button(None, event.detail, event.root_x.into(), event.root_y.into())]
            }
            XEvent::ButtonPress(event) if event.event == self.server.root => {
                let key = KeyCombo::BUTTON + u32::from(event.detail);
                let at = DesktopEvent::PointerMoved(None, event.root_x.into(), event.root_y.into());
                vec![at, DesktopEvent::KeyPressed(self.board.now().press_of(key, u16::from(event.state).into()))]
            }
            XEvent::ButtonRelease(event) if event.event == self.server.root && !self.surfaces.take_all() => {
                self.let_drag_go()?;
                vec![DesktopEvent::KeyReleased(KeyCombo::BUTTON + u32::from(event.detail))]
            }
            XEvent::ButtonRelease(event) if self.surfaces.take_all() || self.surfaces.of(event.event).is_some() => {
                vec![DesktopEvent::Released(event.detail, event.root_x.into(), event.root_y.into())]
            }
            XEvent::ButtonPress(event) => match self.surfaces.of(event.event).cloned() {
                Some(id) => vec![DesktopEvent::Button(Some(id), event.detail, event.root_x.into(), event.root_y.into())],
                None => {
                    self.server.connection.allow_events(Allow::REPLAY_POINTER, event.time)?;
                    let window = self.windows.of(event.event).filter(|window| manages(desktop, *window));
                    window.map_or_else(Vec::new, |window| of_desk(desk::WmEvent::ActivationRequested(WindowId(window))))
                }
            },
            XEvent::MotionNotify(event) => {
                let over = self.surfaces.of(event.event).cloned();
                vec![DesktopEvent::PointerMoved(over, event.root_x.into(), event.root_y.into())]
            }
            XEvent::LeaveNotify(event) if self.surfaces.of(event.event).is_some() => vec![DesktopEvent::Left],
            XEvent::EnterNotify(event) => {
                if let Some(id) = self.surfaces.of(event.event).cloned() {
                    return Ok(vec![DesktopEvent::PointerMoved(Some(id), event.root_x.into(), event.root_y.into())]);
                }
                // A window that comes to lie under a pointer at rest was not pointed at.
                let moved = std::mem::replace(&mut self.pointer, (event.root_x, event.root_y)) != (event.root_x, event.root_y);
                let follows = desktop.desk().rice().pointer.focus == FocusPolicy::Enter;
                let wants = follows && moved && event.mode == NotifyMode::NORMAL && manages(desktop, event.event);
                if wants {
                    self.times.happened(event.time);
                }
                if wants { of_desk(desk::WmEvent::ActivationRequested(WindowId(event.event))) } else { Vec::new() }
            }
            XEvent::ClientMessage(event) if event.format == 8 => self.launched(&event, desktop),
            XEvent::ClientMessage(event) => self.message(&event, desktop)?,
            XEvent::SyncAlarmNotify(event) => {
                if let Some((window, placed)) = self.pace.drawn(event.alarm) {
                    self.pending.again(WindowId(window), placed);
                }
                Vec::new()
            }
            XEvent::ShapeNotify(event) if event.shape_kind == shape::SK::BOUNDING => {
                let id = WindowId(event.affected_window);
                let facts = desktop.desk().windows.get(&id).map(|window| window.facts.clone());
                match facts.filter(|_| self.windows.formed(id.0, event.shaped)) {
                    Some(facts) => {
                        let facts = desk::WindowFacts { shaped: event.shaped, ..facts };
                        of_desk(desk::WmEvent::InfoChanged(id, Box::new(facts)))
                    }
                    None => Vec::new(),
                }
            }
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
            XEvent::XinputHierarchy(event) => {
                let news = HierarchyMask::SLAVE_ADDED | HierarchyMask::SLAVE_REMOVED | HierarchyMask::DEVICE_ENABLED;
                if u32::from(event.flags) & u32::from(news) != 0 {
                    self.inputs.changed();
                    self.inputs_stale = true;
                }
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
            XEvent::SelectionNotify(event) if event.requestor == self.server.check => {
                self.pasted(event.property)?.map(DesktopEvent::Pasted).into_iter().collect()
            }
            XEvent::SelectionRequest(event) => {
                let heard = manages(desktop, event.requestor);
                self.clip.answer(&self.server, &event, heard)?;
                Vec::new()
            }
            // Somebody else copied something.
            XEvent::SelectionClear(event) if event.selection == self.server.names.CLIPBOARD => {
                self.clip.leave();
                Vec::new()
            }
            // Another manager takes over.
            XEvent::SelectionClear(_) => vec![DesktopEvent::Replaced],
            // Errors of windows that vanished are normal.
            XEvent::Error(error) => {
                tracing::debug!(?error, "refused by the server");
                Vec::new()
            }
            _ => Vec::new(),
        })
    }

    /// A window of others came over ours, as it may be.
    fn lift_again(&mut self, window: Window) -> Result<(), Error> {
        if self.surfaces.of(window).is_none() { self.surfaces.raise(&self.server) } else { Ok(()) }
    }

    fn tray_windows(&self) -> Vec<DesktopEvent> {
        vec![DesktopEvent::TrayWindows(self.tray.as_ref().map_or(0, Tray::count))]
    }

    /// A window that wants to be seen.
    pub(super) fn manage(&mut self, window: Window, mapped: bool, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        if manages(desktop, window) {
            // It was hidden, and asks to be seen.
            return Ok(vec![DesktopEvent::Wm(desk::WmEvent::ActivationRequested(WindowId(window)))]);
        }
        self.take_in(window, mapped, desktop)
    }

    /// A window comes among those that are managed, or lies where it wants.
    fn take_in(&mut self, window: Window, mapped: bool, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        let id = WindowId(window);
        let desk = desktop.desk();
        let names: Vec<String> = desk.workspaces.iter().map(|workspace| workspace.name.clone()).collect();
        let mut asked = match self.server.facts(window, &names, self.active)? {
            ClientRole::Place(asked) => asked,
            ClientRole::Panel(level) => {
                self.stacked.clear();
                return Ok(vec![self.panels.take(&self.server, window, level)?]);
            }
            ClientRole::Nothing => {
                self.server.connection.map_window(window)?.ignore_error();
                return Ok(Vec::new());
            }
        };
        self.belongs(window, &mut asked, desktop);
        self.server.listen(window, desk.rice().pointer.focus == FocusPolicy::Enter)?;
        self.windows.take(&self.server, window, &asked.form, mapped)?;
        self.learn_user(window, asked.manners.user)?;
        let of_compositing = [self.server.names._NET_WM_WINDOW_OPACITY, self.server.names._NET_WM_BYPASS_COMPOSITOR];
        for (property, value) in of_compositing.into_iter().zip(asked.compositing).filter(|(_, value)| value.is_some()) {
            self.windows.pass(&self.server, window, property, value)?;
        }
        self.manners.insert(window, asked.manners);
        self.icons_stale.insert(window);
        let start = asked.facts.startup_id.clone();
        if !start.is_empty() {
            StartupMessages::ends(&self.server, &start)?;
        }
        let mut events = vec![DesktopEvent::Wm(desk::WmEvent::Mapped(id, asked.facts))];
        if asked.calls {
            events.push(DesktopEvent::Wm(desk::WmEvent::UrgencyChanged(id, true)));
        }
        Ok(events)
    }

    /// A window was taken out of sight: by us, on its way into one of ours, or by its program, which also says so when it was
    /// out of sight already (ICCCM, section 4.1.4).
    fn unmapped(&mut self, event: &xproto::UnmapNotifyEvent, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        let said = event.response_type & 0x80 != 0;
        let goes = match self.windows.holder(event.window) {
            Some(holder) if event.event == holder => self.windows.withdrew(event.window, event.sequence),
            Some(_) => said,
            None => event.event == self.server.root,
        };
        if !goes {
            return Ok(Vec::new());
        }
        let ours = manages(desktop, event.window);
        let mut events = self.gone(event.window, desktop)?;
        // What was mapped again meanwhile while we mapped it asks for nothing any more: it is there, and wants a place.
        if ours && self.server.viewable(event.window)? {
            events.extend(self.take_in(event.window, true, desktop)?);
        }
        Ok(events)
    }

    /// What belongs to all windows of its group belongs to the one of them that had the focus last.
    fn belongs(&self, window: Window, asked: &mut ClientInfo, desktop: &Desktop) {
        let of_all = [x11rb::NONE, self.server.root];
        if asked.facts.transient_for.is_some_and(|parent| of_all.contains(&parent.0)) {
            let group = |id: &Window| self.manners.get(id).and_then(|manners| manners.group);
            let same = |id: &&WindowId| id.0 != window && asked.manners.group.is_some() && group(&id.0) == asked.manners.group;
            let desk = desktop.desk();
            let focused = desk.focused();
            asked.facts.transient_for = focused.filter(|id| same(&id)).or_else(|| desk.windows.keys().rev().find(same).copied());
        }
    }

    /// Listens to the window that tells of the person in another one.
    fn learn_user(&mut self, window: Window, user: Option<Window>) -> Result<(), Error> {
        self.users.retain(|_, of| *of != window);
        if let Some(user) = user.filter(|user| *user != window) {
            let listen = xproto::ChangeWindowAttributesAux::new().event_mask(xproto::EventMask::PROPERTY_CHANGE);
            self.server.connection.change_window_attributes(user, &listen)?.ignore_error();
            self.users.insert(user, window);
        }
        Ok(())
    }

    /// A piece of what those who start programs tell each other.
    fn launched(&mut self, event: &xproto::ClientMessageEvent, desktop: &Desktop) -> Vec<DesktopEvent> {
        let names = self.server.names;
        if event.window == self.server.check || ![names._NET_STARTUP_INFO_BEGIN, names._NET_STARTUP_INFO].contains(&event.type_) {
            return Vec::new();
        }
        let heard = self.launches.hears(event, event.type_ == names._NET_STARTUP_INFO_BEGIN);
        let named = heard.and_then(|(id, at)| Some((id, desktop.desk().workspaces.get(at)?.name.clone())));
        named
            .map(|(start, workspace)| DesktopEvent::Started { start, process: None, workspace: Some(workspace), sought: true })
            .into_iter()
            .collect()
    }

    /// A window of ours was destroyed by somebody else: it comes back, as long as that does not go on and on.
    fn lost(&mut self, window: Window, desktop: &Desktop) {
        if let Some(id) = self.surfaces.lost(&self.server, window)
            && self.lost < MAX_LOST_SURFACES
            && let Some(surface) = desktop.surface(&id)
        {
            self.lost += 1;
            tracing::warn!(?id, "destroyed by another program");
            self.pending.shows(surface.clone());
            self.stacked.retain(|other| *other != window);
            self.pending.stacks(desktop);
        }
    }

    fn gone(&mut self, window: Window, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        self.lost(window, desktop);
        let gone = match &mut self.tray {
            Some(tray) => tray.gone(&self.server, window)?,
            None => false,
        };
        let mut events = if gone { self.tray_windows() } else { Vec::new() };
        events.extend(self.panels.gone(window));
        if manages(desktop, window) {
            self.windows.give_back(&self.server, window)?;
            self.manners.remove(&window);
            self.pings.gone(window);
            self.pace.gone(&self.server, window)?;
            self.users.retain(|_, of| *of != window);
            self.server.withdrawn(window)?;
            events.push(DesktopEvent::Wm(desk::WmEvent::Unmapped(WindowId(window))));
        }
        Ok(events)
    }

    fn property(&mut self, window: Window, atom: u32, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        if let Some(tray) = self.tray.as_mut().filter(|tray| tray.has(window)) {
            let changed = atom == self.server.names._XEMBED_INFO && tray.changed(&self.server, window)?;
            return Ok(if changed { self.tray_windows() } else { Vec::new() });
        }
        let names = self.server.names;
        if self.panels.has(window) {
            let of_panels = [names._NET_WM_STRUT, names._NET_WM_STRUT_PARTIAL, names._NET_WM_STATE, names._NET_WM_WINDOW_TYPE];
            let level = desktop.desk().panels().get(&WindowId(window)).map(|panel| panel.level);
            return Ok(match level.filter(|_| of_panels.contains(&atom)) {
                Some(level) => vec![self.panels.read(&self.server, window, level)?],
                None => Vec::new(),
            });
        }
        let user = self.users.get(&window).copied();
        let window = user.unwrap_or(window);
        let id = WindowId(window);
        if !manages(desktop, window) || user.is_some() && atom != names._NET_WM_USER_TIME {
            return Ok(Vec::new());
        }
        if atom == names._NET_WM_NAME || atom == names.WM_NAME {
            let title = self.server.title(window)?;
            return Ok(vec![DesktopEvent::Wm(desk::WmEvent::TitleChanged(id, title))]);
        } else if atom == names._NET_WM_USER_TIME {
            // The person did something in it.
            let teller = self.users.iter().find(|(_, of)| **of == window).map_or(window, |(user, _)| *user);
            let used = self.server.number(teller, atom)?.filter(|time| *time != 0);
            self.manners.entry(window).or_default().used = used;
            if desktop.desk().focused() == Some(id) {
                self.weigh(used)?;
            }
        } else if [names._NET_WM_WINDOW_OPACITY, names._NET_WM_BYPASS_COMPOSITOR].contains(&atom) {
            let value = self.server.number(window, atom)?;
            self.windows.pass(&self.server, window, atom, value)?;
        } else if atom == names._NET_WM_ICON {
            self.icons_stale.insert(window);
        } else if atom == names.WM_NORMAL_HINTS {
            self.sizes_stale.insert(window);
        } else if self.says_of_itself().contains(&atom)
            && let ClientRole::Place(mut asked) = self.server.facts(window, &[], self.active)?
        {
            self.belongs(window, &mut asked, desktop);
            // What we cut of it is no form of its own.
            asked.facts.shaped = self.windows.shaped(window);
            if self.manners.get(&window).is_some_and(|manners| manners.user != asked.manners.user) {
                self.learn_user(window, asked.manners.user)?;
            }
            self.manners.insert(window, asked.manners);
            let mut events = vec![DesktopEvent::Wm(desk::WmEvent::InfoChanged(id, Box::new(asked.facts)))];
            if atom == u32::from(AtomEnum::WM_HINTS) {
                events.push(DesktopEvent::Wm(desk::WmEvent::UrgencyChanged(id, asked.calls)));
            }
            return Ok(events);
        }
        Ok(Vec::new())
    }

    /// The properties by which a window says how it is to be treated.
    fn says_of_itself(&self) -> [u32; 7] {
        let n = self.server.names;
        let (hints, kind, counter) = (AtomEnum::WM_HINTS.into(), n._NET_WM_WINDOW_TYPE, n._NET_WM_SYNC_REQUEST_COUNTER);
        [hints, kind, counter, n.WM_TRANSIENT_FOR, n.WM_PROTOCOLS, n._NET_WM_USER_TIME_WINDOW, n.WM_WINDOW_ROLE]
    }

    /// Asks a window to close; one that does not know how is ended.
    pub(super) fn close(&mut self, window: Window) -> Result<(), Error> {
        let manners = self.manners.get(&window).copied().unwrap_or_default();
        let time = self.times.of_this(&self.server)?;
        if manners.pings {
            self.pings.ask(&self.server, window, time, self.now)?;
        }
        if manners.closes {
            return self.server.ask_to_close(window, time);
        }
        self.server.kill(window)
    }
}
