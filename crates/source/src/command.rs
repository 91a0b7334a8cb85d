//! One run of a program: its output, within limits.

use std::io::Read;
use std::os::fd::{AsFd, BorrowedFd};
use std::process::{Child, ChildStderr, ChildStdout, Command, Stdio};
use std::rc::Rc;
use std::time::{Duration, Instant};

use crate::process_tree::ProcessTree;
use crate::source_error::SourceError;

/// The most that a program may print, in bytes.
const MAX_OUTPUT_BYTES: usize = 1024 * 1024;

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
pub(crate) struct RunningProgram {
    family: Rc<ProcessTree>,
    child: Child,
    stdout: ChildStdout,
    /// What it complains of, while that is heard.
    complaints: Complaints,
    output: Vec<u8>,
    /// Its exit code, once it has one.
    pub code: Option<i32>,
    /// When it was started.
    pub began: Instant,
    /// When it is ended.
    pub deadline: Instant,
    within: Duration,
}

/// Starts a program of a family, so that all of it can be ended.
pub(crate) fn spawn(argv: &[String], family: &ProcessTree) -> Result<(Child, ChildStdout, Complaints), SourceError> {
    let (program, arguments) = argv.split_first().ok_or(SourceError::Unnamed)?;
    let mut command = Command::new(program);
    command.args(arguments).stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped());
    family.take_in(&mut command);
    let mut child = command.spawn().map_err(|error| match error.kind() {
        std::io::ErrorKind::NotFound => SourceError::NotHere(program.clone()),
        std::io::ErrorKind::PermissionDenied => SourceError::NotAllowed(program.clone()),
        std::io::ErrorKind::ExecutableFileBusy => SourceError::BeingWritten(program.clone()),
        _ => SourceError::Failed(program.clone(), error),
    })?;
    let (Some(stdout), Some(stderr)) = (child.stdout.take(), child.stderr.take()) else {
        return Err(SourceError::Mute);
    };
    let fails = |error: rustix::io::Errno| SourceError::Failed(program.clone(), error.into());
    rustix::io::ioctl_fionbio(&stdout, true).map_err(fails)?;
    rustix::io::ioctl_fionbio(&stderr, true).map_err(fails)?;
    Ok((child, stdout, Complaints { stderr: Some(stderr), heard: Vec::new() }))
}

/// What a program writes to standard error: all of it is taken, so that nobody waits to be heard, and its beginning kept.
#[derive(Debug)]
pub(crate) struct Complaints {
    stderr: Option<ChildStderr>,
    heard: Vec<u8>,
}

impl Complaints {
    /// What to wait on; nothing once it is closed.
    pub fn fd(&self) -> Option<BorrowedFd<'_>> {
        self.stderr.as_ref().map(AsFd::as_fd)
    }

    /// Takes what is there; of a flood only so much in one go that it delays nobody.
    pub fn hear(&mut self) {
        let mut buffer = [0; 16 * 1024];
        for _ in 0..256 {
            let Some(stderr) = &mut self.stderr else { return };
            match stderr.read(&mut buffer) {
                Ok(0) => self.stderr = None,
                Ok(len) => {
                    let room = COMPLAINT.saturating_sub(self.heard.len()).min(len);
                    self.heard.extend_from_slice(&buffer[..room]);
                }
                Err(error) if error.kind() == std::io::ErrorKind::Interrupted => {}
                Err(error) if error.kind() == std::io::ErrorKind::WouldBlock => return,
                Err(_) => self.stderr = None,
            }
        }
    }

    /// The beginning of what was heard.
    pub fn text(&self) -> String {
        String::from_utf8_lossy(&self.heard).trim_end().to_owned()
    }
}

impl RunningProgram {
    /// Starts a program.
    pub fn start(
        argv: &[String],
        family: &Rc<ProcessTree>,
        within: Duration,
        now: Instant,
    ) -> Result<RunningProgram, SourceError> {
        let (child, stdout, complaints) = spawn(argv, family)?;
        Ok(RunningProgram {
            family: family.clone(),
            child,
            stdout,
            complaints,
            output: Vec::new(),
            code: None,
            began: now,
            deadline: now + within,
            within,
        })
    }

    /// What to wait on.
    pub fn fds(&self) -> impl Iterator<Item = BorrowedFd<'_>> {
        std::iter::once(self.stdout.as_fd()).chain(self.complaints.fd())
    }

    /// The beginning of what it wrote to standard error.
    pub fn complaint(&self) -> String {
        self.complaints.text()
    }

    /// Reads what is there; an outcome when it is over.
    pub fn step(&mut self, now: Instant) -> Option<Outcome> {
        let mut buffer = [0; 16 * 1024];
        loop {
            match self.stdout.read(&mut buffer) {
                Ok(0) => return self.closed(now),
                Ok(len) => {
                    self.output.extend_from_slice(&buffer[..len]);
                    if self.output.len() > MAX_OUTPUT_BYTES {
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
        self.complaints.hear();
        self.late(now)
    }

    fn late(&mut self, now: Instant) -> Option<Outcome> {
        if now < self.deadline {
            return None;
        }
        self.end();
        let words = jovrik_schema::TimeSpan::words(self.within);
        Some(Outcome::Failed(format!("it took longer than {words} and was ended")))
    }

    /// Its output is closed; it mostly ends at the same moment.
    fn closed(&mut self, now: Instant) -> Option<Outcome> {
        self.complaints.hear();
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
        self.family.end(&mut self.child);
    }
}

impl Drop for RunningProgram {
    fn drop(&mut self) {
        self.end();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Runs a program once and waits for it.
    fn run_once(argv: &[String], within: Duration) -> Outcome {
        let mut running = match RunningProgram::start(argv, &Rc::new(ProcessTree::new()), within, Instant::now()) {
            Ok(running) => running,
            Err(why) => return Outcome::Failed(why.to_string()),
        };
        loop {
            let now = Instant::now();
            if let Some(outcome) = running.step(now) {
                return outcome;
            }
            let left = running.deadline.saturating_duration_since(now);
            let timeout = rustix::event::Timespec { tv_sec: left.as_secs() as i64, tv_nsec: i64::from(left.subsec_nanos()) };
            let fds: Vec<_> = running.fds().collect();
            let mut fds: Vec<_> = fds.iter().map(|fd| rustix::event::PollFd::new(fd, rustix::event::PollFlags::IN)).collect();
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
    fn a_program_that_complains_at_length_is_heard_out() {
        let line = "head -c 3000000 /dev/zero | tr '\\0' x >&2; echo flood";
        assert_eq!(run(line, 20_000), Outcome::Printed("flood\n".to_owned()));
    }

    /// How many processes have a word of their own in their arguments.
    fn alive(word: &str) -> usize {
        let all = std::fs::read_dir("/proc").expect("it is there").flatten();
        let said = |entry: std::fs::DirEntry| std::fs::read(entry.path().join("cmdline")).unwrap_or_default();
        all.map(said).filter(|line| line.split(|byte| *byte == 0).any(|own| own == word.as_bytes())).count()
    }

    /// Waits until nobody with a word is left.
    #[track_caller]
    fn gone(word: &str) {
        for _ in 0..500 {
            if alive(word) == 0 {
                return;
            }
            std::thread::sleep(Duration::from_millis(10));
        }
        assert_eq!(alive(word), 0, "somebody is left");
    }

    #[test]
    fn who_left_the_group_ends_with_it_at_the_limit() {
        // One that stays, one in a session of its own, one whose parent is gone, one without an environment.
        let line = "sleep 7101 & setsid sleep 7101 & (setsid sleep 7101 &) ; env -i setsid sleep 7101 & sleep 7101";
        assert_eq!(why(run(line, 400)), "it took longer than 400ms and was ended");
        gone("7101");
    }

    #[test]
    fn who_outlives_its_program_ends_when_the_family_does() {
        let family = Rc::new(ProcessTree::new());
        let argv = ["sh", "-c", "(setsid sleep 7102 >/dev/null 2>&1 &); echo done"].map(str::to_owned);
        let mut running = RunningProgram::start(&argv, &family, Duration::from_secs(5), Instant::now()).expect("it starts");
        let printed = loop {
            if let Some(outcome) = running.step(Instant::now()) {
                break outcome;
            }
            std::thread::sleep(Duration::from_millis(2));
        };
        assert_eq!(printed, Outcome::Printed("done\n".to_owned()));
        drop(running);
        assert_eq!(alive("7102"), 1, "it lives on while its module does");
        family.end_all();
        gone("7102");
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
