//! `jovrik toggle`

use crate::context::Context;
use crate::exit::{CommandError, Exit};

/// Comment a setting, a binding or a table out while trying, and in again
///
/// What is true or false is turned instead. With an element: that one of a list, such as a module of a bar. Off and on again leaves every byte as it was.
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The path of a setting, a binding or a table, such as space.edge, keys.desk."Lead+t" or bar.side
    #[arg(add = crate::complete::setting_or_table())]
    pub path: String,
    /// An element of the list at the path
    #[arg(add = crate::complete::value())]
    pub element: Option<String>,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let path = context.meant(&arguments.path);
    let writer = context.editor(arguments.dry_run)?;
    let planned = context.plan(|files, around| jovrik_home::edit::toggle(files, &path, arguments.element.as_deref(), around))?;
    super::set::finish(&planned, writer, "toggle", context)
}
