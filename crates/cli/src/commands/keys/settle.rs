//! `jovrik keys settle`

use jovrik_core::keys::{Keyboard, Keys, NoPlan, Settling};
use jovrik_core::load::quoted;
use jovrik_core::problem::{Edit, count};

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, advice, columns};

/// Find new chords for bindings that fight, so that the whole change is the cheapest possible
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// A binding that stays where it is; may be given more than once
    #[arg(long, value_name = "CHORD")]
    pub keep: Vec<String>,
    /// Write the new chords where the bindings stand
    #[arg(long)]
    pub write: bool,
}

/// Hundredths as people read them: `9.3`.
fn cost(hundredths: i64) -> String {
    let tenths = (hundredths + 5) / 10;
    format!("{}.{}", tenths / 10, tenths % 10)
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let checked = context.read()?;
    let bindings = &checked.rice.keys.desk.0;
    let lead = checked.lead();
    let mut keep = Vec::new();
    for chord in &arguments.keep {
        let keys = Keys::parse(chord, lead.word()).map_err(|_| Failure::Usage(format!("{chord} is no chord")))?;
        // Of those that fight for it the one that is spelled so is meant, else the first.
        let spelled = bindings.iter().position(|binding| binding.written == *chord);
        let at = spelled.or_else(|| bindings.iter().position(|binding| binding.keys == keys));
        keep.push(at.ok_or_else(|| Failure::Usage(format!("nothing is bound to {chord}")))?);
    }
    let settling = Settling { bindings, keyboard: Keyboard::us(), cost: &checked.rice.keys.cost, lead, keep };
    let name = |at: usize| format!("{} ({})", bindings[at].keys.with_lead(lead), checked.sources.place(bindings[at].place));
    let plan = settling.plan().map_err(|why| match why {
        NoPlan::AllFixed(all) => {
            let names: Vec<String> = all.into_iter().map(name).collect();
            Failure::NoPlan(format!("no peace is possible: {} may not move", jovrik_core::problem::in_words(&names)))
        }
        NoPlan::NoPlace(at) => Failure::NoPlan(format!("no peace is possible: no free place is left for {}", name(at))),
    })?;
    let out = &mut context.out;
    if plan.fights.is_empty() {
        writeln!(out, "{}: nothing has to move.", Meaning::Done.paint("No fights"))?;
        return Ok(Exit::Done);
    }
    let proof = if plan.gap == 0 {
        "the least possible".to_owned()
    } else {
        format!("at most {} above the least possible", cost(plan.gap))
    };
    writeln!(
        out,
        "{}, {}, cost {} ({proof})\n",
        count(plan.fights.len(), "fight"),
        count(plan.moves.len(), "move"),
        cost(plan.cost)
    )?;
    let mut rows = Vec::new();
    let mut ends = Vec::new();
    let mut told = Vec::new();
    for (nth, fight) in plan.fights.iter().enumerate() {
        for at in &fight.bindings {
            if told.contains(at) {
                continue;
            }
            told.push(*at);
            let binding = &bindings[*at];
            let moved = plan.moves.iter().find(|step| step.binding == *at);
            let to = moved.map_or_else(|| "stays".to_owned(), |step| format!("→ {}", step.to.with_lead(lead)));
            let to = if moved.is_some() { Meaning::Type.paint(&to) } else { to };
            let said = match moved {
                Some(step) => format!("cost {}", cost(step.cost)),
                None if binding.binding.fixed => "fixed".to_owned(),
                None => String::new(),
            };
            rows.push(vec![
                binding.written.clone(),
                to,
                binding.binding.action.to_string(),
                Meaning::Place.paint(&checked.sources.place(binding.place)),
                said,
            ]);
            ends.push((nth, moved.map(|step| step.reasons.join(", "))));
        }
    }
    let mut before = 0;
    for (line, (fight, reasons)) in columns(&rows, "  ", context.width).into_iter().zip(ends) {
        if fight != before {
            writeln!(out)?;
            before = fight;
        }
        writeln!(out, "{line}")?;
        if let Some(reasons) = reasons {
            writeln!(out, "    {}", Meaning::Second.paint(&reasons))?;
        }
    }
    let edits: Vec<Edit> = plan
        .moves
        .iter()
        .map(|step| {
            let span = bindings[step.binding].place;
            let chord = step.to.with_lead(lead);
            let literal = checked.sources.slice(span).starts_with('\'');
            Edit { span, text: if literal { format!("'{chord}'") } else { quoted(&chord) } }
        })
        .collect();
    let mut files: Vec<&str> =
        edits.iter().filter_map(|edit| checked.sources.get(edit.span.file)).map(|file| file.name.as_str()).collect();
    files.sort_unstable();
    files.dedup();
    let files = jovrik_core::problem::in_words(&files);
    writeln!(out)?;
    if !arguments.write {
        advice(out, "", "jovrik keys settle --write", &format!("changes {files}"))?;
        return Ok(Exit::Done);
    }
    let words = format!("{} by keys settle", count(plan.moves.len(), "binding"));
    let (folder, around) = (context.folder()?, context.around()?);
    let planned = jovrik_home::edit::edits(|| jovrik_home::read_folder(&folder), checked, edits, &around)?;
    jovrik_home::apply::write_recorded(&planned.writes(&folder), &context.home, "settle", &words)?;
    writeln!(context.out, "changed {}", Meaning::Place.paint(&files))?;
    advice(&mut context.out, "  ", "jovrik undo", "takes it back")?;
    Ok(Exit::Done)
}
