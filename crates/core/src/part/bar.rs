//! Bars: a surface for each on its monitors; what a press on a module does.

use std::rc::Rc;

use jovrik_values::IconRef;
use jovrik_values::action::{Action, CycleTarget};

use super::{Component, ComponentRequest, InputEvent, MenuAction, PopupAnchor};
use crate::bar::{BarLayout, Mark, ModuleContent, PlacedModule, TRAY_GAP, arrange};
use crate::desk::StackingLayer;
use crate::desktop::{ChangeFlags, DesktopEffect, DesktopView, Interactivity, Surface, SurfaceId, TrayItemAction};
use crate::rice::{BuiltInSource, ButtonAction, Module};
use crate::scene::Measure;

/// The bars of all monitors.
#[derive(Debug)]
pub(super) struct BarsComponent;

/// The workspace whose mark is at a place along a module.
fn workspace_at(shown: &PlacedModule, along: f32) -> Option<String> {
    let ModuleContent::Staff(marks) = &shown.what else { return None };
    // The room between two marks belongs to the nearer one.
    let near = |mark: &&Mark| {
        let (from, to) = (mark.at, mark.at + mark.length);
        if along < from { from - along } else { (along - to).max(0.0) }
    };
    marks.iter().min_by(|a, b| near(a).total_cmp(&near(b))).map(|mark| mark.workspace.clone())
}

/// Which picture of the tray is at a place along it.
fn item_at(shown: &PlacedModule, along: f32) -> Option<usize> {
    let ModuleContent::Tray { windows, signs } = &shown.what else { return None };
    let size = signs.first()?.size;
    // The gap grows with the icons.
    let nth = (along / (size * (1.0 + TRAY_GAP / 16.0))).floor().max(0.0) as usize;
    nth.checked_sub(*windows).filter(|nth| *nth < signs.len())
}

/// What a press does when the rice says nothing: a mark shows its workspace, the wheel the next one, a group unfolds.
fn usual(module: &Module, name: &str, button: u8, mark: Option<String>) -> Option<ButtonAction> {
    let action = match button {
        1 if !module.group.is_empty() => Action::Fold(name.to_owned()),
        1 if module.source.kind.is(BuiltInSource::Workspaces) => Action::Go(CycleTarget::Named(mark?)),
        4 if module.source.kind.is(BuiltInSource::Workspaces) => Action::Go(CycleTarget::Prev),
        5 if module.source.kind.is(BuiltInSource::Workspaces) => Action::Go(CycleTarget::Next),
        1 if module.source.kind.is(BuiltInSource::Layout) => Action::Layout(CycleTarget::Next),
        _ => return None,
    };
    Some(ButtonAction::Action(action))
}

impl Component for BarsComponent {
    fn name(&self) -> &'static str {
        "bar"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS
            .and(ChangeFlags::DESK)
            .and(ChangeFlags::VALUES)
            .and(ChangeFlags::TOLD)
            .and(ChangeFlags::POINTER)
            .and(ChangeFlags::KEYS)
            .and(ChangeFlags::TRAY)
    }

    fn handle_request(&mut self, wish: &ComponentRequest, world: &DesktopView<'_>) -> bool {
        // Programs have other icons by now.
        let shows = || world.desk.rice().module.values().any(|module| module.icon == IconRef::App);
        matches!(wish, ComponentRequest::Listed(list) if list == "apps") && shows()
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let mut surfaces = Vec::new();
        for (nth, monitor) in world.desk.monitors.iter().enumerate() {
            for (name, bar) in world.desk.bars_on(nth) {
                let hover = world.over.filter(|(id, _)| (id.part, &id.name, &id.monitor) == ("bar", name, &monitor.facts.name));
                let now = world.bar_now(hover.map(|(id, what)| (id.name.as_str(), what.as_str())));
                let strip = arrange(world.desk, nth, name, bar, now, measure);
                surfaces.push(Surface {
                    id: SurfaceId { part: self.name(), name: name.clone(), monitor: monitor.facts.name.clone() },
                    area: world.desk.bar_area(nth, name).unwrap_or_default(),
                    level: StackingLayer::Bars,
                    takes: Interactivity::Pointer,
                    radius: 0,
                    content: Rc::new(strip),
                });
            }
        }
        surfaces
    }

    fn handle_input(&mut self, surface: &Surface, happens: InputEvent, world: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let InputEvent::Press(button, x, y) = happens else { return (false, Vec::new()) };
        let Some(monitor) = world.monitor_named(&surface.id.monitor) else { return (false, Vec::new()) };
        let mut wishes = Vec::new();
        let (left, top) = (x as f32, y as f32);
        if let Some(strip) = surface.content::<BarLayout>()
            && let Some(shown) = strip.at(left, top)
        {
            wishes.push(ComponentRequest::Point(monitor));
            let along = if strip.upright() { top - shown.rect.y } else { left - shown.rect.x };
            let module = world.desk.rice().module.get(&shown.name);
            if let Some(key) = item_at(shown, along).and_then(|nth| world.items.get(nth)) {
                let deed = if button == 3 { TrayItemAction::Menu(x, y) } else { TrayItemAction::Press(button, x, y) };
                wishes.push(ComponentRequest::Outside(DesktopEffect::Item(key.clone(), deed)));
            } else if let Some(module) = module {
                let own = module.press.button(button).cloned();
                match own.or_else(|| usual(module, &shown.name, button, workspace_at(shown, along))) {
                    Some(ButtonAction::Action(action)) => wishes.push(ComponentRequest::Act(action)),
                    Some(ButtonAction::Menu(items)) => {
                        let items = items.into_iter().map(|(label, action)| (label, MenuAction::Act(action))).collect();
                        wishes
                            .push(ComponentRequest::Menu(items, PopupAnchor { rect: shown.rect, inner: strip.inner(), monitor }));
                    }
                    None => {}
                }
            }
        }
        (false, wishes)
    }
}
