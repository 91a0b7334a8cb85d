//! Widgets: a surface for each on its monitors, on the backdrop, where no tile covers any of it; what a press on one does.

use std::cell::RefCell;
use std::rc::Rc;

use super::{Beside, Choice, Drawn, Happens, Part, Wish};
use crate::desk::{Area, Level};
use crate::desktop::{Reads, Surface, SurfaceId, Takes, World};
use crate::rice::{Does, Side};
use crate::scene::Measure;
use crate::widget::{Made, arrange};

/// The widgets of all monitors.
#[derive(Debug, Default)]
pub(super) struct Widgets {
    made: RefCell<Made>,
}

impl Part for Widgets {
    fn name(&self) -> &'static str {
        "widget"
    }

    fn reads(&self) -> Reads {
        Reads::SETTINGS.and(Reads::DESK).and(Reads::VALUES).and(Reads::TOLD).and(Reads::KEYS)
    }

    fn surfaces(&self, world: &World<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let rice = world.desk.rice();
        let mut surfaces = Vec::new();
        if rice.widget.is_empty() {
            return surfaces;
        }
        let now = world.bar_now(None);
        for (nth, monitor) in world.desk.monitors.iter().enumerate() {
            // Between tiles, and under their frames, half of one would be seen.
            let placed = world.desk.arrangement().placed.values();
            let tiles: Vec<Area> = placed
                .filter(|placed| placed.clip == monitor.facts.area && matches!(placed.level, Level::Tiles | Level::Full))
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
                    level: Level::Widgets,
                    takes: if presses { Takes::Pointer } else { Takes::Nothing },
                    radius: 0,
                    content: Rc::new(Drawn { scene: laid.scene, whole: area.into(), spots: Vec::new() }),
                });
            }
        }
        surfaces
    }

    fn happens(&mut self, surface: &Surface, happens: Happens, world: &World<'_>) -> (bool, Vec<Wish>) {
        let Happens::Press(button, ..) = happens else { return (false, Vec::new()) };
        let Some(monitor) = world.monitor_named(&surface.id.monitor) else { return (false, Vec::new()) };
        let widget = world.desk.rice().widget.get(&surface.id.name);
        let mut wishes = vec![Wish::Point(monitor)];
        match widget.and_then(|widget| widget.press.button(button)) {
            Some(Does::Action(action)) => wishes.push(Wish::Act(action.clone())),
            Some(Does::Menu(items)) => {
                let items = items.iter().map(|(label, action)| (label.clone(), Choice::Act(action.clone()))).collect();
                wishes.push(Wish::Menu(items, Beside { rect: surface.area.into(), inner: Side::Bottom, monitor }));
            }
            None => {}
        }
        (false, wishes)
    }
}
