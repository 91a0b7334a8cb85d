//! The sheet of all keys over the desk; it follows the mode one is in.

use std::cmp::Reverse;
use std::rc::Rc;

use jovrik_values::Rect;

use super::{Component, ComponentRequest, InputEvent, radius};
use crate::desk::StackingLayer;
use crate::desktop::{ChangeFlags, DesktopView, Interactivity, Surface, SurfaceId};
use crate::keys::{BindingLabels, SheetFilter, layers};
use crate::scene::{Measure, Scene, Sheet, sheet};

/// How far it stays from the edges of the monitor, and how wide it becomes.
const EDGE: f32 = 24.0;
const WIDEST: f32 = 1280.0;

/// Whether it is shown.
#[derive(Debug, Default)]
pub(super) struct SheetComponent(bool);

impl Component for SheetComponent {
    fn name(&self) -> &'static str {
        "sheet"
    }

    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::SETTINGS.and(ChangeFlags::KEYS).and(ChangeFlags::DESK)
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        if !self.0 {
            return Vec::new();
        }
        let (rice, hands, monitor) = (world.desk.rice(), world.hands, world.desk.monitor);
        let (area, by) = (world.monitor_area(monitor), world.desk.scale(monitor) as f32);
        let names = BindingLabels { scopes: hands.scopes(), keyboards: hands.keyboards(), lead: rice.keys.lead.0 };
        let shown = SheetFilter { scope: Some(0), mode: Some(hands.mode().unwrap_or("plain")), known: false };
        let mut layers = layers(&names, hands.keyboard(), shown);
        layers.sort_by_key(|layer| Reverse(layer.entries.len()));
        let title = hands.mode().map_or("Keys".to_owned(), |mode| format!("Keys in the mode {mode}"));
        let scopes: Vec<String> = hands.scopes().readers.iter().map(|reader| reader.name.clone()).collect();
        let (w, h) = (area.w as f32 / by, area.h as f32 / by);
        let width = (w - 2.0 * EDGE).min(WIDEST);
        let mut scene = Scene::default();
        let all: usize = layers.iter().map(|layer| layer.entries.len()).sum();
        let what =
            |drawn, most| Sheet { title: &title, layers: &layers, keyboard: hands.keyboard(), scopes: &scopes, drawn, most };
        let mut high =
            |what: &Sheet<'_>| sheet(rice, what, Rect::new(0.0, 0.0, width, 0.0), &mut Scene::default(), measure).ceil();
        // As many keyboards as there is room for, the fullest first; what is left is listed, as far as there is room for that.
        let room = h - 2.0 * EDGE;
        let drawn = (1..=layers.len()).rev().find(|drawn| high(&what(*drawn, all)) <= room).unwrap_or(0);
        let most = if drawn > 0 || high(&what(0, all)) <= room {
            all
        } else {
            let lines: Vec<usize> = (0..all).collect();
            lines.partition_point(|most| high(&what(0, *most)) <= room).saturating_sub(1)
        };
        let what = what(drawn, most);
        let high = high(&what).min(h);
        let (x, y) = (((w - width) / 2.0).floor(), ((h - high) / 2.0).floor());
        let place = Rect::new(area.x as f32 / by + x, area.y as f32 / by + y, width, high);
        sheet(rice, &what, place, &mut scene, measure);
        vec![Surface {
            id: SurfaceId { part: self.name(), name: String::new(), monitor: world.monitor_name(monitor) },
            area: place.times(by).into(),
            level: StackingLayer::Sheet,
            takes: Interactivity::Keyboard,
            radius: radius(world, "sheet", &[], by),
            content: Rc::new(scene.scaled(by)),
        }]
    }

    fn handle_input(&mut self, _: &Surface, happens: InputEvent, _: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        match happens {
            InputEvent::Press(..) => self.0 = false,
            InputEvent::Key(stroke) if stroke.is("Escape") => self.0 = false,
            // What is read of it can be tried at once.
            InputEvent::Key(_) => return (false, vec![ComponentRequest::PassThrough]),
            InputEvent::Release(..) | InputEvent::Moved(..) => return (false, Vec::new()),
        }
        (true, Vec::new())
    }

    fn handle_request(&mut self, wish: &ComponentRequest, _: &DesktopView<'_>) -> bool {
        let turned = matches!(wish, ComponentRequest::Sheet);
        self.0 ^= turned;
        turned
    }
}
