//! The running desktop: the desk machine on an X11 server, by ICCCM and EWMH, with hot reload.

mod client;
mod error;
mod keys;
mod names;
mod paint;
mod programs;
mod seat;
mod session;
mod socket;
mod watch;

pub use client::{request, socket_path};
pub use error::Error;

use std::path::PathBuf;

use jovrik_core::check::Checked;
use jovrik_draw::FontPlaces;

/// What a desktop is run with.
pub struct Options {
    /// The X display.
    pub display: String,
    /// Where it listens.
    pub socket: PathBuf,
    /// Where fonts are.
    pub fonts: FontPlaces,
    /// The rice's folder, which is watched.
    pub folder: PathBuf,
    /// The rice to begin with.
    pub first: Checked,
    /// Reads and checks the rice again.
    pub load: Box<dyn FnMut() -> Checked>,
    /// Whether saving a file of this name is a reload.
    pub watched: fn(&str) -> bool,
    /// Take the place of another window manager.
    pub replace: bool,
}

impl std::fmt::Debug for Options {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Options").field("display", &self.display).field("folder", &self.folder).finish_non_exhaustive()
    }
}

/// Runs the desktop until it is told to quit, or its display is gone.
pub fn run(options: Options) -> Result<(), Error> {
    session::Session::start(options)?.run()
}
