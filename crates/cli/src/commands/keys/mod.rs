//! `jovrik keys`

pub mod clash;
pub mod free;
pub mod learn;
pub mod list;
pub mod settle;
pub mod sheet;
pub mod shift;
pub mod trace;

use std::rc::Rc;

use jovrik_core::check::{CheckedRice, keyboards_of};
use jovrik_core::keys::{BindingLabels, KeyboardLayout, KeyboardLayouts, ScopedBinding, Scopes};
use jovrik_text::problem::{in_words, nearest};
use jovrik_values::chord::ChordSequence;
use serde_json::{Value, json};

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::Meaning;

/// Who gets a key press, which bindings fight, and the cheapest peace
#[derive(Debug, clap::Args)]
#[command(disable_help_subcommand = true)]
pub struct Arguments {
    #[command(subcommand)]
    pub what: What,
}

/// What is asked of the bindings.
#[derive(Debug, clap::Subcommand)]
pub enum What {
    List(list::Arguments),
    Clash(clash::Arguments),
    Trace(trace::Arguments),
    Settle(settle::Arguments),
    Shift(shift::Arguments),
    Free(free::Arguments),
    Sheet(sheet::Arguments),
    Learn(learn::Arguments),
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    match arguments.what {
        What::List(arguments) => list::run(arguments, context),
        What::Clash(arguments) => clash::run(arguments, context),
        What::Trace(arguments) => trace::run(arguments, context),
        What::Settle(arguments) => settle::run(arguments, context),
        What::Shift(arguments) => shift::run(arguments, context),
        What::Free(arguments) => free::run(arguments, context),
        What::Sheet(arguments) => sheet::run(arguments, context),
        What::Learn(arguments) => learn::run(arguments, context),
    }
}

/// The bindings of a rice, and the keyboards that they are pressed on.
pub struct RiceBindings {
    /// The rice.
    pub checked: Rc<CheckedRice>,
    /// Its keyboards.
    pub keyboards: KeyboardLayouts,
    /// Everything that is bound.
    scopes: Rc<Scopes>,
}

impl RiceBindings {
    /// Those of the active rice.
    pub fn read(context: &Context) -> Result<RiceBindings, CommandError> {
        let around = context.around()?;
        let checked = jovrik_home::check_folder(&context.folder()?, &context.with, &around);
        let (keyboards, _) = keyboards_of(&checked.rice, &around);
        let scopes = checked.scopes.clone();
        Ok(RiceBindings { checked: Rc::new(checked), keyboards, scopes })
    }

    /// The same with other chords.
    pub fn with(&self, scopes: Scopes) -> RiceBindings {
        RiceBindings { checked: self.checked.clone(), keyboards: self.keyboards.clone(), scopes: Rc::new(scopes) }
    }

    /// Everything that is bound.
    pub fn scopes(&self) -> &Scopes {
        &self.scopes
    }

    /// One binding.
    pub fn at(&self, at: usize) -> &ScopedBinding {
        &self.scopes.bound[at]
    }

    /// What things are called.
    pub fn names(&self) -> BindingLabels<'_> {
        BindingLabels { scopes: self.scopes(), keyboards: &self.keyboards, lead: self.checked.lead() }
    }

    /// Where a binding stands.
    pub fn place(&self, bound: &ScopedBinding) -> String {
        Meaning::Place.paint(&self.checked.sources.place(bound.place))
    }

    /// Who has a binding: `desk`, `desk, sizing`, `mux`.
    pub fn scope(&self, bound: &ScopedBinding) -> String {
        self.scopes().table_name(bound.table).trim_start_matches("the ").to_owned()
    }

    /// A binding for programs.
    pub fn json(&self, bound: &ScopedBinding) -> Value {
        let file = self.checked.sources.get(bound.place.file);
        let table = &self.scopes().tables[bound.table];
        json!({
            "chord": self.names().chord(bound),
            "written": bound.written,
            "scope": self.scopes().readers[table.scope].name,
            "mode": table.mode,
            "action": bound.what.to_string(),
            "note": bound.note,
            "fixed": bound.fixed,
            "known": bound.known,
            "file": file.map(|file| &file.name),
            "line": file.map(|file| file.position(bound.place.start).line),
        })
    }

    /// Reads chords that a person typed.
    pub fn chords(&self, text: &str) -> Result<ChordSequence, CommandError> {
        let lead = self.checked.lead();
        ChordSequence::parse(text, lead.word()).map_err(|spelling| {
            let wrong = spelling.wrong();
            let what = wrong
                .title
                .unwrap_or_else(|| if text.is_empty() { "no chord is given".to_owned() } else { format!("{text} is no chord") });
            CommandError::Usage(if wrong.note == "no chord" { what } else { format!("{what}: {}", wrong.note) })
        })
    }

    /// A binding that a person named: its chords, or those after the name of its scope or mode, `editor: Ctrl+u`.
    pub fn find(&self, asked: &str) -> Result<usize, CommandError> {
        let scopes = self.scopes();
        let of = |name: &str| {
            let name = name.trim();
            let wanted = |table: &jovrik_core::keys::BindingTable| {
                let scope = &scopes.readers[table.scope].name;
                let mode = table.mode.as_deref();
                scope == name || mode == Some(name) || mode.is_some_and(|mode| name == format!("{scope}, {mode}"))
            };
            let tables: Vec<usize> = (0..scopes.tables.len()).filter(|at| wanted(&scopes.tables[*at])).collect();
            (!tables.is_empty()).then_some(tables)
        };
        let split = asked.split_once(':').and_then(|(name, chord)| Some((of(name)?, chord.trim())));
        let (tables, chord) = split.map_or((None, asked), |(tables, chord)| (Some(tables), chord));
        let keys = self.chords(chord)?;
        let here = |bound: &&(usize, &ScopedBinding)| {
            bound.1.lives() && tables.as_ref().is_none_or(|tables| tables.contains(&bound.1.table))
        };
        let all: Vec<(usize, &ScopedBinding)> = scopes.bound.iter().enumerate().collect();
        // Of those that fight for it the one that is spelled so is meant, else the first.
        let spelled = all.iter().filter(here).find(|(_, bound)| bound.written == chord);
        let found = spelled.or_else(|| all.iter().filter(here).find(|(_, bound)| bound.keys == keys));
        found.map(|(at, _)| *at).ok_or_else(|| CommandError::Usage(format!("nothing is bound to {asked}")))
    }

    /// A binding by its chords, its action or its note, wherever it is.
    pub fn find_any(&self, asked: &str) -> Result<usize, CommandError> {
        if let Ok(found) = self.find(asked) {
            return Ok(found);
        }
        let says = |bound: &ScopedBinding| bound.what.to_string() == asked || bound.note.as_deref() == Some(asked);
        let found: Vec<usize> = (0..self.scopes().bound.len()).filter(|at| self.at(*at).lives() && says(self.at(*at))).collect();
        match found.as_slice() {
            [one] => Ok(*one),
            [] => {
                let all: Vec<String> =
                    self.scopes().bound.iter().filter(|bound| bound.lives()).map(|bound| bound.what.to_string()).collect();
                let near = nearest(asked, all.iter().map(String::as_str))
                    .map_or(String::new(), |near| format!("; did you mean {near}?"));
                Err(CommandError::Usage(format!("nothing is bound that is called {asked}{near}")))
            }
            many => {
                let chords: Vec<String> = many.iter().map(|at| self.names().chord(self.at(*at))).collect();
                Err(CommandError::Usage(format!("{asked} has several bindings: name one of {}", in_words(&chords))))
            }
        }
    }

    /// The layout that was asked for, else the first.
    pub fn keyboard(&self, asked: Option<&str>) -> Result<&KeyboardLayout, CommandError> {
        let Some(asked) = asked else { return Ok(self.keyboards.first()) };
        self.keyboards.named(asked).ok_or_else(|| {
            let known: Vec<&str> = self.keyboards.iter().map(|keyboard| keyboard.layout.as_str()).collect();
            CommandError::Usage(format!("the rice has no layout {asked}: it works on {}", in_words(&known)))
        })
    }
}
