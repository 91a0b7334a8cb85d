//! Styles: elements that are not there, what is never seen, and text that cannot be read.

use jovrik_schema::catalogue::{Setting, table_of};
use jovrik_schema::{Colour, Tree};
use jovrik_text::Span;
use jovrik_text::problem::{Problem, in_words, nearest};
use jovrik_values::ElementState;

use super::CheckContext;
use crate::rice::{Module, Palette, StyleRule, TEXT_PROPERTIES};
use crate::style::{ELEMENTS, ElementPath, contrast, each_drawn, place, said};

pub(super) fn check(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    if let Some(branch) = looker.tree.entries.get("style").and_then(Tree::branch) {
        for (name, tree) in &branch.entries {
            walk(looker, tree, &mut vec![name.as_str()], problems);
        }
    }
    legible(looker, problems);
}

fn walk<'t>(looker: &CheckContext<'_>, tree: &'t Tree, path: &mut Vec<&'t str>, problems: &mut Vec<Problem>) {
    let Tree::Branch(branch) = tree else { return };
    let properties = table_of(StyleRule::SHAPE);
    let own = branch.entries.keys().any(|name| properties.field(name).is_some());
    let inner = branch.entries.iter().filter(|(name, _)| properties.field(name).is_none());
    let inner: Vec<_> = inner.collect();
    // What only leads to others is judged with them.
    if (own || inner.is_empty())
        && let Some(span) = branch.key
    {
        match place(path.as_slice()) {
            Ok(place) => element(looker, &place, path, branch, span, problems),
            Err(unknown) => {
                // A name that is nobody's was perhaps meant as a kind.
                let named = place(&path[..unknown.good]).ok();
                let nobody = named.and_then(|place| nobody(looker, &place, span));
                problems.push(nobody.unwrap_or_else(|| no_element(path, unknown.good, &unknown.known, span)));
            }
        }
    }
    for (name, tree) in inner {
        path.push(name);
        walk(looker, tree, path, problems);
        path.pop();
    }
}

fn no_element(path: &[&str], good: usize, known: &[&str], span: Span) -> Problem {
    let wrong = path.get(good).copied().unwrap_or_default();
    let title = match good {
        0 => format!("there is no element {wrong}"),
        _ => format!("there is no {wrong} in {}", path[..good].join(".")),
    };
    let problem = Problem::error("style/unknown-element", title).because("Nothing is drawn by this name.");
    match nearest(wrong, known.iter().copied()) {
        Some(near) => problem.at(span, format!("did you mean {near}?")),
        None if known.is_empty() => problem.at(span, "nothing more can be named here"),
        None => problem.at(span, format!("known here: {}", in_words(known))),
    }
}

/// An instance of an element that the rice does not have.
fn nobody(looker: &CheckContext<'_>, place: &ElementPath, span: Span) -> Option<Problem> {
    let (rice, element, name) = (looker.rice, place.element(), place.name.as_deref()?);
    let (what, known) = element.instances.names(rice);
    if known.contains(&name) {
        return None;
    }
    let inner = ELEMENTS.iter().filter_map(|inner| inner.path.strip_prefix(element.path)?.strip_prefix('.'));
    let states = element.states.iter().map(|state| state.word());
    let near = nearest(name, known.iter().copied().chain(inner).chain(states));
    let problem = Problem::error("style/unknown-element", format!("there is no {what} {name}"));
    let note = match near {
        Some(near) => format!("did you mean {near}?"),
        None if known.is_empty() => format!("the rice has no {what} at all"),
        None => format!("the {what}s are {}", in_words(&known)),
    };
    Some(problem.at(span, note).because("Nothing is drawn by this name."))
}

/// Whether some bar shows a module, by itself or in a group.
fn shown(looker: &CheckContext<'_>, name: &str) -> bool {
    let rice = looker.rice;
    let in_bar = |name: &str| rice.bar.values().any(|bar| bar.modules().any(|module| module == name));
    let grouped = rice.module.iter().any(|(head, module)| in_bar(head) && module.group.iter().any(|inner| inner == name));
    in_bar(name) || grouped
}

/// The states that a module can be in.
fn states_of(module: &Module) -> Vec<ElementState> {
    let mut states = Vec::new();
    let graded = [
        (ElementState::Urgent, &module.grades.urgent),
        (ElementState::Warn, &module.grades.warn),
        (ElementState::Active, &module.grades.active),
    ];
    states.extend(graded.iter().filter(|(_, when)| !when.0.is_empty()).map(|(state, _)| *state));
    if !module.press.0.is_empty() {
        states.push(ElementState::Hover);
    }
    states
}

fn element(
    looker: &CheckContext<'_>,
    place: &ElementPath,
    path: &[&str],
    branch: &jovrik_schema::Branch,
    span: Span,
    problems: &mut Vec<Problem>,
) {
    let rice = looker.rice;
    let unused = |why: String| {
        Problem::warning("style/unused", format!("style.{} is never seen", path.join(".")))
            .at(span, why)
            .because("It changes nothing of what is drawn.")
    };
    let element = place.element();
    if let Some(name) = &place.name {
        if let Some(problem) = nobody(looker, place, span) {
            problems.push(problem);
            return;
        }
        let (what, _) = element.instances.names(rice);
        if what == "module" && !shown(looker, name) {
            problems.push(unused(format!("no bar shows the module {name}")));
            return;
        }
        if let (Some(state), Some(module)) = (place.state, rice.module.get(name).filter(|_| what == "module"))
            && !states_of(module).contains(&state)
        {
            let why = match state {
                ElementState::Hover => format!("nothing happens when {name} is pressed, so it does not answer the pointer"),
                _ => format!("the grades of {name} never say {}", state.word()),
            };
            problems.push(unused(why));
        }
    }
    for name in branch.entries.keys().filter(|name| TEXT_PROPERTIES.contains(&name.as_str()) && *name != "ink") {
        if !element.text {
            let span =
                looker.tree.get(&[&["style"], path, &[name]].concat()).and_then(Tree::leaf).map_or(span, |leaf| leaf.node.key);
            let title = format!("style.{}.{name} is never seen", path.join("."));
            let problem = Problem::warning("style/unused", title);
            problems
                .push(problem.at(span, format!("{} has no text", element.path)).because("It changes nothing of what is drawn."));
        }
    }
}

/// A colour as a person would write it: its role, else its digits.
pub(crate) fn colour_in_words(palette: &Palette, colour: Colour) -> String {
    let role = Palette::ROLES.iter().find(|role| palette.role(role) == Some(colour));
    role.map_or_else(|| colour.hex(), |role| format!("@{role}"))
}

/// Contrast of all text, and of icons, with what is really under it.
fn legible(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    let palette = &rice.palette.current;
    let mut told: Vec<Span> = Vec::new();
    for drawn in each_drawn(rice) {
        let Some(met) = drawn.meets(rice).filter(|met| met.contrast < met.least) else { continue };
        let (found, on, chain) = (met.contrast, met.on, drawn.chain());
        // The place is where the ink is said, else the fill, else the palette's colour.
        let meant = drawn.kin.last().map(|kin| {
            let name = if kin.name.is_empty() { String::new() } else { format!(".{}", kin.name) };
            let state = kin.states.first().map_or(String::new(), |state| format!(".{}", state.word()));
            format!("{}{name}{state}", kin.kind)
        });
        let meant = meant.unwrap_or_default();
        let own = |property: &str, get: &dyn Fn(&StyleRule) -> bool| {
            let winner = said(rice, &chain).into_iter().find(|said| get(said.rule))?;
            let mut steps = vec!["style"];
            steps.extend(winner.path.split('.'));
            steps.push(property);
            looker.node(&steps).map(|node| node.span)
        };
        let role = Palette::ROLES.iter().find(|role| palette.role(role) == Some(Colour { a: 255, ..met.ink }));
        let of_palette = || looker.node(&["palette", &rice.palette.name, role?]).map(|node| node.span);
        let ground = || {
            let role = Palette::ROLES.iter().find(|role| palette.role(role) == Some(on))?;
            looker.node(&["palette", &rice.palette.name, role]).map(|node| node.span)
        };
        let span = own("ink", &|rule| rule.ink.is_some())
            .or_else(|| own("fill", &|rule| rule.fill.is_some()))
            .or_else(of_palette)
            .or_else(ground)
            .filter(|span| span.written());
        // What is built in is not a person's to mend.
        let Some(span) = span else { continue };
        let who = drawn.in_words();
        // One wrong colour is told once, wherever it is met.
        if told.contains(&span) {
            continue;
        }
        told.push(span);
        let rule = if drawn.text {
            "4.5 is the least for text (WCAG 2.2, 1.4.3)"
        } else {
            "3 is the least for drawings (WCAG 2.2, 1.4.11)"
        };
        let rule = if drawn.text && met.least < 4.0 { "3 is the least for large text (WCAG 2.2, 1.4.3)" } else { rule };
        let title =
            if drawn.text { format!("text of {who} is hard to read") } else { format!("drawings of {who} are hard to see") };
        let problem = Problem::warning("style/contrast", title);
        let note = format!("contrast {} on {}; {rule}", rounded(found), colour_in_words(palette, on));
        let problem = problem.at(span, note);
        let better = ["ink", "paper"].iter().filter_map(|role| Some((*role, contrast(palette.role(role)?, on))));
        let better = better.max_by(|(_, a), (_, b)| a.total_cmp(b)).filter(|(_, contrast)| *contrast > found);
        problems.push(match better {
            Some((role, contrast)) => problem.advise(
                format!("jovrik set style.{meant}.ink @{role}"),
                format!("would give {}; jovrik palette check shows all pairs", rounded(contrast)),
            ),
            None => problem.advise("jovrik palette check", "shows all pairs that meet"),
        });
    }
}

fn rounded(contrast: f64) -> String {
    // Rounded down: 4.46 is not enough, and must not read as if it were.
    let tenths = (contrast * 10.0).floor() / 10.0;
    if tenths.fract() == 0.0 { format!("{tenths:.0}") } else { format!("{tenths:.1}") }
}
