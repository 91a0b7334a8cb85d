//! `jovrik history`

use jovrik_core::problem::count;
use jovrik_home::History;

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, columns};

/// List what was applied and changed, the latest first
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// JSON Lines: id, time, kind, what, note, undone, pending
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let entries = match History::open_existing(&context.home.history())? {
        Some(history) => history.entries()?,
        None => Vec::new(),
    };
    let out = &mut context.out;
    if arguments.json {
        for entry in &entries {
            writeln!(out, "{}", serde_json::json!(entry))?;
        }
        return Ok(Exit::Done);
    }
    let row = |entry: &jovrik_home::Entry| {
        let state = match (entry.undone, entry.pending) {
            (true, _) => Meaning::Second.paint("taken back"),
            (_, true) => Meaning::Warning.paint("not finished"),
            _ => String::new(),
        };
        let note = entry.note.as_ref().map(|note| format!("  “{note}”")).unwrap_or_default();
        vec![
            entry.id.to_string(),
            Meaning::Second.paint(&entry.time.replace('T', " ").replace('Z', "")),
            entry.kind.clone(),
            format!("{}{note}", entry.what),
            state,
        ]
    };
    let rows: Vec<Vec<String>> = entries.iter().map(row).collect();
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    match entries.len() {
        0 => writeln!(out, "nothing was applied yet")?,
        number => writeln!(out, "\n{}; jovrik undo takes back the latest that still holds", count(number, "entry"))?,
    }
    Ok(Exit::Done)
}
