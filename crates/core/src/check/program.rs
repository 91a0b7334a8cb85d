//! Programs that are not there.

use jovrik_text::Span;
use jovrik_text::problem::Problem;
use jovrik_toml::{SpannedValue, TomlValue};

use super::{CheckContext, HostInfo};

/// Whether a program is a file of the rice: a path that begins neither at the root nor in a home.
pub(super) fn is_own(program: &str) -> bool {
    program.contains('/') && !program.starts_with(['/', '~', '$'])
}

/// What is wrong with a script of the rice: that is a fault of the rice, whatever the computer.
fn script(program: &str, span: Span, around: &dyn HostInfo) -> Option<Problem> {
    match around.source(program)? {
        Err(why) => Some(
            Problem::error("program/no-script", format!("the rice has no {program} that can be run"))
                .at(span, why.to_string())
                .because("A path without / or ~ at its beginning is a file of the rice.")
                .advise("put it there", "or name a program on PATH"),
        ),
        Ok(_) if around.has_program(program) == Some(false) => Some(
            Problem::warning("program/not-executable", format!("{program} cannot be run"))
                .at(span, "it is there, and not marked as a program")
                .because("Nothing would start.")
                .advise(format!("chmod +x {program}"), "marks it"),
        ),
        Ok(_) => None,
    }
}

pub(super) fn check(looker: &CheckContext<'_>, around: &dyn HostInfo, problems: &mut Vec<Problem>) {
    let mut look_for = |argv: &[String], span: Span, what: &str| {
        let Some(program) = argv.first() else { return };
        if is_own(program) && span.written() {
            problems.extend(script(program, span, around));
            return;
        }
        if around.has_program(program) == Some(false) && span.written() {
            problems.push(
                Problem::lacking("program/not-found", program, around.name())
                    .at(span, "not found on PATH")
                    .because(what)
                    .advise("install it, or name another program", "or accept it in rice.toml"),
            );
        }
    };
    let first_of = |node: &SpannedValue| match &node.value {
        TomlValue::Table(_) => looker.inside(node, "run").or(looker.inside(node, "stream")).map_or(node.span, |run| run.span),
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
        if let jovrik_values::action::Action::Run(argv) = &at.binding.action {
            look_for(argv, at.value, "Pressing it would start nothing.");
        }
    }
}
