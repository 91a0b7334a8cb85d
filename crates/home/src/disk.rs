//! Every call that changes a file, in one place: each can be made to fail, so that tests can end a command anywhere.

use std::ffi::OsStr;
use std::fmt;
use std::fs::{File, Permissions};
use std::io::{self, Write};
use std::os::unix::fs::PermissionsExt;
use std::path::Path;
use std::rc::Rc;

use jovrik_file::Folder;
use rustix::fs::{AtFlags, Mode, OFlags, mkdirat, openat, renameat, unlinkat};

/// One step that changes something on the disk.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DiskOp {
    /// A folder is made.
    MakeFolder,
    /// A file is made, empty.
    MakeFile,
    /// Its bytes are written.
    Write,
    /// Its permissions and its owner are set.
    Permit,
    /// A file or a folder is brought onto the disk for good.
    Sync,
    /// A file takes the place of another.
    Rename,
    /// A file is removed.
    Remove,
    /// A folder is removed.
    RemoveFolder,
    /// The history begins to keep something.
    Store,
    /// The history has kept it.
    Stored,
}

/// Asked before each step; an error stands for that of the call, which is then not made.
type Faults = Rc<dyn Fn(DiskOp) -> io::Result<()>>;

/// The disk.
#[derive(Clone, Default)]
pub struct Disk {
    faults: Option<Faults>,
}

impl fmt::Debug for Disk {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Disk").field("faults", &self.faults.is_some()).finish()
    }
}

/// The permissions of a file and who owns it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct FileAttributes {
    /// The permission bits.
    pub mode: u32,
    /// The number of the user.
    pub user: u32,
    /// The number of the group.
    pub group: u32,
}

/// The folder that something lies in, held open, and its name there. Where a link has come to stand on the way since the path was
/// resolved, nothing is done.
fn place(path: &Path) -> io::Result<(Folder, &OsStr)> {
    let (Some(folder), Some(name)) = (path.parent(), path.file_name()) else { return Err(io::ErrorKind::InvalidInput.into()) };
    Ok((Folder::open_plain(folder)?, name))
}

impl Disk {
    /// A disk on which steps fail when `faults` says so; for tests.
    pub fn with_faults(faults: impl Fn(DiskOp) -> io::Result<()> + 'static) -> Disk {
        Disk { faults: Some(Rc::new(faults)) }
    }

    /// Comes before each step.
    pub(crate) fn step(&self, step: DiskOp) -> io::Result<()> {
        self.faults.as_ref().map_or(Ok(()), |faults| faults(step))
    }

    pub(crate) fn make_folder(&self, path: &Path) -> io::Result<()> {
        self.step(DiskOp::MakeFolder)?;
        let (folder, name) = place(path)?;
        Ok(mkdirat(folder, name, Mode::from_raw_mode(0o777))?)
    }

    /// Writes a new file. Without facts it is as any new file of this user.
    pub(crate) fn write_new(&self, path: &Path, bytes: &[u8], facts: Option<FileAttributes>) -> io::Result<()> {
        self.step(DiskOp::MakeFile)?;
        // Nobody else reads it before it has its permissions.
        let mode = if facts.is_some() { 0o600 } else { 0o666 };
        let (folder, name) = place(path)?;
        let new = OFlags::WRONLY | OFlags::CREATE | OFlags::EXCL | OFlags::CLOEXEC;
        let mut file = File::from(openat(folder, name, new, Mode::from_raw_mode(mode))?);
        self.step(DiskOp::Write)?;
        file.write_all(bytes)?;
        if let Some(facts) = facts {
            self.step(DiskOp::Permit)?;
            let now = facts_of(&file.metadata()?);
            if (now.user, now.group) != (facts.user, facts.group) {
                // Only the superuser may give files away; others keep what they own.
                let (user, group) = (rustix::fs::Uid::from_raw(facts.user), rustix::fs::Gid::from_raw(facts.group));
                let _ = rustix::fs::fchown(&file, Some(user), Some(group));
            }
            file.set_permissions(Permissions::from_mode(facts.mode))?;
        }
        Ok(())
    }

    pub(crate) fn rename(&self, from: &Path, to: &Path) -> io::Result<()> {
        self.step(DiskOp::Rename)?;
        let ((from, old), (to, new)) = (place(from)?, place(to)?);
        Ok(renameat(from, old, to, new)?)
    }

    /// Removes a file; one that is not there is removed already.
    pub(crate) fn remove(&self, path: &Path) -> io::Result<()> {
        self.step(DiskOp::Remove)?;
        match unlink(path, AtFlags::empty()) {
            Err(error) if error.kind() != io::ErrorKind::NotFound => Err(error),
            _ => Ok(()),
        }
    }

    /// Removes a folder; one that holds something or is not there stays as it is.
    pub(crate) fn remove_folder(&self, path: &Path) -> io::Result<()> {
        self.step(DiskOp::RemoveFolder)?;
        match unlink(path, AtFlags::REMOVEDIR) {
            Err(error) if !matches!(error.kind(), io::ErrorKind::NotFound | io::ErrorKind::DirectoryNotEmpty) => Err(error),
            _ => Ok(()),
        }
    }

    /// Brings the bytes of a file, or the names in a folder, onto the disk for good.
    pub(crate) fn sync(&self, path: &Path) -> io::Result<()> {
        self.step(DiskOp::Sync)?;
        let (folder, name) = place(path)?;
        let read = OFlags::RDONLY | OFlags::NOFOLLOW | OFlags::NONBLOCK | OFlags::CLOEXEC;
        File::from(openat(folder, name, read, Mode::empty())?).sync_all()
    }
}

fn unlink(path: &Path, flags: AtFlags) -> io::Result<()> {
    let (folder, name) = place(path)?;
    Ok(unlinkat(folder, name, flags)?)
}

/// The permissions and the owner of what was looked at.
pub(crate) fn facts_of(metadata: &std::fs::Metadata) -> FileAttributes {
    use std::os::unix::fs::MetadataExt;
    FileAttributes { mode: metadata.mode() & 0o7777, user: metadata.uid(), group: metadata.gid() }
}
