//! Icons of themes (Icon Theme Specification): by name, size and scale, with what a theme inherits.

use std::collections::{HashMap, HashSet};
use std::path::{Path, PathBuf};

use jovrik_file::read_file;

use crate::folders::XdgEnvironment;
use crate::key_file::{KeyFileGroup, groups};

/// The largest index of a theme that is read, in bytes; and so many themes are gone through for one icon.
const MAX_INDEX_BYTES: u64 = 1024 * 1024;
const MAX_THEMES: usize = 32;
/// The endings of icons that can be shown, the best first.
const ENDINGS: [&str; 2] = ["png", "svg"];

/// How the icons of a folder may be used.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Fits {
    /// At their size alone.
    Fixed,
    /// From a size to another.
    Scalable(u32, u32),
    /// At their size and some more or less.
    Threshold(u32),
}

/// A folder of a theme that is there.
#[derive(Debug, Clone)]
struct Folder {
    paths: Vec<PathBuf>,
    size: u32,
    scale: u32,
    fits: Fits,
}

impl Folder {
    fn matches(&self, size: u32, scale: u32) -> bool {
        self.scale == scale && self.away(size, scale) == 0
    }

    /// How far its icons are from a size, in real pixels.
    fn away(&self, size: u32, scale: u32) -> u32 {
        let wanted = size.saturating_mul(scale);
        let (least, most) = match self.fits {
            Fits::Fixed => (self.size, self.size),
            Fits::Scalable(least, most) => (least, most),
            Fits::Threshold(by) => (self.size.saturating_sub(by), self.size.saturating_add(by)),
        };
        let (least, most) = (least.saturating_mul(self.scale), most.saturating_mul(self.scale));
        least.saturating_sub(wanted).max(wanted.saturating_sub(most))
    }
}

#[derive(Debug, Clone, Default)]
struct Theme {
    folders: Vec<Folder>,
    inherits: Vec<String>,
}

/// The icons of a theme.
#[derive(Debug)]
pub struct Icons {
    theme: String,
    /// Where themes lie, the person's own first.
    bases: Vec<PathBuf>,
    themes: HashMap<String, Option<Theme>>,
    found: HashMap<(String, u32, u32), Option<PathBuf>>,
}

impl Icons {
    /// Those of a theme, as far as it and what it inherits are there.
    pub fn new(theme: &str, places: &XdgEnvironment) -> Icons {
        let mut bases = vec![places.home.join(".icons")];
        bases.extend(places.data().into_iter().map(|folder| folder.join("icons")));
        bases.push(PathBuf::from("/usr/share/pixmaps"));
        bases.retain(|path| path.is_absolute());
        Icons { theme: theme.to_owned(), bases, themes: HashMap::new(), found: HashMap::new() }
    }

    /// Where the icons lie: what is to be watched.
    pub fn bases(&self) -> &[PathBuf] {
        &self.bases
    }

    /// The file of an icon at a size in pixels, on a monitor of a whole scale; nothing where no theme has it.
    /// A whole path is itself, where it can be shown.
    pub fn find(&mut self, name: &str, size: u32, scale: u32) -> Option<PathBuf> {
        let shown = |end: &std::ffi::OsStr| ["png", "svg", "jpg", "jpeg"].iter().any(|own| end.eq_ignore_ascii_case(own));
        let can = |path: &Path| path.extension().is_some_and(shown);
        let whole = Path::new(name);
        if whole.is_absolute() {
            return (can(whole) && whole.is_file()).then(|| whole.to_owned());
        }
        // A name is no way out of a folder.
        if name.is_empty() || name.len() > 255 || name.contains(['/', '\0']) {
            return None;
        }
        let key = (name.to_owned(), size, scale);
        if let Some(found) = self.found.get(&key) {
            return found.clone();
        }
        // Some name the file.
        let plain = ENDINGS.iter().find_map(|end| name.strip_suffix(&format!(".{end}"))).unwrap_or(name);
        let found = self.look_for(plain, size, scale);
        if self.found.len() > 4096 {
            self.found.clear();
        }
        self.found.insert(key, found.clone());
        found
    }

    fn look_for(&mut self, name: &str, size: u32, scale: u32) -> Option<PathBuf> {
        // Breadth first, each theme once: one that inherits itself is no circle.
        let (mut waiting, mut seen) = (vec![self.theme.clone()], HashSet::new());
        let mut at = 0;
        while at < waiting.len() && seen.len() < MAX_THEMES {
            let theme = waiting[at].clone();
            at += 1;
            if !seen.insert(theme.clone()) {
                continue;
            }
            let Some(theme) = self.theme(&theme) else { continue };
            waiting.extend(theme.inherits.iter().cloned());
            if let Some(found) = in_theme(theme, name, size, scale) {
                return Some(found);
            }
        }
        if !seen.contains("hicolor")
            && let Some(found) = self.theme("hicolor").and_then(|theme| in_theme(theme, name, size, scale))
        {
            return Some(found);
        }
        self.bases.iter().find_map(|base| file_in(base, name))
    }

    fn theme(&mut self, name: &str) -> Option<&Theme> {
        let bases = &self.bases;
        self.themes.entry(name.to_owned()).or_insert_with(|| read_theme(name, bases)).as_ref()
    }
}

fn file_in(folder: &Path, name: &str) -> Option<PathBuf> {
    ENDINGS.iter().map(|end| folder.join(format!("{name}.{end}"))).find(|path| path.is_file())
}

/// An icon in the folder of a theme that fits, else in the one that is nearest.
fn in_theme(theme: &Theme, name: &str, size: u32, scale: u32) -> Option<PathBuf> {
    let file = |folder: &Folder| folder.paths.iter().find_map(|path| file_in(path, name));
    if let Some(found) = theme.folders.iter().filter(|folder| folder.matches(size, scale)).find_map(file) {
        return Some(found);
    }
    let mut others: Vec<&Folder> = theme.folders.iter().filter(|folder| !folder.matches(size, scale)).collect();
    // Of those that are as far away a larger one is better: it loses nothing.
    others.sort_by_key(|folder| (folder.away(size, scale), folder.size * folder.scale < size * scale));
    others.into_iter().find_map(file)
}

fn read_theme(name: &str, bases: &[PathBuf]) -> Option<Theme> {
    if name.is_empty() || name.contains(['/', '\0']) || name == ".." {
        return None;
    }
    let homes: Vec<PathBuf> = bases.iter().map(|base| base.join(name)).filter(|path| path.is_dir()).collect();
    let index = homes.iter().find_map(|home| read_file(&home.join("index.theme"), MAX_INDEX_BYTES).ok())?;
    let all = groups(&String::from_utf8_lossy(&index)).ok()?;
    let own = all.get("Icon Theme")?;
    let listed = |key: &str| own.get(key).map(|(value, _)| value.split(',').map(|one| one.trim().to_owned()).collect::<Vec<_>>());
    let mut names = listed("Directories").unwrap_or_default();
    names.extend(listed("ScaledDirectories").unwrap_or_default());
    let folder = |name: String| {
        if name.is_empty() || name.starts_with('/') || name.split('/').any(|step| step == "..") {
            return None;
        }
        let group = all.get(&name)?;
        let paths: Vec<PathBuf> = homes.iter().map(|home| home.join(&name)).filter(|path| path.is_dir()).collect();
        (!paths.is_empty()).then(|| folder_of(group, paths)).flatten()
    };
    let folders = names.into_iter().filter_map(folder).collect();
    let inherits = own.get("Inherits").map(|(value, _)| value.split(',').map(|one| one.trim().to_owned()).collect());
    Some(Theme { folders, inherits: inherits.unwrap_or_default() })
}

fn folder_of(group: &KeyFileGroup, paths: Vec<PathBuf>) -> Option<Folder> {
    let number = |key: &str| group.get(key).and_then(|(value, _)| value.parse::<u32>().ok()).filter(|number| *number <= 65_536);
    let size = number("Size")?;
    let kind = group.get("Type").map_or("Threshold", |(value, _)| value.as_str());
    let fits = match kind {
        "Fixed" => Fits::Fixed,
        "Scalable" => Fits::Scalable(number("MinSize").unwrap_or(size), number("MaxSize").unwrap_or(size)),
        _ => Fits::Threshold(number("Threshold").unwrap_or(2)),
    };
    Some(Folder { paths, size, scale: number("Scale").unwrap_or(1).max(1), fits })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::key_file::list;

    #[test]
    fn how_far_a_folder_is_from_a_size_follows_its_type() {
        let folder = |size, scale, fits| Folder { paths: Vec::new(), size, scale, fits };
        let cases = [
            (folder(16, 1, Fits::Fixed), (16, 1), 0),
            (folder(16, 1, Fits::Fixed), (18, 1), 2),
            (folder(16, 1, Fits::Threshold(2)), (18, 1), 0),
            (folder(16, 1, Fits::Threshold(2)), (24, 1), 6),
            (folder(48, 1, Fits::Scalable(8, 256)), (300, 1), 44),
            (folder(16, 2, Fits::Fixed), (16, 2), 0),
            (folder(16, 2, Fits::Fixed), (32, 1), 0),
        ];
        for (folder, (size, scale), away) in cases {
            assert_eq!(folder.away(size, scale), away, "{folder:?} at {size}x{scale}");
        }
    }

    #[test]
    fn lists_keep_what_is_escaped() {
        assert_eq!(list("a;b\\;c;d\\se;"), ["a", "b;c", "d e"]);
        assert!(list("").is_empty());
    }
}
