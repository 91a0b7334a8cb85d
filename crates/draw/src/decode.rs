//! Pictures of strangers to pixels: never more of them in memory than is to be seen, and none without end.
//!
//! A PNG is read row by row, and shrunk while it is read. What can only be read whole (JPEG, interlaced PNG) is read as long as
//! it is not too large.

use std::fs::File;
use std::io::{BufReader, Seek};
use std::path::Path;
use std::rc::Rc;

use image::imageops::FilterType;
use image::{ImageReader, Limits, RgbaImage};
use jovrik_core::rice::Fit;
use jovrik_file::{in_words, open_file, open_inside};
use jovrik_text::limits;

use crate::pictures::{Fitted, PictureError};

/// What a PNG begins with.
const SIGNATURE: &[u8] = b"\x89PNG\r\n\x1a\n";

/// The part of a picture that is seen, and how it gets to its size there.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Cut {
    /// The corner of the part, in the picture.
    from: (u32, u32),
    /// Its size there.
    size: (u32, u32),
    /// Its size where it is shown.
    shown: (u32, u32),
    /// How many pixels of it in a row become one already while it is read.
    block: u32,
}

impl Cut {
    /// The part that a box shows of a picture of a size.
    fn of((own_w, own_h): (u32, u32), (w, h): (u32, u32), fit: Fit) -> Cut {
        let (own_w, own_h) = (own_w.max(1), own_h.max(1));
        let (across, down) = (f64::from(w) / f64::from(own_w), f64::from(h) / f64::from(own_h));
        let by = |scale: f64| {
            let size = |own: u32| (f64::from(own) * scale).round().clamp(1.0, 32_768.0) as u32;
            (size(own_w), size(own_h))
        };
        let middle = |size: (u32, u32)| ((own_w - size.0) / 2, (own_h - size.1) / 2);
        let seen = (own_w.min(w), own_h.min(h));
        let (from, size, shown) = match fit {
            Fit::Tile => ((0, 0), seen, seen),
            Fit::Centre => (middle(seen), seen, seen),
            Fit::Stretch => ((0, 0), (own_w, own_h), (w, h)),
            Fit::Contain => ((0, 0), (own_w, own_h), by(across.min(down))),
            Fit::Cover => {
                // Only what is seen is read: a strip has the height of a cover, and could have any width.
                let scale = across.max(down);
                let keep = |length: u32, own: u32| ((f64::from(length) / scale).round() as u32).clamp(1, own);
                let size = (keep(w, own_w), keep(h, own_h));
                (middle(size), size, (w, h))
            }
        };
        let block = (size.0 / shown.0.max(1)).min(size.1 / shown.1.max(1)).max(1);
        Cut { from, size, shown, block }
    }

    /// The size of what is read of it.
    fn read(&self) -> (u32, u32) {
        (self.size.0.div_ceil(self.block), self.size.1.div_ceil(self.block))
    }
}

/// Sums of blocks of pixels, by rows.
struct Blocks {
    cut: Cut,
    pixels: RgbaImage,
    /// R, G and B times A, A, and how many pixels, of each block of the rows that are being read.
    sums: Vec<[u64; 5]>,
}

impl Blocks {
    fn new(cut: Cut) -> Blocks {
        let (w, h) = cut.read();
        Blocks { cut, pixels: RgbaImage::new(w, h), sums: vec![[0; 5]; w as usize] }
    }

    /// Takes a row of the picture in; `channels` are those of a pixel in it: grey, with opacity, colour, with opacity.
    fn row(&mut self, y: u32, row: &[u8], channels: usize) {
        let Cut { from, size, block, .. } = self.cut;
        if y < from.1 || y >= from.1 + size.1 {
            return;
        }
        let own = y - from.1;
        let pixels = row.chunks_exact(channels).skip(from.0 as usize).take(size.0 as usize);
        let rgba = |pixel: &[u8]| match *pixel {
            [grey] => [grey, grey, grey, 255],
            [grey, alpha] => [grey, grey, grey, alpha],
            [r, g, b] => [r, g, b, 255],
            [r, g, b, a, ..] => [r, g, b, a],
            [] => [0; 4],
        };
        if block == 1 {
            let start = (own * size.0 * 4) as usize;
            let into = self.pixels.as_chunks_mut::<4>(start, size.0 as usize);
            pixels.zip(into).for_each(|(pixel, into)| *into = rgba(pixel));
            return;
        }
        let (mut column, mut left) = (0, block);
        for pixel in pixels {
            let [r, g, b, a] = rgba(pixel).map(u64::from);
            let sums = &mut self.sums[column];
            for (sum, more) in sums.iter_mut().zip([r * a, g * a, b * a, a, 1]) {
                *sum += more;
            }
            left -= 1;
            if left == 0 {
                (column, left) = (column + 1, block);
            }
        }
        if (own + 1).is_multiple_of(block) || own + 1 == size.1 {
            let y = own / block;
            for (x, sums) in self.sums.iter_mut().enumerate() {
                let [r, g, b, a, all] = std::mem::take(sums);
                let colour = |sum: u64| ((sum + a / 2) / a.max(1)).min(255) as u8;
                let alpha = ((a + all / 2) / all.max(1)).min(255) as u8;
                self.pixels.put_pixel(x as u32, y, image::Rgba([colour(r), colour(g), colour(b), alpha]));
            }
        }
    }
}

/// Where rows of pixels lie in a picture.
trait Rows {
    fn as_chunks_mut<const N: usize>(&mut self, start: usize, pixels: usize) -> &mut [[u8; N]];
}

impl Rows for RgbaImage {
    fn as_chunks_mut<const N: usize>(&mut self, start: usize, pixels: usize) -> &mut [[u8; N]] {
        let end = start + pixels * N;
        self.get_mut(start..end).map(|bytes| bytes.as_chunks_mut::<N>().0).unwrap_or_default()
    }
}

fn decoded(error: &png::DecodingError) -> PictureError {
    match error {
        png::DecodingError::LimitsExceeded => PictureError::Large,
        _ => PictureError::Decode,
    }
}

fn too_large((w, h): (u32, u32), most: usize) -> Result<(), PictureError> {
    let pixels = u64::from(w) * u64::from(h);
    if pixels > most as u64 { Err(PictureError::Large) } else { Ok(()) }
}

/// Opens the file of a picture.
pub(crate) fn open(path: &Path) -> Result<File, PictureError> {
    let opened = open_file(path, limits::PICTURE_BYTES as u64);
    opened.map(|(file, _)| file).map_err(|why| PictureError::Read(why.to_string()))
}

/// The size of a picture, by its beginning; refused where it is larger than what is read.
pub(crate) fn measured(path: &Path) -> Result<(u32, u32), PictureError> {
    use std::io::Read;
    let mut file = open(path)?;
    // The byte that says whether a PNG is interlaced ends its first chunk (PNG, 11.2.2 IHDR).
    let mut begins = Vec::new();
    let unread = |error: std::io::Error| PictureError::Read(in_words(&error));
    (&file).take(29).read_to_end(&mut begins).map_err(unread)?;
    file.rewind().map_err(unread)?;
    let rows = begins.starts_with(SIGNATURE) && begins.get(28) == Some(&0);
    let reader = ImageReader::new(BufReader::new(file)).with_guessed_format().map_err(unread)?;
    let size = reader.into_dimensions().map_err(|error| failed(&error))?;
    too_large(size, if rows { limits::PICTURE_PIXELS } else { limits::WHOLE_PIXELS })?;
    Ok(size)
}

fn failed(error: &image::ImageError) -> PictureError {
    match error {
        image::ImageError::Limits(_) => PictureError::Large,
        _ => PictureError::Decode,
    }
}

/// Reads a picture whole, and takes a part of it.
fn read_whole(mut file: File, cut: impl FnOnce((u32, u32)) -> Cut) -> Result<Blocks, PictureError> {
    file.rewind().map_err(|error| PictureError::Read(in_words(&error)))?;
    let mut reader = ImageReader::new(BufReader::new(file)).with_guessed_format().map_err(|_| PictureError::Decode)?;
    let mut most = Limits::default();
    most.max_alloc = Some(limits::WHOLE_PIXELS as u64 * 8);
    reader.limits(most);
    let decoder = reader.into_decoder().map_err(|error| failed(&error))?;
    let size = image::ImageDecoder::dimensions(&decoder);
    too_large(size, limits::WHOLE_PIXELS)?;
    let mut blocks = Blocks::new(cut(size));
    // Eight bits a channel, whatever stands in the file.
    let picture = image::DynamicImage::from_decoder(decoder).map_err(|error| failed(&error))?;
    let picture = if picture.color().has_alpha() {
        image::DynamicImage::ImageRgba8(picture.into_rgba8())
    } else {
        image::DynamicImage::ImageRgb8(picture.into_rgb8())
    };
    let channels = usize::from(picture.color().channel_count());
    let width = size.0.max(1) as usize * channels;
    picture.as_bytes().chunks_exact(width).enumerate().for_each(|(y, row)| blocks.row(y as u32, row, channels));
    Ok(blocks)
}

/// Reads a part of a picture.
fn read(mut file: File, cut: impl FnOnce((u32, u32)) -> Cut) -> Result<Blocks, PictureError> {
    use std::io::Read;
    let mut begins = [0; 8];
    let png = file.read(&mut begins).is_ok_and(|_| begins == SIGNATURE);
    file.rewind().map_err(|error| PictureError::Read(in_words(&error)))?;
    if !png {
        return read_whole(file, cut);
    }
    let most = png::Limits { bytes: 32 * 1024 * 1024 };
    let again = file.try_clone().map_err(|error| PictureError::Read(in_words(&error)))?;
    let mut decoder = png::Decoder::new_with_limits(BufReader::new(file), most);
    decoder.set_transformations(png::Transformations::normalize_to_color8());
    let mut reader = decoder.read_info().map_err(|error| decoded(&error))?;
    let size = reader.info().size();
    too_large(size, limits::PICTURE_PIXELS)?;
    if reader.info().interlaced {
        return read_whole(again, cut);
    }
    let channels = reader.output_color_type().0.samples();
    let mut blocks = Blocks::new(cut(size));
    let ends = blocks.cut.from.1 + blocks.cut.size.1;
    for y in 0..ends.min(size.1) {
        let Some(row) = reader.next_row().map_err(|error| decoded(&error))? else { return Err(PictureError::Decode) };
        blocks.row(y, row.data(), channels);
    }
    Ok(blocks)
}

/// Reads a picture into a box.
pub(crate) fn read_fitted(file: File, (w, h): (u32, u32), fit: Fit) -> Result<Fitted, PictureError> {
    let blocks = read(file, |size| Cut::of(size, (w, h), fit))?;
    let shown = blocks.cut.shown;
    Ok(placed(blocks.pixels, shown, (w, h), fit))
}

/// A picture that is in memory, in a box.
pub(crate) fn fit_to(picture: &RgbaImage, w: u32, h: u32, fit: Fit) -> Fitted {
    let cut = Cut::of(picture.dimensions(), (w, h), fit);
    let seen = image::imageops::crop_imm(picture, cut.from.0, cut.from.1, cut.size.0, cut.size.1);
    let pixels = if cut.size == picture.dimensions() && cut.size == cut.shown { picture.clone() } else { seen.to_image() };
    placed(pixels, cut.shown, (w, h), fit)
}

fn placed(pixels: RgbaImage, shown: (u32, u32), (w, h): (u32, u32), fit: Fit) -> Fitted {
    let pixels = if pixels.dimensions() == shown {
        pixels
    } else {
        image::imageops::resize(&pixels, shown.0, shown.1, FilterType::Triangle)
    };
    let tiled = fit == Fit::Tile;
    let at = |whole: u32, own: u32| if tiled { 0 } else { (i64::from(whole) - i64::from(own)) / 2 };
    let at = (at(w, pixels.width()), at(h, pixels.height()));
    Fitted { pixels: Rc::new(pixels), at, tiled }
}

/// Reads a picture, at most so large a side in pixels, and never larger than it is.
///
/// # Errors
///
/// What cannot be read, or is too large.
pub fn read_picture(path: &Path, side: u32) -> Result<RgbaImage, PictureError> {
    read_small(open(path)?, side)
}

/// The same of a picture by its path inside a folder, which nothing leads out of.
///
/// # Errors
///
/// What cannot be read, is too large, or lies elsewhere.
pub fn read_picture_inside(folder: &Path, name: &str, side: u32) -> Result<RgbaImage, PictureError> {
    let opened = open_inside(folder, name, limits::PICTURE_BYTES as u64);
    read_small(opened.map_err(|why| PictureError::Read(why.to_string()))?.0, side)
}

fn read_small(file: File, side: u32) -> Result<RgbaImage, PictureError> {
    let small = |(w, h): (u32, u32)| {
        let by = (f64::from(side) / f64::from(w.max(h).max(1))).min(1.0);
        let size = |own: u32| ((f64::from(own) * by).round() as u32).max(1);
        Cut::of((w, h), (size(w), size(h)), Fit::Stretch)
    };
    let blocks = read(file, small)?;
    let (w, h) = blocks.cut.shown;
    if blocks.pixels.dimensions() == (w, h) {
        return Ok(blocks.pixels);
    }
    Ok(image::imageops::resize(&blocks.pixels, w, h, FilterType::Triangle))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_what_is_seen_is_read_and_shrunk_on_the_way() {
        let cut = |own, seen, fit| {
            let cut = Cut::of(own, seen, fit);
            (cut.from, cut.size, cut.shown, cut.block)
        };
        assert_eq!(cut((1000, 1000), (100, 100), Fit::Stretch), ((0, 0), (1000, 1000), (100, 100), 10));
        assert_eq!(cut((1000, 500), (100, 100), Fit::Contain), ((0, 0), (1000, 500), (100, 50), 10));
        assert_eq!(cut((1000, 500), (100, 100), Fit::Cover), ((250, 0), (500, 500), (100, 100), 5));
        assert_eq!(cut((1000, 500), (100, 100), Fit::Centre), ((450, 200), (100, 100), (100, 100), 1));
        assert_eq!(cut((1000, 50), (100, 100), Fit::Tile), ((0, 0), (100, 50), (100, 50), 1));
        assert_eq!(cut((10, 10), (100, 100), Fit::Cover), ((0, 0), (10, 10), (100, 100), 1));
        assert_eq!(cut((60_000, 1), (20, 20), Fit::Cover).1, (1, 1));
    }

    #[test]
    fn blocks_are_the_middle_of_their_pixels_and_what_is_not_seen_colours_nothing() {
        let mut blocks = Blocks::new(Cut { from: (1, 1), size: (4, 3), shown: (2, 2), block: 2 });
        let rows: [[u8; 24]; 4] = std::array::from_fn(|y| {
            std::array::from_fn(|n| match (y, n / 4, n % 4) {
                (0, ..) | (_, 0, _) => 99,
                (1, 1, 3) => 0,
                (_, _, 3) => 255,
                (1, 1, _) => 255,
                _ => 100,
            })
        });
        rows.iter().enumerate().for_each(|(y, row)| blocks.row(y as u32, row, 4));
        let pixels: Vec<[u8; 4]> = blocks.pixels.pixels().map(|pixel| pixel.0).collect();
        assert_eq!(pixels, [[100, 100, 100, 191], [100, 100, 100, 255], [100, 100, 100, 255], [100, 100, 100, 255]]);
    }
}
