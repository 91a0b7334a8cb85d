//! The main colours of a picture.

use std::path::Path;

use jovrik_core::colour::{Cluster, clusters};
use jovrik_schema::Colour;

use crate::decode::read_picture;
use crate::pictures::PictureError;

/// How many main colours are looked for.
const COLOURS: usize = 12;
/// Pictures are looked at in about so many points.
const POINTS: u64 = 60_000;

/// The longer side that pictures are looked at with, in pixels.
const SIDE: u32 = 2048;

/// The main colours of a picture in a file, the most frequent first.
///
/// # Errors
///
/// When it cannot be read, or nothing of it can be seen.
pub fn main_colours(file: &Path) -> Result<Vec<Cluster>, PictureError> {
    let picture = read_picture(file, SIDE)?;
    let all = u64::from(picture.width()) * u64::from(picture.height());
    let pixels = picture.pixels().step_by((all / POINTS).max(1) as usize).map(|pixel| {
        let [r, g, b, a] = pixel.0;
        Colour { r, g, b, a }
    });
    let found = clusters(pixels, COLOURS);
    if found.is_empty() { Err(PictureError::Unseen) } else { Ok(found) }
}
