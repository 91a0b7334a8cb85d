//! `jovrik logs`: not typed by people.

use std::path::PathBuf;

use crate::exit::{CommandError, Exit};

/// Keep what programs say in files that stay small; started by the desktop
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The folder of the files
    pub folder: PathBuf,
}

pub fn run(arguments: &Arguments) -> Result<Exit, CommandError> {
    jovrik_live::keep_logs(&arguments.folder)?;
    Ok(Exit::Done)
}
