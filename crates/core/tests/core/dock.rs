//! The dock: what stands in it, where it lies, and what presses do.

use std::rc::Rc;

use jovrik_core::desk::{self, StackingLayer, WindowFacts, WindowId};
use jovrik_core::desktop::{DesktopEffect, DesktopEvent, ForeignToplevel, Notification, Surface};
use jovrik_core::launcher::{EntryCommand, LauncherEntry, LauncherList};
use jovrik_values::action::Action;
use jovrik_values::{Icon, IconRef, PixelRect};

use crate::pretended::Pretended;

const RICE: &str = "[program]\nlog = \"loghouse\"\ncharts = { run = [\"tidechart\"], app = \"Tides\" }\n\
[workspaces]\norder = [\"one\", \"two\"]\n[dock.own]\nLeave = { do = \"quit\", icon = \"gear\" }\n[dock]\n";
const KEEP: &str = "keep = [\"log\", \"charts\", \"-\", \"mapper\", \"Leave\"]\nrunning = true\n";

fn with(more: &str) -> Pretended {
    let mut it = Pretended::of(&format!("{RICE}{more}"));
    let entry = |name: &str, id: &str, class: &str| LauncherEntry {
        icon: IconRef::Drawn(Icon::Map),
        class: class.to_owned(),
        program: id.to_owned(),
        more: vec![("New map".to_owned(), EntryCommand::App(format!("{id}.desktop"), Some("new".to_owned())))],
        ..LauncherEntry::new(format!("apps/{id}.desktop"), name, EntryCommand::App(format!("{id}.desktop"), None))
    };
    let all = vec![entry("Creek map", "mapper", "CreekMap"), entry("Letters", "gullmail", "")];
    it.tell(DesktopEvent::Entries("apps".to_owned(), Rc::new(LauncherList::new(all))));
    it
}

fn dock(it: &Pretended) -> Rc<Surface> {
    let all: Vec<&Rc<Surface>> = it.shown.iter().filter(|one| one.id.part == "dock").collect();
    let own = all.iter().find(|one| one.id.name.is_empty()).or(all.first());
    (*own.expect("there is a dock")).clone()
}

/// The middle of what stands at a place of the dock, by where a press lands on it.
fn spot(it: &Pretended, nth: usize) -> (i32, i32) {
    let dock = dock(it);
    let (mut first, mut last) = (None, 0);
    let middle = dock.area.y + dock.area.h / 2;
    for x in dock.area.x..dock.area.x + dock.area.w {
        if dock.content.at(x as f32, middle as f32).is_some_and(|at| at.what == nth.to_string()) {
            first.get_or_insert(x);
            last = x;
        }
    }
    (first.map(|first| (first + last) / 2).expect("something stands there"), middle)
}

fn press(it: &mut Pretended, nth: usize, button: u8) {
    let (id, (x, y)) = (dock(it).id.clone(), spot(it, nth));
    it.tell(DesktopEvent::Button(Some(id), button, x, y));
    it.tell(DesktopEvent::Released(button, x, y));
}

fn names(it: &Pretended) -> Vec<String> {
    let dock = dock(it);
    let y = (dock.area.y + dock.area.h / 2) as f32;
    let mut names: Vec<String> = Vec::new();
    for x in dock.area.x..dock.area.x + dock.area.w {
        let says = dock.content.at(x as f32, y).and_then(|at| at.says);
        if let Some(says) = says.filter(|says| names.last() != Some(says)) {
            names.push(says);
        }
    }
    names
}

fn window(it: &mut Pretended, id: u32, app: &str) {
    it.open(id, app);
}

#[test]
fn what_is_kept_stands_in_its_order_and_what_runs_besides_behind_it() {
    let mut it = with(KEEP);
    assert_eq!(names(&it), ["log", "charts", "Creek map", "Leave"]);
    window(&mut it, 1, "creekmap");
    assert_eq!(names(&it).len(), 4, "it is one of those that are kept, whatever its letters");
    window(&mut it, 2, "gullmail");
    window(&mut it, 3, "stranger");
    window(&mut it, 4, "stranger");
    assert_eq!(names(&it), ["log", "charts", "Creek map", "Leave", "Letters", "stranger"]);
    it.tell(DesktopEvent::Wm(desk::WmEvent::Unmapped(WindowId(2))));
    assert_eq!(names(&it), ["log", "charts", "Creek map", "Leave", "stranger"]);
    it.is_fresh();
    // Without a table there is none.
    assert!(Pretended::of("[program]\nlog = \"loghouse\"\n").surface("dock").is_none());
}

#[test]
fn windows_keep_off_it_at_every_edge_unless_it_hides() {
    let work = |more: &str| {
        let it = with(&format!("{KEEP}{more}"));
        (it.desktop.desk().work_area(0), dock(&it).area)
    };
    let (below, own) = work("margin = 10\n");
    assert_eq!((below.x, below.y, below.w, below.h), (0, 0, 1000, 800 - own.h - 10), "{own:?}");
    assert!(own.y + own.h == 790 && (own.x + own.w / 2).abs_diff(500) <= 1, "{own:?}");
    let (above, own) = work("edge = \"top\"\nmargin = 0\n");
    assert_eq!((above.y, own.y), (own.h, 0));
    let (left, own) = work("edge = \"left\"\nmargin = 0\nalign = \"start\"\n");
    assert_eq!((left.x, own.x, own.y), (own.w, 0, 0));
    assert!(own.h > own.w, "it stands upright: {own:?}");
    let (right, own) = work("edge = \"right\"\nmargin = 0\nalign = \"end\"\n");
    assert_eq!((right.w, own.x + own.w, own.y + own.h), (1000 - own.w, 1000, 800));
    let hidden = with(&format!("{KEEP}hide = \"always\"\n"));
    assert_eq!(hidden.desktop.desk().work_area(0), PixelRect::new(0, 0, 1000, 800));
}

#[test]
fn a_press_starts_and_goes_through_windows_and_the_wheel_does_too() {
    let mut it = with(KEEP);
    press(&mut it, 0, 1);
    assert_eq!(it.started, ["loghouse"]);
    press(&mut it, 3, 1);
    assert!(matches!(&it.stage.others[..], [DesktopEffect::Launch(id, None)] if id == "mapper.desktop"), "{:?}", it.stage.others);
    for id in 1..=3 {
        window(&mut it, id, "loghouse");
    }
    window(&mut it, 4, "other");
    let focus = |it: &Pretended| it.desktop.desk().focused();
    press(&mut it, 0, 1);
    assert_eq!(focus(&it), Some(WindowId(3)), "the one that had the focus last");
    press(&mut it, 0, 1);
    assert_eq!(focus(&it), Some(WindowId(1)));
    press(&mut it, 0, 4);
    assert_eq!(focus(&it), Some(WindowId(3)));
    press(&mut it, 0, 5);
    assert_eq!(focus(&it), Some(WindowId(1)));
    press(&mut it, 0, 2);
    assert_eq!(it.started, ["loghouse", "loghouse"], "the middle button starts another");
    // One that is the only one and in front stays there; one elsewhere is gone to.
    it.act("go two");
    press(&mut it, 5, 1);
    assert_eq!((focus(&it), it.desktop.desk().workspace()), (Some(WindowId(4)), 0));
    press(&mut it, 5, 1);
    assert_eq!(focus(&it), Some(WindowId(4)));
}

/// What was written into the rice.
fn set(it: &Pretended) -> Vec<String> {
    let all = it.stage.others.iter().filter_map(|effect| match effect {
        DesktopEffect::Wm(desk::WmEffect::Set(set)) => Some(format!("{} = {} {}", set.path, set.value, set.keep)),
        _ => None,
    });
    all.collect()
}

/// Drags what stands at a place to another one, or far away; what is seen there before it is let go.
fn drag(it: &mut Pretended, nth: usize, to: Option<usize>) -> Vec<String> {
    let (id, (x, y)) = (dock(it).id.clone(), spot(it, nth));
    let (to_x, to_y) = to.map_or((x, y - 200), |to| spot(it, to));
    it.tell(DesktopEvent::Button(Some(id.clone()), 1, x, y));
    for part in 1..=10 {
        it.tell(DesktopEvent::PointerMoved(Some(id.clone()), x + (to_x - x) * part / 10, y + (to_y - y) * part / 10));
    }
    let seen = names(it);
    it.tell(DesktopEvent::Released(1, to_x, to_y));
    seen
}

#[test]
fn what_is_dragged_goes_there_and_out_and_is_written_into_the_rice() {
    let mut it = with(KEEP);
    assert_eq!(drag(&mut it, 0, Some(1)), ["charts", "log", "Creek map", "Leave"], "it is seen before it is let go");
    assert_eq!(set(&it), ["dock.keep = [\"charts\", \"log\", \"-\", \"mapper\", \"Leave\"] true"]);
    assert_eq!(names(&it), ["log", "charts", "Creek map", "Leave"], "until the rice says so it is as it was");
    assert_eq!(drag(&mut it, 3, Some(0)), ["Creek map", "log", "charts", "Leave"]);
    assert_eq!(drag(&mut it, 1, None), ["log", "Creek map", "Leave"]);
    assert_eq!(set(&it)[2], "dock.keep = [\"log\", \"-\", \"mapper\", \"Leave\"] true");
    // What only runs is kept where it is dropped; it stays behind the others else.
    window(&mut it, 1, "gullmail");
    drag(&mut it, 5, Some(1));
    assert_eq!(set(&it)[3], "dock.keep = [\"log\", \"gullmail\", \"charts\", \"-\", \"mapper\", \"Leave\"] true");
    assert!(it.started.is_empty() && it.stage.others.len() == 4, "nothing was started: {:?}", it.stage.others);
    it.is_fresh();
}

#[test]
fn one_that_is_held_opens_its_menu_and_a_short_press_does_not() {
    let mut it = with(KEEP);
    window(&mut it, 1, "loghouse");
    let (id, (x, y)) = (dock(&it).id.clone(), spot(&it, 0));
    it.tell(DesktopEvent::Button(Some(id.clone()), 1, x, y));
    it.wait(300);
    assert!(it.surface("menu").is_none());
    it.wait(200);
    assert!(it.surface("menu").is_some());
    it.tell(DesktopEvent::Released(1, x, y));
    assert!(it.surface("menu").is_some() && it.started.is_empty(), "letting go chooses nothing");
    it.strike("Escape");
    assert_eq!(it.desktop.wakes(), None);
    press(&mut it, 1, 1);
    assert_eq!((it.started.clone(), it.surface("menu").is_none()), (vec!["tidechart".to_owned()], true));
}

#[test]
fn its_menu_holds_windows_actions_and_what_is_written_into_the_rice() {
    let mut it = with(KEEP);
    window(&mut it, 1, "creekmap");
    window(&mut it, 2, "stranger");
    press(&mut it, 3, 3);
    let menu = it.surface("menu").expect("a menu");
    // A window, the entry's own action, another one, two moves, and out.
    let line = |it: &mut Pretended, menu: &Surface, nth: i32, of: i32| {
        let y = menu.area.y + 4 + (menu.area.h - 8) * (2 * nth + 1) / (2 * of);
        it.tell(DesktopEvent::Button(Some(menu.id.clone()), 1, menu.area.x + 20, y));
    };
    line(&mut it, &menu, 1, 6);
    assert!(matches!(&it.stage.others[..], [DesktopEffect::Launch(_, Some(action))] if action == "new"), "{:?}", it.stage.others);
    press(&mut it, 3, 3);
    line(&mut it, &menu, 3, 6);
    assert_eq!(set(&it), ["dock.keep = [\"log\", \"charts\", \"mapper\", \"-\", \"Leave\"] true"], "further left");
    press(&mut it, 3, 3);
    line(&mut it, &menu, 5, 6);
    assert_eq!(set(&it)[1], "dock.keep = [\"log\", \"charts\", \"-\", \"Leave\"] true", "taken out");
    // What runs and is no program of the rice cannot be kept: there is only its window to choose.
    press(&mut it, 5, 3);
    assert!(it.surface("menu").expect("a menu").area.h < menu.area.h / 2);
}

#[test]
fn beside_another_manager_its_windows_are_shown_and_asked_for() {
    let mut it = with(KEEP);
    let other = |id: u32, app: &str, active: bool| ForeignToplevel {
        id: WindowId(id),
        facts: WindowFacts { app_id: app.to_owned(), title: app.to_owned(), ..WindowFacts::default() },
        active,
        urgent: false,
    };
    it.tell(DesktopEvent::Neighbours(vec![other(7, "loghouse", true), other(8, "stranger", false), other(9, "loghouse", false)]));
    assert_eq!(names(&it), ["log", "charts", "Creek map", "Leave", "stranger"]);
    let asked = |it: &Pretended| format!("{:?}", it.stage.others);
    press(&mut it, 5, 1);
    assert_eq!(asked(&it), "[Activate(WindowId(8))]");
    press(&mut it, 0, 1);
    assert_eq!(asked(&it), "[Activate(WindowId(8)), Activate(WindowId(9))]", "the next after the one that has the focus");
    it.tell(DesktopEvent::Neighbours(Vec::new()));
    assert_eq!(names(&it).len(), 4);
    it.is_fresh();
}

#[test]
fn one_that_hides_comes_when_the_pointer_stays_at_its_edge_and_goes_after_a_while() {
    let mut it = with(&format!("{KEEP}hide = \"always\"\nshow-after = \"200ms\"\nhide-after = \"300ms\"\n"));
    let edge = dock(&it);
    assert_eq!((edge.id.name.as_str(), edge.area.y + edge.area.h, edge.area.h), ("edge", 800, 2));
    it.tell(DesktopEvent::PointerMoved(Some(edge.id.clone()), 500, 799));
    it.wait(100);
    assert_eq!(dock(&it).id.name, "edge");
    it.wait(120);
    let out = dock(&it);
    assert!(out.id.name.is_empty() && out.area.h > 30 && out.level == StackingLayer::Bars);
    it.tell(DesktopEvent::PointerMoved(Some(out.id.clone()), 500, 780));
    it.wait(2000);
    assert!(dock(&it).id.name.is_empty(), "it stays while the pointer is on it");
    it.tell(DesktopEvent::PointerMoved(Some(edge.id.clone()), 500, 799));
    it.wait(2000);
    assert!(dock(&it).id.name.is_empty(), "and at the edge");
    it.tell(DesktopEvent::Left);
    it.wait(200);
    assert!(dock(&it).id.name.is_empty());
    it.wait(120);
    assert_eq!(dock(&it).id.name, "edge");
    assert_eq!(it.desktop.wakes(), None, "and nothing is left to wait for");
    // It stays as long as its menu is open, and goes after it.
    it.tell(DesktopEvent::PointerMoved(Some(edge.id.clone()), 500, 799));
    it.wait(220);
    press(&mut it, 0, 3);
    it.tell(DesktopEvent::Left);
    it.wait(2000);
    assert!(dock(&it).id.name.is_empty() && it.shown.iter().any(|one| one.id.part == "menu"));
    it.strike("Escape");
    it.wait(320);
    assert!(dock(&it).id.name == "edge" && it.shown.iter().all(|one| one.id.part != "menu"));
    // Who only crosses the edge does not bring it.
    it.tell(DesktopEvent::PointerMoved(Some(edge.id.clone()), 500, 799));
    it.tell(DesktopEvent::Left);
    it.wait(1000);
    assert_eq!(dock(&it).id.name, "edge");
}

#[test]
fn one_that_gives_way_is_seen_while_nothing_lies_there() {
    let mut it = with(&format!("{KEEP}hide = \"overlapped\"\n"));
    assert!(dock(&it).id.name.is_empty());
    window(&mut it, 1, "chart");
    assert_eq!(dock(&it).id.name, "edge");
    it.tell(DesktopEvent::Wm(desk::WmEvent::Unmapped(WindowId(1))));
    assert!(dock(&it).id.name.is_empty());
    it.is_fresh();
}

#[test]
fn what_calls_and_what_was_told_is_seen_there() {
    let mut it = with(KEEP);
    window(&mut it, 1, "loghouse");
    window(&mut it, 2, "other");
    let drawn = |it: &Pretended| format!("{:?}", dock(it).content);
    let before = drawn(&it);
    it.tell(DesktopEvent::Wm(desk::WmEvent::UrgencyChanged(WindowId(1), true)));
    assert!(drawn(&it).contains("urgent: true") && !before.contains("urgent: true"));
    it.tell(DesktopEvent::NotificationReceived(Box::new(Notification {
        id: 7,
        app: "loghouse".to_owned(),
        title: "Slack".to_owned(),
        ..Notification::default()
    })));
    assert!(drawn(&it).contains("count: 1"));
    it.act("notices dismiss-all");
    assert!(!drawn(&it).contains("count: 1"));
}

#[test]
fn what_is_under_the_pointer_grows_and_says_its_name() {
    let mut it = with(&format!("{KEEP}size = 20\ngrown = 40\n"));
    let small = dock(&it).area;
    let (id, (x, y)) = (dock(&it).id.clone(), spot(&it, 1));
    it.tell(DesktopEvent::PointerMoved(Some(id), x, y));
    let large = dock(&it).area;
    assert!(large.h == small.h + 20 && large.w > small.w && large.y + large.h == small.y + small.h, "{small:?} {large:?}");
    it.wait(600);
    assert!(it.surface("hint").is_some());
    it.is_fresh();
    let never = with(&format!("{KEEP}labels = \"never\"\n"));
    assert_eq!(names(&never), Vec::<String>::new());
}

#[test]
fn a_dock_of_ten_thousand_things_shows_some() {
    let names: Vec<String> = (0..10_000).map(|nth| format!("\"own{nth}\"")).collect();
    let own: String = (0..10_000).map(|nth| format!("own{nth} = {{ do = \"quit\" }}\n")).collect();
    let mut it = Pretended::of(&format!("[dock]\nkeep = [{}]\n[dock.own]\n{own}", names.join(", ")));
    assert!(it.desktop.desk().rice().dock.keep.len() == 10_000 && dock(&it).area.w <= 1000);
    it.tell(DesktopEvent::Act(Action::parse("go next").expect("an action")));
}
