//! `jovrik keys clash`

use jovrik_core::keys::{Conflict, ConflictKind, fights};
use jovrik_text::problem::{Severity, count, in_words};
use serde_json::json;

use super::RiceBindings;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, columns};

/// Show which bindings fight for a press, by the fight
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// JSON Lines: code, chord, title, layouts, bindings (chord, written, scope, mode, action, note, fixed, known, file, line)
    #[arg(long)]
    pub json: bool,
}

const FIGHTS: [&str; 4] = ["keys/twice", "keys/stalls", "keys/swallowed", "keys/displaced"];

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let bindings = RiceBindings::read(context)?;
    let (names, scopes) = (bindings.names(), bindings.scopes());
    let mut fights = fights(scopes, &bindings.keyboards);
    // What somebody must decide first: what can do nothing right, then what is merely lost.
    fights.sort_by_key(|fight| (fight.kind, fight.bindings.clone()));
    let problems = &bindings.checked.problems;
    let others: Vec<_> = problems
        .iter()
        .filter(|one| one.code.starts_with("keys/") && !FIGHTS.contains(&one.code) && one.elsewhere.is_none())
        .collect();
    let serious = fights.iter().any(|fight| fight.kind != ConflictKind::Displaced)
        || others.iter().any(|one| one.severity == Severity::Error);
    let exit = if serious { Exit::Invalid } else { Exit::Done };
    let width = context.width;
    let out = &mut context.out;
    if arguments.json {
        for fight in &fights {
            let first = bindings.at(fight.bindings[0]);
            let sides: Vec<_> = fight.bindings.iter().map(|at| bindings.json(bindings.at(*at))).collect();
            let on: Vec<&str> = fight.layouts.iter().map(|at| bindings.keyboards.nth(*at).layout.as_str()).collect();
            let told = json!({ "code": fight.kind.code(), "chord": names.chord(first), "title": names.title(fight), "layouts": on, "bindings": sides });
            writeln!(out, "{told}")?;
        }
        for problem in &others {
            writeln!(out, "{}", json!({ "code": problem.code, "title": problem.title }))?;
        }
        return Ok(exit);
    }
    let several = scopes.tables_used() > 1;
    for fight in &fights {
        let meaning = if fight.kind == ConflictKind::Displaced { Meaning::Warning } else { Meaning::Error };
        writeln!(out, "{}  {}", meaning.paint(fight.kind.code()), Meaning::Heading.paint(&names.title(fight)))?;
        let rows: Vec<Vec<String>> = fight.bindings.iter().map(|at| row(&bindings, fight, *at, several)).collect();
        for line in columns(&rows, "  ", context.width) {
            writeln!(out, "{line}")?;
        }
        writeln!(out)?;
    }
    for problem in &others {
        let meaning = if problem.severity == Severity::Error { Meaning::Error } else { Meaning::Warning };
        writeln!(out, "{}  {}", meaning.paint(problem.code), Meaning::Heading.paint(&problem.title))?;
        if let Some(mark) = problem.marks.first() {
            writeln!(out, "  {}  {}", Meaning::Place.paint(&bindings.checked.sources.place(mark.span)), mark.note)?;
        }
        writeln!(out)?;
    }
    let among = {
        let scopes = scopes.readers_used();
        let all = count(scopes_count(&bindings), "binding");
        if scopes > 1 { format!("{all} in {}", count(scopes, "scope")) } else { all }
    };
    let layouts: Vec<&str> = bindings.keyboards.iter().map(|keyboard| keyboard.layout.as_str()).collect();
    let layouts = format!("{} {}", if layouts.len() == 1 { "layout" } else { "layouts" }, in_words(&layouts));
    if fights.is_empty() && others.is_empty() {
        let text = format!("{}: {among} live in peace, {layouts}.", Meaning::Done.paint("No fights"));
        crate::report::sentence(out, &text, width)?;
        return Ok(exit);
    }
    let hard = fights.iter().filter(|fight| fight.kind != ConflictKind::Displaced).count();
    let lost = fights.len() - hard;
    let mut said = Vec::new();
    said.extend((hard > 0).then(|| count(hard, "fight")));
    said.extend(
        (lost > 0).then(|| format!("{} taken from {}", count(lost, "key"), if lost == 1 { "a program" } else { "programs" })),
    );
    said.extend((!others.is_empty()).then(|| format!("{} of another kind", count(others.len(), "problem"))));
    writeln!(out, "{} among {among}, {layouts}", in_words(&said))?;
    if hard > 0 {
        advice(out, "  ", "jovrik keys settle", "finds the cheapest peace")?;
    } else if let Some(fight) = fights.first() {
        let chord = names.chord(bindings.at(fight.bindings[1]));
        let scope = &scopes.reader_of(fight.bindings[1]).name;
        advice(out, "  ", &format!("jovrik keys settle --keep \"{scope}: {chord}\""), "gives one back to its program")?;
    }
    Ok(exit)
}

fn scopes_count(bindings: &RiceBindings) -> usize {
    bindings.scopes().bound.iter().filter(|bound| bound.lives() && bound.place.written()).count()
}

fn row(bindings: &RiceBindings, fight: &Conflict, at: usize, several: bool) -> Vec<String> {
    let bound = bindings.at(at);
    let role = match fight.kind {
        ConflictKind::Swallowed | ConflictKind::Displaced if at == fight.bindings[0] => "takes it",
        ConflictKind::Swallowed => "never gets it",
        ConflictKind::Displaced => "loses it",
        ConflictKind::Stalls if at == fight.bindings[0] => "would have to wait",
        ConflictKind::Stalls => "begins so",
        ConflictKind::Twice => "",
    };
    let mut notes: Vec<String> = Vec::new();
    notes.extend((!role.is_empty()).then(|| role.to_owned()));
    notes.extend(bound.note.clone());
    notes.extend((bound.fixed && !bound.known).then(|| "fixed".to_owned()));
    let mut row = vec![bound.written.clone()];
    row.extend(several.then(|| bindings.scope(bound)));
    row.extend([bound.what.to_string(), bindings.place(bound), Meaning::Second.paint(&notes.join("; "))]);
    row
}
