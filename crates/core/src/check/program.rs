//! Programs that are not there.

use super::{Looker, Surroundings};
use crate::load::{Node, Span, Value};
use crate::problem::Problem;

pub(super) fn check(looker: &Looker<'_>, around: &dyn Surroundings, problems: &mut Vec<Problem>) {
    let mut look_for = |argv: &[String], span: Span, what: &str| {
        let Some(program) = argv.first() else { return };
        if around.has_program(program) == Some(false) && span.written() {
            problems.push(
                Problem::warning("program/not-found", format!("{program} is not on {}", around.name()))
                    .at(span, "not found on PATH")
                    .because(what)
                    .advise("install it, or name another program", "or accept it in rice.toml"),
            );
        }
    };
    let first_of = |node: &Node| match &node.value {
        Value::Table(_) => looker.inside(node, "run").or(looker.inside(node, "stream")).map_or(node.span, |run| run.span),
        _ => node.span,
    };
    for (name, program) in looker.rice.program.iter() {
        if let Some(node) = looker.node(&["program", name]) {
            look_for(&program.run, first_of(node), &format!("open {name} would start nothing."));
        }
    }
    for (name, module) in looker.rice.module.iter() {
        if let (Some(argv), Some(node)) = (module.source.kind.argv(), looker.node(&["module", name, "source"])) {
            look_for(argv, first_of(node), "The module would show what it shows when empty.");
        }
    }
    for (name, start) in looker.rice.start.iter() {
        if let Some(node) = looker.node(&["start", name, "run"]) {
            look_for(&start.run, node.span, "Nothing would start.");
        }
    }
    for at in looker.rice.keys.of_desk() {
        if let crate::desk::Action::Run(argv) = &at.binding.action {
            look_for(argv, at.value, "Pressing it would start nothing.");
        }
    }
}
