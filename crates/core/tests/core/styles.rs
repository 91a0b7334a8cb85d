//! The cascade: who says what of an element, what is inherited, what is never seen, what can be read.

use jovrik_core::rice::Rice;
use jovrik_core::style::{StyledElement, contrast, each_element, place, resolve};
use jovrik_schema::Colour;
use jovrik_values::{ElementState, Fill};

use crate::{checked, found};

const BAR: &str = "[bar.top]\nend = [\"cpu\", \"title\"]\n[module.cpu]\nsource = \"cpu\"\ntext = \"{load}\"\nicon = \"chip\"\ngrades = { warn = \"load > 80\" }\n[module.title]\nsource = \"title\"\ntext = \"{title}\"\n";

fn rice(style: &str) -> std::rc::Rc<Rice> {
    let checked = checked(&format!("{BAR}{style}"));
    assert!(checked.usable(), "{:?}", found(&checked));
    checked.rice.clone()
}

fn module<'a>(name: &'a str, states: &'a [ElementState]) -> [StyledElement<'a>; 2] {
    [StyledElement { kind: "bar", name: "top", states: &[] }, StyledElement { kind: "bar.module", name, states }]
}

fn css(text: &str) -> Colour {
    Colour::css(text).expect("a colour")
}

#[test]
fn text_is_inherited_and_boxes_are_not() {
    let rice = rice("[style.bar]\nfill = \"#123456\"\nink = \"#ffeedd\"\nbold = true\nradius = 5\nsize = 9\n");
    let style = resolve(&rice, &module("cpu", &[]));
    assert_eq!((style.ink, style.face.bold, style.face.points), (css("#ffeedd"), true, 9.0));
    assert_eq!((style.fill.clone(), style.radius.0), (Fill::NONE, [0; 4]), "a module does not repaint its bar's paper");
    assert_eq!(style.gap, 6.0, "what nobody says is built in");
    let bar = resolve(&rice, &module("cpu", &[])[..1]);
    assert_eq!((bar.fill, bar.radius.0), (css("#123456").into(), [5; 4]));
}

#[test]
fn states_beat_names_and_among_states_the_stronger() {
    let rice = rice(
        "[style.bar.module.cpu]\nink = \"#000001\"\nfill = \"#000002\"\n[style.bar.module.hover]\nink = \"#000003\"\n[style.bar.module.cpu.warn]\nfill = \"#000004\"\n[style.bar.top]\nink = \"#000005\"\n",
    );
    let ink = |states: &[ElementState]| resolve(&rice, &module("cpu", states)).ink;
    assert_eq!(ink(&[]), css("#000001"), "the longer name");
    assert_eq!(ink(&[ElementState::Hover]), css("#000003"), "any state beats every plain element");
    assert_eq!(
        ink(&[ElementState::Hover, ElementState::Warn]),
        rice.palette.current.warn,
        "the built-in warn is stronger than hover"
    );
    assert_eq!(resolve(&rice, &module("cpu", &[ElementState::Warn])).fill, css("#000004").into());
    assert_eq!(resolve(&rice, &module("title", &[])).ink, css("#000005"), "the named bar gives its ink to what is in it");
    assert_eq!(resolve(&rice, &module("title", &[])).fill, Fill::NONE);
}

#[test]
fn opacity_fades_all_of_an_element_and_gradients_are_read() {
    let rice = rice(
        "[style.bar]\nfill = \"linear-gradient(90deg, #000, @accent/50% 25%, #fff)\"\n[style.bar.module]\nfill = \"#fff\"\nopacity = \"50%\"\nline = { width = 2, fill = \"red\", at = \"inner\" }\nradius = [1, 2, 3, 4]\npad = [2, 6]\n",
    );
    let Fill::Gradient(gradient) = resolve(&rice, &module("cpu", &[])[..1]).fill else { panic!("a gradient") };
    assert_eq!(gradient.angle, 90.0);
    let accent = rice.palette.current.accent.faded(0.5);
    assert_eq!(gradient.stops, [(0.0, css("#000")), (0.25, accent), (1.0, css("#fff"))]);
    let style = resolve(&rice, &module("cpu", &[]));
    assert_eq!(style.fill, Fill::Plain(Colour { a: 128, ..css("#fff") }));
    assert_eq!((style.radius.0, style.pad.left, style.pad.top, style.line.width), ([1, 2, 3, 4], 6, 2, 2));
}

#[test]
fn what_cannot_be_a_fill_says_what_could() {
    let bad = [
        "fill = \"linear-gradient(red)\"",
        "fill = \"linear-gradient(45deg, red, bleu)\"",
        "fill = \"linear-gradient(45deg, red 120%, blue)\"",
        "fill = 3",
        "line = { width = 1 }",
        "radius = [1, 2]",
        "radius = -1",
        "pad = [1, 2, 3]",
        "opacity = 50",
        "opacity = \"150%\"",
    ];
    for bad in bad {
        let found = found(&checked(&format!("{BAR}[style.bar]\n{bad}\n")));
        assert_eq!(found.len(), 1, "{bad}: {found:?}");
        assert!(found[0].starts_with("setting/"), "{bad}: {found:?}");
    }
}

#[test]
fn elements_are_read_as_kind_name_and_state() {
    let read = |path: &str| {
        let steps: Vec<&str> = path.split('.').collect();
        match place(&steps) {
            Ok(place) => format!("{} {:?} {:?}", place.kind, place.name, place.state),
            Err(unknown) => format!("{} of {}", unknown.good, steps.len()),
        }
    };
    assert_eq!(read("bar"), "bar None None");
    assert_eq!(read("bar.top"), "bar Some(\"top\") None");
    assert_eq!(read("bar.module.warn"), "bar.module None Some(Warn)");
    assert_eq!(read("bar.module.cpu.warn"), "bar.module Some(\"cpu\") Some(Warn)");
    assert_eq!(read("menu.item.picked"), "menu.item None Some(Picked)");
    for (bad, good) in [
        ("baar", 0),
        ("menu.thing", 1),
        ("bar.module.cpu.warm", 3),
        ("bar.module.warn.cpu", 3),
        ("bar.module.a.b.c", 4),
        ("hint.warn", 1),
    ] {
        assert_eq!(read(bad), format!("{good} of {}", bad.split('.').count()), "{bad}");
    }
    for (path, _) in each_element() {
        assert!(place(&path.split('.').collect::<Vec<_>>()).is_ok(), "{path}");
    }
}

#[test]
fn styles_of_nothing_and_of_what_is_never_seen_are_told() {
    let told = |style: &str| found(&checked(&format!("{BAR}{style}")));
    assert_eq!(told("[style.bar.modul]\nink = \"red\"\n"), ["style/unknown-element parts/a.toml:11:12"]);
    assert_eq!(told("[style.bar.module.cpuu]\nink = \"red\"\n"), ["style/unknown-element parts/a.toml:11:19"]);
    assert_eq!(told("[style.noticed]\nink = \"@ink\"\n"), ["style/unknown-element parts/a.toml:11:8"]);
    assert_eq!(
        told("[style.bar.module.cpu.urgent]\nink = \"@ink\"\n"),
        ["style/unused parts/a.toml:11:23"],
        "no grade says urgent"
    );
    assert_eq!(
        told("[style.bar.module.cpu.hover]\nink = \"@ink\"\n"),
        ["style/unused parts/a.toml:11:23"],
        "nothing answers a press"
    );
    assert_eq!(told("[style.bar.icon]\nbold = true\n"), ["style/unused parts/a.toml:12:1"], "a drawing has no text");
    assert_eq!(
        told("[module.alone]\ntext = \"x\"\n[style.bar.module.alone]\nink = \"@ink\"\n"),
        ["style/unused parts/a.toml:13:19"]
    );
    assert_eq!(told("[style]\nink = \"red\"\n"), ["setting/unknown parts/a.toml:12:1"]);
    assert_eq!(told("[style.bar]\nfil = \"red\"\n"), ["setting/unknown parts/a.toml:12:1"]);
}

#[test]
fn contrast_is_that_of_wcag_and_is_met_by_what_is_built_in() {
    assert!((contrast(css("#fff"), css("#000")) - 21.0).abs() < 1e-9);
    assert!((contrast(css("#767676"), css("#fff")) - 4.54).abs() < 0.01, "the grey of the specification's example");
    assert_eq!(found(&checked(BAR)), Vec::<String>::new());
    let noon = "[palette]\nuse = \"noon\"\n[palette.noon]\npaper = \"#f6f3ec\"\nraise = \"#eae6dc\"\nline = \"#c7c4b7\"\nmuted = \"#53676c\"\nink = \"#152a32\"\naccent = \"#006758\"\ncalm = \"#255e90\"\ngood = \"#2c6a31\"\nwarn = \"#875806\"\nalert = \"#ae2e27\"\n";
    assert_eq!(found(&checked(&format!("{BAR}{noon}"))), Vec::<String>::new());
}

#[test]
fn text_that_cannot_be_read_is_told_where_it_was_said() {
    let told = |style: &str| found(&checked(&format!("{BAR}{style}")));
    assert_eq!(told("[style.bar.module.cpu]\nink = \"#333\"\n"), ["style/contrast parts/a.toml:12:7"]);
    assert_eq!(told("[style.bar]\nfill = \"@ink\"\n"), ["style/contrast parts/a.toml:12:8"], "one wrong colour is told once");
    assert_eq!(told("[style.bar.module]\nfill = \"@paper\"\nink = \"@paper/99%\"\n"), ["style/contrast parts/a.toml:13:7"]);
    // A translucent fill lets the backdrop through: it is what they come to that counts.
    assert_eq!(told("[backdrop]\nfill = \"#fff\"\n[style.bar]\nfill = \"@paper/10%\"\n").len(), 1);
    assert_eq!(told("[backdrop]\nfill = \"#fff\"\n[style.bar]\nfill = \"@paper/95%\"\n"), Vec::<String>::new());
    // Large text needs less.
    assert_eq!(told("[style.bar.module.title]\nink = \"#66797c\"\n").len(), 1);
    assert_eq!(told("[style.bar.module.title]\nink = \"#66797c\"\nsize = 18\n"), Vec::<String>::new());
    assert_eq!(
        told("[palette.ebb]\nwarn = \"#20302f\"\n"),
        ["style/contrast parts/a.toml:12:8"],
        "the palette is the place when nothing else says it"
    );
}

#[test]
fn names_that_styles_use_otherwise_are_reserved() {
    let told = found(&checked(
        "[module.ink]\ntext = \"x\"\n[module.warn]\ntext = \"x\"\n[bar.module]\n[bar.top]\n[module.cpu]\ntext = \"x\"\n",
    ));
    assert_eq!(
        told,
        ["setting/reserved parts/a.toml:1:9", "setting/reserved parts/a.toml:3:9", "setting/reserved parts/a.toml:5:6"]
    );
}
