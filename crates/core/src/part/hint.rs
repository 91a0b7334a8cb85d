//! What something says of itself when the pointer rests on it.

use std::rc::Rc;

use super::{Beside, Part, Wish, radius};
use crate::desk::Level;
use crate::desktop::{Reads, Surface, SurfaceId, Takes, World};
use crate::scene::{Measure, Rect, Scene, hint, hint_size};

/// The hint that is shown, if one is.
#[derive(Debug, Default)]
pub(super) struct HintPart(Option<(String, Beside)>);

impl Part for HintPart {
    fn name(&self) -> &'static str {
        "hint"
    }

    fn reads(&self) -> Reads {
        Reads::SETTINGS
    }

    fn surfaces(&self, world: &World<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let Some((text, beside)) = &self.0 else { return Vec::new() };
        let (rice, by) = (world.desk.rice(), world.desk.scale(beside.monitor) as f32);
        let (w, h) = hint_size(rice, text, measure);
        let area = beside.place((w * by, h * by), world);
        let mut scene = Scene::default();
        hint(rice, text, Rect::from(area).times(1.0 / by), &mut scene);
        vec![Surface {
            id: SurfaceId { part: self.name(), name: String::new(), monitor: world.monitor_name(beside.monitor) },
            area,
            level: Level::Menus,
            takes: Takes::Nothing,
            radius: radius(world, "hint", &[], by),
            content: Rc::new(scene.scaled(by)),
        }]
    }

    fn hears(&mut self, wish: &Wish, _: &World<'_>) -> bool {
        match wish {
            Wish::Hint(text, beside) => {
                self.0 = Some((text.clone(), *beside));
                true
            }
            // One thing is open at a time.
            Wish::Menu(..) | Wish::Close { .. } => self.0.take().is_some(),
            _ => false,
        }
    }
}
