//! Giving one setting another value: by typing, by choosing, by steps, by sliders.

use jovrik_core::rice::{Choice, choices};
use jovrik_home::EditPlan;
use jovrik_schema::Colour;
use jovrik_schema::catalogue::ValueConstraint;
use jovrik_toml::{SpannedValue, TomlValue, parse_value};

use super::model::{Item, Model};

/// The sliders of a colour, in the order they stand, and how far each goes: OKLCH and opacity.
pub const SLIDERS: [(&str, f32); 4] = [("light", 1.0), ("vivid", 0.37), ("hue", 1.0), ("cover", 1.0)];

/// A value that is being tried.
#[derive(Debug)]
pub struct Editor {
    /// The setting.
    pub item: Item,
    /// What is typed.
    pub text: String,
    /// Before which character the cursor stands.
    pub cursor: usize,
    /// What can be chosen.
    pub choices: Vec<Choice>,
    /// Which of them is.
    pub chosen: Option<usize>,
    /// Which slider is held, of a colour.
    pub slider: Option<usize>,
    /// Where the sliders stand, once one was held: a grey has no hue to be read back.
    held: Option<[f32; 4]>,
    /// What writing it would do, or why it cannot be.
    pub plan: Result<EditPlan, jovrik_home::Error>,
}

/// A text value stands without its quotes; everything else as TOML.
fn typed(value: &str) -> String {
    match parse_value(value).map(|node| node.value) {
        Some(TomlValue::String(text)) => text,
        _ => value.to_owned(),
    }
}

impl Editor {
    /// Begins with the value that a setting has.
    pub fn new(item: Item, model: &Model) -> Editor {
        let text = typed(&model.value(&item));
        let list = item.kind.is_list();
        let choices = if list { Vec::new() } else { choices(&item.steps, item.kind, &model.checked.rice) };
        let chosen = choices.iter().position(|choice| choice.value == text);
        let cursor = text.chars().count();
        let plan = model.plan(&item, &text);
        Editor { item, text, cursor, choices, chosen, slider: None, held: None, plan }
    }

    /// Whether it is a colour.
    pub fn is_colour(&self) -> bool {
        matches!(self.item.kind.name, "colour" | "fill")
    }

    /// Whether it is a number that goes up and down.
    pub fn is_number(&self) -> bool {
        matches!(self.item.kind.allowed, ValueConstraint::Range(..)) && self.item.kind.name != "list"
    }

    /// Whether it is a place that arrows move.
    pub fn is_place(&self) -> bool {
        self.item.kind.name == "two numbers"
    }

    /// Moves a place by so many pixels.
    pub fn moves(&mut self, across: i64, down: i64) {
        let numbers = |node: SpannedValue| match node.value {
            TomlValue::Array(items) => {
                items.iter().map(|node| if let TomlValue::Integer(number) = node.value { Some(number) } else { None }).collect()
            }
            _ => None,
        };
        let at: Option<Vec<i64>> = parse_value(&self.text).and_then(numbers);
        if let Some([x, y]) = at.as_deref() {
            self.put(format!("[{}, {}]", x + across, y + down));
        }
    }

    /// Tries what stands there now.
    pub fn try_it(&mut self, model: &Model) {
        self.plan = model.plan(&self.item, &self.text);
    }

    fn put(&mut self, text: String) {
        self.cursor = text.chars().count();
        self.text = text;
    }

    /// Types a character.
    pub fn insert(&mut self, c: char) {
        let at = self.byte(self.cursor);
        self.text.insert(at, c);
        self.cursor += 1;
        self.typed_over();
    }

    /// Takes the character before the cursor out.
    pub fn erase(&mut self) {
        if self.cursor > 0 {
            self.cursor -= 1;
            let at = self.byte(self.cursor);
            self.text.remove(at);
            self.typed_over();
        }
    }

    /// Takes the character behind the cursor out.
    pub fn delete(&mut self) {
        if self.cursor < self.text.chars().count() {
            let at = self.byte(self.cursor);
            self.text.remove(at);
            self.typed_over();
        }
    }

    /// Takes all out.
    pub fn clear(&mut self) {
        self.put(String::new());
        self.typed_over();
    }

    fn typed_over(&mut self) {
        (self.slider, self.held) = (None, None);
        self.chosen = self.choices.iter().position(|choice| choice.value == self.text);
    }

    fn byte(&self, character: usize) -> usize {
        self.text.char_indices().nth(character).map_or(self.text.len(), |(at, _)| at)
    }

    /// Up (1) or down (−1): the next choice, or a number by so many steps.
    pub fn step(&mut self, by: i64) {
        if self.is_number() {
            let ValueConstraint::Range(from, to) = self.item.kind.allowed else { return };
            // Numbers with decimals go by tenths of what whole ones do.
            let text = match self.text.trim().parse::<i64>() {
                Ok(number) if !self.text.contains('.') => (number + by).clamp(from, to).to_string(),
                _ => match self.text.trim().parse::<f64>() {
                    Ok(number) => {
                        let next = (number + by as f64 * 0.1).clamp(from as f64, to as f64);
                        format!("{:.1}", next)
                    }
                    Err(_) => from.to_string(),
                },
            };
            self.put(text);
        } else if !self.choices.is_empty() {
            let count = self.choices.len() as i64;
            let by = by.signum();
            let next = match self.chosen {
                Some(at) => (at as i64 - by).rem_euclid(count),
                None if by < 0 => 0,
                None => count - 1,
            };
            self.chosen = Some(next as usize);
            (self.slider, self.held) = (None, None);
            self.put(self.choices[next as usize].value.clone());
        }
    }

    /// The colour that stands there, roles looked up.
    pub fn colour(&self, model: &Model) -> Option<Colour> {
        colour_of(&self.text, model)
    }

    /// Holds the next slider, then none.
    pub fn next_slider(&mut self, model: &Model) {
        if self.is_colour() {
            self.slider = match self.slider {
                None => Some(0),
                Some(at) if at + 1 < SLIDERS.len() => Some(at + 1),
                Some(_) => None,
            };
            self.held = self.held.or_else(|| self.colour(model).map(Colour::to_oklch));
        }
    }

    /// Where the sliders stand, from 0 to 1.
    pub fn sliders(&self, model: &Model) -> Option<[f32; 4]> {
        let mut values = self.held.or_else(|| self.colour(model).map(Colour::to_oklch))?;
        values.iter_mut().zip(SLIDERS).for_each(|(value, (_, most))| *value = (*value / most).clamp(0.0, 1.0));
        Some(values)
    }

    /// Moves the held slider by hundredths of its way, or the cursor when none is held.
    pub fn slide(&mut self, by: i32) {
        let (Some(at), Some(mut values)) = (self.slider, self.held) else {
            let count = self.text.chars().count() as i64;
            self.cursor = (self.cursor as i64 + i64::from(by.signum())).clamp(0, count) as usize;
            return;
        };
        let most = SLIDERS[at].1;
        let next = values[at] + by as f32 / 100.0 * most;
        // A hue goes round.
        values[at] = if at == 2 { next.rem_euclid(1.0) } else { next.clamp(0.0, most) };
        self.held = Some(values);
        self.put(Colour::of_oklch(values).hex());
        self.chosen = None;
    }
}

/// The colour that a text means in a rice.
pub fn colour_of(text: &str, model: &Model) -> Option<Colour> {
    let Some(role) = text.strip_prefix('@') else { return Colour::css(text) };
    let (role, percent) = role.split_once('/').unwrap_or((role, "100%"));
    let opacity: f32 = percent.strip_suffix('%')?.trim().parse().ok()?;
    model.seen().rice.palette.current.role(role).map(|colour| colour.faded(opacity / 100.0))
}
