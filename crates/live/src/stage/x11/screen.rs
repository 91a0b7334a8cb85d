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

/// Sends pixels to a picture on the server that is as deep as the screen.
pub(crate) fn put(server: &Server, gc: Gcontext, canvas: Canvas, to: Pixmap, x: i32, y: i32) -> Result<(), Error> {
    put_deep(server, server.depth, gc, canvas, to, (x, y))
}

/// Sends pixels to a picture on the server of a depth, in its byte order, in pieces that a request can hold.
pub(crate) fn put_deep(
    server: &Server,
    depth: u8,
    gc: Gcontext,
    canvas: Canvas,
    to: Pixmap,
    (x, y): (i32, i32),
) -> Result<(), Error> {
    let c = &server.connection;
    let (wide, width) = (canvas.width() as u16, canvas.width() as usize * 4);
    let rows = ((c.maximum_request_bytes().min(1 << 18) - 64) / width).max(1);
    let bytes = canvas.into_numbers(c.setup().image_byte_order == ImageOrder::LSB_FIRST);
    for (nth, piece) in bytes.chunks(rows * width).enumerate() {
        let (height, top) = ((piece.len() / width) as u16, y + (nth * rows) as i32);
        c.put_image(ImageFormat::Z_PIXMAP, to, gc, wide, height, x as i16, top as i16, 0, depth, piece)?;
    }
    Ok(())
}
