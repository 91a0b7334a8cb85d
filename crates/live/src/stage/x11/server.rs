//! The X11 server: the connection, windows and their properties, by ICCCM and EWMH.

use jovrik_core::desk::{Area, MonitorFacts, WindowFacts, WindowId};
use jovrik_core::rice::WindowKind;
use x11rb::CURRENT_TIME;
use x11rb::connection::Connection;
use x11rb::properties::{WmClass, WmHints, WmSizeHints};
use x11rb::protocol::randr::ConnectionExt as _;
use x11rb::protocol::shape::{self, ConnectionExt as _};
use x11rb::protocol::xproto::{
    Atom, AtomEnum, ButtonIndex, ChangeWindowAttributesAux, ClientMessageEvent, ClipOrdering, ConfigureNotifyEvent,
    ConfigureWindowAux, ConnectionExt, CreateWindowAux, EventMask, GetPropertyReply, GrabMode, InputFocus, MapState, ModMask,
    PropMode, Rectangle, StackMode, Window, WindowClass,
};
use x11rb::rust_connection::RustConnection;
use x11rb::wrapper::ConnectionExt as _;

use super::names::Names;
use crate::Error;

/// The most bytes of a property that are read.
const MOST: u32 = 64 * 1024;

/// A connection to a server whose windows are managed.
#[derive(Debug)]
pub struct Server {
    /// The connection.
    pub connection: RustConnection,
    /// The root window.
    pub root: Window,
    /// The screen's depth.
    pub depth: u8,
    /// The size of the whole screen.
    pub size: (u16, u16),
    /// Property and message names.
    pub names: Names,
    check: Window,
}

fn numbers(reply: Option<GetPropertyReply>) -> Vec<u32> {
    reply.and_then(|reply| reply.value32().map(Iterator::collect)).unwrap_or_default()
}

/// A text of a property, without what is no text; nothing when there is none.
fn text(reply: Option<GetPropertyReply>) -> Option<String> {
    let reply = reply.filter(|reply| !reply.value.is_empty())?;
    Some(String::from_utf8_lossy(&reply.value).chars().filter(|c| !c.is_control()).take(500).collect())
}

/// What the window manager listens to on the root window.
fn root_mask() -> EventMask {
    EventMask::SUBSTRUCTURE_REDIRECT | EventMask::SUBSTRUCTURE_NOTIFY | EventMask::STRUCTURE_NOTIFY | EventMask::PROPERTY_CHANGE
}

impl Server {
    /// Connects and becomes the window manager (ICCCM 2.8, section 4.3).
    pub fn take(display: &str, replace: bool) -> Result<Server, Error> {
        let (connection, screen) =
            x11rb::connect(Some(display)).map_err(|error| Error::NoServer(display.to_owned(), error.to_string()))?;
        let names = Names::new(&connection)?.reply()?;
        let (root, depth, size) = {
            let screen = &connection.setup().roots[screen];
            (screen.root, screen.root_depth, (screen.width_in_pixels, screen.height_in_pixels))
        };
        if depth < 24 {
            return Err(Error::Refused(format!("this screen has {depth} bits a pixel; 24 are needed")));
        }
        let check = connection.generate_id()?;
        let off = CreateWindowAux::new().override_redirect(1);
        connection.create_window(0, check, root, -10, -10, 1, 1, 0, WindowClass::INPUT_OUTPUT, 0, &off)?;
        let server = Server { connection, root, depth, size, names, check };
        server.own_selection(screen, replace)?;
        let listen = ChangeWindowAttributesAux::new().event_mask(root_mask());
        server.connection.change_window_attributes(root, &listen)?.check().map_err(|_| Error::Taken)?;
        use x11rb::protocol::randr::NotifyMask as News;
        let news = News::SCREEN_CHANGE | News::CRTC_CHANGE | News::OUTPUT_CHANGE | News::OUTPUT_PROPERTY;
        server.connection.randr_select_input(root, news)?.ignore_error();
        server.announce()?;
        Ok(server)
    }

    /// Takes the manager's selection; another owner is asked to leave only when that was wanted.
    fn own_selection(&self, screen: usize, replace: bool) -> Result<(), Error> {
        let name = format!("WM_S{screen}");
        let selection = self.connection.intern_atom(false, name.as_bytes())?.reply()?.atom;
        let owner = self.connection.get_selection_owner(selection)?.reply()?.owner;
        if owner != x11rb::NONE {
            if !replace {
                return Err(Error::Taken);
            }
            let listen = ChangeWindowAttributesAux::new().event_mask(EventMask::STRUCTURE_NOTIFY);
            self.connection.change_window_attributes(owner, &listen)?.ignore_error();
        }
        self.connection.set_selection_owner(self.check, selection, CURRENT_TIME)?;
        self.connection.sync()?;
        // Its window goes when it has let go of everything; five seconds are what it gets. Whoever does not answer by then
        // is ended, as the convention allows (ICCCM 2.8).
        if owner != x11rb::NONE && !self.gone(owner, 250)? {
            self.connection.kill_client(owner)?.ignore_error();
            if !self.gone(owner, 100)? {
                return Err(Error::Taken);
            }
        }
        Ok(())
    }

    /// Waits until a window is gone, so many times 20 ms.
    fn gone(&self, window: Window, times: usize) -> Result<bool, Error> {
        for _ in 0..times {
            if self.connection.get_geometry(window)?.reply().is_err() {
                return Ok(true);
            }
            std::thread::sleep(std::time::Duration::from_millis(20));
        }
        Ok(false)
    }

    /// Says who manages and what is supported (EWMH).
    fn announce(&self) -> Result<(), Error> {
        let n = &self.names;
        for window in [self.root, self.check] {
            self.connection.change_property32(
                PropMode::REPLACE,
                window,
                n._NET_SUPPORTING_WM_CHECK,
                AtomEnum::WINDOW,
                &[self.check],
            )?;
        }
        self.connection.change_property8(PropMode::REPLACE, self.check, n._NET_WM_NAME, n.UTF8_STRING, b"jovrik")?;
        let supported = [
            n._NET_ACTIVE_WINDOW,
            n._NET_CLIENT_LIST,
            n._NET_CLOSE_WINDOW,
            n._NET_CURRENT_DESKTOP,
            n._NET_DESKTOP_NAMES,
            n._NET_NUMBER_OF_DESKTOPS,
            n._NET_SUPPORTED,
            n._NET_SUPPORTING_WM_CHECK,
            n._NET_WM_DESKTOP,
            n._NET_WM_NAME,
            n._NET_WM_WINDOW_TYPE,
            n._NET_WORKAREA,
        ];
        self.connection.change_property32(PropMode::REPLACE, self.root, n._NET_SUPPORTED, AtomEnum::ATOM, &supported)?;
        Ok(())
    }

    /// The monitors that the server shows.
    pub fn monitors(&self) -> Result<Vec<MonitorFacts>, Error> {
        super::facts::monitors_of(&self.connection, self.root, self.size)
    }

    /// The windows that are there and want to be managed, in stacking order.
    pub fn existing(&self) -> Result<Vec<Window>, Error> {
        let tree = self.connection.query_tree(self.root)?.reply()?;
        let mut windows = Vec::new();
        for window in tree.children {
            let Ok(attributes) = self.connection.get_window_attributes(window)?.reply() else { continue };
            let iconic = attributes.map_state == MapState::UNMAPPED
                && self.numbers(window, self.names.WM_STATE)?.first().is_some_and(|state| *state == 3);
            if !attributes.override_redirect && (attributes.map_state == MapState::VIEWABLE || iconic) {
                windows.push(window);
            }
        }
        Ok(windows)
    }

    fn numbers(&self, window: Window, property: Atom) -> Result<Vec<u32>, Error> {
        Ok(numbers(self.connection.get_property(false, window, property, AtomEnum::ANY, 0, MOST / 4)?.reply().ok()))
    }

    fn text(&self, window: Window, property: Atom) -> Result<Option<String>, Error> {
        Ok(text(self.connection.get_property(false, window, property, AtomEnum::ANY, 0, MOST / 4)?.reply().ok()))
    }

    /// Whether a window is mapped.
    pub fn is_seen(&self, window: Window) -> Result<bool, Error> {
        let attributes = self.connection.get_window_attributes(window)?.reply();
        Ok(attributes.is_ok_and(|attributes| attributes.map_state != MapState::UNMAPPED))
    }

    /// The title of a window: EWMH's, else ICCCM's.
    pub fn title(&self, window: Window) -> Result<String, Error> {
        match self.text(window, self.names._NET_WM_NAME)? {
            Some(title) => Ok(title),
            None => Ok(self.text(window, self.names.WM_NAME)?.unwrap_or_default()),
        }
    }

    /// Whether a window calls (ICCCM, section 4.1.2.4).
    pub fn calls(&self, window: Window) -> Result<bool, Error> {
        Ok(WmHints::get(&self.connection, window)?.reply().ok().flatten().is_some_and(|hints| hints.urgent))
    }

    /// What the desk must know of a window, and whether it calls; nothing when it is gone or wants no place among the others.
    /// All is asked at once, so that one way to the server and back is enough.
    pub fn facts(&self, window: Window, workspaces: &[String]) -> Result<Option<(WindowFacts, bool)>, Error> {
        let (c, n) = (&self.connection, &self.names);
        let ask = |property: Atom| c.get_property(false, window, property, AtomEnum::ANY, 0, MOST / 4);
        let kinds = ask(n._NET_WM_WINDOW_TYPE)?;
        let geometry = c.get_geometry(window)?;
        let (class, sizes, hints) =
            (WmClass::get(c, window)?, WmSizeHints::get_normal_hints(c, window)?, WmHints::get(c, window)?);
        let (role, title, old_title) = (ask(n.WM_WINDOW_ROLE)?, ask(n._NET_WM_NAME)?, ask(n.WM_NAME)?);
        let (parent, desktop) = (ask(n.WM_TRANSIENT_FOR)?, ask(n._NET_WM_DESKTOP)?);
        let kinds = numbers(kinds.reply().ok());
        let geometry = geometry.reply();
        let class = class.reply().ok().flatten();
        let (sizes, hints) = (sizes.reply().ok().flatten(), hints.reply().ok().flatten());
        let (role, title, old_title) = (text(role.reply().ok()), text(title.reply().ok()), text(old_title.reply().ok()));
        let (parent, desktop) = (numbers(parent.reply().ok()), numbers(desktop.reply().ok()));
        let Ok(geometry) = geometry else { return Ok(None) };
        if kinds.contains(&n._NET_WM_WINDOW_TYPE_DOCK) || kinds.contains(&n._NET_WM_WINDOW_TYPE_DESKTOP) {
            return Ok(None);
        }
        let word = |bytes: &[u8]| String::from_utf8_lossy(bytes).chars().filter(|c| !c.is_control()).take(200).collect();
        let (app, instance) = class.map(|class| (word(class.class()), word(class.instance()))).unwrap_or_default();
        let sized = |size: (i32, i32)| (size.0.clamp(1, 16384), size.1.clamp(1, 16384));
        let kind = |kind: &Atom| {
            Some(match kind {
                kind if *kind == n._NET_WM_WINDOW_TYPE_NORMAL => WindowKind::Normal,
                kind if *kind == n._NET_WM_WINDOW_TYPE_DIALOG => WindowKind::Dialog,
                kind if *kind == n._NET_WM_WINDOW_TYPE_UTILITY => WindowKind::Utility,
                kind if *kind == n._NET_WM_WINDOW_TYPE_TOOLBAR => WindowKind::Toolbar,
                kind if *kind == n._NET_WM_WINDOW_TYPE_MENU => WindowKind::Menu,
                kind if *kind == n._NET_WM_WINDOW_TYPE_SPLASH => WindowKind::Splash,
                _ => return None,
            })
        };
        let facts = WindowFacts {
            app,
            instance,
            role: role.unwrap_or_default(),
            title: title.or(old_title).unwrap_or_default(),
            // The first that we know is meant (EWMH, `_NET_WM_WINDOW_TYPE`).
            kind: kinds.iter().find_map(kind).unwrap_or_default(),
            parent: parent.first().filter(|parent| **parent != 0).map(|id| WindowId(*id)),
            size: sized((geometry.width.into(), geometry.height.into())),
            least: sized(sizes.as_ref().and_then(|sizes| sizes.min_size).unwrap_or((1, 1))),
            most: sizes.as_ref().and_then(|sizes| sizes.max_size).map(sized),
            workspace: desktop.first().and_then(|at| workspaces.get(*at as usize).cloned()),
        };
        Ok(Some((facts, hints.is_some_and(|hints| hints.urgent))))
    }

    /// Listens to a window, and to the pointer coming over it if that is of use.
    pub fn listen(&self, window: Window, pointer: bool) -> Result<(), Error> {
        let pointer = if pointer { EventMask::ENTER_WINDOW } else { EventMask::NO_EVENT };
        let listen = ChangeWindowAttributesAux::new().event_mask(EventMask::PROPERTY_CHANGE | pointer);
        self.connection.change_window_attributes(window, &listen)?.ignore_error();
        Ok(())
    }

    /// Begins to manage a window: listens to clicks on it.
    pub fn manage(&self, window: Window) -> Result<(), Error> {
        self.connection
            .grab_button(
                true,
                window,
                EventMask::BUTTON_PRESS,
                GrabMode::SYNC,
                GrabMode::ASYNC,
                x11rb::NONE,
                x11rb::NONE,
                ButtonIndex::M1,
                ModMask::ANY,
            )?
            .ignore_error();
        self.connection.configure_window(window, &ConfigureWindowAux::new().border_width(0))?.ignore_error();
        Ok(())
    }

    /// Puts a window into an area, with its corners cut to fit inside its frame.
    pub fn place(&self, window: Window, area: Area, radius: i32) -> Result<(), Error> {
        let (w, h) = (area.w.max(1) as u32, area.h.max(1) as u32);
        self.connection
            .configure_window(window, &ConfigureWindowAux::new().x(area.x).y(area.y).width(w).height(h))?
            .ignore_error();
        self.tell_place(window, area)?;
        self.round(window, area, radius)
    }

    /// Tells a window where it is (ICCCM, section 4.1.5): it may not see it by itself.
    pub fn tell_place(&self, window: Window, area: Area) -> Result<(), Error> {
        let event = ConfigureNotifyEvent {
            response_type: x11rb::protocol::xproto::CONFIGURE_NOTIFY_EVENT,
            sequence: 0,
            event: window,
            window,
            above_sibling: x11rb::NONE,
            x: area.x as i16,
            y: area.y as i16,
            width: area.w as u16,
            height: area.h as u16,
            border_width: 0,
            override_redirect: false,
        };
        self.connection.send_event(false, window, EventMask::STRUCTURE_NOTIFY, event)?.ignore_error();
        Ok(())
    }

    /// Cuts the corners of a window (the SHAPE extension).
    pub fn round(&self, window: Window, area: Area, radius: i32) -> Result<(), Error> {
        if radius <= 0 {
            self.connection.shape_mask(shape::SO::SET, shape::SK::BOUNDING, window, 0, 0, x11rb::NONE)?.ignore_error();
            return Ok(());
        }
        let (w, h) = (area.w, area.h);
        let radius = radius.min(w / 2).min(h / 2);
        let row = |x: i32, y: i32, w: i32, h: i32| Rectangle {
            x: x as i16,
            y: y as i16,
            width: w.max(0) as u16,
            height: h.max(0) as u16,
        };
        let cut = |line: i32| {
            let up = f64::from(radius - line) - 0.5;
            let across = (f64::from(radius * radius) - up * up).max(0.0).sqrt();
            radius - across.round() as i32
        };
        let mut rows: Vec<Rectangle> = (0..radius).map(|line| row(cut(line), line, w - 2 * cut(line), 1)).collect();
        rows.push(row(0, radius, w, h - 2 * radius));
        rows.extend((0..radius).rev().map(|line| row(cut(line), h - 1 - line, w - 2 * cut(line), 1)));
        self.connection
            .shape_rectangles(shape::SO::SET, shape::SK::BOUNDING, ClipOrdering::Y_SORTED, window, 0, 0, &rows)?
            .ignore_error();
        Ok(())
    }

    /// Shows a window.
    pub fn show(&self, window: Window) -> Result<(), Error> {
        self.connection.map_window(window)?.ignore_error();
        self.state(window, 1)
    }

    /// Takes a window out of sight.
    pub fn hide(&self, window: Window) -> Result<(), Error> {
        self.connection.unmap_window(window)?.ignore_error();
        self.state(window, 3)
    }

    /// `WM_STATE`: 0 withdrawn, 1 normal, 3 iconic (ICCCM, section 4.1.3.1).
    pub fn state(&self, window: Window, state: u32) -> Result<(), Error> {
        let name = self.names.WM_STATE;
        self.connection.change_property32(PropMode::REPLACE, window, name, name, &[state, x11rb::NONE])?.ignore_error();
        Ok(())
    }

    /// Lifts a window over the others.
    pub fn lift(&self, window: Window) -> Result<(), Error> {
        self.connection.configure_window(window, &ConfigureWindowAux::new().stack_mode(StackMode::ABOVE))?.ignore_error();
        Ok(())
    }

    fn message(&self, to: Window, kind: Atom, data: [u32; 5]) -> Result<(), Error> {
        let event = ClientMessageEvent::new(32, to, kind, data);
        self.connection.send_event(false, to, EventMask::NO_EVENT, event)?.ignore_error();
        Ok(())
    }

    /// Gives the focus to a window, or to nobody.
    pub fn focus(&self, window: Option<Window>) -> Result<(), Error> {
        match window {
            Some(window) => {
                self.connection.set_input_focus(InputFocus::POINTER_ROOT, window, CURRENT_TIME)?.ignore_error();
                if self.numbers(window, self.names.WM_PROTOCOLS)?.contains(&self.names.WM_TAKE_FOCUS) {
                    self.message(window, self.names.WM_PROTOCOLS, [self.names.WM_TAKE_FOCUS, CURRENT_TIME, 0, 0, 0])?;
                }
            }
            None => self.connection.set_input_focus(InputFocus::POINTER_ROOT, self.root, CURRENT_TIME)?.ignore_error(),
        }
        let active = window.unwrap_or(x11rb::NONE);
        self.connection.change_property32(
            PropMode::REPLACE,
            self.root,
            self.names._NET_ACTIVE_WINDOW,
            AtomEnum::WINDOW,
            &[active],
        )?;
        Ok(())
    }

    /// Asks a window to close; one that does not know how is ended.
    pub fn close(&self, window: Window) -> Result<(), Error> {
        if self.numbers(window, self.names.WM_PROTOCOLS)?.contains(&self.names.WM_DELETE_WINDOW) {
            return self.message(window, self.names.WM_PROTOCOLS, [self.names.WM_DELETE_WINDOW, CURRENT_TIME, 0, 0, 0]);
        }
        self.kill(window)
    }

    /// Ends a window's connection.
    pub fn kill(&self, window: Window) -> Result<(), Error> {
        self.connection.kill_client(window)?.ignore_error();
        Ok(())
    }

    /// Sets a list of numbers on the root window.
    pub fn tell_root(&self, property: Atom, kind: AtomEnum, values: &[u32]) -> Result<(), Error> {
        self.connection.change_property32(PropMode::REPLACE, self.root, property, kind, values)?;
        Ok(())
    }

    /// Says on which workspace a window is.
    pub fn tell_workspace(&self, window: Window, workspace: usize) -> Result<(), Error> {
        let name = self.names._NET_WM_DESKTOP;
        self.connection
            .change_property32(PropMode::REPLACE, window, name, AtomEnum::CARDINAL, &[workspace as u32])?
            .ignore_error();
        Ok(())
    }

    /// Leaves the screen to whoever comes next: every window is seen, nothing of ours stays.
    pub fn leave(&self, windows: impl Iterator<Item = Window>) -> Result<(), Error> {
        for window in windows {
            self.connection.shape_mask(shape::SO::SET, shape::SK::BOUNDING, window, 0, 0, x11rb::NONE)?.ignore_error();
            self.show(window)?;
        }
        for property in [self.names._NET_SUPPORTING_WM_CHECK, self.names._NET_SUPPORTED, self.names._NET_ACTIVE_WINDOW] {
            self.connection.delete_property(self.root, property)?;
        }
        self.connection
            .set_input_focus(InputFocus::POINTER_ROOT, u32::from(InputFocus::POINTER_ROOT), CURRENT_TIME)?
            .ignore_error();
        self.connection.sync()?;
        Ok(())
    }
}
