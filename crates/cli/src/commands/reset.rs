//! `jovrik reset`

use jovrik_core::check::Glance;

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
    let folder = context.folder()?;
    let around = context.around()?;
    let around = Glance { around: &around, elsewhere: true };
    let planned = jovrik_home::edit::reset(|| jovrik_home::read_folder(&folder), &arguments.path, &around)?;
    super::set::finish(&planned, arguments.dry_run, "reset", context)
}
