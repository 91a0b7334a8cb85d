//! Draws a Jovrik scene as pixels: the same code for files and for screens.

mod cells;
mod fonts;
mod glow;
mod png;
mod raster;

pub use cells::{Cell, cells, cells_within};
pub use fonts::{FontPlaces, Fonts};
pub use png::{PngError, encode};
pub use raster::Canvas;
