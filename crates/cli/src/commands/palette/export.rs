//! `jovrik palette export`

use std::path::PathBuf;

use jovrik_core::colour::{Format, export};

use super::named;
use crate::complete;
use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::Meaning;

/// Write a palette as other programs read it
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The palette; else the one in use
    #[arg(add = complete::palette())]
    name: Option<String>,
    /// css, json, xresources, gpl, or terminal: escape sequences that recolour the terminal they are printed on
    #[arg(long, value_name = "FORMAT")]
    to: To,
    /// The file to write instead of standard output
    #[arg(long, value_name = "FILE")]
    out: Option<PathBuf>,
}

#[derive(Debug, Clone, Copy, clap::ValueEnum)]
enum To {
    Css,
    Json,
    Xresources,
    Gpl,
    Terminal,
}

pub fn run(arguments: &Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let checked = context.usable()?;
    let (name, palette) = named(&checked.rice, arguments.name.as_deref())?;
    let format = match arguments.to {
        To::Css => Format::Css,
        To::Json => Format::Json,
        To::Xresources => Format::Xresources,
        To::Gpl => Format::Gpl,
        To::Terminal => Format::Terminal,
    };
    let text = export(&name, palette, format);
    let Some(file) = &arguments.out else {
        // What is meant for a terminal is not stripped on the way to a pipe.
        context.out.flush()?;
        use std::io::Write;
        std::io::stdout().write_all(text.as_bytes())?;
        return Ok(Exit::Done);
    };
    jovrik_home::commit(&[(context.here.join(file), text.into_bytes())])?;
    writeln!(context.out, "wrote {}", Meaning::Place.paint(&file.display().to_string()))?;
    Ok(Exit::Done)
}
