//! Publish: a rice made fit for others.

use std::path::Path;

use jovrik_core::check::{Person, share};
use jovrik_core::load::{Source, Sources};
use jovrik_core::problem::{Problem, Severity};

use crate::apply::rice_files;
use crate::{Error, bundle};

/// A rice that was looked through, and its bundle unless something stops it.
#[derive(Debug)]
pub struct Published {
    /// The files as text, for the places of problems.
    pub sources: Sources,
    /// What is not fit to be shared.
    pub problems: Vec<Problem>,
    /// The bundle.
    pub bundle: Option<Vec<u8>>,
    /// How many files are in it.
    pub files: usize,
}

/// Whether a bundle stands at a path.
pub fn is_bundle(path: &Path) -> bool {
    jovrik_file::read_file(path, crate::file::MOST_KEPT).is_ok_and(|bytes| bundle::unpack(&bytes).is_ok())
}

/// Looks a rice through and packs it. Codes in `allow` are accepted, and recorded in the bundle; files in `own`, such as
/// personal overlays, stay at home.
pub fn publish(
    folder: &Path,
    name: &str,
    version: &str,
    person: &Person,
    allow: &[String],
    own: &[&str],
) -> Result<Published, Error> {
    let mut files = rice_files(folder)?;
    files.retain(|name, _| !own.contains(&name.as_str()));
    let mut sources = Sources::default();
    for (name, bytes) in &files {
        if let Ok(text) = std::str::from_utf8(bytes) {
            sources.add(Source::new(name.clone(), text));
        }
    }
    let mut problems = share(&sources, person);
    let used: Vec<String> =
        allow.iter().filter(|code| problems.iter().any(|problem| problem.code == code.as_str())).cloned().collect();
    problems.retain(|problem| !allow.iter().any(|code| code == problem.code));
    let stopped = problems.iter().any(|problem| problem.severity == Severity::Error);
    let bundle = if stopped { None } else { Some(bundle::pack(name, version, used, &files)?) };
    Ok(Published { sources, problems, bundle, files: files.len() })
}
