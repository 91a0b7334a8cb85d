//! `jovrik palette export`

use std::path::PathBuf;

use jovrik_core::check::CheckedRice;
use jovrik_core::colour::{Format, export};
use jovrik_core::rice::Palette;
use jovrik_core::template::fill;
use jovrik_file::read_file;
use jovrik_text::Source;

use super::named;
use crate::complete;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::Meaning;

/// Write a palette as other programs read it
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The palette; else the one in use. With --to template the file to fill, or both: NAME FILE
    #[arg(value_name = "NAME", num_args = 0..=2, add = complete::palette())]
    name: Vec<String>,
    /// css, json, xresources, gpl; terminal: escape sequences that recolour the terminal they are printed on; or template: any
    /// file with holes, such as art/colours.css
    #[arg(long, value_name = "FORMAT")]
    to: To,
    /// The file to write instead of standard output
    #[arg(long, value_name = "FILE")]
    out: Option<PathBuf>,
}

/// The most that is read of a file to fill.
const TEMPLATE_BYTES: u64 = jovrik_text::limits::RICE_BYTES as u64;

#[derive(Debug, Clone, Copy, clap::ValueEnum)]
enum To {
    Css,
    Json,
    Xresources,
    Gpl,
    Terminal,
    Template,
}

/// A file with its holes filled: by the rice, with a palette in use.
fn filled(file: &str, palette: &Palette, checked: &CheckedRice, context: &Context) -> Result<String, CommandError> {
    let not_taken = |why: &str| CommandError::NotTaken(format!("{file}: {why}"));
    let bytes = read_file(&context.here.join(file), TEMPLATE_BYTES).map_err(|why| not_taken(&why.to_string()))?;
    let text = String::from_utf8(bytes).map_err(|_| not_taken("it is not UTF-8, so it cannot be filled"))?;
    let mut rice = (*checked.rice).clone();
    rice.palette.current = palette.clone();
    fill(&text, &checked.tree, &rice).map_err(|wrong| {
        let source = Source::new(file, text.as_str());
        let first = wrong.first().map(|wrong| (source.position(wrong.at as u32), wrong.to_string()));
        let said = first.map(|(place, why)| format!("{file}:{}:{}: {why}", place.line, place.column)).unwrap_or_default();
        CommandError::NotTaken(format!("{said}\n  jovrik help templates says what can stand there"))
    })
}

pub fn run(arguments: &Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let checked = context.usable()?;
    let (name, template) = match (arguments.to, arguments.name.as_slice()) {
        (To::Template, [file]) => (None, file.as_str()),
        (To::Template, [name, file]) => (Some(name), file.as_str()),
        (To::Template, _) => return Err(CommandError::Usage("--to template wants the file to fill".to_owned())),
        (_, [] | [_]) => (arguments.name.first(), ""),
        (_, more) => return Err(CommandError::Usage(format!("one palette at a time: {} or {}", more[0], more[1]))),
    };
    let (name, palette) = named(&checked.rice, name.map(String::as_str))?;
    let text = match arguments.to {
        To::Template => filled(template, palette, &checked, context)?,
        To::Css => export(&name, palette, Format::Css),
        To::Json => export(&name, palette, Format::Json),
        To::Xresources => export(&name, palette, Format::Xresources),
        To::Gpl => export(&name, palette, Format::Gpl),
        To::Terminal => export(&name, palette, Format::Terminal),
    };
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
