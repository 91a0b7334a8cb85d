//! What lies over what.

use std::rc::Rc;

use super::effect::StackingId;
use super::surface::Surface;
use super::update::Desktop;
use crate::desk::{PlacedWindow, StackingLayer, WindowId};

/// Something that is seen.
#[derive(Debug, Clone, Copy)]
pub enum StackingEntry<'a> {
    /// A window, and where it is.
    Window(WindowId, PlacedWindow),
    /// What we draw ourselves.
    Surface(&'a Rc<Surface>),
}

impl Desktop {
    /// Everything that is seen, from below.
    pub fn stacked(&self) -> Vec<StackingEntry<'_>> {
        let placed = self.desk.arrangement().placed.iter();
        let windows = placed.map(|(id, placed)| (placed.level, StackingEntry::Window(*id, *placed)));
        // On a level windows lie over what we draw: a strip of titles draws the whole frame that it lies in.
        let surfaces = self.surfaces().map(|surface| (surface.level, StackingEntry::Surface(surface)));
        let mut all: Vec<(StackingLayer, StackingEntry<'_>)> = surfaces.chain(windows).collect();
        all.sort_by_key(|(level, _)| *level);
        all.into_iter().map(|(_, stacked)| stacked).collect()
    }

    /// Everything that lies over each other, from below, as it was told last.
    pub fn stack(&self) -> &[StackingId] {
        &self.stack
    }

    /// Everything that lies over each other, from below; whether it is as it was told.
    pub(super) fn layers(&self) -> (Vec<StackingId>, bool) {
        let surfaces = self.surfaces().filter(|surface| surface.level != StackingLayer::Backdrop);
        let surfaces = surfaces.map(|surface| (surface.level, StackingId::Surface(surface.id.clone())));
        let panels = self.desk.panels().iter().map(|(id, panel)| (panel.level, StackingId::Window(*id)));
        let mut others: Vec<(StackingLayer, StackingId)> = surfaces.chain(panels).collect();
        others.sort_by_key(|(level, _)| *level);
        let placed = &self.desk.arrangement().placed;
        let mut layers = Vec::with_capacity(placed.len() + others.len());
        let mut others = others.into_iter().peekable();
        for (id, placed) in placed {
            while let Some((_, layer)) = others.next_if(|(level, _)| *level <= placed.level) {
                layers.push(layer);
            }
            layers.push(StackingId::Window(*id));
        }
        layers.extend(others.map(|(_, layer)| layer));
        let same = layers == self.stack;
        (layers, same)
    }
}
