//! What other programs ask for: pagers, scripts, and windows for themselves (ICCCM, section 4.1; EWMH).

use jovrik_core::desk::{self, Gravity, GravityAxis, RestackMode, StackingState, WindowId, WindowRequest};
use jovrik_core::desktop::{Desktop, DesktopEvent, MoveResizeRequest};
use jovrik_values::action::{Action, CycleTarget, Switch};
use jovrik_values::{PixelRect, Side};
use x11rb::protocol::randr::ConnectionExt as _;
use x11rb::protocol::xproto::{
    self, AtomEnum, ConfigWindow, ConfigureWindowAux, ConnectionExt, EventMask, GrabMode, KeyButMask, StackMode, Window,
};

use super::X11;
use super::events::manages;
use super::tray::Tray;
use crate::Error;

/// Which point of a window stays, by its number in the core protocol; 0: as it said of itself.
pub(super) fn gravity(number: u32) -> Option<Gravity> {
    let pulls = [GravityAxis::Start, GravityAxis::Middle, GravityAxis::End];
    match number {
        1..=9 => Some(Gravity(pulls[(number as usize - 1) % 3], pulls[(number as usize - 1) / 3])),
        10 => Some(Gravity(GravityAxis::Static, GravityAxis::Static)),
        _ => None,
    }
}

/// Where a window is to lie among the others, by the number of the core protocol.
fn lift(detail: StackMode, sibling: Option<Window>) -> Option<RestackMode> {
    Some(match (detail, sibling.map(WindowId)) {
        (StackMode::ABOVE, Some(other)) => RestackMode::Over(other),
        (StackMode::BELOW, Some(other)) => RestackMode::Under(other),
        (StackMode::ABOVE | StackMode::TOP_IF, _) => RestackMode::Top,
        (StackMode::BELOW | StackMode::BOTTOM_IF, _) => RestackMode::Bottom,
        (StackMode::OPPOSITE, _) => RestackMode::Opposite,
        _ => return None,
    })
}

fn asks(id: WindowId, asked: WindowRequest) -> DesktopEvent {
    DesktopEvent::Wm(desk::WmEvent::Requested(id, asked))
}

impl X11 {
    /// A window asks for another place, size or height among the others.
    pub(super) fn configure(
        &mut self,
        event: &xproto::ConfigureRequestEvent,
        desktop: &Desktop,
    ) -> Result<Vec<DesktopEvent>, Error> {
        if !manages(desktop, event.window) {
            let asked = ConfigureWindowAux::from_configure_request(event);
            // What lies over what is ours to say, where it is managed.
            let asked = if self.panels.has(event.window) { asked.stack_mode(None).sibling(None) } else { asked };
            self.server.connection.configure_window(event.window, &asked)?.ignore_error();
            return Ok(Vec::new());
        }
        let id = WindowId(event.window);
        let has = |part: ConfigWindow| u16::from(event.value_mask) & u16::from(part) != 0;
        let one = |part: ConfigWindow, value: i32| has(part).then_some(value);
        let at = (one(ConfigWindow::X, event.x.into()), one(ConfigWindow::Y, event.y.into()));
        let size = (one(ConfigWindow::WIDTH, event.width.into()), one(ConfigWindow::HEIGHT, event.height.into()));
        // A tile is told where it is; what floats has a say, and is told when it moved.
        if !desktop.desk().floats(id) {
            self.windows.tell_place(&self.server, event.window)?;
            return Ok(Vec::new());
        }
        self.answers.insert(event.window);
        let mut events = Vec::new();
        if (at, size) != ((None, None), (None, None)) {
            events.push(asks(id, WindowRequest::Configure { at, size, gravity: None }));
        }
        let sibling = has(ConfigWindow::SIBLING).then_some(event.sibling);
        if let Some(how) = has(ConfigWindow::STACK_MODE).then(|| lift(event.stack_mode, sibling)).flatten() {
            events.push(asks(id, WindowRequest::Lift(how)));
        }
        Ok(events)
    }

    pub(super) fn message(&mut self, event: &xproto::ClientMessageEvent, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        if event.format != 32 {
            return Ok(Vec::new());
        }
        let names = self.server.names;
        let (kind, data, window) = (event.type_, event.data.as_data32(), event.window);
        if let Some(tray) = self.tray.as_mut().filter(|tray| tray.is(window)) {
            // SYSTEM_TRAY_REQUEST_DOCK; balloons are not ours to show.
            if kind == names._NET_SYSTEM_TRAY_OPCODE && data[1] == 0 {
                tray.dock(&self.server, data[2])?;
                return Ok(vec![DesktopEvent::TrayWindows(self.tray.as_ref().map_or(0, Tray::count))]);
            }
            return Ok(Vec::new());
        }
        if kind == names.WM_PROTOCOLS && data[0] == names._NET_WM_PING && window == self.server.root {
            let answered = self.pings.answered(data[2]);
            return Ok(answered.then_some(DesktopEvent::ResponsivenessChanged(WindowId(data[2]), false)).into_iter().collect());
        } else if kind == names._NET_REQUEST_FRAME_EXTENTS {
            // Also before it is seen for the first time (EWMH).
            let wide = desktop.desk().frame_width();
            self.server.tell(window, names._NET_FRAME_EXTENTS, AtomEnum::CARDINAL, &[wide.max(0) as u32; 4])?;
            return Ok(Vec::new());
        } else if kind == names._NET_SHOWING_DESKTOP {
            return Ok(vec![DesktopEvent::Wm(desk::WmEvent::ShowingDesktopChanged(data[0] != 0))]);
        } else if kind == names._NET_CURRENT_DESKTOP {
            let name = desktop.desk().workspaces.get(data[0] as usize).map(|workspace| workspace.name.clone());
            return Ok(name
                .map(|name| DesktopEvent::Wm(desk::WmEvent::ActionInvoked(Action::Go(CycleTarget::Named(name)))))
                .into_iter()
                .collect());
        } else if !manages(desktop, window) {
            return Ok(Vec::new());
        }
        self.asked_for(kind, data, WindowId(window), desktop)
    }

    /// Something is asked for a window on the desk.
    fn asked_for(&mut self, kind: u32, data: [u32; 5], id: WindowId, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Error> {
        let names = self.server.names;
        if kind == names._NET_ACTIVE_WINDOW {
            // A pager speaks for the person; a program does where it comes of what the person did last (EWMH, source
            // indication and its time), else only for itself.
            let said = self.believed(data[1])?;
            let recent = said.is_some_and(|time| self.active != 0 && (time.wrapping_sub(self.active) as i32) >= 0);
            if let Some(time) = said.filter(|_| data[0] == 2 || recent) {
                self.times.happened(time);
            }
            let event = if data[0] == 2 || recent {
                desk::WmEvent::ActivationRequested(id)
            } else {
                desk::WmEvent::UrgencyChanged(id, true)
            };
            return Ok(vec![DesktopEvent::Wm(event)]);
        } else if kind == names._NET_CLOSE_WINDOW {
            if let Some(time) = self.believed(data[0])? {
                self.times.happened(time);
            }
            self.close(id.0)?;
        } else if kind == names._NET_WM_STATE {
            return Ok(self.states(id, data));
        } else if kind == names.WM_CHANGE_STATE && data[0] == 3 {
            return Ok(vec![asks(id, WindowRequest::Minimized)]);
        } else if kind == names._NET_WM_DESKTOP {
            let asked = match data[0] {
                u32::MAX => Some(WindowRequest::Sticky(Switch::On)),
                at => desktop.desk().workspaces.get(at as usize).map(|to| WindowRequest::Workspace(to.name.clone())),
            };
            return Ok(asked.map(|asked| asks(id, asked)).into_iter().collect());
        } else if kind == names._NET_MOVERESIZE_WINDOW && desktop.desk().floats(id) {
            let one = |nth: usize| (data[0] & 1 << (7 + nth) != 0).then_some(data[nth] as i32);
            // Sizes are no places: larger than the protocol knows is no size.
            let size = |nth: usize| one(nth).map(|size| size.clamp(1, 65_535));
            let (at, size) = ((one(1), one(2)), (size(3), size(4)));
            self.answers.insert(id.0);
            return Ok(vec![asks(id, WindowRequest::Configure { at, size, gravity: gravity(data[0] & 0xff) })]);
        } else if kind == names._NET_RESTACK_WINDOW {
            let sibling = Some(data[1]).filter(|sibling| *sibling != x11rb::NONE);
            return Ok(lift(StackMode::from(data[2]), sibling)
                .map(|how| asks(id, WindowRequest::Lift(how)))
                .into_iter()
                .collect());
        } else if kind == names._NET_WM_FULLSCREEN_MONITORS {
            return Ok(vec![asks(id, WindowRequest::FullscreenArea(self.spread(data)?))]);
        } else if kind == names._NET_WM_MOVERESIZE {
            return self.drag(id, data);
        }
        Ok(Vec::new())
    }

    /// What a message asks a window to be (EWMH, `_NET_WM_STATE`).
    fn states(&mut self, id: WindowId, data: [u32; 5]) -> Vec<DesktopEvent> {
        let (names, Some(switch)) = (self.server.names, switch_of(data[0])) else { return Vec::new() };
        let mut events = Vec::new();
        for state in [data[1], data[2]] {
            events.push(match state {
                state if state == names._NET_WM_STATE_FULLSCREEN => asks(id, WindowRequest::Fullscreen(switch)),
                state if state == names._NET_WM_STATE_STICKY => asks(id, WindowRequest::Sticky(switch)),
                state if state == names._NET_WM_STATE_ABOVE => asks(id, WindowRequest::Stacking(StackingState::Above, switch)),
                state if state == names._NET_WM_STATE_BELOW => asks(id, WindowRequest::Stacking(StackingState::Below, switch)),
                state if state == names._NET_WM_STATE_MAXIMIZED_HORZ => asks(id, WindowRequest::MaximizedHorz(switch)),
                state if state == names._NET_WM_STATE_MAXIMIZED_VERT => asks(id, WindowRequest::MaximizedVert(switch)),
                state if state == names._NET_WM_STATE_DEMANDS_ATTENTION => asks(id, WindowRequest::Urgent(switch)),
                // Not the desk's to know; said back, as pagers and panels go by it.
                state => {
                    if let Some(at) = names.passed().iter().position(|passed| *passed == state) {
                        let passed = &mut self.manners.entry(id.0).or_default().passed;
                        passed[at] = switch.of(passed[at]);
                    }
                    continue;
                }
            });
        }
        events
    }

    /// The area from the topmost to the rightmost of four monitors by their numbers: top, bottom, left, right (EWMH).
    fn spread(&self, numbers: [u32; 5]) -> Result<Option<PixelRect>, Error> {
        let Ok(reply) = self.server.connection.randr_get_monitors(self.server.root, true)?.reply() else { return Ok(None) };
        let area = |nth: usize| {
            let monitor = reply.monitors.get(numbers[nth] as usize)?;
            Some(PixelRect::new(monitor.x.into(), monitor.y.into(), monitor.width.into(), monitor.height.into()))
        };
        let edges = || {
            let (top, bottom, left, right) = (area(0)?, area(1)?, area(2)?, area(3)?);
            let (x, y) = (left.x, top.y);
            let (w, h) = (right.x + right.w - x, bottom.y + bottom.h - y);
            (w > 0 && h > 0).then(|| PixelRect::new(x, y, w, h))
        };
        Ok(edges())
    }

    /// A program lets one of its windows be dragged (EWMH, `_NET_WM_MOVERESIZE`), as long as the button is held.
    fn drag(&mut self, id: WindowId, data: [u32; 5]) -> Result<Vec<DesktopEvent>, Error> {
        use Side::{Bottom, Left, Right, Top};
        let edges = match data[2] {
            0 => vec![Left, Top],
            1 => vec![Top],
            2 => vec![Right, Top],
            3 => vec![Right],
            4 => vec![Right, Bottom],
            5 => vec![Bottom],
            6 => vec![Left, Bottom],
            7 => vec![Left],
            8 => Vec::new(),
            11 => {
                self.let_drag_go()?;
                return Ok(vec![DesktopEvent::DragEnds]);
            }
            9 | 10 => return Ok(vec![DesktopEvent::Steer { window: id, sizes: data[2] == 9 }]),
            _ => return Ok(Vec::new()),
        };
        let c = &self.server.connection;
        let button = u8::try_from(data[3]).unwrap_or(1).clamp(1, 5);
        let events = EventMask::BUTTON_RELEASE | EventMask::POINTER_MOTION;
        let (free, none) = (GrabMode::ASYNC, x11rb::NONE);
        let grab = c.grab_pointer(false, self.server.root, events, free, free, none, none, x11rb::CURRENT_TIME)?.reply();
        let Some(at) = c.query_pointer(self.server.root)?.reply().ok().filter(|_| grab.is_ok()) else { return Ok(Vec::new()) };
        // It may have come up before we had the pointer.
        let held = KeyButMask::from(u16::from(KeyButMask::BUTTON1) << (button - 1));
        if !at.mask.contains(held) {
            c.ungrab_pointer(x11rb::CURRENT_TIME)?.ignore_error();
            return Ok(Vec::new());
        }
        self.drags = true;
        let asked = MoveResizeRequest { edges, button, from: (data[0] as i16 as i32, data[1] as i16 as i32) };
        Ok(vec![DesktopEvent::Drag(id, asked), DesktopEvent::PointerMoved(None, at.root_x.into(), at.root_y.into())])
    }

    /// Gives the pointer back after a drag that a program asked for.
    pub(super) fn let_drag_go(&mut self) -> Result<(), Error> {
        if std::mem::take(&mut self.drags) {
            self.server.connection.ungrab_pointer(x11rb::CURRENT_TIME)?.ignore_error();
        }
        Ok(())
    }
}

/// A switch by a message's number: 0 off, 1 on, 2 the other way (EWMH, `_NET_WM_STATE`).
fn switch_of(number: u32) -> Option<Switch> {
    [Switch::Off, Switch::On, Switch::Toggle].get(number as usize).copied()
}
