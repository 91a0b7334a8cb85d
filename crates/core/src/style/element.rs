//! The elements there are, as data: kinds, their named instances, their states.

use jovrik_values::ElementState;

use crate::rice::Rice;

/// What the named instances of an element are.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Instances {
    /// It has none.
    None,
    /// Bars.
    Bars,
    /// Modules.
    Modules,
    /// Widgets.
    Widgets,
    /// Scopes of the keyboard.
    Scopes,
}

impl Instances {
    /// What one of them is called, and the names that a rice has for them.
    pub fn names(self, rice: &Rice) -> (&'static str, Vec<&str>) {
        match self {
            Instances::Bars => ("bar", rice.bar.keys().map(String::as_str).collect()),
            Instances::Modules | Instances::None => ("module", rice.module.keys().map(String::as_str).collect()),
            Instances::Widgets => ("widget", rice.widget.keys().map(String::as_str).collect()),
            Instances::Scopes => ("scope", std::iter::once("desk").chain(rice.scope.keys().map(String::as_str)).collect()),
        }
    }
}

/// A kind of thing that is drawn.
#[derive(Debug, Clone, Copy)]
pub struct Element {
    /// Its path: `bar.module`.
    pub path: &'static str,
    /// What it is.
    pub help: &'static str,
    /// What its named instances are.
    pub instances: Instances,
    /// The states that it can be in.
    pub states: &'static [ElementState],
    /// Whether text stands in it.
    pub text: bool,
}

const GRADES: &[ElementState] = &[ElementState::Urgent, ElementState::Warn, ElementState::Active, ElementState::Hover];

const DOCK: &[ElementState] = &[ElementState::Urgent, ElementState::Active, ElementState::Hover, ElementState::Running];
const WIDGET: &[ElementState] = &[ElementState::Urgent, ElementState::Warn, ElementState::Active];

const fn element(
    path: &'static str,
    help: &'static str,
    instances: Instances,
    states: &'static [ElementState],
    text: bool,
) -> Element {
    Element { path, help, instances, states, text }
}

/// All kinds.
pub const ELEMENTS: &[Element] = &[
    element("bar", "a bar", Instances::Bars, &[], true),
    element("bar.module", "a piece of a bar", Instances::Modules, GRADES, true),
    element("bar.icon", "the drawing before the text of a module", Instances::Modules, GRADES, false),
    element(
        "bar.mark",
        "the mark of a workspace",
        Instances::None,
        &[ElementState::Urgent, ElementState::Active, ElementState::Running],
        true,
    ),
    element("widget", "something that lies on the backdrop and shows values", Instances::Widgets, WIDGET, true),
    element("widget.figures", "the large figures of a clock", Instances::Widgets, WIDGET, true),
    element("widget.label", "the name of a widget, or of a row of a list", Instances::Widgets, WIDGET, true),
    element("widget.mark", "what is drawn of a value: an arc, a line, a curve", Instances::Widgets, WIDGET, false),
    element("widget.track", "what that is drawn on", Instances::Widgets, &[], false),
    element("dock", "the dock", Instances::None, &[], true),
    element("dock.item", "something that stands in the dock", Instances::None, DOCK, true),
    element("dock.mark", "the mark of a window of it", Instances::None, DOCK, false),
    element("dock.count", "how much its program has told", Instances::None, &[ElementState::Urgent], true),
    element("menu", "a menu of actions", Instances::None, &[], true),
    element("menu.item", "a line of a menu", Instances::None, &[ElementState::Picked], true),
    element("hint", "what a module says when the pointer rests on it", Instances::None, &[], true),
    element("notice", "a notice", Instances::None, &[ElementState::Urgent, ElementState::Warn], true),
    element("notice.title", "the first line of a notice", Instances::None, &[], true),
    element("notice.action", "something that can be done about a notice", Instances::None, &[], true),
    element(
        "notice.mark",
        "the mark at the side of a notice",
        Instances::None,
        &[ElementState::Urgent, ElementState::Warn],
        false,
    ),
    element("launcher", "the launcher", Instances::None, &[], true),
    element("launcher.typed", "what is typed into it", Instances::None, &[], true),
    element("launcher.mark", "the mark of a list", Instances::None, &[ElementState::Active, ElementState::Running], true),
    element(
        "launcher.row",
        "something that can be chosen",
        Instances::None,
        &[ElementState::Picked, ElementState::Running],
        true,
    ),
    element("launcher.icon", "the drawing before it", Instances::None, &[ElementState::Picked, ElementState::Running], false),
    element(
        "launcher.match",
        "the letters of it that were typed",
        Instances::None,
        &[ElementState::Picked, ElementState::Running],
        true,
    ),
    element("launcher.note", "what stands at its end", Instances::None, &[ElementState::Picked, ElementState::Running], true),
    element("launcher.help", "the line that says what keys do", Instances::None, &[], true),
    element("launcher.key", "a key in that line", Instances::None, &[], true),
    element("tabs", "a strip of the titles of windows", Instances::None, &[], true),
    element("tabs.title", "a title in such a strip", Instances::None, &[ElementState::Urgent, ElementState::Active], true),
    element("sheet", "the sheet of all keys", Instances::None, &[], true),
    element(
        "sheet.key",
        "a key of the drawn keyboard, active where something is bound",
        Instances::Scopes,
        &[ElementState::Urgent, ElementState::Active],
        true,
    ),
];

/// An element with its instance and state, as a path of a rice names it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ElementPath {
    /// The kind: `bar.module`.
    pub kind: &'static str,
    /// The named instance.
    pub name: Option<String>,
    /// The state.
    pub state: Option<ElementState>,
}

/// A path that names no element.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UnknownElement {
    /// How many of its steps were good.
    pub good: usize,
    /// What could stand there.
    pub known: Vec<&'static str>,
}

fn kind(path: &str) -> Option<&'static Element> {
    ELEMENTS.iter().find(|element| element.path == path)
}

impl ElementPath {
    /// The kind's facts.
    pub fn element(&self) -> &'static Element {
        kind(self.kind).unwrap_or(&ELEMENTS[0])
    }
}

/// What can stand directly below a kind: kinds in it, and its states.
fn below(path: &str) -> Vec<&'static str> {
    let inner = ELEMENTS.iter().filter_map(|element| {
        let rest = match path {
            "" => Some(element.path),
            _ => element.path.strip_prefix(path).and_then(|rest| rest.strip_prefix('.')),
        };
        rest.filter(|rest| !rest.contains('.'))
    });
    let states = kind(path).into_iter().flat_map(|element| element.states).map(|state| state.word());
    inner.chain(states).collect()
}

/// Reads the steps of an element's path: a kind, then a name or none, then a state or none.
pub fn place<S: AsRef<str>>(steps: &[S]) -> Result<ElementPath, UnknownElement> {
    let mut path = String::new();
    let mut at = 0;
    while let Some(step) = steps.get(at) {
        let longer = if path.is_empty() { step.as_ref().to_owned() } else { format!("{path}.{}", step.as_ref()) };
        if kind(&longer).is_none() {
            break;
        }
        path = longer;
        at += 1;
    }
    let Some(element) = kind(&path) else { return Err(UnknownElement { good: 0, known: below("") }) };
    let state_of = |step: &S| ElementState::parse(step.as_ref()).filter(|state| element.states.contains(state));
    let place =
        |name: Option<&S>, state| ElementPath { kind: element.path, name: name.map(|name| name.as_ref().to_owned()), state };
    let states = || element.states.iter().map(|state| state.word()).collect();
    match &steps[at..] {
        [] => Ok(place(None, None)),
        [one] => match state_of(one) {
            Some(state) => Ok(place(None, Some(state))),
            None if element.instances != Instances::None => Ok(place(Some(one), None)),
            None => Err(UnknownElement { good: at, known: below(&path) }),
        },
        [name, state] if element.instances != Instances::None && state_of(name).is_none() => match state_of(state) {
            Some(state) => Ok(place(Some(name), Some(state))),
            None => Err(UnknownElement { good: at + 1, known: states() }),
        },
        [one, ..] if state_of(one).is_some() => Err(UnknownElement { good: at + 1, known: Vec::new() }),
        [_, _, ..] if element.instances != Instances::None => Err(UnknownElement { good: at + 2, known: Vec::new() }),
        _ => Err(UnknownElement { good: at, known: below(&path) }),
    }
}

/// Every element that a rice can name without a name of its own, with what it is.
pub fn each_element() -> impl Iterator<Item = (String, String)> {
    ELEMENTS.iter().flat_map(|element| {
        let states = element
            .states
            .iter()
            .map(|state| (format!("{}.{}", element.path, state.word()), format!("{}, {}", element.help, state.word())));
        std::iter::once((element.path.to_owned(), element.help.to_owned())).chain(states)
    })
}
