//! Window rules: which of them are for a window, and what they set.

use super::window::WindowFacts;
use super::window_manager::WindowManager;
use crate::rice::{Rice, RuleSettings, WindowMatch, WindowOverrides};

/// A window, as rules see it.
#[derive(Debug, Clone, Copy)]
pub struct Subject<'a> {
    /// What is known of it.
    pub facts: &'a WindowFacts,
    /// The workspace it appears on.
    pub workspace: &'a str,
    /// The monitor it appears on.
    pub monitor: &'a str,
}

/// What a rule says to a window.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RuleMatch {
    /// The rule's name.
    pub rule: String,
    /// What of its match does not hold; nothing when it is for the window.
    pub misses: Vec<&'static str>,
    /// What it sets, as it is written.
    pub sets: Vec<(&'static str, String)>,
    /// The rule before it that stopped the asking.
    pub stopped: Option<String>,
}

impl RuleMatch {
    /// Whether it sets something on the window.
    pub fn holds(&self) -> bool {
        self.misses.is_empty() && self.stopped.is_none()
    }
}

/// What of a match does not hold for a window.
fn misses(rice: &Rice, wanted: &WindowMatch, subject: &Subject<'_>) -> Vec<&'static str> {
    let facts = subject.facts;
    let programs = || rice.program.iter().filter(|(_, program)| program.app().eq_ignore_ascii_case(&facts.app_id));
    let mut misses = Vec::new();
    for (name, pattern) in &wanted.texts {
        let holds = match *name {
            "app" => pattern.matches(&facts.app_id),
            "instance" => pattern.matches(&facts.instance),
            "title" => pattern.matches(&facts.title),
            "role" => pattern.matches(&facts.role),
            "workspace" => pattern.matches(subject.workspace),
            "monitor" => pattern.matches(subject.monitor),
            "program" => programs().any(|(program, _)| pattern.matches(program)),
            _ => false,
        };
        if !holds {
            misses.push(*name);
        }
    }
    if wanted.kind.is_some_and(|kind| kind != facts.window_type) {
        misses.push("kind");
    }
    if wanted.transient.is_some_and(|transient| transient != facts.transient_for.is_some()) {
        misses.push("transient");
    }
    misses
}

/// All rules in the order in which they are asked.
pub fn in_order(rice: &Rice) -> Vec<(&String, &RuleSettings)> {
    let mut rules: Vec<(&String, &RuleSettings)> = rice.rule.iter().collect();
    rules.sort_by_key(|(_, rule)| rule.order.map_or(0, |order| order.0));
    rules
}

/// What each rule says to a window, in the order in which they are asked.
pub fn judge(rice: &Rice, subject: &Subject<'_>) -> Vec<RuleMatch> {
    let mut stopped: Option<String> = None;
    let judged = |(name, rule): (&String, &RuleSettings)| {
        let misses = misses(rice, &rule.r#match, subject);
        let judged = RuleMatch { rule: name.clone(), misses, sets: rule.set.written(), stopped: stopped.clone() };
        if judged.holds() && rule.stop {
            stopped = Some(name.clone());
        }
        judged
    };
    in_order(rice).into_iter().map(judged).collect()
}

/// What all rules set on a window, and which rule set what; `again`: only those that are asked again are asked.
pub(super) fn settled(rice: &Rice, subject: &Subject<'_>, again: bool) -> (WindowOverrides, Vec<(&'static str, String)>) {
    let (mut all, mut by) = (WindowOverrides::default(), Vec::<(&'static str, String)>::new());
    for (name, rule) in in_order(rice) {
        if again && !rule.again || !misses(rice, &rule.r#match, subject).is_empty() {
            continue;
        }
        for (setting, _) in rule.set.written() {
            by.retain(|(other, _)| *other != setting);
            by.push((setting, name.clone()));
        }
        all = all.under(&rule.set);
        if rule.stop {
            break;
        }
    }
    (all, by)
}

impl WindowManager {
    /// What rules set on a window that appears on a workspace, or that is there already.
    pub(super) fn ruled(
        &self,
        facts: &WindowFacts,
        workspace: usize,
        again: bool,
    ) -> (WindowOverrides, Vec<(&'static str, String)>) {
        if self.rice.rule.is_empty() {
            return Default::default();
        }
        let own = &self.workspaces[workspace];
        let monitor = self.monitors.get(own.monitor).map_or("", |monitor| &monitor.facts.name);
        settled(&self.rice, &Subject { facts, workspace: &own.name, monitor }, again)
    }
}
