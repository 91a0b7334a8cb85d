//! Bars and modules.

use super::{Looker, no_such};
use crate::problem::{Problem, in_words, nearest};
use crate::rice::{Condition, SourceKind};

pub(super) fn check(looker: &Looker<'_>, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    let modules: Vec<&str> = rice.module.keys().map(String::as_str).collect();
    for name in rice.bar.keys() {
        for place in ["start", "middle", "end"] {
            for (module, node) in looker.items(&["bar", name, place]) {
                if !modules.contains(&module) {
                    problems.push(no_such(
                        "bar/no-module",
                        "module",
                        module,
                        node,
                        &modules,
                        "The bar would leave it out. Modules are made in [module.NAME].",
                    ));
                }
            }
        }
    }
    for (name, bar) in rice.bar.iter() {
        let shown: Vec<&String> = bar.sections.iter().flat_map(|section| &section.show).collect();
        let Some(node) = looker.node(&["bar", name, "sections"]) else { continue };
        for module in shown.into_iter().filter(|module| !modules.contains(&module.as_str())) {
            let why = "The bar would leave it out. Modules are made in [module.NAME].";
            let problem = no_such("bar/no-module", "module", module, node, &modules, why);
            // The place is that of all sections: what would be written there is not known to this check.
            problems.push(Problem { fix: None, ..problem });
        }
    }
    for (name, module) in rice.module.iter() {
        let picked: Vec<&str> = module.pick.0.keys().map(String::as_str).collect();
        let fields: Vec<&str> = match module.source.kind.fields() {
            Some(fields) => fields.iter().copied().chain(["value"]).collect(),
            None if module.source.kind == SourceKind::None => continue,
            None if picked.is_empty() => vec!["value"],
            None => picked,
        };
        let mut unknown = |field: &str, setting: &str| {
            let Some(node) = looker.node(&["module", name, setting]) else { return };
            if fields.contains(&field) {
                return;
            }
            let problem = Problem::error("module/unknown-field", format!("the source of {name} has no field {field}"))
                .because("It would never have a value.");
            problems.push(match nearest(field, fields.iter().copied()) {
                Some(near) => problem.at(node.span, format!("did you mean {near}?")),
                None => problem.at(node.span, format!("its fields are {}", in_words(&fields))),
            });
        };
        for field in module.text.fields() {
            unknown(field, "text");
        }
        for condition in [&module.grades.warn, &module.grades.urgent].into_iter().flatten() {
            let Condition { field, .. } = condition;
            unknown(field, "grades");
        }
    }
}
