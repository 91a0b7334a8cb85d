//! A scene to pixels.

use std::ops::Range;

use jovrik_core::scene::{PathSegment, Primitive, Scene, TextRotation, TextStyle};
use jovrik_schema::Colour;
use jovrik_values::Rect;
use tiny_skia::{Color, FillRule, LineCap, LineJoin, Paint, PathBuilder, Pixmap, Stroke, StrokeDash, Transform};

use crate::Brush;
use crate::boxes::fill_box;
use crate::fonts::Fonts;
use crate::glow::glow;
use crate::pictures::Fitted;

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

    /// A canvas of bytes as [`Canvas::bytes`] gives them; `None` where they are too few or too many.
    pub fn of_bytes(width: u32, height: u32, bytes: Vec<u8>) -> Option<Canvas> {
        let size = tiny_skia::IntSize::from_wh(width, height)?;
        Pixmap::from_vec(bytes, size).map(|pixels| Canvas { pixels })
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

    pub(crate) fn bytes_mut(&mut self) -> &mut [u8] {
        self.pixels.data_mut()
    }

    /// Draws a scene whose point `origin` is the canvas's top left corner.
    pub fn draw(&mut self, scene: &Scene, origin: (f32, f32), brush: &mut Brush) {
        for item in &scene.items {
            self.item(item, origin, brush);
        }
    }

    fn item(&mut self, item: &Primitive, (ox, oy): (f32, f32), brush: &mut Brush) {
        let moved = |rect: &Rect| Rect { x: rect.x - ox, y: rect.y - oy, ..*rect };
        let transform = Transform::from_translate(-ox, -oy);
        match item {
            Primitive::Fill { rect, radius, fill } => fill_box(self, moved(rect), *radius, None, fill),
            Primitive::Border { rect, radius, width, fill } => fill_box(self, moved(rect), *radius, Some(*width), fill),
            Primitive::Glow { rect, radius, width, colour } => glow(self, moved(rect), *radius, *width, *colour),
            Primitive::Stroke { path, width, colour, dash } => {
                let Some(path) = path_of(path) else { return };
                let dash = dash.and_then(|(on, off)| StrokeDash::new(vec![on, off], 0.0));
                // Round ends of a hairline are seen by nobody, and cost as much as the line.
                let cap = if *width > 1.0 { LineCap::Round } else { LineCap::Butt };
                let stroke = Stroke { width: *width, line_cap: cap, line_join: LineJoin::Round, dash, ..Stroke::default() };
                self.pixels.stroke_path(&path, &paint(*colour), &stroke, transform, None);
            }
            Primitive::Shape { path, colour } => {
                let Some(path) = path_of(path) else { return };
                self.pixels.fill_path(&path, &paint(*colour), FillRule::Winding, transform, None);
            }
            Primitive::Text { x, y, text, face, colour, turn } => {
                self.text((x - ox, y - oy), text, face, *colour, *turn, &mut brush.fonts);
            }
            Primitive::Picture { rect, path, fit, otherwise } => match brush.pictures.fitted(path, *rect, *fit) {
                Some(fitted) => self.picture(moved(rect), &fitted),
                None => otherwise.iter().for_each(|item| self.item(item, (ox, oy), brush)),
            },
        }
    }

    fn text(&mut self, (x, y): (f32, f32), text: &str, face: &TextStyle, colour: Colour, turn: TextRotation, fonts: &mut Fonts) {
        let line = fonts.line(text, face);
        if face.underline {
            let thick = (face.points / 11.0).round().max(1.0);
            let below = (line.baseline + thick + 1.0).round();
            let rect = match turn {
                TextRotation::None => Rect::new(x.round(), (y + below).round(), line.width.round(), thick),
                TextRotation::Up => Rect::new((x + below).round(), (y - line.width).round(), thick, line.width.round()),
                TextRotation::Down => Rect::new((x - below - thick).round(), y.round(), thick, line.width.round()),
            };
            fill_box(self, rect, [0.0; 4], None, &colour.into());
        }
        // The line's own places: along it, and across it from its middle.
        let down = line.baseline.round() as i32;
        let (x, y) = (x.round() as i32, y.round() as i32);
        for glyph in &line.glyphs {
            let Some(image) = fonts.image(glyph.key) else { continue };
            let place = image.placement;
            let (left, top) = (glyph.x + place.left, down + glyph.y - place.top);
            let (w, h) = (place.width as i32, place.height as i32);
            let one = match image.content {
                cosmic_text::SwashContent::Mask => 1,
                cosmic_text::SwashContent::Color | cosmic_text::SwashContent::SubpixelMask => 4,
            };
            for row in 0..h {
                for column in 0..w {
                    let at = ((row * w + column) * one) as usize;
                    let (along, across) = (left + column, top + row);
                    let (px, py) = match turn {
                        TextRotation::None => (x + along, y + across),
                        TextRotation::Up => (x + across, y - 1 - along),
                        TextRotation::Down => (x - 1 - across, y + along),
                    };
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

    fn picture(&mut self, rect: Rect, fitted: &Fitted) {
        let (width, height) = (i64::from(self.width()), i64::from(self.height()));
        let (x, y) = (rect.x.round() as i64, rect.y.round() as i64);
        let (right, bottom) = ((rect.x + rect.w).round() as i64, (rect.y + rect.h).round() as i64);
        let (own_w, own_h) = (i64::from(fitted.pixels.width()), i64::from(fitted.pixels.height()));
        let bytes = self.pixels.data_mut();
        for py in y.max(0)..bottom.min(height) {
            for px in x.max(0)..right.min(width) {
                let (mut fx, mut fy) = (px - x - fitted.at.0, py - y - fitted.at.1);
                if fitted.tiled {
                    (fx, fy) = (fx.rem_euclid(own_w), fy.rem_euclid(own_h));
                }
                if fx < 0 || fy < 0 || fx >= own_w || fy >= own_h {
                    continue;
                }
                let image::Rgba([r, g, b, a]) = *fitted.pixels.get_pixel(fx as u32, fy as u32);
                let at = ((py * width + px) * 4) as usize;
                if a == 255 {
                    bytes[at..at + 4].copy_from_slice(&[r, g, b, a]);
                } else if a > 0 {
                    let through = 255 - u32::from(a);
                    for (below, top) in bytes[at..at + 4].iter_mut().zip([r, g, b, 255]) {
                        *below = ((u32::from(top) * u32::from(a) + u32::from(*below) * through + 127) / 255) as u8;
                    }
                }
            }
        }
    }

    /// Puts a colour over one pixel, of which it covers a part.
    pub(crate) fn blend(&mut self, x: u32, y: u32, colour: Colour, cover: f32) {
        self.blend_run(x..x + 1, y, colour, alpha(colour, cover));
    }

    /// Puts a colour over pixels of a row, as opaque as [`alpha`] says.
    pub(crate) fn blend_run(&mut self, across: Range<u32>, y: u32, colour: Colour, alpha: u32) {
        let row = (y * self.pixels.width()) as usize;
        let run = (row + across.start as usize) * 4..(row + across.end as usize) * 4;
        let Some(run) = self.bytes_mut().get_mut(run) else { return };
        let through = 255 - alpha;
        let top = [colour.r, colour.g, colour.b].map(|channel| u32::from(channel) * alpha + 127);
        for below in run.as_chunks_mut::<4>().0 {
            let [r, g, b, a] = below.map(u32::from);
            let a = (alpha + a * through / 255).min(255);
            let mix = |top: u32, below: u32| ((top + below * through) / 255).min(a);
            *below = [mix(top[0], r), mix(top[1], g), mix(top[2], b), a].map(|channel| channel as u8);
        }
    }

    /// A picture's pixels.
    pub fn of_picture(picture: &image::RgbaImage) -> Option<Canvas> {
        let mut canvas = Canvas::new(picture.width(), picture.height())?;
        let rect = Rect::new(0.0, 0.0, picture.width() as f32, picture.height() as f32);
        let fitted = Fitted { pixels: std::rc::Rc::new(picture.clone()), at: (0, 0), tiled: false };
        canvas.picture(rect, &fitted);
        Some(canvas)
    }

    /// The same picture, at most so wide.
    pub fn shrunk(&self, width: u32) -> Option<Canvas> {
        if width >= self.width() {
            return Some(self.clone());
        }
        let height = (u64::from(self.height()) * u64::from(width) / u64::from(self.width())).max(1) as u32;
        let picture = image::RgbaImage::from_raw(self.width(), self.height(), self.bytes().to_vec())?;
        Canvas::of_picture(&image::imageops::resize(&picture, width, height, image::imageops::FilterType::Triangle))
    }

    /// Copies a whole canvas onto this one, its top left corner at a place.
    pub fn paste(&mut self, other: &Canvas, (x, y): (u32, u32)) {
        let width = other.width().min(self.width().saturating_sub(x)) as usize * 4;
        for row in 0..other.height().min(self.height().saturating_sub(y)) {
            let to = ((y + row) * self.width() + x) as usize * 4;
            let from = (row * other.width()) as usize * 4;
            self.pixels.data_mut()[to..to + width].copy_from_slice(&other.bytes()[from..from + width]);
        }
    }

    /// A part of this canvas, so wide and high; clear where it reaches beyond. `None` where there is no room for it.
    pub fn cut(&self, (x, y): (i32, i32), width: u32, height: u32) -> Option<Canvas> {
        let clamped = |from: i32, long: u32, most: u32| {
            let to = i64::from(from) + i64::from(long);
            from.clamp(0, most as i32) as usize..to.clamp(0, i64::from(most)) as usize
        };
        let (across, down) = (clamped(x, width, self.width()), clamped(y, height, self.height()));
        let row = |y: usize| {
            let start = y * self.width() as usize;
            &self.bytes()[(start + across.start) * 4..(start + across.end) * 4]
        };
        if (across.len(), down.len()) == (width as usize, height as usize) && width > 0 && height > 0 {
            let mut bytes = Vec::with_capacity(across.len() * down.len() * 4);
            down.for_each(|y| bytes.extend_from_slice(row(y)));
            return Canvas::of_bytes(width, height, bytes);
        }
        let mut cut = Canvas::new(width, height)?;
        if across.is_empty() || down.is_empty() {
            return Some(cut);
        }
        let (left, top) = (across.start as i32 - x, down.start as i32 - y);
        for (nth, y) in down.enumerate() {
            let to = ((top as usize + nth) * cut.width() as usize + left as usize) * 4;
            cut.bytes_mut()[to..to + across.len() * 4].copy_from_slice(row(y));
        }
        Some(cut)
    }

    /// Its pixels as screens take them, a number of 32 bits each: opacity, red, green and blue from the highest to the lowest byte;
    /// in which order the bytes of a number lie is said by `low_first`.
    pub fn into_numbers(self, low_first: bool) -> Vec<u8> {
        let mut bytes = self.pixels.take();
        // One number a pixel: whole registers of them are turned at once.
        for pixel in bytes.as_chunks_mut::<4>().0 {
            let [r, g, b, a] = pixel.map(u32::from);
            let number = a << 24 | r << 16 | g << 8 | b;
            *pixel = if low_first { number.to_le_bytes() } else { number.to_be_bytes() };
        }
        bytes
    }
}

/// How opaque a colour is where it covers a part of a pixel, from 0 to 255.
pub(crate) fn alpha(colour: Colour, cover: f32) -> u32 {
    (f32::from(colour.a) * cover + 0.5) as u32
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
fn path_of(steps: &[PathSegment]) -> Option<tiny_skia::Path> {
    let fair = steps.iter().all(|step| match *step {
        PathSegment::Move(x, y) | PathSegment::Line(x, y) => near(&[x, y]),
        PathSegment::Curve(a, b, c, d, x, y) => near(&[a, b, c, d, x, y]),
        PathSegment::Close => true,
    });
    if !fair {
        return None;
    }
    let mut path = PathBuilder::new();
    for step in steps {
        match *step {
            PathSegment::Move(x, y) => path.move_to(x, y),
            PathSegment::Line(x, y) => path.line_to(x, y),
            PathSegment::Curve(a, b, c, d, x, y) => path.cubic_to(a, b, c, d, x, y),
            PathSegment::Close => path.close(),
        }
    }
    path.finish()
}
