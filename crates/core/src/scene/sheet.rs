//! The cheat sheet: drawn keyboards in hairlines, bound keys filled by scope, what each does below.

use jovrik_schema::Colour;
use jovrik_values::{ElementState, Fill, Rect, Side};

use crate::keys::{KeyboardLayout, ModifierLayer, SheetEntry, label};
use crate::rice::Rice;
use crate::scene::notification::lines;
use crate::scene::{Measure, Scene, TextStyle, cut};
use crate::style::{ComputedStyle, StyledElement, resolve};

/// What a sheet shows.
#[derive(Debug)]
pub struct Sheet<'a> {
    /// What stands above it.
    pub title: &'a str,
    /// The layers.
    pub layers: &'a [ModifierLayer],
    /// The keyboard that is drawn.
    pub keyboard: &'a KeyboardLayout,
    /// The scopes by name, for their colours.
    pub scopes: &'a [String],
    /// How many of the layers are drawn as keyboards; the others are lists.
    pub drawn: usize,
    /// So many lines of those lists have room; of the others it is said how many they are.
    pub most: usize,
}

/// The roles of a palette that scopes are filled with, in their order.
const ROLES: [&str; 5] = ["calm", "good", "warn", "ink", "muted"];
/// From one key to the next.
const GAP: f32 = 4.0;
/// The least space of a column of a list.
const COLUMN: f32 = 300.0;
/// From one thing to the next.
const APART: f32 = 20.0;

struct SheetPainter<'a, 'm> {
    rice: &'a Rice,
    sheet: &'a Sheet<'a>,
    style: ComputedStyle,
    measure: &'m mut dyn Measure,
    scene: Scene,
}

/// Draws a sheet of a width at a place; how high it is.
pub fn sheet(rice: &Rice, sheet: &Sheet<'_>, at: Rect, scene: &mut Scene, measure: &mut dyn Measure) -> f32 {
    let style = resolve(rice, &[StyledElement { kind: "sheet", name: "", states: &[] }]);
    let mut pen = SheetPainter { rice, sheet, style, measure, scene: Scene::default() };
    let height = pen.draw(at);
    let rect = Rect::new(at.x, at.y, at.w, height);
    let style = pen.style.clone();
    let drawn = std::mem::take(&mut pen.scene);
    scene.styled(rect, &style, Side::Bottom);
    scene.items.extend(drawn.items);
    height
}

/// Draws the keyboard of one layer alone, so wide, at a place; how high it is.
pub fn keyboard(
    rice: &Rice,
    sheet: &Sheet<'_>,
    layer: &ModifierLayer,
    at: Rect,
    scene: &mut Scene,
    measure: &mut dyn Measure,
) -> f32 {
    let style = resolve(rice, &[StyledElement { kind: "sheet", name: "", states: &[] }]);
    let mut pen = SheetPainter { rice, sheet, style, measure, scene: Scene::default() };
    let height = pen.keys(layer, at.x, at.y, at.w);
    scene.items.append(&mut pen.scene.items);
    height
}

/// The role of the palette that a scope has, by its number.
pub fn scope_role(scope: usize) -> &'static str {
    ROLES[scope % ROLES.len()]
}

impl SheetPainter<'_, '_> {
    fn key_style(&self, scope: Option<usize>, clash: bool) -> ComputedStyle {
        let mut states = Vec::new();
        states.extend(scope.map(|_| ElementState::Active));
        states.extend(clash.then_some(ElementState::Urgent));
        let name = scope.and_then(|scope| self.sheet.scopes.get(scope)).map_or("", String::as_str);
        let root = StyledElement { kind: "sheet", name: "", states: &[] };
        let mut style = resolve(self.rice, &[root, StyledElement { kind: "sheet.key", name, states: &states }]);
        if let Some(scope) = scope.filter(|_| style.fill.is_none()) {
            style.fill = Fill::Plain(Colour { a: 60, ..self.colour(scope) });
        }
        style
    }

    fn colour(&self, scope: usize) -> Colour {
        self.rice.palette.current.role(scope_role(scope)).unwrap_or_default()
    }

    fn muted(&self) -> Colour {
        self.rice.palette.current.muted
    }

    fn draw(&mut self, at: Rect) -> f32 {
        let pad = self.style.pad;
        let (left, width) = (at.x + pad.left as f32, at.w - (pad.left + pad.right) as f32);
        let mut y = at.y + pad.top as f32;
        y += self.heading(left, y, width) + APART;
        for nth in 0..self.sheet.layers.len().min(self.sheet.drawn) {
            y += self.layer(nth, left, y, width) + APART;
        }
        let rest: Vec<&ModifierLayer> = self.sheet.layers.iter().skip(self.sheet.drawn).collect();
        if !rest.is_empty() {
            y += self.lists(&rest, left, y, width) + APART;
        }
        y - APART + pad.bottom as f32 - at.y
    }

    /// The title at the left, the scopes with their colours at the right.
    fn heading(&mut self, x: f32, y: f32, width: f32) -> f32 {
        let face = TextStyle { bold: true, points: self.style.face.points * 1.3, ..self.style.face.clone() };
        let middle = y + face.line() / 2.0;
        self.scene.text(x, middle, self.sheet.title, &face, self.style.ink);
        let small = self.style.face.clone();
        let mut right = x + width;
        let shown = |scope: usize| self.sheet.layers.iter().flat_map(|layer| &layer.entries).any(|entry| entry.scope == scope);
        let scopes: Vec<usize> = (0..self.sheet.scopes.len()).filter(|scope| shown(*scope)).collect();
        let clash = self.sheet.layers.iter().flat_map(|layer| &layer.entries).any(|entry| entry.clash);
        // One colour needs no explaining.
        let several = scopes.len() > 1 || clash;
        let scopes: Vec<usize> = scopes.into_iter().filter(|_| several).collect();
        let mut legend: Vec<(usize, bool, String)> =
            scopes.iter().map(|scope| (*scope, false, self.sheet.scopes[*scope].clone())).collect();
        if clash {
            legend.push((0, true, "in a fight".to_owned()));
        }
        for (scope, clash, name) in legend.into_iter().rev() {
            right -= self.measure.width(&name, &small).ceil();
            self.scene.text(right, middle, name, &small, self.muted());
            right -= 18.0;
            self.chip(right, middle, scope, clash);
            right -= APART;
        }
        face.line()
    }

    /// A small square in the colour of a scope.
    fn chip(&mut self, x: f32, middle: f32, scope: usize, clash: bool) {
        let colour = if clash { self.rice.palette.current.alert } else { self.colour(scope) };
        self.scene.fill(Rect::new(x, middle - 5.0, 10.0, 10.0), 3.0, colour);
    }

    fn layer(&mut self, nth: usize, x: f32, y: f32, width: f32) -> f32 {
        let layer = &self.sheet.layers[nth];
        let head = self.layer_title(layer, x, y);
        let mut below = y + head + 8.0;
        below += self.keys(layer, x, below, width);
        // What a drawn key cannot say: sequences, and keys without a place.
        let spots = self.spots(layer);
        let placed = |entry: &SheetEntry| spots.iter().any(|(code, _)| *code == entry.key);
        let listed: Vec<&SheetEntry> = layer.entries.iter().filter(|entry| entry.sequence || !placed(entry)).collect();
        if !listed.is_empty() {
            below += 12.0;
            below += self.list(&listed, x, below, width);
        }
        below - y
    }

    fn layer_title(&mut self, layer: &ModifierLayer, x: f32, y: f32) -> f32 {
        let face = TextStyle { bold: true, ..self.style.face.clone() };
        self.scene.text(x, y + face.line() / 2.0, layer.title.clone(), &face, self.style.ink);
        face.line()
    }

    /// The keys that are drawn: without the number block where nothing is bound there.
    fn spots(&self, layer: &ModifierLayer) -> Vec<(u32, crate::keys::Spot)> {
        let keyboard = self.sheet.keyboard;
        let block = |name: &str| name.starts_with("KP") || name == "NMLK";
        let used = layer.entries.iter().any(|entry| keyboard.cap(entry.key).is_some_and(|cap| block(&cap.name)));
        let spots = keyboard.geometry.spots.iter().filter(|spot| used || !block(spot.name));
        spots.filter_map(|spot| Some((keyboard.code(spot.name)?, *spot))).collect()
    }

    fn keys(&mut self, layer: &ModifierLayer, x: f32, y: f32, width: f32) -> f32 {
        let spots = self.spots(layer);
        let right = spots.iter().map(|(_, spot)| spot.x + spot.w).fold(1.0, f32::max);
        let top = spots.iter().map(|(_, spot)| spot.y).fold(0.0, f32::min);
        let bottom = spots.iter().map(|(_, spot)| spot.y + spot.h).fold(1.0, f32::max);
        let unit = (width + GAP) / right;
        // The row of function keys stands half as far above as it does on a desk.
        let lift = |y: f32| if y < 0.0 { y - top } else { y - top - 0.25 };
        let (tall, across) = (unit * 0.92, unit);
        for (code, spot) in &spots {
            let rect = Rect::new(x + spot.x * across, y + lift(spot.y) * tall, spot.w * across - GAP, spot.h * tall - GAP);
            self.key(layer, *code, rect);
        }
        lift(bottom) * tall - GAP
    }

    fn key(&mut self, layer: &ModifierLayer, code: u32, rect: Rect) {
        let bound: Vec<&SheetEntry> = layer.entries.iter().filter(|entry| entry.key == code).collect();
        let clash = bound.iter().any(|entry| entry.clash);
        let style = self.key_style(bound.first().map(|entry| entry.scope), clash);
        self.scene.styled(rect, &style, Side::Bottom);
        let cap = TextStyle { points: self.style.face.points * 0.85, ..self.style.face.clone() };
        let words = label(self.sheet.keyboard, code);
        let (inset, line) = (5.0, cap.line());
        let ink = if bound.is_empty() { self.muted() } else { style.ink };
        let held = self.sheet.keyboard.is_modifier(code) && self.held(layer, code);
        if held {
            let mark = Rect::new(rect.x + inset, rect.y + rect.h - 5.0, rect.w - 2.0 * inset, 2.0);
            let accent = self.rice.palette.current.accent;
            self.scene.fill(mark, 1.0, accent);
        }
        self.scene.text(
            rect.x + inset,
            rect.y + line / 2.0 + 1.0,
            cut(&words, rect.w - 2.0 * inset, &cap, self.measure),
            &cap,
            if held { self.style.ink } else { ink },
        );
        let Some(first) = bound.first() else { return };
        let says = match bound.iter().filter(|entry| entry.sequence).count() {
            0 => first.says.clone(),
            many if many == bound.len() => "…".to_owned(),
            _ => format!("{} …", first.says),
        };
        let small = TextStyle { points: self.style.face.points * 0.72, bold: false, ..self.style.face.clone() };
        let row = small.line() - 2.0;
        let room = ((rect.h - line - 3.0) / row).floor().max(1.0) as usize;
        let mut set = lines(&says, rect.w - 2.0 * inset, &small, self.measure);
        if set.len() > room {
            set.truncate(room);
            if let Some(last) = set.last_mut() {
                last.push('…');
            }
        }
        for (nth, words) in set.iter().enumerate() {
            let words = cut(words, rect.w - 2.0 * inset, &small, self.measure);
            self.scene.text(rect.x + inset, rect.y + line + row * (nth as f32 + 0.5), words, &small, style.ink);
        }
    }

    /// Whether a key is one of those that a layer holds.
    fn held(&self, layer: &ModifierLayer, code: u32) -> bool {
        self.sheet.keyboard.modifier_keys(layer.held).contains(&code)
    }

    fn lists(&mut self, layers: &[&ModifierLayer], x: f32, y: f32, width: f32) -> f32 {
        let (mut below, mut room) = (y, self.sheet.most);
        for layer in layers {
            if room == 0 {
                break;
            }
            below += self.layer_title(layer, x, below) + 2.0;
            let all: Vec<&SheetEntry> = layer.entries.iter().take(room).collect();
            room -= all.len();
            below += self.list(&all, x, below, width) + 12.0;
        }
        let all: usize = layers.iter().map(|layer| layer.entries.len()).sum();
        if let Some(left) = all.checked_sub(self.sheet.most).filter(|left| *left > 0) {
            let (face, muted) = (self.style.face.clone(), self.muted());
            let says = cut(&format!("and {left} more: jovrik keys list"), width, &face, self.measure);
            self.scene.text(x, below + face.line() / 2.0, says, &face, muted);
            below += face.line() + 12.0;
        }
        below - 12.0 - y
    }

    /// Chords and what they do, in columns.
    fn list(&mut self, entries: &[&SheetEntry], x: f32, y: f32, width: f32) -> f32 {
        let face = self.style.face.clone();
        let row = face.line() + 2.0;
        let mut widest = |text: fn(&SheetEntry) -> &String| {
            entries.iter().map(|entry| self.measure.width(text(entry), &face)).fold(0.0, f32::max)
        };
        let (chords, says) = (widest(|entry| &entry.chord), widest(|entry| &entry.says));
        // As many columns as leave room for all that is said.
        let needs = (chords + says + 18.0 + 12.0 + 8.0).ceil();
        let columns = (width / COLUMN.max(needs)).floor().max(1.0) as usize;
        let per = entries.len().div_ceil(columns);
        let each = width / columns as f32;
        let indent = (chords + 18.0 + 12.0).min(each * 0.6).ceil();
        for (nth, entry) in entries.iter().enumerate() {
            let (at_x, at_y) = (x + (nth / per) as f32 * each, y + (nth % per) as f32 * row + row / 2.0);
            self.chip(at_x, at_y, entry.scope, entry.clash);
            let chord = cut(&entry.chord, indent - 30.0, &face, self.measure);
            self.scene.text(at_x + 18.0, at_y, chord, &face, self.style.ink);
            let says = cut(&entry.says, each - indent - 8.0, &face, self.measure);
            let muted = self.muted();
            self.scene.text(at_x + indent, at_y, says, &face, muted);
        }
        per as f32 * row
    }
}
