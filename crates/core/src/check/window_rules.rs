//! Window rules that do nothing, say two things at once, or name a workspace that is not there.

use foldhash::{HashMap, HashMapExt};
use jovrik_text::Span;
use jovrik_text::problem::{Problem, in_words};

use super::CheckContext;
use crate::desk::rules_in_order;
use crate::rice::{RuleSettings, WindowMatch, WindowOverrides};

/// Pairs of settings that cannot both come true, and why.
const PAIRS: &[(&str, &str, &str)] = &[
    ("tucked", "focus", "A window that is out of sight has no focus."),
    ("tucked", "full", "A window that is out of sight covers nothing."),
    ("focus", "steal-focus", "Whether it takes the focus is said twice."),
    ("float", "size", "A tile has the size that its layout gives it."),
    ("float", "at", "A tile lies where its layout puts it."),
    ("workspace", "monitor", "A workspace lives on a monitor already."),
];

pub(super) fn check(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    let workspaces = looker.rolls.workspaces(rice);
    let ordered = rules_in_order(rice);
    let mut stops: Vec<(&String, &WindowMatch)> = Vec::new();
    let mut before: HashMap<String, &String> = HashMap::new();
    for (name, rule) in ordered {
        let at = |path: &[&str]| {
            let path: Vec<&str> = ["rule", name].into_iter().chain(path.iter().copied()).collect();
            looker.node(&path).filter(|node| node.span.written())
        };
        let place = || at(&["match"]).map(|node| node.span).or_else(|| key_of(looker, name));
        if let (Some(workspace), Some(node)) = (&rule.set.workspace, at(&["set", "workspace"]))
            && !workspaces.has(workspace)
        {
            problems.push(workspaces.no_such(
                "rule/no-workspace",
                workspace,
                node,
                "The window would appear where one happens to be.",
            ));
        }
        contradicts(&rule.set, &|setting| at(&["set", setting]).map(|node| node.span), problems);
        let Some(place) = place() else { continue };
        if let Some((title, note)) = never(looker, name, rule) {
            problems.push(Problem::warning("rule/never", title).at(place, note).because("No window would ever notice it."));
            continue;
        }
        if let Some((other, _)) = stops.iter().find(|(_, earlier)| within(earlier, &rule.r#match)) {
            problems.push(
                Problem::warning("rule/unreachable", format!("rule.{name} is never asked"))
                    .at(place, format!("rule.{other} stops the asking for all of these"))
                    .because("It sets nothing on any window.")
                    .advise(format!("jovrik set rule.{name}.order -1"), "asks it first"),
            );
        }
        let text = format!("{:?} {:?}", rule.r#match, rule.set);
        if let Some(other) = before.insert(text, name) {
            problems.push(
                Problem::warning("rule/same", format!("rule.{name} says what rule.{other} says"))
                    .at(place, "the same windows, and the same settings")
                    .because("One of them is enough."),
            );
        }
        if rule.stop {
            stops.push((name, &rule.r#match));
        }
    }
}

/// Where the table of a rule begins.
fn key_of(looker: &CheckContext<'_>, name: &str) -> Option<Span> {
    looker.tree.get(&["rule", name]).and_then(jovrik_schema::Tree::branch).and_then(|branch| branch.key)
}

/// Why a rule is for no window, or does nothing to any.
fn never(looker: &CheckContext<'_>, name: &str, rule: &RuleSettings) -> Option<(String, String)> {
    let rice = looker.rice;
    if rule.set == WindowOverrides::default() && !rule.stop {
        return Some((format!("rule.{name} sets nothing"), "set is empty".to_owned()));
    }
    let pattern = |of: &str| rule.r#match.texts.iter().find(|(text, _)| *text == of).map(|(_, pattern)| pattern);
    let none = |of: &str, what: &str, names: Vec<&str>| {
        let pattern = pattern(of).filter(|pattern| !names.iter().any(|name| pattern.matches(name)))?;
        let there = if names.is_empty() { "there is none".to_owned() } else { format!("there is {}", in_words(&names)) };
        Some((format!("rule.{name} is for no window: no {what} is called {}", pattern.words()), there))
    };
    none("workspace", "workspace", rice.workspace_names())
        .or_else(|| none("program", "program", rice.program.keys().map(String::as_str).collect()))
}

/// Whether every window of one match is also one of another.
fn within(wide: &WindowMatch, narrow: &WindowMatch) -> bool {
    wide.texts.iter().all(|text| narrow.texts.contains(text))
        && wide.kind.is_none_or(|kind| narrow.kind == Some(kind))
        && wide.transient.is_none_or(|transient| narrow.transient == Some(transient))
}

fn contradicts(set: &WindowOverrides, at: &dyn Fn(&str) -> Option<Span>, problems: &mut Vec<Problem>) {
    let on = |setting: &str| match setting {
        "tucked" => set.tucked == Some(true),
        "full" => set.full == Some(true),
        // Only a window that is to be a tile has no size of its own.
        "float" => set.float == Some(false),
        _ => true,
    };
    for (first, second, why) in PAIRS {
        let meant = match (*first, *second) {
            ("tucked", "focus") => set.focus == Some(true),
            ("focus", "steal-focus") => set.focus.is_some() && set.steal_focus.is_some_and(|steals| Some(steals) != set.focus),
            _ => on(second),
        };
        if let (true, true, Some(one), Some(other)) = (on(first), meant, at(first), at(second)) {
            problems.push(
                Problem::warning("rule/contradicts", format!("{first} and {second} contradict each other"))
                    .at(one, format!("{first} is set here"))
                    .at(other, format!("{second} here"))
                    .because(*why),
            );
        }
    }
}
