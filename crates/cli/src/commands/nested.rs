//! A server in a window of the desktop that one already has, to try a rice on.

use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};

use jovrik_core::check::CheckedRice;
use jovrik_live::taken;
use jovrik_text::problem::in_words;

use crate::context::Context;
use crate::exit::CommandError;
use crate::report::advice;
use crate::typed::Size;

/// The program of the server, and the package of Debian that has it.
const SERVER: (&str, &str) = ("Xephyr", "xserver-xephyr");

/// A server that ends with us.
pub struct Nested {
    server: Child,
    /// Its display.
    pub display: String,
}

impl Drop for Nested {
    fn drop(&mut self) {
        let _ = self.server.kill();
        let _ = self.server.wait();
    }
}

impl Nested {
    /// Opens one on a display.
    pub fn open(outer: &str, Size(w, h): Size, title: &str) -> Result<Nested, CommandError> {
        let mut command = Command::new(SERVER.0);
        command.args(["-displayfd", "1", "-screen", &format!("{w}x{h}"), "-resizeable", "-title", title]);
        command.args(["-nolisten", "tcp", "-noreset"]).env("DISPLAY", outer);
        let spawned = command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::null()).spawn();
        let mut server = spawned.map_err(|error| match error.kind() {
            std::io::ErrorKind::NotFound => {
                CommandError::NotTaken(format!("{} is not on this computer; the package {} of Debian has it", SERVER.0, SERVER.1))
            }
            _ => CommandError::Output(error),
        })?;
        let mut number = String::new();
        if let Some(out) = server.stdout.take() {
            let _ = BufReader::new(out).read_line(&mut number);
        }
        let mut nested = Nested { server, display: format!(":{}", number.trim()) };
        if number.trim().is_empty() {
            let _ = nested.server.wait();
            return Err(CommandError::NotTaken(format!("{} opens no window on {outer}", SERVER.0)));
        }
        Ok(nested)
    }
}

/// Chooses a lead whose chords nobody has outside: the rice's own where that can be, else the one of which fewest are taken.
/// Says what is taken, and sets it for this run.
pub fn lead(outer: &str, checked: CheckedRice, context: &mut Context) -> Result<CheckedRice, CommandError> {
    let mut best: Option<(Vec<String>, Option<&str>, CheckedRice)> = None;
    let own = taken(outer, &checked)?;
    let mut leads = vec![(own.clone(), None, checked)];
    if !own.is_empty() {
        for other in jovrik_values::chord::Modifier::LEADS {
            let mut with = context.with.clone();
            with.push(("keys.lead".to_owned(), format!("\"{other}\"")));
            let before = std::mem::replace(&mut context.with, with);
            let tried = context.usable();
            context.with = before;
            if let Ok(tried) = tried {
                leads.push((taken(outer, &tried)?, Some(*other), tried));
            }
        }
    }
    for one in leads {
        if best.as_ref().is_none_or(|(taken, ..)| one.0.len() < taken.len()) {
            best = Some(one);
        }
    }
    let Some((still, lead, checked)) = best else { return Err(CommandError::NotTaken("no lead can be tried".to_owned())) };
    if !own.is_empty() {
        let few = |chords: &[String]| {
            let shown: Vec<&str> = chords.iter().take(4).map(String::as_str).collect();
            let more = chords.len().saturating_sub(shown.len());
            if more > 0 { format!("{} and {more} more", shown.join(", ")) } else { in_words(&shown) }
        };
        writeln!(context.out, "the desktop outside has {}", few(&own))?;
        if let Some(lead) = lead {
            context.with.push(("keys.lead".to_owned(), format!("\"{lead}\"")));
            writeln!(context.out, "so Lead is {lead} in this window")?;
        }
        if !still.is_empty() {
            writeln!(context.out, "these stay outside all the same: {}", few(&still))?;
        }
        advice(&mut context.out, "  ", "jovrik tell ACTION", "does what a key would do")?;
    }
    Ok(checked)
}
