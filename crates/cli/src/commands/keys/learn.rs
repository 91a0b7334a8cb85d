//! `jovrik keys learn`

use crate::context::Context;
use crate::exit::{Exit, Failure};

/// TODO
#[derive(Debug, clap::Args)]
pub struct Arguments {}

pub fn run(_: Arguments, _: &mut Context) -> Result<Exit, Failure> {
    Ok(Exit::Done)
}
