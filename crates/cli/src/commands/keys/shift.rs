//! `jovrik keys shift`

use jovrik_core::keys::{KeyCombo, KeyboardLayout, ScopedBinding, SettleProblem};
use jovrik_text::problem::in_words;
use jovrik_values::chord::{Chord, ChordKey, ChordSequence, Modifier, Modifiers};

use super::RiceBindings;
use super::list::Filter;
use super::settle::{finish, no_plan, settling, show};
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::Meaning;

/// Move a whole group of bindings at once; what falls out of place is settled
#[derive(Debug, clap::Args)]
#[command(
    group = clap::ArgGroup::new("how").required(true).args(["to", "by", "modifier"])
)]
pub struct Arguments {
    /// Words that the chord, action or note must hold
    pub words: Vec<String>,
    /// Only those of this scope
    #[arg(long, default_value = "desk", add = crate::complete::scope())]
    pub scope: String,
    /// Only those of this mode; plain are those outside of any
    #[arg(long, add = crate::complete::mode())]
    pub mode: Option<String>,
    /// Only bindings of these keys, whatever is held with them
    #[arg(long)]
    pub keys: Option<String>,
    /// The keys that those become, in the same order
    #[arg(long, requires = "keys")]
    pub to: Option<String>,
    /// The keys beside them: right, left, up or down, and how many
    #[arg(long, value_name = "WAY[:N]")]
    pub by: Option<String>,
    /// One modifier instead of another, such as Super=Alt
    #[arg(long, value_name = "OLD=NEW")]
    pub modifier: Option<String>,
    /// Bindings that are in nobody's way may move too
    #[arg(long)]
    pub chain: bool,
    /// Write the new chords where the bindings stand
    #[arg(long)]
    pub write: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    context.go_to_edited_copy()?;
    let bindings = RiceBindings::read(context)?;
    let filter = Filter { words: &arguments.words, scope: Some(&arguments.scope), mode: arguments.mode.as_deref(), part: None };
    filter.check(&bindings)?;
    let keyboard = bindings.keyboards.first();
    let only = arguments.keys.as_deref().map(|keys| bindings.chords(keys)).transpose()?;
    let has = |bound: &ScopedBinding| {
        only.as_ref().is_none_or(|only| bound.keys.0.iter().any(|chord| place_in(only, chord, keyboard).is_some()))
    };
    let chosen: Vec<usize> = (0..bindings.scopes().bound.len())
        .filter(|at| !bindings.at(*at).known && filter.fits(&bindings, bindings.at(*at)) && has(bindings.at(*at)))
        .collect();
    if chosen.is_empty() {
        return Err(CommandError::Usage("no binding is meant by that".to_owned()));
    }
    let step = step(&arguments, &bindings, only.as_ref())?;
    let mut given = Vec::new();
    for at in chosen {
        let bound = bindings.at(at);
        let to = bound.keys.0.iter().map(&step).collect::<Result<Vec<Chord>, CommandError>>().map(ChordSequence)?;
        if to != bound.keys {
            if bound.fixed {
                let name = format!("{} ({})", bindings.names().chord(bound), bindings.checked.sources.place(bound.place));
                return Err(CommandError::NoPlan(format!("{name} is fixed: leave it out by words, or take fixed away")));
            }
            given.push((at, to));
        }
    }
    if given.is_empty() {
        writeln!(context.out, "{}: they are there already.", Meaning::Done.paint("Nothing moves"))?;
        return Ok(Exit::Done);
    }
    let settling = SettleProblem { given, chain: arguments.chain, ..settling(&bindings, bindings.scopes()) };
    let plan = settling.plan().map_err(|why| no_plan(&bindings, why))?;
    show(&bindings, &plan, "", None, context)?;
    let moves: Vec<(usize, ChordSequence)> = plan.moves.iter().map(|step| (step.binding, step.to.clone())).collect();
    finish(&bindings, &moves, arguments.write.then_some("shift"), "the same with --write", false, context)
}

/// Where a chord's key stands among others.
fn place_in(keys: &ChordSequence, chord: &Chord, keyboard: &KeyboardLayout) -> Option<usize> {
    let code = |chord: &Chord| {
        keyboard.presses(&Chord { modifiers: Modifiers::default(), key: chord.key.clone() }).first().map(|press| press.key)
    };
    keys.0.iter().position(|other| other.key == chord.key || code(other).is_some() && code(other) == code(chord))
}

type Step<'a> = Box<dyn Fn(&Chord) -> Result<Chord, CommandError> + 'a>;

/// What becomes of one chord.
fn step<'a>(
    arguments: &'a Arguments,
    bindings: &'a RiceBindings,
    only: Option<&'a ChordSequence>,
) -> Result<Step<'a>, CommandError> {
    let keyboard = bindings.keyboards.first();
    if let (Some(to), Some(from)) = (&arguments.to, only) {
        let to = bindings.chords(to)?;
        if to.0.len() != from.0.len() {
            return Err(CommandError::Usage(format!(
                "--keys has {} and --to {}: there must be as many",
                from.0.len(),
                to.0.len()
            )));
        }
        return Ok(Box::new(move |chord| {
            let at = place_in(from, chord, keyboard);
            Ok(at.map_or_else(|| chord.clone(), |at| Chord { modifiers: chord.modifiers, key: to.0[at].key.clone() }))
        }));
    }
    if let Some(by) = &arguments.by {
        let (way, far) = by.split_once(':').unwrap_or((by, "1"));
        let far: i32 = far
            .parse()
            .ok()
            .filter(|far| (1..=20).contains(far))
            .ok_or_else(|| CommandError::Usage(format!("--by {by}: expected a number from 1 to 20")))?;
        let (dx, dy) = match way {
            "right" => (far, 0),
            "left" => (-far, 0),
            "up" => (0, -far),
            "down" => (0, far),
            _ => return Err(CommandError::Usage(format!("--by {by}: expected right, left, up or down"))),
        };
        return Ok(Box::new(move |chord| {
            if only.is_some_and(|only| place_in(only, chord, keyboard).is_none()) {
                return Ok(chord.clone());
            }
            let none = || {
                CommandError::Usage(format!(
                    "{chord} has no key {far} {way} of it that makes a character: name the ones that are meant by --keys"
                ))
            };
            let press = keyboard
                .presses(chord)
                .first()
                .copied()
                .filter(|_| !matches!(chord.key, ChordKey::Button(_)))
                .ok_or_else(none)?;
            let next = keyboard.beside(press.key, dx, dy).ok_or_else(none)?;
            Ok(keyboard.chord(KeyCombo { key: next, modifiers: press.modifiers }))
        }));
    }
    let asked = arguments.modifier.as_deref().unwrap_or_default();
    let lead = bindings.checked.lead();
    let modifier = |word: &str| {
        let word = word.trim();
        let found = if word.eq_ignore_ascii_case("lead") { Some(lead) } else { Modifier::parse(word) };
        let words: Vec<&str> = Modifier::ALL.into_iter().map(Modifier::word).collect();
        found.ok_or_else(|| CommandError::Usage(format!("{word} is no modifier: there are {}", in_words(&words))))
    };
    let (old, new) = asked
        .split_once('=')
        .ok_or_else(|| CommandError::Usage(format!("--modifier {asked}: expected OLD=NEW, such as Super=Alt")))?;
    let (old, new) = (modifier(old)?, modifier(new)?);
    Ok(Box::new(move |chord| {
        if !chord.modifiers.has(old) {
            return Ok(chord.clone());
        }
        Ok(Chord { modifiers: Modifiers(chord.modifiers.0 & !(old as u8)).with(new), key: chord.key.clone() })
    }))
}
