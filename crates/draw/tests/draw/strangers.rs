//! Pictures and drawings of strangers: what makes sense is drawn, the rest is refused soon.

use std::path::Path;

use jovrik_core::rice::Fit;
use jovrik_core::scene::{Item, Rect, Scene, THEMED};
use jovrik_draw::{Brush, Canvas, FontPlaces, Sent};

/// What is drawn of an icon of a theme in a box of 16 pixels: the colour of the middle. Red stands in.
fn drawn(folder: &Path, name: &str) -> ([u8; 4], Brush) {
    let mut brush = Brush::new(FontPlaces::default(), folder);
    let themes = folder.to_owned();
    brush.pictures.find_icons(Box::new(move |name, _| Some(themes.join(name)).filter(|path| path.exists())));
    let rect = Rect::new(0.0, 0.0, 16.0, 16.0);
    let mut stand_in = Scene::default();
    stand_in.fill(rect, 0.0, jovrik_core::rice::Colour { r: 255, g: 0, b: 0, a: 255 });
    let path = format!("{THEMED}{name}");
    let scene = Scene { items: vec![Item::Picture { rect, path, fit: Fit::Contain, otherwise: stand_in.items }] };
    let mut canvas = Canvas::new(16, 16).expect("room");
    canvas.draw(&scene, (0.0, 0.0), &mut brush);
    let at = (8 * 16 + 8) * 4;
    ([0, 1, 2, 3].map(|channel| canvas.bytes()[at + channel]), brush)
}

const RED: [u8; 4] = [255, 0, 0, 255];

#[test]
fn drawings_are_drawn_and_what_would_never_end_is_refused_for_what_stands_in() {
    let folder = tempfile::tempdir().expect("a folder");
    let svg = |inside: &str| {
        format!(
            "<svg xmlns=\"http://www.w3.org/2000/svg\" xmlns:xlink=\"http://www.w3.org/1999/xlink\" width=\"16\" height=\"16\">{inside}</svg>"
        )
    };
    // Each level uses the one below ten times.
    let mut bomb = "<g id=\"a0\"><rect width=\"1\" height=\"1\"/></g>".to_owned();
    for level in 1..12 {
        let uses = format!("<use xlink:href=\"#a{}\"/>", level - 1).repeat(10);
        bomb.push_str(&format!("<g id=\"a{level}\">{uses}</g>"));
    }
    let entities: String = (1..20).map(|nth| format!("<!ENTITY e{nth} \"&e{0};&e{0};&e{0};&e{0}\">", nth - 1)).collect();
    let deep = format!("{}{}", "<g>".repeat(50_000), "</g>".repeat(50_000));
    let filters = "<filter id=\"f\"><feGaussianBlur stdDeviation=\"9\"/></filter>".repeat(500);
    let files = [
        ("good.svg", svg("<rect width=\"16\" height=\"16\" fill=\"#00f\"/>")),
        ("used.svg", svg("<g id=\"a\"><rect width=\"16\" height=\"8\" fill=\"#00f\"/></g><use xlink:href=\"#a\" y=\"8\"/>")),
        ("bomb.svg", svg(&bomb)),
        ("round.svg", svg("<g id=\"a\"><use xlink:href=\"#b\"/></g><g id=\"b\"><use xlink:href=\"#a\"/></g>")),
        (
            "pattern.svg",
            svg(
                "<pattern id=\"p\" width=\"1\" height=\"1\"><rect fill=\"url(#p)\"/></pattern><rect width=\"16\" height=\"16\" fill=\"url(#p)\"/>",
            ),
        ),
        ("deep.svg", svg(&deep)),
        ("filters.svg", svg(&filters)),
        ("entities.svg", format!("<!DOCTYPE svg [<!ENTITY e0 \"x\">{entities}]>{}", svg("<text>&e19;</text>"))),
        ("words.svg", svg("<text y=\"12\">no fonts</text>")),
        (
            "huge.svg",
            svg("<rect width=\"16\" height=\"16\"/>").replacen(
                "width=\"16\" height=\"16\"",
                "width=\"1e30\" height=\"1e-30\"",
                1,
            ),
        ),
        ("open.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"><rect".to_owned()),
        ("none.svg", String::new()),
        ("none.png", "no picture".to_owned()),
    ];
    for (name, text) in &files {
        std::fs::write(folder.path().join(name), text).expect("written");
    }
    std::fs::write(folder.path().join("latin.svg"), b"<svg>\xe9</svg>").expect("written");
    for name in ["good.svg", "used.svg"] {
        assert_eq!(drawn(folder.path(), name).0, [0, 0, 255, 255], "{name}");
    }
    let bad = files.iter().map(|(name, _)| *name).filter(|name| !["good.svg", "used.svg", "huge.svg"].contains(name));
    for name in bad.chain(["latin.svg"]) {
        let (colour, brush) = drawn(folder.path(), name);
        assert_eq!(colour, RED, "{name}");
        assert_eq!(brush.pictures.broken_icons.len(), 1, "{name} is told of");
    }
    // One that is nothing but wide may be drawn or not: it ends.
    drawn(folder.path(), "huge.svg");
    assert_eq!(drawn(folder.path(), "missing.svg").0, RED);
}

#[test]
fn pixels_that_are_sent_must_be_there() {
    let bytes = [9; 4 * 4 * 4];
    let sent = |width, height, stride, alpha, len: usize| Sent { width, height, stride, alpha, bytes: &bytes[..len] }.picture(96);
    let whole = sent(4, 4, 16, true, 64).expect("a picture");
    assert_eq!((whole.0, whole.1.len()), ((4, 4), 64));
    assert_eq!(sent(4, 4, 16, false, 60).expect("a picture").1[3], 255, "without an opacity it covers");
    // The last row need not be filled up.
    assert!(sent(3, 4, 16, true, 3 * 16 + 12).is_some() && sent(3, 4, 16, true, 3 * 16 + 11).is_none());
    for (width, height, stride) in
        [(0, 4, 16), (4, -4, 16), (4, 4, 15), (4, 4, -16), (i32::MAX, 4, i32::MAX), (4, i32::MAX, 16), (4, 5, 16)]
    {
        assert!(sent(width, height, stride, true, 64).is_none(), "{width}x{height}, {stride}");
    }
    let wide = Sent { width: 400, height: 2, stride: 1200, alpha: false, bytes: &vec![7; 2400] }.picture(96).expect("a picture");
    assert_eq!(wide.0, (96, 1));
}
