//! Pictures that somebody else may draw, aside from whoever waits for them: what is drawn, and what comes of it.

use std::fs::File;
use std::path::PathBuf;
use std::rc::Rc;

use image::RgbaImage;
use jovrik_core::rice::Fit;
use jovrik_file::{ReadError, open_inside};
use jovrik_text::limits;
use serde::{Deserialize, Serialize};

use crate::decode::{open, read_fitted};
use crate::pictures::{Fitted, PictureError};
use crate::thumbnail::Thumbnail;
use crate::vector::{draw_svg, is_svg};

/// A picture that is to be drawn.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Job {
    /// Its file.
    pub file: PathBuf,
    /// The folder that it must lie in, whatever its links say; nothing where it may lie anywhere.
    pub within: Option<PathBuf>,
    /// The box that it is drawn into, in pixels.
    pub size: (u32, u32),
    /// What it is.
    pub kind: JobKind,
}

/// What kind of picture a job is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub enum JobKind {
    /// A picture in its box, by the number of how it fits there.
    Fitted(usize),
    /// An icon, a drawing or a picture.
    Icon,
    /// A picture among many, by the number of how it fits: a small copy may be kept for every program.
    Small(usize),
}

/// A picture that was drawn: its size, where its corner lies from that of its box, whether it is repeated, its pixels.
#[derive(Debug, Clone)]
pub struct DrawnPicture(pub(crate) Fitted);

impl DrawnPicture {
    /// Of its parts; nothing where the pixels are not as many as the size says.
    pub fn of((w, h): (u32, u32), at: (i64, i64), tiled: bool, rgba: Vec<u8>) -> Option<DrawnPicture> {
        let pixels = Rc::new(RgbaImage::from_raw(w, h, rgba)?);
        Some(DrawnPicture(Fitted { pixels, at, tiled }))
    }

    /// Its size, in pixels.
    pub fn size(&self) -> (u32, u32) {
        self.0.pixels.dimensions()
    }

    /// Where its corner lies, from that of its box.
    pub fn at(&self) -> (i64, i64) {
        self.0.at
    }

    /// Whether it is repeated over the whole box.
    pub fn tiled(&self) -> bool {
        self.0.tiled
    }

    /// R, G, B and A of each pixel.
    pub fn rgba(&self) -> &[u8] {
        self.0.pixels.as_raw()
    }
}

/// Whoever draws aside: nothing as long as that takes.
pub type Aside = Box<dyn FnMut(&Job) -> Option<Result<DrawnPicture, PictureError>>>;

/// The number of how a picture fits, and what it is of a number.
pub(crate) fn number_of(fit: Fit) -> usize {
    Fit::ALL.iter().position(|other| *other == fit).unwrap_or_default()
}

fn fit_of(number: usize) -> Fit {
    Fit::ALL.get(number).copied().unwrap_or_default()
}

impl Job {
    /// The longest side that a small copy needs: a long picture is cut at its ends, and what is seen of it is smaller than it is.
    pub fn side(&self) -> u32 {
        self.size.0.max(self.size.1).saturating_mul(2)
    }

    /// Draws it here and now.
    ///
    /// # Errors
    ///
    /// What cannot be read or drawn, or would take too much.
    pub fn draw(&self) -> Result<DrawnPicture, PictureError> {
        let (w, h) = self.size;
        match self.kind {
            JobKind::Fitted(fit) => read_fitted(self.open()?, self.size, fit_of(fit)).map(DrawnPicture),
            JobKind::Small(_) => self.draw_small(&Thumbnail::of(&self.file, self.side())?),
            JobKind::Icon => {
                let contain = number_of(Fit::Contain);
                if is_svg(&self.file) {
                    let picture = draw_svg(self.open()?, w, h)?;
                    return Ok(DrawnPicture(crate::decode::fit_to(&picture, w, h, fit_of(contain))));
                }
                let file = self.open()?;
                if file.metadata().is_ok_and(|about| about.len() > limits::ICON_BYTES as u64) {
                    return Err(PictureError::Large);
                }
                read_fitted(file, self.size, fit_of(contain)).map(DrawnPicture)
            }
        }
    }

    /// Puts a small copy into the box.
    ///
    /// # Errors
    ///
    /// When something else is to be drawn.
    pub fn draw_small(&self, copy: &Thumbnail) -> Result<DrawnPicture, PictureError> {
        let JobKind::Small(fit) = self.kind else { return Err(PictureError::Decode) };
        Ok(DrawnPicture(crate::decode::fit_to(&copy.0, self.size.0, self.size.1, fit_of(fit))))
    }

    fn open(&self) -> Result<File, PictureError> {
        let Some(folder) = &self.within else { return open(&self.file) };
        let name = self.file.strip_prefix(folder).ok().and_then(|name| name.to_str());
        let outside = || ReadError::Outside(self.file.clone());
        let opened = name.ok_or_else(outside).and_then(|name| open_inside(folder, name, limits::PICTURE_BYTES as u64));
        opened.map(|(file, _)| file).map_err(|why| PictureError::Read(why.to_string()))
    }
}
