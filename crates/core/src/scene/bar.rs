//! A bar as things to draw.

use jovrik_values::{Align, Rect, Side};

use super::icons::{draw_icon, moved, scaled};
use crate::bar::{BarLayout, Mark, ModuleContent, PlacedModule, TRAY_GAP, WorkspaceState};
use crate::rice::Rice;
use crate::scene::{PathSegment, Primitive, Scene, TextRotation};

/// A whole bar: its paper, its line, its modules.
pub fn strip_items(rice: &Rice, strip: &BarLayout) -> Scene {
    strip_area(rice, strip, strip.rect)
}

/// What lies in an area of a bar: its paper, and every module that reaches into it.
pub fn strip_area(rice: &Rice, strip: &BarLayout, area: Rect) -> Scene {
    let mut scene = Scene::default();
    scene.styled(strip.rect, &strip.style, strip.inner());
    for module in strip.modules.iter().filter(|module| module.rect.grown(4.0).touches(area)) {
        draw_module(rice, strip, module, &mut scene);
    }
    scene
}

fn draw_module(rice: &Rice, strip: &BarLayout, module: &PlacedModule, scene: &mut Scene) {
    let (rect, style) = (module.rect, &module.style);
    scene.styled(rect, style, strip.inner());
    let pad = style.pad;
    let (left, top) = (pad.left as f32, pad.top as f32);
    let inside = Rect {
        x: rect.x + left,
        y: rect.y + top,
        w: (rect.w - left - pad.right as f32).max(0.0),
        h: (rect.h - top - pad.bottom as f32).max(0.0),
    };
    let (along, across) = if strip.upright() { (inside.h, inside.w) } else { (inside.w, inside.h) };
    let middle = if strip.upright() { inside.x + across / 2.0 } else { (inside.y + across / 2.0).floor() };
    match &module.what {
        ModuleContent::Text { sign, text, length, width, turn } => {
            let signs = sign.as_ref().map_or(0.0, |sign| sign.size);
            let gap = if sign.is_some() && !text.is_empty() { style.gap } else { 0.0 };
            let spare = (along - signs - gap - length).max(0.0);
            let spare = match style.align {
                Align::Start => 0.0,
                Align::Middle => (spare / 2.0).floor(),
                Align::End => spare,
            };
            let mut at = spare + if strip.upright() { inside.y } else { inside.x };
            if let Some(sign) = sign {
                let half = sign.size / 2.0;
                let (x, y) = if strip.upright() { ((middle - half).floor(), at) } else { (at, middle - half) };
                draw_icon(rice, sign, x, y, scene);
                at += sign.size + gap;
            }
            let (x, y) = match (strip.upright(), turn) {
                (false, _) => (at, middle),
                (true, TextRotation::None) => ((middle - width / 2.0).round(), at + length / 2.0),
                (true, TextRotation::Up) => (middle, at + length),
                (true, TextRotation::Down) => (middle, at),
            };
            let face = style.face.clone();
            scene.items.push(Primitive::Text { x, y, text: text.clone(), face, colour: style.ink, turn: *turn });
        }
        ModuleContent::Staff(marks) => {
            for mark in marks {
                draw_mark(rice, strip, mark, inside, middle, scene);
            }
        }
        ModuleContent::Layout { sketch, ink } => {
            // Drawn on a grid of its own, then as large as the monitor's scale asks.
            let by = strip.scale;
            let (x, y) = if strip.upright() {
                ((middle - 8.0 * by).floor() + 0.5, inside.y + 0.5)
            } else {
                (inside.x + 0.5, middle - 6.5 * by)
            };
            let outline = [(0.0, 0.0), (16.0, 0.0), (16.0, 12.0), (0.0, 12.0)];
            let mut path: Vec<PathSegment> = outline
                .iter()
                .enumerate()
                .map(|(at, (x, y))| if at == 0 { PathSegment::Move(*x, *y) } else { PathSegment::Line(*x, *y) })
                .collect();
            path.push(PathSegment::Close);
            for tile in &sketch.tiles {
                let (tx, ty, tw, th) = (tile.x as f32, tile.y as f32, tile.w as f32, tile.h as f32);
                if tile.x > 0 {
                    path.extend([PathSegment::Move(tx, ty), PathSegment::Line(tx, ty + th)]);
                }
                if tile.y > 0 {
                    path.extend([PathSegment::Move(tx, ty), PathSegment::Line(tx + tw, ty)]);
                }
            }
            let path = moved(scaled(path, by), x, y);
            scene.items.push(Primitive::Stroke { path, width: 1.5 * by, colour: *ink, dash: None });
        }
        ModuleContent::Tray { windows, signs } => {
            for (nth, sign) in signs.iter().enumerate() {
                let at = (windows + nth) as f32 * (sign.size + TRAY_GAP * strip.scale);
                let half = sign.size / 2.0;
                let (x, y) =
                    if strip.upright() { ((middle - half).floor(), inside.y + at) } else { (inside.x + at, middle - half) };
                draw_icon(rice, sign, x, y, scene);
            }
        }
    }
}

fn draw_mark(rice: &Rice, strip: &BarLayout, mark: &Mark, inside: Rect, middle: f32, scene: &mut Scene) {
    let by = strip.scale;
    let tall = by
        * match mark.state {
            WorkspaceState::Active => 20.0_f32,
            WorkspaceState::Populated | WorkspaceState::Urgent => 9.0,
            WorkspaceState::Empty => 3.0,
        };
    let half = (tall / 2.0).floor();
    let radius = mark.style.radius.0.map(|corner| (corner as f32).max(1.0));
    let rect = match strip.edge {
        Side::Left | Side::Right => Rect::new((middle - half).floor(), inside.y + mark.at, tall, 3.0 * by),
        Side::Top | Side::Bottom => Rect::new(inside.x + mark.at, middle - half, 3.0 * by, tall),
    };
    scene.items.push(Primitive::Fill { rect, radius, fill: mark.style.fill.clone() });
    let mut at = mark.at + 3.0 * by;
    if let Some(sign) = &mark.sign {
        at += 8.0 * by;
        let half = sign.size / 2.0;
        let (x, y) = if strip.upright() { ((middle - half).floor(), inside.y + at) } else { (inside.x + at, middle - half) };
        draw_icon(rice, sign, x, y, scene);
        at += sign.size;
    }
    if let Some(name) = &mark.name {
        at += 8.0 * by;
        let (x, y, turn) = match strip.edge {
            Side::Left => (middle, inside.y + mark.at + mark.length, TextRotation::Up),
            Side::Right => (middle, inside.y + at, TextRotation::Down),
            Side::Top | Side::Bottom => (inside.x + at, middle, TextRotation::None),
        };
        let (face, colour) = (mark.style.face.clone(), mark.style.ink);
        scene.items.push(Primitive::Text { x, y, text: name.clone(), face, colour, turn });
    }
}
