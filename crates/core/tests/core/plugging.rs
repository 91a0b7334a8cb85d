//! Monitors that come, go, move and lie over each other, in any order: no window, no workspace and no focus is lost, and
//! what was somewhere is there again when its monitor is.

use std::collections::BTreeSet;

use jovrik_core::desk::{MonitorFacts, WindowFacts, WindowId, WindowManager, WmEvent};
use jovrik_values::PixelRect;
use jovrik_values::action::Action;
use proptest::prelude::*;

use crate::checked;

const RICE: &str = "[workspaces]\norder = [\"one\", \"two\", \"three\", \"four\"]\n[bar.top]\nthick = 30\n[rule.odd]\nmatch = { app = \"odd\" }\nset = { float = true }\n";

/// Outputs that may be plugged in: each always as large, and where it lies.
const OUTPUTS: [(&str, i32, i32, i32, i32); 4] =
    [("DP-1", 0, 0, 1920, 1080), ("DP-2", 1920, 0, 1280, 1024), ("HDMI-1", -1366, 0, 1366, 768), ("VGA-1", 0, 1080, 1024, 768)];

fn facts(nth: usize) -> MonitorFacts {
    let (name, x, y, w, h) = OUTPUTS[nth];
    MonitorFacts { primary: nth == 0, ..MonitorFacts::new(name, PixelRect::new(x, y, w, h)) }
}

fn desk(lit: &[usize]) -> WindowManager {
    let rice = checked(RICE);
    assert_eq!(rice.errors(), 0, "{:?}", crate::found(&rice));
    WindowManager::new(rice.rice, lit.iter().map(|nth| facts(*nth)).collect())
}

fn plug(desk: &mut WindowManager, lit: &BTreeSet<usize>) {
    desk.handle(WmEvent::Monitors(lit.iter().map(|nth| facts(*nth)).collect()));
}

fn act(desk: &mut WindowManager, action: &str) {
    desk.handle(WmEvent::ActionInvoked(Action::parse(action).expect("an action")));
}

/// What must hold whatever happened.
fn holds(desk: &WindowManager, windows: &BTreeSet<u32>) -> Result<(), TestCaseError> {
    let names: Vec<&str> = desk.monitors.iter().map(|monitor| monitor.facts.name.as_str()).collect();
    let own: BTreeSet<u32> = desk.windows.keys().map(|id| id.0).collect();
    prop_assert_eq!(&own, windows, "no window is lost");
    let mut seen = BTreeSet::new();
    for (at, workspace) in desk.workspaces.iter().enumerate() {
        for id in &workspace.windows {
            prop_assert!(seen.insert(id.0), "{:?} is on one workspace", id);
            prop_assert_eq!(desk.windows[id].workspace, at);
        }
        prop_assert!(workspace.monitor < desk.monitors.len(), "{} is on a monitor: {names:?}", workspace.name);
        prop_assert!(!workspace.own || !workspace.name.is_empty());
    }
    seen.extend(desk.windows.iter().filter(|(_, window)| window.minimized).map(|(id, _)| id.0));
    prop_assert_eq!(&seen, windows, "each is on a workspace, or out of sight");
    let shown: BTreeSet<usize> = desk.monitors.iter().map(|monitor| monitor.workspace).collect();
    prop_assert_eq!(shown.len(), desk.monitors.len(), "each monitor shows one of its own");
    for (at, monitor) in desk.monitors.iter().enumerate() {
        prop_assert_eq!(desk.workspaces[monitor.workspace].monitor, at, "{} shows what is its own", &monitor.facts.name);
    }
    let here = &desk.workspaces[desk.workspace()];
    let focusable = here.windows.iter().any(|id| desk.windows[id].focusable && !desk.windows[id].minimized);
    prop_assert_eq!(desk.focused().is_some(), focusable, "who is on {} has the focus", &here.name);
    for placed in desk.arrangement().placed.values() {
        let on = desk.monitors.iter().any(|monitor| monitor.facts.area == placed.clip);
        prop_assert!(on && placed.outer.overlap(placed.clip).is_some(), "what is seen lies on its monitor: {placed:?}");
    }
    Ok(())
}

#[derive(Debug, Clone)]
enum Deed {
    Plug(usize),
    Opens(u32, bool),
    Closes(u32),
    Acts(&'static str),
    Wants(u32),
}

fn deed() -> impl Strategy<Value = Deed> {
    let acts = prop::sample::select(vec![
        "go one",
        "go two",
        "go three",
        "go four",
        "go next",
        "go back",
        "carry two",
        "send four",
        "focus next",
        "focus left",
        "move right",
        "move left",
        "focus monitor next",
        "carry monitor next",
        "send monitor prev",
        "float toggle",
        "full toggle",
        "tuck",
        "untuck",
        "peg toggle",
        "layout next",
    ]);
    prop_oneof![
        4 => (0..OUTPUTS.len()).prop_map(Deed::Plug),
        3 => (1..12u32, any::<bool>()).prop_map(|(id, odd)| Deed::Opens(id, odd)),
        1 => (1..12u32).prop_map(Deed::Closes),
        4 => acts.prop_map(Deed::Acts),
        1 => (1..12u32).prop_map(Deed::Wants),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 150, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn whatever_is_plugged_nothing_is_lost(deeds in prop::collection::vec(deed(), 1..60)) {
        let mut desk = desk(&[0]);
        let (mut lit, mut windows): (BTreeSet<usize>, BTreeSet<u32>) = ([0].into(), BTreeSet::new());
        for deed in deeds {
            match deed {
                Deed::Plug(nth) => {
                    if !lit.remove(&nth) {
                        lit.insert(nth);
                    }
                    if lit.is_empty() {
                        lit.insert(nth);
                    }
                    plug(&mut desk, &lit);
                }
                Deed::Opens(id, odd) => {
                    if windows.insert(id) {
                        let app = if odd { "odd" } else { "tide" };
                        let facts = WindowFacts { app_id: app.to_owned(), size: (300, 200), ..WindowFacts::default() };
                        desk.handle(WmEvent::Mapped(WindowId(id), facts));
                    }
                }
                Deed::Closes(id) => {
                    windows.remove(&id);
                    desk.handle(WmEvent::Unmapped(WindowId(id)));
                }
                Deed::Acts(action) => act(&mut desk, action),
                Deed::Wants(id) => drop(desk.handle(WmEvent::ActivationRequested(WindowId(id)))),
            }
            holds(&desk, &windows)?;
        }
    }

    #[test]
    fn what_goes_away_and_comes_back_is_where_it_was(away in 0..3usize, other in 0..3usize, count in 1..6u32) {
        let all: BTreeSet<usize> = [0, 1, 2].into();
        let mut desk = desk(&[0, 1, 2]);
        for id in 1..=count {
            act(&mut desk, "focus monitor next");
            desk.handle(WmEvent::Mapped(WindowId(id), WindowFacts { app_id: "tide".to_owned(), ..WindowFacts::default() }));
        }
        let on = |desk: &WindowManager| -> Vec<(String, Vec<WindowId>, String)> {
            desk.workspaces
                .iter()
                .filter(|workspace| !workspace.own)
                .map(|workspace| {
                    let monitor = desk.monitors[workspace.monitor].facts.name.clone();
                    (workspace.name.clone(), workspace.windows.clone(), monitor)
                })
                .collect()
        };
        let shows = |desk: &WindowManager| -> Vec<String> {
            desk.monitors.iter().map(|monitor| desk.workspaces[monitor.workspace].name.clone()).collect()
        };
        let before = (on(&desk), shows(&desk));
        for gone in [away, other] {
            let mut left = all.clone();
            left.remove(&gone);
            plug(&mut desk, &left);
            plug(&mut desk, &all);
        }
        prop_assert_eq!((on(&desk), shows(&desk)), before);
    }
}

#[test]
fn a_mirror_is_no_monitor_of_its_own() {
    let mut desk = desk(&[0]);
    desk.handle(WmEvent::Mapped(WindowId(1), WindowFacts::default()));
    let mirror = MonitorFacts::new("HDMI-1", facts(0).area);
    desk.handle(WmEvent::Monitors(vec![facts(0), mirror]));
    assert_eq!(desk.monitors.len(), 1, "both show the same");
    assert_eq!(desk.focused(), Some(WindowId(1)));
    // Beside each other they are two.
    desk.handle(WmEvent::Monitors(vec![facts(0), facts(2)]));
    assert_eq!(desk.monitors.len(), 2);
}

#[test]
fn what_floats_stays_within_reach_on_the_monitor_that_is_left() {
    let mut desk = desk(&[0, 1]);
    act(&mut desk, "focus monitor next");
    let far = WindowFacts { app_id: "odd".to_owned(), size: (500, 400), at: Some((2600, 500)), ..WindowFacts::default() };
    desk.handle(WmEvent::Mapped(WindowId(1), far));
    let area = |desk: &WindowManager| desk.arrangement().placed.get(&WindowId(1)).map(|placed| placed.outer);
    let before = area(&desk).expect("it is seen");
    plug(&mut desk, &[0].into());
    let workspace = desk.workspaces[desk.windows[&WindowId(1)].workspace].name.clone();
    act(&mut desk, &format!("go {workspace}"));
    let now = area(&desk).expect("it is seen there");
    assert_eq!(now.overlap(facts(0).area), Some(now), "all of it lies on the one that is left");
    plug(&mut desk, &[0, 1].into());
    act(&mut desk, &format!("go {workspace}"));
    assert_eq!(area(&desk), Some(before), "and back where it was");
}
