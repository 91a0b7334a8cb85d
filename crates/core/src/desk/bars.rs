//! Bars, and what they leave of a monitor.

use std::collections::HashSet;

use jovrik_values::{PixelRect, Side, Sides};

use super::floating::kept;
use super::window_manager::{WindowManager, times};
use crate::rice::DockHides;
use crate::scene::dock_thickness;

impl WindowManager {
    /// The bars that lie on a monitor, in the order of the rice.
    pub fn bars_on(&self, monitor: usize) -> impl Iterator<Item = (&String, &crate::rice::Bar)> {
        let facts = self.monitors.get(monitor).map(|monitor| &monitor.facts);
        let on = move |bar: &str, rule: &crate::rice::Bar| {
            facts.is_some_and(|facts| facts.is(&rule.monitor) && self.bar_shown(bar, &facts.name))
        };
        self.rice.bar.iter().filter(move |(bar, rule)| on(bar, rule))
    }

    /// The bars that some monitor shows.
    pub fn bars_seen(&self) -> HashSet<String> {
        (0..self.monitors.len()).flat_map(|monitor| self.bars_on(monitor)).map(|(name, _)| name.clone()).collect()
    }

    /// Whether a bar is shown on a monitor that it is on.
    pub(super) fn bar_shown(&self, bar: &str, monitor: &str) -> bool {
        let shown = self.rice.bar.get(bar).is_some_and(|rule| rule.shown);
        let turned = |of: Option<&str>| self.turned_bars.contains(&(bar.to_owned(), of.map(str::to_owned)));
        shown != (turned(None) != turned(Some(monitor)))
    }

    /// Whether the group of a module is folded.
    pub fn folded(&self, module: &str) -> bool {
        let folded = self.rice.module.get(module).is_none_or(|module| module.folded);
        folded != self.turned_groups.contains(module)
    }

    /// Where a bar lies.
    pub fn bar_rect(&self, monitor: usize, name: &str) -> Option<jovrik_values::Rect> {
        self.bar_area(monitor, name).map(Into::into)
    }

    /// Where a bar lies: each lies inside of those before it that windows keep off.
    pub fn bar_area(&self, monitor: usize, name: &str) -> Option<PixelRect> {
        let (bars, _) = self.divide(monitor);
        bars.into_iter().find(|(other, _)| *other == name).map(|(_, area)| area)
    }

    /// The bars of a monitor with their areas, and what they leave.
    fn divide(&self, monitor: usize) -> (Vec<(&String, PixelRect)>, PixelRect) {
        let Some(mut left) = self.monitors.get(monitor).map(|monitor| monitor.facts.area) else {
            return (Vec::new(), PixelRect::default());
        };
        let (mut bars, screen) = (Vec::new(), left);
        let scale = self.scale(monitor);
        let px = |pixels: i32| times(pixels, scale);
        for (name, bar) in self.bars_on(monitor) {
            let Sides { top, right, bottom, left: start } = bar.margin;
            let margin = Sides { top: px(top), right: px(right), bottom: px(bottom), left: px(start) };
            let thick = px(bar.thick.0);
            let (along_w, along_h) = ((left.w - margin.left - margin.right).max(1), (left.h - margin.top - margin.bottom).max(1));
            let (x, y) = (left.x + margin.left, left.y + margin.top);
            let area = match bar.edge {
                Side::Top => PixelRect::new(x, y, along_w, thick),
                Side::Bottom => PixelRect::new(x, left.y + left.h - margin.bottom - thick, along_w, thick),
                Side::Left => PixelRect::new(x, y, thick, along_h),
                Side::Right => PixelRect::new(left.x + left.w - margin.right - thick, y, thick, along_h),
            };
            bars.push((name, area));
            if bar.reserve {
                match bar.edge {
                    Side::Top => {
                        left.y += thick + margin.top;
                        left.h -= thick + margin.top;
                    }
                    Side::Bottom => left.h -= thick + margin.bottom,
                    Side::Left => {
                        left.x += thick + margin.left;
                        left.w -= thick + margin.left;
                    }
                    Side::Right => left.w -= thick + margin.right,
                }
                left = kept(left, screen);
            }
        }
        (bars, left)
    }

    /// What bars leave of a monitor: the dock lies at its edge.
    pub fn dock_room(&self, monitor: usize) -> PixelRect {
        self.divide(monitor).1
    }

    /// What is left of an area beside the dock, where windows keep off it.
    fn beside_dock(&self, monitor: usize, area: PixelRect) -> PixelRect {
        let set = &self.rice.dock;
        let here = self.monitors.get(monitor).is_some_and(|monitor| monitor.facts.is(&set.monitor));
        if !here || !set.is_there() || set.hide != DockHides::Never {
            return area;
        }
        let scale = self.scale(monitor);
        let thick = (f64::from(dock_thickness(&self.rice)) * scale).round() as i32 + times(set.margin.0, scale);
        let left = match set.edge {
            Side::Top => PixelRect { y: area.y + thick, h: area.h - thick, ..area },
            Side::Bottom => PixelRect { h: area.h - thick, ..area },
            Side::Left => PixelRect { x: area.x + thick, w: area.w - thick, ..area },
            Side::Right => PixelRect { w: area.w - thick, ..area },
        };
        kept(left, area)
    }

    /// The area that windows of a monitor may use.
    pub fn work_area(&self, monitor: usize) -> PixelRect {
        let area = self.beside_dock(monitor, self.dock_room(monitor));
        let area = self.beside_panels(area, self.monitors[monitor].facts.area);
        match self.rice.of_monitor(&self.monitors[monitor].facts) {
            Some(rule) => kept(rule.reserve.inside(area), self.monitors[monitor].facts.area),
            None => area,
        }
    }
}
