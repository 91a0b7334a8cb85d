//! Pictures from files: read once, fitted once.

use std::collections::{BTreeMap, HashMap};
use std::hash::Hash;
use std::path::{Path, PathBuf};
use std::rc::Rc;

use image::RgbaImage;
use image::imageops::FilterType;
use jovrik_core::rice::Fit;
use jovrik_core::scene::{SMALL as SHRUNK, THEMED};
use jovrik_file::{at_home, inside, resolved};
use jovrik_values::Rect;
use serde::{Deserialize, Serialize};

use crate::aside::{Aside, DrawnPicture, Job, JobKind, number_of};
use crate::decode::{fit_to, measured, open};
use crate::vector::{is_svg, parse_svg};

/// The largest side of a picture that a stranger sends.
const LARGEST: usize = 4096;
/// What is kept of pictures that were fitted, of small ones, and of icons: so many, and so many bytes of pixels.
const FITTED_KEPT: (usize, usize) = (32, 40 * 1024 * 1024);
const SMALL_KEPT: (usize, usize) = (128, 8 * 1024 * 1024);
const ICONS_KEPT: (usize, usize) = (1024, 8 * 1024 * 1024);
/// So many reasons why an icon is not drawn are kept.
const REASONS_KEPT: usize = 32;

/// What can go wrong with a picture.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error, Serialize, Deserialize)]
pub enum PictureError {
    /// The file cannot be read.
    #[error("it cannot be read: {0}")]
    Read(String),
    /// It is no picture that we know.
    #[error("it is no PNG or JPEG that can be read")]
    Decode,
    /// It is too large.
    #[error("it has too many pixels: more than {} million, or {} million of a JPEG", jovrik_text::limits::PICTURE_PIXELS / 1_000_000, jovrik_text::limits::WHOLE_PIXELS / 1_000_000)]
    Large,
    /// It takes too long.
    #[error("drawing it takes longer than {} s", jovrik_text::limits::ASIDE_MILLISECONDS / 1000)]
    Slow,
    /// Whoever was to draw it did not live to tell.
    #[error("drawing it takes too much memory, or ends whoever draws it")]
    Fatal,
    /// Too much is to be drawn at once.
    #[error("too many pictures are wanted at once")]
    Busy,
    /// All of it lets through what is behind.
    #[error("nothing of it can be seen, so it has no colours")]
    Unseen,
    /// It is no drawing that we know.
    #[error("it is no SVG that can be drawn: {0}")]
    Vector(String),
}

/// Pixels that a stranger sends: so wide and high, with so many bytes from row to row, and whether each has an opacity.
#[derive(Debug, Clone, Copy)]
pub struct RawImage<'p> {
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

impl RawImage<'_> {
    /// A picture of them, at most so large a side: its size, and R, G, B, A of each pixel. `None` where they make none.
    pub fn picture(&self, most: u32) -> Option<((u32, u32), Vec<u8>)> {
        let each = if self.alpha { 4 } else { 3 };
        let (w, h) = (usize::try_from(self.width).ok()?, usize::try_from(self.height).ok()?);
        let stride = usize::try_from(self.stride).ok()?;
        let sane = (1..=LARGEST).contains(&w) && (1..=LARGEST).contains(&h) && stride >= w * each;
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
pub type IconResolver = Box<dyn FnMut(&str, u32) -> Option<PathBuf>>;

/// What is kept of pictures: the one that was used longest ago goes first.
struct Kept<K> {
    all: HashMap<K, (u64, Option<Fitted>)>,
    most: (usize, usize),
    bytes: usize,
    used: u64,
}

impl<K: Clone + Eq + Hash> Kept<K> {
    fn new(most: (usize, usize)) -> Kept<K> {
        Kept { all: HashMap::new(), most, bytes: 0, used: 0 }
    }

    /// What is kept under a key: a picture, or that there is none.
    fn get(&mut self, key: &K) -> Option<Option<Fitted>> {
        self.used += 1;
        let (used, kept) = self.all.get_mut(key)?;
        *used = self.used;
        Some(kept.clone())
    }

    fn insert(&mut self, key: K, picture: Option<Fitted>) {
        self.bytes += size_of(picture.as_ref());
        if let Some((_, before)) = self.all.insert(key.clone(), (self.used, picture)) {
            self.bytes -= size_of(before.as_ref());
        }
        // The last one stays, however large it is.
        while self.all.len() > 1 && (self.all.len() > self.most.0 || self.bytes > self.most.1) {
            let oldest = self.all.iter().filter(|(other, _)| **other != key).min_by_key(|(_, (used, _))| *used);
            let Some(oldest) = oldest.map(|(key, _)| key.clone()) else { break };
            self.forget(|other| *other == oldest);
        }
    }

    fn forget(&mut self, which: impl Fn(&K) -> bool) {
        self.all.retain(|key, (_, picture)| {
            let goes = which(key);
            if goes {
                self.bytes -= size_of(picture.as_ref());
            }
            !goes
        });
    }
}

fn size_of(picture: Option<&Fitted>) -> usize {
    picture.map_or(0, |picture| picture.pixels.as_raw().len())
}

/// The pictures of a rice.
pub struct ImageCache {
    folder: PathBuf,
    /// The file that stands for each picture: a folder of pictures stands for one of its own.
    chosen: u64,
    fitted: Kept<(PathBuf, u32, u32, &'static str)>,
    icons_fitted: Kept<(String, u32, u32)>,
    /// Icons that could not be drawn, and why.
    pub broken_icons: BTreeMap<String, PictureError>,
    /// Pictures that are in no file.
    held: HashMap<PathBuf, RgbaImage>,
    /// Who knows the icons of the theme.
    icons: Option<IconResolver>,
    /// Who draws aside; nobody where nobody is in a hurry.
    aside: Option<Aside>,
    /// Whether a picture was asked for since that is not there yet.
    misses: bool,
    small: Kept<(PathBuf, u32, u32)>,
    /// What was wrong with those that could not be drawn, by path.
    pub troubles: Vec<(String, PictureError)>,
}

impl std::fmt::Debug for ImageCache {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("ImageCache").field("folder", &self.folder).field("fitted", &self.fitted.all.len()).finish_non_exhaustive()
    }
}

impl ImageCache {
    /// Those in a folder.
    pub fn of(folder: &Path) -> ImageCache {
        ImageCache {
            folder: folder.to_owned(),
            chosen: 0,
            fitted: Kept::new(FITTED_KEPT),
            icons_fitted: Kept::new(ICONS_KEPT),
            broken_icons: BTreeMap::new(),
            held: HashMap::new(),
            icons: None,
            aside: None,
            misses: false,
            small: Kept::new(SMALL_KEPT),
            troubles: Vec::new(),
        }
    }

    /// Asks somebody for the icons of the theme; what was found before is forgotten.
    pub fn find_icons(&mut self, find: IconResolver) {
        self.icons = Some(find);
        self.icons_fitted.forget(|_| true);
    }

    /// Has somebody else draw what comes from files.
    pub fn draws_aside(&mut self, aside: Aside) {
        self.aside = Some(aside);
    }

    /// Whether something was drawn without a picture of it that is not there yet, since that was asked last.
    pub fn misses(&mut self) -> bool {
        std::mem::take(&mut self.misses)
    }

    /// Draws a picture, or has it drawn; nothing as long as that takes.
    fn drawn(&mut self, job: &Job) -> Option<Result<Fitted, PictureError>> {
        let drawn = match &mut self.aside {
            Some(aside) => match aside(job) {
                Some(drawn) => drawn,
                None => {
                    self.misses = true;
                    return None;
                }
            },
            None => job.draw(),
        };
        Some(drawn.map(|DrawnPicture(fitted)| fitted))
    }

    /// Which picture of a folder is shown: the first is 0.
    pub fn choose(&mut self, nth: u64) {
        self.chosen = nth;
    }

    /// Keeps a picture that is in no file, under a name that no file has.
    pub fn insert(&mut self, name: &str, (width, height): (u32, u32), rgba: Vec<u8>) {
        let own = self.folder.join(name);
        self.fitted.forget(|(file, ..)| *file == own);
        if let Some(picture) = RgbaImage::from_raw(width, height, rgba) {
            self.held.insert(self.folder.join(name), picture);
        }
    }

    /// Lets go of pictures that are in no file, whose names begin so, but of those that are still shown.
    pub fn keep_held(&mut self, begins: &str, shown: &[&str]) {
        let begins = self.folder.join(begins);
        let stays: Vec<PathBuf> = shown.iter().map(|name| self.folder.join(name)).collect();
        let begins = begins.as_os_str().as_encoded_bytes();
        let goes = |file: &PathBuf| file.as_os_str().as_encoded_bytes().starts_with(begins) && !stays.contains(file);
        self.held.retain(|file, _| !goes(file));
        self.fitted.forget(|(file, ..)| goes(file));
    }

    /// Forgets all that was read.
    pub fn forget(&mut self) {
        self.fitted.forget(|_| true);
        self.small.forget(|_| true);
        self.troubles.clear();
    }

    /// The file that a path means: itself, or one of a folder. One of the home (`~/`) is the person's own; nothing else outside the
    /// rice is a picture of it, also through links.
    pub fn file(&self, path: &str) -> Result<PathBuf, PictureError> {
        let path = match at_home(path) {
            Some(path) => path,
            None => inside(&self.folder, path).map_err(|why| PictureError::Read(why.to_string()))?,
        };
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
        let look = |file: PathBuf| match is_svg(&file) {
            true => open(&file).and_then(parse_svg).map(drop),
            false => measured(&file).map(drop),
        };
        self.file(path).and_then(look).err()
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
            return known;
        }
        let read = match file {
            Err(why) => Err(why),
            Ok(file) => match self.held.get(&file) {
                Some(held) => Ok(fit_to(held, w, h, fit)),
                None if is_svg(&file) => self.drawn(&self.job(file, (w, h), JobKind::Icon))?,
                None => self.drawn(&self.job(file, (w, h), JobKind::Fitted(number_of(fit))))?,
            },
        };
        let fitted = self.noted(path, read);
        self.fitted.insert(key, fitted.clone());
        fitted
    }
}

impl ImageCache {
    /// What is to be drawn of a file of the rice, or of one of the person's own.
    fn job(&self, file: PathBuf, size: (u32, u32), kind: JobKind) -> Job {
        let within = resolved(&self.folder).ok().filter(|folder| file.starts_with(folder));
        Job { file, within, size, kind }
    }

    /// A picture, unless something is wrong with it, which is told.
    fn noted(&mut self, path: &str, read: Result<Fitted, PictureError>) -> Option<Fitted> {
        match read {
            Ok(fitted) => Some(fitted),
            Err(error) => {
                if self.troubles.len() < REASONS_KEPT {
                    self.troubles.push((path.to_owned(), error));
                }
                None
            }
        }
    }

    /// A picture among many, much smaller than it is; nothing as long as there is none.
    fn small(&mut self, path: &str, (w, h): (u32, u32), fit: Fit) -> Option<Fitted> {
        let file = self.file(path);
        let key = (file.clone().unwrap_or_else(|_| self.folder.join(path)), w, h);
        if let Some(known) = self.small.get(&key) {
            return known;
        }
        let made = match file {
            Err(error) => Err(error),
            Ok(file) => self.drawn(&self.job(file, (w, h), JobKind::Small(number_of(fit))))?,
        };
        let fitted = self.noted(path, made);
        self.small.insert(key, fitted.clone());
        fitted
    }

    /// An icon of the theme; nothing where there is none that can be drawn.
    fn icon(&mut self, name: &str, (w, h): (u32, u32)) -> Option<Fitted> {
        let key = (name.to_owned(), w, h);
        if let Some(known) = self.icons_fitted.get(&key) {
            return known;
        }
        let file = self.icons.as_mut().and_then(|find| find(name, w.min(h)));
        let read = match file {
            Some(file) => Some(self.drawn(&Job { file, within: None, size: (w, h), kind: JobKind::Icon })?),
            None => None,
        };
        let fitted = match read {
            Some(Ok(fitted)) => Some(fitted),
            Some(Err(why)) => {
                if self.broken_icons.len() >= REASONS_KEPT {
                    self.broken_icons.pop_first();
                }
                self.broken_icons.insert(name.to_owned(), why);
                None
            }
            None => None,
        };
        self.icons_fitted.insert(key, fitted.clone());
        fitted
    }
}
