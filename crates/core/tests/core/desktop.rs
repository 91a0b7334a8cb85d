//! The whole desktop without a display: events in, what is shown and asked for out.

use std::collections::BTreeSet;
use std::rc::Rc;
use std::time::Duration;

use jovrik_core::desk::{
    self, Gravity, GravityAxis, MonitorFacts, Panel, RestackMode, SavedState, StackingLayer, StackingState, WindowFacts,
    WindowId, WindowRequest,
};
use jovrik_core::desktop::{
    Desktop, DesktopEvent, DisplayConfigSource, Interactivity, MoveResizeRequest, Notification, StackingEntry, StackingId,
    TrayItem, TrayItemAction,
};
use jovrik_core::keys::{KeyCombo, KeyboardLayouts, Reaction, TraceContext, Tracer};
use jovrik_core::part::ChoicePrompt;
use jovrik_core::rice::{Urgency, WindowKind};
use jovrik_core::scene::default_apps;
use jovrik_core::stage::Headless;
use jovrik_values::action::{Action, ScreenshotTarget, Switch};
use jovrik_values::chord::Modifiers;
use jovrik_values::{FieldValue, Icon, IconRef, PixelRect, Side, Values};
use proptest::prelude::*;
use proptest::strategy::ValueTree as _;

use crate::checked;
use crate::notices::telling;
use crate::pretended::{Pretended, RICE, monitor, press, us};

#[test]
fn keys_are_heard_held_and_typed_without_a_server() {
    let mut it = Pretended::of(RICE);
    assert!(it.grabs.contains(&press("Lead+g")) && !it.grabs.contains(&press("h")));
    it.strike("Lead+Return");
    assert_eq!(it.started, ["xterm"]);
    it.strike("Lead+g");
    assert!(it.holds, "the rest of the sequence is ours");
    assert_eq!(it.text("chords").as_deref(), Some("Lead+g"));
    it.strike("l");
    assert_eq!((it.workspace(), it.holds, it.text("chords")), ("two", false, None));
    it.down("Lead+r");
    assert_eq!(it.workspace(), "two");
    it.tell(DesktopEvent::KeyReleased(press("Lead+r").key));
    assert_eq!(it.workspace(), "three");
    it.act("go one");
    // What is bound of typed keys is done, the rest is typed, whatever holds the keyboard.
    it.strike("F5");
    assert_eq!((it.workspace(), it.typed.as_slice()), ("two", &[press("F6")][..]));
    it.strike("F7");
    assert_eq!(it.typed[1..], [press("Shift+b")]);
}

#[test]
fn keys_that_type_themselves_come_to_an_end() {
    let own = "[keys.desk]\n\"F5\" = { do = \"press F5 F5 F5 F5 F5 F5 F5 F5\", on = \"release\" }\n\
        \"F6\" = \"press F7 F7 F7 F7 F7 F7 F7 F7\"\n\"F7\" = \"press F6 F6 F6 F6 F6 F6 F6 F6\"\n";
    let rice = checked(own);
    let mut desktop = Desktop::new(rice.rice.clone(), rice.scopes.clone(), vec![monitor("A", 0)]);
    let mut stage = Headless::default();
    let mut tell = |event| stage.tell(&mut desktop, event, Duration::ZERO);
    tell(DesktopEvent::Keyboards(KeyboardLayouts::new(Vec::new(), false), 0));
    for chord in ["F5", "F6"] {
        tell(DesktopEvent::KeyPressed(press(chord)));
        tell(DesktopEvent::KeyReleased(press(chord).key));
        tell(DesktopEvent::Act(Action::Press(chord.to_owned())));
    }
    assert!(stage.typed.len() < 2000, "{}", stage.typed.len());
}

#[test]
fn a_sequence_ends_by_time_and_a_mode_by_a_keyboard_that_is_not_ours() {
    let mut it = Pretended::of(RICE);
    it.strike("Lead+g");
    it.wait(999);
    assert!(it.holds);
    it.wait(1);
    assert_eq!((it.holds, it.text("chords")), (false, None));
    it.strike("l");
    assert_eq!(it.workspace(), "one", "it is over");
    it.strike("Lead+s");
    assert_eq!((it.holds, it.text("mode").as_deref()), (true, Some("sizing")));
    it.strike("Escape");
    assert_eq!((it.holds, it.text("mode")), (false, None));
    it.keyboard_taken = true;
    it.act("mode sizing");
    assert_eq!((it.desktop.hands().mode(), it.holds), (None, false));
    assert_eq!(it.desktop.refused(), ["another program holds the keyboard"]);
    it.strike("Lead+g");
    assert_eq!(it.text("chords"), None, "a sequence that would hear nothing does not begin");
}

#[test]
fn what_another_program_grabbed_is_named_and_asked_for_again() {
    let mut it = Pretended::of(RICE);
    it.foreign = [press("Lead+Return")].into();
    it.tell(DesktopEvent::Keyboards(KeyboardLayouts::new(Vec::new(), false), 0));
    let (all, held, cannot) = it.desktop.hands().grabs();
    assert_eq!((held.into_iter().collect::<Vec<_>>(), cannot), (vec!["Super+Return".to_owned()], vec![]));
    assert_eq!(all, it.grabs.len() + 1);
    it.foreign.clear();
    let rice = checked(RICE);
    it.tell(DesktopEvent::Settings(rice.rice.clone(), rice.scopes.clone()));
    assert_eq!((it.desktop.hands().grabs().1.len(), it.grabs.len()), (0, all));
    // A changed binding grabs that chord alone again.
    let rice = checked(&RICE.replace("Lead+o", "Lead+i"));
    let before = it.grabs.clone();
    it.tell(DesktopEvent::Settings(rice.rice.clone(), rice.scopes.clone()));
    assert_eq!(
        before.symmetric_difference(&it.grabs).copied().collect::<BTreeSet<_>>(),
        [press("Lead+o"), press("Lead+i")].into()
    );
}

#[test]
fn presses_on_bars_menus_and_what_is_said_after_a_rest() {
    let mut it = Pretended::of(RICE);
    let word = it.module("word");
    it.click("bar", 1, word);
    assert_eq!(it.workspace(), "two");
    let bar = it.surface("bar").map(|bar| bar.id.clone());
    it.tell(DesktopEvent::PointerMoved(bar.clone(), word.0, word.1));
    it.wait(449);
    assert!(it.surface("hint").is_none());
    it.wait(1);
    assert!(it.surface("hint").is_some());
    it.tell(DesktopEvent::Left);
    assert!(it.surface("hint").is_none());
    it.click("bar", 3, word);
    let menu = it.surface("menu").expect("a menu");
    it.tell(DesktopEvent::PointerMoved(None, menu.area.x + 10, menu.area.y + 10));
    let picked = it.surface("menu").expect("it is still there");
    assert!(!picked.damage(&menu).is_empty(), "the line below the pointer is picked");
    it.tell(DesktopEvent::Button(None, 1, menu.area.x + 10, menu.area.y + 10));
    assert_eq!((it.workspace(), it.surface("menu").is_none()), ("three", true));
    it.click("bar", 3, word);
    it.tell(DesktopEvent::Button(None, 1, 500, 700));
    assert_eq!((it.workspace(), it.surface("menu").is_none()), ("three", true), "a press beside it closes it");
    it.pointer_taken = true;
    it.click("bar", 3, word);
    assert!(it.surface("menu").is_none(), "a menu that cannot have the pointer does not stay");
    it.is_fresh();
}

#[test]
fn a_menu_takes_the_keyboard_and_gives_it_back() {
    let mut it = Pretended::of(RICE);
    let word = it.module("word");
    it.click("bar", 3, word);
    assert!(it.holds);
    // Down, round, and to the line that begins with a letter.
    it.strike("Down");
    it.strike("Up");
    it.strike("Return");
    assert_eq!(it.started, ["files"]);
    assert!(!it.holds && it.surface("menu").is_none());
    it.click("bar", 3, word);
    it.strike("t");
    it.strike("space");
    assert_eq!(it.workspace(), "three");
    it.click("bar", 3, word);
    it.strike("Escape");
    assert!(!it.holds && it.surface("menu").is_none());
    // What is bound is done from a menu too; a mode that eats keys goes on after it.
    it.strike("Lead+s");
    it.click("bar", 3, word);
    it.strike("Escape");
    assert_eq!((it.desktop.hands().mode(), it.holds), (Some("sizing"), true));
    it.strike("Escape");
    it.click("bar", 3, word);
    it.strike("Lead+Return");
    assert_eq!(it.started, ["files", "xterm"]);
    it.is_fresh();
}

#[test]
fn a_surface_that_cannot_have_the_keyboard_does_without() {
    let mut it = Pretended::of(RICE);
    it.keyboard_taken = true;
    it.strike("Lead+k");
    assert!(it.surface("sheet").is_some() && !it.holds);
    it.strike("Lead+k");
    it.keyboard_taken = false;
    it.strike("Lead+k");
    assert!(it.holds);
    it.strike("Lead+Return");
    assert!(it.surface("sheet").is_some(), "what is read can be tried at once");
    it.strike("Escape");
    assert_eq!((it.surface("sheet").is_none(), it.holds, it.started.len()), (true, false, 1));
}

#[test]
fn an_area_is_chosen_with_the_pointer() {
    let mut it = Pretended::of(RICE);
    it.act("screenshot area shots/one.png");
    assert!(it.holds && it.surface("choose").is_some(), "it says what to do");
    it.tell(DesktopEvent::PointerMoved(None, 90, 90));
    it.tell(DesktopEvent::Button(None, 1, 100, 120));
    it.tell(DesktopEvent::PointerMoved(None, 400, 320));
    let around: Vec<PixelRect> = it.shown.iter().filter(|one| one.id.part == "choose").map(|one| one.area).collect();
    let chosen = PixelRect::new(100, 120, 301, 201);
    assert_eq!(around.len(), 4);
    assert!(around.iter().all(|side| side.overlap(chosen).is_none()), "the line is not on the picture: {around:?}");
    it.tell(DesktopEvent::Released(1, 400, 320));
    assert!(it.surface("choose").is_none() && it.kept.is_empty(), "programs draw what was uncovered first");
    it.wait(100);
    assert_eq!(it.kept, [(chosen, ScreenshotTarget::File("shots/one.png".to_owned()))]);
    // At the edge of the monitor, from the lower right, and beyond it.
    it.act("screenshot area clipboard");
    it.tell(DesktopEvent::Button(None, 1, 300, 200));
    it.tell(DesktopEvent::PointerMoved(None, -50, -20));
    assert!(it.surface("choose").is_some_and(|one| one.takes == Interactivity::Grab));
    it.tell(DesktopEvent::Released(1, -50, -20));
    it.wait(100);
    assert_eq!(it.kept[1], (PixelRect::new(0, 0, 301, 201), ScreenshotTarget::Clipboard));
    for leave in ["Escape", "button"] {
        it.act("screenshot area");
        match leave {
            "Escape" => it.strike("Escape"),
            _ => it.tell(DesktopEvent::Button(None, 3, 10, 10)),
        }
        it.wait(100);
        assert!(it.surface("choose").is_none() && !it.holds, "{leave}");
    }
    assert_eq!(it.kept.len(), 2);
    it.is_fresh();
}

#[test]
fn items_of_the_tray_are_asked_by_their_names() {
    let mut it = Pretended::of(RICE);
    let item = |key: &str| TrayItem { key: key.to_owned(), icon: IconRef::Drawn(Icon::More) };
    it.tell(DesktopEvent::TrayItems(vec![item("a"), item("b")]));
    let (x, y) = it.module("tray");
    it.click("bar", 1, (x + 10, y));
    it.click("bar", 3, (x - 10, y));
    assert_eq!(
        it.asked,
        [("b".to_owned(), TrayItemAction::Press(1, x + 10, y)), ("a".to_owned(), TrayItemAction::Menu(x - 10, y))]
    );
    it.tell(DesktopEvent::ItemMenu("a".to_owned(), vec![("Show".to_owned(), 7)]));
    let menu = it.surface("menu").expect("its menu").area;
    it.tell(DesktopEvent::Button(None, 1, menu.x + 10, menu.y + menu.h / 2));
    assert_eq!(it.asked[2..], [("a".to_owned(), TrayItemAction::Choose(7))]);
}

#[test]
fn the_desktop_says_what_was_refused_and_for_how_long() {
    let mut it = Pretended::of(RICE);
    it.strike("Lead+o");
    assert_eq!(it.desktop.refused(), ["nowhere is not on this computer"]);
    let notice = it.surface("notice").expect("a notice");
    assert!(notice.area.x + notice.area.w <= 1000 && notice.area.y > 30, "{:?}", notice.area);
    it.wait(7999);
    assert!(it.surface("notice").is_some());
    it.wait(1);
    assert!(it.surface("notice").is_none());
    it.tell(DesktopEvent::Refused("parts/a.toml:3: there is no frame.widht".to_owned()));
    it.act("go nowhere");
    assert_eq!(it.shown.iter().filter(|surface| surface.id.part == "notice").count(), 2);
    it.wait(60_000);
    let notice = it.surface("notice").expect("a refused reload stands until it is mended");
    it.tell(DesktopEvent::Button(Some(notice.id.clone()), 1, notice.area.x + 5, notice.area.y + 5));
    assert!(it.surface("notice").is_none(), "or until somebody sends it away");
    it.tell(DesktopEvent::Refused("again".to_owned()));
    let rice = checked(&RICE.replace("thick = 30", "thick = 31"));
    it.tell(DesktopEvent::Settings(rice.rice.clone(), rice.scopes.clone()));
    assert!(it.surface("notice").is_none());
    it.is_fresh();
}

#[test]
fn only_what_changed_is_drawn() {
    let mut it = Pretended::of(RICE);
    it.drawn = 0;
    it.tell(DesktopEvent::Tick);
    let load = |load: f64| {
        DesktopEvent::Values([("load".to_owned(), Values::one("load", FieldValue::Number(load)))].into_iter().collect())
    };
    it.tell(load(3.0));
    assert_eq!(it.drawn, 2, "one module, and the ring of it");
    it.tell(load(3.0));
    it.tell(load(3.2));
    assert_eq!(it.drawn, 2, "what looks the same is the same");
    let rice = checked(RICE);
    it.tell(DesktopEvent::Settings(rice.rice.clone(), rice.scopes.clone()));
    assert_eq!(it.drawn, 2, "equal settings change nothing");
    it.strike("Lead+k");
    let drawn = it.drawn;
    assert!(it.surface("sheet").is_some());
    it.tell(load(5.0));
    assert_eq!(it.drawn, drawn + 2, "a value does not draw the sheet");
    it.strike("Lead+k");
    assert!(it.surface("sheet").is_none());
}

#[test]
fn a_trace_says_what_the_machine_does() {
    let mut it = Pretended::of(RICE);
    let rice = checked(RICE);
    let mut tracer = Tracer::new(&rice.scopes, us(), &TraceContext::default()).expect("no mode");
    let bound: Vec<KeyCombo> = rice.scopes.bound.iter().flat_map(|one| &one.keys.0).map(|chord| us().presses(chord)[0]).collect();
    let mut sums = 20261126_u64;
    let mut below = |most: usize| {
        sums = sums.wrapping_mul(6364136223846793005).wrapping_add(1442695040888963407);
        (sums >> 33) as usize % most
    };
    let mut taken = 0;
    for _ in 0..5_000 {
        let mut press = bound[below(bound.len())];
        match below(5) {
            0 => press.modifiers = Modifiers::default(),
            1 => press.key = 24 + below(30) as u32,
            _ => {}
        }
        if us().is_modifier(press.key) {
            continue;
        }
        let reaction = tracer.press(press).taker();
        taken += usize::from(matches!(reaction, Some((_, Reaction::Takes(_)))));
        let mode = tracer.readers().next().and_then(|(_, mode)| mode).map(str::to_owned);
        it.tell(DesktopEvent::KeyPressed(press));
        it.tell(DesktopEvent::KeyReleased(press.key));
        if it.surface("sheet").is_some() {
            // It would have the keyboard.
            it.act("keys sheet");
        }
        assert_eq!(it.desktop.hands().mode().map(str::to_owned), mode);
        assert_eq!(it.holds, matches!(reaction, Some((_, Reaction::Waits(_)))) || mode.as_deref() == Some("sizing"));
    }
    assert!(taken > 500, "{taken}");
}

#[test]
fn windows_are_dragged_by_the_rice_s_chords() {
    let mut it = Pretended::of(&RICE.replace("layouts = [", "layouts = [\"main\"]\n#"));
    (1..=2).for_each(|id| it.open(id, "x"));
    let area = |it: &Pretended, id: u32| it.desktop.desk().arrangement().placed[&WindowId(id)].outer;
    let (one, two) = (area(&it, 1), area(&it, 2));
    let point = |it: &mut Pretended, x: i32, y: i32| it.tell(DesktopEvent::PointerMoved(None, x, y));
    let up = |it: &mut Pretended, chord: &str| it.tell(DesktopEvent::KeyReleased(press(chord).key));
    assert!(it.grabs.contains(&press("Lead+Button1")) && it.grabs.contains(&press("Lead+Button3")));
    // A tile is dropped on another: where it would go is shown until then.
    point(&mut it, one.x + 50, one.y + 50);
    it.down("Lead+Button1");
    point(&mut it, two.x + 50, two.y + 50);
    let line = it.surface("drag").expect("where it goes is shown");
    assert_eq!((line.area.x, line.area.y, line.level), (two.x, two.y, StackingLayer::Drag));
    assert_eq!(area(&it, 1), one, "nothing has moved yet");
    up(&mut it, "Lead+Button1");
    assert_eq!((area(&it, 1), area(&it, 2)), (two, one), "they changed places");
    assert!(it.surface("drag").is_none());
    // Dropped where it was, nothing happens.
    point(&mut it, one.x + 50, one.y + 50);
    it.down("Lead+Button1");
    point(&mut it, one.x + 80, one.y + 80);
    assert!(it.surface("drag").is_none());
    up(&mut it, "Lead+Button1");
    assert_eq!(area(&it, 2), one);
    // The edge between the two goes along, there and back, without drifting.
    point(&mut it, one.x + one.w - 20, one.y + 50);
    it.down("Lead+Button3");
    for step in (0..=100).chain((0..100).rev()) {
        point(&mut it, one.x + one.w - 20 + step, one.y + 50);
        let wide = area(&it, 2).w;
        assert!((wide - one.w - step).abs() <= 1, "{wide} at {step}");
    }
    up(&mut it, "Lead+Button3");
    assert!((area(&it, 2).w - one.w).abs() <= 1);
    // What floats goes along, snaps to the edges of the work area, and is resized from the nearest corner.
    it.act("float on");
    it.act("grow right 300");
    it.act("grow down 200");
    let floating = area(&it, 2);
    point(&mut it, floating.x + 60, floating.y + 60);
    it.down("Lead+Button1");
    point(&mut it, 65, 200);
    assert_eq!((area(&it, 2).x, area(&it, 2).y), (0, 140), "the left edge is near, the upper is not");
    up(&mut it, "Lead+Button1");
    let was = area(&it, 2);
    point(&mut it, was.x + was.w - 5, was.y + was.h - 5);
    it.down("Lead+Button3");
    point(&mut it, was.x + was.w + 25, was.y + was.h + 15);
    assert_eq!(area(&it, 2), PixelRect { w: was.w + 30, h: was.h + 20, ..was });
    // A window that goes meanwhile ends it.
    it.tell(DesktopEvent::Wm(desk::WmEvent::Unmapped(WindowId(2))));
    point(&mut it, 10, 200);
    up(&mut it, "Lead+Button3");
    it.holds_together();
    it.is_fresh();
}

#[test]
fn a_tile_is_dropped_on_another_monitor() {
    let mut it = Pretended::of(RICE);
    it.tell(DesktopEvent::Wm(desk::WmEvent::Monitors(vec![monitor("A", 0), monitor("B", 1000)])));
    (1..=2).for_each(|id| it.open(id, "x"));
    it.tell(DesktopEvent::PointerMoved(None, 100, 300));
    it.down("Lead+Button1");
    it.tell(DesktopEvent::PointerMoved(None, 1500, 300));
    assert_eq!(it.surface("drag").map(|line| line.id.monitor.clone()).as_deref(), Some("B"), "all of it is free");
    it.tell(DesktopEvent::KeyReleased(press("Lead+Button1").key));
    let desk = it.desktop.desk();
    assert_eq!((desk.focused(), desk.monitor), (Some(WindowId(1)), 1));
    it.holds_together();
}

#[test]
fn the_pointer_goes_where_the_keyboard_takes_the_focus_when_it_is_to() {
    let mut it = Pretended::of(&format!("{RICE}[pointer]\nfollows-focus = true\n"));
    (1..=2).for_each(|id| it.open(id, "x"));
    it.tell(DesktopEvent::PointerMoved(None, 5, 5));
    it.act("focus left");
    let (x, y) = it.desktop.desk().arrangement().placed[&WindowId(1)].area.centre2();
    it.act("mode sizing");
    let at = it.pointer;
    assert_eq!(at, Some((x / 2, y / 2)));
    it.tell(DesktopEvent::Wm(desk::WmEvent::ActivationRequested(WindowId(2))));
    assert_eq!(it.pointer, at, "a click is where the pointer is already");
}

#[test]
fn a_binding_does_several_things_one_after_another() {
    let rice = RICE.replace("[keys.desk]\n", "[keys.desk]\n\"Lead+m\" = { do = [\"float on\", \"send two\", \"go two\", \"mode sizing\"], note = \"Take it along\" }\n");
    let mut it = Pretended::of(&rice);
    it.open(1, "x");
    it.strike("Lead+m");
    let desk = it.desktop.desk();
    assert_eq!((desk.windows[&WindowId(1)].workspace, desk.windows[&WindowId(1)].floating), (1, true));
    assert_eq!((desk.focused(), it.desktop.hands().mode()), (Some(WindowId(1)), Some("sizing")));
    let wrong = checked(&rice.replace("send two", "send nowhere"));
    let titles: Vec<&str> = wrong.problems.iter().map(|problem| problem.title.as_str()).collect();
    assert_eq!(titles, ["there is no workspace nowhere", "no key ends the desktop"]);
}

#[test]
fn monitors_that_are_tried_go_back_unless_they_are_kept() {
    let mut it = Pretended::of(RICE);
    it.tell(DesktopEvent::Arranged(vec!["B has no mode 800x600".to_owned()]));
    assert!(it.surface("notice").is_some());
    it.wait(14_000);
    assert_eq!(it.monitors, None);
    it.wait(2_000);
    assert_eq!(it.monitors, Some(DisplayConfigSource::AsBefore));
    assert!(it.surface("notice").is_none());
    it.tell(DesktopEvent::Arranged(Vec::new()));
    it.act("monitors keep");
    it.monitors = None;
    it.wait(60_000);
    assert_eq!(it.monitors, None);
    it.act("monitors keep");
    assert_eq!(it.desktop.refused(), ["no monitors are tried"]);
    let rice = checked(&format!("{RICE}[monitor.a]\nmatch = \"A\"\nmode = \"800x600\"\n"));
    it.tell(DesktopEvent::Settings(rice.rice.clone(), rice.scopes.clone()));
    assert_eq!(it.monitors, Some(DisplayConfigSource::AsSaid));
}

#[derive(Debug, Clone)]
enum Deed {
    Opens(u32, u8),
    Asks(u32, u8),
    Stranger(u8),
    Drags(u32, i32, i32),
    Goes(u32),
    Wants(u32),
    Acts(usize),
    Strikes(usize),
    Clicks(u8, i32, i32),
    Points(i32, i32),
    Waits(u64),
    Loads(u8),
    Plugs(u8),
    Sets(usize),
    Tray(u8),
    Refuses(bool),
}

const ACTIONS: [&str; 50] = [
    "launcher",
    "launcher windows",
    "notices pause 5s",
    "go one",
    "go two",
    "go three",
    "carry next",
    "send back",
    "layout next",
    "main grow",
    "main more",
    "focus next",
    "move left",
    "bar toggle",
    "bar toggle here",
    "fold more",
    "mode sizing",
    "mode leave",
    "keys sheet",
    "open lost",
    "layout prev",
    "focus left",
    "focus right",
    "focus urgent",
    "focus parent",
    "focus 'x*'",
    "focus monitor next",
    "move next",
    "move right",
    "move down",
    "grow left 30",
    "grow right",
    "shrink down 17",
    "float toggle",
    "float off",
    "full toggle",
    "peg toggle",
    "tuck",
    "untuck",
    "untuck 'x*'",
    "summon lost",
    "send monitor next",
    "carry monitor prev",
    "column wider",
    "column cycle",
    "column join",
    "column split",
    "main swap",
    "go back",
    "screenshot area",
];
const CHORDS: [&str; 17] = [
    "Down", "Return", "Right", "Tab", "a", "Lead+g", "l", "Lead+s", "Escape", "h", "Lead+k", "F5", "Lead+r", "Lead+p", "Return",
    "Down", "Up",
];

fn deed() -> impl Strategy<Value = Deed> {
    prop_oneof![
        1 => (1..9u32, 0..9u8).prop_map(|(id, how)| Deed::Opens(id, how)),
        1 => (1..9u32, 0..18u8).prop_map(|(id, what)| Deed::Asks(id, what)),
        1 => (0..17u8).prop_map(Deed::Stranger),
        1 => (1..9u32, -900..1900i32, -90..900i32).prop_map(|(id, x, y)| Deed::Drags(id, x, y)),
        1 => (1..9u32).prop_map(Deed::Goes),
        1 => (1..9u32).prop_map(Deed::Wants),
        4 => (0..ACTIONS.len()).prop_map(Deed::Acts),
        1 => (0..CHORDS.len()).prop_map(Deed::Strikes),
        1 => (1..6u8, 0..1000i32, 0..40i32).prop_map(|(button, x, y)| Deed::Clicks(button, x, y)),
        1 => (0..1000i32, 0..40i32).prop_map(|(x, y)| Deed::Points(x, y)),
        1 => (1..3000u64).prop_map(Deed::Waits),
        1 => (0..9u8).prop_map(Deed::Loads),
        1 => (0..6u8).prop_map(Deed::Plugs),
        1 => (0..4usize).prop_map(Deed::Sets),
        1 => (0..4u8).prop_map(Deed::Tray),
        1 => any::<bool>().prop_map(Deed::Refuses),
    ]
}

impl Pretended {
    fn does(&mut self, deed: &Deed) {
        match *deed {
            Deed::Opens(id, how) => {
                let plain =
                    WindowFacts { app_id: "xterm".to_owned(), title: "t".to_owned(), size: (300, 200), ..WindowFacts::default() };
                let facts = match how {
                    0 => WindowFacts { window_type: WindowKind::Dialog, ..plain },
                    1 => WindowFacts { transient_for: Some(WindowId(id % 8 + 1)), min_size: (200, 9000), ..plain },
                    2 => WindowFacts { transient_for: Some(WindowId(id)), at: Some((-50, 65_535)), ..plain },
                    3 => WindowFacts { window_type: WindowKind::Splash, size: (65_535, 0), ..plain },
                    4 => WindowFacts { max_size: Some((0, 0)), ..plain },
                    5 => WindowFacts { no_initial_focus: true, workspace: Some("two".to_owned()), ..plain },
                    6 => WindowFacts { app_id: "odd".to_owned(), ..plain },
                    _ => plain,
                };
                self.tell(DesktopEvent::Wm(desk::WmEvent::Mapped(WindowId(id), facts)));
            }
            Deed::Asks(id, what) => {
                let asked = match what {
                    0 => WindowRequest::Fullscreen(Switch::Toggle),
                    1 => WindowRequest::Sticky(Switch::Toggle),
                    2 => WindowRequest::Minimized,
                    3 => WindowRequest::Stacking(StackingState::Above, Switch::Toggle),
                    4 => WindowRequest::Stacking(StackingState::Below, Switch::On),
                    5 => WindowRequest::Urgent(Switch::On),
                    6 => WindowRequest::Workspace("three".to_owned()),
                    8 => WindowRequest::MaximizedHorz(Switch::Toggle),
                    9 => WindowRequest::MaximizedVert(Switch::Toggle),
                    10 => WindowRequest::FullscreenArea(Some(PixelRect::new(0, 0, 2000, 800))),
                    11 => WindowRequest::FullscreenArea(None),
                    12 => WindowRequest::Lift(RestackMode::Opposite),
                    13 => WindowRequest::Lift(RestackMode::Over(WindowId(id % 8 + 1))),
                    14 => WindowRequest::Lift(RestackMode::Under(WindowId(id % 8 + 1))),
                    15 => WindowRequest::Configure {
                        at: (Some(90), Some(90)),
                        size: (Some(300), Some(200)),
                        gravity: Some(Gravity(GravityAxis::End, GravityAxis::Middle)),
                    },
                    7 => WindowRequest::Configure { at: (Some(-70_000), None), size: (None, Some(i32::MAX)), gravity: None },
                    _ => WindowRequest::Configure { at: (Some(40), Some(50)), size: (Some(0), Some(700)), gravity: None },
                };
                self.tell(DesktopEvent::Wm(desk::WmEvent::Requested(WindowId(id), asked)));
            }
            Deed::Stranger(what) => {
                let strut = |area: PixelRect| Panel { level: StackingLayer::Bars, keeps: vec![(Side::Left, area)] };
                let event = match what {
                    0 => DesktopEvent::Wm(desk::WmEvent::Panel(WindowId(70), Some(strut(PixelRect::new(0, 0, 90, 800))))),
                    1 => DesktopEvent::Wm(desk::WmEvent::Panel(WindowId(71), Some(strut(PixelRect::new(0, 0, 1990, 800))))),
                    2 => DesktopEvent::Wm(desk::WmEvent::Panel(WindowId(71), None)),
                    3 => DesktopEvent::Wm(desk::WmEvent::ShowingDesktopChanged(true)),
                    4 => DesktopEvent::ResponsivenessChanged(WindowId(2), true),
                    5 => DesktopEvent::ResponsivenessChanged(WindowId(2), false),
                    6 => DesktopEvent::Drag(
                        WindowId(1),
                        MoveResizeRequest { edges: vec![Side::Left, Side::Top], button: 1, from: (100, 100) },
                    ),
                    7 => DesktopEvent::DragEnds,
                    8 => DesktopEvent::NotificationReceived(Box::new(telling(3, Urgency::Normal))),
                    9 => DesktopEvent::NotificationReceived(Box::new(Notification {
                        value: Some(200),
                        title: String::new(),
                        ..telling(4, Urgency::Urgent)
                    })),
                    10 => DesktopEvent::NotificationWithdrawn(4),
                    11 => DesktopEvent::Entries("apps".to_owned(), Rc::new(default_apps())),
                    12 => DesktopEvent::Pasted("ga\nx".to_owned()),
                    13 => {
                        let lines = ["ebb", "flood"].map(str::to_owned).to_vec();
                        DesktopEvent::PromptOpened(Box::new(ChoicePrompt { id: 7, prompt: String::new(), lines, several: true }))
                    }
                    14 => DesktopEvent::Unoffered(7),
                    _ => DesktopEvent::Started { start: "s".to_owned(), process: Some(7), workspace: None, sought: true },
                };
                self.tell(event);
            }
            Deed::Drags(id, x, y) => {
                let area = PixelRect::new(x, y, 250, 150);
                self.tell(DesktopEvent::Wm(desk::WmEvent::Dragged(WindowId(id), area, vec![Side::Left])));
            }
            Deed::Goes(id) => self.tell(DesktopEvent::Wm(desk::WmEvent::Unmapped(WindowId(id)))),
            Deed::Wants(id) => self.tell(DesktopEvent::Wm(desk::WmEvent::ActivationRequested(WindowId(id)))),
            Deed::Acts(at) => self.act(ACTIONS[at]),
            Deed::Strikes(at) => self.strike(CHORDS[at]),
            Deed::Clicks(button, x, y) => {
                let over = self.at(x, y);
                self.tell(DesktopEvent::Button(over, button, x, y));
                if button == 1 {
                    self.tell(DesktopEvent::PointerMoved(None, x + 90, y + 300));
                    self.tell(DesktopEvent::Released(button, x + 90, y + 300));
                }
            }
            Deed::Points(x, y) => {
                let over = self.at(x, y);
                self.tell(DesktopEvent::PointerMoved(over, x, y));
            }
            Deed::Waits(millis) => self.wait(millis),
            Deed::Loads(load) => {
                let values = Values::one("load", FieldValue::Number(load.into()));
                self.tell(DesktopEvent::Values([("load".to_owned(), values)].into_iter().collect()));
            }
            Deed::Plugs(which) => {
                let tiny = MonitorFacts::new("C", PixelRect::new(3000, 0, 1, 1));
                let all = match which {
                    0 => vec![monitor("A", 0), monitor("B", 1000)],
                    1 => vec![monitor("B", 0), monitor("A", 1000), monitor("C", 2000)],
                    2 => vec![tiny, monitor("A", 0)],
                    3 => vec![],
                    _ => vec![monitor("A", 0)],
                };
                self.tell(DesktopEvent::Wm(desk::WmEvent::Monitors(all)));
            }
            Deed::Sets(which) => {
                let (rice, scopes) = self.others[which].clone();
                self.tell(DesktopEvent::Settings(rice, scopes));
            }
            Deed::Tray(count) => {
                let item = |nth: u8| TrayItem { key: nth.to_string(), icon: IconRef::Drawn(Icon::More) };
                self.tell(DesktopEvent::TrayItems((0..count).map(item).collect()));
            }
            Deed::Refuses(all) => (self.stage.keyboard_taken, self.stage.pointer_taken) = (all, all),
        }
    }

    /// The sample of all deeds, with the settings that they change to.
    fn of_all() -> Pretended {
        let changes = [("thick = 30", "thick = 40"), ("Lead+g l", "Lead+h l"), ("start = [", "start = [\"word\", "), ("x", "x")];
        let others = changes.map(|(from, to)| checked(&RICE.replace(from, to)));
        let mut it = Pretended::of(RICE);
        it.others = others.iter().map(|one| (one.rice.clone(), one.scopes.clone())).collect();
        it
    }

    /// What holds whatever happened.
    fn holds_together(&self) {
        let desk = self.desktop.desk();
        for id in desk.windows.keys() {
            let times = desk.workspaces.iter().filter(|workspace| workspace.windows.contains(id)).count();
            let tucked = desk.tucked.iter().filter(|tucked| *tucked == id).count();
            assert_eq!(times + tucked, 1, "{id:?} is on one workspace, or tucked away");
            assert_eq!(tucked == 1, desk.windows[id].minimized);
        }
        assert_eq!(desk.arrangement().focus, desk.focused(), "the focus is on a seen window");
        for (id, placed) in &desk.arrangement().placed {
            assert!(placed.area.w > 0 && placed.area.h > 0, "{id:?} {placed:?}");
            assert!(placed.outer.overlap(placed.clip).is_some(), "{id:?} is seen on its monitor: {placed:?}");
        }
        let level = |one: StackingEntry<'_>| match one {
            StackingEntry::Window(_, placed) => placed.level,
            StackingEntry::Surface(surface) => surface.level,
        };
        let levels: Vec<StackingLayer> = self.desktop.stacked().into_iter().map(level).collect();
        assert!(levels.is_sorted(), "what lies over what");
        let seen = self.stack.iter().filter(|layer| matches!(layer, StackingId::Window(_))).count();
        assert_eq!(seen, desk.arrangement().placed.len() + desk.panels().len(), "each is in the stack once");
        let seen: BTreeSet<WindowId> =
            desk.monitors.iter().flat_map(|monitor| desk.workspaces[monitor.workspace].windows.clone()).collect();
        assert!(desk.arrangement().placed.keys().all(|id| seen.contains(id)), "what is seen is on a shown workspace");
        let shown: BTreeSet<usize> = desk.monitors.iter().map(|monitor| monitor.workspace).collect();
        assert_eq!(shown.len(), desk.monitors.len(), "no workspace is shown twice");
        for surface in &self.shown {
            let on = desk.monitors.iter().any(|monitor| monitor.facts.area.overlap(surface.area) == Some(surface.area));
            assert!(on, "{:?} lies on a monitor: {:?}", surface.id, surface.area);
        }
        let keeps = self.desktop.hands().mode() == Some("sizing");
        assert!(self.holds || !keeps, "a mode that keeps all keys has them");
        let takes = self.shown.iter().any(|surface| surface.takes.keyboard());
        let waits = !self.desktop.hands().sequence().is_empty();
        assert!(!self.holds || takes || keeps || waits, "nobody keeps the keyboard for nothing");
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn whatever_happens_it_holds_together_and_nothing_kept_is_stale(deeds in proptest::collection::vec(deed(), 1..80)) {
        let mut it = Pretended::of_all();
        for deed in &deeds {
            it.does(deed);
            it.holds_together();
        }
        it.is_fresh();
    }

    #[test]
    fn the_same_events_give_the_same_effects(deeds in proptest::collection::vec(deed(), 1..40)) {
        let (mut one, mut two) = (Pretended::of_all(), Pretended::of_all());
        for deed in &deeds {
            one.does(deed);
            two.does(deed);
        }
        let seen = |it: &Pretended| format!("{:?} {:?} {:?} {:?}", it.shown, it.grabs, it.typed, it.desktop.desk().arrangement());
        prop_assert_eq!(seen(&one), seen(&two));
        prop_assert_eq!(one.drawn, two.drawn);
    }
}

#[test]
fn a_new_start_is_as_it_was() {
    let mut runner = proptest::test_runner::TestRunner::deterministic();
    for _ in 0..60 {
        let mut it = Pretended::of_all();
        let deeds = proptest::collection::vec(deed(), 1..60).new_tree(&mut runner).expect("deeds").current();
        // Other settings and other monitors are met by the reloads of other tests.
        let deeds = deeds.iter().filter(|deed| !matches!(deed, Deed::Sets(_) | Deed::Plugs(_)));
        deeds.for_each(|deed| it.does(deed));
        it.tell(DesktopEvent::Wm(desk::WmEvent::ShowingDesktopChanged(false)));
        let old = it.desktop.desk();
        let kept: SavedState = serde_json::from_str(&serde_json::to_string(&old.keep()).expect("JSON")).expect("what it was");
        let monitors = old.monitors.iter().map(|monitor| monitor.facts.clone()).collect();
        let mut new = desk::WindowManager::new(old.rice().clone(), monitors);
        for (id, panel) in old.panels() {
            new.handle(desk::WmEvent::Panel(*id, Some(panel.clone())));
        }
        let mut windows: Vec<(usize, WindowId)> = kept.windows.iter().map(|window| (window.nth, WindowId(window.id))).collect();
        windows.sort_unstable();
        new.handle(desk::WmEvent::RestoreStarted(Box::new(kept)));
        for (_, id) in windows {
            new.handle(desk::WmEvent::Mapped(id, old.windows[&id].facts.clone()));
        }
        new.handle(desk::WmEvent::RestoreFinished);
        assert_eq!(new.keep(), old.keep());
        assert!(new.windows.keys().eq(old.windows.keys()), "also in the order in which they came");
        assert_eq!(new.arrangement(), old.arrangement());
    }
}

#[test]
fn ten_thousand_events() {
    let mut it = Pretended::of_all();
    let mut runner = proptest::test_runner::TestRunner::deterministic();
    let deeds = proptest::collection::vec(deed(), 10_000);
    let deeds = deeds.new_tree(&mut runner).expect("deeds").current();
    deeds.iter().for_each(|deed| it.does(deed));
    it.holds_together();
    it.is_fresh();
}

#[test]
fn a_window_that_its_program_lets_the_keyboard_steer_goes_where_the_arrows_lead_and_back() {
    let mut it = Pretended::of("");
    it.open(1, "tide");
    it.open(2, "chart");
    it.act("float on");
    let outer = |it: &Pretended| it.desktop.desk().arrangement().placed[&WindowId(2)].outer;
    let before = outer(&it);
    let steer = |it: &mut Pretended, id: u32, sizes: bool| it.tell(DesktopEvent::Steer { window: WindowId(id), sizes });
    steer(&mut it, 2, false);
    let takes = |it: &Pretended| it.surface("steer").map(|surface| surface.takes);
    assert_eq!(takes(&it), Some(Interactivity::Keyboard));
    it.is_fresh();
    it.strike("Left");
    it.strike("Up");
    assert_eq!(outer(&it), PixelRect { x: before.x - 40, y: before.y - 40, ..before });
    // Keys without a meaning here do nothing.
    it.strike("q");
    it.strike("Shift+Left");
    assert!(takes(&it).is_some());
    it.strike("Escape");
    assert_eq!((outer(&it), takes(&it)), (before, None), "it is where it was");
    steer(&mut it, 2, true);
    it.strike("Right");
    it.strike("Down");
    it.strike("Up");
    it.strike("Return");
    assert_eq!((outer(&it), takes(&it)), (PixelRect { w: before.w + 40, ..before }, None));
    // A tile goes among the tiles, and back to where it stood, as large as it was.
    it.open(3, "tide");
    let tiles = |it: &Pretended| [1, 3].map(|id| it.desktop.desk().arrangement().placed[&WindowId(id)].area);
    let before = tiles(&it);
    for (sizes, keys) in
        [(false, ["Right", "Left"]), (true, ["Right", "Down"]), (true, ["Left", "Left"]), (false, ["Right", "Down"])]
    {
        steer(&mut it, 1, sizes);
        assert_eq!(it.desktop.desk().focused(), Some(WindowId(1)));
        assert!(takes(&it).is_some(), "{keys:?}");
        it.strike(keys[0]);
        assert_ne!(tiles(&it), before, "{keys:?} {:?}", it.desktop.refused());
        it.strike(keys[1]);
        it.strike("Escape");
        assert_eq!((tiles(&it), takes(&it)), (before, None), "{keys:?}");
    }
    // With another tile among them there is no going back, and nothing is lost.
    steer(&mut it, 1, false);
    it.strike("Right");
    it.tell(DesktopEvent::Wm(desk::WmEvent::Unmapped(WindowId(3))));
    it.strike("Escape");
    it.open(4, "tide");
    assert_eq!((it.desktop.desk().windows.len(), takes(&it)), (3, None));
    it.is_fresh();
    // It ends with the focus, with the program's word, and with the window.
    steer(&mut it, 2, false);
    it.act("go two");
    it.act("go one");
    assert_eq!(takes(&it), None);
    steer(&mut it, 2, false);
    it.tell(DesktopEvent::DragEnds);
    assert_eq!(takes(&it), None);
    steer(&mut it, 2, false);
    it.tell(DesktopEvent::Wm(desk::WmEvent::Unmapped(WindowId(2))));
    assert_eq!(takes(&it), None);
    steer(&mut it, 2, false);
    assert_eq!(takes(&it), None, "of a window that is gone");
    it.is_fresh();
}

#[test]
fn the_middle_button_on_a_title_closes_what_it_is_of() {
    let mut it = Pretended::of("[workspaces]\norder = [\"one\"]\nlayouts = [\"tabs\"]\n");
    for id in 1..=4 {
        it.open(id, "log");
    }
    it.act("focus prev");
    let strip = it.surface("tabs").expect("a strip of titles").clone();
    let press = |it: &mut Pretended, button: u8| {
        it.tell(DesktopEvent::Button(Some(strip.id.clone()), button, strip.area.x + 20, strip.area.y + 5));
        format!("{:?}", it.stage.others)
    };
    assert_eq!(press(&mut it, 2), "[Wm(Close(WindowId(1)))]");
    assert_eq!(it.desktop.desk().focused(), Some(WindowId(3)), "whoever is in front stays there");
    press(&mut it, 1);
    assert_eq!(it.desktop.desk().focused(), Some(WindowId(1)));
}
