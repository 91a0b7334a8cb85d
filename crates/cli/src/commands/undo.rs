//! `jovrik undo`

use jovrik_core::problem::count;
use jovrik_home::apply::TakenBack;

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, advice};

/// Take back the last apply or edit, byte for byte; again takes back one more
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {}

pub fn run(_: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let back = jovrik_home::apply::undo(&context.home)?;
    tell(&back, "took back", "jovrik redo", "does it again", context)
}

/// Says what an undo or redo did.
pub fn tell(done: &TakenBack, verb: &str, next: &str, gloss: &str, context: &mut Context) -> Result<Exit, Failure> {
    let names: Vec<String> = done.files.iter().map(|path| context.near(path)).collect();
    let out = &mut context.out;
    writeln!(out, "{verb} entry {}: {}", done.id, Meaning::Heading.paint(&done.what))?;
    match names.as_slice() {
        few if few.len() <= 4 => writeln!(out, "  {}", Meaning::Place.paint(&jovrik_core::problem::in_words(few)))?,
        many => writeln!(out, "  {}", count(many.len(), "file"))?,
    }
    advice(out, "  ", next, gloss)?;
    Ok(Exit::Done)
}
