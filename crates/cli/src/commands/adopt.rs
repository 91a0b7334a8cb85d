//! `jovrik adopt`

use std::path::PathBuf;

use jovrik_core::check::{Reaching, Surroundings, seen, summed};
use jovrik_core::problem::{count, in_words, nearest};
use jovrik_core::rice::catalogue::Reach;
use jovrik_home::{About, History, Writer, resolved};

use super::check::{errors, list, summary};
use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, advise, wrap, wrap_exactly};

/// Stands for all settings.
const ALL: &str = "*";

/// Look at somebody else's rice, and take it; nothing of it is run
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// A bundle or a folder
    pub source: PathBuf,
    /// Write it into this new folder
    #[arg(long, value_name = "DIR")]
    pub to: Option<PathBuf>,
    /// Accept the commands, variables and placed files that it holds, as they were shown: those of these settings, or all.
    /// What was accepted is not asked for again as long as it stays as it is
    #[arg(long, value_name = "PATH,…", num_args = 0..=1, require_equals = true, value_delimiter = ',', default_missing_value = ALL)]
    pub allow_run: Option<Vec<String>>,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

/// What of a rice is accepted that reaches out of it, and whether that is new: all, that of the settings which are asked for,
/// and what was accepted before.
fn accepted<'a>(
    reaching: &'a [Reaching],
    asked: Option<&[String]>,
    context: &Context,
) -> Result<Vec<(&'a Reaching, bool)>, Failure> {
    let asked: Option<Vec<&str>> = asked.map(|paths| paths.iter().map(|path| path.trim()).collect());
    // An empty name comes of a shell's empty variable, and accepts nothing.
    if asked.as_ref().is_some_and(|paths| paths.contains(&"")) {
        return Err(Failure::Usage("--allow-run= names no setting; without = it accepts all".to_owned()));
    }
    let all = asked.as_deref() == Some(&[ALL]);
    for path in asked.iter().flatten().filter(|_| !all) {
        if !reaching.iter().any(|one| one.path == *path) {
            let near = nearest(path, reaching.iter().map(|one| one.path.as_str()));
            let near = near.map(|near| format!("; did you mean {near}?")).unwrap_or_default();
            return Err(Failure::Usage(format!("nothing of it that reaches out is called {path}{near}")));
        }
    }
    let history = History::open_existing(&context.home.history())?;
    let mut accepted = Vec::new();
    for one in reaching {
        let before = history.as_ref().map_or(Ok(false), |history| history.accepted(one))?;
        if before || all || asked.as_ref().is_some_and(|paths| paths.contains(&one.path.as_str())) {
            accepted.push((one, !before));
        }
    }
    Ok(accepted)
}

/// Whether a source is an address of the network: of a page, of a repository, or `host:path`.
fn is_address(source: &str) -> bool {
    let scheme = ["https://", "http://", "git://", "ssh://", "git+"].iter().any(|scheme| source.starts_with(scheme));
    scheme
        || (source.ends_with(".git") && source.contains(':'))
        || source.split_once(':').is_some_and(|(host, _)| host.contains('@'))
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let around = context.this_computer();
    let source = arguments.source.to_string_lossy();
    if !context.here.join(&arguments.source).exists() && is_address(&source) {
        let folder = source.trim_end_matches('/').trim_end_matches(".git").rsplit(['/', ':']).next().unwrap_or("rice");
        let fetch = if source.contains(".rice") { "fetch it first" } else { "clone it first, and look at the folder" };
        let told = format!("{} is an address: {fetch}\n  git clone {source} && jovrik adopt {folder}", seen(&source));
        return Err(Failure::Usage(if source.contains(".rice") {
            format!("{} is an address: {fetch}", seen(&source))
        } else {
            told
        }));
    }
    let adopted = jovrik_home::adopt::read(&context.here.join(&arguments.source), &around)?;
    let accepted = accepted(&adopted.reaching, arguments.allow_run.as_deref(), context)?;
    let is_accepted = |one: &Reaching| accepted.iter().any(|(other, _)| std::ptr::eq(*other, one));
    let about = &adopted.checked.manifest.rice;
    let width = context.width;
    let out = &mut context.out;
    let heading = Meaning::Heading.paint(&format!("{} {}", seen(&about.name), seen(&about.version)));
    writeln!(out, "{}", format!("{heading}  {}", seen(&about.summary)).trim_end())?;
    writeln!(
        out,
        "  {}, licence {}, not signed\n",
        count(adopted.files.len(), "file"),
        if about.license.is_empty() { "not said".to_owned() } else { seen(&about.license).into_owned() }
    )?;
    let missing: Vec<&str> = adopted
        .checked
        .manifest
        .needs
        .programs
        .iter()
        .map(String::as_str)
        .filter(|program| around.has_program(program) == Some(false))
        .collect();
    if !missing.is_empty() {
        crate::report::sentence(out, &format!("  needs {}: not on this computer", in_words(&missing)), width)?;
        writeln!(out)?;
    }
    match adopted.reaching.as_slice() {
        [] => crate::report::sentence(out, "  reaches out nowhere: it starts, sets and writes nothing outside itself", width)?,
        all => {
            let text = format!("  holds {}; nothing of it was run or written", summed(all));
            crate::report::sentence(out, &text, width)?;
        }
    }
    for (reach, heading) in [
        (Reach::Starts, "would start, or read"),
        (Reach::Environment, "would set in the environment, by which programs run and load other code"),
        (Reach::Writes, "would write, when it is applied"),
    ] {
        let of: Vec<_> = adopted.reaching.iter().filter(|one| one.reach == reach).collect();
        if of.is_empty() {
            continue;
        }
        writeln!(out, "\n  {}", Meaning::Heading.paint(heading))?;
        let mut before = "";
        for one in of {
            // What would be run is shown whole: a value that is long takes more lines, and loses nothing.
            if before != one.path {
                let place = Meaning::Place.paint(&seen(&adopted.checked.sources.place(one.span)));
                let known = if is_accepted(one) { "  accepted" } else { "" };
                let through = one.through.as_ref().map(|how| format!("  by {how}")).unwrap_or_default();
                writeln!(out, "    {}  {place}{known}", seen(&one.path))?;
                for line in wrap_exactly(through.trim_start(), width.saturating_sub(6)).iter().filter(|line| !line.is_empty()) {
                    writeln!(out, "      {line}")?;
                }
                before = &one.path;
            }
            for line in wrap_exactly(&one.what, context.width.saturating_sub(8)) {
                writeln!(out, "      {}", Meaning::Type.paint(&line))?;
            }
        }
    }
    writeln!(out)?;
    // Errors are told by the failure that they are.
    let unfit = errors(&adopted.checked).next().is_some();
    if !unfit {
        list(&adopted.checked, context)?;
    }
    let out = &mut context.out;
    for line in wrap(&summary(&adopted.checked), context.width.saturating_sub(2)) {
        writeln!(out, "  {line}")?;
    }
    let source = arguments.source.display();
    if unfit {
        out.flush()?;
        return Err(Failure::Unfit(Box::new(adopted.checked)));
    }
    let news: Vec<&Reaching> = accepted.iter().filter(|(_, new)| *new).map(|(one, _)| *one).collect();
    if !news.is_empty() && !arguments.dry_run {
        Writer::open(&context.home)?.accept(&news)?;
        writeln!(out, "  accepted {}; asked again only when it changes\n", count(news.len(), "value"))?;
    }
    let mut left: Vec<&str> = adopted.reaching.iter().filter(|one| !is_accepted(one)).map(|one| one.path.as_str()).collect();
    left.dedup();
    let Some(to) = arguments.to else {
        let allow = if left.is_empty() { "" } else { " --allow-run" };
        let mut next = vec![(format!("jovrik adopt {source} --to DIR{allow}"), "takes it into a new folder")];
        if let [first, _, ..] = left.as_slice() {
            next.push((format!("jovrik adopt {source} --allow-run={}", seen(first)), "accepts what one setting holds"));
        }
        advise(out, "  ", &next)?;
        return Ok(Exit::Done);
    };
    if !left.is_empty() {
        out.flush()?;
        let all = left.len() == adopted.reaching.len();
        let what =
            if all { "it reaches out of itself".to_owned() } else { format!("{} is not accepted", seen(&in_words(&left))) };
        return Err(Failure::NotTaken(format!("{what}, so nothing was written; --allow-run accepts what is shown above")));
    }
    let folder = context.here.join(&to);
    let files = jovrik_home::adopt::writes(&adopted, &folder)?;
    let (many, place) = (count(files.len(), "file"), Meaning::Place.paint(&to.display().to_string()));
    if arguments.dry_run {
        writeln!(out, "\nwould write {many} into {place}")?;
        return Ok(Exit::Done);
    }
    let what = format!("{} {} into {}", about.name, about.version, context.home.short(&folder));
    let rice = resolved(&folder)?;
    Writer::open(&context.home)?.write(&About { kind: "adopt", what: &what, note: None, rice: Some(&rice) }, files)?;
    writeln!(out, "\nwrote {many} into {place}")?;
    let next = [
        (format!("jovrik look --rice {}", to.display()), "draws it"),
        (format!("jovrik apply --rice {}", to.display()), "puts it into effect; undo takes it back"),
    ];
    advise(out, "  ", &next)?;
    Ok(Exit::Done)
}
