//! What a rice says it needs, against what it really uses: both ways.

use std::borrow::Cow;
use std::collections::HashSet;

use jovrik_text::Span;
use jovrik_text::problem::Problem;
use jovrik_values::action::Action;

use super::CheckContext;
use super::manifest::{Listed, Lists};
use super::program::is_own;
use crate::rice::Rice;

/// Something that a rice would run.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ProgramUse<'r> {
    /// The program and its arguments.
    pub argv: Cow<'r, [String]>,
    /// The path of the setting that says so.
    pub path: Vec<&'r str>,
    /// Where it stands, when the path does not lead there.
    pub span: Option<Span>,
}

/// Every value of a rice that names something to run.
pub fn commands(rice: &Rice) -> Vec<ProgramUse<'_>> {
    let mut all: Vec<ProgramUse<'_>> = Vec::new();
    let mut add = |argv: Cow<'_, [String]>, path, span| all.push(ProgramUse { argv: argv.into_owned().into(), path, span });
    for (name, program) in rice.program.iter() {
        add((&program.run).into(), vec!["program", name.as_str()], None);
    }
    for (name, module) in rice.module.iter() {
        if let Some(argv) = module.source.kind.argv() {
            add(argv.into(), vec!["module", name, "source"], None);
        }
        for action in module.press.actions() {
            if let Action::Run(argv) = action {
                add(argv.into(), vec!["module", name, "press"], None);
            }
        }
    }
    for (name, start) in rice.start.iter() {
        let own = if start.run.is_empty() { "shell" } else { "run" };
        add(start.argv().unwrap_or_default().into(), vec!["start", name, own], None);
    }
    let plain = rice.keys.desk.plain.0.iter().map(|at| (vec!["keys", "desk"], at));
    let modes = rice.keys.desk.modes.iter();
    let modes = modes.flat_map(|(mode, keys)| keys.chords.0.iter().map(move |at| (vec!["keys", "desk", "modes", mode], at)));
    for (mut path, at) in plain.chain(modes) {
        if let Action::Run(argv) = &at.binding.action {
            path.push(&at.written);
            add(argv.into(), path, Some(at.value));
        }
    }
    let idle = rice.idle.after.0.values().map(|action| (action.as_str(), "after"));
    for (action, own) in idle.chain(rice.idle.on_sleep.iter().map(|action| (&**action, "on-sleep"))) {
        if let Ok(Action::Run(argv)) = Action::parse(action) {
            add(argv.into(), vec!["idle", own], None);
        }
    }
    all.retain(|one| !one.argv.is_empty());
    all
}

/// The programs that a rice names; a line for the shell names none.
fn uses(rice: &Rice) -> impl Iterator<Item = ProgramUse<'_>> {
    let shell = |argv: &[String]| matches!(argv, [sh, c, _] if sh == "sh" && c == "-c");
    commands(rice).into_iter().filter(move |one| {
        one.path.last() != Some(&"shell") && !shell(&one.argv) && !one.argv.first().is_some_and(|program| is_own(program))
    })
}

/// The families of fonts that a rice names.
fn fonts(rice: &Rice) -> [(&'static str, &str); 3] {
    [("text", &rice.r#type.text), ("mono", &rice.r#type.mono), ("icon", &rice.r#type.icon)]
}

/// The names of a list of the manifest, where it has that list.
fn names(listed: &Listed) -> Option<HashSet<&str>> {
    listed.as_ref().map(|listed| listed.iter().map(|(own, _)| own.as_str()).collect())
}

/// What is used and not listed, where the manifest has a list.
pub(super) fn check(looker: &CheckContext<'_>, needs: &Lists, problems: &mut Vec<Problem>) {
    let mut missing = |code, what: &str, name: &str, list: &str, span: Option<Span>| {
        if let Some(span) = span.filter(|span| span.written()) {
            problems.push(
                Problem::warning(code, format!("{name} is used, but rice.toml does not say that it is needed"))
                    .at(span, format!("this {what} is not in {list}"))
                    .because("Whoever adopts the rice is not told to install it.")
                    .advise(format!("{list} = [\"…\", {}]", jovrik_toml::quoted(name)), "in [needs] of rice.toml"),
            );
        }
    };
    let (programs, families) = (names(&needs.programs), names(&needs.fonts));
    let lacks = |listed: &Option<HashSet<&str>>, name: &str| listed.as_ref().is_some_and(|listed| !listed.contains(name));
    for one in uses(looker.rice) {
        let name = one.argv[0].as_str();
        if lacks(&programs, name) {
            let span = one.span.or_else(|| {
                looker.node(&one.path).map(|node| {
                    let named = looker.inside(node, "run").or(looker.inside(node, "stream"));
                    named.unwrap_or(node).span
                })
            });
            missing("program/not-in-needs", "program", name, "programs", span);
        }
    }
    for (own, family) in fonts(looker.rice) {
        if !family.is_empty() && lacks(&families, family) {
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
    let used: HashSet<String> = rices.iter().flat_map(|rice| uses(rice).map(|one| one.argv[0].clone())).collect();
    let program = |name: &str| used.contains(name);
    let font = |name: &str| rices.iter().any(|rice| fonts(rice).iter().any(|(_, family)| *family == name));
    spare(&needs.programs, "program/needless", "program", &program);
    spare(&needs.fonts, "type/needless", "font", &font);
}
