//! A rice's folder to its files, whatever they are.

use std::path::Path;

use jovrik_core::check::{CheckedRice, Files, HostInfo, check};
use jovrik_file::{ReadError, in_words, read_file, read_inside};
use jovrik_text::problem::Problem;
use jovrik_text::{Position, Source, limits};

/// The largest file that is read, in bytes.
const MAX_FILE_BYTES: u64 = limits::SETTINGS_BYTES as u64;
/// The most files that are read.
const MAX_FILES: usize = limits::SETTINGS_FILES;

/// Why a text was not read.
#[derive(Debug, thiserror::Error)]
pub(crate) enum Unreadable {
    #[error(transparent)]
    Unread(ReadError),
    /// Not UTF-8 from this byte and place on.
    #[error("it is not UTF-8: byte {} is no part of a character", .0 + 1)]
    NotUtf8(usize, Position),
}

/// A text of a file.
pub(crate) fn text(path: &Path) -> Result<String, Unreadable> {
    read_file(path, MAX_FILE_BYTES).map_err(Unreadable::Unread).and_then(utf8)
}

fn utf8(bytes: Vec<u8>) -> Result<String, Unreadable> {
    String::from_utf8(bytes).map_err(|error| {
        let at = error.utf8_error().valid_up_to();
        let sound = String::from_utf8_lossy(&error.as_bytes()[..at]).into_owned();
        Unreadable::NotUtf8(at, Source::new("", sound).position(at as u32))
    })
}

fn read_source(folder: &Path, name: &str, problems: &mut Vec<Problem>) -> Option<Source> {
    let lost = "Nothing of it is used.";
    // Settings may be kept elsewhere and linked; what settings name may not lead out of the rice.
    let read = if name.starts_with("art/") {
        read_inside(folder, name, MAX_FILE_BYTES).map_err(Unreadable::Unread).and_then(utf8)
    } else {
        text(&folder.join(name))
    };
    match read {
        Ok(text) => return Some(Source::new(name, text)),
        Err(Unreadable::Unread(ReadError::TooLarge(_))) => problems.push(
            Problem::error("file/too-large", format!("{name} has more than 4 MiB, which is the most that is read"))
                .in_file(name, None)
                .because(lost),
        ),
        Err(Unreadable::Unread(why)) => {
            problems.push(
                Problem::error("file/unreadable", format!("{name} cannot be read: {why}")).in_file(name, None).because(lost),
            );
        }
        Err(Unreadable::NotUtf8(at, place)) => problems.push(
            Problem::error("file/not-utf8", format!("{name} is not UTF-8: byte {} is no part of a character", at + 1))
                .in_file(name, Some(place))
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
    for within in ["parts", "overlays"] {
        skipped_below(folder, within, &mut files.skipped);
    }
    let lost = files.skipped.iter().filter(|(_, why)| !matches!(*why, HIDDEN | COPY | NOTES));
    files.problems.extend(lost.map(|(name, why)| not_read(name, why)));
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
                    .in_file(within, None)
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
    if names.len() > MAX_FILES {
        let title = format!("{within} has {} files; {MAX_FILES} is the most that is read", names.len());
        problems.push(Problem::error("file/too-many", title).in_file(within, None));
        names.truncate(MAX_FILES);
    }
    names.iter().filter_map(|name| read_source(folder, &format!("{within}/{name}"), problems)).collect()
}

/// Why files are not read.
const HIDDEN: &str = "hidden";
const COPY: &str = "an editor's copy";
const NOTES: &str = "a text beside the settings";
const CAPITALS: &str = "its ending is in capitals; it must be .toml";
const ENDING: &str = "its name does not end in .toml";
const BESIDE: &str = "settings are read from parts/ and overlays/ only";
const BELOW: &str = "folders inside of parts/ and overlays/ are not looked into";

/// A file that looks as if it held settings, and is not read.
fn not_read(name: &str, why: &str) -> Problem {
    let last = name.rsplit('/').next().unwrap_or(name);
    let within = if name.starts_with("overlays/") { "overlays" } else { "parts" };
    let to = match why {
        CAPITALS => format!("{within}/{}", last.to_lowercase()),
        ENDING => format!("{within}/{}.toml", last.split('.').next().unwrap_or(last)),
        _ => format!("{within}/{last}"),
    };
    Problem::warning("file/not-read", format!("{name} is not read: {why}"))
        .in_file(name, None)
        .because("Nothing in it is used.")
        .advise(format!("mv {name} {to}"), "where it is read; or take it out of the rice")
}

/// Why a file in a folder of settings is not read, if it is not.
fn passed_over(name: &str) -> Option<&'static str> {
    match name {
        name if name.starts_with('.') => Some(HIDDEN),
        name if name.ends_with(".toml") => None,
        name if name.ends_with('~') || name.ends_with(".bak") || name.ends_with(".orig") => Some(COPY),
        name if name.ends_with(".md") || name.ends_with(".txt") => Some(NOTES),
        name if name.to_lowercase().ends_with(".toml") => Some(CAPITALS),
        _ => Some(ENDING),
    }
}

/// Notes files beside `rice.toml` that look as if they were settings.
fn skipped_beside(folder: &Path, skipped: &mut Vec<(String, &'static str)>) {
    let Ok(entries) = std::fs::read_dir(folder) else { return };
    let mut names: Vec<String> = entries.filter_map(|entry| entry.ok()?.file_name().into_string().ok()).collect();
    names.retain(|name| name.to_lowercase().ends_with(".toml") && !name.starts_with('.') && name != "rice.toml");
    names.sort_unstable();
    skipped.extend(names.into_iter().map(|name| (name, BESIDE)));
}

/// Notes files that look as if they were settings in the folders of a folder of settings.
fn skipped_below(folder: &Path, within: &str, skipped: &mut Vec<(String, &'static str)>) {
    let inside = |name: &str| -> Vec<String> {
        let entries = std::fs::read_dir(folder.join(name)).into_iter().flatten().take(MAX_FILES);
        let mut names: Vec<String> = entries.filter_map(|entry| entry.ok()?.file_name().into_string().ok()).collect();
        names.sort_unstable();
        names.into_iter().filter(|name| !name.starts_with('.')).map(|own| format!("{name}/{own}")).collect()
    };
    for below in inside(within).into_iter().filter(|name| folder.join(name).is_dir()) {
        // The folder itself was noted as a file of another ending.
        skipped.retain(|(name, _)| *name != below);
        let lost = inside(&below).into_iter().filter(|name| name.to_lowercase().ends_with(".toml"));
        skipped.extend(lost.map(|name| (name, BELOW)));
    }
}

/// Reads and checks a rice.
pub fn check_folder(folder: &Path, with: &[(String, String)], around: &dyn HostInfo) -> CheckedRice {
    check(read_folder(folder), with, around)
}

/// Whether a file, by its path in a rice's folder, is one whose saving means a reload.
pub fn is_watched(name: &str) -> bool {
    name.ends_with(".toml") && !name.starts_with('.')
}
