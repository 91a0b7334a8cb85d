//! Widgets: what lies on the backdrop and shows values.

use jovrik_schema::catalogue::{AtomicSetting, Capability, ValueConstraint, ValueType};
use jovrik_schema::{Glob, Integer, Px, SettingReader, named_value, settings};
use jovrik_text::problem::nearest;
use jovrik_toml::{SpannedValue, TomlValue, ValueError};
use jovrik_values::{Align, Pattern};

use super::bar::ButtonActions;

named_value! {
    /// What a widget is.
    pub enum WidgetKind as "kind of widget" {
        /// A text.
        Text = "text",
        /// Large figures, such as those of the time.
        Clock = "clock",
        /// An arc that fills, with what it says in its middle.
        Ring = "ring",
        /// A line that fills, below what it says.
        Meter = "meter",
        /// A line of values, the latest at its end.
        Graph = "graph",
        /// Names and what they say, row by row.
        List = "list",
        /// A picture.
        Picture = "picture",
    }
}

named_value! {
    /// What there is one ring or meter for.
    pub enum WidgetRepeat as "what there are several of" {
        /// One for all.
        One = "one",
        /// One for each core of the processor.
        Core = "core",
    }
}

named_value! {
    /// A place on a screen.
    pub enum Anchor as "place on the screen" {
        /// Above, at the left.
        TopLeft = "top-left",
        /// Above, in the middle.
        Top = "top",
        /// Above, at the right.
        TopRight = "top-right",
        /// At the left, half way down.
        Left = "left",
        /// In the middle.
        Middle = "middle",
        /// At the right, half way down.
        Right = "right",
        /// Below, at the left.
        BottomLeft = "bottom-left",
        /// Below, in the middle.
        Bottom = "bottom",
        /// Below, at the right.
        BottomRight = "bottom-right",
    }
}

impl Anchor {
    /// Which part of the room that is left over lies before it: at its left, and above it.
    pub fn shares(self) -> (f32, f32) {
        let across = match self {
            Anchor::TopLeft | Anchor::Left | Anchor::BottomLeft => 0.0,
            Anchor::Top | Anchor::Middle | Anchor::Bottom => 0.5,
            Anchor::TopRight | Anchor::Right | Anchor::BottomRight => 1.0,
        };
        let down = match self {
            Anchor::TopLeft | Anchor::Top | Anchor::TopRight => 0.0,
            Anchor::Left | Anchor::Middle | Anchor::Right => 0.5,
            Anchor::BottomLeft | Anchor::Bottom | Anchor::BottomRight => 1.0,
        };
        (across, down)
    }
}

/// How a widget lies to another one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum RelativePosition {
    /// At its right.
    Beside,
    /// Below it.
    Below,
    /// In its middle.
    Inside,
}

impl RelativePosition {
    /// All, with their words.
    pub const ALL: [(&'static str, RelativePosition); 3] =
        [("beside", RelativePosition::Beside), ("below", RelativePosition::Below), ("inside", RelativePosition::Inside)];
}

/// Where a widget lies.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum WidgetPosition {
    /// On the screen.
    Screen(Anchor),
    /// By another widget.
    By(RelativePosition, String),
}

impl Default for WidgetPosition {
    fn default() -> Self {
        WidgetPosition::Screen(Anchor::TopLeft)
    }
}

/// The words that a place of a widget may begin with.
pub(super) const PLACES: &[&str] = match Anchor::KIND.allowed {
    ValueConstraint::OneOf(words) => words,
    _ => &[],
};

impl AtomicSetting for WidgetPosition {
    const KIND: ValueType = ValueType {
        name: "place or widget",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"below clock\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = || {
            let places = jovrik_text::problem::in_words(PLACES);
            ValueError::kind(format!("expected {places}; or \"below NAME\", \"beside NAME\", \"inside NAME\" of another widget"))
        };
        let text = node.text().ok_or_else(expected)?.trim();
        if let Ok(anchor) = Anchor::from_node(node, reader) {
            return Ok(WidgetPosition::Screen(anchor));
        }
        let words: Vec<&str> = text.split_whitespace().collect();
        if let [word, name] = words[..]
            && let Some((_, to)) = RelativePosition::ALL.iter().find(|(own, _)| *own == word)
        {
            return Ok(WidgetPosition::By(*to, name.to_owned()));
        }
        let near = nearest(text, PLACES.iter().copied());
        Err(ValueError { mend: near.map(jovrik_toml::quoted), ..expected() })
    }
}

/// An end of what a widget measures: a number, or a field that holds one.
#[derive(Debug, Clone, PartialEq)]
pub enum ScaleBound {
    /// A number.
    Number(f64),
    /// A field of the same value.
    Field(String),
}

impl Default for ScaleBound {
    fn default() -> Self {
        ScaleBound::Number(0.0)
    }
}

impl AtomicSetting for ScaleBound {
    const KIND: ValueType = ValueType {
        name: "number or field",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "40",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        match &node.value {
            TomlValue::Integer(number) => Ok(ScaleBound::Number(*number as f64)),
            TomlValue::Float(number) if number.is_finite() => Ok(ScaleBound::Number(*number)),
            TomlValue::String(field) if !field.is_empty() => Ok(ScaleBound::Field(field.clone())),
            _ => Err(ValueError::kind("expected a number such as 100, or the name of a field such as \"total\"")),
        }
    }
}

/// How far something lies from where it would: to the right and down, in pixels.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Offset(pub i32, pub i32);

impl AtomicSetting for Offset {
    const KIND: ValueType = ValueType {
        name: "two numbers",
        unit: "px",
        allowed: ValueConstraint::Any,
        example: "[40, 24]",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let wrong = || ValueError::kind("expected pixels to the right and down, such as [40, 24], each from -8000 to 8000");
        let TomlValue::Array(items) = &node.value else { return Err(wrong()) };
        let number = |node: &SpannedValue| match node.value {
            TomlValue::Integer(number @ -8000..=8000) => Ok(number as i32),
            _ => Err(wrong().within(node)),
        };
        let [x, y] = items.as_slice() else { return Err(wrong()) };
        Ok(Offset(number(x)?, number(y)?))
    }
}

settings! {
    /// something that lies on the backdrop, below all windows
    pub struct Widget {
        /// what it is
        #[also = "widget type, desktop clock, gauges, system monitor"]
        kind: WidgetKind = "text",
        /// the module that it shows; one of the time is found where none is named for a clock
        /// "cpu"
        #[also = "widget source, widget value"]
        module: String = "",
        /// the modules that a list shows, in order
        rows: Vec<String> = [],
        /// the field that is drawn; else the first of percent, load, level, degrees and value that its module has
        field: String = "",
        /// the value at which it is empty, or the field that holds it
        from: ScaleBound = 0,
        /// the value at which it is full, or the field that holds it
        to: ScaleBound = 100,
        /// what it says; else what its module says
        /// "{used:bytes}"
        #[also = "widget text"]
        text: Option<Pattern>,
        /// its name, which stands by it
        #[also = "widget label, caption"]
        label: String = "",
        /// whether there is one for each core of the processor
        #[also = "per core, cores"]
        each: WidgetRepeat = "one",
        /// how many stand in a row where there are several
        columns: Integer<1, 64> = 4,
        /// where it lies: at a place of the screen, or beside, below or inside another widget
        #[also = "widget position, location"]
        at: WidgetPosition = "top-left",
        /// how it stands along the edge of the screen or of the other widget
        align: Align = "start",
        /// how far from there it lies: to the right, and down
        #[also = "widget margin, offset"]
        offset: Offset = [0, 0],
        /// how wide it is; 0: as it needs
        #[also = "widget size, diameter"]
        width: Px<0, 4000> = 0,
        /// how high it is; 0: as it needs
        height: Px<0, 4000> = 0,
        /// the picture that it shows, in the folder of the rice
        /// "art/gauge.png"
        picture: String = "",
        /// how many values a graph shows
        #[also = "graph length, history"]
        samples: Integer<2, 200> = 60,
        /// whether a graph goes on where it was after a restart
        remember: bool = false,
        /// what stands along the foot of a graph, from its start to its end
        ticks: Vec<String> = [],
        /// the field that says how far along a graph a mark stands, from 0 to 100
        mark: String = "",
        /// the monitors it is on, by name
        monitor: Glob = "*",
        /// the workspaces that it is seen on, by name
        workspace: Glob = "*",
        /// what pressing it does; without that, presses go through
        #[also = "widget click"]
        press: ButtonActions = {},
    }
}

impl Widget {
    /// The modules that it shows something of.
    pub fn modules(&self) -> impl Iterator<Item = &String> {
        let own = Some(&self.module).filter(|module| !module.is_empty());
        self.rows.iter().filter(|_| self.kind == WidgetKind::List).chain(own)
    }
}
