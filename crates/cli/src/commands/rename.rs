//! `jovrik rename`

use std::rc::Rc;

use clap::builder::PossibleValuesParser;
use jovrik_home::rename::{RenameKind, rename};
use jovrik_text::problem::count;

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, columns};

/// Give a workspace, module, program, palette, layout or mode another name, everywhere it is used
///
/// Headers and keys, lists, actions of bindings and presses, references and styles change in one step, in every part and
/// overlay; every other byte stays.
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// What it is
    #[arg(value_parser = PossibleValuesParser::new(RenameKind::ALL.map(|(word, _)| word)))]
    pub kind: String,
    /// What it is called
    #[arg(add = crate::complete::thing())]
    pub old: String,
    /// What it is to be called
    pub new: String,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

pub fn run(arguments: &Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let Arguments { kind, old, new, .. } = arguments;
    let Some((word, thing)) = RenameKind::ALL.into_iter().find(|(word, _)| word == kind) else {
        return Err(CommandError::Usage(format!("there is no kind of thing called {kind}")));
    };
    let writer = context.editor(arguments.dry_run)?;
    let around = context.around()?;
    let before = Rc::new(jovrik_home::check_folder(&context.folder()?, &[], &around));
    let renamed = rename(before.clone(), thing, old, new, &around)?;
    let what = format!("{word} {old} is now {new}, in {}", count(renamed.places.len(), "place"));
    let written = match writer {
        Some(mut writer) => Some(super::set::write(&renamed.planned, &mut writer, "rename", &what, context)?),
        None => None,
    };
    let out = &mut context.out;
    writeln!(out, "{}", Meaning::Heading.paint(&what))?;
    let row = |span: &jovrik_text::Span| {
        let line = before.sources.get(span.file).map(|file| file.line(file.position(span.start).line)).unwrap_or_default();
        vec![Meaning::Place.paint(&before.sources.place(*span)), line.trim().chars().take(60).collect()]
    };
    for line in columns(&renamed.places.iter().map(row).collect::<Vec<_>>(), "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    super::set::tell_copy(&renamed.planned, written.as_ref(), context)?;
    Ok(Exit::Done)
}
