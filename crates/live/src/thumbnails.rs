//! Small copies of pictures, made aside: the launcher shows them when they are there, and never waits.

use std::collections::{HashMap, HashSet};
use std::io::{PipeReader, PipeWriter, Read, Write};
use std::os::fd::{AsFd, BorrowedFd};
use std::path::{Path, PathBuf};
use std::sync::mpsc::{Receiver, Sender, channel};
use std::sync::{Arc, Mutex, PoisonError};

use jovrik_apps::{ThumbnailPlace, thumbnail_place};
use jovrik_draw::{PictureError, Shrink, Thumbnail};

use crate::Error;

/// The largest kept copy that is read, in bytes.
const MOST_BYTES: u64 = 8 * 1024 * 1024;

type Made = Arc<Mutex<HashMap<PathBuf, Result<Thumbnail, PictureError>>>>;

/// Whoever makes them: a thread that begins with the first one.
#[derive(Debug)]
pub struct Thumbnails {
    made: Made,
    ready: PipeReader,
    tells: PipeWriter,
}

impl Thumbnails {
    /// Nothing is made before somebody asks.
    pub fn new() -> Result<Thumbnails, Error> {
        let fail = |error: std::io::Error| Error::System("there is no pipe", error.to_string());
        let (ready, tells) = std::io::pipe().map_err(fail)?;
        rustix::io::ioctl_fionbio(&ready, true).map_err(|error| fail(error.into()))?;
        Ok(Thumbnails { made: Made::default(), ready, tells })
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.ready.as_fd()
    }

    /// Whether some are there that were not.
    pub fn came(&mut self) -> bool {
        let mut bytes = [0; 256];
        let mut any = false;
        while matches!(self.ready.read(&mut bytes), Ok(length) if length > 0) {
            any = true;
        }
        any
    }

    /// Hands pictures out as they are made; `cache` is the folder of caches.
    pub fn shrink(&self, cache: PathBuf) -> Shrink {
        let (made, tells) = (self.made.clone(), self.tells.try_clone());
        let mut asked: HashSet<PathBuf> = HashSet::new();
        let mut worker: Option<Sender<(PathBuf, u32)>> = None;
        let mut begin = tells.ok().map(|tells| move |made: Made| begin(cache, made, tells));
        Box::new(move |file, side| {
            if let Some(there) = made.lock().unwrap_or_else(PoisonError::into_inner).remove(file) {
                asked.remove(file);
                return Some(there);
            }
            if asked.insert(file.to_owned()) {
                if worker.is_none() {
                    worker = begin.take().and_then(|begin| begin(made.clone()));
                }
                let Some(Ok(())) = worker.as_ref().map(|worker| worker.send((file.to_owned(), side))) else {
                    return Some(Thumbnail::of(file, side));
                };
            }
            None
        })
    }
}

/// Begins the thread; nothing where the system has none to give.
fn begin(cache: PathBuf, made: Made, mut tells: PipeWriter) -> Option<Sender<(PathBuf, u32)>> {
    let (sends, wanted): (Sender<(PathBuf, u32)>, Receiver<_>) = channel();
    let work = move || {
        for (file, side) in wanted {
            let thumbnail = kept_or_made(&cache, &file, side);
            made.lock().unwrap_or_else(PoisonError::into_inner).insert(file, thumbnail);
            if tells.write_all(&[0]).is_err() {
                return;
            }
        }
    };
    std::thread::Builder::new().name("thumbnails".to_owned()).spawn(work).ok().map(|_| sends)
}

/// The copy that is kept, else a new one, which is kept for the next time as far as that can be.
fn kept_or_made(cache: &Path, file: &Path, side: u32) -> Result<Thumbnail, PictureError> {
    let Some(place) = thumbnail_place(cache, file, side) else { return Thumbnail::of(file, side) };
    let kept = jovrik_file::read_file(&place.file, MOST_BYTES).ok();
    if let Some(kept) = kept.and_then(|bytes| Thumbnail::decode(&bytes, &place.texts)) {
        return Ok(kept);
    }
    let made = Thumbnail::of(file, place.side)?;
    if let Err(error) = keep(&place, &made) {
        tracing::debug!(file = %place.file.display(), %error, "a small picture is not kept");
    }
    Ok(made)
}

/// Keeps a copy: nobody else may read it, and nobody sees half of it.
fn keep(place: &ThumbnailPlace, made: &Thumbnail) -> std::io::Result<()> {
    let bytes = made.encode(&place.texts).map_err(std::io::Error::other)?;
    jovrik_file::write_private(&place.file, &bytes)
}
