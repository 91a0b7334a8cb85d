use jovrik_core::desk::{DisplayConfig, MonitorFacts, Output, OutputConfig, OutputMode, WindowManager, edid, plan};
use jovrik_core::rice::OutputRotation;
use jovrik_values::PixelRect;
use proptest::prelude::*;

use crate::checked;

fn mode(id: u32, w: i32, h: i32, rate: f64) -> OutputMode {
    OutputMode { id, size: (w, h), rate }
}

fn output(name: &str, x: Option<i32>) -> Output {
    let modes = vec![mode(1, 1920, 1080, 60.0), mode(2, 1920, 1080, 144.0), mode(3, 1280, 800, 60.0)];
    let lit = x.map(|x| OutputConfig { mode: modes[0], at: (x, 0), rotate: OutputRotation::Upright });
    Output { name: name.to_owned(), maker: format!("STA Tideview {name}7"), modes, lit, primary: x == Some(0) }
}

/// A plan in words: `A 1920x1080@60+0+0*`; the main one is marked.
fn told(plan: &DisplayConfig) -> String {
    let one = |(name, lit): &(String, Option<OutputConfig>)| {
        let main = if plan.primary.as_ref() == Some(name) { "*" } else { "" };
        match lit {
            None => format!("{name} dark"),
            Some(lit) => {
                let (w, h) = lit.size();
                format!("{name} {w}x{h}@{}+{}+{}{main}", lit.mode.rate, lit.at.0, lit.at.1)
            }
        }
    };
    plan.outputs.iter().map(one).collect::<Vec<_>>().join(" | ")
}

fn planned(rice: &str, outputs: &[Output]) -> String {
    plan(&checked(rice).rice, outputs).map_or("nothing".to_owned(), |plan| told(&plan))
}

#[test]
fn outputs_are_lit_and_lie_as_the_rice_says() {
    let two = [output("A", Some(0)), output("B", None)];
    assert_eq!(
        planned("[monitor.left]\nmatch = \"A\"\nscale = 2\nworkspaces = []\n", &two),
        "nothing",
        "it says nothing of that"
    );
    let b = |line: &str| planned(&format!("[monitor.main]\nmatch = \"A\"\n[monitor.side]\nmatch = \"B\"\n{line}\n"), &two);
    assert_eq!(b("at = \"right-of main\""), "A 1920x1080@60+0+0* | B 1920x1080@60+1920+0");
    assert_eq!(b("at = \"left-of A\"\nmode = \"1280x800\""), "A 1920x1080@60+1280+0* | B 1280x800@60+0+0");
    assert_eq!(b("at = \"above main\"\nrotate = \"right\""), "A 1920x1080@60+0+1920* | B 1080x1920@60+0+0");
    assert_eq!(b("mode = \"1920x1080\"\nprimary = true"), "A 1920x1080@60+0+0 | B 1920x1080@144+1920+0*", "the best rate");
    assert_eq!(b("mode = \"1920x1080@61\""), "A 1920x1080@60+0+0* | B 1920x1080@60+1920+0", "the nearest rate");
    assert_eq!(b("mirrors = \"main\"\nmode = \"1280x800\""), "A 1920x1080@60+0+0* | B 1280x800@60+0+0");
    assert_eq!(b("off = true"), "A 1920x1080@60+0+0* | B dark");
    assert_eq!(b("at = \"-300,50\""), "A 1920x1080@60+300+0* | B 1920x1080@60+0+50", "the corner of all is the origin");
}

#[test]
fn what_cannot_be_is_said_and_something_is_lit() {
    let two = [output("A", Some(0)), output("B", Some(1920))];
    let amiss = |rice: &str, outputs: &[Output]| plan(&checked(rice).rice, outputs).expect("a plan").amiss;
    assert_eq!(amiss("[monitor.a]\nmatch = \"A\"\nmode = \"800x600\"\n", &two), ["A has no mode 800x600"]);
    let dark = "[monitor.all]\noff = true\n";
    assert_eq!(planned(dark, &two), "A 1920x1080@60+0+0* | B dark");
    assert_eq!(amiss(dark, &two), ["A stays lit: all would be dark"]);
    let ring = "[monitor.a]\nmatch = \"A\"\nat = \"left-of b\"\n[monitor.b]\nmatch = \"B\"\nat = \"left-of a\"\n";
    assert_eq!(planned(ring, &two), "A 1920x1080@60+1920+0* | B 1920x1080@60+0+0");
    assert_eq!(amiss(ring, &two).len(), 1, "one of the ring breaks it");
    assert_eq!(planned("[monitor.a]\noff = true\n", &[]), "nothing");
    let mut bare = output("A", None);
    bare.modes.clear();
    assert_eq!(planned("[monitor.a]\nprimary = true\n", &[bare]), "A dark");
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn whatever_the_rice_says_the_corner_of_all_is_the_origin_and_one_is_lit(lines in proptest::collection::vec((0..6usize, 0..4usize, 0..12usize), 1..8), lit in proptest::collection::vec(proptest::option::of(0..4000i32), 1..6)) {
        let outputs: Vec<Output> = lit.iter().enumerate().map(|(nth, x)| output(&format!("O{nth}"), *x)).collect();
        let mut rice = String::new();
        for (nth, (of, to, what)) in lines.into_iter().enumerate() {
            let line = match what {
                0 => "off = true".to_owned(),
                1 => format!("mirrors = \"O{to}\""),
                2 => "mode = \"1280x800\"\nrotate = \"left\"".to_owned(),
                3 => format!("at = \"{},{}\"", to as i32 * 700 - 900, nth * 55),
                4 => "primary = true".to_owned(),
                n => format!("at = \"{} O{to}\"", ["right-of", "left-of", "above", "below"][n % 4]),
            };
            rice.push_str(&format!("[monitor.r{nth}]\nmatch = \"O{of}\"\n{line}\n"));
        }
        if let Some(plan) = plan(&checked(&rice).rice, &outputs) {
            let all: Vec<OutputConfig> = plan.outputs.iter().filter_map(|(_, lit)| *lit).collect();
            prop_assert!(!all.is_empty());
            prop_assert_eq!(all.iter().map(|lit| lit.at.0).min(), Some(0));
            prop_assert_eq!(all.iter().map(|lit| lit.at.1).min(), Some(0));
            prop_assert_eq!(plan.outputs.len(), outputs.len());
            let primary = plan.outputs.iter().find(|(name, _)| Some(name) == plan.primary.as_ref());
            prop_assert!(primary.is_none_or(|(_, lit)| lit.is_some()));
        }
    }
}

#[test]
fn a_monitor_says_who_made_it_and_is_known_by_that() {
    let mut block = vec![0_u8, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0];
    // S, T and A as five bits each; a number of the model, one of its own.
    block.extend(((19_u16 << 10) | (20 << 5) | 1).to_be_bytes());
    block.extend([0x34, 0x12, 42, 0, 0, 0]);
    block.resize(54, 0);
    block.extend([1; 18]);
    for (tag, text) in [(0xfc, &b"Tideview 27\n "[..]), (0xff, b"B-0042\n"), (0x10, b"")] {
        let mut one = vec![0, 0, 0, tag, 0];
        one.extend(text);
        one.resize(18, b' ');
        block.extend(one);
    }
    block.resize(128, 0);
    assert_eq!(edid(&block).as_deref(), Some("STA Tideview 27 B-0042"));
    block[54 + 18 + 3] = 0x10;
    block[54 + 36 + 3] = 0x10;
    assert_eq!(edid(&block).as_deref(), Some("STA 4660 42"));
    for broken in [&block[..127], &[0; 128], b""] {
        assert_eq!(edid(broken), None);
    }
    // In a rice: by maker, and by place.
    let two = [output("A", Some(0)), output("B", Some(1920))];
    let by = |pattern: &str| planned(&format!("[monitor.wide]\nmatch = \"{pattern}\"\nmode = \"1280x800\"\n"), &two);
    assert_eq!(by("*Tideview B7*"), "A 1920x1080@60+0+0* | B 1280x800@60+1920+0");
    assert_eq!(by("1920,0"), by("STA * B7"));
    let facts =
        MonitorFacts { maker: "STA Tideview 27".to_owned(), ..MonitorFacts::new("DP-1", PixelRect::new(0, 0, 1000, 800)) };
    let rice =
        checked("[monitor.wide]\nmatch = \"STA *\"\nscale = 2\n[bar.low]\nmonitor = \"*27\"\n[bar.none]\nmonitor = \"DP-2\"\n")
            .rice;
    let desk = WindowManager::new(rice, vec![facts]);
    assert_eq!((desk.scale(0), desk.bars_seen().into_iter().collect::<Vec<_>>()), (2.0, vec!["low".to_owned()]));
}
