//! The launcher: what is found, what keys and presses do, and what comes of a choice.

use std::collections::HashMap;
use std::rc::Rc;

use jovrik_core::desk::WindowId;
use jovrik_core::desktop::{DesktopEffect, DesktopEvent};
use jovrik_core::keys::{Compositions, KeyboardLayout, KeyboardLayouts};
use jovrik_core::launcher::{EntryCommand, Finder, LauncherEntry, LauncherList};
use jovrik_core::part::ChoicePrompt;
use jovrik_core::scene::{Primitive, default_apps};
use jovrik_values::Rect;
use jovrik_values::action::Action;
use jovrik_values::chord::ChordSequence;
use kbvm::xkb::Context;
use kbvm::xkb::diagnostic::{Diagnostic, DiagnosticKind};
use proptest::prelude::*;

use crate::pretended::Pretended;
use crate::{checked, found};

const RICE: &str = "[launcher]\nlists = [\"apps\", \"windows\", \"power\"]\nrows = 4\n\
[launcher.own.power]\n\"End it\" = { do = \"quit\", icon = \"gear\" }\n\"Charts\" = { do = \"go two\", note = \"there\" }\n\
[workspaces]\norder = [\"one\", \"two\"]\n[program]\nlog = \"loghouse\"\n\
[keys.desk]\n\"Lead+d\" = \"launcher\"\n\"Lead+o\" = \"open log\"\n\"Lead+w\" = \"launcher windows\"\n\
[keys.launcher]\n\"Ctrl+n\" = \"down\"\n\"Tab\" = \"none\"\n\"Ctrl+Tab\" = \"next-list\"\n";

fn entries(names: &[&str]) -> Rc<LauncherList> {
    let one = |name: &&str| LauncherEntry::new(format!("apps/{name}"), *name, EntryCommand::App((*name).to_owned(), None));
    Rc::new(LauncherList::new(names.iter().map(one).collect()))
}

/// What is found, the best first.
fn search(names: &[&str], typed: &str) -> Vec<String> {
    let mut finder = Finder::new(entries(names), &HashMap::new());
    finder.find(typed);
    let found: Vec<usize> = (0..finder.count()).filter_map(|nth| finder.nth(nth)).collect();
    found.into_iter().map(|at| finder.entries().all[at].name.clone()).collect()
}

#[test]
fn letters_are_found_in_their_order_without_case_or_accents_and_whole_words_come_first() {
    let names = ["Sluice gates", "Gauge log", "Keyboard and language", "Pêche à pied", "Marsh", "Gale"];
    let cases: [(&str, &[&str]); 7] = [
        ("gau", &["Gauge log", "Keyboard and language"]),
        ("GAU", &["Gauge log", "Keyboard and language"]),
        ("peche", &["Pêche à pied"]),
        ("pied pec", &["Pêche à pied"]),
        ("zzz", &[]),
        ("gale", &["Gale", "Sluice gates"]),
        ("  ", &names),
    ];
    for (typed, wanted) in cases {
        let mut found = search(&names, typed);
        // Which of two comes first is judged where it is said.
        if typed == "gau" || typed == "GAU" || typed == "gale" {
            found.truncate(1);
            assert_eq!(found, wanted[..1], "{typed}");
        } else {
            assert_eq!(found, wanted, "{typed}");
        }
    }
}

#[test]
fn what_is_used_more_comes_first_and_other_words_are_found_after_names() {
    let all = vec![
        LauncherEntry { words: "mail letters".to_owned(), ..LauncherEntry::new("a", "Gullmail", EntryCommand::Line(0)) },
        LauncherEntry::new("b", "Letterhead", EntryCommand::Line(1)),
        LauncherEntry::new("c", "Lettering", EntryCommand::Line(2)),
    ];
    let entries = Rc::new(LauncherList::new(all));
    let order = |uses: &[(&str, f32)], typed: &str| {
        let uses = uses.iter().map(|(id, used)| ((*id).to_owned(), *used)).collect();
        let mut finder = Finder::new(entries.clone(), &uses);
        finder.find(typed);
        (0..finder.count()).filter_map(|nth| finder.nth(nth)).map(|at| entries.all[at].id.clone()).collect::<String>()
    };
    assert_eq!(order(&[], "letter"), "cba");
    assert_eq!(order(&[("b", 3.0)], "letter"), "bca");
    assert_eq!(order(&[], ""), "abc", "its own order");
    assert_eq!(order(&[("c", 1.0), ("b", 9.0)], ""), "bca");
    assert_eq!(order(&[], "letter"), order(&[("nobody", 9.0)], "letter"));
}

proptest! {
    /// Typing letter by letter finds what typing all at once does, whatever the letters; places of letters are in the name.
    #[test]
    fn what_is_found_does_not_depend_on_how_it_was_typed(
        names in proptest::collection::vec("[a-cA-C éà\u{1F30A}]{0,8}", 0..40), typed in "[a-c é]{0,5}",
    ) {
        let names: Vec<&str> = names.iter().map(String::as_str).collect();
        let whole = search(&names, &typed);
        let mut finder = Finder::new(entries(&names), &HashMap::new());
        let mut so_far = String::new();
        for letter in typed.chars() {
            so_far.push(letter);
            finder.find(&so_far);
        }
        let found: Vec<usize> = (0..finder.count()).filter_map(|nth| finder.nth(nth)).collect();
        let called: Vec<String> = found.iter().map(|at| finder.entries().all[*at].name.clone()).collect();
        prop_assert_eq!(&called, &whole);
        for at in found {
            let long = finder.entries().all[at].name.chars().count();
            prop_assert!(finder.letters(at).iter().all(|letter| *letter < long));
        }
    }
}

impl Pretended {
    fn types(&mut self, text: &str) {
        for letter in text.chars() {
            self.strike(&letter.to_string().replace(' ', "space"));
        }
    }

    /// The names of the rows that are seen; the picked one with a mark before it.
    fn rows(&self) -> Vec<String> {
        let Some(surface) = self.surface("launcher") else { return Vec::new() };
        let scene = surface.content.scene(self.desktop.desk().rice(), Rect::default());
        let accent = self.desktop.desk().rice().palette.current.accent;
        let boxes = scene.items.iter().filter_map(|item| match item {
            Primitive::Fill { rect, fill, .. } if *fill == accent.into() && rect.w > 100.0 => Some(*rect),
            _ => None,
        });
        let boxes: Vec<Rect> = boxes.collect();
        let mut texts: Vec<(i32, i32, String)> = Vec::new();
        for item in &scene.items {
            if let Primitive::Text { x, y, text, .. } = item {
                texts.push((y.round() as i32, x.round() as i32, text.clone()));
            }
        }
        texts.sort();
        let mut rows: Vec<(i32, i32, String)> = Vec::new();
        for (y, x, text) in texts {
            let end = x + 10 * text.chars().count() as i32;
            match rows.last_mut() {
                // Pieces of a name follow each other; what stands at its end is no part of it.
                Some((at, right, row)) if *at == y && *right == x => {
                    row.push_str(&text);
                    *right = end;
                }
                Some((at, ..)) if *at == y => {}
                _ => rows.push((y, end, text)),
            }
        }
        let picked = |y: i32| boxes.iter().any(|rect| rect.y < y as f32 && y as f32 <= rect.y + rect.h);
        rows.into_iter().map(|(y, _, text)| if picked(y) { format!("> {text}") } else { text }).collect()
    }

    fn others(&self) -> String {
        format!("{:?}", self.stage.others)
    }
}

fn open() -> Pretended {
    let mut it = Pretended::of(RICE);
    it.open(1, "chart");
    it.open(2, "log");
    it.tell(DesktopEvent::Entries("apps".to_owned(), Rc::new(default_apps())));
    it.strike("Lead+d");
    it
}

#[test]
fn it_opens_takes_the_keyboard_searches_and_starts_what_is_chosen() {
    let mut it = open();
    assert!(it.holds && it.surface("launcher").is_some());
    it.types("ga");
    let rows = it.rows();
    assert!(rows.contains(&"ga".to_owned()) && rows.contains(&"> Gauge log".to_owned()), "{rows:?}");
    it.strike("Down");
    it.strike("Ctrl+n");
    assert_eq!(it.rows().iter().filter(|row| row.starts_with("> ")).count(), 1);
    it.strike("Up");
    it.strike("Up");
    it.strike("Return");
    assert!(it.surface("launcher").is_none() && !it.holds);
    assert_eq!(it.others(), "[Used(\"apps/loghouse\"), Launch(\"loghouse\", None)]");
    it.is_fresh();
}

#[test]
fn it_keeps_to_what_the_bars_leave_also_when_one_goes_while_it_is_open() {
    let part = format!("{RICE}[bar.top]\nend = [\"clock\"]\n[module.clock]\nsource = \"time\"\n");
    let mut it = Pretended::of(&part);
    it.act("launcher");
    let place = |it: &Pretended| it.shown.iter().find(|one| one.id.part == "launcher").map(|one| one.area);
    let below = place(&it).expect("it is open");
    it.act("bar toggle");
    assert!(place(&it).expect("it is still open").y < below.y, "{below:?}");
}

#[test]
fn it_waits_for_a_list_keeps_what_was_typed_and_is_told_when_that_changes() {
    let mut it = Pretended::of(RICE);
    it.act("launcher");
    assert_eq!(it.others(), "[List(\"apps\")]");
    it.types("ma");
    assert!(it.rows().iter().any(|row| row.starts_with("reading")), "{:?}", it.rows());
    it.tell(DesktopEvent::Entries("apps".to_owned(), entries(&["Marsh", "Log"])));
    assert!(it.rows().contains(&"> Marsh".to_owned()), "{:?}", it.rows());
    it.tell(DesktopEvent::Entries("apps".to_owned(), entries(&["Log", "Map", "Marsh"])));
    assert!(it.rows().contains(&"> Map".to_owned()), "{:?}", it.rows());
    it.tell(DesktopEvent::Entries("commands".to_owned(), entries(&["make"])));
    assert!(it.rows().contains(&"> Map".to_owned()), "another list is not shown");
    it.act("launcher");
    assert!(it.surface("launcher").is_none(), "told again it closes");
}

#[test]
fn lists_follow_each_other_windows_are_shown_and_ones_own_lines_done() {
    let mut it = open();
    it.strike("Tab");
    assert!(it.rows().contains(&"> Creek map".to_owned()), "the rice took that key away: {:?}", it.rows());
    it.strike("Ctrl+Tab");
    let rows = it.rows();
    // The window that is in front comes last.
    assert!(rows.contains(&"> chart".to_owned()) && rows.contains(&"log".to_owned()), "{rows:?}");
    it.strike("Return");
    assert_eq!(it.desktop.desk().focused(), Some(WindowId(1)));
    it.act("launcher power");
    it.types("cha");
    it.strike("Return");
    assert_eq!(it.workspace(), "two");
    it.act("launcher nothing");
    assert_eq!(it.desktop.refused(), ["there is no list nothing"]);
    assert!(it.surface("launcher").is_none());
}

#[test]
fn what_else_can_be_done_lies_inside_and_escape_goes_back_first() {
    let mut it = open();
    it.types("gauge lo");
    it.strike("Right");
    let rows = it.rows();
    assert!(rows.contains(&"> Gauge log".to_owned()) && rows.contains(&"New log".to_owned()), "{rows:?}");
    it.strike("Escape");
    assert!(it.rows().contains(&"gauge lo".to_owned()), "{:?}", it.rows());
    it.strike("Right");
    it.types("yest");
    it.strike("Return");
    assert!(it.others().ends_with("Launch(\"loghouse\", Some(\"Log of yesterday\"))]"), "{}", it.others());
}

#[test]
fn the_pointer_picks_chooses_and_leaves_and_keys_that_are_not_its_own_go_on() {
    let mut it = open();
    let surface = it.surface("launcher").expect("it is open");
    let (x, y) = (surface.area.x + 60, surface.area.y + 52 + 4 + 36 + 18);
    it.tell(DesktopEvent::PointerMoved(Some(surface.id.clone()), x + 1, y));
    assert!(it.rows().contains(&"> Creek map".to_owned()), "it lay there when it opened: {:?}", it.rows());
    it.tell(DesktopEvent::PointerMoved(Some(surface.id.clone()), x, y));
    assert!(it.rows().contains(&"> Foghorn: signals again".to_owned()), "{:?}", it.rows());
    it.tell(DesktopEvent::Button(Some(surface.id.clone()), 5, x, y));
    assert!(it.rows().contains(&"> Gauge log".to_owned()), "{:?}", it.rows());
    it.tell(DesktopEvent::Button(Some(surface.id.clone()), 1, x, y));
    assert!(it.others().contains("Launch(\"foghorn\""), "{}", it.others());
    it.act("launcher");
    it.tell(DesktopEvent::Button(None, 1, 5, 700));
    assert!(it.surface("launcher").is_none(), "a press beside it");
    it.act("launcher");
    it.strike("Lead+o");
    assert_eq!(it.started, ["loghouse"], "a chord of the desk");
    it.keyboard_taken = true;
    it.act("launcher");
    it.act("launcher");
    assert!(it.surface("launcher").is_some() && !it.holds);
}

#[test]
fn what_is_pasted_is_one_line_without_what_controls_anything() {
    let mut it = open();
    it.strike("Ctrl+v");
    assert_eq!(it.others(), "[Paste { selected: false }]");
    it.tell(DesktopEvent::Pasted("ga\u{7}u\nge".to_owned()));
    assert!(it.rows().contains(&"gau".to_owned()), "{:?}", it.rows());
    it.tell(DesktopEvent::Pasted("é".repeat(10_000)));
    it.strike("Ctrl+BackSpace");
    it.strike("x");
    it.strike("BackSpace");
    it.strike("BackSpace");
    assert!(it.surface("launcher").is_some());
    it.is_fresh();
}

#[test]
fn lines_that_are_offered_are_answered_once_whatever_happens() {
    let offer = |id, several| {
        let lines = ["ebb", "noon", "slack"].map(str::to_owned).to_vec();
        DesktopEvent::PromptOpened(Box::new(ChoicePrompt { id, prompt: "which".to_owned(), lines, several }))
    };
    let mut it = open();
    it.tell(offer(1, false));
    assert!(it.rows().contains(&"> ebb".to_owned()), "{:?}", it.rows());
    it.strike("Down");
    it.strike("Return");
    it.tell(offer(2, true));
    it.strike("Ctrl+space");
    it.strike("Down");
    it.strike("Ctrl+space");
    it.strike("Return");
    it.tell(offer(3, true));
    it.strike("Escape");
    it.tell(offer(4, false));
    it.tell(offer(5, false));
    it.tell(DesktopEvent::Unoffered(4));
    it.tell(DesktopEvent::Unoffered(5));
    assert!(it.surface("launcher").is_none(), "whoever offered them is gone");
    it.tell(offer(6, false));
    let rice = checked(&format!("{RICE}[space]\nbetween = 3\n"));
    it.tell(DesktopEvent::Settings(rice.rice.clone(), rice.scopes.clone()));
    assert!(it.rows().contains(&"> ebb".to_owned()), "it waits on");
    it.strike("Escape");
    let taken: Vec<&DesktopEffect> =
        it.stage.others.iter().filter(|effect| matches!(effect, DesktopEffect::AnswerPrompt(..))).collect();
    assert_eq!(
        format!("{taken:?}"),
        "[AnswerPrompt(1, Some([1])), AnswerPrompt(2, Some([0, 2])), AnswerPrompt(3, None), AnswerPrompt(4, None), AnswerPrompt(6, None)]"
    );
}

#[test]
fn lists_and_lines_that_lead_nowhere_are_problems() {
    let wrong = checked(
        "[launcher]\nlists = [\"apps\", \"widows\"]\n[launcher.own.apps]\nx = { do = \"quit\" }\n\
         [launcher.own.power]\ny = { do = \"open nothing\" }\nz = { do = \"qiut\" }\n\
         [keys.desk]\n\"Lead+d\" = \"launcher pwer\"\n[keys.launcher]\n\"Down\" = \"donw\"\n[keys.launcher.modes.x]\n\"a\" = \"up\"\n",
    );
    assert_eq!(
        found(&wrong),
        [
            "launcher/no-list parts/a.toml:2:18",
            "setting/reserved parts/a.toml:3:15",
            "keys/nothing-to-open parts/a.toml:6:12",
            "keys/unknown-action parts/a.toml:7:12",
            "keys/unknown-action parts/a.toml:9:12",
            "setting/type parts/a.toml:11:10",
            "launcher/no-modes parts/a.toml:12:22",
        ]
    );
}

#[test]
fn actions_of_the_launcher_are_written_as_they_are_read() {
    for text in ["launcher", "launcher windows", "backdrop next", "backdrop art/low-water.png", "backdrop 'a b.png' with-palette"]
    {
        assert_eq!(Action::parse(text).expect("an action").to_string(), text);
    }
    assert!(Action::parse("launcher a b").is_err());
}

/// A keyboard with dead keys.
fn dead_keys() -> KeyboardLayouts {
    KeyboardLayouts::new(vec![KeyboardLayout::built_in("de", "pc105").expect("it is built in")], false)
}

fn table(text: &str) -> Compositions {
    let mut context = Context::builder();
    context.enable_environment(false);
    let context = context.build();
    let mut builder = context.compose_table_builder();
    builder.buffer(text);
    let quiet: (Vec<Diagnostic>, fn(DiagnosticKind, bool) -> bool) = (Vec::new(), |_, _| false);
    builder.build(quiet).expect("a table").into()
}

const TABLE: &str = "<dead_acute> <e> : \"é\" eacute\n<dead_acute> <space> : \"'\" apostrophe\n<dead_acute> <o> <o> : \"oh\"\n";

#[test]
fn dead_keys_type_what_they_make_with_the_next_and_nobody_is_asked_before_one_is_pressed() {
    let mut it = open();
    it.tell(DesktopEvent::Keyboards(dead_keys(), 0));
    let press = |it: &mut Pretended, keys: &[&str]| {
        for key in keys {
            let chord = &ChordSequence::parse(key, "Super").expect("a chord").0[0];
            let press = it.desktop.hands().keyboard().presses(chord)[0];
            it.tell(DesktopEvent::KeyPressed(press));
            it.tell(DesktopEvent::KeyReleased(press.key));
        }
    };
    let typed = |it: &Pretended| it.rows().first().cloned().unwrap_or_default();
    press(&mut it, &["a"]);
    assert_eq!((typed(&it).as_str(), it.others().as_str()), ("a", "[]"));
    press(&mut it, &["dead_acute"]);
    assert_eq!(it.others(), "[Compositions]");
    it.tell(DesktopEvent::Compositions(Some(table(TABLE))));
    press(&mut it, &["e"]);
    assert_eq!(typed(&it), "aé");
    press(&mut it, &["dead_acute", "space", "dead_acute", "o"]);
    assert_eq!(typed(&it), "aé'", "what is begun is not seen yet");
    press(&mut it, &["o"]);
    assert_eq!(typed(&it), "aé'oh");
    // What makes nothing is forgotten with the key that ended it, and a key of the launcher ends it too.
    press(&mut it, &["dead_acute", "x", "e"]);
    assert_eq!(typed(&it), "aé'ohe");
    press(&mut it, &["dead_acute", "Ctrl+n", "e"]);
    assert_eq!(typed(&it), "aé'ohee");
    // Nothing is left of it when the launcher is opened again.
    press(&mut it, &["dead_acute", "dead_acute", "Escape"]);
    press(&mut it, &["Super+d", "e"]);
    assert_eq!(typed(&it), "e");
    assert_eq!(it.others(), "[Compositions]", "it is asked once");
}

#[test]
fn without_a_table_dead_keys_type_nothing_and_others_go_on() {
    let mut it = open();
    it.tell(DesktopEvent::Keyboards(dead_keys(), 0));
    let chord = &ChordSequence::parse("dead_acute", "Super").expect("a chord").0[0];
    let dead = it.desktop.hands().keyboard().presses(chord)[0];
    it.tell(DesktopEvent::KeyPressed(dead));
    it.tell(DesktopEvent::Compositions(None));
    it.types("ga");
    assert!(it.rows().contains(&"ga".to_owned()), "{:?}", it.rows());
    it.tell(DesktopEvent::KeyPressed(dead));
    it.types("u");
    assert!(it.rows().contains(&"gau".to_owned()), "{:?}", it.rows());
}

/// Programs and bindings that are found by each other's words.
const LISTED: &str = "[workspaces]\norder = [\"one\", \"two\"]\n[launcher]\nlists = [\"programs\", \"chords\", \"windows\"]\n\
[program]\nterminal = \"xterm\"\nchart = { run = [\"/opt/bin/tidechart\", \"--today\"] }\n\
[keys.desk]\n\"Lead+d\" = \"launcher\"\n\"Lead+Return\" = \"open terminal\"\n\"Lead+2\" = { do = \"go two\", note = \"To the second\" }\n\
\"Lead+x\" = [\"go two\", \"go one\"]\n\"Lead+s\" = \"mode sizing\"\n[keys.desk.modes.sizing]\n\"h\" = \"main grow\"\n\"Escape\" = \"mode leave\"\n";

#[test]
fn programs_of_the_rice_are_found_by_name_and_by_what_they_run() {
    let mut it = Pretended::of(LISTED);
    it.act("launcher programs");
    let rows = it.rows();
    assert!(rows.iter().any(|row| row.ends_with("terminal")) && rows.iter().any(|row| row.ends_with("chart")), "{rows:?}");
    it.types("xterm");
    assert!(it.rows().contains(&"> terminal".to_owned()), "{:?}", it.rows());
    it.strike("Return");
    assert_eq!((it.started.clone(), it.surface("launcher").is_none()), (vec!["xterm".to_owned()], true));
    it.act("launcher programs");
    it.types("today");
    it.strike("Return");
    assert_eq!(it.started.last().map(String::as_str), Some("/opt/bin/tidechart --today"));
    it.is_fresh();
}

#[test]
fn what_is_bound_is_found_by_its_note_its_keys_and_what_it_does_and_is_done() {
    let mut it = Pretended::of(LISTED);
    it.act("launcher chords");
    it.types("second");
    assert!(it.rows().contains(&"> To the second".to_owned()), "{:?}", it.rows());
    it.strike("Return");
    assert_eq!(it.workspace(), "two");
    it.act("go one");
    it.act("launcher chords");
    it.types("shows a work");
    it.strike("Return");
    assert_eq!(it.workspace(), "two", "by what it does");
    // What is bound in a mode has no meaning outside of it.
    it.act("launcher chords");
    it.types("main grow");
    assert!(it.rows().iter().all(|row| !row.ends_with("main grow") || row.starts_with("main")), "{:?}", it.rows());
    it.strike("Escape");
    it.is_fresh();
}

#[test]
fn windows_are_listed_the_one_before_first_and_brought_back_from_out_of_sight() {
    let mut it = Pretended::of(LISTED);
    for (id, app) in [(1, "chart"), (2, "log"), (3, "mail")] {
        it.open(id, app);
    }
    it.act("tuck");
    it.act("launcher windows");
    let rows: Vec<String> =
        it.rows().into_iter().filter(|row| ["chart", "log", "mail"].iter().any(|app| row.ends_with(app))).collect();
    assert_eq!(rows, ["> chart", "mail", "log"], "the one that has the focus is the last");
    it.types("mail");
    it.strike("Return");
    let desk = it.desktop.desk();
    assert_eq!((desk.focused(), desk.windows[&WindowId(3)].minimized), (Some(WindowId(3)), false));
    it.act("go two");
    it.act("launcher windows");
    it.types("chart");
    it.strike("Return");
    assert_eq!((it.workspace(), it.desktop.desk().focused()), ("one", Some(WindowId(1))));
}

#[test]
fn it_stays_open_with_what_was_typed_over_a_reload_of_something_else() {
    let mut it = open();
    it.types("gau");
    let drawn = |it: &Pretended| it.shown.iter().find(|one| one.id.part == "launcher").map(|one| format!("{:?}", one.content));
    let before = drawn(&it).expect("it is open");
    let reload = |it: &mut Pretended, text: &str| {
        let checked = checked(text);
        it.tell(DesktopEvent::Settings(checked.rice.clone(), checked.scopes.clone()));
    };
    reload(&mut it, &format!("{RICE}[space]\nbetween = 3\n"));
    assert_eq!(drawn(&it), Some(before));
    it.strike("Return");
    assert!(it.stage.others.iter().any(|effect| matches!(effect, DesktopEffect::Launch(id, None) if id == "loghouse")));
    // A list that is gone closes it.
    it.strike("Lead+w");
    assert!(drawn(&it).is_some());
    reload(&mut it, &RICE.replace("\"windows\", ", "").replace("\"Lead+w\" = \"launcher windows\"\n", ""));
    it.is_fresh();
}

#[test]
fn lists_change_while_the_launcher_is_open() {
    let mut it = Pretended::of(LISTED);
    it.open(1, "chart");
    it.act("launcher windows");
    assert!(it.rows().iter().any(|row| row.ends_with("chart")));
    it.open(2, "dredger");
    assert!(it.rows().iter().any(|row| row.ends_with("dredger")), "{:?}", it.rows());
    it.tell(DesktopEvent::Wm(jovrik_core::desk::WmEvent::Unmapped(WindowId(1))));
    assert!(!it.rows().iter().any(|row| row.ends_with("chart")), "{:?}", it.rows());
    it.is_fresh();
}
