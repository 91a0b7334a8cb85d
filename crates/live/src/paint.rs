//! Pixels on the server: the backdrop with its frames, and the bars. Only what changed is drawn and sent.

use std::collections::HashMap;

use jovrik_core::bar::{Known, Strip, arrange};
use jovrik_core::desk::{Area, Desk};
use jovrik_core::rice::Rice;
use jovrik_core::scene::{Rect, backdrop, frame_items, strip_area};
use jovrik_draw::{Canvas, Fonts};
use x11rb::connection::{Connection, RequestConnection};
use x11rb::protocol::xproto::{
    AtomEnum, ChangeWindowAttributesAux, ConfigureWindowAux, ConnectionExt, CreateGCAux, CreateWindowAux, Gcontext, ImageFormat,
    ImageOrder, Pixmap, PropMode, Window, WindowClass,
};
use x11rb::wrapper::ConnectionExt as _;

use crate::Error;
use crate::seat::Seat;

/// A bar's window; its background is a picture on the server, so that nobody has to draw it again when it is uncovered.
struct BarWindow {
    window: Window,
    pixmap: Pixmap,
    drawn: Strip,
}

/// What is drawn.
pub struct Painter {
    /// Fonts and shaped text.
    pub fonts: Fonts,
    backdrop: Canvas,
    pixmap: Pixmap,
    gc: Gcontext,
    size: (u16, u16),
    bars: HashMap<(usize, String), BarWindow>,
}

fn no_room() -> Error {
    Error::System("the screen is too large to draw", "no memory".to_owned())
}

impl Painter {
    /// Makes the picture behind all windows.
    pub fn new(seat: &Seat, rice: &Rice, desk: &Desk, fonts: Fonts) -> Result<Painter, Error> {
        let c = &seat.connection;
        let (pixmap, gc) = (c.generate_id()?, c.generate_id()?);
        c.create_pixmap(seat.depth, pixmap, seat.root, seat.size.0, seat.size.1)?;
        c.create_gc(gc, pixmap, &CreateGCAux::new().graphics_exposures(0))?;
        let canvas = Canvas::new(1, 1).ok_or_else(no_room)?;
        let mut painter = Painter { fonts, backdrop: canvas, pixmap, gc, size: seat.size, bars: HashMap::new() };
        painter.remake_backdrop(rice, desk)?;
        c.change_property32(PropMode::REPLACE, seat.root, seat.names._XROOTPMAP_ID, AtomEnum::PIXMAP, &[pixmap])?;
        c.change_window_attributes(seat.root, &ChangeWindowAttributesAux::new().background_pixmap(pixmap))?;
        Ok(painter)
    }

    /// Another screen size: the picture is made anew.
    pub fn resize(&mut self, seat: &Seat, rice: &Rice, desk: &Desk) -> Result<(), Error> {
        let c = &seat.connection;
        if self.size != seat.size {
            c.free_pixmap(self.pixmap)?;
            self.pixmap = c.generate_id()?;
            c.create_pixmap(seat.depth, self.pixmap, seat.root, seat.size.0, seat.size.1)?;
            c.change_property32(PropMode::REPLACE, seat.root, seat.names._XROOTPMAP_ID, AtomEnum::PIXMAP, &[self.pixmap])?;
            c.change_window_attributes(seat.root, &ChangeWindowAttributesAux::new().background_pixmap(self.pixmap))?;
            self.size = seat.size;
        }
        self.remake_backdrop(rice, desk)
    }

    /// Draws the backdrop of every monitor.
    pub fn remake_backdrop(&mut self, rice: &Rice, desk: &Desk) -> Result<(), Error> {
        self.backdrop = Canvas::new(self.size.0.into(), self.size.1.into()).ok_or_else(no_room)?;
        for monitor in &desk.monitors {
            self.backdrop.draw(&backdrop(rice, monitor.facts.area.into()), (0.0, 0.0), &mut self.fonts);
        }
        Ok(())
    }

    /// Paints areas behind the windows: backdrop, then frames.
    pub fn paint(&mut self, seat: &Seat, rice: &Rice, desk: &Desk, areas: &[Area]) -> Result<(), Error> {
        let screen = Area::new(0, 0, self.size.0.into(), self.size.1.into());
        let mut areas: Vec<Area> = areas.iter().filter_map(|area| area.overlap(screen)).collect();
        // An area inside another is painted with it.
        let all = areas.clone();
        areas.retain(|area| !all.iter().any(|other| other != area && other.overlap(*area) == Some(*area)));
        areas.sort_unstable_by_key(|area| (area.y, area.x, area.w, area.h));
        areas.dedup();
        let inner_gap = rice.frame.width.0 + rice.frame.radius.0;
        for area in areas {
            // What a tile covers is seen by nobody: only the ring round it is painted.
            let covered = desk.arrangement().frames.iter().map(|frame| frame.area.inset(inner_gap)).find(|inner| {
                inner.w > 64
                    && inner.h > 64
                    && area.overlap(*inner) == Some(*inner)
                    && i64::from(inner.w) * i64::from(inner.h) * 2 > i64::from(area.w) * i64::from(area.h)
            });
            match covered {
                Some(inner) => {
                    let (right, bottom) = (inner.x + inner.w, inner.y + inner.h);
                    let ring = [
                        Area::new(area.x, area.y, area.w, inner.y - area.y),
                        Area::new(area.x, bottom, area.w, area.y + area.h - bottom),
                        Area::new(area.x, inner.y, inner.x - area.x, inner.h),
                        Area::new(right, inner.y, area.x + area.w - right, inner.h),
                    ];
                    for piece in ring.into_iter().filter(|piece| piece.w > 0 && piece.h > 0) {
                        self.paint_area(seat, rice, desk, piece)?;
                    }
                }
                None => self.paint_area(seat, rice, desk, area)?,
            }
        }
        Ok(())
    }

    fn paint_area(&mut self, seat: &Seat, rice: &Rice, desk: &Desk, area: Area) -> Result<(), Error> {
        let mut canvas = Canvas::new(area.w as u32, area.h as u32).ok_or_else(no_room)?;
        canvas.copy_from(&self.backdrop, (area.x, area.y));
        let reach = rice.frame.glow.width.0 + 1;
        for frame in desk.arrangement().frames.iter().filter(|frame| frame.area.inset(-reach).overlap(area).is_some()) {
            canvas.draw(&frame_items(rice, frame), (area.x as f32, area.y as f32), &mut self.fonts);
        }
        self.put(seat, &canvas, self.pixmap, area.x, area.y)?;
        seat.connection.clear_area(false, seat.root, area.x as i16, area.y as i16, area.w as u16, area.h as u16)?;
        Ok(())
    }

    /// Sends pixels to a picture on the server, in its byte order, in pieces that a request can hold.
    fn put(&self, seat: &Seat, canvas: &Canvas, to: Pixmap, x: i32, y: i32) -> Result<(), Error> {
        let c = &seat.connection;
        let width = canvas.width() as usize * 4;
        let rows = ((c.maximum_request_bytes().min(1 << 18) - 64) / width).max(1);
        let lsb = c.setup().image_byte_order == ImageOrder::LSB_FIRST;
        let mut bytes = Vec::with_capacity(rows * width);
        for (nth, piece) in canvas.bytes().chunks(rows * width).enumerate() {
            bytes.clear();
            for pixel in piece.chunks_exact(4) {
                let (r, g, b) = (pixel[0], pixel[1], pixel[2]);
                bytes.extend_from_slice(&if lsb { [b, g, r, 0] } else { [0, r, g, b] });
            }
            let height = (piece.len() / width) as u16;
            let top = y + (nth * rows) as i32;
            c.put_image(
                ImageFormat::Z_PIXMAP,
                to,
                self.gc,
                canvas.width() as u16,
                height,
                x as i16,
                top as i16,
                0,
                seat.depth,
                &bytes,
            )?;
        }
        Ok(())
    }

    /// Brings the bars' windows in line with the desk, and draws the modules that changed. `all`: draw everything again.
    pub fn bars(&mut self, seat: &Seat, desk: &Desk, known: &Known, trouble: Option<&str>, all: bool) -> Result<(), Error> {
        let rice = desk.rice().clone();
        let mut wanted = Vec::new();
        for monitor in 0..desk.monitors.len() {
            for (name, bar) in desk.bars_on(monitor) {
                let strip = arrange(desk, monitor, name, bar, known, trouble, &mut self.fonts);
                wanted.push(((monitor, name.clone()), strip));
            }
        }
        let gone: Vec<(usize, String)> =
            self.bars.keys().filter(|key| !wanted.iter().any(|(wanted, _)| wanted == *key)).cloned().collect();
        for key in gone {
            if let Some(bar) = self.bars.remove(&key) {
                seat.connection.destroy_window(bar.window)?;
                seat.connection.free_pixmap(bar.pixmap)?;
            }
        }
        for (key, strip) in wanted {
            let fresh = match self.bars.get(&key) {
                Some(bar) => bar.drawn.rect != strip.rect,
                None => true,
            };
            if fresh {
                self.make_bar(seat, key.clone(), &strip)?;
            }
            let Some(bar) = self.bars.get(&key) else { continue };
            let areas = if fresh || all { vec![strip.rect] } else { strip.damage(&bar.drawn) };
            let (window, pixmap) = (bar.window, bar.pixmap);
            for area in areas {
                self.draw_bar(seat, &rice, &strip, window, pixmap, area)?;
            }
            if fresh {
                seat.connection.map_window(window)?;
            }
            if let Some(bar) = self.bars.get_mut(&key) {
                bar.drawn = strip;
            }
        }
        Ok(())
    }

    fn draw_bar(
        &mut self,
        seat: &Seat,
        rice: &Rice,
        strip: &Strip,
        window: Window,
        pixmap: Pixmap,
        area: Rect,
    ) -> Result<(), Error> {
        let Some(mut canvas) = Canvas::new(area.w as u32, area.h as u32) else { return Ok(()) };
        canvas.draw(&strip_area(rice, strip, area), (area.x, area.y), &mut self.fonts);
        let (x, y) = ((area.x - strip.rect.x) as i32, (area.y - strip.rect.y) as i32);
        self.put(seat, &canvas, pixmap, x, y)?;
        seat.connection.clear_area(false, window, x as i16, y as i16, area.w as u16, area.h as u16)?;
        Ok(())
    }

    fn make_bar(&mut self, seat: &Seat, key: (usize, String), strip: &Strip) -> Result<(), Error> {
        let c = &seat.connection;
        let Rect { x, y, w, h } = strip.rect;
        let pixmap = c.generate_id()?;
        c.create_pixmap(seat.depth, pixmap, seat.root, w as u16, h as u16)?;
        let window = match self.bars.remove(&key) {
            Some(old) => {
                c.configure_window(
                    old.window,
                    &ConfigureWindowAux::new().x(x as i32).y(y as i32).width(w as u32).height(h as u32),
                )?;
                c.change_window_attributes(old.window, &ChangeWindowAttributesAux::new().background_pixmap(pixmap))?;
                c.free_pixmap(old.pixmap)?;
                old.window
            }
            None => {
                let window = c.generate_id()?;
                let look = CreateWindowAux::new().override_redirect(1).background_pixmap(pixmap);
                c.create_window(
                    0,
                    window,
                    seat.root,
                    x as i16,
                    y as i16,
                    w as u16,
                    h as u16,
                    0,
                    WindowClass::INPUT_OUTPUT,
                    0,
                    &look,
                )?;
                let kind = [seat.names._NET_WM_WINDOW_TYPE_DOCK];
                c.change_property32(PropMode::REPLACE, window, seat.names._NET_WM_WINDOW_TYPE, AtomEnum::ATOM, &kind)?;
                c.change_property8(
                    PropMode::REPLACE,
                    window,
                    AtomEnum::WM_NAME,
                    AtomEnum::STRING,
                    format!("jovrik bar {}", key.1).as_bytes(),
                )?;
                window
            }
        };
        self.bars.insert(key, BarWindow { window, pixmap, drawn: strip.clone() });
        Ok(())
    }
}
