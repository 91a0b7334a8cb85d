//! `jovrik keys list`

use jovrik_core::desk::Action;
use jovrik_core::problem::count;

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, columns};

/// List the desk's bindings
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Words that the chord, action or note must hold
    pub words: Vec<String>,
    /// JSON Lines: chord, written, action, note, fixed, file, line
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let checked = context.read()?;
    let words: Vec<String> = arguments.words.iter().map(|word| word.to_lowercase()).collect();
    let bindings: Vec<_> = checked
        .rice
        .keys
        .desk
        .0
        .iter()
        .filter(|at| {
            let text =
                format!("{} {} {}", at.written, at.binding.action, at.binding.note.as_deref().unwrap_or_default()).to_lowercase();
            at.binding.action != Action::None && words.iter().all(|word| text.contains(word.as_str()))
        })
        .collect();
    let out = &mut context.out;
    let lead = checked.lead();
    if arguments.json {
        for at in &bindings {
            let file = checked.sources.get(at.place.file);
            writeln!(
                out,
                "{}",
                serde_json::json!({
                    "chord": at.keys.with_lead(lead), "written": at.written, "action": at.binding.action.to_string(),
                    "note": at.binding.note, "fixed": at.binding.fixed,
                    "file": file.map(|file| &file.name), "line": file.map(|file| file.position(at.place.start).line),
                })
            )?;
        }
        return Ok(Exit::Done);
    }
    let rows: Vec<Vec<String>> = bindings
        .iter()
        .map(|at| {
            let fixed = if at.binding.fixed { "fixed" } else { "" };
            let note = at.binding.note.clone().unwrap_or_else(|| at.binding.action.does().to_owned());
            vec![
                at.keys.with_lead(lead),
                at.binding.action.to_string(),
                Meaning::Place.paint(&checked.sources.place(at.place)),
                format!("{note}{}{fixed}", if fixed.is_empty() { "" } else { "; " }),
            ]
        })
        .collect();
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    writeln!(out, "\n{}; Lead is {}", count(bindings.len(), "binding"), lead.word())?;
    Ok(Exit::Done)
}
