//! A menu: it takes the pointer and the keyboard while it is open.

use std::rc::Rc;

use jovrik_values::Rect;
use jovrik_values::action::Action;

use super::{Component, ComponentRequest, InputEvent, PopupAnchor, radius};
use crate::desk::StackingLayer;
use crate::desktop::{ChangeFlags, DesktopEffect, DesktopView, Interactivity, Surface, SurfaceId, TrayItemAction};
use crate::scene::{Measure, Menu, Scene};

/// What a line of a menu does.
#[derive(Debug, Clone)]
pub enum MenuAction {
    /// An action.
    Act(Action),
    /// A line of the own menu of an item in the tray.
    Item(String, i32),
    /// Something that is none of these.
    Do(Box<ComponentRequest>),
}

#[derive(Debug)]
struct OpenMenu {
    menu: Menu,
    choices: Vec<MenuAction>,
    beside: PopupAnchor,
}

/// The menu that is open, if one is.
#[derive(Debug, Default)]
pub(super) struct MenuComponent(Option<OpenMenu>);

fn line_at(open: &OpenMenu, surface: &Surface, (x, y): (i32, i32), world: &DesktopView<'_>) -> Option<usize> {
    let area = surface.area;
    let by = world.desk.scale(open.beside.monitor) as f32;
    let inside = (area.x..area.x + area.w).contains(&x);
    open.menu.line_at(world.desk.rice(), (y - area.y) as f32 / by).filter(|_| inside)
}

impl MenuComponent {
    /// Closes the menu, which others may wait for, and does what one of its lines does.
    fn choose(&mut self, line: Option<usize>) -> (bool, Vec<ComponentRequest>) {
        let chosen = self.0.take().zip(line).and_then(|(open, line)| open.choices.get(line).cloned());
        let wish = chosen.map(|choice| match choice {
            MenuAction::Act(action) => ComponentRequest::Act(action),
            MenuAction::Item(key, line) => ComponentRequest::Outside(DesktopEffect::Item(key, TrayItemAction::Choose(line))),
            MenuAction::Do(wish) => *wish,
        });
        (true, std::iter::once(ComponentRequest::Close { menus: true }).chain(wish).collect())
    }
}

impl Component for MenuComponent {
    fn name(&self) -> &'static str {
        "menu"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let Some(open) = &self.0 else { return Vec::new() };
        let (rice, by) = (world.desk.rice(), world.desk.scale(open.beside.monitor) as f32);
        let (w, h) = open.menu.size(rice, measure);
        let area = open.beside.place((w * by, h * by), world);
        let mut scene = Scene::default();
        open.menu.draw(rice, Rect::from(area).times(1.0 / by), &mut scene);
        vec![Surface {
            id: SurfaceId { part: self.name(), name: String::new(), monitor: world.monitor_name(open.beside.monitor) },
            area,
            level: StackingLayer::Menus,
            takes: Interactivity::Grab,
            radius: radius(world, "menu", &[], by),
            content: Rc::new(scene.scaled(by)),
        }]
    }

    fn handle_input(&mut self, surface: &Surface, happens: InputEvent, world: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let Some(open) = &mut self.0 else { return (false, Vec::new()) };
        match happens {
            InputEvent::Moved(x, y) => {
                let picked = line_at(open, surface, (x, y), world);
                (std::mem::replace(&mut open.menu.picked, picked) != picked, Vec::new())
            }
            InputEvent::Press(_, x, y) => {
                let line = line_at(open, surface, (x, y), world);
                self.choose(line)
            }
            InputEvent::Release(..) => (false, Vec::new()),
            InputEvent::Key(stroke) => {
                let (count, picked) = (open.menu.lines.len(), open.menu.picked);
                let next = picked.map_or(0, |at| at + 1);
                let begins = |at: &usize, typed: char| {
                    let first = open.menu.lines.get(*at).and_then(|line| line.chars().next());
                    first.is_some_and(|first| first.to_lowercase().eq(typed.to_lowercase()))
                };
                let to = match (stroke.name.as_str(), stroke.text.as_ref().and_then(|text| text.chars().next())) {
                    _ if !stroke.modifiers.is_empty() => return (false, vec![ComponentRequest::PassThrough]),
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

    fn handle_request(&mut self, wish: &ComponentRequest, _: &DesktopView<'_>) -> bool {
        match wish {
            ComponentRequest::Menu(items, beside) if !items.is_empty() => {
                let (lines, choices) = items.iter().cloned().unzip();
                self.0 = Some(OpenMenu { menu: Menu { lines, picked: None }, choices, beside: *beside });
                true
            }
            ComponentRequest::Close { menus: true } | ComponentRequest::Anew => self.0.take().is_some(),
            _ => false,
        }
    }
}
