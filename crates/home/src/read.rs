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
    let parts = folder.join("parts");
    let mut names: Vec<String> = match std::fs::read_dir(&parts) {
        Ok(entries) => entries
            .filter_map(|entry| entry.ok()?.file_name().into_string().ok())
            .filter(|name| name.ends_with(".toml") && !name.starts_with('.'))
            .collect(),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Vec::new(),
        Err(error) => {
            files.problems.push(
                Problem::error("file/unreadable", format!("parts cannot be read: {}", in_words(&error)))
                    .because("It holds all settings."),
            );
            Vec::new()
        }
    };
    names.sort_unstable();
    if names.len() > MOST_FILES {
        files.problems.push(Problem::error(
            "file/too-many",
            format!("parts has {} files; {MOST_FILES} is the most that is read", names.len()),
        ));
        names.truncate(MOST_FILES);
    }
    for name in names {
        let source = read_source(folder, &format!("parts/{name}"), &mut files.problems);
        files.parts.extend(source);
    }
    files
}

/// Reads and checks a rice.
pub fn check_folder(folder: &Path, with: &[(String, String)], around: &dyn Surroundings) -> Checked {
    check(read_folder(folder), with, around)
}

/// Whether a file, by its path in a rice's folder, is one whose saving means a reload.
pub fn is_watched(name: &str) -> bool {
    name.ends_with(".toml") && !name.starts_with('.')
}
