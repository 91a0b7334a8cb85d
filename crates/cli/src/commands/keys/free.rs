//! `jovrik keys free`

use jovrik_core::keys::SettleError;
use jovrik_text::problem::count;
use jovrik_values::action::Action;
use jovrik_values::chord::ChordSequence;
use serde_json::json;

use super::RiceBindings;
use super::settle::{cost, settling};
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, columns};

/// List free chords, the cheapest first
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Near this chord; it need not be bound
    #[arg(long, value_name = "CHORD")]
    pub near: Option<String>,
    /// For this action, whose letters are good keys; where it is bound already is where it is near to
    #[arg(long = "for", value_name = "ACTION", add = crate::complete::whole_action())]
    pub action: Option<String>,
    /// In this scope
    #[arg(long, default_value = "desk", add = crate::complete::scope())]
    pub scope: String,
    /// In this mode of it
    #[arg(long, add = crate::complete::mode())]
    pub mode: Option<String>,
    /// How many
    #[arg(long, value_name = "N", default_value_t = 12, value_parser = clap::value_parser!(u16).range(1..=1000))]
    pub most: u16,
    /// JSON Lines: chord, cost
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let bindings = RiceBindings::read(context)?;
    let scopes = bindings.scopes();
    let wanted = |table: &jovrik_core::keys::BindingTable| {
        scopes.readers[table.scope].name == arguments.scope && table.mode == arguments.mode && !table.prefix
    };
    let table = scopes.tables.iter().position(wanted).ok_or_else(|| {
        let mode = arguments.mode.as_ref().map_or(String::new(), |mode| format!(" with a mode {mode}"));
        CommandError::Usage(format!("there is no scope {}{mode}", arguments.scope))
    })?;
    let near = arguments.near.as_deref().map(|chord| bindings.chords(chord)).transpose()?;
    let action = arguments.action.clone().unwrap_or_default();
    let bound = scopes.bound.iter().find(|bound| {
        bound.table == table && bound.lives() && (bound.what.to_string() == action || bound.note.as_deref() == Some(&action))
    });
    // Without a chord to be near to, the middle of the letters is as good as any.
    let middle = || ChordSequence::parse(if table == 0 { "Lead+g" } else { "g" }, bindings.checked.lead().word());
    let from = near.or_else(|| bound.map(|bound| bound.keys.clone())).or_else(|| middle().ok()).unwrap_or_default();
    if table == 0 && !action.is_empty() && bound.is_none() {
        Action::parse(&action).map_err(|unknown| {
            let near = unknown.near.as_ref().map_or(String::new(), |near| format!("; did you mean {near}?"));
            CommandError::Usage(format!("{action} is no action of the desk: {unknown}{near}"))
        })?;
    }
    let (free, here) = {
        let own = scopes.with_one(table, &from, &action);
        let at = own.bound.len() - 1;
        let settling = settling(&bindings, &own);
        let here = settling.fits(at);
        (settling.free(at, arguments.most.into()), here)
    };
    let lead = bindings.checked.lead();
    let mut rows: Vec<(i64, ChordSequence)> = Vec::new();
    rows.extend((here && bound.is_none()).then(|| (0, from.clone())));
    rows.extend(free);
    rows.truncate(arguments.most.into());
    let out = &mut context.out;
    if arguments.json {
        for (price, keys) in &rows {
            writeln!(out, "{}", json!({ "chord": keys.with_lead(lead), "cost": *price as f64 / 100.0 }))?;
        }
        return Ok(Exit::Done);
    }
    let Some((_, best)) = rows.first() else {
        return Err(CommandError::NoPlan(SettleError::NoPlace(0).to_string()));
    };
    let of = if action.is_empty() { String::new() } else { format!(" for {action}") };
    writeln!(out, "{}\n", Meaning::Heading.paint(&format!("Free{of}, near {}", from.with_lead(lead))))?;
    let best = best.with_lead(lead);
    let names: Vec<&str> = bindings.keyboards.iter().map(|keyboard| keyboard.layout.as_str()).collect();
    let table: Vec<Vec<String>> = rows
        .iter()
        .map(|(price, keys)| {
            vec![Meaning::Type.paint(&keys.with_lead(lead)), Meaning::Second.paint(&format!("cost {}", cost(*price)))]
        })
        .collect();
    for line in columns(&table, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    writeln!(out, "\n{} that nobody takes, on {}", count(rows.len(), "chord"), jovrik_text::problem::in_words(&names))?;
    if arguments.scope == "desk" && arguments.mode.is_none() && !action.is_empty() && bound.is_none() {
        advice(out, "  ", &format!("jovrik set 'keys.desk.\"{best}\"' '\"{action}\"'"), "binds it there")?;
    }
    Ok(Exit::Done)
}
