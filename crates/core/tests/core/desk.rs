use std::rc::Rc;

use jovrik_core::desk::{Action, Area, Desk, Effect, Event, FrameState, MonitorFacts, WindowFacts, WindowId};
use jovrik_core::rice::{Rice, WindowKind};
use proptest::prelude::*;

use crate::checked;

const RICE: &str = "[space]\nbetween = 10\nedge = 20\n[frame]\nwidth = 2\n[workspaces]\norder = [\"charts\", \"logs\", \"field\"]\n[bar.top]\nthick = 30\n";

fn rice(more: &str) -> Rc<Rice> {
    let checked = checked(&format!("{RICE}{more}"));
    assert_eq!(crate::found(&checked), Vec::<String>::new());
    checked.rice
}

fn monitor(name: &str, x: i32) -> MonitorFacts {
    MonitorFacts::new(name.to_owned(), Area::new(x, 0, 1000, 800))
}

fn appear(desk: &mut Desk, id: u32) -> Vec<Effect> {
    desk.handle(Event::Appears(
        WindowId(id),
        WindowFacts { app: "x".to_owned(), title: format!("window {id}"), ..WindowFacts::default() },
    ))
}

fn act(desk: &mut Desk, action: &str) -> Vec<Effect> {
    desk.handle(Event::Act(Action::parse(action).expect("an action")))
}

fn desk(windows: u32) -> Desk {
    let mut desk = Desk::new(rice(""), vec![monitor("A", 0)]);
    for id in 1..=windows {
        appear(&mut desk, id);
    }
    desk
}

fn areas(desk: &Desk) -> Vec<String> {
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
    desk.handle(Event::Settings(rice("[type]\nsize = 12\n")));
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
    assert_eq!(effects.iter().filter(|effect| matches!(effect, Effect::Hide(_))).count(), 2);
    assert_eq!(desk.focused(), None);
    act(&mut desk, "go back");
    assert_eq!(desk.focused(), Some(WindowId(2)));
    act(&mut desk, "send logs");
    assert_eq!((desk.workspace(), desk.focused()), (0, Some(WindowId(1))));
    act(&mut desk, "carry logs");
    assert_eq!((desk.workspace(), desk.focused()), (1, Some(WindowId(1))));
    assert_eq!(desk.workspaces[1].windows, [WindowId(2), WindowId(1)]);
    let effects = act(&mut desk, "go nowhere");
    assert!(effects.contains(&Effect::Refused("there is no workspace nowhere".to_owned())));
}

#[test]
fn solo_shows_the_focused_one_and_layouts_cycle() {
    let mut desk = desk(3);
    let effects = act(&mut desk, "layout next");
    assert_eq!(areas(&desk), ["3 956x726+22+52"]);
    assert_eq!(effects.iter().filter(|effect| matches!(effect, Effect::Hide(_))).count(), 2);
    act(&mut desk, "focus next");
    assert_eq!(desk.arrangement().placed.keys().collect::<Vec<_>>(), [&WindowId(1)]);
    act(&mut desk, "layout next");
    assert_eq!(desk.arrangement().placed.len(), 3);
    let effects = act(&mut desk, "layout mast");
    assert!(
        matches!(&effects[0], Effect::Refused(why) if why == "mast is not among the layouts here: main and solo"),
        "{effects:?}"
    );
}

#[test]
fn a_reload_yields_only_what_differs() {
    let mut desk = desk(3);
    let effects = |desk: &mut Desk, more: &str| desk.handle(Event::Settings(rice(more)));
    let nothing = effects(&mut desk, "");
    assert_eq!(nothing, []);
    let checked = crate::checked(&RICE.replace("width = 2\n", "width = 2\nactive = \"#ff0000\"\n"));
    let colour = desk.handle(Event::Settings(checked.rice));
    assert!(colour.iter().all(|effect| matches!(effect, Effect::Paint(_))), "a colour moves no window: {colour:?}");
    let checked = crate::checked(&RICE.replace("between = 10", "between = 30"));
    let gap = desk.handle(Event::Settings(checked.rice));
    assert!(gap.iter().all(|effect| matches!(effect, Effect::Place { .. } | Effect::Paint(_))), "no window is unmapped: {gap:?}");
}

#[test]
fn windows_of_a_workspace_that_is_gone_are_not_lost() {
    let mut desk = desk(2);
    act(&mut desk, "carry field");
    let checked = crate::checked(&RICE.replace(", \"field\"", ""));
    desk.handle(Event::Settings(checked.rice));
    assert_eq!(desk.windows.len(), 2);
    assert_eq!(desk.arrangement().placed.len(), 2);
    assert!(desk.windows.values().all(|window| window.workspace == 0));
}

#[test]
fn a_second_monitor_has_its_own_workspaces_and_they_come_home() {
    let more = "[monitor.side]\nmatch = \"B*\"\nworkspaces = [\"logs\"]\n";
    let mut desk = Desk::new(rice(more), vec![monitor("B", 1000), monitor("A", 0)]);
    assert_eq!(desk.monitors[0].facts.name, "A", "from the left");
    act(&mut desk, "go logs");
    assert_eq!((desk.monitor, desk.workspace()), (1, 1));
    appear(&mut desk, 1);
    assert_eq!(areas(&desk), ["1 996x766+1002+32"]);
    desk.handle(Event::Monitors(vec![monitor("A", 0)]));
    assert_eq!(desk.windows.len(), 1);
    desk.handle(Event::Monitors(vec![monitor("A", 0), monitor("B", 1000)]));
    assert_eq!(areas(&desk), ["1 996x766+1002+32"]);
    act(&mut desk, "go charts");
    appear(&mut desk, 2);
    act(&mut desk, "focus right");
    assert_eq!((desk.monitor, desk.focused()), (1, Some(WindowId(1))), "over the edge of a monitor");
}

#[test]
fn a_calling_window_is_marked_until_it_is_seen() {
    let mut desk = desk(2);
    desk.handle(Event::Calls(WindowId(1), true));
    let state = |desk: &Desk| desk.arrangement().frames.iter().find(|frame| frame.window == WindowId(1)).map(|frame| frame.state);
    assert_eq!(state(&desk), Some(FrameState::Urgent));
    desk.handle(Event::Wanted(WindowId(1)));
    assert_eq!(state(&desk), Some(FrameState::Active));
    desk.handle(Event::Calls(WindowId(1), true));
    assert!(!desk.windows[&WindowId(1)].urgent, "the focused one does not call");
}

#[test]
fn dialogs_float_in_the_middle_and_bars_toggle() {
    let mut desk = desk(1);
    desk.handle(Event::Appears(
        WindowId(9),
        WindowFacts { kind: WindowKind::Dialog, size: (400, 300), ..WindowFacts::default() },
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
        let mut desk = Desk::new(rice(""), vec![monitor("A", 0)]);
        let mut alive = std::collections::BTreeSet::new();
        for (what, id) in steps {
            let actions = ["go logs", "go next", "go back", "send field", "carry charts", "layout next", "focus next", "focus left", "move right", "main more", "main grow", "bar toggle"];
            match what {
                0 => { appear(&mut desk, id); alive.insert(id); }
                1 => { desk.handle(Event::Goes(WindowId(id))); alive.remove(&id); }
                2 => { desk.handle(Event::Wanted(WindowId(id))); }
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
    let mut desk = Desk::new(rice, vec![MonitorFacts::new("a".to_owned(), Area::new(0, 0, 800, 600))]);
    let mut started = |action: &str| -> (Vec<String>, Vec<(String, String)>) {
        let effects = desk.handle(Event::Act(Action::parse(action).expect("an action")));
        let start = effects.into_iter().find_map(|effect| match effect {
            Effect::Start { argv, env } => Some((argv, env)),
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
fn map(desk: &Desk) -> String {
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

fn plug(desk: &mut Desk, facts: &[(&str, i32, bool)]) -> String {
    let one = |(name, x, primary): &(&str, i32, bool)| MonitorFacts { primary: *primary, ..monitor(name, *x) };
    desk.handle(Event::Monitors(facts.iter().map(one).collect()));
    map(desk)
}

#[test]
fn a_monitor_at_the_left_takes_nothing_from_the_primary_one() {
    let mut desk = Desk::new(rice(""), vec![MonitorFacts { primary: true, ..monitor("A", 0) }]);
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
    let mut desk = Desk::new(rice(more), vec![monitor("A", 0), monitor("B", 1000)]);
    act(&mut desk, "go field");
    appear(&mut desk, 1);
    assert_eq!(map(&desk), "A: *charts | >B: logs *field1");
    assert_eq!(plug(&mut desk, &[("A", 0, false)]), ">A: *charts logs field1");
    assert_eq!(plug(&mut desk, &[("A", 0, false), ("B", 1000, false)]), ">A: *charts | B: logs *field1");
    assert_eq!(plug(&mut desk, &[("A", 0, false), ("B", 0, false)]), ">A: *charts logs field1", "the same picture twice");
    let inside = MonitorFacts::new("B", Area::new(100, 100, 640, 480));
    desk.handle(Event::Monitors(vec![inside, monitor("A", 0)]));
    assert_eq!(map(&desk), ">A: *charts logs field1", "a part of another");
    desk.handle(Event::Monitors(vec![]));
    assert_eq!((desk.monitors.len(), desk.windows.len()), (1, 1));
    assert_eq!(plug(&mut desk, &[("B", 0, false), ("A", 1000, false)]), ">B: logs *field1 | A: *charts");
}

#[test]
fn windows_go_over_the_edge_of_a_monitor_to_a_place_beside_their_neighbour() {
    let more = "[monitor.right]\nmatch = \"B\"\nworkspaces = [\"logs\"]\n";
    let mut desk = Desk::new(rice(more), vec![monitor("A", 0), monitor("B", 1000)]);
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
    let first = |desk: &Desk| desk.arrangement().frames[0].area.w;
    let plain = first(&desk);
    act(&mut desk, "main grow");
    let grown = first(&desk);
    assert!(grown > plain);
    act(&mut desk, "layout next");
    act(&mut desk, "layout next");
    assert_eq!(first(&desk), grown, "over another layout and back");
    desk.handle(Event::Settings(rice("[type]\nsize = 12\n")));
    assert_eq!(first(&desk), grown, "over a reload");
    desk.handle(Event::Monitors(vec![monitor("B", 0), monitor("A", 1000)]));
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
    assert_eq!(told, [Effect::Refused("the layout solo has no main area".to_owned())]);
}

#[test]
fn every_action_that_can_be_chosen_is_read_as_it_is_written() {
    let part = "[program]\n\"tide chart\" = \"x\"\n[module.more]\ngroup = [\"clock\"]\n[module.clock]\nsource = \"time\"\ntext = \"{time:%H}\"\n[keys.desk.modes.sizing]\n\"q\" = \"mode leave\"\n[keyboard]\nlayouts = [\"us\"]\n[keys.desk]\n\"Lead+s\" = \"mode sizing\"\n";
    let rice = checked(&format!("{RICE}{part}")).rice;
    let all = jovrik_core::desk::action_choices(&rice);
    assert!(all.len() > 50, "{}", all.len());
    for (text, does) in &all {
        let free = ["run", "press"].contains(&text.as_str());
        match Action::parse(text) {
            Ok(action) => assert_eq!((action.to_string(), action.does()), (text.clone(), *does)),
            Err(unknown) => assert!(free, "{text}: {unknown}"),
        }
    }
    for (form, ..) in jovrik_core::desk::ACTIONS {
        let verb = form.split(' ').next().expect("a verb");
        assert!(all.iter().any(|(text, _)| text.split(' ').next() == Some(verb)), "{form}");
    }
}

#[test]
fn what_floats_the_desk_decides_and_the_latest_lies_over_the_others() {
    let plain = WindowFacts { size: (500, 400), least: (10, 10), ..WindowFacts::default() };
    for (facts, floats) in [
        (plain.clone(), None),
        (WindowFacts { kind: WindowKind::Dialog, ..plain.clone() }, Some((500, 400))),
        (WindowFacts { kind: WindowKind::Splash, ..plain.clone() }, Some((500, 400))),
        (WindowFacts { parent: Some(WindowId(1)), ..plain.clone() }, Some((500, 400))),
        (WindowFacts { least: (200, 100), most: Some((200, 100)), ..plain.clone() }, Some((200, 100))),
        (WindowFacts { least: (200, 100), most: Some((200, 900)), ..plain.clone() }, None),
    ] {
        assert_eq!(facts.floats(), floats, "{facts:?}");
    }
    let mut desk = desk(1);
    let child = |parent: u32| WindowFacts { parent: Some(WindowId(parent)), ..plain.clone() };
    act(&mut desk, "go logs");
    desk.handle(Event::Appears(WindowId(5), child(1)));
    assert_eq!(desk.windows[&WindowId(5)].workspace, 0, "with the window that it belongs to");
    act(&mut desk, "go charts");
    let stack = |effects: Vec<Effect>| {
        effects.into_iter().find_map(|effect| if let Effect::Stack(all) = effect { Some(all) } else { None })
    };
    let shown = desk.handle(Event::Appears(WindowId(6), child(1)));
    assert_eq!(stack(shown), Some(vec![WindowId(5), WindowId(6)]));
    assert_eq!(stack(desk.handle(Event::Wanted(WindowId(5)))), Some(vec![WindowId(6), WindowId(5)]));
    assert_eq!(stack(desk.handle(Event::Wanted(WindowId(5)))), None, "nothing changed");
}
