//! Starting programs, and letting go of those that ended.

use std::ffi::OsString;
use std::os::unix::process::CommandExt;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};

use jovrik_apps::has_program;
use rustix::process::{Pid, WaitOptions, waitpid};

/// Why a program was not started.
#[derive(Debug, thiserror::Error)]
pub enum NotStarted {
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
    /// The folder for what programs say.
    logs: PathBuf,
    running: Vec<Child>,
    /// Those that were started before this program took over in place, by their numbers.
    adopted: Vec<Pid>,
}

impl Programs {
    /// Programs run in sessions of their own; what they say goes into files of a folder.
    pub fn new(in_session: Vec<OsString>, logs: PathBuf) -> Programs {
        let _ = std::fs::create_dir_all(&logs);
        Programs { in_session, logs, ..Programs::default() }
    }

    /// The file for what a program says.
    fn log(&self, program: &str) -> PathBuf {
        let name = program.rsplit('/').next().unwrap_or_default();
        let name: String =
            name.chars().map(|c| if c.is_alphanumeric() || "._-".contains(c) { c } else { '-' }).take(100).collect();
        self.logs.join(format!("{}.log", name.trim_start_matches('.')))
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
    ) -> Result<u32, NotStarted> {
        let (program, arguments) = argv.split_first().ok_or(NotStarted::Unnamed)?;
        if !has_program(&std::env::var("PATH").unwrap_or_default(), program) {
            return Err(NotStarted::NotHere(program.clone()));
        }
        let mut command = match self.in_session.split_first() {
            Some((first, rest)) => {
                let mut command = Command::new(first);
                command.args(rest).arg(self.log(program)).arg("--").arg(program);
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
        command.stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null());
        match command.spawn() {
            Ok(child) => {
                let process = child.id();
                self.running.push(child);
                Ok(process)
            }
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => Err(NotStarted::NotHere(program.clone())),
            Err(error) => Err(NotStarted::Failed(program.clone(), error)),
        }
    }

    /// The numbers of those that run.
    pub fn numbers(&self) -> Vec<u32> {
        let running = self.running.iter().map(Child::id);
        running.chain(self.adopted.iter().filter_map(|pid| u32::try_from(pid.as_raw_nonzero().get()).ok())).collect()
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
