use std::rc::Rc;

use jovrik_core::bar::{BarInput, BarLayout, ModuleContent, SizeRequest, arrange, fit};
use jovrik_core::desk::{MonitorFacts, WindowFacts, WindowId, WindowManager, WmEvent};
use jovrik_core::rice::Rice;
use jovrik_core::scene::{Measure, TextRotation, TextStyle};
use jovrik_text::limits;
use jovrik_values::{Condition, FieldSelectors, FieldValue, Grade, Pattern, PixelRect, Rect, Values, past_of};

use crate::{checked, found};

fn values() -> Values {
    let time = "2024-05-14T06:42:00+00:00[+00:00]".parse().expect("a time");
    Values::one("load", FieldValue::Number(7.46))
        .and(&past_of("load"), FieldValue::Past(vec![0.0, 50.0, 100.0, 7.46]))
        .and("name", FieldValue::Text("mast\u{7} B".to_owned()))
        .and("used", FieldValue::Number(3_328_599_654.0))
        .and("at", FieldValue::Time(Box::new(time)))
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
        ("{load:5.1}|{load:<5.1}|{load:^5.1}|", "\u{2007}\u{2007}7.5|7.5\u{2007}\u{2007}|\u{2007}7.5\u{2007}|"),
        ("{name:upper}", "MAST B"),
        ("{name:cut 4}", "mas…"),
        ("{used:bytes}", "3.1 GiB"),
        ("{used:bytes 1000}", "3.3 GB"),
        ("{load:percent}", "7 %"),
        ("{at:%a %-d %b %H:%M}", "Tue 14 May 06:42"),
        ("{load:meter 10}", "━─────────"),
        ("{load:spark 4}", "▁▅█▂"),
        ("{load:spark 6}", "▁▁▁▅█▂"),
        ("{used:spark 2}", "▁█"),
        ("{name:meter 3}", "mast B"),
        (
            "{load:meter 0}",
            "meter 0 says nothing; it may be [<^>][width][.decimals], bytes, bytes 1000, celsius, fahrenheit, percent, meter N, spark N, upper, cut N, or a time such as %H:%M",
        ),
        ("{{{load:.0}}}", "{7}"),
        ("{gone|none} {load:.0}", "none 7"),
        ("{gone}", "(no value)"),
        ("{load", "a { is not closed; {{ writes one"),
        ("load}", "a } closes nothing; }} writes one"),
        ("{}", "a field's name is missing between { and }"),
        (
            "{load:wide}",
            "wide says nothing; it may be [<^>][width][.decimals], bytes, bytes 1000, celsius, fahrenheit, percent, meter N, spark N, upper, cut N, or a time such as %H:%M",
        ),
        (
            "{load:999999999}",
            "999999999 says nothing; it may be [<^>][width][.decimals], bytes, bytes 1000, celsius, fahrenheit, percent, meter N, spark N, upper, cut N, or a time such as %H:%M",
        ),
    ];
    for (pattern, expected) in cases {
        assert_eq!(fill(pattern), expected, "{pattern}");
    }
}

#[test]
fn output_of_a_program_is_a_line_or_picked_json() {
    let picks = |written: &str| -> FieldSelectors {
        let part = format!("[module.m]\nsource = {{ run = [\"x\"] }}\ntext = \"x\"\npick = {written}\n");
        let checked = checked(&part);
        assert!(checked.usable(), "{:?}", found(&checked));
        checked.rice.module["m"].pick.clone()
    };
    let pick = picks("{ level = \"/station/level\", gone = \"/no/such\" }");
    let read = Values::of_output("{\"station\": {\"level\": 3.2}}\n", &pick).expect("JSON");
    assert_eq!(read.0.get("level"), Some(&FieldValue::Number(3.2)));
    assert_eq!(read.0.get("gone"), None);
    assert!(Values::of_output("ebb", &pick).is_err());
    assert_eq!(
        Values::of_output("ebb\nmore\n", &FieldSelectors::default()).expect("a line").0["value"],
        FieldValue::Text("ebb".to_owned())
    );
    let pick = picks("{ second = \"line 2\", flow = \"re:flow=([a-z]+)\", none = \"re:x+\" }");
    let read = Values::of_output("level=3\nflow=ebb\n", &pick).expect("lines");
    assert_eq!(read.0["second"], FieldValue::Text("flow=ebb".to_owned()));
    assert_eq!(read.0["flow"], FieldValue::Text("ebb".to_owned()));
    assert_eq!((read.0.get("none"), &read.0["value"]), (None, &FieldValue::Text("level=3".to_owned())));
    assert!(Values::of_output("\n\n", &FieldSelectors::default()).expect("nothing").0.is_empty());
}

#[test]
fn grades_are_the_loudest_that_holds() {
    let part = "[module.m]\nsource = \"battery\"\ngrades = { active = \"state = charging\", warn = \"percent < 30\", urgent = [\"percent<=10 %\", \"state != charging\"] }\n";
    let grades = checked(part).rice.module["m"].grades.clone();
    let grade = |percent: f64, state: &str| {
        Values::one("percent", FieldValue::Number(percent)).and("state", FieldValue::Text(state.to_owned())).grade(&grades)
    };
    assert_eq!((grade(50.0, "full"), grade(50.0, "charging"), grade(20.0, "full")), (Grade::Plain, Grade::Active, Grade::Warn));
    assert_eq!((grade(5.0, "discharging"), grade(5.0, "charging")), (Grade::Urgent, Grade::Warn), "all of a list must hold");
    assert_eq!(Values::default().grade(&grades), Grade::Plain);
    for bad in ["load about 3", "= 3", "load >", "load >= much", "", "state ="] {
        assert_eq!(Condition::parse(bad), None, "{bad}");
    }
}

/// Ten pixels a character.
struct Tens;

impl Measure for Tens {
    fn width(&mut self, text: &str, _: &TextStyle) -> f32 {
        text.chars().count() as f32 * 10.0
    }
}

const BAR: &str = "[bar.top]\nstart = [\"staff\"]\nmiddle = [\"title\"]\nend = [\"load\"]\n[module.staff]\nsource = \"workspaces\"\n[module.title]\nsource = \"title\"\ntext = \"{title}\"\n[module.load]\nsource = \"cpu\"\ntext = \"{load:.0}\"\nempty = \"-\"\n";

fn strip(width: i32, title: &str, load: Option<f64>) -> jovrik_core::bar::BarLayout {
    let rice = checked(BAR).rice;
    let mut desk =
        WindowManager::new(Rc::clone(&rice), vec![MonitorFacts::new("A".to_owned(), PixelRect::new(0, 0, width, 600))]);
    desk.handle(WmEvent::Mapped(WindowId(1), WindowFacts { title: title.to_owned(), ..WindowFacts::default() }));
    let known = load.map(|load| ("load".to_owned(), Values::one("load", FieldValue::Number(load)))).into_iter().collect();
    arrange(&desk, 0, "top", &rice.bar["top"], BarInput::of(&known), &mut Tens)
}

fn text(shown: &jovrik_core::bar::PlacedModule) -> String {
    match &shown.what {
        ModuleContent::Text { text, .. } => text.clone(),
        ModuleContent::Staff(marks) => marks.iter().map(|mark| format!("{:?} ", mark.state)).collect(),
        ModuleContent::Layout { sketch, .. } => sketch.name.clone(),
        ModuleContent::Tray { windows, .. } => format!("tray of {windows}"),
    }
}

#[test]
fn a_bar_puts_its_modules_at_both_ends_and_the_middle_and_cuts_the_middle() {
    let strip_of = |width, title| strip(width, title, Some(42.0));
    let wide = strip_of(1000, "Tide table");
    assert_eq!(wide.modules.iter().map(text).collect::<Vec<_>>(), ["Active Empty Empty Empty Empty ", "Tide table", "42"]);
    let middle = wide.modules[1].rect;
    assert_eq!(middle.x + middle.w / 2.0, 500.0);
    let last = wide.modules[2].rect;
    assert_eq!(last.x + last.w, 1000.0 - 18.0);
    let narrow = strip_of(360, "Tide table: neap, station 4");
    assert!(text(&narrow.modules[1]).ends_with('…'), "{}", text(&narrow.modules[1]));
    for pair in narrow.modules.windows(2) {
        assert!(pair[0].rect.x + pair[0].rect.w <= pair[1].rect.x, "none overlaps");
    }
    assert_eq!(text(&strip(1000, "x", None).modules[2]), "-", "empty stands in");
}

#[test]
fn only_modules_that_changed_are_damaged() {
    let before = strip(1000, "Tide table", Some(42.0));
    assert_eq!(strip(1000, "Tide table", Some(42.0)).damage(&before), []);
    let other = strip(1000, "Tide table", Some(43.0));
    let damage = other.damage(&before);
    assert_eq!(damage.len(), 1);
    assert!(damage[0].touches(other.modules[2].rect) && !damage[0].touches(other.modules[1].rect));
    assert_eq!(strip(900, "Tide table", Some(42.0)).damage(&before).len(), 1, "another size: all of it");
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

/// A bar on a monitor of a size, with plain values.
fn bar_on(part: &str, w: i32, h: i32) -> (Rc<Rice>, BarLayout) {
    let checked = checked(part);
    assert!(checked.usable(), "{:?}", found(&checked));
    let rice = checked.rice.clone();
    let mut desk = WindowManager::new(Rc::clone(&rice), vec![MonitorFacts::new("A".to_owned(), PixelRect::new(0, 0, w, h))]);
    desk.handle(WmEvent::Mapped(WindowId(1), WindowFacts { title: "Tide table".to_owned(), ..WindowFacts::default() }));
    let known = ["a", "b", "c", "d"]
        .map(|name| (name.to_owned(), Values::one("value", FieldValue::Text(format!("{name}{name}{name}{name}{name}")))));
    let known = known.into_iter().collect();
    let name = rice.bar.keys().next().expect("a bar").clone();
    let strip = arrange(&desk, 0, &name, &rice.bar[&name], BarInput::of(&known), &mut Tens);
    (rice, strip)
}

fn four(bar: &str, modules: &str) -> String {
    let module = |name: &str| format!("[module.{name}]\nsource = {{ run = [\"x\"] }}\n");
    format!("{bar}\n{}{modules}", ["a", "b", "c", "d"].map(module).concat())
}

fn boxes(strip: &BarLayout) -> Vec<String> {
    let number = |value: f32| value.round() as i32;
    let one = |rect: Rect| format!("{}x{}+{}+{}", number(rect.w), number(rect.h), number(rect.x), number(rect.y));
    strip.modules.iter().map(|shown| format!("{} {}", shown.name, one(shown.rect))).collect()
}

#[test]
fn bars_lie_at_any_edge_inside_of_each_other_and_windows_keep_off_them() {
    let part = "[bar.top]\nthick = 20\n[bar.left]\nedge = \"left\"\nthick = 30\nmargin = [4, 6]\n[bar.low]\nedge = \"bottom\"\nthick = 10\nreserve = false\n[bar.right]\nedge = \"right\"\nthick = 40\n[bar.gone]\nshown = false\nthick = 99\n";
    let rice = checked(part).rice;
    let mut desk = WindowManager::new(rice, vec![MonitorFacts::new("A".to_owned(), PixelRect::new(100, 0, 800, 600))]);
    let at = |desk: &WindowManager, name: &str| desk.bar_area(0, name).map(|area| area.to_string());
    assert_eq!(at(&desk, "top").as_deref(), Some("800x20+100+0"));
    assert_eq!(at(&desk, "left").as_deref(), Some("30x572+106+24"));
    assert_eq!(at(&desk, "low").as_deref(), Some("764x10+136+590"));
    assert_eq!(at(&desk, "right").as_deref(), Some("40x580+860+20"));
    assert_eq!((at(&desk, "gone"), desk.work_area(0).to_string()), (None, "724x580+136+20".to_owned()));
    let act = |desk: &mut WindowManager, action: &str| desk.handle(WmEvent::ActionInvoked(action.parse_action()));
    act(&mut desk, "bar toggle gone");
    assert_eq!(at(&desk, "gone").as_deref(), Some("724x99+136+20"));
    act(&mut desk, "bar toggle left here");
    assert_eq!((at(&desk, "left"), desk.work_area(0).x), (None, 100));
    act(&mut desk, "bar toggle");
    assert_eq!(desk.bars_on(0).count(), 0, "what is shown is hidden");
    act(&mut desk, "bar toggle");
    assert_eq!(desk.bars_on(0).count(), 5);
}

trait ParseAction {
    fn parse_action(&self) -> jovrik_values::action::Action;
}

impl ParseAction for str {
    fn parse_action(&self) -> jovrik_values::action::Action {
        jovrik_values::action::Action::parse(self).expect("an action")
    }
}

#[test]
fn room_is_given_up_by_who_shrinks_first_then_by_the_longest_and_at_last_some_are_left_out() {
    let want = |whole: f32, least: f32, shrink: i64| SizeRequest { whole, least, shrink };
    let given = |wants: &[SizeRequest], room: f32| fit(wants, 10.0, room);
    let wants = [want(100.0, 20.0, 0), want(60.0, 20.0, 5), want(80.0, 80.0, 0)];
    assert_eq!(given(&wants, 260.0), [Some(100.0), Some(60.0), Some(80.0)]);
    assert_eq!(given(&wants, 230.0), [Some(100.0), Some(30.0), Some(80.0)], "the one that is to shrink");
    assert_eq!(given(&wants, 200.0), [Some(80.0), Some(20.0), Some(80.0)], "then the longest");
    assert_eq!(given(&wants, 130.0), [Some(40.0), None, Some(80.0)], "left out, and the rest is shared");
    assert_eq!(given(&wants, 90.0), [Some(60.0), Some(20.0), None]);
    let long = [want(400.0, 400.0, 0), want(300.0, 300.0, 1), want(90.0, 30.0, 5)];
    assert_eq!(given(&long, 520.0), [Some(400.0), None, Some(90.0)], "who left last made room for who left first");
    assert_eq!(given(&wants, 5.0), [None, None, None]);
    assert_eq!(given(&[], 5.0), []);
}

#[test]
fn least_and_most_room_and_sections_are_kept() {
    let (_, strip) = bar_on(
        &four("[bar.top]\nstart = [\"a\", \"b\"]\n", "min = 200\n").replace("[module.a]", "[module.a]\nmax = 30"),
        1000,
        600,
    );
    assert_eq!(boxes(&strip), ["a 30x32+18+0", "b 50x32+72+0"]);
    assert_eq!((text(&strip.modules[0]).as_str(), strip.modules[0].cut), ("aa…", 20.0));
    let sections = "sections = [{ weight = 1, show = [\"a\"] }, { weight = 2, align = \"middle\", show = [\"b\"] }, { weight = 1, align = \"end\", show = [\"c\", \"d\"] }]";
    let (_, strip) = bar_on(&four(&format!("[bar.top]\n{sections}\n"), ""), 1000, 600);
    assert_eq!(boxes(&strip), ["a 50x32+18+0", "b 50x32+475+0", "c 50x32+858+0", "d 50x32+932+0"]);
    let (_, tight) = bar_on(&four(&format!("[bar.top]\n{sections}\n"), ""), 400, 600);
    assert_eq!(boxes(&tight).len(), 4, "{:?} {:?}", boxes(&tight), tight.left_out);
    assert!(tight.modules.iter().all(|shown| shown.name != "c" || shown.cut > 0.0), "only its own section is tight");
    assert_eq!(tight.modules[0].cut, 0.0);
}

#[test]
fn a_bar_at_the_side_stacks_its_modules_and_turns_only_what_is_too_wide() {
    let part = four(
        "[bar.side]\nedge = \"left\"\nthick = 40\nstart = [\"staff\"]\nend = [\"a\", \"short\"]\n",
        "[module.staff]\nsource = \"workspaces\"\n[module.short]\ntext = \"42\"\nicon = \"chip\"\n",
    );
    let (_, strip) = bar_on(&part, 800, 600);
    assert!(strip.upright() && strip.left_out.is_empty());
    let turn = |at: usize| match &strip.modules[at].what {
        ModuleContent::Text { turn, .. } => *turn,
        _ => TextRotation::None,
    };
    assert_eq!((turn(1), turn(2)), (TextRotation::Up, TextRotation::None));
    for pair in strip.modules.windows(2) {
        assert!(pair[0].rect.y + pair[0].rect.h <= pair[1].rect.y, "one below the other: {:?}", boxes(&strip));
    }
    assert_eq!(strip.modules[2].rect.y + strip.modules[2].rect.h, 600.0 - 18.0);
    let (_, right) = bar_on(&part.replace("\"left\"", "\"right\""), 800, 600);
    assert!(
        matches!(&right.modules[1].what, ModuleContent::Text { turn: TextRotation::Down, .. }),
        "text at the right runs down"
    );
    assert_eq!(right.rect.x, 760.0);
}

#[test]
fn groups_fold_and_cases_choose_texts_and_icons() {
    let part = four("[bar.top]\nend = [\"more\"]\n", "[module.more]\ntext = \"more\"\ngroup = [\"a\", \"b\", \"more\"]\n");
    let rice = checked(&part).rice;
    let mut desk = WindowManager::new(Rc::clone(&rice), vec![MonitorFacts::new("A".to_owned(), PixelRect::new(0, 0, 800, 600))]);
    let known = [("a".to_owned(), Values::one("value", FieldValue::Text("x".to_owned())))].into_iter().collect();
    let names = |desk: &WindowManager| -> Vec<String> {
        let strip = arrange(desk, 0, "top", &rice.bar["top"], BarInput::of(&known), &mut Tens);
        strip.modules.iter().map(|shown| shown.name.clone()).collect()
    };
    assert_eq!(names(&desk), ["more"]);
    desk.handle(WmEvent::ActionInvoked("fold more".parse_action()));
    assert_eq!(names(&desk), ["more", "a"], "b has no value and nothing to show without");
    desk.handle(WmEvent::ActionInvoked("fold more".parse_action()));
    assert_eq!(names(&desk), ["more"]);
    let module = checked("[module.v]\nsource = \"volume\"\ntext = \"{percent}\"\nicon = \"speaker\"\ncases = [{ when = \"state = off\", text = \"off\", icon = \"mute\" }]\n").rice.module["v"].clone();
    let of = |state: &str| {
        let values = Values::one("percent", FieldValue::Number(64.0)).and("state", FieldValue::Text(state.to_owned()));
        let (text, icon) = module.case(&values);
        format!("{} {icon:?}", text.fill(&values).unwrap_or_default())
    };
    assert_eq!((of("on"), of("off")), ("64 Drawn(Speaker)".to_owned(), "off Drawn(Mute)".to_owned()));
}

#[test]
fn icons_of_windows_are_found_by_pattern_with_a_fallback() {
    let rice = checked("[icons]\ntidechart = \"chart\"\n\"*mail*\" = \"letter\"\n\"odd\" = \"art/odd.png\"\n").rice;
    let of = |app: &str| format!("{:?}", rice.icon_of(app));
    assert_eq!(of("TideChart"), "Drawn(Chart)");
    assert_eq!(
        (of("gullmail").as_str(), of("odd").as_str(), of("other").as_str()),
        ("Drawn(Letter)", "Picture(\"art/odd.png\")", "Drawn(Window)")
    );
    assert_eq!(
        found(&checked("[module.a]\nicon = \"speeker\"\n[module.b]\nicon = \"⚑\"\n[module.c]\nicon = 3\n")),
        ["setting/type parts/a.toml:2:8", "setting/type parts/a.toml:6:8"]
    );
}

#[test]
fn presses_are_checked_like_bindings() {
    let part = "[module.a]\npress = { left = \"open nothing\", right = [{ label = \"x\", do = \"go nowhere\" }, \"fold a\"], middle = \"clsoe\" }\n[module.b]\npress = { left = [] }\n[module.c]\npress = { up = \"close\" }\n";
    assert_eq!(
        found(&checked(part)),
        [
            "keys/nothing-to-open parts/a.toml:2:18",
            "keys/unknown-action parts/a.toml:2:63",
            "keys/unknown-action parts/a.toml:2:79",
            "keys/unknown-action parts/a.toml:2:99",
            "setting/type parts/a.toml:4:18",
            "setting/unknown parts/a.toml:6:11",
        ]
    );
}

#[test]
fn a_monitor_of_a_scale_has_everything_of_ours_so_much_larger() {
    let part = |scale: &str| {
        format!(
            "[monitor.a]\nmatch = \"A\"\n{scale}[space]\nedge = 10\nalone = 10\n[frame]\nwidth = 2\n[bar.top]\nthick = 20\nstart = [\"staff\", \"layout\"]\nend = [\"load\"]\n[module.staff]\nsource = \"workspaces\"\n[module.layout]\nsource = \"layout\"\n[module.load]\ntext = \"42 %\"\nicon = \"chip\"\n"
        )
    };
    /// A tenth of a size of 11 points for each pixel of a character.
    struct Sized;
    impl Measure for Sized {
        fn width(&mut self, text: &str, face: &TextStyle) -> f32 {
            text.chars().count() as f32 * 10.0 * face.points / 11.0
        }
    }
    let made = |scale: &str, w: i32, h: i32| {
        let checked = checked(&part(scale));
        assert_eq!(found(&checked), Vec::<String>::new());
        let mut desk =
            WindowManager::new(checked.rice.clone(), vec![MonitorFacts::new("A".to_owned(), PixelRect::new(0, 0, w, h))]);
        desk.handle(WmEvent::Mapped(WindowId(1), WindowFacts::default()));
        let strip = arrange(&desk, 0, "top", &checked.rice.bar["top"], BarInput::of(&Default::default()), &mut Sized);
        (desk, strip)
    };
    let (plain, once) = made("", 800, 600);
    let (desk, twice) = made("scale = 2.0\n", 1600, 1200);
    assert_eq!(desk.bar_area(0, "top").expect("it is shown").to_string(), "1600x40+0+0");
    let window = |desk: &WindowManager| desk.arrangement().placed[&WindowId(1)].area;
    assert_eq!(
        (window(&plain).to_string(), window(&desk).to_string()),
        ("776x556+12+32".to_owned(), "1552x1112+24+64".to_owned())
    );
    for (small, large) in once.modules.iter().zip(&twice.modules) {
        assert_eq!(small.rect.times(2.0), large.rect, "{}", small.name);
    }
    let by_hand = jovrik_core::scene::strip_items(desk.rice(), &twice);
    let doubled = jovrik_core::scene::strip_items(plain.rice(), &once).scaled(2.0);
    assert_eq!(by_hand.items.len(), doubled.items.len());
}

#[test]
fn what_a_module_shows_is_cut_where_nobody_would_see_more() {
    let pattern = jovrik_values::Pattern::parse("{value}").expect("a pattern");
    for (length, shown) in [
        (limits::MODULE_TEXT, limits::MODULE_TEXT),
        (limits::MODULE_TEXT + 1, limits::MODULE_TEXT),
        (1_000_000, limits::MODULE_TEXT),
    ] {
        let values = jovrik_values::Values::one("value", jovrik_values::FieldValue::Text("\u{6f6e}".repeat(length)));
        assert_eq!(pattern.fill(&values).map(|text| text.chars().count()), Some(shown), "{length}");
    }
}
