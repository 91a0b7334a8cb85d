//! Fonts: those that a rice asks for if the computer has them, else the built-in ones; shaped text is kept.

use std::collections::{HashMap, HashSet};
use std::path::{Path, PathBuf};
use std::rc::Rc;

use cosmic_text::{
    Attrs, Buffer, CacheKey, Family, FeatureTag, FontFeatures, FontSystem, Metrics, Shaping, SwashCache, Weight, Wrap, fontdb,
};
use jovrik_core::scene::{Measure, TextStyle};

/// Folders that hold fonts.
#[derive(Debug, Clone, Default)]
pub struct FontPlaces(pub Vec<PathBuf>);

impl FontPlaces {
    /// The usual folders, by the XDG Base Directory specification. `data` is `$XDG_DATA_HOME`.
    pub fn usual(data: Option<PathBuf>) -> FontPlaces {
        let system = ["/usr/share/fonts", "/usr/local/share/fonts"].into_iter().map(PathBuf::from);
        FontPlaces(system.chain(data.map(|data| data.join("fonts"))).collect())
    }
}

/// A glyph in its place, from the left end of its line and its baseline.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Glyph {
    pub key: CacheKey,
    pub x: i32,
    pub y: i32,
}

/// A line of text, shaped.
#[derive(Debug, Clone, Default)]
pub(crate) struct Line {
    pub glyphs: Vec<Glyph>,
    pub width: f32,
    /// From the middle of the line down to its baseline.
    pub baseline: f32,
    /// Whether no font has some character of it.
    pub missing: bool,
}

/// The font files of this computer: their names in small letters and digits, and their paths.
#[derive(Debug, Default)]
struct Search {
    listed: bool,
    files: Vec<(String, PathBuf)>,
}

fn letters(name: &str) -> String {
    name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

/// The font files below a folder.
fn font_files(folder: &Path) -> Vec<(String, PathBuf)> {
    let mut files = Vec::new();
    let mut open = vec![(folder.to_owned(), 0)];
    while let Some((folder, depth)) = open.pop() {
        for entry in std::fs::read_dir(folder).into_iter().flatten().filter_map(Result::ok) {
            let path = entry.path();
            let end = path.extension().and_then(|end| end.to_str()).unwrap_or_default().to_ascii_lowercase();
            if matches!(end.as_str(), "ttf" | "otf" | "ttc" | "otc") {
                let name = path.file_stem().map(|name| letters(&name.to_string_lossy())).unwrap_or_default();
                files.push((name, path));
                continue;
            }
            // What the listing says of an entry costs nothing more; only a link must be followed.
            let folder = match entry.file_type() {
                Ok(kind) if kind.is_symlink() => path.is_dir(),
                Ok(kind) => kind.is_dir(),
                Err(_) => false,
            };
            if folder && depth < 8 {
                open.push((path, depth + 1));
            }
        }
    }
    // The same order everywhere, so that the same font wins.
    files.sort_unstable();
    files
}

#[derive(Debug, Clone, PartialEq, Eq, Hash)]
struct LineKey {
    text: String,
    family: String,
    hundredths: u32,
    bold: bool,
    mono: bool,
}

/// Lines kept at most before the oldest generation is dropped.
const KEPT: usize = 2000;

/// Fonts, shaped lines and drawn glyphs.
pub struct Fonts {
    system: FontSystem,
    pub(crate) swash: SwashCache,
    lines: HashMap<LineKey, Rc<Line>>,
    places: FontPlaces,
    search: Search,
    known: HashMap<String, bool>,
    /// Families of which every face is loaded, and those that have been asked for bold ones.
    whole: HashSet<String>,
    bold: HashSet<String>,
    text_face: String,
    mono_face: String,
    missing: HashSet<String>,
}

impl std::fmt::Debug for Fonts {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Fonts").field("lines", &self.lines.len()).finish_non_exhaustive()
    }
}

impl Fonts {
    /// The built-in fonts; the computer's are looked for when a family is asked for that is not built in.
    pub fn new(places: FontPlaces) -> Fonts {
        let mut db = fontdb::Database::new();
        let mut load = |bytes: &'static [u8]| {
            let ids = db.load_font_source(fontdb::Source::Binary(std::sync::Arc::new(bytes)));
            ids.first()
                .and_then(|id| db.face(*id))
                .and_then(|face| face.families.first())
                .map(|(name, _)| name.clone())
                .unwrap_or_default()
        };
        let text_face = load(epaint_default_fonts::UBUNTU_LIGHT);
        let mono_face = load(epaint_default_fonts::HACK_REGULAR);
        Fonts {
            system: FontSystem::new_with_locale_and_db("en".to_owned(), db),
            swash: SwashCache::new(),
            lines: HashMap::new(),
            places,
            search: Search::default(),
            known: HashMap::new(),
            whole: HashSet::new(),
            bold: HashSet::new(),
            text_face,
            mono_face,
            missing: HashSet::new(),
        }
    }

    /// The families that were asked for and are not on this computer.
    pub fn missing(&self) -> Vec<&str> {
        let mut missing: Vec<&str> = self.missing.iter().map(String::as_str).collect();
        missing.sort_unstable();
        missing
    }

    /// Whether a family is on this computer.
    pub fn has(&mut self, family: &str) -> bool {
        if let Some(known) = self.known.get(family) {
            return *known;
        }
        let in_db = |system: &FontSystem| system.db().faces().any(|face| face.families.iter().any(|(name, _)| name == family));
        let mut found = in_db(&self.system);
        // Files are mostly called as their family is: the one that is called just so, then the few that begin so.
        let wanted = letters(family);
        let regular = format!("{wanted}regular");
        if !found {
            self.load(|name| name == wanted || name == regular);
            found = in_db(&self.system);
        }
        if !found {
            self.whole(family);
            found = in_db(&self.system);
        }
        if !found {
            self.load(|_| true);
            found = in_db(&self.system);
        }
        if !found {
            self.missing.insert(family.to_owned());
        }
        self.known.insert(family.to_owned(), found);
        found
    }

    /// Loads all faces of a family, by the names of their files.
    fn whole(&mut self, family: &str) {
        if self.whole.insert(family.to_owned()) {
            let wanted = letters(family);
            self.load(|name| name.starts_with(&wanted));
        }
    }

    /// Loads a bold face of a family: the file that is called just so, else all of them.
    fn bolder(&mut self, family: &str) {
        if !self.bold.insert(family.to_owned()) {
            return;
        }
        let wanted = format!("{}bold", letters(family));
        self.load(|name| name == wanted);
        let bold = |face: &fontdb::FaceInfo| {
            let upright = face.style == fontdb::Style::Normal && face.stretch == fontdb::Stretch::Normal;
            upright && face.weight.0 >= 600 && face.families.iter().any(|(name, _)| name == family)
        };
        if !self.system.db().faces().any(bold) {
            self.whole(family);
        }
    }

    /// Loads the files whose names, in small letters and digits, are wanted and which were not loaded yet.
    fn load(&mut self, wanted: impl Fn(&str) -> bool) {
        let Search { files, listed } = &mut self.search;
        if !std::mem::replace(listed, true) {
            *files = self.places.0.iter().flat_map(|place| font_files(place)).collect();
        }
        let (now, later) = std::mem::take(files).into_iter().partition(|(name, _)| wanted(name));
        *files = later;
        let now: Vec<(String, PathBuf)> = now;
        for (_, path) in &now {
            // A broken file is no font.
            let _ = self.system.db_mut().load_font_file(path);
        }
    }

    /// The families of all fonts of this computer, sorted.
    pub fn families(&mut self) -> Vec<String> {
        self.load(|_| true);
        let built_in = [self.text_face.as_str(), self.mono_face.as_str()];
        let faces = self.system.db().faces().filter(|face| !matches!(face.source, fontdb::Source::Binary(_)));
        let mut names: Vec<String> = faces.filter_map(|face| Some(face.families.first()?.0.clone())).collect();
        names.sort_unstable();
        names.dedup();
        names.retain(|name| !built_in.contains(&name.as_str()));
        names
    }

    /// The characters of a text that neither a face nor what stands in for it can show, each once.
    pub fn lacks(&mut self, text: &str, face: &TextStyle) -> Vec<char> {
        let mut lacking = Vec::new();
        for c in text.chars().filter(|c| !c.is_ascii() && !c.is_control() && !c.is_whitespace()) {
            let own = self.holds(c, face) || lacking.contains(&c);
            if !own && self.line(c.encode_utf8(&mut [0; 4]), face).missing {
                lacking.push(c);
            }
        }
        lacking
    }

    /// Whether a face has a character by itself: its table is looked at, and nothing is shaped.
    fn holds(&mut self, c: char, face: &TextStyle) -> bool {
        if !self.has(&face.family) {
            return false;
        }
        let weight = if face.bold { fontdb::Weight::BOLD } else { fontdb::Weight::NORMAL };
        let query = fontdb::Query { families: &[fontdb::Family::Name(&face.family)], weight, ..fontdb::Query::default() };
        let db = self.system.db();
        let found = db.query(&query).and_then(|id| {
            db.with_face_data(id, |data, nth| ttf_parser::Face::parse(data, nth).ok()?.glyph_index(c).map(|glyph| glyph.0 > 0))
        });
        found.flatten() == Some(true)
    }

    pub(crate) fn line(&mut self, text: &str, face: &TextStyle) -> Rc<Line> {
        let key = LineKey {
            text: text.to_owned(),
            family: face.family.clone(),
            hundredths: (face.points * 100.0) as u32,
            bold: face.bold,
            mono: face.mono,
        };
        if let Some(line) = self.lines.get(&key) {
            return line.clone();
        }
        let line = Rc::new(self.shape(text, face));
        if self.lines.len() >= KEPT {
            self.lines.clear();
        }
        self.lines.insert(key, line.clone());
        line
    }

    fn shape(&mut self, text: &str, face: &TextStyle) -> Line {
        let line = self.shape_with_loaded(text, face);
        if line.missing && !(self.search.listed && self.search.files.is_empty()) {
            // A font that was not looked for yet may have it.
            self.load(|_| true);
            return self.shape_with_loaded(text, face);
        }
        line
    }

    fn shape_with_loaded(&mut self, text: &str, face: &TextStyle) -> Line {
        let family = match (self.has(&face.family), face.mono) {
            (true, _) => face.family.clone(),
            (false, true) => self.mono_face.clone(),
            (false, false) => self.text_face.clone(),
        };
        if face.bold {
            self.bolder(&face.family);
        }
        // CSS's reference pixel: 96 to the inch, 72 points to the inch.
        let size = face.points * 96.0 / 72.0;
        let height = (size * 1.4).ceil();
        let mut buffer = Buffer::new(&mut self.system, Metrics::new(size, height));
        let weight = if face.bold { Weight::BOLD } else { Weight::NORMAL };
        // Figures of one width: what changes does not move its neighbours.
        let mut features = FontFeatures::new();
        features.enable(FeatureTag::new(b"tnum"));
        let attrs = Attrs::new().family(Family::Name(&family)).weight(weight).font_features(features);
        buffer.set_wrap(Wrap::None);
        buffer.set_text(text, &attrs, Shaping::Advanced, None);
        buffer.shape_until_scroll(&mut self.system, false);
        let Some(run) = buffer.layout_runs().next() else { return Line::default() };
        let missing = run.glyphs.iter().any(|glyph| glyph.glyph_id == 0);
        let glyphs = run.glyphs.iter().map(|glyph| {
            let physical = glyph.physical((0.0, 0.0), 1.0);
            Glyph { key: physical.cache_key, x: physical.x, y: physical.y }
        });
        Line { glyphs: glyphs.collect(), width: run.line_w, baseline: run.line_y - height / 2.0, missing }
    }

    /// The edge of a glyph at its size, from its baseline.
    pub(crate) fn outline(&mut self, key: CacheKey) -> Vec<cosmic_text::Command> {
        self.swash.get_outline_commands(&mut self.system, key).map(<[_]>::to_vec).unwrap_or_default()
    }

    pub(crate) fn image(&mut self, key: CacheKey) -> Option<&cosmic_text::SwashImage> {
        self.swash.get_image(&mut self.system, key).as_ref()
    }
}

impl Measure for Fonts {
    fn width(&mut self, text: &str, face: &TextStyle) -> f32 {
        self.line(text, face).width
    }
}
