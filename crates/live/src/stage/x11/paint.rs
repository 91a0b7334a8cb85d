//! Pixels behind the windows: the backdrop with its frames. Only what changed is drawn and sent.

use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use jovrik_core::desk::{Area, Desk};
use jovrik_core::rice::Rice;
use jovrik_core::scene::{backdrop, frame_items};
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
    facts: Facts,
    backdrop: Canvas,
    pixmap: Pixmap,
    gc: Gcontext,
    size: (u16, u16),
}

/// What decides how the backdrop looks, beside the settings.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
struct Facts {
    /// The workspaces that monitors show, where one of them has a backdrop of its own.
    workspaces: Vec<usize>,
    hour: u8,
    nth: u64,
}

/// What changes a backdrop by itself: the time of the day, and how often a folder's picture has changed.
fn facts(rice: &Rice, desk: &Desk) -> Facts {
    let own = rice.workspace.values().any(|rule| rule.backdrop.fill.is_some() || rule.backdrop.picture.is_some());
    let workspaces = if own { desk.monitors.iter().map(|monitor| monitor.workspace).collect() } else { Vec::new() };
    let by_hour = rice.backdrop.picture.as_ref().is_some_and(|pictures| pictures.0.len() > 1);
    let hour = if by_hour { jiff::Zoned::now().hour() as u8 } else { 12 };
    let change = rice.backdrop.change.map(|change| change.0).filter(|change| !change.is_zero());
    let nth = change.map_or(0, |change| (since_1970().as_nanos() / change.as_nanos()) as u64);
    Facts { workspaces, hour, nth }
}

fn since_1970() -> Duration {
    SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default()
}

impl Painter {
    /// Makes the picture behind all windows.
    pub fn new(server: &Server, rice: &Rice, desk: &Desk, brush: Brush) -> Result<Painter, Error> {
        let c = &server.connection;
        let (pixmap, gc) = (c.generate_id()?, c.generate_id()?);
        c.create_pixmap(server.depth, pixmap, server.root, server.size.0, server.size.1)?;
        c.create_gc(gc, pixmap, &CreateGCAux::new().graphics_exposures(0))?;
        let canvas = Canvas::new(1, 1).ok_or_else(no_room)?;
        let mut painter = Painter { brush, facts: Facts::default(), backdrop: canvas, pixmap, gc, size: server.size };
        painter.remake_backdrop(rice, desk)?;
        c.change_property32(PropMode::REPLACE, server.root, server.names._XROOTPMAP_ID, AtomEnum::PIXMAP, &[pixmap])?;
        c.change_window_attributes(server.root, &ChangeWindowAttributesAux::new().background_pixmap(pixmap))?;
        Ok(painter)
    }

    /// Another screen size: the picture is made anew.
    pub fn resize(&mut self, server: &Server, rice: &Rice, desk: &Desk) -> Result<(), Error> {
        let c = &server.connection;
        if self.size != server.size {
            c.free_pixmap(self.pixmap)?;
            self.pixmap = c.generate_id()?;
            c.create_pixmap(server.depth, self.pixmap, server.root, server.size.0, server.size.1)?;
            c.change_property32(PropMode::REPLACE, server.root, server.names._XROOTPMAP_ID, AtomEnum::PIXMAP, &[self.pixmap])?;
            c.change_window_attributes(server.root, &ChangeWindowAttributesAux::new().background_pixmap(self.pixmap))?;
            self.size = server.size;
        }
        self.remake_backdrop(rice, desk)
    }

    /// Draws the backdrop of every monitor.
    pub fn remake_backdrop(&mut self, rice: &Rice, desk: &Desk) -> Result<(), Error> {
        self.backdrop = Canvas::new(self.size.0.into(), self.size.1.into()).ok_or_else(no_room)?;
        self.facts = facts(rice, desk);
        self.brush.pictures.choose(self.facts.nth);
        for monitor in &desk.monitors {
            let workspace = &desk.workspaces[monitor.workspace].name;
            let scene = backdrop(rice, &monitor.facts.name, workspace, self.facts.hour, monitor.facts.area.into());
            self.backdrop.draw(&scene, (0.0, 0.0), &mut self.brush);
        }
        Ok(())
    }

    /// Whether the backdrop is another one than was drawn: another workspace, hour, or picture of a folder.
    pub fn backdrop_stale(&self, rice: &Rice, desk: &Desk) -> bool {
        facts(rice, desk) != self.facts
    }

    /// When the backdrop changes by itself.
    pub fn backdrop_changes(&self, rice: &Rice, now: Instant) -> Option<Instant> {
        let pictures = rice.backdrop.picture.as_ref()?;
        let change = rice.backdrop.change.map(|change| change.0).filter(|change| !change.is_zero());
        let hours = (pictures.0.len() > 1).then_some(Duration::from_secs(3600));
        let every = change.into_iter().chain(hours).min()?;
        let past = Duration::from_nanos((since_1970().as_nanos() % every.as_nanos()) as u64);
        Some(now + (every - past) + Duration::from_millis(2))
    }

    /// Pictures are read anew: their files may have changed.
    pub fn forget_pictures(&mut self) {
        self.brush.pictures.forget();
    }

    /// The size of the screen that is drawn for.
    pub fn size(&self) -> (u16, u16) {
        self.size
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

    /// Paints areas behind the windows: backdrop, then frames.
    pub fn paint(&mut self, server: &Server, rice: &Rice, desk: &Desk, areas: &[Area]) -> Result<(), Error> {
        let screen = Area::new(0, 0, self.size.0.into(), self.size.1.into());
        let areas = areas.iter().filter_map(|area| area.overlap(screen));
        let inner_gap = (f64::from(rice.frame.width.0 + rice.frame.radius.0) * desk.most_scale()).ceil() as i32;
        let inner = desk.arrangement().frames.iter().map(|frame| frame.area.inset(inner_gap));
        for piece in visible(areas.collect(), inner.filter(|inner| inner.w >= LEAST && inner.h >= LEAST)) {
            self.paint_area(server, rice, desk, piece)?;
        }
        Ok(())
    }

    fn paint_area(&mut self, server: &Server, rice: &Rice, desk: &Desk, area: Area) -> Result<(), Error> {
        let mut canvas = Canvas::new(area.w as u32, area.h as u32).ok_or_else(no_room)?;
        canvas.copy_from(&self.backdrop, (area.x, area.y));
        let reach = (f64::from(rice.frame.glow.width.0 + 1) * desk.most_scale()).ceil() as i32;
        for frame in desk.arrangement().frames.iter().filter(|frame| frame.area.inset(-reach).overlap(area).is_some()) {
            canvas.draw(&frame_items(rice, frame), (area.x as f32, area.y as f32), &mut self.brush);
        }
        put(server, self.gc, &canvas, self.pixmap, area.x, area.y)?;
        server.connection.clear_area(false, server.root, area.x as i16, area.y as i16, area.w as u16, area.h as u16)?;
        Ok(())
    }
}

/// Where less than this of a tile hides what is behind, it is painted all the same, in pixels.
const LEAST: i32 = 16;
/// More areas than this are painted as one.
const FEW: usize = 12;

/// Areas in pieces that do not overlap, without what nobody sees: what tiles cover.
fn visible(areas: Vec<Area>, covered: impl Iterator<Item = Area>) -> Vec<Area> {
    let mut pieces: Vec<Area> = Vec::new();
    if areas.len() > FEW {
        pieces.extend(areas.into_iter().reduce(Area::union));
    } else {
        for area in areas {
            let mut new = vec![area];
            for piece in &pieces {
                new = new.into_iter().flat_map(|area| area.minus(*piece)).collect();
            }
            pieces.extend(new);
        }
    }
    for inner in covered {
        pieces = pieces.into_iter().flat_map(|piece| piece.minus(inner)).collect();
    }
    pieces
}
