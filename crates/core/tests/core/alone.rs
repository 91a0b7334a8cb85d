//! Parts that run by themselves beside another manager: they show what is theirs, bind what is theirs, and touch no window.

use std::time::Duration;

use jovrik_core::desk::{self, MonitorFacts, WindowFacts, WindowId};
use jovrik_core::desktop::{Desktop, DesktopEffect, DesktopEvent, MonotonicTime, StandaloneComponent, only};
use jovrik_core::keys::{BindingTarget, KeyboardLayouts};
use jovrik_core::stage::{FixedWidthMeasure, Headless};
use jovrik_values::PixelRect;
use jovrik_values::action::Action;

use crate::checked;
use crate::pretended::{RICE, press};

/// The same with keys for the parts that have some.
const MORE: &str = "\"Lead+m\" = \"launcher\"\n\"Lead+n\" = \"notices dismiss\"\n\"Lead+b\" = \"bar toggle top\"\n\"Lead+f\" = \"fold more\"\n\
\"Lead+a\" = [\"launcher\", \"go two\"]\n\"Lead+l\" = \"launcher apps\"\n";

struct Beside {
    desktop: Desktop,
    stage: Headless,
}

impl Beside {
    fn of(alone: &[StandaloneComponent]) -> Beside {
        let (head, modes) = RICE.split_once("[keys.desk.modes.sizing]").expect("modes");
        let mut rice = checked(&format!("{head}{MORE}[keys.desk.modes.sizing]{modes}"));
        assert_eq!(rice.errors(), 0, "{:?}", crate::found(&rice));
        only(&mut rice, alone);
        let monitors = vec![MonitorFacts::new("A", PixelRect::new(0, 0, 1000, 800))];
        let mut it = Beside {
            desktop: Desktop::beside(rice.rice.clone(), rice.scopes.clone(), monitors, alone),
            stage: Headless::default(),
        };
        it.tell(DesktopEvent::Keyboards(KeyboardLayouts::new(Vec::new(), false), 0));
        it
    }

    fn tell(&mut self, event: DesktopEvent) {
        self.stage.tell(&mut self.desktop, event, Duration::ZERO);
    }

    fn shows(&self) -> Vec<&str> {
        let mut parts: Vec<&str> = self.stage.shown.iter().map(|surface| surface.id.part).collect();
        parts.sort_unstable();
        parts.dedup();
        parts
    }

    /// The actions that keys do.
    fn bound(&self) -> Vec<String> {
        let acts = self.desktop.hands().scopes().bound.iter().filter_map(|bound| match &bound.what {
            BindingTarget::Act(action) => Some(action.to_string()),
            _ => None,
        });
        let mut acts: Vec<String> = acts.collect();
        acts.sort();
        acts
    }
}

#[test]
fn each_part_shows_and_binds_what_is_its_own() {
    for (alone, shows, binds) in [
        (vec![StandaloneComponent::Bar], vec!["bar"], vec!["bar toggle top", "fold more"]),
        (vec![StandaloneComponent::Launcher], vec![], vec!["launcher", "launcher apps"]),
        (vec![StandaloneComponent::Notices], vec![], vec!["notices dismiss"]),
        (vec![StandaloneComponent::Widgets], vec!["widget"], vec![]),
        (vec![StandaloneComponent::Dock], vec!["dock"], vec![]),
        (vec![StandaloneComponent::Dock, StandaloneComponent::Bar], vec!["bar", "dock"], vec!["bar toggle top", "fold more"]),
    ] {
        let it = Beside::of(&alone);
        assert_eq!((it.shows(), it.bound()), (shows, binds.into_iter().map(str::to_owned).collect()), "{alone:?}");
    }
    let all: Vec<StandaloneComponent> = StandaloneComponent::ALL.iter().map(|(_, alone)| *alone).collect();
    let it = Beside::of(&all);
    assert_eq!(it.shows(), ["bar", "dock", "widget"], "and neither a backdrop nor tabs");
    assert_eq!(it.bound().len(), 5, "{:?}", it.bound());
}

#[test]
fn the_launcher_opens_by_its_key_and_by_word_and_closes() {
    let mut it = Beside::of(&[StandaloneComponent::Launcher]);
    it.tell(DesktopEvent::KeyPressed(press("Super+m")));
    it.tell(DesktopEvent::KeyReleased(press("Super+m").key));
    assert_eq!(it.shows(), ["launcher"]);
    it.tell(DesktopEvent::KeyPressed(press("Escape")));
    assert_eq!(it.shows(), Vec::<&str>::new());
    it.tell(DesktopEvent::Act(Action::parse("launcher").expect("an action")));
    assert_eq!(it.shows(), ["launcher"]);
}

#[test]
fn what_is_refused_elsewhere_is_no_notice_of_a_bar() {
    let refused = || DesktopEvent::Refused("parts/a.toml:1:1: no".to_owned());
    let mut bar = Beside::of(&[StandaloneComponent::Bar]);
    bar.tell(refused());
    assert_eq!(bar.shows(), ["bar"]);
    let mut notices = Beside::of(&[StandaloneComponent::Notices]);
    notices.tell(refused());
    assert_eq!(notices.shows(), ["notice"]);
}

#[test]
fn bars_toggle_and_groups_fold_as_on_a_desk_of_ones_own() {
    let mut it = Beside::of(&[StandaloneComponent::Bar]);
    it.tell(DesktopEvent::Act(Action::parse("bar toggle top").expect("an action")));
    assert_eq!(it.shows(), Vec::<&str>::new());
    it.tell(DesktopEvent::Act(Action::parse("bar toggle top").expect("an action")));
    assert_eq!(it.shows(), ["bar"]);
    let before = it.stage.drawn;
    it.tell(DesktopEvent::Act(Action::parse("fold more").expect("an action")));
    assert!(it.stage.drawn > before, "what it hides is seen");
}

#[test]
fn nothing_starts_by_itself_and_no_key_that_is_not_its_own_is_asked_for() {
    for (_, alone) in StandaloneComponent::ALL {
        let it = Beside::of(&[alone]);
        assert_eq!(it.stage.started, Vec::<String>::new(), "{alone:?}");
        assert_eq!(it.desktop.desk().rice().start.len(), 0);
        let (drag, size) = (it.desktop.desk().rice().pointer.r#move.clone(), it.desktop.desk().rice().pointer.resize.clone());
        assert_eq!((drag, size), Default::default(), "{alone:?} drags nothing");
        let grabbed = it.stage.grabs.contains(&press("Super+Return"));
        assert!(!grabbed, "{alone:?}");
    }
}

#[test]
fn whatever_windows_do_a_guest_of_one_part_goes_on() {
    for (_, alone) in StandaloneComponent::ALL {
        let mut it = Beside::of(&[alone]);
        for id in 1..5 {
            let facts = WindowFacts { app_id: "xterm".to_owned(), ..WindowFacts::default() };
            it.tell(DesktopEvent::Wm(desk::WmEvent::Mapped(WindowId(id), facts)));
        }
        it.tell(DesktopEvent::Wm(desk::WmEvent::Unmapped(WindowId(2))));
        let monitors = vec![MonitorFacts::new("B", PixelRect::new(0, 0, 640, 480))];
        it.tell(DesktopEvent::Wm(desk::WmEvent::Monitors(monitors)));
        let on = it.stage.shown.iter().all(|surface| surface.id.monitor == "B");
        assert!(on, "{alone:?}: {:?}", it.shows());
        let effects = it.desktop.handle(DesktopEvent::Tick, MonotonicTime(Duration::from_secs(5)), &mut FixedWidthMeasure(10.0));
        assert!(!effects.iter().any(|effect| matches!(effect, DesktopEffect::Quit)));
    }
}
