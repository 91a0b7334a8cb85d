//! Pixels behind the windows: the backdrop with its frames. Only what changed is drawn and sent.

use std::path::PathBuf;
use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use jovrik_core::desk::{Area, Desk};
use jovrik_core::rice::{Icon, IconRef, Rice};
use jovrik_core::scene::{backdrop, frame_items};
use jovrik_draw::{Brush, Canvas, Fonts, read_picture};
use x11rb::connection::Connection;
use x11rb::protocol::xproto::{AtomEnum, ChangeWindowAttributesAux, ConnectionExt, CreateGCAux, Gcontext, Pixmap, PropMode};
use x11rb::wrapper::ConnectionExt as _;

use crate::Error;
use crate::screen::{no_room, put};
use crate::seat::Seat;
use crate::surfaces::Pens;
use crate::tray::Item;

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

/// A picture of an icon theme by its name (Icon Theme Specification): a whole path, or a PNG of `hicolor` of a size
/// near 16, in the folder of its own or those of the computer.
fn themed(name: &str, own: &str) -> Option<PathBuf> {
    if name.is_empty() {
        return None;
    }
    let whole = PathBuf::from(name);
    if whole.is_absolute() {
        return whole.is_file().then_some(whole);
    }
    // A name is no way out of the folder.
    if name.contains('/') || name.contains('\0') {
        return None;
    }
    let file = format!("{name}.png");
    let data = std::env::var("XDG_DATA_DIRS").unwrap_or_default();
    let data = if data.is_empty() { "/usr/local/share:/usr/share".to_owned() } else { data };
    let mut folders: Vec<PathBuf> = vec![PathBuf::from(own)];
    for place in data.split(':').map(PathBuf::from) {
        for size in ["16x16", "22x22", "24x24", "32x32", "48x48"] {
            for kind in ["apps", "status", "devices", "actions", "categories", "places", "mimetypes"] {
                folders.push(place.join("icons/hicolor").join(size).join(kind));
            }
        }
        folders.push(place.join("pixmaps"));
    }
    folders.into_iter().map(|folder| folder.join(&file)).find(|path| path.is_absolute() && path.is_file())
}

fn since_1970() -> Duration {
    SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default()
}

impl Painter {
    /// Makes the picture behind all windows.
    pub fn new(seat: &Seat, rice: &Rice, desk: &Desk, brush: Brush) -> Result<Painter, Error> {
        let c = &seat.connection;
        let (pixmap, gc) = (c.generate_id()?, c.generate_id()?);
        c.create_pixmap(seat.depth, pixmap, seat.root, seat.size.0, seat.size.1)?;
        c.create_gc(gc, pixmap, &CreateGCAux::new().graphics_exposures(0))?;
        let canvas = Canvas::new(1, 1).ok_or_else(no_room)?;
        let mut painter = Painter { brush, facts: Facts::default(), backdrop: canvas, pixmap, gc, size: seat.size };
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

    /// The picture of an item: its own pixels, one of the icon themes, or a drawing that stands in.
    pub fn picture_of(&mut self, item: &Item) -> IconRef {
        if let Some((width, height, rgba)) = &item.pixels {
            let name = format!("\u{0}{}{}", item.key.bus, item.key.path);
            self.brush.pictures.insert(&name, (*width, *height), rgba.clone());
            return IconRef::Picture(name);
        }
        let (name, own) = &item.icon;
        let Some(path) = themed(name, own) else { return IconRef::Drawn(Icon::More) };
        // It lies outside the rice, so it is read by itself and held like one that came over the bus.
        let name = format!("\u{0}{}", path.display());
        if !self.brush.pictures.holds(&name) {
            let Ok(picture) = read_picture(&path) else { return IconRef::Drawn(Icon::More) };
            self.brush.pictures.insert(&name, picture.dimensions(), picture.into_raw());
        }
        IconRef::Picture(name)
    }

    /// The size of the screen that is drawn for.
    pub fn size(&self) -> (u16, u16) {
        self.size
    }

    /// The fonts, which measure text.
    pub fn fonts(&mut self) -> &mut Fonts {
        &mut self.brush.fonts
    }

    /// What surfaces are drawn with.
    pub fn pens<'a>(&'a mut self, seat: &'a Seat) -> Pens<'a> {
        Pens { seat, brush: &mut self.brush, backdrop: &self.backdrop, gc: self.gc }
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
        let most = desk.most_scale();
        let inner_gap = (f64::from(rice.frame.width.0 + rice.frame.radius.0) * most).ceil() as i32;
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
        let reach = (f64::from(rice.frame.glow.width.0 + 1) * desk.most_scale()).ceil() as i32;
        for frame in desk.arrangement().frames.iter().filter(|frame| frame.area.inset(-reach).overlap(area).is_some()) {
            canvas.draw(&frame_items(rice, frame), (area.x as f32, area.y as f32), &mut self.brush);
        }
        put(seat, self.gc, &canvas, self.pixmap, area.x, area.y)?;
        seat.connection.clear_area(false, seat.root, area.x as i16, area.y as i16, area.w as u16, area.h as u16)?;
        Ok(())
    }
}
