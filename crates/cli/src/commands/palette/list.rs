//! `jovrik palette list`

use jovrik_core::rice::Palette;
use serde_json::json;

use super::swatch;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, pad};

/// Show the palettes of the rice, role by role
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// One JSON object instead of a table
    #[arg(long)]
    json: bool,
}

pub fn run(arguments: &Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let checked = context.read()?;
    let palettes = &checked.rice.palette;
    let mut all: Vec<(&str, &Palette)> = palettes.all.iter().map(|(name, palette)| (name.as_str(), palette)).collect();
    if all.is_empty() {
        all.push((&palettes.name, &palettes.current));
    }
    let out = &mut context.out;
    if arguments.json {
        let roles = |palette: &Palette| -> serde_json::Map<String, serde_json::Value> {
            Palette::ROLES.iter().filter_map(|role| Some(((*role).to_owned(), palette.role(role)?.hex().into()))).collect()
        };
        let named: serde_json::Map<String, serde_json::Value> =
            all.iter().map(|(name, palette)| ((*name).to_owned(), roles(palette).into())).collect();
        writeln!(out, "{}", json!({ "use": palettes.name, "palettes": named }))?;
        return Ok(Exit::Done);
    }
    // A swatch of 4, a space, the digits, and room to the next.
    let column = 18;
    let heads: Vec<String> = all
        .iter()
        .map(|(name, _)| {
            let here = *name == palettes.name;
            let text = if here { format!("{name}, in use") } else { (*name).to_owned() };
            let meaning = if here { Meaning::Type } else { Meaning::Heading };
            format!("{}{}", meaning.paint(&text), " ".repeat(column_rest(&text, column)))
        })
        .collect();
    writeln!(out, "{}{}", pad("", 10), heads.concat().trim_end())?;
    for role in Palette::ROLES {
        let cells: Vec<String> = all
            .iter()
            .filter_map(|(_, palette)| palette.role(role))
            .map(|colour| format!("{} {}", swatch(colour, 4), pad(&colour.hex(), column - 5)))
            .collect();
        writeln!(out, "  {}{}", Meaning::Second.paint(&pad(role, 8)), cells.concat().trim_end())?;
    }
    if let Some((other, _)) = all.iter().find(|(name, _)| *name != palettes.name) {
        writeln!(out)?;
        advice(
            out,
            "  ",
            &format!("jovrik palette use {other}"),
            "takes the other; jovrik palette check says how well it reads",
        )?;
    }
    Ok(Exit::Done)
}

fn column_rest(text: &str, column: usize) -> usize {
    column.saturating_sub(crate::report::width(text)).max(1)
}
