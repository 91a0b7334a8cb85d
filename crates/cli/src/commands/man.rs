//! `jovrik man`

use std::path::PathBuf;

use clap_mangen::roff::{Roff, bold, roman};
use jovrik_text::problem::count;

use crate::context::Context;
use crate::examples;
use crate::exit::{CommandError, Exit};
use crate::report::Meaning;

/// Print the page for man, in roff; or write one for each command
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// A folder to write all pages into, such as ~/.local/share/man/man1
    #[arg(long, value_name = "DIR")]
    pub out: Option<PathBuf>,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let mut command = crate::run::command();
    let Some(folder) = arguments.out else {
        context.out.write_all(&render(command, "")?)?;
        return Ok(Exit::Done);
    };
    command.build();
    let at = context.here.join(&folder);
    let mut pages = Vec::new();
    let mut open = vec![command];
    while let Some(command) = open.pop() {
        let name = command.get_display_name().unwrap_or_else(|| command.get_name()).to_owned();
        open.extend(command.get_subcommands().filter(|inner| inner.get_name() != "help" && !inner.is_hide_set()).cloned());
        let path = name.split_once('-').map_or(String::new(), |(_, path)| path.replace('-', " "));
        pages.push((at.join(format!("{name}.1")), render(command, &path)?));
    }
    std::fs::create_dir_all(&at)?;
    jovrik_home::commit(&pages)?;
    let place = Meaning::Place.paint(&folder.display().to_string());
    writeln!(context.out, "wrote {} into {place}", count(pages.len(), "page"))?;
    Ok(Exit::Done)
}

/// One page: what clap knows of the command, then examples and what holds for all commands.
fn render(command: clap::Command, path: &str) -> Result<Vec<u8>, CommandError> {
    let page = clap_mangen::Man::new(command.after_long_help(None::<&str>));
    let mut text = Vec::new();
    page.render_title(&mut text)?;
    page.render_name_section(&mut text)?;
    page.render_synopsis_section(&mut text)?;
    page.render_description_section(&mut text)?;
    page.render_options_section(&mut text)?;
    page.render_subcommands_section(&mut text)?;
    let sections = [
        ("EXAMPLES", examples::of(path)),
        ("EXIT STATUS", examples::EXITS),
        ("FILES", examples::FILES),
        ("ENVIRONMENT", examples::ENVIRONMENT),
    ];
    for (heading, rows) in sections.iter().filter(|(_, rows)| !rows.is_empty()) {
        let mut section = Roff::new();
        section.control("SH", [*heading]);
        for (what, means) in *rows {
            section.control("TP", []);
            section.text([bold(*what)]);
            section.text([roman(*means)]);
        }
        section.to_writer(&mut text)?;
    }
    if path.is_empty() {
        page.render_version_section(&mut text)?;
    }
    Ok(text)
}
