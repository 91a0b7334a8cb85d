//! Where things are: the person's folders, the active rice.

use std::path::{Path, PathBuf};

use crate::Error;

/// The folders of a person, by the XDG Base Directory specification.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UserDirs {
    /// The home folder.
    pub home: PathBuf,
    /// `$XDG_CONFIG_HOME`.
    pub config: PathBuf,
    /// `$XDG_STATE_HOME`.
    pub state: PathBuf,
    /// `$XDG_CACHE_HOME`.
    pub cache: PathBuf,
    /// `$XDG_RUNTIME_DIR`, or a folder of this user's alone.
    pub runtime: PathBuf,
}

impl UserDirs {
    /// From environment variables, as `get` tells them. Without a home there, the user database is asked; one that is
    /// relative is refused.
    pub fn of(get: &dyn Fn(&str) -> Option<std::ffi::OsString>) -> Result<UserDirs, Error> {
        let absolute = |name: &str| get(name).map(PathBuf::from).filter(|path| path.is_absolute());
        let user = rustix::process::getuid().as_raw();
        let home = match get("HOME").filter(|home| !home.is_empty()).map(PathBuf::from) {
            Some(home) if home.is_absolute() => home,
            Some(home) => {
                return Err(Error::Home(format!("HOME is {}, which is no absolute path", home.display())));
            }
            None => home_in_database(Path::new("/etc/passwd"), user)
                .ok_or_else(|| Error::Home("HOME is not set, and the user database knows no home of this user".to_owned()))?,
        };
        Ok(UserDirs {
            config: absolute("XDG_CONFIG_HOME").unwrap_or_else(|| home.join(".config")),
            state: absolute("XDG_STATE_HOME").unwrap_or_else(|| home.join(".local/state")),
            cache: absolute("XDG_CACHE_HOME").unwrap_or_else(|| home.join(".cache")),
            runtime: absolute("XDG_RUNTIME_DIR").unwrap_or_else(|| std::env::temp_dir().join(format!("jovrik-{user}"))),
            home,
        })
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
            Some(rest) => self.home.join(rest.trim_start_matches('/')),
            None => PathBuf::from(path),
        };
        let plain = path.components().all(|part| !matches!(part, std::path::Component::ParentDir));
        (path.is_absolute() && plain).then_some(path)
    }
}

/// The home of a user in the user database: passwd(5).
fn home_in_database(file: &Path, user: u32) -> Option<PathBuf> {
    let text = std::fs::read_to_string(file).ok()?;
    let of_user = |line: &&str| line.split(':').nth(2).and_then(|number| number.parse().ok()) == Some(user);
    let home = PathBuf::from(text.lines().find(of_user)?.split(':').nth(5)?);
    home.is_absolute().then_some(home)
}

/// The active rice: what was asked for, else the nearest folder above with a `rice.toml`, else the applied one.
pub fn rice_folder(asked: Option<&Path>, here: &Path, home: &UserDirs) -> Result<PathBuf, Error> {
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
