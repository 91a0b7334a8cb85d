//! A bar as things to draw.

use super::icons::{lines, moved};
use super::{Item, Rect, Scene, Step};
use crate::bar::{Grade, MarkState, Shown, Strip, What, text_face};
use crate::rice::{Icon, Rice};

/// A whole bar: its paper, its hairline, its modules.
pub fn strip_items(rice: &Rice, strip: &Strip) -> Scene {
    strip_area(rice, strip, strip.rect)
}

/// What lies in an area of a bar: its paper, and every module that reaches into it.
pub fn strip_area(rice: &Rice, strip: &Strip, area: Rect) -> Scene {
    let mut scene = Scene::default();
    paper(rice, strip, area, &mut scene);
    for module in strip.modules.iter().filter(|module| module.rect.touches(area)) {
        draw_module(rice, module, &mut scene);
    }
    scene
}

fn paper(rice: &Rice, strip: &Strip, area: Rect, scene: &mut Scene) {
    let palette = &rice.palette.current;
    scene.fill(area, 0.0, palette.paper);
    let y = if strip.top { strip.rect.y + strip.rect.h - 1.0 } else { strip.rect.y };
    scene.fill(Rect { y, h: 1.0, ..area }, 0.0, palette.line);
}

fn draw_module(rice: &Rice, module: &Shown, scene: &mut Scene) {
    let palette = &rice.palette.current;
    let rect = module.rect;
    let middle = (rect.y + rect.h / 2.0).floor();
    let mut face = text_face(rice);
    match &module.what {
        What::Text { icon, text, quiet } => {
            let colour = match module.grade {
                Grade::Urgent => palette.alert,
                Grade::Warn => palette.warn,
                Grade::Plain if *quiet => palette.muted,
                Grade::Plain => palette.ink,
            };
            let mut x = rect.x;
            if *icon != Icon::None {
                let stroke = if module.grade == Grade::Plain { palette.muted } else { colour };
                scene.stroke(moved(lines(*icon), x, middle - 8.0), 1.5, stroke);
                x += 22.0;
            }
            scene.text(x, middle, text.clone(), &face, colour);
        }
        What::Staff(marks) => {
            face.bold = true;
            for mark in marks {
                let (height, width, colour) = match mark.state {
                    MarkState::Here => (20.0, 3.0, palette.accent),
                    MarkState::Used => (9.0, 3.0, palette.muted),
                    MarkState::Calls => (9.0, 3.0, palette.alert),
                    MarkState::Empty => (3.0, 3.0, palette.line),
                };
                let x = rect.x + mark.x;
                scene.fill(Rect::new(x, middle - (height / 2.0_f32).floor(), width, height), 1.0, colour);
                if let Some(name) = &mark.name {
                    scene.text(x + 11.0, middle, name.clone(), &face, palette.ink);
                }
            }
        }
        What::Layout(sketch) => {
            let (x, y) = (rect.x + 0.5, middle - 6.5);
            let outline = [(0.0, 0.0), (16.0, 0.0), (16.0, 12.0), (0.0, 12.0)];
            let mut path: Vec<Step> = outline
                .iter()
                .enumerate()
                .map(|(at, (dx, dy))| if at == 0 { Step::Move(x + dx, y + dy) } else { Step::Line(x + dx, y + dy) })
                .collect();
            path.push(Step::Close);
            for tile in &sketch.tiles {
                let (tx, ty) = (x + tile.x as f32, y + tile.y as f32);
                if tile.x > 0 {
                    path.extend([Step::Move(tx, ty), Step::Line(tx, ty + tile.h as f32)]);
                }
                if tile.y > 0 {
                    path.extend([Step::Move(tx, ty), Step::Line(tx + tile.w as f32, ty)]);
                }
            }
            scene.items.push(Item::Stroke { path, width: 1.5, colour: palette.muted, dash: None });
        }
    }
}
