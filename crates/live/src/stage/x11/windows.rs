//! The windows of others, each in a window of ours: its frame where that may lie over other windows, and what of it is seen.

use std::collections::{HashMap, VecDeque};

use jovrik_core::desk::PlacedWindow;
use jovrik_core::rice::Rice;
use jovrik_core::scene::frame_items;
use jovrik_draw::Canvas;
use jovrik_values::PixelRect;
use x11rb::connection::Connection;
use x11rb::protocol::shape::{self, ConnectionExt as _};
use x11rb::protocol::xproto::{
    Atom, AtomEnum, ButtonIndex, ChangeWindowAttributesAux, ClipOrdering, ConfigureWindowAux, ConnectionExt, CreateGCAux,
    CreateWindowAux, EventMask, GrabMode, ModMask, Pixmap, Rectangle, SetMode, StackMode, Window, WindowClass,
};

use super::screen::{no_room, put_deep};
use super::server::Server;
use super::surfaces::PaintContext;
use crate::Error;

/// So many requests to take a window out of sight are waited for: those that did nothing are never told of.
const MAX_PENDING_UNMAPS: usize = 8;

/// A window of ours round one of another program.
#[derive(Debug)]
struct Holder {
    window: Window,
    /// Where it is, and how, once that is known.
    placed: Option<PlacedWindow>,
    /// How large the window in it is.
    size: (i32, i32),
    /// The picture of the frame, where that is its own.
    picture: Option<Pixmap>,
    /// How many bits its pixels have: as many as those of the window in it.
    depth: u8,
    /// Whether the window in it is mapped, as far as we know.
    mapped: bool,
    /// The requests that took its window out of sight, by number, of which the server has not told yet.
    hidden: VecDeque<u16>,
    /// Whether the window in it has a form of its own.
    shaped: bool,
    /// Whether that form is ours.
    cut: bool,
}

/// All windows of others that are managed.
#[derive(Debug, Default)]
pub struct Windows {
    holders: HashMap<Window, Holder>,
    held: HashMap<Window, Window>,
}

/// What a window is made of, as far as what is round it must be so too.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Form {
    /// How many bits its pixels have.
    pub depth: u8,
    /// Whether it is no rectangle (the SHAPE extension).
    pub shaped: bool,
}

/// The corners of a window that are cut round: how much, and of which area, from its own corner.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Cut {
    area: PixelRect,
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
    pub fn placed(&self, window: Window) -> Option<PlacedWindow> {
        self.holders.get(&window).and_then(|holder| holder.placed)
    }

    /// Takes a window into one of ours; `mapped`: whether it is seen now.
    pub fn take(&mut self, server: &Server, window: Window, form: &Form, mapped: bool) -> Result<(), Error> {
        if self.holders.contains_key(&window) {
            return Ok(());
        }
        let c = &server.connection;
        let holder = c.generate_id()?;
        let events = EventMask::SUBSTRUCTURE_REDIRECT | EventMask::SUBSTRUCTURE_NOTIFY;
        // What it does not cover shows what lies behind it.
        let look = CreateWindowAux::new().override_redirect(1).event_mask(events);
        let same = || (server.depth, 0, look.background_pixmap(1_u32));
        let (depth, visual, look) = match form.depth == server.depth {
            true => same(),
            // One that can be seen through is so for a compositing manager only where what is round it can be too.
            false => match c.get_window_attributes(window)?.reply() {
                Ok(of) => {
                    let look = look.background_pixel(0).border_pixel(0).colormap(of.colormap);
                    (form.depth, of.visual, look)
                }
                Err(_) => same(),
            },
        };
        c.create_window(depth, holder, server.root, -1, -1, 1, 1, 0, WindowClass::INPUT_OUTPUT, visual, &look)?;
        c.shape_select_input(window, true)?.ignore_error();
        // A press gives it the focus, and then reaches its program all the same.
        let (press, sync, free) = (EventMask::BUTTON_PRESS, GrabMode::SYNC, GrabMode::ASYNC);
        for button in [ButtonIndex::M1, ButtonIndex::M2, ButtonIndex::M3] {
            c.grab_button(true, holder, press, sync, free, x11rb::NONE, x11rb::NONE, button, ModMask::ANY)?;
        }
        c.change_save_set(SetMode::INSERT, window)?.ignore_error();
        c.configure_window(window, &ConfigureWindowAux::new().border_width(0))?.ignore_error();
        c.reparent_window(window, holder, 0, 0)?.ignore_error();
        self.held.insert(holder, window);
        let hidden = VecDeque::new();
        self.holders.insert(
            window,
            Holder {
                window: holder,
                placed: None,
                size: (0, 0),
                picture: None,
                depth,
                mapped,
                hidden,
                shaped: form.shaped,
                cut: false,
            },
        );
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
            if self.holders.get(&window).is_some_and(|holder| holder.cut) {
                round(server, window, PixelRect::default(), None)?;
            }
            self.give_back(server, window)?;
            if again {
                continue;
            }
            server.connection.map_window(window)?.ignore_error();
            server.state(window, 1)?;
        }
        Ok(())
    }

    /// Puts a window into a place; a tile that needs more than that (`least`) is cut at its right and lower edge.
    pub fn place(
        &mut self,
        pens: &mut PaintContext<'_>,
        rice: &Rice,
        window: Window,
        placed: PlacedWindow,
        least: (i32, i32),
    ) -> Result<(), Error> {
        let Some(holder) = self.holders.get_mut(&window) else { return Ok(()) };
        let c = &pens.server.connection;
        let before = holder.placed.replace(placed);
        let own = own_area(&placed);
        let inner = PixelRect { x: placed.area.x - own.x, y: placed.area.y - own.y, ..placed.area };
        let was = before.map(|before| (own_area(&before), before.area));
        // What is inside goes first: the server paints each pixel once, and its program hears of it sooner.
        let (w, h) = (placed.area.w.max(1), placed.area.h.max(1));
        let size = if placed.over() { (w, h) } else { (w.max(least.0), h.max(least.1)) };
        let before_size = std::mem::replace(&mut holder.size, size);
        if was.is_none_or(|(old, area)| (area.x - old.x, area.y - old.y) != (inner.x, inner.y)) || before_size != size {
            let to = ConfigureWindowAux::new().x(inner.x).y(inner.y);
            let to = to.width(size.0 as u32).height(size.1 as u32);
            c.configure_window(window, &to)?.ignore_error();
        }
        if was.is_none_or(|(old, _)| old != own) {
            let to = ConfigureWindowAux::new().x(own.x).y(own.y).width(own.w as u32).height(own.h as u32);
            c.configure_window(holder.window, &to)?;
        }
        pens.server.tell_place(window, PixelRect { w: size.0, h: size.1, ..placed.area })?;
        let shaped = holder.shaped;
        let cuts = |placed: &PlacedWindow| {
            let own = own_area(placed);
            let whole = PixelRect { x: placed.outer.x - own.x, y: placed.outer.y - own.y, ..placed.outer };
            let inside = PixelRect { x: placed.area.x - own.x, y: placed.area.y - own.y, ..placed.area };
            let inner = Cut { area: inside, radius: placed.inner_radius(), lower: placed.strip > 0 };
            let alone = Cut { area: PixelRect { x: 0, y: 0, ..placed.area }, ..inner };
            // What has a form of its own keeps it.
            let alone = (!shaped).then_some(alone);
            if over(placed) { (Cut { area: whole, radius: placed.radius, lower: false }, alone) } else { (inner, None) }
        };
        let (holder_cut, client_cut) = cuts(&placed);
        let old = before.as_ref().map(cuts);
        let number = holder.window;
        if old.is_none_or(|(cut, _)| cut != holder_cut) {
            round(pens.server, number, PixelRect { x: 0, y: 0, ..own }, Some(holder_cut))?;
        }
        if old.map_or(client_cut.is_some(), |(_, cut)| cut != client_cut) {
            holder.cut = client_cut.is_some_and(|cut| cut.radius > 0);
            round(pens.server, window, PixelRect { x: 0, y: 0, ..placed.area }, client_cut)?;
        }
        let drawn = |placed: &PlacedWindow| over(placed).then_some((placed.outer.w, placed.outer.h, placed.state, placed.radius));
        if before.as_ref().map(drawn) != Some(drawn(&placed)) {
            self.draw_frame(pens, rice, window)?;
        }
        Ok(())
    }

    /// The frame of a window says something else.
    pub fn frame(&mut self, pens: &mut PaintContext<'_>, rice: &Rice, window: Window, placed: PlacedWindow) -> Result<(), Error> {
        if let Some(holder) = self.holders.get_mut(&window) {
            holder.placed = Some(placed);
        }
        self.draw_frame(pens, rice, window)
    }

    /// Draws the frame of a window that may lie over others; one that lies on the backdrop alone is drawn with that.
    fn draw_frame(&mut self, pens: &mut PaintContext<'_>, rice: &Rice, window: Window) -> Result<(), Error> {
        let Some(holder) = self.holders.get_mut(&window) else { return Ok(()) };
        let Some(placed) = holder.placed else { return Ok(()) };
        let c = &pens.server.connection;
        let old = holder.picture.take();
        let same = holder.depth == pens.server.depth;
        if over(&placed) {
            let (w, h) = (placed.outer.w.max(1) as u32, placed.outer.h.max(1) as u32);
            let picture = c.generate_id()?;
            c.create_pixmap(holder.depth, picture, pens.server.root, w as u16, h as u16)?;
            let gc = if same { pens.gc } else { c.generate_id()? };
            if !same {
                c.create_gc(gc, picture, &CreateGCAux::new())?;
            }
            // Only the ring is seen: its four sides are drawn and sent.
            let wide = (placed.area.x - placed.outer.x + placed.radius).max(1);
            let whole = PixelRect { x: 0, y: 0, w: w as i32, h: h as i32 };
            let scene = frame_items(rice, &placed);
            for side in whole.minus(whole.inset(wide)).chain((w.min(h) as i32 <= 2 * wide).then_some(whole)) {
                let mut canvas = Canvas::new(side.w as u32, side.h as u32).ok_or_else(no_room)?;
                let at = ((placed.outer.x + side.x) as f32, (placed.outer.y + side.y) as f32);
                canvas.draw(&scene, at, pens.brush);
                put_deep(pens.server, holder.depth, gc, canvas, picture, (side.x, side.y))?;
            }
            if !same {
                c.free_gc(gc)?;
            }
            c.change_window_attributes(holder.window, &ChangeWindowAttributesAux::new().background_pixmap(picture))?;
            holder.picture = Some(picture);
        } else if same {
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
        holder.mapped = false;
        server.connection.unmap_window(holder.window)?;
        let asked = server.connection.unmap_window(window)?;
        // Events carry the lower half of the number of the request that they came of.
        holder.hidden.push_back(asked.sequence_number() as u16);
        asked.ignore_error();
        if holder.hidden.len() > MAX_PENDING_UNMAPS {
            holder.hidden.pop_front();
        }
        server.state(window, 3)
    }

    /// A managed window was taken out of sight as a request was carried out: whether that was not one of ours.
    pub fn withdrew(&mut self, window: Window, request: u16) -> bool {
        let Some(holder) = self.holders.get_mut(&window) else { return false };
        match holder.hidden.iter().position(|own| *own == request) {
            Some(at) => {
                holder.hidden.drain(..=at);
                false
            }
            None => {
                holder.mapped = false;
                true
            }
        }
    }

    /// A window has another form, or none of its own any more; whether that is news.
    pub fn formed(&mut self, window: Window, shaped: bool) -> bool {
        let holder = self.holders.get_mut(&window).filter(|holder| !holder.cut);
        holder.is_some_and(|holder| std::mem::replace(&mut holder.shaped, shaped) != shaped)
    }

    /// Whether a window has a form of its own.
    pub fn shaped(&self, window: Window) -> bool {
        self.holders.get(&window).is_some_and(|holder| holder.shaped)
    }

    /// What is seen through the holes of windows is what lies behind them now: the server moves old pixels along.
    pub fn clear_holes(&self, server: &Server) -> Result<(), Error> {
        let holed = self.holders.values().filter(|holder| holder.shaped && holder.mapped);
        for holder in holed {
            server.connection.clear_area(false, holder.window, 0, 0, 0, 0)?;
        }
        Ok(())
    }

    /// Says once more where a window is: it may not see it by itself.
    pub fn tell_place(&self, server: &Server, window: Window) -> Result<(), Error> {
        match self.holders.get(&window).and_then(|holder| Some((holder.placed?, holder.size))) {
            Some((placed, (w, h))) => server.tell_place(window, PixelRect { w, h, ..placed.area }),
            None => Ok(()),
        }
    }
}

/// Whether the frame of a window is its own picture.
fn over(placed: &PlacedWindow) -> bool {
    placed.framed() && placed.over()
}

/// The area of our window round another: with the frame where that is its own, and nothing beyond the monitor.
fn own_area(placed: &PlacedWindow) -> PixelRect {
    let whole = if over(placed) { placed.outer } else { placed.area };
    whole.overlap(placed.clip).unwrap_or(PixelRect { w: 1, h: 1, ..whole })
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
pub fn round_all(server: &Server, window: Window, size: PixelRect, radius: i32) -> Result<(), Error> {
    let whole = PixelRect { x: 0, y: 0, ..size };
    round(server, window, whole, Some(Cut { area: whole, radius, lower: false }))
}

fn round(server: &Server, window: Window, whole: PixelRect, cut: Option<Cut>) -> Result<(), Error> {
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
    let row = |cut: i32, y: i32, h: i32| PixelRect::new(area.x + cut, area.y + y, w - 2 * cut, h).overlap(whole);
    let top = if lower { 0 } else { radius };
    let mut rows: Vec<Option<PixelRect>> = (0..top).map(|line| row(away(line), line, 1)).collect();
    rows.push(row(0, top, h - top - radius));
    rows.extend((0..radius).rev().map(|line| row(away(line), h - 1 - line, 1)));
    let small = |area: PixelRect| Rectangle { x: area.x as i16, y: area.y as i16, width: area.w as u16, height: area.h as u16 };
    let rows: Vec<Rectangle> = rows.into_iter().flatten().map(small).collect();
    c.shape_rectangles(shape::SO::SET, shape::SK::BOUNDING, ClipOrdering::Y_SORTED, window, 0, 0, &rows)?.ignore_error();
    Ok(())
}
