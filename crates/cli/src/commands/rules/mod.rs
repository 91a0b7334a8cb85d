//! `jovrik rules`: window rules, and what they would do.

mod list;
mod r#try;

use crate::context::Context;
use crate::exit::{CommandError, Exit};

/// Window rules: list them, and try them on a window
#[derive(Debug, clap::Args)]
pub struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, clap::Subcommand)]
enum Command {
    List(list::Arguments),
    Try(r#try::Arguments),
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    match arguments.command {
        Command::List(arguments) => list::run(arguments, context),
        Command::Try(arguments) => r#try::run(arguments, context),
    }
}

/// What a match asks, in words: `app gull*, kind dialog`.
fn asks(wanted: &jovrik_core::rice::WindowMatch) -> String {
    let mut words: Vec<String> = wanted.texts.iter().map(|(name, pattern)| format!("{name} {}", pattern.words())).collect();
    words.extend(wanted.kind.map(|kind| format!("kind {}", kind.word())));
    words.extend(wanted.transient.map(|belongs| if belongs { "transient" } else { "not transient" }.to_owned()));
    if words.is_empty() { "every window".to_owned() } else { words.join(", ") }
}

/// What is set, in words: `float true, at centre`.
fn sets(written: &[(&'static str, String)]) -> String {
    let words: Vec<String> = written.iter().map(|(name, value)| format!("{name} {value}")).collect();
    if words.is_empty() { "nothing".to_owned() } else { words.join(", ") }
}
