//! Everything of a rice that carries ink: what meets what.

use jovrik_schema::Colour;
use jovrik_values::{ElementState, Fill};

use super::contrast::{MIN_LARGE_TEXT_CONTRAST, least, under, worst};
use crate::rice::{Bar, Module, Rice, Widget, WidgetKind};
use crate::style::{StyledElement, resolve};

/// One element of a chain, by itself.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ElementRef {
    /// The kind.
    pub kind: &'static str,
    /// Its name.
    pub name: String,
    /// Its states.
    pub states: Vec<ElementState>,
}

/// Something with ink, and the elements around it, the outermost first.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct InkedElement {
    /// The chain.
    pub kin: Vec<ElementRef>,
    /// Whether its ink is text; else a drawing.
    pub text: bool,
}

/// An ink, and what it meets.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct InkContrast {
    /// The ink.
    pub ink: Colour,
    /// What lies under it where it is read worst.
    pub on: Colour,
    /// The contrast of the two.
    pub contrast: f64,
    /// The least that is enough.
    pub least: f64,
}

impl InkedElement {
    /// The elements of the chain, for the cascade.
    pub fn chain(&self) -> Vec<StyledElement<'_>> {
        self.kin.iter().map(|kin| StyledElement { kind: kin.kind, name: &kin.name, states: &kin.states }).collect()
    }

    /// What its ink meets in a rice: the fills of all that is around it, over the backdrop.
    pub fn meets(&self, rice: &Rice) -> Option<InkContrast> {
        let chain = self.chain();
        let styles: Vec<_> = (1..=chain.len()).map(|len| resolve(rice, &chain[..len])).collect();
        let style = styles.last()?;
        // The name of a workspace stands beside its mark, not on it.
        let beside = usize::from(chain.last().is_some_and(|kin| ["bar.mark", "launcher.mark"].contains(&kin.kind)));
        let mut fills: Vec<&Fill> = vec![&rice.backdrop.fill];
        fills.extend(styles[..styles.len() - beside].iter().map(|style| &style.fill));
        let (contrast, on) = worst(style.ink, &under(&fills, rice.palette.current.paper))?;
        let least = if self.text { least(&style.face) } else { MIN_LARGE_TEXT_CONTRAST };
        Some(InkContrast { ink: style.ink, on, contrast, least })
    }

    /// What it is, as in "text of the module cpu, warn, in the bar top".
    pub fn in_words(&self) -> String {
        let Some(last) = self.kin.last() else { return String::new() };
        let state = last.states.first().map_or(String::new(), |state| format!(" when {}", state.word()));
        match last.kind {
            "bar.module" => format!("the module {}{state}", last.name),
            "bar.icon" => format!("the icon of {}{state}", last.name),
            "bar.mark" => "the name of the workspace one is on".to_owned(),
            "widget" => format!("the widget {}{state}", last.name),
            "widget.figures" => format!("the figures of {}{state}", last.name),
            "widget.label" => format!("the label of {}{state}", last.name),
            "widget.mark" => format!("what is drawn of {}{state}", last.name),
            "dock.item" => format!("what stands in the dock{state}"),
            "dock.count" => "a count in the dock".to_owned(),
            "menu.item" if last.states.contains(&ElementState::Picked) => "the picked line of a menu".to_owned(),
            "menu.item" => "a line of a menu".to_owned(),
            "hint" => "a hint".to_owned(),
            "sheet" => "the sheet of keys".to_owned(),
            "sheet.key" => "a bound key of the sheet".to_owned(),
            "tabs.title" if last.states.contains(&ElementState::Active) => "the title of the tab in front".to_owned(),
            "tabs.title" if last.states.contains(&ElementState::Urgent) => "the title of a tab that calls".to_owned(),
            "tabs.title" => "the title of a tab".to_owned(),
            "notice.title" => "the title of a notice".to_owned(),
            "notice.action" => "what can be done about a notice".to_owned(),
            "launcher.typed" => "what is typed into the launcher".to_owned(),
            "launcher.help" => "the line of help of the launcher".to_owned(),
            "launcher.key" => "a key in the launcher's line of help".to_owned(),
            "launcher.mark" => "the name of the launcher's list".to_owned(),
            "launcher.row" if last.states.contains(&ElementState::Picked) => "the picked row of the launcher".to_owned(),
            "launcher.row" => "a row of the launcher".to_owned(),
            "launcher.match" => format!("the typed letters of a row{}", picked(last)),
            "launcher.note" => format!("the end of a row{}", picked(last)),
            "launcher.icon" => format!("the drawing before a row{}", picked(last)),
            _ => format!("a {}", last.kind),
        }
    }
}

/// Whether something stands in the row that is picked.
fn picked(kind: &ElementRef) -> &'static str {
    if kind.states.contains(&ElementState::Picked) { " that is picked" } else { "" }
}

fn kind(kind: &'static str, name: &str, states: &[ElementState]) -> ElementRef {
    ElementRef { kind, name: name.to_owned(), states: states.to_vec() }
}

/// The states that a module can be in, the plain one first.
fn states(module: &Module) -> Vec<Vec<ElementState>> {
    let grades = [
        (ElementState::Active, &module.grades.active),
        (ElementState::Warn, &module.grades.warn),
        (ElementState::Urgent, &module.grades.urgent),
    ];
    let mut all = vec![Vec::new()];
    all.extend(grades.into_iter().filter(|(_, when)| !when.0.is_empty()).map(|(state, _)| vec![state]));
    if !module.press.0.is_empty() {
        all.push(vec![ElementState::Hover]);
    }
    all
}

fn of_bar(rice: &Rice, name: &str, bar: &Bar, out: &mut Vec<InkedElement>) {
    let around = kind("bar", name, &[]);
    let members = |name: &String| rice.module.get(name).map(|module| module.group.iter()).into_iter().flatten();
    for (name, module) in bar
        .modules()
        .flat_map(|name| std::iter::once(name).chain(members(name)))
        .filter_map(|name| Some((name, rice.module.get(name)?)))
    {
        if module.source.kind.is(crate::rice::BuiltInSource::Workspaces) {
            out.push(InkedElement { kin: vec![around.clone(), kind("bar.mark", "", &[ElementState::Active])], text: true });
            continue;
        }
        let icon = !module.icon.is_none() || module.cases.iter().any(|case| case.icon.is_some());
        let drawn = module.source.kind.is(crate::rice::BuiltInSource::Layout) && module.text.is_plain();
        for states in states(module) {
            let own = vec![around.clone(), kind("bar.module", name, &states)];
            if icon {
                let kin = [own.clone(), vec![kind("bar.icon", name, &states)]].concat();
                out.push(InkedElement { kin, text: false });
            }
            out.push(InkedElement { kin: own, text: !drawn });
        }
    }
}

fn of_widget(rice: &Rice, name: &str, widget: &Widget, out: &mut Vec<InkedElement>) {
    let module = rice.module.get(&widget.module);
    let grades = module.map_or_else(|| vec![Vec::new()], states);
    for states in grades.iter().filter(|states| !states.contains(&ElementState::Hover)) {
        let own = || vec![kind("widget", name, states)];
        let inner = |what: &'static str| [own(), vec![kind(what, name, states)]].concat();
        let says = match widget.kind {
            WidgetKind::Clock => inner("widget.figures"),
            _ => own(),
        };
        if widget.kind != WidgetKind::Picture {
            out.push(InkedElement { kin: says, text: true });
        }
        if matches!(widget.kind, WidgetKind::Ring | WidgetKind::Meter | WidgetKind::Graph) {
            out.push(InkedElement { kin: inner("widget.mark"), text: false });
        }
        if !widget.label.is_empty() || widget.kind == WidgetKind::List {
            out.push(InkedElement { kin: inner("widget.label"), text: true });
        }
    }
}

/// Everything with ink that a rice can show.
pub fn each_drawn(rice: &Rice) -> Vec<InkedElement> {
    let mut out = Vec::new();
    for (name, bar) in rice.bar.iter() {
        of_bar(rice, name, bar, &mut out);
    }
    for (name, widget) in rice.widget.iter() {
        of_widget(rice, name, widget, &mut out);
    }
    let alone = |kin: Vec<ElementRef>| InkedElement { kin, text: true };
    let menu = || kind("menu", "", &[]);
    out.push(alone(vec![menu(), kind("menu.item", "", &[])]));
    out.push(alone(vec![menu(), kind("menu.item", "", &[ElementState::Picked])]));
    out.push(alone(vec![kind("hint", "", &[])]));
    if rice.layout.values().any(|layout| layout.kind == crate::rice::LayoutKind::Tabs) {
        for states in [&[][..], &[ElementState::Active], &[ElementState::Urgent]] {
            out.push(alone(vec![kind("tabs", "", &[]), kind("tabs.title", "", states)]));
        }
    }
    if rice.dock.is_there() {
        let item = |states: &[ElementState]| vec![kind("dock", "", &[]), kind("dock.item", "", states)];
        for states in [&[][..], &[ElementState::Running], &[ElementState::Active], &[ElementState::Urgent]] {
            out.push(InkedElement { kin: item(states), text: false });
        }
        if rice.dock.counts {
            for states in [&[][..], &[ElementState::Urgent]] {
                out.push(alone([item(states), vec![kind("dock.count", "", states)]].concat()));
            }
        }
    }
    out.push(alone(vec![kind("sheet", "", &[])]));
    out.push(alone(vec![kind("sheet", "", &[]), kind("sheet.key", "", &[ElementState::Active])]));
    out.push(alone(vec![kind("notice", "", &[])]));
    out.push(alone(vec![kind("notice", "", &[]), kind("notice.title", "", &[])]));
    out.push(alone(vec![kind("notice", "", &[]), kind("notice.action", "", &[])]));
    let launcher = || kind("launcher", "", &[]);
    for inner in ["launcher.typed", "launcher.help", "launcher.note"] {
        out.push(alone(vec![launcher(), kind(inner, "", &[])]));
    }
    out.push(alone(vec![launcher(), kind("launcher.help", "", &[]), kind("launcher.key", "", &[])]));
    out.push(alone(vec![launcher(), kind("launcher.mark", "", &[ElementState::Active])]));
    for states in [&[][..], &[ElementState::Picked]] {
        let row = || kind("launcher.row", "", states);
        out.push(alone(vec![launcher(), row()]));
        for inner in ["launcher.match", "launcher.note"] {
            out.push(alone(vec![launcher(), row(), kind(inner, "", states)]));
        }
        out.push(InkedElement { kin: vec![launcher(), row(), kind("launcher.icon", "", states)], text: false });
    }
    out
}
