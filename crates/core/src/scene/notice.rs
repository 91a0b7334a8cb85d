//! A notice as things to draw.

use super::{Item, Measure, Rect, Scene};
use crate::rice::{Rice, Side};
use crate::style::{Kin, State, resolve};

/// What a notice says.
#[derive(Debug, Clone, PartialEq)]
pub struct Notice {
    /// Its first line.
    pub title: String,
    /// What follows.
    pub body: String,
    /// How loudly it calls, if it does.
    pub state: Option<State>,
}

/// How wide a notice is, and how far from the windows' corner.
pub const NOTICE: (f32, f32) = (342.0, 12.0);

/// From the mark at its side to its text is in the padding; this is how thick the mark is.
const MARK: f32 = 3.0;

/// A text as lines of a width, broken between words.
pub(super) fn lines(text: &str, width: f32, face: &super::Face, measure: &mut dyn Measure) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in text.split_whitespace() {
        let longer = lines.last().map(|line| format!("{line} {word}"));
        match longer.filter(|longer| measure.width(longer, face) <= width) {
            Some(longer) => {
                lines.pop();
                lines.push(longer);
            }
            None => lines.push(word.to_owned()),
        }
    }
    lines
}

struct Set {
    style: crate::style::Style,
    title: crate::style::Style,
    mark: crate::style::Style,
    body: Vec<String>,
}

fn set(rice: &Rice, notice: &Notice, width: f32, measure: &mut dyn Measure) -> Set {
    let states: Vec<State> = notice.state.into_iter().collect();
    let kin = Kin { kind: "notice", name: "", states: &states };
    let inner = |kind| resolve(rice, &[kin, Kin { kind, name: "", states: &states }]);
    let style = resolve(rice, &[kin]);
    let room = width - (style.pad.left + style.pad.right) as f32;
    let body = lines(&notice.body, room, &style.face, measure);
    Set { title: inner("notice.title"), mark: inner("notice.mark"), style, body }
}

fn height(set: &Set) -> f32 {
    let pad = set.style.pad;
    let body = set.style.face.line() * set.body.len() as f32;
    let gap = if set.body.is_empty() { 0.0 } else { set.style.gap };
    (pad.top + pad.bottom) as f32 + set.title.face.line() + gap + body
}

/// How high a notice of a width is.
pub fn notice_size(rice: &Rice, said: &Notice, width: f32, measure: &mut dyn Measure) -> f32 {
    height(&set(rice, said, width, measure))
}

/// Draws a notice with its top left corner at a place.
pub fn notice(rice: &Rice, said: &Notice, (x, y): (f32, f32), width: f32, scene: &mut Scene, measure: &mut dyn Measure) {
    let set = set(rice, said, width, measure);
    let (style, pad) = (&set.style, set.style.pad);
    let rect = Rect::new(x, y, width, height(&set));
    scene.styled(rect, style, Side::Bottom);
    let mark = Rect::new(x, y + pad.top as f32, MARK, rect.h - (pad.top + pad.bottom) as f32);
    scene.items.push(Item::Fill { rect: mark, radius: [0.0; 4], fill: set.mark.fill.clone() });
    let left = x + pad.left as f32;
    let line = set.title.face.line();
    let mut at = y + pad.top as f32;
    scene.text(left, at + line / 2.0, said.title.clone(), &set.title.face, set.title.ink);
    at += line + style.gap;
    for body in &set.body {
        let line = style.face.line();
        scene.text(left, at + line / 2.0, body.clone(), &style.face, style.ink);
        at += line;
    }
}
