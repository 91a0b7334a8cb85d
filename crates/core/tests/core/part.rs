//! A part of one's own: a surface with a text and a press takes one file, and one line where it is added.

use std::cell::Cell;
use std::rc::Rc;
use std::time::Duration;

use jovrik_core::desk::{self, Action, Area, Level, MonitorFacts, WindowFacts, WindowId};
use jovrik_core::desktop::{Desktop, Event, Reads, Surface, SurfaceId, Takes, World};
use jovrik_core::part::{Happens, Part, Wish};
use jovrik_core::scene::{Face, Item, Measure, Scene, seen};
use jovrik_core::stage::{Even, Headless};

use crate::checked;

/// Says where one is; pressed, it goes to the next workspace.
#[derive(Debug)]
struct Sign;

impl Part for Sign {
    fn name(&self) -> &'static str {
        "sign"
    }

    fn reads(&self) -> Reads {
        Reads::DESK
    }

    fn surfaces(&self, world: &World<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let desk = world.desk;
        let (name, face) = (desk.workspaces[desk.workspace()].name.clone(), Face::new("x", 11.0));
        let wide = measure.width(&name, &face) as i32;
        let mut scene = Scene::default();
        scene.text(20.0, 110.0, name, &face, desk.rice().palette.current.ink);
        let id = SurfaceId { part: self.name(), name: String::new(), monitor: world.monitor_name(0) };
        let area = Area::new(20, 100, wide, 20);
        vec![Surface { id, area, level: Level::Notices, takes: Takes::Pointer, radius: 0, content: Rc::new(scene) }]
    }

    fn happens(&mut self, _: &Surface, happens: Happens, _: &World<'_>) -> (bool, Vec<Wish>) {
        let pressed = matches!(happens, Happens::Press(1, ..));
        let next = Action::parse("go next").expect("an action");
        (false, pressed.then_some(Wish::Act(next)).into_iter().collect())
    }
}

#[test]
fn a_part_is_shown_pressed_and_drawn_like_any_other() {
    let rice = checked("[workspaces]\norder = [\"charts\", \"logs\"]\n");
    let monitors = vec![MonitorFacts::new("A", Area::new(0, 0, 800, 600))];
    let mut desktop = Desktop::new(rice.rice.clone(), rice.scopes.clone(), monitors).with(Box::new(Sign));
    let mut stage = Headless::default();
    let mut tell = |desktop: &mut Desktop, event: Event| stage.tell(desktop, event, Duration::ZERO);
    let says = |desktop: &Desktop| -> Vec<String> {
        let text = |item: Item| if let Item::Text { text, .. } = item { Some(text) } else { None };
        seen(desktop, 0, &mut Even(10.0)).items.into_iter().filter_map(text).collect()
    };
    tell(&mut desktop, Event::Tick);
    assert_eq!(says(&desktop), ["charts"]);
    let id = desktop.surfaces().find(|surface| surface.id.part == "sign").map(|surface| surface.id.clone());
    tell(&mut desktop, Event::Button(id, 1, 30, 110));
    assert_eq!(says(&desktop), ["logs"]);
}

/// Counts how often it is arranged.
#[derive(Debug, Default)]
struct Counter(Rc<Cell<usize>>);

impl Part for Counter {
    fn name(&self) -> &'static str {
        "counter"
    }

    fn reads(&self) -> Reads {
        Reads::DESK
    }

    fn surfaces(&self, _: &World<'_>, _: &mut dyn Measure) -> Vec<Surface> {
        self.0.set(self.0.get() + 1);
        Vec::new()
    }
}

#[test]
fn what_a_window_says_again_arranges_nothing() {
    let rice = checked("");
    let monitors = vec![MonitorFacts::new("A", Area::new(0, 0, 800, 600))];
    let arranged = Rc::new(Cell::new(0));
    let mut desktop = Desktop::new(rice.rice.clone(), rice.scopes.clone(), monitors).with(Box::new(Counter(arranged.clone())));
    let mut stage = Headless::default();
    let (id, facts) = (WindowId(1), WindowFacts { title: "log".to_owned(), ..WindowFacts::default() });
    let mut times = |event: desk::Event| {
        let before = arranged.get();
        stage.tell(&mut desktop, Event::Desk(event), Duration::ZERO);
        arranged.get() - before
    };
    assert_eq!(times(desk::Event::Appears(id, facts.clone())), 1);
    let retitled = |title: &str| desk::Event::Retitled(id, title.to_owned());
    assert_eq!((times(retitled("log")), times(retitled("tides"))), (0, 1));
    let steps = Some(desk::Steps { base: (2, 4), by: (6, 13) });
    let changed = |steps| desk::Event::Changes(id, Box::new(WindowFacts { title: "tides".to_owned(), steps, ..facts.clone() }));
    assert_eq!((times(changed(None)), times(changed(steps)), times(changed(steps))), (0, 1, 0));
    assert_eq!((times(desk::Event::Pointed(0)), times(desk::Event::Calls(id, false))), (0, 0));
    assert_eq!(times(desk::Event::Retitled(WindowId(7), "gone".to_owned())), 0, "of a window that is not there");
}
