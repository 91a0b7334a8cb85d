//! `jovrik guard`: not typed by people.

use crate::exit::{CommandError, Exit};

/// End what a process that is gone had started; started by that process itself
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The mark of what it started
    pub mark: String,
}

pub fn run(arguments: &Arguments) -> Result<Exit, CommandError> {
    jovrik_source::guard(&arguments.mark);
    Ok(Exit::Done)
}

/// Has a guard for the programs of modules that this process is about to start.
pub fn watch_over() -> Result<(), CommandError> {
    let mut command = std::process::Command::new(std::env::current_exe()?);
    command.arg("guard");
    jovrik_source::with_guard(command);
    Ok(())
}
