//! What opens at a bar: a menu that holds the pointer while it is open, or a hint.

use jovrik_core::desk::{Action, Area};
use jovrik_core::rice::{Corners, Rice, Side};
use jovrik_core::scene::{Menu, Rect, Scene, hint, hint_size};
use jovrik_core::style::{Kin, resolve};
use jovrik_draw::Canvas;
use x11rb::connection::Connection;
use x11rb::protocol::xproto::{
    AtomEnum, ConnectionExt, CreateWindowAux, EventMask, GrabMode, GrabStatus, Pixmap, PropMode, Window, WindowClass,
};
use x11rb::wrapper::ConnectionExt as _;

use crate::Error;
use crate::bars::Pens;
use crate::notifier::Key;
use crate::screen::put;
use crate::seat::Seat;

/// What a line of a menu does.
#[derive(Debug, Clone)]
pub enum Choice {
    /// An action of the desk.
    Act(Action),
    /// A line of an item's own menu.
    OfItem(Key, i32),
}

/// What it shows.
enum What {
    Menu {
        menu: Menu,
        choices: Vec<Choice>,
    },
    Hint(String),
    /// The sheet of all keys, drawn for its place.
    Sheet(Scene),
}

/// An open popup.
pub struct Popup {
    window: Window,
    pixmap: Pixmap,
    rect: Rect,
    /// How many pixels a pixel of the settings takes.
    scale: f32,
    what: What,
}

/// From a bar to what opens at it.
const AWAY: f32 = 4.0;

/// A place for a box of a size at a module, inside of a monitor.
fn place(at: Rect, inner: Side, (w, h): (f32, f32), monitor: Area) -> Rect {
    let (x, y) = match inner {
        Side::Bottom => (at.x, at.y + at.h + AWAY),
        Side::Top => (at.x, at.y - h - AWAY),
        Side::Right => (at.x + at.w + AWAY, at.y),
        Side::Left => (at.x - w - AWAY, at.y),
    };
    let (left, top) = (monitor.x as f32, monitor.y as f32);
    let (right, bottom) = (left + monitor.w as f32 - w, top + monitor.h as f32 - h);
    Rect::new(x.min(right).max(left).round(), y.min(bottom).max(top).round(), w.ceil(), h.ceil())
}

impl Popup {
    /// Opens a menu at a module, and takes the pointer.
    pub fn menu(
        pens: &mut Pens<'_>,
        rice: &Rice,
        items: Vec<(String, Choice)>,
        at: (Rect, Side),
        (monitor, scale): (Area, f32),
    ) -> Result<Option<Popup>, Error> {
        let menu = Menu { lines: items.iter().map(|(label, _)| label.clone()).collect(), picked: None };
        let choices = items.into_iter().map(|(_, choice)| choice).collect();
        let (w, h) = menu.size(rice, &mut pens.brush.fonts);
        let rect = place(at.0, at.1, (w * scale, h * scale), monitor);
        let popup = Popup::open(pens, rect, scale, What::Menu { menu, choices })?;
        popup.draw(pens, rice)?;
        let c = &pens.seat.connection;
        let events = EventMask::BUTTON_PRESS | EventMask::BUTTON_RELEASE | EventMask::POINTER_MOTION;
        let (root, now) = (pens.seat.root, x11rb::CURRENT_TIME);
        let grab = c.grab_pointer(false, root, events, GrabMode::ASYNC, GrabMode::ASYNC, x11rb::NONE, x11rb::NONE, now)?.reply();
        if !matches!(grab, Ok(reply) if reply.status == GrabStatus::SUCCESS) {
            popup.close(pens.seat)?;
            return Ok(None);
        }
        Ok(Some(popup))
    }

    /// Opens a hint at a module.
    pub fn hint(
        pens: &mut Pens<'_>,
        rice: &Rice,
        text: &str,
        at: (Rect, Side),
        (monitor, scale): (Area, f32),
    ) -> Result<Popup, Error> {
        let (w, h) = hint_size(rice, text, &mut pens.brush.fonts);
        let rect = place(at.0, at.1, (w * scale, h * scale), monitor);
        let popup = Popup::open(pens, rect, scale, What::Hint(text.to_owned()))?;
        popup.draw(pens, rice)?;
        Ok(popup)
    }

    /// Opens the sheet of all keys: a scene for a place of the screen.
    pub fn sheet(pens: &mut Pens<'_>, rice: &Rice, scene: Scene, rect: Rect, scale: f32) -> Result<Popup, Error> {
        let popup = Popup::open(pens, rect, scale, What::Sheet(scene))?;
        // It lies over windows: its corners are cut out.
        let Corners(radius) = resolve(rice, &[Kin { kind: "sheet", name: "", states: &[] }]).radius;
        let area = Area::new(rect.x as i32, rect.y as i32, rect.w as i32, rect.h as i32);
        pens.seat.round(popup.window, area, (radius[0] as f32 * scale) as i32)?;
        popup.draw(pens, rice)?;
        Ok(popup)
    }

    /// Whether it is a window.
    pub fn is(&self, window: Window) -> bool {
        self.window == window
    }

    fn open(pens: &Pens<'_>, rect: Rect, scale: f32, what: What) -> Result<Popup, Error> {
        let (seat, c) = (pens.seat, &pens.seat.connection);
        let (window, pixmap) = (c.generate_id()?, c.generate_id()?);
        let size = (rect.w.max(1.0) as u16, rect.h.max(1.0) as u16);
        c.create_pixmap(seat.depth, pixmap, seat.root, size.0, size.1)?;
        let look = CreateWindowAux::new().override_redirect(1).background_pixmap(pixmap).event_mask(EventMask::BUTTON_PRESS);
        let class = WindowClass::INPUT_OUTPUT;
        c.create_window(0, window, seat.root, rect.x as i16, rect.y as i16, size.0, size.1, 0, class, 0, &look)?;
        let title: &[u8] = match what {
            What::Menu { .. } => b"jovrik menu",
            What::Hint(_) => b"jovrik hint",
            What::Sheet(_) => b"jovrik keys",
        };
        c.change_property8(PropMode::REPLACE, window, AtomEnum::WM_NAME, AtomEnum::STRING, title)?;
        Ok(Popup { window, pixmap, rect, scale, what })
    }

    /// Whether it is a menu.
    pub fn is_menu(&self) -> bool {
        matches!(self.what, What::Menu { .. })
    }

    fn draw(&self, pens: &mut Pens<'_>, rice: &Rice) -> Result<(), Error> {
        let Some(mut canvas) = Canvas::new(self.rect.w as u32, self.rect.h as u32) else { return Ok(()) };
        // Its corners show the backdrop: what else lies there is not ours to know.
        canvas.copy_from(pens.backdrop, (self.rect.x as i32, self.rect.y as i32));
        let mut scene = Scene::default();
        match &self.what {
            What::Menu { menu, .. } => menu.draw(rice, self.rect.times(1.0 / self.scale), &mut scene),
            What::Hint(text) => hint(rice, text, self.rect.times(1.0 / self.scale), &mut scene),
            What::Sheet(drawn) => scene = drawn.clone(),
        }
        canvas.draw(&scene.scaled(self.scale), (self.rect.x, self.rect.y), pens.brush);
        put(pens.seat, pens.gc, &canvas, self.pixmap, 0, 0)?;
        pens.seat.connection.clear_area(false, self.window, 0, 0, 0, 0)?;
        pens.seat.connection.map_window(self.window)?;
        Ok(())
    }

    /// The line of a menu at a point of the screen.
    fn line_at(&self, rice: &Rice, x: f32, y: f32) -> Option<usize> {
        let What::Menu { menu, .. } = &self.what else { return None };
        let inside = x >= self.rect.x && x < self.rect.x + self.rect.w;
        menu.line_at(rice, (y - self.rect.y) / self.scale).filter(|_| inside)
    }

    /// The pointer is at a point: the line below it is picked.
    pub fn point(&mut self, pens: &mut Pens<'_>, rice: &Rice, x: f32, y: f32) -> Result<(), Error> {
        let line = self.line_at(rice, x, y);
        match &mut self.what {
            What::Menu { menu, .. } if menu.picked != line => menu.picked = line,
            _ => return Ok(()),
        }
        self.draw(pens, rice)
    }

    /// What a press at a point chooses; nothing beside the menu.
    pub fn chosen(&self, rice: &Rice, x: f32, y: f32) -> Option<Choice> {
        let line = self.line_at(rice, x, y)?;
        match &self.what {
            What::Menu { choices, .. } => choices.get(line).cloned(),
            What::Hint(_) | What::Sheet(_) => None,
        }
    }

    /// Takes it away.
    pub fn close(self, seat: &Seat) -> Result<(), Error> {
        if self.is_menu() {
            seat.connection.ungrab_pointer(x11rb::CURRENT_TIME)?;
        }
        seat.connection.destroy_window(self.window)?;
        seat.connection.free_pixmap(self.pixmap)?;
        Ok(())
    }
}
