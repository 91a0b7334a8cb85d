//! Workspaces and layouts: names that name something, and names that mean something else.

use jovrik_schema::Tree;
use jovrik_text::problem::Problem;

use super::CheckContext;

/// Words that actions use where a workspace or layout is named.
const RESERVED: &[&str] = &["next", "prev", "back"];

pub(super) fn check(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    let mut lists = vec![vec!["workspaces", "layouts"]];
    lists.extend(rice.workspace.keys().map(|name| vec!["workspace", name.as_str(), "layouts"]));
    let layouts = looker.rolls.layouts(rice);
    for path in &lists {
        for (name, node) in looker.items(path) {
            if !layouts.has(name) {
                problems.push(layouts.no_such("layout/unknown", name, node, "It would be left out of the cycle."));
            }
        }
    }
    let mut named = looker.items(&["workspaces", "order"]);
    for name in rice.monitor.keys() {
        named.extend(looker.items(&["monitor", name, "workspaces"]));
    }
    for (name, node) in named {
        if RESERVED.contains(&name) {
            problems.push(
                Problem::error("setting/reserved", format!("a workspace cannot be called {name}"))
                    .at(node.span, "choose another name")
                    .because(format!("go {name} means something else.")),
            );
        }
    }
    let (workspaces, programs) = (looker.rolls.workspaces(rice), looker.rolls.programs(rice));
    for (name, rule) in rice.start.iter() {
        let given = [!rule.open.is_empty(), !rule.run.is_empty(), !rule.shell.is_empty()];
        let key = looker.tree.get(&["start", name]).and_then(Tree::branch).and_then(|branch| branch.key);
        if let (number @ (0 | 2..), Some(key)) = (given.iter().filter(|given| **given).count(), key) {
            let title = if number == 0 { "starts nothing" } else { "says more than once what it starts" };
            problems.push(
                Problem::error("start/which", format!("start.{name} {title}"))
                    .at(key, "one of open, run and shell")
                    .because("open names a program of [program]; run has arguments; shell is a line for the shell."),
            );
        }
        if let (Some(workspace), Some(node)) = (&rule.workspace, looker.node(&["start", name, "workspace"]))
            && !workspaces.has(workspace)
        {
            let why = "The window would appear where one happens to be.";
            problems.push(workspaces.no_such("start/unknown-workspace", workspace, node, why));
        }
        if let Some(node) = looker.node(&["start", name, "open"])
            && !programs.has(&rule.open)
            && node.text().is_some()
        {
            let why = "Nothing would start. Programs are named in [program].";
            problems.push(programs.no_such("start/unknown-program", &rule.open, node, why));
        }
    }
}
