//! Notices: what programs tell, how long it stays, where, and what becomes of it.

use std::rc::Rc;
use std::time::Duration;

use jovrik_core::desk::StackingLayer;
use jovrik_core::desktop::{CloseReason, DesktopEvent, ExpireTimeout, Notification, Surface, markup};
use jovrik_core::rice::Urgency;
use jovrik_core::scene::Primitive;
use jovrik_values::{Icon, IconRef, Rect};

use crate::pretended::{Pretended, RICE};

pub fn telling(id: u32, urgency: Urgency) -> Notification {
    let title = format!("gauge {id}");
    // Each is told by another program, so that none is folded into another.
    Notification { id, app: format!("gauge{id}"), title, body: "The water falls.".to_owned(), urgency, ..Notification::default() }
}

impl Pretended {
    fn says(&mut self, telling: Notification) {
        self.tell(DesktopEvent::NotificationReceived(Box::new(telling)));
    }

    /// The numbers of what programs told and is seen, from the corner.
    fn notices(&self) -> Vec<String> {
        let seen = self.shown.iter().filter(|surface| surface.id.part == "notice");
        let mut seen: Vec<(i32, String)> = seen.map(|surface| (surface.area.y, surface.id.name.clone())).collect();
        seen.sort();
        seen.into_iter().map(|(_, name)| name.trim_start_matches("Bus(").trim_end_matches(')').to_owned()).collect()
    }

    fn notice(&self, id: u32) -> Rc<Surface> {
        let name = format!("Bus({id})");
        self.shown.iter().find(|surface| surface.id.name == name).cloned().expect("it is seen")
    }

    /// Presses at a place of a notice, from its corner.
    fn presses(&mut self, id: u32, button: u8, x: i32, y: i32) {
        let surface = self.notice(id);
        let at = (surface.area.x + x, surface.area.y + y);
        self.tell(DesktopEvent::Button(Some(surface.id.clone()), button, at.0, at.1));
    }

    /// What stands on one.
    fn texts(&self, id: u32) -> Vec<String> {
        let scene = self.notice(id).content.scene(self.desktop.desk().rice(), Rect::default());
        let text = |item: &Primitive| if let Primitive::Text { text, .. } = item { Some(text.clone()) } else { None };
        scene.items.iter().filter_map(text).collect()
    }
}

#[test]
fn what_programs_tell_stays_as_its_urgency_says_and_they_hear_why_it_went() {
    let mut it = Pretended::of(&format!("{RICE}[notices]\nmost = 2\nlast = {{ low = \"1s\", normal = \"4s\" }}\n"));
    it.says(telling(1, Urgency::Low));
    it.says(telling(2, Urgency::Normal));
    it.says(telling(3, Urgency::Urgent));
    assert_eq!(it.notices(), ["3", "2"], "two at once, the latest first; the others wait");
    it.wait(3_900);
    assert_eq!(it.notices(), ["3", "2"]);
    it.wait(200);
    assert_eq!(it.untold, [(2, CloseReason::Expired)]);
    assert_eq!(it.notices(), ["3", "1"], "now it has its time");
    it.wait(1_100);
    assert_eq!((it.notices(), it.untold.len()), (vec!["3".to_owned()], 2));
    it.wait(600_000);
    assert_eq!(it.notices(), ["3"], "what is urgent stays");
    // Told otherwise it is the same one; taken back it goes.
    it.says(Notification { lasts: ExpireTimeout::For(Duration::from_millis(500)), ..telling(3, Urgency::Urgent) });
    it.wait(600);
    assert_eq!(it.untold.last(), Some(&(3, CloseReason::Expired)));
    it.says(Notification { lasts: ExpireTimeout::Ever, ..telling(4, Urgency::Low) });
    it.tell(DesktopEvent::NotificationWithdrawn(4));
    assert_eq!((it.untold.last(), it.notices()), (Some(&(4, CloseReason::Closed)), Vec::new()));
    let before = it.untold.len();
    it.tell(DesktopEvent::NotificationWithdrawn(99));
    assert_eq!(it.untold.len(), before, "what is not there goes without a word");
    assert_eq!(it.desktop.tellings().map(|told| told.id).collect::<Vec<_>>(), [4, 3, 2, 1], "all are remembered");
}

#[test]
fn something_is_done_about_a_notice_by_a_press_and_it_waits_under_the_pointer() {
    let mut it = Pretended::of(RICE);
    let actions = [("default", "Open"), ("chart", "Open the chart"), ("later", "Later")];
    let actions = actions.map(|(key, label)| (key.to_owned(), label.to_owned())).to_vec();
    it.says(Notification { actions: actions.clone(), ..telling(1, Urgency::Normal) });
    let area = it.notice(1).area;
    // Under the pointer it does not go, and has all its time after that.
    let id = it.notice(1).id.clone();
    it.tell(DesktopEvent::PointerMoved(Some(id), area.x + 5, area.y + 5));
    it.wait(60_000);
    assert_eq!(it.notices(), ["1"]);
    it.tell(DesktopEvent::PointerMoved(None, 5, 700));
    it.wait(5_000);
    assert_eq!(it.notices(), ["1"]);
    // The first label, at the lower edge; beside it the notice itself.
    it.presses(1, 1, 24, area.h - 16);
    assert_eq!((it.chosen.clone(), it.untold.clone()), (vec![(1, "chart".to_owned())], vec![(1, CloseReason::Dismissed)]));
    it.says(Notification { actions: actions.clone(), resident: true, ..telling(2, Urgency::Normal) });
    it.presses(2, 1, 24, 14);
    assert_eq!(it.chosen.last(), Some(&(2, "default".to_owned())));
    assert_eq!(it.notices(), ["2"], "a resident one stays");
    // What went under the pointer holds nothing up.
    let id = it.notice(2).id.clone();
    it.tell(DesktopEvent::PointerMoved(Some(id), area.x + 5, area.y + 5));
    it.says(telling(20, Urgency::Low));
    it.tell(DesktopEvent::NotificationWithdrawn(20));
    it.says(telling(21, Urgency::Low));
    it.wait(3_100);
    assert_eq!(it.notices(), ["2"]);
    it.says(Notification { actions: actions.clone(), resident: true, ..telling(2, Urgency::Normal) });
    it.presses(2, 3, 24, 14);
    assert_eq!((it.notices().len(), it.chosen.len()), (0, 2), "another button takes it away");
    // By actions.
    (3..6).for_each(|id| it.says(telling(id, Urgency::Normal)));
    it.act("notices dismiss");
    assert_eq!(it.notices(), ["4", "3"]);
    it.says(telling(6, Urgency::Urgent));
    it.act("notices pause");
    assert_eq!(it.notices(), ["6"], "only what cannot wait");
    it.says(telling(7, Urgency::Normal));
    it.says(telling(8, Urgency::Urgent));
    assert_eq!(it.notices(), ["8", "6"]);
    it.act("notices dismiss-all");
    it.act("notices pause");
    it.says(telling(9, Urgency::Low));
    assert_eq!(it.notices(), ["9"]);
    assert_eq!(it.desktop.tellings().count(), 11);
}

#[test]
fn notices_begin_at_their_corner_and_lie_over_full_windows_as_is_wanted() {
    for (corner, left, top) in [("top-left", true, true), ("bottom-right", false, false), ("bottom-left", true, false)] {
        let more = format!("[notices]\ncorner = \"{corner}\"\nwidth = 300\nmargin = 10\nbetween = 6\nover-full = false\n");
        let mut it = Pretended::of(&format!("{RICE}{more}"));
        it.says(telling(1, Urgency::Normal));
        it.says(telling(2, Urgency::Normal));
        let (first, second) = (it.notice(2), it.notice(1));
        assert_eq!((first.area.x < 400, first.area.y < 300), (left, top), "{corner}");
        let gap =
            if top { second.area.y - (first.area.y + first.area.h) } else { first.area.y - (second.area.y + second.area.h) };
        assert_eq!((gap, first.area.w, first.level), (6, 300, StackingLayer::Bars));
    }
}

#[test]
fn rules_keep_change_and_prolong_what_programs_tell() {
    let mut it = Pretended::of(&format!(
        "{RICE}[notices]\ngroup = false\n[notices.rule.chatter]\napp = \"gull*\"\nurgency = \"low\"\nquiet = true\n\
         [notices.rule.water]\nwords = \"re:(?i)low water\"\nshown-as = \"urgent\"\n\
         [notices.rule.long]\napp = \"tidechart\"\nlast = \"60s\"\n"
    ));
    let told = |id, app: &str, title: &str, urgency| Notification {
        app: app.to_owned(),
        title: title.to_owned(),
        ..telling(id, urgency)
    };
    it.says(told(1, "gullmail", "a letter", Urgency::Low));
    it.says(told(2, "gullmail", "a letter", Urgency::Normal));
    it.says(told(3, "loghouse", "Low Water at nine", Urgency::Low));
    it.says(told(4, "tidechart", "spring tide", Urgency::Normal));
    assert_eq!(it.notices(), ["4", "3", "2"]);
    it.wait(20_000);
    assert_eq!(it.notices(), ["4", "3"], "what is urgent stays, and so does what is told to");
    it.wait(41_000);
    assert_eq!(it.notices(), ["3"]);
    let kept: Vec<u32> = it.desktop.tellings().map(|telling| telling.id).collect();
    assert_eq!(kept, [4, 3, 2, 1], "all of it is remembered");
}

#[test]
fn those_of_one_program_are_folded_into_one_but_urgent_ones_and_values() {
    let mut it = Pretended::of(&format!("{RICE}[notices]\nsort = \"urgent-first\"\nlast = {{ normal = \"never\" }}\n"));
    let of = |id, app: &str, urgency| Notification { app: app.to_owned(), ..telling(id, urgency) };
    for id in 1..4 {
        it.says(of(id, "gullmail", Urgency::Normal));
    }
    it.says(of(4, "gullmail", Urgency::Urgent));
    it.says(Notification { value: Some(10), ..of(5, "gullmail", Urgency::Normal) });
    it.says(of(6, "loghouse", Urgency::Normal));
    assert_eq!(it.notices(), ["4", "6", "5", "3"]);
    assert!(it.texts(3).contains(&"and 2 more".to_owned()), "{:?}", it.texts(3));
    it.presses(3, 3, 24, 14);
    assert_eq!(it.notices(), ["4", "6", "5", "2"]);
    assert!(it.texts(2).contains(&"and 1 more".to_owned()));
    it.act("notices dismiss-all");
    assert_eq!(it.notices().len(), 0);
    let mut it = Pretended::of(&format!("{RICE}[notices]\nsort = \"oldest-first\"\ngroup = false\n"));
    (1..4).for_each(|id| it.says(of(id, "gullmail", Urgency::Normal)));
    assert_eq!(it.notices(), ["1", "2", "3"]);
    it.is_fresh();
}

#[test]
fn a_pause_ends_by_time_and_a_quiet_window_lets_urgent_ones_through() {
    let mut it = Pretended::of(&format!(
        "{RICE}[bar.low]\nedge = \"bottom\"\nstart = [\"told\"]\n[module.told]\nsource = \"notices\"\ntext = \"{{count}} {{state}} {{title}}\"\n\
         [rule.still]\nmatch = {{ app = \"chart\" }}\nset = {{ quiet = true }}\n"
    ));
    let module = |it: &Pretended| {
        let bars = it.shown.iter().filter(|surface| surface.id.name == "low");
        bars.filter_map(|bar| bar.content::<jovrik_core::bar::BarLayout>().cloned()).find_map(|strip| {
            strip.modules.iter().find(|shown| shown.name == "told").map(|shown| match &shown.what {
                jovrik_core::bar::ModuleContent::Text { text, .. } => text.clone(),
                other => format!("{other:?}"),
            })
        })
    };
    assert_eq!(module(&it), None, "nothing waits");
    it.act("notices pause 10m");
    it.says(telling(1, Urgency::Normal));
    it.says(telling(2, Urgency::Urgent));
    assert_eq!(it.notices(), ["2"]);
    assert_eq!(module(&it).as_deref(), Some("2 paused gauge 2"));
    it.wait(599_000);
    assert!(it.desktop.quiet());
    it.wait(1_000);
    assert!(!it.desktop.quiet());
    it.says(telling(3, Urgency::Normal));
    assert_eq!(module(&it).as_deref(), Some("3 shown gauge 3"));
    it.act("notices dismiss-all");
    assert_eq!(module(&it), None);
    it.open(1, "chart");
    it.says(telling(4, Urgency::Normal));
    it.says(telling(5, Urgency::Urgent));
    assert_eq!(it.notices(), ["5"]);
    it.act("go two");
    it.says(telling(6, Urgency::Normal));
    assert_eq!(it.notices(), ["6", "5"], "that window is not seen any more");
    // What was kept back can be told again from its list.
    it.act("notices dismiss-all");
    it.act("launcher notices");
    it.strike("Down");
    it.strike("Down");
    it.strike("Return");
    assert_eq!(it.notices(), ["4"]);
    it.is_fresh();
}

#[test]
fn what_a_body_says_is_set_as_it_says_and_a_link_is_opened_by_the_program_for_that() {
    let mut it = Pretended::of(&RICE.replace("[program]\n", "[program]\nlinks = { run = [\"reader\", \"--\"] }\n"));
    let body =
        "bring the <b>boat</b> to <a href=\"https://station.example/4\">gate 4</a>, not <a href=\"file:///etc/passwd\">there</a>";
    let pieces = markup(body);
    let picture = Some(IconRef::Drawn(Icon::Tide));
    it.says(Notification { pieces, picture, ..telling(1, Urgency::Normal) });
    let surface = it.notice(1);
    let scene = surface.content.scene(it.desktop.desk().rice(), Rect::default());
    let texts: Vec<(String, bool, bool, Rect)> = scene
        .items
        .iter()
        .filter_map(|item| match item {
            Primitive::Text { x, y, text, face, .. } => {
                let at = Rect::new(x - surface.area.x as f32, y - surface.area.y as f32, 0.0, 0.0);
                Some((text.clone(), face.bold, face.underline, at))
            }
            _ => None,
        })
        .collect();
    let of = |text: &str| texts.iter().find(|(own, ..)| own == text).unwrap_or_else(|| panic!("{text} in {texts:?}"));
    assert!(of("boat").1 && !of("boat").2 && of("gate 4").2 && !of("gate 4").1);
    let (.., at) = of("gate 4");
    it.presses(1, 1, at.x as i32 + 5, at.y as i32);
    assert_eq!(it.started, ["reader -- https://station.example/4"]);
    let (.., at) = of("there");
    it.presses(1, 1, at.x as i32 + 5, at.y as i32);
    assert_eq!((it.started.len(), it.notices().len()), (1, 1), "that leads nowhere a stranger may lead");
}
