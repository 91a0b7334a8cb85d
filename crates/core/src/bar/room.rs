//! Where each module of a bar goes.

use super::Grade;
use crate::desk::Desk;
use crate::rice::{Bar, Icon, Module, Rice, SourceKind};
use crate::scene::{Face, Measure, Rect};

use super::Values;

/// Around text and icons, in pixels at scale 1.
const ICON: f32 = 16.0;
const ICON_GAP: f32 = 6.0;
const MODULE_GAP: f32 = 24.0;
const SIDE: f32 = 18.0;

/// One module as it is shown.
#[derive(Debug, Clone, PartialEq)]
pub struct Shown {
    /// The module's name.
    pub name: String,
    /// Where it lies.
    pub rect: Rect,
    /// What is drawn there.
    pub what: What,
    /// How loudly it calls.
    pub grade: Grade,
}

/// What a module draws.
#[derive(Debug, Clone, PartialEq)]
pub enum What {
    /// An icon and a text.
    Text {
        /// The icon.
        icon: Icon,
        /// The text.
        text: String,
        /// Drawn in the muted colour.
        quiet: bool,
    },
    /// Marks of the workspaces.
    Staff(Vec<Mark>),
    /// The layout as a small drawing.
    Layout(crate::desk::LayoutSketch),
}

/// One workspace's mark.
#[derive(Debug, Clone, PartialEq)]
pub struct Mark {
    /// From the left of the module.
    pub x: f32,
    /// Its state.
    pub state: MarkState,
    /// The name, written only where one is.
    pub name: Option<String>,
}

/// The state of a workspace.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MarkState {
    /// Nothing lives there.
    Empty,
    /// Something lives there.
    Used,
    /// One is there.
    Here,
    /// A window calls.
    Calls,
}

/// A bar with its modules in their places.
#[derive(Debug, Clone, PartialEq)]
pub struct Strip {
    /// The bar's name.
    pub name: String,
    /// Where it lies on the screen.
    pub rect: Rect,
    /// Whether the hairline is at its bottom.
    pub top: bool,
    /// Its modules.
    pub modules: Vec<Shown>,
}

impl Strip {
    /// The areas that look different from an earlier state of the same bar: whole modules, on whole pixels.
    pub fn damage(&self, old: &Strip) -> Vec<Rect> {
        if self.rect != old.rect || self.top != old.top {
            return vec![self.rect];
        }
        let find = |strip: &'_ Strip, name: &str| strip.modules.iter().find(|shown| shown.name == name).cloned();
        // Glyphs may reach a little out of their box.
        let around = |rect: Rect| {
            let left = (rect.x - 4.0).floor().max(self.rect.x);
            let right = (rect.x + rect.w + 4.0).ceil().min(self.rect.x + self.rect.w);
            Rect { x: left, y: self.rect.y, w: right - left, h: self.rect.h }
        };
        let mut areas = Vec::new();
        for shown in &self.modules {
            match find(old, &shown.name) {
                Some(before) if before == *shown => {}
                Some(before) => areas.push(around(before.rect.union(shown.rect))),
                None => areas.push(around(shown.rect)),
            }
        }
        areas.extend(old.modules.iter().filter(|before| find(self, &before.name).is_none()).map(|before| around(before.rect)));
        areas
    }
}

/// The values of all modules, by name.
pub type Known = indexmap::IndexMap<String, Values>;

/// Puts a bar's modules into their places; the trouble of a reload stands where the title was.
pub fn arrange(
    desk: &Desk,
    monitor: usize,
    name: &str,
    bar: &Bar,
    known: &Known,
    trouble: Option<&str>,
    measure: &mut dyn Measure,
) -> Strip {
    let rice: &Rice = desk.rice();
    let area = desk.bar_rect(monitor, name).unwrap_or_default();
    let build = |names: &[String], measure: &mut dyn Measure| -> Vec<Shown> {
        let modules = names.iter().filter_map(|name| Some((name, rice.module.get(name)?)));
        modules.filter_map(|(name, module)| shown(rice, desk, monitor, name, module, known, measure)).collect()
    };
    let mut start = build(&bar.start, measure);
    let mut middle = build(&bar.middle, measure);
    let mut end = build(&bar.end, measure);
    if let Some(trouble) = trouble {
        let what = What::Text { icon: Icon::None, text: trouble.to_owned(), quiet: false };
        let width = measure.width(trouble, &text_face(rice));
        let rect = Rect { x: 0.0, y: 0.0, w: width, h: area.h };
        middle = vec![Shown { name: "reload".to_owned(), rect, what, grade: Grade::Urgent }];
    }
    let total = |list: &[Shown]| {
        let gaps = MODULE_GAP * list.len().saturating_sub(1) as f32;
        list.iter().map(|shown| shown.rect.w).sum::<f32>() + gaps
    };
    let place = |list: &mut [Shown], from: f32| {
        let mut x = from;
        for shown in list {
            shown.rect = Rect { x, y: area.y, w: shown.rect.w, h: area.h };
            x += shown.rect.w + MODULE_GAP;
        }
    };
    let (left, right) = (area.x + SIDE, area.x + area.w - SIDE);
    let end_from = (right - total(&end)).round();
    place(&mut start, left);
    place(&mut end, end_from);
    let start_end = left + total(&start);
    let (room_from, room_to) = (start_end + MODULE_GAP, end_from - MODULE_GAP);
    let wanted = total(&middle);
    // The middle gives way first: it is cut to what the two sides leave.
    if wanted > room_to - room_from {
        cut(&mut middle, room_to - room_from, rice, measure);
    }
    let centre = (area.x + (area.w - total(&middle)) / 2.0).round();
    let from = centre.clamp(room_from.min(room_to), (room_to - total(&middle)).max(room_from));
    place(&mut middle, from);
    let modules = start.into_iter().chain(middle).chain(end).collect();
    Strip { name: name.to_owned(), rect: area, top: bar.edge == crate::rice::Edge::Top, modules }
}

fn cut(list: &mut Vec<Shown>, room: f32, rice: &Rice, measure: &mut dyn Measure) {
    let Some(last) = list.last_mut() else { return };
    let What::Text { text, .. } = &mut last.what else { return };
    if room < 24.0 {
        list.clear();
        return;
    }
    let face = text_face(rice);
    let chars: Vec<char> = text.chars().collect();
    let (mut low, mut high) = (0, chars.len());
    let shortened = |len: usize| chars[..len].iter().chain(&['…']).collect::<String>();
    while low < high {
        let middle = (low + high).div_ceil(2);
        if measure.width(&shortened(middle), &face) <= room { low = middle } else { high = middle - 1 }
    }
    *text = shortened(low);
    last.rect.w = measure.width(text, &face);
}

/// The face of text on a bar.
pub fn text_face(rice: &Rice) -> Face {
    Face { family: rice.r#type.text.clone(), points: rice.r#type.size.0, bold: false, mono: false }
}

fn shown(
    rice: &Rice,
    desk: &Desk,
    monitor: usize,
    name: &str,
    module: &Module,
    known: &Known,
    measure: &mut dyn Measure,
) -> Option<Shown> {
    let mut face = text_face(rice);
    let rect = |w: f32| Rect { x: 0.0, y: 0.0, w: w.ceil(), h: 0.0 };
    match module.source.kind {
        SourceKind::Workspaces => {
            face.bold = true;
            let mut marks = Vec::new();
            let mut x = 0.0;
            for (name, state) in desk.workspace_marks(monitor) {
                let here = state == MarkState::Here;
                let label = here.then(|| name.to_owned());
                marks.push(Mark { x, state, name: label });
                x += if here { 11.0 + measure.width(name, &face) + 20.0 } else { 17.0 };
            }
            let width = marks.last().map_or(0.0, |last| if last.state == MarkState::Here { x - 20.0 } else { x - 14.0 });
            Some(Shown { name: name.to_owned(), rect: rect(width), what: What::Staff(marks), grade: Grade::Plain })
        }
        SourceKind::Layout => {
            let what = What::Layout(desk.layout_sketch(monitor));
            Some(Shown { name: name.to_owned(), rect: rect(ICON + 2.0), what, grade: Grade::Plain })
        }
        ref kind => {
            let values = match kind {
                SourceKind::Title => desk.title_values(monitor),
                _ => known.get(name).cloned().unwrap_or_default(),
            };
            let text = module.text.fill(&values).unwrap_or_else(|| module.empty.clone());
            if text.is_empty() {
                return None;
            }
            let icon = if module.icon == Icon::None { 0.0 } else { ICON + ICON_GAP };
            let width = measure.width(&text, &face) + icon;
            let quiet = *kind == SourceKind::Title;
            let grade = values.grade(&module.grades);
            Some(Shown { name: name.to_owned(), rect: rect(width), what: What::Text { icon: module.icon, text, quiet }, grade })
        }
    }
}
