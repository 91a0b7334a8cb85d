//! `jovrik set`

use jovrik_core::change::{changes, in_short};
use jovrik_home::edit::{ListEdit, Planned};

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
    finish(&planned, arguments.dry_run, "set", context)
}

/// The change of a list that is meant by `PATH+=ELEMENT` or `PATH-=ELEMENT`.
fn change(arguments: &Arguments) -> Option<(&str, ListEdit)> {
    if let Some((path, element)) = arguments.path.split_once("+=") {
        let place = arguments.at.map(|at| usize::from(at) - 1);
        return Some((path, ListEdit::Add(element.to_owned(), place)));
    }
    arguments.path.split_once("-=").map(|(path, element)| (path, ListEdit::Take(element.to_owned())))
}

/// Writes a planned edit, records it, and says what changed.
pub fn finish(planned: &Planned, dry_run: bool, kind: &str, context: &mut Context) -> Result<Exit, Failure> {
    let folder = context.folder()?;
    let changed = changes(&planned.before.tree, &planned.after.tree);
    let rewritten = planned.writes(&folder);
    let same = rewritten.iter().all(|(path, bytes)| std::fs::read(path).is_ok_and(|old| old == *bytes));
    if same {
        writeln!(context.out, "nothing to change: it is so already")?;
        return Ok(Exit::Done);
    }
    let entry = match dry_run {
        true => None,
        false => jovrik_home::apply::write_recorded(&rewritten, &context.home, kind, &in_short(&changed))?,
    };
    let verb = if dry_run { "would change" } else { "changed" };
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
