//! `jovrik publish`

use std::path::PathBuf;

use jovrik_leak_scan::Person;
use jovrik_text::problem::{Severity, count, in_words};

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, problem};

/// Make the rice fit for others: look it through and pack it
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// The bundle to write
    #[arg(long, value_name = "FILE")]
    pub bundle: PathBuf,
    /// What is accepted, and recorded in the bundle: a code of share/…, or that of one file or line
    #[arg(long, value_name = "CODE[:FILE[:LINE]]", add = crate::complete::shared())]
    pub allow: Vec<String>,
    /// Write over the file though it is no bundle
    #[arg(long)]
    pub force: bool,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let folder = context.folder()?;
    let checked = context.usable()?;
    let about = &checked.manifest.rice;
    let person = Person { home: context.home.home.display().to_string(), user: context.user.clone(), host: context.host.clone() };
    let personal = checked.overlays.iter().filter(|overlay| overlay.personal);
    let own: Vec<&str> = personal.filter_map(|overlay| Some(checked.sources.get(overlay.file)?.name.as_str())).collect();
    let published = jovrik_home::publish::publish(&folder, &about.name, &about.version, &person, &arguments.allow, &own)?;
    for one in &published.problems {
        problem::write(&mut context.out, one, &published.sources, context.width)?;
        let place = one.place(&published.sources);
        let place = place.map(|(file, line)| line.map_or(format!(":{file}"), |line| format!(":{file}:{line}")));
        let write = format!("--allow {}{}", one.code, place.unwrap_or_default());
        advice(&mut context.out, "  ", &write, "accepts this one, and says so in the bundle")?;
        writeln!(context.out)?;
    }
    for idle in &published.idle {
        writeln!(context.out, "--allow {idle} accepts nothing: there is no such finding")?;
    }
    let Some(bytes) = published.bundle else {
        let stops = published.problems.iter().filter(|one| one.severity == Severity::Error).count();
        writeln!(context.out, "not published: {} in the way", count(stops, "problem"))?;
        return Ok(Exit::Invalid);
    };
    let size = bytes.len();
    let target = context.here.join(&arguments.bundle);
    if !arguments.force && target.symlink_metadata().is_ok() && !jovrik_home::publish::is_bundle(&target) {
        context.out.flush()?;
        return Err(CommandError::NotTaken(format!(
            "{} is there and is no bundle, so nothing was written; --force writes over it",
            arguments.bundle.display()
        )));
    }
    if !arguments.dry_run {
        jovrik_home::commit(&[(target, bytes)])?;
    }
    let verb = if arguments.dry_run { "would write" } else { "wrote" };
    let out = &mut context.out;
    writeln!(
        out,
        "{verb} {}: {} {}, {}, {:.1} KiB",
        Meaning::Place.paint(&arguments.bundle.display().to_string()),
        about.name,
        about.version,
        count(published.files, "file"),
        size as f64 / 1024.0
    )?;
    if published.accepted > 0 {
        writeln!(out, "  {} accepted by --allow", count(published.accepted, "finding"))?;
    }
    if !published.cut.is_empty() {
        let names: Vec<&str> = published.cut.iter().map(String::as_str).collect();
        writeln!(out, "  what cameras and programs wrote into {} was cut out", in_words(&names))?;
    }
    if !own.is_empty() {
        writeln!(out, "  {} is personal and stays here", in_words(&own))?;
    }
    let rices = std::iter::once(&checked.rice).chain(checked.elsewhere.iter().map(|(_, rice)| rice));
    let mut at_home: Vec<&str> = rices.flat_map(|rice| rice.pictures()).filter(|path| path.starts_with("~/")).collect();
    at_home.sort_unstable();
    at_home.dedup();
    if !at_home.is_empty() {
        let are = if at_home.len() == 1 { "is of your home and is" } else { "are of your home and are" };
        writeln!(out, "  {} {are} not shared: others see nothing in its place", in_words(&at_home))?;
    }
    advice(out, "  ", &format!("jovrik adopt {}", arguments.bundle.display()), "is what others type; it shows all of it first")?;
    Ok(Exit::Done)
}
