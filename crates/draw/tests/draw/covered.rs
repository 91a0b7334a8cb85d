//! What boxes, rings and glows cover of each pixel, against what is counted point by point; pieces against the whole.

use jovrik_core::scene::{Primitive, Scene};
use jovrik_draw::Canvas;
use jovrik_schema::Colour;
use jovrik_values::{Fill, Gradient, Rect};
use proptest::prelude::*;

use crate::brush;

const WIDE: u32 = 48;
const HIGH: u32 = 40;
const GROUND: Colour = Colour { r: 16, g: 28, b: 31, a: 255 };
/// Points along each side of a pixel.
const POINTS: u32 = 12;
/// How far an edge by its distance may be from what is counted, as a part of a pixel.
const NEAR: f32 = 0.17;

/// Whether a point lies in a box with round corners, by each corner's own circle.
fn holds(rect: Rect, radius: [f32; 4], x: f32, y: f32) -> bool {
    let (right, bottom) = (rect.x + rect.w, rect.y + rect.h);
    if x < rect.x || y < rect.y || x > right || y > bottom {
        return false;
    }
    let circles = [
        (radius[0], rect.x + radius[0], rect.y + radius[0], x < rect.x + radius[0] && y < rect.y + radius[0]),
        (radius[1], right - radius[1], rect.y + radius[1], x > right - radius[1] && y < rect.y + radius[1]),
        (radius[2], right - radius[2], bottom - radius[2], x > right - radius[2] && y > bottom - radius[2]),
        (radius[3], rect.x + radius[3], bottom - radius[3], x < rect.x + radius[3] && y > bottom - radius[3]),
    ];
    circles.iter().filter(|(.., there)| *there).all(|(radius, cx, cy, _)| (x - cx).hypot(y - cy) <= *radius)
}

/// Which part of a pixel something holds, by counting.
fn counted(x: u32, y: u32, holds: impl Fn(f32, f32) -> bool) -> f32 {
    let at = |from: u32, nth: u32| from as f32 + (nth as f32 + 0.5) / POINTS as f32;
    let points = (0..POINTS * POINTS).map(|nth| (at(x, nth % POINTS), at(y, nth / POINTS)));
    points.filter(|(x, y)| holds(*x, *y)).count() as f32 / (POINTS * POINTS) as f32
}

fn on_ground(items: Vec<Primitive>) -> Canvas {
    let mut scene = Scene::default();
    scene.fill(Rect::new(0.0, 0.0, WIDE as f32, HIGH as f32), 0.0, GROUND);
    scene.items.extend(items);
    let mut canvas = Canvas::new(WIDE, HIGH).expect("a size");
    canvas.draw(&scene, (0.0, 0.0), &mut brush());
    canvas
}

fn at(canvas: &Canvas, x: u32, y: u32) -> [u8; 4] {
    let from = ((y * canvas.width() + x) * 4) as usize;
    canvas.bytes()[from..from + 4].try_into().expect("four")
}

/// Which part of a pixel a colour has become, by the channel that differs most from the ground.
fn part(pixel: [u8; 4], colour: Colour) -> f32 {
    let channels = [(pixel[0], GROUND.r, colour.r), (pixel[1], GROUND.g, colour.g), (pixel[2], GROUND.b, colour.b)];
    let widest = channels.into_iter().max_by_key(|(_, ground, top)| ground.abs_diff(*top)).expect("three");
    (f32::from(widest.0) - f32::from(widest.1)) / (f32::from(widest.2) - f32::from(widest.1))
}

fn quarters(from: i32, to: i32) -> impl Strategy<Value = f32> {
    (from * 4..to * 4).prop_map(|quarter| quarter as f32 / 4.0)
}

fn boxes() -> impl Strategy<Value = (Rect, [f32; 4])> {
    let rect = (quarters(-6, 30), quarters(-6, 24), quarters(4, 40), quarters(4, 36));
    (rect, prop::array::uniform4(quarters(0, 20))).prop_map(|((x, y, w, h), radius)| {
        let most = w.min(h) / 2.0;
        (Rect::new(x, y, w, h), radius.map(|radius| radius.min(most)))
    })
}

fn colour() -> impl Strategy<Value = Colour> {
    // One that can be told from the ground.
    (150u8.., any::<u8>(), 120u8.., prop_oneof![Just(255u8), 90u8..]).prop_map(|(r, g, b, a)| Colour { r, g, b, a })
}

fn gradient() -> impl Strategy<Value = Fill> {
    (0.0f32..360.0, colour(), colour(), 0.2f32..0.8, colour()).prop_map(|(angle, from, to, at, between)| {
        Fill::Gradient(Gradient { angle, stops: vec![(0.0, from), (at, between), (1.0, to)] })
    })
}

fn items() -> impl Strategy<Value = Primitive> {
    let fill = || prop_oneof![colour().prop_map(Fill::from), gradient()];
    prop_oneof![
        (boxes(), fill()).prop_map(|((rect, radius), fill)| Primitive::Fill { rect, radius, fill }),
        (boxes(), 0.5f32..9.0, fill()).prop_map(|((rect, radius), width, fill)| Primitive::Border { rect, radius, width, fill }),
        (boxes(), 0.5f32..12.0, colour()).prop_map(|((rect, radius), width, colour)| Primitive::Glow {
            rect,
            radius: radius[0],
            width,
            colour
        }),
    ]
}

/// Places that part a length into pieces, with both its ends.
fn cuts(most: u32) -> impl Strategy<Value = Vec<u32>> {
    prop::collection::btree_set(1..most, 0..6)
        .prop_map(move |inner| [0].into_iter().chain(inner).chain([most]).collect::<Vec<_>>())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn a_box_covers_of_each_pixel_what_lies_in_it((rect, radius) in boxes(), colour in colour()) {
        let canvas = on_ground(vec![Primitive::Fill { rect, radius, fill: colour.into() }]);
        let opaque = f32::from(colour.a) / 255.0;
        for (x, y) in (0..WIDE).flat_map(|x| (0..HIGH).map(move |y| (x, y))) {
            let wanted = counted(x, y, |x, y| holds(rect, radius, x, y));
            let drawn = part(at(&canvas, x, y), colour) / opaque;
            // Inside and outside leave no choice; at corners two edges meet in one pixel.
            let near = if wanted == 0.0 || wanted == 1.0 { 0.12 } else { NEAR + 0.1 };
            prop_assert!((wanted - drawn).abs() <= near, "{x},{y}: {drawn} is drawn of {wanted}");
            prop_assert_eq!(at(&canvas, x, y)[3], 255);
        }
    }

    #[test]
    fn a_ring_leaves_what_is_in_it((rect, radius) in boxes(), width in 1u8..7, colour in colour()) {
        let width = f32::from(width);
        let canvas = on_ground(vec![Primitive::Border { rect, radius, width, fill: colour.into() }]);
        let inner = Rect::new(rect.x + width, rect.y + width, rect.w - 2.0 * width, rect.h - 2.0 * width);
        let round = radius.map(|radius| (radius - width).max(0.0));
        let hole = |x: f32, y: f32| inner.w > 0.0 && inner.h > 0.0 && holds(inner, round, x, y);
        let opaque = f32::from(colour.a) / 255.0;
        for (x, y) in (0..WIDE).flat_map(|x| (0..HIGH).map(move |y| (x, y))) {
            let wanted = counted(x, y, |x, y| holds(rect, radius, x, y) && !hole(x, y));
            let drawn = part(at(&canvas, x, y), colour) / opaque;
            if wanted == 0.0 || wanted == 1.0 {
                prop_assert!((wanted - drawn).abs() <= 0.15, "{x},{y}: {drawn} is drawn of {wanted}");
            } else {
                prop_assert!((-0.02..=1.02).contains(&drawn), "{x},{y}: {drawn}");
            }
        }
    }

    #[test]
    fn a_glow_lies_outside_fades_and_ends((rect, radius) in boxes(), width in 1.0f32..12.0, colour in colour()) {
        let radius = radius[0];
        let canvas = on_ground(vec![Primitive::Glow { rect, radius, width, colour }]);
        let far = |by: f32| {
            let rect = Rect::new(rect.x - by, rect.y - by, rect.w + 2.0 * by, rect.h + 2.0 * by);
            move |x: f32, y: f32| holds(rect, [(radius + by).max(0.0); 4], x, y)
        };
        let mut shown: Vec<(f32, f32)> = Vec::new();
        for (x, y) in (0..WIDE).flat_map(|x| (0..HIGH).map(move |y| (x, y))) {
            let drawn = part(at(&canvas, x, y), colour);
            let (cx, cy) = (x as f32 + 0.5, y as f32 + 0.5);
            if far(-0.53)(cx, cy) {
                prop_assert_eq!(&at(&canvas, x, y)[..3], &[GROUND.r, GROUND.g, GROUND.b], "{},{} is inside", x, y);
            } else if !far(width)(cx, cy) {
                prop_assert!(drawn.abs() < 0.01, "{x},{y} is beyond its reach: {drawn}");
            } else if !far(-0.03)(cx, cy) {
                // How far it is, by halving.
                let (mut low, mut high) = (-0.04f32, width);
                for _ in 0..20 {
                    let middle = (low + high) / 2.0;
                    if far(middle)(cx, cy) { high = middle } else { low = middle }
                }
                shown.push((high, drawn));
            }
        }
        // Right at the edge it is whole.
        let whole = f32::from(colour.a) / 255.0;
        let first = shown.iter().filter(|(far, _)| *far < 0.02).all(|(_, drawn)| (drawn - whole).abs() < 0.06);
        prop_assert!(first, "{:?}", shown.iter().filter(|(far, _)| *far < 0.02).collect::<Vec<_>>());
        shown.sort_by(|a, b| a.0.total_cmp(&b.0));
        for pair in shown.windows(2) {
            prop_assert!(pair[0].1 + 0.03 >= pair[1].1, "it grows outwards: {pair:?}");
        }
    }

    #[test]
    fn pieces_are_parts_of_the_whole(items in prop::collection::vec(items(), 1..5), across in cuts(WIDE), down in cuts(HIGH)) {
        let whole = on_ground(items.clone());
        let mut scene = Scene::default();
        scene.fill(Rect::new(0.0, 0.0, WIDE as f32, HIGH as f32), 0.0, GROUND);
        let plain = |item: &Primitive| match item {
            Primitive::Fill { fill, .. } | Primitive::Border { fill, .. } => matches!(fill, Fill::Plain(_)),
            _ => true,
        };
        // A gradient goes along a row in steps, from where its piece begins; each that lies over others may differ by one.
        let most = items.iter().filter(|item| !plain(item)).count() as u8 * 2;
        scene.items.extend(items);
        let (mut joined, mut brush) = (Canvas::new(WIDE, HIGH).expect("a size"), brush());
        for (x, y) in across.windows(2).flat_map(|x| down.windows(2).map(move |y| (x, y))) {
            let mut piece = Canvas::new(x[1] - x[0], y[1] - y[0]).expect("a size");
            piece.draw(&scene, (x[0] as f32, y[0] as f32), &mut brush);
            joined.paste(&piece, (x[0], y[0]));
        }
        let apart = whole.bytes().iter().zip(joined.bytes()).map(|(a, b)| a.abs_diff(*b)).max().expect("some");
        prop_assert!(apart <= most, "they differ by {apart}");
    }

    #[test]
    fn what_is_cut_out_is_what_was_there(item in items(), x in -60i32..60, y in -60i32..60, w in 1u32..70, h in 1u32..70) {
        let whole = on_ground(vec![item]);
        let cut = whole.cut((x, y), w, h).expect("a size");
        prop_assert_eq!((cut.width(), cut.height()), (w, h));
        for (cx, cy) in (0..w).flat_map(|x| (0..h).map(move |y| (x, y))) {
            let (from_x, from_y) = (x + cx as i32, y + cy as i32);
            let there = (0..WIDE as i32).contains(&from_x) && (0..HIGH as i32).contains(&from_y);
            let wanted = if there { at(&whole, from_x as u32, from_y as u32) } else { [0; 4] };
            prop_assert_eq!(at(&cut, cx, cy), wanted, "{},{}", cx, cy);
        }
    }

    #[test]
    fn numbers_have_opacity_and_colours_from_the_highest_byte_down(item in items()) {
        let canvas = on_ground(vec![item]);
        let (low, high) = (canvas.clone().into_numbers(true), canvas.clone().into_numbers(false));
        let number = |bytes: &[u8], low: bool| {
            let bytes: [u8; 4] = bytes.try_into().expect("four");
            if low { u32::from_le_bytes(bytes) } else { u32::from_be_bytes(bytes) }
        };
        let all = canvas.bytes().chunks_exact(4).zip(low.chunks_exact(4)).zip(high.chunks_exact(4));
        for ((pixel, low), high) in all {
            let wanted = u32::from(pixel[3]) << 24 | u32::from(pixel[0]) << 16 | u32::from(pixel[1]) << 8 | u32::from(pixel[2]);
            prop_assert_eq!((number(low, true), number(high, false)), (wanted, wanted));
        }
    }
}

#[test]
fn a_gradient_has_the_colour_of_its_stops_where_they_are() {
    let stops = vec![
        (0.0, Colour { r: 200, g: 0, b: 0, a: 255 }),
        (0.5, Colour { r: 0, g: 200, b: 0, a: 255 }),
        (0.5, Colour { r: 0, g: 0, b: 200, a: 255 }),
        (1.0, Colour { r: 200, g: 200, b: 200, a: 255 }),
    ];
    let rect = Rect::new(0.0, 0.0, WIDE as f32, HIGH as f32);
    let fill = Fill::Gradient(Gradient { angle: 90.0, stops });
    let canvas = on_ground(vec![Primitive::Fill { rect, radius: [0.0; 4], fill }]);
    // The middle of each pixel: half a pixel from the ends, and on both sides of the hard edge.
    for (x, wanted) in [(0, [198, 2, 0]), (23, [4, 196, 0]), (24, [4, 4, 200]), (47, [198, 198, 200])] {
        let pixel = at(&canvas, x, 20);
        let apart = pixel[..3].iter().zip(wanted).map(|(a, b)| a.abs_diff(b)).max().expect("three");
        assert!(apart <= 4, "{x}: {pixel:?} for {wanted:?}");
    }
}
