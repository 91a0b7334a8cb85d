//! Small copies of pictures.

use std::io::Cursor;
use std::path::Path;

use image::RgbaImage;

use crate::PngError;
use crate::decode::read_picture;
use crate::pictures::PictureError;

/// A small copy of a picture.
#[derive(Debug, Clone)]
pub struct Thumbnail(pub(crate) RgbaImage);

/// The most bytes that decoding a small copy may take.
const MEMORY: usize = 8 * 1024 * 1024;

impl Thumbnail {
    /// Of a picture in a file, at most so large a side in pixels, and never larger than it is.
    ///
    /// # Errors
    /// Where the picture cannot be read.
    pub fn of(file: &Path, side: u32) -> Result<Thumbnail, PictureError> {
        read_picture(file, side).map(Thumbnail)
    }

    /// As PNG, with texts that say of what it is.
    ///
    /// # Errors
    /// Where it cannot be encoded.
    pub fn encode(&self, texts: &[(&str, String)]) -> Result<Vec<u8>, PngError> {
        let mut out = Vec::new();
        let mut encoder = png::Encoder::new(&mut out, self.0.width(), self.0.height());
        encoder.set_color(png::ColorType::Rgba);
        for (name, text) in texts {
            encoder.add_text_chunk((*name).to_owned(), text.clone())?;
        }
        let mut writer = encoder.write_header()?;
        writer.write_image_data(self.0.as_raw())?;
        writer.finish()?;
        Ok(out)
    }

    /// Out of PNG, where these texts stand in it: nothing of another picture, or of one that is broken.
    pub fn decode(bytes: &[u8], texts: &[(&str, String)]) -> Option<Thumbnail> {
        let limits = png::Limits { bytes: MEMORY };
        let mut reader = png::Decoder::new_with_limits(Cursor::new(bytes), limits).read_info().ok()?;
        let written = |name: &str| {
            let all = &reader.info().uncompressed_latin1_text;
            all.iter().find(|chunk| chunk.keyword == name).map(|chunk| chunk.text.as_str())
        };
        let (size, plain) = (reader.info().size(), reader.info().color_type == png::ColorType::Rgba);
        let deep = reader.info().bit_depth == png::BitDepth::Eight;
        let fits = texts.iter().all(|(name, text)| written(name) == Some(text));
        let length = reader.output_buffer_size().filter(|length| *length <= MEMORY)?;
        if !fits || !plain || !deep {
            return None;
        }
        let mut pixels = vec![0; length];
        reader.next_frame(&mut pixels).ok()?;
        RgbaImage::from_raw(size.0, size.1, pixels).map(Thumbnail)
    }
}
