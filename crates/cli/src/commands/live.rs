//! `jovrik live`

use std::path::Path;

use jovrik_core::change::{changes, in_short};
use jovrik_core::check::{Checked, Glance, Surroundings};
use jovrik_core::problem::Severity;
use jovrik_home::{About, FileChange, Home, Kept, Writer, resolved};
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

/// Records an accepted reload, with the files as they were and as they are.
fn record(before: &Checked, after: &Checked, folder: &Path, home: &Home) {
    let text = |checked: &Checked, name: &str| {
        let file = checked.sources.named(name).and_then(|id| checked.sources.get(id));
        file.map(|file| file.text.clone().into_bytes())
    };
    let mut names: Vec<&str> = before.sources.iter().chain(after.sources.iter()).map(|(_, file)| file.name.as_str()).collect();
    names.sort_unstable();
    names.dedup();
    let Ok(folder) = resolved(folder) else { return };
    let change = |name: &str| {
        let path = resolved(&folder.join(name)).ok()?;
        let (old, new) = (text(before, name).map(Kept::new), text(after, name).map(Kept::new));
        (old != new).then_some(FileChange { path, old, new, placed: None })
    };
    let changed: Vec<FileChange> = names.into_iter().filter_map(change).collect();
    let what = in_short(&changes(&before.tree, &after.tree));
    let about = About { kind: "reload", what: &what, note: None, rice: Some(&folder) };
    // A history that cannot be written is told by the next command that needs it; the desktop goes on.
    let _ = Writer::open(home).and_then(|mut writer| writer.record(&about, &changed));
}

/// The first error of a rice: its place, and its sentence.
fn first_error(checked: &Checked) -> Option<String> {
    let error = checked.problems.iter().find(|problem| problem.severity == Severity::Error)?;
    let place = error.marks.first().map(|mark| format!("{}: ", checked.sources.place(mark.span))).unwrap_or_default();
    Some(format!("{place}{}", error.title))
}

/// Writes a setting into the rice, as `set` does; why it was not.
fn keep(path: &str, value: &str, folder: &Path, around: &dyn Surroundings, home: &Home) -> Result<(), String> {
    let written = || -> Result<(), Failure> {
        let mut writer = Writer::open(home)?;
        let files = jovrik_home::read_folder(folder);
        let planned = jovrik_home::edit::set(|| files.clone(), path, value, None, around)?;
        let folder = resolved(folder)?;
        let about = About { kind: "set", what: &planned.what(), note: Some("told to the desktop"), rice: Some(&folder) };
        writer.write(&about, planned.writes(&folder)?)?;
        Ok(())
    };
    written().map_err(|failure| match failure {
        Failure::Home(jovrik_home::Error::Refused(checked)) => first_error(&checked).unwrap_or_default(),
        other => other.to_string(),
    })
}

/// The display's name.
pub fn display() -> Result<String, Failure> {
    crate::context::display().ok_or(Failure::Live(jovrik_live::Error::NoDisplay))
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let display = display()?;
    let folder = context.folder()?;
    let checked = context.usable()?;
    let name = format!("{} {}", checked.manifest.rice.name, checked.manifest.rice.version);
    let around = context.around()?;
    let (load_folder, watched_folder, home) = (folder.clone(), folder.clone(), context.home.clone());
    let (kept_folder, kept_around, kept_home) = (folder.clone(), context.around()?, home.clone());
    let with = context.with.clone();
    let options = Options {
        socket: socket_path(&context.home.runtime, &display),
        display: display.clone(),
        fonts: context.font_places(),
        folder,
        first: checked,
        load: Box::new(move |set| {
            let with: Vec<(String, String)> = with.iter().chain(set).cloned().collect();
            jovrik_home::check_folder(&load_folder, &with, &Glance { around: &around, elsewhere: false })
        }),
        keep: Box::new(move |path, value| keep(path, value, &kept_folder, &kept_around, &kept_home)),
        accepted: Box::new(move |before, after| record(before, after, &watched_folder, &home)),
        watched: jovrik_home::is_watched,
        replace: arguments.replace,
    };
    super::guard::watch_over()?;
    let desktop = Desktop::start(options)?;
    writeln!(context.out, "{} on {display}", Meaning::Heading.paint(&name))?;
    advice(&mut context.out, "  ", "jovrik ask health", "says how it is; saving the rice reloads it")?;
    context.out.flush()?;
    match desktop.run()? {
        Ended::Quit => Ok(Exit::Done),
        Ended::Interrupted => Ok(Exit::Interrupted),
    }
}
