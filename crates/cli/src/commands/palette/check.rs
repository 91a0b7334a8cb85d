//! `jovrik palette check`

use jovrik_core::colour::{Deficiency, alike};
use jovrik_core::rice::Palette;
use jovrik_core::style::{contrast, each_drawn};
use jovrik_text::problem::count;
use serde_json::json;

use super::{named, swatch};
use crate::complete;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, columns, in_colour, pad};

/// Say how well a palette can be read: contrast of all pairs that meet, and what looks alike to the colour-blind
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The palette; else the one in use
    #[arg(add = complete::palette())]
    name: Option<String>,
    /// One JSON object instead of a report
    #[arg(long)]
    json: bool,
}

struct Met {
    who: String,
    ink: String,
    on: String,
    contrast: f64,
    least: f64,
}

pub fn run(arguments: &Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    if let Some(name) = &arguments.name {
        named(&context.read()?.rice, Some(name))?;
        context.with.push(("palette.use".to_owned(), name.clone()));
    }
    let checked = context.usable()?;
    let rice = &checked.rice;
    let palette = &rice.palette.current;
    let mut met: Vec<Met> = Vec::new();
    for drawn in each_drawn(rice) {
        let Some(meets) = drawn.meets(rice) else { continue };
        let words = |colour| colour_in_words(palette, colour);
        let (ink, on) = (words(meets.ink), words(meets.on));
        let one = Met { who: drawn.in_words(), ink, on, contrast: meets.contrast, least: meets.least };
        if !met.iter().any(|other| (&other.ink, &other.on, other.least) == (&one.ink, &one.on, one.least)) {
            met.push(one);
        }
    }
    let short = met.iter().filter(|one| one.contrast < one.least).count();
    let exit = if short > 0 { Exit::Invalid } else { Exit::Done };
    let confused: Vec<_> = Deficiency::ALL.map(|deficiency| (deficiency, alike(palette, deficiency))).into();
    let out = &mut context.out;
    if arguments.json {
        let pairs: Vec<_> = met
            .iter()
            .map(|one| json!({ "what": one.who, "ink": one.ink, "on": one.on, "contrast": tenths(one.contrast), "least": one.least }))
            .collect();
        let alike: serde_json::Map<String, serde_json::Value> = confused
            .iter()
            .map(|(deficiency, pairs)| {
                let pairs: Vec<_> = pairs.iter().map(|(a, b, _)| json!([a, b])).collect();
                (deficiency.word().to_owned(), pairs.into())
            })
            .collect();
        writeln!(out, "{}", json!({ "palette": rice.palette.name, "pairs": pairs, "alike": alike }))?;
        return Ok(exit);
    }
    writeln!(out, "{}, contrast by WCAG 2 of what meets in this rice\n", Meaning::Heading.paint(&rice.palette.name))?;
    let rows: Vec<Vec<String>> = met
        .iter()
        .map(|one| {
            let enough = one.contrast >= one.least;
            let text = format!("{:5.1}", tenths(one.contrast));
            let text = if enough { text } else { Meaning::Error.paint(&text) };
            let words = if enough { String::new() } else { Meaning::Error.paint(&format!("{} is the least", one.least)) };
            vec![text, format!("{} on {}", one.ink, one.on), Meaning::Second.paint(&one.who), words]
        })
        .collect();
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{}", line.trim_end())?;
    }
    writeln!(out, "\nhow its colours look\n")?;
    let roles = ["paper", "ink", "accent", "calm", "good", "warn", "alert"];
    let width = context.width;
    let row = |name: &str, see: &dyn Fn(jovrik_schema::Colour) -> jovrik_schema::Colour| -> String {
        let seen = roles.iter().filter_map(|role| palette.role(role)).map(see);
        let shown = if in_colour() {
            seen.map(|colour| swatch(colour, 6)).collect::<String>()
        } else {
            seen.map(|colour| colour.hex()).collect::<Vec<_>>().join(" ")
        };
        columns(&[vec![pad(name, 20), shown]], "  ", width).join("\n")
    };
    writeln!(out, "{}", row("to most people", &|colour| colour))?;
    for (deficiency, pairs) in &confused {
        let name = format!("with {}", deficiency.word());
        writeln!(out, "{}", row(&name, &|colour| deficiency.seen(colour)))?;
        for (a, b, _) in pairs {
            writeln!(out, "  {}{} and {} look alike", " ".repeat(22), Meaning::Warning.paint(a), Meaning::Warning.paint(b))?;
        }
    }
    writeln!(out)?;
    let alike: usize = confused.iter().map(|(_, pairs)| pairs.len()).sum();
    let first =
        if short == 0 { Meaning::Done.paint("All can be read") } else { format!("{} hard to read", count(short, "pair")) };
    let second = match alike {
        0 => "no two states look alike with any of the three deficiencies".to_owned(),
        _ => format!("{} of states that some cannot tell apart: say it in words or icons too", count(alike, "pair")),
    };
    for line in crate::report::wrap(&format!("{first}; {second}. {} looked at.", count(met.len(), "pair")), context.width) {
        writeln!(out, "{line}")?;
    }
    Ok(exit)
}

/// Rounded down, so that 4.46 does not read as enough.
fn tenths(contrast: f64) -> f64 {
    (contrast * 10.0).floor() / 10.0
}

fn colour_in_words(palette: &Palette, colour: jovrik_schema::Colour) -> String {
    let role = Palette::ROLES
        .iter()
        .find(|role| palette.role(role).is_some_and(|own| contrast(own, colour) < 1.0 + 1e-9 && own == colour));
    role.map_or_else(|| colour.hex(), |role| (*role).to_owned())
}
