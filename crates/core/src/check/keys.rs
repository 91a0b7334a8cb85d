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

/// Checks what an action names.
fn target(looker: &Looker<'_>, at: &BindingAt, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    let text = looker.sources.slice(at.value).to_owned();
    // The place of a plain action is its text; of a table, the whole table, which is never mended.
    let node = Node { span: at.value, ..Node::built_in(crate::load::Value::Text(at.binding.action.to_string())) };
    let plain = text.starts_with(['"', '\'']);
    let mut push = |problem: Problem| problems.push(if plain { problem } else { Problem { fix: None, ..problem } });
    match &at.binding.action {
        Action::Open(name) if !rice.program.contains_key(name) => {
            let known: Vec<&str> = rice.program.keys().map(String::as_str).collect();
            push(no_such(
                "keys/nothing-to-open",
                "program",
                name,
                &node,
                &known,
                "Pressing it would start nothing. Programs are named in [program].",
            ));
        }
        Action::Go(Which::Named(name)) | Action::Send(Which::Named(name)) | Action::Carry(Which::Named(name)) => {
            let listed = rice.monitor.values().flat_map(|rule| &rule.workspaces);
            let known: Vec<&str> = rice.workspaces.order.iter().chain(listed).map(String::as_str).collect();
            if !known.contains(&name.as_str()) {
                push(no_such("keys/unknown-action", "workspace", name, &node, &known, "Pressing it would go nowhere."));
            }
        }
        Action::Layout(Which::Named(name)) => {
            let known: Vec<&str> = rice.layout.keys().map(String::as_str).chain(["main", "solo"]).collect();
            if !known.contains(&name.as_str()) {
                push(no_such("keys/unknown-action", "layout", name, &node, &known, "Pressing it would change nothing."));
            }
        }
        Action::BarToggle(Some(name)) if !rice.bar.contains_key(name) => {
            let known: Vec<&str> = rice.bar.keys().map(String::as_str).collect();
            push(no_such("keys/unknown-action", "bar", name, &node, &known, "Pressing it would do nothing."));
        }
        _ => {}
    }
}
