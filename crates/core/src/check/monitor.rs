//! Monitors that no computer has.

use jovrik_schema::Glob;
use jovrik_text::problem::{Problem, in_words};

use super::CheckContext;
use super::name_index::NameIndex;
use crate::desk::MonitorFacts;
use crate::rice::MonitorPosition;

/// What asks nothing of a computer: monitors that lie beside, or mirror, one that is named nowhere.
pub(super) fn check(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let names = NameIndex::of("monitor", looker.rice.monitor.keys().map(String::as_str));
    for (name, rule) in looker.rice.monitor.iter() {
        // An output's own name has a number in it: DP-1.
        let unknown = |other: &str| !names.has(other) && !other.contains(|c: char| c.is_ascii_digit());
        let beside = match &rule.at {
            Some(MonitorPosition::Beside(_, other)) => Some(("at", other)),
            _ => None,
        };
        for (setting, other) in beside.into_iter().chain(rule.mirrors.as_ref().map(|other| ("mirrors", other))) {
            if let Some(node) = looker.node(&["monitor", name, setting]).filter(|_| unknown(other)) {
                let why = "It would stay where it is. A monitor has its name from [monitor.NAME], or from its output.";
                problems.push(names.no_such("monitor/unknown", other, node, why));
            }
        }
    }
}

/// Patterns that no monitor of any computer in question fits; `known` are all of those.
pub(super) fn never(looker: &CheckContext<'_>, known: &[MonitorFacts], problems: &mut Vec<Problem>) {
    let mut names: Vec<&str> = known.iter().map(|monitor| monitor.name.as_str()).collect();
    names.dedup();
    let mut look = |glob: &Glob, path: &[&str], why: &str| {
        let Some(node) = looker.node(path).filter(|node| node.span.written()) else { return };
        if !known.iter().any(|monitor| monitor.is(glob)) {
            problems.push(
                Problem::warning("monitor/never", format!("no monitor is called {}", glob.0))
                    .at(node.span, format!("there {} {}", if names.len() == 1 { "is" } else { "are" }, in_words(&names)))
                    .because(why)
                    .advise("jovrik machine", "says what the monitors of this computer are called"),
            );
        }
    };
    for (name, rule) in looker.rice.monitor.iter() {
        look(&rule.r#match, &["monitor", name, "match"], "The settings of this monitor would never be used.");
    }
    for (name, bar) in looker.rice.bar.iter() {
        look(&bar.monitor, &["bar", name, "monitor"], "The bar would never be seen.");
    }
}
