//! `jovrik live`

use jovrik_live::{Desktop, Ended, Options, socket_path};

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, advice};

/// Run the desktop on $DISPLAY; every save of the rice is a reload
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// Take the place of another window manager that runs
    #[arg(long)]
    pub replace: bool,
}

/// The display's name.
pub fn display() -> Result<String, Failure> {
    std::env::var("DISPLAY").ok().filter(|name| !name.is_empty()).ok_or(Failure::Live(jovrik_live::Error::NoDisplay))
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let display = display()?;
    let folder = context.folder()?;
    let checked = context.usable(&[])?;
    let name = format!("{} {}", checked.manifest.rice.name, checked.manifest.rice.version);
    let around = context.around()?;
    let load_folder = folder.clone();
    let options = Options {
        socket: socket_path(&context.home.runtime, &display),
        display: display.clone(),
        fonts: context.font_places(),
        folder,
        first: checked,
        load: Box::new(move || jovrik_home::check_folder(&load_folder, &[], &around)),
        watched: jovrik_home::is_watched,
        replace: arguments.replace,
    };
    let desktop = Desktop::start(options)?;
    writeln!(context.out, "{} on {display}", Meaning::Heading.paint(&name))?;
    advice(&mut context.out, "  ", "jovrik ask health", "says how it is; saving the rice reloads it")?;
    context.out.flush()?;
    match desktop.run()? {
        Ended::Quit => Ok(Exit::Done),
        Ended::Interrupted => Ok(Exit::Interrupted),
    }
}
