//! The dock as things to draw.

use jovrik_values::{ElementState, IconRef, Rect, Side, Sides};

use super::icons::{draw_icon, icon_face};
use crate::bar::StyledIcon;
use crate::dock::{DockItem, DockItemKind};
use crate::rice::{DockLabels, Rice};
use crate::scene::{Measure, Scene};
use crate::style::{ComputedStyle, StyledElement, resolve};

/// A dock with its upper left corner at the origin, in pixels of the settings.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct DockScene {
    /// What is drawn.
    pub scene: Scene,
    /// How wide and high it is.
    pub size: (f32, f32),
    /// Where each of what stands in it lies, with all the room that a press may take.
    pub spots: Vec<Rect>,
}

/// The room that marks of windows take, at the side of the edge, and the thickness of one.
const MARKS: f32 = 10.0;
const MARK: f32 = 3.0;
/// From a mark to the next, and the length of that of the focus.
const STEP: f32 = 9.0;
const LONG: f32 = 18.0;
/// So many windows have marks of their own.
const MAX_WINDOW_MARKS: usize = 4;
/// The room of a line between two others.
const LINE: f32 = 1.0;

fn style(rice: &Rice, kind: &str, states: &[ElementState]) -> ComputedStyle {
    let own = StyledElement { kind, name: "", states };
    match kind {
        "dock" => resolve(rice, &[own]),
        "dock.item" => resolve(rice, &[StyledElement { kind: "dock", name: "", states: &[] }, own]),
        _ => resolve(
            rice,
            &[StyledElement { kind: "dock", name: "", states: &[] }, StyledElement { kind: "dock.item", name: "", states }, own],
        ),
    }
}

fn states(item: &DockItem, hovered: bool) -> Vec<ElementState> {
    let mut states = Vec::new();
    if item.urgent {
        states.push(ElementState::Urgent);
    }
    if item.active {
        states.push(ElementState::Active);
    }
    if hovered {
        states.push(ElementState::Hover);
    }
    if !item.windows.is_empty() {
        states.push(ElementState::Running);
    }
    states
}

/// Whether names stand below everything.
fn labelled(rice: &Rice) -> bool {
    rice.dock.labels == DockLabels::Always && matches!(rice.dock.edge, Side::Top | Side::Bottom)
}

/// How thick a dock is where nothing in it is under the pointer, in pixels of the settings.
pub fn dock_thickness(rice: &Rice) -> f32 {
    let own = style(rice, "dock", &[]);
    let Sides { top, bottom, .. } = own.pad;
    let label = if labelled(rice) { style(rice, "dock.item", &[]).face.line() } else { 0.0 };
    rice.dock.size.0 as f32 + MARKS + label + (top + bottom) as f32
}

/// How large everything is: what is under the pointer is grown, its neighbours half as much.
fn sizes(rice: &Rice, items: &[DockItem], hovered: Option<usize>) -> Vec<f32> {
    let (size, grown) = (rice.dock.size.0 as f32, rice.dock.grown.0 as f32);
    let more = (grown - size).max(0.0);
    let one = |nth: usize| match hovered.map(|at| at.abs_diff(nth)) {
        Some(0) => size + more,
        Some(1) => size + more / 2.0,
        _ => size,
    };
    (0..items.len()).map(one).collect()
}

/// Draws a dock.
pub fn dock(rice: &Rice, items: &[DockItem], hovered: Option<usize>, measure: &mut dyn Measure) -> DockScene {
    let (edge, own) = (rice.dock.edge, style(rice, "dock", &[]));
    let upright = matches!(edge, Side::Left | Side::Right);
    let Sides { top, right, bottom, left } = own.pad;
    // Paddings turn with the dock: those along it are the same at every edge.
    let (before, after, inner, outer) = (left as f32, right as f32, top as f32, bottom as f32);
    let sizes = sizes(rice, items, hovered);
    let label_line = if labelled(rice) { style(rice, "dock.item", &[]).face.line() } else { 0.0 };
    let most = sizes.iter().copied().fold(rice.dock.size.0 as f32, f32::max);
    let thick = inner + most + label_line + MARKS + outer;
    let lengths: Vec<f32> = items
        .iter()
        .zip(&sizes)
        .map(|(item, size)| match item.stands {
            DockItemKind::Separator => LINE,
            _ if label_line > 0.0 => size.max(measure.width(&item.name, &style(rice, "dock.item", &states(item, false)).face)),
            _ => *size,
        })
        .collect();
    let gaps = own.gap * items.len().saturating_sub(1) as f32;
    let long = before + lengths.iter().sum::<f32>() + gaps + after;
    let size = if upright { (thick, long) } else { (long, thick) };
    // A box by where it begins along the dock and from the inner side, and how far it goes.
    let turned = |along: f32, across: f32, length: f32, deep: f32| match edge {
        Side::Bottom => Rect::new(along, across, length, deep),
        Side::Top => Rect::new(along, thick - across - deep, length, deep),
        Side::Right => Rect::new(across, along, deep, length),
        Side::Left => Rect::new(thick - across - deep, along, deep, length),
    };
    let mut laid = DockScene { scene: Scene::default(), size, spots: Vec::new() };
    let inner_side = edge.opposite();
    laid.scene.styled(Rect::new(0.0, 0.0, size.0, size.1), &own, inner_side);
    let mut along = before;
    for (nth, (item, length)) in items.iter().zip(&lengths).enumerate() {
        laid.spots.push(turned(along - own.gap / 2.0, 0.0, length + own.gap, thick));
        if item.stands == DockItemKind::Separator {
            let ink = style(rice, "dock.item", &[]).line.fill.clone();
            let rect = turned(along, inner + 2.0, LINE, rice.dock.size.0 as f32 - 4.0);
            laid.scene.items.push(super::Primitive::Fill { rect, radius: [0.0; 4], fill: ink });
        } else {
            let states = states(item, hovered == Some(nth));
            let (own_size, look) = (sizes[nth], style(rice, "dock.item", &states));
            // Smaller ones stand on the line of the others, at the side of the edge.
            let place = turned(along + (length - own_size) / 2.0, inner + most - own_size, own_size, own_size);
            let width = match &item.icon {
                IconRef::Character(text) => measure.width(text, &icon_face(rice, own_size)),
                _ => own_size,
            };
            if !look.fill.is_none() || look.line.width > 0 {
                laid.scene.styled(place.grown(look.pad.left as f32), &look, inner_side);
            }
            let sign = StyledIcon { icon: item.icon.clone(), style: look.clone(), size: own_size, width };
            draw_icon(rice, &sign, place.x.round(), place.y.round(), &mut laid.scene);
            if label_line > 0.0 {
                let wide = measure.width(&item.name, &look.face);
                let at = turned(along + (length - wide) / 2.0, inner + most, wide, label_line);
                laid.scene.text(at.x.round(), (at.y + label_line / 2.0).round(), item.name.clone(), &look.face, look.ink);
            }
            marks(rice, item, &states, along + length / 2.0, inner + most + label_line + MARKS - MARK, &turned, &mut laid.scene);
            count(rice, item, place, measure, &mut laid.scene);
        }
        along += length + own.gap;
    }
    laid
}

/// The marks of windows: one is long and in the colour of the focus.
fn marks(
    rice: &Rice,
    item: &DockItem,
    states: &[ElementState],
    middle: f32,
    across: f32,
    turned: &dyn Fn(f32, f32, f32, f32) -> Rect,
    scene: &mut Scene,
) {
    let shown = item.windows.len().min(MAX_WINDOW_MARKS);
    if shown == 0 {
        return;
    }
    let look = style(rice, "dock.mark", states);
    let fill = |rect: Rect, scene: &mut Scene| {
        scene.items.push(super::Primitive::Fill { rect, radius: [MARK / 2.0; 4], fill: look.fill.clone() });
    };
    if item.active {
        fill(turned(middle - LONG / 2.0, across, LONG, MARK), scene);
        return;
    }
    let long = (shown - 1) as f32 * STEP;
    for nth in 0..shown {
        fill(turned(middle - long / 2.0 + nth as f32 * STEP - MARK / 2.0, across, MARK, MARK), scene);
    }
}

/// How much a program has told, at the corner of its drawing.
fn count(rice: &Rice, item: &DockItem, place: Rect, measure: &mut dyn Measure, scene: &mut Scene) {
    if !rice.dock.counts || item.count == 0 {
        return;
    }
    let calls: &[ElementState] = if item.urgent { &[ElementState::Urgent] } else { &[] };
    let look = style(rice, "dock.count", calls);
    let text = if item.count > 99 { "99+".to_owned() } else { item.count.to_string() };
    let (wide, high) = (measure.width(&text, &look.face), (look.face.line() * 0.9).round());
    let width = (wide + 8.0).max(high);
    let rect = Rect::new((place.x + place.w - width / 2.0).round(), (place.y - high / 3.0).round(), width.round(), high);
    let radius = high / 2.0;
    scene.items.push(super::Primitive::Fill { rect, radius: [radius; 4], fill: look.fill.clone() });
    scene.text((rect.x + (rect.w - wide) / 2.0).round(), (rect.y + high / 2.0).round(), text, &look.face, look.ink);
}
