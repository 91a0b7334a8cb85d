//! Pixels to pictures on the server.

use jovrik_draw::Canvas;
use x11rb::connection::{Connection, RequestConnection};
use x11rb::protocol::xproto::{ConnectionExt, Gcontext, ImageFormat, ImageOrder, Pixmap};

use super::server::Server;
use crate::Error;

/// No memory for a picture.
pub(crate) fn no_room() -> Error {
    Error::System("the screen is too large to draw", "no memory".to_owned())
}

/// Sends pixels to a picture on the server, in its byte order, in pieces that a request can hold.
pub(crate) fn put(server: &Server, gc: Gcontext, canvas: &Canvas, to: Pixmap, x: i32, y: i32) -> Result<(), Error> {
    let c = &server.connection;
    let width = canvas.width() as usize * 4;
    let rows = ((c.maximum_request_bytes().min(1 << 18) - 64) / width).max(1);
    let lsb = c.setup().image_byte_order == ImageOrder::LSB_FIRST;
    let mut bytes = vec![0; (rows * width).min(canvas.bytes().len())];
    for (nth, piece) in canvas.bytes().chunks(rows * width).enumerate() {
        bytes.truncate(piece.len());
        for (sent, pixel) in bytes.chunks_exact_mut(4).zip(piece.chunks_exact(4)) {
            // One number a pixel: whole registers of them are turned at once.
            let [r, g, b, _] = [pixel[0], pixel[1], pixel[2], pixel[3]].map(u32::from);
            let number = r << 16 | g << 8 | b;
            sent.copy_from_slice(&if lsb { number.to_le_bytes() } else { number.to_be_bytes() });
        }
        let height = (piece.len() / width) as u16;
        let top = y + (nth * rows) as i32;
        let size = (canvas.width() as u16, height);
        c.put_image(ImageFormat::Z_PIXMAP, to, gc, size.0, size.1, x as i16, top as i16, 0, server.depth, &bytes)?;
    }
    Ok(())
}
