//! Icons, drawn by us on a 16-unit grid with a stroke of 1.5 and round ends.

use jovrik_values::{Icon, IconRef, Rect};

use super::PathSegment::{self, Close, Curve, Line, Move};
use crate::bar::StyledIcon;
use crate::rice::{Fit, Rice};
use crate::scene::{Primitive, Scene, TextRotation, TextStyle};

fn rect(x: f32, y: f32, w: f32, h: f32) -> [PathSegment; 5] {
    [Move(x, y), Line(x + w, y), Line(x + w, y + h), Line(x, y + h), Close]
}

/// A battery with so much in it, from 0 to 1.
fn battery(part: f32) -> Vec<PathSegment> {
    let mut path = rect(1.5, 4.75, 11.0, 6.5).to_vec();
    path.extend([Move(14.75, 7.0), Line(14.75, 9.0)]);
    // Lines so near to each other that nothing is seen between them.
    let to = 3.75 + part * 6.5;
    path.extend([7.25, 8.0, 8.75].into_iter().filter(|_| part > 0.0).flat_map(|y| [Move(3.75, y), Line(to, y)]));
    path
}

/// So many arcs above a dot; of those that are missing the ends and the tops, as dots.
fn wifi(arcs: usize) -> Vec<PathSegment> {
    let mut path = vec![Move(7.95, 12.75), Line(8.05, 12.75)];
    for nth in 1..=3 {
        // Quarters of circles round the dot, from north-west to north-east.
        let r = 3.35 * nth as f32;
        let (side, k) = (r * std::f32::consts::FRAC_1_SQRT_2, r * 0.265);
        let (y, top, d) = (12.75 - side, 12.75 - r, k * std::f32::consts::FRAC_1_SQRT_2);
        if nth <= arcs {
            path.extend([
                Move(8.0 - side, y),
                Curve(8.0 - side + d, y - d, 8.0 - k, top, 8.0, top),
                Curve(8.0 + k, top, 8.0 + side - d, y - d, 8.0 + side, y),
            ]);
        } else {
            let dot = |x: f32, y: f32| [Move(x - 0.05, y), Line(x + 0.05, y)];
            path.extend([dot(8.0 - side, y), dot(8.0, top), dot(8.0 + side, y)].concat());
        }
    }
    path
}

/// A cloud whose lower edge is at a height.
fn cloud(bottom: f32) -> [PathSegment; 5] {
    [
        Move(4.25, bottom),
        Curve(0.75, bottom, 0.75, bottom - 5.0, 4.25, bottom - 5.0),
        Curve(4.75, bottom - 9.5, 10.75, bottom - 9.5, 11.25, bottom - 5.75),
        Curve(15.25, bottom - 6.25, 15.75, bottom, 11.75, bottom),
        Close,
    ]
}

/// A triangle that points to the right, from a side to a tip.
fn triangle(side: f32, tip: f32) -> [PathSegment; 4] {
    [Move(side, 3.0), Line(tip, 8.0), Line(side, 13.0), Close]
}

/// A box of the loudspeaker and its cone.
const SPEAKER: [PathSegment; 7] =
    [Move(2.0, 6.25), Line(4.5, 6.25), Line(7.75, 3.5), Line(7.75, 12.5), Line(4.5, 9.75), Line(2.0, 9.75), Close];

fn circle(cx: f32, cy: f32, r: f32) -> [PathSegment; 6] {
    ellipse(cx, cy, r, r)
}

fn ellipse(cx: f32, cy: f32, rx: f32, ry: f32) -> [PathSegment; 6] {
    let (kx, ky) = (rx * 0.5523, ry * 0.5523);
    [
        Move(cx + rx, cy),
        Curve(cx + rx, cy + ky, cx + kx, cy + ry, cx, cy + ry),
        Curve(cx - kx, cy + ry, cx - rx, cy + ky, cx - rx, cy),
        Curve(cx - rx, cy - ky, cx - kx, cy - ry, cx, cy - ry),
        Curve(cx + kx, cy - ry, cx + rx, cy - ky, cx + rx, cy),
        Close,
    ]
}

/// The lines of an icon whose top left corner is the origin, on a grid of 16 units.
pub fn icon_path(icon: Icon) -> Vec<PathSegment> {
    match icon {
        Icon::None => Vec::new(),
        Icon::Tide => [5.0, 10.0]
            .into_iter()
            .flat_map(|y| {
                [
                    Move(1.5, y + 1.0),
                    Curve(3.0, y - 1.5, 5.0, y - 1.5, 6.5, y),
                    Curve(8.0, y + 1.5, 10.0, y + 2.5, 11.5, y + 1.0),
                    Curve(12.5, y, 13.5, y - 0.5, 14.5, y + 0.5),
                ]
            })
            .collect(),
        Icon::Chip => {
            let mut path: Vec<PathSegment> = rect(4.0, 4.0, 8.0, 8.0).to_vec();
            for at in [6.0, 10.0] {
                path.extend([Move(at, 1.5), Line(at, 4.0), Move(at, 12.0), Line(at, 14.5)]);
                path.extend([Move(1.5, at), Line(4.0, at), Move(12.0, at), Line(14.5, at)]);
            }
            path
        }
        Icon::Memory => {
            let mut path: Vec<PathSegment> = rect(1.5, 5.0, 13.0, 6.5).to_vec();
            for at in [4.5, 8.0, 11.5] {
                path.extend([Move(at, 7.5), Line(at, 9.0)]);
            }
            path
        }
        Icon::Clock => [&circle(8.0, 8.0, 6.25)[..], &[Move(8.0, 4.5), Line(8.0, 8.0), Line(10.5, 9.5)]].concat(),
        Icon::Letter => [&rect(2.0, 3.5, 12.0, 9.0)[..], &[Move(2.5, 4.5), Line(8.0, 9.0), Line(13.5, 4.5)]].concat(),
        Icon::Disk => [
            &ellipse(8.0, 4.5, 5.75, 2.25)[..],
            &[Move(2.25, 4.5), Line(2.25, 11.5), Curve(2.25, 12.75, 4.8, 13.75, 8.0, 13.75)],
            &[Curve(11.2, 13.75, 13.75, 12.75, 13.75, 11.5), Line(13.75, 4.5)],
            &[Move(2.25, 8.0), Curve(2.25, 9.25, 4.8, 10.25, 8.0, 10.25), Curve(11.2, 10.25, 13.75, 9.25, 13.75, 8.0)],
        ]
        .concat(),
        Icon::Network => vec![
            Move(5.0, 13.5),
            Line(5.0, 2.5),
            Move(2.25, 5.25),
            Line(5.0, 2.5),
            Line(7.75, 5.25),
            Move(11.0, 2.5),
            Line(11.0, 13.5),
            Move(8.25, 10.75),
            Line(11.0, 13.5),
            Line(13.75, 10.75),
        ],
        Icon::Battery => {
            [&rect(1.5, 4.75, 11.0, 6.5)[..], &[Move(14.75, 7.0), Line(14.75, 9.0), Move(4.25, 7.0), Line(4.25, 9.0)]].concat()
        }
        Icon::BatteryEmpty => battery(0.0),
        Icon::BatteryLow => battery(0.25),
        Icon::BatteryHalf => battery(0.5),
        Icon::BatteryFull => battery(1.0),
        Icon::BatteryCharging => {
            [&battery(0.0)[..], &[Move(7.75, 5.9), Line(5.5, 8.25), Line(8.5, 8.25), Line(6.25, 10.4)]].concat()
        }
        Icon::Wifi => wifi(3),
        Icon::WifiHalf => wifi(2),
        Icon::WifiLow => wifi(1),
        Icon::WifiOff => [&wifi(3)[..], &[Move(2.5, 2.5), Line(13.5, 13.5)]].concat(),
        Icon::Bluetooth => vec![
            Move(8.0, 8.0),
            Line(8.1, 8.0),
            Move(5.25, 5.0),
            Curve(3.75, 6.75, 3.75, 9.25, 5.25, 11.0),
            Move(10.75, 5.0),
            Curve(12.25, 6.75, 12.25, 9.25, 10.75, 11.0),
            Move(2.75, 2.75),
            Curve(0.25, 5.75, 0.25, 10.25, 2.75, 13.25),
            Move(13.25, 2.75),
            Curve(15.75, 5.75, 15.75, 10.25, 13.25, 13.25),
        ],
        Icon::Moon => vec![
            Move(13.5, 9.75),
            Curve(9.5, 11.0, 5.0, 7.0, 6.5, 2.25),
            Curve(1.0, 3.75, 0.75, 11.0, 5.0, 13.25),
            Curve(8.25, 15.0, 12.5, 13.25, 13.5, 9.75),
            Close,
        ],
        Icon::Cloud => cloud(12.25).to_vec(),
        Icon::Rain => [
            &cloud(10.0)[..],
            &[Move(5.0, 12.0), Line(4.25, 14.25), Move(8.25, 12.0), Line(7.5, 14.25), Move(11.5, 12.0), Line(10.75, 14.25)],
        ]
        .concat(),
        Icon::Sun => {
            let mut path = circle(8.0, 8.0, 3.0).to_vec();
            for nth in 0..8 {
                let (sin, cos) = (nth as f32 * std::f32::consts::FRAC_PI_4).sin_cos();
                path.extend([Move(8.0 + 5.25 * cos, 8.0 + 5.25 * sin), Line(8.0 + 6.75 * cos, 8.0 + 6.75 * sin)]);
            }
            path
        }
        Icon::Speaker => [
            &SPEAKER[..],
            &[Move(10.25, 6.0), Curve(11.4, 7.1, 11.4, 8.9, 10.25, 10.0)],
            &[Move(12.25, 4.0), Curve(14.5, 6.2, 14.5, 9.8, 12.25, 12.0)],
        ]
        .concat(),
        Icon::Mute => [&SPEAKER[..], &[Move(10.5, 6.25), Line(14.0, 9.75), Move(14.0, 6.25), Line(10.5, 9.75)]].concat(),
        Icon::Thermometer => [
            &[Move(6.25, 9.5), Line(6.25, 3.25), Curve(6.25, 1.0, 9.75, 1.0, 9.75, 3.25), Line(9.75, 9.5)][..],
            &[Curve(12.5, 11.5, 11.0, 14.75, 8.0, 14.75), Curve(5.0, 14.75, 3.5, 11.5, 6.25, 9.5)],
            &[Move(8.0, 6.0), Line(8.0, 11.75)],
        ]
        .concat(),
        Icon::Gauge => vec![
            Move(3.0, 12.5),
            Curve(-0.5, 8.0, 3.0, 2.75, 8.0, 2.75),
            Curve(13.0, 2.75, 16.5, 8.0, 13.0, 12.5),
            Move(8.0, 9.5),
            Line(11.0, 6.0),
        ],
        Icon::Hourglass => vec![
            Move(3.5, 1.75),
            Line(12.5, 1.75),
            Move(3.5, 14.25),
            Line(12.5, 14.25),
            Move(4.5, 1.75),
            Curve(4.5, 6.0, 7.25, 6.5, 7.25, 8.0),
            Curve(7.25, 9.5, 4.5, 10.0, 4.5, 14.25),
            Move(11.5, 1.75),
            Curve(11.5, 6.0, 8.75, 6.5, 8.75, 8.0),
            Curve(8.75, 9.5, 11.5, 10.0, 11.5, 14.25),
        ],
        Icon::List => {
            [4.0, 8.0, 12.0].into_iter().flat_map(|y| [Move(2.25, y), Line(2.75, y), Move(5.5, y), Line(13.75, y)]).collect()
        }
        Icon::Window => [&rect(1.75, 2.75, 12.5, 10.5)[..], &[Move(1.75, 6.0), Line(14.25, 6.0)]].concat(),
        Icon::Terminal => [
            &rect(1.75, 2.75, 12.5, 10.5)[..],
            &[Move(4.5, 6.0), Line(6.75, 8.0), Line(4.5, 10.0), Move(8.5, 10.25), Line(11.25, 10.25)],
        ]
        .concat(),
        Icon::Code => vec![
            Move(4.75, 4.5),
            Line(1.5, 8.0),
            Line(4.75, 11.5),
            Move(11.25, 4.5),
            Line(14.5, 8.0),
            Line(11.25, 11.5),
            Move(9.25, 3.0),
            Line(6.75, 13.0),
        ],
        Icon::Branch => [
            &circle(4.25, 3.75, 1.75)[..],
            &circle(4.25, 12.25, 1.75),
            &circle(11.75, 5.25, 1.75),
            &[Move(4.25, 5.5), Line(4.25, 10.5), Move(11.75, 7.0), Curve(11.75, 9.75, 6.5, 8.25, 4.75, 10.5)],
        ]
        .concat(),
        Icon::Folder => vec![
            Move(1.75, 13.0),
            Line(1.75, 3.25),
            Line(6.25, 3.25),
            Line(8.0, 5.25),
            Line(14.25, 5.25),
            Line(14.25, 13.0),
            Close,
        ],
        Icon::Globe => {
            [&circle(8.0, 8.0, 6.25)[..], &ellipse(8.0, 8.0, 2.75, 6.25), &[Move(1.75, 8.0), Line(14.25, 8.0)]].concat()
        }
        Icon::Camera => [
            &[Move(1.5, 12.75), Line(1.5, 5.0), Line(4.75, 5.0), Line(6.0, 3.0), Line(10.0, 3.0), Line(11.25, 5.0)][..],
            &[Line(14.5, 5.0), Line(14.5, 12.75), Close],
            &circle(8.0, 8.75, 2.5),
        ]
        .concat(),
        Icon::Lock => [
            &rect(3.0, 7.25, 10.0, 6.75)[..],
            &[Move(5.25, 7.25), Line(5.25, 4.75), Curve(5.25, 1.0, 10.75, 1.0, 10.75, 4.75), Line(10.75, 7.25)],
            &[Move(8.0, 10.0), Line(8.0, 11.25)],
        ]
        .concat(),
        Icon::Chart => vec![
            Move(2.25, 2.25),
            Line(2.25, 13.75),
            Line(13.75, 13.75),
            Move(4.5, 10.5),
            Curve(6.0, 3.0, 8.0, 3.5, 9.25, 7.5),
            Curve(10.0, 10.0, 11.75, 11.0, 13.5, 5.5),
        ],
        Icon::Map => vec![
            Move(1.75, 4.0),
            Line(6.0, 2.25),
            Line(10.0, 4.0),
            Line(14.25, 2.25),
            Line(14.25, 12.0),
            Line(10.0, 13.75),
            Line(6.0, 12.0),
            Line(1.75, 13.75),
            Close,
            Move(6.0, 2.25),
            Line(6.0, 12.0),
            Move(10.0, 4.0),
            Line(10.0, 13.75),
        ],
        Icon::Book => vec![
            Move(8.0, 3.75),
            Curve(6.5, 2.5, 4.0, 2.25, 1.75, 2.75),
            Line(1.75, 12.5),
            Curve(4.0, 12.0, 6.5, 12.25, 8.0, 13.5),
            Curve(9.5, 12.25, 12.0, 12.0, 14.25, 12.5),
            Line(14.25, 2.75),
            Curve(12.0, 2.25, 9.5, 2.5, 8.0, 3.75),
            Line(8.0, 13.5),
        ],
        Icon::Music => [
            &ellipse(4.5, 12.25, 2.25, 1.75)[..],
            &ellipse(11.5, 10.75, 2.25, 1.75),
            &[Move(6.75, 12.25), Line(6.75, 3.75), Line(13.75, 2.25), Line(13.75, 10.75)],
        ]
        .concat(),
        Icon::Play => triangle(4.25, 12.75).to_vec(),
        Icon::Pause => vec![Move(5.25, 3.0), Line(5.25, 13.0), Move(10.75, 3.0), Line(10.75, 13.0)],
        Icon::Stop => rect(3.75, 3.75, 8.5, 8.5).to_vec(),
        Icon::Next => [&triangle(3.25, 10.75)[..], &[Move(12.75, 3.0), Line(12.75, 13.0)]].concat(),
        Icon::Previous => [&triangle(12.75, 5.25)[..], &[Move(3.25, 3.0), Line(3.25, 13.0)]].concat(),
        Icon::Keyboard => [
            &rect(1.25, 4.0, 13.5, 8.0)[..],
            &[Move(4.0, 6.75), Line(4.1, 6.75), Move(6.75, 6.75), Line(6.85, 6.75), Move(9.25, 6.75), Line(9.35, 6.75)],
            &[Move(12.0, 6.75), Line(12.1, 6.75), Move(5.0, 9.5), Line(11.0, 9.5)],
        ]
        .concat(),
        Icon::Bell => vec![
            Move(2.75, 12.0),
            Curve(4.25, 10.5, 3.75, 8.5, 4.25, 6.25),
            Curve(5.0, 2.75, 11.0, 2.75, 11.75, 6.25),
            Curve(12.25, 8.5, 11.75, 10.5, 13.25, 12.0),
            Close,
            Move(6.75, 14.0),
            Curve(7.25, 14.75, 8.75, 14.75, 9.25, 14.0),
        ],
        Icon::Gear => {
            let mut path = circle(8.0, 8.0, 2.25).to_vec();
            path.extend(circle(8.0, 8.0, 4.9));
            for nth in 0..8 {
                let (sin, cos) = ((nth as f32 + 0.5) * std::f32::consts::FRAC_PI_4).sin_cos();
                path.extend([Move(8.0 + 5.2 * cos, 8.0 + 5.2 * sin), Line(8.0 + 6.75 * cos, 8.0 + 6.75 * sin)]);
            }
            path
        }
        Icon::Buoy => vec![
            Move(6.5, 2.0),
            Line(9.5, 2.0),
            Line(11.75, 10.5),
            Line(4.25, 10.5),
            Close,
            Move(5.5, 6.25),
            Line(10.5, 6.25),
            Move(1.5, 13.0),
            Curve(3.7, 11.25, 5.8, 11.25, 8.0, 13.0),
            Curve(10.2, 14.75, 12.3, 14.75, 14.5, 13.0),
        ],
        Icon::More => [3.5, 8.0, 12.5].into_iter().flat_map(|x| [Move(x, 8.0), Line(x + 0.1, 8.0)]).collect(),
    }
}

/// What the path of a picture begins with that is an icon of the theme: its name follows.
pub const THEMED: &str = "\u{0}icon/";

/// What the path of a picture begins with that is one of many, and drawn much smaller than it is.
pub const SMALL: &str = "\u{0}small/";

/// How thick the lines of a drawing are: large ones stay thin.
fn thickness(size: f32) -> f32 {
    let by = size / 16.0;
    1.5 * if by > 1.0 { by.sqrt() } else { by }
}

/// Draws an icon of any kind with its top left corner at a place.
pub fn draw_icon(rice: &Rice, sign: &StyledIcon, x: f32, y: f32, scene: &mut Scene) {
    let (size, ink) = (sign.size, sign.style.ink);
    match &sign.icon {
        IconRef::Drawn(icon) => scene.stroke(moved(scaled(icon_path(*icon), size / 16.0), x, y), thickness(size), ink),
        IconRef::Picture(path) => {
            let rect = Rect::new(x, y, size, size);
            scene.items.push(Primitive::Picture { rect, path: path.clone(), fit: Fit::Contain, otherwise: Vec::new() });
        }
        IconRef::Themed(name, stand_in) => {
            let mut own = Scene::default();
            draw_icon(rice, &StyledIcon { icon: IconRef::Drawn(*stand_in), ..sign.clone() }, x, y, &mut own);
            let (rect, path) = (Rect::new(x, y, size, size), format!("{THEMED}{name}"));
            scene.items.push(Primitive::Picture { rect, path, fit: Fit::Contain, otherwise: own.items });
        }
        IconRef::Character(text) => {
            let (x, y) = ((x + (size - sign.width) / 2.0).round(), y + size / 2.0);
            let face = icon_face(rice, size);
            scene.items.push(Primitive::Text { x, y, text: text.clone(), face, colour: ink, turn: TextRotation::None });
        }
        IconRef::App => {}
    }
}

/// The face of an icon that is a character, in a square of so many pixels.
pub fn icon_face(rice: &Rice, square: f32) -> TextStyle {
    let family = if rice.r#type.icon.is_empty() { &rice.r#type.text } else { &rice.r#type.icon };
    TextStyle::new(family, square * 0.75 * 0.9)
}

/// A path so many times as large.
pub(super) fn scaled(path: Vec<PathSegment>, by: f32) -> Vec<PathSegment> {
    if by == 1.0 {
        return path;
    }
    let step = |step| match step {
        Move(x, y) => Move(x * by, y * by),
        Line(x, y) => Line(x * by, y * by),
        Curve(a, b, c, d, x, y) => Curve(a * by, b * by, c * by, d * by, x * by, y * by),
        Close => Close,
    };
    path.into_iter().map(step).collect()
}

/// A path moved by an offset.
pub fn moved(path: Vec<PathSegment>, dx: f32, dy: f32) -> Vec<PathSegment> {
    let step = |step| match step {
        Move(x, y) => Move(x + dx, y + dy),
        Line(x, y) => Line(x + dx, y + dy),
        Curve(a, b, c, d, x, y) => Curve(a + dx, b + dy, c + dx, d + dy, x + dx, y + dy),
        Close => Close,
    };
    path.into_iter().map(step).collect()
}
