//! Checks that ask something of a computer: programs, fonts, characters, monitors, and what a rice says it needs.

use jovrik_core::check::{Files, HostInfo, OverlayHost, check};
use jovrik_core::desk::MonitorFacts;
use jovrik_text::Source;
use jovrik_values::PixelRect;

use crate::found;

/// A computer as the test says it is.
#[derive(Default)]
struct Computer {
    programs: &'static [&'static str],
    fonts: &'static [&'static str],
    /// Characters that no font has.
    lacking: &'static str,
    monitors: &'static [&'static str],
}

impl HostInfo for Computer {
    fn hostname(&self) -> Option<String> {
        Some("skiff".to_owned())
    }
    fn has_program(&self, name: &str) -> Option<bool> {
        Some(self.programs.contains(&name))
    }
    fn has_font(&self, family: &str) -> Option<bool> {
        Some(self.fonts.contains(&family))
    }
    fn lacks(&self, _: &str, text: &str) -> Vec<char> {
        text.chars().filter(|c| self.lacking.contains(*c)).collect()
    }
    fn monitors(&self) -> Option<Vec<MonitorFacts>> {
        let one = |(at, name): (usize, &&str)| MonitorFacts::new(*name, PixelRect::new(at as i32 * 1920, 0, 1920, 1080));
        Some(self.monitors.iter().enumerate().map(one).collect())
    }
}

fn told(manifest: &str, files: &[(&str, &str)], around: &dyn HostInfo) -> Vec<String> {
    let mut all = Files { manifest: Some(Source::new("rice.toml", manifest)), ..Files::default() };
    for (name, text) in files {
        all.add(Source::new(*name, *text));
    }
    let checked = check(all, &[], around);
    assert!(checked.usable(), "what a computer lacks stops nothing");
    found(&checked)
}

const PLAIN: &str = "[rice]\nname = \"test\"\n";

#[test]
fn programs_are_looked_for_wherever_they_are_named() {
    let part = "[program]\nterminal = \"xterm\"\ncharts = { run = [\"tidechart\", \"--today\"] }\n\
        [start.logs]\nrun = [\"loghouse\"]\n[start.warm]\nshell = \"anything goes here\"\n\
        [module.tide]\nsource = { run = [\"sluice\"] }\n[keys.desk]\n\"Lead+x\" = \"run marshmap --zoom 3\"\n";
    let all = Computer { programs: &["xterm", "tidechart", "loghouse", "sluice", "marshmap"], ..Computer::default() };
    assert_eq!(told(PLAIN, &[("parts/a.toml", part)], &all), Vec::<String>::new());
    let none = [
        "program/not-found parts/a.toml:2:12",
        "program/not-found parts/a.toml:3:18",
        "program/not-found parts/a.toml:5:7",
        "program/not-found parts/a.toml:9:18",
        "program/not-found parts/a.toml:11:12",
    ];
    assert_eq!(told(PLAIN, &[("parts/a.toml", part)], &Computer::default()), none);
}

#[test]
fn fonts_that_a_person_names_must_be_there_and_defaults_are_nobody_s_fault() {
    let computer = Computer { fonts: &["DejaVu Sans"], ..Computer::default() };
    assert_eq!(told(PLAIN, &[], &computer), Vec::<String>::new(), "the default of mono is not there either");
    let part = "[type]\ntext = \"DejaVu Sans\"\nmono = \"Estuary Mono\"\n";
    assert_eq!(told(PLAIN, &[("parts/a.toml", part)], &computer), ["type/font-missing parts/a.toml:3:8"]);
    let followed = "[type]\ntext = \"Estuary Sans\"\nmono = \"=type.text\"\n";
    let both = ["type/font-missing parts/a.toml:2:8"];
    assert_eq!(told(PLAIN, &[("parts/a.toml", followed)], &computer), both);
}

#[test]
fn characters_that_are_shown_are_looked_for_in_the_font() {
    let computer = Computer { lacking: "☃⚓", ..Computer::default() };
    let part = "[workspaces]\norder = [\"charts\", \"⚓ field\"]\n[module.a]\nsource = \"time\"\ntext = \"☃ {time}\"\nempty = \"plain\"\n# ☃ is fine in a comment\n";
    assert_eq!(
        told(PLAIN, &[("parts/a.toml", part)], &computer),
        ["type/no-glyph parts/a.toml:2:20", "type/no-glyph parts/a.toml:5:8"]
    );
}

#[test]
fn what_is_needed_is_compared_with_what_is_used_over_all_overlays() {
    let manifest =
        "[rice]\nname = \"test\"\n[needs]\nfonts = [\"DejaVu Sans\"]\nprograms = [\"xterm\", \"sluice\", \"dredger\"]\n";
    let computer = Computer { programs: &["xterm", "loghouse"], fonts: &["DejaVu Sans", "DejaVu Serif"], ..Computer::default() };
    let part = "[program]\nterminal = \"xterm\"\nlogs = \"loghouse\"\n[type]\ntext = \"DejaVu Sans\"\nmono = \"DejaVu Serif\"\n";
    // An overlay that does not hold here uses it, so it is needed all the same.
    let overlay = "[overlay]\nwhen = { host = \"breakwater\" }\n[module.tide]\nsource = { run = [\"sluice\"] }\n";
    assert_eq!(
        told(manifest, &[("parts/a.toml", part), ("overlays/b.toml", overlay)], &computer),
        ["program/needless rice.toml:5:32", "program/not-in-needs parts/a.toml:3:8", "type/not-in-needs parts/a.toml:6:8",]
    );
    let silent = "[rice]\nname = \"test\"\n[needs]\nfonts = [\"DejaVu Sans\", \"DejaVu Serif\"]\n";
    assert_eq!(
        told(silent, &[("parts/a.toml", part)], &computer),
        Vec::<String>::new(),
        "without a list of programs none is missed"
    );
}

#[test]
fn monitors_are_those_of_this_computer_and_of_the_machines_that_are_known() {
    let computer = Computer { monitors: &["DP-1"], ..Computer::default() };
    let part = "[monitor.left]\nmatch = \"DP-*\"\n[monitor.right]\nmatch = \"HDMI-*\"\nat = \"right-of left\"\n[bar.a]\nmonitor = \"VGA-1\"\n";
    assert_eq!(
        told(PLAIN, &[("parts/a.toml", part)], &computer),
        ["monitor/never parts/a.toml:4:9", "monitor/never parts/a.toml:7:11"]
    );
    let machine = "host = \"breakwater\"\n[monitor]\nHDMI-1 = \"1280x1024\"\nVGA-1 = \"1024x768\"\n";
    assert_eq!(told(PLAIN, &[("parts/a.toml", part), ("machines/b.toml", machine)], &computer), Vec::<String>::new());
}

#[test]
fn a_glance_asks_for_what_decides_and_for_nothing_else() {
    let computer = Computer { monitors: &["DP-1"], lacking: "☃", ..Computer::default() };
    let part = "[monitor.right]\nmatch = \"HDMI-*\"\n[type]\ntext = \"Estuary Sans\"\n[module.a]\ntext = \"☃\"\n";
    let overlay = "[overlay]\nwhen = { host = \"dinghy\" }\n[space]\nedge = \"wide\"\n";
    let files = [("parts/a.toml", part), ("overlays/b.toml", overlay)];
    assert_eq!(told(PLAIN, &files, &OverlayHost { around: &computer, elsewhere: false }), Vec::<String>::new());
    let elsewhere = told(PLAIN, &files, &OverlayHost { around: &computer, elsewhere: true });
    assert_eq!(elsewhere, ["setting/type overlays/b.toml:4:8", "monitor/never parts/a.toml:2:9"]);
    assert_eq!(told(PLAIN, &files, &computer).len(), 4);
    let held = "[overlay]\nwhen = { host = \"skiff\", monitor = \"DP-*\" }\n[space]\nedge = 3\n";
    let mut all = Files { manifest: Some(Source::new("rice.toml", PLAIN)), ..Files::default() };
    all.add(Source::new("overlays/b.toml", held));
    let checked = check(all, &[], &OverlayHost { around: &computer, elsewhere: false });
    assert_eq!(checked.rice.space.edge.0, 3, "conditions are asked");
}
