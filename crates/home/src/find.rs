//! Where things are: the person's folders, the active rice.

use std::path::{Path, PathBuf};

use crate::Error;

/// The folders of a person, by the XDG Base Directory specification.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Home {
    /// The home folder.
    pub home: PathBuf,
    /// `$XDG_CONFIG_HOME`.
    pub config: PathBuf,
    /// `$XDG_STATE_HOME`.
    pub state: PathBuf,
    /// `$XDG_RUNTIME_DIR`, or a folder of this user's alone.
    pub runtime: PathBuf,
}

impl Home {
    /// From environment variables, as `get` tells them.
    pub fn of(get: &dyn Fn(&str) -> Option<std::ffi::OsString>) -> Home {
        let absolute = |name: &str| get(name).map(PathBuf::from).filter(|path| path.is_absolute());
        let home = absolute("HOME").unwrap_or_else(|| PathBuf::from("/"));
        let user = rustix::process::getuid().as_raw();
        Home {
            config: absolute("XDG_CONFIG_HOME").unwrap_or_else(|| home.join(".config")),
            state: absolute("XDG_STATE_HOME").unwrap_or_else(|| home.join(".local/state")),
            runtime: absolute("XDG_RUNTIME_DIR").unwrap_or_else(|| std::env::temp_dir().join(format!("jovrik-{user}"))),
            home,
        }
    }

    /// Where an applied rice lies.
    pub fn rice(&self) -> PathBuf {
        self.config.join("jovrik/rice")
    }

    /// The history's file.
    pub fn history(&self) -> PathBuf {
        self.state.join("jovrik/history.sqlite")
    }

    /// A path with `~` for the home folder, as people read it.
    pub fn short(&self, path: &Path) -> String {
        match path.strip_prefix(&self.home) {
            Ok(rest) => format!("~/{}", rest.display()),
            Err(_) => path.display().to_string(),
        }
    }

    /// A path that may begin with `~/`.
    pub fn long(&self, path: &str) -> Option<PathBuf> {
        let path = match path.strip_prefix("~/") {
            Some(rest) => self.home.join(rest),
            None => PathBuf::from(path),
        };
        let plain = path.components().all(|part| !matches!(part, std::path::Component::ParentDir));
        (path.is_absolute() && plain).then_some(path)
    }
}

/// The active rice: what was asked for, else the nearest folder above with a `rice.toml`, else the applied one.
pub fn rice_folder(asked: Option<&Path>, here: &Path, home: &Home) -> Result<PathBuf, Error> {
    if let Some(folder) = asked {
        return match folder.join("rice.toml").symlink_metadata() {
            Ok(_) => Ok(folder.to_owned()),
            Err(_) if !folder.exists() => Err(Error::File { path: folder.to_owned(), why: "it does not exist".to_owned() }),
            Err(_) => Err(Error::NotARice(folder.to_owned())),
        };
    }
    let above = here.ancestors().find(|folder| folder.join("rice.toml").symlink_metadata().is_ok());
    if let Some(folder) = above {
        return Ok(folder.to_owned());
    }
    let applied = home.rice();
    if applied.join("rice.toml").exists() { Ok(applied) } else { Err(Error::NoRice(applied)) }
}
