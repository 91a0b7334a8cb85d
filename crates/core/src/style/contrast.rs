//! Contrast by WCAG 2 (1.4.3, and the definition of relative luminance).

use jovrik_schema::Colour;
use jovrik_values::Fill;

use crate::scene::TextStyle;

/// The least contrast of text.
pub const MIN_TEXT_CONTRAST: f64 = 4.5;
/// The least contrast of large text.
pub const MIN_LARGE_TEXT_CONTRAST: f64 = 3.0;

fn luminance(colour: Colour) -> f64 {
    let channel = |value: u8| {
        let value = f64::from(value) / 255.0;
        if value <= 0.04045 { value / 12.92 } else { ((value + 0.055) / 1.055).powf(2.4) }
    };
    0.2126 * channel(colour.r) + 0.7152 * channel(colour.g) + 0.0722 * channel(colour.b)
}

/// The contrast of two opaque colours, from 1 to 21.
pub fn contrast(a: Colour, b: Colour) -> f64 {
    let (a, b) = (luminance(a), luminance(b));
    (a.max(b) + 0.05) / (a.min(b) + 0.05)
}

/// The least contrast for a face: large text is 18 points, or 14 and bold.
pub fn least(face: &TextStyle) -> f64 {
    if face.points >= 18.0 || (face.bold && face.points >= 14.0) { MIN_LARGE_TEXT_CONTRAST } else { MIN_TEXT_CONTRAST }
}

/// The opaque colours that fills over each other come to, from below; of a gradient those of its stops.
pub fn under(fills: &[&Fill], ground: Colour) -> Vec<Colour> {
    let mut under = vec![Colour { a: 255, ..ground }];
    for fill in fills {
        let colours = fill.colours();
        under = under.iter().flat_map(|below| colours.iter().map(|(_, colour)| colour.over(*below))).collect();
        under.sort_unstable_by_key(|colour| (colour.r, colour.g, colour.b));
        under.dedup();
    }
    under
}

/// The worst contrast of an ink on some colours, and the colour where it is met.
pub fn worst(ink: Colour, under: &[Colour]) -> Option<(f64, Colour)> {
    let met = under.iter().map(|below| (contrast(ink.over(*below), *below), *below));
    met.min_by(|(a, _), (b, _)| a.total_cmp(b))
}
