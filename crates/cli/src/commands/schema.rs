//! `jovrik schema`

use crate::context::Context;
use crate::exit::{Exit, Failure};

/// Print the JSON Schema of the settings, for editors
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {}

pub fn run(_: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let text = serde_json::to_string_pretty(&jovrik_core::rice::schema()).map_err(std::io::Error::from)?;
    writeln!(context.out, "{text}")?;
    Ok(Exit::Done)
}
