//! The sheet of all keys over the desk; it follows the mode one is in.

use std::cmp::Reverse;
use std::rc::Rc;

use super::{Happens, Part, Wish, radius};
use crate::desk::Level;
use crate::desktop::{Reads, Surface, SurfaceId, Takes, World};
use crate::keys::{Names, Shown, layers};
use crate::scene::{Measure, Rect, Scene, Sheet, sheet};

/// How far it stays from the edges of the monitor, and how wide it becomes.
const EDGE: f32 = 24.0;
const WIDEST: f32 = 1280.0;

/// Whether it is shown.
#[derive(Debug, Default)]
pub(super) struct SheetPart(bool);

impl Part for SheetPart {
    fn name(&self) -> &'static str {
        "sheet"
    }

    fn reads(&self) -> Reads {
        Reads::SETTINGS.and(Reads::KEYS).and(Reads::DESK)
    }

    fn surfaces(&self, world: &World<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        if !self.0 {
            return Vec::new();
        }
        let (rice, hands, monitor) = (world.desk.rice(), world.hands, world.desk.monitor);
        let (area, by) = (world.monitor_area(monitor), world.desk.scale(monitor) as f32);
        let names = Names { scopes: hands.scopes(), keyboards: hands.keyboards(), lead: rice.keys.lead.0 };
        let shown = Shown { scope: Some(0), mode: Some(hands.mode().unwrap_or("plain")), known: false };
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
            level: Level::Sheet,
            takes: Takes::Keyboard,
            radius: radius(world, "sheet", &[], by),
            content: Rc::new(scene.scaled(by)),
        }]
    }

    fn happens(&mut self, _: &Surface, happens: Happens, _: &World<'_>) -> (bool, Vec<Wish>) {
        match happens {
            Happens::Press(..) => self.0 = false,
            Happens::Key(stroke) if stroke.is("Escape") => self.0 = false,
            // What is read of it can be tried at once.
            Happens::Key(_) => return (false, vec![Wish::Pass]),
            Happens::Release(..) | Happens::Moved(..) => return (false, Vec::new()),
        }
        (true, Vec::new())
    }

    fn hears(&mut self, wish: &Wish, _: &World<'_>) -> bool {
        let turned = matches!(wish, Wish::Sheet);
        self.0 ^= turned;
        turned
    }
}
