//! Bars: a surface for each on its monitors; what a press on a module does.

use std::rc::Rc;

use super::{Beside, Choice, Happens, Part, Wish};
use crate::bar::{Mark, Shown, Strip, TRAY_GAP, What, arrange};
use crate::desk::{Action, Level, Which};
use crate::desktop::{Effect, ItemDeed, Reads, Surface, SurfaceId, Takes, World};
use crate::rice::{BuiltIn, Does, IconRef, Module};
use crate::scene::Measure;

/// The bars of all monitors.
#[derive(Debug)]
pub(super) struct Bars;

/// The workspace whose mark is at a place along a module.
fn workspace_at(shown: &Shown, along: f32) -> Option<String> {
    let What::Staff(marks) = &shown.what else { return None };
    // The room between two marks belongs to the nearer one.
    let near = |mark: &&Mark| {
        let (from, to) = (mark.at, mark.at + mark.length);
        if along < from { from - along } else { (along - to).max(0.0) }
    };
    marks.iter().min_by(|a, b| near(a).total_cmp(&near(b))).map(|mark| mark.workspace.clone())
}

/// Which picture of the tray is at a place along it.
fn item_at(shown: &Shown, along: f32) -> Option<usize> {
    let What::Tray { windows, signs } = &shown.what else { return None };
    let size = signs.first()?.size;
    // The gap grows with the icons.
    let nth = (along / (size * (1.0 + TRAY_GAP / 16.0))).floor().max(0.0) as usize;
    nth.checked_sub(*windows).filter(|nth| *nth < signs.len())
}

/// What a press does when the rice says nothing: a mark shows its workspace, the wheel the next one, a group unfolds.
fn usual(module: &Module, name: &str, button: u8, mark: Option<String>) -> Option<Does> {
    let action = match button {
        1 if !module.group.is_empty() => Action::Fold(name.to_owned()),
        1 if module.source.kind.is(BuiltIn::Workspaces) => Action::Go(Which::Named(mark?)),
        4 if module.source.kind.is(BuiltIn::Workspaces) => Action::Go(Which::Prev),
        5 if module.source.kind.is(BuiltIn::Workspaces) => Action::Go(Which::Next),
        1 if module.source.kind.is(BuiltIn::Layout) => Action::Layout(Which::Next),
        _ => return None,
    };
    Some(Does::Action(action))
}

impl Part for Bars {
    fn name(&self) -> &'static str {
        "bar"
    }

    fn reads(&self) -> Reads {
        Reads::SETTINGS.and(Reads::DESK).and(Reads::VALUES).and(Reads::TOLD).and(Reads::POINTER).and(Reads::KEYS).and(Reads::TRAY)
    }

    fn hears(&mut self, wish: &Wish, world: &World<'_>) -> bool {
        // Programs have other icons by now.
        let shows = || world.desk.rice().module.values().any(|module| module.icon == IconRef::App);
        matches!(wish, Wish::Listed(list) if list == "apps") && shows()
    }

    fn surfaces(&self, world: &World<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let mut surfaces = Vec::new();
        for (nth, monitor) in world.desk.monitors.iter().enumerate() {
            for (name, bar) in world.desk.bars_on(nth) {
                let hover = world.over.filter(|(id, _)| (id.part, &id.name, &id.monitor) == ("bar", name, &monitor.facts.name));
                let now = world.bar_now(hover.map(|(id, what)| (id.name.as_str(), what.as_str())));
                let strip = arrange(world.desk, nth, name, bar, now, measure);
                surfaces.push(Surface {
                    id: SurfaceId { part: self.name(), name: name.clone(), monitor: monitor.facts.name.clone() },
                    area: world.desk.bar_area(nth, name).unwrap_or_default(),
                    level: Level::Bars,
                    takes: Takes::Pointer,
                    radius: 0,
                    content: Rc::new(strip),
                });
            }
        }
        surfaces
    }

    fn happens(&mut self, surface: &Surface, happens: Happens, world: &World<'_>) -> (bool, Vec<Wish>) {
        let Happens::Press(button, x, y) = happens else { return (false, Vec::new()) };
        let Some(monitor) = world.monitor_named(&surface.id.monitor) else { return (false, Vec::new()) };
        let mut wishes = Vec::new();
        let (left, top) = (x as f32, y as f32);
        if let Some(strip) = surface.content::<Strip>()
            && let Some(shown) = strip.at(left, top)
        {
            wishes.push(Wish::Point(monitor));
            let along = if strip.upright() { top - shown.rect.y } else { left - shown.rect.x };
            let module = world.desk.rice().module.get(&shown.name);
            if let Some(key) = item_at(shown, along).and_then(|nth| world.items.get(nth)) {
                let deed = if button == 3 { ItemDeed::Menu(x, y) } else { ItemDeed::Press(button, x, y) };
                wishes.push(Wish::Outside(Effect::Item(key.clone(), deed)));
            } else if let Some(module) = module {
                let own = module.press.button(button).cloned();
                match own.or_else(|| usual(module, &shown.name, button, workspace_at(shown, along))) {
                    Some(Does::Action(action)) => wishes.push(Wish::Act(action)),
                    Some(Does::Menu(items)) => {
                        let items = items.into_iter().map(|(label, action)| (label, Choice::Act(action))).collect();
                        wishes.push(Wish::Menu(items, Beside { rect: shown.rect, inner: strip.inner(), monitor }));
                    }
                    None => {}
                }
            }
        }
        (false, wishes)
    }
}
