//! `jovrik undo`

use std::path::PathBuf;

use jovrik_home::undo::{UndoPlan, UndoRange, plan_undo};
use jovrik_home::{Error, History, resolved};
use jovrik_text::problem::count;

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, columns};

/// Take back the last apply or edit of this rice, byte for byte; again takes back one more
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// Take back everything that came after this entry of jovrik history
    #[arg(value_name = "ENTRY", conflicts_with = "steps")]
    pub since: Option<i64>,
    /// How many entries to take back; one, when nothing is said
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..))]
    pub steps: Option<u16>,
    /// The last of all entries, whichever rice it is of
    #[arg(long)]
    pub everywhere: bool,
    /// Say what would be taken back, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let far = arguments.since.map_or(UndoRange::Steps(usize::from(arguments.steps.unwrap_or(1))), UndoRange::Since);
    let rice = rice(arguments.everywhere, context)?;
    let turn = if arguments.dry_run {
        plan_undo(History::open_existing(&context.home.history())?.as_ref(), rice.as_deref(), far)
    } else {
        jovrik_home::undo::undo(&context.home, rice.as_deref(), far)
    };
    let verb = if arguments.dry_run { "would take back" } else { "took back" };
    tell(&turn?, verb, (!arguments.dry_run).then_some(("jovrik redo", "does it again")), context)
}

/// The rice whose entries are meant: the one a person stands in, or all of them; all too, where there is none.
pub fn rice(everywhere: bool, context: &Context) -> Result<Option<PathBuf>, CommandError> {
    match context.folder() {
        _ if everywhere => Ok(None),
        Ok(folder) => Ok(Some(resolved(&folder)?)),
        Err(CommandError::Home(Error::NoRice(_))) => Ok(None),
        Err(failure) => Err(failure),
    }
}

/// Says what an undo or redo did.
pub fn tell(done: &UndoPlan, verb: &str, next: Option<(&str, &str)>, context: &mut Context) -> Result<Exit, CommandError> {
    let mut names: Vec<String> = done.files.iter().map(|file| context.near(&file.path)).collect();
    names.sort();
    let out = &mut context.out;
    match done.entries.as_slice() {
        [entry] => writeln!(out, "{verb} entry {}: {}", entry.id, Meaning::Heading.paint(&entry.what))?,
        many => {
            writeln!(out, "{verb} {}", format_args!("{} entries", many.len()))?;
            let row = |entry: &jovrik_home::HistoryEntry| vec![entry.id.to_string(), entry.kind.clone(), entry.what.clone()];
            for line in columns(&many.iter().map(row).collect::<Vec<_>>(), "  ", context.width) {
                writeln!(out, "{line}")?;
            }
        }
    }
    match names.as_slice() {
        few if few.len() <= 4 => writeln!(out, "  {}", Meaning::Place.paint(&jovrik_text::problem::in_words(few)))?,
        many => writeln!(out, "  {}", count(many.len(), "file"))?,
    }
    if let Some((write, gloss)) = next {
        advice(out, "  ", write, gloss)?;
    }
    Ok(Exit::Done)
}
