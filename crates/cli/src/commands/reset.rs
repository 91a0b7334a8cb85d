//! `jovrik reset`

use jovrik_home::{Choices, Chosen};

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::Meaning;

/// Take a setting out of the rice, so that its default holds
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The setting's path
    #[arg(add = crate::complete::setting_or_table(), required_unless_present = "choice")]
    pub path: Option<String>,
    /// Take back what was picked on this computer: a setting, or all of it
    #[arg(long)]
    pub choice: bool,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    match arguments.path {
        Some(path) if !arguments.choice => {
            let path = context.meant(&path);
            let writer = context.editor(arguments.dry_run)?;
            let planned = context.plan(|files, around| jovrik_home::edit::reset(files, &path, around))?;
            super::set::finish(&planned, writer, "reset", context)
        }
        path => take_back(path.as_deref(), arguments.dry_run, context),
    }
}

/// Takes back what was picked on this computer.
fn take_back(path: Option<&str>, dry_run: bool, context: &mut Context) -> Result<Exit, CommandError> {
    let (folder, choices) = (context.folder()?, Choices::of(&context.home));
    let chosen = choices.read(&folder);
    let meant =
        |own: &str| path.is_none_or(|path| own == path || own.strip_prefix(path).is_some_and(|rest| rest.starts_with('.')));
    let (goes, stays): (Vec<_>, Vec<_>) = chosen.settings.into_iter().partition(|choice| meant(&choice.path));
    if goes.is_empty() && (path.is_some() || chosen.turned == 0) {
        let what = path.map_or_else(|| "nothing".to_owned(), |path| format!("no {path}"));
        return Err(jovrik_home::Error::NotPicked(what).into());
    }
    if !dry_run {
        let turned = if path.is_none() { 0 } else { chosen.turned };
        choices.write(&folder, Chosen { settings: stays, turned })?;
    }
    let would = if dry_run { "would be taken back" } else { "taken back" };
    for choice in goes {
        let over = if choice.over.is_empty() { "its default".to_owned() } else { choice.over };
        let path = Meaning::Heading.paint(&choice.path);
        writeln!(context.out, "{path}: {} {would}; the rice says {over}", choice.value)?;
    }
    Ok(Exit::Done)
}
