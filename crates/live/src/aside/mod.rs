//! Pictures of strangers are drawn aside: by a process of its own that has so much time and memory and no more, so that none
//! of them keeps the desktop waiting or takes it down.

#[cfg(test)]
mod tests;
mod worker;

pub use worker::serve;

use std::cell::{Ref, RefCell};
use std::collections::{HashMap, HashSet, VecDeque};
use std::ffi::OsString;
use std::io::{ErrorKind, Read, Write};
use std::os::fd::{AsFd, BorrowedFd};
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::rc::Rc;
use std::time::{Duration, Instant};

use jovrik_draw::{Aside, DrawnPicture, Job, PictureError};
use jovrik_text::limits;
use rustix::event::{PollFd, PollFlags, Timespec, poll};

use worker::Answer;

/// So many pictures wait to be drawn.
const MAX_WAITING_PICTURES: usize = 512;
/// How long one turn of the desktop waits for pictures in all: most are there by then, and are seen at once.
const DRAW_TIMEOUT: Duration = Duration::from_millis(20);
/// How long whoever draws is kept with nothing to do.
const IDLE_TIMEOUT: Duration = Duration::from_secs(20);
/// So often in a minute whoever draws is begun anew after it was ended.
const MAX_RESTARTS: usize = 10;
/// So much is read of an answer at once, in bytes.
const CHUNK: usize = 256 * 1024;

type Drawn = Result<DrawnPicture, PictureError>;

/// The process that draws.
struct Process {
    child: Child,
    to: ChildStdin,
    from: ChildStdout,
    /// What it has answered so far.
    input: Vec<u8>,
}

/// Who draws, and what.
pub struct DrawingState {
    command: Vec<OsString>,
    process: Option<Process>,
    /// What is drawn now, and since when.
    current: Option<(Job, Instant)>,
    waiting: VecDeque<Job>,
    /// All that is asked for and not there.
    asked: HashSet<Job>,
    ready: HashMap<Job, Drawn>,
    /// When it was ended lately.
    ends: VecDeque<Instant>,
    /// Since when there is nothing to do.
    idle: Option<Instant>,
    /// How long this turn may wait yet.
    patience: Duration,
    /// Whether something came since that was asked.
    came: bool,
}

/// Has pictures drawn, and says when they are there.
pub struct Drawing(Rc<RefCell<DrawingState>>);

impl Drawing {
    /// Nothing is begun before somebody asks.
    pub fn new(command: Vec<OsString>) -> Drawing {
        Drawing(Rc::new(RefCell::new(DrawingState {
            command,
            process: None,
            current: None,
            waiting: VecDeque::new(),
            asked: HashSet::new(),
            ready: HashMap::new(),
            ends: VecDeque::new(),
            idle: None,
            // What is seen first is seen whole where that takes no time to speak of.
            patience: 3 * DRAW_TIMEOUT,
            came: false,
        })))
    }

    /// Hands pictures out as they are there.
    pub fn hand_out(&self) -> Aside {
        let state = self.0.clone();
        Box::new(move |job| state.borrow_mut().ask(job))
    }

    /// Who draws, to wait on them.
    pub fn state(&self) -> Ref<'_, DrawingState> {
        self.0.borrow()
    }

    /// When it is to be looked after at the latest.
    pub fn wakes(&self) -> Option<Instant> {
        let state = self.0.borrow();
        let slow = state.current.as_ref().map(|(_, since)| *since + time());
        slow.or(state.idle.map(|since| since + IDLE_TIMEOUT))
    }

    /// A turn of the desktop begins: takes in what came; whether pictures are there that were missing.
    pub fn turn(&mut self, now: Instant) -> bool {
        let mut state = self.0.borrow_mut();
        state.patience = DRAW_TIMEOUT;
        state.hear();
        state.look_after(now);
        std::mem::take(&mut state.came)
    }

    /// What is there and nobody fetched is forgotten with what would have shown it.
    pub fn forget(&mut self) {
        self.0.borrow_mut().ready.clear();
    }
}

fn time() -> Duration {
    Duration::from_millis(limits::ASIDE_MILLISECONDS as u64)
}

impl DrawingState {
    /// What to wait on.
    pub fn fd(&self) -> Option<BorrowedFd<'_>> {
        self.process.as_ref().map(|process| process.from.as_fd())
    }

    fn ask(&mut self, job: &Job) -> Option<Drawn> {
        if let Some(drawn) = self.ready.remove(job) {
            return Some(drawn);
        }
        if !self.asked.contains(job) {
            if self.asked.len() >= MAX_WAITING_PICTURES {
                return Some(Err(PictureError::Busy));
            }
            self.asked.insert(job.clone());
            self.waiting.push_back(job.clone());
        }
        self.go_on(Instant::now());
        while !self.patience.is_zero() && self.asked.contains(job) {
            let began = Instant::now();
            let heard = self.wait(self.patience);
            self.patience = self.patience.saturating_sub(began.elapsed());
            if !heard {
                break;
            }
        }
        self.ready.remove(job)
    }

    /// Waits so long for whoever draws; whether it said something.
    fn wait(&mut self, time: Duration) -> bool {
        let Some(process) = &self.process else { return false };
        let mut fds = [PollFd::new(&process.from, PollFlags::IN)];
        let time = Timespec { tv_sec: 0, tv_nsec: i64::from(time.subsec_nanos()) };
        let heard = matches!(poll(&mut fds, Some(&time)), Ok(number) if number > 0);
        if heard {
            self.hear();
        }
        heard
    }

    /// Begins with the next one.
    fn go_on(&mut self, now: Instant) {
        while self.current.is_none() {
            let Some(job) = self.waiting.pop_front() else {
                self.idle = self.process.as_ref().map(|_| now);
                return;
            };
            self.idle = None;
            if self.process.is_none() {
                self.ends.retain(|end| now.saturating_duration_since(*end) < Duration::from_secs(60));
                self.process = if self.ends.len() < MAX_RESTARTS { begin(&self.command) } else { None };
            }
            let line = serde_json::to_vec(&job).map(|line| [line.as_slice(), b"\n"].concat());
            let sent = match (&mut self.process, line) {
                (Some(process), Ok(line)) => process.to.write_all(&line).is_ok(),
                _ => false,
            };
            if sent {
                self.current = Some((job, now));
            } else {
                self.end(now);
                self.done(&job, Err(PictureError::Fatal));
            }
        }
    }

    /// Takes in what was answered.
    fn hear(&mut self) {
        let Some(process) = &mut self.process else { return };
        let mut over = false;
        let mut chunk = vec![0; CHUNK];
        loop {
            match process.from.read(&mut chunk) {
                Ok(0) => {
                    over = true;
                    break;
                }
                Ok(len) => process.input.extend_from_slice(&chunk[..len]),
                Err(error) if error.kind() == ErrorKind::Interrupted => {}
                Err(error) if error.kind() == ErrorKind::WouldBlock => break,
                Err(_) => {
                    over = true;
                    break;
                }
            }
        }
        let now = Instant::now();
        match Answer::take(&mut process.input) {
            Some(Ok(drawn)) => {
                if let Some((job, _)) = self.current.take() {
                    self.done(&job, drawn);
                }
                self.go_on(now);
            }
            None if !over => {}
            // What it says makes no sense, or it is gone.
            Some(Err(())) | None => {
                self.end(now);
                if let Some((job, _)) = self.current.take() {
                    self.done(&job, Err(PictureError::Fatal));
                }
                self.go_on(now);
            }
        }
    }

    fn done(&mut self, job: &Job, drawn: Drawn) {
        self.asked.remove(job);
        self.ready.insert(job.clone(), drawn);
        self.came = true;
    }

    /// What takes too long is ended, and who has had nothing to do for some time.
    fn look_after(&mut self, now: Instant) {
        if let Some((job, _)) = self.current.take_if(|(_, since)| now.saturating_duration_since(*since) >= time()) {
            self.end(now);
            self.done(&job, Err(PictureError::Slow));
            self.go_on(now);
        }
        if self.idle.is_some_and(|since| now.saturating_duration_since(since) >= IDLE_TIMEOUT) {
            self.idle = None;
            self.stop();
        }
    }

    fn end(&mut self, now: Instant) {
        if self.process.is_some() {
            self.ends.push_back(now);
        }
        self.stop();
    }

    fn stop(&mut self) {
        if let Some(mut process) = self.process.take() {
            let _ = process.child.kill();
            let _ = process.child.wait();
        }
    }
}

impl Drop for DrawingState {
    fn drop(&mut self) {
        self.stop();
    }
}

/// Begins whoever draws; nothing where the system does not give one.
fn begin(command: &[OsString]) -> Option<Process> {
    let (program, arguments) = command.split_first()?;
    let mut command = Command::new(program);
    command.args(arguments).stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::null());
    std::os::unix::process::CommandExt::process_group(&mut command, 0);
    let mut child = command.spawn().ok()?;
    let (to, from) = (child.stdin.take()?, child.stdout.take()?);
    rustix::io::ioctl_fionbio(&from, true).ok()?;
    // Whole pictures go through it; where it stays small it takes a little longer.
    let _ = rustix::pipe::fcntl_setpipe_size(&from, 1024 * 1024);
    Some(Process { child, to, from, input: Vec::new() })
}
