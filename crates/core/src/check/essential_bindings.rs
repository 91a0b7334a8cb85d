//! Whether a desk can be lived in: something opens programs, and something ends it.

use jovrik_text::problem::Problem;
use jovrik_values::action::Action;

use super::CheckContext;

/// A rice that binds fewer chords is a trial.
const MIN_BOUND_CHORDS: usize = 10;

pub(super) fn check(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    let Some(first) = rice.keys.of_desk().next().filter(|_| rice.keys.of_desk().count() >= MIN_BOUND_CHORDS) else { return };
    let lines = rice.launcher.own.values().flat_map(|list| list.values());
    let chosen: Vec<Action> = lines.filter_map(|line| Action::parse(&line.r#do).ok()).collect();
    let mut all: Vec<&Action> = chosen.iter().flat_map(Action::each).collect();
    all.extend(rice.keys.of_desk().flat_map(|at| at.binding.action.each()));
    all.extend(rice.module.values().flat_map(|module| module.press.actions()));
    let mut missing = |has: fn(&Action) -> bool, what: &str, why: &str, write: &str| {
        if !all.iter().any(|action| has(action)) {
            let problem = Problem::warning("desk/no-way", format!("no key {what}"));
            problems.push(problem.at(first.value, "among these").because(why).advise(write, "in [keys.desk]"));
        }
    };
    missing(
        |action| matches!(action, Action::Open(_) | Action::Run(_) | Action::Summon(_) | Action::Launcher(_)),
        "opens a program",
        "Nothing could be started from the desk.",
        "\"Lead+Return\" = \"open terminal\"",
    );
    missing(
        |action| matches!(action, Action::Quit),
        "ends the desktop",
        "It could only be left by ending its process; jovrik tell quit does it, too.",
        "\"Lead+Shift+q\" = \"quit\"",
    );
}
