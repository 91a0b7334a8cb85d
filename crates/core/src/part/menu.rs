//! A menu: it takes the pointer while it is open.

use std::rc::Rc;

use super::{Beside, Happens, Part, Wish, radius};
use crate::desk::Action;
use crate::desktop::{ItemDeed, Level, Reads, Surface, SurfaceId, Takes, World};
use crate::scene::{Measure, Menu, Rect, Scene};

/// What a line of a menu does.
#[derive(Debug, Clone, PartialEq)]
pub enum Choice {
    /// An action.
    Act(Action),
    /// A line of the own menu of an item in the tray.
    Item(String, i32),
}

#[derive(Debug)]
struct Open {
    menu: Menu,
    choices: Vec<Choice>,
    beside: Beside,
}

/// The menu that is open, if one is.
#[derive(Debug, Default)]
pub(super) struct MenuPart(Option<Open>);

fn line_at(open: &Open, surface: &Surface, (x, y): (i32, i32), world: &World<'_>) -> Option<usize> {
    let area = surface.area;
    let by = world.desk.scale(open.beside.monitor) as f32;
    let inside = (area.x..area.x + area.w).contains(&x);
    open.menu.line_at(world.desk.rice(), (y - area.y) as f32 / by).filter(|_| inside)
}

impl Part for MenuPart {
    fn name(&self) -> &'static str {
        "menu"
    }

    fn reads(&self) -> Reads {
        Reads::SETTINGS
    }

    fn surfaces(&self, world: &World<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let Some(open) = &self.0 else { return Vec::new() };
        let (rice, by) = (world.desk.rice(), world.desk.scale(open.beside.monitor) as f32);
        let (w, h) = open.menu.size(rice, measure);
        let area = open.beside.place((w * by, h * by), world);
        let mut scene = Scene::default();
        open.menu.draw(rice, Rect::from(area).times(1.0 / by), &mut scene);
        vec![Surface {
            id: SurfaceId { part: self.name(), name: String::new(), monitor: world.monitor_name(open.beside.monitor) },
            area,
            level: Level::Menus,
            takes: Takes::All,
            radius: radius(world, "menu", &[], by),
            content: Rc::new(scene.scaled(by)),
        }]
    }

    fn happens(&mut self, surface: &Surface, happens: Happens, world: &World<'_>) -> (bool, Vec<Wish>) {
        let Some(open) = &mut self.0 else { return (false, Vec::new()) };
        match happens {
            Happens::Moved(x, y) => {
                let picked = line_at(open, surface, (x, y), world);
                (std::mem::replace(&mut open.menu.picked, picked) != picked, Vec::new())
            }
            Happens::Press(_, x, y) => {
                let chosen = line_at(open, surface, (x, y), world).and_then(|line| open.choices.get(line)).cloned();
                self.0 = None;
                let wish = chosen.map(|choice| match choice {
                    Choice::Act(action) => Wish::Act(action),
                    Choice::Item(key, line) => Wish::Item(key, ItemDeed::Choose(line)),
                });
                (true, wish.into_iter().collect())
            }
        }
    }

    fn hears(&mut self, wish: &Wish, _: &World<'_>) -> bool {
        match wish {
            Wish::Menu(items, beside) => {
                let (lines, choices) = items.iter().cloned().unzip();
                self.0 = Some(Open { menu: Menu { lines, picked: None }, choices, beside: *beside });
                true
            }
            Wish::Close { menus: true } => self.0.take().is_some(),
            _ => false,
        }
    }
}
