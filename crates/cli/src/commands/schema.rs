//! `jovrik schema`

use crate::context::Context;
use crate::exit::{Exit, Failure};

/// Print the JSON Schema of the settings, for editors
///
/// A language server for TOML takes it from the first line of a file: #:schema ./schema.json
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// Of which files: parts (and overlays), machines, or rice.toml
    #[arg(long, default_value = "parts", value_parser = ["parts", "machines", "rice.toml"])]
    pub of: String,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let text = serde_json::to_string_pretty(&jovrik_core::rice::schema(&arguments.of)).map_err(std::io::Error::from)?;
    writeln!(context.out, "{text}")?;
    Ok(Exit::Done)
}
