//! `jovrik reset`

use crate::context::Context;
use crate::exit::{Exit, Failure};

/// Take a setting out of the rice, so that its default holds
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The setting's path
    #[arg(add = crate::complete::setting_or_table())]
    pub path: String,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let writer = context.writer(arguments.dry_run)?;
    let planned = context.plan(|files, around| jovrik_home::edit::reset(files, &arguments.path, around))?;
    super::set::finish(&planned, writer, "reset", context)
}
