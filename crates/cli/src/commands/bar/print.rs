//! `jovrik bar print`

use std::time::{Duration, Instant};

use jovrik_core::rice::{Bar, BuiltInSource, Rice, SourceKind};
use jovrik_source::Engine;
use jovrik_text::problem::in_words;
use jovrik_values::Values;
use rustix::event::{PollFd, PollFlags, Timespec, poll};
use serde_json::{Value, json};

use super::state;
use crate::complete;
use crate::context::Context;
use crate::exit::{CommandError, Exit};

/// Print what bars show as lines of text or JSON, for another bar
///
/// What only the running desktop knows, such as workspaces and titles, is left out.
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The bar; else all, a line each
    #[arg(add = complete::bar())]
    bar: Option<String>,
    /// Print again whenever something changes, until interrupted
    #[arg(long)]
    follow: bool,
    /// One JSON object a line instead of text
    #[arg(long)]
    json: bool,
}

/// The first values are waited for at most so long.
const FIRST_VALUE_TIMEOUT: Duration = Duration::from_secs(6);

fn known_here(kind: &SourceKind) -> bool {
    !matches!(kind, SourceKind::BuiltIn(built_in) if built_in.of_desk() && *built_in != BuiltInSource::Keyboard)
}

/// The modules of a bar that show something: name, text, state.
fn shown<'r>(rice: &'r Rice, bar: &'r Bar, engine: &Engine) -> Vec<(&'r str, String, &'static str)> {
    let modules = bar.modules().filter_map(|name| Some((name, rice.module.get(name)?)));
    let one = |(name, module): (&'r String, &'r jovrik_core::rice::Module)| {
        let none = Values::default();
        let values = engine.known().get(name).unwrap_or(&none);
        let text = module.case(values).0.fill(values).unwrap_or_else(|| module.empty.clone());
        (known_here(&module.source.kind) && !text.is_empty()).then(|| (name.as_str(), text, state(values.grade(&module.grades))))
    };
    modules.filter_map(one).collect()
}

fn lines(rice: &Rice, only: Option<&str>, engine: &Engine, as_json: bool) -> Vec<String> {
    let bars = rice.bar.iter().filter(|(name, _)| only.is_none_or(|only| only == *name));
    let line = |(name, bar): (&String, &Bar)| {
        let shown = shown(rice, bar, engine);
        if as_json {
            let modules: Vec<Value> =
                shown.iter().map(|(name, text, state)| json!({ "name": name, "text": text, "state": state })).collect();
            return json!({ "bar": name, "modules": modules }).to_string();
        }
        shown.into_iter().map(|(_, text, _)| text).collect::<Vec<_>>().join("   ")
    };
    bars.map(line).collect()
}

fn wait(engine: &Engine, until: Option<Instant>) {
    let until = engine.next().into_iter().chain(until).min();
    let timeout = until.map(|until| {
        let left = until.saturating_duration_since(Instant::now());
        Timespec { tv_sec: left.as_secs() as i64, tv_nsec: i64::from(left.subsec_nanos()) }
    });
    let fds: Vec<_> = engine.fds().collect();
    let mut polled: Vec<PollFd<'_>> = fds.iter().map(|fd| PollFd::new(fd, PollFlags::IN)).collect();
    let _ = poll(&mut polled, timeout.as_ref());
}

pub fn run(arguments: &Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let checked = context.usable_in(&["bar", "module", "style", "type"])?;
    let rice = &checked.rice;
    if let Some(bar) = arguments.bar.as_ref().filter(|bar| !rice.bar.contains_key(*bar)) {
        let names: Vec<&str> = rice.bar.keys().map(String::as_str).collect();
        return Err(CommandError::Usage(format!("there is no bar {bar}; there is {}", in_words(&names))));
    }
    let began = Instant::now();
    crate::commands::guard::watch_over()?;
    let mut engine = Engine::new(rice, began);
    // Until each has said something, or said why not.
    let quiet = |engine: &Engine, now: Instant| {
        engine.health(now).iter().any(|(name, health)| !engine.known().contains_key(name) && health.trouble.is_none())
    };
    engine.step(began);
    while quiet(&engine, Instant::now()) && began.elapsed() < FIRST_VALUE_TIMEOUT {
        wait(&engine, Some(began + FIRST_VALUE_TIMEOUT));
        engine.step(Instant::now());
    }
    let mut told: Vec<String> = Vec::new();
    loop {
        let now = lines(rice, arguments.bar.as_deref(), &engine, arguments.json);
        if now != told {
            for (_, line) in now.iter().enumerate().filter(|(at, line)| told.get(*at) != Some(line)) {
                writeln!(context.out, "{line}")?;
            }
            context.out.flush()?;
            told = now;
        }
        if !arguments.follow {
            return Ok(Exit::Done);
        }
        wait(&engine, None);
        engine.step(Instant::now());
    }
}
