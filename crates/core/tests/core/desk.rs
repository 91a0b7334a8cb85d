use std::rc::Rc;

use jovrik_core::desk::{
    ActionError, FrameState, Gravity, GravityAxis, InitialState, MonitorFacts, SizeIncrements, StackingLayer, StackingState,
    WindowFacts, WindowId, WindowManager, WindowRequest, WmEffect, WmEvent,
};
use jovrik_core::rice::{Rice, WindowKind};
use jovrik_values::PixelRect;
use jovrik_values::action::{Action, Switch};
use proptest::prelude::*;

use crate::checked;

const RICE: &str = "[space]\nbetween = 10\nedge = 20\n[frame]\nwidth = 2\n[workspaces]\norder = [\"charts\", \"logs\", \"field\"]\n[bar.top]\nthick = 30\n";

fn rice(more: &str) -> Rc<Rice> {
    let checked = checked(&format!("{RICE}{more}"));
    assert_eq!(crate::found(&checked), Vec::<String>::new());
    checked.rice
}

fn monitor(name: &str, x: i32) -> MonitorFacts {
    MonitorFacts::new(name.to_owned(), PixelRect::new(x, 0, 1000, 800))
}

fn appear(desk: &mut WindowManager, id: u32) -> Vec<WmEffect> {
    desk.handle(WmEvent::Mapped(
        WindowId(id),
        WindowFacts { app_id: "x".to_owned(), title: format!("window {id}"), ..WindowFacts::default() },
    ))
}

fn act(desk: &mut WindowManager, action: &str) -> Vec<WmEffect> {
    desk.handle(WmEvent::ActionInvoked(Action::parse(action).expect("an action")))
}

fn desk(windows: u32) -> WindowManager {
    let mut desk = WindowManager::new(rice(""), vec![monitor("A", 0)]);
    for id in 1..=windows {
        appear(&mut desk, id);
    }
    desk
}

fn areas(desk: &WindowManager) -> Vec<String> {
    desk.arrangement().placed.iter().map(|(id, placed)| format!("{} {}", id.0, placed.area)).collect()
}

#[test]
fn windows_tile_inside_bar_edge_and_frame() {
    let mut desk = desk(1);
    assert_eq!(areas(&desk), ["1 996x766+2+32"], "alone: no edge");
    appear(&mut desk, 2);
    assert_eq!(areas(&desk), ["1 471x726+22+52", "2 471x726+507+52"]);
    appear(&mut desk, 3);
    assert_eq!(areas(&desk), ["1 471x726+22+52", "2 471x356+507+52", "3 471x356+507+422"]);
    assert_eq!(desk.focused(), Some(WindowId(3)));
}

#[test]
fn the_way_back_survives_a_reload() {
    let mut desk = desk(1);
    act(&mut desk, "go logs");
    desk.handle(WmEvent::Settings(rice("[type]\nsize = 12\n")));
    act(&mut desk, "go back");
    assert_eq!(desk.workspaces[desk.workspace()].name, "charts");
    act(&mut desk, "go back");
    assert_eq!(desk.workspaces[desk.workspace()].name, "logs");
}

#[test]
fn focus_moves_and_swaps_by_direction_and_order() {
    let mut desk = desk(3);
    act(&mut desk, "focus left");
    assert_eq!(desk.focused(), Some(WindowId(1)));
    act(&mut desk, "focus right");
    assert_eq!(desk.focused(), Some(WindowId(2)), "the nearest one to the right");
    act(&mut desk, "focus down");
    assert_eq!(desk.focused(), Some(WindowId(3)));
    act(&mut desk, "focus last");
    assert_eq!(desk.focused(), Some(WindowId(2)));
    act(&mut desk, "main swap");
    assert_eq!(desk.workspaces[0].windows, [WindowId(2), WindowId(1), WindowId(3)]);
    act(&mut desk, "move right");
    assert_eq!(desk.workspaces[0].windows, [WindowId(1), WindowId(2), WindowId(3)]);
}

#[test]
fn workspaces_go_send_carry_and_back() {
    let mut desk = desk(2);
    let effects = act(&mut desk, "go logs");
    assert_eq!(effects.iter().filter(|effect| matches!(effect, WmEffect::Unmap(_))).count(), 2);
    assert_eq!(desk.focused(), None);
    act(&mut desk, "go back");
    assert_eq!(desk.focused(), Some(WindowId(2)));
    act(&mut desk, "send logs");
    assert_eq!((desk.workspace(), desk.focused()), (0, Some(WindowId(1))));
    act(&mut desk, "carry logs");
    assert_eq!((desk.workspace(), desk.focused()), (1, Some(WindowId(1))));
    assert_eq!(desk.workspaces[1].windows, [WindowId(2), WindowId(1)]);
    let effects = act(&mut desk, "go nowhere");
    assert!(effects.contains(&WmEffect::ReportError(ActionError::No("workspace", "nowhere".to_owned()))));
}

#[test]
fn solo_shows_the_focused_one_and_layouts_cycle() {
    let mut desk = desk(3);
    let effects = act(&mut desk, "layout next");
    assert_eq!(areas(&desk), ["3 956x726+22+52"]);
    assert_eq!(effects.iter().filter(|effect| matches!(effect, WmEffect::Unmap(_))).count(), 2);
    act(&mut desk, "focus next");
    assert_eq!(desk.arrangement().placed.keys().collect::<Vec<_>>(), [&WindowId(1)]);
    act(&mut desk, "layout next");
    assert_eq!(desk.arrangement().placed.len(), 3);
    let effects = act(&mut desk, "layout mast");
    assert!(
        matches!(&effects[0], WmEffect::ReportError(why) if why.to_string() == "mast is not among the layouts here: main and solo"),
        "{effects:?}"
    );
}

#[test]
fn a_reload_yields_only_what_differs() {
    let mut desk = desk(3);
    let effects = |desk: &mut WindowManager, more: &str| desk.handle(WmEvent::Settings(rice(more)));
    let nothing = effects(&mut desk, "");
    assert_eq!(nothing, []);
    let checked = crate::checked(&RICE.replace("width = 2\n", "width = 2\nactive = \"#ff0000\"\n"));
    let colour = desk.handle(WmEvent::Settings(checked.rice));
    assert_eq!(colour, [], "a colour moves no window: the frames of tiles are the backdrop's");
    let checked = crate::checked(&RICE.replace("between = 10", "between = 30"));
    let gap = desk.handle(WmEvent::Settings(checked.rice));
    assert!(gap.iter().all(|effect| matches!(effect, WmEffect::Configure { .. })), "no window is unmapped: {gap:?}");
}

#[test]
fn windows_of_a_workspace_that_is_gone_are_not_lost() {
    let mut desk = desk(2);
    act(&mut desk, "carry field");
    let checked = crate::checked(&RICE.replace(", \"field\"", ""));
    desk.handle(WmEvent::Settings(checked.rice));
    assert_eq!(desk.windows.len(), 2);
    assert_eq!(desk.arrangement().placed.len(), 2);
    assert!(desk.windows.values().all(|window| window.workspace == 0));
}

#[test]
fn a_second_monitor_has_its_own_workspaces_and_they_come_home() {
    let more = "[monitor.side]\nmatch = \"B*\"\nworkspaces = [\"logs\"]\n";
    let mut desk = WindowManager::new(rice(more), vec![monitor("B", 1000), monitor("A", 0)]);
    assert_eq!(desk.monitors[0].facts.name, "A", "from the left");
    act(&mut desk, "go logs");
    assert_eq!((desk.monitor, desk.workspace()), (1, 1));
    appear(&mut desk, 1);
    assert_eq!(areas(&desk), ["1 996x766+1002+32"]);
    desk.handle(WmEvent::Monitors(vec![monitor("A", 0)]));
    assert_eq!(desk.windows.len(), 1);
    desk.handle(WmEvent::Monitors(vec![monitor("A", 0), monitor("B", 1000)]));
    assert_eq!(areas(&desk), ["1 996x766+1002+32"]);
    act(&mut desk, "go charts");
    appear(&mut desk, 2);
    act(&mut desk, "focus right");
    assert_eq!((desk.monitor, desk.focused()), (1, Some(WindowId(1))), "over the edge of a monitor");
}

#[test]
fn a_calling_window_is_marked_until_it_is_seen() {
    let mut desk = desk(2);
    desk.handle(WmEvent::UrgencyChanged(WindowId(1), true));
    let state = |desk: &WindowManager| desk.arrangement().placed.get(&WindowId(1)).map(|placed| placed.state);
    assert_eq!(state(&desk), Some(FrameState::Urgent));
    desk.handle(WmEvent::ActivationRequested(WindowId(1)));
    assert_eq!(state(&desk), Some(FrameState::Active));
    desk.handle(WmEvent::UrgencyChanged(WindowId(1), true));
    assert!(!desk.windows[&WindowId(1)].urgent, "the focused one does not call");
}

#[test]
fn dialogs_float_in_the_middle_and_bars_toggle() {
    let mut desk = desk(1);
    desk.handle(WmEvent::Mapped(
        WindowId(9),
        WindowFacts { window_type: WindowKind::Dialog, size: (400, 300), ..WindowFacts::default() },
    ));
    assert_eq!(areas(&desk), ["1 996x766+2+32", "9 400x300+300+265"]);
    act(&mut desk, "bar toggle");
    assert_eq!(areas(&desk)[0], "1 996x796+2+2");
    act(&mut desk, "bar toggle top");
    assert_eq!(areas(&desk)[0], "1 996x766+2+32");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn no_event_loses_a_window_or_hides_the_focus(steps in prop::collection::vec((0..14usize, 0..6u32), 1..60)) {
        let mut desk = WindowManager::new(rice(""), vec![monitor("A", 0)]);
        let mut alive = std::collections::BTreeSet::new();
        for (what, id) in steps {
            let actions = ["go logs", "go next", "go back", "send field", "carry charts", "layout next", "focus next", "focus left", "move right", "main more", "main grow", "bar toggle"];
            match what {
                0 => { appear(&mut desk, id); alive.insert(id); }
                1 => { desk.handle(WmEvent::Unmapped(WindowId(id))); alive.remove(&id); }
                2 => { desk.handle(WmEvent::ActivationRequested(WindowId(id))); }
                _ => { act(&mut desk, actions[(what - 3 + id as usize) % actions.len()]); }
            }
            prop_assert_eq!(desk.windows.len(), alive.len());
            let held: usize = desk.workspaces.iter().map(|workspace| workspace.windows.len()).sum();
            prop_assert_eq!(held, alive.len());
            for workspace in &desk.workspaces {
                prop_assert_eq!(workspace.focus.len(), workspace.windows.len());
            }
            let arrangement = desk.arrangement();
            prop_assert_eq!(arrangement.focus, desk.focused());
            if let Some(focus) = arrangement.focus {
                prop_assert!(arrangement.placed.contains_key(&focus), "the focus is seen");
            }
            for placed in arrangement.placed.values() {
                prop_assert!(placed.area.w > 0 && placed.area.h > 0);
            }
        }
    }
}

#[test]
fn a_misspelled_action_has_the_nearest_and_quotes_in_it_lead_nowhere() {
    let near = |text: &str| Action::parse(text).expect_err(text).near;
    assert_eq!(near("opne terminal"), Some("open terminal".to_owned()));
    assert_eq!(near("  opne terminal"), Some("open terminal".to_owned()));
    assert_eq!(near("focus lfet"), Some("focus left".to_owned()));
    assert_eq!(near("go@''="), None, "what is meant does not stand there");
    assert_eq!(near("'op'ne terminal"), None);
    assert_eq!(near(""), None);
    assert!(Action::parse("'op'en terminal").is_ok());
}

#[test]
fn what_is_started_has_the_rice_s_environment_and_its_own_over_it() {
    let text = "[environment]\nEDITOR = \"reedit\"\nTZ = \"UTC\"\n[program]\ncharts = { run = [\"tidechart\"], env = { TZ = \"UTC+1\" } }\n";
    let rice = checked(text).rice;
    let mut desk = WindowManager::new(rice, vec![MonitorFacts::new("a".to_owned(), PixelRect::new(0, 0, 800, 600))]);
    let mut started = |action: &str| -> (Vec<String>, Vec<(String, String)>) {
        let effects = desk.handle(WmEvent::ActionInvoked(Action::parse(action).expect("an action")));
        let start = effects.into_iter().find_map(|effect| match effect {
            WmEffect::Spawn { argv, env } => Some((argv, env)),
            _ => None,
        });
        start.expect("something starts")
    };
    let pair = |name: &str, value: &str| (name.to_owned(), value.to_owned());
    let (argv, env) = started("run loghouse --follow");
    assert_eq!(
        (argv, env),
        (vec!["loghouse".to_owned(), "--follow".to_owned()], vec![pair("EDITOR", "reedit"), pair("TZ", "UTC")])
    );
    let (_, env) = started("open charts");
    assert_eq!(env.last(), Some(&pair("TZ", "UTC+1")), "the program's own comes last, and so wins");
    assert!(env.contains(&pair("EDITOR", "reedit")));
}

/// The workspaces with the monitor that each is on, and the monitors with what they show.
fn map(desk: &WindowManager) -> String {
    let on = |monitor: usize| {
        let own = desk.workspaces.iter().filter(|workspace| workspace.monitor == monitor);
        let shown = &desk.monitors[monitor];
        let names: Vec<String> = own
            .map(|workspace| {
                let seen = workspace.name == desk.workspaces[shown.workspace].name;
                let windows: Vec<String> = workspace.windows.iter().map(|id| id.0.to_string()).collect();
                format!("{}{}{}", if seen { "*" } else { "" }, workspace.name, windows.join("+"))
            })
            .collect();
        format!("{}{}: {}", if desk.monitor == monitor { ">" } else { "" }, shown.facts.name, names.join(" "))
    };
    (0..desk.monitors.len()).map(on).collect::<Vec<_>>().join(" | ")
}

fn plug(desk: &mut WindowManager, facts: &[(&str, i32, bool)]) -> String {
    let one = |(name, x, primary): &(&str, i32, bool)| MonitorFacts { primary: *primary, ..monitor(name, *x) };
    desk.handle(WmEvent::Monitors(facts.iter().map(one).collect()));
    map(desk)
}

#[test]
fn a_monitor_at_the_left_takes_nothing_from_the_primary_one() {
    let mut desk = WindowManager::new(rice(""), vec![MonitorFacts { primary: true, ..monitor("A", 0) }]);
    appear(&mut desk, 1);
    appear(&mut desk, 2);
    act(&mut desk, "go logs");
    appear(&mut desk, 3);
    assert_eq!(map(&desk), ">A: charts1+2 *logs3 field");
    assert_eq!(plug(&mut desk, &[("B", 0, false), ("A", 1000, true)]), "B: *B | >A: charts1+2 *logs3 field");
    assert_eq!(desk.focused(), Some(WindowId(3)), "nobody lost the focus");
    // A window that goes there goes nowhere else when the monitor is off, and comes home with it.
    act(&mut desk, "move left");
    assert_eq!(map(&desk), ">B: *B3 | A: charts1+2 *logs field");
    assert_eq!(plug(&mut desk, &[("A", 0, true)]), ">A: charts1+2 *logs field B3");
    act(&mut desk, "go B");
    assert_eq!(desk.focused(), Some(WindowId(3)), "and is in reach meanwhile");
    assert_eq!(plug(&mut desk, &[("A", 0, true), ("B", 1000, false)]), ">A: *charts1+2 logs field | B: *B3");
    act(&mut desk, "go charts");
    act(&mut desk, "focus right");
    assert_eq!(desk.focused(), Some(WindowId(3)));
    act(&mut desk, "send logs");
    assert_eq!(plug(&mut desk, &[("A", 0, true)]), ">A: *charts1+2 logs3 field", "what was made for a monitor goes with it");
}

#[test]
fn workspaces_come_home_and_what_only_mirrors_is_no_monitor() {
    let more = "[monitor.right]\nmatch = \"B\"\nworkspaces = [\"logs\", \"field\"]\n";
    let mut desk = WindowManager::new(rice(more), vec![monitor("A", 0), monitor("B", 1000)]);
    act(&mut desk, "go field");
    appear(&mut desk, 1);
    assert_eq!(map(&desk), "A: *charts | >B: logs *field1");
    assert_eq!(plug(&mut desk, &[("A", 0, false)]), ">A: *charts logs field1");
    assert_eq!(plug(&mut desk, &[("A", 0, false), ("B", 1000, false)]), ">A: *charts | B: logs *field1");
    assert_eq!(plug(&mut desk, &[("A", 0, false), ("B", 0, false)]), ">A: *charts logs field1", "the same picture twice");
    let inside = MonitorFacts::new("B", PixelRect::new(100, 100, 640, 480));
    desk.handle(WmEvent::Monitors(vec![inside, monitor("A", 0)]));
    assert_eq!(map(&desk), ">A: *charts logs field1", "a part of another");
    desk.handle(WmEvent::Monitors(vec![]));
    assert_eq!((desk.monitors.len(), desk.windows.len()), (1, 1));
    assert_eq!(plug(&mut desk, &[("B", 0, false), ("A", 1000, false)]), ">B: logs *field1 | A: *charts");
}

#[test]
fn windows_go_over_the_edge_of_a_monitor_to_a_place_beside_their_neighbour() {
    let more = "[monitor.right]\nmatch = \"B\"\nworkspaces = [\"logs\"]\n";
    let mut desk = WindowManager::new(rice(more), vec![monitor("A", 0), monitor("B", 1000)]);
    appear(&mut desk, 1);
    appear(&mut desk, 2);
    act(&mut desk, "go logs");
    appear(&mut desk, 3);
    appear(&mut desk, 4);
    act(&mut desk, "go charts");
    act(&mut desk, "focus left");
    assert_eq!(map(&desk), ">A: *charts1+2 field | B: *logs3+4");
    act(&mut desk, "move right");
    assert_eq!(map(&desk), ">A: *charts2+1 field | B: *logs3+4", "first among its own");
    act(&mut desk, "move right");
    assert_eq!(map(&desk), "A: *charts2 field | >B: *logs1+3+4");
    assert_eq!(desk.focused(), Some(WindowId(1)));
    act(&mut desk, "move left");
    assert_eq!(map(&desk), ">A: *charts1+2 field | B: *logs3+4", "and back");
    act(&mut desk, "focus up");
    assert_eq!(desk.monitor, 0, "there is nothing above");
}

#[test]
fn each_layout_of_each_workspace_remembers_by_itself() {
    let mut desk = desk(3);
    let first = |desk: &WindowManager| desk.arrangement().placed[0].outer.w;
    let plain = first(&desk);
    act(&mut desk, "main grow");
    let grown = first(&desk);
    assert!(grown > plain);
    act(&mut desk, "layout next");
    act(&mut desk, "layout next");
    assert_eq!(first(&desk), grown, "over another layout and back");
    desk.handle(WmEvent::Settings(rice("[type]\nsize = 12\n")));
    assert_eq!(first(&desk), grown, "over a reload");
    desk.handle(WmEvent::Monitors(vec![monitor("B", 0), monitor("A", 1000)]));
    assert_eq!(first(&desk), grown, "over a change of monitors");
    act(&mut desk, "go logs");
    appear(&mut desk, 7);
    appear(&mut desk, 8);
    assert_eq!(first(&desk), plain, "each workspace by itself");
}

#[test]
fn a_layout_without_a_main_area_says_so() {
    let mut desk = desk(2);
    act(&mut desk, "layout solo");
    let told = act(&mut desk, "main grow");
    assert_eq!(told, [WmEffect::ReportError(ActionError::Layout("solo".to_owned(), "no main area"))]);
}

#[test]
fn every_action_that_can_be_chosen_is_read_as_it_is_written() {
    let part = "[program]\n\"tide chart\" = \"x\"\n[module.more]\ngroup = [\"clock\"]\n[module.clock]\nsource = \"time\"\ntext = \"{time:%H}\"\n[keys.desk.modes.sizing]\n\"q\" = \"mode leave\"\n[keyboard]\nlayouts = [\"us\"]\n[keys.desk]\n\"Lead+s\" = \"mode sizing\"\n";
    let rice = checked(&format!("{RICE}{part}")).rice;
    let all = jovrik_values::action::action_choices(&*rice);
    assert!(all.len() > 50, "{}", all.len());
    for (text, does) in &all {
        let free = ["run", "shell", "press", "set"].contains(&text.as_str());
        match Action::parse(text) {
            Ok(action) => assert_eq!((action.to_string(), action.does()), (text.clone(), *does)),
            Err(unknown) => assert!(free, "{text}: {unknown}"),
        }
    }
    for (form, ..) in jovrik_values::action::ACTIONS {
        let verb = form.split(' ').next().expect("a verb");
        assert!(all.iter().any(|(text, _)| text.split(' ').next() == Some(verb)), "{form}");
    }
}

#[test]
fn what_floats_the_desk_decides_and_the_latest_lies_over_the_others() {
    let plain = WindowFacts { size: (500, 400), min_size: (10, 10), ..WindowFacts::default() };
    for (facts, floats) in [
        (plain.clone(), false),
        (WindowFacts { window_type: WindowKind::Dialog, ..plain.clone() }, true),
        (WindowFacts { window_type: WindowKind::Splash, ..plain.clone() }, true),
        (WindowFacts { transient_for: Some(WindowId(1)), ..plain.clone() }, true),
        (WindowFacts { min_size: (200, 100), max_size: Some((200, 100)), ..plain.clone() }, true),
        (WindowFacts { min_size: (200, 100), max_size: Some((200, 900)), ..plain.clone() }, false),
    ] {
        assert_eq!(facts.floats(), floats, "{facts:?}");
    }
    let mut desk = desk(1);
    let child = |parent: u32| WindowFacts { transient_for: Some(WindowId(parent)), ..plain.clone() };
    act(&mut desk, "go logs");
    desk.handle(WmEvent::Mapped(WindowId(5), child(1)));
    assert_eq!(desk.windows[&WindowId(5)].workspace, 0, "with the window that it belongs to");
    act(&mut desk, "go charts");
    let over = |desk: &WindowManager| -> Vec<u32> {
        let floating = desk.arrangement().placed.iter().filter(|(_, placed)| placed.level == StackingLayer::Floating);
        floating.map(|(id, _)| id.0).collect()
    };
    desk.handle(WmEvent::Mapped(WindowId(6), child(1)));
    assert_eq!(over(&desk), [5, 6]);
    desk.handle(WmEvent::ActivationRequested(WindowId(5)));
    assert_eq!(over(&desk), [6, 5]);
    assert_eq!(desk.handle(WmEvent::ActivationRequested(WindowId(5))), [], "nothing changed");
}

fn opens(desk: &mut WindowManager, id: u32, facts: WindowFacts) {
    desk.handle(WmEvent::Mapped(WindowId(id), facts));
}

fn plain(app: &str) -> WindowFacts {
    WindowFacts { app_id: app.to_owned(), size: (400, 300), min_size: (1, 1), ..WindowFacts::default() }
}

fn outer(desk: &WindowManager, id: u32) -> Option<PixelRect> {
    desk.arrangement().placed.get(&WindowId(id)).map(|placed| placed.outer)
}

fn refused(effects: &[WmEffect]) -> Option<String> {
    effects.iter().find_map(|effect| if let WmEffect::ReportError(why) = effect { Some(why.to_string()) } else { None })
}

/// What is seen, from below, with its level.
fn stack(desk: &WindowManager) -> String {
    let one = |(id, placed): (&WindowId, &jovrik_core::desk::PlacedWindow)| format!("{} {:?}", id.0, placed.level);
    desk.arrangement().placed.iter().map(one).collect::<Vec<_>>().join(", ")
}

#[test]
fn a_tile_changes_places_with_tiles_whatever_floats_between_them() {
    for way in ["right", "next"] {
        let mut desk = desk(3);
        // It floats in the middle, nearer than any tile, and is seen as a neighbour when the focus goes.
        desk.handle(WmEvent::ActivationRequested(WindowId(2)));
        act(&mut desk, "float on");
        desk.handle(WmEvent::ActivationRequested(WindowId(1)));
        act(&mut desk, "focus right");
        assert_eq!(desk.focused(), Some(WindowId(2)));
        desk.handle(WmEvent::ActivationRequested(WindowId(1)));
        let (one, three) = (outer(&desk, 1), outer(&desk, 3));
        act(&mut desk, &format!("move {way}"));
        assert_eq!((outer(&desk, 1), outer(&desk, 3)), (three, one), "{way}");
    }
}

#[test]
fn a_tile_floats_where_it_is_put_and_stands_among_the_tiles_again() {
    let mut desk = desk(3);
    act(&mut desk, "float on");
    assert_eq!(desk.tiled(0), [WindowId(1), WindowId(2)]);
    let place = outer(&desk, 3).expect("it is seen");
    act(&mut desk, "move left");
    assert_eq!(outer(&desk, 3), Some(PixelRect { x: place.x - 40, ..place }));
    act(&mut desk, "move right");
    act(&mut desk, "grow down 30");
    assert_eq!(outer(&desk, 3), Some(PixelRect { h: place.h + 30, ..place }));
    act(&mut desk, "shrink down 30");
    act(&mut desk, "grow up 10");
    act(&mut desk, "shrink up 10");
    assert_eq!(outer(&desk, 3), Some(place), "opposite actions undo each other");
    act(&mut desk, "move left");
    let moved = outer(&desk, 3);
    act(&mut desk, "float toggle");
    assert_eq!(desk.tiled(0).len(), 3);
    act(&mut desk, "float toggle");
    assert_eq!(outer(&desk, 3), moved, "it comes back to where it was");
    for _ in 0..100 {
        act(&mut desk, "move left");
        act(&mut desk, "grow right");
    }
    let screen = desk.monitors[0].facts.area;
    let at = outer(&desk, 3).expect("it is seen");
    assert_eq!(at.overlap(screen), Some(at), "never beyond the screen");
}

#[test]
fn sizes_of_what_floats_go_by_its_steps_and_limits() {
    let mut desk = desk(1);
    let steps = Some(SizeIncrements { base: (20, 10), by: (10, 20) });
    opens(
        &mut desk,
        9,
        WindowFacts {
            window_type: WindowKind::Dialog,
            min_size: (100, 100),
            max_size: Some((600, 500)),
            size_increments: steps,
            ..plain("t")
        },
    );
    let size = |desk: &WindowManager| desk.arrangement().placed[&WindowId(9)].area;
    assert_eq!((size(&desk).w, size(&desk).h), (400, 290), "a whole number of steps");
    act(&mut desk, "grow right 25");
    assert_eq!(size(&desk).w, 420);
    act(&mut desk, "grow right 2000");
    assert_eq!(size(&desk).w, 600, "its largest");
    (0..9).for_each(|_| drop(act(&mut desk, "shrink right 200")));
    assert_eq!(size(&desk).w, 100, "its least");
}

#[test]
fn windows_that_float_lie_where_they_ask_on_their_parent_or_where_they_cover_least() {
    let mut desk = desk(1);
    let dialog = || WindowFacts { window_type: WindowKind::Dialog, ..plain("t") };
    opens(&mut desk, 5, WindowFacts { at: Some((100, 200)), ..dialog() });
    assert_eq!(outer(&desk, 5).map(|area| (area.x, area.y)), Some((100, 200)));
    opens(&mut desk, 6, WindowFacts { at: Some((900, 200)), ..dialog() });
    assert_ne!(outer(&desk, 6).map(|area| area.x), Some(900), "not on the screen");
    let (five, six) = (outer(&desk, 5).expect("seen"), outer(&desk, 6).expect("seen"));
    assert_eq!(five.overlap(six), None, "there is room beside the other");
    opens(&mut desk, 7, WindowFacts { transient_for: Some(WindowId(5)), size: (100, 50), ..dialog() });
    let seven = outer(&desk, 7).expect("seen");
    assert_eq!(seven.centre2(), five.centre2());
    for id in 10..20 {
        opens(&mut desk, id, dialog());
    }
    let floating = desk.arrangement().placed.values().filter(|placed| placed.level == StackingLayer::Floating);
    let corners: std::collections::HashSet<(i32, i32)> = floating.map(|placed| (placed.outer.x, placed.outer.y)).collect();
    assert_eq!(corners.len(), 13, "never exactly over another");
}

#[test]
fn what_belongs_to_a_window_lies_directly_over_it_on_any_level() {
    let mut desk = desk(1);
    let child = |of: u32| WindowFacts { transient_for: Some(WindowId(of)), ..plain("c") };
    opens(&mut desk, 2, WindowFacts { window_type: WindowKind::Utility, ..plain("a") });
    opens(&mut desk, 3, WindowFacts { window_type: WindowKind::Utility, ..plain("b") });
    opens(&mut desk, 4, child(2));
    assert_eq!(stack(&desk), "1 Tiles, 3 Floating, 2 Floating, 4 Floating", "its parent comes along");
    desk.handle(WmEvent::ActivationRequested(WindowId(3)));
    assert_eq!(stack(&desk), "1 Tiles, 2 Floating, 4 Floating, 3 Floating");
    desk.handle(WmEvent::Requested(WindowId(2), WindowRequest::Stacking(StackingState::Above, Switch::On)));
    assert_eq!(stack(&desk), "1 Tiles, 3 Floating, 2 Above, 4 Above");
    desk.handle(WmEvent::Requested(WindowId(3), WindowRequest::Stacking(StackingState::Below, Switch::On)));
    assert_eq!(stack(&desk), "3 Below, 1 Tiles, 2 Above, 4 Above");
    desk.handle(WmEvent::Requested(WindowId(2), WindowRequest::Stacking(StackingState::Above, Switch::Toggle)));
    desk.handle(WmEvent::ActivationRequested(WindowId(1)));
    act(&mut desk, "full on");
    opens(&mut desk, 5, child(1));
    assert_eq!(stack(&desk), "3 Below, 2 Floating, 4 Floating, 1 Full, 5 Full", "a dialog of what is full is seen");
    // Belonging to each other in a ring, to themselves, or to what is not there.
    opens(&mut desk, 6, child(7));
    opens(&mut desk, 7, child(6));
    opens(&mut desk, 8, child(8));
    opens(&mut desk, 9, child(99));
    assert_eq!(desk.arrangement().placed.len(), 9, "{}", stack(&desk));
}

#[test]
fn a_full_window_covers_its_monitor_until_another_tile_is_in_front() {
    let mut desk = desk(2);
    let tile = outer(&desk, 2);
    act(&mut desk, "full toggle");
    let placed = desk.arrangement().placed[&WindowId(2)];
    assert_eq!((placed.area, placed.level), (PixelRect::new(0, 0, 1000, 800), StackingLayer::Full));
    assert_eq!(placed.area, placed.outer, "without a frame");
    act(&mut desk, "focus prev");
    assert_eq!(
        (outer(&desk, 2), desk.windows[&WindowId(2)].fullscreen),
        (tile, false),
        "another one has the focus: it is a tile"
    );
    act(&mut desk, "focus next");
    assert_eq!(desk.arrangement().placed[&WindowId(2)].level, StackingLayer::Tiles, "and stays one");
    desk.handle(WmEvent::Requested(WindowId(2), WindowRequest::Fullscreen(Switch::On)));
    desk.handle(WmEvent::Requested(WindowId(2), WindowRequest::Fullscreen(Switch::Off)));
    assert_eq!(outer(&desk, 2), tile);
}

#[test]
fn a_full_window_stays_full_under_what_floats_and_below_nothing_that_came_by_itself() {
    let mut desk = desk(2);
    let full =
        |desk: &WindowManager| desk.windows.iter().filter(|(_, one)| one.fullscreen).map(|(id, _)| id.0).collect::<Vec<_>>();
    act(&mut desk, "full on");
    // What nobody started does not take the focus; it calls, and lies below.
    opens(&mut desk, 3, plain("gullmail"));
    assert_eq!((desk.focused(), full(&desk), desk.windows[&WindowId(3)].urgent), (Some(WindowId(2)), vec![2], true));
    opens(&mut desk, 4, WindowFacts { window_type: WindowKind::Dialog, ..plain("asks") });
    assert_eq!((desk.focused(), full(&desk)), (Some(WindowId(2)), vec![2]));
    assert_eq!(stack(&desk), "1 Tiles, 3 Tiles, 4 Floating, 2 Full");
    // What belongs to it has the focus over it, and so has whatever floats and is asked for.
    opens(&mut desk, 5, WindowFacts { transient_for: Some(WindowId(2)), ..plain("save") });
    assert_eq!((desk.focused(), stack(&desk).as_str()), (Some(WindowId(5)), "1 Tiles, 3 Tiles, 4 Floating, 2 Full, 5 Full"));
    desk.handle(WmEvent::ActivationRequested(WindowId(4)));
    assert_eq!((desk.focused(), stack(&desk).as_str()), (Some(WindowId(4)), "1 Tiles, 3 Tiles, 2 Full, 5 Full, 4 Full"));
    assert_eq!(full(&desk), [2]);
    desk.handle(WmEvent::ActivationRequested(WindowId(2)));
    assert_eq!(stack(&desk), "1 Tiles, 3 Tiles, 4 Floating, 2 Full, 5 Full");
    // A program that is not in front calls instead; there is never more than one on a workspace.
    desk.handle(WmEvent::Requested(WindowId(1), WindowRequest::Fullscreen(Switch::On)));
    assert_eq!((full(&desk), desk.windows[&WindowId(1)].urgent), (vec![2], true));
    // What a person starts is seen.
    opens(&mut desk, 6, WindowFacts { sought: true, ..plain("term") });
    assert_eq!((desk.focused(), full(&desk)), (Some(WindowId(6)), vec![]));
    // Another workspace has one of its own.
    act(&mut desk, "full on");
    act(&mut desk, "go logs");
    opens(&mut desk, 7, WindowFacts { asks: InitialState { fullscreen: true, ..InitialState::default() }, ..plain("film") });
    assert_eq!(full(&desk), [6, 7]);
}

#[test]
fn any_layout_of_the_rice_is_shown_where_it_is_asked_for_and_the_cycle_stays_as_it_is() {
    let more =
        "[layout.river]\nkind = \"ribbon\"\n[layout.only]\nkind = \"solo\"\n[workspace.charts]\nlayouts = [\"main\", \"grid\"]\n";
    let mut desk = WindowManager::new(rice(more), vec![monitor("A", 0)]);
    let shows = |desk: &WindowManager| desk.layout_of(0).0.clone();
    appear(&mut desk, 1);
    assert_eq!(act(&mut desk, "layout river").len(), 1, "its window goes elsewhere");
    assert_eq!(shows(&desk), "river");
    desk.handle(WmEvent::Settings(rice(&format!("{more}[type]\nsize = 12\n"))));
    assert_eq!(shows(&desk), "river", "also after a reload");
    act(&mut desk, "layout only");
    act(&mut desk, "layout next");
    assert_eq!((shows(&desk), desk.workspaces[0].layouts.len()), ("main".to_owned(), 2));
    act(&mut desk, "layout river");
    act(&mut desk, "layout prev");
    assert_eq!((shows(&desk), desk.workspaces[0].layouts.len()), ("grid".to_owned(), 2));
    let why = refused(&act(&mut desk, "layout nothing")).expect("it is refused");
    assert!(why.contains("main, grid, river and only"), "{why}");
    assert!(refused(&act(&mut desk, "focus nobody")).is_some());
}

#[test]
fn what_one_tile_needs_leaves_the_others_what_is_of_use() {
    for (layout, count) in [("main", 2), ("main", 3), ("grid", 2), ("halving", 3)] {
        let mut desk =
            WindowManager::new(rice(&format!("[workspace.charts]\nlayouts = [\"{layout}\"]\n")), vec![monitor("A", 0)]);
        opens(&mut desk, 1, WindowFacts { min_size: (980, 780), ..plain("sluice") });
        for id in 2..=count {
            opens(&mut desk, id, plain("term"));
        }
        for id in 1..=count {
            let area = desk.arrangement().placed[&WindowId(id)].outer;
            let holds = if id == 1 { area.w < 980 || area.h < 780 } else { area.w >= 150 && area.h >= 70 };
            assert!(holds, "{layout} of {count}: {id} has {area}");
        }
    }
}

#[test]
fn tucked_windows_come_back_to_where_one_is() {
    let mut desk = desk(2);
    act(&mut desk, "tuck");
    assert_eq!((desk.focused(), desk.tucked.as_slice()), (Some(WindowId(1)), &[WindowId(2)][..]));
    act(&mut desk, "go logs");
    act(&mut desk, "untuck");
    assert_eq!((desk.focused(), desk.workspaces[1].windows.as_slice()), (Some(WindowId(2)), &[WindowId(2)][..]));
    let why = act(&mut desk, "untuck");
    assert_eq!(refused(&why).as_deref(), Some("no window is tucked away"));
    act(&mut desk, "tuck");
    let why = act(&mut desk, "untuck nothing*");
    assert_eq!(refused(&why).as_deref(), Some("no window that is tucked away matches nothing*"));
    act(&mut desk, "untuck 'window*'");
    assert_eq!(desk.focused(), Some(WindowId(2)));
    // A program hides its own window; whoever asks for that one fetches it.
    desk.handle(WmEvent::Requested(WindowId(2), WindowRequest::Minimized));
    assert_eq!(outer(&desk, 2), None);
    desk.handle(WmEvent::ActivationRequested(WindowId(2)));
    assert!(outer(&desk, 2).is_some());
    // It survives that its workspace goes.
    desk.handle(WmEvent::Requested(WindowId(2), WindowRequest::Minimized));
    desk.handle(WmEvent::Settings(crate::checked(&RICE.replace("\"charts\", \"logs\", \"field\"", "\"other\"")).rice));
    act(&mut desk, "untuck");
    assert_eq!(desk.workspaces[0].windows, [WindowId(1), WindowId(2)]);
}

#[test]
fn a_pegged_window_goes_along_and_takes_no_focus() {
    let mut desk = desk(1);
    opens(&mut desk, 5, WindowFacts { window_type: WindowKind::Utility, ..plain("notes") });
    act(&mut desk, "peg on");
    act(&mut desk, "go logs");
    assert_eq!(desk.workspaces[1].windows, [WindowId(5)]);
    act(&mut desk, "go charts");
    assert_eq!((desk.windows[&WindowId(5)].workspace, desk.focused()), (0, Some(WindowId(1))));
    desk.handle(WmEvent::ActivationRequested(WindowId(5)));
    act(&mut desk, "peg off");
    act(&mut desk, "go logs");
    assert_eq!(desk.windows[&WindowId(5)].workspace, 0);
    desk.handle(WmEvent::Requested(WindowId(5), WindowRequest::Sticky(Switch::On)));
    assert_eq!(desk.windows[&WindowId(5)].workspace, 1, "a program asked for it");
    act(&mut desk, "send charts");
    assert!(!desk.windows[&WindowId(5)].sticky, "who sends it away does not want it everywhere");
}

#[test]
fn summon_starts_fetches_and_tucks_away() {
    let program = "[program]\nterminal = { run = [\"xterm\"], app = \"XTerm\" }\n";
    let mut desk = WindowManager::new(rice(program), vec![monitor("A", 0)]);
    let started = |effects: &[WmEffect]| effects.iter().filter(|effect| matches!(effect, WmEffect::Spawn { .. })).count();
    assert_eq!(started(&act(&mut desk, "summon terminal")), 1);
    opens(&mut desk, 1, plain("xterm"));
    assert_eq!(started(&act(&mut desk, "summon terminal")), 0);
    assert_eq!(desk.tucked, [WindowId(1)], "it had the focus");
    act(&mut desk, "go logs");
    act(&mut desk, "summon terminal");
    assert_eq!((desk.focused(), desk.windows[&WindowId(1)].workspace), (Some(WindowId(1)), 1));
    act(&mut desk, "float on");
    act(&mut desk, "go charts");
    act(&mut desk, "summon terminal");
    assert_eq!(desk.windows[&WindowId(1)].workspace, 0, "what floats comes here");
    assert_eq!(refused(&act(&mut desk, "summon nobody")).as_deref(), Some("there is no program nobody"));
}

#[test]
fn the_focus_goes_by_pattern_to_who_calls_and_to_parents() {
    let mut desk = desk(1);
    act(&mut desk, "go logs");
    opens(&mut desk, 2, plain("gullmail"));
    opens(&mut desk, 3, plain("gullmail"));
    act(&mut desk, "go charts");
    act(&mut desk, "focus gullmail");
    let first = desk.focused();
    act(&mut desk, "focus 'gull*'");
    assert_ne!(desk.focused(), first, "the next of them");
    act(&mut desk, "focus re:^gull");
    assert_eq!(desk.focused(), first);
    assert_eq!(refused(&act(&mut desk, "focus nobody")).as_deref(), Some("no window matches nobody"));
    desk.handle(WmEvent::UrgencyChanged(WindowId(1), true));
    act(&mut desk, "focus urgent");
    assert_eq!(desk.focused(), Some(WindowId(1)));
    assert_eq!(refused(&act(&mut desk, "focus urgent")).as_deref(), Some("no window calls"));
    opens(&mut desk, 4, WindowFacts { transient_for: Some(WindowId(2)), ..plain("ask") });
    assert_eq!(desk.windows[&WindowId(4)].workspace, 1);
    desk.handle(WmEvent::ActivationRequested(WindowId(4)));
    act(&mut desk, "focus parent");
    assert_eq!(desk.focused(), Some(WindowId(2)));
    assert!(refused(&act(&mut desk, "focus parent")).is_some());
}

#[test]
fn who_was_not_asked_for_calls_and_a_splash_is_never_chosen() {
    let mut desk = desk(1);
    opens(&mut desk, 2, WindowFacts { no_initial_focus: true, ..plain("gullmail") });
    assert_eq!((desk.focused(), desk.windows[&WindowId(2)].urgent), (Some(WindowId(1)), true));
    opens(&mut desk, 3, WindowFacts { window_type: WindowKind::Splash, ..plain("splash") });
    opens(&mut desk, 5, WindowFacts { window_type: WindowKind::Notification, ..plain("says") });
    assert_eq!(desk.focused(), Some(WindowId(1)));
    opens(&mut desk, 4, plain("clock"));
    assert_eq!(desk.focused(), Some(WindowId(4)));
    assert_eq!(desk.tiled(0), [WindowId(1), WindowId(2), WindowId(4)], "a splash is no tile");
    let mut seen = std::collections::BTreeSet::new();
    for _ in 0..6 {
        act(&mut desk, "focus next");
        seen.insert(desk.focused().expect("one has it").0);
    }
    assert_eq!(seen.into_iter().collect::<Vec<_>>(), [1, 2, 4], "never a splash, nor what only tells something");
    desk.handle(WmEvent::ActivationRequested(WindowId(4)));
    assert_eq!(act(&mut desk, "close"), [WmEffect::Close(WindowId(4))]);
}

#[test]
fn programs_ask_for_places_and_workspaces_and_tiles_stay() {
    let mut desk = desk(2);
    let tile = outer(&desk, 2);
    let place = |x: i32, w: i32| WindowRequest::Configure { at: (Some(x), None), size: (Some(w), None), gravity: None };
    desk.handle(WmEvent::Requested(WindowId(2), place(5, 100)));
    assert_eq!(outer(&desk, 2), tile);
    opens(&mut desk, 5, WindowFacts { window_type: WindowKind::Dialog, ..plain("d") });
    desk.handle(WmEvent::Requested(WindowId(5), place(50, 200)));
    // The place is that of the frame's corner, or of the contents' own for one that says so.
    assert_eq!(outer(&desk, 5).map(|area| area.x), Some(50));
    let inside = Some(Gravity(GravityAxis::Static, GravityAxis::Static));
    desk.handle(WmEvent::Requested(
        WindowId(5),
        WindowRequest::Configure { at: (Some(50), None), size: (None, None), gravity: inside },
    ));
    assert_eq!(desk.arrangement().placed[&WindowId(5)].area.x, 50);
    assert_eq!(desk.arrangement().placed[&WindowId(5)].area.w, 200);
    for wild in [i32::MIN, -1, 0, 65_535, i32::MAX] {
        desk.handle(WmEvent::Requested(
            WindowId(5),
            WindowRequest::Configure { at: (Some(wild), Some(wild)), size: (Some(wild), Some(wild)), gravity: None },
        ));
        let area = outer(&desk, 5).expect("it is seen");
        assert_eq!(area.overlap(PixelRect::new(0, 0, 1000, 800)), Some(area), "{wild}");
    }
    desk.handle(WmEvent::Requested(WindowId(5), WindowRequest::Workspace("logs".to_owned())));
    assert_eq!(desk.windows[&WindowId(5)].workspace, 1);
}

#[test]
fn monitors_are_gone_to_by_direction_order_and_name() {
    let more = "[monitor.right]\nmatch = \"B\"\nworkspaces = [\"logs\"]\n";
    let mut desk = WindowManager::new(rice(more), vec![monitor("A", 0), monitor("B", 1000)]);
    appear(&mut desk, 1);
    for (action, to) in [("right", 1), ("left", 0), ("next", 1), ("next", 0), ("prev", 1), ("A", 0), ("right", 1)] {
        act(&mut desk, &format!("focus monitor {to}", to = action));
        assert_eq!(desk.monitor, to, "{action}");
    }
    assert_eq!(refused(&act(&mut desk, "focus monitor up")).as_deref(), Some("there is no monitor that way"));
    assert_eq!(refused(&act(&mut desk, "focus monitor Z")).as_deref(), Some("there is no monitor Z; there is A and B"));
    act(&mut desk, "focus monitor A");
    act(&mut desk, "send monitor right");
    assert_eq!(map(&desk), ">A: *charts field | B: *logs1");
    act(&mut desk, "focus monitor next");
    act(&mut desk, "carry monitor next");
    assert_eq!(map(&desk), ">A: *charts1 field | B: *logs");
}

#[test]
fn where_all_windows_float_each_has_a_place_of_its_own_and_keeps_it() {
    let more = "[layout.loose]\nkind = \"free\"\n";
    let text = RICE.replace("order = [", "layouts = [\"main\", \"loose\"]\norder = [");
    let mut desk = WindowManager::new(crate::checked(&format!("{text}{more}")).rice, vec![monitor("A", 0)]);
    (1..=3).for_each(|id| opens(&mut desk, id, plain("x")));
    act(&mut desk, "layout loose");
    let places: Vec<PixelRect> = desk.arrangement().placed.values().map(|placed| placed.outer).collect();
    assert_eq!(places.iter().map(|area| (area.w, area.h)).collect::<Vec<_>>(), [(404, 304); 3]);
    act(&mut desk, "move right");
    let moved = outer(&desk, 3);
    act(&mut desk, "layout next");
    assert_eq!(desk.tiled(0).len(), 3);
    act(&mut desk, "layout next");
    assert_eq!(outer(&desk, 3), moved, "over another layout and back");
    opens(&mut desk, 4, plain("x"));
    assert!(outer(&desk, 4).is_some());
}

#[test]
fn rules_are_asked_in_order_and_later_ones_win() {
    let more = "[program]\nletters = { run = [\"gullmail\"], app = \"Gullmail\" }\n\
        [rule.letters]\nmatch = { program = \"letters\" }\nset = { workspace = \"field\", float = true, size = [\"40%\", 300] }\n\
        [rule.compose]\nmatch = { app = \"gull*\", title = \"re:^Compose\" }\nset = { workspace = \"logs\", at = \"40,80\" }\nagain = true\n\
        [rule.first]\norder = -5\nmatch = {}\nset = { frame = false, opacity = \"90%\" }\n\
        [rule.quiet]\nmatch = { app = \"quiet\" }\nset = { focus = false, tucked = true }\nstop = true\n\
        [rule.never]\nmatch = { app = \"quiet\" }\nset = { full = true }\n";
    let mut desk = WindowManager::new(crate::checked(&format!("{RICE}{more}")).rice, vec![monitor("A", 0)]);
    let letter = WindowFacts { title: "Two letters".to_owned(), ..plain("gullmail") };
    opens(&mut desk, 1, letter.clone());
    let window = &desk.windows[&WindowId(1)];
    assert_eq!((window.workspace, window.floating, window.decorated, window.opacity), (2, true, false, 90));
    let by = |desk: &WindowManager, id: u32| -> String {
        desk.windows[&WindowId(id)].ruled.iter().map(|(set, rule)| format!("{set} by {rule}")).collect::<Vec<_>>().join(", ")
    };
    assert_eq!(by(&desk, 1), "opacity by first, frame by first, workspace by letters, float by letters, size by letters");
    desk.handle(WmEvent::TitleChanged(WindowId(1), "Compose: the sluice".to_owned()));
    assert_eq!(desk.windows[&WindowId(1)].workspace, 1, "asked again");
    assert_eq!((desk.windows[&WindowId(1)].floating_rect.x, desk.windows[&WindowId(1)].floating_rect.y), (40, 80));
    opens(&mut desk, 2, plain("quiet"));
    assert_eq!(
        (desk.tucked.as_slice(), desk.windows[&WindowId(2)].fullscreen),
        (&[WindowId(2)][..], false),
        "the asking stopped"
    );
    act(&mut desk, "go field");
    opens(&mut desk, 3, letter);
    assert_eq!(outer(&desk, 3).map(|area| (area.w, area.h)), Some((400, 300)), "40 % of the work area");
}

#[test]
fn five_thousand_rules_and_rules_for_everything_are_survived() {
    let mut text = String::from(
        "[rule.all]\nmatch = {}\nset = { workspace = \"logs\", monitor = \"Z\", size = [1, \"100%\"], at = \"-9999,65535\" }\n",
    );
    for nth in 0..5000 {
        text.push_str(&format!("[rule.r{nth}]\nmatch = {{ app = \"a{nth}\" }}\nset = {{ float = true }}\n"));
    }
    let mut desk = WindowManager::new(crate::checked(&format!("{RICE}{text}")).rice, vec![monitor("A", 0)]);
    opens(&mut desk, 1, plain("a4999"));
    act(&mut desk, "go logs");
    let area = outer(&desk, 1).expect("it is seen");
    assert_eq!(area.overlap(PixelRect::new(0, 0, 1000, 800)), Some(area));
    assert_eq!(desk.windows[&WindowId(1)].ruled.iter().filter(|(_, rule)| rule == "r4999").count(), 1);
}

#[test]
fn a_tile_that_says_its_sizes_again_floats_in_the_size_and_at_the_place_that_it_asked_for() {
    let mut desk = desk(1);
    let asks = WindowFacts { at: Some((100, 90)), ..plain("chart") };
    opens(&mut desk, 2, asks.clone());
    act(&mut desk, "float on");
    let asked = outer(&desk, 2);
    act(&mut desk, "close");
    desk.handle(WmEvent::Unmapped(WindowId(2)));
    opens(&mut desk, 2, asks.clone());
    // As a terminal does whenever its size changes: what it has now is what it was given.
    let now = WindowFacts { size: (900, 700), at: None, min_size: (20, 20), ..asks };
    desk.handle(WmEvent::InfoChanged(WindowId(2), Box::new(now)));
    act(&mut desk, "float on");
    assert_eq!(outer(&desk, 2), asked);
    assert_eq!(desk.windows[&WindowId(2)].facts.min_size, (20, 20), "what it says anew is known");
}
