//! `jovrik palette …`

mod check;
mod export;
mod from;
mod list;
mod map;

use anstyle::{RgbColor, Style};
use jovrik_core::rice::{Palette, Rice};
use jovrik_schema::Colour;

use crate::complete;
use crate::context::Context;
use crate::exit::{CommandError, Exit};

/// Colours: list, choose, make from a picture, check, hand to others
#[derive(Debug, clap::Args)]
pub struct Arguments {
    #[command(subcommand)]
    what: What,
}

#[derive(Debug, clap::Subcommand)]
enum What {
    List(list::Arguments),
    /// Choose the palette that is used
    Use {
        /// Its name
        #[arg(add = complete::palette())]
        name: String,
        /// Say what would be written, and write nothing
        #[arg(long)]
        dry_run: bool,
    },
    From(from::Arguments),
    Check(check::Arguments),
    Export(export::Arguments),
    Map(map::Arguments),
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    match arguments.what {
        What::List(arguments) => list::run(&arguments, context),
        What::Use { name, dry_run } => {
            let set = super::set::Arguments { path: "palette.use".to_owned(), value: Some(name), dry_run, ..Default::default() };
            super::set::run(set, context)
        }
        What::From(arguments) => from::run(&arguments, context),
        What::Check(arguments) => check::run(&arguments, context),
        What::Export(arguments) => export::run(&arguments, context),
        What::Map(arguments) => map::run(&arguments, context),
    }
}

/// A palette of a rice by its name, or the one in use.
fn named<'r>(rice: &'r Rice, name: Option<&str>) -> Result<(String, &'r Palette), CommandError> {
    let Some(name) = name else { return Ok((rice.palette.name.clone(), &rice.palette.current)) };
    let names: Vec<&str> = rice.palette.all.keys().map(String::as_str).collect();
    match rice.palette.all.get(name) {
        Some(palette) => Ok((name.to_owned(), palette)),
        None => {
            Err(CommandError::Usage(format!("there is no palette {name}; there is {}", jovrik_text::problem::in_words(&names))))
        }
    }
}

/// A little field of a colour; nothing of it is seen where there are no colours.
fn swatch(colour: Colour, width: usize) -> String {
    if !crate::report::in_colour() {
        return String::new();
    }
    let style = Style::new().bg_color(Some(RgbColor(colour.r, colour.g, colour.b).into()));
    format!("{style}{}{style:#}", " ".repeat(width))
}
