//! Pixels behind the windows: backdrops, with the frames that lie on them. Only what changed is drawn and sent.

use std::collections::{HashMap, HashSet};

use indexmap::IndexMap;
use jovrik_core::desktop::{Surface, SurfaceId};
use jovrik_core::part::BackdropContent;
use jovrik_core::rice::Rice;
use jovrik_draw::{Brush, Canvas, Fonts};
use jovrik_schema::Colour;
use jovrik_values::{PixelRect, Rect};
use x11rb::connection::Connection;
use x11rb::protocol::xproto::{
    AtomEnum, ChangeGCAux, ChangeWindowAttributesAux, ConnectionExt, CreateGCAux, Gcontext, Pixmap, PropMode, Rectangle,
};
use x11rb::wrapper::ConnectionExt as _;

use super::screen::{no_room, put};
use super::server::Server;
use super::surfaces::PaintContext;
use crate::Error;

/// So high are the stripes in which what lies behind is sent, in pixels.
const STRIPE: i32 = 64;

/// What is drawn.
pub struct Painter {
    brush: Brush,
    /// What lies behind the frames, on all monitors; and of what.
    backdrop: Canvas,
    drawn: HashMap<SurfaceId, (PixelRect, BackdropContent)>,
    /// Those whose picture is not there yet.
    missing: HashSet<SurfaceId>,
    /// What the root window shows.
    pixmap: Pixmap,
    /// What lies behind the frames, on the server too: what is only uncovered need not be sent.
    behind: Pixmap,
    /// Which stripes of that are there, from above.
    sent: Vec<bool>,
    gc: Gcontext,
    size: (u16, u16),
}

impl Painter {
    /// Makes the picture behind all windows.
    pub fn new(server: &Server, brush: Brush) -> Result<Painter, Error> {
        let c = &server.connection;
        let (pixmap, behind, gc) = (c.generate_id()?, c.generate_id()?, c.generate_id()?);
        for picture in [pixmap, behind] {
            c.create_pixmap(server.depth, picture, server.root, server.size.0, server.size.1)?;
        }
        c.create_gc(gc, pixmap, &CreateGCAux::new().graphics_exposures(0))?;
        let backdrop = Canvas::new(server.size.0.into(), server.size.1.into()).ok_or_else(no_room)?;
        let (drawn, missing, sent) = (HashMap::new(), HashSet::new(), Vec::new());
        let painter = Painter { brush, backdrop, drawn, missing, pixmap, behind, sent, gc, size: server.size };
        if !server.guest {
            painter.hang(server)?;
        }
        Ok(painter)
    }

    /// The picture is the root window's, and others are told so.
    fn hang(&self, server: &Server) -> Result<(), Error> {
        let (c, pixmap) = (&server.connection, self.pixmap);
        c.change_property32(PropMode::REPLACE, server.root, server.names._XROOTPMAP_ID, AtomEnum::PIXMAP, &[pixmap])?;
        c.change_window_attributes(server.root, &ChangeWindowAttributesAux::new().background_pixmap(pixmap))?;
        Ok(())
    }

    /// Takes over another screen size; whether it is another: then everything behind is to be painted.
    pub fn resize(&mut self, server: &Server) -> Result<bool, Error> {
        if self.size == server.size {
            return Ok(false);
        }
        let c = &server.connection;
        for picture in [&mut self.pixmap, &mut self.behind] {
            c.free_pixmap(*picture)?;
            *picture = c.generate_id()?;
            c.create_pixmap(server.depth, *picture, server.root, server.size.0, server.size.1)?;
        }
        self.sent.clear();
        self.backdrop = Canvas::new(server.size.0.into(), server.size.1.into()).ok_or_else(no_room)?;
        self.size = server.size;
        self.drawn.clear();
        if !server.guest {
            self.hang(server)?;
        }
        Ok(true)
    }

    /// Icons of the theme that could not be drawn: their names, and why.
    pub fn broken_icons(&self) -> impl Iterator<Item = String> {
        self.brush.pictures.broken_icons.iter().map(|(name, why)| format!("{name}: {why}"))
    }

    /// Fonts and pictures.
    pub fn brush(&mut self) -> &mut Brush {
        &mut self.brush
    }

    /// The fonts, which measure text.
    pub fn fonts(&mut self) -> &mut Fonts {
        &mut self.brush.fonts
    }

    /// What surfaces are drawn with.
    pub fn pens<'a>(&'a mut self, server: &'a Server) -> PaintContext<'a> {
        PaintContext { server, brush: &mut self.brush, backdrop: &self.backdrop, gc: self.gc }
    }

    /// Whether what lies behind the frames is another picture than the one that was painted.
    pub fn is_other(&self, surface: &Surface) -> bool {
        let ground = surface.content::<BackdropContent>();
        let same = |(area, drawn): &(PixelRect, BackdropContent)| {
            *area == surface.area && ground.is_some_and(|ground| drawn.same_behind(ground))
        };
        !self.drawn.get(&surface.id).is_some_and(same)
    }

    /// Those whose picture was not there: they are to be painted anew.
    pub fn missing(&mut self) -> Vec<SurfaceId> {
        let missing: Vec<SurfaceId> = self.missing.drain().collect();
        missing.iter().for_each(|id| drop(self.drawn.remove(id)));
        missing
    }

    /// Forgets what was read of pictures, and what was painted of them.
    pub fn forget(&mut self) {
        self.brush.pictures.forget();
        self.drawn.clear();
    }

    /// Paints areas of a backdrop: what lies behind, then frames.
    pub fn paint(&mut self, server: &Server, rice: &Rice, surface: &Surface, areas: &[Rect]) -> Result<(), Error> {
        let Some(ground) = surface.content::<BackdropContent>() else { return Ok(()) };
        let screen = PixelRect::new(0, 0, self.size.0.into(), self.size.1.into());
        let mut painting = ground.painting(areas);
        if self.is_other(surface) {
            // The files of pictures may have changed.
            self.brush.pictures.forget();
            self.brush.pictures.choose(ground.turn);
            self.backdrop.draw(&ground.behind, (0.0, 0.0), &mut self.brush);
            if self.brush.pictures.misses() {
                self.missing.insert(surface.id.clone());
            }
            self.drawn.insert(surface.id.clone(), (surface.area, ground.clone()));
            self.sent.clear();
            // Only what is seen of it is sent now.
            painting.mixed.append(&mut painting.bare);
        }
        for area in painting.bare.into_iter().filter_map(|area| area.overlap(screen)) {
            self.send_behind(server, area)?;
            let (x, y, w, h) = (area.x as i16, area.y as i16, area.w as u16, area.h as u16);
            server.connection.copy_area(self.behind, self.pixmap, self.gc, x, y, x, y, w, h)?;
        }
        self.fill(server, painting.plain.into_iter().filter_map(|(area, colour)| Some((area.overlap(screen)?, colour))))?;
        for area in painting.mixed.into_iter().filter_map(|area| area.overlap(screen)) {
            let mut canvas = self.backdrop.cut((area.x, area.y), area.w as u32, area.h as u32).ok_or_else(no_room)?;
            canvas.draw(&ground.frames(rice, area), (area.x as f32, area.y as f32), &mut self.brush);
            put(server, self.gc, canvas, self.pixmap, area.x, area.y)?;
        }
        // In one go: the server looks up what is seen of it once.
        let all = areas.iter().map(|area| PixelRect::from(*area)).reduce(PixelRect::union);
        if let Some(area) = all.and_then(|area| area.overlap(screen)) {
            server.connection.clear_area(false, server.root, area.x as i16, area.y as i16, area.w as u16, area.h as u16)?;
        }
        Ok(())
    }

    /// Sends what lies behind an area, as far as the server has it not: in whole stripes, since what moves lies elsewhere next.
    fn send_behind(&mut self, server: &Server, area: PixelRect) -> Result<(), Error> {
        self.sent.resize(usize::from(self.size.1).div_ceil(STRIPE as usize), false);
        for stripe in area.y / STRIPE..=(area.y + area.h - 1) / STRIPE {
            if std::mem::replace(&mut self.sent[stripe as usize], true) {
                continue;
            }
            let y = stripe * STRIPE;
            let high = STRIPE.min(i32::from(self.size.1) - y);
            let pixels = self.backdrop.cut((0, y), self.size.0.into(), high as u32).ok_or_else(no_room)?;
            put(server, self.gc, pixels, self.behind, 0, y)?;
        }
        Ok(())
    }

    /// Fills areas, all of one colour in one go.
    fn fill(&self, server: &Server, areas: impl Iterator<Item = (PixelRect, Colour)>) -> Result<(), Error> {
        let mut by_colour: IndexMap<u32, Vec<Rectangle>> = IndexMap::new();
        for (area, colour) in areas {
            let [r, g, b] = [colour.r, colour.g, colour.b].map(u32::from);
            let rectangle = Rectangle { x: area.x as i16, y: area.y as i16, width: area.w as u16, height: area.h as u16 };
            by_colour.entry(r << 16 | g << 8 | b).or_default().push(rectangle);
        }
        for (colour, rectangles) in by_colour {
            server.connection.change_gc(self.gc, &ChangeGCAux::new().foreground(colour))?;
            server.connection.poly_fill_rectangle(self.pixmap, self.gc, &rectangles)?;
        }
        Ok(())
    }
}
