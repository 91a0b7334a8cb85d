//! Publish: a rice made fit for others.

use std::path::Path;

use jovrik_core::check::{Person, share};
use jovrik_core::load::{Source, Sources};
use jovrik_core::problem::{Problem, Severity};

use crate::apply::rice_files;
use crate::{Error, Home, bundle};

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

/// Looks a rice through and packs it. Codes in `allow` are accepted, and recorded in the bundle.
pub fn publish(
    folder: &Path,
    name: &str,
    version: &str,
    home: &Home,
    user: &str,
    host: &str,
    allow: &[String],
) -> Result<Published, Error> {
    let files = rice_files(folder)?;
    let mut sources = Sources::default();
    for (name, bytes) in &files {
        if let Ok(text) = std::str::from_utf8(bytes) {
            sources.add(Source::new(name.clone(), text));
        }
    }
    let person = Person { home: home.home.display().to_string(), user: user.to_owned(), host: host.to_owned() };
    let mut problems = share(&sources, &person);
    let used: Vec<String> =
        allow.iter().filter(|code| problems.iter().any(|problem| problem.code == code.as_str())).cloned().collect();
    problems.retain(|problem| !allow.iter().any(|code| code == problem.code));
    let stopped = problems.iter().any(|problem| problem.severity == Severity::Error);
    let bundle = if stopped { None } else { Some(bundle::pack(name, version, used, &files)?) };
    Ok(Published { sources, problems, bundle, files: files.len() })
}
