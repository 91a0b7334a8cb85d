//! Folders that are held open: what is opened below one stays below it, whoever swaps names meanwhile.

use std::ffi::{OsStr, OsString};
use std::fs::{File, Metadata};
use std::os::fd::{AsFd, BorrowedFd, OwnedFd};
use std::os::unix::ffi::{OsStrExt, OsStringExt};
use std::path::{Component, Path, PathBuf};

use rustix::fs::{AtFlags, CWD, Dir, FileType, Mode, OFlags, ResolveFlags, openat, openat2, readlinkat, statat};
use rustix::io::Errno;

use crate::{MAX_LINKS, ReadError, fit, resolved};

/// How often the kernel is asked again when names change while it follows them.
const MAX_TRIES: usize = 16;

/// Only to be looked at, and to open others from.
const PATH: OFlags = OFlags::PATH.union(OFlags::CLOEXEC);
/// To be read; opening never waits, and makes no terminal ours.
const READ: OFlags = OFlags::RDONLY.union(OFlags::CLOEXEC).union(OFlags::NONBLOCK).union(OFlags::NOCTTY);

/// A folder that is held open.
#[derive(Debug)]
pub struct Folder {
    fd: OwnedFd,
    path: PathBuf,
}

impl AsFd for Folder {
    fn as_fd(&self) -> BorrowedFd<'_> {
        self.fd.as_fd()
    }
}

impl Folder {
    /// Opens a folder, links to it followed.
    ///
    /// # Errors
    ///
    /// What is not there, or is no folder.
    pub fn open(path: &Path) -> Result<Folder, ReadError> {
        let fd = openat(CWD, path, PATH | OFlags::DIRECTORY, Mode::empty()).map_err(unread)?;
        Ok(Folder { fd, path: path.to_owned() })
    }

    /// Opens a folder by a path in which no step is a link.
    ///
    /// # Errors
    ///
    /// What is not there, is no folder, or has a link on its way.
    pub fn open_plain(path: &Path) -> Result<Folder, ReadError> {
        let mut fd = openat(CWD, "/", PATH | OFlags::DIRECTORY, Mode::empty()).map_err(unread)?;
        for step in path.components().filter(|step| !matches!(step, Component::RootDir)) {
            let Component::Normal(name) = step else { return Err(ReadError::Refused("its path is not plain".to_owned())) };
            fd = openat(&fd, name, PATH | OFlags::DIRECTORY | OFlags::NOFOLLOW, Mode::empty()).map_err(unread)?;
        }
        Ok(Folder { fd, path: path.to_owned() })
    }

    /// Opens a folder in this one, which is no link.
    ///
    /// # Errors
    ///
    /// What is not there, or is no folder.
    pub fn folder(&self, name: &OsStr) -> Result<Folder, ReadError> {
        let fd = openat(&self.fd, name, PATH | OFlags::DIRECTORY | OFlags::NOFOLLOW, Mode::empty()).map_err(unread)?;
        Ok(Folder { fd, path: self.path.join(name) })
    }

    /// What lies in it: names, and what each is; in no order.
    ///
    /// # Errors
    ///
    /// What may not be read.
    pub fn entries(&self) -> Result<Vec<(OsString, FileType)>, ReadError> {
        let mut entries = Vec::new();
        for entry in self.listed().map_err(unread)? {
            let entry = entry.map_err(unread)?;
            let name = OsString::from_vec(entry.file_name().to_bytes().to_vec());
            if name == "." || name == ".." {
                continue;
            }
            let kind = match entry.file_type() {
                FileType::Unknown => {
                    let about = statat(&self.fd, &name, AtFlags::SYMLINK_NOFOLLOW).map_err(unread)?;
                    FileType::from_raw_mode(about.st_mode)
                }
                kind => kind,
            };
            entries.push((name, kind));
        }
        Ok(entries)
    }

    /// Its names; a descriptor of a path alone does not give them.
    fn listed(&self) -> Result<Dir, Errno> {
        Dir::new(openat(&self.fd, ".", OFlags::RDONLY | OFlags::DIRECTORY | OFlags::CLOEXEC, Mode::empty())?)
    }

    /// Opens a regular file in this very folder, which is no link, of at most so many bytes. What is looked at is what is open.
    ///
    /// # Errors
    ///
    /// Anything else is not even opened.
    pub fn own_file(&self, name: &OsStr, most: u64) -> Result<(File, Metadata), ReadError> {
        looked_at(most, |flags| {
            openat(&self.fd, name, flags | OFlags::NOFOLLOW, Mode::empty()).map_err(|error| match error {
                // It has become one since it was looked at.
                Errno::LOOP => ReadError::Other("a link"),
                error => unread(error),
            })
        })
    }

    /// Opens a regular file below this folder, of at most so many bytes. Links on the way are followed as long as they stay
    /// below it. What is looked at is what is open.
    ///
    /// # Errors
    ///
    /// A path or a link that leads out; anything that is no regular file is not even opened.
    pub fn file(&self, name: &str, most: u64) -> Result<(File, Metadata), ReadError> {
        self.file_by(name, most, true)
    }

    fn file_by(&self, name: &str, most: u64, kernel: bool) -> Result<(File, Metadata), ReadError> {
        let plain = |step: Component<'_>| matches!(step, Component::Normal(_) | Component::CurDir);
        if name.is_empty() || !Path::new(name).components().all(plain) {
            return Err(ReadError::Refused("it is not inside the rice".to_owned()));
        }
        looked_at(most, |flags| match if kernel { self.by_kernel(name, flags) } else { Err(Errno::NOSYS) } {
            Ok(fd) => Ok(fd),
            Err(Errno::XDEV) => Err(self.outside(name)),
            Err(Errno::NOSYS | Errno::PERM | Errno::AGAIN) => self.by_steps(name, flags),
            Err(error) => Err(unread(error)),
        })
    }

    /// Has the kernel see to it that nothing leads out.
    fn by_kernel(&self, name: &str, flags: OFlags) -> Result<OwnedFd, Errno> {
        let beneath = ResolveFlags::BENEATH | ResolveFlags::NO_MAGICLINKS;
        let mut tries = 0;
        loop {
            match openat2(&self.fd, name, flags, Mode::empty(), beneath) {
                Err(Errno::AGAIN) if tries < MAX_TRIES => tries += 1,
                done => return done,
            }
        }
    }

    /// The same step by step, for kernels that do not know of that: each is opened from the one before, and never followed.
    fn by_steps(&self, name: &str, flags: OFlags) -> Result<OwnedFd, ReadError> {
        let mut to_go: Vec<OsString> = steps_of(Path::new(name));
        let mut way: Vec<OwnedFd> = Vec::new();
        let mut links = 0;
        while let Some(step) = to_go.pop() {
            let here = way.last().map_or(self.fd.as_fd(), AsFd::as_fd);
            match step.as_bytes() {
                b"." => continue,
                b".." => {
                    way.pop().ok_or_else(|| self.outside(name))?;
                    continue;
                }
                _ => {}
            }
            let kind = FileType::from_raw_mode(statat(here, &step, AtFlags::SYMLINK_NOFOLLOW).map_err(unread)?.st_mode);
            match kind {
                FileType::Symlink => {
                    links += 1;
                    if links > MAX_LINKS {
                        return Err(ReadError::Refused("its links lead in a circle".to_owned()));
                    }
                    let to = readlinkat(here, &step, Vec::new()).map_err(unread)?;
                    let to = Path::new(OsStr::from_bytes(to.as_bytes()));
                    if to.is_absolute() {
                        return Err(self.outside(name));
                    }
                    to_go.extend(steps_of(to));
                }
                FileType::Directory if !to_go.is_empty() => {
                    way.push(openat(here, &step, PATH | OFlags::DIRECTORY | OFlags::NOFOLLOW, Mode::empty()).map_err(unread)?);
                }
                _ if to_go.is_empty() => {
                    return openat(here, &step, flags | OFlags::NOFOLLOW, Mode::empty()).map_err(unread);
                }
                _ => return Err(ReadError::Refused("a part of its path is not a folder".to_owned())),
            }
        }
        Err(ReadError::Other("a folder"))
    }

    fn outside(&self, name: &str) -> ReadError {
        let path = self.path.join(name);
        ReadError::Outside(resolved(&path).unwrap_or(path))
    }
}

/// The steps of a path, the first one last.
fn steps_of(path: &Path) -> Vec<OsString> {
    let step = |step: Component<'_>| step.as_os_str().to_owned();
    path.components().rev().map(step).collect()
}

fn unread(error: Errno) -> ReadError {
    ReadError::from(std::io::Error::from(error))
}

/// Opens what is a regular file of at most so many bytes: looked at before it is opened to be read, and again when it is.
fn looked_at(most: u64, open: impl Fn(OFlags) -> Result<OwnedFd, ReadError>) -> Result<(File, Metadata), ReadError> {
    // A descriptor of a path opens no device, and never waits for whoever writes into a pipe.
    fit(&File::from(open(PATH)?).metadata()?, most)?;
    let file = File::from(open(READ)?);
    let metadata = file.metadata()?;
    fit(&metadata, most)?;
    Ok((file, metadata))
}

/// Opens a regular file by its path inside a folder, of at most so many bytes: nothing that leads out of the folder, also
/// through links, and whatever is swapped meanwhile.
///
/// # Errors
///
/// As [`Folder::file`].
pub fn open_inside(folder: &Path, name: &str, most: u64) -> Result<(File, Metadata), ReadError> {
    Folder::open(folder)?.file(name, most)
}

/// Reads a regular file by its path inside a folder, as [`open_inside`] opens it.
///
/// # Errors
///
/// As [`Folder::file`].
pub fn read_inside(folder: &Path, name: &str, most: u64) -> Result<Vec<u8>, ReadError> {
    let (file, metadata) = open_inside(folder, name, most)?;
    crate::read_open(file, &metadata, most)
}

#[cfg(test)]
mod tests {
    use std::os::unix::fs::symlink;

    use super::*;

    #[test]
    fn the_kernel_and_the_steps_by_hand_say_the_same() {
        let folder = tempfile::tempdir().expect("a folder");
        let root = std::fs::canonicalize(folder.path()).expect("there");
        std::fs::create_dir_all(root.join("rice/art/deep")).expect("made");
        std::fs::write(root.join("secret"), "out").expect("written");
        std::fs::write(root.join("rice/art/deep/file"), "in").expect("written");
        for (to, at) in [
            ("../../secret", "art/out"),
            ("/etc/passwd", "art/absolute"),
            ("deep/../deep/file", "art/within"),
            ("art", "in"),
            ("..", "up"),
            ("b", "a"),
            ("a", "b"),
            ("none", "dangling"),
            ("/proc/self/root", "magic"),
        ] {
            symlink(to, root.join("rice").join(at)).expect("linked");
        }
        let rice = Folder::open(&root.join("rice")).expect("opened");
        let read = |name: &str, kernel: bool| {
            let (file, metadata) = rice.file_by(name, 100, kernel)?;
            crate::read_open(file, &metadata, 100)
        };
        for name in [
            "art/deep/file",
            "in/deep/file",
            "art/within",
            "in/within",
            "art/out",
            "art/absolute",
            "up/secret",
            "a",
            "dangling",
            "none/deep",
            "art",
            "art/deep/file/more",
            "magic/etc/passwd",
            "./art/deep/file",
            "../secret",
            "/etc/passwd",
            "",
        ] {
            let (kernel, steps) = (read(name, true), read(name, false));
            assert_eq!(kernel, steps, "{name}");
            assert!(kernel.is_err() || kernel.as_deref() == Ok(b"in"), "{name}: {kernel:?}");
        }
        assert_eq!(read("in/within", true).as_deref(), Ok(b"in".as_slice()));
        assert_eq!(read("art/out", true), Err(ReadError::Outside(root.join("secret"))));
    }
}
