//! `jovrik keys settle`

use std::collections::BTreeMap;
use std::io::{BufRead, Write};

use jovrik_core::keys::{Conflict, Plan, Rebinding, Scopes, SettleError, SettleProblem, fights};
use jovrik_text::problem::{Edit, count, in_words};
use jovrik_toml::quoted;
use jovrik_values::chord::ChordSequence;
use serde_json::json;

use super::RiceBindings;
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, columns};

/// Find new chords for bindings that fight, so that the whole change is the cheapest possible
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// A binding that stays where it is, such as Lead+g or "editor: Ctrl+u"; may be given more than once
    #[arg(long, value_name = "CHORD")]
    pub keep: Vec<String>,
    /// A binding and its new chord, such as close=Lead+x; whoever is there makes room
    #[arg(long = "move", value_name = "ACTION=CHORD")]
    pub to: Vec<String>,
    /// Bindings that are in no fight may move too
    #[arg(long)]
    pub chain: bool,
    /// Show so many proposals, the cheapest first
    #[arg(long, value_name = "N", default_value_t = 1, conflicts_with_all = ["write", "ask"], value_parser = clap::value_parser!(u8).range(1..=20))]
    pub best: u8,
    /// Go through the fights one by one, and choose
    #[arg(long)]
    pub ask: bool,
    /// Write the new chords where the bindings stand
    #[arg(long)]
    pub write: bool,
    /// JSON Lines, a proposal each: cost, gap, fights, moves (binding, to, cost, reasons)
    #[arg(long, conflicts_with = "ask")]
    pub json: bool,
}

/// Hundredths as people read them: `9.3`.
pub fn cost(hundredths: i64) -> String {
    let tenths = (hundredths + 5) / 10;
    format!("{}.{}", tenths / 10, tenths % 10)
}

/// Why there is no peace, as people read it.
pub fn no_plan(bindings: &RiceBindings, why: SettleError) -> CommandError {
    let name = |at: usize| {
        let bound = bindings.at(at);
        format!("{} ({})", bindings.names().chord(bound), bindings.checked.sources.place(bound.place))
    };
    CommandError::NoPlan(match why {
        SettleError::AllFixed(all) => {
            let names: Vec<String> = all.into_iter().map(name).collect();
            format!("no peace is possible: {} may not move", in_words(&names))
        }
        SettleError::NoPlace(at) => format!("no peace is possible: no free place is left for {}", name(at)),
        SettleError::NoKey(at) => format!("no peace is possible: no key of a layout makes what {} is to become", name(at)),
    })
}

/// What is to be settled in a rice, with nothing asked for yet.
pub fn settling<'a>(bindings: &'a RiceBindings, scopes: &'a Scopes) -> SettleProblem<'a> {
    SettleProblem {
        scopes,
        keyboards: &bindings.keyboards,
        cost: &bindings.checked.rice.keys.cost,
        lead: bindings.checked.lead(),
        keep: Vec::new(),
        given: Vec::new(),
        chain: false,
        only: None,
        give_back: Vec::new(),
    }
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    context.go_to_edited_copy()?;
    let bindings = RiceBindings::read(context)?;
    let mut keep = Vec::new();
    for asked in &arguments.keep {
        keep.push(bindings.find(asked)?);
    }
    let mut given = Vec::new();
    for asked in &arguments.to {
        let (action, chord) =
            asked.split_once('=').ok_or_else(|| CommandError::Usage(format!("{asked}: expected ACTION=CHORD")))?;
        given.push((bindings.find_any(action.trim())?, bindings.chords(chord.trim())?));
    }
    let settling = SettleProblem { keep, given, chain: arguments.chain, ..settling(&bindings, bindings.scopes()) };
    if arguments.ask {
        return ask(&bindings, &settling, context);
    }
    let plans = settling.plans(arguments.best.into()).map_err(|why| no_plan(&bindings, why))?;
    if arguments.json {
        for plan in &plans {
            writeln!(context.out, "{}", told(&bindings, plan))?;
        }
        if !arguments.write {
            return Ok(Exit::Done);
        }
    }
    let Some(plan) = plans.first() else { return Ok(Exit::Done) };
    if plan.fights.is_empty() && plan.moves.is_empty() {
        if !arguments.json {
            writeln!(context.out, "{}: nothing has to move.", Meaning::Done.paint("No fights"))?;
        }
        return Ok(Exit::Done);
    }
    if !arguments.json {
        for (nth, plan) in plans.iter().enumerate() {
            let head = if plans.len() > 1 { format!("Proposal {}: ", nth + 1) } else { String::new() };
            let more = (nth > 0).then(|| plan.cost - plans[0].cost);
            show(&bindings, plan, &head, more, context)?;
        }
        if plans.len() < usize::from(arguments.best) {
            writeln!(context.out, "There are no other ones.")?;
        }
    }
    if arguments.best > 1 {
        return Ok(Exit::Done);
    }
    let moves: Vec<(usize, ChordSequence)> = plan.moves.iter().map(|step| (step.binding, step.to.clone())).collect();
    let flags = |name: &str, values: &[String]| {
        values.iter().map(|value| format!("--{name} {} ", jovrik_text::shell_line(&[value]))).collect::<String>()
    };
    let chain = if arguments.chain { "--chain " } else { "" };
    let command = format!("jovrik keys settle {}{}{chain}--write", flags("keep", &arguments.keep), flags("move", &arguments.to));
    finish(&bindings, &moves, arguments.write.then_some("settle"), &command, arguments.json, context)
}

fn told(bindings: &RiceBindings, plan: &Plan) -> serde_json::Value {
    let names = bindings.names();
    let step = |step: &Rebinding| json!({ "binding": bindings.json(bindings.at(step.binding)), "to": step.to.with_lead(names.lead), "cost": step.cost as f64 / 100.0, "reasons": step.reasons });
    json!({
        "cost": plan.cost as f64 / 100.0,
        "gap": plan.gap as f64 / 100.0,
        "fights": plan.fights.iter().map(|fight| names.title(fight)).collect::<Vec<_>>(),
        "moves": plan.moves.iter().map(step).collect::<Vec<_>>(),
    })
}

/// Shows a plan: each fight with who stays and who moves, then what else moves. `more` is what it costs above the cheapest.
pub fn show(
    bindings: &RiceBindings,
    plan: &Plan,
    head: &str,
    more: Option<i64>,
    context: &mut Context,
) -> Result<(), CommandError> {
    let out = &mut context.out;
    let proof = match (more, plan.gap) {
        (Some(0), _) => "as cheap as the first".to_owned(),
        (Some(more), _) => format!("{} more than the first", cost(more)),
        (None, 0) => "the least possible".to_owned(),
        (None, gap) => format!("at most {} above the least possible", cost(gap)),
    };
    let (fought, moved) = (count(plan.fights.len(), "fight"), count(plan.moves.len(), "move"));
    let fought = if plan.fights.is_empty() { String::new() } else { format!("{fought}, ") };
    let heading = format!("{head}{fought}{moved}, cost {}", cost(plan.cost));
    writeln!(out, "{} ({proof})\n", Meaning::Heading.paint(&heading))?;
    let several = bindings.scopes().tables_used() > 1;
    let lead = bindings.checked.lead();
    let row = |at: usize| {
        let bound = bindings.at(at);
        let moved = plan.moves.iter().find(|step| step.binding == at);
        let to = moved.map_or_else(|| "stays".to_owned(), |step| Meaning::Type.paint(&format!("→ {}", step.to.with_lead(lead))));
        let said = match moved {
            Some(step) => format!("cost {}", cost(step.cost)),
            None if bound.known => "by itself".to_owned(),
            None if bound.fixed => "fixed".to_owned(),
            None => String::new(),
        };
        let mut row = vec![bound.written.clone(), to];
        row.extend(several.then(|| bindings.scope(bound)));
        row.extend([bound.what.to_string(), bindings.place(bound), said]);
        (row, moved.map(|step| step.reasons.join(", ")))
    };
    let mut told: Vec<usize> = Vec::new();
    let mut rows = Vec::new();
    let others: Vec<usize> = plan.moves.iter().map(|step| step.binding).collect();
    for (nth, all) in plan.fights.iter().map(|fight| &fight.bindings).chain([&others]).enumerate() {
        for at in all {
            if !told.contains(at) {
                told.push(*at);
                rows.push((nth, row(*at)));
            }
        }
    }
    let mut before = rows.first().map_or(0, |(nth, _)| *nth);
    let cells: Vec<Vec<String>> = rows.iter().map(|(_, (row, _))| row.clone()).collect();
    for (line, (nth, (_, reasons))) in columns(&cells, "  ", context.width).into_iter().zip(rows) {
        if nth != before {
            writeln!(out)?;
            before = nth;
        }
        writeln!(out, "{line}")?;
        if let Some(reasons) = reasons {
            writeln!(out, "    {}", Meaning::Second.paint(&reasons))?;
        }
    }
    writeln!(out)?;
    Ok(())
}

/// Writes moves where the bindings stand, or says what would be written; `by` is the command that does it.
pub fn finish(
    bindings: &RiceBindings,
    moves: &[(usize, ChordSequence)],
    by: Option<&str>,
    command: &str,
    quiet: bool,
    context: &mut Context,
) -> Result<Exit, CommandError> {
    let lead = bindings.checked.lead();
    let sources = &bindings.checked.sources;
    let edit = |(at, to): &(usize, ChordSequence)| {
        let span = bindings.at(*at).place;
        let chord = to.with_lead(lead);
        let text = if sources.slice(span).starts_with('\'') { format!("'{chord}'") } else { quoted(&chord) };
        Edit { span, text }
    };
    let edits: Vec<Edit> = moves.iter().map(edit).collect();
    let mut files: Vec<&str> =
        edits.iter().filter_map(|edit| sources.get(edit.span.file)).map(|file| file.name.as_str()).collect();
    files.sort_unstable();
    files.dedup();
    let files = in_words(&files);
    let Some(by) = by else {
        advice(&mut context.out, "", command, &format!("changes {files}"))?;
        return Ok(Exit::Done);
    };
    if edits.is_empty() {
        return Ok(Exit::Done);
    }
    let words = format!("{} by keys {by}", count(moves.len(), "binding"));
    let mut writer = jovrik_home::TransactionManager::open(&context.home)?;
    let planned = jovrik_home::edit::edits(bindings.checked.clone(), edits, &context.around()?)?;
    let written = crate::commands::set::write(&planned, &mut writer, by, &words, context)?;
    if !quiet {
        crate::commands::set::tell_copy(&planned, Some(&written), context)?;
    }
    Ok(Exit::Done)
}

/// Goes through the fights one by one: each is settled as the person chooses, or left alone.
fn ask(bindings: &RiceBindings, asked: &SettleProblem<'_>, context: &mut Context) -> Result<Exit, CommandError> {
    let mut scopes = asked.scopes.clone();
    let mut moved: BTreeMap<usize, ChordSequence> = BTreeMap::new();
    let mut left: Vec<Conflict> = Vec::new();
    let serious = |fight: &Conflict| fight.kind != jovrik_core::keys::ConflictKind::Displaced;
    let total = fights(&scopes, &bindings.keyboards).iter().filter(|fight| serious(fight)).count();
    let mut lines = std::io::stdin().lock().lines();
    let mut nth = 0;
    while let Some(fight) = fights(&scopes, &bindings.keyboards).into_iter().find(|fight| serious(fight) && !left.contains(fight))
    {
        nth += 1;
        let now = bindings.with(scopes.clone());
        let one =
            SettleProblem { scopes: &scopes, only: Some(fight.clone()), keep: asked.keep.clone(), ..settling(bindings, &scopes) };
        let plans = one.plans(3);
        let out = &mut context.out;
        let title = Meaning::Heading.paint(&now.names().title(&fight));
        writeln!(out, "{}  {title}", Meaning::Second.paint(&format!("{nth} of {}", total.max(nth))))?;
        let several = scopes.tables_used() > 1;
        let side = |at: &usize| {
            let bound = now.at(*at);
            let mut row = vec![bound.written.clone()];
            row.extend(several.then(|| now.scope(bound)));
            row.extend([bound.meaning(), now.place(bound)]);
            row
        };
        for line in columns(&fight.bindings.iter().map(side).collect::<Vec<_>>(), "  ", context.width) {
            writeln!(out, "{line}")?;
        }
        let plans = match plans {
            Ok(plans) => plans,
            Err(why) => {
                writeln!(out, "  {}\n", no_plan(&now, why))?;
                left.push(fight);
                continue;
            }
        };
        writeln!(out)?;
        let lead = bindings.checked.lead();
        let mut choices: Vec<Vec<String>> = Vec::new();
        for (nth, plan) in plans.iter().enumerate() {
            let step = |step: &Rebinding| format!("{} → {}", now.at(step.binding).meaning(), step.to.with_lead(lead));
            let steps: Vec<String> = plan.moves.iter().map(step).collect();
            choices.push(vec![
                Meaning::Type.paint(&(nth + 1).to_string()),
                in_words(&steps),
                Meaning::Second.paint(&format!("cost {}", cost(plan.cost))),
            ]);
        }
        choices.push(vec![Meaning::Type.paint("s"), "leave it as it is".to_owned()]);
        choices.push(vec![Meaning::Type.paint("q"), "stop here".to_owned()]);
        for line in columns(&choices, "  ", context.width) {
            writeln!(context.out, "{line}")?;
        }
        let chosen = loop {
            write!(context.out, "choose: ")?;
            context.out.flush()?;
            let Some(line) = lines.next().transpose()? else { break None };
            match line.trim() {
                "q" => break None,
                "s" => break Some(None),
                word => match word.parse::<usize>().ok().and_then(|nth| plans.get(nth.checked_sub(1)?)) {
                    Some(plan) => break Some(Some(plan.moves.clone())),
                    None => writeln!(context.out, "one of 1 to {}, s or q", plans.len())?,
                },
            }
        };
        writeln!(context.out)?;
        match chosen {
            None => break,
            Some(None) => left.push(fight),
            Some(Some(moves)) => {
                for step in moves {
                    scopes.bound[step.binding].keys = step.to.clone();
                    scopes.bound[step.binding].written = step.to.with_lead(lead);
                    moved.insert(step.binding, step.to);
                }
            }
        }
    }
    if total == 0 {
        writeln!(context.out, "{}: nothing has to move.", Meaning::Done.paint("No fights"))?;
        return Ok(Exit::Done);
    }
    if moved.is_empty() {
        writeln!(context.out, "Nothing was chosen, nothing is changed.")?;
        return Ok(Exit::Done);
    }
    let moves: Vec<(usize, ChordSequence)> = moved.into_iter().collect();
    for (at, to) in &moves {
        let bound = bindings.at(*at);
        writeln!(
            context.out,
            "  {} → {}  {}",
            bound.written,
            Meaning::Type.paint(&to.with_lead(bindings.checked.lead())),
            bound.meaning()
        )?;
    }
    write!(context.out, "write {}? y or n: ", count(moves.len(), "move"))?;
    context.out.flush()?;
    let yes = lines.next().transpose()?.is_some_and(|line| matches!(line.trim(), "y" | "yes"));
    if !yes {
        writeln!(context.out, "nothing is changed")?;
        return Ok(Exit::Done);
    }
    finish(bindings, &moves, Some("settle"), "", false, context)
}
