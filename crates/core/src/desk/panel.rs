//! Panels and desktops of other programs: what they lie over, and what windows keep off for them.

use jovrik_values::{PixelRect, Side};

use super::floating::kept;
use super::stacking_layer::StackingLayer;
use super::window::WindowId;
use super::window_manager::WindowManager;

/// A panel or a desktop of another program: it has its own place and no frame, and is on no workspace.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Panel {
    /// What it lies over.
    pub level: StackingLayer,
    /// What it keeps for itself: the side of the screen that it reaches from, and the area, in pixels of the screen (EWMH,
    /// `_NET_WM_STRUT_PARTIAL`).
    pub keeps: Vec<(Side, PixelRect)>,
}

impl WindowManager {
    /// A panel is there, is another one than before, or is gone.
    pub(super) fn panel(&mut self, id: WindowId, panel: Option<Panel>) {
        match panel {
            Some(panel) => drop(self.panels.insert(id, panel)),
            None => drop(self.panels.shift_remove(&id)),
        }
    }

    /// What panels of others leave of an area of a monitor.
    pub(super) fn beside_panels(&self, area: PixelRect, screen: PixelRect) -> PixelRect {
        let mut left = area;
        for (side, taken) in self.panels.values().flat_map(|panel| &panel.keeps) {
            // Whoever would take all of a monitor means another one, from which it reaches across.
            let Some(taken) = taken.overlap(screen).filter(|taken| taken.w < screen.w || taken.h < screen.h) else { continue };
            let across = matches!(side, Side::Left | Side::Right);
            if across && taken.w >= screen.w || !across && taken.h >= screen.h {
                continue;
            }
            let (right, bottom) = (left.x + left.w, left.y + left.h);
            let (x, y) = (left.x.max(taken.x + taken.w), left.y.max(taken.y + taken.h));
            left = match side {
                Side::Left => PixelRect { x, w: right - x, ..left },
                Side::Right => PixelRect { w: right.min(taken.x) - left.x, ..left },
                Side::Top => PixelRect { y, h: bottom - y, ..left },
                Side::Bottom => PixelRect { h: bottom.min(taken.y) - left.y, ..left },
            };
            left = kept(left, screen);
        }
        left
    }
}
