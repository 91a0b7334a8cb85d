//! Tabs: a strip with the titles of a workspace's windows, of which one is seen.

use std::any::Any;
use std::rc::Rc;

use jovrik_values::{ElementState, Rect};

use super::{Component, ComponentRequest, InputEvent};
use crate::desk::{self, PlacedWindow, StackingLayer, WindowId};
use crate::desktop::{ChangeFlags, Content, DesktopEffect, DesktopView, Interactivity, Surface, SurfaceId};
use crate::rice::Rice;
use crate::scene::{Measure, Scene, Tab, draw_tabs, frame_items, tab_at, tabs};

/// All strips of titles.
#[derive(Debug)]
pub(super) struct TabsComponent;

/// What is on a strip: the upper end of the frame that it lies in, and the titles.
#[derive(Debug, Clone, PartialEq)]
struct TitleStrip {
    placed: PlacedWindow,
    look: crate::rice::Frame,
    tabs: Vec<Tab>,
    windows: Vec<WindowId>,
    /// The strip as it is drawn: a colour alone may have changed.
    drawn: Scene,
}

impl Content for TitleStrip {
    fn scene(&self, rice: &Rice, _: Rect) -> Scene {
        let mut scene = frame_items(rice, &self.placed);
        scene.items.extend(self.drawn.items.iter().cloned());
        scene
    }
    fn damage(&self, before: &dyn Content, whole: Rect) -> Vec<Rect> {
        let same = before.as_any().downcast_ref::<TitleStrip>() == Some(self);
        if same { Vec::new() } else { vec![whole] }
    }
    fn as_any(&self) -> &dyn Any {
        self
    }
}

impl Component for TabsComponent {
    fn name(&self) -> &'static str {
        "tabs"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS.and(ChangeFlags::DESK)
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let (desk, rice) = (world.desk, world.desk.rice());
        let one = |strip: &crate::desk::TabStrip| {
            let by = strip.placed.scale as f32 / 100.0;
            let area = strip.placed.strip_area();
            let title = |id: &WindowId| {
                let window = desk.windows.get(id)?;
                let state = match () {
                    () if *id == strip.front => Some(ElementState::Active),
                    () if window.urgent => Some(ElementState::Urgent),
                    () => None,
                };
                let title = if window.facts.title.is_empty() { &window.facts.app_id } else { &window.facts.title };
                Some((title.clone(), state))
            };
            let titles = strip.windows.iter().filter_map(title).collect();
            let tabs = tabs(rice, titles, area.w as f32 / by, measure);
            let mut drawn = Scene::default();
            draw_tabs(rice, &tabs, Rect::from(area).times(1.0 / by), &mut drawn);
            let (drawn, windows) = (drawn.scaled(by), strip.windows.clone());
            Surface {
                id: SurfaceId { part: self.name(), name: String::new(), monitor: world.monitor_name(strip.monitor) },
                area,
                level: StackingLayer::Tiles,
                takes: Interactivity::Pointer,
                radius: 0,
                content: Rc::new(TitleStrip { placed: strip.placed, look: rice.frame.clone(), tabs, windows, drawn }),
            }
        };
        desk.arrangement().strips.iter().map(one).collect()
    }

    fn handle_input(&mut self, surface: &Surface, happens: InputEvent, world: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let (InputEvent::Press(button, x, _), Some(strip)) = (happens, surface.content::<TitleStrip>()) else {
            return (false, Vec::new());
        };
        let by = strip.placed.scale as f32 / 100.0;
        let at = tab_at(&strip.tabs, (x - surface.area.x) as f32 / by);
        let front = strip.tabs.iter().position(|tab| tab.state == Some(ElementState::Active)).unwrap_or(0);
        let count = strip.windows.len();
        let there = |at: Option<usize>| at.and_then(|at| strip.windows.get(at)).filter(|id| world.desk.windows.contains_key(*id));
        if button == 2 {
            let closes = there(at).map(|id| ComponentRequest::Outside(DesktopEffect::Wm(desk::WmEffect::Close(*id))));
            return (false, closes.into_iter().collect());
        }
        let to = match button {
            1 => at,
            4 => front.checked_sub(1),
            5 => Some(front + 1).filter(|next| *next < count),
            _ => None,
        };
        (false, there(to).map(|id| ComponentRequest::ActivateWindow(*id)).into_iter().collect())
    }
}
