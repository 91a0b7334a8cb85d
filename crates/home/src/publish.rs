//! Publish: a rice made fit for others.

use std::collections::BTreeMap;
use std::path::Path;

use jovrik_core::check::ProblemFilter;
use jovrik_leak_scan::{Person, file_name, share, share_bytes};
use jovrik_text::problem::{Problem, Severity};
use jovrik_text::{Source, Sources};

use crate::apply::rice_files;
use crate::{Error, bundle, metadata};

/// A rice that was looked through, and its bundle unless something stops it.
#[derive(Debug)]
pub struct PublishReport {
    /// The files as text, for the places of problems.
    pub sources: Sources,
    /// What is not fit to be shared.
    pub problems: Vec<Problem>,
    /// How many of what is not fit were accepted.
    pub accepted: usize,
    /// What was to be accepted, and is nowhere.
    pub idle: Vec<String>,
    /// Pictures of which what was said besides the picture was cut out.
    pub cut: Vec<String>,
    /// The bundle.
    pub bundle: Option<Vec<u8>>,
    /// How many files are in it.
    pub files: usize,
}

/// Whether a bundle stands at a path.
pub fn is_bundle(path: &Path) -> bool {
    jovrik_file::read_file(path, crate::file::MAX_KEPT_BYTES).is_ok_and(|bytes| bundle::unpack(&bytes).is_ok())
}

/// Looks a rice through and packs it. What `allow` takes is accepted, and recorded in the bundle, with the sum of its line where it names
/// one; files in `own`, such as personal overlays, stay at home.
pub fn publish(
    folder: &Path,
    name: &str,
    version: &str,
    person: &Person,
    allow: &[String],
    own: &[&str],
) -> Result<PublishReport, Error> {
    let mut files: BTreeMap<String, Vec<u8>> = rice_files(folder)?.into_iter().map(|(name, file)| (name, file.bytes)).collect();
    files.retain(|name, _| !own.contains(&name.as_str()));
    let mut sources = Sources::default();
    let mut cut = Vec::new();
    let mut problems = Vec::new();
    for (name, bytes) in &mut files {
        if let Ok(text) = std::str::from_utf8(bytes) {
            sources.add(Source::new(name.clone(), text));
            continue;
        }
        if let Some(bare) = metadata::without(bytes) {
            *bytes = bare;
            cut.push(name.clone());
        }
        if metadata::is_picture(bytes) {
            problems.extend(file_name(name, person));
        } else {
            problems.extend(share_bytes(name, bytes, person));
        }
    }
    problems.splice(0..0, share(&sources, person));
    let accepts: Vec<(&String, ProblemFilter)> = allow.iter().map(|text| (text, ProblemFilter::parse(text))).collect();
    let used = |accept: &ProblemFilter| problems.iter().any(|problem| accept.takes(problem, &sources));
    let (used, idle): (Vec<_>, Vec<_>) = accepts.iter().partition(|(_, accept)| used(accept));
    let recorded = used.iter().map(|(text, accept)| recorded(text, accept, &sources)).collect();
    let idle = idle.iter().map(|(text, _)| (*text).clone()).collect();
    let before = problems.len();
    problems.retain(|problem| !accepts.iter().any(|(_, accept)| accept.takes(problem, &sources)));
    let accepted = before - problems.len();
    let stopped = problems.iter().any(|problem| problem.severity == Severity::Error);
    let bundle = if stopped { None } else { Some(bundle::pack(name, version, recorded, &files)?) };
    Ok(PublishReport { sources, problems, accepted, idle, cut, bundle, files: files.len() })
}

/// What is recorded of an exception: itself, and the BLAKE3 sum of the line that it names, so that it takes no other line.
fn recorded(text: &str, accept: &ProblemFilter, sources: &Sources) -> String {
    let file = accept.of.as_deref().and_then(|file| sources.get(sources.named(file)?));
    match (accept.line, file) {
        (Some(line), Some(file)) => format!("{text}#{}", &blake3::hash(file.line(line).as_bytes()).to_hex()[..16]),
        _ => text.to_owned(),
    }
}
