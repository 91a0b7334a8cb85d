//! Adopt: somebody else's rice, read and shown before anything is written; nothing of it is ever run.

use std::collections::BTreeMap;
use std::path::Path;

use jovrik_core::check::{Checked, Command, Files, Surroundings, check, commands};
use jovrik_core::desk::shell_line;
use jovrik_core::load::Source;
use jovrik_core::rice::Rice;
use jovrik_core::rice::catalogue::path_of;
use jovrik_file::{Unread, read_file};

use crate::file::{Kept, MOST_KEPT, resolved};
use crate::history::FileChange;
use crate::{Error, bundle};

/// A rice from outside.
#[derive(Debug)]
pub struct Adopted {
    /// Its files.
    pub files: BTreeMap<String, Vec<u8>>,
    /// The rice, checked.
    pub checked: Checked,
    /// Every command it holds: where it stands, and what would be run.
    pub commands: Vec<(String, String)>,
    /// Every file it would place.
    pub places: Vec<String>,
}

/// Reads a bundle or a folder.
pub fn read(source: &Path, around: &dyn Surroundings) -> Result<Adopted, Error> {
    let files = if source.is_dir() {
        if !source.join("rice.toml").exists() {
            return Err(Error::NotARice(source.to_owned()));
        }
        crate::apply::rice_files(source)?
    } else {
        let packed = read_file(source, MOST_KEPT).map_err(|why| match why {
            Unread::Other(_) | Unread::TooLarge(_) => Error::Bundle(why.to_string()),
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
    let checked = check(found, &[], around);
    // An overlay that does not hold here may hold tomorrow: what it would run is shown as well.
    let mut commands = listed(&checked.rice, "");
    let mut places: Vec<String> = checked.rice.place.0.keys().cloned().collect();
    for (place, rice) in &checked.elsewhere {
        for (path, command) in listed(rice, place) {
            let shown = |(own, known): &(String, String)| path.starts_with(own.as_str()) && *known == command;
            if !commands.iter().any(shown) {
                commands.push((path, command));
            }
        }
        places.extend(rice.place.0.keys().filter(|name| !checked.rice.place.0.contains_key(*name)).cloned());
    }
    places.sort();
    places.dedup();
    Ok(Adopted { files, checked, commands, places })
}

/// Every value of a rice that names something to run; `place` says where it holds, when that is not here.
fn listed(rice: &Rice, place: &str) -> Vec<(String, String)> {
    let place = if place.is_empty() { String::new() } else { format!(", {place}") };
    let one = |command: Command<'_>| {
        // A thing with a command is named by its own name; a binding by its chord.
        let whole = matches!(command.path[0], "program" | "keys");
        let steps = if whole { &command.path[..] } else { &command.path[..2] };
        (format!("{}{place}", path_of(steps)), shell_line(&command.argv))
    };
    commands(rice).into_iter().map(one).collect()
}

/// The files of an adopted rice in a new folder, to be written in one transaction.
pub fn writes(adopted: &Adopted, folder: &Path) -> Result<Vec<FileChange>, Error> {
    if folder.symlink_metadata().is_ok() {
        return Err(Error::Exists(folder.to_owned()));
    }
    let folder = resolved(folder)?;
    let new = |(name, bytes): (&String, &Vec<u8>)| FileChange {
        path: folder.join(name),
        old: None,
        new: Some(Kept::new(bytes.clone())),
        placed: None,
    };
    Ok(adopted.files.iter().map(new).collect())
}
