//! Starting programs, and letting go of those that ended.

use std::ffi::OsString;
use std::os::unix::process::CommandExt;
use std::path::Path;
use std::process::{Child, Command, Stdio};

use jovrik_apps::has_program;
use rustix::process::{Pid, WaitOptions, waitpid};

use crate::logs::Logs;

/// Why a program was not started.
#[derive(Debug, thiserror::Error)]
pub enum SpawnError {
    /// Nothing says which.
    #[error("no program is named")]
    Unnamed,
    /// No folder of `PATH` has it.
    #[error("{0} is not on this computer")]
    NotHere(String),
    /// The system would not.
    #[error("{0}: {1}")]
    Failed(String, std::io::Error),
}

/// What was started and may still run.
#[derive(Debug, Default)]
pub struct Programs {
    /// The beginning of a command that runs a program in a session of its own.
    in_session: Vec<OsString>,
    /// Whoever keeps what programs say.
    logs: Logs,
    running: Vec<Child>,
    /// Those that were started before this program took over in place, by their numbers.
    adopted: Vec<Pid>,
}

impl Programs {
    /// Programs run in sessions of their own; what they say is kept by a command.
    pub fn new(in_session: Vec<OsString>, logs: Vec<OsString>) -> Programs {
        Programs { in_session, logs: Logs::new(logs), ..Programs::default() }
    }

    /// Starts a program that lives on by itself.
    ///
    /// `start` is what its windows are to say that they come of; its number is handed back.
    pub fn start(
        &mut self,
        argv: &[String],
        env: &[(String, String)],
        folder: Option<&Path>,
        display: &str,
        start: &str,
    ) -> Result<u32, SpawnError> {
        let (program, arguments) = argv.split_first().ok_or(SpawnError::Unnamed)?;
        if !has_program(&std::env::var("PATH").unwrap_or_default(), program) {
            return Err(SpawnError::NotHere(program.clone()));
        }
        let mut command = match self.in_session.split_first() {
            Some((first, rest)) => {
                let mut command = Command::new(first);
                command.args(rest).arg("--").arg(program);
                command
            }
            None => {
                let mut command = Command::new(program);
                command.process_group(0);
                command
            }
        };
        command.args(arguments).envs(env.iter().map(|(name, value)| (name, value))).env("DISPLAY", display);
        command.env("DESKTOP_STARTUP_ID", start);
        if let Some(folder) = folder.filter(|folder| folder.is_dir()) {
            command.current_dir(folder);
        }
        command.stdin(Stdio::null());
        let log = self.logs.of(program).and_then(|log| Some((log.try_clone().ok()?, log)));
        match log {
            Some((out, error)) => command.stdout(out).stderr(error),
            None => command.stdout(Stdio::null()).stderr(Stdio::null()),
        };
        match command.spawn() {
            Ok(child) => {
                let process = child.id();
                self.running.push(child);
                Ok(process)
            }
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => Err(SpawnError::NotHere(program.clone())),
            Err(error) => Err(SpawnError::Failed(program.clone(), error)),
        }
    }

    /// The numbers of those that run.
    pub fn numbers(&self) -> Vec<u32> {
        let running = self.running.iter().map(Child::id);
        running.chain(self.adopted.iter().filter_map(|pid| u32::try_from(pid.as_raw_nonzero().get()).ok())).collect()
    }

    /// The number of the one that was started last, if it runs.
    pub fn latest(&self) -> Option<u32> {
        self.running.last().map(Child::id)
    }

    /// Looks after what this process started when it was another program: all its children.
    pub fn adopt(&mut self) {
        let own = std::process::id();
        let children = std::fs::read_to_string(format!("/proc/{own}/task/{own}/children")).unwrap_or_default();
        self.adopted = children.split_whitespace().filter_map(|number| Pid::from_raw(number.parse().ok()?)).collect();
        self.reap();
    }

    /// Lets go of what ended.
    pub fn reap(&mut self) {
        self.running.retain_mut(|child| matches!(child.try_wait(), Ok(None)));
        self.adopted.retain(|pid| matches!(waitpid(Some(*pid), WaitOptions::NOHANG), Ok(None)));
    }
}
