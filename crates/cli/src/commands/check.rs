//! `jovrik check`

use std::rc::Rc;

use jovrik_core::check::CheckedRice;
use jovrik_home::{EditPlan, RiceCopy, TransactionManager};
use jovrik_text::problem::{Problem, Severity, count};
use serde_json::json;

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, problem, wrap};

/// Say every problem of the rice in one pass
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// Make the corrections that are certain, keeping comments and order
    #[arg(long)]
    pub fix: bool,
    /// With --fix: say what would be written, and write nothing
    #[arg(long, requires = "fix")]
    pub dry_run: bool,
    /// Warnings count as errors
    #[arg(long)]
    pub strict: bool,
    /// Say what rice.toml accepts, too
    #[arg(long)]
    pub accepted: bool,
    /// One JSON object instead of a report
    #[arg(long)]
    pub json: bool,
}

/// How many problems are shown: nobody reads more of them in one go.
const MAX_SHOWN_PROBLEMS: usize = 200;

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let writer = if arguments.fix { context.editor(arguments.dry_run)? } else { None };
    let mut checked = Rc::new(context.checked()?);
    if arguments.fix {
        checked = fix(checked, writer, context)?;
    }
    let bad = checked.errors() > 0 || (arguments.strict && checked.warnings() > 0);
    let exit = if bad { Exit::Invalid } else { Exit::Done };
    let out = &mut context.out;
    if arguments.json {
        let value = json!({
            "problems": checked.problems.iter().map(|one| problem::json(one, &checked.sources)).collect::<Vec<_>>(),
            "errors": checked.errors(),
            "warnings": checked.warnings(),
            "accepted": checked.accepted.iter().map(|one| problem::json(one, &checked.sources)).collect::<Vec<_>>(),
            "read": checked.counts,
        });
        writeln!(out, "{value}")?;
        return Ok(exit);
    }
    list(&checked, context)?;
    if arguments.accepted {
        accepted(&checked, context)?;
    }
    let out = &mut context.out;
    for line in wrap(&summary(&checked), context.width) {
        writeln!(out, "{line}")?;
    }
    // The process ends here, and its memory with it.
    std::mem::forget(checked);
    Ok(exit)
}

/// The problems of a rice, as many as anybody reads in one go.
pub fn list(checked: &CheckedRice, context: &mut Context) -> Result<(), CommandError> {
    let out = &mut context.out;
    for one in checked.problems.iter().take(MAX_SHOWN_PROBLEMS) {
        problem::write(out, one, &checked.sources, context.width)?;
        writeln!(out)?;
    }
    if let more @ 1.. = checked.problems.len().saturating_sub(MAX_SHOWN_PROBLEMS) {
        advice(out, &format!("and {more} more problems\n  "), "jovrik check --json", "lists them all")?;
        writeln!(out)?;
    }
    Ok(())
}

/// What the manifest accepts, a line each: the code, its sentence, its place.
fn accepted(checked: &CheckedRice, context: &mut Context) -> Result<(), CommandError> {
    let out = &mut context.out;
    if checked.accepted.is_empty() {
        return Ok(writeln!(out, "rice.toml accepts nothing that is here\n")?);
    }
    writeln!(out, "accepted by allow in rice.toml")?;
    for one in &checked.accepted {
        let place = one.place(&checked.sources);
        let place = place.map(|(file, line)| line.map_or(file.to_owned(), |line| format!("{file}:{line}")));
        let place = Meaning::Place.paint(&place.unwrap_or_default());
        writeln!(out, "  {}  {place}", one.code)?;
        for line in wrap(&one.title, context.width.saturating_sub(4)) {
            writeln!(out, "    {line}")?;
        }
    }
    Ok(writeln!(out)?)
}

/// The last line of a check.
pub fn summary(checked: &CheckedRice) -> String {
    let fixes = checked.problems.iter().filter(|problem| problem.fix.is_some()).count();
    let mut found = Vec::new();
    if checked.errors() > 0 {
        found.push(count(checked.errors(), "error"));
    }
    if checked.warnings() > 0 {
        found.push(count(checked.warnings(), "warning"));
    }
    let mut text = if found.is_empty() { Meaning::Done.paint("No problems") } else { found.join(", ") };
    if fixes > 0 {
        text.push_str(&format!("; --fix mends {fixes}"));
    }
    if !checked.accepted.is_empty() {
        text.push_str(&format!("; {} accepted by rice.toml", count(checked.accepted.len(), "warning")));
    }
    let counts = checked.counts;
    format!(
        "{text}.  Read {}: {}, {}, {} and {}.",
        count(counts.files, "file"),
        count(counts.settings, "setting"),
        count(counts.bindings, "binding"),
        count(counts.rules, "rule"),
        count(counts.modules, "module")
    )
}

/// How often what was mended is looked at again: a correction may bring another one to light.
const MAX_FIX_ROUNDS: usize = 8;

fn fix(
    checked: Rc<CheckedRice>,
    writer: Option<TransactionManager>,
    context: &mut Context,
) -> Result<Rc<CheckedRice>, CommandError> {
    let around = context.around()?;
    let mut mended: Option<EditPlan> = None;
    let mut told = Vec::new();
    let mut not_made: Vec<(&'static str, String)> = Vec::new();
    for _ in 0..MAX_FIX_ROUNDS {
        let now = mended.as_ref().map_or(&*checked, |planned| &planned.after);
        let wanted: Vec<Problem> = now
            .problems
            .iter()
            .filter(|problem| problem.fix.is_some() && !not_made.contains(&(problem.code, problem.title.clone())))
            .cloned()
            .collect();
        if wanted.is_empty() {
            break;
        }
        let all = jovrik_home::edit::fixes(checked.clone(), mended.as_ref(), &wanted, &around);
        let (made, planned) = match all {
            Ok(made) => made,
            // One of them cannot be made: each by itself, so that it does not stop the others.
            Err(_) => {
                let mut found = None;
                for one in &wanted {
                    match jovrik_home::edit::fixes(checked.clone(), mended.as_ref(), std::slice::from_ref(one), &around) {
                        Ok(made) => {
                            found = Some(made);
                            break;
                        }
                        Err(_) => not_made.push((one.code, one.title.clone())),
                    }
                }
                let Some(made) = found else { break };
                made
            }
        };
        let now = mended.as_ref().map_or(&*checked, |planned| &planned.after);
        for problem in &made {
            let place = problem.marks.first().map(|mark| now.sources.place(mark.span)).unwrap_or_default();
            let writes = problem.fix.as_ref().map(|fix| fix.writes.clone()).unwrap_or_default();
            told.push(format!("  {place}  {writes}"));
        }
        mended = Some(planned);
    }
    let Some(planned) = mended else { return Ok(checked) };
    let dry_run = writer.is_none();
    let many = count(told.len(), "correction");
    let written = match writer {
        Some(mut writer) => Some(super::set::write(&planned, &mut writer, "fix", &format!("{many} by check --fix"), context)?),
        None => None,
    };
    writeln!(context.out, "{} {many}", if dry_run { "would write" } else { "wrote" })?;
    writeln!(context.out, "{}", told.join("\n"))?;
    // The places are told already: which copy they are in is news where there are several.
    if context.copy != RiceCopy::Own {
        super::set::tell_copy(&planned, written.as_ref(), context)?;
    }
    writeln!(context.out)?;
    if dry_run { Ok(checked) } else { Ok(Rc::new(planned.after)) }
}

/// The problems that are errors, for commands that show only those.
pub fn errors(checked: &CheckedRice) -> impl Iterator<Item = &jovrik_text::problem::Problem> {
    checked.problems.iter().filter(|problem| problem.severity == Severity::Error)
}
