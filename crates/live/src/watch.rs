//! Watching the rice's folder: its own events, no thread.

use std::mem::MaybeUninit;
use std::os::fd::{AsFd, BorrowedFd, OwnedFd};
use std::path::Path;

use rustix::fs::inotify;

use crate::Error;

/// The watch on a rice.
pub struct Watch {
    queue: OwnedFd,
    watched: fn(&str) -> bool,
}

impl Watch {
    /// Watches a rice's folder and its `parts/`. What an editor writes beside a file is no concern.
    pub fn new(folder: &Path, watched: fn(&str) -> bool) -> Result<Watch, Error> {
        let fail = |error: rustix::io::Errno| Error::System("the rice's folder cannot be watched", error.to_string());
        let queue = inotify::init(inotify::CreateFlags::NONBLOCK | inotify::CreateFlags::CLOEXEC).map_err(fail)?;
        // Written whole and closed, renamed onto, or gone.
        let events = inotify::WatchFlags::CLOSE_WRITE
            | inotify::WatchFlags::MOVED_TO
            | inotify::WatchFlags::MOVED_FROM
            | inotify::WatchFlags::DELETE;
        inotify::add_watch(&queue, folder, events).map_err(fail)?;
        let parts = folder.join("parts");
        if parts.is_dir() {
            inotify::add_watch(&queue, &parts, events).map_err(fail)?;
        }
        Ok(Watch { queue, watched })
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.queue.as_fd()
    }

    /// Whether something of the rice was saved since the last call.
    pub fn saved(&self) -> bool {
        let mut buffer = [MaybeUninit::uninit(); 4096];
        let mut reader = inotify::Reader::new(&self.queue, &mut buffer);
        let mut saved = false;
        while let Ok(event) = reader.next() {
            let lost = event.events().contains(inotify::ReadFlags::QUEUE_OVERFLOW);
            let named = event.file_name().and_then(|name| name.to_str().ok()).is_some_and(self.watched);
            saved |= lost || named;
        }
        saved
    }
}
