//! A menu: it takes the pointer and the keyboard while it is open.

use std::rc::Rc;

use super::{Beside, Happens, Part, Wish, radius};
use crate::desk::{Action, Level};
use crate::desktop::{Effect, ItemDeed, Reads, Surface, SurfaceId, Takes, World};
use crate::scene::{Measure, Menu, Rect, Scene};

/// What a line of a menu does.
#[derive(Debug, Clone)]
pub enum Choice {
    /// An action.
    Act(Action),
    /// A line of the own menu of an item in the tray.
    Item(String, i32),
    /// Something that is none of these.
    Do(Box<Wish>),
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

impl MenuPart {
    /// Closes the menu, which others may wait for, and does what one of its lines does.
    fn choose(&mut self, line: Option<usize>) -> (bool, Vec<Wish>) {
        let chosen = self.0.take().zip(line).and_then(|(open, line)| open.choices.get(line).cloned());
        let wish = chosen.map(|choice| match choice {
            Choice::Act(action) => Wish::Act(action),
            Choice::Item(key, line) => Wish::Outside(Effect::Item(key, ItemDeed::Choose(line))),
            Choice::Do(wish) => *wish,
        });
        (true, std::iter::once(Wish::Close { menus: true }).chain(wish).collect())
    }
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
                let line = line_at(open, surface, (x, y), world);
                self.choose(line)
            }
            Happens::Release(..) => (false, Vec::new()),
            Happens::Key(stroke) => {
                let (count, picked) = (open.menu.lines.len(), open.menu.picked);
                let next = picked.map_or(0, |at| at + 1);
                let begins = |at: &usize, typed: char| {
                    let first = open.menu.lines.get(*at).and_then(|line| line.chars().next());
                    first.is_some_and(|first| first.to_lowercase().eq(typed.to_lowercase()))
                };
                let to = match (stroke.name.as_str(), stroke.text.as_ref().and_then(|text| text.chars().next())) {
                    _ if !stroke.modifiers.is_empty() => return (false, vec![Wish::Pass]),
                    ("Escape", _) => return self.choose(None),
                    ("Return" | "KP_Enter" | "space", _) if picked.is_some() => return self.choose(picked),
                    ("Down" | "Tab", _) => Some(next % count),
                    ("Up" | "ISO_Left_Tab", _) => Some(picked.unwrap_or(0).checked_sub(1).unwrap_or(count - 1)),
                    ("Home", _) => Some(0),
                    ("End", _) => Some(count - 1),
                    // A letter goes through the lines that begin with it.
                    (_, Some(typed)) => (next..count).chain(0..next.min(count)).find(|at| begins(at, typed)).or(picked),
                    _ => picked,
                };
                (std::mem::replace(&mut open.menu.picked, to) != to, Vec::new())
            }
        }
    }

    fn hears(&mut self, wish: &Wish, _: &World<'_>) -> bool {
        match wish {
            Wish::Menu(items, beside) if !items.is_empty() => {
                let (lines, choices) = items.iter().cloned().unzip();
                self.0 = Some(Open { menu: Menu { lines, picked: None }, choices, beside: *beside });
                true
            }
            Wish::Close { menus: true } | Wish::Anew => self.0.take().is_some(),
            _ => false,
        }
    }
}
