//! What programs say goes into files that stay small: while it is written, the older half of a long one goes. A process of its
//! own reads it, so that programs go on when the desktop ends, or another takes over.

use std::ffi::OsString;
use std::fs::File;
use std::io::{IoSlice, IoSliceMut, Read, Write};
use std::mem::MaybeUninit;
use std::os::fd::{AsFd, OwnedFd};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use jovrik_file::{append_private, private_folder, write_private};
use jovrik_text::limits;
use rustix::event::{PollFd, PollFlags, Timespec, poll};
use rustix::net::{
    AddressFamily, RecvAncillaryBuffer, RecvAncillaryMessage, RecvFlags, SendAncillaryBuffer, SendAncillaryMessage, SendFlags,
    SocketFlags, SocketType, recvmsg, sendmsg, socketpair,
};
use rustix::pipe::{PipeFlags, pipe_with};

/// How long what was said is gathered before it is written.
const FLUSH_DELAY: Duration = Duration::from_millis(50);
/// So much of one program is read in that time, in bytes: it waits for the rest.
const AT_ONCE: usize = 1024 * 1024;
/// So many programs are heard at once.
const MAX_PROGRAMS: usize = 512;

/// Whoever keeps what programs say.
#[derive(Debug, Default)]
pub struct Logs {
    /// The command that keeps it: what it is handed over its standard input, it reads.
    command: Vec<OsString>,
    keeper: Option<OwnedFd>,
}

impl Logs {
    /// Nothing is begun before a program starts.
    pub fn new(command: Vec<OsString>) -> Logs {
        Logs { command, keeper: None }
    }

    /// Where a program is to write to; nothing where nobody keeps it.
    pub fn of(&mut self, program: &str) -> Option<OwnedFd> {
        let (read, write) = pipe_with(PipeFlags::CLOEXEC).ok()?;
        let name = name_of(program);
        // One that is gone is begun once more.
        for _ in 0..2 {
            if self.keeper.is_none() {
                self.keeper = begin(&self.command);
            }
            if hand_over(self.keeper.as_ref()?, &name, &read) {
                return Some(write);
            }
            self.keeper = None;
        }
        None
    }
}

/// The name of the file for what a program says.
fn name_of(program: &str) -> String {
    let name = program.rsplit('/').next().unwrap_or_default();
    let name: String = name.chars().map(|c| if c.is_alphanumeric() || "._-".contains(c) { c } else { '-' }).take(100).collect();
    format!("{}.log", name.trim_start_matches('.'))
}

fn begin(command: &[OsString]) -> Option<OwnedFd> {
    let (program, arguments) = command.split_first()?;
    let (ours, theirs) = socketpair(AddressFamily::UNIX, SocketType::SEQPACKET, SocketFlags::CLOEXEC, None).ok()?;
    let mut command = Command::new(program);
    command.args(arguments).stdin(Stdio::from(theirs)).stdout(Stdio::null()).stderr(Stdio::null());
    std::os::unix::process::CommandExt::process_group(&mut command, 0);
    command.spawn().ok().map(|_| ours)
}

fn hand_over(keeper: &OwnedFd, name: &str, read: &OwnedFd) -> bool {
    let fds = [read.as_fd()];
    let mut space = [MaybeUninit::uninit(); rustix::cmsg_space!(ScmRights(1))];
    let mut control = SendAncillaryBuffer::new(&mut space);
    let fits = control.push(SendAncillaryMessage::ScmRights(&fds));
    let flags = SendFlags::NOSIGNAL | SendFlags::DONTWAIT;
    fits && sendmsg(keeper, &[IoSlice::new(name.as_bytes())], &mut control, flags).is_ok()
}

/// One program that is heard.
struct Heard {
    from: File,
    file: PathBuf,
    /// What it said since it was written last, and how much that was with what is let go of.
    said: Vec<u8>,
    since: usize,
    /// When that is written.
    due: Option<Instant>,
    over: bool,
}

/// Keeps what programs say in files of a folder, until nobody hands programs over and all of them have ended.
///
/// # Errors
///
/// When nothing can be waited for.
pub fn keep_logs(folder: &Path) -> std::io::Result<()> {
    private_folder(folder)?;
    let mut input = Some(rustix::stdio::stdin());
    let mut all: Vec<Heard> = Vec::new();
    while input.is_some() || !all.is_empty() {
        let due = all.iter().filter_map(|heard| heard.due).min();
        let timeout = due.map(|due| {
            let left = due.saturating_duration_since(Instant::now());
            Timespec { tv_sec: left.as_secs() as i64, tv_nsec: i64::from(left.subsec_nanos()) }
        });
        // Who has said enough for now waits until it is written.
        let ready: Vec<usize> = (0..all.len()).filter(|at| all[*at].since < AT_ONCE).collect();
        let mut fds: Vec<PollFd<'_>> = input.iter().map(|input| PollFd::new(input, PollFlags::IN)).collect();
        let first = fds.len();
        fds.extend(ready.iter().map(|at| PollFd::new(&all[*at].from, PollFlags::IN)));
        match poll(&mut fds, timeout.as_ref()) {
            Ok(_) | Err(rustix::io::Errno::INTR) => {}
            Err(error) => return Err(error.into()),
        }
        let told = fds[..first].iter().any(|fd| !fd.revents().is_empty());
        let says: Vec<usize> =
            ready.iter().zip(&fds[first..]).filter(|(_, fd)| !fd.revents().is_empty()).map(|(at, _)| *at).collect();
        drop(fds);
        says.into_iter().for_each(|at| all[at].hear());
        if told {
            match handed_over(folder) {
                Some(Some(heard)) if all.len() < MAX_PROGRAMS => all.push(heard),
                Some(_) => {}
                None => input = None,
            }
        }
        let now = Instant::now();
        all.iter_mut().filter(|heard| heard.over || heard.due.is_some_and(|due| due <= now)).for_each(Heard::write);
        all.retain(|heard| !heard.over);
    }
    Ok(())
}

/// A program that is handed over on standard input, if it is one; nothing when nobody does that any more.
fn handed_over(folder: &Path) -> Option<Option<Heard>> {
    let mut name = [0; 512];
    let mut space = [MaybeUninit::uninit(); rustix::cmsg_space!(ScmRights(1))];
    let mut control = RecvAncillaryBuffer::new(&mut space);
    let flags = RecvFlags::CMSG_CLOEXEC | RecvFlags::DONTWAIT;
    let received = match recvmsg(rustix::stdio::stdin(), &mut [IoSliceMut::new(&mut name)], &mut control, flags) {
        Ok(received) => received,
        Err(rustix::io::Errno::AGAIN | rustix::io::Errno::INTR) => return Some(None),
        Err(_) => return None,
    };
    let mut fds = Vec::new();
    for message in control.drain() {
        if let RecvAncillaryMessage::ScmRights(all) = message {
            fds.extend(all);
        }
    }
    if received.bytes == 0 && fds.is_empty() {
        return None;
    }
    let name = name_of(&String::from_utf8_lossy(&name[..received.bytes]).replace(".log", ""));
    let heard = |fd: OwnedFd| {
        rustix::io::ioctl_fionbio(&fd, true).ok()?;
        let (from, file) = (File::from(fd), folder.join(name));
        Some(Heard { from, file, said: Vec::new(), since: 0, due: None, over: false })
    };
    Some(fds.pop().and_then(heard))
}

/// The end of some bytes, from the beginning of a line on where there is one.
fn end_of(bytes: &[u8], most: usize) -> &[u8] {
    let end = &bytes[bytes.len().saturating_sub(most)..];
    if end.len() == bytes.len() {
        return end;
    }
    end.iter().position(|byte| *byte == b'\n').map_or(end, |at| &end[at + 1..])
}

impl Heard {
    fn hear(&mut self) {
        let mut buffer = [0; 64 * 1024];
        match self.from.read(&mut buffer) {
            Ok(0) => self.over = true,
            Ok(len) => {
                self.since += len;
                self.said.extend_from_slice(&buffer[..len]);
                if self.said.len() > limits::LOG_BYTES {
                    self.said = end_of(&self.said, limits::LOG_BYTES / 2).to_vec();
                }
                self.due.get_or_insert_with(|| Instant::now() + FLUSH_DELAY);
            }
            Err(error) => self.over = !matches!(error.kind(), std::io::ErrorKind::WouldBlock | std::io::ErrorKind::Interrupted),
        }
    }

    /// Writes what was said; a disk that is full loses it, and nobody else anything.
    fn write(&mut self) {
        self.due = None;
        self.since = 0;
        let said = std::mem::take(&mut self.said);
        let long = self.file.metadata().map_or(0, |about| about.len()) as usize + said.len() > limits::LOG_BYTES;
        let _ = if long {
            let before = jovrik_file::read_file(&self.file, 16 * limits::LOG_BYTES as u64).unwrap_or_default();
            write_private(&self.file, end_of(&[before, said].concat(), limits::LOG_BYTES / 2))
        } else {
            append_private(&self.file).and_then(|mut file| file.write_all(&said))
        };
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_long_one_is_cut_at_the_beginning_of_a_line() {
        assert_eq!(end_of(b"one\ntwo\nthree\n", 8), b"three\n");
        assert_eq!(end_of(b"one\ntwo\n", 8), b"one\ntwo\n");
        assert_eq!(end_of(b"no line at all", 4), b" all");
        assert_eq!(name_of("/usr/bin/../x y"), "x-y.log");
        assert_eq!(name_of("..hidden"), "hidden.log");
    }
}
