//! Pixels behind the windows: backdrops, with the frames that lie on them. Only what changed is drawn and sent.

use std::collections::HashMap;

use jovrik_core::desk::Area;
use jovrik_core::desktop::{Surface, SurfaceId};
use jovrik_core::part::Ground;
use jovrik_core::rice::Rice;
use jovrik_core::scene::Rect;
use jovrik_draw::{Brush, Canvas, Fonts};
use x11rb::connection::Connection;
use x11rb::protocol::xproto::{AtomEnum, ChangeWindowAttributesAux, ConnectionExt, CreateGCAux, Gcontext, Pixmap, PropMode};
use x11rb::wrapper::ConnectionExt as _;

use super::screen::{no_room, put};
use super::server::Server;
use super::surfaces::Pens;
use crate::Error;

/// What is drawn.
pub struct Painter {
    brush: Brush,
    /// What lies behind the frames, on all monitors; and of what.
    backdrop: Canvas,
    drawn: HashMap<SurfaceId, (Area, Ground)>,
    pixmap: Pixmap,
    gc: Gcontext,
    size: (u16, u16),
}

impl Painter {
    /// Makes the picture behind all windows.
    pub fn new(server: &Server, brush: Brush) -> Result<Painter, Error> {
        let c = &server.connection;
        let (pixmap, gc) = (c.generate_id()?, c.generate_id()?);
        c.create_pixmap(server.depth, pixmap, server.root, server.size.0, server.size.1)?;
        c.create_gc(gc, pixmap, &CreateGCAux::new().graphics_exposures(0))?;
        let backdrop = Canvas::new(server.size.0.into(), server.size.1.into()).ok_or_else(no_room)?;
        let painter = Painter { brush, backdrop, drawn: HashMap::new(), pixmap, gc, size: server.size };
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
        c.free_pixmap(self.pixmap)?;
        self.pixmap = c.generate_id()?;
        c.create_pixmap(server.depth, self.pixmap, server.root, server.size.0, server.size.1)?;
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
    pub fn pens<'a>(&'a mut self, server: &'a Server) -> Pens<'a> {
        Pens { server, brush: &mut self.brush, backdrop: &self.backdrop, gc: self.gc }
    }

    /// Whether what lies behind the frames is another picture than the one that was painted.
    pub fn is_other(&self, surface: &Surface) -> bool {
        let ground = surface.content::<Ground>();
        let same =
            |(area, drawn): &(Area, Ground)| *area == surface.area && ground.is_some_and(|ground| drawn.same_behind(ground));
        !self.drawn.get(&surface.id).is_some_and(same)
    }

    /// Paints areas of a backdrop: what lies behind, then frames.
    pub fn paint(&mut self, server: &Server, rice: &Rice, surface: &Surface, areas: &[Rect]) -> Result<(), Error> {
        let Some(ground) = surface.content::<Ground>() else { return Ok(()) };
        if self.is_other(surface) {
            // The files of pictures may have changed.
            self.brush.pictures.forget();
            self.brush.pictures.choose(ground.turn);
            self.backdrop.draw(&ground.behind, (0.0, 0.0), &mut self.brush);
            self.drawn.insert(surface.id.clone(), (surface.area, ground.clone()));
        }
        let screen = Area::new(0, 0, self.size.0.into(), self.size.1.into());
        for area in ground.seen(areas).into_iter().filter_map(|area| area.overlap(screen)) {
            let mut canvas = self.backdrop.cut((area.x, area.y), area.w as u32, area.h as u32).ok_or_else(no_room)?;
            canvas.draw(&ground.frames(rice, area), (area.x as f32, area.y as f32), &mut self.brush);
            put(server, self.gc, canvas, self.pixmap, area.x, area.y)?;
            server.connection.clear_area(false, server.root, area.x as i16, area.y as i16, area.w as u16, area.h as u16)?;
        }
        Ok(())
    }
}
