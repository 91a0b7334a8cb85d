//! Bars and modules.

use jovrik_schema::Tree;
use jovrik_schema::catalogue::{Setting, table_of};
use jovrik_text::problem::{Problem, count, in_words, nearest};
use jovrik_toml::{SpannedValue, TomlValue};
use jovrik_values::action::Action;
use jovrik_values::{ModuleValues, Pattern};

use super::{CheckContext, HostInfo, keys};
use crate::bar::{BarInput, arrange};
use crate::desk::{MonitorFacts, WindowManager};
use crate::rice::{BuiltInSource, Module, Rice, SourceKind, StyleRule};
use crate::scene::{Measure, TextStyle};
use crate::style::ELEMENTS;

const LEFT_OUT: &str = "The bar would leave it out. Modules are made in [module.NAME].";

pub(super) fn check(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    let modules = looker.rolls.modules(rice);
    let mut named = |path: &[&str]| {
        for (module, node) in looker.items(path) {
            if !modules.has(module) {
                problems.push(modules.no_such("bar/no-module", module, node, LEFT_OUT));
            }
        }
    };
    for name in rice.bar.keys() {
        for place in ["start", "middle", "end"] {
            named(&["bar", name, place]);
        }
    }
    for name in rice.module.keys() {
        named(&["module", name, "group"]);
    }
    for (name, bar) in rice.bar.iter() {
        let Some(node) = looker.node(&["bar", name, "sections"]) else { continue };
        for module in bar.sections.iter().flat_map(|section| &section.show).filter(|module| !modules.has(module)) {
            let problem = modules.no_such("bar/no-module", module, node, LEFT_OUT);
            // The place is that of all sections: what would be written there is not known to this check.
            problems.push(Problem { fix: None, ..problem });
        }
        let lists = [&bar.start, &bar.middle, &bar.end];
        if !bar.sections.is_empty() && lists.iter().any(|list| !list.is_empty()) {
            problems.push(
                Problem::warning("bar/sections", format!("the bar {name} has sections beside start, middle and end"))
                    .at(node.key, "the sections are shown, the others are not")
                    .because("A bar is divided in one way.")
                    .advise(format!("jovrik reset bar.{name}.sections"), "or take out start, middle and end"),
            );
        }
    }
    reserved(looker, problems);
    for name in rice.module.keys() {
        fields(looker, name, problems);
        presses(looker, &["module", name, "press"], problems);
    }
}

/// Names that mean something else where styles are written.
fn reserved(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let properties = table_of(StyleRule::SHAPE);
    let states = || ELEMENTS.iter().flat_map(|element| element.states).map(|state| state.word());
    let rice = looker.rice;
    for (what, kind, names) in [
        ("module", "bar.module.", rice.module.keys().collect::<Vec<_>>()),
        ("bar", "bar.", rice.bar.keys().collect()),
        ("widget", "widget.", rice.widget.keys().collect()),
    ] {
        for name in names {
            let inner = ELEMENTS.iter().any(|element| element.path.strip_prefix(kind) == Some(name));
            let taken = properties.field(name).is_some() || inner || states().any(|state| state == name);
            let key = looker.tree.get(&[what, name]).and_then(Tree::branch).and_then(|branch| branch.key);
            if let (true, Some(key)) = (taken, key) {
                problems.push(
                    Problem::error("setting/reserved", format!("a {what} cannot be called {name}"))
                        .at(key, "choose another name")
                        .because(format!("In [style] the word {name} means something else.")),
                );
            }
        }
    }
}

/// The fields that the values of a module have; nothing where it has no source.
pub(super) fn fields_of(module: &Module) -> Option<Vec<&str>> {
    let picked: Vec<&str> = module.pick.0.keys().map(String::as_str).collect();
    match module.source.kind.fields() {
        Some(fields) => Some(fields.iter().copied().chain(["value"]).collect()),
        None if module.source.kind == SourceKind::None => None,
        None if picked.is_empty() => Some(vec!["value"]),
        None => Some(picked),
    }
}

/// A field that the source of a module does not have.
pub(super) fn no_field(name: &str, module: &Module, fields: &[&str], field: &str, node: &SpannedValue) -> Problem {
    let mut problem = Problem::error("module/unknown-field", format!("the source of {name} has no field {field}"))
        .because("It would never have a value.");
    if module.source.kind.fields().is_none() && module.pick.0.is_empty() {
        problem = problem.advise(format!("pick = {{ {field} = \"/{field}\" }}"), "takes it out of JSON that the program prints");
    }
    match nearest(field, fields.iter().copied()) {
        Some(near) => problem.at(node.span, format!("did you mean {near}?")),
        None => problem.at(node.span, format!("its fields are {}", in_words(fields))),
    }
}

/// Fields that the source of a module does not have.
fn fields(looker: &CheckContext<'_>, name: &str, problems: &mut Vec<Problem>) {
    let Some(module) = looker.rice.module.get(name) else { return };
    let Some(fields) = fields_of(module) else { return };
    let mut stray_time = Vec::new();
    let mut unknown = |field: &str, setting: &str| {
        if let Some(node) = looker.node(&["module", name, setting]).filter(|_| !fields.contains(&field)) {
            problems.push(no_field(name, module, &fields, field, node));
        }
    };
    let texts = [("text", Some(&module.text)), ("hover", module.hover.as_ref())];
    for (setting, text) in texts {
        let (Some(stray), Some(node)) = (text.and_then(Pattern::stray_time), looker.node(&["module", name, setting])) else {
            continue;
        };
        if node.span.written() {
            stray_time.push(
                Problem::warning("module/time-outside", format!("{name} shows the letters {stray}, and no time"))
                    .at(node.span, "a time is a field of the source time")
                    .because("Only what stands in braces is filled in.")
                    .advise(format!("\"{{time:{stray}}}\""), "with source = \"time\""),
            );
        }
    }
    for field in module.text.fields() {
        unknown(field, "text");
    }
    for field in module.hover.iter().flat_map(|hover| hover.fields()) {
        unknown(field, "hover");
    }
    for case in &module.cases {
        unknown(&case.when.field, "cases");
        for field in case.text.iter().flat_map(|text| text.fields()) {
            unknown(field, "cases");
        }
    }
    for condition in module.grades.conditions() {
        unknown(&condition.field, "grades");
    }
    problems.append(&mut stray_time);
}

/// Actions of presses that lead nowhere.
pub(super) fn presses(looker: &CheckContext<'_>, path: &[&str], problems: &mut Vec<Problem>) {
    fn texts(node: &SpannedValue) -> Vec<&SpannedValue> {
        match &node.value {
            TomlValue::String(_) => vec![node],
            TomlValue::Array(items) => items.iter().flat_map(texts).collect(),
            TomlValue::Table(entries) => {
                entries.iter().filter(|(name, _)| name != "label").flat_map(|(_, node)| texts(node)).collect()
            }
            _ => Vec::new(),
        }
    }
    let Some(node) = looker.node(path) else { return };
    for node in texts(node) {
        let action = node.text().and_then(|text| Action::parse(text).ok());
        problems.extend(action.and_then(|action| keys::leads_nowhere(looker, &action, node)));
    }
}

/// Text is measured by whoever has fonts.
pub(super) struct Ruler<'a>(pub &'a dyn HostInfo);

impl Measure for Ruler<'_> {
    fn width(&mut self, text: &str, face: &TextStyle) -> f32 {
        self.0.width(text, face).unwrap_or_default()
    }
}

/// What does not fit: bars on the monitors of a computer, with the values that its modules have there. `measure` knows
/// how wide text is.
pub(super) fn room(looker: &CheckContext<'_>, around: &dyn HostInfo, measure: &dyn HostInfo, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    if rice.bar.is_empty() {
        return;
    }
    let Some(monitors) = around.monitors() else { return };
    let known = around.known(rice);
    let desk = WindowManager::new(looker.shared.clone(), monitors);
    let mut told: Vec<(&str, String)> = Vec::new();
    for (monitor, facts) in desk.monitors.iter().map(|monitor| &monitor.facts).enumerate() {
        for (name, bar) in desk.bars_on(monitor) {
            // What fits however wide its letters are is not measured.
            let roomy = arrange(&desk, monitor, name, bar, BarInput::of(&known), &mut AtMost(Ruler(measure)));
            if roomy.left_out.is_empty() && roomy.modules.iter().all(|shown| shown.cut <= 0.0 || may_be_cut(rice, &shown.name)) {
                continue;
            }
            if measure.width("0", &TextStyle::new(&rice.r#type.text, rice.r#type.size.0)).is_none() {
                return;
            }
            let strip = arrange(&desk, monitor, name, bar, BarInput::of(&known), &mut Ruler(measure));
            let long = if strip.upright() { facts.area.h } else { facts.area.w };
            let mut new = |what: &'static str, module: &str| {
                let key = (what, format!("{name}.{module}"));
                let new = !told.contains(&key);
                told.push(key);
                new
            };
            for shown in strip.modules.iter().filter(|shown| shown.cut > 0.0) {
                if may_be_cut(rice, &shown.name) || !new("cut", &shown.name) {
                    continue;
                }
                let title = format!("the bar {name} cuts off {} on {}", shown.name, where_at(facts));
                let note = format!("{} missing of {long}", count(shown.cut.ceil() as usize, "pixel"));
                problems.push(
                    at(looker, name, &shown.name, Problem::warning("bar/cut", title), note)
                        .because("It ends in … there.")
                        .advise("shrink = 10", "in [module.NAME] of another makes that one give way first"),
                );
            }
            for module in &strip.left_out {
                if !new("left out", module) {
                    continue;
                }
                let title = format!("the bar {name} has no room for {module} on {}", where_at(facts));
                let note = format!("left out: the others at their least fill its {long} pixels");
                problems.push(
                    at(looker, name, module, Problem::warning("bar/overlap", title), note)
                        .because("It would lie over the others.")
                        .advise("jovrik set … --overlay NAME", "an overlay for this monitor can show fewer modules"),
                );
            }
        }
    }
}

/// Whether it is meant that a module is cut: a title may be as long as it likes, and a most that is asked for is meant.
fn may_be_cut(rice: &Rice, module: &str) -> bool {
    let module = rice.module.get(module);
    module.is_none_or(|module| module.source.kind.is(BuiltInSource::Title) || module.max.0 < 4000)
}

/// More than any text takes, without asking a font; other scripts than the Latin one are measured.
pub(super) struct AtMost<'a>(pub Ruler<'a>);

/// The widest letter of Latin faces, in times their size.
const WIDEST: f32 = 1.4;

impl Measure for AtMost<'_> {
    fn width(&mut self, text: &str, face: &TextStyle) -> f32 {
        if !text.chars().all(|c| (' '..'\u{250}').contains(&c) || ('\u{2010}'..='\u{2026}').contains(&c)) {
            return self.0.width(text, face);
        }
        text.chars().count() as f32 * face.points * WIDEST * 96.0 / 72.0
    }
}

fn where_at(facts: &MonitorFacts) -> String {
    format!("{} ({}x{})", facts.name, facts.area.w, facts.area.h)
}

/// A problem where a bar names a module, directly or in its sections.
fn at(looker: &CheckContext<'_>, bar: &str, module: &str, problem: Problem, note: String) -> Problem {
    let lists = ["start", "middle", "end"].map(|list| looker.items(&["bar", bar, list]));
    let direct = lists.iter().flatten().find(|(name, _)| *name == module).map(|(_, node)| node.span);
    let sections = || looker.node(&["bar", bar, "sections"]).map(|node| node.span);
    let head = || {
        let mut heads = looker.rice.module.iter().filter(|(_, head)| head.group.iter().any(|inner| inner == module));
        heads.next().and_then(|(head, _)| looker.node(&["module", head, "group"])).map(|node| node.span)
    };
    match direct.or_else(sections).or_else(head).filter(|span| span.written()) {
        Some(span) => problem.at(span, note),
        None => problem.because(note),
    }
}

/// Values for a look where nothing is known of the computer.
pub(super) fn plain_values(rice: &Rice) -> ModuleValues {
    crate::machine::Machine::plain().known(rice)
}
