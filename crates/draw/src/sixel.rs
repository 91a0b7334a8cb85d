//! A canvas as sixels, the picture format of terminals (DEC STD 070): bands of six rows, a run of characters a colour.

use std::collections::HashMap;
use std::fmt::Write;

use color_quant::NeuQuant;

use crate::Canvas;

/// The most colours that terminals promise to keep.
const COLOURS: usize = 255;

/// Each pixel's place in a list of colours, and the list.
fn counted(canvas: &Canvas) -> (Vec<usize>, Vec<[u8; 3]>) {
    let mut known: HashMap<[u8; 3], usize> = HashMap::new();
    let mut colours = Vec::new();
    let pixels = canvas.bytes().as_chunks::<4>().0;
    let mut places = Vec::with_capacity(pixels.len());
    for [r, g, b, _] in pixels {
        let place = *known.entry([*r, *g, *b]).or_insert_with(|| {
            colours.push([*r, *g, *b]);
            colours.len() - 1
        });
        places.push(place);
    }
    if colours.len() <= COLOURS {
        return (places, colours);
    }
    // Too many: the nearest of those that stand for all. Each colour is looked up once.
    let quant = NeuQuant::new(10, COLOURS, canvas.bytes());
    let stands: Vec<usize> = colours.iter().map(|[r, g, b]| quant.index_of(&[*r, *g, *b, 255])).collect();
    let map = quant.color_map_rgb();
    let few = map.as_chunks::<3>().0.to_vec();
    (places.into_iter().map(|place| stands[place]).collect(), few)
}

/// A picture for a terminal that shows sixels.
pub fn sixels(canvas: &Canvas) -> String {
    let (width, height) = (canvas.width() as usize, canvas.height() as usize);
    let (places, colours) = counted(canvas);
    let mut out = format!("\x1bPq\"1;1;{width};{height}");
    for (nth, colour) in colours.iter().enumerate() {
        let percent = colour.map(|channel| (u32::from(channel) * 100 + 127) / 255);
        let _ = write!(out, "#{nth};2;{};{};{}", percent[0], percent[1], percent[2]);
    }
    for top in (0..height).step_by(6) {
        // Which of the six rows of each column have a colour, as bits.
        let mut bands: HashMap<usize, Vec<u8>> = HashMap::new();
        for row in top..(top + 6).min(height) {
            for (column, place) in places[row * width..(row + 1) * width].iter().enumerate() {
                bands.entry(*place).or_insert_with(|| vec![0; width])[column] |= 1 << (row - top);
            }
        }
        let mut order: Vec<usize> = bands.keys().copied().collect();
        order.sort_unstable();
        for (nth, place) in order.iter().enumerate() {
            let _ = write!(out, "{}#{place}", if nth > 0 { "$" } else { "" });
            let bits = &bands[place];
            for run in bits.chunk_by(|a, b| a == b) {
                let letter = char::from(63 + run[0]);
                match run.len() {
                    len @ 4.. => {
                        let _ = write!(out, "!{len}{letter}");
                    }
                    len => out.extend(std::iter::repeat_n(letter, len)),
                }
            }
        }
        out.push('-');
    }
    out.push_str("\x1b\\");
    out
}

#[cfg(test)]
mod tests {
    use jovrik_core::scene::Scene;
    use jovrik_schema::Colour;
    use jovrik_values::Rect;

    use super::*;
    use crate::{Brush, FontPlaces};

    #[test]
    fn bands_of_six_rows_say_each_colour_in_runs() {
        let mut canvas = Canvas::new(10, 7).expect("a size");
        let mut scene = Scene::default();
        scene.fill(Rect::new(0.0, 0.0, 10.0, 7.0), 0.0, Colour { r: 255, g: 0, b: 0, a: 255 });
        scene.fill(Rect::new(0.0, 0.0, 2.0, 1.0), 0.0, Colour { r: 0, g: 0, b: 255, a: 255 });
        canvas.draw(&scene, (0.0, 0.0), &mut Brush::new(FontPlaces::default(), std::path::Path::new("")));
        let text = sixels(&canvas);
        assert_eq!(text, "\x1bPq\"1;1;10;7#0;2;0;0;100#1;2;100;0;0#0@@!8?$#1}}!8~-#1!10@-\x1b\\", "{}", text.escape_debug());
    }

    #[test]
    fn a_picture_of_many_colours_is_told_with_few() {
        let mut canvas = Canvas::new(64, 64).expect("a size");
        for (nth, pixel) in canvas.bytes_mut().as_chunks_mut::<4>().0.iter_mut().enumerate() {
            *pixel = [(nth % 64 * 4) as u8, (nth / 64 * 4) as u8, 128, 255];
        }
        let text = sixels(&canvas);
        assert!(text.matches(";2;").count() <= COLOURS && text.ends_with("-\x1b\\"));
    }
}
