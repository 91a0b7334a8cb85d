//! Widgets: what lies on the backdrop and shows values.

use super::bar::{Align, Press};
use super::catalogue::{Allowed, Kind, OneValue, Reach, named_value, settings};
use super::kinds::{Glob, Px, Whole};
use crate::bar::Pattern;
use crate::load::{Node, Reader, Value, Wrong};
use crate::problem::nearest;

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
    pub enum WidgetEach as "what there are several of" {
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
pub enum ToOther {
    /// At its right.
    Beside,
    /// Below it.
    Below,
    /// In its middle.
    Inside,
}

impl ToOther {
    /// All, with their words.
    pub const ALL: [(&'static str, ToOther); 3] =
        [("beside", ToOther::Beside), ("below", ToOther::Below), ("inside", ToOther::Inside)];
}

/// Where a widget lies.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum WidgetPlace {
    /// On the screen.
    Screen(Anchor),
    /// By another widget.
    By(ToOther, String),
}

impl Default for WidgetPlace {
    fn default() -> Self {
        WidgetPlace::Screen(Anchor::TopLeft)
    }
}

/// The words that a place of a widget may begin with.
pub(super) const PLACES: &[&str] = match Anchor::KIND.allowed {
    Allowed::OneOf(words) => words,
    _ => &[],
};

impl OneValue for WidgetPlace {
    const KIND: Kind = Kind {
        name: "place or widget",
        unit: "",
        allowed: Allowed::Any,
        example: "\"below clock\"",
        reach: Reach::Inside,
        fields: &[],
    };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let expected = || {
            let places = crate::problem::in_words(PLACES);
            Wrong::kind(format!("expected {places}; or \"below NAME\", \"beside NAME\", \"inside NAME\" of another widget"))
        };
        let text = node.text().ok_or_else(expected)?.trim();
        if let Ok(anchor) = Anchor::from_node(node, reader) {
            return Ok(WidgetPlace::Screen(anchor));
        }
        let words: Vec<&str> = text.split_whitespace().collect();
        if let [word, name] = words[..]
            && let Some((_, to)) = ToOther::ALL.iter().find(|(own, _)| *own == word)
        {
            return Ok(WidgetPlace::By(*to, name.to_owned()));
        }
        let near = nearest(text, PLACES.iter().copied());
        Err(Wrong { mend: near.map(crate::load::quoted), ..expected() })
    }
}

/// An end of what a widget measures: a number, or a field that holds one.
#[derive(Debug, Clone, PartialEq)]
pub enum End {
    /// A number.
    Number(f64),
    /// A field of the same value.
    Field(String),
}

impl Default for End {
    fn default() -> Self {
        End::Number(0.0)
    }
}

impl OneValue for End {
    const KIND: Kind =
        Kind { name: "number or field", unit: "", allowed: Allowed::Any, example: "40", reach: Reach::Inside, fields: &[] };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        match &node.value {
            Value::Whole(number) => Ok(End::Number(*number as f64)),
            Value::Real(number) if number.is_finite() => Ok(End::Number(*number)),
            Value::Text(field) if !field.is_empty() => Ok(End::Field(field.clone())),
            _ => Err(Wrong::kind("expected a number such as 100, or the name of a field such as \"total\"")),
        }
    }
}

/// How far something lies from where it would: to the right and down, in pixels.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Offset(pub i32, pub i32);

impl OneValue for Offset {
    const KIND: Kind =
        Kind { name: "two numbers", unit: "px", allowed: Allowed::Any, example: "[40, 24]", reach: Reach::Inside, fields: &[] };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let wrong = || Wrong::kind("expected pixels to the right and down, such as [40, 24], each from -8000 to 8000");
        let Value::List(items) = &node.value else { return Err(wrong()) };
        let number = |node: &Node| match node.value {
            Value::Whole(number @ -8000..=8000) => Ok(number as i32),
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
        from: End = 0,
        /// the value at which it is full, or the field that holds it
        to: End = 100,
        /// what it says; else what its module says
        /// "{used:bytes}"
        #[also = "widget text"]
        text: Option<Pattern>,
        /// its name, which stands by it
        #[also = "widget label, caption"]
        label: String = "",
        /// whether there is one for each core of the processor
        #[also = "per core, cores"]
        each: WidgetEach = "one",
        /// how many stand in a row where there are several
        columns: Whole<1, 64> = 4,
        /// where it lies: at a place of the screen, or beside, below or inside another widget
        #[also = "widget position, location"]
        at: WidgetPlace = "top-left",
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
        samples: Whole<2, 200> = 60,
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
        press: Press = {},
    }
}

impl Widget {
    /// The modules that it shows something of.
    pub fn modules(&self) -> impl Iterator<Item = &String> {
        let own = Some(&self.module).filter(|module| !module.is_empty());
        self.rows.iter().filter(|_| self.kind == WidgetKind::List).chain(own)
    }
}
