//! The system tray: icons of other programs on a bar (freedesktop System Tray Protocol 0.4, XEmbed 0.5).

use jovrik_core::bar::{ModuleContent, PlacedModule, TRAY_GAP};
use jovrik_core::desktop::SurfaceId;
use jovrik_core::rice::Rice;
use jovrik_core::scene::strip_area;
use jovrik_values::Rect;
use x11rb::connection::Connection;
use x11rb::protocol::xproto::{
    ChangeWindowAttributesAux, ClientMessageEvent, ConfigureWindowAux, ConnectionExt, CreateWindowAux, EventMask, Pixmap,
    SetMode, StackMode, Window, WindowClass,
};

use super::screen::put;
use super::server::Server;
use super::surfaces::{PaintContext, Surfaces};
use crate::Error;

/// The edge of an icon.
const ICON: u16 = 16;
/// The most icons that are taken: more would not fit any bar.
const MAX_TRAY_ICONS: usize = jovrik_text::limits::TRAY_ITEMS;

/// An icon of another program.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct TrayIcon {
    window: Window,
    /// Whether it wants to be seen (XEmbed, `XEMBED_MAPPED`).
    mapped: bool,
}

/// The tray, while a bar shows one.
pub struct Tray {
    /// Owns the selection, and holds the icons.
    holder: Window,
    pixmap: Option<Pixmap>,
    icons: Vec<TrayIcon>,
    /// Where it lies.
    rect: Option<Rect>,
    /// Whether its icons stand one below the other.
    upright: bool,
    /// How many pixels a pixel of the settings takes.
    scale: f32,
}

impl Tray {
    /// Becomes the tray of the screen; nothing when another program is.
    pub fn take(server: &Server) -> Result<Option<Tray>, Error> {
        let (c, names) = (&server.connection, &server.names);
        if c.get_selection_owner(names._NET_SYSTEM_TRAY_S0)?.reply()?.owner != x11rb::NONE {
            return Ok(None);
        }
        let holder = c.generate_id()?;
        let look = CreateWindowAux::new().override_redirect(1).event_mask(EventMask::SUBSTRUCTURE_NOTIFY);
        c.create_window(0, holder, server.root, -10, -10, 1, 1, 0, WindowClass::INPUT_OUTPUT, 0, &look)?;
        c.set_selection_owner(holder, names._NET_SYSTEM_TRAY_S0, x11rb::CURRENT_TIME)?;
        if c.get_selection_owner(names._NET_SYSTEM_TRAY_S0)?.reply()?.owner != holder {
            c.destroy_window(holder)?;
            return Ok(None);
        }
        // Those who wait for a tray are told that there is one (ICCCM, section 2.8).
        let data = [x11rb::CURRENT_TIME, names._NET_SYSTEM_TRAY_S0, holder, 0, 0];
        let event = ClientMessageEvent::new(32, server.root, names.MANAGER, data);
        c.send_event(false, server.root, EventMask::STRUCTURE_NOTIFY, event)?;
        Ok(Some(Tray { holder, pixmap: None, icons: Vec::new(), rect: None, upright: false, scale: 1.0 }))
    }

    /// Whether a window is the tray's own.
    pub fn is(&self, window: Window) -> bool {
        window == self.holder
    }

    /// Whether a window is an icon.
    pub fn has(&self, window: Window) -> bool {
        self.icons.iter().any(|icon| icon.window == window)
    }

    /// How many icons want to be seen.
    pub fn count(&self) -> usize {
        self.icons.iter().filter(|icon| icon.mapped).count()
    }

    /// Whether an icon wants to be seen; those that say nothing do.
    fn wants(server: &Server, window: Window) -> Result<bool, Error> {
        let info = server.connection.get_property(false, window, server.names._XEMBED_INFO, 0_u32, 0, 2)?.reply();
        let flags = info.ok().and_then(|reply| reply.value32().and_then(|mut values| values.nth(1)));
        Ok(flags.is_none_or(|flags| flags & 1 != 0))
    }

    /// A program asks for a place: its window is taken in.
    pub fn dock(&mut self, server: &Server, window: Window) -> Result<(), Error> {
        let c = &server.connection;
        if self.has(window) || self.icons.len() >= MAX_TRAY_ICONS || window == self.holder || window == server.root {
            return Ok(());
        }
        if c.get_window_attributes(window)?.reply().is_err() {
            return Ok(());
        }
        let mapped = Tray::wants(server, window)?;
        let events = EventMask::STRUCTURE_NOTIFY | EventMask::PROPERTY_CHANGE;
        c.change_window_attributes(window, &ChangeWindowAttributesAux::new().event_mask(events))?.ignore_error();
        // It outlives us.
        c.change_save_set(SetMode::INSERT, window)?.ignore_error();
        c.reparent_window(window, self.holder, 0, 0)?.ignore_error();
        let size = ConfigureWindowAux::new().width(u32::from(ICON)).height(u32::from(ICON)).border_width(0);
        c.configure_window(window, &size)?.ignore_error();
        // XEMBED_EMBEDDED_NOTIFY: who holds it, and the version of the protocol.
        let event = ClientMessageEvent::new(32, window, server.names._XEMBED, [x11rb::CURRENT_TIME, 0, 0, self.holder, 0]);
        c.send_event(false, window, EventMask::NO_EVENT, event)?.ignore_error();
        self.icons.push(TrayIcon { window, mapped });
        self.arrange(server)
    }

    /// An icon may have changed its mind; whether it did.
    pub fn changed(&mut self, server: &Server, window: Window) -> Result<bool, Error> {
        let Some(at) = self.icons.iter().position(|icon| icon.window == window) else { return Ok(false) };
        let mapped = Tray::wants(server, window)?;
        if self.icons[at].mapped == mapped {
            return Ok(false);
        }
        self.icons[at].mapped = mapped;
        self.arrange(server)?;
        Ok(true)
    }

    /// An icon has gone; whether it was one.
    pub fn gone(&mut self, server: &Server, window: Window) -> Result<bool, Error> {
        let before = self.icons.len();
        self.icons.retain(|icon| icon.window != window);
        if self.icons.len() == before {
            return Ok(false);
        }
        self.arrange(server)?;
        Ok(true)
    }

    /// Puts the icons side by side.
    fn arrange(&self, server: &Server) -> Result<(), Error> {
        let c = &server.connection;
        let upright = self.upright;
        let (icon_size, gap) = (f32::from(ICON) * self.scale, TRAY_GAP * self.scale);
        let across = self.rect.map_or(icon_size, |rect| if upright { rect.w } else { rect.h });
        let middle = ((across - icon_size) / 2.0).max(0.0) as i32;
        let mut at = 0;
        for icon in &self.icons {
            if !icon.mapped {
                c.unmap_window(icon.window)?.ignore_error();
                continue;
            }
            let (x, y) = if upright { (middle, at) } else { (at, middle) };
            c.configure_window(
                icon.window,
                &ConfigureWindowAux::new().x(x).y(y).width(icon_size as u32).height(icon_size as u32),
            )?
            .ignore_error();
            c.map_window(icon.window)?.ignore_error();
            at += (icon_size + gap) as i32;
        }
        Ok(())
    }

    /// Follows the module that shows the tray: its place, and what lies behind the icons.
    pub fn follow(&mut self, pens: &mut PaintContext<'_>, bars: &Surfaces, rice: &Rice) -> Result<(), Error> {
        let c = &pens.server.connection;
        let found = bars.strips().find_map(|(monitor, strip)| {
            let windows = |shown: &PlacedModule| match &shown.what {
                ModuleContent::Tray { windows, .. } if *windows > 0 => Some(*windows),
                _ => None,
            };
            let (shown, windows) = strip.modules.iter().find_map(|shown| Some((shown, windows(shown)?)))?;
            // Pictures of items lie beside them, on the bar itself.
            let long = (windows as f32 * f32::from(ICON) + (windows - 1) as f32 * TRAY_GAP) * strip.scale;
            let Rect { x, y, w, h } = shown.rect;
            let rect = if strip.upright() { Rect::new(x, y, w, long) } else { Rect::new(x, y, long, h) };
            Some((monitor, strip, rect))
        });
        let Some((monitor, strip, rect)) = found else {
            if self.rect.take().is_some() {
                c.unmap_window(self.holder)?;
            }
            return Ok(());
        };
        let (w, h) = (rect.w.max(1.0) as u16, rect.h.max(1.0) as u16);
        let pixmap = c.generate_id()?;
        c.create_pixmap(pens.server.depth, pixmap, pens.server.root, w, h)?;
        if let Some(mut canvas) = pens.backdrop.cut((rect.x as i32, rect.y as i32), w.into(), h.into()) {
            canvas.draw(&strip_area(rice, strip, rect), (rect.x, rect.y), pens.brush);
            put(pens.server, pens.gc, canvas, pixmap, 0, 0)?;
        }
        c.change_window_attributes(self.holder, &ChangeWindowAttributesAux::new().background_pixmap(pixmap))?;
        if let Some(old) = self.pixmap.replace(pixmap) {
            c.free_pixmap(old)?;
        }
        let place = ConfigureWindowAux::new().x(rect.x as i32).y(rect.y as i32).width(u32::from(w)).height(u32::from(h));
        // It lies on its bar, and over nothing else.
        let bar = SurfaceId { part: "bar", name: strip.name.clone(), monitor: monitor.to_owned() };
        let over = bars.window(&bar).map_or(place, |window| place.sibling(window).stack_mode(StackMode::ABOVE));
        c.configure_window(self.holder, &over)?;
        c.map_window(self.holder)?;
        c.clear_area(true, self.holder, 0, 0, 0, 0)?;
        if self.rect != Some(rect) {
            self.rect = Some(rect);
            self.upright = strip.upright();
            self.scale = strip.scale;
            self.arrange(pens.server)?;
        }
        Ok(())
    }

    /// Gives the icons back to the root window, for whoever is the tray next.
    pub fn leave(self, server: &Server) -> Result<(), Error> {
        let c = &server.connection;
        for icon in &self.icons {
            c.unmap_window(icon.window)?.ignore_error();
            c.reparent_window(icon.window, server.root, 0, 0)?.ignore_error();
        }
        if let Some(pixmap) = self.pixmap {
            c.free_pixmap(pixmap)?;
        }
        c.destroy_window(self.holder)?;
        Ok(())
    }
}
