//! `jovrik set`

use jovrik_core::change::changes;
use jovrik_home::Planned;
use jovrik_home::edit::ListEdit;
use jovrik_home::{About, Writer, resolved};

use crate::complete;
use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, advice};

/// Change one setting where it stands; every other byte stays the same
///
/// A list takes an element with PATH+=ELEMENT, lets one go with PATH-=ELEMENT, and takes one at a place, counted from 1,
/// with PATH+=ELEMENT --at 2.
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// The setting's path, such as bar.top.thick; or bar.top.end+=tide, bar.top.end-=tide
    #[arg(add = complete::setting_to_set())]
    pub path: String,
    /// Its new value, as TOML; a text needs no quotes
    #[arg(allow_hyphen_values = true, add = complete::value())]
    pub value: Option<String>,
    /// With +=: the place of the new element, counted from 1
    #[arg(long, value_name = "PLACE", value_parser = clap::value_parser!(u16).range(1..))]
    pub at: Option<u16>,
    /// Write into this overlay instead; one for a host that machines/ knows is begun when it is not there
    #[arg(long, value_name = "NAME", add = complete::overlay())]
    pub overlay: Option<String>,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let overlay = arguments.overlay.as_deref();
    let writer = context.writer(arguments.dry_run)?;
    let planned = match (change(&arguments), &arguments.value) {
        (Some((path, change)), None) => {
            context.plan(|files, around| jovrik_home::edit::list(files, path, &change, overlay, around))?
        }
        (None, Some(_)) if arguments.at.is_some() => return Err(Failure::Usage("--at goes with PATH+=ELEMENT".to_owned())),
        (None, Some(value)) => {
            context.plan(|files, around| jovrik_home::edit::set(files, &arguments.path, value, overlay, around))?
        }
        (Some(_), Some(_)) => return Err(Failure::Usage("either PATH VALUE, or PATH+=ELEMENT, or PATH-=ELEMENT".to_owned())),
        (None, None) => return Err(Failure::Usage(format!("{} wants a value", arguments.path))),
    };
    finish(&planned, writer, "set", context)
}

/// The change of a list that is meant by `PATH+=ELEMENT` or `PATH-=ELEMENT`.
fn change(arguments: &Arguments) -> Option<(&str, ListEdit)> {
    if let Some((path, element)) = arguments.path.split_once("+=") {
        let place = arguments.at.map(|at| usize::from(at) - 1);
        return Some((path, ListEdit::Add(element.to_owned(), place)));
    }
    arguments.path.split_once("-=").map(|(path, element)| (path, ListEdit::Take(element.to_owned())))
}

/// Writes a planned edit in one transaction; the number of its entry.
pub fn write(planned: &Planned, writer: &mut Writer, kind: &str, what: &str, context: &Context) -> Result<Option<i64>, Failure> {
    let folder = resolved(&context.folder()?)?;
    let about = About { kind, what, note: None, rice: Some(&folder) };
    Ok(writer.write(&about, planned.writes(&folder)?)?)
}

/// Writes a planned edit, unless it is a trial without a writer, and says what changed.
pub fn finish(planned: &Planned, writer: Option<Writer>, kind: &str, context: &mut Context) -> Result<Exit, Failure> {
    let changed = changes(&planned.before.tree, &planned.after.tree);
    if planned.writes(&context.folder()?)?.iter().all(|file| file.old == file.new) {
        writeln!(context.out, "nothing to change: it is so already")?;
        return Ok(Exit::Done);
    }
    let verb = if writer.is_some() { "changed" } else { "would change" };
    let entry = match writer {
        Some(mut writer) => write(planned, &mut writer, kind, &planned.what(), context)?,
        None => None,
    };
    for change in &changed {
        writeln!(context.out, "{change}")?;
    }
    for overlay in planned.after.overlays.iter().filter(|overlay| overlay.holds.is_err()) {
        let name = planned.after.sources.get(overlay.file).map_or("", |source| source.name.as_str());
        if let (true, Err(reason)) = (planned.files.contains_key(name), &overlay.holds) {
            writeln!(context.out, "nothing changes here: {name} is not asked, since {reason}")?;
        }
    }
    let names: Vec<String> = planned.files.keys().map(|name| Meaning::Place.paint(name)).collect();
    writeln!(context.out, "  {verb} {}", jovrik_core::problem::in_words(&names))?;
    if entry.is_some() {
        advice(&mut context.out, "  ", "jovrik undo", "takes it back")?;
    }
    Ok(Exit::Done)
}
