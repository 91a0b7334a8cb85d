//! `jovrik man`

use std::path::PathBuf;

use jovrik_core::problem::count;

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::Meaning;

/// Print the page for man, in roff; or write one for each command
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// A folder to write all pages into, such as ~/.local/share/man/man1
    #[arg(long, value_name = "DIR")]
    pub out: Option<PathBuf>,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let mut command = crate::run::command();
    let render = |command: clap::Command| -> Result<Vec<u8>, Failure> {
        let mut page = Vec::new();
        clap_mangen::Man::new(command).render(&mut page)?;
        Ok(page)
    };
    let Some(folder) = arguments.out else {
        context.out.write_all(&render(command)?)?;
        return Ok(Exit::Done);
    };
    command.build();
    let at = context.here.join(&folder);
    let mut pages = Vec::new();
    let mut open = vec![command];
    while let Some(command) = open.pop() {
        let name = command.get_display_name().unwrap_or_else(|| command.get_name()).to_owned();
        open.extend(command.get_subcommands().filter(|inner| inner.get_name() != "help" && !inner.is_hide_set()).cloned());
        pages.push((at.join(format!("{name}.1")), render(command)?));
    }
    std::fs::create_dir_all(&at)?;
    jovrik_home::commit(&pages)?;
    let place = Meaning::Place.paint(&folder.display().to_string());
    writeln!(context.out, "wrote {} into {place}", count(pages.len(), "page"))?;
    Ok(Exit::Done)
}
