//! A widget as things to draw.

use jovrik_schema::Colour;
use jovrik_values::{ElementState, Rect, Side};

use super::PathSegment::{Close, Curve, Line, Move};
use crate::rice::{Fit, Rice, Widget, WidgetKind};
use crate::scene::{Measure, PathSegment, Primitive, Scene, TextStyle, cut};
use crate::style::{ComputedStyle, StyledElement, resolve};

/// What a widget has to show at a moment.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct WidgetReading {
    /// What stands by it.
    pub label: String,
    /// What it says.
    pub text: String,
    /// How full it is, from 0 to 1; nothing without a number.
    pub part: Option<f32>,
    /// How loudly it calls.
    pub states: Vec<ElementState>,
    /// The points of its curve, from 0 to 1 across and upwards.
    pub curve: Vec<(f32, f32)>,
    /// Where along the curve a mark stands, from 0 to 1.
    pub mark: Option<f32>,
    /// Its rows, or what there is one of for each.
    pub inner: Vec<WidgetReading>,
}

/// The usual width of a ring, a line that fills, a curve and a picture, and the height of the last two.
const RING: f32 = 88.0;
const METER: f32 = 240.0;
const GRAPH: (f32, f32) = (320.0, 96.0);
const PICTURE: (f32, f32) = (160.0, 120.0);
/// The thickness of a line that fills.
const BAR: f32 = 4.0;
/// How much of a line large figures take.
const FIGURES: f32 = 0.75;
/// The thickest that an arc is.
const THICKEST: f32 = 8.0;
/// Text in a ring is set no smaller than this, in times its own size.
const MIN_RING_TEXT_SCALE: f32 = 0.65;
/// How opaque what lies under a curve is.
const UNDER: f32 = 0.1;

struct Pen<'a, 'm> {
    rice: &'a Rice,
    name: &'a str,
    widget: &'a Widget,
    measure: &'m mut dyn Measure,
    scene: Scene,
}

/// Draws a widget with its upper left corner at the origin, in pixels of the settings; how wide and high it is.
pub fn widget(rice: &Rice, name: &str, widget: &Widget, gauge: &WidgetReading, measure: &mut dyn Measure) -> (Scene, (f32, f32)) {
    let style = resolve(rice, &[StyledElement { kind: "widget", name, states: &gauge.states }]);
    let (left, top) = (style.pad.left as f32, style.pad.top as f32);
    let mut pen = Pen { rice, name, widget, measure, scene: Scene::default() };
    let (w, h) = pen.whole(gauge, &style);
    let size = ((w + left + style.pad.right as f32).max(style.min).ceil(), (h + top + style.pad.bottom as f32).ceil());
    let mut scene = Scene::default();
    scene.styled(Rect::new(0.0, 0.0, size.0, size.1), &style, Side::Bottom);
    scene.items.extend(pen.scene.placed(1.0, (left, top)).items);
    (scene, size)
}

impl Pen<'_, '_> {
    fn style(&self, kind: &str, states: &[ElementState]) -> ComputedStyle {
        let (name, own) = (self.name, StyledElement { kind: "widget", name: self.name, states });
        if kind == "widget" {
            resolve(self.rice, &[own])
        } else {
            resolve(self.rice, &[own, StyledElement { kind, name, states }])
        }
    }

    fn width(&mut self, text: &str, style: &ComputedStyle) -> f32 {
        if text.is_empty() { 0.0 } else { self.measure.width(text, &style.face) }
    }

    /// A line of text, by its left end and the top of its line.
    fn text(&mut self, text: &str, (x, y): (f32, f32), style: &ComputedStyle) {
        if !text.is_empty() {
            self.scene.text(x.round(), (y + style.face.line() / 2.0).round(), text, &style.face, style.ink);
        }
    }

    /// Everything, or all that there is one of for each, in rows.
    fn whole(&mut self, gauge: &WidgetReading, style: &ComputedStyle) -> (f32, f32) {
        if self.widget.kind == WidgetKind::List || gauge.inner.is_empty() {
            return self.one(gauge, style, (0.0, 0.0));
        }
        let columns = usize::try_from(self.widget.columns.0).unwrap_or(1).max(1);
        let (mut w, mut x, mut y, mut high) = (0.0_f32, 0.0_f32, 0.0_f32, 0.0_f32);
        for (nth, gauge) in gauge.inner.iter().enumerate() {
            if nth > 0 && nth % columns == 0 {
                (x, y, high) = (0.0, y + high + style.gap, 0.0);
            }
            let (own, h) = self.one(gauge, style, (x, y));
            (w, high) = (w.max(x + own), high.max(h));
            x += own + style.gap;
        }
        (w, y + high)
    }

    fn one(&mut self, gauge: &WidgetReading, style: &ComputedStyle, (x, y): (f32, f32)) -> (f32, f32) {
        let asked = |own: f32, usual: f32| if own > 0.0 { own } else { usual };
        let (own_w, own_h) = (self.widget.width.0 as f32, self.widget.height.0 as f32);
        match self.widget.kind {
            WidgetKind::Text => self.words(gauge, "widget", (x, y)),
            WidgetKind::Clock => self.words(gauge, "widget.figures", (x, y)),
            WidgetKind::Ring => self.ring(gauge, asked(own_w, RING), (x, y)),
            WidgetKind::Meter => self.meter(gauge, (asked(own_w, METER), asked(own_h, BAR)), (x, y)),
            WidgetKind::Graph => self.graph(gauge, (asked(own_w, GRAPH.0), asked(own_h, GRAPH.1)), (x, y)),
            WidgetKind::List => self.list(gauge, style, (x, y)),
            WidgetKind::Picture => {
                let (w, h) = (asked(own_w, PICTURE.0), asked(own_h, PICTURE.1));
                let path = self.widget.picture.clone();
                if !path.is_empty() {
                    let rect = Rect::new(x, y, w, h);
                    self.scene.items.push(Primitive::Picture { rect, path, fit: Fit::Contain, otherwise: Vec::new() });
                }
                (w, h)
            }
        }
    }

    /// What it says, after its label.
    fn words(&mut self, gauge: &WidgetReading, kind: &str, (x, y): (f32, f32)) -> (f32, f32) {
        let (style, label) = (self.style(kind, &gauge.states), self.style("widget.label", &gauge.states));
        // Large figures stand alone: they need no room between lines.
        let line = style.face.line();
        let high = if kind == "widget.figures" { (line * FIGURES).round() } else { line };
        let before = self.width(&gauge.label, &label);
        self.text(&gauge.label, (x, y + (high - label.face.line()) / 2.0), &label);
        let before = if before > 0.0 { before + style.gap } else { 0.0 };
        let room = if self.widget.width.0 > 0 { (self.widget.width.0 as f32 - before).max(0.0) } else { f32::MAX };
        let text = cut(&gauge.text, room, &style.face, self.measure);
        self.text(&text, (x + before, y + (high - line) / 2.0), &style);
        ((before + self.width(&text, &style)).max(self.widget.width.0 as f32), high)
    }

    fn ring(&mut self, gauge: &WidgetReading, across: f32, (x, y): (f32, f32)) -> (f32, f32) {
        let [style, label, mark, track] =
            ["widget", "widget.label", "widget.mark", "widget.track"].map(|kind| self.style(kind, &gauge.states));
        let thick = (across / 17.0).round().clamp(3.0, THICKEST);
        let name = self.width(&gauge.label, &label);
        let wide = across.max(name);
        let (cx, cy, radius) = (x + wide / 2.0, y + across / 2.0, (across - thick) / 2.0);
        self.scene.stroke(arc(cx, cy, radius, 1.0), thick, track.ink);
        if let Some(part) = gauge.part.filter(|part| *part > 0.0) {
            self.scene.stroke(arc(cx, cy, radius, part), thick, mark.ink);
        }
        // What is a little too wide is set a little smaller.
        let room = (across - 4.0 * thick).max(0.0);
        let own = self.width(&gauge.text, &style);
        let by = if own > room { (room / own).max(MIN_RING_TEXT_SCALE) } else { 1.0 };
        let style = ComputedStyle { face: TextStyle { points: style.face.points * by, ..style.face }, ..style };
        let text = cut(&gauge.text, room, &style.face, self.measure);
        let own = self.width(&text, &style);
        self.text(&text, (cx - own / 2.0, cy - style.face.line() / 2.0), &style);
        // The ring is open below, and its label stands there.
        let below = y + across * 0.94;
        self.text(&gauge.label, (cx - name / 2.0, below), &label);
        let high = if name > 0.0 { across * 0.94 + label.face.line() } else { across };
        (wide, high)
    }

    fn meter(&mut self, gauge: &WidgetReading, (wide, thick): (f32, f32), (x, y): (f32, f32)) -> (f32, f32) {
        let [style, label, mark, track] =
            ["widget", "widget.label", "widget.mark", "widget.track"].map(|kind| self.style(kind, &gauge.states));
        let name = self.width(&gauge.label, &label);
        let high = style.face.line();
        self.text(&gauge.label, (x, y + (high - label.face.line()) / 2.0), &label);
        let room = wide - if name > 0.0 { name + 8.0 } else { 0.0 };
        let text = cut(&gauge.text, room.max(0.0), &style.face, self.measure);
        let own = self.width(&text, &style);
        self.text(&text, (if name > 0.0 { x + wide - own } else { x }, y), &style);
        let above = if name > 0.0 || !text.is_empty() { high + 4.0 } else { 0.0 };
        self.scene.fill(Rect::new(x, y + above, wide, thick), thick / 2.0, track.ink);
        if let Some(part) = gauge.part.filter(|part| *part > 0.0) {
            self.scene.fill(Rect::new(x, y + above, (wide * part).max(thick), thick), thick / 2.0, mark.ink);
        }
        (wide, above + thick)
    }

    fn graph(&mut self, gauge: &WidgetReading, (wide, high): (f32, f32), (x, y): (f32, f32)) -> (f32, f32) {
        let [style, label, mark, track] =
            ["widget", "widget.label", "widget.mark", "widget.track"].map(|kind| self.style(kind, &gauge.states));
        let name = self.width(&gauge.label, &label);
        let room = wide - if name > 0.0 { name + 8.0 } else { 0.0 };
        let text = cut(&gauge.text, room.max(0.0), &style.face, self.measure);
        self.text(&text, (x, y), &style);
        let line = style.face.line();
        self.text(&gauge.label, (x + wide - name, y + (line - label.face.line()) / 2.0), &label);
        let above = if name > 0.0 || !text.is_empty() { line + 8.0 } else { 0.0 };
        let (top, foot) = (y + above, y + above + high);
        // The curve keeps the half of its own thickness inside.
        let at = |(across, up): (f32, f32)| (x + across * wide, foot - 1.0 - up * (high - 2.0));
        let points: Vec<(f32, f32)> = gauge.curve.iter().copied().map(at).collect();
        let curve = smooth(&points);
        self.scene.fill(Rect::new(x, foot - 1.0, wide, 1.0), 0.0, track.ink);
        if let ([first, .., last], false) = (&points[..], curve.is_empty()) {
            let mut under = curve.clone();
            under.extend([Line(last.0, foot), Line(first.0, foot), Close]);
            let faint = Colour { a: (f32::from(mark.ink.a) * UNDER).round() as u8, ..mark.ink };
            self.scene.items.push(Primitive::Shape { path: under, colour: faint });
            self.scene.stroke(curve, 2.0, mark.ink);
        }
        if let (Some(along), false) = (gauge.mark, points.is_empty()) {
            let here = self.rice.palette.current.accent;
            let at_x = x + along * wide;
            self.scene.stroke(vec![Move(at_x, top), Line(at_x, foot - 1.0)], 1.0, Colour { a: 160, ..here });
            if let Some(at_y) = height_at(&points, at_x) {
                self.scene.fill(Rect::new(at_x - 4.0, at_y - 4.0, 8.0, 8.0), 4.0, here);
            }
        }
        let ticks = self.widget.ticks.clone();
        for (nth, tick) in ticks.iter().enumerate() {
            let own = self.width(tick, &label);
            let share = if ticks.len() > 1 { nth as f32 / (ticks.len() - 1) as f32 } else { 0.0 };
            // The first and the last stay inside.
            self.text(tick, (x + (wide - own) * share, foot + 6.0), &label);
        }
        (wide, above + high + if ticks.is_empty() { 0.0 } else { 6.0 + label.face.line() })
    }

    fn list(&mut self, gauge: &WidgetReading, style: &ComputedStyle, (x, y): (f32, f32)) -> (f32, f32) {
        let plain = self.style("widget.label", &[]);
        let names: Vec<f32> = gauge.inner.iter().map(|row| self.width(&row.label, &plain)).collect();
        let column = names.iter().copied().fold(0.0, f32::max) + 2.0 * style.gap;
        let step = style.face.line() + 6.0;
        let mut wide = self.widget.width.0 as f32;
        let room = if wide > 0.0 { (wide - column).max(0.0) } else { f32::MAX };
        for (nth, row) in gauge.inner.iter().enumerate() {
            let (own, label) = (self.style("widget", &row.states), self.style("widget.label", &row.states));
            let top = y + nth as f32 * step;
            self.text(&row.label, (x, top + (own.face.line() - label.face.line()) / 2.0), &label);
            let text = cut(&row.text, room, &own.face, self.measure);
            self.text(&text, (x + column, top), &own);
            wide = wide.max(column + self.width(&text, &own));
        }
        (wide, (gauge.inner.len() as f32 * step - 6.0).max(0.0))
    }
}

/// Where an arc begins, clockwise from the right, and how far it goes: it is open below.
const BEGINS: f32 = 135.0;
const GOES: f32 = 270.0;

/// So much of an arc of three quarters.
fn arc(cx: f32, cy: f32, radius: f32, part: f32) -> Vec<PathSegment> {
    let whole = GOES * part.clamp(0.0, 1.0);
    // A curve of an eighth of a turn is a circle to the eye.
    let pieces = (whole / 45.0).ceil().max(1.0);
    let step = (whole / pieces).to_radians();
    let handle = 4.0 / 3.0 * (step / 4.0).tan() * radius;
    let at = |angle: f32| (cx + radius * angle.cos(), cy + radius * angle.sin());
    let mut angle = BEGINS.to_radians();
    let (x, y) = at(angle);
    let mut path = vec![Move(x, y)];
    for _ in 0..pieces as usize {
        let ((x0, y0), next) = (at(angle), angle + step);
        let (x1, y1) = at(next);
        path.push(Curve(
            x0 - handle * angle.sin(),
            y0 + handle * angle.cos(),
            x1 + handle * next.sin(),
            y1 - handle * next.cos(),
            x1,
            y1,
        ));
        angle = next;
    }
    path
}

/// A smooth curve through points; nothing through fewer than two.
fn smooth(points: &[(f32, f32)]) -> Vec<PathSegment> {
    let ([first, ..], true) = (points, points.len() > 1) else { return Vec::new() };
    let mut path = vec![Move(first.0, first.1)];
    for nth in 1..points.len() {
        let (from, to) = (points[nth - 1], points[nth]);
        let before = points[nth.saturating_sub(2)];
        let after = points[(nth + 1).min(points.len() - 1)];
        // It does not swing over the points that it goes through.
        let (low, high) = (from.1.min(to.1), from.1.max(to.1));
        let first = (from.0 + (to.0 - before.0) / 6.0, (from.1 + (to.1 - before.1) / 6.0).clamp(low, high));
        let second = (to.0 - (after.0 - from.0) / 6.0, (to.1 - (after.1 - from.1) / 6.0).clamp(low, high));
        path.push(Curve(first.0, first.1, second.0, second.1, to.0, to.1));
    }
    path
}

/// How high points are at a place between them.
fn height_at(points: &[(f32, f32)], x: f32) -> Option<f32> {
    let next = points.iter().position(|point| point.0 >= x)?;
    let to = points[next];
    let from = points[next.checked_sub(1)?];
    let share = if to.0 > from.0 { (x - from.0) / (to.0 - from.0) } else { 0.0 };
    Some(from.1 + (to.1 - from.1) * share)
}
