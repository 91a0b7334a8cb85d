//! A picture of what an X server shows.

use std::path::Path;

use x11rb::connection::Connection;
use x11rb::protocol::xproto::{ConnectionExt, ImageFormat};

use crate::Failure;

/// Writes the whole screen as a PNG.
pub fn capture(display: &str, file: &Path) -> Result<(), Failure> {
    let (connection, screen) = x11rb::connect(Some(display))?;
    let screen = &connection.setup().roots[screen];
    let (width, height) = (screen.width_in_pixels, screen.height_in_pixels);
    let image = connection.get_image(ImageFormat::Z_PIXMAP, screen.root, 0, 0, width, height, !0)?.reply()?;
    let rgb: Vec<u8> = image.data.chunks_exact(4).flat_map(|pixel| [pixel[2], pixel[1], pixel[0]]).collect();
    let mut encoder = png::Encoder::new(std::io::BufWriter::new(std::fs::File::create(file)?), width.into(), height.into());
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_compression(png::Compression::High);
    encoder.write_header()?.write_image_data(&rgb)?;
    Ok(())
}
