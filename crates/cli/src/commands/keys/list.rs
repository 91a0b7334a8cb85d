//! `jovrik keys list`

use jovrik_core::keys::{BindingTarget, LAUNCHER, ScopedBinding};
use jovrik_core::rice::actions;
use jovrik_text::problem::count;
use jovrik_values::action::{ACTIONS, Action};
use serde_json::json;

use super::RiceBindings;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, columns};

/// List the bindings of all scopes
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Words that the chord, action or note must hold
    pub words: Vec<String>,
    /// Only those of this scope, such as desk
    #[arg(long, add = crate::complete::scope())]
    pub scope: Option<String>,
    /// Only those of this mode; plain are those outside of any
    #[arg(long, add = crate::complete::mode())]
    pub mode: Option<String>,
    /// Only those about windows, workspaces, layouts, programs, bar, keys or session
    #[arg(long)]
    pub part: Option<String>,
    /// Also what programs bind by themselves
    #[arg(long)]
    pub known: bool,
    /// Actions and programs that have no key instead
    #[arg(long, conflicts_with_all = ["scope", "mode", "known"])]
    pub unbound: bool,
    /// JSON Lines: chord, written, scope, mode, action, note, fixed, known, file, line; with --unbound: action, does
    #[arg(long)]
    pub json: bool,
}

/// Which bindings a person means, by words and where they are.
#[derive(Debug, Default)]
pub struct Filter<'a> {
    pub words: &'a [String],
    pub scope: Option<&'a str>,
    pub mode: Option<&'a str>,
    pub part: Option<&'a str>,
}

impl Filter<'_> {
    /// Refuses names that are none.
    pub fn check(&self, bindings: &RiceBindings) -> Result<(), CommandError> {
        let scopes = bindings.scopes();
        let scope = |name: &str| scopes.readers.iter().any(|reader| reader.name == name);
        let mode = |name: &str| name == "plain" || scopes.tables.iter().any(|table| table.mode.as_deref() == Some(name));
        let part = |name: &str| ACTIONS.iter().any(|(_, _, part)| *part == name);
        let one = |what: &str, name: Option<&str>, known: &dyn Fn(&str) -> bool, all: Vec<&str>| match name {
            Some(name) if !known(name) => {
                Err(CommandError::Usage(format!("there is no {what} {name}: there are {}", jovrik_text::problem::in_words(&all))))
            }
            _ => Ok(()),
        };
        one("scope", self.scope, &scope, scopes.readers.iter().map(|reader| reader.name.as_str()).collect())?;
        let modes = scopes.tables.iter().filter_map(|table| table.mode.as_deref());
        one("mode", self.mode, &mode, std::iter::once("plain").chain(modes).collect())?;
        let mut parts: Vec<&str> = ACTIONS.iter().map(|(_, _, part)| *part).collect();
        parts.sort_unstable();
        parts.dedup();
        one("part", self.part, &part, parts)
    }

    /// Whether a binding is meant.
    pub fn fits(&self, bindings: &RiceBindings, bound: &ScopedBinding) -> bool {
        let scopes = bindings.scopes();
        let table = &scopes.tables[bound.table];
        let text = format!("{} {} {}", bound.written, bound.what, bound.note.as_deref().unwrap_or_default()).to_lowercase();
        let part = match &bound.what {
            BindingTarget::Act(action) => Some(action.part()),
            BindingTarget::Says(_) | BindingTarget::Prefix => None,
        };
        bound.lives()
            && self.scope.is_none_or(|scope| scopes.readers[table.scope].name == scope)
            && self.mode.is_none_or(|mode| table.mode.as_deref().unwrap_or("plain") == mode)
            && self.part.is_none_or(|wanted| part == Some(wanted))
            && self.words.iter().all(|word| text.contains(&word.to_lowercase()))
    }
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let bindings = RiceBindings::read(context)?;
    let filter = Filter {
        words: &arguments.words,
        scope: arguments.scope.as_deref(),
        mode: arguments.mode.as_deref(),
        part: arguments.part.as_deref(),
    };
    filter.check(&bindings)?;
    if arguments.unbound {
        return unbound(&arguments, &bindings, context);
    }
    let scopes = bindings.scopes();
    // What a program binds by itself is listed when that was asked for, or nothing else is bound there.
    let shown = |bound: &&ScopedBinding| filter.fits(&bindings, bound) && (!bound.known || arguments.known);
    let found: Vec<&ScopedBinding> = scopes.bound.iter().filter(shown).collect();
    let out = &mut context.out;
    if arguments.json {
        for bound in &found {
            writeln!(out, "{}", bindings.json(bound))?;
        }
        return Ok(Exit::Done);
    }
    let mut tables: Vec<usize> = found.iter().map(|bound| bound.table).collect();
    // The prefix of a scope stands above what comes after it.
    tables.sort_by_key(|at| (scopes.tables[*at].scope, scopes.tables[*at].mode.is_some(), !scopes.tables[*at].prefix, *at));
    tables.dedup();
    let several = tables.len() > 1;
    let names = bindings.names();
    let row = |bound: &ScopedBinding| {
        let mut notes: Vec<String> = Vec::new();
        notes.extend(bound.note.clone());
        notes.extend(bound.release.then(|| "when the keys come up".to_owned()));
        notes.extend((bound.fixed && !bound.known).then(|| "fixed".to_owned()));
        notes.extend(bound.known.then(|| "by itself".to_owned()));
        vec![names.chord(bound), in_short(&bound.what.to_string()), bindings.place(bound), notes.join("; ")]
    };
    let rows: Vec<(usize, Vec<String>)> = tables
        .iter()
        .flat_map(|table| found.iter().filter(|bound| bound.table == *table))
        .map(|bound| (bound.table, row(bound)))
        .collect();
    let plain: Vec<Vec<String>> = rows.iter().map(|(_, row)| row.clone()).collect();
    let mut before = None;
    // All are aligned as one table, with a heading above each scope and mode.
    for (line, (table, _)) in columns(&plain, "  ", context.width).into_iter().zip(&rows) {
        let under = Some((scopes.tables[*table].scope, scopes.tables[*table].mode.clone()));
        if several && before != under {
            if before.is_some() {
                writeln!(out)?;
            }
            let (name, which) = (scopes.table_name(*table), &scopes.tables[*table]);
            let reader = &scopes.readers[which.scope];
            let prefixed = which.mode.is_none() && reader.prefix.is_some();
            let prefix = reader.prefix.as_ref().filter(|_| prefixed).map(|keys| format!("after {}", keys.with_lead(names.lead)));
            let inside = reader.inside.as_ref().map(|inside| match reader.name.as_str() {
                LAUNCHER => "while it is open".to_owned(),
                _ => format!("inside {}", inside.words()),
            });
            let about: Vec<String> = inside.into_iter().chain(prefix).collect();
            let heading = format!(
                "{}  {}",
                Meaning::Heading.paint(name.trim_start_matches("the ")),
                Meaning::Second.paint(&about.join(", "))
            );
            writeln!(out, "{}", heading.trim_end())?;
        }
        before = under;
        writeln!(out, "{line}")?;
    }
    writeln!(out, "\n{}; Lead is {}", count(found.len(), "binding"), names.lead.word())?;
    Ok(Exit::Done)
}

/// Actions and programs that no living binding of the desk reaches.
fn unbound(arguments: &Arguments, bindings: &RiceBindings, context: &mut Context) -> Result<Exit, CommandError> {
    let rice = &bindings.checked.rice;
    let bound: Vec<&Action> = bindings
        .scopes()
        .bound
        .iter()
        .filter(|bound| bound.lives() && bound.holds)
        .filter_map(|bound| match &bound.what {
            BindingTarget::Act(action) => Some(action),
            BindingTarget::Says(_) | BindingTarget::Prefix => None,
        })
        .collect();
    let free = |action: &Action| !bound.contains(&action) && !matches!(action, Action::None | Action::Run(_) | Action::Press(_));
    let all: Vec<(String, String, &str)> = actions(rice)
        .into_iter()
        .filter_map(|choice| {
            let action = Action::parse(&choice.value).ok().filter(&free)?;
            Some((choice.value, choice.gloss, action.part()))
        })
        .collect();
    let fits = |(text, does, part): &&(String, String, &str)| {
        let words = format!("{text} {does}").to_lowercase();
        arguments.part.as_deref().is_none_or(|wanted| wanted == *part)
            && arguments.words.iter().all(|word| words.contains(&word.to_lowercase()))
    };
    let found: Vec<&(String, String, &str)> = all.iter().filter(fits).collect();
    let out = &mut context.out;
    if arguments.json {
        for (action, does, _) in &found {
            writeln!(out, "{}", json!({ "action": action, "does": does }))?;
        }
        return Ok(Exit::Done);
    }
    let rows: Vec<Vec<String>> =
        found.iter().map(|(action, does, part)| vec![action.clone(), (*part).to_owned(), Meaning::Second.paint(does)]).collect();
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    writeln!(out, "\n{} without a key", count(found.len(), "action"))?;
    if let Some((action, ..)) = found.first() {
        crate::report::advice(out, "  ", &format!("jovrik keys free --for \"{action}\""), "lists free places, the best first")?;
    }
    Ok(Exit::Done)
}

/// The beginning of an action, as much as a table has room for.
fn in_short(action: &str) -> String {
    const MAX_ACTION_CHARS: usize = 36;
    if action.chars().count() <= MAX_ACTION_CHARS {
        action.to_owned()
    } else {
        format!("{}…", action.chars().take(MAX_ACTION_CHARS - 1).collect::<String>().trim_end())
    }
}
