//! What can be chosen for a setting: its own words, or names that the rice has given.

use jovrik_schema::catalogue::{ValueConstraint, ValueType, pattern_of};
use jovrik_values::action::action_choices;

use super::Rice;

/// A value, or an element of a list, as a person types it, and what it is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Choice {
    /// As it is typed.
    pub value: String,
    /// What it is, in a few words; may be empty.
    pub gloss: String,
}

impl Choice {
    fn new(value: impl Into<String>, gloss: impl Into<String>) -> Self {
        Self { value: value.into(), gloss: gloss.into() }
    }
}

fn names<'n>(names: impl IntoIterator<Item = &'n String>, gloss: &str) -> Vec<Choice> {
    names.into_iter().map(|name| Choice::new(name, gloss)).collect()
}

fn layouts(rice: &Rice) -> Vec<Choice> {
    let built_in = super::LayoutKind::ALL.iter().map(|kind| Choice::new(kind.word(), "built-in layout"));
    names(rice.layout.keys(), "layout").into_iter().chain(built_in).collect()
}

/// All actions with the names of a rice in their places: `go charts`.
pub fn actions(rice: &Rice) -> Vec<Choice> {
    action_choices(rice).into_iter().map(|(action, does)| Choice::new(action, does)).collect()
}

/// What can be chosen for the setting at a path; empty when anything of its type goes.
pub fn choices<S: AsRef<str>>(steps: &[S], kind: &ValueType, rice: &Rice) -> Vec<Choice> {
    let pattern = pattern_of(Rice::CATALOGUE, steps);
    match pattern.as_str() {
        "palette.use" => return names(rice.palette.all.keys(), "palette"),
        "workspaces.layouts" | "workspace.NAME.layouts" => return layouts(rice),
        "monitor.NAME.workspaces" | "start.NAME.workspace" | "rule.NAME.set.workspace" => {
            return rice.workspace_names().into_iter().map(|name| Choice::new(name, "workspace")).collect();
        }
        "rule.NAME.set.monitor" => return names(rice.monitor.keys(), "monitor"),
        "start.NAME.open" => return names(rice.program.keys(), "program"),
        "bar.NAME.start" | "bar.NAME.middle" | "bar.NAME.end" | "module.NAME.group" => {
            return names(rice.module.keys(), "module");
        }
        "keys.desk.NAME" | "keys.desk.modes.NAME.NAME" | "idle.on-sleep" => return actions(rice),
        "scope.NAME.after" => return names(rice.scope.keys(), "scope"),
        "scope.NAME.inside" => return names(rice.program.keys(), "program"),
        "keys.must-work-on" => return names(&rice.keyboard.layouts, "layout"),
        _ => {}
    }
    match (kind.allowed, kind.name) {
        (ValueConstraint::OneOf(words), _) => words.iter().map(|word| Choice::new(*word, "")).collect(),
        (_, "colour" | "fill" | "line") if !pattern.starts_with("palette.") => {
            let role = |role: &&str| {
                let colour = rice.palette.current.role(role).map(jovrik_schema::Colour::hex).unwrap_or_default();
                Choice::new(format!("@{role}"), colour)
            };
            super::Palette::ROLES.iter().map(role).collect()
        }
        _ => Vec::new(),
    }
}
