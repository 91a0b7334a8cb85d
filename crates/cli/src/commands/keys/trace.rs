//! `jovrik keys trace`

use jovrik_core::keys::{
    ActionRoute, Answer, BindingTarget, ConsumeReason, KeyboardLayout, Reaction, TraceContext, TraceStep, Tracer, ways_to,
};
use jovrik_schema::TimeSpan;
use jovrik_text::problem::{count, in_words, nearest};
use jovrik_values::action::Action;
use jovrik_values::chord::ChordSequence;
use serde_json::{Value, json};

use super::RiceBindings;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, columns, wrap};

/// Follow a press from the kernel inwards: who is asked, what each does, who gets it
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// The chords, one press after another
    #[arg(required_unless_present = "action", conflicts_with = "action")]
    pub chords: Vec<String>,
    /// The program that has the focus, or the scope that is open in it
    #[arg(long, value_name = "APP")]
    pub focus: Option<String>,
    /// A mode that holds, such as sizing or editor:normal; may be given more than once
    #[arg(long, add = crate::complete::mode())]
    pub mode: Vec<String>,
    /// The layout that is active
    #[arg(long, add = crate::complete::layout())]
    pub layout: Option<String>,
    /// Every way to reach this action instead, and whether it arrives
    #[arg(long, add = crate::complete::whole_action())]
    pub action: Option<String>,
    /// JSON Lines: one press each (chord, key, name, reserved, answers); with --action one way each (binding, arrives, why)
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let bindings = RiceBindings::read(context)?;
    let keyboard = bindings.keyboard(arguments.layout.as_deref())?;
    if let Some(action) = &arguments.action {
        return reach(action, &arguments, &bindings, keyboard, context);
    }
    let keys = bindings.chords(&arguments.chords.join(" "))?;
    let scopes = bindings.scopes();
    let asking =
        TraceContext { focus: arguments.focus.as_deref().map(|focus| inside(&bindings, focus)), modes: arguments.mode.clone() };
    let mut tracer = Tracer::new(scopes, keyboard, &asking).map_err(|why| CommandError::Usage(why.to_string()))?;
    let modes: Vec<String> = tracer.readers().filter_map(|(_, mode)| mode.map(str::to_owned)).collect();
    let steps = tracer.follow(&keys).map_err(|why| CommandError::Usage(why.to_string()))?;
    let out = &mut context.out;
    if arguments.json {
        for step in &steps {
            writeln!(out, "{}", told(&bindings, keyboard, step))?;
        }
        return Ok(Exit::Done);
    }
    let focus = match (&arguments.focus, scopes.readers.iter().find_map(|reader| reader.inside.as_ref())) {
        (Some(focus), _) => format!(", focus: {focus}"),
        (None, Some(first)) => format!(", focus: {}", first.words()),
        (None, None) => String::new(),
    };
    let mode = if modes.is_empty() { "plain".to_owned() } else { in_words(&modes) };
    let title = keys.with_lead(bindings.checked.lead());
    writeln!(
        out,
        "{}{}\n",
        Meaning::Heading.paint(&title),
        Meaning::Second.paint(&format!("{focus}, mode: {mode}, layout: {}", keyboard.layout))
    )?;
    let mut rows: Vec<Vec<String>> = Vec::new();
    let mut heads: Vec<Option<String>> = Vec::new();
    for (nth, step) in steps.iter().enumerate() {
        let chord = ChordSequence(vec![keys.0[nth].clone()]).with_lead(bindings.checked.lead());
        for (at, row) in rows_of(&bindings, step).into_iter().enumerate() {
            heads.push((at == 0 && steps.len() > 1).then(|| format!("press {}, {chord}", nth + 1)));
            rows.push(row);
        }
    }
    for (nth, (line, head)) in columns(&rows, "  ", context.width).into_iter().zip(heads).enumerate() {
        if let Some(head) = head {
            if nth > 0 {
                writeln!(out)?;
            }
            writeln!(out, "{}", Meaning::Second.paint(&head))?;
        }
        writeln!(out, "{line}")?;
    }
    let Some(last) = steps.last() else { return Ok(Exit::Done) };
    writeln!(out)?;
    for line in wrap(&ending(&bindings, last), context.width) {
        writeln!(out, "{line}")?;
    }
    let missing = last.answers.iter().find_map(|answer| match answer.reaction {
        Reaction::Misses(at) => Some(at),
        _ => None,
    });
    let movable = last.taker().and_then(|(_, reaction)| bound_of(reaction)).is_some_and(|taker| !bindings.at(taker).fixed);
    if let Some(at) = missing.filter(|_| movable) {
        let bound = bindings.at(at);
        let gives = format!("moves what takes it, so that {} gets it", bindings.scope(bound));
        let keep = format!("{}: {}", scopes.reader_of(at).name, bindings.names().chord(bound));
        advice(out, "  ", &format!("jovrik keys settle --keep \"{keep}\""), &gives)?;
    }
    Ok(Exit::Done)
}

/// The name that scopes know a program by: its own, or the one that `[program]` gives it.
pub fn inside(bindings: &RiceBindings, focus: &str) -> String {
    let scopes = bindings.scopes();
    let known = |name: &str| {
        scopes
            .readers
            .iter()
            .any(|reader| reader.name == name || reader.inside.as_ref().is_some_and(|inside| inside.matches(name)))
    };
    let program =
        bindings.checked.rice.program.iter().find(|(name, program)| program.app().eq_ignore_ascii_case(focus) && known(name));
    match program {
        Some((name, _)) if !known(focus) => name.clone(),
        _ => focus.to_owned(),
    }
}

/// The binding that a reaction is about.
fn bound_of(reaction: Reaction) -> Option<usize> {
    match reaction {
        Reaction::Takes(at) | Reaction::Waits(at) | Reaction::Misses(at) => Some(at),
        Reaction::Eats(_) | Reaction::Passes | Reaction::NotAsked => None,
    }
}

fn why(why: ConsumeReason) -> &'static str {
    match why {
        ConsumeReason::Mode => "the mode eats what it does not bind",
        ConsumeReason::LeavesMode => "leaves the mode",
        ConsumeReason::EndsSequence => "ends the sequence",
        ConsumeReason::Release => "waits for the keys to come up",
        ConsumeReason::Held => "happens once, however long it is held",
    }
}

fn rows_of(bindings: &RiceBindings, step: &TraceStep) -> Vec<Vec<String>> {
    let first = match step.reserved {
        Some(why) => vec!["kernel, X server".to_owned(), why.to_owned(), String::new(), Meaning::Error.paint("takes it")],
        None => vec!["kernel, X server".to_owned(), Meaning::Second.paint("not theirs")],
    };
    std::iter::once(first).chain(step.answers.iter().map(|answer| row(bindings, answer))).collect()
}

fn row(bindings: &RiceBindings, answer: &Answer) -> Vec<String> {
    let reader = &bindings.scopes().readers[answer.reader];
    let name = answer.mode.as_ref().map_or(reader.name.clone(), |mode| format!("{}, {mode}", reader.name));
    let prefix = reader.prefix.as_ref().map(|keys| format!("(prefix is {})", keys.with_lead(bindings.checked.lead())));
    let nothing = Meaning::Second.paint(&prefix.unwrap_or_else(|| "not bound".to_owned()));
    let bound = |at: usize| {
        let bound = bindings.at(at);
        (bound.what.to_string(), bindings.place(bound))
    };
    let (what, place, role) = match answer.reaction {
        Reaction::Takes(at) => {
            let (what, place) = bound(at);
            (what, place, Meaning::Done.paint(if bindings.at(at).release { "takes it, when it comes up" } else { "takes it" }))
        }
        Reaction::Waits(at) => {
            let (what, place) = bound(at);
            (format!("… {what}"), place, Meaning::Done.paint("waits for the next press"))
        }
        Reaction::Misses(at) => {
            let (what, place) = bound(at);
            (what, place, Meaning::Error.paint("never gets it"))
        }
        Reaction::Eats(reason) => (nothing, String::new(), Meaning::Done.paint(why(reason))),
        Reaction::Passes => (nothing, String::new(), Meaning::Second.paint("lets it pass")),
        Reaction::NotAsked => (nothing, String::new(), Meaning::Second.paint("not asked")),
    };
    vec![name, what, place, role]
}

/// What became of the last press, in a sentence.
fn ending(bindings: &RiceBindings, step: &TraceStep) -> String {
    if let Some(why) = step.reserved {
        return format!("No desktop ever hears of it: {why}.");
    }
    let wait = || TimeSpan::words(bindings.checked.rice.keys.wait());
    match step.taker() {
        None => "Nobody here binds it: the program that has the focus gets it as it is.".to_owned(),
        Some((reader, Reaction::Takes(at))) => match &bindings.at(at).what {
            BindingTarget::Act(Action::Mode(Some(mode))) => format!("It enters the mode {mode}."),
            BindingTarget::Act(Action::Mode(None)) => "It leaves the mode.".to_owned(),
            BindingTarget::Act(action) if !action.to_string().contains(' ') => format!("It {}.", action.does()),
            BindingTarget::Act(action) => format!("It {}: {action}.", action.does()),
            _ => format!("{} does it: {}.", bindings.scopes().readers[reader].name, bindings.at(at).meaning()),
        },
        Some((reader, Reaction::Waits(at))) => {
            let who = &bindings.scopes().readers[reader].name;
            let whole = bindings.names().whole(bindings.at(at));
            let whole = if bindings.at(at).what == BindingTarget::Prefix { "what comes after it".to_owned() } else { whole };
            format!("{who} waits {} for the next press, such as in {whole}; Escape drops it at once.", wait())
        }
        Some((_, Reaction::Eats(reason))) => format!(
            "Nothing happens: it {}.",
            match reason {
                ConsumeReason::Mode => "is eaten by the mode",
                ConsumeReason::LeavesMode => "only leaves the mode",
                ConsumeReason::EndsSequence => "only ends the sequence",
                ConsumeReason::Release => "waits for the keys to come up",
                ConsumeReason::Held => "happens once, however long it is held",
            }
        ),
        Some((_, Reaction::Passes | Reaction::Misses(_) | Reaction::NotAsked)) => String::new(),
    }
}

fn told(bindings: &RiceBindings, keyboard: &KeyboardLayout, step: &TraceStep) -> Value {
    let answer = |answer: &Answer| {
        let bound = bound_of(answer.reaction).map(|at| bindings.json(bindings.at(at)));
        let reaction = match answer.reaction {
            Reaction::Takes(_) => "takes",
            Reaction::Waits(_) => "waits",
            Reaction::Eats(_) => "eats",
            Reaction::Passes => "passes",
            Reaction::Misses(_) => "misses",
            Reaction::NotAsked => "not-asked",
        };
        json!({ "scope": bindings.scopes().readers[answer.reader].name, "mode": answer.mode, "reaction": reaction, "binding": bound })
    };
    json!({
        "chord": keyboard.chord(step.press).to_string(),
        "key": step.press.key,
        "name": keyboard.cap(step.press.key).map(|cap| &cap.name),
        "reserved": step.reserved,
        "answers": step.answers.iter().map(answer).collect::<Vec<_>>(),
    })
}

/// Every way to reach an action, and whether it really arrives.
fn reach(
    asked: &str,
    arguments: &Arguments,
    bindings: &RiceBindings,
    keyboard: &KeyboardLayout,
    context: &mut Context,
) -> Result<Exit, CommandError> {
    let scopes = bindings.scopes();
    let wanted = |at: usize| {
        let bound = bindings.at(at);
        bound.what.to_string() == asked || bound.note.as_deref().is_some_and(|note| note.eq_ignore_ascii_case(asked))
    };
    let ways = ways_to(scopes, keyboard, &wanted);
    let never = |way: &ActionRoute| match (&way.never, way.instead) {
        (Some(why), _) => why.clone(),
        (None, Some((reader, reaction))) => {
            let who = scopes.table_name(scopes.readers[reader].tables[0]);
            match bound_of(reaction) {
                Some(at) => format!("{who} takes it: {}", bindings.at(at).meaning()),
                None => format!("{who} eats it"),
            }
        }
        (None, None) => "another binding of the same keys wins".to_owned(),
    };
    let out = &mut context.out;
    if arguments.json {
        for way in &ways {
            let why = (!way.arrives).then(|| never(way));
            writeln!(out, "{}", json!({ "binding": bindings.json(bindings.at(way.bound)), "arrives": way.arrives, "why": why }))?;
        }
        return Ok(Exit::Done);
    }
    if ways.is_empty() {
        let all: Vec<String> = scopes.bound.iter().filter(|bound| bound.lives()).map(|bound| bound.what.to_string()).collect();
        if Action::parse(asked).is_ok() {
            writeln!(out, "No keys lead to {asked}.")?;
            advice(out, "  ", &format!("jovrik keys free --for \"{asked}\""), "lists free places, the best first")?;
            return Ok(Exit::Done);
        }
        let near = nearest(asked, all.iter().map(String::as_str)).map_or(String::new(), |near| format!("; did you mean {near}?"));
        return Err(CommandError::Usage(format!("nothing is bound that is called {asked}{near}")));
    }
    let arriving = ways.iter().filter(|way| way.arrives).count();
    writeln!(out, "{}{}\n", Meaning::Heading.paint(asked), Meaning::Second.paint(&format!(", layout: {}", keyboard.layout)))?;
    let row = |way: &ActionRoute| {
        let bound = bindings.at(way.bound);
        let chord = bindings.names().whole(bound);
        let end = if way.arrives {
            Meaning::Done.paint("arrives")
        } else {
            Meaning::Error.paint(&format!("never arrives: {}", never(way)))
        };
        vec![chord, bindings.scope(bound), bindings.place(bound), end]
    };
    for line in columns(&ways.iter().map(row).collect::<Vec<_>>(), "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    let of_them = match (ways.len(), arriving) {
        (1, 1) => "and it arrives".to_owned(),
        (1, 0) => "and it never arrives".to_owned(),
        (_, 0) => "and none of them arrives".to_owned(),
        (all, some) if all == some => "and all of them arrive".to_owned(),
        (_, 1) => "1 of them arrives".to_owned(),
        (_, some) => format!("{some} of them arrive"),
    };
    writeln!(out, "\n{}, {of_them}", count(ways.len(), "way"))?;
    Ok(Exit::Done)
}
