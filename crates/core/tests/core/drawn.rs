//! What each part draws, on small and large monitors, at any scale and size of type: inside its own area, all of it, and the
//! same in pieces.

use std::rc::Rc;

use jovrik_core::desk::{MonitorFacts, WindowId};
use jovrik_core::desktop::{Desktop, DesktopEvent, Surface};
use jovrik_core::scene::{Primitive, Scene, TextRotation};
use jovrik_core::stage::Headless;
use jovrik_values::{PixelRect, Rect};
use proptest::prelude::*;

use crate::checked;
use crate::pretended::{Pretended, RICE};

/// A desktop with something of everything, on one monitor.
fn desktop(size: (i32, i32), scale: i32, points: u32) -> Pretended {
    let scale = f64::from(scale) / 100.0;
    let part = format!("{RICE}[monitor.A]\nmatch = \"A\"\nscale = {scale:?}\n[type]\nsize = {points}\n");
    let rice = checked(&part);
    assert_eq!(rice.errors(), 0, "{:?}", crate::found(&rice));
    let monitors = vec![MonitorFacts::new("A", PixelRect::new(0, 0, size.0, size.1))];
    let mut it = Pretended {
        desktop: Desktop::new(rice.rice.clone(), rice.scopes.clone(), monitors),
        stage: Headless::default(),
        now: std::time::Duration::ZERO,
        others: Vec::new(),
    };
    it.tell(DesktopEvent::Tick);
    it
}

/// What brings a part to the screen: its name, and what is done.
type Brings = (&'static str, fn(&mut Pretended));

const PARTS: [Brings; 12] = [
    ("backdrop", |_| {}),
    ("bar", |_| {}),
    ("dock", |_| {}),
    ("widget", |_| {}),
    ("launcher", |it| it.act("launcher")),
    ("sheet", |it| it.act("keys sheet")),
    ("notice", |it| {
        it.tell(DesktopEvent::Refused("parts/desk.toml:3:1: there is no setting egde in space; did you mean edge?".to_owned()))
    }),
    ("menu", |it| {
        let at = it.module("word");
        it.click("bar", 3, at);
    }),
    ("hint", |it| {
        let ((x, y), bar) = (it.module("word"), it.surface("bar").expect("a bar"));
        it.tell(DesktopEvent::PointerMoved(Some(bar.id.clone()), x, y));
        it.wait(2000);
    }),
    ("tabs", |it| {
        it.act("layout tabs");
        for (id, app) in [(1, "tide"), (2, "a window with quite a long name that no tab has room for"), (3, "chart")] {
            it.open(id, app);
        }
    }),
    ("steer", |it| {
        it.open(1, "tide");
        it.tell(DesktopEvent::Steer { window: WindowId(1), sizes: false });
    }),
    ("choose", |it| it.act("screenshot area")),
];

fn scene_of(it: &Pretended, surface: &Surface, area: Rect) -> Scene {
    surface.content.scene(it.desktop.desk().rice(), area)
}

/// Whether a rectangle lies in another, but for what rounding makes of it.
fn within(inner: Rect, outer: Rect) -> bool {
    let grown = outer.grown(1.0);
    inner.union(grown) == grown
}

/// The rectangle of what is drawn, where that is one.
fn rect_of(item: &Primitive) -> Option<Rect> {
    match item {
        Primitive::Fill { rect, .. } | Primitive::Border { rect, .. } | Primitive::Picture { rect, .. } => Some(*rect),
        _ => None,
    }
}

/// All surfaces of a part, which it has once it was brought.
fn brought((part, brings): Brings, size: (i32, i32), scale: i32, points: u32) -> (Pretended, Vec<Rc<Surface>>) {
    let mut it = desktop(size, scale, points);
    brings(&mut it);
    let own: Vec<Rc<Surface>> = it.shown.iter().filter(|surface| surface.id.part == part).cloned().collect();
    assert!(!own.is_empty(), "{part} is there on {size:?} at {scale} with {points}");
    it.is_fresh();
    (it, own)
}

#[test]
fn every_part_draws_inside_of_its_own_area() {
    for brings in PARTS {
        for size in [(640, 480), (1000, 800), (2560, 1440)] {
            // A monitor less than 500 pixels of the settings wide has no room for a sentence in letters that wide.
            let scales = [(100, 8), (100, 11), (150, 11), (200, 11), (100, 24)];
            for (scale, points) in scales.into_iter().filter(|(scale, _)| size.0 * 100 >= 500 * scale) {
                let (it, surfaces) = brought(brings, size, scale, points);
                for surface in surfaces {
                    let (area, at) =
                        (Rect::from(surface.area), format!("{} on {size:?} at {scale} with {points}", surface.id.part));
                    assert!(within(area, Rect::new(0.0, 0.0, size.0 as f32, size.1 as f32)), "{at}: {area:?}");
                    for item in &scene_of(&it, &surface, area).items {
                        // A strip of tabs draws its piece of the frame round the window below.
                        if let Some(rect) = rect_of(item).filter(|_| surface.id.part != "tabs") {
                            assert!(rect.w >= 0.0 && rect.h >= 0.0 && within(rect, area), "{at}: {rect:?} beyond {area:?}");
                        }
                        if let Primitive::Text { x, y, text, turn: TextRotation::None, .. } = item {
                            let dot = Rect::new(*x, *y, 0.0, 0.0);
                            assert!(within(dot, area), "{at}: {text:?} at {x}, {y} beyond {area:?}");
                        }
                    }
                }
            }
        }
    }
}

#[test]
fn what_lies_at_a_point_contains_it_and_is_not_a_part_of_the_backdrop() {
    for brings in PARTS {
        let (_, surfaces) = brought(brings, (1000, 800), 100, 11);
        for surface in surfaces {
            let area = surface.area;
            let points = (0..40).flat_map(|across| (0..40).map(move |down| (across, down)));
            for (across, down) in points {
                let (x, y) = (area.x + area.w * across / 40, area.y + area.h * down / 40);
                if let Some(at) = surface.content.at(x as f32, y as f32) {
                    let dot = Rect::new(x as f32, y as f32, 0.0, 0.0);
                    assert!(within(dot, at.rect), "{:?}: {x}, {y} in {:?}", surface.id, at.rect);
                    assert_ne!(surface.id.part, "backdrop", "what lies behind is nothing to press");
                }
            }
        }
    }
}

#[test]
fn a_surface_is_like_itself_and_like_no_other() {
    let mut all: Vec<Rc<Surface>> = Vec::new();
    for brings in PARTS {
        let (_, surfaces) = brought(brings, (1000, 800), 100, 11);
        all.extend(surfaces.into_iter().take(1));
    }
    for (at, surface) in all.iter().enumerate() {
        for (nth, other) in all.iter().enumerate() {
            let whole = Rect::from(surface.area);
            let damage = surface.content.damage(&*other.content, whole);
            assert_eq!(damage.is_empty(), at == nth, "{:?} after {:?}", surface.id, other.id);
            assert_eq!(surface.content.same(&*other.content, whole), at == nth, "{:?} after {:?}", surface.id, other.id);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_piece_has_all_that_reaches_into_it(nth in 0..PARTS.len(), x in 0..10i32, y in 0..10i32, w in 1..10i32, h in 1..10i32) {
        let (it, surfaces) = brought(PARTS[nth], (1000, 800), 100, 11);
        for surface in surfaces {
            let area = surface.area;
            let piece = PixelRect::new(area.x + area.w * x / 10, area.y + area.h * y / 10, area.w * w / 10 + 1, area.h * h / 10 + 1);
            let Some(piece) = piece.overlap(area) else { continue };
            let (whole, part) = (scene_of(&it, &surface, area.into()), scene_of(&it, &surface, piece.into()));
            let reaches = |item: &&Primitive| rect_of(item).is_none_or(|rect| PixelRect::from(rect).overlap(piece).is_some());
            // Glows and lines reach further than their boxes: those of the whole that are told by a box are looked for.
            for item in whole.items.iter().filter(|item| rect_of(item).is_some()).filter(reaches) {
                prop_assert!(part.items.contains(item), "{:?} lacks {item:?} in {piece}", surface.id);
            }
            for item in &part.items {
                prop_assert!(whole.items.contains(item), "{:?} has {item:?} in {piece} alone", surface.id);
            }
        }
    }

    #[test]
    fn whatever_is_done_no_part_leaves_the_screen(deeds in proptest::collection::vec(0..PARTS.len(), 1..6), wide in 320..2000i32, high in 240..1200i32, points in 6..30u32) {
        let mut it = desktop((wide, high), 100, points);
        for nth in deeds {
            // A module that had no room is not there to be pressed.
            if it.text("word").is_some() {
                PARTS[nth].1(&mut it);
            }
            it.is_fresh();
            let screen = PixelRect::new(0, 0, wide, high);
            for surface in &it.stage.shown {
                prop_assert_eq!(surface.area.overlap(screen), Some(surface.area), "{:?}", surface.id);
            }
        }
    }
}

#[test]
fn bindings_for_which_a_sheet_has_no_room_are_counted() {
    let letters: Vec<char> = ('a'..='z').collect();
    let bound = |many: usize| -> Vec<String> {
        let all = ["Lead+", "Lead+Shift+", "Lead+Ctrl+", "Lead+Alt+"].iter();
        all.flat_map(|held| letters.iter().map(move |letter| format!("{held}{letter}"))).take(many).collect()
    };
    let says = |many: usize, size: (i32, i32)| -> (Vec<String>, i32) {
        let lines: String = bound(many).iter().map(|chord| format!("\"{chord}\" = \"go two\"\n")).collect();
        let rice = checked(&format!("[workspaces]\norder = [\"one\", \"two\"]\n[keys.desk]\n{lines}"));
        let monitors = vec![MonitorFacts::new("A", PixelRect::new(0, 0, size.0, size.1))];
        let mut desktop = Desktop::new(rice.rice.clone(), rice.scopes.clone(), monitors);
        let mut stage = Headless::default();
        let mut tell = |event: DesktopEvent| stage.tell(&mut desktop, event, std::time::Duration::ZERO);
        tell(DesktopEvent::Act(jovrik_values::action::Action::parse("keys sheet").expect("an action")));
        let sheet = stage.shown.iter().find(|surface| surface.id.part == "sheet").cloned().expect("a sheet");
        let scene = sheet.content.scene(desktop.desk().rice(), sheet.area.into());
        let text = |item: &Primitive| if let Primitive::Text { text, .. } = item { Some(text.clone()) } else { None };
        (scene.items.iter().filter_map(text).collect(), sheet.area.h)
    };
    let left = |texts: &[String]| -> usize {
        let line = texts.iter().find(|text| text.ends_with(" more: jovrik keys list"));
        line.map_or(0, |line| line.split(' ').nth(1).and_then(|count| count.parse().ok()).expect("a number"))
    };
    for size in [(640, 480), (1024, 600), (1920, 1080)] {
        for many in [1, 12, 40, 104] {
            let (texts, high) = says(many, size);
            assert!(high <= size.1, "{many} on {size:?}");
            if left(&texts) > 0 {
                let shown = texts.iter().filter(|text| bound(many).contains(text)).count();
                assert_eq!(shown + left(&texts), many, "{many} on {size:?}: {texts:?}");
            }
            assert!(left(&texts) < many, "something is seen of {many} on {size:?}");
        }
    }
    assert_eq!(left(&says(12, (1920, 1080)).0), 0);
    assert!(left(&says(104, (640, 480)).0) > 0);
}
