//! One run of a program: its output, within limits.

use std::io::Read;
use std::os::fd::{AsFd, BorrowedFd};
use std::os::unix::process::CommandExt;
use std::process::{Child, ChildStderr, ChildStdout, Command, Stdio};
use std::time::{Duration, Instant};

/// The most that a program may print, in bytes.
const MOST: usize = 1024 * 1024;

/// The most of what it complains that is kept, in bytes.
const COMPLAINT: usize = 2048;

/// How a run ended.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Outcome {
    /// It printed this and ended well.
    Printed(String),
    /// Why there is no value.
    Failed(String),
}

/// A program that runs.
#[derive(Debug)]
pub(crate) struct Running {
    child: Child,
    stdout: ChildStdout,
    stderr: ChildStderr,
    output: Vec<u8>,
    /// The beginning of what it wrote to standard error.
    pub complaint: Vec<u8>,
    /// Its exit code, once it has one.
    pub code: Option<i32>,
    /// When it was started.
    pub began: Instant,
    /// When it is ended.
    pub deadline: Instant,
    within: Duration,
}

/// Starts a program in a process group of its own, so that all of it can be ended.
pub(crate) fn spawn(argv: &[String]) -> Result<(Child, ChildStdout, ChildStderr), String> {
    let (program, arguments) = argv.split_first().ok_or("no program is named")?;
    let mut command = Command::new(program);
    command.args(arguments).stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped()).process_group(0);
    let mut child = command.spawn().map_err(|error| match error.kind() {
        std::io::ErrorKind::NotFound => format!("{program} is not on this computer"),
        std::io::ErrorKind::PermissionDenied => format!("{program} may not be run"),
        _ => format!("{program}: {error}"),
    })?;
    let (Some(stdout), Some(stderr)) = (child.stdout.take(), child.stderr.take()) else {
        return Err("its output cannot be read".to_owned());
    };
    rustix::io::ioctl_fionbio(&stdout, true).map_err(|error| error.to_string())?;
    rustix::io::ioctl_fionbio(&stderr, true).map_err(|error| error.to_string())?;
    Ok((child, stdout, stderr))
}

/// Ends a program and all that it started.
pub(crate) fn end(child: &mut Child) {
    if matches!(child.try_wait(), Ok(Some(_))) {
        return;
    }
    let group = rustix::process::Pid::from_child(child);
    let _ = rustix::process::kill_process_group(group, rustix::process::Signal::KILL);
    let _ = child.wait();
}

/// Takes what a program complains of, and keeps its beginning.
pub(crate) fn hear(stderr: &mut ChildStderr, complaint: &mut Vec<u8>) {
    let mut buffer = [0; 4096];
    while let Ok(len @ 1..) = stderr.read(&mut buffer) {
        let room = COMPLAINT.saturating_sub(complaint.len()).min(len);
        complaint.extend_from_slice(&buffer[..room]);
    }
}

impl Running {
    /// Starts a program.
    pub fn start(argv: &[String], within: Duration, now: Instant) -> Result<Running, String> {
        let (child, stdout, stderr) = spawn(argv)?;
        Ok(Running {
            child,
            stdout,
            stderr,
            output: Vec::new(),
            complaint: Vec::new(),
            code: None,
            began: now,
            deadline: now + within,
            within,
        })
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.stdout.as_fd()
    }

    /// Reads what is there; an outcome when it is over.
    pub fn step(&mut self, now: Instant) -> Option<Outcome> {
        let mut buffer = [0; 16 * 1024];
        loop {
            match self.stdout.read(&mut buffer) {
                Ok(0) => return self.closed(now),
                Ok(len) => {
                    self.output.extend_from_slice(&buffer[..len]);
                    if self.output.len() > MOST {
                        self.end();
                        return Some(Outcome::Failed("it printed more than 1 MiB and was ended".to_owned()));
                    }
                }
                Err(error) if error.kind() == std::io::ErrorKind::Interrupted => {}
                Err(error) if error.kind() == std::io::ErrorKind::WouldBlock => break,
                Err(error) => {
                    self.end();
                    return Some(Outcome::Failed(error.to_string()));
                }
            }
        }
        hear(&mut self.stderr, &mut self.complaint);
        self.late(now)
    }

    fn late(&mut self, now: Instant) -> Option<Outcome> {
        if now < self.deadline {
            return None;
        }
        self.end();
        let words = jovrik_core::rice::Span::words(self.within);
        Some(Outcome::Failed(format!("it took longer than {words} and was ended")))
    }

    /// Its output is closed; it mostly ends at the same moment.
    fn closed(&mut self, now: Instant) -> Option<Outcome> {
        hear(&mut self.stderr, &mut self.complaint);
        let status = match self.child.try_wait() {
            Ok(Some(status)) => status,
            Ok(None) => {
                std::thread::sleep(Duration::from_millis(1));
                match self.child.try_wait() {
                    Ok(Some(status)) => status,
                    // It closed its output and lives on: what it printed is the value.
                    _ => return self.late(now).or_else(|| self.value_while_alive()),
                }
            }
            Err(error) => return Some(Outcome::Failed(error.to_string())),
        };
        self.code = status.code();
        if !status.success() {
            let how = status.code().map_or_else(|| "it was killed".to_owned(), |code| format!("it ended with exit code {code}"));
            return Some(Outcome::Failed(how));
        }
        Some(self.value())
    }

    fn value_while_alive(&mut self) -> Option<Outcome> {
        self.end();
        Some(self.value())
    }

    fn value(&mut self) -> Outcome {
        match String::from_utf8(std::mem::take(&mut self.output)) {
            Ok(text) => Outcome::Printed(text),
            Err(_) => Outcome::Failed("what it printed is not UTF-8".to_owned()),
        }
    }

    fn end(&mut self) {
        end(&mut self.child);
    }
}

impl Drop for Running {
    fn drop(&mut self) {
        self.end();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Runs a program once and waits for it.
    fn run_once(argv: &[String], within: Duration) -> Outcome {
        let mut running = match Running::start(argv, within, Instant::now()) {
            Ok(running) => running,
            Err(why) => return Outcome::Failed(why),
        };
        loop {
            let now = Instant::now();
            if let Some(outcome) = running.step(now) {
                return outcome;
            }
            let left = running.deadline.saturating_duration_since(now);
            let timeout = rustix::event::Timespec { tv_sec: left.as_secs() as i64, tv_nsec: i64::from(left.subsec_nanos()) };
            let fd = running.fd();
            let mut fds = [rustix::event::PollFd::new(&fd, rustix::event::PollFlags::IN)];
            let _ = rustix::event::poll(&mut fds, Some(&timeout));
        }
    }

    fn run(line: &str, millis: u64) -> Outcome {
        run_once(&["sh".to_owned(), "-c".to_owned(), line.to_owned()], Duration::from_millis(millis))
    }

    fn why(outcome: Outcome) -> String {
        match outcome {
            Outcome::Failed(why) => why,
            Outcome::Printed(text) => panic!("it printed {text}"),
        }
    }

    #[test]
    fn a_program_that_prints_and_ends_gives_its_output() {
        assert_eq!(run("echo ebb", 5000), Outcome::Printed("ebb\n".to_owned()));
    }

    #[test]
    fn every_way_to_fail_is_said_and_none_of_them_waits() {
        assert_eq!(why(run("exit 7", 5000)), "it ended with exit code 7");
        assert_eq!(why(run("kill -9 $$", 5000)), "it was killed");
        assert_eq!(why(run("sleep 60", 100)), "it took longer than 100ms and was ended");
        assert_eq!(why(run("sleep 60 & sleep 60", 100)), "it took longer than 100ms and was ended");
        assert_eq!(why(run("yes", 20_000)), "it printed more than 1 MiB and was ended");
        assert_eq!(why(run("printf '\\377'", 5000)), "what it printed is not UTF-8");
        assert_eq!(why(run_once(&["no-such-gauge".to_owned()], Duration::from_secs(1))), "no-such-gauge is not on this computer");
        assert_eq!(why(run_once(&["/etc/passwd".to_owned()], Duration::from_secs(1))), "/etc/passwd may not be run");
        assert_eq!(why(run_once(&[], Duration::from_secs(1))), "no program is named");
    }
}
