//! The command line: what is typed to what is done, errors in one place.

use std::ffi::OsString;
use std::io::Write;
use std::path::PathBuf;
use std::process::ExitCode;

use clap::{Args, CommandFactory, FromArgMatches, Parser, Subcommand};
use jovrik_core::check::CheckedRice;
use jovrik_text::problem::Problem;

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, Unhidden, advice, columns, problem};
use crate::{commands, complete, examples};

/// One description of a desktop: checked before it is used, seen before it is live, reversible, fit to share.
#[derive(Debug, Parser)]
#[command(name = "jovrik", version, disable_help_subcommand = true, disable_help_flag = true, max_term_width = 100)]
struct Cli {
    #[command(flatten)]
    global: Global,
    #[command(subcommand)]
    command: Command,
}

/// The heading of what every command takes.
const OF_ALL: &str = "Options of all commands";

/// When reports are in colour.
#[derive(Debug, Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
enum Color {
    /// On a terminal, unless NO_COLOR is set.
    Auto,
    /// Always.
    Always,
    /// Never.
    Never,
}

/// What every command takes.
#[derive(Debug, Args)]
struct Global {
    /// The rice's folder; else $JOVRIK_RICE, the nearest folder above with a rice.toml, or the applied one
    #[arg(long, global = true, value_name = "DIR", help_heading = OF_ALL, display_order = 900)]
    rice: Option<PathBuf>,
    /// Facts of another computer: a file, or the name of one in the rice's machines/
    #[arg(long, global = true, value_name = "FILE", add = complete::machine(), help_heading = OF_ALL, display_order = 901)]
    machine: Option<PathBuf>,
    /// A value laid over the rice, such as palette.use=noon; may be given more than once
    #[arg(long, global = true, value_name = "PATH=VALUE", add = complete::pair(), help_heading = OF_ALL, display_order = 902)]
    with: Vec<String>,
    /// Colours: auto, always or never
    #[arg(long, global = true, value_name = "WHEN", default_value = "auto", hide_default_value = true, hide_possible_values = true, help_heading = OF_ALL, display_order = 903)]
    color: Color,
    /// Results alone: no advice, no remarks
    #[arg(short, long, global = true, help_heading = OF_ALL, display_order = 904)]
    quiet: bool,
    /// Say on standard error what is done; twice says more
    #[arg(short, long, global = true, action = clap::ArgAction::Count, help_heading = OF_ALL, display_order = 905)]
    verbose: u8,
    /// What there is to say of it; -h says it shorter
    #[arg(short, long, global = true, action = clap::ArgAction::Help, help_heading = OF_ALL, display_order = 906)]
    help: Option<bool>,
}

/// The commands that read a rice with values laid over it; the others work on what is written.
const TAKE_WITH: &[&str] = &["settings", "show", "why", "check", "keys", "look", "live", "palette", "bar", "rules", "greet"];

/// Splits each `PATH=VALUE`.
fn pairs(with: &[String]) -> Result<Vec<(String, String)>, CommandError> {
    let pair = |text: &String| {
        let (path, value) =
            text.split_once('=').ok_or_else(|| CommandError::Usage(format!("--with takes PATH=VALUE, not {text}")))?;
        Ok((path.trim().to_owned(), value.trim().to_owned()))
    };
    with.iter().map(pair).collect()
}

#[derive(Debug, Subcommand)]
enum Command {
    New(commands::new::Arguments),
    Settings(commands::settings::Arguments),
    Show(commands::show::Arguments),
    Set(commands::set::Arguments),
    Reset(commands::reset::Arguments),
    Rename(commands::rename::Arguments),
    Toggle(commands::toggle::Arguments),
    Tune(commands::tune::Arguments),
    Schema(commands::schema::Arguments),
    Why(commands::why::Arguments),
    Check(commands::check::Arguments),
    Keys(commands::keys::Arguments),
    Palette(commands::palette::Arguments),
    Rules(commands::rules::Arguments),
    Bar(commands::bar::Arguments),
    Look(commands::look::Arguments),
    Watch(commands::watch::Arguments),
    Machine(commands::machine::Arguments),
    Live(commands::live::Arguments),
    Tell(commands::tell::Arguments),
    Ask(commands::ask::Arguments),
    Notices(commands::notices::Arguments),
    Launcher(commands::launcher::Arguments),
    Greet(commands::greet::Arguments),
    Apply(commands::apply::Arguments),
    History(commands::history::Arguments),
    Undo(commands::undo::Arguments),
    Redo(commands::redo::Arguments),
    Publish(commands::publish::Arguments),
    Adopt(commands::adopt::Arguments),
    Demo(commands::demo::Arguments),
    Completions(commands::completions::Arguments),
    Man(commands::man::Arguments),
    Help(commands::help::Arguments),
    #[command(hide = true)]
    Guard(commands::guard::Arguments),
    #[command(hide = true)]
    Session(commands::session::Arguments),
    #[command(hide = true)]
    Aside(commands::aside::Arguments),
    #[command(hide = true)]
    Logs(commands::logs::Arguments),
}

/// The commands by the order of work.
const GROUPS: &[(&str, &[&str])] = &[
    ("Start", &["demo", "new"]),
    ("Describe", &["settings", "show", "set", "reset", "rename", "toggle", "tune", "why", "schema"]),
    ("Check", &["check", "keys", "rules", "machine"]),
    ("See", &["look", "watch", "palette", "bar"]),
    ("Live", &["live", "tell", "ask", "launcher", "notices"]),
    ("Move", &["apply", "history", "undo", "redo", "publish", "adopt"]),
    ("Shell", &["greet", "help", "completions", "man"]),
];

/// The command line as clap knows it, with the examples of every command.
pub fn command() -> clap::Command {
    with_examples(Cli::command(), "")
}

/// A command and those inside it, each with its examples at the end of what --help says.
fn with_examples(command: clap::Command, path: &str) -> clap::Command {
    let names: Vec<String> = command.get_subcommands().map(|inner| inner.get_name().to_owned()).collect();
    let mut command = names.into_iter().fold(command, |command, name| {
        let inner = if path.is_empty() { name.clone() } else { format!("{path} {name}") };
        command.mut_subcommand(name, |command| with_examples(command, &inner))
    });
    let lines = examples::of(path);
    if !lines.is_empty() {
        let shown = lines.iter().map(|(line, gloss)| format!("  {line}\n      {gloss}")).collect::<Vec<_>>().join("\n");
        command = command.after_long_help(format!("Examples:\n{shown}"));
    }
    command
}

fn overview(command: &clap::Command, width: usize) -> String {
    let mut text = String::new();
    for (group, names) in GROUPS {
        let about = |name: &str| {
            command.find_subcommand(name).and_then(clap::Command::get_about).map(ToString::to_string).unwrap_or_default()
        };
        let rows: Vec<Vec<String>> = names.iter().map(|name| vec![format!("{name:<11}"), about(name)]).collect();
        text.push_str(&format!("{group}\n{}\n\n", columns(&rows, "  ", width).join("\n")));
    }
    text
}

/// Commands whose results are no reports, and are handed on as they are.
const AS_IT_IS: &[&str] = &["greet", "look", "launcher", "completions", "man", "schema"];

/// Runs the program with its arguments.
pub fn run(arguments: impl IntoIterator<Item = OsString>) -> ExitCode {
    // A file that may not grow (getrlimit(2), RLIMIT_FSIZE) is an error of the call that writes it, not the end of the program.
    let _ = signal_hook::flag::register(rustix::process::Signal::XFSZ.as_raw(), std::sync::Arc::default());
    let arguments: Vec<OsString> = arguments.into_iter().collect();
    if complete::answer(&arguments) {
        return Exit::Done.into();
    }
    let typed: Vec<String> = arguments.iter().map(|word| word.to_string_lossy().into_owned()).collect();
    let command = command();
    let overview = overview(&command, crate::context::columns(std::env::var("COLUMNS").ok()).min(100));
    let template = format!(
        "{{about}}\n\n{{usage-heading}} {{usage}}\n\n{overview}Options\n{{options}}\n\njovrik COMMAND --help says more of one command.\n"
    );
    let parsed = command.help_template(template).try_get_matches_from(arguments).and_then(|matches| {
        let name = matches.subcommand_name().unwrap_or_default().to_owned();
        Cli::from_arg_matches(&matches).map(|cli| (cli, name))
    });
    let (cli, name) = match parsed {
        Ok(parsed) => parsed,
        Err(error) => {
            match otherwise(&error, &typed) {
                Some(answer) => {
                    let mut err = anstream::stderr();
                    let _ = writeln!(err, "{}  there is no command {}", Meaning::Error.paint("error"), answer.0);
                    let _ = advice(&mut err, "  ", &answer.1, answer.2);
                }
                None => {
                    let _ = error.print();
                }
            }
            return if error.use_stderr() { Exit::Usage } else { Exit::Done }.into();
        }
    };
    match cli.global.color {
        Color::Auto => {}
        Color::Always => anstream::ColorChoice::Always.write_global(),
        Color::Never => anstream::ColorChoice::Never.write_global(),
    }
    crate::report::quiet(cli.global.quiet);
    crate::log::begin(cli.global.verbose, std::env::var("JOVRIK_LOG").ok().as_deref());
    let with = pairs(&cli.global.with).and_then(|with| match with.is_empty() || TAKE_WITH.contains(&name.as_str()) {
        true => Ok(with),
        false => Err(CommandError::Usage(format!("{name} works on what is written; --with is for looking"))),
    });
    let made = with.and_then(|with| Context::of_process(cli.global.rice, cli.global.machine, with));
    let done = made.and_then(|mut context| {
        if !AS_IT_IS.contains(&name.as_str()) {
            let out = std::mem::replace(&mut context.out, Box::new(std::io::sink()));
            context.out = Box::new(Unhidden::new(out));
        }
        let done = dispatch(cli.command, &mut context);
        context.out.flush()?;
        done
    });
    match done {
        Ok(exit) => exit.into(),
        // Whoever reads the results has closed the pipe: that is their right.
        Err(CommandError::Output(error)) if error.kind() == std::io::ErrorKind::BrokenPipe => Exit::Done.into(),
        Err(failure) => {
            let _ = report(&failure);
            failure.exit().into()
        }
    }
}

fn dispatch(command: Command, context: &mut Context) -> Result<Exit, CommandError> {
    match command {
        Command::New(arguments) => commands::new::run(arguments, context),
        Command::Settings(arguments) => commands::settings::run(arguments, context),
        Command::Show(arguments) => commands::show::run(arguments, context),
        Command::Set(arguments) => commands::set::run(arguments, context),
        Command::Reset(arguments) => commands::reset::run(arguments, context),
        Command::Rename(arguments) => commands::rename::run(&arguments, context),
        Command::Toggle(arguments) => commands::toggle::run(arguments, context),
        Command::Tune(arguments) => commands::tune::run(arguments, context),
        Command::Schema(arguments) => commands::schema::run(arguments, context),
        Command::Why(arguments) => commands::why::run(arguments, context),
        Command::Check(arguments) => commands::check::run(arguments, context),
        Command::Keys(arguments) => commands::keys::run(arguments, context),
        Command::Rules(arguments) => commands::rules::run(arguments, context),
        Command::Palette(arguments) => commands::palette::run(arguments, context),
        Command::Bar(arguments) => commands::bar::run(arguments, context),
        Command::Watch(arguments) => commands::watch::run(arguments, context),
        Command::Look(arguments) => commands::look::run(arguments, context),
        Command::Machine(arguments) => commands::machine::run(arguments, context),
        Command::Live(arguments) => commands::live::run(arguments, context),
        Command::Tell(arguments) => commands::tell::run(arguments, context),
        Command::Ask(arguments) => commands::ask::run(arguments, context),
        Command::Notices(arguments) => commands::notices::run(arguments, context),
        Command::Greet(arguments) => commands::greet::run(arguments, context),
        Command::Launcher(arguments) => commands::launcher::run(arguments, context),
        Command::Apply(arguments) => commands::apply::run(arguments, context),
        Command::History(arguments) => commands::history::run(arguments, context),
        Command::Undo(arguments) => commands::undo::run(arguments, context),
        Command::Redo(arguments) => commands::redo::run(arguments, context),
        Command::Publish(arguments) => commands::publish::run(arguments, context),
        Command::Adopt(arguments) => commands::adopt::run(arguments, context),
        Command::Demo(arguments) => commands::demo::run(arguments, context),
        Command::Completions(arguments) => commands::completions::run(arguments, context),
        Command::Man(arguments) => commands::man::run(arguments, context),
        Command::Help(arguments) => commands::help::run(arguments, context),
        Command::Guard(arguments) => commands::guard::run(&arguments),
        Command::Session(arguments) => commands::session::run(&arguments),
        Command::Aside(arguments) => commands::aside::run(&arguments),
        Command::Logs(arguments) => commands::logs::run(&arguments),
    }
}

/// What to type instead of a command that is not there, with what that does: what others call it, or the nearest.
fn otherwise(error: &clap::Error, words: &[String]) -> Option<(String, String, &'static str)> {
    use clap::error::{ContextKind, ContextValue, ErrorKind};
    if error.kind() != ErrorKind::InvalidSubcommand {
        return None;
    }
    let Some(ContextValue::String(typed)) = error.get(ContextKind::InvalidSubcommand) else { return None };
    // Of a command inside another, with the words before it.
    let at = words.iter().position(|word| word == typed)?;
    let outer: Vec<&str> = words[1..at].iter().map(String::as_str).filter(|word| !word.starts_with('-')).collect();
    if !outer.is_empty() {
        let whole = format!("{} {typed}", outer.join(" "));
        let known =
            examples::OTHERWISE.iter().find(|(word, _)| *word == whole.to_lowercase()).map(|(_, instead)| (*instead).to_owned());
        let palette = || (outer == ["palette"]).then(|| format!("palette use {typed}"));
        let inner = Cli::command()
            .find_subcommand(outer[0])
            .map(|command| command.get_subcommands().map(|one| one.get_name().to_owned()).collect::<Vec<_>>());
        let near = inner.and_then(|names| {
            jovrik_text::problem::nearest(typed, names.iter().map(String::as_str))
                .map(|near| format!("{} {near}", outer.join(" ")))
        });
        let instead = known.or(near).or_else(palette)?;
        return Some((whole, format!("jovrik {instead}"), "is what does it"));
    }
    if let Some((_, what)) = examples::NOT_BUILT.iter().find(|(word, _)| word == typed) {
        return Some((format!("{typed} yet: {what}"), "jovrik --help".to_owned(), "lists what there is"));
    }
    let known = examples::OTHERWISE.iter().find(|(word, _)| word == &typed.to_lowercase());
    if let Some((_, instead)) = known {
        return Some((typed.clone(), format!("jovrik {instead}"), "is what does it"));
    }
    if jovrik_core::rice::Topic::named(typed).is_some() {
        return Some((typed.clone(), format!("jovrik help {typed}"), "is a page about them"));
    }
    let names: Vec<&str> = GROUPS.iter().flat_map(|(_, names)| names.iter().copied()).collect();
    Some(match jovrik_text::problem::nearest(typed, names.iter().copied()) {
        Some(near) => (typed.clone(), format!("jovrik {near}"), "is the nearest"),
        None => (typed.clone(), format!("jovrik settings {typed}"), "looks for it among the settings"),
    })
}

/// Writes a failure to standard error.
fn report(failure: &CommandError) -> std::io::Result<()> {
    let mut err = Unhidden::new(anstream::stderr());
    let problems = |checked: &CheckedRice, err: &mut dyn Write| -> std::io::Result<()> {
        let refused = matches!(failure, CommandError::Home(jovrik_home::Error::Refused(_)));
        let here = |problem: &&Problem| refused || problem.elsewhere.is_none();
        let errors = checked.problems.iter().filter(|problem| problem.severity == jovrik_text::problem::Severity::Error);
        for problem in errors.filter(here).take(5) {
            // What was not written cannot be mended.
            let shown = if refused { Problem { fix: None, ..problem.clone() } } else { problem.clone() };
            problem::write(err, &shown, &checked.sources, 80)?;
            writeln!(err)?;
        }
        Ok(())
    };
    match failure {
        CommandError::Unfit(checked) => problems(checked, &mut err)?,
        CommandError::Home(jovrik_home::Error::Refused(checked)) => problems(checked, &mut err)?,
        _ => {}
    }
    writeln!(err, "{}  {failure}", Meaning::Error.paint("error"))?;
    if let CommandError::Home(jovrik_home::Error::Refused(_)) = failure {
        writeln!(err, "  Nothing was written.")?;
    }
    if let Some((write, gloss)) = failure.hint() {
        advice(&mut err, "  ", &write, gloss)?;
    }
    Ok(())
}
