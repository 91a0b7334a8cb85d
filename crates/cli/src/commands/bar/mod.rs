//! `jovrik bar …`

mod print;
mod r#try;

use crate::context::Context;
use crate::exit::{CommandError, Exit};

/// Bars without a desktop: try a module, print what they show
#[derive(Debug, clap::Args)]
pub struct Arguments {
    #[command(subcommand)]
    what: What,
}

#[derive(Debug, clap::Subcommand)]
enum What {
    Try(r#try::Arguments),
    Print(print::Arguments),
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    match arguments.what {
        What::Try(arguments) => r#try::run(&arguments, context),
        What::Print(arguments) => print::run(&arguments, context),
    }
}

/// Asks the source of a module once, and shows all that came of it.
pub fn try_module(module: &str, json: bool, context: &mut Context) -> Result<Exit, CommandError> {
    r#try::run(&r#try::Arguments { module: module.to_owned(), times: 1, json }, context)
}

/// How loudly a module calls, in a word.
fn state(grade: jovrik_values::Grade) -> &'static str {
    grade.state().map_or("plain", jovrik_values::ElementState::word)
}
