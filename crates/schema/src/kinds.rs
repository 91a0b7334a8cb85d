//! The kinds of values that settings share: whole numbers, lengths, durations, colours, texts, lists.

use std::time::Duration;

use jovrik_text::problem::nearest;
use jovrik_text::{Ordered, limits};
use jovrik_toml::{SpannedValue, TomlValue, ValueError};

use crate::catalogue::{
    AtomicSetting, Capability, InlineField, KeySyntax, Setting, SettingShape, SettingTable, ValueConstraint, ValueType,
};
use crate::{ReadCursor, SettingReader, Tree};

/// A type of which any value is allowed.
pub const fn kind(name: &'static str, unit: &'static str, example: &'static str) -> ValueType {
    ValueType { name, unit, allowed: ValueConstraint::Any, example, reach: Capability::None, fields: &[] }
}

/// A whole number of pixels from `MIN` to `MAX`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, PartialOrd, Ord)]
pub struct Px<const MIN: i64, const MAX: i64>(pub i32);

/// A whole number from `MIN` to `MAX`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, PartialOrd, Ord)]
pub struct Integer<const MIN: i64, const MAX: i64>(pub i64);

fn whole(node: &SpannedValue, min: i64, max: i64, what: &str) -> Result<i64, ValueError> {
    let expected = format!("expected {what} from {min} to {max}");
    match &node.value {
        TomlValue::Integer(number) if (min..=max).contains(number) => Ok(*number),
        TomlValue::Integer(_) => Err(ValueError::range(format!("{expected} here"))),
        TomlValue::String(text) => {
            let digits = text.trim().trim_end_matches("px").trim();
            let mend = digits.parse::<i64>().ok().filter(|number| (min..=max).contains(number));
            Err(ValueError {
                mend: mend.map(|number| number.to_string()),
                ..ValueError::kind(format!("{expected}, without quotes"))
            })
        }
        _ => Err(ValueError::kind(expected)),
    }
}

impl<const MIN: i64, const MAX: i64> AtomicSetting for Px<MIN, MAX> {
    const KIND: ValueType = ValueType {
        name: "pixels",
        unit: "px",
        allowed: ValueConstraint::Range(MIN, MAX),
        example: "",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        whole(node, MIN, MAX, "pixels").map(|number| Px(number as i32))
    }
}

impl<const MIN: i64, const MAX: i64> AtomicSetting for Integer<MIN, MAX> {
    const KIND: ValueType = ValueType {
        name: "whole number",
        unit: "",
        allowed: ValueConstraint::Range(MIN, MAX),
        example: "",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        whole(node, MIN, MAX, "a whole number").map(Integer)
    }
}

/// A font size in points, from 4 to 96.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Points(pub f32);

impl AtomicSetting for Points {
    const KIND: ValueType = ValueType {
        name: "font size",
        unit: "pt",
        allowed: ValueConstraint::Range(4, 96),
        example: "",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let size = match node.value {
            TomlValue::Integer(size) => size as f64,
            TomlValue::Float(size) => size,
            _ => return Err(ValueError::kind("expected a font size in points, from 4 to 96")),
        };
        if (4.0..=96.0).contains(&size) {
            Ok(Points(size as f32))
        } else {
            Err(ValueError::range("expected 4 to 96 points here"))
        }
    }
}

/// A weight from 0 to 100, kept in hundredths so that sums are exact.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Weight(pub i64);

impl AtomicSetting for Weight {
    const KIND: ValueType = ValueType {
        name: "number",
        unit: "",
        allowed: ValueConstraint::Range(0, 100),
        example: "",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let number = match node.value {
            TomlValue::Integer(number) => number as f64,
            TomlValue::Float(number) => number,
            _ => return Err(ValueError::kind("expected a number from 0 to 100")),
        };
        if (0.0..=100.0).contains(&number) {
            Ok(Weight((number * 100.0).round() as i64))
        } else {
            Err(ValueError::range("expected 0 to 100 here"))
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

impl AtomicSetting for Scale {
    const KIND: ValueType = kind("scale", "0.25 to 4", "1.5");
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let scale = match node.value {
            TomlValue::Integer(scale) => scale as f64,
            TomlValue::Float(scale) => scale,
            _ => return Err(ValueError::kind("expected a number from 0.25 to 4")),
        };
        if (0.25..=4.0).contains(&scale) { Ok(Scale(scale)) } else { Err(ValueError::range("expected 0.25 to 4 here")) }
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

impl AtomicSetting for Length {
    const KIND: ValueType = kind("length", "px, % or a fraction", "\"40%\"");
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = || ValueError::kind("expected pixels such as 400, or a part such as \"40%\" or \"1/3\"");
        match &node.value {
            TomlValue::Integer(px @ 0..=100_000) => Ok(Length::Px(*px as i32)),
            TomlValue::Integer(_) => Err(ValueError::range("expected 0 to 100000 pixels")),
            TomlValue::String(text) => match Length::parse(text).ok_or_else(expected)? {
                share if (0.01..=1.0).contains(&share) => Ok(Length::Share(share)),
                _ => Err(ValueError::range("expected 1% to 100%")),
            },
            // A part of one, as many write it.
            TomlValue::Float(part) if (0.01..=1.0).contains(part) => {
                let mend = Some(format!("\"{}%\"", (part * 100.0).round()));
                Err(ValueError { mend, ..expected() })
            }
            _ => Err(expected()),
        }
    }
}

/// A span of time, written with its unit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct TimeSpan(pub Duration);

impl TimeSpan {
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

impl AtomicSetting for TimeSpan {
    const KIND: ValueType = kind("duration", "with its unit", "\"1m30s\"");
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        match &node.value {
            TomlValue::String(text) => TimeSpan::parse(text)
                .map(TimeSpan)
                .ok_or_else(|| ValueError::kind("expected a time such as \"250ms\", \"2s\", \"5m\" or \"1h30m\"")),
            TomlValue::Integer(number) => Err(ValueError::kind(format!(
                "nobody knows its unit: \"{number}s\" for seconds, \"{number}ms\" for milliseconds"
            ))),
            _ => Err(ValueError::kind("expected a time such as \"2s\"")),
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

/// Colours by the names of what they are for.
pub trait ColourRoles: std::fmt::Debug {
    /// The colour of a role.
    fn role(&self, name: &str) -> Option<Colour>;
    /// The names of all roles.
    fn names(&self) -> &'static [&'static str];
}

impl AtomicSetting for Colour {
    const KIND: ValueType = kind("colour", "", "\"@calm/60%\"");
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected =
            || ValueError::kind("expected a CSS colour such as \"#74d4b1\", or a role such as \"@accent\" or \"@accent/40%\"");
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
            return Err(ValueError::coded(
                "palette/no-role",
                "a palette's colour cannot be a role",
                "write the colour itself here",
            ));
        };
        if !(0.0..=1.0).contains(&opacity) {
            return Err(ValueError::range("an opacity is 0% to 100%"));
        }
        match palette.role(role) {
            Some(colour) => Ok(colour.faded(opacity)),
            None => {
                let roles = palette.names();
                let near = nearest(role, roles.iter().copied());
                let note = match near {
                    Some(near) => format!("did you mean @{near}?"),
                    None => format!("the roles are {}", jovrik_text::problem::in_words(roles)),
                };
                let mend = near.map(|near| jovrik_toml::quoted(&text.replacen(role, near, 1)));
                Err(ValueError { mend, ..ValueError::coded("palette/no-role", format!("no palette has the role @{role}"), note) })
            }
        }
    }
}

impl AtomicSetting for bool {
    const KIND: ValueType = ValueType {
        name: "true or false",
        unit: "",
        allowed: ValueConstraint::OneOf(&["true", "false"]),
        example: "",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        match &node.value {
            TomlValue::Boolean(truth) => Ok(*truth),
            TomlValue::String(text) if matches!(text.as_str(), "true" | "false") => {
                Err(ValueError { mend: Some(text.clone()), ..ValueError::kind("expected true or false, without quotes") })
            }
            _ => Err(ValueError::kind("expected true or false")),
        }
    }
}

impl AtomicSetting for String {
    const KIND: ValueType = kind("text", "", "\"tide\"");
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let Some(text) = node.text() else {
            let mend = match &node.value {
                TomlValue::Integer(_) | TomlValue::Float(_) | TomlValue::Boolean(_) => Some(jovrik_toml::quoted(&node.to_toml())),
                _ => None,
            };
            return Err(ValueError { mend, ..ValueError::kind("expected a text in quotes") });
        };
        if text.len() > limits::SETTING_TEXT {
            return Err(ValueError::range(format!("a text has at most {} KiB", limits::SETTING_TEXT / 1024)));
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

impl AtomicSetting for Glob {
    const KIND: ValueType = kind("pattern", "", "\"DP-*\"");
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        node.text().map(|text| Glob(text.to_owned())).ok_or_else(|| ValueError::kind("expected a pattern such as \"DP-*\""))
    }
}

/// A list of one kind.
impl<T: AtomicSetting> AtomicSetting for Vec<T> {
    const KIND: ValueType = ValueType {
        name: ValueType::LIST,
        unit: T::KIND.name,
        allowed: T::KIND.allowed,
        example: T::KIND.example,
        reach: T::KIND.reach,
        fields: T::KIND.fields,
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let TomlValue::Array(items) = &node.value else {
            // A text with spaces may be one element or several.
            let words: Vec<String> = node.text().unwrap_or_default().split_whitespace().map(jovrik_toml::quoted).collect();
            if words.len() > 1 {
                return Err(ValueError::kind(format!("expected a list in [ ], such as [{}]", words.join(", "))));
            }
            let mend = T::from_node(node, reader).is_ok().then(|| format!("[{}]", node.to_toml()));
            return Err(ValueError { mend, ..ValueError::kind("expected a list in [ ]") });
        };
        let one = |item| T::from_node(&*reader.resolved(item)?, reader).map_err(|wrong| wrong.within(item));
        items.iter().map(one).collect()
    }
}

/// A value that need not be set.
impl<T: AtomicSetting> AtomicSetting for Option<T> {
    const KIND: ValueType = T::KIND;
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        T::from_node(node, reader).map(Some)
    }
}

/// Things of one kind, named by a person, in the order of the rice.
#[derive(Debug, Clone, PartialEq)]
pub struct NamedMap<T>(pub Ordered<String, T>);

impl<T> Default for NamedMap<T> {
    fn default() -> Self {
        Self(Ordered::default())
    }
}

impl<T> std::ops::Deref for NamedMap<T> {
    type Target = Ordered<String, T>;
    fn deref(&self) -> &Self::Target {
        &self.0
    }
}

impl<T: Setting> NamedMap<T> {
    /// Reads what a table holds beside its own fields.
    pub fn read_rest(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>, table: &SettingTable) -> Self {
        let Some(branch) = at.tree.and_then(Tree::branch) else { return Self::default() };
        let own = branch.entries.keys().filter(|name| table.field(name).is_none());
        Self(own.map(|name| (name.clone(), T::read(reader, &at.field(name, None)))).collect())
    }
}

impl<T: Setting> Setting for NamedMap<T> {
    const SHAPE: SettingShape = SettingShape::Named(KeySyntax::Chosen, &T::SHAPE);
    fn read(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>) -> Self {
        Self::read_rest(reader, at, &SettingTable::NONE)
    }
}

/// Files that a rice places, by their destination.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct PathMap<T>(pub NamedMap<T>);

impl<T: Setting> Setting for PathMap<T> {
    const SHAPE: SettingShape = SettingShape::Named(KeySyntax::Files, &T::SHAPE);
    fn read(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>) -> Self {
        Self(NamedMap::read_rest(reader, at, &SettingTable::NONE))
    }
}

/// Reads a table that is one value, such as a program: each key once, unknown ones refused.
#[derive(Debug)]
pub struct InlineTable<'n> {
    entries: &'n [(String, SpannedValue)],
    known: &'static [InlineField],
}

impl<'n> InlineTable<'n> {
    /// The entries of a table, refused when a key is not in `known`.
    pub fn of(node: &'n SpannedValue, known: &'static [InlineField], expected: &str) -> Result<Self, ValueError> {
        let TomlValue::Table(entries) = &node.value else { return Err(ValueError::kind(expected)) };
        if let Some((name, inner)) = entries.iter().find(|(name, _)| known.iter().all(|field| field.name != name)) {
            let names: Vec<&str> = known.iter().map(|field| field.name).collect();
            let near = jovrik_text::trade_words::key_of(name, &names).or_else(|| nearest(name, names.iter().copied()));
            let note = near.map_or_else(
                || format!("known here: {}", jovrik_text::problem::in_words(&names)),
                |near| format!("did you mean {near}?"),
            );
            let mut wrong = ValueError::coded("setting/unknown", format!("there is no {name} here"), note);
            wrong.span = Some(inner.key);
            wrong.mend = near.map(str::to_owned);
            return Err(wrong);
        }
        Ok(Self { entries, known })
    }

    /// The node at a key.
    pub fn node(&self, name: &str) -> Option<&'n SpannedValue> {
        debug_assert!(self.known.iter().any(|field| field.name == name), "{name} is not among the known keys");
        self.entries.iter().find(|(other, _)| other == name).map(|(_, node)| node)
    }

    /// The value at a key, if it is set.
    pub fn get<T: AtomicSetting>(&self, name: &str, reader: &SettingReader<'_>) -> Result<Option<T>, ValueError> {
        let one = |node| T::from_node(&*reader.resolved(node)?, reader).map_err(|wrong: ValueError| wrong.within(node));
        self.node(name).map(one).transpose()
    }
}
