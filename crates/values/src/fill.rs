//! What boxes are drawn with: fills, lines, corners, sides.

use jovrik_schema::catalogue::{AtomicSetting, Capability, InlineField, ValueConstraint, ValueType};
use jovrik_schema::{Colour, InlineTable, SettingReader, named_value};
use jovrik_toml::{SpannedValue, TomlValue, ValueError};

/// Colours along a straight line, by CSS (Images 3, 3.1).
#[derive(Debug, Clone, PartialEq)]
pub struct Gradient {
    /// Where it goes, in degrees: 0 is upwards, 90 to the right.
    pub angle: f32,
    /// Colours with their places from 0 to 1, in order; at least two.
    pub stops: Vec<(f32, Colour)>,
}

/// A colour, or colours along a line.
#[derive(Debug, Clone, PartialEq)]
pub enum Fill {
    /// One colour.
    Plain(Colour),
    /// A linear gradient.
    Gradient(Gradient),
}

impl Default for Fill {
    fn default() -> Self {
        Fill::Plain(Colour::default())
    }
}

impl From<Colour> for Fill {
    fn from(colour: Colour) -> Self {
        Fill::Plain(colour)
    }
}

impl Fill {
    /// Nothing is drawn.
    pub const NONE: Fill = Fill::Plain(Colour { r: 0, g: 0, b: 0, a: 0 });

    /// Its colours, with their places from 0 to 1.
    pub fn colours(&self) -> Vec<(f32, Colour)> {
        match self {
            Fill::Plain(colour) => vec![(0.0, *colour)],
            Fill::Gradient(gradient) => gradient.stops.clone(),
        }
    }

    /// Whether nothing below it shows through.
    pub fn covers(&self) -> bool {
        self.colours().iter().all(|(_, colour)| colour.a == 255)
    }

    /// Whether nothing of it is seen.
    pub fn is_none(&self) -> bool {
        self.colours().iter().all(|(_, colour)| colour.a == 0)
    }

    /// The same, times an opacity from 0 to 1.
    #[must_use]
    pub fn faded(&self, opacity: f32) -> Fill {
        match self {
            Fill::Plain(colour) => Fill::Plain(colour.faded(opacity)),
            Fill::Gradient(Gradient { angle, stops }) => {
                let stops = stops.iter().map(|(at, colour)| (*at, colour.faded(opacity))).collect();
                Fill::Gradient(Gradient { angle: *angle, stops })
            }
        }
    }

    fn gradient(arguments: &str, node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Fill, ValueError> {
        let expected = || {
            ValueError::kind(
                "expected linear-gradient(ANGLE, COLOUR, COLOUR, …), such as \"linear-gradient(45deg, @accent, @calm)\"",
            )
        };
        let mut pieces = top_level(arguments).into_iter().peekable();
        let angle = pieces.peek().and_then(|first| angle(first));
        if angle.is_some() {
            pieces.next();
        }
        let mut stops: Vec<(Option<f32>, Colour)> = Vec::new();
        for piece in pieces {
            let (colour, at) = match piece.rsplit_once(char::is_whitespace) {
                Some((colour, place)) if place.ends_with('%') && !colour.trim().is_empty() => {
                    let place: f32 = place.trim_end_matches('%').parse().map_err(|_| expected())?;
                    (colour.trim(), Some(place / 100.0))
                }
                _ => (piece, None),
            };
            if at.is_some_and(|at| !(0.0..=1.0).contains(&at)) {
                return Err(ValueError::range("a colour's place is 0% to 100%"));
            }
            let text = SpannedValue { value: TomlValue::String(colour.to_owned()), ..node.clone() };
            // The correction of one colour is not that of the whole text.
            stops.push((at, Colour::from_node(&text, reader).map_err(|wrong| ValueError { mend: None, ..wrong })?));
        }
        if stops.len() < 2 {
            return Err(expected());
        }
        Ok(Fill::Gradient(Gradient { angle: angle.unwrap_or(180.0), stops: spread(stops) }))
    }
}

/// Splits at the commas that are not inside of brackets.
fn top_level(text: &str) -> Vec<&str> {
    let (mut depth, mut from, mut pieces) = (0_i32, 0, Vec::new());
    for (at, c) in text.char_indices() {
        match c {
            '(' => depth += 1,
            ')' => depth -= 1,
            ',' if depth == 0 => {
                pieces.push(text[from..at].trim());
                from = at + 1;
            }
            _ => {}
        }
    }
    pieces.push(text[from..].trim());
    pieces
}

fn angle(text: &str) -> Option<f32> {
    let to = |sides: &str| {
        Some(match sides.split_whitespace().collect::<Vec<_>>().as_slice() {
            ["top"] => 0.0,
            ["right"] => 90.0,
            ["bottom"] => 180.0,
            ["left"] => 270.0,
            _ => return None,
        })
    };
    if let Some(sides) = text.strip_prefix("to ") {
        return to(sides);
    }
    let number = |unit: &str, full: f32| text.strip_suffix(unit)?.trim().parse::<f32>().ok().map(|n| n / full * 360.0);
    let degrees = number("deg", 360.0).or_else(|| number("turn", 1.0))?;
    degrees.is_finite().then(|| degrees.rem_euclid(360.0))
}

/// Places for those that have none, evenly between their neighbours; never backwards (CSS Images 3, 3.4.3).
fn spread(stops: Vec<(Option<f32>, Colour)>) -> Vec<(f32, Colour)> {
    let mut places: Vec<Option<f32>> = stops.iter().map(|(at, _)| *at).collect();
    let last = places.len() - 1;
    places[0].get_or_insert(0.0);
    places[last].get_or_insert(1.0);
    let mut most = 0.0_f32;
    for place in places.iter_mut().flatten() {
        most = most.max(*place);
        *place = most;
    }
    let known: Vec<(usize, f32)> = places.iter().enumerate().filter_map(|(at, place)| Some((at, (*place)?))).collect();
    let between = |at: usize| {
        let after = known.iter().find(|(other, _)| *other >= at);
        let before = known.iter().rev().find(|(other, _)| *other <= at);
        match (before, after) {
            (Some((a, from)), Some((b, to))) if b > a => from + (to - from) * (at - a) as f32 / (b - a) as f32,
            (Some((_, place)), _) | (None, Some((_, place))) => *place,
            (None, None) => 0.0,
        }
    };
    stops.into_iter().enumerate().map(|(at, (_, colour))| (between(at), colour)).collect()
}

impl AtomicSetting for Fill {
    const KIND: ValueType = ValueType {
        name: "fill",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"linear-gradient(90deg, @raise, @paper)\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        match node.text().map(str::trim) {
            Some("none") => Ok(Fill::NONE),
            Some(text) => match text.strip_prefix("linear-gradient(").and_then(|rest| rest.strip_suffix(')')) {
                Some(arguments) => Fill::gradient(arguments, node, reader),
                None => Colour::from_node(node, reader).map(Fill::Plain).map_err(|wrong| match wrong.code {
                    "setting/type" => ValueError { note: format!("{}; a gradient goes, too", wrong.note), ..wrong },
                    _ => wrong,
                }),
            },
            None => Err(ValueError::kind("expected a colour such as \"@raise\", or \"linear-gradient(90deg, @raise, @paper)\"")),
        }
    }
}

named_value! {
    /// Which sides a line runs along.
    pub enum BorderSides as "sides" {
        /// All round.
        All = "all",
        /// Only towards the middle of the screen.
        Inner = "inner",
    }
}

/// A line along the edge of a box, inside of it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct BorderStyle {
    /// How thick it is, in pixels.
    pub width: i32,
    /// What it is drawn with.
    pub fill: Fill,
    /// Where it runs.
    pub at: BorderSides,
}

impl AtomicSetting for BorderStyle {
    const KIND: ValueType = ValueType {
        name: "line",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ width = 1, fill = \"@line\" }",
        reach: Capability::None,
        fields: &[
            InlineField::new("width", "how thick it is", &jovrik_schema::Px::<0, 64>::KIND),
            InlineField::new("fill", "what it is drawn with", &Fill::KIND).such("\"@line\""),
            InlineField::new("at", "where it runs", &BorderSides::KIND),
        ],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let TomlValue::Table(_) = &node.value else {
            let fill = Fill::from_node(node, reader)?;
            let width = i32::from(!fill.is_none());
            return Ok(BorderStyle { width, fill, at: BorderSides::All });
        };
        let expected = "expected a colour, or { width = 1, fill = \"@line\", at = \"inner\" }";
        let inline = InlineTable::of(node, Self::KIND.fields, expected)?;
        Ok(BorderStyle {
            width: inline.get::<jovrik_schema::Px<0, 64>>("width", reader)?.map_or(1, |width| width.0),
            fill: inline.get("fill", reader)?.ok_or_else(|| ValueError::kind("fill = \"@line\" is missing"))?,
            at: inline.get("at", reader)?.unwrap_or_default(),
        })
    }
}

/// The numbers of a list, each in a range; or one number.
fn numbers(node: &SpannedValue, most: i64, counts: &[usize], expected: &str) -> Result<Vec<i32>, ValueError> {
    let one = |node: &SpannedValue| match node.value {
        TomlValue::Integer(number) if (0..=most).contains(&number) => Ok(number as i32),
        TomlValue::Integer(_) => Err(ValueError::range(format!("expected 0 to {most} pixels")).within(node)),
        _ => Err(ValueError::kind(expected).within(node)),
    };
    match &node.value {
        TomlValue::Array(items) if counts.contains(&items.len()) => items.iter().map(one).collect(),
        TomlValue::Array(_) => Err(ValueError::kind(expected)),
        _ => one(node).map(|number| vec![number]),
    }
}

/// How round each corner is, in pixels: top left, top right, bottom right, bottom left.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Corners(pub [i32; 4]);

impl AtomicSetting for Corners {
    const KIND: ValueType = ValueType {
        name: "corners",
        unit: "px",
        allowed: ValueConstraint::Any,
        example: "[8, 8, 0, 0]",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = "expected one number, or four: [top-left, top-right, bottom-right, bottom-left]";
        let list = numbers(node, 200, &[4], expected)?;
        Ok(Corners(match list[..] {
            [a, b, c, d] => [a, b, c, d],
            _ => [list[0]; 4],
        }))
    }
}

/// Widths at the four sides of a box, in pixels.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Sides {
    /// Above.
    pub top: i32,
    /// At the right.
    pub right: i32,
    /// Below.
    pub bottom: i32,
    /// At the left.
    pub left: i32,
}

impl AtomicSetting for Sides {
    const KIND: ValueType = ValueType {
        name: "sides",
        unit: "px",
        allowed: ValueConstraint::Any,
        example: "[4, 12]",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = "expected one number, or [vertical, horizontal], or [top, right, bottom, left]";
        let list = numbers(node, 1000, &[2, 4], expected)?;
        Ok(match list[..] {
            [top, right, bottom, left] => Sides { top, right, bottom, left },
            [vertical, across] => Sides { top: vertical, right: across, bottom: vertical, left: across },
            _ => Sides { top: list[0], right: list[0], bottom: list[0], left: list[0] },
        })
    }
}

/// How much covers, from 0 to 1.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Opacity(pub f32);

impl Default for Opacity {
    fn default() -> Self {
        Opacity(1.0)
    }
}

impl AtomicSetting for Opacity {
    const KIND: ValueType = ValueType {
        name: "opacity",
        unit: "0% to 100%",
        allowed: ValueConstraint::Any,
        example: "\"85%\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = || ValueError::kind("expected an opacity such as \"85%\"");
        let percent = node.text().and_then(|text| text.trim().strip_suffix('%')).ok_or_else(expected)?;
        let part = percent.trim().parse::<f32>().map_err(|_| expected())? / 100.0;
        if (0.0..=1.0).contains(&part) { Ok(Opacity(part)) } else { Err(ValueError::range("expected 0% to 100%")) }
    }
}
