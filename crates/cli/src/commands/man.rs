//! `jovrik man`

use crate::context::Context;
use crate::exit::{Exit, Failure};

/// Print the page for man, in roff
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {}

pub fn run(_: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let mut page = Vec::new();
    clap_mangen::Man::new(crate::run::command()).render(&mut page)?;
    context.out.write_all(&page)?;
    Ok(Exit::Done)
}
