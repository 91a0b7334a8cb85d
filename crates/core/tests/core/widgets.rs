//! Widgets: what they show, where they lie, and what a press on one does.

use jovrik_core::bar::BarInput;
use jovrik_core::desk::{StackingLayer, WindowManager};
use jovrik_core::desktop::{DesktopEvent, Interactivity};
use jovrik_core::scene::{Primitive, WidgetReading};
use jovrik_core::stage::FixedWidthMeasure;
use jovrik_core::widget::{PlacedWidget, WidgetCache, arrange, gauge, told};
use jovrik_values::action::Action;
use jovrik_values::{ElementState, FieldValue, ModuleValues, PixelRect, Rect, Values, each_of, past_of};
use proptest::prelude::*;

use crate::pretended::{Pretended, monitor};
use crate::{checked, found};

const MODULES: &str = "[module.cpu]\nsource = \"cpu\"\ntext = \"{load:.0} %\"\ngrades = { warn = \"load >= 80\" }\n\
[module.tide]\nsource = { run = [\"sluice\"] }\npick = { level = \"/level\", day = \"/day\", now = \"/now\" }\ntext = \"{level:.1} m\"\n\
empty = \"no gauge\"\n[module.clock]\nsource = \"time\"\n[module.station]\ntext = \"4, north\"\n";

fn desk(part: &str) -> WindowManager {
    let rice = checked(&format!("{MODULES}{part}"));
    let wrong: Vec<&str> = rice.problems.iter().map(|problem| problem.title.as_str()).collect();
    assert!(wrong.is_empty(), "{wrong:?}");
    WindowManager::new(rice.rice.clone(), vec![monitor("A", 0)])
}

fn known() -> ModuleValues {
    let number = FieldValue::Number;
    let cpu = Values::one("load", number(81.4)).and("value", number(81.0)).and("cores", number(3.0));
    let cpu = cpu.and(&each_of("load"), FieldValue::Past(vec![5.0, 100.0, 50.0]));
    let cpu = cpu.and(&past_of("load"), FieldValue::Past(vec![0.0, 50.0, 100.0]));
    let tide = Values::one("level", number(1.78)).and("day", FieldValue::Past(vec![0.0, 4.0, 2.0])).and("now", number(25.0));
    [("cpu".to_owned(), cpu), ("tide".to_owned(), tide)].into_iter().collect()
}

fn shown(part: &str, name: &str, known: &ModuleValues) -> WidgetReading {
    let desk = desk(part);
    let widget = desk.rice().widget.get(name).expect("a widget");
    gauge(desk.rice(), widget, &told(&desk, 0, &BarInput::of(known), widget))
}

fn laid(part: &str) -> Vec<PlacedWidget> {
    arrange(&desk(part), 0, &BarInput::of(&known()), &mut FixedWidthMeasure(0.6), &mut WidgetCache::default())
}

fn rect(laid: &[PlacedWidget], name: &str) -> Rect {
    laid.iter().find(|laid| laid.name == name).expect("it is there").rect
}

#[test]
fn a_ring_shows_the_number_of_its_module_between_two_ends_and_calls_as_that_does() {
    let ring = shown("[widget.x]\nkind = \"ring\"\nmodule = \"cpu\"\nlabel = \"processor\"\n", "x", &known());
    assert_eq!((ring.text.as_str(), ring.label.as_str(), ring.part), ("81 %", "processor", Some(0.815)));
    assert_eq!(ring.states, [ElementState::Warn]);
    let ends = "[widget.x]\nkind = \"meter\"\nmodule = \"tide\"\nfrom = 1\nto = 2\n";
    assert_eq!(shown(ends, "x", &known()).part.map(|part| (part * 100.0).round()), Some(78.0));
    let field = "[widget.x]\nkind = \"meter\"\nmodule = \"cpu\"\nfield = \"cores\"\nto = \"load\"\n";
    assert_eq!(shown(field, "x", &known()).part.map(|part| (part * 1000.0).round()), Some(35.0));
}

#[test]
fn values_that_are_no_numbers_or_lie_beyond_the_ends_are_none_or_full() {
    let part = "[widget.x]\nkind = \"ring\"\nmodule = \"tide\"\nto = 5\n[widget.y]\nkind = \"ring\"\nmodule = \"tide\"\nfrom = 2\nto = 2\n";
    let with = |field: FieldValue| {
        let known: ModuleValues = [("tide".to_owned(), Values::one("level", field))].into_iter().collect();
        (shown(part, "x", &known).part, shown(part, "y", &known).part)
    };
    assert_eq!(with(FieldValue::Number(f64::NAN)), (None, None));
    assert_eq!(with(FieldValue::Number(f64::INFINITY)), (None, None));
    assert_eq!(with(FieldValue::Number(-3.0)).0, Some(0.0));
    assert_eq!(with(FieldValue::Number(1e300)).0, Some(1.0));
    assert_eq!(with(FieldValue::Text("high".to_owned())), (None, None));
    assert_eq!(with(FieldValue::Text("2.5".to_owned())).0, Some(0.5));
    // Without any value the module's own words stand there.
    assert_eq!(shown(part, "x", &ModuleValues::new()).text, "no gauge");
}

#[test]
fn there_is_one_for_each_core_with_its_own_number() {
    let each = "[widget.x]\nkind = \"ring\"\nmodule = \"cpu\"\ntext = \"{core}: {load:.0}\"\nlabel = \"core\"\neach = \"core\"\ncolumns = 2\n";
    let rings = shown(each, "x", &known()).inner;
    let told: Vec<(&str, &str, Option<f32>)> =
        rings.iter().map(|one| (one.label.as_str(), one.text.as_str(), one.part)).collect();
    assert_eq!(told, [("core 1", "1: 5", Some(0.05)), ("core 2", "2: 100", Some(1.0)), ("core 3", "3: 50", Some(0.5))]);
    assert_eq!(rings[1].states, [ElementState::Warn], "each calls by itself");
    let one = rect(&laid(&each.replace("each = \"core\"", "").replace("{core}: ", "")), "x");
    let all = rect(&laid(each), "x");
    assert!(all.w > 2.0 * one.w && all.w < 3.0 * one.w && all.h > 2.0 * one.h, "{one:?} {all:?}");
}

#[test]
fn a_curve_fills_from_its_end_and_one_that_comes_whole_fills_the_width() {
    let past = shown("[widget.x]\nkind = \"graph\"\nmodule = \"cpu\"\nsamples = 5\n", "x", &known());
    assert_eq!(past.curve, [(0.5, 0.0), (0.75, 0.5), (1.0, 1.0)]);
    let day = shown("[widget.x]\nkind = \"graph\"\nmodule = \"tide\"\nfield = \"day\"\nto = 4\nmark = \"now\"\n", "x", &known());
    assert_eq!((day.curve, day.mark), (vec![(0.0, 0.0), (0.5, 1.0), (1.0, 0.5)], Some(0.25)));
    assert_eq!(shown("[widget.x]\nkind = \"graph\"\nmodule = \"cpu\"\n", "x", &ModuleValues::new()).curve, []);
}

#[test]
fn a_list_has_a_row_for_each_module_and_a_clock_finds_the_time() {
    let list = shown("[widget.x]\nkind = \"list\"\nrows = [\"station\", \"cpu\"]\n", "x", &known());
    let rows: Vec<(&str, &str)> = list.inner.iter().map(|row| (row.label.as_str(), row.text.as_str())).collect();
    assert_eq!(rows, [("station", "4, north"), ("cpu", "81 %")]);
    let zoned = jiff::civil::datetime(2024, 5, 14, 6, 42, 0, 0).to_zoned(jiff::tz::TimeZone::UTC).expect("a time");
    let time: ModuleValues = [("clock".to_owned(), Values::one("time", FieldValue::Time(Box::new(zoned))))].into_iter().collect();
    assert_eq!(shown("[widget.x]\nkind = \"clock\"\n", "x", &time).text, "06:42");
}

#[test]
fn places_of_the_screen_and_of_other_widgets_hold_at_any_size() {
    let part = "[widget.a]\nkind = \"ring\"\nmodule = \"cpu\"\nat = \"bottom-right\"\noffset = [-40, -20]\n\
                [widget.b]\ntext = \"below\"\nat = \"below a\"\nalign = \"middle\"\n[widget.c]\ntext = \"in\"\nat = \"inside a\"\n\
                [widget.d]\ntext = \"after\"\nat = \"beside a\"\nalign = \"end\"\n[style.widget.d]\ngap = 3\n";
    let all = laid(part);
    let [a, b, c, d] = ["a", "b", "c", "d"].map(|name| rect(&all, name));
    let middle = |rect: Rect| (rect.x + rect.w / 2.0, rect.y + rect.h / 2.0);
    assert_eq!((a.x + a.w, a.y + a.h), (960.0, 780.0));
    assert!((middle(b).0 - middle(a).0).abs() <= 1.0 && b.y == a.y + a.h + 12.0, "{a:?} {b:?}");
    assert!((middle(c).0 - middle(a).0).abs() <= 1.0 && (middle(c).1 - middle(a).1).abs() <= 1.0, "{a:?} {c:?}");
    assert_eq!((d.x, d.y + d.h), (a.x + a.w + 3.0, a.y + a.h));
    // The same on a monitor where everything is twice as large.
    let twice = laid(&format!("{part}[monitor.A]\nscale = 2\n"));
    let [a, b] = ["a", "b"].map(|name| rect(&twice, name));
    assert_eq!((a.x + a.w, a.y + a.h), (920.0, 760.0));
    assert!((middle(b).0 - middle(a).0).abs() <= 2.0 && b.y == a.y + a.h + 24.0, "{a:?} {b:?}");
}

#[test]
fn one_that_lies_by_none_or_in_a_ring_is_not_seen_and_the_others_are() {
    let rice = checked(&format!(
        "{MODULES}[widget.a]\ntext = \"a\"\nat = \"below b\"\n[widget.b]\ntext = \"b\"\nat = \"below a\"\n[widget.c]\ntext = \"c\"\n\
         [widget.d]\ntext = \"d\"\nat = \"below nobody\"\n[widget.e]\ntext = \"e\"\nat = \"below e\"\n"
    ));
    assert_eq!(found(&rice).iter().filter(|one| one.starts_with("widget/loop")).count(), 2, "one for the two, one for e");
    let desk = WindowManager::new(rice.rice.clone(), vec![monitor("A", 0)]);
    let seen: Vec<String> = arrange(&desk, 0, &BarInput::of(&known()), &mut FixedWidthMeasure(0.6), &mut WidgetCache::default())
        .into_iter()
        .map(|laid| laid.name)
        .collect();
    assert_eq!(seen, ["c"]);
}

const LIVE: &str = "[widget.time]\ntext = \"06:42\"\nat = \"top-left\"\n[widget.load]\nkind = \"ring\"\nmodule = \"cpu\"\nat = \"bottom-right\"\n\
press = { left = \"go two\", right = [\"go one\", \"go two\"] }\n[widget.there]\ntext = \"only there\"\nworkspace = \"two\"\nat = \"bottom-left\"\n\
[workspaces]\norder = [\"one\", \"two\"]\n";

fn live() -> Pretended {
    Pretended::of(&format!("{MODULES}{LIVE}"))
}

fn names(it: &Pretended) -> Vec<String> {
    let mut names: Vec<String> = it.shown.iter().filter(|one| one.id.part == "widget").map(|one| one.id.name.clone()).collect();
    names.sort();
    names
}

#[test]
fn they_lie_on_the_backdrop_where_no_tile_is_and_on_their_workspace() {
    let mut it = live();
    assert_eq!(names(&it), ["load", "time"]);
    let levels: Vec<(StackingLayer, Interactivity)> =
        it.shown.iter().filter(|one| one.id.part == "widget").map(|one| (one.level, one.takes)).collect();
    assert!(
        levels.contains(&(StackingLayer::Widgets, Interactivity::Nothing))
            && levels.contains(&(StackingLayer::Widgets, Interactivity::Pointer)),
        "{levels:?}"
    );
    it.act("go two");
    assert_eq!(names(&it), ["load", "there", "time"]);
    it.open(1, "chart");
    assert_eq!(names(&it), Vec::<String>::new(), "a tile covers the screen");
    it.act("float on");
    assert_eq!(names(&it), ["load", "there", "time"], "what floats lies over them");
    it.is_fresh();
}

#[test]
fn a_press_does_what_is_said_and_opens_menus_beside_it() {
    let mut it = live();
    let one = it.shown.iter().find(|one| one.id.name == "load").cloned().expect("it is there");
    let at = (one.area.x + 5, one.area.y + 5);
    it.tell(DesktopEvent::Button(Some(one.id.clone()), 3, at.0, at.1));
    let menu = it.surface("menu").expect("a menu").area;
    assert!(menu.overlap(PixelRect::new(0, 0, 1000, 800)) == Some(menu), "it is inside the screen: {menu:?}");
    it.strike("Escape");
    it.tell(DesktopEvent::Button(Some(one.id.clone()), 1, at.0, at.1));
    assert_eq!(it.desktop.desk().workspaces[it.desktop.desk().workspace()].name, "two");
}

#[test]
fn a_value_draws_its_own_widget_and_no_other() {
    let mut it = live();
    it.tell(DesktopEvent::Values(known()));
    let before = it.drawn;
    let mut other = known();
    other.insert("cpu".to_owned(), Values::one("load", FieldValue::Number(12.0)));
    it.tell(DesktopEvent::Values(other.clone()));
    assert_eq!(it.drawn - before, 1);
    it.tell(DesktopEvent::Values(other));
    assert_eq!(it.drawn - before, 1, "the same again draws nothing");
}

proptest! {
    /// Whatever numbers come, what is drawn of them is finite and lies in its widget.
    #[test]
    fn whatever_comes_is_drawn_inside(numbers in prop::collection::vec(prop::num::f64::ANY, 0..40), load in prop::num::f64::ANY) {
        let part = "[widget.a]\nkind = \"graph\"\nmodule = \"tide\"\nfield = \"day\"\n[widget.b]\nkind = \"ring\"\nmodule = \"cpu\"\nat = \"right\"\n\
                    [widget.c]\nkind = \"meter\"\nmodule = \"cpu\"\nat = \"bottom\"\n";
        let tide = Values::one("day", FieldValue::Past(numbers)).and("now", FieldValue::Number(load));
        let known: ModuleValues = [("tide".to_owned(), tide), ("cpu".to_owned(), Values::one("load", FieldValue::Number(load)))].into_iter().collect();
        let desk = desk(part);
        for laid in arrange(&desk, 0, &BarInput::of(&known), &mut FixedWidthMeasure(0.6), &mut WidgetCache::default()) {
            for item in &laid.scene.items {
                let points: Vec<(f32, f32)> = match item {
                    Primitive::Fill { rect, .. } => vec![(rect.x, rect.y), (rect.x + rect.w, rect.y + rect.h)],
                    Primitive::Stroke { path, .. } | Primitive::Shape { path, .. } => path.iter().filter_map(end).collect(),
                    _ => Vec::new(),
                };
                for (x, y) in points {
                    let Rect { x: left, y: top, w, h } = laid.rect;
                    prop_assert!(x >= left - 0.6 && x <= left + w + 0.6 && y >= top - 0.6 && y <= top + h + 0.6, "{item:?} {:?}", laid.rect);
                }
            }
        }
    }
}

/// What happens to a desk whose widgets were laid before.
#[derive(Debug, Clone)]
enum Comes {
    Load(f64),
    Day(Vec<f64>),
    Workspace(bool),
    Monitors(u8),
    Settings(bool),
}

fn comes() -> impl Strategy<Value = Comes> {
    prop_oneof![
        3 => prop_oneof![Just(12.0), Just(81.0), 0.0..200.0].prop_map(Comes::Load),
        1 => prop::collection::vec(0.0..5.0, 0..6).prop_map(Comes::Day),
        2 => any::<bool>().prop_map(Comes::Workspace),
        1 => (0..4u8).prop_map(Comes::Monitors),
        1 => any::<bool>().prop_map(Comes::Settings),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, failure_persistence: None, ..ProptestConfig::default() })]

    /// Widgets that have nothing else to show are not made again: what is kept of them is what would be made anew.
    #[test]
    fn what_was_made_before_is_what_would_be_made_anew(all in prop::collection::vec(comes(), 1..25)) {
        let part = format!("{MODULES}[workspaces]\norder = [\"one\", \"two\"]\n[widget.ring]\nkind = \"ring\"\nmodule = \"cpu\"\n\
            [widget.day]\nkind = \"graph\"\nmodule = \"tide\"\nfield = \"day\"\nat = \"below ring\"\n\
            [widget.says]\ntext = \"here\"\nat = \"bottom-right\"\nworkspace = \"two\"\n\
            [widget.each]\nkind = \"meter\"\nmodule = \"cpu\"\nat = \"right\"\nmonitor = \"B\"\n");
        let rices = ["", "[style.widget]\npad = 11\n"].map(|more| checked(&format!("{part}{more}")).rice);
        let mut desk = WindowManager::new(rices[0].clone(), vec![monitor("A", 0)]);
        let (mut known, mut made) = (known(), WidgetCache::default());
        for one in all {
            match one {
                Comes::Load(load) => drop(known.insert("cpu".to_owned(), Values::one("load", FieldValue::Number(load)))),
                Comes::Day(day) => drop(known.insert("tide".to_owned(), Values::one("day", FieldValue::Past(day)))),
                Comes::Workspace(first) => {
                    let go = if first { "go one" } else { "go two" };
                    desk.handle(jovrik_core::desk::WmEvent::ActionInvoked(Action::parse(go).expect("an action")));
                }
                Comes::Monitors(how) => {
                    let mut all = vec![monitor("A", 0), monitor("B", 1000)];
                    all.truncate(1 + usize::from(how % 2));
                    // Another size, and so another place of everything.
                    all[0].area.h -= i32::from(how / 2) * 100;
                    desk.handle(jovrik_core::desk::WmEvent::Monitors(all));
                }
                Comes::Settings(first) => {
                    desk.handle(jovrik_core::desk::WmEvent::Settings(rices[usize::from(first)].clone()));
                }
            }
            for nth in 0..desk.monitors.len() {
                let kept = arrange(&desk, nth, &BarInput::of(&known), &mut FixedWidthMeasure(0.6), &mut made);
                prop_assert_eq!(kept, arrange(&desk, nth, &BarInput::of(&known), &mut FixedWidthMeasure(0.6), &mut WidgetCache::default()));
            }
        }
    }
}

fn end(step: &jovrik_core::scene::PathSegment) -> Option<(f32, f32)> {
    use jovrik_core::scene::PathSegment::{Close, Curve, Line, Move};
    match *step {
        Move(x, y) | Line(x, y) | Curve(.., x, y) => Some((x, y)),
        Close => None,
    }
}

#[test]
fn a_rice_of_a_thousand_widgets_shows_some_and_takes_no_time() {
    let many: String = (0..1000)
        .map(|nth| {
            format!(
                "[widget.w{nth}]\ntext = \"{nth}\"\nat = \"{}\"\n",
                match nth {
                    0 => "top-left".to_owned(),
                    _ => format!("below w{}", nth - 1),
                }
            )
        })
        .collect();
    let rice = checked(&format!("{MODULES}{many}"));
    let desk = WindowManager::new(rice.rice.clone(), vec![monitor("A", 0)]);
    assert_eq!(arrange(&desk, 0, &BarInput::of(&known()), &mut FixedWidthMeasure(0.6), &mut WidgetCache::default()).len(), 256);
}
