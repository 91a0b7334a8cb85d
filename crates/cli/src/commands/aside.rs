//! `jovrik aside`: not typed by people.

use std::path::PathBuf;

use crate::exit::{CommandError, Exit};

/// Draw pictures for the desktop, aside from it; started by the desktop
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The folder of caches
    pub cache: PathBuf,
}

pub fn run(arguments: &Arguments) -> Result<Exit, CommandError> {
    jovrik_live::serve_aside(&arguments.cache, std::io::stdin().lock(), std::io::stdout().lock())?;
    Ok(Exit::Done)
}
