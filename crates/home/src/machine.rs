//! This computer: its programs, and the facts of the computers that a rice names.

use std::cell::RefCell;
use std::collections::HashMap;
use std::ffi::OsString;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};

use jovrik_core::check::Surroundings;
use jovrik_core::load::{Source, Sources};
use jovrik_core::machine::Machine;
use jovrik_core::problem::Problem;

use crate::Error;

/// The programs of this computer, or those that a machine's facts name.
#[derive(Debug)]
pub struct Here {
    path: Vec<PathBuf>,
    home: PathBuf,
    facts: Option<Machine>,
    seen: RefCell<HashMap<String, bool>>,
}

impl Here {
    /// This computer, with its `PATH`.
    pub fn new(path: Option<OsString>, home: &Path) -> Here {
        let path = path.map(|path| std::env::split_paths(&path).collect()).unwrap_or_default();
        Here { path, home: home.to_owned(), facts: None, seen: RefCell::default() }
    }

    /// Another computer, by its facts.
    #[must_use]
    pub fn meeting(mut self, machine: Option<Machine>) -> Here {
        self.facts = machine.filter(|machine| !machine.programs.is_empty());
        self
    }

    fn look(&self, name: &str) -> bool {
        let runs =
            |path: &Path| std::fs::metadata(path).is_ok_and(|facts| facts.is_file() && facts.permissions().mode() & 0o111 != 0);
        match name.strip_prefix("~/") {
            Some(rest) => runs(&self.home.join(rest)),
            None if name.contains('/') => runs(Path::new(name)),
            None => self.path.iter().any(|folder| runs(&folder.join(name))),
        }
    }
}

impl Surroundings for Here {
    fn has_program(&self, name: &str) -> Option<bool> {
        if let Some(machine) = &self.facts {
            return Some(machine.programs.iter().any(|program| program == name));
        }
        let known = self.seen.borrow().get(name).copied();
        Some(known.unwrap_or_else(|| {
            let found = self.look(name);
            self.seen.borrow_mut().insert(name.to_owned(), found);
            found
        }))
    }
}

/// The facts of a computer: of a file, else of the rice's `machines/` the one whose host is this, else the first.
pub fn machine_for(asked: Option<&Path>, folder: &Path, host: &str) -> Result<(Option<Machine>, Sources, Vec<Problem>), Error> {
    let mut sources = Sources::default();
    let read = |path: &Path| std::fs::read_to_string(path).map_err(|error| Error::io(path, &error));
    if let Some(name) = asked {
        let in_rice = folder.join("machines").join(name).with_extension("toml");
        let path = if !name.exists() && in_rice.exists() { in_rice } else { name.to_owned() };
        let source = Source::new(path.display().to_string(), read(&path)?);
        let (machine, problems) = Machine::read(&mut sources, source);
        return Ok((Some(machine), sources, problems));
    }
    let mut paths: Vec<PathBuf> = std::fs::read_dir(folder.join("machines"))
        .map(|entries| {
            entries
                .filter_map(|entry| Some(entry.ok()?.path()))
                .filter(|path| path.extension().is_some_and(|end| end == "toml"))
                .collect()
        })
        .unwrap_or_default();
    paths.sort_unstable();
    let mut first = None;
    for path in paths {
        let name = format!("machines/{}", path.file_name().unwrap_or_default().to_string_lossy());
        let (machine, problems) = Machine::read(&mut sources, Source::new(name, read(&path)?));
        let this = machine.host == host;
        if this || first.is_none() {
            first = Some((machine, problems));
        }
        if this {
            break;
        }
    }
    let (machine, problems) = first.map_or((None, Vec::new()), |(machine, problems)| (Some(machine), problems));
    Ok((machine, sources, problems))
}
