//! `jovrik launcher`

use std::io::{IsTerminal, Read};

use jovrik_live::{offer, request, socket_path};
use jovrik_values::action::Action;
use serde_json::json;

use crate::context::Context;
use crate::exit::{CommandError, Exit};

/// Choose from a list on the running desktop
///
/// Without --from-stdin the launcher opens with one of its lists, or closes. With it the lines of standard input are
/// offered, what is chosen is printed, and the exit code is 1 when nothing is.
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// The list: apps, windows, programs, commands, chords, notices, pictures, characters, or one of the rice's own
    #[arg(value_name = "LIST", conflicts_with = "from_stdin", add = crate::complete::list())]
    pub list: Option<String>,
    /// Offer the lines of standard input, and print the one that is chosen
    #[arg(long)]
    pub from_stdin: bool,
    /// What is said before anything is typed
    #[arg(long, value_name = "TEXT", requires = "from_stdin", default_value = "")]
    pub prompt: String,
    /// Several lines may be chosen: each is printed on a line
    #[arg(long, requires = "from_stdin")]
    pub multi: bool,
    /// Print the numbers of the lines, from 0, instead
    #[arg(long, requires = "from_stdin")]
    pub index: bool,
    /// Print what is chosen as JSON: numbers and lines
    #[arg(long, requires = "from_stdin")]
    pub json: bool,
}

/// The most that is read, in bytes.
const MAX_INPUT_BYTES: u64 = 16 * 1024 * 1024;

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let socket = socket_path(&context.home.runtime, &super::live::display()?);
    if !arguments.from_stdin {
        request(&socket, &json!({ "tell": Action::Launcher(arguments.list).to_string() }))?;
        return Ok(Exit::Done);
    }
    if std::io::stdin().is_terminal() {
        return Err(CommandError::Usage(
            "--from-stdin reads the lines of another program: ls | jovrik launcher --from-stdin".to_owned(),
        ));
    }
    let mut bytes = Vec::new();
    std::io::stdin().lock().take(MAX_INPUT_BYTES + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > MAX_INPUT_BYTES {
        return Err(CommandError::NotTaken("more than 16 MiB of lines cannot be offered".to_owned()));
    }
    let text = String::from_utf8_lossy(&bytes);
    let lines: Vec<&str> = text.lines().collect();
    if lines.is_empty() {
        return Err(CommandError::NotTaken("standard input has no lines to choose from".to_owned()));
    }
    let taken = offer(&socket, &arguments.prompt, &lines, arguments.multi)?;
    let Some(taken) = taken else { return Ok(Exit::Invalid) };
    let out = &mut context.out;
    for at in taken.into_iter().filter(|at| *at < lines.len()) {
        match (arguments.json, arguments.index) {
            (true, _) => writeln!(out, "{}", json!({ "line": at, "text": lines[at] }))?,
            (_, true) => writeln!(out, "{at}")?,
            _ => writeln!(out, "{}", lines[at])?,
        }
    }
    Ok(Exit::Done)
}
