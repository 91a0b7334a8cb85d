//! `jovrik completions`

use clap_complete::env::Shells;

use crate::complete::VARIABLE;
use crate::context::Context;
use crate::exit::{Exit, Failure};

/// Print a script that completes commands, paths of settings, values and names for a shell
///
/// The script asks this program each time, so that it knows the rice of the folder one is in. For bash:
/// echo 'source <(jovrik completions bash)' >> ~/.bashrc
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The shell
    #[arg(value_parser = ["bash", "zsh", "fish", "elvish", "powershell"])]
    pub shell: String,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    if let Some(shell) = Shells::builtins().completer(&arguments.shell) {
        shell.write_registration(VARIABLE, "jovrik", "jovrik", "jovrik", &mut context.out)?;
    }
    Ok(Exit::Done)
}
