//! Window rules: for which windows they are, what comes of each thing that they set, and which of them do nothing.

use jovrik_core::desk::{MonitorFacts, Subject, WindowFacts, WindowId, WindowManager, WmEvent, judge, rules_in_order};
use jovrik_core::rice::WindowKind;
use jovrik_values::PixelRect;
use jovrik_values::action::Action;
use proptest::prelude::*;

use crate::{checked, found};

const BASE: &str =
    "[workspaces]\norder = [\"one\", \"two\"]\n[space]\nbetween = 10\nedge = 10\nalone = 10\n[program]\nletters = \"gullmail\"\n";

fn desk(rules: &str) -> WindowManager {
    let checked = checked(&format!("{BASE}{rules}"));
    assert_eq!(checked.errors(), 0, "{:?}", found(&checked));
    let monitors =
        vec![MonitorFacts::new("A", PixelRect::new(0, 0, 1000, 800)), MonitorFacts::new("B", PixelRect::new(1000, 0, 1000, 800))];
    WindowManager::new(checked.rice, monitors)
}

fn opens(desk: &mut WindowManager, id: u32, facts: WindowFacts) {
    desk.handle(WmEvent::Mapped(WindowId(id), facts));
}

fn named(app: &str) -> WindowFacts {
    WindowFacts { app_id: app.to_owned(), title: format!("{app} window"), size: (300, 200), ..WindowFacts::default() }
}

/// A desk with one window for which there is one rule.
fn ruled(set: &str) -> WindowManager {
    let mut desk = desk(&format!("[rule.own]\nmatch = {{ app = \"tide\" }}\nset = {{ {set} }}\n"));
    opens(&mut desk, 1, named("tide"));
    desk
}

#[test]
fn each_thing_that_a_rule_sets_is_so_from_the_beginning() {
    let window = |set: &str| ruled(set).windows[&WindowId(1)].clone();
    assert_eq!(ruled("workspace = \"two\"").workspaces[window("workspace = \"two\"").workspace].name, "two");
    assert!(window("float = true").floating && !window("float = false").floating);
    assert!(window("full = true").fullscreen && window("tucked = true").minimized && window("pegged = true").sticky);
    assert!(!window("frame = false").decorated && window("quiet = true").quiet);
    assert_eq!(window("opacity = \"40%\"").opacity, 40);
    let monitor = ruled("monitor = \"B\"");
    let at = monitor.windows[&WindowId(1)].workspace;
    assert_eq!(monitor.monitors[monitor.workspaces[at].monitor].facts.name, "B");
    let place = |set: &str| ruled(set).arrangement().placed.get(&WindowId(1)).map(|placed| placed.area);
    let half = place("float = true, size = [\"50%\", 300]").expect("it is seen");
    assert_eq!((half.w, half.h), (500, 300));
    let middle = place("float = true, size = [400, 200], at = \"centre\"").expect("it is seen");
    assert_eq!(middle.centre2(), (1000, 800));
    let there = ruled("float = true, frame = false, size = [400, 200], at = \"40,80\"");
    assert_eq!(there.arrangement().placed[&WindowId(1)].area, PixelRect::new(40, 80, 400, 200));
    // Who may not have the focus when it appears leaves it where it is.
    let mut quiet = desk("[rule.own]\nmatch = { app = \"tide\" }\nset = { focus = false }\n");
    opens(&mut quiet, 1, named("log"));
    opens(&mut quiet, 2, named("tide"));
    assert_eq!(quiet.focused(), Some(WindowId(1)));
    quiet.handle(WmEvent::ActionInvoked(Action::parse("focus next").expect("an action")));
    assert_eq!(quiet.focused(), Some(WindowId(2)), "and can have it later");
}

#[test]
fn a_rule_is_for_windows_of_which_all_holds_that_it_says() {
    let rules = "[rule.own]\nmatch = { MATCH }\nset = { float = true }\n";
    let whole = WindowFacts {
        app_id: "gullmail".to_owned(),
        instance: "mailer".to_owned(),
        role: "compose".to_owned(),
        title: "Compose: to the lock".to_owned(),
        window_type: WindowKind::Dialog,
        transient_for: Some(WindowId(9)),
        ..WindowFacts::default()
    };
    let misses = |wanted: &str| -> Vec<&'static str> {
        let rice = checked(&format!("{BASE}{}", rules.replace("MATCH", wanted))).rice;
        judge(&rice, &Subject { facts: &whole, workspace: "one", monitor: "A" })[0].misses.clone()
    };
    for holds in [
        "app = \"gullmail\"",
        "app = \"gull*\"",
        "app = \"re:^g.*l$\"",
        "instance = \"mailer\"",
        "role = \"comp*\"",
        "title = \"Compose*\"",
        "title = \"re:lock\"",
        "program = \"letters\"",
        "workspace = \"one\"",
        "monitor = \"A\"",
        "kind = \"dialog\"",
        "transient = true",
        "app = \"gull*\", title = \"*lock\", kind = \"dialog\"",
    ] {
        assert_eq!(misses(holds), Vec::<&str>::new(), "{holds}");
    }
    for (misses_it, what) in [
        ("app = \"mail\"", "app"),
        ("app = \"re:^mail\"", "app"),
        ("instance = \"gullmail\"", "instance"),
        ("role = \"main\"", "role"),
        ("title = \"lock\"", "title"),
        ("program = \"terminal\"", "program"),
        ("workspace = \"two\"", "workspace"),
        ("monitor = \"B\"", "monitor"),
        ("kind = \"normal\"", "kind"),
        ("transient = false", "transient"),
        ("app = \"gull*\", title = \"lock\"", "title"),
    ] {
        assert_eq!(misses(misses_it), [what], "{misses_it}");
    }
}

#[test]
fn rules_are_asked_in_order_until_one_stops_and_titles_may_be_asked_again() {
    let rules = "[rule.late]\norder = 5\nmatch = { app = \"tide\" }\nset = { opacity = \"50%\" }\n\
        [rule.early]\norder = -5\nmatch = { app = \"tide\" }\nset = { opacity = \"90%\", float = true }\n\
        [rule.middle]\nmatch = { title = \"*done\" }\nset = { pegged = true }\nagain = true\n\
        [rule.last]\norder = 9\nmatch = { app = \"log\" }\nset = { frame = false }\nstop = true\n\
        [rule.never]\norder = 10\nmatch = { app = \"log\" }\nset = { float = true }\n";
    let rice = checked(&format!("{BASE}{rules}")).rice;
    let order: Vec<&str> = rules_in_order(&rice).into_iter().map(|(name, _)| name.as_str()).collect();
    assert_eq!(order, ["early", "middle", "late", "last", "never"]);
    let mut desk = desk(rules);
    opens(&mut desk, 1, named("tide"));
    let one = &desk.windows[&WindowId(1)];
    assert_eq!((one.opacity, one.floating, one.sticky), (50, true, false), "the later one wins, the rest stays");
    desk.handle(WmEvent::TitleChanged(WindowId(1), "all done".to_owned()));
    assert!(desk.windows[&WindowId(1)].sticky, "asked again for its new title");
    opens(&mut desk, 2, named("log"));
    let two = &desk.windows[&WindowId(2)];
    assert_eq!((two.decorated, two.floating), (false, false), "nobody is asked after the one that stops");
    let judged = judge(&rice, &Subject { facts: &two.facts, workspace: "one", monitor: "A" });
    let never = judged.iter().find(|one| one.rule == "never").expect("it is told of");
    assert_eq!((never.stopped.as_deref(), never.holds()), (Some("last"), false));
    assert_eq!(
        judged.iter().find(|one| one.rule == "last").map(|one| one.sets.clone()),
        Some(vec![("frame", "false".to_owned())])
    );
}

#[test]
fn a_person_s_wish_is_not_undone_by_a_rule_that_is_asked_again() {
    let mut desk = desk("[rule.own]\nmatch = { title = \"*window\" }\nset = { float = true }\nagain = true\n");
    opens(&mut desk, 1, named("tide"));
    assert!(desk.windows[&WindowId(1)].floating);
    desk.handle(WmEvent::ActionInvoked(Action::parse("float off").expect("an action")));
    desk.handle(WmEvent::TitleChanged(WindowId(1), "tide window".to_owned()));
    assert!(!desk.windows[&WindowId(1)].floating, "the same title is nothing new");
}

#[test]
fn rules_that_do_nothing_contradict_or_are_never_asked_are_told() {
    let told = |rules: &str| -> Vec<(&'static str, String)> {
        checked(&format!("{BASE}{rules}")).problems.into_iter().map(|problem| (problem.code, problem.title)).collect()
    };
    let rule = |name: &str, wanted: &str, set: &str| format!("[rule.{name}]\nmatch = {{ {wanted} }}\nset = {{ {set} }}\n");
    assert_eq!(told(&rule("a", "app = \"tide\"", "float = true")), []);
    assert_eq!(told(&rule("a", "app = \"tide\"", "")), [("rule/never", "rule.a sets nothing".to_owned())]);
    let nowhere = told(&rule("a", "workspace = \"three\"", "float = true"));
    assert_eq!(nowhere, [("rule/never", "rule.a is for no window: no workspace is called three".to_owned())]);
    assert_eq!(told(&rule("a", "program = \"lettres\"", "float = true"))[0].0, "rule/never");
    assert_eq!(told(&rule("a", "app = \"tide\"", "workspace = \"three\""))[0].0, "rule/no-workspace");
    let both = format!("{}{}", rule("a", "app = \"tide\"", "float = true"), rule("b", "app = \"tide\"", "float = true"));
    assert_eq!(told(&both), [("rule/same", "rule.b says what rule.a says".to_owned())]);
    let stopped =
        format!("[rule.a]\nmatch = {{}}\nset = {{ float = true }}\nstop = true\n{}", rule("b", "app = \"tide\"", "full = true"));
    assert_eq!(told(&stopped), [("rule/unreachable", "rule.b is never asked".to_owned())]);
    for (set, first, second) in [
        ("tucked = true, focus = true", "tucked", "focus"),
        ("float = false, size = [400, 300]", "float", "size"),
        ("float = false, at = \"centre\"", "float", "at"),
    ] {
        let all = told(&rule("a", "app = \"tide\"", set));
        assert!(all.contains(&("rule/contradicts", format!("{first} and {second} contradict each other"))), "{set}: {all:?}");
    }
}

#[test]
fn among_very_many_names_the_nearest_is_found() {
    let names: Vec<String> = (0..400).map(|nth| format!("station-{nth}")).collect();
    let list: Vec<String> = names.iter().map(|name| format!("\"{name}\"")).collect();
    let told = |name: &str| {
        let part = format!("[workspaces]\norder = [{}]\n[keys.desk]\n\"Lead+x\" = \"go {name}\"\n", list.join(", "));
        let checked = checked(&part);
        assert_eq!(checked.problems.len(), 1, "{name}: {:?}", found(&checked));
        let problem = checked.problems.into_iter().next().expect("one");
        (problem.marks[0].note.clone(), problem.fix.map(|fix| fix.edits[0].text.clone()))
    };
    assert_eq!(told("sation-217"), ("did you mean station-217?".to_owned(), Some("\"go station-217\"".to_owned())));
    assert_eq!(told("Station-9"), ("did you mean station-9?".to_owned(), Some("\"go station-9\"".to_owned())));
    assert_eq!(told("harbour").0, "it is none of the 400 workspaces of this rice");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 120, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_rules_set_is_laid_one_over_another_and_told_as_it_is(sets in prop::collection::vec((0..4usize, any::<bool>(), -20..20i32), 1..8)) {
        let words = ["float", "pegged", "quiet", "frame"];
        let rules: String = sets
            .iter()
            .enumerate()
            .map(|(nth, (word, on, order))| {
                format!("[rule.r{nth}]\norder = {order}\nmatch = {{ app = \"tide\" }}\nset = {{ {} = {on} }}\n", words[*word])
            })
            .collect();
        let mut desk = desk(&rules);
        opens(&mut desk, 1, named("tide"));
        let window = &desk.windows[&WindowId(1)];
        for (at, word) in words.iter().enumerate() {
            // The last in order is the one that counts; of those with one order the one that stands last.
            let mut own: Vec<(i32, usize, bool)> =
                sets.iter().enumerate().filter(|(_, set)| set.0 == at).map(|(nth, set)| (set.2, nth, set.1)).collect();
            own.sort_unstable_by_key(|(order, nth, _)| (*order, *nth));
            let now = [window.floating, window.sticky, window.quiet, window.decorated][at];
            let wanted = own.last().map_or(*word == "frame", |(.., on)| *on);
            prop_assert_eq!(now, wanted, "{} by {:?}", word, own);
            let by = window.ruled.iter().find(|(set, _)| set == word).map(|(_, rule)| rule.clone());
            prop_assert_eq!(by, own.last().map(|(_, nth, _)| format!("r{nth}")));
        }
    }
}
