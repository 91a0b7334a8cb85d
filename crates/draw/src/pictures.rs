//! Pictures from files: read once, fitted once.

use std::collections::{BTreeMap, HashMap};
use std::fs::File;
use std::io::BufReader;
use std::path::{Path, PathBuf};
use std::rc::Rc;

use image::imageops::FilterType;
use image::{ImageReader, Limits, RgbaImage};
use jovrik_core::rice::Fit;
use jovrik_core::scene::{Rect, SMALL as SHRUNK, THEMED};
use jovrik_file::{in_words, inside, open_file};

use crate::thumbnail::Thumbnail;
use crate::vector::read_svg;

/// The largest picture that is read, in pixels a side, and the most memory that reading one may take.
const MOST: u32 = 16_384;
const MEMORY: u64 = 1 << 30;
/// Fitted pictures that are kept, small ones, and icons.
const KEPT: usize = 32;
const SMALL_KEPT: usize = 128;
const ICONS_KEPT: usize = 1024;

/// What can go wrong with a picture.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum PictureError {
    /// The file cannot be read.
    #[error("it cannot be read: {0}")]
    Read(String),
    /// It is no picture that we know.
    #[error("it is no PNG or JPEG that can be read")]
    Decode,
    /// It is too large.
    #[error("it is larger than {MOST} by {MOST} pixels, or takes too much memory")]
    Large,
    /// All of it lets through what is behind.
    #[error("nothing of it can be seen, so it has no colours")]
    Unseen,
    /// It is no drawing that we know.
    #[error("it is no SVG that can be drawn: {0}")]
    Vector(String),
}

fn decode(error: &image::ImageError) -> PictureError {
    match error {
        image::ImageError::Limits(_) => PictureError::Large,
        _ => PictureError::Decode,
    }
}

/// The most bytes that a picture's file may have.
const MOST_BYTES: u64 = 256 * 1024 * 1024;

/// Opens a picture and looks what it is.
fn begun(path: &Path) -> Result<ImageReader<BufReader<File>>, PictureError> {
    let (file, _) = open_file(path, MOST_BYTES).map_err(|why| PictureError::Read(why.to_string()))?;
    let reader = ImageReader::new(BufReader::new(file)).with_guessed_format();
    reader.map_err(|error| PictureError::Read(in_words(&error)))
}

/// Reads a picture.
pub fn read_picture(path: &Path) -> Result<RgbaImage, PictureError> {
    let mut limits = Limits::default();
    limits.max_image_width = Some(MOST);
    limits.max_image_height = Some(MOST);
    limits.max_alloc = Some(MEMORY);
    let mut reader = begun(path)?;
    reader.limits(limits);
    match reader.decode() {
        Ok(picture) => Ok(picture.into_rgba8()),
        Err(error) => Err(decode(&error)),
    }
}

/// The largest side, and the largest file in bytes, of a picture that a stranger asks to be drawn small.
const SMALL: u32 = 4096;
const SMALL_BYTES: u64 = 8 * 1024 * 1024;

/// Reads a picture that a stranger names: none that would take long.
fn read_small(path: &Path) -> Result<RgbaImage, PictureError> {
    if std::fs::metadata(path).is_ok_and(|about| about.len() > SMALL_BYTES) {
        return Err(PictureError::Large);
    }
    let (w, h) = begun(path)?.into_dimensions().map_err(|error| decode(&error))?;
    if w > SMALL || h > SMALL { Err(PictureError::Large) } else { read_picture(path) }
}

/// Pixels that a stranger sends: so wide and high, with so many bytes from row to row, and whether each has an opacity.
#[derive(Debug, Clone, Copy)]
pub struct Sent<'p> {
    /// Pixels in a row.
    pub width: i32,
    /// Rows.
    pub height: i32,
    /// Bytes from the beginning of a row to the next.
    pub stride: i32,
    /// Whether pixels have four bytes; else three.
    pub alpha: bool,
    /// The bytes.
    pub bytes: &'p [u8],
}

impl Sent<'_> {
    /// A picture of them, at most so large a side: its size, and R, G, B, A of each pixel. `None` where they make none.
    pub fn picture(&self, most: u32) -> Option<((u32, u32), Vec<u8>)> {
        let each = if self.alpha { 4 } else { 3 };
        let (w, h) = (usize::try_from(self.width).ok()?, usize::try_from(self.height).ok()?);
        let stride = usize::try_from(self.stride).ok()?;
        let sane = (1..=SMALL as usize).contains(&w) && (1..=SMALL as usize).contains(&h) && stride >= w * each;
        // The last row need not be filled up.
        if !sane || self.bytes.len() < stride.checked_mul(h - 1)? + w * each {
            return None;
        }
        // It is read once, block by block, into one at most twice as large as what is kept.
        let block = (w.max(h) / (2 * most as usize).max(1)).max(1);
        let whole = RgbaImage::from_fn(w.div_ceil(block) as u32, h.div_ceil(block) as u32, |x, y| {
            let (x, y) = (x as usize * block, y as usize * block);
            let mut sums = [0_u32; 4];
            let mut all = 0;
            for row in y..(y + block).min(h) {
                let at = row * stride + x * each;
                for pixel in self.bytes[at..at + (block.min(w - x)) * each].chunks_exact(each) {
                    (0..each).for_each(|n| sums[n] += u32::from(pixel[n]));
                    all += 1;
                }
            }
            if !self.alpha {
                sums[3] = 255 * all;
            }
            image::Rgba(sums.map(|sum| (sum / all.max(1)) as u8))
        });
        let by = (f64::from(most) / whole.width().max(whole.height()) as f64).min(1.0);
        let size = |own: u32| ((f64::from(own) * by).round() as u32).max(1);
        let small = image::imageops::resize(&whole, size(whole.width()), size(whole.height()), FilterType::Triangle);
        Some((small.dimensions(), small.into_raw()))
    }
}

/// A picture as large as it is to be drawn, and where.
#[derive(Debug, Clone)]
pub(crate) struct Fitted {
    pub pixels: Rc<RgbaImage>,
    /// Its corner, from that of the box.
    pub at: (i64, i64),
    /// Whether it is repeated over the whole box.
    pub tiled: bool,
}

/// Whoever finds the file of an icon of the theme, by its name and its size in pixels.
pub type FindIcon = Box<dyn FnMut(&str, u32) -> Option<PathBuf>>;

/// Whoever makes pictures small, by their file and the longer side in pixels: nothing as long as that takes.
pub type Shrink = Box<dyn FnMut(&Path, u32) -> Option<Result<Thumbnail, PictureError>>>;

/// The pictures of a rice.
#[derive(Default)]
pub struct Pictures {
    folder: PathBuf,
    /// The file that stands for each picture: a folder of pictures stands for one of its own.
    chosen: u64,
    fitted: HashMap<(PathBuf, u32, u32, &'static str), Option<Fitted>>,
    icons_fitted: HashMap<(String, u32, u32), Option<Fitted>>,
    /// Icons that could not be drawn, and why.
    pub broken_icons: BTreeMap<String, PictureError>,
    /// Pictures that are in no file.
    held: HashMap<PathBuf, RgbaImage>,
    /// Who knows the icons of the theme.
    icons: Option<FindIcon>,
    /// Who makes pictures small; nobody where nobody is in a hurry.
    shrink: Option<Shrink>,
    small: HashMap<(PathBuf, u32, u32), Option<Fitted>>,
    /// What was wrong with those that could not be drawn, by path.
    pub troubles: Vec<(String, PictureError)>,
}

impl std::fmt::Debug for Pictures {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Pictures").field("folder", &self.folder).field("fitted", &self.fitted.len()).finish_non_exhaustive()
    }
}

impl Pictures {
    /// Those in a folder.
    pub fn of(folder: &Path) -> Pictures {
        Pictures { folder: folder.to_owned(), ..Pictures::default() }
    }

    /// Asks somebody for the icons of the theme; what was found before is forgotten.
    pub fn find_icons(&mut self, find: FindIcon) {
        self.icons = Some(find);
        self.icons_fitted.clear();
    }

    /// Has somebody else make pictures small.
    pub fn shrinks(&mut self, shrink: Shrink) {
        self.shrink = Some(shrink);
    }

    /// Which picture of a folder is shown: the first is 0.
    pub fn choose(&mut self, nth: u64) {
        self.chosen = nth;
    }

    /// Keeps a picture that is in no file, under a name that no file has.
    pub fn insert(&mut self, name: &str, (width, height): (u32, u32), rgba: Vec<u8>) {
        self.fitted.retain(|(file, ..), _| *file != self.folder.join(name));
        if let Some(picture) = RgbaImage::from_raw(width, height, rgba) {
            self.held.insert(self.folder.join(name), picture);
        }
    }

    /// Whether a picture that is in no file is kept under a name.
    pub fn holds(&self, name: &str) -> bool {
        self.held.contains_key(&self.folder.join(name))
    }

    /// Forgets all that was read.
    pub fn forget(&mut self) {
        self.fitted.clear();
        self.small.clear();
        self.troubles.clear();
    }

    /// The file that a path means: itself, or one of a folder. Nothing outside the rice is a picture of it, also through links.
    pub fn file(&self, path: &str) -> Result<PathBuf, PictureError> {
        let path = inside(&self.folder, path).map_err(|why| PictureError::Read(why.to_string()))?;
        if !path.is_dir() {
            return Ok(path);
        }
        let entries = std::fs::read_dir(&path).into_iter().flatten();
        let mut files: Vec<PathBuf> = entries.filter_map(|entry| Some(entry.ok()?.path())).collect();
        let ending = |path: &PathBuf| path.extension().map(|end| end.to_string_lossy().to_ascii_lowercase());
        files.retain(|file| ending(file).is_some_and(|end| matches!(end.as_str(), "png" | "jpg" | "jpeg")));
        files.sort_unstable();
        let nth = self.chosen as usize % files.len().max(1);
        let file = files.get(nth).ok_or_else(|| PictureError::Read("the folder has no pictures".to_owned()))?;
        let name = file.file_name().and_then(|name| name.to_str()).unwrap_or_default();
        inside(&path, name).map_err(|why| PictureError::Read(why.to_string()))
    }

    /// What is wrong with a picture, by its beginning alone.
    pub fn trouble(&self, path: &str) -> Option<PictureError> {
        let reader = self.file(path).and_then(|file| begun(&file));
        match reader.map(ImageReader::into_dimensions) {
            Err(error) => Some(error),
            Ok(Ok((w, h))) => (w > MOST || h > MOST).then_some(PictureError::Large),
            Ok(Err(error)) => Some(decode(&error)),
        }
    }

    /// A picture fitted to a box.
    pub(crate) fn fitted(&mut self, path: &str, rect: Rect, fit: Fit) -> Option<Fitted> {
        let (w, h) = (rect.w.round().max(1.0) as u32, rect.h.round().max(1.0) as u32);
        if let Some(name) = path.strip_prefix(THEMED) {
            return self.icon(name, (w, h));
        }
        if let Some(path) = path.strip_prefix(SHRUNK) {
            return self.small(path, (w, h), fit);
        }
        let held = self.folder.join(path);
        let file = if self.held.contains_key(&held) { Ok(held) } else { self.file(path) };
        let key = (file.clone().unwrap_or_else(|_| self.folder.join(path)), w, h, fit.word());
        if let Some(known) = self.fitted.get(&key) {
            return known.clone();
        }
        let read = file.and_then(|file| match self.held.get(&file) {
            Some(held) => Ok(held.clone()),
            None => read_picture(&file),
        });
        let fitted = match read {
            Ok(picture) => Some(fit_to(&picture, w, h, fit)),
            Err(error) => {
                self.troubles.push((path.to_owned(), error));
                None
            }
        };
        if self.fitted.len() >= KEPT {
            self.fitted.clear();
        }
        self.fitted.insert(key, fitted.clone());
        fitted
    }
}

impl Pictures {
    /// A picture among many, much smaller than it is; nothing as long as there is none.
    fn small(&mut self, path: &str, (w, h): (u32, u32), fit: Fit) -> Option<Fitted> {
        let file = self.file(path);
        let key = (file.clone().unwrap_or_else(|_| self.folder.join(path)), w, h);
        if let Some(known) = self.small.get(&key) {
            return known.clone();
        }
        // A long picture is cut at its ends: what is seen of it is smaller than it is.
        let side = w.max(h).saturating_mul(2);
        let made = match (file, &mut self.shrink) {
            (Err(error), _) => Err(error),
            (Ok(file), Some(shrink)) => shrink(&file, side)?,
            (Ok(file), None) => Thumbnail::of(&file, side),
        };
        let fitted = match made {
            Ok(picture) => Some(fit_to(&picture.0, w, h, fit)),
            Err(error) => {
                self.troubles.push((path.to_owned(), error));
                None
            }
        };
        if self.small.len() >= SMALL_KEPT {
            self.small.clear();
        }
        self.small.insert(key, fitted.clone());
        fitted
    }

    /// An icon of the theme; nothing where there is none that can be drawn.
    fn icon(&mut self, name: &str, (w, h): (u32, u32)) -> Option<Fitted> {
        let key = (name.to_owned(), w, h);
        if let Some(known) = self.icons_fitted.get(&key) {
            return known.clone();
        }
        let file = self.icons.as_mut().and_then(|find| find(name, w.min(h)));
        let read = file.map(|file| match file.extension() {
            Some(end) if end.eq_ignore_ascii_case("svg") => read_svg(&file, w, h),
            _ => read_small(&file),
        });
        let fitted = match read {
            Some(Ok(picture)) => Some(fit_to(&picture, w, h, Fit::Contain)),
            Some(Err(why)) => {
                if self.broken_icons.len() >= KEPT {
                    self.broken_icons.pop_first();
                }
                self.broken_icons.insert(name.to_owned(), why);
                None
            }
            None => None,
        };
        if self.icons_fitted.len() >= ICONS_KEPT {
            self.icons_fitted.clear();
        }
        self.icons_fitted.insert(key, fitted.clone());
        fitted
    }
}

fn fit_to(picture: &RgbaImage, w: u32, h: u32, fit: Fit) -> Fitted {
    let (own_w, own_h) = (picture.width().max(1), picture.height().max(1));
    let by = |scale: f64| {
        let size = |own: u32| (f64::from(own) * scale).round().clamp(1.0, 32_768.0) as u32;
        (size(own_w), size(own_h))
    };
    let (across, down) = (f64::from(w) / f64::from(own_w), f64::from(h) / f64::from(own_h));
    let resized = |size: (u32, u32)| {
        if size == (own_w, own_h) {
            picture.clone()
        } else {
            image::imageops::resize(picture, size.0, size.1, FilterType::Triangle)
        }
    };
    let pixels = match fit {
        Fit::Tile | Fit::Centre => picture.clone(),
        Fit::Stretch => resized((w, h)),
        Fit::Contain => resized(by(across.min(down))),
        Fit::Cover => {
            // Only what is seen is resized: a strip has the height of a cover, and could have any width.
            let scale = across.max(down);
            let (keep_w, keep_h) = ((f64::from(w) / scale).round() as u32, (f64::from(h) / scale).round() as u32);
            let (keep_w, keep_h) = (keep_w.clamp(1, own_w), keep_h.clamp(1, own_h));
            let view = image::imageops::crop_imm(picture, (own_w - keep_w) / 2, (own_h - keep_h) / 2, keep_w, keep_h);
            if (keep_w, keep_h) == (w, h) { view.to_image() } else { image::imageops::resize(&*view, w, h, FilterType::Triangle) }
        }
    };
    let tiled = fit == Fit::Tile;
    let at = |whole: u32, own: u32| if tiled { 0 } else { (i64::from(whole) - i64::from(own)) / 2 };
    let at = (at(w, pixels.width()), at(h, pixels.height()));
    Fitted { pixels: Rc::new(pixels), at, tiled }
}
