//! What opens at a bar: a menu of actions, and what a module says of itself.

use jovrik_values::{ElementState, Rect, Side};

use crate::rice::Rice;
use crate::scene::{Measure, Scene};
use crate::style::{ComputedStyle, StyledElement, resolve};

/// A menu: lines, of which one may be picked.
#[derive(Debug, Clone, PartialEq)]
pub struct Menu {
    /// Its lines.
    pub lines: Vec<String>,
    /// The line that would be chosen.
    pub picked: Option<usize>,
}

const MENU: StyledElement<'static> = StyledElement { kind: "menu", name: "", states: &[] };

impl Menu {
    fn item(rice: &Rice, picked: bool) -> ComputedStyle {
        let states: &[ElementState] = if picked { &[ElementState::Picked] } else { &[] };
        resolve(rice, &[MENU, StyledElement { kind: "menu.item", name: "", states }])
    }

    fn row(style: &ComputedStyle) -> f32 {
        style.face.line() + (style.pad.top + style.pad.bottom) as f32
    }

    /// How large it is.
    pub fn size(&self, rice: &Rice, measure: &mut dyn Measure) -> (f32, f32) {
        let (menu, item) = (resolve(rice, &[MENU]), Menu::item(rice, false));
        let widest = self.lines.iter().map(|line| measure.width(line, &item.face)).fold(0.0, f32::max).ceil();
        let pads = |style: &ComputedStyle| ((style.pad.left + style.pad.right) as f32, (style.pad.top + style.pad.bottom) as f32);
        let (w, h) = pads(&menu);
        let rows = Menu::row(&item) * self.lines.len() as f32;
        ((widest + pads(&item).0 + w).max(menu.min).min(menu.max), rows + h)
    }

    /// The line at a height below its top.
    pub fn line_at(&self, rice: &Rice, y: f32) -> Option<usize> {
        let (menu, item) = (resolve(rice, &[MENU]), Menu::item(rice, false));
        let row = ((y - menu.pad.top as f32) / Menu::row(&item)).floor();
        (row >= 0.0 && (row as usize) < self.lines.len()).then_some(row as usize)
    }

    /// Draws it in a box.
    pub fn draw(&self, rice: &Rice, rect: Rect, scene: &mut Scene) {
        let menu = resolve(rice, &[MENU]);
        scene.styled(rect, &menu, Side::Bottom);
        let mut y = rect.y + menu.pad.top as f32;
        for (nth, line) in self.lines.iter().enumerate() {
            let item = Menu::item(rice, self.picked == Some(nth));
            let row = Menu::row(&item);
            let (left, right) = (menu.pad.left as f32, menu.pad.right as f32);
            scene.styled(Rect::new(rect.x + left, y, rect.w - left - right, row), &item, Side::Bottom);
            scene.text(rect.x + left + item.pad.left as f32, y + row / 2.0, line.clone(), &item.face, item.ink);
            y += row;
        }
    }
}

fn hint_style(rice: &Rice) -> ComputedStyle {
    resolve(rice, &[StyledElement { kind: "hint", name: "", states: &[] }])
}

/// How large the box round a hint is.
pub fn hint_size(rice: &Rice, text: &str, measure: &mut dyn Measure) -> (f32, f32) {
    let style = hint_style(rice);
    let widest = text.lines().map(|line| measure.width(line, &style.face)).fold(0.0, f32::max).ceil();
    let (across, along) = ((style.pad.left + style.pad.right) as f32, (style.pad.top + style.pad.bottom) as f32);
    (widest + across, style.face.line() * text.lines().count().max(1) as f32 + along)
}

/// Draws a hint in a box.
pub fn hint(rice: &Rice, text: &str, rect: Rect, scene: &mut Scene) {
    let style = hint_style(rice);
    scene.styled(rect, &style, Side::Bottom);
    let line = style.face.line();
    for (nth, words) in text.lines().enumerate() {
        let y = rect.y + style.pad.top as f32 + line * (nth as f32 + 0.5);
        scene.text(rect.x + style.pad.left as f32, y, words, &style.face, style.ink);
    }
}
