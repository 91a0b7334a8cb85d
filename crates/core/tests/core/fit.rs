//! Whether bars and widgets fit the monitors of a computer, by how wide its texts are.

use jovrik_core::check::{CheckedRice, Files, HostInfo, check};
use jovrik_core::desk::MonitorFacts;
use jovrik_core::scene::TextStyle;
use jovrik_text::Source;
use jovrik_values::PixelRect;

use crate::{MANIFEST, found};

/// A computer with monitors of these sizes, on which each character takes its share of the type's size.
struct Sized {
    monitors: Vec<(i32, i32)>,
    /// Whether it knows how wide a text is.
    measures: bool,
}

impl HostInfo for Sized {
    fn monitors(&self) -> Option<Vec<MonitorFacts>> {
        let one =
            |(nth, (w, h)): (usize, &(i32, i32))| MonitorFacts::new(format!("DP-{}", nth + 1), PixelRect::new(0, 0, *w, *h));
        Some(self.monitors.iter().enumerate().map(one).collect())
    }
    fn width(&self, text: &str, face: &TextStyle) -> Option<f32> {
        self.measures.then_some(text.chars().count() as f32 * face.points * 0.6)
    }
}

fn on(monitors: &[(i32, i32)], part: &str) -> CheckedRice {
    let mut files = Files { manifest: Some(Source::new("rice.toml", MANIFEST)), ..Files::default() };
    files.add(Source::new("parts/a.toml", part));
    check(files, &[], &Sized { monitors: monitors.to_vec(), measures: true })
}

fn titles(checked: &CheckedRice) -> Vec<(&str, &str)> {
    checked.problems.iter().map(|problem| (problem.code, problem.title.as_str())).collect()
}

/// A bar with so many modules of a word each.
fn bar(words: usize, more: &str) -> String {
    let names: Vec<String> = (0..words).map(|nth| format!("word{nth}")).collect();
    let list: Vec<String> = names.iter().map(|name| format!("\"{name}\"")).collect();
    let modules: String = names.iter().map(|name| format!("[module.{name}]\ntext = \"{name} harbour\"\n{more}")).collect();
    format!("[bar.top]\nthick = 30\nstart = [{}]\n{modules}", list.join(", "))
}

#[test]
fn what_a_bar_has_no_room_for_is_told_for_each_monitor_size_once() {
    assert_eq!(titles(&on(&[(1920, 1080)], &bar(8, ""))), []);
    let narrow = on(&[(640, 480), (640, 480)], &bar(60, "min = 60\n"));
    let all: Vec<_> = titles(&narrow).into_iter().filter(|(code, _)| *code == "bar/overlap").collect();
    let cut = titles(&narrow).into_iter().filter(|(code, _)| *code == "bar/cut").count();
    assert!(all.len() + cut >= 59 && cut > 0, "each is at its least, or left out: {all:?}");
    let mut once: Vec<_> = all.clone();
    once.dedup();
    assert_eq!(once, all, "the same is not told of both");
    assert!(all[0].1.starts_with("the bar top has no room for word") && all[0].1.ends_with("on DP-1 (640x480)"), "{all:?}");
    assert!(found(&narrow).iter().all(|one| one.contains(" parts/a.toml:3:")), "where it is listed: {:?}", found(&narrow));
    // Without a way to measure nothing can be said.
    let mut files = Files { manifest: Some(Source::new("rice.toml", MANIFEST)), ..Files::default() };
    files.add(Source::new("parts/a.toml", bar(60, "min = 60\n")));
    assert_eq!(titles(&check(files, &[], &Sized { monitors: vec![(640, 480)], measures: false })), []);
}

#[test]
fn a_module_that_may_not_be_so_long_is_cut_and_that_is_told() {
    let long = "a sentence that goes on for much longer than any bar would have room for, and then some more of it";
    let part = |module: &str| format!("[bar.top]\nthick = 30\nstart = [\"says\"]\n[module.says]\n{module}");
    let cut = on(&[(640, 480)], &part(&format!("text = \"{long}\"\n")));
    let all = titles(&cut);
    assert!(matches!(all.as_slice(), [("bar/cut", title)] if *title == "the bar top cuts off says on DP-1 (640x480)"), "{all:?}");
    assert!(cut.problems[0].marks[0].note.contains(" missing of 640"), "{:?}", cut.problems[0].marks[0].note);
    // One that says how long it may be expects that.
    assert_eq!(titles(&on(&[(640, 480)], &part(&format!("text = \"{long}\"\nmax = 200\n")))), []);
    assert_eq!(titles(&on(&[(1920, 1080)], &part(&format!("text = \"{long}\"\n")))), []);
}

#[test]
fn a_bar_at_the_side_is_as_long_as_the_monitor_is_high() {
    let part = bar(12, "").replace("thick = 30", "thick = 120\nedge = \"left\"");
    assert_eq!(titles(&on(&[(640, 1080)], &part)), []);
    let low = on(&[(1920, 300)], &part);
    assert!(titles(&low).iter().any(|(code, _)| *code == "bar/overlap"), "{:?}", titles(&low));
}

#[test]
fn widgets_lie_on_the_screen_and_not_over_each_other() {
    let part = |second: &str| {
        format!(
            "[widget.one]\ntext = \"a word that is longer than the other one\"\nat = \"top-left\"\n[widget.two]\ntext = \"another word\"\n{second}"
        )
    };
    assert_eq!(titles(&on(&[(1000, 800)], &part("at = \"bottom-right\"\n"))), []);
    let over = on(&[(1000, 800)], &part("at = \"top-left\"\n"));
    assert_eq!(titles(&over), [("widget/overlap", "the widgets one and two lie over each other")]);
    assert_eq!(titles(&on(&[(1000, 800)], &part("at = \"below one\"\n"))), []);
    assert_eq!(titles(&on(&[(1000, 800)], &part("at = \"inside one\"\n"))), [], "that is meant");
    let beside = on(&[(1000, 800)], &part("at = \"bottom-right\"\noffset = [400, 0]\n"));
    assert_eq!(titles(&beside), [("widget/off-screen", "the widget two does not fit the screen")]);
    assert!(beside.problems[0].marks[0].note.ends_with("beside DP-1 (1000x800)"), "{:?}", beside.problems[0].marks[0].note);
    // On two monitors it is told once.
    assert_eq!(titles(&on(&[(1000, 800), (1000, 800)], &part("at = \"top-left\"\n"))).len(), 1);
}

#[test]
fn widgets_of_cores_have_some_and_fields_are_those_of_the_source() {
    let told = |part: &str| -> Vec<(&'static str, String)> {
        let checked = on(&[(1000, 800)], part);
        let wrong = checked.problems.iter().filter(|problem| problem.code != "widget/off-screen");
        wrong.map(|problem| (problem.code, problem.marks[0].note.clone())).collect()
    };
    let cpu = "[module.load]\nsource = \"cpu\"\n[module.clock]\nsource = \"time\"\n";
    assert_eq!(told(&format!("{cpu}[widget.a]\nkind = \"ring\"\nmodule = \"load\"\neach = \"core\"\nat = \"top-left\"\n")), []);
    let of_time = told(&format!(
        "{cpu}[widget.a]\nkind = \"text\"\nmodule = \"clock\"\neach = \"core\"\ntext = \"{{time}}\"\nat = \"left\"\n"
    ));
    assert_eq!(of_time, [("widget/cores", "the source of clock has no cores: only cpu has".to_owned())]);
    let graph = told(&format!("{cpu}[widget.a]\nkind = \"graph\"\nmodule = \"load\"\neach = \"core\"\nat = \"left\"\n"));
    assert_eq!(graph, [("widget/cores", "a graph is one for all: rings, meters and texts can be several".to_owned())]);
    let field = told(&format!("{cpu}[widget.a]\nkind = \"ring\"\nmodule = \"load\"\nfield = \"laod\"\nat = \"left\"\n"));
    assert_eq!(field, [("module/unknown-field", "did you mean load?".to_owned())]);
    let mark = told(&format!("{cpu}[widget.a]\nkind = \"meter\"\nmodule = \"load\"\nmark = \"tide\"\nat = \"left\"\n"));
    assert!(matches!(mark.as_slice(), [("module/unknown-field", note)] if note.starts_with("its fields are ")), "{mark:?}");
}

#[test]
fn a_bar_is_divided_in_one_way_and_times_stand_in_braces() {
    let both = on(
        &[(1920, 1080)],
        "[bar.top]\nthick = 30\nstart = [\"a\"]\nsections = [{ show = [\"a\"] }]\n[module.a]\ntext = \"a\"\n",
    );
    assert_eq!(titles(&both), [("bar/sections", "the bar top has sections beside start, middle and end")]);
    let stray = on(&[(1920, 1080)], "[module.a]\nsource = \"time\"\ntext = \"%H:%M\"\n");
    assert_eq!(titles(&stray).first().map(|(code, _)| *code), Some("module/time-outside"), "{:?}", titles(&stray));
    let case = on(
        &[(1920, 1080)],
        "[module.a]\nsource = \"cpu\"\ntext = \"{load}\"\ncases = [{ when = \"laod > 3\", text = \"much\" }]\n",
    );
    assert_eq!(titles(&case), [("module/unknown-field", "the source of a has no field laod")]);
    let run = on(&[(1920, 1080)], "[module.a]\nsource = { run = [\"sluice\"] }\ntext = \"{level}\"\n");
    let advice = run.problems.iter().find(|problem| problem.code == "module/unknown-field").map(|problem| problem.advice.clone());
    assert!(advice.is_some_and(|all| all.iter().any(|one| one.write == "pick = { level = \"/level\" }")), "{:?}", titles(&run));
}
