//! `jovrik palette from`

use std::path::PathBuf;
use std::rc::Rc;

use jovrik_core::colour::{ColourScheme, palette_of};
use jovrik_core::rice::Palette;
use jovrik_core::style::contrast;
use jovrik_draw::main_colours;
use jovrik_schema::Tree;
use jovrik_text::Span;
use jovrik_text::problem::Edit;
use jovrik_toml::bare;
use serde_json::json;

use super::swatch;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, in_colour, pad, wrap};

/// Make a palette from the colours of a picture
///
/// The main colours are found by clustering in Oklab; roles are moved in lightness until ink has a contrast of 7 on paper,
/// and every other role that colours text 4.5. The same picture gives the same palette.
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// A PNG or JPEG
    file: PathBuf,
    /// The palette's name; else that of the file
    #[arg(long)]
    name: Option<String>,
    /// Light text on dark paper, whatever the picture is
    #[arg(long, conflicts_with = "light")]
    dark: bool,
    /// Dark text on light paper, whatever the picture is
    #[arg(long)]
    light: bool,
    /// Write it into the rice
    #[arg(long)]
    write: bool,
    /// One JSON object: the picture's main colours with their shares, and the palette
    #[arg(long, conflicts_with = "write")]
    json: bool,
}

fn name_of(arguments: &Arguments) -> String {
    let stem = || arguments.file.file_stem().map(|stem| stem.to_string_lossy().to_lowercase()).unwrap_or_default();
    let name = arguments.name.clone().unwrap_or_else(stem);
    let name: String = name.chars().map(|c| if c.is_alphanumeric() || c == '-' { c } else { '-' }).collect();
    if name.is_empty() { "picture".to_owned() } else { name }
}

pub fn run(arguments: &Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let file = arguments.file.display();
    let name = name_of(arguments);
    let taken = |rice: &jovrik_core::rice::Rice| rice.palette.all.contains_key(&name);
    if arguments.write && taken(&context.read()?.rice) {
        return Err(CommandError::NotTaken(format!("the rice has a palette {name} already; --name gives another name")));
    }
    let found = main_colours(&context.here.join(&arguments.file)).map_err(|why| CommandError::Could(format!("{file}: {why}")))?;
    let ground = match (arguments.dark, arguments.light) {
        (true, _) => Some(ColourScheme::Dark),
        (_, true) => Some(ColourScheme::Light),
        _ => None,
    };
    let palette = palette_of(&found, ground);
    let width = context.width;
    let out = &mut context.out;
    if arguments.json {
        let main: Vec<_> = found.iter().map(|one| json!({ "colour": one.colour.hex(), "share": one.share })).collect();
        let roles = Palette::ROLES.iter().filter_map(|role| Some(((*role).to_owned(), json!(palette.role(role)?.hex()))));
        let roles: serde_json::Map<String, serde_json::Value> = roles.collect();
        writeln!(out, "{}", json!({ "name": name, "main": main, "palette": roles }))?;
        return Ok(Exit::Done);
    }
    let strip: String = found.iter().map(|cluster| swatch(cluster.colour, ((cluster.share * 60.0) as usize).max(2))).collect();
    if in_colour() {
        writeln!(out, "{strip}\n")?;
    } else {
        let main: Vec<String> = found.iter().map(|one| format!("{} {:.0} %", one.colour.hex(), one.share * 100.0)).collect();
        for line in wrap(&format!("main colours: {}", main.join(", ")), width) {
            writeln!(out, "{line}")?;
        }
        writeln!(out)?;
    }
    for role in Palette::ROLES {
        let Some(colour) = palette.role(role) else { continue };
        let on = if *role == "paper" { String::new() } else { format!("{:4.1} on paper", contrast(colour, palette.paper)) };
        let line = format!(
            "  {}{} {}  {}",
            Meaning::Second.paint(&pad(role, 8)),
            swatch(colour, 4),
            colour.hex(),
            Meaning::Second.paint(&on)
        );
        writeln!(out, "{}", line.trim_end())?;
    }
    writeln!(out)?;
    if !arguments.write {
        let file = jovrik_text::shell_line(&[file.to_string()]);
        return Ok(advice(out, "  ", &format!("jovrik palette from {file} --name {name} --write"), "puts it into the rice")
            .map(|()| Exit::Done)?);
    }
    write(&name, &palette, context)
}

/// Adds a palette at the end of the file that has the others.
fn write(name: &str, palette: &Palette, context: &mut Context) -> Result<Exit, CommandError> {
    let writer = context.editor(false)?;
    let (folder, around) = (context.folder()?, context.around()?);
    let before = Rc::new(jovrik_home::check_folder(&folder, &[], &around));
    let branch = before.tree.entries.get("palette").and_then(Tree::branch);
    let home = branch.and_then(|branch| {
        branch.entries.values().find_map(|tree| match tree {
            Tree::Branch(inner) => inner.key,
            Tree::Leaf(leaf) => Some(leaf.node.key),
        })
    });
    let (id, source) = home
        .and_then(|span| Some((span.file, before.sources.get(span.file)?)))
        .or_else(|| before.sources.iter().find(|(_, source)| source.name.starts_with("parts/")))
        .ok_or_else(|| CommandError::NotTaken("the rice has no file in parts/ to write into".to_owned()))?;
    let end = source.text.len() as u32;
    let gap = if source.text.ends_with('\n') || source.text.is_empty() { "" } else { "\n" };
    let mut text = format!("{gap}\n[palette.{}]\n", bare(name));
    for role in Palette::ROLES {
        if let Some(colour) = palette.role(role) {
            text.push_str(&format!("{role} = \"{}\"\n", colour.hex()));
        }
    }
    let edit = Edit { span: Span { file: id, start: end, end }, text };
    let planned = jovrik_home::edit::edits(before, vec![edit], &around)?;
    let exit = crate::commands::set::finish(&planned, writer, "palette", context)?;
    advice(&mut context.out, "  ", &format!("jovrik palette use {name}"), "takes it; jovrik look --beside shows it first")?;
    Ok(exit)
}
