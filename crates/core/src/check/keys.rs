//! Bindings: fights, keys that are taken, actions that lead nowhere.

use super::{Looker, no_such};
use crate::desk::{Action, Which};
use crate::keys::{Keyboard, fights};
use crate::load::Node;
use crate::problem::Problem;
use crate::rice::BindingAt;

pub(super) fn check(looker: &Looker<'_>, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    let keyboard = Keyboard::us();
    let bindings = &rice.keys.desk.0;
    problems.extend(fights(bindings, keyboard).iter().map(|fight| fight.problem(bindings, rice.keys.lead.0)));
    for at in bindings {
        let reserved = at.keys.0.first().is_some_and(|chord| keyboard.reserved(keyboard.press(chord)));
        if reserved {
            problems.push(
                Problem::error("keys/reserved", format!("{} never arrives: the kernel takes it to change consoles", at.keys))
                    .at(at.place, "choose other keys")
                    .because("Ctrl+Alt+F1 to F12 are asked for before any desktop is."),
            );
        }
        target(looker, at, problems);
    }
}

/// Checks what the action of a binding names.
fn target(looker: &Looker<'_>, at: &BindingAt, problems: &mut Vec<Problem>) {
    let text = looker.sources.slice(at.value).to_owned();
    // The place of a plain action is its text; of a table, the whole table, which is never mended.
    let node = Node { span: at.value, ..Node::built_in(crate::load::Value::Text(at.binding.action.to_string())) };
    let plain = text.starts_with(['"', '\'']);
    problems.extend(
        leads_nowhere(looker, &at.binding.action, &node).map(
            |problem| {
                if plain { problem } else { Problem { fix: None, ..problem } }
            },
        ),
    );
}

/// What an action names and is not there; `node` is the action as a text, where it stands.
pub(super) fn leads_nowhere(looker: &Looker<'_>, action: &Action, node: &Node) -> Option<Problem> {
    let rice = looker.rice;
    let unknown = |what: &str, name: &str, known: &[&str], why: &str| {
        (!known.contains(&name)).then(|| no_such("keys/unknown-action", what, name, node, known, why))
    };
    match action {
        Action::Open(name) if !rice.program.contains_key(name) => {
            let known: Vec<&str> = rice.program.keys().map(String::as_str).collect();
            let why = "Pressing it would start nothing. Programs are named in [program].";
            Some(no_such("keys/nothing-to-open", "program", name, node, &known, why))
        }
        Action::Go(Which::Named(name)) | Action::Send(Which::Named(name)) | Action::Carry(Which::Named(name)) => {
            let listed = rice.monitor.values().flat_map(|rule| &rule.workspaces);
            let known: Vec<&str> = rice.workspaces.order.iter().chain(listed).map(String::as_str).collect();
            unknown("workspace", name, &known, "Pressing it would go nowhere.")
        }
        Action::Layout(Which::Named(name)) => {
            let built_in = crate::rice::LayoutKind::BUILT.map(|kind| kind.word());
            let known: Vec<&str> = rice.layout.keys().map(String::as_str).chain(built_in).collect();
            unknown("layout", name, &known, "Pressing it would change nothing.")
        }
        Action::BarToggle { name: Some(name), .. } => {
            let known: Vec<&str> = rice.bar.keys().map(String::as_str).collect();
            unknown("bar", name, &known, "Pressing it would do nothing.")
        }
        Action::Fold(name) => {
            let groups = rice.module.iter().filter(|(_, module)| !module.group.is_empty());
            let known: Vec<&str> = groups.map(|(name, _)| name.as_str()).collect();
            unknown("module with a group", name, &known, "Pressing it would do nothing.")
        }
        _ => None,
    }
}
