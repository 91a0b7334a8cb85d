use std::rc::Rc;

use jovrik_core::bar::{Field, Grade, Pattern, Values, What, arrange};
use jovrik_core::desk::{Area, Desk, Event, MonitorFacts, WindowFacts, WindowId};
use jovrik_core::rice::{Condition, Grades, Pick};
use jovrik_core::scene::{Face, Measure};

use crate::{checked, found};

fn values() -> Values {
    let time = "2024-05-14T06:42:00+00:00[+00:00]".parse().expect("a time");
    Values::one("load", Field::Number(7.46))
        .and("name", Field::Text("mast\u{7} B".to_owned()))
        .and("used", Field::Number(3_328_599_654.0))
        .and("at", Field::Time(Box::new(time)))
}

fn fill(pattern: &str) -> String {
    match Pattern::parse(pattern) {
        Ok(pattern) => pattern.fill(&values()).unwrap_or_else(|| "(no value)".to_owned()),
        Err(error) => error.to_string(),
    }
}

#[test]
fn patterns_fill_in_numbers_texts_and_times() {
    let cases = [
        ("{load}", "7.5"),
        ("{load:.0} %", "7 %"),
        ("{load:5.1}|{load:<5.1}|{load:^5.1}|", "  7.5|7.5  | 7.5 |"),
        ("{name:upper}", "MAST B"),
        ("{name:cut 4}", "mas…"),
        ("{used:bytes}", "3.1 GiB"),
        ("{load:percent}", "7 %"),
        ("{at:%a %-d %b %H:%M}", "Tue 14 May 06:42"),
        ("{{{load:.0}}}", "{7}"),
        ("{gone|none} {load:.0}", "none 7"),
        ("{gone}", "(no value)"),
        ("{load", "a { is not closed; {{ writes one"),
        ("load}", "a } closes nothing; }} writes one"),
        ("{}", "a field's name is missing between { and }"),
        (
            "{load:wide}",
            "wide says nothing; it may be [<^>][width][.decimals], bytes, percent, upper, cut N, or a time such as %H:%M",
        ),
        (
            "{load:999999999}",
            "999999999 says nothing; it may be [<^>][width][.decimals], bytes, percent, upper, cut N, or a time such as %H:%M",
        ),
    ];
    for (pattern, expected) in cases {
        assert_eq!(fill(pattern), expected, "{pattern}");
    }
}

#[test]
fn output_of_a_program_is_a_line_or_picked_json() {
    let pick = Pick(
        [("level".to_owned(), "/station/level".to_owned()), ("gone".to_owned(), "/no/such".to_owned())].into_iter().collect(),
    );
    let read = Values::of_output("{\"station\": {\"level\": 3.2}}\n", &pick).expect("JSON");
    assert_eq!(read.0.get("level"), Some(&Field::Number(3.2)));
    assert_eq!(read.0.get("gone"), None);
    assert!(Values::of_output("ebb", &pick).is_err());
    assert_eq!(Values::of_output("ebb\nmore\n", &Pick::default()).expect("a line").0["value"], Field::Text("ebb".to_owned()));
    assert!(Values::of_output("\n\n", &Pick::default()).expect("nothing").0.is_empty());
}

#[test]
fn grades_are_the_loudest_that_holds() {
    let grades = Grades { warn: Condition::parse("load >= 80"), urgent: Condition::parse("load>=95 %") };
    let grade = |load: f64| Values::one("load", Field::Number(load)).grade(&grades);
    assert_eq!((grade(10.0), grade(80.0), grade(99.0)), (Grade::Plain, Grade::Warn, Grade::Urgent));
    assert_eq!(Values::default().grade(&grades), Grade::Plain);
    assert_eq!(Condition::parse("load about 3"), None);
}

/// Ten pixels a character.
struct Tens;

impl Measure for Tens {
    fn width(&mut self, text: &str, _: &Face) -> f32 {
        text.chars().count() as f32 * 10.0
    }
}

const BAR: &str = "[bar.top]\nstart = [\"staff\"]\nmiddle = [\"title\"]\nend = [\"load\"]\n[module.staff]\nsource = \"workspaces\"\n[module.title]\nsource = \"title\"\ntext = \"{title}\"\n[module.load]\nsource = \"cpu\"\ntext = \"{load:.0}\"\nempty = \"-\"\n";

fn strip(width: i32, title: &str, load: Option<f64>, trouble: Option<&str>) -> jovrik_core::bar::Strip {
    let rice = checked(BAR).rice;
    let mut desk = Desk::new(Rc::clone(&rice), vec![MonitorFacts { name: "A".to_owned(), area: Area::new(0, 0, width, 600) }]);
    desk.handle(Event::Appears(WindowId(1), WindowFacts { title: title.to_owned(), ..WindowFacts::default() }));
    let known = load.map(|load| ("load".to_owned(), Values::one("load", Field::Number(load)))).into_iter().collect();
    arrange(&desk, 0, "top", &rice.bar["top"], &known, trouble, &mut Tens)
}

fn text(shown: &jovrik_core::bar::Shown) -> String {
    match &shown.what {
        What::Text { text, .. } => text.clone(),
        What::Staff(marks) => marks.iter().map(|mark| format!("{:?} ", mark.state)).collect(),
        What::Layout(sketch) => sketch.name.clone(),
    }
}

#[test]
fn a_bar_puts_its_modules_at_both_ends_and_the_middle_and_cuts_the_middle() {
    let strip_of = |width, title| strip(width, title, Some(42.0), None);
    let wide = strip_of(1000, "Tide table");
    assert_eq!(wide.modules.iter().map(text).collect::<Vec<_>>(), ["Here Empty Empty Empty Empty ", "Tide table", "42"]);
    let middle = wide.modules[1].rect;
    assert_eq!(middle.x + middle.w / 2.0, 500.0);
    let last = wide.modules[2].rect;
    assert_eq!(last.x + last.w, 1000.0 - 18.0);
    let narrow = strip_of(360, "Tide table: neap, station 4");
    assert!(text(&narrow.modules[1]).ends_with('…'), "{}", text(&narrow.modules[1]));
    for pair in narrow.modules.windows(2) {
        assert!(pair[0].rect.x + pair[0].rect.w <= pair[1].rect.x, "none overlaps");
    }
    assert_eq!(text(&strip(1000, "x", None, None).modules[2]), "-", "empty stands in");
    assert_eq!(text(&strip(1000, "x", None, Some("not reloaded")).modules[1]), "not reloaded");
}

#[test]
fn only_modules_that_changed_are_damaged() {
    let before = strip(1000, "Tide table", Some(42.0), None);
    assert_eq!(strip(1000, "Tide table", Some(42.0), None).damage(&before), []);
    let other = strip(1000, "Tide table", Some(43.0), None);
    let damage = other.damage(&before);
    assert_eq!(damage.len(), 1);
    assert!(damage[0].touches(other.modules[2].rect) && !damage[0].touches(other.modules[1].rect));
    assert_eq!(strip(900, "Tide table", Some(42.0), None).damage(&before).len(), 1, "another size: all of it");
}

#[test]
fn modules_are_checked_for_their_fields_and_bars_for_their_modules() {
    let part = "[bar.top]\nend = [\"cpuu\", \"cpu\"]\n[module.cpu]\nsource = \"cpu\"\ntext = \"{laod}\"\ngrades = { warn = \"heat > 3\" }\n[module.run]\nsource = { run = [\"x\"] }\npick = { level = \"/l\" }\ntext = \"{value}\"\n[module.bad]\nsource = \"cpuu\"\n";
    assert_eq!(
        found(&checked(part)),
        [
            "bar/no-module parts/a.toml:2:8",
            "module/unknown-field parts/a.toml:5:8",
            "module/unknown-field parts/a.toml:6:10",
            "module/unknown-field parts/a.toml:10:8",
            "module/unknown-source parts/a.toml:12:10",
        ]
    );
}
