//! The samples that ship inside the program.

use std::path::{Path, PathBuf};

use crate::Error;
use crate::write::commit;

macro_rules! sample {
    ($name:literal: $($file:literal),* $(,)?) => {
        ($name, &[$(($file, include_bytes!(concat!("../../../samples/", $name, "/", $file)) as &[u8])),*] as &[(&str, &[u8])])
    };
}

/// The files of a sample: path and bytes.
pub type SampleFiles = &'static [(&'static str, &'static [u8])];

/// The samples by name; the first is the one that is meant when none is named.
pub const SAMPLES: &[(&str, SampleFiles)] = &[sample!("saltmarsh":
    "rice.toml",
    "parts/bar.toml",
    "parts/desk.toml",
    "parts/dock.toml",
    "parts/greeting.toml",
    "parts/keys.toml",
    "parts/launcher.toml",
    "parts/look.toml",
    "parts/start.toml",
    "parts/widgets.toml",
    "art/colours.css",
    "art/colours.json",
    "art/colours.sh",
    "art/colours.xres",
    "art/editor-keys.toml",
    "art/house.txt",
    "art/staff.txt",
    "overlays/laptop.toml",
    "machines/breakwater.toml",
    "machines/skiff.toml",
)];

/// A plain rice: ordinary names, none of the story; the programs of the computer are added.
pub const PLAIN: SampleFiles =
    sample!("plain": "rice.toml", "parts/bar.toml", "parts/desk.toml", "parts/keys.toml", "parts/look.toml").1;

/// The files that a bare one does without: what furnishes a desk beside windows, bars and keys.
pub const FURNITURE: &[&str] = &[
    "parts/dock.toml",
    "parts/greeting.toml",
    "parts/widgets.toml",
    "art/colours.css",
    "art/colours.json",
    "art/colours.sh",
    "art/house.txt",
    "art/staff.txt",
];

/// The files of a sample.
pub fn sample_files(name: &str) -> Option<SampleFiles> {
    SAMPLES.iter().find(|(other, _)| *other == name).map(|(_, files)| *files)
}

/// Writes a sample into a folder that is not there or empty; the files, in order.
pub fn new_rice(folder: &Path, files: &[(&str, &[u8])]) -> Result<Vec<PathBuf>, Error> {
    let there = match std::fs::read_dir(folder) {
        Ok(mut entries) => entries.next().is_some(),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => false,
        Err(error) => return Err(Error::io(folder, &error)),
    };
    if there {
        return Err(Error::Exists(folder.to_owned()));
    }
    let files: Vec<(PathBuf, Vec<u8>)> = files.iter().map(|(name, bytes)| (folder.join(name), bytes.to_vec())).collect();
    for parent in files.iter().filter_map(|(path, _)| path.parent()) {
        std::fs::create_dir_all(parent).map_err(|error| Error::io(parent, &error))?;
    }
    commit(&files)?;
    Ok(files.into_iter().map(|(path, _)| path).collect())
}
