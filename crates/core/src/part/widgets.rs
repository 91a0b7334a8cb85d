//! Widgets: a surface for each on its monitors, on the backdrop, where no tile covers any of it; what a press on one does.

use std::cell::RefCell;
use std::rc::Rc;

use jovrik_values::{PixelRect, Side};

use super::{Component, ComponentRequest, Drawn, InputEvent, MenuAction, PopupAnchor};
use crate::desk::StackingLayer;
use crate::desktop::{ChangeFlags, DesktopView, Interactivity, Surface, SurfaceId};
use crate::rice::ButtonAction;
use crate::scene::Measure;
use crate::widget::{WidgetCache, arrange};

/// The widgets of all monitors.
#[derive(Debug, Default)]
pub(super) struct WidgetsComponent {
    made: RefCell<WidgetCache>,
}

impl Component for WidgetsComponent {
    fn name(&self) -> &'static str {
        "widget"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS.and(ChangeFlags::DESK).and(ChangeFlags::VALUES).and(ChangeFlags::TOLD).and(ChangeFlags::KEYS)
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let rice = world.desk.rice();
        let mut surfaces = Vec::new();
        if rice.widget.is_empty() {
            return surfaces;
        }
        let now = world.bar_now(None);
        for (nth, monitor) in world.desk.monitors.iter().enumerate() {
            // Between tiles, and under their frames, half of one would be seen.
            let placed = world.desk.arrangement().placed.values();
            let tiles: Vec<PixelRect> = placed
                .filter(|placed| {
                    placed.clip == monitor.facts.area && matches!(placed.level, StackingLayer::Tiles | StackingLayer::Full)
                })
                .map(|placed| placed.outer)
                .collect();
            for laid in arrange(world.desk, nth, &now, measure, &mut self.made.borrow_mut()) {
                let Some(area) = laid.seen(monitor.facts.area) else { continue };
                if tiles.iter().any(|tile| tile.overlap(area).is_some()) {
                    continue;
                }
                let presses = rice.widget.get(&laid.name).is_some_and(|widget| !widget.press.0.is_empty());
                surfaces.push(Surface {
                    id: SurfaceId { part: self.name(), name: laid.name, monitor: monitor.facts.name.clone() },
                    area,
                    level: StackingLayer::Widgets,
                    takes: if presses { Interactivity::Pointer } else { Interactivity::Nothing },
                    radius: 0,
                    content: Rc::new(Drawn { scene: laid.scene, whole: area.into(), spots: Vec::new() }),
                });
            }
        }
        surfaces
    }

    fn handle_input(&mut self, surface: &Surface, happens: InputEvent, world: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let InputEvent::Press(button, ..) = happens else { return (false, Vec::new()) };
        let Some(monitor) = world.monitor_named(&surface.id.monitor) else { return (false, Vec::new()) };
        let widget = world.desk.rice().widget.get(&surface.id.name);
        let mut wishes = vec![ComponentRequest::Point(monitor)];
        match widget.and_then(|widget| widget.press.button(button)) {
            Some(ButtonAction::Action(action)) => wishes.push(ComponentRequest::Act(action.clone())),
            Some(ButtonAction::Menu(items)) => {
                let items = items.iter().map(|(label, action)| (label.clone(), MenuAction::Act(action.clone()))).collect();
                wishes
                    .push(ComponentRequest::Menu(items, PopupAnchor { rect: surface.area.into(), inner: Side::Bottom, monitor }));
            }
            None => {}
        }
        (false, wishes)
    }
}
