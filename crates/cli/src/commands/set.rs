//! `jovrik set`

use jovrik_home::edit::ListEdit;
use jovrik_home::{EditPlan, EntryDraft, RiceCopy, TransactionManager, Written, resolved, write_edit};
use jovrik_text::problem::in_words;

use crate::complete;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, advise, wrap};

/// Change settings where they stand; every other byte stays the same
///
/// Several at once are given as PATH=VALUE and judged together, so that what depends on each other can change in one step.
/// A list takes an element with PATH+=ELEMENT, lets one go with PATH-=ELEMENT, and takes one at a place, counted from 1,
/// with PATH+=ELEMENT --at 2. What rice.toml says is set as rice.version, needs.programs, check.allow.
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// The setting's path, such as bar.top.thick; or PATH=VALUE; or bar.top.end+=tide, bar.top.end-=tide
    #[arg(add = complete::setting_to_set())]
    pub path: String,
    /// Its new value, as TOML; a text needs no quotes
    #[arg(allow_hyphen_values = true, add = complete::value())]
    pub value: Option<String>,
    /// More settings, as PATH=VALUE
    #[arg(value_name = "PATH=VALUE", add = complete::pair())]
    pub more: Vec<String>,
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

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let overlay = arguments.overlay.as_deref();
    let writer = context.editor(arguments.dry_run)?;
    let planned = if let Some((path, change)) = change(&arguments) {
        if arguments.value.is_some() {
            return Err(CommandError::Usage("PATH+=ELEMENT and PATH-=ELEMENT change one list, and take no more".to_owned()));
        }
        let path = context.meant(path);
        context.plan(|files, around| jovrik_home::edit::list(files, &path, &change, overlay, around))?
    } else if arguments.at.is_some() {
        return Err(CommandError::Usage("--at goes with PATH+=ELEMENT".to_owned()));
    } else {
        let pairs: Vec<(String, String)> =
            pairs(&arguments)?.into_iter().map(|(path, value)| (context.meant(&path), value)).collect();
        context.plan(|files, around| jovrik_home::edit::set_all(files, &pairs, overlay, around))?
    };
    finish(&planned, writer, "set", context)
}

/// What is to be set: one path and its value, or several pairs.
fn pairs(arguments: &Arguments) -> Result<Vec<(String, String)>, CommandError> {
    let Some(first) = pair(&arguments.path) else {
        return match (&arguments.value, arguments.more.as_slice()) {
            (Some(value), []) => Ok(vec![(arguments.path.clone(), value.clone())]),
            (None, _) => Err(CommandError::Usage(format!("{} wants a value", arguments.path))),
            (Some(value), more) => {
                // As it must be, where that can be seen.
                let words: Vec<&String> = [&arguments.path, value].into_iter().chain(more).collect();
                let pairs = words.chunks(2).map(|pair| match pair {
                    [path, value] if !path.contains('=') => jovrik_text::shell_line(&[format!("{path}={value}")]),
                    other => other.iter().map(|word| word.as_str()).collect::<Vec<_>>().join(" "),
                });
                let line = pairs.collect::<Vec<_>>().join(" ");
                Err(CommandError::Usage(format!("several settings are given as PATH=VALUE each: jovrik set {line}")))
            }
        };
    };
    let more = arguments.value.iter().chain(&arguments.more).map(|text| {
        pair(text).ok_or_else(|| CommandError::Usage(format!("{text}: several settings are given as PATH=VALUE each")))
    });
    std::iter::once(Ok(first)).chain(more).collect()
}

/// Splits `PATH=VALUE` at the first `=` that is not in quotes.
fn pair(text: &str) -> Option<(String, String)> {
    let mut quote = None;
    let at = text.char_indices().find(|(_, c)| {
        match (quote, *c) {
            (None, '"' | '\'') => quote = Some(*c),
            (Some(open), c) if open == c => quote = None,
            _ => {}
        }
        quote.is_none() && *c == '='
    })?;
    Some((text[..at.0].trim().to_owned(), text[at.0 + 1..].trim().to_owned()))
}

/// The change of a list that is meant by `PATH+=ELEMENT` or `PATH-=ELEMENT`.
fn change(arguments: &Arguments) -> Option<(&str, ListEdit)> {
    if let Some((path, element)) = arguments.path.split_once("+=") {
        let place = arguments.at.map(|at| usize::from(at) - 1);
        return Some((path, ListEdit::Add(element.to_owned(), place)));
    }
    arguments.path.split_once("-=").map(|(path, element)| (path, ListEdit::Take(element.to_owned())))
}

/// Writes a planned edit in one transaction, and applies it where that is meant.
pub fn write(
    planned: &EditPlan,
    writer: &mut TransactionManager,
    kind: &str,
    what: &str,
    context: &Context,
) -> Result<Written, CommandError> {
    let folder = resolved(&context.folder()?)?;
    let about = EntryDraft { kind, what, note: None, rice: Some(&folder) };
    let changes = planned.writes(&folder)?;
    // What was looked at on another machine is applied on this computer.
    let here = context.machine.as_ref().map(|_| planned.on(&context.this_computer()));
    let after = here.as_ref().unwrap_or(&planned.after);
    Ok(write_edit(writer, &context.home, &about, &context.copy, changes, (&planned.files, after))?)
}

/// Says which files of which copy an edit changed, what became of them, and what can be done next.
pub fn tell_copy(planned: &EditPlan, written: Option<&Written>, context: &mut Context) -> Result<(), CommandError> {
    let folder = context.folder()?;
    let names: Vec<String> = planned.files.keys().map(|name| Meaning::Place.paint(&context.near(&folder.join(name)))).collect();
    let verb = if written.is_some() { "changed" } else { "would change" };
    let applied = match written {
        None => ", and apply it",
        Some(Written { applied: Some(_), .. }) => ", and applied it",
        Some(Written { applied: None, .. }) => ", and did not apply it, since the rice has errors",
    };
    let applied = if matches!(context.copy, RiceCopy::SourceOfApplied(_)) { applied } else { "" };
    let home = &context.home;
    let mut lines = vec![format!("{verb} {}{applied}", in_words(&names))];
    let mut next = Vec::new();
    match &context.copy {
        RiceCopy::Orphan(source) => {
            lines.push(format!("that is the applied rice alone: {}, where it came from, is gone", home.short(source)));
        }
        RiceCopy::Diverged { source, file } => {
            next.push((context.line("apply --dry-run", source), "says where the two differ"));
            let (source, file) = (home.short(source), home.short(file));
            lines.push(format!("that is the applied rice alone: {file} was changed by hand since it came from {source}"));
        }
        RiceCopy::Source if written.is_some() => next.push((context.line("apply", &folder), "puts it into the home")),
        RiceCopy::Source | RiceCopy::SourceOfApplied(_) | RiceCopy::Own => {}
    }
    if let Some(Written { applied: Some(plan), .. }) = written {
        let edited: Vec<_> = planned.files.keys().map(|name| home.rice().join(name)).collect();
        let others: Vec<_> = plan.writes().into_iter().filter(|file| !edited.contains(&file.path)).collect();
        match others.as_slice() {
            [] => {}
            [one] => lines.push(format!("with it, {} is another one now", home.short(&one.path))),
            more => lines.push(format!("with it, {} more files of the home are other ones now", more.len())),
        }
        if plan.keeps() {
            next.push((context.line("apply --dry-run", &folder), "says which files of the home stay as they are"));
        }
    }
    if matches!((&context.copy, written), (RiceCopy::SourceOfApplied(_), Some(Written { applied: None, .. }))) {
        next.push((context.line("check", &folder), "names the errors"));
    }
    if written.is_some_and(|written| written.entry.is_some()) {
        next.push(("jovrik undo".to_owned(), "takes it back"));
    }
    for line in lines.iter().flat_map(|line| wrap(line, context.width.saturating_sub(2))) {
        writeln!(context.out, "  {line}")?;
    }
    Ok(advise(&mut context.out, "  ", &next)?)
}

/// Writes a planned edit, unless it is a trial without a writer, and says what changed.
pub fn finish(
    planned: &EditPlan,
    writer: Option<TransactionManager>,
    kind: &str,
    context: &mut Context,
) -> Result<Exit, CommandError> {
    let folder = context.folder()?;
    let same = planned.writes(&folder)?.iter().all(|file| file.old == file.new);
    let applies = matches!(context.copy, RiceCopy::SourceOfApplied(_));
    if same && !(applies && writer.is_some()) {
        writeln!(context.out, "nothing to change: it is so already")?;
        return Ok(Exit::Done);
    }
    let written = match writer {
        Some(mut writer) => Some(write(planned, &mut writer, kind, &planned.what(), context)?),
        None => None,
    };
    if same {
        // It may be so where the applied rice came from, and not be applied yet.
        match written.and_then(|written| written.entry) {
            Some(_) => {
                writeln!(context.out, "it is so already in {}, and is applied now", context.near(&folder))?;
                advice(&mut context.out, "  ", "jovrik undo", "takes that back")?;
            }
            None => writeln!(context.out, "nothing to change: it is so already")?,
        }
        return Ok(Exit::Done);
    }
    for change in planned.told() {
        writeln!(context.out, "{change}")?;
    }
    for path in planned.idle() {
        writeln!(context.out, "{path} is checked and kept, and nothing acts on it yet")?;
    }
    for overlay in planned.after.overlays.iter().filter(|overlay| !overlay.verdict.holds) {
        let name = planned.after.sources.get(overlay.file).map_or("", |source| source.name.as_str());
        if planned.files.contains_key(name) {
            writeln!(context.out, "nothing changes here: {name} is not asked, since {}", overlay.verdict.why)?;
        }
    }
    tell_copy(planned, written.as_ref(), context)?;
    Ok(Exit::Done)
}
