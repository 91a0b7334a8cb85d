//! Draws a Jovrik scene as pixels: the same code for files and for screens.

mod aside;
mod boxes;
mod cells;
mod compare;
mod decode;
mod fonts;
mod glow;
mod palette;
mod pictures;
mod png;
mod raster;
mod sixel;
mod svg;
mod thumbnail;
mod vector;

pub use aside::{Aside, DrawnPicture, Job, JobKind};
pub use cells::{Cell, cells, cells_within};
pub use compare::differences;
pub use decode::{read_picture, read_picture_inside};
pub use fonts::{FontPlaces, Fonts};
pub use palette::main_colours;
pub use pictures::{IconResolver, ImageCache, PictureError, RawImage};
pub use png::{PngError, encode};
pub use raster::Canvas;
pub use sixel::sixels;
pub use svg::{svg, svg_in_page};
pub use thumbnail::Thumbnail;

/// What drawing needs beside a canvas: fonts and pictures.
#[derive(Debug)]
pub struct Brush {
    /// Fonts and shaped text.
    pub fonts: Fonts,
    /// Pictures from files.
    pub pictures: ImageCache,
}

impl Brush {
    /// With the fonts of some places, and the pictures of a rice's folder.
    pub fn new(places: FontPlaces, folder: &std::path::Path) -> Brush {
        Brush { fonts: Fonts::new(places), pictures: ImageCache::of(folder) }
    }
}
