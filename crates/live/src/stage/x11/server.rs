//! The X11 server: the connection, windows and their properties, by ICCCM and EWMH.

use jovrik_core::desk::{InitialState, MonitorFacts, SizeIncrements, StackingLayer, StackingState, WindowFacts, WindowId};
use jovrik_core::rice::WindowKind;
use jovrik_text::limits;
use jovrik_values::PixelRect;
use x11rb::CURRENT_TIME;
use x11rb::connection::{Connection, RequestConnection};
use x11rb::properties::{WmClass, WmHints, WmHintsState, WmSizeHints, WmSizeHintsCookie};
use x11rb::protocol::randr::ConnectionExt as _;
use x11rb::protocol::shape::ConnectionExt as _;
use x11rb::protocol::sync::{self, ConnectionExt as _};
use x11rb::protocol::xproto::{
    Atom, AtomEnum, ChangeWindowAttributesAux, ClientMessageEvent, ConfigureNotifyEvent, ConnectionExt, CreateWindowAux,
    EventMask, GetPropertyReply, InputFocus, MapState, PropMode, Window, WindowClass,
};
use x11rb::wrapper::ConnectionExt as _;

use super::atoms::Names;
use super::connection::{X11Connection, connect};
use super::messages::gravity;
use super::windows::Form;
use crate::Error;

/// The most bytes of a property that are read.
const MAX_PROPERTY_BYTES: u32 = 64 * 1024;

/// A connection to a server whose windows are managed.
#[derive(Debug)]
pub struct Server {
    /// The connection.
    pub connection: X11Connection,
    /// The root window.
    pub root: Window,
    /// The screen's depth.
    pub depth: u8,
    /// The size of the whole screen.
    pub size: (u16, u16),
    /// Property and message names.
    pub names: Names,
    /// Says that we manage; everything that we stack lies over it.
    pub check: Window,
    /// The manager's selection, and since when it is ours.
    pub selection: Atom,
    /// The server's time of that.
    pub since: u32,
    /// Whether it knows of counters.
    pub sync: bool,
    /// Whether another one manages the windows, and we only show something beside.
    pub guest: bool,
}

/// How a window is spoken to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct ClientProtocols {
    /// Whether it is given the focus.
    pub input: bool,
    /// Whether it is told to take the focus.
    pub takes: bool,
    /// Whether it closes when it is asked.
    pub closes: bool,
    /// Whether it says that it is still there when it is asked.
    pub pings: bool,
    /// The counter by which it says that it has drawn a size.
    pub counter: Option<u32>,
    /// The window that tells when the person did something in it, where that is another one.
    pub user: Option<Window>,
    /// The window that leads its group.
    pub group: Option<Window>,
    /// Which states it has that are said back as they were said: those of [`Names::passed`].
    pub passed: [bool; 3],
    /// When the person did something in it last, as it says.
    pub used: Option<u32>,
}

/// What a window wants to be.
#[derive(Debug)]
pub enum ClientRole {
    /// One among the others.
    Place(Box<ClientInfo>),
    /// A panel or a desktop, which lies where it wants.
    Panel(StackingLayer),
    /// Nothing any more: it is gone.
    Nothing,
}

/// What a window says of itself.
#[derive(Debug)]
pub struct ClientInfo {
    /// What the desk must know.
    pub facts: WindowFacts,
    /// Whether it calls.
    pub calls: bool,
    /// How it is spoken to.
    pub manners: ClientProtocols,
    /// What a compositing manager goes by: how opaque it is, and whether that is to leave it alone.
    pub compositing: [Option<u32>; 2],
    /// What it is made of.
    pub form: Form,
}

fn numbers(reply: Option<GetPropertyReply>) -> Vec<u32> {
    reply.and_then(|reply| reply.value32().map(Iterator::collect)).unwrap_or_default()
}

/// A text of a property, without what is no text; nothing when there is none.
fn text(reply: Option<GetPropertyReply>) -> Option<String> {
    let reply = reply.filter(|reply| !reply.value.is_empty())?;
    Some(String::from_utf8_lossy(&reply.value).chars().filter(|c| !c.is_control()).take(limits::TITLE_TEXT).collect())
}

/// What the window manager listens to on the root window, or a guest.
fn root_mask(guest: bool) -> EventMask {
    let all = EventMask::SUBSTRUCTURE_NOTIFY | EventMask::STRUCTURE_NOTIFY | EventMask::PROPERTY_CHANGE;
    if guest { all } else { all | EventMask::SUBSTRUCTURE_REDIRECT }
}

fn sized(size: (i32, i32)) -> (i32, i32) {
    (size.0.clamp(1, 16384), size.1.clamp(1, 16384))
}

/// What is known of a window, with what it says of its sizes (ICCCM, section 4.1.2.3).
fn with_sizes(facts: WindowFacts, sizes: Option<&WmSizeHints>) -> WindowFacts {
    let steps = sizes.and_then(|sizes| {
        let by = sizes.size_increment?;
        let base = sizes.base_size.or(sizes.min_size).unwrap_or_default();
        Some(SizeIncrements {
            base: (base.0.clamp(0, 16384), base.1.clamp(0, 16384)),
            by: (by.0.clamp(1, 1000), by.1.clamp(1, 1000)),
        })
    });
    WindowFacts {
        gravity: sizes.and_then(|sizes| sizes.win_gravity).and_then(|it| gravity(it.into())).unwrap_or_default(),
        min_size: sized(sizes.and_then(|sizes| sizes.min_size.or(sizes.base_size)).unwrap_or((1, 1))),
        max_size: sizes.and_then(|sizes| sizes.max_size).map(sized),
        size_increments: steps,
        ..facts
    }
}

impl Server {
    /// Sends what was asked for so far; where the server shares our processor, it carries it out before we go on.
    pub fn flush_and_yield(&self) -> Result<(), Error> {
        self.connection.flush()?;
        std::thread::yield_now();
        Ok(())
    }

    /// Connects and becomes the window manager (ICCCM 2.8, section 4.3), unless it is a guest of another one.
    pub fn take(display: &str, replace: bool, guest: bool) -> Result<Server, Error> {
        let (connection, screen) = connect(display)?;
        let names = Names::new(&connection)?.reply()?;
        let (root, depth, size) = {
            let screen = &connection.setup().roots[screen];
            (screen.root, screen.root_depth, (screen.width_in_pixels, screen.height_in_pixels))
        };
        if depth < 24 {
            return Err(Error::Refused(format!("this screen has {depth} bits a pixel; 24 are needed")));
        }
        let check = connection.generate_id()?;
        let off = CreateWindowAux::new().override_redirect(1).event_mask(EventMask::PROPERTY_CHANGE);
        connection.create_window(0, check, root, -10, -10, 1, 1, 0, WindowClass::INPUT_OUTPUT, 0, &off)?;
        let sync = connection.extension_information(sync::X11_EXTENSION_NAME)?.is_some();
        if sync {
            connection.sync_initialize(3, 1)?.reply()?;
        }
        let mut server =
            Server { connection, sync, root, depth, size, names, check, selection: x11rb::NONE, since: CURRENT_TIME, guest };
        if !guest {
            server.own_selection(screen, replace)?;
        }
        let listen = ChangeWindowAttributesAux::new().event_mask(root_mask(guest));
        server.connection.change_window_attributes(root, &listen)?.check().map_err(|_| Error::Taken)?;
        use x11rb::protocol::randr::NotifyMask as News;
        let news = News::SCREEN_CHANGE | News::CRTC_CHANGE | News::OUTPUT_CHANGE | News::OUTPUT_PROPERTY;
        server.connection.randr_select_input(root, news)?.ignore_error();
        if !guest {
            server.announce()?;
        }
        if !guest {
            server.connection.map_window(check)?;
        }
        super::windows::stack(&server, check, None)?;
        Ok(server)
    }

    /// Takes the manager's selection; another owner is asked to leave only when that was wanted.
    fn own_selection(&mut self, screen: usize, replace: bool) -> Result<(), Error> {
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
        (self.selection, self.since) = (selection, self.time()?);
        self.connection.set_selection_owner(self.check, selection, self.since)?;
        self.connection.sync()?;
        // Its window goes when it has let go of everything; five seconds are what it gets. Whoever does not answer by then
        // is ended, as the convention allows (ICCCM 2.8).
        if owner != x11rb::NONE && !self.gone(owner, 250)? {
            self.connection.kill_client(owner)?.ignore_error();
            if !self.gone(owner, 100)? {
                return Err(Error::Taken);
            }
        }
        // Whoever waits for a manager is told (ICCCM, section 2.8).
        let data = [self.since, selection, self.check, 0, 0];
        let event = ClientMessageEvent::new(32, self.root, self.names.MANAGER, data);
        self.connection.send_event(false, self.root, EventMask::STRUCTURE_NOTIFY, event)?;
        Ok(())
    }

    /// The server's time now (ICCCM, section 2.1: from the event of a property that is appended nothing).
    fn time(&self) -> Result<u32, Error> {
        let (c, name) = (&self.connection, self.names.WM_CLASS);
        c.change_property8(PropMode::APPEND, self.check, name, AtomEnum::STRING, &[])?;
        c.flush()?;
        loop {
            if let x11rb::protocol::Event::PropertyNotify(event) = c.wait_for_event()?
                && event.window == self.check
            {
                return Ok(event.time);
            }
        }
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
        let supported = n.supported();
        self.connection.change_property32(PropMode::REPLACE, self.root, n._NET_SUPPORTED, AtomEnum::ATOM, &supported)?;
        Ok(())
    }

    /// The monitors that the server shows.
    pub fn monitors(&self) -> Result<Vec<MonitorFacts>, Error> {
        super::facts::monitors_of(&self.connection, self.root, self.size)
    }

    /// The windows that are there and want to be managed, in stacking order; whether each is mapped.
    pub fn existing(&self) -> Result<Vec<(Window, bool)>, Error> {
        let tree = self.connection.query_tree(self.root)?.reply()?;
        let mut windows = Vec::new();
        for window in tree.children {
            let Ok(attributes) = self.connection.get_window_attributes(window)?.reply() else { continue };
            let iconic = attributes.map_state == MapState::UNMAPPED
                && self.numbers(window, self.names.WM_STATE)?.first().is_some_and(|state| *state == 3);
            if !attributes.override_redirect && (attributes.map_state == MapState::VIEWABLE || iconic) {
                windows.push((window, !iconic));
            }
        }
        Ok(windows)
    }

    /// The numbers of a property.
    pub fn numbers(&self, window: Window, property: Atom) -> Result<Vec<u32>, Error> {
        Ok(numbers(self.connection.get_property(false, window, property, AtomEnum::ANY, 0, MAX_PROPERTY_BYTES / 4)?.reply().ok()))
    }

    fn text(&self, window: Window, property: Atom) -> Result<Option<String>, Error> {
        Ok(text(self.connection.get_property(false, window, property, AtomEnum::ANY, 0, MAX_PROPERTY_BYTES / 4)?.reply().ok()))
    }

    /// The title of a window: EWMH's, else ICCCM's.
    pub fn title(&self, window: Window) -> Result<String, Error> {
        match self.text(window, self.names._NET_WM_NAME)? {
            Some(title) => Ok(title),
            None => Ok(self.text(window, self.names.WM_NAME)?.unwrap_or_default()),
        }
    }

    /// A number of a property.
    pub fn number(&self, window: Window, property: Atom) -> Result<Option<u32>, Error> {
        Ok(self.numbers(window, property)?.first().copied())
    }

    /// What the desk must know of a window, and whether it calls; nothing when it is gone or wants no place among the others.
    /// All is asked at once, so that one way to the server and back is enough.
    ///
    /// `active` is the time of what the person did last: a window that says that it comes of something older is unasked for
    /// (EWMH, `_NET_WM_USER_TIME`).
    pub fn facts(&self, window: Window, workspaces: &[String], active: u32) -> Result<ClientRole, Error> {
        let (c, n) = (&self.connection, &self.names);
        let ask = |property: Atom| c.get_property(false, window, property, AtomEnum::ANY, 0, MAX_PROPERTY_BYTES / 4);
        let kinds = ask(n._NET_WM_WINDOW_TYPE)?;
        let geometry = c.get_geometry(window)?;
        let shape = c.shape_query_extents(window)?;
        let (class, sizes, hints) =
            (WmClass::get(c, window)?, WmSizeHints::get_normal_hints(c, window)?, WmHints::get(c, window)?);
        let (role, title, old_title) = (ask(n.WM_WINDOW_ROLE)?, ask(n._NET_WM_NAME)?, ask(n.WM_NAME)?);
        let (parent, desktop) = (ask(n.WM_TRANSIENT_FOR)?, ask(n._NET_WM_DESKTOP)?);
        let (states, protocols, time) = (ask(n._NET_WM_STATE)?, ask(n.WM_PROTOCOLS)?, ask(n._NET_WM_USER_TIME)?);
        let (start, process) = (ask(n._NET_STARTUP_ID)?, ask(n._NET_WM_PID)?);
        let (counter, user) = (ask(n._NET_WM_SYNC_REQUEST_COUNTER)?, ask(n._NET_WM_USER_TIME_WINDOW)?);
        let compositing = [ask(n._NET_WM_WINDOW_OPACITY)?, ask(n._NET_WM_BYPASS_COMPOSITOR)?];
        let kinds = numbers(kinds.reply().ok());
        let geometry = geometry.reply();
        let shaped = shape.reply().is_ok_and(|shape| shape.bounding_shaped);
        let class = class.reply().ok().flatten();
        let (sizes, hints) = (sizes.reply().ok().flatten(), hints.reply().ok().flatten());
        let (role, title, old_title) = (text(role.reply().ok()), text(title.reply().ok()), text(old_title.reply().ok()));
        let (parent, desktop) = (numbers(parent.reply().ok()), numbers(desktop.reply().ok()));
        let (states, protocols) = (numbers(states.reply().ok()), numbers(protocols.reply().ok()));
        let one = |reply: Option<GetPropertyReply>| numbers(reply).first().copied().filter(|number| *number != x11rb::NONE);
        let (mut time, process) = (numbers(time.reply().ok()).first().copied(), one(process.reply().ok()));
        let (counter, user) = (one(counter.reply().ok()), one(user.reply().ok()));
        let start = text(start.reply().ok()).unwrap_or_default();
        let compositing = compositing.map(|asked| numbers(asked.reply().ok()).first().copied());
        let Ok(geometry) = geometry else { return Ok(ClientRole::Nothing) };
        let is = |state: Atom| states.contains(&state);
        if kinds.contains(&n._NET_WM_WINDOW_TYPE_DOCK) || kinds.contains(&n._NET_WM_WINDOW_TYPE_DESKTOP) {
            return Ok(ClientRole::Panel(match () {
                () if kinds.contains(&n._NET_WM_WINDOW_TYPE_DESKTOP) => StackingLayer::Desktop,
                () if is(n._NET_WM_STATE_BELOW) => StackingLayer::Below,
                () if is(n._NET_WM_STATE_ABOVE) => StackingLayer::Above,
                () => StackingLayer::Bars,
            }));
        }
        if let Some(user) = user {
            time = self.number(user, n._NET_WM_USER_TIME)?.or(time);
        }
        let word =
            |bytes: &[u8]| String::from_utf8_lossy(bytes).chars().filter(|c| !c.is_control()).take(limits::CLASS_TEXT).collect();
        let (app, instance) = class.map(|class| (word(class.class()), word(class.instance()))).unwrap_or_default();
        let kind = |kind: &Atom| {
            Some(match kind {
                kind if *kind == n._NET_WM_WINDOW_TYPE_NORMAL => WindowKind::Normal,
                kind if *kind == n._NET_WM_WINDOW_TYPE_DIALOG => WindowKind::Dialog,
                kind if *kind == n._NET_WM_WINDOW_TYPE_UTILITY => WindowKind::Utility,
                kind if *kind == n._NET_WM_WINDOW_TYPE_TOOLBAR => WindowKind::Toolbar,
                kind if *kind == n._NET_WM_WINDOW_TYPE_MENU => WindowKind::Menu,
                kind if *kind == n._NET_WM_WINDOW_TYPE_SPLASH => WindowKind::Splash,
                kind if *kind == n._NET_WM_WINDOW_TYPE_NOTIFICATION => WindowKind::Notification,
                // Mostly no business of ours; one that asks us all the same is the nearest of those above.
                kind if *kind == n._NET_WM_WINDOW_TYPE_DROPDOWN_MENU => WindowKind::Menu,
                kind if *kind == n._NET_WM_WINDOW_TYPE_POPUP_MENU => WindowKind::Menu,
                kind if *kind == n._NET_WM_WINDOW_TYPE_COMBO => WindowKind::Menu,
                kind if *kind == n._NET_WM_WINDOW_TYPE_TOOLTIP => WindowKind::Notification,
                kind if *kind == n._NET_WM_WINDOW_TYPE_DND => WindowKind::Notification,
                _ => return None,
            })
        };
        let input = hints.as_ref().and_then(|hints| hints.input).unwrap_or(true);
        let iconic = hints.as_ref().is_some_and(|hints| matches!(hints.initial_state, Some(WmHintsState::Iconic)));
        let knows = |protocol: Atom| protocols.contains(&protocol);
        let manners = ClientProtocols {
            input,
            takes: knows(n.WM_TAKE_FOCUS),
            closes: knows(n.WM_DELETE_WINDOW),
            pings: knows(n._NET_WM_PING),
            counter: counter.filter(|_| self.sync && knows(n._NET_WM_SYNC_REQUEST)),
            user,
            group: hints.as_ref().and_then(|hints| hints.window_group).filter(|group| *group != x11rb::NONE),
            passed: n.passed().map(is),
            used: time.filter(|time| *time != 0),
        };
        let shelf = match (is(n._NET_WM_STATE_ABOVE), is(n._NET_WM_STATE_BELOW)) {
            (true, _) => StackingState::Above,
            (false, true) => StackingState::Below,
            (false, false) => StackingState::Plain,
        };
        let everywhere = desktop.first() == Some(&u32::MAX);
        let older = |time: u32| time == 0 || active != 0 && (time.wrapping_sub(active) as i32) < 0;
        let chosen = sizes.as_ref().and_then(|sizes| sizes.position);
        let facts = WindowFacts {
            app_id: app,
            instance,
            role: role.unwrap_or_default(),
            title: title.or(old_title).unwrap_or_default(),
            // The first that we know is meant (EWMH, `_NET_WM_WINDOW_TYPE`).
            window_type: kinds.iter().find_map(kind).unwrap_or_default(),
            // Of the root window or of none: of all windows of its group (EWMH), which the stage knows.
            transient_for: parent.first().map(|id| WindowId(*id)),
            size: sized((geometry.width.into(), geometry.height.into())),
            at: chosen.map(|_| (geometry.x.into(), geometry.y.into())),
            workspace: desktop.first().and_then(|at| workspaces.get(*at as usize).cloned()),
            asks: InitialState {
                fullscreen: is(n._NET_WM_STATE_FULLSCREEN),
                maximized_horz: is(n._NET_WM_STATE_MAXIMIZED_HORZ),
                maximized_vert: is(n._NET_WM_STATE_MAXIMIZED_VERT),
                sticky: is(n._NET_WM_STATE_STICKY) || everywhere,
                minimized: iconic,
                stacking: shelf,
            },
            shaped,
            no_initial_focus: time.is_some_and(older),
            startup_id: start,
            pid: process,
            ..WindowFacts::default()
        };
        let facts = with_sizes(facts, sizes.as_ref());
        let calls = hints.is_some_and(|hints| hints.urgent) || is(n._NET_WM_STATE_DEMANDS_ATTENTION);
        let form = Form { depth: geometry.depth, shaped };
        Ok(ClientRole::Place(Box::new(ClientInfo { facts, calls, manners, compositing, form })))
    }

    /// What windows say of their sizes, beside what is known of them.
    pub fn sizes(&self, windows: impl Iterator<Item = (Window, WindowFacts)>) -> Result<Vec<(Window, WindowFacts)>, Error> {
        // All questions go out before the first answer is waited for.
        let asked = windows.map(|(window, facts)| Ok((window, facts, WmSizeHints::get_normal_hints(&self.connection, window)?)));
        let asked = asked.collect::<Result<Vec<_>, Error>>()?;
        let told = |(window, facts, answer): (_, _, WmSizeHintsCookie<'_, _>)| {
            (window, with_sizes(facts, answer.reply().ok().flatten().as_ref()))
        };
        Ok(asked.into_iter().map(told).collect())
    }

    /// Whether a window is seen, or would be where nothing lies over it.
    pub fn viewable(&self, window: Window) -> Result<bool, Error> {
        let attributes = self.connection.get_window_attributes(window)?.reply();
        Ok(attributes.is_ok_and(|of| of.map_state == MapState::VIEWABLE && !of.override_redirect))
    }

    /// Listens to a window, and to the pointer coming over it if that is of use.
    pub fn listen(&self, window: Window, pointer: bool) -> Result<(), Error> {
        let pointer = if pointer { EventMask::ENTER_WINDOW } else { EventMask::NO_EVENT };
        let listen = ChangeWindowAttributesAux::new().event_mask(EventMask::PROPERTY_CHANGE | pointer);
        self.connection.change_window_attributes(window, &listen)?.ignore_error();
        Ok(())
    }

    /// Tells a window where it is (ICCCM, section 4.1.5): it may not see it by itself.
    pub fn tell_place(&self, window: Window, area: PixelRect) -> Result<(), Error> {
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

    /// `WM_STATE`: 0 withdrawn, 1 normal, 3 iconic (ICCCM, section 4.1.3.1).
    pub fn state(&self, window: Window, state: u32) -> Result<(), Error> {
        let name = self.names.WM_STATE;
        self.connection.change_property32(PropMode::REPLACE, window, name, name, &[state, x11rb::NONE])?.ignore_error();
        Ok(())
    }

    /// Sends a window a message.
    pub fn message(&self, to: Window, kind: Atom, data: [u32; 5]) -> Result<(), Error> {
        let event = ClientMessageEvent::new(32, to, kind, data);
        self.connection.send_event(false, to, EventMask::NO_EVENT, event)?.ignore_error();
        Ok(())
    }

    /// Gives the focus to a window in its own manner (ICCCM, section 4.1.7), or to nobody.
    pub fn focus(&self, window: Option<Window>, manners: ClientProtocols, time: u32) -> Result<(), Error> {
        let give = |to: Window| self.connection.set_input_focus(InputFocus::POINTER_ROOT, to, time);
        match window.filter(|_| manners.input || manners.takes) {
            Some(window) => {
                if manners.input {
                    give(window)?.ignore_error();
                }
                if manners.takes {
                    self.message(window, self.names.WM_PROTOCOLS, [self.names.WM_TAKE_FOCUS, time, 0, 0, 0])?;
                }
            }
            // Keys go to none then: of the root window, whatever lies under the pointer would get them.
            None => give(self.check)?.ignore_error(),
        }
        let active = window.unwrap_or(x11rb::NONE);
        self.tell_root(self.names._NET_ACTIVE_WINDOW, AtomEnum::WINDOW, &[active])
    }

    /// Asks a window to close.
    pub fn ask_to_close(&self, window: Window, time: u32) -> Result<(), Error> {
        self.message(window, self.names.WM_PROTOCOLS, [self.names.WM_DELETE_WINDOW, time, 0, 0, 0])
    }

    /// A window is no longer on any desk: what was said of it is taken back (EWMH, `_NET_WM_STATE`, `_NET_WM_DESKTOP`).
    pub fn withdrawn(&self, window: Window) -> Result<(), Error> {
        self.state(window, 0)?;
        let of_ours = [self.names._NET_WM_STATE, self.names._NET_WM_DESKTOP, self.names._NET_WM_ALLOWED_ACTIONS];
        for property in of_ours {
            self.connection.delete_property(window, property)?.ignore_error();
        }
        Ok(())
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

    /// Sets a list of numbers on a window.
    pub fn tell(&self, window: Window, property: Atom, kind: AtomEnum, values: &[u32]) -> Result<(), Error> {
        self.connection.change_property32(PropMode::REPLACE, window, property, kind, values)?.ignore_error();
        Ok(())
    }

    /// Leaves the screen to whoever comes next: nothing of ours stays.
    pub fn leave(&self) -> Result<(), Error> {
        if self.guest {
            return Ok(self.connection.sync()?);
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
