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
    let mut bytes = Vec::with_capacity(rows * width);
    for (nth, piece) in canvas.bytes().chunks(rows * width).enumerate() {
        bytes.clear();
        for pixel in piece.chunks_exact(4) {
            let (r, g, b) = (pixel[0], pixel[1], pixel[2]);
            bytes.extend_from_slice(&if lsb { [b, g, r, 0] } else { [0, r, g, b] });
        }
        let height = (piece.len() / width) as u16;
        let top = y + (nth * rows) as i32;
        let size = (canvas.width() as u16, height);
        c.put_image(ImageFormat::Z_PIXMAP, to, gc, size.0, size.1, x as i16, top as i16, 0, server.depth, &bytes)?;
    }
    Ok(())
}
