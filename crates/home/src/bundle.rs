//! A bundle: tar, compressed with zstd, with a manifest of BLAKE3 sums. The same input gives the same bytes.

use std::collections::{BTreeMap, BTreeSet};
use std::io::Read;
use std::path::{Component, Path};

use jovrik_text::limits;
use serde::{Deserialize, Serialize};

use crate::Error;

/// The name of the manifest inside.
const MANIFEST: &str = "MANIFEST.json";
/// The number of this format.
const FORMAT: u32 = 1;
/// Limits on what is unpacked.
const MAX_PACKED_BYTES: u64 = limits::BUNDLE_PACKED as u64;
const MAX_UNPACKED_BYTES: u64 = limits::BUNDLE_BYTES as u64;
const MAX_FILES: usize = limits::RICE_FILES;

/// What a bundle says of itself.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct BundleManifest {
    /// The number of the format.
    pub format: u32,
    /// The rice's name.
    pub name: String,
    /// Its version.
    pub version: String,
    /// Warnings that were allowed when it was made.
    pub allowed: Vec<String>,
    /// Its files with their sizes and sums.
    pub files: BTreeMap<String, FileSum>,
}

/// One file's size and sum.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FileSum {
    /// Its size in bytes.
    pub size: u64,
    /// Its BLAKE3 sum, in hexadecimal.
    pub blake3: String,
}

/// Packs files; paths are those inside the rice.
pub fn pack(name: &str, version: &str, allowed: Vec<String>, files: &BTreeMap<String, Vec<u8>>) -> Result<Vec<u8>, Error> {
    let broken = |error: std::io::Error| Error::Bundle(error.to_string());
    let sum = |bytes: &[u8]| FileSum { size: bytes.len() as u64, blake3: blake3::hash(bytes).to_hex().to_string() };
    let sums = files.iter().map(|(name, bytes)| (name.clone(), sum(bytes))).collect();
    let manifest = BundleManifest { format: FORMAT, name: name.to_owned(), version: version.to_owned(), allowed, files: sums };
    let text = serde_json::to_vec_pretty(&manifest).map_err(|error| Error::Bundle(error.to_string()))?;
    let mut archive = tar::Builder::new(Vec::new());
    let all =
        std::iter::once((MANIFEST, text.as_slice())).chain(files.iter().map(|(name, bytes)| (name.as_str(), bytes.as_slice())));
    for (name, bytes) in all {
        let mut header = tar::Header::new_gnu();
        header.set_size(bytes.len() as u64);
        header.set_mode(0o644);
        header.set_mtime(0);
        archive.append_data(&mut header, name, bytes).map_err(broken)?;
    }
    let archive = archive.into_inner().map_err(broken)?;
    zstd::encode_all(archive.as_slice(), 19).map_err(broken)
}

fn fair_name(name: &str) -> bool {
    let plain = Path::new(name).components().all(|part| matches!(part, Component::Normal(_)));
    let no_control = !name.chars().any(|c| c.is_control() || c == '\\' || c == ':');
    plain
        && no_control
        && !name.is_empty()
        && name.len() <= 200
        && !name.ends_with('/')
        && !name.split('/').any(|part| part.is_empty() || part.starts_with('.'))
}

/// Unpacks a bundle into memory; whatever is odd about it refuses the whole.
pub fn unpack(packed: &[u8]) -> Result<(BundleManifest, BTreeMap<String, Vec<u8>>), Error> {
    let refuse = |why: String| Error::Bundle(why);
    if packed.len() as u64 > MAX_PACKED_BYTES {
        return Err(refuse("it is larger than 64 MiB".to_owned()));
    }
    let reader = zstd::Decoder::new(packed).map_err(|_| refuse("it is not compressed as a bundle is".to_owned()))?;
    let mut bytes = Vec::new();
    reader.take(MAX_UNPACKED_BYTES + 1).read_to_end(&mut bytes).map_err(|_| refuse("it is damaged, or no bundle".to_owned()))?;
    if bytes.len() as u64 > MAX_UNPACKED_BYTES {
        return Err(refuse("unpacked it is larger than 128 MiB".to_owned()));
    }
    let mut files: BTreeMap<String, Vec<u8>> = BTreeMap::new();
    let mut folded: BTreeSet<String> = BTreeSet::new();
    let mut archive = tar::Archive::new(bytes.as_slice());
    for entry in archive.entries().map_err(|error| refuse(error.to_string()))? {
        let mut entry = entry.map_err(|error| refuse(format!("it is damaged: {error}")))?;
        let name =
            String::from_utf8(entry.path_bytes().into_owned()).map_err(|_| refuse("a name in it is not UTF-8".to_owned()))?;
        if entry.header().entry_type() != tar::EntryType::Regular {
            return Err(refuse(format!("{} is a link, a folder or a device; only files are taken", name.escape_debug())));
        }
        if !fair_name(&name) {
            return Err(refuse(format!("the path {} leads out of the rice's folder or is no fit name", name.escape_debug())));
        }
        if !folded.insert(name.to_lowercase()) {
            return Err(refuse(format!("{name} is in it twice, or again with other capitals")));
        }
        if files.len() >= MAX_FILES {
            return Err(refuse(format!("it holds more than {MAX_FILES} files")));
        }
        let mut contents = Vec::new();
        entry.read_to_end(&mut contents).map_err(|error| refuse(format!("it is damaged: {error}")))?;
        files.insert(name, contents);
    }
    let manifest = files.remove(MANIFEST).ok_or_else(|| refuse(format!("it has no {MANIFEST}")))?;
    #[derive(Deserialize)]
    struct Head {
        format: u32,
    }
    let head: Head =
        serde_json::from_slice(&manifest).map_err(|error| refuse(format!("its {MANIFEST} cannot be read: {error}")))?;
    if head.format < 1 {
        return Err(refuse(format!("it says that it is written in format {}; the first is 1", head.format)));
    }
    if head.format > FORMAT {
        return Err(refuse(format!("it is written in format {}, which is newer than this program", head.format)));
    }
    let manifest: BundleManifest =
        serde_json::from_slice(&manifest).map_err(|error| refuse(format!("its {MANIFEST} cannot be read: {error}")))?;
    for (name, sum) in &manifest.files {
        let Some(bytes) = files.get(name) else { return Err(refuse(format!("{name} is listed but not in it"))) };
        if bytes.len() as u64 != sum.size || blake3::hash(bytes).to_hex().as_str() != sum.blake3 {
            return Err(refuse(format!("{name} is not what its sum says")));
        }
    }
    if let Some(extra) = files.keys().find(|name| !manifest.files.contains_key(*name)) {
        return Err(refuse(format!("{extra} is in it but not listed")));
    }
    // A file and a folder of one name cannot both be.
    for name in files.keys() {
        let above = Path::new(name).ancestors().skip(1).filter_map(Path::to_str);
        if let Some(clash) = above.into_iter().find(|above| !above.is_empty() && files.contains_key(*above)) {
            return Err(refuse(format!("{clash} is both a file and a folder")));
        }
    }
    Ok((manifest, files))
}
