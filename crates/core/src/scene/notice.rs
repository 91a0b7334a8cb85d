//! A notice as things to draw.

use super::{Item, Measure, Rect, Scene};
use crate::rice::{Rice, Side};
use crate::style::{Kin, State, resolve};

/// What a notice says.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Notice {
    /// Its first line.
    pub title: String,
    /// What follows.
    pub body: String,
    /// How loudly it calls, if it does.
    pub state: Option<State>,
    /// A value from 0 to 1, shown as a bar.
    pub value: Option<f32>,
    /// What can be done about it: a label each.
    pub actions: Vec<String>,
}

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

/// The most lines of a body that are shown.
const MOST_LINES: usize = 8;
/// How high the bar of a value is.
const BAR: f32 = 4.0;

/// A notice of a width: its styles, its lines, and how high it is.
#[derive(Debug, Clone)]
pub struct Laid {
    style: crate::style::Style,
    title: crate::style::Style,
    mark: crate::style::Style,
    action: crate::style::Style,
    titles: Vec<String>,
    body: Vec<String>,
    /// How high it is.
    pub height: f32,
}

impl Laid {
    /// Lays a notice out.
    pub fn of(rice: &Rice, said: &Notice, width: f32, measure: &mut dyn Measure) -> Laid {
        let states: Vec<State> = said.state.into_iter().collect();
        let kin = Kin { kind: "notice", name: "", states: &states };
        let inner = |kind| resolve(rice, &[kin, Kin { kind, name: "", states: &states }]);
        let style = resolve(rice, &[kin]);
        let (title, mark, action) = (inner("notice.title"), inner("notice.mark"), inner("notice.action"));
        let pad = style.pad;
        let room = width - (pad.left + pad.right) as f32;
        let fitting = |text: &str, most: usize, face: &super::Face, measure: &mut dyn Measure| {
            let mut all: Vec<String> = text.lines().flat_map(|line| lines(line, room, face, measure)).collect();
            if all.len() > most {
                all.truncate(most);
                all[most - 1].push('\u{2026}');
            }
            all
        };
        let titles = fitting(&said.title, 2, &title.face, measure);
        let body = fitting(&said.body, MOST_LINES, &style.face, measure);
        let gap = |there: bool| if there { style.gap } else { 0.0 };
        let text = title.face.line() * titles.len() as f32 + style.face.line() * body.len() as f32;
        let value = if said.value.is_some() { BAR + 2.0 * style.gap + 4.0 } else { 0.0 };
        let actions = if said.actions.is_empty() { 0.0 } else { action.face.line() + 6.0 };
        let height = (pad.top + pad.bottom) as f32 + text + gap(!titles.is_empty() && !body.is_empty()) + value + actions;
        Laid { style, title, mark, action, titles, body, height }
    }
}

/// Draws a notice with its top left corner at a place; where each of its actions lies.
pub fn notice(
    rice: &Rice,
    said: &Notice,
    laid: &Laid,
    (x, y): (f32, f32),
    width: f32,
    scene: &mut Scene,
    measure: &mut dyn Measure,
) -> Vec<Rect> {
    let (style, pad) = (&laid.style, laid.style.pad);
    let rect = Rect::new(x, y, width, laid.height);
    scene.styled(rect, style, Side::Bottom);
    let mark = Rect::new(x, y + pad.top as f32, MARK, rect.h - (pad.top + pad.bottom) as f32);
    scene.items.push(Item::Fill { rect: mark, radius: [0.0; 4], fill: laid.mark.fill.clone() });
    let (left, room) = (x + pad.left as f32, width - (pad.left + pad.right) as f32);
    let mut at = y + pad.top as f32;
    let mut write = |lines: &[String], of: &crate::style::Style, at: &mut f32| {
        for text in lines {
            let line = of.face.line();
            scene.text(left, *at + line / 2.0, text.clone(), &of.face, of.ink);
            *at += line;
        }
    };
    write(&laid.titles, &laid.title, &mut at);
    at += if laid.titles.is_empty() || laid.body.is_empty() { 0.0 } else { style.gap };
    write(&laid.body, style, &mut at);
    if let Some(value) = said.value {
        at += style.gap + 4.0;
        scene.fill(Rect::new(left, at, room, BAR), BAR / 2.0, rice.palette.current.line);
        let full = Rect::new(left, at, (room * value.clamp(0.0, 1.0)).max(BAR), BAR);
        scene.items.push(Item::Fill { rect: full, radius: [BAR / 2.0; 4], fill: laid.mark.fill.clone() });
        at += BAR + style.gap;
    }
    let (mut from, line) = (left, laid.action.face.line());
    at += 6.0;
    let one = |label: &String| {
        let wide = measure.width(label, &laid.action.face).min((left + room - from).max(0.0));
        let place = Rect::new(from, at, wide, line);
        scene.text(from, at + line / 2.0, label.clone(), &laid.action.face, laid.action.ink);
        from += wide + 18.0;
        place
    };
    said.actions.iter().map(one).collect()
}
