//! The windows of bars: made, moved, drawn where something changed, and asked what the pointer is over.

use std::collections::HashMap;

use jovrik_core::bar::{Now, Strip, arrange};
use jovrik_core::desk::Desk;
use jovrik_core::rice::Rice;
use jovrik_core::scene::{Rect, strip_area};
use jovrik_draw::{Brush, Canvas};
use x11rb::connection::Connection;
use x11rb::protocol::xproto::{
    AtomEnum, ChangeWindowAttributesAux, ConfigureWindowAux, ConnectionExt, CreateWindowAux, EventMask, Gcontext, Pixmap,
    PropMode, Window, WindowClass,
};
use x11rb::wrapper::ConnectionExt as _;

use crate::Error;
use crate::screen::put;
use crate::seat::Seat;

/// A bar's window; its background is a picture on the server, so that nobody has to draw it again when it is uncovered.
struct BarWindow {
    window: Window,
    pixmap: Pixmap,
    drawn: Strip,
}

/// All bars.
#[derive(Default)]
pub struct Bars {
    windows: HashMap<(usize, String), BarWindow>,
    /// How often a module, or a whole bar, was drawn.
    pub drawn: u64,
}

/// What bars are drawn with.
pub struct Pens<'a> {
    /// The server.
    pub seat: &'a Seat,
    /// Fonts and pictures.
    pub brush: &'a mut Brush,
    /// What lies behind.
    pub backdrop: &'a Canvas,
    /// The server's graphics context.
    pub gc: Gcontext,
}

impl Bars {
    /// Brings the bars' windows in line with the desk, and draws the modules that changed. `all`: draw everything again.
    pub fn update(&mut self, pens: &mut Pens<'_>, desk: &Desk, now: Now<'_>, all: bool) -> Result<(), Error> {
        let rice = desk.rice().clone();
        let c = &pens.seat.connection;
        let mut wanted = Vec::new();
        for monitor in 0..desk.monitors.len() {
            for (name, bar) in desk.bars_on(monitor) {
                let strip = arrange(desk, monitor, name, bar, now, &mut pens.brush.fonts);
                wanted.push(((monitor, name.clone()), strip));
            }
        }
        let gone: Vec<(usize, String)> =
            self.windows.keys().filter(|key| !wanted.iter().any(|(wanted, _)| wanted == *key)).cloned().collect();
        for key in gone {
            if let Some(bar) = self.windows.remove(&key) {
                c.destroy_window(bar.window)?;
                c.free_pixmap(bar.pixmap)?;
            }
        }
        for (key, strip) in wanted {
            let fresh = self.windows.get(&key).is_none_or(|bar| bar.drawn.rect != strip.rect);
            if fresh {
                self.make(pens.seat, key.clone(), &strip)?;
            }
            let Some(bar) = self.windows.get_mut(&key) else { continue };
            let areas = if fresh || all { vec![strip.rect] } else { strip.damage(&bar.drawn) };
            for area in areas {
                self.drawn += 1;
                draw(pens, &rice, &strip, (bar.window, bar.pixmap), area)?;
            }
            if fresh {
                c.map_window(bar.window)?;
            }
            bar.drawn = strip;
        }
        Ok(())
    }

    /// The bar whose window this is: its monitor and its strip.
    pub fn of(&self, window: Window) -> Option<(usize, &Strip)> {
        self.windows.iter().find(|(_, bar)| bar.window == window).map(|((monitor, _), bar)| (*monitor, &bar.drawn))
    }

    /// All bars as they are drawn, with their monitors, in order.
    pub fn strips(&self) -> impl Iterator<Item = (usize, &Strip)> {
        let mut all: Vec<_> = self.windows.iter().map(|((monitor, _), bar)| (*monitor, &bar.drawn)).collect();
        all.sort_by(|(a, x), (b, y)| (a, &x.name).cmp(&(b, &y.name)));
        all.into_iter()
    }

    fn make(&mut self, seat: &Seat, key: (usize, String), strip: &Strip) -> Result<(), Error> {
        let c = &seat.connection;
        let Rect { x, y, w, h } = strip.rect;
        let pixmap = c.generate_id()?;
        c.create_pixmap(seat.depth, pixmap, seat.root, w as u16, h as u16)?;
        let window = match self.windows.remove(&key) {
            Some(old) => {
                let place = ConfigureWindowAux::new().x(x as i32).y(y as i32).width(w as u32).height(h as u32);
                c.configure_window(old.window, &place)?;
                c.change_window_attributes(old.window, &ChangeWindowAttributesAux::new().background_pixmap(pixmap))?;
                c.free_pixmap(old.pixmap)?;
                old.window
            }
            None => {
                let window = c.generate_id()?;
                let events =
                    EventMask::BUTTON_PRESS | EventMask::POINTER_MOTION | EventMask::ENTER_WINDOW | EventMask::LEAVE_WINDOW;
                let look = CreateWindowAux::new().override_redirect(1).background_pixmap(pixmap).event_mask(events);
                let (place, size) = ((x as i16, y as i16), (w as u16, h as u16));
                let class = WindowClass::INPUT_OUTPUT;
                c.create_window(0, window, seat.root, place.0, place.1, size.0, size.1, 0, class, 0, &look)?;
                let kind = [seat.names._NET_WM_WINDOW_TYPE_DOCK];
                c.change_property32(PropMode::REPLACE, window, seat.names._NET_WM_WINDOW_TYPE, AtomEnum::ATOM, &kind)?;
                let title = format!("jovrik bar {}", key.1);
                c.change_property8(PropMode::REPLACE, window, AtomEnum::WM_NAME, AtomEnum::STRING, title.as_bytes())?;
                window
            }
        };
        self.windows.insert(key, BarWindow { window, pixmap, drawn: strip.clone() });
        Ok(())
    }
}

fn draw(pens: &mut Pens<'_>, rice: &Rice, strip: &Strip, (window, pixmap): (Window, Pixmap), area: Rect) -> Result<(), Error> {
    let Some(mut canvas) = Canvas::new(area.w as u32, area.h as u32) else { return Ok(()) };
    if !strip.covers() {
        canvas.copy_from(pens.backdrop, (area.x as i32, area.y as i32));
    }
    canvas.draw(&strip_area(rice, strip, area), (area.x, area.y), pens.brush);
    let (x, y) = ((area.x - strip.rect.x) as i32, (area.y - strip.rect.y) as i32);
    put(pens.seat, pens.gc, &canvas, pixmap, x, y)?;
    pens.seat.connection.clear_area(false, window, x as i16, y as i16, area.w as u16, area.h as u16)?;
    Ok(())
}
