//! The soft edge round a box, by the distance of each pixel from it.

use jovrik_schema::Colour;
use jovrik_values::Rect;

use crate::Canvas;
use crate::boxes::distance;
use crate::raster::alpha;

pub(crate) fn glow(canvas: &mut Canvas, rect: Rect, radius: f32, width: f32, colour: Colour) {
    let outer = rect.grown(width);
    let (left, top) = (outer.x.floor().max(0.0) as i32, outer.y.floor().max(0.0) as i32);
    let right = (outer.x + outer.w).ceil().min(canvas.width() as f32) as i32;
    let bottom = (outer.y + outer.h).ceil().min(canvas.height() as f32) as i32;
    if left >= right || top >= bottom {
        return;
    }
    // Between the rounded corners only the nearest side counts: along it all pixels are alike.
    let (from_x, to_x) = ((rect.x + radius).ceil() as i32, (rect.x + rect.w - radius).floor() as i32);
    let (from_y, to_y) = ((rect.y + radius).ceil() as i32, (rect.y + rect.h - radius).floor() as i32);
    let (from_x, to_x) = (from_x.clamp(left, right.max(left)), to_x.clamp(left, right.max(left)));
    let cover = |x: i32, y: i32| {
        let away = distance(x as f32 + 0.5, y as f32 + 0.5, rect, [radius; 4]);
        // Behind a pixel that the box covers in part it glows as at its edge.
        let fade = 1.0 - away.max(0.0) / width;
        if away > -0.5 && away < width { fade * fade } else { 0.0 }
    };
    // The two upright sides, as wide as they reach into the canvas.
    let sides = [(left, (rect.x.ceil() as i32).clamp(left, right.max(left))), ((rect.x + rect.w).floor() as i32, right)];
    let upright: Vec<(u32, u32)> = if from_y < to_y {
        let middle = (from_y + to_y) / 2;
        let all = sides.iter().flat_map(|(from, to)| *from.max(&left)..*to).map(|x| (x, cover(x, middle)));
        all.filter(|(_, cover)| *cover > 0.0).map(|(x, cover)| (x as u32, alpha(colour, cover))).collect()
    } else {
        Vec::new()
    };
    for y in top..bottom {
        if y >= from_y && y < to_y {
            upright.iter().for_each(|(x, alpha)| canvas.blend_run(*x..*x + 1, y as u32, colour, *alpha));
            continue;
        }
        for x in (left..from_x).chain(to_x.max(from_x)..right) {
            let cover = cover(x, y);
            if cover > 0.0 {
                canvas.blend(x as u32, y as u32, colour, cover);
            }
        }
        if from_x < to_x {
            let along = cover((from_x + to_x) / 2, y);
            if along > 0.0 {
                canvas.blend_run(from_x as u32..to_x as u32, y as u32, colour, alpha(colour, along));
            }
        }
    }
}
