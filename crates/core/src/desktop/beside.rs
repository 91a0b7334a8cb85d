//! Some parts of a desktop by themselves, beside whatever else manages the windows.

use std::rc::Rc;

use super::machine::Desktop;
use crate::check::Checked;
use crate::desk::{Action, MonitorFacts};
use crate::keys::{Scopes, What};
use crate::ordered::Ordered;
use crate::rice::{Dock, Named, Rice};

/// A part that can run by itself.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Alone {
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

impl Alone {
    /// All of them, with their words.
    pub const ALL: [(&'static str, Alone); 5] = [
        ("bar", Alone::Bar),
        ("launcher", Alone::Launcher),
        ("notices", Alone::Notices),
        ("widgets", Alone::Widgets),
        ("dock", Alone::Dock),
    ];

    /// The names of the parts that it is.
    fn parts(self) -> &'static [&'static str] {
        match self {
            Alone::Bar => &["bar", "menu", "hint"],
            Alone::Launcher => &["launcher"],
            Alone::Notices => &["notice"],
            Alone::Widgets => &["widget", "menu"],
            Alone::Dock => &["dock", "menu", "hint"],
        }
    }

    /// Whether an action is its own.
    fn does(self, action: &Action) -> bool {
        match self {
            Alone::Bar => matches!(action, Action::BarToggle(_) | Action::Fold(_)),
            Alone::Launcher => matches!(action, Action::Launcher(_)),
            Alone::Notices => matches!(action, Action::Notices(_)),
            Alone::Widgets | Alone::Dock => false,
        }
    }
}

/// What of a rice is for some parts: neither its programs that start nor its other bindings, and no dragging of windows.
pub fn only(checked: &mut Checked, alone: &[Alone]) {
    let mut rice = Rice::clone(&checked.rice);
    rice.start = Named(Ordered::default());
    (rice.pointer.r#move, rice.pointer.resize) = Default::default();
    if !alone.contains(&Alone::Bar) {
        rice.bar = Named(Ordered::default());
    }
    if !alone.contains(&Alone::Widgets) {
        rice.widget = Named(Ordered::default());
    }
    if !alone.contains(&Alone::Dock) {
        rice.dock = Dock { running: false, keep: Vec::new(), ..rice.dock };
    }
    let mut scopes = Scopes::clone(&checked.scopes);
    let own = |action: &Action| alone.iter().any(|part| part.does(action));
    scopes.bound.retain(|bound| match &bound.what {
        What::Act(action) => action.each().iter().all(own) && scopes.tables[bound.table].mode.is_none(),
        _ => true,
    });
    (checked.rice, checked.scopes) = (Rc::new(rice), Rc::new(scopes));
}

impl Desktop {
    /// Some parts alone, on monitors that another one manages.
    pub fn beside(rice: Rc<Rice>, scopes: Rc<Scopes>, monitors: Vec<MonitorFacts>, alone: &[Alone]) -> Desktop {
        let mut desktop = Desktop::new(rice, scopes, monitors);
        let names: Vec<&str> = alone.iter().flat_map(|alone| alone.parts()).copied().collect();
        desktop.parts.retain(|part| names.contains(&part.name()));
        desktop.shown = desktop.parts.iter().map(|_| Vec::new()).collect();
        desktop.own = vec![true; desktop.parts.len()];
        desktop
    }
}
