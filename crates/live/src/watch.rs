//! Watching the rice's folder: its own events, no thread.

use std::mem::MaybeUninit;
use std::os::fd::{AsFd, BorrowedFd, OwnedFd};
use std::path::{Path, PathBuf};

use rustix::fs::inotify;

use crate::Error;

/// The watch on a rice.
#[derive(Debug)]
pub struct Watch {
    queue: OwnedFd,
    folder: PathBuf,
    watched: fn(&str) -> bool,
}

/// The folders of a rice whose files decide what it is here.
const INNER: [&str; 2] = ["parts", "overlays"];

/// Written whole and closed, renamed onto, or gone.
fn saves() -> inotify::WatchFlags {
    inotify::WatchFlags::CLOSE_WRITE
        | inotify::WatchFlags::MOVED_TO
        | inotify::WatchFlags::MOVED_FROM
        | inotify::WatchFlags::DELETE
}

impl Watch {
    /// Watches a rice's folder, its `parts/` and its `overlays/`. What an editor writes beside a file is no concern.
    pub fn new(folder: &Path, watched: fn(&str) -> bool) -> Result<Watch, Error> {
        let fail = |error: rustix::io::Errno| Error::System("the rice's folder cannot be watched", error.to_string());
        let queue = inotify::init(inotify::CreateFlags::NONBLOCK | inotify::CreateFlags::CLOEXEC).map_err(fail)?;
        inotify::add_watch(&queue, folder, saves() | inotify::WatchFlags::CREATE).map_err(fail)?;
        let watch = Watch { queue, folder: folder.to_owned(), watched };
        watch.watch_inner();
        Ok(watch)
    }

    /// An inner folder may come later, or be another one of the same name.
    fn watch_inner(&self) {
        for inner in INNER.map(|name| self.folder.join(name)).iter().filter(|path| path.is_dir()) {
            let _ = inotify::add_watch(&self.queue, inner, saves());
        }
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.queue.as_fd()
    }

    /// Whether something of the rice was saved since the last call.
    pub fn saved(&self) -> bool {
        let mut buffer = [MaybeUninit::uninit(); 4096];
        let mut reader = inotify::Reader::new(&self.queue, &mut buffer);
        let (mut saved, mut inner) = (false, false);
        while let Ok(event) = reader.next() {
            let name = event.file_name().and_then(|name| name.to_str().ok()).unwrap_or_default();
            let created = event.events().contains(inotify::ReadFlags::CREATE);
            saved |= event.events().contains(inotify::ReadFlags::QUEUE_OVERFLOW) || (!created && (self.watched)(name));
            inner |= INNER.contains(&name);
        }
        if inner {
            self.watch_inner();
        }
        saved || inner
    }
}
