//! What a person picked on this computer, by rice: beside the history, in no rice.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use jovrik_core::check::LocalChoice;
use jovrik_file::{read_file, resolved, write_private};
use serde::{Deserialize, Serialize};

use crate::{Error, UserDirs};

/// The largest file of choices, in bytes.
const MAX_CHOICES_BYTES: u64 = 256 * 1024;
/// So many rices are remembered.
const MAX_RICES: usize = 64;

/// What was picked in one rice.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Chosen {
    /// Settings.
    pub settings: Vec<LocalChoice>,
    /// How many pictures of the backdrop's folder a person went on.
    pub turned: i64,
}

/// The choices of this computer.
#[derive(Debug, Clone)]
pub struct Choices {
    file: PathBuf,
}

impl Choices {
    /// Those of a person.
    pub fn of(home: &UserDirs) -> Choices {
        Choices { file: home.state.join("jovrik/choices.json") }
    }

    /// The file that they lie in.
    pub fn file(&self) -> &Path {
        &self.file
    }

    fn all(&self) -> BTreeMap<PathBuf, Chosen> {
        // What cannot be read is as if nothing had been picked.
        let bytes = read_file(&self.file, MAX_CHOICES_BYTES).unwrap_or_default();
        serde_json::from_slice(&bytes).unwrap_or_default()
    }

    /// What was picked in a rice.
    pub fn read(&self, rice: &Path) -> Chosen {
        let rice = resolved(rice).unwrap_or_else(|_| rice.to_owned());
        self.all().remove(&rice).unwrap_or_default()
    }

    /// Something else is picked in a rice.
    ///
    /// # Errors
    ///
    /// What cannot be written; what was picked before stays.
    pub fn write(&self, rice: &Path, chosen: Chosen) -> Result<(), Error> {
        let rice = resolved(rice).unwrap_or_else(|_| rice.to_owned());
        let mut all = self.all();
        // Of rices that are gone nothing is kept.
        all.retain(|other, _| *other != rice && other.is_dir());
        while all.len() >= MAX_RICES {
            all.pop_first();
        }
        if chosen != Chosen::default() {
            all.insert(rice, chosen);
        }
        let bytes = serde_json::to_vec_pretty(&all).unwrap_or_default();
        write_private(&self.file, &bytes).map_err(|error| Error::io(&self.file, &error))
    }

    /// Picks settings in a rice: each in the place of what was picked for it before; what the rice itself says is no choice.
    ///
    /// # Errors
    ///
    /// What cannot be written.
    pub fn pick(&self, rice: &Path, picked: Vec<LocalChoice>, turned: i64) -> Result<(), Error> {
        let mut chosen = self.read(rice);
        chosen.settings.retain(|before| picked.iter().all(|choice| choice.path != before.path));
        chosen.settings.extend(picked.into_iter().filter(|choice| choice.value != choice.over));
        self.write(rice, Chosen { turned, ..chosen })
    }
}
