//! `jovrik redo`

use crate::context::Context;
use crate::exit::{Exit, Failure};

/// Do again what was taken back last
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {}

pub fn run(_: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let done = jovrik_home::apply::redo(&context.home)?;
    super::undo::tell(&done, "did again", "jovrik undo", "takes it back", context)
}
