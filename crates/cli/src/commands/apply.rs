//! `jovrik apply`

use std::path::PathBuf;

use jovrik_core::change::{changes, in_short};
use jovrik_core::check::Nowhere;
use jovrik_core::problem::count;
use jovrik_home::apply::{Fate, plan, run as carry_out};
use jovrik_home::check_folder;

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, advice, columns};

/// Put the rice and the files it places into the home folder
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
    /// What to remember of it in the history
    #[arg(long)]
    pub note: Option<String>,
    /// Replace this file though it was changed by hand; may be given more than once
    #[arg(long, value_name = "FILE")]
    pub take: Vec<String>,
}

/// Lines that differ: those of the longer side that the other has not, in order.
fn lines(old: &[u8], new: &[u8]) -> String {
    let (Ok(old), Ok(new)) = (std::str::from_utf8(old), std::str::from_utf8(new)) else { return count(new.len(), "byte") };
    let mut left: std::collections::HashMap<&str, usize> = std::collections::HashMap::new();
    old.lines().for_each(|line| *left.entry(line).or_default() += 1);
    let added = new.lines().filter(|line| left.get_mut(line).filter(|n| **n > 0).map(|n| *n -= 1).is_none()).count();
    let gone: usize = left.values().sum();
    count(added.max(gone), "line")
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let folder = context.folder()?;
    let checked = context.usable()?;
    let take: Vec<PathBuf> =
        arguments.take.iter().map(|path| context.home.long(path).unwrap_or_else(|| context.here.join(path))).collect();
    let plan = plan(&folder, &checked, &context.home, &take)?;
    let target = context.home.rice();
    let before = if target.join("rice.toml").exists() { Some(check_folder(&target, &[], &Nowhere)) } else { None };
    let what = match &before {
        Some(before) => match in_short(&changes(&before.tree, &checked.tree)).as_str() {
            "nothing" => format!("{} {}", checked.manifest.rice.name, checked.manifest.rice.version),
            words => words.to_owned(),
        },
        None => format!("{} {}", checked.manifest.rice.name, checked.manifest.rice.version),
    };
    let entry =
        if arguments.dry_run { None } else { carry_out(&plan, &context.home, "apply", &what, arguments.note.as_deref())? };

    let home = context.home.clone();
    let out = &mut context.out;
    writeln!(
        out,
        "{} → home of this user\n",
        Meaning::Heading.paint(&format!("{} {}", checked.manifest.rice.name, checked.manifest.rice.version))
    )?;
    let mut rows = Vec::new();
    for (fate, word, meaning) in [
        (Fate::New, "new", Meaning::Done),
        (Fate::Changed, "changed", Meaning::Warning),
        (Fate::Removed, "removed", Meaning::Warning),
        (Fate::Kept, "kept", Meaning::Error),
    ] {
        for file in plan.of(fate) {
            let path = home.short(&file.path);
            let said = match (fate, &file.old, &file.new) {
                (Fate::Kept, ..) => format!("changed by hand since the last apply; --take {path} to replace it"),
                (Fate::Changed, Some(old), Some(new)) => lines(old, new),
                (Fate::Removed, ..) => "the rice no longer has it".to_owned(),
                _ => String::new(),
            };
            rows.push(vec![meaning.paint(word), Meaning::Place.paint(&path), said]);
        }
    }
    let same = plan.of(Fate::Same).count();
    if same > 0 {
        rows.push(vec!["same".to_owned(), count(same, "file")]);
    }
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    match entry {
        Some(id) => {
            writeln!(out, "\n  entry {id}")?;
            advice(out, "  ", "jovrik undo", "takes it back")?;
        }
        None if arguments.dry_run => writeln!(out, "\n  nothing was written")?,
        None => writeln!(out, "\n  nothing to do: all of it is there already")?,
    }
    Ok(if plan.of(Fate::Kept).next().is_some() { Exit::Unfit } else { Exit::Done })
}
