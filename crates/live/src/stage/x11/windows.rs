//! The windows of others, each in a window of ours: its frame where that may lie over other windows, and what of it is seen.

use std::collections::HashMap;

use jovrik_core::desk::{Area, Placed};
use jovrik_core::rice::Rice;
use jovrik_core::scene::frame_items;
use jovrik_draw::Canvas;
use x11rb::connection::Connection;
use x11rb::protocol::shape::{self, ConnectionExt as _};
use x11rb::protocol::xproto::{
    Atom, AtomEnum, ButtonIndex, ChangeWindowAttributesAux, ClipOrdering, ConfigureWindowAux, ConnectionExt, CreateWindowAux,
    EventMask, GrabMode, ModMask, Pixmap, Rectangle, SetMode, StackMode, Window, WindowClass,
};

use super::screen::{no_room, put};
use super::server::Server;
use super::surfaces::Pens;
use crate::Error;

/// A window of ours round one of another program.
#[derive(Debug)]
struct Holder {
    window: Window,
    /// Where it is, and how, once that is known.
    placed: Option<Placed>,
    /// The picture of the frame, where that is its own.
    picture: Option<Pixmap>,
    /// Whether the window in it is mapped, as far as we know.
    mapped: bool,
    /// How often its window was taken out of sight by us, and the server has not said so yet.
    hidden: u32,
}

/// All windows of others that are managed.
#[derive(Debug, Default)]
pub struct Windows {
    holders: HashMap<Window, Holder>,
    held: HashMap<Window, Window>,
}

/// The corners of a window that are cut round: how much, and of which area, from its own corner.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Cut {
    area: Area,
    radius: i32,
    /// Whether the upper corners stay as they are.
    lower: bool,
}

impl Windows {
    /// The managed window that one of ours is round, or that is meant itself.
    pub fn of(&self, window: Window) -> Option<Window> {
        self.held.get(&window).copied().or_else(|| self.holders.contains_key(&window).then_some(window))
    }

    /// Our window round a managed one.
    pub fn holder(&self, window: Window) -> Option<Window> {
        self.holders.get(&window).map(|holder| holder.window)
    }

    /// Where a managed window was put.
    pub fn placed(&self, window: Window) -> Option<Placed> {
        self.holders.get(&window).and_then(|holder| holder.placed)
    }

    /// Takes a window into one of ours; `mapped`: whether it is seen now.
    pub fn take(&mut self, server: &Server, window: Window, mapped: bool) -> Result<(), Error> {
        if self.holders.contains_key(&window) {
            return Ok(());
        }
        let c = &server.connection;
        let holder = c.generate_id()?;
        let events = EventMask::SUBSTRUCTURE_REDIRECT | EventMask::SUBSTRUCTURE_NOTIFY;
        // What it does not cover shows what lies behind it.
        let look = CreateWindowAux::new().override_redirect(1).event_mask(events).background_pixmap(1_u32);
        c.create_window(0, holder, server.root, -1, -1, 1, 1, 0, WindowClass::INPUT_OUTPUT, 0, &look)?;
        // A press gives it the focus, and then reaches its program all the same.
        let (press, sync, free) = (EventMask::BUTTON_PRESS, GrabMode::SYNC, GrabMode::ASYNC);
        for button in [ButtonIndex::M1, ButtonIndex::M2, ButtonIndex::M3] {
            c.grab_button(true, holder, press, sync, free, x11rb::NONE, x11rb::NONE, button, ModMask::ANY)?;
        }
        c.change_save_set(SetMode::INSERT, window)?.ignore_error();
        c.configure_window(window, &ConfigureWindowAux::new().border_width(0))?.ignore_error();
        c.reparent_window(window, holder, 0, 0)?.ignore_error();
        self.held.insert(holder, window);
        self.holders.insert(window, Holder { window: holder, placed: None, picture: None, mapped, hidden: 0 });
        Ok(())
    }

    /// What is for a compositing manager to go by is said of our window too, which is the one that it sees.
    pub fn pass(&self, server: &Server, window: Window, property: Atom, value: Option<u32>) -> Result<(), Error> {
        let Some(holder) = self.holder(window) else { return Ok(()) };
        match value {
            Some(value) => server.tell(holder, property, AtomEnum::CARDINAL, &[value]),
            None => {
                server.connection.delete_property(holder, property)?.ignore_error();
                Ok(())
            }
        }
    }

    /// Lets a window go that is gone, or no longer ours.
    pub fn forget(&mut self, server: &Server, window: Window) -> Result<(), Error> {
        let Some(holder) = self.holders.remove(&window) else { return Ok(()) };
        self.held.remove(&holder.window);
        server.connection.destroy_window(holder.window)?.ignore_error();
        if let Some(picture) = holder.picture {
            server.connection.free_pixmap(picture)?.ignore_error();
        }
        Ok(())
    }

    /// Gives a window back to the root window, where it is.
    pub fn give_back(&mut self, server: &Server, window: Window) -> Result<(), Error> {
        if let Some(holder) = self.holders.get(&window) {
            let c = &server.connection;
            let at = holder.placed.map_or((0, 0), |placed| (placed.area.x as i16, placed.area.y as i16));
            c.reparent_window(window, server.root, at.0, at.1)?.ignore_error();
            c.change_save_set(SetMode::DELETE, window)?.ignore_error();
        }
        self.forget(server, window)
    }

    /// Gives all windows back, for whoever comes next: every one is seen, and none is cut; `again`: for ourselves, who know
    /// which are seen.
    pub fn leave(&mut self, server: &Server, again: bool) -> Result<(), Error> {
        for window in self.holders.keys().copied().collect::<Vec<_>>() {
            server.connection.shape_mask(shape::SO::SET, shape::SK::BOUNDING, window, 0, 0, x11rb::NONE)?.ignore_error();
            self.give_back(server, window)?;
            if again {
                continue;
            }
            server.connection.map_window(window)?.ignore_error();
            server.state(window, 1)?;
        }
        Ok(())
    }

    /// Puts a window into a place.
    pub fn place(&mut self, pens: &mut Pens<'_>, rice: &Rice, window: Window, placed: Placed) -> Result<(), Error> {
        let Some(holder) = self.holders.get_mut(&window) else { return Ok(()) };
        let c = &pens.server.connection;
        let before = holder.placed.replace(placed);
        let own = own_area(&placed);
        let inner = Area { x: placed.area.x - own.x, y: placed.area.y - own.y, ..placed.area };
        let was = before.map(|before| (own_area(&before), before.area));
        if was.is_none_or(|(old, _)| old != own) {
            let to = ConfigureWindowAux::new().x(own.x).y(own.y).width(own.w as u32).height(own.h as u32);
            c.configure_window(holder.window, &to)?;
        }
        let size = (placed.area.w, placed.area.h);
        if was.is_none_or(|(old, area)| (area.x - old.x, area.y - old.y) != (inner.x, inner.y) || (area.w, area.h) != size) {
            let to = ConfigureWindowAux::new().x(inner.x).y(inner.y);
            let to = to.width(placed.area.w.max(1) as u32).height(placed.area.h.max(1) as u32);
            c.configure_window(window, &to)?.ignore_error();
        }
        pens.server.tell_place(window, placed.area)?;
        let cuts = |placed: &Placed| {
            let own = own_area(placed);
            let whole = Area { x: placed.outer.x - own.x, y: placed.outer.y - own.y, ..placed.outer };
            let inside = Area { x: placed.area.x - own.x, y: placed.area.y - own.y, ..placed.area };
            let inner = Cut { area: inside, radius: placed.inner_radius(), lower: placed.strip > 0 };
            let alone = Cut { area: Area { x: 0, y: 0, ..placed.area }, ..inner };
            if over(placed) { (Cut { area: whole, radius: placed.radius, lower: false }, Some(alone)) } else { (inner, None) }
        };
        let (holder_cut, client_cut) = cuts(&placed);
        let old = before.as_ref().map(cuts);
        let number = holder.window;
        if old.is_none_or(|(cut, _)| cut != holder_cut) {
            round(pens.server, number, Area { x: 0, y: 0, ..own }, Some(holder_cut))?;
        }
        if old.map_or(client_cut.is_some(), |(_, cut)| cut != client_cut) {
            round(pens.server, window, Area { x: 0, y: 0, ..placed.area }, client_cut)?;
        }
        let drawn = |placed: &Placed| over(placed).then_some((placed.outer.w, placed.outer.h, placed.state, placed.radius));
        if before.as_ref().map(drawn) != Some(drawn(&placed)) {
            self.draw_frame(pens, rice, window)?;
        }
        Ok(())
    }

    /// The frame of a window says something else.
    pub fn frame(&mut self, pens: &mut Pens<'_>, rice: &Rice, window: Window, placed: Placed) -> Result<(), Error> {
        if let Some(holder) = self.holders.get_mut(&window) {
            holder.placed = Some(placed);
        }
        self.draw_frame(pens, rice, window)
    }

    /// Draws the frame of a window that may lie over others; one that lies on the backdrop alone is drawn with that.
    fn draw_frame(&mut self, pens: &mut Pens<'_>, rice: &Rice, window: Window) -> Result<(), Error> {
        let Some(holder) = self.holders.get_mut(&window) else { return Ok(()) };
        let Some(placed) = holder.placed else { return Ok(()) };
        let c = &pens.server.connection;
        let old = holder.picture.take();
        if over(&placed) {
            let (w, h) = (placed.outer.w.max(1) as u32, placed.outer.h.max(1) as u32);
            let picture = c.generate_id()?;
            c.create_pixmap(pens.server.depth, picture, pens.server.root, w as u16, h as u16)?;
            // Only the ring is seen: its four sides are drawn and sent.
            let wide = (placed.area.x - placed.outer.x + placed.radius).max(1);
            let whole = Area { x: 0, y: 0, w: w as i32, h: h as i32 };
            let scene = frame_items(rice, &placed);
            for side in whole.minus(whole.inset(wide)).chain((w.min(h) as i32 <= 2 * wide).then_some(whole)) {
                let mut canvas = Canvas::new(side.w as u32, side.h as u32).ok_or_else(no_room)?;
                let at = ((placed.outer.x + side.x) as f32, (placed.outer.y + side.y) as f32);
                canvas.draw(&scene, at, pens.brush);
                put(pens.server, pens.gc, canvas, picture, side.x, side.y)?;
            }
            c.change_window_attributes(holder.window, &ChangeWindowAttributesAux::new().background_pixmap(picture))?;
            holder.picture = Some(picture);
        } else {
            // Parent-relative: what is behind.
            c.change_window_attributes(holder.window, &ChangeWindowAttributesAux::new().background_pixmap(1_u32))?;
        }
        if let Some(old) = old {
            c.free_pixmap(old)?;
        }
        c.clear_area(false, holder.window, 0, 0, 0, 0)?;
        Ok(())
    }

    /// Shows a window.
    pub fn show(&mut self, server: &Server, window: Window) -> Result<(), Error> {
        let Some(holder) = self.holders.get_mut(&window) else { return Ok(()) };
        holder.mapped = true;
        server.connection.map_window(window)?.ignore_error();
        server.connection.map_window(holder.window)?;
        server.state(window, 1)
    }

    /// Takes a window out of sight: itself too, so that its program knows (ICCCM, section 4.1.4).
    pub fn hide(&mut self, server: &Server, window: Window) -> Result<(), Error> {
        let Some(holder) = self.holders.get_mut(&window) else { return Ok(()) };
        if std::mem::take(&mut holder.mapped) {
            holder.hidden += 1;
        }
        server.connection.unmap_window(holder.window)?;
        server.connection.unmap_window(window)?.ignore_error();
        server.state(window, 3)
    }

    /// A managed window was taken out of sight: whether that was not by us.
    pub fn withdrew(&mut self, window: Window) -> bool {
        match self.holders.get_mut(&window) {
            Some(holder) if holder.hidden > 0 => {
                holder.hidden -= 1;
                false
            }
            Some(holder) => {
                holder.mapped = false;
                true
            }
            None => false,
        }
    }

    /// Says once more where a window is: it may not see it by itself.
    pub fn tell_place(&self, server: &Server, window: Window) -> Result<(), Error> {
        match self.placed(window) {
            Some(placed) => server.tell_place(window, placed.area),
            None => Ok(()),
        }
    }
}

/// Whether the frame of a window is its own picture.
fn over(placed: &Placed) -> bool {
    placed.framed() && placed.over()
}

/// The area of our window round another: with the frame where that is its own, and nothing beyond the monitor.
fn own_area(placed: &Placed) -> Area {
    let whole = if over(placed) { placed.outer } else { placed.area };
    whole.overlap(placed.clip).unwrap_or(Area { w: 1, h: 1, ..whole })
}

/// Lays a window directly over another one, or below all.
pub fn stack(server: &Server, window: Window, over: Option<Window>) -> Result<(), Error> {
    let how = match over {
        Some(sibling) => ConfigureWindowAux::new().sibling(sibling).stack_mode(StackMode::ABOVE),
        None => ConfigureWindowAux::new().stack_mode(StackMode::BELOW),
    };
    server.connection.configure_window(window, &how)?.ignore_error();
    Ok(())
}

/// Cuts the corners of a window of a size (the SHAPE extension), or leaves them.
pub fn round_all(server: &Server, window: Window, size: Area, radius: i32) -> Result<(), Error> {
    let whole = Area { x: 0, y: 0, ..size };
    round(server, window, whole, Some(Cut { area: whole, radius, lower: false }))
}

fn round(server: &Server, window: Window, whole: Area, cut: Option<Cut>) -> Result<(), Error> {
    let c = &server.connection;
    let Some(Cut { area, radius, lower }) = cut.filter(|cut| cut.radius > 0) else {
        c.shape_mask(shape::SO::SET, shape::SK::BOUNDING, window, 0, 0, x11rb::NONE)?.ignore_error();
        return Ok(());
    };
    let (w, h) = (area.w, area.h);
    let radius = radius.min(w / 2).min(h / 2);
    let away = |line: i32| {
        let up = f64::from(radius - line) - 0.5;
        let across = (f64::from(radius * radius) - up * up).max(0.0).sqrt();
        radius - across.round() as i32
    };
    let row = |cut: i32, y: i32, h: i32| Area::new(area.x + cut, area.y + y, w - 2 * cut, h).overlap(whole);
    let top = if lower { 0 } else { radius };
    let mut rows: Vec<Option<Area>> = (0..top).map(|line| row(away(line), line, 1)).collect();
    rows.push(row(0, top, h - top - radius));
    rows.extend((0..radius).rev().map(|line| row(away(line), h - 1 - line, 1)));
    let small = |area: Area| Rectangle { x: area.x as i16, y: area.y as i16, width: area.w as u16, height: area.h as u16 };
    let rows: Vec<Rectangle> = rows.into_iter().flatten().map(small).collect();
    c.shape_rectangles(shape::SO::SET, shape::SK::BOUNDING, ClipOrdering::Y_SORTED, window, 0, 0, &rows)?.ignore_error();
    Ok(())
}
