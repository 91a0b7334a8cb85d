//! The only difference taken of what is drawn: what a part shows, against what it showed before.

use std::collections::HashMap;
use std::rc::Rc;

use jovrik_values::Rect;

use super::effect::DesktopEffect;
use super::surface::{Surface, SurfaceId};
use crate::desk::StackingLayer;

/// A surface with all of it to be drawn.
pub(super) fn drawn_whole(surface: &Rc<Surface>) -> DesktopEffect {
    DesktopEffect::Surface(surface.clone(), vec![Rect::from(surface.area)])
}

/// What one part shows, against what it showed before. Whether what others let through is another picture.
pub(super) fn difference(
    old: &[Rc<Surface>],
    new: &[Rc<Surface>],
    effects: &mut Vec<DesktopEffect>,
    opened: &mut Vec<Rc<Surface>>,
) -> bool {
    let mut behind = false;
    let before: HashMap<&SurfaceId, &Rc<Surface>> = old.iter().map(|surface| (&surface.id, surface)).collect();
    for surface in new {
        match before.get(&surface.id) {
            None => {
                behind |= surface.level == StackingLayer::Backdrop;
                opened.push(surface.clone());
            }
            Some(before) => {
                behind |= surface.level == StackingLayer::Backdrop && surface.content.shows_through(&*before.content);
                let damage = surface.damage(before);
                let moved = (before.area, before.radius) != (surface.area, surface.radius);
                let whole = Rect::from(surface.area);
                if moved || !damage.is_empty() || !surface.content.same(&*before.content, whole) {
                    effects.push(DesktopEffect::Surface(surface.clone(), damage));
                }
            }
        }
    }
    let gone = old.iter().filter(|surface| new.iter().all(|other| other.id != surface.id));
    effects.extend(gone.map(|surface| DesktopEffect::DestroySurface(surface.id.clone())));
    behind
}
