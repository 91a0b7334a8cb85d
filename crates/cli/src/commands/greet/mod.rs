//! `jovrik greet`

mod art;
mod facts;
mod store;

use std::io::{IsTerminal, Write};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use anstyle::{RgbColor, Style};
use jovrik_core::check::CheckedRice;
use jovrik_core::greeting::{ColouredText, lay};
use jovrik_core::rice::Rice;
use serde_json::json;
use unicode_width::UnicodeWidthStr;

use crate::complete;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::Meaning;
use art::{GreetingArt, drawn};
use facts::{FactValue, ask_modules, facts, modules, of_computer, of_module};
use store::{CachedFact, now, remember, remembered, store};

/// Print what a new shell shows: facts of the rice and of this computer, with art beside them
///
/// What is slow is shown as it was the last time, with its age, and asked again behind. `apply` has the shells of
/// greeting.shells call this when somebody begins to type in them.
#[derive(Debug, clap::Args)]
#[command(args_conflicts_with_subcommands = true)]
pub struct Arguments {
    #[command(subcommand)]
    try_one: Option<Sub>,
    /// One JSON object a fact instead of a drawing
    #[arg(long)]
    json: bool,
    /// As wide as this, in characters; else as the terminal is
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..))]
    width: Option<u16>,
    /// Ask what was too slow, and remember it for the next time
    #[arg(long, hide = true)]
    behind: bool,
    /// Whether nobody asks behind.
    #[arg(skip)]
    alone: bool,
}

impl Arguments {
    /// As wide as this, and without anybody who asks behind.
    pub fn alone(width: u16) -> Arguments {
        Arguments { try_one: None, json: false, width: Some(width), behind: false, alone: true }
    }
}

/// Between a picture and facts.
const GAP: usize = 4;

#[derive(Debug, clap::Subcommand)]
enum Sub {
    /// Ask one fact, and show all that came of it
    Try {
        /// The fact: a module, or one of those of every computer
        #[arg(add = complete::fact())]
        fact: String,
        /// JSON instead of a report
        #[arg(long)]
        json: bool,
    },
}

/// What was asked behind may take no longer than this.
const BACKGROUND_TIMEOUT: Duration = Duration::from_secs(30);

/// A piece in the colour of its role.
fn painted(rice: &Rice, piece: &ColouredText) -> String {
    match rice.palette.current.role(piece.role) {
        Some(colour) if !piece.text.trim().is_empty() => {
            let style = Style::new().fg_color(Some(RgbColor(colour.r, colour.g, colour.b).into()));
            format!("{style}{}{style:#}", piece.text)
        }
        _ => piece.text.clone(),
    }
}

/// How many columns the terminal has; a report's width where there is none.
fn room(arguments: &Arguments, context: &Context) -> usize {
    let of_terminal = || {
        let out = std::io::stdout();
        let size = out.is_terminal().then(|| rustix::termios::tcgetwinsize(&out).ok()).flatten()?;
        (size.ws_col > 0).then_some(usize::from(size.ws_col))
    };
    arguments.width.map(usize::from).or_else(of_terminal).unwrap_or(context.width)
}

/// Has another one ask what was too slow: it ends by itself, and nobody waits for it.
fn ask_behind(context: &Context) {
    let Ok(program) = std::env::current_exe() else { return };
    let Ok(folder) = context.folder() else { return };
    let mut command = Command::new(program);
    command.arg("--rice").arg(folder).args(["greet", "--behind"]);
    command.env("HOME", &context.home.home).env("XDG_CACHE_HOME", &context.home.cache);
    command.stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null());
    std::os::unix::process::CommandExt::process_group(&mut command, 0);
    if let Err(error) = command.spawn() {
        tracing::debug!(%error, "nobody asks behind");
    }
}

/// Asks everything in the time that each source has, and remembers it.
fn behind(checked: &CheckedRice, context: &Context) {
    let path = store(context);
    let _ = path.parent().map(jovrik_file::private_folder);
    // One is enough.
    let Ok(lock) = jovrik_file::append_private(&path.with_extension("lock")) else { return };
    if lock.try_lock().is_err() {
        return;
    }
    let names = modules(&checked.rice, &checked.rice.greeting.facts);
    let engine = ask_modules(&checked.rice, &names, BACKGROUND_TIMEOUT);
    let (mut kept, at) = (remembered(&path), now());
    for name in names {
        let asked = engine.known().get(name).and_then(|values| of_module(&checked.rice, name, values));
        if let Some(FactValue { text, part, .. }) = asked {
            kept.insert(name.clone(), CachedFact { text, part, at });
        }
    }
    remember(&path, &kept);
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    if let Some(Sub::Try { fact, json }) = &arguments.try_one {
        return try_one(fact, *json, context);
    }
    let checked = context.usable_in(&["greeting"])?;
    let set = checked.rice.greeting.clone();
    if arguments.behind {
        crate::commands::guard::watch_over()?;
        behind(&checked, context);
        return Ok(Exit::Done);
    }
    if set.facts.is_empty() && set.art.is_empty() {
        let why = "the rice has no greeting: greeting.facts says what it shows";
        return Err(CommandError::Usage(why.to_owned()));
    }
    let (facts, asked, late) = facts(&checked, context);
    if arguments.json {
        for (fact, asked) in facts.iter().zip(&asked) {
            let age = asked.age.map(|age| age.as_secs());
            let line = json!({ "fact": fact.name, "label": fact.label, "text": fact.text, "part": fact.part, "age": age });
            writeln!(context.out, "{line}")?;
        }
    } else {
        let folder = context.folder()?;
        let width = room(&arguments, context);
        let (texts, picture) = match drawn(&set, &folder, width, crate::report::in_colour()) {
            GreetingArt::Texts(texts) => (texts, None),
            GreetingArt::Picture(picture) => (Vec::new(), Some(picture)),
        };
        let beside = picture.as_ref().map_or(0, |picture| picture.size.0 + GAP);
        let wide = |text: &str| text.width();
        let lines = lay(&set, &facts, &texts, width - beside, &wide);
        let picture = picture.unwrap_or_default();
        if let Some(sixels) = &picture.sixels {
            // Room for it first, so that nothing scrolls under it; then it is drawn from where that begins.
            write!(context.out, "{}\x1b[{rows}A\x1b7{sixels}\x1b8", "\n".repeat(picture.size.1), rows = picture.size.1)?;
        }
        for nth in 0..lines.len().max(picture.size.1) {
            let line = lines.get(nth).into_iter().flatten().map(|piece| painted(&checked.rice, piece)).collect::<String>();
            let before = match (picture.lines.get(nth), &picture.sixels) {
                (Some(row), _) => format!("{row}{}", " ".repeat(GAP)),
                (None, Some(_)) if !line.is_empty() => format!("\x1b[{beside}C"),
                _ => " ".repeat(beside),
            };
            writeln!(context.out, "{}", format!("{before}{line}").trim_end())?;
        }
    }
    context.out.flush()?;
    if late && !arguments.alone {
        ask_behind(context);
    }
    Ok(Exit::Done)
}

/// One fact: what it says, and how long that took.
fn try_one(name: &str, as_json: bool, context: &mut Context) -> Result<Exit, CommandError> {
    let checked = context.read()?;
    if checked.rice.module.contains_key(name) {
        return crate::commands::bar::try_module(name, as_json, context);
    }
    if !jovrik_core::greeting::FACTS.contains(&name) {
        let known = checked.rice.module.keys().map(String::as_str).chain(jovrik_core::greeting::FACTS);
        let hint = jovrik_text::problem::nearest(name, known).map_or_else(
            || {
                format!(
                    "there are the modules of the rice, and {}",
                    jovrik_text::problem::in_words(&jovrik_core::greeting::FACTS)
                )
            },
            |near| format!("did you mean {near}?"),
        );
        return Err(CommandError::Usage(format!("there is no fact {name}; {hint}")));
    }
    let began = Instant::now();
    let asked = of_computer(name, &checked, context);
    let took = (began.elapsed().as_secs_f64() * 1e4).round() / 10.0;
    let out = &mut context.out;
    if as_json {
        let text = asked.as_ref().map(|asked| &asked.text);
        writeln!(
            out,
            "{}",
            json!({ "fact": name, "text": text, "part": asked.as_ref().and_then(|asked| asked.part), "milliseconds": took })
        )?;
    } else {
        writeln!(out, "{}", Meaning::Heading.paint(name))?;
        match &asked {
            Some(asked) => writeln!(out, "  says   {}", asked.text)?,
            None => writeln!(out, "  {}", Meaning::Second.paint("this computer does not know it, so it is left out"))?,
        }
        writeln!(out, "  took   {took} ms")?;
    }
    Ok(if asked.is_some() { Exit::Done } else { Exit::Invalid })
}
