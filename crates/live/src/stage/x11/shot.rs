//! What the screen shows, as pixels.

use jovrik_draw::Canvas;
use jovrik_values::PixelRect;
use x11rb::connection::Connection;
use x11rb::protocol::xproto::{ConnectionExt, ImageFormat, ImageOrder};

use super::X11;
use super::screen::no_room;
use crate::Error;

impl X11 {
    /// What is seen in an area of the screen.
    ///
    /// # Errors
    ///
    /// When the area lies beyond the screen, or the server does not hand it over.
    pub fn pixels(&self, area: PixelRect) -> Result<Canvas, Error> {
        // What was asked for is on the screen before it is looked at.
        self.sync()?;
        let screen = PixelRect::new(0, 0, self.server.size.0.into(), self.server.size.1.into());
        let area = area.overlap(screen).ok_or_else(no_room)?;
        let c = &self.server.connection;
        let (x, y, w, h) = (area.x as i16, area.y as i16, area.w as u16, area.h as u16);
        let image = c.get_image(ImageFormat::Z_PIXMAP, self.server.root, x, y, w, h, !0)?.reply()?;
        let lsb = c.setup().image_byte_order == ImageOrder::LSB_FIRST;
        let mut rgba = Vec::with_capacity(image.data.len());
        for pixel in image.data.chunks_exact(4) {
            let [r, g, b] = if lsb { [pixel[2], pixel[1], pixel[0]] } else { [pixel[1], pixel[2], pixel[3]] };
            rgba.extend_from_slice(&[r, g, b, 255]);
        }
        Canvas::of_bytes(w.into(), h.into(), rgba).ok_or_else(no_room)
    }
}
