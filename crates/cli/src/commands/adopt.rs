//! `jovrik adopt`

use std::path::PathBuf;

use jovrik_core::check::Surroundings;
use jovrik_core::problem::{count, in_words};
use jovrik_home::{About, Writer, resolved};

use super::check::{errors, summary};
use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, advice, advise, columns, wrap};

/// Look at somebody else's rice, and take it; nothing of it is run
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// A bundle or a folder
    pub source: PathBuf,
    /// Write it into this new folder
    #[arg(long, value_name = "DIR")]
    pub to: Option<PathBuf>,
    /// Accept the commands that it holds, as they were shown
    #[arg(long)]
    pub allow_run: bool,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let around = jovrik_home::Here::new(context.path.clone(), &context.home);
    let adopted = jovrik_home::adopt::read(&context.here.join(&arguments.source), &around)?;
    let about = &adopted.checked.manifest.rice;
    let out = &mut context.out;
    let plain = |text: &str| text.chars().filter(|c| !c.is_control()).collect::<String>();
    writeln!(
        out,
        "{}  {}",
        Meaning::Heading.paint(&format!("{} {}", plain(&about.name), plain(&about.version))),
        plain(&about.summary)
    )?;
    writeln!(
        out,
        "  {}, licence {}, not signed\n",
        count(adopted.files.len(), "file"),
        if about.license.is_empty() { "not said".to_owned() } else { plain(&about.license) }
    )?;
    let missing: Vec<&str> = adopted
        .checked
        .manifest
        .needs
        .programs
        .iter()
        .map(String::as_str)
        .filter(|program| around.has_program(program) == Some(false))
        .collect();
    if !missing.is_empty() {
        writeln!(out, "  needs {}: not on this computer\n", in_words(&missing))?;
    }
    writeln!(
        out,
        "  holds {}{}",
        count(adopted.commands.len(), "command"),
        if adopted.commands.is_empty() { "" } else { "; none of them was run" }
    )?;
    let rows: Vec<Vec<String>> =
        adopted.commands.iter().map(|(place, line)| vec![plain(place), Meaning::Type.paint(&plain(line))]).collect();
    for line in columns(&rows, "    ", context.width) {
        writeln!(out, "{line}")?;
    }
    let places: Vec<String> = adopted.places.iter().map(|place| plain(place)).collect();
    if !places.is_empty() {
        writeln!(out, "\n  applying it would write {}", in_words(&places))?;
    }
    writeln!(out)?;
    for line in wrap(&summary(&adopted.checked), context.width.saturating_sub(2)) {
        writeln!(out, "  {line}")?;
    }
    let source = arguments.source.display();
    let Some(to) = arguments.to else {
        let allow = if adopted.commands.is_empty() { "" } else { " --allow-run" };
        advice(out, "  ", &format!("jovrik adopt {source} --to DIR{allow}"), "takes it into a new folder")?;
        return Ok(Exit::Done);
    };
    if errors(&adopted.checked).next().is_some() {
        return Err(Failure::Unfit(Box::new(adopted.checked)));
    }
    if !adopted.commands.is_empty() && !arguments.allow_run {
        out.flush()?;
        return Err(Failure::NotTaken(
            "it holds commands, so nothing was written; --allow-run accepts them as shown above".to_owned(),
        ));
    }
    let folder = context.here.join(&to);
    let files = jovrik_home::adopt::writes(&adopted, &folder)?;
    let (many, place) = (count(files.len(), "file"), Meaning::Place.paint(&to.display().to_string()));
    if arguments.dry_run {
        writeln!(out, "\nwould write {many} into {place}")?;
        return Ok(Exit::Done);
    }
    let what = format!("{} {} into {}", about.name, about.version, context.home.short(&folder));
    let rice = resolved(&folder)?;
    Writer::open(&context.home)?.write(&About { kind: "adopt", what: &what, note: None, rice: Some(&rice) }, files)?;
    writeln!(out, "\nwrote {many} into {place}")?;
    let next = [
        (format!("jovrik look --rice {}", to.display()), "draws it"),
        (format!("jovrik apply --rice {}", to.display()), "puts it into effect; undo takes it back"),
    ];
    advise(out, "  ", &next)?;
    Ok(Exit::Done)
}
