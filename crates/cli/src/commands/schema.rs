//! `jovrik schema`

use jovrik_text::Source;
use jovrik_text::problem::count;

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice};

/// Print the JSON Schema of the settings, for editors
///
/// A language server for TOML takes it from the first line of a file: #:schema ./schema.json
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// Of which files: parts (and overlays), machines, or rice.toml
    #[arg(long, default_value = "parts", value_parser = ["parts", "machines", "rice.toml"])]
    pub of: String,
    /// Write it into the rice as schema.json, which the first lines of its parts name
    #[arg(long, conflicts_with = "of")]
    pub write: bool,
}

/// The schema of some files.
pub fn text(of: &str) -> Result<String, CommandError> {
    let text = serde_json::to_string_pretty(&jovrik_core::rice::schema(of)).map_err(std::io::Error::from)?;
    Ok(format!("{text}\n"))
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let text = text(&arguments.of)?;
    if !arguments.write {
        write!(context.out, "{text}")?;
        return Ok(Exit::Done);
    }
    let folder = context.folder()?;
    jovrik_home::commit(&[(folder.join("schema.json"), text.into_bytes())])?;
    writeln!(context.out, "wrote {}", Meaning::Place.paint("schema.json"))?;
    let line = "#:schema ../schema.json";
    let without = |source: &&Source| source.name.starts_with("parts/") && !source.text.contains("#:schema");
    let checked = context.read()?;
    let parts: Vec<&Source> = checked.sources.iter().map(|(_, source)| source).filter(without).collect();
    if !parts.is_empty() {
        advice(
            &mut context.out,
            "  ",
            line,
            &format!("as the first line makes an editor read it: {} without", count(parts.len(), "part")),
        )?;
    }
    Ok(Exit::Done)
}
