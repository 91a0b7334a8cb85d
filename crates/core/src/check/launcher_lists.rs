//! The launcher: lists that are not there, and lines that do nothing.

use jovrik_schema::Tree;
use jovrik_text::problem::Problem;
use jovrik_toml::TomlValue;
use jovrik_values::action::Action;

use super::{CheckContext, keys};
use crate::launcher::BUILT_IN_LISTS;

pub(super) fn check(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    let rolls = looker.rolls.lists(rice);
    if let Some(node) = looker.node(&["launcher", "lists"])
        && let TomlValue::Array(items) = &node.value
    {
        for item in items {
            let name = item.text().filter(|name| !rolls.has(name));
            problems.extend(name.map(|name| rolls.no_such("launcher/no-list", name, item, "Nothing would stand in it.")));
        }
    }
    let modes = looker.tree.get(&["keys", "launcher", "modes"]).and_then(Tree::branch);
    for key in modes.into_iter().flat_map(|modes| modes.entries.values()).filter_map(|mode| mode.branch()?.key) {
        problems.push(
            Problem::error("launcher/no-modes", "the launcher has no modes")
                .at(key, "never entered")
                .because("What is bound here does nothing. All its keys stand in [keys.launcher]."),
        );
    }
    for (list, lines) in rice.launcher.own.iter() {
        let key = looker.tree.get(&["launcher", "own", list]).and_then(Tree::branch).and_then(|branch| branch.key);
        if let (true, Some(key)) = (BUILT_IN_LISTS.contains(&list.as_str()), key) {
            problems.push(
                Problem::error("setting/reserved", format!("a list of one's own cannot be called {list}"))
                    .at(key, "choose another name")
                    .because("Every launcher has a list of that name."),
            );
        }
        for name in lines.keys() {
            let Some(node) = looker.node(&["launcher", "own", list, name, "do"]) else { continue };
            let action = node.text().and_then(|text| Action::parse(text).ok());
            problems.extend(action.and_then(|action| keys::leads_nowhere(looker, &action, node)));
        }
    }
}
