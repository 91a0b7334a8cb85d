//! `jovrik session`: not typed by people.

use std::os::unix::process::CommandExt;
use std::process::Command;

use crate::exit::{CommandError, Exit};

/// Run a program in a session of its own; started by the desktop
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The program and its arguments
    #[arg(required = true, trailing_var_arg = true, allow_hyphen_values = true)]
    pub argv: Vec<String>,
}

pub fn run(arguments: &Arguments) -> Result<Exit, CommandError> {
    rustix::process::setsid().map_err(std::io::Error::from)?;
    Err(CommandError::Output(Command::new(&arguments.argv[0]).args(&arguments.argv[1..]).exec()))
}
