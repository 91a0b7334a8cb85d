//! The dock: what stands in it is there, and stands there once.

use jovrik_text::problem::{Problem, nearest};
use jovrik_toml::{SpannedValue, TomlValue};
use jovrik_values::action::Action;

use super::{CheckContext, HostInfo, keys};
use crate::rice::SEPARATOR;

/// The names that are kept, with their places.
fn kept<'l>(looker: &'l CheckContext<'_>) -> Vec<(&'l str, &'l SpannedValue)> {
    let node = looker.node(&["dock", "keep"]);
    match node.map(|node| &node.value) {
        Some(TomlValue::Array(items)) => items.iter().filter_map(|item| Some((item.text()?, item))).collect(),
        _ => Vec::new(),
    }
}

pub(super) fn check(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let mut seen: Vec<(&str, &SpannedValue)> = Vec::new();
    for (name, node) in kept(looker).into_iter().filter(|(name, _)| *name != SEPARATOR) {
        if let Some((_, first)) = seen.iter().find(|(own, _)| *own == name) {
            problems.push(
                Problem::warning("dock/twice", format!("{name} stands twice in the dock"))
                    .at(node.span, "a second time")
                    .at(first.span, "here already")
                    .because("Its windows are shown at the first one alone."),
            );
        }
        seen.push((name, node));
    }
    for name in looker.rice.dock.own.keys() {
        let Some(node) = looker.node(&["dock", "own", name, "do"]) else { continue };
        let action = node.text().and_then(|text| Action::parse(text).ok());
        problems.extend(action.and_then(|action| keys::leads_nowhere(looker, &action, node)));
    }
}

/// What is neither of the rice nor on a computer.
pub(super) fn entries(looker: &CheckContext<'_>, around: &dyn HostInfo, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    for (name, node) in kept(looker) {
        let known = name == SEPARATOR || rice.dock.own.contains_key(name) || rice.program.contains_key(name);
        if known || around.has_entry(name) != Some(false) {
            continue;
        }
        let near = nearest(name, rice.program.keys().chain(rice.dock.own.keys()).map(String::as_str));
        let problem =
            Problem::warning("dock/no-entry", format!("there is no program and no desktop entry {name} on {}", around.name()))
                .because("Nothing stands in the dock for it.");
        problems.push(match near {
            Some(near) => problem.at(node.span, format!("did you mean {near}?")).mend(node.span, jovrik_toml::quoted(near), near),
            None => problem
                .at(node.span, "neither in [program] nor in [dock.own], nor an entry")
                .advise("[program]", format!("{name} = \"COMMAND\" makes it one of the rice")),
        });
    }
}
