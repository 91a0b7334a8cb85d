//! Gradients, corners, turned text, pictures, and where two pictures differ.

use jovrik_core::rice::Fit;
use jovrik_core::scene::{Primitive, Scene, TextRotation, TextStyle};
use jovrik_draw::{Brush, Canvas, FontPlaces, ImageCache, differences, svg};
use jovrik_schema::Colour;
use jovrik_values::{Fill, Gradient, Rect};
use proptest::prelude::*;

use crate::{RED, drawn, pixel};

const GROUND: [u8; 3] = [16, 28, 31];
const BLUE: Colour = Colour { r: 0, g: 0, b: 255, a: 255 };

fn gradient(angle: f32) -> Fill {
    Fill::Gradient(Gradient { angle, stops: vec![(0.0, RED), (1.0, BLUE)] })
}

fn filled(fill: Fill, radius: [f32; 4]) -> Canvas {
    drawn(vec![Primitive::Fill { rect: Rect::new(0.0, 0.0, 40.0, 40.0), radius, fill }])
}

#[test]
fn gradients_run_where_their_angle_says() {
    let across = filled(gradient(90.0), [0.0; 4]);
    let (left, right) = (pixel(&across, 0, 20), pixel(&across, 39, 20));
    assert!(left[0] > 240 && right[2] > 240, "{left:?} {right:?}");
    assert_eq!(pixel(&across, 10, 0), pixel(&across, 10, 39), "nothing changes down");
    let down = filled(gradient(180.0), [0.0; 4]);
    assert_eq!(pixel(&down, 0, 7), pixel(&down, 39, 7));
    assert!(pixel(&down, 5, 0)[0] > 240 && pixel(&down, 5, 39)[2] > 240);
    let corner = filled(gradient(135.0), [0.0; 4]);
    assert!(pixel(&corner, 0, 0)[0] > 240 && pixel(&corner, 39, 39)[2] > 240, "from corner to corner");
    let (a, b) = (pixel(&corner, 39, 0), pixel(&corner, 0, 39));
    assert!(a.iter().zip(b).all(|(a, b)| a.abs_diff(b) <= 4), "both in the middle: {a:?} {b:?}");
}

#[test]
fn each_corner_has_its_own_roundness_also_on_half_pixels() {
    let canvas = filled(RED.into(), [12.0, 0.0, 6.0, 0.0]);
    let empty = |x, y| pixel(&canvas, x, y) == GROUND;
    assert!(empty(0, 0) && !empty(39, 0) && empty(39, 39) && !empty(0, 39));
    let half = drawn(vec![Primitive::Fill { rect: Rect::new(10.5, 10.0, 10.0, 10.0), radius: [0.0; 4], fill: RED.into() }]);
    let edge = pixel(&half, 10, 15)[0];
    assert!((130..=142).contains(&edge), "half of a pixel, over paper: {edge}");
    assert_eq!(pixel(&half, 15, 15), [255, 0, 0]);
    // Corners that are larger than the box become half of it.
    let round = filled(RED.into(), [500.0; 4]);
    assert_eq!(pixel(&round, 20, 20), [255, 0, 0]);
    assert_eq!(pixel(&round, 2, 2), GROUND);
}

#[test]
fn a_border_in_a_gradient_is_a_ring() {
    let rect = Rect::new(0.0, 0.0, 40.0, 40.0);
    let ring = drawn(vec![Primitive::Border { rect, radius: [8.0; 4], width: 3.0, fill: gradient(90.0) }]);
    assert_eq!(pixel(&ring, 20, 20), GROUND);
    assert!(pixel(&ring, 1, 20)[0] > 200 && pixel(&ring, 38, 20)[2] > 200);
}

fn word(turn: TextRotation) -> Canvas {
    let face = TextStyle { underline: true, ..TextStyle::new("No Such Face", 11.0) };
    let (x, y) = (20.0, if turn == TextRotation::Up { 38.0 } else { 2.0 });
    let (x, y) = if turn == TextRotation::None { (2.0, 20.0) } else { (x, y) };
    drawn(vec![Primitive::Text { x, y, text: "ebb".to_owned(), face, colour: RED, turn }])
}

/// The pixels that are neither paper nor untouched, as columns and rows.
fn ink(canvas: &Canvas) -> Vec<(u32, u32)> {
    let drawn = |(x, y): &(u32, u32)| ![GROUND, [0, 0, 0]].contains(&pixel(canvas, *x, *y));
    (0..40).flat_map(|y| (0..40).map(move |x| (x, y))).filter(drawn).collect()
}

#[test]
fn text_that_is_turned_has_the_same_pixels_turned() {
    let plain = ink(&word(TextRotation::None));
    let up: Vec<_> = ink(&word(TextRotation::Up));
    let down: Vec<_> = ink(&word(TextRotation::Down));
    assert!(plain.len() > 30 && plain.len() == up.len() && up.len() == down.len(), "{} {} {}", plain.len(), up.len(), down.len());
    let mut turned: Vec<_> = plain.iter().map(|(x, y)| (*y, 39 - x)).collect();
    turned.sort_unstable_by_key(|(x, y)| (*y, *x));
    assert_eq!(turned, up, "upwards: the left end is below");
    let mut turned: Vec<_> = plain.iter().map(|(x, y)| (39 - y, *x)).collect();
    turned.sort_unstable_by_key(|(x, y)| (*y, *x));
    assert_eq!(turned, down, "downwards: the left end is above");
}

/// A picture of 4 by 2 pixels, red at the left and blue at the right.
fn with_picture(fit: Fit) -> Canvas {
    let folder = tempfile::tempdir().expect("a folder");
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, 4, 2);
    encoder.set_color(png::ColorType::Rgb);
    let row = [[255, 0, 0], [255, 0, 0], [0, 0, 255], [0, 0, 255]].concat();
    encoder.write_header().expect("a header").write_image_data(&row.repeat(2)).expect("pixels");
    std::fs::write(folder.path().join("p.png"), bytes).expect("written");
    let mut canvas = Canvas::new(40, 40).expect("a size");
    let mut brush = Brush::new(FontPlaces::default(), folder.path());
    let rect = Rect::new(0.0, 0.0, 40.0, 40.0);
    let scene = Scene { items: vec![Primitive::Picture { rect, path: "p.png".to_owned(), fit, otherwise: Vec::new() }] };
    canvas.draw(&scene, (0.0, 0.0), &mut brush);
    assert_eq!(brush.pictures.troubles, []);
    let text = svg(&scene, rect, &mut brush);
    assert!(text.contains("data:image/png;base64,"), "{text}");
    canvas
}

#[test]
fn pictures_fit_as_they_are_asked_to() {
    let covered = |canvas: &Canvas| ink(canvas).len();
    assert_eq!(covered(&with_picture(Fit::Cover)), 1600);
    assert_eq!(covered(&with_picture(Fit::Stretch)), 1600);
    assert_eq!(covered(&with_picture(Fit::Contain)), 800);
    assert_eq!(covered(&with_picture(Fit::Centre)), 8);
    let tiled = with_picture(Fit::Tile);
    assert_eq!((covered(&tiled), pixel(&tiled, 0, 0), pixel(&tiled, 2, 1)), (1600, [255, 0, 0], [0, 0, 255]));
    let stretched = with_picture(Fit::Stretch);
    assert!(pixel(&stretched, 2, 20)[0] > 250 && pixel(&stretched, 37, 20)[2] > 250);
}

#[test]
fn a_folder_of_pictures_stands_for_one_of_them_and_what_is_broken_is_told() {
    let folder = tempfile::tempdir().expect("a folder");
    for (name, bytes) in [("b.png", &b"rubbish"[..]), ("a.png", b"\x89PNG\r\n\x1a\n"), ("notes.txt", b"x")] {
        std::fs::create_dir_all(folder.path().join("flats")).expect("made");
        std::fs::write(folder.path().join("flats").join(name), bytes).expect("written");
    }
    let mut pictures = ImageCache::of(folder.path());
    let name =
        |pictures: &ImageCache| pictures.file("flats").expect("one").file_name().map(|name| name.to_string_lossy().into_owned());
    assert_eq!(name(&pictures).as_deref(), Some("a.png"));
    pictures.choose(1);
    assert_eq!(name(&pictures).as_deref(), Some("b.png"));
    pictures.choose(2);
    assert_eq!(name(&pictures).as_deref(), Some("a.png"));
    assert!(pictures.trouble("flats/b.png").is_some() && pictures.trouble("none.png").is_some());
    let said = |path: &str| pictures.trouble(path).map(|why| why.to_string()).unwrap_or_default();
    rustix::fs::mkfifoat(rustix::fs::CWD, folder.path().join("pipe.png"), rustix::fs::Mode::RUSR).expect("made");
    assert_eq!(said("pipe.png"), "it cannot be read: it is a pipe, not a file");
    std::os::unix::fs::symlink("/dev/zero", folder.path().join("endless.png")).expect("linked");
    assert_eq!(said("endless.png"), "it cannot be read: its links lead out of the rice, to /dev/zero");
    assert_eq!(said("/etc/passwd"), "it cannot be read: it is not inside the rice");
}

#[test]
fn differences_are_joined_when_they_are_near_and_told_apart_when_not() {
    let plain = Canvas::new(400, 300).expect("a size");
    let mut other = plain.clone();
    let mut scene = Scene::default();
    for (x, y) in [(10.0, 10.0), (30.0, 20.0), (300.0, 200.0)] {
        scene.fill(Rect::new(x, y, 5.0, 5.0), 0.0, RED);
    }
    other.draw(&scene, (0.0, 0.0), &mut Brush::new(FontPlaces::default(), std::path::Path::new("")));
    assert_eq!(differences(&plain, &plain), []);
    let areas = differences(&plain, &other);
    assert_eq!(areas.len(), 2, "{areas:?}");
    assert!(areas[0].touches(Rect::new(10.0, 10.0, 25.0, 15.0)) && areas[1].touches(Rect::new(300.0, 200.0, 5.0, 5.0)));
    let small = Canvas::new(20, 20).expect("a size");
    assert_eq!(differences(&small, &other).len(), 1, "only what both have is compared");
}

fn coordinate() -> impl Strategy<Value = i32> {
    -20..90i32
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, failure_persistence: None, ..ProptestConfig::default() })]

    /// A screen is drawn in pieces: each is what a whole drawing has there, whatever of a box, its border or its glow lies in it.
    #[test]
    fn a_piece_is_what_the_whole_has_there(
        (x, y) in (coordinate(), coordinate()), (w, h) in (1..70i32, 1..70i32), radius in 0..16i32, width in 0..9i32,
        (left, top) in (0..70i32, 0..70i32), (wide, high) in (1..30i32, 1..30i32), alpha in any::<u8>(), runs in any::<bool>(),
    ) {
        let rect = Rect::new(x as f32, y as f32, w as f32, h as f32);
        let (radius, width) = (radius as f32, width as f32);
        let colour = Colour { a: alpha, ..RED };
        let fill = if runs { gradient(40.0) } else { colour.into() };
        let mut scene = Scene::default();
        scene.fill(Rect::new(0.0, 0.0, 100.0, 100.0), 0.0, BLUE);
        scene.items.push(Primitive::Glow { rect, radius, width: width + 1.0, colour });
        scene.items.push(Primitive::Fill { rect, radius: [radius; 4], fill: fill.clone() });
        scene.items.push(Primitive::Border { rect, radius: [radius, 0.0, radius, 3.0], width, fill });
        let mut brush = Brush::new(FontPlaces::default(), std::path::Path::new("/nonexistent"));
        let mut whole = Canvas::new(100, 100).expect("a size");
        whole.draw(&scene, (0.0, 0.0), &mut brush);
        let mut piece = Canvas::new(wide as u32, high as u32).expect("a size");
        piece.draw(&scene, (left as f32, top as f32), &mut brush);
        for (across, down) in (0..wide).flat_map(|across| (0..high).map(move |down| (across, down))) {
            let (one, other) = (pixel(&piece, across as u32, down as u32), pixel(&whole, (left + across) as u32, (top + down) as u32));
            // A gradient is followed in steps from where a row begins.
            let near = one.iter().zip(other).all(|(one, other)| one.abs_diff(other) <= if runs { 2 } else { 0 });
            prop_assert!(near, "{across},{down}: {one:?} {other:?}");
        }
    }
}
