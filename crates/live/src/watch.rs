//! Watching what a rice is read from: its folder, and what it leads to outside. Events of the kernel, no thread.

use std::collections::{HashMap, HashSet};
use std::ffi::OsString;
use std::mem::MaybeUninit;
use std::os::fd::{AsFd, BorrowedFd, OwnedFd};
use std::os::unix::ffi::OsStrExt;
use std::path::{Path, PathBuf};

use rustix::fs::inotify;

use crate::Error;

/// What a file is read for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum ReadFor {
    /// Settings of the rice, in its folder.
    Settings,
    /// What was picked on this computer.
    Choices,
    /// A picture.
    Picture,
    /// A program that a module runs.
    Program,
}

/// What was saved.
#[derive(Debug, Default, PartialEq, Eq)]
pub struct Saved {
    /// Whether settings were.
    pub settings: bool,
    /// Whether pictures were.
    pub pictures: bool,
    /// Programs that were.
    pub programs: Vec<PathBuf>,
}

/// The watch on a rice.
#[derive(Debug)]
pub struct Watch {
    queue: OwnedFd,
    folder: PathBuf,
    watched: fn(&str) -> bool,
    /// The numbers of the watches on the folder and on those in it.
    own: HashSet<i32>,
    /// Folders outside, and in it, that are watched for some of what lies in them: by the number of the watch.
    others: HashMap<i32, Other>,
}

/// A folder that is watched for some of what lies in it: by name, or all of it.
#[derive(Debug)]
struct Other {
    folder: PathBuf,
    files: Vec<(Option<OsString>, ReadFor)>,
}

/// The folders of a rice whose files decide what it is here.
const INNER: [&str; 2] = ["parts", "overlays"];
/// A file is found through so many links, and in so many folders.
const MAX_LINKS: usize = 16;
const MAX_FOLDERS: usize = 64;

/// Written whole and closed, renamed onto, made (a link is), or gone.
fn saves() -> inotify::WatchFlags {
    inotify::WatchFlags::CLOSE_WRITE
        | inotify::WatchFlags::MOVED_TO
        | inotify::WatchFlags::MOVED_FROM
        | inotify::WatchFlags::DELETE
        | inotify::WatchFlags::CREATE
}

/// Where a path leads, link by link: the last one is what is read, if it is there.
fn led_to(path: &Path) -> Vec<PathBuf> {
    let mut all = Vec::new();
    let mut at = path.to_owned();
    while let Ok(to) = std::fs::read_link(&at) {
        at = at.parent().unwrap_or(Path::new("/")).join(to);
        all.push(at.clone());
        if all.len() >= MAX_LINKS {
            break;
        }
    }
    all
}

impl Watch {
    /// Watches a rice's folder, its `parts/` and its `overlays/`. What an editor writes beside a file is no concern.
    pub fn new(folder: &Path, watched: fn(&str) -> bool) -> Result<Watch, Error> {
        let fail = |error: rustix::io::Errno| Error::System("the rice's folder cannot be watched", error.to_string());
        let queue = inotify::init(inotify::CreateFlags::NONBLOCK | inotify::CreateFlags::CLOEXEC).map_err(fail)?;
        inotify::add_watch(&queue, folder, saves()).map_err(fail)?;
        let (folder, own, others) = (folder.to_owned(), HashSet::new(), HashMap::new());
        let mut watch = Watch { queue, folder, watched, own, others };
        watch.watch_own();
        Ok(watch)
    }

    /// An inner folder may come later, or be another one of the same name.
    fn watch_own(&mut self) {
        let inner = INNER.map(|name| self.folder.join(name)).into_iter().filter(|path| path.is_dir());
        let all = std::iter::once(self.folder.clone()).chain(inner);
        self.own = all.filter_map(|folder| inotify::add_watch(&self.queue, &folder, saves()).ok()).collect();
    }

    fn is_watched(&self, path: &Path) -> bool {
        path.file_name().and_then(|name| name.to_str()).is_some_and(self.watched)
    }

    /// Watches what is read beside the folder itself: what its links lead to, files, and folders of pictures. What was watched so
    /// before is not any more.
    pub fn look_after(&mut self, files: impl IntoIterator<Item = (PathBuf, ReadFor)>) {
        let mut wanted: HashMap<PathBuf, Vec<(Option<OsString>, ReadFor)>> = HashMap::new();
        let mut want = |folder: &Path, name: Option<OsString>, read_for: ReadFor| {
            if wanted.len() < MAX_FOLDERS || wanted.contains_key(folder) {
                let files = wanted.entry(folder.to_owned()).or_default();
                if !files.contains(&(name.clone(), read_for)) {
                    files.push((name, read_for));
                }
            }
        };
        // Settings that lie in the folder itself are watched already; what links among them lead to is not.
        let folders = std::iter::once(self.folder.clone()).chain(INNER.map(|name| self.folder.join(name)));
        let entries = folders.flat_map(std::fs::read_dir).flatten().flatten().map(|entry| entry.path());
        let links = entries.filter(|path| path.is_symlink() && self.is_watched(path)).map(|path| (path, ReadFor::Settings));
        for (path, read_for) in links.collect::<Vec<_>>().into_iter().chain(files) {
            let itself = (read_for != ReadFor::Settings).then(|| path.clone());
            for hop in itself.into_iter().chain(led_to(&path)) {
                if let (Some(folder), Some(name)) = (hop.parent(), hop.file_name()) {
                    want(folder, Some(name.to_owned()), read_for);
                }
            }
            if read_for == ReadFor::Picture && path.is_dir() {
                want(&path, None, read_for);
            }
        }
        let before = std::mem::take(&mut self.others);
        for (folder, files) in wanted {
            // The same folder keeps its number, and one that is watched as a part of the rice too.
            if let Ok(number) = inotify::add_watch(&self.queue, &folder, saves()) {
                self.others.entry(number).or_insert_with(|| Other { folder, files: Vec::new() }).files.extend(files);
            }
        }
        for number in before.into_keys().filter(|number| !self.others.contains_key(number)) {
            let _ = inotify::remove_watch(&self.queue, number);
        }
        // One of those may be the rice's own.
        self.watch_own();
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.queue.as_fd()
    }

    /// What of the rice was saved since the last call.
    pub fn saved(&mut self) -> Saved {
        let mut buffer = [MaybeUninit::uninit(); 4096];
        let mut reader = inotify::Reader::new(&self.queue, &mut buffer);
        let (mut saved, mut inner) = (Saved::default(), false);
        while let Ok(event) = reader.next() {
            let name = event.file_name().map(|name| std::ffi::OsStr::from_bytes(name.to_bytes()).to_owned()).unwrap_or_default();
            let plain = name.to_str().unwrap_or_default();
            saved.settings |= event.events().contains(inotify::ReadFlags::QUEUE_OVERFLOW);
            if let Some(other) = self.others.get(&event.wd()) {
                // A file that was made is written next; a link is there at once.
                let whole = !event.events().contains(inotify::ReadFlags::CREATE) || other.folder.join(&name).is_symlink();
                let meant = other.files.iter().filter(|(own, _)| whole && own.as_ref().is_none_or(|own| *own == name));
                for (_, read_for) in meant {
                    match read_for {
                        ReadFor::Settings | ReadFor::Choices => saved.settings = true,
                        ReadFor::Picture => saved.pictures = true,
                        ReadFor::Program => saved.programs.push(other.folder.join(&name)),
                    }
                }
            }
            if self.own.contains(&event.wd()) {
                let made = event.events().contains(inotify::ReadFlags::CREATE);
                let link = || INNER.iter().any(|inner| self.folder.join(inner).join(&name).is_symlink());
                saved.settings |= (self.watched)(plain) && (!made || link());
                inner |= INNER.contains(&plain);
            }
        }
        if inner {
            self.watch_own();
        }
        saved.settings |= inner;
        saved
    }
}
