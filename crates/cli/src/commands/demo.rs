//! `jovrik demo`

pub struct Todo;

use crate::context::Context;
use crate::exit::{Exit, Failure};

/// A tour of it all on the sample, without a display
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {}

pub fn run(_: Arguments, _: &mut Context) -> Result<Exit, Failure> {
    Ok(Exit::Done)
}
