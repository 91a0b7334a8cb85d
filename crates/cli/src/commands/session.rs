//! `jovrik session`: not typed by people.

use std::fs::OpenOptions;
use std::os::unix::process::CommandExt;
use std::path::PathBuf;
use std::process::{Command, Stdio};

use crate::exit::{Exit, Failure};

/// Run a program in a session of its own, and what it says into a file; started by the desktop
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The file
    pub log: PathBuf,
    /// The program and its arguments
    #[arg(required = true, trailing_var_arg = true, allow_hyphen_values = true)]
    pub argv: Vec<String>,
}

/// What a program said before is thrown away once it is longer than this, in bytes.
const MOST: u64 = 256 * 1024;

pub fn run(arguments: &Arguments) -> Result<Exit, Failure> {
    rustix::process::setsid().map_err(std::io::Error::from)?;
    let long = std::fs::metadata(&arguments.log).is_ok_and(|about| about.len() > MOST);
    let log = OpenOptions::new().create(true).append(!long).write(true).truncate(long).open(&arguments.log);
    let both = log.and_then(|log| Ok((log.try_clone()?, log)));
    let mut command = Command::new(&arguments.argv[0]);
    command.args(&arguments.argv[1..]).stdin(Stdio::null());
    match both {
        Ok((out, err)) => command.stdout(out).stderr(err),
        Err(_) => command.stdout(Stdio::null()).stderr(Stdio::null()),
    };
    Err(Failure::Output(command.exec()))
}
