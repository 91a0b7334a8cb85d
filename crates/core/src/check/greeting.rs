//! The greeting of shells: facts that there are, and drawings that can be read.

use jovrik_schema::Tree;
use jovrik_text::problem::{Problem, in_words, nearest};
use jovrik_toml::TomlValue;

use super::{CheckContext, HostInfo};
use crate::greeting::{Art, FACTS};

pub(super) fn check(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    let modules = looker.rolls.modules(rice);
    let Some(TomlValue::Array(items)) = looker.node(&["greeting", "facts"]).map(|node| &node.value) else { return };
    for item in items {
        let Some(name) = item.text().filter(|name| !modules.has(name) && !FACTS.contains(name)) else { continue };
        let near = nearest(name, rice.module.keys().map(String::as_str).chain(FACTS));
        let problem = Problem::error("greeting/no-fact", format!("there is no fact {name}"))
            .because("Nothing would stand there. A module of the rice is one, and so are some things of every computer.");
        problems.push(match near {
            Some(near) => problem.at(item.span, format!("did you mean {near}?")).mend(item.span, jovrik_toml::quoted(near), near),
            None => problem.at(item.span, format!("beside modules there are {}", in_words(&FACTS))),
        });
    }
    for table in ["label", "sign"] {
        let named = looker.tree.get(&["greeting", table]).and_then(Tree::branch);
        for (name, tree) in named.into_iter().flat_map(|branch| &branch.entries) {
            let shown = rice.greeting.facts.contains(name);
            if let (false, Some(leaf)) = (shown, tree.leaf()) {
                problems.push(
                    Problem::warning("greeting/unused", format!("greeting.{table}.{name} is never seen"))
                        .at(leaf.node.key, "no such fact is shown")
                        .because("It stands beside nothing."),
                );
            }
        }
    }
}

/// Drawings that are not there, or are none.
pub(super) fn art(looker: &CheckContext<'_>, around: &dyn HostInfo, problems: &mut Vec<Problem>) {
    for setting in ["art", "small"] {
        let Some(node) = looker.node(&["greeting", setting]) else { continue };
        let Some(path) = node.text().filter(|path| !path.is_empty()) else { continue };
        let why = if path.ends_with(".txt") {
            match around.source(path) {
                Some(Err(why)) => Some(why.to_string()),
                Some(Ok(bytes)) => Art::parse(&String::from_utf8_lossy(&bytes)).err().map(|why| why.to_string()),
                None => None,
            }
        } else {
            around.picture(path)
        };
        if let Some(why) = why {
            problems.push(
                Problem::warning("file/no-picture", format!("{path} cannot be shown"))
                    .at(node.span, why)
                    .because("The greeting has no drawing then.")
                    .advise("a text ending in .txt, a PNG or a JPEG", "in the folder of the rice, best in art/"),
            );
        }
    }
}
