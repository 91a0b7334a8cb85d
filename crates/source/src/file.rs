//! A file whose content is a value: asked again when it is saved.

use std::io::Read;
use std::mem::MaybeUninit;
use std::os::fd::{AsFd, BorrowedFd, OwnedFd};
use std::path::{Path, PathBuf};

use jovrik_file::{in_words, open_file};
use rustix::fs::inotify;

use crate::source_error::SourceError;

/// The most that is read of a file, in bytes.
const MAX_FILE_BYTES: u64 = 64 * 1024;

/// A file that is watched.
#[derive(Debug)]
pub(crate) struct Watched {
    path: PathBuf,
    queue: Option<OwnedFd>,
}

/// A path with the home folder for its `~`.
pub(crate) fn expanded(path: &str) -> PathBuf {
    let home = std::env::var_os("HOME").map(PathBuf::from);
    match (path.strip_prefix("~/"), home) {
        (Some(rest), Some(home)) => home.join(rest),
        _ => PathBuf::from(path),
    }
}

/// What a file holds.
pub(crate) fn content(path: &Path) -> Result<String, SourceError> {
    let (file, _) = open_file(path, u64::MAX).map_err(|why| SourceError::File(path.to_owned(), why.to_string()))?;
    let mut bytes = Vec::new();
    file.take(MAX_FILE_BYTES).read_to_end(&mut bytes).map_err(|error| SourceError::File(path.to_owned(), in_words(&error)))?;
    String::from_utf8(bytes).map_err(|_| SourceError::NotText(path.to_owned()))
}

impl Watched {
    /// Watches the folder that a file is in: files are often replaced, not written.
    pub fn new(path: PathBuf) -> Watched {
        let queue = inotify::init(inotify::CreateFlags::NONBLOCK | inotify::CreateFlags::CLOEXEC).ok().filter(|queue| {
            let saves = inotify::WatchFlags::CLOSE_WRITE
                | inotify::WatchFlags::MOVED_TO
                | inotify::WatchFlags::MOVED_FROM
                | inotify::WatchFlags::DELETE;
            path.parent().is_some_and(|folder| inotify::add_watch(queue, folder, saves).is_ok())
        });
        Watched { path, queue }
    }

    /// What to wait on.
    pub fn fd(&self) -> Option<BorrowedFd<'_>> {
        self.queue.as_ref().map(AsFd::as_fd)
    }

    /// Whether it was saved since the last call.
    pub fn saved(&self) -> bool {
        let Some(queue) = &self.queue else { return false };
        let own = self.path.file_name().and_then(|name| name.to_str()).unwrap_or_default();
        let mut buffer = [MaybeUninit::uninit(); 4096];
        let mut reader = inotify::Reader::new(queue, &mut buffer);
        let mut saved = false;
        while let Ok(event) = reader.next() {
            let name = event.file_name().and_then(|name| name.to_str().ok()).unwrap_or_default();
            saved |= name == own || event.events().contains(inotify::ReadFlags::QUEUE_OVERFLOW);
        }
        saved
    }

    /// The file.
    pub fn path(&self) -> &Path {
        &self.path
    }
}
