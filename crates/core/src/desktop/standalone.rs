//! Some parts of a desktop by themselves, beside whatever else manages the windows.

use std::rc::Rc;

use jovrik_schema::NamedMap;
use jovrik_text::Ordered;
use jovrik_values::action::Action;

use super::update::Desktop;
use crate::check::CheckedRice;
use crate::desk::MonitorFacts;
use crate::keys::{BindingTarget, Scopes};
use crate::rice::{DockSettings, Rice};

/// A part that can run by itself.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum StandaloneComponent {
    /// Bars.
    Bar,
    /// The launcher.
    Launcher,
    /// Notices.
    Notices,
    /// Widgets.
    Widgets,
    /// The dock.
    Dock,
}

impl StandaloneComponent {
    /// All of them, with their words.
    pub const ALL: [(&'static str, StandaloneComponent); 5] = [
        ("bar", StandaloneComponent::Bar),
        ("launcher", StandaloneComponent::Launcher),
        ("notices", StandaloneComponent::Notices),
        ("widgets", StandaloneComponent::Widgets),
        ("dock", StandaloneComponent::Dock),
    ];

    /// The names of the parts that it is.
    fn parts(self) -> &'static [&'static str] {
        match self {
            StandaloneComponent::Bar => &["bar", "menu", "hint"],
            StandaloneComponent::Launcher => &["launcher"],
            StandaloneComponent::Notices => &["notice"],
            StandaloneComponent::Widgets => &["widget", "menu"],
            StandaloneComponent::Dock => &["dock", "menu", "hint"],
        }
    }

    /// Whether an action is its own.
    fn does(self, action: &Action) -> bool {
        match self {
            StandaloneComponent::Bar => matches!(action, Action::BarToggle(_) | Action::Fold(_)),
            StandaloneComponent::Launcher => matches!(action, Action::Launcher(_)),
            StandaloneComponent::Notices => matches!(action, Action::Notices(_)),
            StandaloneComponent::Widgets | StandaloneComponent::Dock => false,
        }
    }
}

/// What of a rice is for some parts: neither its programs that start nor its other bindings, and no dragging of windows.
pub fn only(checked: &mut CheckedRice, alone: &[StandaloneComponent]) {
    let mut rice = Rice::clone(&checked.rice);
    rice.start = NamedMap(Ordered::default());
    (rice.pointer.r#move, rice.pointer.resize) = Default::default();
    if !alone.contains(&StandaloneComponent::Bar) {
        rice.bar = NamedMap(Ordered::default());
    }
    if !alone.contains(&StandaloneComponent::Widgets) {
        rice.widget = NamedMap(Ordered::default());
    }
    if !alone.contains(&StandaloneComponent::Dock) {
        rice.dock = DockSettings { running: false, keep: Vec::new(), ..rice.dock };
    }
    let mut scopes = Scopes::clone(&checked.scopes);
    let own = |action: &Action| alone.iter().any(|part| part.does(action));
    scopes.bound.retain(|bound| match &bound.what {
        BindingTarget::Act(action) => action.each().iter().all(own) && scopes.tables[bound.table].mode.is_none(),
        _ => true,
    });
    (checked.rice, checked.scopes) = (Rc::new(rice), Rc::new(scopes));
}

impl Desktop {
    /// Some parts alone, on monitors that another one manages.
    pub fn beside(rice: Rc<Rice>, scopes: Rc<Scopes>, monitors: Vec<MonitorFacts>, alone: &[StandaloneComponent]) -> Desktop {
        let mut desktop = Desktop::new(rice, scopes, monitors);
        let names: Vec<&str> = alone.iter().flat_map(|alone| alone.parts()).copied().collect();
        desktop.parts.retain(|part| names.contains(&part.name()));
        desktop.shown = desktop.parts.iter().map(|_| Vec::new()).collect();
        desktop.own = vec![true; desktop.parts.len()];
        desktop
    }
}
