//! `jovrik completions`

use clap_complete::Shell;

use crate::context::Context;
use crate::exit::{Exit, Failure};

/// Print completions of commands and options for a shell
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The shell
    pub shell: Shell,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let mut script = Vec::new();
    clap_complete::generate(arguments.shell, &mut crate::run::command(), "jovrik", &mut script);
    context.out.write_all(&script)?;
    Ok(Exit::Done)
}
