//! What a rice says it needs, against what it really uses: both ways.

use super::Looker;
use super::manifest::{Listed, Lists};
use crate::desk::Action;
use crate::load::Span;
use crate::problem::Problem;
use crate::rice::{Rice, SourceKind};

/// What is started, and where that stands: the path of a setting, or a binding's value.
struct Use<'r> {
    argv: &'r [String],
    path: Vec<&'r str>,
    span: Option<Span>,
}

fn uses(rice: &Rice) -> Vec<Use<'_>> {
    let mut uses: Vec<Use<'_>> = Vec::new();
    let mut add = |argv, path, span| uses.push(Use { argv, path, span });
    for (name, program) in rice.program.iter() {
        add(&program.run[..], vec!["program", name.as_str()], None);
    }
    for (name, module) in rice.module.iter() {
        if let SourceKind::Run(argv) = &module.source.kind {
            add(argv, vec!["module", name, "source"], None);
        }
    }
    for (name, start) in rice.start.iter() {
        add(&start.run, vec!["start", name, "run"], None);
    }
    for at in &rice.keys.desk.0 {
        if let Action::Run(argv) = &at.binding.action {
            add(argv, Vec::new(), Some(at.value));
        }
    }
    uses.retain(|one| !one.argv.is_empty());
    uses
}

/// The families of fonts that a rice names.
fn fonts(rice: &Rice) -> [(&'static str, &str); 3] {
    [("text", &rice.r#type.text), ("mono", &rice.r#type.mono), ("icon", &rice.r#type.icon)]
}

fn lists(listed: &Listed, name: &str) -> bool {
    listed.as_ref().is_none_or(|listed| listed.iter().any(|(own, _)| own == name))
}

/// What is used and not listed, where the manifest has a list.
pub(super) fn check(looker: &Looker<'_>, needs: &Lists, problems: &mut Vec<Problem>) {
    let mut missing = |code, what: &str, name: &str, list: &str, span: Option<Span>| {
        if let Some(span) = span.filter(|span| span.written()) {
            problems.push(
                Problem::warning(code, format!("{name} is used, but rice.toml does not say that it is needed"))
                    .at(span, format!("this {what} is not in {list}"))
                    .because("Whoever adopts the rice is not told to install it.")
                    .advise(format!("{list} = [\"…\", {}]", crate::load::quoted(name)), "in [needs] of rice.toml"),
            );
        }
    };
    for one in uses(looker.rice) {
        let name = one.argv[0].as_str();
        if !lists(&needs.programs, name) {
            let span = one.span.or_else(|| looker.node(&one.path).map(|node| looker.inside(node, "run").unwrap_or(node).span));
            missing("program/not-in-needs", "program", name, "programs", span);
        }
    }
    for (own, family) in fonts(looker.rice) {
        if !family.is_empty() && !lists(&needs.fonts, family) {
            missing("type/not-in-needs", "font", family, "fonts", looker.node(&["type", own]).map(|node| node.span));
        }
    }
}

/// What is listed, and used by none of the rices that the parts and overlays make.
pub(super) fn idle(needs: &Lists, rices: &[&Rice], problems: &mut Vec<Problem>) {
    let mut spare = |listed: &Listed, code, what: &str, used: &dyn Fn(&str) -> bool| {
        for (name, span) in listed.iter().flatten().filter(|(name, _)| !used(name)) {
            problems.push(
                Problem::warning(code, format!("rice.toml needs {name}, which nothing uses"))
                    .at(*span, format!("no setting names this {what}"))
                    .because("Others would install it for nothing.")
                    .advise("take it out", "of [needs] in rice.toml"),
            );
        }
    };
    let program = |name: &str| rices.iter().any(|rice| uses(rice).iter().any(|one| one.argv[0] == name));
    let font = |name: &str| rices.iter().any(|rice| fonts(rice).iter().any(|(_, family)| *family == name));
    spare(&needs.programs, "program/needless", "program", &program);
    spare(&needs.fonts, "type/needless", "font", &font);
}
