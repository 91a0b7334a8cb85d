//! Rounded boxes and their borders, in one colour or a gradient, by how much of each pixel they cover.

use jovrik_core::scene::CornerRadii;
use jovrik_schema::Colour;
use jovrik_values::{Fill, Gradient, Rect};

use crate::Canvas;

/// How far a point is from a rounded box; negative inside.
pub(crate) fn distance(x: f32, y: f32, rect: Rect, radius: CornerRadii) -> f32 {
    let (half_w, half_h) = (rect.w / 2.0, rect.h / 2.0);
    let (dx, dy) = (x - rect.x - half_w, y - rect.y - half_h);
    let corner = match (dx < 0.0, dy < 0.0) {
        (true, true) => radius[0],
        (false, true) => radius[1],
        (false, false) => radius[2],
        (true, false) => radius[3],
    };
    let qx = dx.abs() - half_w + corner;
    let qy = dy.abs() - half_h + corner;
    // Beside a straight edge it is how far that is; only round a corner it takes a root.
    if qx <= 0.0 || qy <= 0.0 { qx.max(qy) - corner } else { (qx * qx + qy * qy).sqrt() - corner }
}

/// How much of a pixel a box covers.
fn cover(x: f32, y: f32, rect: Rect, radius: CornerRadii) -> f32 {
    (0.5 - distance(x, y, rect, radius)).clamp(0.0, 1.0)
}

/// Corners that fit a box: two that share a side are no longer than it.
pub(crate) fn fitted(rect: Rect, radius: CornerRadii) -> CornerRadii {
    let most = rect.w.min(rect.h) / 2.0;
    radius.map(|radius| radius.clamp(0.0, most.max(0.0)))
}

/// A colour with its opacity, as it is stored: premultiplied.
type Pixel = [u8; 4];

fn premultiplied(colour: Colour) -> Pixel {
    let by = |channel: u8| ((u16::from(channel) * u16::from(colour.a) + 127) / 255) as u8;
    [by(colour.r), by(colour.g), by(colour.b), colour.a]
}

/// Steps of a gradient that are kept: more than the eye or 8 bits can tell apart.
const STEPS: usize = 1024;

/// What each pixel is filled with: colours along a line, one where all are alike, and the place of a pixel on it,
/// `x * across + y * down + from`, from 0 to 1.
struct Ink {
    pixels: Vec<Pixel>,
    across: f32,
    down: f32,
    from: f32,
    /// Nothing shows through any of them.
    opaque: bool,
}

impl Ink {
    fn of(fill: &Fill, rect: Rect) -> Ink {
        let ink = |pixels: Vec<Pixel>, across: f32, down: f32, from: f32| {
            let opaque = pixels.iter().all(|pixel| pixel[3] == 255);
            Ink { pixels, across, down, from, opaque }
        };
        match fill {
            Fill::Plain(colour) => ink(vec![premultiplied(*colour)], 0.0, 0.0, 0.0),
            Fill::Gradient(gradient) => {
                // CSS Images 3, 3.1.1: the line is as long as makes the corners have the first and the last colour.
                let (sin, cos) = gradient.angle.to_radians().sin_cos();
                let length = (rect.w * sin).abs() + (rect.h * cos).abs();
                let length = length.max(1.0);
                let (across, down) = (sin / length, -cos / length);
                let (cx, cy) = (rect.x + rect.w / 2.0, rect.y + rect.h / 2.0);
                ink(ramp(gradient), across, down, 0.5 - cx * across - cy * down)
            }
        }
    }

    /// How many steps there are after the first one.
    fn last(&self) -> usize {
        self.pixels.len() - 1
    }

    /// Fills a row of pixels from a place on.
    fn along(&self, run: &mut [u8], x: f32, y: f32, cover: u32) {
        let (run, covers) = (run.as_chunks_mut::<4>().0, cover == 255 && self.opaque);
        if let Some(pixel) = self.row(y) {
            match covers {
                true => run.fill(pixel),
                false => run.iter_mut().for_each(|below| over(below, pixel, cover)),
            }
            return;
        }
        // In steps of whole numbers: a gradient is straight.
        const ONE: f32 = 65_536.0;
        let steps = self.last() as f32;
        let mut place = (((x * self.across + y * self.down + self.from) * steps + 0.5) * ONE) as i64;
        let step = (self.across * steps * ONE) as i64;
        for below in run {
            let pixel = self.pixels[(place >> 16).clamp(0, self.last() as i64) as usize];
            match covers {
                true => *below = pixel,
                false => over(below, pixel, cover),
            }
            place += step;
        }
    }

    /// What all pixels of a row are filled with, where they are alike.
    fn row(&self, y: f32) -> Option<Pixel> {
        (self.across.abs() < 1e-9).then(|| self.at(0.0, y))
    }

    fn at(&self, x: f32, y: f32) -> Pixel {
        let place = (x * self.across + y * self.down + self.from).clamp(0.0, 1.0);
        self.pixels[(place * self.last() as f32 + 0.5) as usize]
    }
}

/// The colours of a gradient in even steps, mixed with their opacity (CSS Images 3, 3.4.2).
fn ramp(gradient: &Gradient) -> Vec<Pixel> {
    let stops = &gradient.stops;
    let one = |step: usize| {
        let place = step as f32 / (STEPS - 1) as f32;
        let after = stops.iter().position(|(at, _)| *at > place).unwrap_or(stops.len());
        let (before, after) = (stops[after.max(1) - 1], stops[after.min(stops.len() - 1)]);
        let span = after.0 - before.0;
        let part = if span > 0.0 { ((place - before.0) / span).clamp(0.0, 1.0) } else { 0.0 };
        let (a, b) = (premultiplied(before.1), premultiplied(after.1));
        let mix = |at: usize| (f32::from(a[at]) + (f32::from(b[at]) - f32::from(a[at])) * part + 0.5) as u8;
        [mix(0), mix(1), mix(2), mix(3)]
    };
    (0..STEPS).map(one).collect()
}

/// Puts a pixel over another; `cover` from 0 to 255.
fn over(below: &mut Pixel, top: Pixel, cover: u32) {
    if cover == 255 && top[3] == 255 {
        *below = top;
        return;
    }
    let through = 255 - u32::from(top[3]) * cover / 255;
    for (below, top) in below.iter_mut().zip(top) {
        *below = ((u32::from(top) * cover + u32::from(*below) * through + 127) / 255).min(255) as u8;
    }
}

/// Fills a rounded box, or, with a width, the ring along its edge.
pub(crate) fn fill_box(canvas: &mut Canvas, rect: Rect, radius: CornerRadii, ring: Option<f32>, fill: &Fill) {
    let sane = [rect.x, rect.y, rect.w, rect.h].iter().all(|value| value.is_finite() && value.abs() <= 100_000.0);
    if !sane || rect.w <= 0.0 || rect.h <= 0.0 || fill.is_none() {
        return;
    }
    let (width, height) = (canvas.width() as i32, canvas.height() as i32);
    let left = (rect.x.floor() as i32).clamp(0, width);
    let right = ((rect.x + rect.w).ceil() as i32).clamp(0, width);
    let top = (rect.y.floor() as i32).clamp(0, height);
    let bottom = ((rect.y + rect.h).ceil() as i32).clamp(0, height);
    if left >= right || top >= bottom {
        return;
    }
    let radius = fitted(rect, radius);
    let inner = ring.map(|width| (rect.grown(-width), radius.map(|radius| (radius - width).max(0.0))));
    let inner = inner.filter(|(inner, _)| inner.w > 0.0 && inner.h > 0.0);
    let ink = Ink::of(fill, rect);
    let covered = |x: f32, y: f32| match inner.map_or(0.0, |(inner, radius)| cover(x, y, inner, radius)) {
        hole if hole >= 1.0 => 0.0,
        hole => (cover(x, y, rect, radius) - hole).max(0.0),
    };
    // Beyond the corners and the ring, all pixels of a row are covered alike, and all rows are alike.
    let edge = radius.iter().fold(ring.unwrap_or(0.0), |most, radius| most.max(*radius)).ceil() + 1.0;
    let (from_x, to_x) = (((rect.x + edge).ceil() as i32).clamp(left, right), ((rect.x + rect.w - edge).floor() as i32));
    let to_x = to_x.clamp(from_x, right);
    let (from_y, to_y) = ((rect.y + edge).ceil() as i32, (rect.y + rect.h - edge).floor() as i32);
    // What is covered of a row at its ends, and between them.
    let row_covers = |y: i32, ends: &mut Vec<(i32, u32)>| -> u32 {
        let at = |x: i32| (covered(x as f32 + 0.5, y as f32 + 0.5) * 255.0 + 0.5) as u32;
        ends.clear();
        ends.extend((left..from_x).chain(to_x..right).map(|x| (x, at(x))).filter(|(_, cover)| *cover > 0));
        if to_x > from_x { at((from_x + to_x) / 2) } else { 0 }
    };
    let mut ends = Vec::with_capacity((from_x - left + right - to_x) as usize);
    // The row that is known, or any between the corners.
    let (mut between, mut middle) = (0, false);
    let bytes = canvas.bytes_mut();
    for y in top..bottom {
        let inside = y >= from_y && y < to_y;
        if !inside || !middle {
            between = row_covers(y, &mut ends);
        }
        middle = inside;
        let row = &mut bytes[(y * width * 4) as usize..((y + 1) * width * 4) as usize];
        let pixels = row.as_chunks_mut::<4>().0;
        let alike = ink.row(y as f32 + 0.5);
        for (x, cover) in &ends {
            let pixel = alike.unwrap_or_else(|| ink.at(*x as f32 + 0.5, y as f32 + 0.5));
            over(&mut pixels[*x as usize], pixel, *cover);
        }
        if between > 0 && to_x > from_x {
            let run = &mut row[from_x as usize * 4..to_x as usize * 4];
            ink.along(run, from_x as f32 + 0.5, y as f32 + 0.5, between);
        }
    }
}
