//! `jovrik bar try`

use jovrik_core::check::CheckedRice;
use jovrik_core::rice::{ModuleSource, SourceKind};
use jovrik_schema::{TimeSpan as Lasting, Tree};
use jovrik_source::{ProbeResult, SourceProbe};
use jovrik_text::Span;
use jovrik_text::problem::{in_words, nearest};
use jovrik_values::FieldValue;
use serde_json::json;

use super::state;
use crate::complete;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, pad, wrap, wrap_exactly};

/// Ask a module's source once, and show all that came of it
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The module
    #[arg(add = complete::module())]
    pub module: String,
    /// How often it is asked, one time after the other
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u16).range(1..))]
    pub times: u16,
    /// One JSON object a time instead of a report
    #[arg(long)]
    pub json: bool,
}

/// Whether an error of the rice spoils a module: one that lies in its table, or one of a file that could not be read.
fn spoils(checked: &CheckedRice, module: &str) -> bool {
    let branch = checked.tree.get(&["module", module]).and_then(Tree::branch);
    let spans: Vec<Span> = branch
        .map(|branch| branch.entries.values().filter_map(Tree::leaf).map(|leaf| leaf.node.span).collect())
        .unwrap_or_default();
    let within = |at: Span| spans.iter().any(|span| span.file == at.file && span.start <= at.start && at.start <= span.end);
    // Where the module itself is not there, what could not be read may be why.
    let unread = |code: &str| branch.is_none() && code.starts_with("file/");
    super::super::check::errors(checked)
        .any(|problem| unread(problem.code) || problem.marks.first().is_some_and(|mark| within(mark.span)))
}

/// The source in words, as it is written.
fn source(source: &ModuleSource) -> String {
    let of = if source.of.is_empty() { String::new() } else { format!(" of {}", source.of) };
    let what = match &source.kind {
        SourceKind::None => "nothing: a text that stands still".to_owned(),
        SourceKind::BuiltIn(built_in) => format!("{}{of}", built_in.word()),
        SourceKind::Run(argv) => format!("run {}", jovrik_text::shell_line(argv)),
        SourceKind::Stream(argv) => format!("stream {}", jovrik_text::shell_line(argv)),
        SourceKind::File(path) => format!("file {path}"),
    };
    match source.every.0 {
        every if every.is_zero() => what,
        every => format!("{what}, every {}", Lasting::words(every)),
    }
}

/// The beginning of what a program printed: a page of it, without control characters.
fn page(text: &str) -> Vec<String> {
    const LINES: usize = 12;
    let clean = |line: &str| line.chars().map(|c| if c.is_control() { '·' } else { c }).take(400).collect::<String>();
    let mut lines: Vec<String> = text.lines().take(LINES).map(clean).collect();
    let more = text.lines().count().saturating_sub(LINES);
    if more > 0 {
        lines.push(format!("… {} more", jovrik_text::problem::count(more, "line")));
    }
    lines
}

pub fn run(arguments: &Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let checked = context.read()?;
    if spoils(&checked, &arguments.module) {
        return Err(CommandError::Unfit(Box::new(checked)));
    }
    let modules = &checked.rice.module;
    let Some(module) = modules.get(&arguments.module) else {
        let names: Vec<&str> = modules.keys().map(String::as_str).collect();
        let hint = nearest(&arguments.module, names.iter().copied())
            .map_or_else(|| format!("there is {}", in_words(&names)), |near| format!("did you mean {near}?"));
        return Err(CommandError::Usage(format!("there is no module {}; {hint}", arguments.module)));
    };
    crate::commands::guard::watch_over()?;
    let mut trial = SourceProbe::new(module.clone());
    let mut exit = Exit::Done;
    for nth in 0..arguments.times {
        let said = trial.ask();
        let text = module.case(&said.values).0.fill(&said.values);
        let grade = said.values.grade(&module.grades);
        exit = if said.trouble.is_some() { Exit::Invalid } else { Exit::Done };
        let out = &mut context.out;
        if arguments.json {
            let fields: serde_json::Map<String, serde_json::Value> = said
                .values
                .0
                .iter()
                .map(|(name, field)| {
                    let value = match field {
                        FieldValue::Number(number) => json!(number),
                        other => json!(other.plain()),
                    };
                    (name.clone(), value)
                })
                .collect();
            let value = json!({
                "module": arguments.module, "raw": said.raw, "fields": fields, "text": text, "empty": text.is_none(),
                "state": state(grade), "milliseconds": (said.took.as_secs_f64() * 1e4).round() / 10.0,
                "exit-code": said.code, "stderr": said.complaint, "trouble": said.trouble,
            });
            writeln!(out, "{value}")?;
            out.flush()?;
            continue;
        }
        if nth == 0 {
            writeln!(out, "{}  {}", Meaning::Heading.paint(&arguments.module), Meaning::Second.paint(&source(&module.source)))?;
        }
        if arguments.times > 1 {
            writeln!(out, "\n{}", Meaning::Second.paint(&format!("{} of {}", nth + 1, arguments.times)))?;
        }
        report(&said, text, module, state(grade), context)?;
        context.out.flush()?;
    }
    Ok(exit)
}

fn report(
    said: &ProbeResult,
    text: Option<String>,
    module: &jovrik_core::rice::Module,
    state: &str,
    context: &mut Context,
) -> Result<(), CommandError> {
    let width = context.width;
    let out = &mut context.out;
    let mut row = |name: &str, lines: &[String]| -> std::io::Result<()> {
        for (at, line) in lines.iter().enumerate() {
            let head = if at == 0 { name } else { "" };
            writeln!(out, "  {}  {line}", Meaning::Second.paint(&pad(head, 7)))?;
        }
        Ok(())
    };
    if let Some(raw) = &said.raw {
        let lines: Vec<String> = page(raw).iter().flat_map(|line| wrap(line, width.saturating_sub(11))).collect();
        row("raw", if lines.is_empty() { vec!["nothing".to_owned()] } else { lines }.as_slice())?;
    }
    let longest = said.values.0.keys().map(|name| name.chars().count()).max().unwrap_or(0);
    let fields: Vec<String> = said
        .values
        .0
        .iter()
        .map(|(name, field)| {
            let value = match field {
                FieldValue::Number(number) => number.to_string(),
                other => other.plain(),
            };
            let value = wrap_exactly(&value, width.saturating_sub(13 + longest));
            value
                .join(&format!("\n{}", " ".repeat(13 + longest)))
                .lines()
                .enumerate()
                .map(|(at, line)| if at == 0 { format!("{}  {line}", pad(name, longest)) } else { line.to_owned() })
                .collect::<Vec<_>>()
                .join("\n")
        })
        .collect();
    row("fields", if fields.is_empty() { vec!["none".to_owned()] } else { fields }.as_slice())?;
    let shown = match (&text, module.empty.as_str()) {
        (Some(text), _) => text.clone(),
        (None, "") => "no value; the module is left out".to_owned(),
        (None, empty) => format!("{empty}   (what it shows without a value)"),
    };
    row("text", &[shown])?;
    row("state", &[state.to_owned()])?;
    if let Some(trouble) = &said.trouble {
        row("trouble", &wrap(&Meaning::Error.paint(trouble), width.saturating_sub(11)))?;
    }
    if !said.complaint.is_empty() {
        row("stderr", &page(&said.complaint))?;
    }
    let code = said.code.map_or(String::new(), |code| format!(", exit code {code}"));
    row("took", &[format!("{:.1} ms{code}", said.took.as_secs_f64() * 1000.0)])?;
    Ok(())
}
