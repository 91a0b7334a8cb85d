use std::rc::Rc;
use std::time::Duration;

use jovrik_core::change::{changes, in_short};
use jovrik_core::desk::{MonitorFacts, PlacedWindow, WindowFacts, WindowId, WindowManager, WmEvent};
use jovrik_core::desktop::Desktop;
use jovrik_core::machine::Machine;
use jovrik_core::scene::{Measure, PathSegment, Primitive, Scene, TextStyle, backdrop, default_windows, frame_items, seen};
use jovrik_core::stage::Headless;
use jovrik_text::{Source, Sources};
use jovrik_values::{PixelRect, Rect};

use crate::{checked, found};

/// Ten pixels a character.
struct Tens;

impl Measure for Tens {
    fn width(&mut self, text: &str, _: &TextStyle) -> f32 {
        text.chars().count() as f32 * 10.0
    }
}

const RICE: &str = "[frame]\nwidth = 2\nradius = 8\nglow = { width = 6 }\n[bar.top]\nthick = 32\nstart = [\"staff\"]\nend = [\"cpu\"]\n[module.staff]\nsource = \"workspaces\"\n[module.cpu]\nsource = \"cpu\"\ntext = \"{load:.0}\"\n";

fn desk(rice: &str, windows: u32) -> WindowManager {
    let mut desk = WindowManager::new(
        Rc::clone(&checked(rice).rice),
        vec![MonitorFacts::new("A".to_owned(), PixelRect::new(0, 0, 1000, 800))],
    );
    for id in 1..=windows {
        desk.handle(WmEvent::Mapped(
            WindowId(id),
            WindowFacts { app_id: "x".to_owned(), title: format!("w{id}"), ..WindowFacts::default() },
        ));
    }
    desk
}

/// The same with all that is drawn beside windows.
fn desktop(rice: &str, windows: u32) -> Desktop {
    let checked = checked(rice);
    let monitors = vec![MonitorFacts::new("A".to_owned(), PixelRect::new(0, 0, 1000, 800))];
    let mut desktop = Desktop::new(checked.rice.clone(), checked.scopes.clone(), monitors);
    let mut stage = Headless::default();
    stage.tell(&mut desktop, jovrik_core::desktop::DesktopEvent::Tick, Duration::ZERO);
    for id in 1..=windows {
        let facts = WindowFacts { app_id: "x".to_owned(), title: format!("w{id}"), ..WindowFacts::default() };
        stage.tell(&mut desktop, jovrik_core::desktop::DesktopEvent::Wm(WmEvent::Mapped(WindowId(id), facts)), Duration::ZERO);
    }
    desktop
}

fn rects(scene: &Scene) -> Vec<Rect> {
    scene
        .items
        .iter()
        .filter_map(|item| match item {
            Primitive::Fill { rect, .. } | Primitive::Border { rect, .. } => Some(*rect),
            _ => None,
        })
        .collect()
}

#[test]
fn everything_drawn_lies_on_the_monitor() {
    let desktop = desktop(RICE, 3);
    let scene = seen(&desktop, 0, &mut Tens);
    let screen = Rect::new(0.0, 0.0, 1000.0, 800.0);
    for rect in rects(&scene) {
        assert_eq!(rect.union(screen), screen, "{rect:?}");
    }
    let glows = scene.items.iter().filter(|item| matches!(item, Primitive::Glow { .. })).count();
    assert_eq!(glows, 1, "only the focused frame glows");
    assert_eq!(scene, seen(&desktop, 0, &mut Tens));
}

#[test]
fn frames_say_who_has_the_focus_and_who_calls() {
    let mut desk = desk(RICE, 2);
    desk.handle(WmEvent::UrgencyChanged(WindowId(1), true));
    let palette = &desk.rice().palette.current;
    let colours: Vec<_> = desk
        .arrangement()
        .placed
        .values()
        .map(|placed| {
            frame_items(desk.rice(), placed).items.into_iter().find_map(|item| match item {
                Primitive::Border { fill, .. } => Some(fill),
                _ => None,
            })
        })
        .collect();
    assert_eq!(colours, [Some(palette.alert.into()), Some(palette.accent.into())]);
    let bare = crate::checked("[frame]\nwidth = 0\n").rice;
    let bare = WindowManager::new(bare, vec![MonitorFacts::new("A", PixelRect::new(0, 0, 100, 100))]);
    let placed = desk.arrangement().placed[0];
    let placed = PlacedWindow { area: placed.outer, ..placed };
    assert!(frame_items(bare.rice(), &placed).items.iter().all(|item| !matches!(item, Primitive::Border { .. })));
}

#[test]
fn contours_lie_near_their_area_and_are_drawn_only_when_asked_for() {
    let area = Rect::new(100.0, 50.0, 640.0, 400.0);
    let monitor = MonitorFacts::new("A", area.into());
    let plain = backdrop(&checked("").rice, &monitor, "charts", 12, area);
    assert_eq!(plain.items.len(), 1);
    let lines = backdrop(&checked("[backdrop]\ndraw = \"contours\"\n").rice, &monitor, "charts", 12, area);
    let Some(Primitive::Stroke { path, .. }) = lines.items.last() else { panic!("lines are drawn") };
    assert!(path.len() > 200, "{}", path.len());
    let around = area.grown(40.0);
    for step in path {
        if let PathSegment::Move(x, y) | PathSegment::Line(x, y) = *step {
            assert!(around.touches(Rect::new(x, y, 1.0, 1.0)), "{x},{y}");
        }
    }
}

#[test]
fn default_windows_fill_the_sample_and_tiny_monitors_are_survived() {
    for (w, h) in [(1920, 1080), (320, 200), (200, 4000)] {
        let mut desktop = desktop(RICE, 0);
        let mut tell =
            |event| Headless::default().tell(&mut desktop, jovrik_core::desktop::DesktopEvent::Wm(event), Duration::ZERO);
        tell(WmEvent::Monitors(vec![MonitorFacts::new("A".to_owned(), PixelRect::new(0, 0, w, h))]));
        for (nth, facts) in default_windows().into_iter().enumerate() {
            tell(WmEvent::Mapped(WindowId(nth as u32), facts));
        }
        let scene = seen(&desktop, 0, &mut Tens);
        assert!(!scene.items.is_empty());
    }
}

#[test]
fn facts_of_a_machine_are_read_with_their_problems() {
    let read = |text: &str| {
        let mut sources = Sources::default();
        Machine::read(&mut sources, Source::new("machines/a.toml", text))
    };
    let (machine, problems) = read(
        "host = \"skiff\"\ncores = 4\n[monitor]\nA = \"800x600\"\nB = { size = \"1920x1080\", at = \"800,0\" }\n[values]\ncpu = { load = 81.5 }\nclock = { time = \"2024-05-14T06:42:00\" }\n",
    );
    assert!(problems.is_empty(), "{problems:?}");
    let areas: Vec<String> = machine.monitors().iter().map(|monitor| format!("{} {}", monitor.name, monitor.area)).collect();
    assert_eq!(areas, ["A 800x600+0+0", "B 1920x1080+800+0"]);
    let rice = checked("[module.cpu]\nsource = \"cpu\"\ntext = \"{load:.1}\"\n[module.clock]\nsource = \"time\"\ntext = \"{time:%H:%M}\"\n[module.memory]\nsource = \"memory\"\ntext = \"{percent:.0}\"\n[module.tide]\nsource = { run = [\"sluice\"] }\n").rice;
    let known = machine.known(&rice);
    let shown = |name: &str| known.get(name).and_then(|values| rice.module[name].text.fill(values));
    assert_eq!(
        (shown("cpu").as_deref(), shown("clock").as_deref(), shown("memory").as_deref()),
        (Some("81.5"), Some("06:42"), Some("30"))
    );
    assert_eq!(shown("tide"), None, "programs are never guessed at");
    for bad in ["cores = 0", "[monitor]\nA = \"wide\"", "[monitor]\nA = { size = \"99999x1\" }", "hosts = 1", "[values]\ncpu = 3"]
    {
        let (_, problems) = read(bad);
        assert_eq!(problems.len(), 1, "{bad}: {problems:?}");
    }
    assert_eq!(Machine::plain().monitors()[0].area, PixelRect::new(0, 0, 1920, 1080));
}

#[test]
fn changes_are_told_in_words() {
    let told = |old: &str, new: &str| {
        let (old, new) = (checked(old), checked(new));
        let changes = changes(&old.tree, &new.tree);
        (changes.iter().map(ToString::to_string).collect::<Vec<_>>(), in_short(&changes))
    };
    let (all, short) = told("[space]\nedge = 1\nalone = 3\n", "[space]\nedge = 2\nbetween = 4\n");
    assert_eq!(all, ["space.edge 1 → 2", "space.between = 4", "space.alone is no longer set"]);
    assert_eq!(short, "3 settings");
    assert_eq!(
        told("", "[keys.desk]\n\"Lead+x\" = \"close\"\n\"Lead+y\" = \"quit\"\n[space]\nedge = 1\n").1,
        "space.edge = 1, 2 bindings"
    );
    assert_eq!(told("space.edge = 1", "[space]\nedge = 1\n").1, "nothing", "how it is written is no change");
    assert_eq!(found(&checked("space.edge = 1")), Vec::<String>::new());
}
