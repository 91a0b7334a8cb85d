//! The windows of what we draw ourselves: made, moved, drawn where something changed, closed, whatever they are.

use std::collections::{HashMap, HashSet};
use std::rc::Rc;

use jovrik_core::bar::BarLayout;
use jovrik_core::desk::StackingLayer;
use jovrik_core::desktop::{Interactivity, Surface, SurfaceId};
use jovrik_core::rice::Rice;
use jovrik_core::scene::Scene;
use jovrik_draw::{Brush, Canvas};
use jovrik_values::{PixelRect, Rect};
use x11rb::connection::Connection;
use x11rb::properties::{WmHints, WmSizeHints, WmSizeHintsSpecification};
use x11rb::protocol::xproto::{
    AtomEnum, ChangeWindowAttributesAux, ConfigureWindowAux, ConnectionExt, CreateWindowAux, EventMask, Gcontext, GrabMode,
    GrabStatus, Pixmap, PropMode, StackMode, Window, WindowClass,
};
use x11rb::wrapper::ConnectionExt as _;

use super::screen::put;
use super::server::Server;
use super::windows::round_all;
use crate::Error;

/// A window; its background is a picture on the server, so that nobody has to draw it again when it is uncovered.
struct SurfaceWindow {
    window: Window,
    pixmap: Pixmap,
    surface: Rc<Surface>,
}

/// All surfaces.
#[derive(Default)]
pub struct Surfaces {
    windows: HashMap<SurfaceId, SurfaceWindow>,
    /// The one that has the pointer.
    taker: Option<SurfaceId>,
    /// How often something on a bar was drawn.
    pub drawn: u64,
    /// Those that miss a picture which is not there yet.
    pub missing: HashSet<SurfaceId>,
}

/// What is drawn with.
pub struct PaintContext<'a> {
    /// The server.
    pub server: &'a Server,
    /// Fonts and pictures.
    pub brush: &'a mut Brush,
    /// What lies behind.
    pub backdrop: &'a Canvas,
    /// The server's graphics context.
    pub gc: Gcontext,
}

impl Surfaces {
    /// Shows a surface as it is now, and draws these areas of it. Whether the pointer could be taken that it asks for.
    pub fn show(
        &mut self,
        pens: &mut PaintContext<'_>,
        rice: &Rice,
        surface: Rc<Surface>,
        areas: &[Rect],
    ) -> Result<bool, Error> {
        let before = self.windows.get(&surface.id).map(|shown| (shown.surface.area, shown.surface.radius));
        let fresh = before.is_none_or(|(area, _)| (area.w, area.h) != (surface.area.w, surface.area.h));
        if fresh || before.is_none_or(|(area, _)| area != surface.area) {
            self.place(pens.server, &surface, fresh)?;
        }
        let Some(shown) = self.windows.get_mut(&surface.id) else { return Ok(true) };
        shown.surface = surface.clone();
        if surface.radius > 0 && before != Some((surface.area, surface.radius)) {
            round_all(pens.server, shown.window, surface.area, surface.radius)?;
        }
        let whole = [Rect::from(surface.area)];
        for area in if fresh { &whole } else { areas } {
            self.drawn += u64::from(surface.id.part == "bar");
            draw(pens, rice, &surface, (shown.window, shown.pixmap), *area)?;
        }
        if pens.brush.pictures.misses() {
            self.missing.insert(surface.id.clone());
        }
        if before.is_some() {
            return Ok(true);
        }
        pens.server.connection.map_window(shown.window)?;
        if surface.takes == Interactivity::Grab { self.take_pointer(pens.server, surface.id.clone()) } else { Ok(true) }
    }

    fn take_pointer(&mut self, server: &Server, id: SurfaceId) -> Result<bool, Error> {
        let events = EventMask::BUTTON_PRESS | EventMask::BUTTON_RELEASE | EventMask::POINTER_MOTION;
        let (c, free, none) = (&server.connection, GrabMode::ASYNC, x11rb::NONE);
        let grab = c.grab_pointer(false, server.root, events, free, free, none, none, x11rb::CURRENT_TIME)?.reply();
        let taken = matches!(grab, Ok(reply) if reply.status == GrabStatus::SUCCESS);
        self.taker = taken.then_some(id);
        Ok(taken)
    }

    /// Lifts all that lies over windows over those of others: a guest's.
    pub fn raise(&self, server: &Server) -> Result<(), Error> {
        let mut over: Vec<&SurfaceWindow> =
            self.windows.values().filter(|shown| shown.surface.level > StackingLayer::Bars).collect();
        over.sort_by_key(|shown| shown.surface.level);
        for shown in over {
            let top = ConfigureWindowAux::new().stack_mode(StackMode::ABOVE);
            server.connection.configure_window(shown.window, &top)?.ignore_error();
        }
        Ok(())
    }

    /// Takes a surface away.
    pub fn close(&mut self, server: &Server, id: &SurfaceId) -> Result<(), Error> {
        if self.taker.as_ref() == Some(id) {
            self.taker = None;
            server.connection.ungrab_pointer(x11rb::CURRENT_TIME)?;
        }
        if let Some(shown) = self.windows.remove(id) {
            server.connection.destroy_window(shown.window)?;
            server.connection.free_pixmap(shown.pixmap)?;
        }
        Ok(())
    }

    /// A window of ours was destroyed by somebody else: whose it was.
    pub fn lost(&mut self, server: &Server, window: Window) -> Option<SurfaceId> {
        let id = self.of(window).cloned()?;
        let shown = self.windows.remove(&id)?;
        let _ = server.connection.free_pixmap(shown.pixmap);
        self.taker = self.taker.take().filter(|taker| *taker != id);
        Some(id)
    }

    /// Whether one of them has the pointer wherever it is.
    pub fn take_all(&self) -> bool {
        self.taker.is_some()
    }

    /// The surface whose window this is.
    pub fn of(&self, window: Window) -> Option<&SurfaceId> {
        self.windows.iter().find(|(_, shown)| shown.window == window).map(|(id, _)| id)
    }

    /// All bars as they are drawn, with their monitors, in order.
    pub fn strips(&self) -> impl Iterator<Item = (&str, &BarLayout)> {
        let mut all: Vec<(&SurfaceId, &BarLayout)> =
            self.windows.iter().filter_map(|(id, shown)| Some((id, shown.surface.content::<BarLayout>()?))).collect();
        all.sort_by(|(a, _), (b, _)| (&a.monitor, &a.name).cmp(&(&b.monitor, &b.name)));
        all.into_iter().map(|(id, strip)| (id.monitor.as_str(), strip))
    }

    /// The window of a surface.
    pub fn window(&self, id: &SurfaceId) -> Option<Window> {
        self.windows.get(id).map(|shown| shown.window)
    }

    /// Makes the window of a surface, or brings it to another place; `fresh`: of another size.
    fn place(&mut self, server: &Server, surface: &Rc<Surface>, fresh: bool) -> Result<(), Error> {
        let (c, area) = (&server.connection, surface.area);
        let (w, h) = (area.w.max(1) as u16, area.h.max(1) as u16);
        let pixmap = || -> Result<Pixmap, Error> {
            let pixmap = c.generate_id()?;
            c.create_pixmap(server.depth, pixmap, server.root, w, h)?;
            Ok(pixmap)
        };
        if let Some(shown) = self.windows.get_mut(&surface.id) {
            let place = ConfigureWindowAux::new().x(area.x).y(area.y).width(u32::from(w)).height(u32::from(h));
            c.configure_window(shown.window, &place)?;
            if fresh {
                let old = std::mem::replace(&mut shown.pixmap, pixmap()?);
                c.change_window_attributes(shown.window, &ChangeWindowAttributesAux::new().background_pixmap(shown.pixmap))?;
                c.free_pixmap(old)?;
            }
            return Ok(());
        }
        let (window, pixmap) = (c.generate_id()?, pixmap()?);
        let events = match surface.takes {
            Interactivity::Nothing => EventMask::NO_EVENT,
            Interactivity::Pointer | Interactivity::Keyboard | Interactivity::Grab => {
                let buttons = EventMask::BUTTON_PRESS | EventMask::BUTTON_RELEASE;
                buttons | EventMask::POINTER_MOTION | EventMask::ENTER_WINDOW | EventMask::LEAVE_WINDOW
            }
        };
        // Beside another manager a bar is a panel as those of others are.
        let docks = ["bar", "dock"].contains(&surface.id.part);
        let panel = server.guest && docks;
        let look = CreateWindowAux::new().override_redirect(u32::from(!panel)).background_pixmap(pixmap).event_mask(events);
        let class = WindowClass::INPUT_OUTPUT;
        c.create_window(0, window, server.root, area.x as i16, area.y as i16, w, h, 0, class, 0, &look)?;
        if docks {
            let kind = [server.names._NET_WM_WINDOW_TYPE_DOCK];
            c.change_property32(PropMode::REPLACE, window, server.names._NET_WM_WINDOW_TYPE, AtomEnum::ATOM, &kind)?;
        }
        // What lies on the backdrop lies below all that the other manager shows.
        if server.guest && surface.level < StackingLayer::Bars {
            c.configure_window(window, &ConfigureWindowAux::new().stack_mode(StackMode::BELOW))?;
        }
        if panel {
            keep_room(server, window, area)?;
        }
        let title = format!("jovrik {} {}", surface.id.part, surface.id.name);
        c.change_property8(PropMode::REPLACE, window, AtomEnum::WM_NAME, AtomEnum::STRING, title.trim_end().as_bytes())?;
        self.windows.insert(surface.id.clone(), SurfaceWindow { window, pixmap, surface: surface.clone() });
        Ok(())
    }
}

/// What lies behind what a guest shows: nobody knows, so it is paper.
fn behind(rice: &Rice, area: Rect) -> Scene {
    let mut scene = Scene::default();
    scene.fill(area, 0.0, rice.palette.current.paper);
    scene
}

/// Says that a panel keeps its edge of the screen, on every workspace, and where it lies (EWMH, `_NET_WM_STRUT_PARTIAL`;
/// ICCCM, section 4.1.2.3).
fn keep_room(server: &Server, window: Window, area: PixelRect) -> Result<(), Error> {
    let (c, names) = (&server.connection, &server.names);
    let (w, h) = (i32::from(server.size.0), i32::from(server.size.1));
    let edge = |value: i32| value.max(0) as u32;
    let (right, bottom) = (area.x + area.w, area.y + area.h);
    let mut strut = [0; 12];
    let (x, y) = ([edge(area.x), edge(right - 1)], [edge(area.y), edge(bottom - 1)]);
    match area.w >= area.h {
        true if area.y < h - bottom => (strut[2], [strut[8], strut[9]]) = (edge(bottom), x),
        true => (strut[3], [strut[10], strut[11]]) = (edge(h - area.y), x),
        false if area.x < w - right => (strut[0], [strut[4], strut[5]]) = (edge(right), y),
        false => (strut[1], [strut[6], strut[7]]) = (edge(w - area.x), y),
    }
    c.change_property32(PropMode::REPLACE, window, names._NET_WM_STRUT_PARTIAL, AtomEnum::CARDINAL, &strut)?;
    c.change_property32(PropMode::REPLACE, window, names._NET_WM_STRUT, AtomEnum::CARDINAL, &strut[..4])?;
    c.change_property32(PropMode::REPLACE, window, names._NET_WM_DESKTOP, AtomEnum::CARDINAL, &[u32::MAX])?;
    let mut hints = WmSizeHints::new();
    hints.position = Some((WmSizeHintsSpecification::UserSpecified, area.x, area.y));
    hints.size = Some((WmSizeHintsSpecification::UserSpecified, area.w, area.h));
    hints.set_normal_hints(c, window)?.ignore_error();
    let quiet = WmHints { input: Some(false), ..WmHints::new() };
    quiet.set(c, window)?.ignore_error();
    Ok(())
}

fn draw(
    pens: &mut PaintContext<'_>,
    rice: &Rice,
    surface: &Surface,
    (window, pixmap): (Window, Pixmap),
    area: Rect,
) -> Result<(), Error> {
    let (guest, (w, h)) = (pens.server.guest, (area.w as u32, area.h as u32));
    let canvas = match surface.content.covers() || guest {
        true => Canvas::new(w, h),
        false => pens.backdrop.cut((area.x as i32, area.y as i32), w, h),
    };
    let Some(mut canvas) = canvas else { return Ok(()) };
    if guest && !surface.content.covers() {
        // What else lies there is not ours to know.
        canvas.draw(&behind(rice, area), (area.x, area.y), pens.brush);
    }
    canvas.draw(&surface.content.scene(rice, area), (area.x, area.y), pens.brush);
    let (x, y) = (area.x as i32 - surface.area.x, area.y as i32 - surface.area.y);
    put(pens.server, pens.gc, canvas, pixmap, x, y)?;
    pens.server.connection.clear_area(false, window, x as i16, y as i16, area.w as u16, area.h as u16)?;
    Ok(())
}
