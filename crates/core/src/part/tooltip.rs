//! What something says of itself when the pointer rests on it.

use std::rc::Rc;

use jovrik_values::Rect;

use super::{Component, ComponentRequest, PopupAnchor, radius};
use crate::desk::StackingLayer;
use crate::desktop::{ChangeFlags, DesktopView, Interactivity, Surface, SurfaceId};
use crate::scene::{Measure, Scene, hint, hint_size};

/// The hint that is shown, if one is.
#[derive(Debug, Default)]
pub(super) struct TooltipComponent(Option<(String, PopupAnchor)>);

impl Component for TooltipComponent {
    fn name(&self) -> &'static str {
        "hint"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let Some((text, beside)) = &self.0 else { return Vec::new() };
        let (rice, by) = (world.desk.rice(), world.desk.scale(beside.monitor) as f32);
        let (w, h) = hint_size(rice, text, measure);
        let area = beside.place((w * by, h * by), world);
        let mut scene = Scene::default();
        hint(rice, text, Rect::from(area).times(1.0 / by), &mut scene);
        vec![Surface {
            id: SurfaceId { part: self.name(), name: String::new(), monitor: world.monitor_name(beside.monitor) },
            area,
            level: StackingLayer::Menus,
            takes: Interactivity::Nothing,
            radius: radius(world, "hint", &[], by),
            content: Rc::new(scene.scaled(by)),
        }]
    }

    fn handle_request(&mut self, wish: &ComponentRequest, _: &DesktopView<'_>) -> bool {
        match wish {
            ComponentRequest::Hint(text, beside) => {
                self.0 = Some((text.clone(), *beside));
                true
            }
            // One thing is open at a time.
            ComponentRequest::Menu(..) | ComponentRequest::Close { .. } => self.0.take().is_some(),
            _ => false,
        }
    }
}
