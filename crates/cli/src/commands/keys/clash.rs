//! `jovrik keys clash`

use jovrik_core::keys::{FightKind, Keyboard, fights};
use jovrik_core::problem::count;

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, advice, columns};

/// Show which bindings fight for a press, by the fight
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// JSON Lines: code, chord, bindings (written, action, note, file, line)
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let checked = context.read()?;
    let bindings = &checked.rice.keys.desk.0;
    let lead = checked.lead();
    let fights = fights(bindings, Keyboard::us());
    let out = &mut context.out;
    for fight in &fights {
        let first = &bindings[fight.bindings[0]];
        if arguments.json {
            let side = |at: &usize| {
                let binding = &bindings[*at];
                let file = checked.sources.get(binding.place.file);
                serde_json::json!({
                    "written": binding.written, "action": binding.binding.action.to_string(), "note": binding.binding.note,
                    "file": file.map(|file| &file.name), "line": file.map(|file| file.position(binding.place.start).line),
                })
            };
            let sides: Vec<_> = fight.bindings.iter().map(side).collect();
            writeln!(
                out,
                "{}",
                serde_json::json!({ "code": fight.kind.code(), "chord": first.keys.with_lead(lead), "bindings": sides })
            )?;
            continue;
        }
        let what = match fight.kind {
            FightKind::Twice => format!("has {} actions", fight.bindings.len()),
            FightKind::Stalls => "is a binding and begins a sequence".to_owned(),
        };
        writeln!(
            out,
            "{}  {} {what}",
            Meaning::Error.paint(fight.kind.code()),
            Meaning::Heading.paint(&first.keys.with_lead(lead))
        )?;
        let row = |at: &usize| {
            let binding = &bindings[*at];
            let mut notes: Vec<String> = binding.binding.note.iter().cloned().collect();
            notes.extend(binding.binding.fixed.then(|| "fixed".to_owned()));
            vec![
                binding.written.clone(),
                binding.binding.action.to_string(),
                Meaning::Place.paint(&checked.sources.place(binding.place)),
                notes.join("; "),
            ]
        };
        let rows: Vec<Vec<String>> = fight.bindings.iter().map(row).collect();
        for line in columns(&rows, "  ", context.width) {
            writeln!(out, "{line}")?;
        }
        writeln!(out)?;
    }
    if arguments.json {
        return Ok(if fights.is_empty() { Exit::Done } else { Exit::Unfit });
    }
    if fights.is_empty() {
        writeln!(out, "{}: {} live in peace.", Meaning::Done.paint("No fights"), count(bindings.len(), "binding"))?;
        return Ok(Exit::Done);
    }
    writeln!(out, "{} among {}", count(fights.len(), "fight"), count(bindings.len(), "binding"))?;
    advice(out, "  ", "jovrik keys settle", "finds the cheapest peace")?;
    Ok(Exit::Unfit)
}
