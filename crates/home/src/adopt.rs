//! Adopt: somebody else's rice, read and shown before anything is written; nothing of it is ever run.

use std::collections::BTreeMap;
use std::path::Path;

use jovrik_core::bar::Known;
use jovrik_core::check::{Checked, Files, NoSource, NoTarget, Reaching, Surroundings, check, reaching};
use jovrik_core::desk::MonitorFacts;
use jovrik_core::keys::{Keyboards, Layouts, NoLayout};
use jovrik_core::load::Source;
use jovrik_core::rice::Rice;
use jovrik_core::scene::Face;
use jovrik_file::{Unread, read_file};

use crate::file::{Kept, MOST_KEPT, resolved};
use crate::history::FileChange;
use crate::{Error, bundle};

/// A rice from outside.
#[derive(Debug)]
pub struct Adopted {
    /// Its files.
    pub files: BTreeMap<String, Vec<u8>>,
    /// The rice, checked.
    pub checked: Checked,
    /// Everything in it that reaches out: what would be run, set or written.
    pub reaching: Vec<Reaching>,
}

/// Reads a bundle or a folder.
pub fn read(source: &Path, around: &dyn Surroundings) -> Result<Adopted, Error> {
    let files = if source.is_dir() {
        if !source.join("rice.toml").exists() {
            return Err(Error::NotARice(source.to_owned()));
        }
        crate::apply::rice_files(source)?
    } else {
        let packed = read_file(source, MOST_KEPT).map_err(|why| match why {
            Unread::Other(_) | Unread::TooLarge(_) => Error::Bundle(why.to_string()),
            _ => Error::unread(source, &why),
        })?;
        bundle::unpack(&packed)?.1
    };
    let text = |name: &str| -> Result<Option<Source>, Error> {
        let Some(bytes) = files.get(name) else { return Ok(None) };
        let text = std::str::from_utf8(bytes).map_err(|_| Error::Bundle(format!("{name} is not UTF-8")))?;
        Ok(Some(Source::new(name, text)))
    };
    let manifest = text("rice.toml")?.ok_or_else(|| Error::Bundle("it holds no rice.toml".to_owned()))?;
    let mut found = Files { manifest: Some(manifest), ..Files::default() };
    let settings = |name: &&String| {
        let folder = name.split_once('/').filter(|(_, own)| own.ends_with(".toml") && !own.contains('/'));
        matches!(folder, Some(("parts" | "overlays" | "machines" | "art", _)))
    };
    for name in files.keys().filter(settings) {
        if let Some(source) = text(name)? {
            found.add(source);
        }
    }
    let around = Theirs { around, files: &files };
    let checked = check(found, &[], &around);
    // Also of an overlay that does not hold here: it may hold tomorrow.
    let reaching = reaching(&checked.sources);
    Ok(Adopted { files, checked, reaching })
}

const NOT_AMONG: &str = "it is not among its files";

/// A computer, and a rice of which the files are in no folder yet.
struct Theirs<'a> {
    around: &'a dyn Surroundings,
    files: &'a BTreeMap<String, Vec<u8>>,
}

impl Surroundings for Theirs<'_> {
    fn name(&self) -> String {
        self.around.name()
    }
    fn host(&self) -> Option<String> {
        self.around.host()
    }
    fn hour(&self) -> Option<u8> {
        self.around.hour()
    }
    fn cores(&self) -> Option<i64> {
        self.around.cores()
    }
    fn monitors(&self) -> Option<Vec<MonitorFacts>> {
        self.around.monitors()
    }
    fn batteries(&self) -> Option<i64> {
        self.around.batteries()
    }
    fn variable(&self, name: &str) -> Option<Option<String>> {
        self.around.variable(name)
    }
    fn has_program(&self, name: &str) -> Option<bool> {
        self.around.has_program(name)
    }
    fn has_font(&self, family: &str) -> Option<bool> {
        self.around.has_font(family)
    }
    fn lacks(&self, family: &str, text: &str) -> Vec<char> {
        self.around.lacks(family, text)
    }
    fn width(&self, text: &str, face: &Face) -> Option<f32> {
        self.around.width(text, face)
    }
    fn known(&self, rice: &Rice) -> Known {
        self.around.known(rice)
    }
    fn keyboards(&self, asked: &Layouts, latin: bool) -> Option<(Keyboards, Vec<NoLayout>)> {
        self.around.keyboards(asked, latin)
    }
    fn target(&self, to: &str) -> Option<Result<String, NoTarget>> {
        self.around.target(to)
    }
    fn source(&self, from: &str) -> Option<Result<Vec<u8>, NoSource>> {
        Some(self.files.get(from.trim_start_matches("./")).cloned().ok_or_else(|| NoSource(NOT_AMONG.to_owned())))
    }
    fn picture(&self, path: &str) -> Option<String> {
        (!self.files.contains_key(path.trim_start_matches("./"))).then(|| NOT_AMONG.to_owned())
    }
}

/// The files of an adopted rice in a new folder, to be written in one transaction.
pub fn writes(adopted: &Adopted, folder: &Path) -> Result<Vec<FileChange>, Error> {
    if folder.symlink_metadata().is_ok() {
        return Err(Error::Exists(folder.to_owned()));
    }
    let folder = resolved(folder)?;
    let new = |(name, bytes): (&String, &Vec<u8>)| FileChange {
        path: folder.join(name),
        old: None,
        new: Some(Kept::new(bytes.clone())),
        placed: None,
    };
    Ok(adopted.files.iter().map(new).collect())
}
