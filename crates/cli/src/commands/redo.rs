//! `jovrik redo`

use jovrik_home::History;
use jovrik_home::undo::plan_redo;

use crate::context::Context;
use crate::exit::{CommandError, Exit};

/// Do again what was taken back last, until something new is done
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// How many entries to do again; one, when nothing is said
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..))]
    pub steps: Option<u16>,
    /// Of all entries, whichever rice they are of
    #[arg(long)]
    pub everywhere: bool,
    /// Say what would be done again, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let rice = super::undo::rice(arguments.everywhere, context)?;
    let steps = usize::from(arguments.steps.unwrap_or(1));
    let turn = if arguments.dry_run {
        plan_redo(History::open_existing(&context.home.history())?.as_ref(), rice.as_deref(), steps)
    } else {
        jovrik_home::undo::redo(&context.home, rice.as_deref(), steps)
    };
    let verb = if arguments.dry_run { "would do again" } else { "did again" };
    super::undo::tell(&turn?, verb, (!arguments.dry_run).then_some(("jovrik undo", "takes it back")), context)
}
