//! `jovrik rules list`

use jovrik_core::desk::rules_in_order;
use jovrik_text::problem::count;
use serde_json::json;

use super::{asks, sets};
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, columns};

/// List the rules in the order in which they are asked
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// JSON Lines: rule, match, set, stop, again, place
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let checked = context.usable_in(&["rule", "program"])?;
    let rules = rules_in_order(&checked.rice);
    let place = |name: &str| {
        let key = checked.tree.get(&["rule", name]).and_then(jovrik_schema::Tree::branch).and_then(|branch| branch.key);
        key.map_or(String::new(), |span| checked.sources.place(span))
    };
    let mut rows = Vec::new();
    for (name, rule) in &rules {
        let (asks, sets, place) = (asks(&rule.r#match), sets(&rule.set.written()), place(name));
        if arguments.json {
            let set: serde_json::Map<_, _> =
                rule.set.written().into_iter().map(|(name, value)| (name.to_owned(), json!(value))).collect();
            let entry =
                json!({ "rule": name, "match": asks, "set": set, "stop": rule.stop, "again": rule.again, "place": place });
            writeln!(context.out, "{entry}")?;
            continue;
        }
        let more = [(rule.stop, "then stops"), (rule.again, "again with each title")];
        let more: Vec<&str> = more.into_iter().filter_map(|(is, word)| is.then_some(word)).collect();
        let told = if more.is_empty() { sets } else { format!("{sets}; {}", more.join(", ")) };
        rows.push(vec![(*name).clone(), asks, told, Meaning::Place.paint(&place)]);
    }
    if arguments.json {
        return Ok(Exit::Done);
    }
    for line in columns(&rows, "  ", context.width) {
        writeln!(context.out, "{line}")?;
    }
    let gap = if rows.is_empty() { "" } else { "\n" };
    writeln!(context.out, "{gap}{}; later ones win, setting by setting", count(rules.len(), "rule"))?;
    advice(&mut context.out, "  ", "jovrik rules try --app NAME", "says what they do to a window")?;
    Ok(Exit::Done)
}
