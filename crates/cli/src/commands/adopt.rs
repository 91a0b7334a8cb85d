//! `jovrik adopt`

use std::path::PathBuf;

use jovrik_core::check::{CapabilityUse, HostInfo, Occasion, dangers, seen, summed};
use jovrik_home::{EntryDraft, FileChange, FileSnapshot, History, TransactionManager, resolved};
use jovrik_text::problem::{count, in_words, nearest};
use jovrik_text::shell_line;

use super::check::{errors, list, summary};
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, advise, wrap, wrap_exactly};

/// So many lines of a program are shown where something runs it.
const FIRST_LINES: usize = 6;

/// Shows how a text of the rice begins, and how to read all of it.
fn begins(name: &str, bytes: &[u8], source: &str, width: usize, out: &mut dyn std::io::Write) -> std::io::Result<()> {
    let text = String::from_utf8_lossy(bytes);
    let lines: Vec<&str> = text.lines().collect();
    writeln!(out, "      {}", Meaning::Place.paint(&seen(name)))?;
    for line in lines.iter().take(FIRST_LINES) {
        let line = seen(line);
        let short: String = line.chars().take(width.saturating_sub(12)).collect();
        let more = if short.len() < line.len() { "…" } else { "" };
        writeln!(out, "        {}", Meaning::Second.paint(&format!("{short}{more}")))?;
    }
    let marks = dangers(&text);
    if !marks.is_empty() {
        writeln!(out, "        {}", Meaning::Warning.paint(&in_words(&marks)))?;
    }
    if lines.len() > FIRST_LINES {
        let more = count(lines.len() - FIRST_LINES, "line");
        let rest = format!("        and {more} more: jovrik adopt {source} --show {}", seen(name));
        crate::report::sentence(out, &rest, width)?;
    }
    Ok(())
}

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
    /// Show one of its files, whole, and nothing else
    #[arg(long, value_name = "FILE", conflicts_with_all = ["to", "allow_run"])]
    pub show: Option<String>,
    /// Say what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

/// What of a rice is accepted that reaches out of it, and whether that is new: all, that of the settings which are asked for,
/// and what was accepted before.
fn accepted<'a>(
    reaching: &'a [CapabilityUse],
    asked: Option<&[String]>,
    context: &Context,
) -> Result<Vec<(&'a CapabilityUse, bool)>, CommandError> {
    let asked: Option<Vec<&str>> = asked.map(|paths| paths.iter().map(|path| path.trim()).collect());
    // An empty name comes of a shell's empty variable, and accepts nothing.
    if asked.as_ref().is_some_and(|paths| paths.contains(&"")) {
        return Err(CommandError::Usage("--allow-run= names no setting; without = it accepts all".to_owned()));
    }
    let all = asked.as_deref() == Some(&[ALL]);
    for path in asked.iter().flatten().filter(|_| !all) {
        if !reaching.iter().any(|one| one.path == *path) {
            let near = nearest(path, reaching.iter().map(|one| one.path.as_str()));
            let near = near.map(|near| format!("; did you mean {near}?")).unwrap_or_default();
            return Err(CommandError::Usage(format!("nothing of it that reaches out is called {path}{near}")));
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

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let around = context.this_computer();
    let source = arguments.source.to_string_lossy();
    if !context.here.join(&arguments.source).exists() && is_address(&source) {
        let folder = source.trim_end_matches('/').trim_end_matches(".git").rsplit(['/', ':']).next().unwrap_or("rice");
        let fetch = if source.contains(".rice") { "fetch it first" } else { "clone it first, and look at the folder" };
        let told = format!("{} is an address: {fetch}\n  git clone {source} && jovrik adopt {folder}", seen(&source));
        return Err(CommandError::Usage(if source.contains(".rice") {
            format!("{} is an address: {fetch}", seen(&source))
        } else {
            told
        }));
    }
    let mut adopted = jovrik_home::adopt::read(&context.here.join(&arguments.source), &around)?;
    // What is advised to whoever wrote a rice is not advised of a stranger's.
    let of_author = |code: &str| matches!(code, "program/not-executable" | "place/outside");
    adopted.checked.problems.iter_mut().filter(|problem| of_author(problem.code)).for_each(|problem| problem.advice.clear());
    if let Some(name) = &arguments.show {
        let Some(bytes) = adopted.files.get(name) else {
            let near = nearest(name, adopted.files.keys().map(String::as_str));
            let near = near.map(|near| format!("; did you mean {near}?")).unwrap_or_default();
            return Err(CommandError::Usage(format!("it has no file {}{near}", seen(name))));
        };
        for line in String::from_utf8_lossy(bytes).lines() {
            writeln!(context.out, "{}", seen(line))?;
        }
        return Ok(Exit::Done);
    }
    let accepted = accepted(&adopted.reaching, arguments.allow_run.as_deref(), context)?;
    let is_accepted = |one: &CapabilityUse| accepted.iter().any(|(other, _)| std::ptr::eq(*other, one));
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
    // Texts of the rice that a command may name: programs are shown, pictures are not.
    let text = |(_, bytes): &(&String, &Vec<u8>)| std::str::from_utf8(bytes).is_ok();
    let settings = |name: &str| name.ends_with(".toml") || name == "schema.json";
    let scripts: Vec<&String> =
        adopted.files.iter().filter(text).map(|(name, _)| name).filter(|name| !settings(name) && name.contains('/')).collect();
    let source_name = &*source;
    let mut shown: Vec<&String> = Vec::new();
    match adopted.reaching.as_slice() {
        [] => crate::report::sentence(out, "  reaches out nowhere: it starts, sets and writes nothing outside itself", width)?,
        all => {
            let text = format!("  holds {}; nothing of it was run or written", summed(all));
            crate::report::sentence(out, &text, width)?;
        }
    }
    // What happens by itself comes first.
    for occasion in Occasion::ALL {
        let of: Vec<_> = adopted.reaching.iter().filter(|one| Occasion::of(one) == occasion).collect();
        if of.is_empty() {
            continue;
        }
        writeln!(out, "\n  {}", Meaning::Heading.paint(occasion.heading()))?;
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
            let marks = dangers(&one.what);
            if !marks.is_empty() {
                writeln!(out, "      {}", Meaning::Warning.paint(&in_words(&marks)))?;
            }
            for name in scripts.iter().filter(|name| one.what.contains(name.as_str())) {
                if shown.contains(name) {
                    writeln!(out, "      {}  as above", Meaning::Place.paint(&seen(name)))?;
                    continue;
                }
                shown.push(name);
                begins(name, &adopted.files[*name], source_name, width, out)?;
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
        return Err(CommandError::Unfit(Box::new(adopted.checked)));
    }
    let news: Vec<&CapabilityUse> = accepted.iter().filter(|(_, new)| *new).map(|(one, _)| *one).collect();
    if !news.is_empty() && !arguments.dry_run {
        TransactionManager::open(&context.home)?.accept(&news)?;
        writeln!(out, "  accepted {}; asked again only when it changes\n", count(news.len(), "value"))?;
    }
    let mut left: Vec<&str> = adopted.reaching.iter().filter(|one| !is_accepted(one)).map(|one| one.path.as_str()).collect();
    left.dedup();
    let Some(to) = arguments.to else {
        let mut next = Vec::new();
        if let Some(first) = left.first() {
            let allow = shell_line(&[format!("--allow-run={}", seen(first))]);
            next.push((format!("jovrik adopt {source} {allow}"), "accepts what that setting holds, once it was read"));
        }
        next.push((
            format!("jovrik adopt {source} --to DIR"),
            if left.is_empty() { "takes it into a new folder" } else { "takes it, when all of it is accepted" },
        ));
        for (write, gloss) in &next {
            advice(out, "  ", write, gloss)?;
        }
        return Ok(Exit::Done);
    };
    if !left.is_empty() {
        out.flush()?;
        let all = left.len() == adopted.reaching.len();
        let what =
            if all { "it reaches out of itself".to_owned() } else { format!("{} is not accepted", seen(&in_words(&left))) };
        return Err(CommandError::NotTaken(format!(
            "{what}, so nothing was written; --allow-run=PATH,… accepts what those settings hold"
        )));
    }
    let folder = context.here.join(&to);
    let mut files = jovrik_home::adopt::writes(&adopted, &folder)?;
    // What its parts name for editors is made, not carried.
    if adopted.checked.sources.iter().any(|(_, source)| source.text.starts_with("#:schema ../schema.json")) {
        let schema = Some(FileSnapshot::new(super::schema::text("parts")?.into_bytes()));
        files.push(FileChange { path: resolved(&folder)?.join("schema.json"), old: None, new: schema, placed: None });
    }
    let (many, place) = (count(files.len(), "file"), Meaning::Place.paint(&to.display().to_string()));
    if arguments.dry_run {
        writeln!(out, "\nwould write {many} into {place}")?;
        return Ok(Exit::Done);
    }
    let what = format!("{} {} into {}", about.name, about.version, context.home.short(&folder));
    let rice = resolved(&folder)?;
    TransactionManager::open(&context.home)?
        .write(&EntryDraft { kind: "adopt", what: &what, note: None, rice: Some(&rice) }, files)?;
    writeln!(out, "\nwrote {many} into {place}")?;
    let next = [
        (format!("jovrik look --rice {}", to.display()), "draws it"),
        (format!("jovrik apply --rice {}", to.display()), "puts it into effect; undo takes it back"),
    ];
    advise(out, "  ", &next)?;
    Ok(Exit::Done)
}
