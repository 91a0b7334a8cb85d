//! `jovrik apply`

use jovrik_core::change::{changes, in_short};
use jovrik_core::check::{OverlayHost, of_system};
use jovrik_home::apply::{ApplyConsent, ApplyPlan, FileDisposition, carry_out, plan};
use jovrik_home::{EntryDraft, FileSnapshot, FileTexts, History, UserDirs, check_folder, differing_lines, resolved};
use jovrik_text::problem::{count, in_words};

use crate::context::Context;
use crate::exit::{CommandError, Exit};
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
    /// Replace this file, or those in this folder, though a person wrote it; undo brings it back. May be given more than once
    #[arg(long, value_name = "PATH", add = crate::complete::placed())]
    pub take: Vec<String>,
    /// Replace all files that would be kept
    #[arg(long)]
    pub take_all: bool,
    /// Write this file of [place] though it lies outside the home folder; may be given more than once
    #[arg(long, value_name = "PATH")]
    pub outside: Vec<String>,
}

/// How much of a file differs.
fn differs(old: &FileSnapshot, new: &FileSnapshot) -> String {
    match (std::str::from_utf8(&old.bytes), std::str::from_utf8(&new.bytes)) {
        (Ok(old), Ok(new)) => count(differing_lines(old, new), "line"),
        _ => count(new.bytes.len(), "byte"),
    }
}

/// The files that are written, in a few words.
fn written(plan: &ApplyPlan, home: &UserDirs) -> String {
    let files: Vec<String> = plan.writes().iter().map(|file| home.short(&file.path)).collect();
    if files.len() <= 2 { in_words(&files) } else { count(files.len(), "file") }
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let mut writer = context.writer(arguments.dry_run)?;
    let folder = context.folder()?;
    let checked = context.usable()?;
    let typed = |path: &String| context.home.long(path).unwrap_or_else(|| context.here.join(path));
    let leave = ApplyConsent {
        take: arguments.take.iter().map(typed).collect(),
        take_all: arguments.take_all,
        outside: arguments.outside.iter().map(typed).collect(),
    };
    let reading = if writer.is_none() { History::open_existing(&context.home.history())? } else { None };
    let history = writer.as_ref().and_then(jovrik_home::TransactionManager::history).or(reading.as_ref());
    let plan = plan(&folder, &FileTexts::new(), &checked, &context.home, history, &leave)?;
    let target = context.home.rice();
    let before = if target.join("rice.toml").exists() {
        Some(check_folder(&target, &[], &OverlayHost { around: &context.around()?, elsewhere: false }))
    } else {
        None
    };
    let what = match &before {
        Some(before) => match in_short(&changes(&before.tree, &checked.tree)).as_str() {
            "nothing" => written(&plan, &context.home),
            words => words.to_owned(),
        },
        None => format!("{} {}", checked.manifest.rice.name, checked.manifest.rice.version),
    };
    let rice = resolved(&folder)?;
    let source = match history {
        Some(history) if rice == resolved(&target)? => {
            history.applied_from(&rice)?.filter(|source| source.join("rice.toml").exists())
        }
        _ => None,
    };
    let about = EntryDraft { kind: "apply", what: &what, note: arguments.note.as_deref(), rice: Some(&rice) };
    let entry = match &mut writer {
        Some(writer) => carry_out(&plan, writer, &about)?,
        None => None,
    };

    let home = context.home.clone();
    let out = &mut context.out;
    writeln!(
        out,
        "{} → home of this user",
        Meaning::Heading.paint(&format!("{} {}", checked.manifest.rice.name, checked.manifest.rice.version))
    )?;
    let mut rows = Vec::new();
    for (fate, word, meaning) in [
        (FileDisposition::New, "new", Meaning::Done),
        (FileDisposition::Changed, "changed", Meaning::Warning),
        (FileDisposition::Removed, "removed", Meaning::Warning),
        (FileDisposition::Restored, "restored", Meaning::Warning),
        (FileDisposition::ByHand, "kept", Meaning::Error),
        (FileDisposition::Theirs, "kept", Meaning::Error),
    ] {
        for file in plan.of(fate) {
            let path = home.short(&file.path);
            let said = match (fate, &file.old, &file.new) {
                (FileDisposition::Removed, ..) if file.block => "its block is taken out, and nothing else stood there".to_owned(),
                (FileDisposition::New, ..) if file.block => "a block that greets".to_owned(),
                (FileDisposition::Changed, ..) if file.block => "a block that greets; the rest is as it was".to_owned(),
                (FileDisposition::ByHand, _, Some(_)) => {
                    format!("changed by hand since the last apply; --take {path} to replace it")
                }
                (FileDisposition::ByHand, ..) => {
                    format!("changed by hand, and the rice no longer has it; --take {path} to remove it")
                }
                (FileDisposition::Theirs, Some(old), Some(new)) => {
                    format!("was there before, and {} differ; --take {path} to replace it", differs(old, new))
                }
                (FileDisposition::Changed, Some(old), Some(new)) => differs(old, new),
                (FileDisposition::Restored, ..) => "the rice no longer has it: what stood there before is back".to_owned(),
                (FileDisposition::Removed, ..) => "the rice no longer has it".to_owned(),
                _ => String::new(),
            };
            rows.push(vec![meaning.paint(word), Meaning::Place.paint(&path), said]);
        }
    }
    for path in &plan.outside {
        let path = path.display().to_string();
        let said = match of_system(&path) {
            true => "the system's, and left alone".to_owned(),
            false => format!("outside the home folder; --outside {path} writes it this time"),
        };
        rows.push(vec![Meaning::Error.paint("left"), Meaning::Place.paint(&path), said]);
    }
    let same = plan.of(FileDisposition::Same).count();
    if same > 0 {
        rows.push(vec!["same".to_owned(), count(same, "file")]);
    }
    let gap = if rows.is_empty() { "" } else { "\n" };
    write!(out, "{gap}")?;
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    for path in &plan.not_kept {
        writeln!(out, "\n  {} was not kept, so there was nothing to take", Meaning::Place.paint(&home.short(path)))?;
    }
    match entry {
        Some(id) => {
            writeln!(out, "\n  entry {id}")?;
            advice(out, "  ", "jovrik undo", "takes it back")?;
        }
        None if arguments.dry_run => writeln!(out, "\n  nothing was written")?,
        None if plan.keeps() => writeln!(out, "\n  nothing was written")?,
        None => {
            writeln!(out, "\n  nothing to do: all of it is there already")?;
            if let Some(source) = source {
                let source = home.short(&source);
                writeln!(out, "  this is the applied rice itself, which came from {source}")?;
                advice(out, "  ", &format!("jovrik apply --rice {source}"), "applies what changed there")?;
            }
        }
    }
    let idle = !plan.not_kept.is_empty() && entry.is_none();
    Ok(if plan.keeps() || idle { Exit::Invalid } else { Exit::Done })
}
