//! A strip of titles, of which one is in front.

use jovrik_values::{ElementState, Rect, Side};

use crate::rice::Rice;
use crate::scene::{Measure, Scene, cut};
use crate::style::{ComputedStyle, StyledElement, resolve};

const TABS: StyledElement<'static> = StyledElement { kind: "tabs", name: "", states: &[] };

/// A title in a strip, with its place along it. Pixels are those of the settings.
#[derive(Debug, Clone, PartialEq)]
pub struct Tab {
    /// What it says, as much of it as there is room for.
    pub title: String,
    /// Whether it is in front, or calls.
    pub state: Option<ElementState>,
    /// Where its room begins, from the left end of the strip.
    pub at: f32,
    /// How long its room is.
    pub length: f32,
}

/// The height of a strip of titles.
pub fn tab_height(rice: &Rice) -> i32 {
    let (strip, title) = (resolve(rice, &[TABS]), style(rice, None));
    let pads = strip.pad.top + strip.pad.bottom + title.pad.top + title.pad.bottom;
    (title.face.line() as i32 + pads).clamp(8, 200)
}

fn style(rice: &Rice, state: Option<ElementState>) -> ComputedStyle {
    let states: &[ElementState] = match state {
        Some(ElementState::Active) => &[ElementState::Active],
        Some(ElementState::Urgent) => &[ElementState::Urgent],
        _ => &[],
    };
    resolve(rice, &[TABS, StyledElement { kind: "tabs.title", name: "", states }])
}

/// From a mark to its title, and the widths of marks.
const GAP: f32 = 9.0;
const MARK: f32 = 3.0;

/// Puts titles into a strip of a length: as long as they are where all have room, else all equally long.
pub fn tabs(rice: &Rice, titles: Vec<(String, Option<ElementState>)>, length: f32, measure: &mut dyn Measure) -> Vec<Tab> {
    let strip = resolve(rice, &[TABS]);
    let room = (length - (strip.pad.left + strip.pad.right) as f32).max(1.0);
    let plain = style(rice, None);
    let around = (plain.pad.left + plain.pad.right) as f32 + MARK + GAP;
    // Bold is wider: a title does not move when it comes to the front.
    let bold = style(rice, Some(ElementState::Active)).face;
    let mut natural = |title: &str| (measure.width(title, &bold).ceil() + around).min(plain.max.max(around + 1.0));
    let lengths: Vec<f32> = titles.iter().map(|(title, _)| natural(title)).collect();
    let all: f32 = lengths.iter().sum();
    let most = room / titles.len().max(1) as f32;
    let mut at = strip.pad.left as f32;
    let mut tabs = Vec::with_capacity(titles.len());
    for ((title, state), natural) in titles.into_iter().zip(lengths) {
        let length = if all <= room { natural } else { most };
        let title = cut(&title, (length - around).max(0.0), &bold, measure);
        tabs.push(Tab { title, state, at, length });
        at += length;
    }
    tabs
}

/// The number of the tab at a place along a strip.
pub fn tab_at(tabs: &[Tab], along: f32) -> Option<usize> {
    tabs.iter().position(|tab| along >= tab.at && along < tab.at + tab.length)
}

/// Draws a strip of titles.
pub fn draw_tabs(rice: &Rice, tabs: &[Tab], rect: Rect, scene: &mut Scene) {
    let strip = resolve(rice, &[TABS]);
    scene.styled(rect, &strip, Side::Bottom);
    let middle = rect.y + rect.h / 2.0;
    for tab in tabs {
        let style = style(rice, tab.state);
        let room = Rect::new(rect.x + tab.at, rect.y, tab.length, rect.h);
        scene.styled(room, &style, Side::Bottom);
        let left = room.x + style.pad.left as f32;
        // The staff's marks stand for tabs too: tall where one is, short elsewhere.
        let (wide, high) = if tab.state == Some(ElementState::Active) { (MARK, style.face.line()) } else { (MARK, 8.0) };
        let (mark, ink) = match tab.state {
            Some(ElementState::Active) => (rice.palette.current.accent, style.ink),
            _ => (style.ink, style.ink),
        };
        if tab.title.is_empty() && tab.length < GAP {
            continue;
        }
        scene.fill(Rect::new(left, (middle - high / 2.0).round(), wide, high.round()), 1.0, mark);
        scene.text(left + MARK + GAP, middle, tab.title.clone(), &style.face, ink);
    }
}
