//! `jovrik set`

use jovrik_core::change::{changes, in_short};
use jovrik_home::edit::Planned;

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, advice};

/// Change one setting where it stands; every other byte stays the same
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The setting's path, such as bar.top.thick
    pub path: String,
    /// Its new value, as TOML; a text needs no quotes
    #[arg(allow_hyphen_values = true)]
    pub value: String,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let folder = context.folder()?;
    let around = context.around()?;
    let planned = jovrik_home::edit::set(|| jovrik_home::read_folder(&folder), &arguments.path, &arguments.value, &around)?;
    finish(&planned, arguments.dry_run, "set", context)
}

/// Writes a planned edit, records it, and says what changed.
pub fn finish(planned: &Planned, dry_run: bool, kind: &str, context: &mut Context) -> Result<Exit, Failure> {
    let folder = context.folder()?;
    let changed = changes(&planned.before.tree, &planned.after.tree);
    let rewritten = planned.writes(&folder);
    let same = rewritten.iter().all(|(path, bytes)| std::fs::read(path).is_ok_and(|old| old == *bytes));
    if same {
        writeln!(context.out, "nothing to change: it is so already")?;
        return Ok(Exit::Done);
    }
    let entry = match dry_run {
        true => None,
        false => jovrik_home::apply::write_recorded(&rewritten, &context.home, kind, &in_short(&changed))?,
    };
    let verb = if dry_run { "would change" } else { "changed" };
    for change in &changed {
        writeln!(context.out, "{change}")?;
    }
    let names: Vec<String> = planned.files.keys().map(|name| Meaning::Place.paint(name)).collect();
    writeln!(context.out, "  {verb} {}", jovrik_core::problem::in_words(&names))?;
    if entry.is_some() {
        advice(&mut context.out, "  ", "jovrik undo", "takes it back")?;
    }
    Ok(Exit::Done)
}
