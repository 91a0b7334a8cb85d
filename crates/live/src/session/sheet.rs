//! The sheet of all keys over the desk; it follows the mode one is in.

use std::cmp::Reverse;

use jovrik_core::keys::{Names, Shown, layers};
use jovrik_core::scene::{Rect, Scene, Sheet, sheet};

use super::Session;
use crate::Error;
use crate::popup::Popup;

/// How far it stays from the edges of the monitor, and how wide it becomes.
const EDGE: f32 = 24.0;
const WIDEST: f32 = 1280.0;

impl Session {
    /// Shows the sheet, or takes it away.
    pub(super) fn toggle_sheet(&mut self) -> Result<(), Error> {
        match self.sheet.take() {
            Some(open) => open.close(&self.seat),
            None => self.open_sheet(),
        }
    }

    /// Draws it anew, if it is shown: the mode, the layout or the bindings are others.
    pub(super) fn refresh_sheet(&mut self) -> Result<(), Error> {
        match self.sheet.take() {
            Some(open) => {
                self.open_sheet()?;
                open.close(&self.seat)
            }
            None => Ok(()),
        }
    }

    fn open_sheet(&mut self) -> Result<(), Error> {
        let rice = self.desk.rice().clone();
        let monitor = &self.desk.monitors[self.desk.monitor];
        let (area, scale) = (monitor.facts.area, self.desk.scale(self.desk.monitor) as f32);
        let names = Names { scopes: &self.scopes, keyboards: self.board.layouts(), lead: rice.keys.lead.0 };
        let mode = self.desk.mode.as_deref();
        let shown = Shown { scope: Some(0), mode: Some(mode.unwrap_or("plain")), known: false };
        let mut layers = layers(&names, self.board.now(), shown);
        layers.sort_by_key(|layer| Reverse(layer.entries.len()));
        let title = mode.map_or("Keys".to_owned(), |mode| format!("Keys in the mode {mode}"));
        let scopes: Vec<String> = self.scopes.readers.iter().map(|reader| reader.name.clone()).collect();
        let (w, h) = (area.w as f32 / scale, area.h as f32 / scale);
        let width = (w - 2.0 * EDGE).min(WIDEST);
        let mut pens = self.painter.pens(&self.seat);
        // As many keyboards as there is room for, the fullest first; what is left is listed.
        let mut best = (Scene::default(), Rect::default());
        for drawn in (0..=layers.len()).rev() {
            let what = Sheet { title: &title, layers: &layers, keyboard: self.board.now(), scopes: &scopes, drawn };
            let mut measured = Scene::default();
            let high = sheet(&rice, &what, Rect::new(0.0, 0.0, width, 0.0), &mut measured, &mut pens.brush.fonts).ceil();
            if high <= h - 2.0 * EDGE || drawn == 0 {
                let high = high.min(h);
                let at = Rect::new(
                    area.x as f32 / scale + ((w - width) / 2.0).floor(),
                    area.y as f32 / scale + ((h - high) / 2.0).floor(),
                    width,
                    high,
                );
                let mut scene = Scene::default();
                sheet(&rice, &what, at, &mut scene, &mut pens.brush.fonts);
                best = (scene, at);
                break;
            }
        }
        let (scene, at) = best;
        self.sheet = Some(Popup::sheet(&mut pens, &rice, scene, at.times(scale), scale)?);
        Ok(())
    }
}
