//! `jovrik palette map`

use std::rc::Rc;

use jovrik_core::colour::{Literal, literals, nearest_role};
use jovrik_text::problem::{Edit, count};

use super::swatch;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advise, columns};

/// Replace colours that are written out by the nearest roles
///
/// Shows what would be written; --write writes it. A colour that is far from every role is left alone, unless --all is
/// given.
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Write it
    #[arg(long)]
    write: bool,
    /// Also those that are far from every role
    #[arg(long)]
    all: bool,
}

/// Farther than this, a role is another colour.
const NEAR: f32 = 0.06;

fn role(literal: &Literal, role: &str) -> String {
    match literal.colour.a {
        255 => format!("@{role}"),
        part => format!("@{role}/{:.0}%", f32::from(part) * 100.0 / 255.0),
    }
}

pub fn run(arguments: &Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let writer = context.editor(!arguments.write)?;
    let (folder, around) = (context.folder()?, context.around()?);
    let before = Rc::new(jovrik_home::check_folder(&folder, &[], &around));
    let palette = before.rice.palette.current.clone();
    let found = literals(&before.tree);
    let mut rows = Vec::new();
    let mut edits: Vec<Edit> = Vec::new();
    let mut left = 0;
    for literal in &found {
        let Some((name, apart)) = nearest_role(&palette, literal.colour) else { continue };
        let near = apart <= NEAR || arguments.all;
        let to = role(literal, name);
        let how = match apart {
            apart if apart < 0.005 => "the same".to_owned(),
            apart if near => format!("{:.2} apart", apart),
            apart => format!("{:.2} apart: left alone", apart),
        };
        let shown = palette.role(name).map(|colour| swatch(colour, 2)).unwrap_or_default();
        rows.push(vec![
            literal.path.clone(),
            format!("{} {}", swatch(literal.colour, 2), literal.written),
            format!("→ {shown} {}", if near { Meaning::Type.paint(&to) } else { Meaning::Second.paint(&to) }),
            Meaning::Second.paint(&how),
            Meaning::Place.paint(&before.sources.place(literal.span)),
        ]);
        if !near {
            left += 1;
            continue;
        }
        let before_text = before.sources.slice(literal.span);
        // Several colours of one gradient are replaced in one text.
        match edits.iter_mut().find(|edit| edit.span == literal.span) {
            Some(edit) => edit.text = edit.text.replacen(&literal.written, &to, 1),
            None => edits.push(Edit { span: literal.span, text: before_text.replacen(&literal.written, &to, 1) }),
        }
    }
    if found.is_empty() {
        writeln!(context.out, "{}: no colour is written out beside the palettes", Meaning::Done.paint("Nothing to do"))?;
        return Ok(Exit::Done);
    }
    for line in columns(&rows, "  ", context.width.max(100)) {
        writeln!(context.out, "{}", line.trim_end())?;
    }
    writeln!(context.out)?;
    let replaced = rows.len() - left;
    if arguments.write && !edits.is_empty() {
        let planned = jovrik_home::edit::edits(before, edits, &around)?;
        return crate::commands::set::finish(&planned, writer, "palette map", context);
    }
    let words = format!("writes {}", count(replaced, "role"));
    let mut next = Vec::new();
    if replaced > 0 {
        next.push(("jovrik palette map --write".to_owned(), words.as_str()));
    }
    if left > 0 && !arguments.all {
        next.push(("jovrik palette map --all".to_owned(), "takes the far ones too"));
    }
    advise(&mut context.out, "  ", &next)?;
    Ok(Exit::Done)
}
