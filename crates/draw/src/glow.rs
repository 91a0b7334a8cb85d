//! The soft edge round a box, by the distance of each pixel from it.

use jovrik_core::rice::Colour;
use jovrik_core::scene::Rect;

use crate::Canvas;
use crate::boxes::distance;

pub(crate) fn glow(canvas: &mut Canvas, rect: Rect, radius: f32, width: f32, colour: Colour) {
    let outer = rect.grown(width);
    let (left, top) = (outer.x.floor().max(0.0) as i32, outer.y.floor().max(0.0) as i32);
    let right = (outer.x + outer.w).ceil().min(canvas.width() as f32) as i32;
    let bottom = (outer.y + outer.h).ceil().min(canvas.height() as f32) as i32;
    // Between the rounded corners the inside needs no look.
    let (skip_from, skip_to) = ((rect.x + radius).ceil() as i32, (rect.x + rect.w - radius).floor() as i32);
    let (inner_top, inner_bottom) = ((rect.y + radius).ceil() as i32, (rect.y + rect.h - radius).floor() as i32);
    for y in top..bottom {
        let middle = y >= inner_top && y < inner_bottom;
        let inside_rows = y as f32 >= rect.y && (y as f32) < rect.y + rect.h;
        let mut x = left;
        while x < right {
            if middle && x as f32 >= rect.x && (x as f32) < rect.x + rect.w {
                x = (rect.x + rect.w).ceil() as i32;
                continue;
            }
            if inside_rows && x >= skip_from && x < skip_to {
                x = skip_to.max(x + 1);
                continue;
            }
            let away = distance(x as f32 + 0.5, y as f32 + 0.5, rect, [radius; 4]);
            if away > 0.0 && away < width {
                let fade = 1.0 - away / width;
                canvas.blend(x as u32, y as u32, colour, fade * fade);
            }
            x += 1;
        }
    }
}
