//! A rice's folder to its files, whatever they are.

use std::io::Read;
use std::path::Path;

use jovrik_core::check::{Checked, Files, Surroundings, check};
use jovrik_core::load::Source;
use jovrik_core::problem::Problem;

use crate::error::in_words;

/// The largest file that is read, in bytes.
const MOST_BYTES: u64 = 4 * 1024 * 1024;
/// The most files that are read.
const MOST_FILES: usize = 500;

/// Why a file was not read.
enum Unreadable {
    Io(String),
    TooLarge(u64),
    NotUtf8(usize),
    NoFile,
}

fn read_text(path: &Path) -> Result<String, Unreadable> {
    let facts = std::fs::metadata(path).map_err(|error| Unreadable::Io(in_words(&error)))?;
    if !facts.is_file() {
        return Err(if facts.is_dir() { Unreadable::Io("it is a folder".to_owned()) } else { Unreadable::NoFile });
    }
    if facts.len() > MOST_BYTES {
        return Err(Unreadable::TooLarge(facts.len()));
    }
    let mut bytes = Vec::with_capacity(facts.len() as usize);
    let file = std::fs::File::open(path).map_err(|error| Unreadable::Io(in_words(&error)))?;
    file.take(MOST_BYTES + 1).read_to_end(&mut bytes).map_err(|error| Unreadable::Io(in_words(&error)))?;
    if bytes.len() as u64 > MOST_BYTES {
        return Err(Unreadable::TooLarge(bytes.len() as u64));
    }
    String::from_utf8(bytes).map_err(|error| Unreadable::NotUtf8(error.utf8_error().valid_up_to()))
}

fn read_source(folder: &Path, name: &str, problems: &mut Vec<Problem>) -> Option<Source> {
    let lost = "Nothing of it is used.";
    match read_text(&folder.join(name)) {
        Ok(text) => return Some(Source::new(name, text)),
        Err(Unreadable::Io(why)) => {
            problems.push(Problem::error("file/unreadable", format!("{name} cannot be read: {why}")).because(lost))
        }
        Err(Unreadable::NoFile) => {
            problems.push(Problem::error("file/unreadable", format!("{name} is a device or a pipe, not a file")).because(lost));
        }
        Err(Unreadable::TooLarge(bytes)) => {
            let mib = bytes.div_ceil(1024 * 1024);
            problems.push(
                Problem::error("file/too-large", format!("{name} has {mib} MiB; 4 MiB is the most that is read")).because(lost),
            );
        }
        Err(Unreadable::NotUtf8(at)) => problems.push(
            Problem::error("file/not-utf8", format!("{name} is not UTF-8: byte {} is no part of a character", at + 1))
                .because("A rice is UTF-8 text; nothing of this file is used.")
                .advise("save it as UTF-8", "in the editor that wrote it"),
        ),
    }
    None
}

/// Reads the files of a rice.
pub fn read_folder(folder: &Path) -> Files {
    let mut files = Files::default();
    files.manifest = read_source(folder, "rice.toml", &mut files.problems);
    files.parts = read_tables(folder, "parts", &mut files.skipped, &mut files.problems);
    files.overlays = read_tables(folder, "overlays", &mut files.skipped, &mut files.problems);
    files.machines = read_tables(folder, "machines", &mut files.skipped, &mut files.problems);
    // Pictures and texts stand beside them: only what cannot be read is told, and only of those that are named.
    files.art = read_tables(folder, "art", &mut Vec::new(), &mut Vec::new());
    skipped_beside(folder, &mut files.skipped);
    files
}

/// Reads the TOML files of a folder in name order, and notes what is passed over.
fn read_tables(
    folder: &Path,
    within: &str,
    skipped: &mut Vec<(String, &'static str)>,
    problems: &mut Vec<Problem>,
) -> Vec<Source> {
    let mut names: Vec<String> = match std::fs::read_dir(folder.join(within)) {
        Ok(entries) => entries.filter_map(|entry| entry.ok()?.file_name().into_string().ok()).collect(),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Vec::new(),
        Err(error) => {
            problems.push(
                Problem::error("file/unreadable", format!("{within} cannot be read: {}", in_words(&error)))
                    .because("Nothing in it is used."),
            );
            Vec::new()
        }
    };
    names.sort_unstable();
    names.retain(|name| {
        let why = passed_over(name);
        skipped.extend(why.map(|why| (format!("{within}/{name}"), why)));
        why.is_none()
    });
    if names.len() > MOST_FILES {
        problems.push(Problem::error(
            "file/too-many",
            format!("{within} has {} files; {MOST_FILES} is the most that is read", names.len()),
        ));
        names.truncate(MOST_FILES);
    }
    names.iter().filter_map(|name| read_source(folder, &format!("{within}/{name}"), problems)).collect()
}

/// Why a file in a folder of settings is not read, if it is not.
fn passed_over(name: &str) -> Option<&'static str> {
    match name {
        name if name.starts_with('.') => Some("hidden"),
        name if name.ends_with(".toml") => None,
        name if name.ends_with('~') || name.ends_with(".bak") || name.ends_with(".orig") => Some("an editor's copy"),
        _ => Some("its name does not end in .toml"),
    }
}

/// Notes files beside `rice.toml` that look as if they were settings.
fn skipped_beside(folder: &Path, skipped: &mut Vec<(String, &'static str)>) {
    let Ok(entries) = std::fs::read_dir(folder) else { return };
    let mut names: Vec<String> = entries.filter_map(|entry| entry.ok()?.file_name().into_string().ok()).collect();
    names.retain(|name| name.ends_with(".toml") && !name.starts_with('.') && name != "rice.toml");
    names.sort_unstable();
    skipped.extend(names.into_iter().map(|name| (name, "settings are read from parts/ and overlays/ only")));
}

/// Reads and checks a rice.
pub fn check_folder(folder: &Path, with: &[(String, String)], around: &dyn Surroundings) -> Checked {
    check(read_folder(folder), with, around)
}

/// Whether a file, by its path in a rice's folder, is one whose saving means a reload.
pub fn is_watched(name: &str) -> bool {
    name.ends_with(".toml") && !name.starts_with('.')
}
