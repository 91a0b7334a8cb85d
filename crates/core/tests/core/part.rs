//! A part of one's own: a surface with a text and a press takes one file, and one line where it is added.

use std::cell::Cell;
use std::rc::Rc;
use std::time::Duration;

use jovrik_core::desk::{self, MonitorFacts, StackingLayer, WindowFacts, WindowId};
use jovrik_core::desktop::{ChangeFlags, Desktop, DesktopEvent, DesktopView, Interactivity, Surface, SurfaceId};
use jovrik_core::part::{Component, ComponentRequest, InputEvent};
use jovrik_core::scene::{Measure, Primitive, Scene, TextStyle, seen};
use jovrik_core::stage::{FixedWidthMeasure, Headless};
use jovrik_values::PixelRect;
use jovrik_values::action::Action;

use crate::checked;

/// Says where one is; pressed, it goes to the next workspace.
#[derive(Debug)]
struct Sign;

impl Component for Sign {
    fn name(&self) -> &'static str {
        "sign"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::DESK
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let desk = world.desk;
        let (name, face) = (desk.workspaces[desk.workspace()].name.clone(), TextStyle::new("x", 11.0));
        let wide = measure.width(&name, &face) as i32;
        let mut scene = Scene::default();
        scene.text(20.0, 110.0, name, &face, desk.rice().palette.current.ink);
        let id = SurfaceId { part: self.name(), name: String::new(), monitor: world.monitor_name(0) };
        let area = PixelRect::new(20, 100, wide, 20);
        vec![Surface {
            id,
            area,
            level: StackingLayer::Notices,
            takes: Interactivity::Pointer,
            radius: 0,
            content: Rc::new(scene),
        }]
    }

    fn handle_input(&mut self, _: &Surface, happens: InputEvent, _: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let pressed = matches!(happens, InputEvent::Press(1, ..));
        let next = Action::parse("go next").expect("an action");
        (false, pressed.then_some(ComponentRequest::Act(next)).into_iter().collect())
    }
}

#[test]
fn a_part_is_shown_pressed_and_drawn_like_any_other() {
    let rice = checked("[workspaces]\norder = [\"charts\", \"logs\"]\n");
    let monitors = vec![MonitorFacts::new("A", PixelRect::new(0, 0, 800, 600))];
    let mut desktop = Desktop::new(rice.rice.clone(), rice.scopes.clone(), monitors).with(Box::new(Sign));
    let mut stage = Headless::default();
    let mut tell = |desktop: &mut Desktop, event: DesktopEvent| stage.tell(desktop, event, Duration::ZERO);
    let says = |desktop: &Desktop| -> Vec<String> {
        let text = |item: Primitive| if let Primitive::Text { text, .. } = item { Some(text) } else { None };
        seen(desktop, 0, &mut FixedWidthMeasure(10.0)).items.into_iter().filter_map(text).collect()
    };
    tell(&mut desktop, DesktopEvent::Tick);
    assert_eq!(says(&desktop), ["charts"]);
    let id = desktop.surfaces().find(|surface| surface.id.part == "sign").map(|surface| surface.id.clone());
    tell(&mut desktop, DesktopEvent::Button(id, 1, 30, 110));
    assert_eq!(says(&desktop), ["logs"]);
}

/// Counts how often it is arranged.
#[derive(Debug, Default)]
struct Counter(Rc<Cell<usize>>);

impl Component for Counter {
    fn name(&self) -> &'static str {
        "counter"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::DESK
    }

    fn surfaces(&self, _: &DesktopView<'_>, _: &mut dyn Measure) -> Vec<Surface> {
        self.0.set(self.0.get() + 1);
        Vec::new()
    }
}

#[test]
fn what_a_window_says_again_arranges_nothing() {
    let rice = checked("");
    let monitors = vec![MonitorFacts::new("A", PixelRect::new(0, 0, 800, 600))];
    let arranged = Rc::new(Cell::new(0));
    let mut desktop = Desktop::new(rice.rice.clone(), rice.scopes.clone(), monitors).with(Box::new(Counter(arranged.clone())));
    let mut stage = Headless::default();
    let (id, facts) = (WindowId(1), WindowFacts { title: "log".to_owned(), ..WindowFacts::default() });
    let mut times = |event: desk::WmEvent| {
        let before = arranged.get();
        stage.tell(&mut desktop, DesktopEvent::Wm(event), Duration::ZERO);
        arranged.get() - before
    };
    assert_eq!(times(desk::WmEvent::Mapped(id, facts.clone())), 1);
    let retitled = |title: &str| desk::WmEvent::TitleChanged(id, title.to_owned());
    assert_eq!((times(retitled("log")), times(retitled("tides"))), (0, 1));
    let steps = Some(desk::SizeIncrements { base: (2, 4), by: (6, 13) });
    let changed = |steps| {
        desk::WmEvent::InfoChanged(
            id,
            Box::new(WindowFacts { title: "tides".to_owned(), size_increments: steps, ..facts.clone() }),
        )
    };
    assert_eq!((times(changed(None)), times(changed(steps)), times(changed(steps))), (0, 1, 0));
    assert_eq!((times(desk::WmEvent::Pointed(0)), times(desk::WmEvent::UrgencyChanged(id, false))), (0, 0));
    assert_eq!(times(desk::WmEvent::TitleChanged(WindowId(7), "gone".to_owned())), 0, "of a window that is not there");
}
