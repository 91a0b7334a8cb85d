//! Adopt: somebody else's rice, read and shown before anything is written; nothing of it is ever run.

use std::collections::BTreeMap;
use std::path::Path;

use jovrik_core::check::{
    CapabilityUse, CheckedRice, Files, HostInfo, PlaceSourceError, PlaceTargetError, Unclear, check, possible_texts, reaching,
};
use jovrik_core::desk::MonitorFacts;
use jovrik_core::keys::{KeyboardLayouts, RuleNames, UnknownLayout};
use jovrik_core::rice::Rice;
use jovrik_core::scene::TextStyle;
use jovrik_core::template::holes;
use jovrik_file::{ReadError, read_file};
use jovrik_schema::catalogue::Capability;
use jovrik_text::{Source, Sources};
use jovrik_values::ModuleValues;

use crate::file::{FileSnapshot, MAX_KEPT_BYTES, resolved};
use crate::history::FileChange;
use crate::target::Carried;
use crate::{Error, bundle};

/// A rice from outside.
#[derive(Debug)]
pub struct AdoptedRice {
    /// Its files.
    pub files: BTreeMap<String, Vec<u8>>,
    /// Their permission bits, as far as the source has any.
    pub modes: BTreeMap<String, u32>,
    /// The rice, checked.
    pub checked: CheckedRice,
    /// Everything in it that reaches out: what would be run, set or written.
    pub reaching: Vec<CapabilityUse>,
}

/// Reads a bundle or a folder.
pub fn read(source: &Path, around: &dyn HostInfo) -> Result<AdoptedRice, Error> {
    let mut modes = BTreeMap::new();
    let files = if source.is_dir() {
        if !source.join("rice.toml").exists() {
            return Err(Error::NotARice(source.to_owned()));
        }
        let read = crate::apply::rice_files(source)?;
        modes = read.iter().map(|(name, file)| (name.clone(), file.mode)).collect();
        read.into_iter().map(|(name, file)| (name, file.bytes)).collect()
    } else {
        let packed = read_file(source, MAX_KEPT_BYTES).map_err(|why| match why {
            ReadError::Other(_) | ReadError::TooLarge(_) => Error::Bundle(why.to_string()),
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
    let unclear = |unclear: Unclear| Error::Unclear { place: checked.sources.place(unclear.span), unclear };
    let mut reaching = reaching(&checked.sources).map_err(unclear)?;
    for one in &mut reaching {
        one.content = content_of(one, &files, &checked.sources).map_err(unclear)?;
    }
    Ok(AdoptedRice { files, modes, checked, reaching })
}

/// A sum of what a value brings along beside its own words: the files of the rice that it names, by themselves or by a folder
/// that they lie in, and what settings may put into them where they are templates.
fn content_of(one: &CapabilityUse, files: &BTreeMap<String, Vec<u8>>, sources: &Sources) -> Result<Option<String>, Unclear> {
    let settings = |name: &str| {
        let folder = name.split('/').next().filter(|_| name.contains('/')).unwrap_or_default();
        name == "rice.toml" || (name.ends_with(".toml") && matches!(folder, "parts" | "overlays" | "machines"))
    };
    let mut hasher = blake3::Hasher::new();
    let mut named = false;
    let mut add = |bytes: &[u8]| {
        hasher.update(&(bytes.len() as u64).to_le_bytes()).update(bytes);
    };
    for (name, bytes) in files.iter().filter(|(name, _)| !settings(name)) {
        if !name.split('/').any(|step| is_named(&one.what, step)) {
            continue;
        }
        named = true;
        add(name.as_bytes());
        add(bytes);
        if one.reach == Capability::WriteFile {
            for hole in holes(&String::from_utf8_lossy(bytes)) {
                possible_texts(sources, hole)?.iter().for_each(|text| add(text.as_bytes()));
            }
        }
    }
    Ok(named.then(|| hasher.finalize().to_hex().to_string()))
}

/// Whether a word of a command is a name.
fn is_named(command: &str, name: &str) -> bool {
    let part = |c: Option<char>| c.is_some_and(|c| c.is_alphanumeric() || matches!(c, '_' | '-'));
    command
        .match_indices(name)
        .any(|(at, _)| !part(command[..at].chars().next_back()) && !part(command[at + name.len()..].chars().next()))
}

const NOT_AMONG: &str = "it is not among its files";

/// A computer, and a rice of which the files are in no folder yet.
struct Theirs<'a> {
    around: &'a dyn HostInfo,
    files: &'a BTreeMap<String, Vec<u8>>,
}

impl HostInfo for Theirs<'_> {
    fn name(&self) -> String {
        self.around.name()
    }
    fn hostname(&self) -> Option<String> {
        self.around.hostname()
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
    fn width(&self, text: &str, face: &TextStyle) -> Option<f32> {
        self.around.width(text, face)
    }
    fn known(&self, rice: &Rice) -> ModuleValues {
        self.around.known(rice)
    }
    fn keyboards(&self, asked: &RuleNames, latin: bool) -> Option<(KeyboardLayouts, Vec<UnknownLayout>)> {
        self.around.keyboards(asked, latin)
    }
    fn target(&self, to: &str) -> Option<Result<String, PlaceTargetError>> {
        self.around.target(to)
    }
    fn source(&self, from: &str) -> Option<Result<Vec<u8>, PlaceSourceError>> {
        Some(self.files.get(from.trim_start_matches("./")).cloned().ok_or_else(|| PlaceSourceError(NOT_AMONG.to_owned())))
    }
    fn picture(&self, path: &str) -> Option<String> {
        (!self.files.contains_key(path.trim_start_matches("./"))).then(|| NOT_AMONG.to_owned())
    }
}

/// The files of an adopted rice in a new folder, to be written in one transaction.
pub fn writes(adopted: &AdoptedRice, folder: &Path) -> Result<Vec<FileChange>, Error> {
    if folder.symlink_metadata().is_ok() {
        return Err(Error::Exists(folder.to_owned()));
    }
    let folder = resolved(folder)?;
    let new = |(name, bytes): (&String, &Vec<u8>)| {
        let path = folder.join(name);
        let kept = match adopted.modes.get(name) {
            Some(mode) => Carried { bytes: Vec::new(), mode: *mode }.placed(&path, bytes.clone()),
            None => FileSnapshot::new(bytes.clone()),
        };
        FileChange { path, old: None, new: Some(kept), placed: None }
    };
    Ok(adopted.files.iter().map(new).collect())
}
