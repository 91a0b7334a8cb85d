//! The running desktop: the desk machine on an X11 server, by ICCCM and EWMH, with hot reload.

mod activate;
mod aside;
mod bus;
mod client;
mod clock;
mod compose;
mod error;
mod facts;
mod icons;
mod list_provider;
mod logs;
mod notification_server;
mod programs;
mod request_error;
mod runtime;
mod session;
mod signals;
mod socket;
mod stage;
mod status_notifier;
mod terminals;
mod watch;

pub use aside::serve as serve_aside;
pub use client::{follow, offer, request, request_within, socket_path};
pub use error::Error;
pub use logs::keep_logs;
pub use notification_server::tell;
pub use request_error::RequestError;
pub use socket::VERSION;
pub use stage::x11::{keyboard, learn, monitors, pick, taken};
pub use watch::{ReadFor, Saved, Watch};

use std::path::PathBuf;
use std::time::Duration;

use jovrik_core::check::{CheckedRice, LocalChoice};
use jovrik_core::desktop::StandaloneComponent;
use jovrik_draw::FontPlaces;

/// Whoever writes down an accepted reload: the rice before, and after. Why it could not be written down now, in words; nobody
/// waits for anybody else.
pub type OnAccepted = Box<dyn FnMut(&CheckedRice, &CheckedRice) -> Result<(), String>>;

/// Whoever reads and checks the rice, with settings laid over it.
pub type RiceLoader = Box<dyn FnMut(&[(String, String)]) -> CheckedRice>;

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
    /// The rice to begin with; later the last that was accepted.
    pub first: CheckedRice,
    /// Reads and checks the rice again, with settings laid over it: paths, and values as they are written.
    pub load: RiceLoader,
    /// Told of every reload that was accepted: the rice before, and after.
    pub accepted: OnAccepted,
    /// Writes a setting into the rice.
    pub keep: SettingWriter,
    /// Remembers what a person picks on this computer.
    pub pick: Pick,
    /// The file that this lies in.
    pub choices: PathBuf,
    /// How many pictures of the backdrop's folder a person went on before.
    pub turned: i64,
    /// Whether the program as it is on disk can take over; why not.
    pub renewed: Box<dyn Fn() -> Result<(), RequestError>>,
    /// For how long every reload is tried, unless it is kept.
    pub trial: Option<Duration>,
    /// Whether this takes over in place from one that has run until now.
    pub again: bool,
    /// The resources that programs read where the server has none (`~/.Xdefaults`).
    pub defaults: String,
    /// The folder that what is remembered lies in.
    pub state: PathBuf,
    /// The person's folder of what can be made again.
    pub cache: PathBuf,
    /// The beginning of a command that runs a program in a session of its own: the program follows.
    pub in_session: Vec<std::ffi::OsString>,
    /// The command that keeps what programs say: it does as [`keep_logs`].
    pub logs: Vec<std::ffi::OsString>,
    /// The command that draws pictures aside: it is asked and answers as [`serve_aside`] does.
    pub aside: Vec<std::ffi::OsString>,
    /// Whether saving a file of this name is a reload.
    pub watched: fn(&str) -> bool,
    /// Take the place of another window manager, or of whoever shows notices.
    pub replace: bool,
    /// These parts alone, beside whatever manages the windows; nothing for a whole desktop.
    pub only: Vec<StandaloneComponent>,
}

impl std::fmt::Debug for Options {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Options").field("display", &self.display).field("folder", &self.folder).finish_non_exhaustive()
    }
}

/// Whoever writes a setting into the rice: its path and its value as it is written; why it was not.
pub type SettingWriter = Box<dyn FnMut(&str, &str) -> Result<(), RequestError>>;

/// Whoever remembers what a person picks: settings, and how many pictures of the backdrop's folder they went on; why it is not.
pub type Pick = Box<dyn FnMut(Vec<LocalChoice>, i64) -> Result<(), RequestError>>;

/// How a desktop ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ExitReason {
    /// It was told to quit, or another took its place.
    Quit,
    /// A person interrupted it at its terminal.
    Interrupted,
    /// It is to be run again as it is on disk.
    Again,
}

/// A desktop that has taken its display.
pub struct LiveDesktop(session::Session);

impl std::fmt::Debug for LiveDesktop {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("Desktop")
    }
}

impl LiveDesktop {
    /// Takes the display and shows what is there.
    pub fn start(options: Options) -> Result<LiveDesktop, Error> {
        session::Session::start(options).map(LiveDesktop)
    }

    /// Runs until it is told to quit; an error when its display is gone.
    pub fn run(mut self) -> Result<ExitReason, Error> {
        self.0.run()
    }
}
