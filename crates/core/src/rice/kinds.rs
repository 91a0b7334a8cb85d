//! The kinds of values that settings share: whole numbers, lengths, durations, colours, texts, lists.

use std::time::Duration;

use super::catalogue::{Allowed, InlineField, Kind, Names, OneValue, Reach, Setting, Shape, Table};
use crate::Ordered;
use crate::limits;
use crate::load::{At, Node, Reader, Tree, Value, Wrong};
use crate::problem::nearest;

pub(super) const fn kind(name: &'static str, unit: &'static str, example: &'static str) -> Kind {
    Kind { name, unit, allowed: Allowed::Any, example, reach: Reach::Inside, fields: &[] }
}

/// A whole number of pixels from `MIN` to `MAX`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, PartialOrd, Ord)]
pub struct Px<const MIN: i64, const MAX: i64>(pub i32);

/// A whole number from `MIN` to `MAX`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, PartialOrd, Ord)]
pub struct Whole<const MIN: i64, const MAX: i64>(pub i64);

fn whole(node: &Node, min: i64, max: i64, what: &str) -> Result<i64, Wrong> {
    let expected = format!("expected {what} from {min} to {max}");
    match &node.value {
        Value::Whole(number) if (min..=max).contains(number) => Ok(*number),
        Value::Whole(_) => Err(Wrong::range(format!("{expected} here"))),
        Value::Text(text) => {
            let digits = text.trim().trim_end_matches("px").trim();
            let mend = digits.parse::<i64>().ok().filter(|number| (min..=max).contains(number));
            Err(Wrong { mend: mend.map(|number| number.to_string()), ..Wrong::kind(format!("{expected}, without quotes")) })
        }
        _ => Err(Wrong::kind(expected)),
    }
}

impl<const MIN: i64, const MAX: i64> OneValue for Px<MIN, MAX> {
    const KIND: Kind =
        Kind { name: "pixels", unit: "px", allowed: Allowed::Range(MIN, MAX), example: "", reach: Reach::Inside, fields: &[] };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        whole(node, MIN, MAX, "pixels").map(|number| Px(number as i32))
    }
}

impl<const MIN: i64, const MAX: i64> OneValue for Whole<MIN, MAX> {
    const KIND: Kind = Kind {
        name: "whole number",
        unit: "",
        allowed: Allowed::Range(MIN, MAX),
        example: "",
        reach: Reach::Inside,
        fields: &[],
    };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        whole(node, MIN, MAX, "a whole number").map(Whole)
    }
}

/// A font size in points, from 4 to 96.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Points(pub f32);

impl OneValue for Points {
    const KIND: Kind =
        Kind { name: "font size", unit: "pt", allowed: Allowed::Range(4, 96), example: "", reach: Reach::Inside, fields: &[] };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let size = match node.value {
            Value::Whole(size) => size as f64,
            Value::Real(size) => size,
            _ => return Err(Wrong::kind("expected a font size in points, from 4 to 96")),
        };
        if (4.0..=96.0).contains(&size) { Ok(Points(size as f32)) } else { Err(Wrong::range("expected 4 to 96 points here")) }
    }
}

/// A weight from 0 to 100, kept in hundredths so that sums are exact.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Weight(pub i64);

impl OneValue for Weight {
    const KIND: Kind =
        Kind { name: "number", unit: "", allowed: Allowed::Range(0, 100), example: "", reach: Reach::Inside, fields: &[] };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let number = match node.value {
            Value::Whole(number) => number as f64,
            Value::Real(number) => number,
            _ => return Err(Wrong::kind("expected a number from 0 to 100")),
        };
        if (0.0..=100.0).contains(&number) {
            Ok(Weight((number * 100.0).round() as i64))
        } else {
            Err(Wrong::range("expected 0 to 100 here"))
        }
    }
}

/// How many pixels one pixel takes, from 0.25 to 4.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Scale(pub f64);

impl Default for Scale {
    fn default() -> Self {
        Scale(1.0)
    }
}

impl OneValue for Scale {
    const KIND: Kind = kind("scale", "0.25 to 4", "1.5");
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let scale = match node.value {
            Value::Whole(scale) => scale as f64,
            Value::Real(scale) => scale,
            _ => return Err(Wrong::kind("expected a number from 0.25 to 4")),
        };
        if (0.25..=4.0).contains(&scale) { Ok(Scale(scale)) } else { Err(Wrong::range("expected 0.25 to 4 here")) }
    }
}

/// A length: pixels, or a part of what it lies in.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Length {
    /// Pixels.
    Px(i32),
    /// A ratio from 0 to 1, times the whole.
    Share(f64),
}

impl std::fmt::Display for Length {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Length::Px(px) => write!(f, "{px}"),
            Length::Share(share) => write!(f, "{}%", (share * 1000.0).round() / 10.0),
        }
    }
}

impl Default for Length {
    fn default() -> Self {
        Length::Share(0.5)
    }
}

impl Length {
    /// The length in pixels, in a whole of so many; rounded down.
    pub fn of(self, whole: i32) -> i32 {
        match self {
            Length::Px(px) => px.clamp(0, whole.max(0)),
            Length::Share(share) => (f64::from(whole) * share).floor() as i32,
        }
    }

    /// Reads `40%`, `1/3`.
    fn parse(text: &str) -> Option<f64> {
        let share = if let Some(percent) = text.strip_suffix('%') {
            percent.trim().parse::<f64>().ok()? / 100.0
        } else {
            let (above, below) = text.split_once('/')?;
            above.trim().parse::<f64>().ok()? / below.trim().parse::<f64>().ok().filter(|below| *below > 0.0)?
        };
        share.is_finite().then_some(share)
    }
}

impl OneValue for Length {
    const KIND: Kind = kind("length", "px, % or a fraction", "\"40%\"");
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let expected = || Wrong::kind("expected pixels such as 400, or a part such as \"40%\" or \"1/3\"");
        match &node.value {
            Value::Whole(px @ 0..=100_000) => Ok(Length::Px(*px as i32)),
            Value::Whole(_) => Err(Wrong::range("expected 0 to 100000 pixels")),
            Value::Text(text) => match Length::parse(text).ok_or_else(expected)? {
                share if (0.01..=1.0).contains(&share) => Ok(Length::Share(share)),
                _ => Err(Wrong::range("expected 1% to 100%")),
            },
            // A part of one, as many write it.
            Value::Real(part) if (0.01..=1.0).contains(part) => {
                let mend = Some(format!("\"{}%\"", (part * 100.0).round()));
                Err(Wrong { mend, ..expected() })
            }
            _ => Err(expected()),
        }
    }
}

/// A span of time, written with its unit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Span(pub Duration);

impl Span {
    /// Reads `250ms`, `2s`, `1h30m`.
    pub fn parse(text: &str) -> Option<Duration> {
        let mut total = Duration::ZERO;
        let mut rest = text.trim();
        if rest.is_empty() {
            return None;
        }
        while !rest.is_empty() {
            let digits = rest.find(|c: char| !c.is_ascii_digit())?;
            let number: u64 = rest[..digits].parse().ok()?;
            rest = &rest[digits..];
            let (unit, len) = [("ms", 1), ("s", 1000), ("m", 60_000), ("h", 3_600_000), ("d", 86_400_000)]
                .into_iter()
                .find(|(name, _)| rest.starts_with(name))?;
            total = total.checked_add(Duration::from_millis(number.checked_mul(len)?))?;
            rest = &rest[unit.len()..];
        }
        Some(total)
    }

    /// The time as it is written: `1m30s`.
    pub fn words(time: Duration) -> String {
        let mut left = time.as_millis();
        let mut out = String::new();
        for (name, unit) in [("d", 86_400_000), ("h", 3_600_000), ("m", 60_000), ("s", 1000), ("ms", 1)] {
            if left >= unit {
                out.push_str(&format!("{}{name}", left / unit));
                left %= unit;
            }
        }
        if out.is_empty() { "0s".to_owned() } else { out }
    }
}

impl OneValue for Span {
    const KIND: Kind = kind("duration", "with its unit", "\"1m30s\"");
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        match &node.value {
            Value::Text(text) => Span::parse(text)
                .map(Span)
                .ok_or_else(|| Wrong::kind("expected a time such as \"250ms\", \"2s\", \"5m\" or \"1h30m\"")),
            Value::Whole(number) => {
                Err(Wrong::kind(format!("nobody knows its unit: \"{number}s\" for seconds, \"{number}ms\" for milliseconds")))
            }
            _ => Err(Wrong::kind("expected a time such as \"2s\"")),
        }
    }
}

/// A colour with its opacity, 8 bits a channel, not premultiplied.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Hash)]
pub struct Colour {
    /// Red.
    pub r: u8,
    /// Green.
    pub g: u8,
    /// Blue.
    pub b: u8,
    /// Opacity: 255 covers.
    pub a: u8,
}

impl Colour {
    /// A CSS colour.
    pub fn css(text: &str) -> Option<Colour> {
        let [r, g, b, a] = csscolorparser::parse(text).ok()?.to_rgba8();
        Some(Colour { r, g, b, a })
    }

    /// Lightness from 0 to 1, chroma from 0 to about 0.37, hue in turns from 0 to 1, and opacity from 0 to 1, in OKLCH
    /// (CSS Color 4, 9.2).
    pub fn to_oklch(self) -> [f32; 4] {
        let [light, chroma, hue, cover] = csscolorparser::Color::from_rgba8(self.r, self.g, self.b, self.a).to_oklcha();
        [light, chroma, (hue / std::f32::consts::TAU).rem_euclid(1.0), cover]
    }

    /// The nearest colour that a screen can show to lightness, chroma, hue in turns and opacity, each channel by itself.
    pub fn of_oklch([light, chroma, hue, cover]: [f32; 4]) -> Colour {
        let colour = csscolorparser::Color::from_oklcha(light, chroma, hue * std::f32::consts::TAU, cover);
        let [r, g, b, a] = colour.clamp().to_rgba8();
        Colour { r, g, b, a }
    }

    /// The same colour, times an opacity from 0 to 1.
    #[must_use]
    pub fn faded(self, opacity: f32) -> Colour {
        Colour { a: (f32::from(self.a) * opacity.clamp(0.0, 1.0)).round() as u8, ..self }
    }

    /// This colour over an opaque one.
    #[must_use]
    pub fn over(self, below: Colour) -> Colour {
        let mix = |top: u8, bottom: u8| {
            let (top, bottom, a) = (u32::from(top), u32::from(bottom), u32::from(self.a));
            ((top * a + bottom * (255 - a) + 127) / 255) as u8
        };
        Colour { r: mix(self.r, below.r), g: mix(self.g, below.g), b: mix(self.b, below.b), a: 255 }
    }

    /// `#rrggbb`, or `#rrggbbaa` when it lets something through.
    pub fn hex(self) -> String {
        let Colour { r, g, b, a } = self;
        if a == 255 { format!("#{r:02x}{g:02x}{b:02x}") } else { format!("#{r:02x}{g:02x}{b:02x}{a:02x}") }
    }
}

impl OneValue for Colour {
    const KIND: Kind = kind("colour", "", "\"@calm/60%\"");
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let expected =
            || Wrong::kind("expected a CSS colour such as \"#74d4b1\", or a role such as \"@accent\" or \"@accent/40%\"");
        let text = node.text().ok_or_else(expected)?;
        let Some(role) = text.strip_prefix('@') else { return Colour::css(text).ok_or_else(expected) };
        let (role, opacity) = match role.split_once('/') {
            Some((role, percent)) => {
                let percent: f32 =
                    percent.strip_suffix('%').and_then(|number| number.trim().parse().ok()).ok_or_else(expected)?;
                (role, percent / 100.0)
            }
            None => (role, 1.0),
        };
        let Some(palette) = &reader.palette else {
            return Err(Wrong::coded("palette/no-role", "a palette's colour cannot be a role", "write the colour itself here"));
        };
        if !(0.0..=1.0).contains(&opacity) {
            return Err(Wrong::range("an opacity is 0% to 100%"));
        }
        match palette.role(role) {
            Some(colour) => Ok(colour.faded(opacity)),
            None => {
                let roles = super::Palette::ROLES;
                let near = nearest(role, roles.iter().copied());
                let note = match near {
                    Some(near) => format!("did you mean @{near}?"),
                    None => format!("the roles are {}", crate::problem::in_words(roles)),
                };
                let mend = near.map(|near| crate::load::quoted(&text.replacen(role, near, 1)));
                Err(Wrong { mend, ..Wrong::coded("palette/no-role", format!("no palette has the role @{role}"), note) })
            }
        }
    }
}

impl OneValue for bool {
    const KIND: Kind = Kind {
        name: "true or false",
        unit: "",
        allowed: Allowed::OneOf(&["true", "false"]),
        example: "",
        reach: Reach::Inside,
        fields: &[],
    };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        match &node.value {
            Value::Truth(truth) => Ok(*truth),
            Value::Text(text) if matches!(text.as_str(), "true" | "false") => {
                Err(Wrong { mend: Some(text.clone()), ..Wrong::kind("expected true or false, without quotes") })
            }
            _ => Err(Wrong::kind("expected true or false")),
        }
    }
}

impl OneValue for String {
    const KIND: Kind = kind("text", "", "\"tide\"");
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let Some(text) = node.text() else {
            let mend = match &node.value {
                Value::Whole(_) | Value::Real(_) | Value::Truth(_) => Some(crate::load::quoted(&node.to_toml())),
                _ => None,
            };
            return Err(Wrong { mend, ..Wrong::kind("expected a text in quotes") });
        };
        if text.len() > limits::SETTING_TEXT {
            return Err(Wrong::range(format!("a text has at most {} KiB", limits::SETTING_TEXT / 1024)));
        }
        Ok(text.strip_prefix("@@").map_or_else(|| text.to_owned(), |rest| format!("@{rest}")))
    }
}

/// A glob that names match as a whole: `DP-*`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Glob(pub String);

impl Default for Glob {
    fn default() -> Self {
        Glob("*".to_owned())
    }
}

impl Glob {
    /// Whether a name matches.
    pub fn matches(&self, name: &str) -> bool {
        if self.is_plain() { self.0 == name } else { self.0 == "*" || wildmatch::WildMatch::new(&self.0).matches(name) }
    }

    /// Whether only one name matches.
    fn is_plain(&self) -> bool {
        !self.0.contains(['*', '?'])
    }
}

impl OneValue for Glob {
    const KIND: Kind = kind("pattern", "", "\"DP-*\"");
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        node.text().map(|text| Glob(text.to_owned())).ok_or_else(|| Wrong::kind("expected a pattern such as \"DP-*\""))
    }
}

/// A list of one kind.
impl<T: OneValue> OneValue for Vec<T> {
    const KIND: Kind = Kind {
        name: Kind::LIST,
        unit: T::KIND.name,
        allowed: T::KIND.allowed,
        example: T::KIND.example,
        reach: T::KIND.reach,
        fields: T::KIND.fields,
    };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let Value::List(items) = &node.value else {
            // A text with spaces may be one element or several.
            let words: Vec<String> = node.text().unwrap_or_default().split_whitespace().map(crate::load::quoted).collect();
            if words.len() > 1 {
                return Err(Wrong::kind(format!("expected a list in [ ], such as [{}]", words.join(", "))));
            }
            let mend = T::from_node(node, reader).is_ok().then(|| format!("[{}]", node.to_toml()));
            return Err(Wrong { mend, ..Wrong::kind("expected a list in [ ]") });
        };
        let one = |item| T::from_node(&*reader.resolved(item)?, reader).map_err(|wrong| wrong.within(item));
        items.iter().map(one).collect()
    }
}

/// A value that need not be set.
impl<T: OneValue> OneValue for Option<T> {
    const KIND: Kind = T::KIND;
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        T::from_node(node, reader).map(Some)
    }
}

/// Things of one kind, named by a person, in the order of the rice.
#[derive(Debug, Clone, PartialEq)]
pub struct Named<T>(pub Ordered<String, T>);

impl<T> Default for Named<T> {
    fn default() -> Self {
        Self(Ordered::default())
    }
}

impl<T> std::ops::Deref for Named<T> {
    type Target = Ordered<String, T>;
    fn deref(&self) -> &Self::Target {
        &self.0
    }
}

impl<T: Setting> Named<T> {
    /// Reads what a table holds beside its own fields.
    pub fn read_rest(reader: &mut Reader<'_>, at: &At<'_>, table: &Table) -> Self {
        let Some(branch) = at.tree.and_then(Tree::branch) else { return Self::default() };
        let own = branch.entries.keys().filter(|name| table.field(name).is_none());
        Self(own.map(|name| (name.clone(), T::read(reader, &at.field(name, None)))).collect())
    }
}

impl<T: Setting> Setting for Named<T> {
    const SHAPE: Shape = Shape::Named(Names::Chosen, &T::SHAPE);
    fn read(reader: &mut Reader<'_>, at: &At<'_>) -> Self {
        Self::read_rest(reader, at, &Table::NONE)
    }
}

/// Files that a rice places, by their destination.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Files<T>(pub Named<T>);

impl<T: Setting> Setting for Files<T> {
    const SHAPE: Shape = Shape::Named(Names::Files, &T::SHAPE);
    fn read(reader: &mut Reader<'_>, at: &At<'_>) -> Self {
        Self(Named::read_rest(reader, at, &Table::NONE))
    }
}

/// Reads a table that is one value, such as a program: each key once, unknown ones refused.
#[derive(Debug)]
pub struct Inline<'n> {
    entries: &'n [(String, Node)],
    known: &'static [InlineField],
}

impl<'n> Inline<'n> {
    /// The entries of a table, refused when a key is not in `known`.
    pub fn of(node: &'n Node, known: &'static [InlineField], expected: &str) -> Result<Self, Wrong> {
        let Value::Table(entries) = &node.value else { return Err(Wrong::kind(expected)) };
        if let Some((name, inner)) = entries.iter().find(|(name, _)| known.iter().all(|field| field.name != name)) {
            let names: Vec<&str> = known.iter().map(|field| field.name).collect();
            let near = super::trade_words::key_of(name, &names).or_else(|| nearest(name, names.iter().copied()));
            let note = near.map_or_else(
                || format!("known here: {}", crate::problem::in_words(&names)),
                |near| format!("did you mean {near}?"),
            );
            let mut wrong = Wrong::coded("setting/unknown", format!("there is no {name} here"), note);
            wrong.span = Some(inner.key);
            wrong.mend = near.map(str::to_owned);
            return Err(wrong);
        }
        Ok(Self { entries, known })
    }

    /// The node at a key.
    pub fn node(&self, name: &str) -> Option<&'n Node> {
        debug_assert!(self.known.iter().any(|field| field.name == name), "{name} is not among the known keys");
        self.entries.iter().find(|(other, _)| other == name).map(|(_, node)| node)
    }

    /// The value at a key, if it is set.
    pub fn get<T: OneValue>(&self, name: &str, reader: &Reader<'_>) -> Result<Option<T>, Wrong> {
        let one = |node| T::from_node(&*reader.resolved(node)?, reader).map_err(|wrong: Wrong| wrong.within(node));
        self.node(name).map(one).transpose()
    }
}
