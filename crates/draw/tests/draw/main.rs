//! Tests of drawing: pixels where they should be, nothing where they should not, the same bytes each time.

mod behind;
mod covered;
mod shapes;
mod strangers;

use jovrik_core::scene::{Measure, PathSegment, Primitive, Scene, TextStyle};
use jovrik_draw::{Brush, Canvas, FontPlaces, Fonts, cells, cells_within, encode};
use jovrik_schema::Colour;
use jovrik_values::Rect;
use proptest::prelude::*;

const RED: Colour = Colour { r: 255, g: 0, b: 0, a: 255 };
const PAPER: Colour = Colour { r: 16, g: 28, b: 31, a: 255 };

fn brush() -> Brush {
    Brush::new(FontPlaces::default(), std::path::Path::new("/nonexistent"))
}

fn fonts() -> Fonts {
    Fonts::new(FontPlaces::default())
}

/// A canvas of 40×40 paper with a scene on it.
fn drawn(items: Vec<Primitive>) -> Canvas {
    let mut canvas = Canvas::new(40, 40).expect("a size");
    let mut scene = Scene::default();
    scene.fill(Rect::new(0.0, 0.0, 40.0, 40.0), 0.0, PAPER);
    scene.items.extend(items);
    canvas.draw(&scene, (0.0, 0.0), &mut brush());
    canvas
}

fn pixel(canvas: &Canvas, x: u32, y: u32) -> [u8; 3] {
    let at = (y * canvas.width() + x) as usize * 4;
    canvas.bytes()[at..at + 3].try_into().expect("three")
}

/// How many pixels are not paper.
fn inked(canvas: &Canvas) -> usize {
    canvas.bytes().chunks_exact(4).filter(|pixel| pixel[..3] != [PAPER.r, PAPER.g, PAPER.b]).count()
}

fn face(family: &str, bold: bool) -> TextStyle {
    TextStyle { family: family.to_owned(), points: 11.0, bold, underline: false, mono: false }
}

#[test]
fn a_box_covers_its_pixels_and_no_others() {
    let canvas = drawn(vec![Primitive::Fill { rect: Rect::new(10.0, 5.0, 4.0, 3.0), radius: [0.0; 4], fill: (RED).into() }]);
    assert_eq!(inked(&canvas), 12);
    assert_eq!((pixel(&canvas, 10, 5), pixel(&canvas, 13, 7), pixel(&canvas, 14, 7)), ([255, 0, 0], [255, 0, 0], [16, 28, 31]));
}

#[test]
fn round_corners_leave_the_corner_and_keep_the_edges() {
    let canvas = drawn(vec![Primitive::Fill { rect: Rect::new(4.0, 4.0, 30.0, 20.0), radius: [8.0; 4], fill: (RED).into() }]);
    assert_eq!(pixel(&canvas, 4, 4), [16, 28, 31], "the corner");
    for (x, y) in [(4, 14), (33, 14), (19, 4), (19, 23), (12, 12), (8, 8)] {
        assert_eq!(pixel(&canvas, x, y), [255, 0, 0], "{x},{y}");
    }
    // A disc of radius 8 in four quarters, and the rest.
    let expected = 30.0 * 20.0 - (4.0 - std::f64::consts::PI) * 64.0;
    let got = inked(&canvas) as f64;
    assert!((got - expected).abs() < 24.0, "{got} against {expected}");
    // Corners of opaque and of translucent boxes have the same shape.
    let clear = drawn(vec![Primitive::Fill {
        rect: Rect::new(4.0, 4.0, 30.0, 20.0),
        radius: [8.0; 4],
        fill: Colour { a: 254, ..RED }.into(),
    }]);
    let differ = canvas.bytes().iter().zip(clear.bytes()).filter(|(a, b)| a.abs_diff(**b) > 12).count();
    assert_eq!(differ, 0);
}

#[test]
fn a_border_is_as_thick_as_it_says_all_round() {
    let canvas =
        drawn(vec![Primitive::Border { rect: Rect::new(5.0, 5.0, 30.0, 30.0), radius: [6.0; 4], width: 2.0, fill: RED.into() }]);
    for at in [5, 6, 33, 34] {
        assert_eq!(pixel(&canvas, 20, at), [255, 0, 0], "row {at}");
        assert_eq!(pixel(&canvas, at, 20), [255, 0, 0], "column {at}");
    }
    for at in [4, 7, 32, 35] {
        assert_eq!(pixel(&canvas, 20, at), [16, 28, 31], "row {at}");
        assert_eq!(pixel(&canvas, at, 20), [16, 28, 31], "column {at}");
    }
    assert_eq!(pixel(&canvas, 5, 5), [16, 28, 31], "the corner is round");
    let thick =
        drawn(vec![Primitive::Border { rect: Rect::new(0.0, 0.0, 40.0, 40.0), radius: [0.0; 4], width: 3.0, fill: RED.into() }]);
    assert_eq!(inked(&thick), 40 * 40 - 34 * 34);
}

#[test]
fn a_glow_lies_outside_and_fades() {
    let canvas = drawn(vec![Primitive::Glow { rect: Rect::new(12.0, 12.0, 16.0, 16.0), radius: 0.0, width: 6.0, colour: RED }]);
    let red = |x: u32| pixel(&canvas, x, 20)[0];
    assert!(red(11) > red(9) && red(9) > red(7) && red(7) > red(4), "{} {} {} {}", red(11), red(9), red(7), red(4));
    assert_eq!(pixel(&canvas, 12, 20), [16, 28, 31], "not inside");
    assert_eq!(pixel(&canvas, 5, 20), [16, 28, 31], "not beyond its reach");
    assert_eq!(pixel(&canvas, 20, 11), pixel(&canvas, 11, 20), "alike on every side");
    assert_eq!(pixel(&canvas, 20, 28), pixel(&canvas, 28, 20));
}

#[test]
fn opacity_mixes_with_what_is_below() {
    let half = Colour { r: 255, g: 255, b: 255, a: 128 };
    let canvas = drawn(vec![Primitive::Fill { rect: Rect::new(0.0, 0.0, 40.0, 40.0), radius: [0.0; 4], fill: (half).into() }]);
    let mixed = half.over(PAPER);
    let got = pixel(&canvas, 3, 3);
    for (a, b) in got.iter().zip([mixed.r, mixed.g, mixed.b]) {
        assert!(a.abs_diff(b) <= 1, "{got:?} against {mixed:?}");
    }
}

#[test]
fn text_lies_where_it_is_measured_and_bold_is_wider() {
    let mut fonts = fonts();
    let mono = TextStyle { mono: true, ..face("No Such Face", false) };
    let width = fonts.width("0000", &mono);
    assert!((width - 4.0 * fonts.width("0", &mono)).abs() < 0.1, "a face of one width");
    assert_eq!(fonts.missing(), ["No Such Face"]);
    assert_eq!(fonts.width("", &mono), 0.0);
    let mut canvas = Canvas::new(80, 30).expect("a size");
    let mut scene = Scene::default();
    scene.fill(Rect::new(0.0, 0.0, 80.0, 30.0), 0.0, PAPER);
    scene.text(10.0, 15.0, "0000", &mono, RED);
    canvas.draw(&scene, (0.0, 0.0), &mut brush());
    let columns: Vec<u32> = (0..80).filter(|x| (0..30).any(|y| pixel(&canvas, *x, y) != [16, 28, 31])).collect();
    let rows: Vec<u32> = (0..30).filter(|y| (0..80).any(|x| pixel(&canvas, x, *y) != [16, 28, 31])).collect();
    let (first, last) = (columns[0], columns[columns.len() - 1]);
    assert!(first >= 10 && f64::from(last) <= 10.0 + f64::from(width), "{first} to {last} of {width}");
    let middle = f64::from(rows[0] + rows[rows.len() - 1]) / 2.0;
    assert!((middle - 15.0).abs() <= 2.0, "digits stand in the middle of their line: {middle}");
}

#[test]
fn characters_of_any_script_or_none_are_drawn_or_left_out() {
    let mut brush = brush();
    let mut canvas = Canvas::new(300, 40).expect("a size");
    for text in
        ["漢字 עברית عربى", "\u{0}\u{1}\u{7f}", "e\u{301}\u{302}\u{303}", "🦀👩‍👩‍👧", "\u{202e}abc", "a\nb\tc", &"x".repeat(5000)]
    {
        let mut scene = Scene::default();
        scene.text(2.0, 20.0, text, &face("No Such Face", true), RED);
        canvas.draw(&scene, (0.0, 0.0), &mut brush);
    }
}

#[test]
fn an_origin_moves_the_scene_and_copies_are_exact() {
    let mut scene = Scene::default();
    scene.fill(Rect::new(0.0, 0.0, 40.0, 40.0), 0.0, PAPER);
    scene.items.push(Primitive::Border { rect: Rect::new(8.0, 8.0, 20.0, 20.0), radius: [5.0; 4], width: 2.0, fill: RED.into() });
    scene.stroke(vec![PathSegment::Move(2.0, 2.0), PathSegment::Curve(10.0, 30.0, 30.0, 10.0, 38.0, 38.0)], 1.5, RED);
    let mut whole = Canvas::new(40, 40).expect("a size");
    whole.draw(&scene, (0.0, 0.0), &mut brush());
    let mut part = Canvas::new(16, 12).expect("a size");
    part.draw(&scene, (8.0, 6.0), &mut brush());
    let copied = whole.cut((8, 6), 16, 12).expect("a size");
    let differ = part.bytes().iter().zip(copied.bytes()).filter(|(a, b)| a.abs_diff(**b) > 40).count();
    assert_eq!(differ, 0, "a part drawn alone is a part of the whole");
    let over = whole.cut((-10, -10), 60, 60).expect("a size");
    assert_eq!(pixel(&over, 18, 30), pixel(&whole, 8, 20));
    assert_eq!((pixel(&over, 9, 30), pixel(&over, 50, 50)), ([0; 3], [0; 3]), "nothing beyond it");
    for beyond in [(1000, 1000), (-1000, 4), (4, i32::MIN), (i32::MAX, i32::MAX)] {
        let beyond = whole.cut(beyond, 7, 5).expect("a size");
        assert_eq!((beyond.width(), beyond.height()), (7, 5));
        assert!(beyond.bytes().iter().all(|byte| *byte == 0));
    }
}

#[test]
fn a_picture_decodes_to_its_pixels_and_is_the_same_each_time() {
    let canvas = drawn(vec![Primitive::Fill { rect: Rect::new(3.0, 3.0, 20.0, 20.0), radius: [4.0; 4], fill: (RED).into() }]);
    let bytes = encode(&canvas).expect("a picture");
    assert_eq!(bytes, encode(&canvas).expect("a picture"));
    let mut reader = png::Decoder::new(std::io::Cursor::new(bytes)).read_info().expect("a header");
    let mut pixels = vec![0; reader.output_buffer_size().expect("a size")];
    let info = reader.next_frame(&mut pixels).expect("pixels");
    assert_eq!((info.width, info.height, info.color_type), (40, 40, png::ColorType::Rgb));
    let ours: Vec<u8> = canvas.bytes().chunks_exact(4).flat_map(|pixel| pixel[..3].to_vec()).collect();
    assert_eq!(pixels, ours);
}

fn number() -> impl Strategy<Value = f32> {
    prop_oneof![8 => -100.0..100.0f32, 1 => Just(f32::NAN), 1 => Just(f32::INFINITY), 1 => -1e9..1e9f32, 1 => Just(0.0f32)]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn no_item_panics_wherever_it_lies(x in number(), y in number(), w in number(), h in number(), radius in number(), width in 0.0..20.0f32, alpha in any::<u8>(), kind in 0..5usize) {
        let (rect, colour) = (Rect::new(x, y, w, h), Colour { a: alpha, ..RED });
        let path = vec![PathSegment::Move(x, y), PathSegment::Line(w, h), PathSegment::Curve(x, h, w, y, radius, x), PathSegment::Close];
        let item = match kind {
            0 => Primitive::Fill { rect, radius: [radius; 4], fill: colour.into() },
            1 => Primitive::Border { rect, radius: [radius; 4], width, fill: colour.into() },
            2 => Primitive::Glow { rect: Rect::new(x.clamp(-200.0, 200.0), y.clamp(-200.0, 200.0), w.clamp(0.0, 300.0), h.clamp(0.0, 300.0)), radius: radius.clamp(0.0, 50.0), width, colour },
            3 => Primitive::Stroke { path, width, colour, dash: None },
            _ => Primitive::Shape { path, colour },
        };
        drawn(vec![item]);
    }
}

#[test]
fn families_are_known_by_name_and_characters_that_none_has_are_named() {
    let mut fonts = Fonts::new(FontPlaces::usual(None));
    assert!(fonts.has("DejaVu Sans") && !fonts.has("Estuary Sans"));
    assert!(fonts.families().iter().any(|family| family == "DejaVu Sans Mono"));
    assert_eq!(fonts.lacks("tide ≈ 3 m", &face("DejaVu Sans", false)), Vec::<char>::new());
    assert_eq!(fonts.lacks("\u{10fffd} and \u{10fffd}", &face("DejaVu Sans", false)), ['\u{10fffd}'], "each once");
    let mut none = Fonts::new(FontPlaces::default());
    assert!(!none.has("DejaVu Sans") && none.families().is_empty(), "the built-in ones are not the computer's");
}

#[test]
fn a_file_that_is_no_font_is_passed_over_and_a_font_is_found_by_its_family_not_its_file() {
    let folder = std::env::temp_dir().join(format!("jovrik-fonts-{}", std::process::id()));
    std::fs::create_dir_all(folder.join("deep/er")).expect("a folder");
    std::fs::write(folder.join("DejaVuSans.ttf"), b"no font at all").expect("written");
    std::fs::copy("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf", folder.join("deep/er/other-name.ttf")).expect("copied");
    let mut fonts = Fonts::new(FontPlaces(vec![folder.clone()]));
    let found = fonts.has("DejaVu Sans");
    std::fs::remove_dir_all(&folder).expect("removed");
    assert!(found);
}

#[test]
fn cells_are_the_mean_of_what_they_stand_for_and_keep_the_shape() {
    assert_eq!(cells_within(1920, 1080, 80, 50), (80, 23));
    assert_eq!(cells_within(1920, 1080, 200, 10), (36, 10));
    assert_eq!(cells_within(0, 0, 0, 0), (1, 1));
    let mut canvas = Canvas::new(4, 4).expect("a size");
    let mut scene = Scene::default();
    scene.fill(Rect::new(0.0, 0.0, 4.0, 1.0), 0.0, RED);
    canvas.draw(&scene, (0.0, 0.0), &mut brush());
    let half = cells(&canvas, 2, 1);
    assert_eq!(half.len(), 2);
    assert_eq!((half[0].top.r, half[0].bottom.r), (128, 0), "one of two rows is red");
    assert_eq!(cells(&canvas, 9, 7).len(), 63, "more cells than pixels");
}
