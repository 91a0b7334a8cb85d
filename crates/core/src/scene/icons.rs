//! Icons, drawn by us on a 16-unit grid with a stroke of 1.5 and round ends.

use super::Step::{self, Close, Curve, Line, Move};
use crate::rice::Icon;

fn rect(x: f32, y: f32, w: f32, h: f32) -> [Step; 5] {
    [Move(x, y), Line(x + w, y), Line(x + w, y + h), Line(x, y + h), Close]
}

fn circle(cx: f32, cy: f32, r: f32) -> [Step; 6] {
    let k = r * 0.5523;
    [
        Move(cx + r, cy),
        Curve(cx + r, cy + k, cx + k, cy + r, cx, cy + r),
        Curve(cx - k, cy + r, cx - r, cy + k, cx - r, cy),
        Curve(cx - r, cy - k, cx - k, cy - r, cx, cy - r),
        Curve(cx + k, cy - r, cx + r, cy - k, cx + r, cy),
        Close,
    ]
}

/// The lines of an icon whose top left corner is the origin.
pub fn lines(icon: Icon) -> Vec<Step> {
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
            let mut path: Vec<Step> = rect(4.0, 4.0, 8.0, 8.0).to_vec();
            for at in [6.0, 10.0] {
                path.extend([Move(at, 1.5), Line(at, 4.0), Move(at, 12.0), Line(at, 14.5)]);
                path.extend([Move(1.5, at), Line(4.0, at), Move(12.0, at), Line(14.5, at)]);
            }
            path
        }
        Icon::Memory => {
            let mut path: Vec<Step> = rect(1.5, 5.0, 13.0, 6.5).to_vec();
            for at in [4.5, 8.0, 11.5] {
                path.extend([Move(at, 7.5), Line(at, 9.0)]);
            }
            path
        }
        Icon::Clock => [&circle(8.0, 8.0, 6.25)[..], &[Move(8.0, 4.5), Line(8.0, 8.0), Line(10.5, 9.5)]].concat(),
        Icon::Letter => [&rect(2.0, 3.5, 12.0, 9.0)[..], &[Move(2.5, 4.5), Line(8.0, 9.0), Line(13.5, 4.5)]].concat(),
    }
}

/// A path moved by an offset.
pub fn moved(path: Vec<Step>, dx: f32, dy: f32) -> Vec<Step> {
    let step = |step| match step {
        Move(x, y) => Move(x + dx, y + dy),
        Line(x, y) => Line(x + dx, y + dy),
        Curve(a, b, c, d, x, y) => Curve(a + dx, b + dy, c + dx, d + dy, x + dx, y + dy),
        Close => Close,
    };
    path.into_iter().map(step).collect()
}
