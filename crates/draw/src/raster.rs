//! A scene to pixels.

use jovrik_core::rice::Colour;
use jovrik_core::scene::{Item, Rect, Scene, Step};
use tiny_skia::{Color, FillRule, LineCap, LineJoin, Paint, PathBuilder, Pixmap, Stroke, StrokeDash, Transform};

use crate::fonts::Fonts;
use crate::glow::glow;

/// Pixels, RGBA, premultiplied; rows from the top.
#[derive(Clone)]
pub struct Canvas {
    pixels: Pixmap,
}

impl std::fmt::Debug for Canvas {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Canvas {}x{}", self.width(), self.height())
    }
}

impl Canvas {
    /// An empty canvas; sizes beyond what fits give the largest that does, at least 1×1.
    pub fn new(width: u32, height: u32) -> Option<Canvas> {
        Pixmap::new(width.max(1), height.max(1)).map(|pixels| Canvas { pixels })
    }

    /// Its width in pixels.
    pub fn width(&self) -> u32 {
        self.pixels.width()
    }

    /// Its height in pixels.
    pub fn height(&self) -> u32 {
        self.pixels.height()
    }

    /// The bytes: R, G, B, A of each pixel, row by row.
    pub fn bytes(&self) -> &[u8] {
        self.pixels.data()
    }

    /// Draws a scene whose point `origin` is the canvas's top left corner.
    pub fn draw(&mut self, scene: &Scene, origin: (f32, f32), fonts: &mut Fonts) {
        for item in &scene.items {
            self.item(item, origin, fonts);
        }
    }

    fn item(&mut self, item: &Item, (ox, oy): (f32, f32), fonts: &mut Fonts) {
        let moved = |rect: &Rect| Rect { x: rect.x - ox, y: rect.y - oy, ..*rect };
        let transform = Transform::from_translate(-ox, -oy);
        match item {
            Item::Fill { rect, radius, colour } => self.fill(moved(rect), *radius, *colour),
            Item::Border { rect, radius, width, colour } => {
                self.border(moved(rect), *radius, *width, *colour);
            }
            Item::Glow { rect, radius, width, colour } => glow(self, moved(rect), *radius, *width, *colour),
            Item::Stroke { path, width, colour, dash } => {
                let Some(path) = path_of(path) else { return };
                let dash = dash.and_then(|(on, off)| StrokeDash::new(vec![on, off], 0.0));
                // Round ends of a hairline are seen by nobody, and cost as much as the line.
                let cap = if *width > 1.0 { LineCap::Round } else { LineCap::Butt };
                let stroke = Stroke { width: *width, line_cap: cap, line_join: LineJoin::Round, dash, ..Stroke::default() };
                self.pixels.stroke_path(&path, &paint(*colour), &stroke, transform, None);
            }
            Item::Shape { path, colour } => {
                let Some(path) = path_of(path) else { return };
                self.pixels.fill_path(&path, &paint(*colour), FillRule::Winding, transform, None);
            }
            Item::Text { x, y, text, face, colour } => self.text((x - ox, y - oy), text, face, *colour, fonts),
        }
    }

    fn fill(&mut self, rect: Rect, radius: f32, colour: Colour) {
        if !on_grid(rect, radius) || colour.a < 255 {
            if let Some(path) = rounded(rect, radius) {
                self.pixels.fill_path(&path, &paint(colour), FillRule::Winding, Transform::identity(), None);
            }
            return;
        }
        // All but the round corners are rows of one value.
        let Rect { x, y, w, h } = rect;
        let radius = radius.min((w / 2.0).floor()).min((h / 2.0).floor());
        self.fill_rows(Rect::new(x, y + radius, w, h - 2.0 * radius), colour);
        self.fill_rows(Rect::new(x + radius, y, w - 2.0 * radius, radius), colour);
        self.fill_rows(Rect::new(x + radius, y + h - radius, w - 2.0 * radius, radius), colour);
        self.corners(rect, radius, None, colour);
    }

    fn border(&mut self, rect: Rect, radius: f32, width: f32, colour: Colour) {
        if !on_grid(rect, radius)
            || colour.a < 255
            || width.fract() != 0.0
            || radius * 2.0 > rect.w.min(rect.h)
            || (radius > 0.0 && radius < width)
        {
            let Some(path) = rounded(rect.grown(-width / 2.0), (radius - width / 2.0).max(0.0)) else { return };
            let stroke = Stroke { width, ..Stroke::default() };
            self.pixels.stroke_path(&path, &paint(colour), &stroke, Transform::identity(), None);
            return;
        }
        let Rect { x, y, w, h } = rect;
        for (x, y) in [(x + radius, y), (x + radius, y + h - width)] {
            self.fill_rows(Rect::new(x, y, w - 2.0 * radius, width), colour);
        }
        for (x, y) in [(x, y + radius), (x + w - width, y + radius)] {
            self.fill_rows(Rect::new(x, y, width, h - 2.0 * radius), colour);
        }
        self.corners(rect, radius, Some(radius - width), colour);
    }

    /// The four corners of a rounded box: quarters of a disc, or of a ring with an inner radius.
    fn corners(&mut self, rect: Rect, radius: f32, inner: Option<f32>, colour: Colour) {
        if radius <= 0.0 {
            return;
        }
        let Rect { x, y, w, h } = rect;
        let centres = [
            (x + radius, y + radius, -1.0, -1.0),
            (x + w - radius, y + radius, 1.0, -1.0),
            (x + radius, y + h - radius, -1.0, 1.0),
            (x + w - radius, y + h - radius, 1.0, 1.0),
        ];
        for (cx, cy, right, down) in centres {
            let mut path = PathBuilder::new();
            let k = radius * 0.552_285;
            path.move_to(cx + right * radius, cy);
            path.cubic_to(cx + right * radius, cy + down * k, cx + right * k, cy + down * radius, cx, cy + down * radius);
            match inner.filter(|inner| *inner > 0.0) {
                Some(inner) => {
                    let k = inner * 0.552_285;
                    path.line_to(cx, cy + down * inner);
                    path.cubic_to(cx + right * k, cy + down * inner, cx + right * inner, cy + down * k, cx + right * inner, cy);
                }
                None => path.line_to(cx, cy),
            }
            path.close();
            if let Some(path) = path.finish() {
                self.pixels.fill_path(&path, &paint(colour), FillRule::Winding, Transform::identity(), None);
            }
        }
    }

    /// An opaque box on whole pixels: rows of one value.
    fn fill_rows(&mut self, rect: Rect, colour: Colour) {
        let (width, height) = (self.width() as i64, self.height() as i64);
        let (left, right) = ((rect.x as i64).clamp(0, width), ((rect.x + rect.w) as i64).clamp(0, width));
        let (top, bottom) = ((rect.y as i64).clamp(0, height), ((rect.y + rect.h) as i64).clamp(0, height));
        let pixel = tiny_skia::ColorU8::from_rgba(colour.r, colour.g, colour.b, 255).premultiply();
        let pixels = self.pixels.pixels_mut();
        for y in top..bottom {
            pixels[(y * width + left) as usize..(y * width + right) as usize].fill(pixel);
        }
    }

    fn text(&mut self, (x, y): (f32, f32), text: &str, face: &jovrik_core::scene::Face, colour: Colour, fonts: &mut Fonts) {
        let line = fonts.line(text, face);
        let (x, y) = (x.round() as i32, (y + line.baseline).round() as i32);
        for glyph in &line.glyphs {
            let Some(image) = fonts.image(glyph.key) else { continue };
            let place = image.placement;
            let (left, top) = (x + glyph.x + place.left, y + glyph.y - place.top);
            let (w, h) = (place.width as i32, place.height as i32);
            let one = match image.content {
                cosmic_text::SwashContent::Mask => 1,
                cosmic_text::SwashContent::Color | cosmic_text::SwashContent::SubpixelMask => 4,
            };
            for row in 0..h {
                for column in 0..w {
                    let at = ((row * w + column) * one) as usize;
                    let (px, py) = (left + column, top + row);
                    if px < 0 || py < 0 || px >= self.width() as i32 || py >= self.height() as i32 {
                        continue;
                    }
                    let Some(bytes) = image.data.get(at..at + one as usize) else { continue };
                    match *bytes {
                        [mask] if mask > 0 => self.blend(px as u32, py as u32, colour, f32::from(mask) / 255.0),
                        [r, g, b, a] if a > 0 => self.blend(px as u32, py as u32, Colour { r, g, b, a }, 1.0),
                        _ => {}
                    }
                }
            }
        }
    }

    /// Puts a colour over one pixel.
    pub(crate) fn blend(&mut self, x: u32, y: u32, colour: Colour, cover: f32) {
        let at = (y * self.pixels.width() + x) as usize;
        let alpha = (f32::from(colour.a) * cover + 0.5) as u32;
        let Some(below) = self.pixels.pixels_mut().get_mut(at) else { return };
        let mix = |top: u8, bottom: u8| ((u32::from(top) * alpha + u32::from(bottom) * (255 - alpha) + 127) / 255) as u8;
        let a = (alpha + u32::from(below.alpha()) * (255 - alpha) / 255).min(255) as u8;
        let (r, g, b) = (mix(colour.r, below.red()), mix(colour.g, below.green()), mix(colour.b, below.blue()));
        if let Some(pixel) = tiny_skia::PremultipliedColorU8::from_rgba(r.min(a), g.min(a), b.min(a), a) {
            *below = pixel;
        }
    }

    /// Copies an area of another canvas that begins at `from` onto this one's top left corner.
    pub fn copy_from(&mut self, other: &Canvas, from: (i32, i32)) {
        let (width, other_width) = (self.width() as usize, other.width() as usize);
        for y in 0..self.height() as i32 {
            let source_y = y + from.1;
            if source_y < 0 || source_y >= other.height() as i32 {
                continue;
            }
            let start = from.0.clamp(0, other_width as i32) as usize;
            let skipped = (start as i32 - from.0).max(0) as usize;
            let len = width.saturating_sub(skipped).min(other_width - start);
            let to = y as usize * width + skipped;
            let source = source_y as usize * other_width + start;
            self.pixels.pixels_mut()[to..to + len].copy_from_slice(&other.pixels.pixels()[source..source + len]);
        }
    }
}

/// Whether a box and its corners lie on whole pixels.
fn on_grid(rect: Rect, radius: f32) -> bool {
    [rect.x, rect.y, rect.w, rect.h, radius].iter().all(|value| value.fract() == 0.0)
}

fn paint(colour: Colour) -> Paint<'static> {
    let mut paint = Paint { anti_alias: true, ..Paint::default() };
    paint.set_color(Color::from_rgba8(colour.r, colour.g, colour.b, colour.a));
    paint
}

/// How far from the origin the rasteriser can be trusted, in pixels.
const FAR: f32 = 100_000.0;

fn near(values: &[f32]) -> bool {
    values.iter().all(|value| value.abs() <= FAR)
}

/// A path for the rasteriser; none when a point lies beyond all screens.
fn path_of(steps: &[Step]) -> Option<tiny_skia::Path> {
    let fair = steps.iter().all(|step| match *step {
        Step::Move(x, y) | Step::Line(x, y) => near(&[x, y]),
        Step::Curve(a, b, c, d, x, y) => near(&[a, b, c, d, x, y]),
        Step::Close => true,
    });
    if !fair {
        return None;
    }
    let mut path = PathBuilder::new();
    for step in steps {
        match *step {
            Step::Move(x, y) => path.move_to(x, y),
            Step::Line(x, y) => path.line_to(x, y),
            Step::Curve(a, b, c, d, x, y) => path.cubic_to(a, b, c, d, x, y),
            Step::Close => path.close(),
        }
    }
    path.finish()
}

/// A box with round corners: quarter circles as cubics.
fn rounded(rect: Rect, radius: f32) -> Option<tiny_skia::Path> {
    let Rect { x, y, w, h } = rect;
    if w <= 0.0 || h <= 0.0 || !near(&[x, y, w, h, radius]) {
        return None;
    }
    let r = radius.min(w / 2.0).min(h / 2.0);
    if r <= 0.0 {
        return Some(PathBuilder::from_rect(tiny_skia::Rect::from_xywh(x, y, w, h)?));
    }
    let k = r * 0.447_715;
    let mut path = PathBuilder::new();
    path.move_to(x + r, y);
    path.line_to(x + w - r, y);
    path.cubic_to(x + w - k, y, x + w, y + k, x + w, y + r);
    path.line_to(x + w, y + h - r);
    path.cubic_to(x + w, y + h - k, x + w - k, y + h, x + w - r, y + h);
    path.line_to(x + r, y + h);
    path.cubic_to(x + k, y + h, x, y + h - k, x, y + h - r);
    path.line_to(x, y + r);
    path.cubic_to(x, y + k, x + k, y, x + r, y);
    path.close();
    path.finish()
}
