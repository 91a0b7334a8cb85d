//! `jovrik history`

use jovrik_home::History;
use jovrik_text::problem::count;

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, columns};

/// List what was applied and changed in this rice, the latest first
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// The entries of all rices
    #[arg(long)]
    pub everywhere: bool,
    /// JSON Lines: id, time, kind, what, note, rice, undone; a last line with unfinished where a command was ended in the
    /// middle of its work
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let rice = super::undo::rice(arguments.everywhere, context)?;
    let (entries, others, unfinished) = match (History::open_existing(&context.home.history())?, &rice) {
        (Some(history), Some(rice)) => {
            let entries = history.entries_of(rice)?;
            let others = history.entries()?.len() - entries.len();
            (entries, others, history.unfinished()?)
        }
        (Some(history), None) => (history.entries()?, 0, history.unfinished()?),
        (None, _) => (Vec::new(), 0, false),
    };
    let home = context.home.clone();
    let several = rice.is_none();
    let width = context.width;
    let out = &mut context.out;
    if arguments.json {
        for entry in &entries {
            writeln!(out, "{}", serde_json::json!(entry))?;
        }
        if unfinished {
            writeln!(out, "{}", serde_json::json!({ "unfinished": true }))?;
        }
        return Ok(Exit::Done);
    }
    let row = |entry: &jovrik_home::HistoryEntry| {
        let state = if entry.undone { Meaning::Second.paint("taken back") } else { String::new() };
        let note = entry.note.as_ref().map(|note| format!("  “{note}”")).unwrap_or_default();
        let mut row =
            vec![entry.id.to_string(), Meaning::Second.paint(&entry.time.replace('T', " ").replace('Z', "")), entry.kind.clone()];
        let of = entry.rice.as_ref().map(|rice| Meaning::Place.paint(&home.short(rice)));
        row.extend(several.then(|| of.unwrap_or_default()));
        row.extend([format!("{}{note}", entry.what), state]);
        row
    };
    let rows: Vec<Vec<String>> = entries.iter().map(row).collect();
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    match entries.len() {
        0 => writeln!(out, "nothing was applied or changed here yet")?,
        number => {
            let text = format!("{}; jovrik undo takes back the latest that still holds", count(number, "entry"));
            writeln!(out)?;
            crate::report::sentence(out, &text, width)?;
        }
    }
    if others > 0 {
        let more = format!("shows {} of other rices too", count(others, "entry"));
        advice(out, "", "jovrik history --everywhere", &more)?;
    }
    if unfinished {
        let said = Meaning::Warning.paint("a command was ended in the middle of its work");
        writeln!(out, "{said}: the next one that writes finishes it, or takes it back")?;
    }
    Ok(Exit::Done)
}
