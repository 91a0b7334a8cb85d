//! What a look pretends: windows of the station's programs, what they tell, and what a launcher lists of them.

use jovrik_core::desk::{MonitorFacts, WindowFacts, WindowId, WindowManager, WmEvent};
use jovrik_core::desktop::ExpireTimeout;
use jovrik_core::rice::{Urgency, WindowKind};
use jovrik_core::scene::{
    Measure, PathSegment, Primitive, Scene, TextRotation, TextStyle, default_apps, default_tellings, default_windows,
    draw_pretended, in_front,
};
use jovrik_values::{PixelRect, Rect};
use proptest::prelude::*;

use crate::checked;

/// As wide as the type is high, by half.
struct Half;

impl Measure for Half {
    fn width(&mut self, text: &str, face: &TextStyle) -> f32 {
        text.chars().count() as f32 * face.points * 0.5
    }
}

fn facts(app: &str, title: &str) -> WindowFacts {
    WindowFacts { app_id: app.to_owned(), title: title.to_owned(), ..WindowFacts::default() }
}

const APPS: [&str; 6] = ["tidechart", "loghouse", "terminal", "marshmap", "sluicegate", "gullmail"];

fn drawn(app: &str, rect: Rect) -> Scene {
    let rice = checked("").rice;
    let mut scene = Scene::default();
    draw_pretended(&rice, &facts(app, "Tide table: neap"), rect, &mut scene, &mut Half);
    scene
}

/// The points that an item is drawn by.
fn corners(item: &Primitive) -> Vec<(f32, f32)> {
    match item {
        Primitive::Fill { rect, .. }
        | Primitive::Border { rect, .. }
        | Primitive::Picture { rect, .. }
        | Primitive::Glow { rect, .. } => {
            vec![(rect.x, rect.y), (rect.x + rect.w, rect.y + rect.h)]
        }
        Primitive::Stroke { path, .. } | Primitive::Shape { path, .. } => path
            .iter()
            .flat_map(|step| match *step {
                PathSegment::Move(x, y) | PathSegment::Line(x, y) | PathSegment::Curve(.., x, y) => Some((x, y)),
                PathSegment::Close => None,
            })
            .collect(),
        Primitive::Text { x, y, turn: TextRotation::None, .. } => vec![(*x, *y)],
        Primitive::Text { .. } => Vec::new(),
    }
}

#[test]
fn windows_show_something_where_there_is_room_and_nothing_where_there_is_none() {
    for app in APPS {
        assert!(!drawn(app, Rect::new(0.0, 0.0, 640.0, 480.0)).items.is_empty(), "{app}");
        assert_eq!(drawn(app, Rect::new(0.0, 0.0, 159.0, 480.0)).items, [], "{app} is too narrow");
        assert_eq!(drawn(app, Rect::new(0.0, 0.0, 640.0, 119.0)).items, [], "{app} is too low");
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 120, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_a_window_shows_lies_inside_of_it(app in 0..APPS.len(), x in -500..2000i32, y in -500..2000i32, w in 160..2000i32, h in 120..1400i32) {
        let rect = Rect::new(x as f32, y as f32, w as f32, h as f32);
        let grown = rect.grown(1.0);
        for item in drawn(APPS[app], rect).items {
            for (x, y) in corners(&item) {
                let inside = x >= grown.x && x <= grown.x + grown.w && y >= grown.y && y <= grown.y + grown.h;
                prop_assert!(inside, "{}: {item:?} beyond {rect:?}", APPS[app]);
            }
        }
    }

    #[test]
    fn a_window_elsewhere_shows_the_same_there(app in 0..APPS.len(), x in 0..1000i32, y in 0..1000i32) {
        let (here, there) = (Rect::new(0.0, 0.0, 600.0, 420.0), Rect::new(x as f32, y as f32, 600.0, 420.0));
        let (one, two) = (drawn(APPS[app], here), drawn(APPS[app], there));
        prop_assert_eq!(one.items.len(), two.items.len());
        for (a, b) in one.items.iter().zip(&two.items) {
            let moved = corners(a).into_iter().map(|(ax, ay)| (ax + x as f32, ay + y as f32));
            for ((ax, ay), (bx, by)) in moved.zip(corners(b)) {
                prop_assert!((ax - bx).abs() < 0.51 && (ay - by).abs() < 0.51, "{a:?} and {b:?}");
            }
        }
    }
}

#[test]
fn the_windows_of_a_look_find_their_workspaces_and_one_of_each_is_in_front() {
    let rice = checked("[workspaces]\norder = [\"charts\", \"field\", \"logs\", \"post\"]\n").rice;
    let mut desk = WindowManager::new(rice, vec![MonitorFacts::new("A", PixelRect::new(0, 0, 1920, 1080))]);
    for (nth, facts) in default_windows().into_iter().enumerate() {
        desk.handle(WmEvent::Mapped(WindowId(nth as u32 + 1), facts));
    }
    let on = |name: &str| {
        let at = desk.workspaces.iter().position(|workspace| workspace.name == name).expect("it is there");
        desk.windows.values().filter(|window| window.workspace == at).map(|window| window.facts.title.clone()).collect::<Vec<_>>()
    };
    assert_eq!(on("field"), ["Creek survey"]);
    for workspace in ["logs", "post"] {
        let front = in_front(workspace).expect("one");
        assert!(on(workspace).iter().any(|title| title == front), "{front} is on {workspace}: {:?}", on(workspace));
    }
    assert_eq!(in_front("charts"), None);
    assert_eq!(desk.windows.len(), default_windows().len(), "none is lost");
    let dialogs = default_windows().into_iter().filter(|facts| facts.window_type == WindowKind::Dialog).count();
    assert_eq!(dialogs, 1);
}

#[test]
fn what_programs_tell_in_a_look_is_of_every_kind() {
    let all = default_tellings();
    let mut ids: Vec<u32> = all.iter().map(|telling| telling.id).collect();
    ids.sort_unstable();
    ids.dedup();
    assert_eq!(ids.len(), all.len(), "each has a number of its own");
    assert!(all.iter().any(|telling| telling.urgency == Urgency::Urgent));
    assert!(all.iter().any(|telling| !telling.actions.is_empty()) && all.iter().any(|telling| telling.value.is_some()));
    assert!(all.iter().any(|telling| !telling.pieces.is_empty()), "one has words that stand out");
    assert!(all.iter().all(|telling| telling.lasts == ExpireTimeout::Ever), "a picture waits for nobody");
    assert!(all.iter().all(|telling| !telling.title.is_empty() && !telling.app.is_empty()));
}

#[test]
fn the_programs_of_a_look_are_each_another_one() {
    let all = default_apps().all;
    let mut ids: Vec<&str> = all.iter().map(|entry| entry.id.as_str()).collect();
    ids.sort_unstable();
    let many = ids.len();
    ids.dedup();
    assert_eq!(ids.len(), many);
    assert!(many >= 6 && all.iter().all(|entry| !entry.name.is_empty() && !entry.program.is_empty()));
    assert!(all.iter().any(|entry| !entry.more.is_empty()), "one can do more than start");
}
