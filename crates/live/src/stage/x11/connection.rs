//! The line to the server: it is waited on only when it is full, not before each request.

use std::io::{ErrorKind, IoSlice, Result};
use std::os::fd::{AsFd, AsRawFd, BorrowedFd, RawFd};
use std::sync::atomic::{AtomicBool, Ordering};

use x11rb::reexports::x11rb_protocol::parse_display::parse_display;
use x11rb::reexports::x11rb_protocol::xauth::get_auth;
use x11rb::rust_connection::{DefaultStream, PollMode, RustConnection, Stream};
use x11rb::utils::RawFdContainer;

use crate::Error;

/// A connection to a server.
pub type X11Connection = RustConnection<OptimisticStream>;

/// A socket that counts as writable until it says that it is not.
#[derive(Debug)]
pub struct OptimisticStream {
    socket: DefaultStream,
    full: AtomicBool,
}

/// Connects to a display: the connection, and the number of its screen.
///
/// # Errors
///
/// When its name is none, nobody answers at it, or whoever does refuses us.
pub fn connect(display: &str) -> std::result::Result<(X11Connection, usize), Error> {
    let reach = |error: &dyn std::fmt::Display| Error::NoServer(display.to_owned(), error.to_string());
    let parsed = parse_display(Some(display)).map_err(|error| reach(&error))?;
    let screen = usize::from(parsed.screen);
    let mut failed = None;
    for address in parsed.connect_instruction() {
        match DefaultStream::connect(&address) {
            Ok((socket, (family, host))) => {
                let known = get_auth(family, &host, parsed.display).ok().flatten().unwrap_or_default();
                let socket = OptimisticStream { socket, full: AtomicBool::new(false) };
                let line = RustConnection::connect_to_stream_with_auth_info(socket, screen, known.0, known.1);
                return line.map(|line| (line, screen)).map_err(|error| reach(&error));
            }
            Err(error) => failed = Some(error),
        }
    }
    Err(failed.map_or_else(|| reach(&"it has no address"), |error| reach(&error)))
}

impl OptimisticStream {
    /// What a write came to; when there was no room, the next one waits.
    fn wrote(&self, result: Result<usize>) -> Result<usize> {
        let full = matches!(&result, Err(error) if error.kind() == ErrorKind::WouldBlock);
        self.full.store(full, Ordering::Relaxed);
        result
    }
}

impl Stream for OptimisticStream {
    fn poll(&self, mode: PollMode) -> Result<()> {
        match mode {
            PollMode::Writable | PollMode::ReadAndWritable if !self.full.load(Ordering::Relaxed) => Ok(()),
            _ => self.socket.poll(mode),
        }
    }

    fn read(&self, buffer: &mut [u8], fds: &mut Vec<RawFdContainer>) -> Result<usize> {
        self.socket.read(buffer, fds)
    }

    fn write(&self, buffer: &[u8], fds: &mut Vec<RawFdContainer>) -> Result<usize> {
        self.wrote(self.socket.write(buffer, fds))
    }

    fn write_vectored(&self, buffers: &[IoSlice<'_>], fds: &mut Vec<RawFdContainer>) -> Result<usize> {
        self.wrote(self.socket.write_vectored(buffers, fds))
    }
}

impl AsRawFd for OptimisticStream {
    fn as_raw_fd(&self) -> RawFd {
        self.socket.as_raw_fd()
    }
}

impl AsFd for OptimisticStream {
    fn as_fd(&self) -> BorrowedFd<'_> {
        self.socket.as_fd()
    }
}
