//! A program that prints a value a line for as long as it runs.

use std::io::Read;
use std::os::fd::{AsFd, BorrowedFd};
use std::process::{Child, ChildStdout};
use std::rc::Rc;
use std::time::{Duration, Instant};

use crate::command::{Complaints, spawn};
use crate::process_tree::ProcessTree;
use crate::source_error::SourceError;

/// A line is shown for at least so long: nobody sees more of them.
pub(crate) const FRAME: Duration = Duration::from_millis(16);
/// The most that is read in one go, so that a flood delays nobody.
const MAX_READ_BYTES: usize = 4 * 1024 * 1024;
/// The longest line, in bytes.
const LINE: usize = 64 * 1024;

/// What was new.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum News {
    /// Nothing, or nothing yet.
    None,
    /// The latest whole line.
    Line(String),
    /// It has ended, or must not go on; with its last line, if that was new.
    Ended(Option<String>, String),
}

/// A stream that runs.
#[derive(Debug)]
pub(crate) struct Stream {
    family: Rc<ProcessTree>,
    child: Child,
    stdout: ChildStdout,
    complaints: Complaints,
    /// The line that is not whole yet.
    part: Vec<u8>,
    /// Bytes of a line that is too long are dropped up to its end.
    dropping: bool,
    read_at: Option<Instant>,
    /// When it is read again, if something came too soon.
    pub quiet_until: Option<Instant>,
}

impl Stream {
    /// Starts a program.
    pub fn start(argv: &[String], family: &Rc<ProcessTree>) -> Result<Stream, SourceError> {
        let (child, stdout, complaints) = spawn(argv, family)?;
        let (family, part) = (family.clone(), Vec::new());
        Ok(Stream { family, child, stdout, complaints, part, dropping: false, read_at: None, quiet_until: None })
    }

    /// The beginning of what it wrote to standard error.
    pub fn complaint(&self) -> String {
        self.complaints.text()
    }

    /// What to wait on; nothing while a frame has not passed.
    pub fn fds(&self) -> impl Iterator<Item = BorrowedFd<'_>> {
        let quiet = self.quiet_until.is_some();
        std::iter::once(self.stdout.as_fd()).chain(self.complaints.fd()).filter(move |_| !quiet)
    }

    /// Whether something waits to be read.
    fn ready(&self) -> bool {
        let fd = self.stdout.as_fd();
        let mut fds = [rustix::event::PollFd::new(&fd, rustix::event::PollFlags::IN)];
        let now = rustix::event::Timespec::default();
        matches!(rustix::event::poll(&mut fds, Some(&now)), Ok(1..))
    }

    /// Reads what is there, at most once a frame.
    pub fn step(&mut self, now: Instant) -> News {
        if let Some(until) = self.quiet_until {
            if now < until {
                return News::None;
            }
            self.quiet_until = None;
        }
        // Who is not heard blocks in the end.
        self.complaints.hear();
        if !self.ready() {
            return News::None;
        }
        if let Some(next) = self.read_at.map(|at| at + FRAME).filter(|next| now < *next) {
            self.quiet_until = Some(next);
            return News::None;
        }
        self.read_at = Some(now);
        let mut line = None;
        let mut buffer = [0; 64 * 1024];
        let mut taken = 0;
        while taken < MAX_READ_BYTES {
            match self.stdout.read(&mut buffer) {
                Ok(0) => {
                    self.complaints.hear();
                    return self.ended(line);
                }
                Ok(len) => {
                    taken += len;
                    self.take(&buffer[..len], &mut line);
                }
                Err(error) if error.kind() == std::io::ErrorKind::Interrupted => {}
                Err(_) => break,
            }
        }
        self.complaints.hear();
        line.map_or(News::None, News::Line)
    }

    fn take(&mut self, bytes: &[u8], line: &mut Option<String>) {
        let Some(end) = bytes.iter().rposition(|byte| *byte == b'\n') else {
            if self.part.len() + bytes.len() > LINE {
                self.part.clear();
                self.dropping = true;
            } else if !self.dropping {
                self.part.extend_from_slice(bytes);
            }
            return;
        };
        // Only the last whole line is looked at.
        let whole = &bytes[..end];
        let last = match whole.iter().rposition(|byte| *byte == b'\n') {
            Some(start) => Some(whole[start + 1..].to_vec()),
            None if self.dropping => None,
            None => Some([&self.part, whole].concat()),
        };
        self.dropping = false;
        self.part = bytes[end + 1..].to_vec();
        if let Some(last) = last.filter(|last| last.len() <= LINE) {
            *line = Some(String::from_utf8_lossy(&last).into_owned());
        }
    }

    fn ended(&mut self, line: Option<String>) -> News {
        let status = self.child.try_wait().ok().flatten();
        self.family.end(&mut self.child);
        let how = match status.map(|status| (status.success(), status.code())) {
            Some((true, _)) => "the stream has ended".to_owned(),
            Some((false, Some(code))) => format!("the stream ended with exit code {code}"),
            Some((false, None)) => "the stream was killed".to_owned(),
            None => "it closed its output and was ended".to_owned(),
        };
        News::Ended(line, how)
    }
}

impl Drop for Stream {
    fn drop(&mut self) {
        self.family.end(&mut self.child);
    }
}
