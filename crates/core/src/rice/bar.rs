//! Bars and their modules.

use indexmap::IndexMap;

use super::catalogue::{Allowed, Kind, OneValue, named_value, settings};
use super::kinds::{Glob, Inline, Px, Span, Weight, Whole};
use crate::bar::Pattern;
use crate::desk::Action;
use crate::load::{Node, Reader, Value, Wrong};
use crate::problem::nearest;

named_value! {
    /// The edge a bar lies at.
    pub enum Edge as "edge" {
        /// Top.
        Top = "top",
        /// Bottom.
        Bottom = "bottom",
    }
}

settings! {
    /// a bar
    pub struct Bar {
        /// the edge it lies at
        edge: Edge = "top",
        /// the monitors it is on, by name
        monitor: Glob = "*",
        /// how thick it is
        thick: Px<8, 200> = 32,
        /// the modules at its start
        start: Vec<String> = [],
        /// the modules in its middle
        middle: Vec<String> = [],
        /// the modules at its end
        end: Vec<String> = [],
        /// free sections, instead of start, middle and end
        sections: Vec<Section> = [] => Later,
    }
}

/// Where a module's values come from.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum SourceKind {
    /// Nothing: a text that stands still.
    #[default]
    None,
    /// Marks of the workspaces.
    Workspaces,
    /// The layout, as a small drawing.
    Layout,
    /// The title of the focused window.
    Title,
    /// The clock.
    Time,
    /// How busy the processor is.
    Cpu,
    /// How full the memory is.
    Memory,
    /// What a program prints.
    Run(Vec<String>),
}

impl SourceKind {
    /// The words of the built-in kinds.
    pub const WORDS: &'static [&'static str] = &["workspaces", "layout", "title", "time", "cpu", "memory"];

    fn parse(word: &str) -> Option<SourceKind> {
        Some(match word {
            "workspaces" => SourceKind::Workspaces,
            "layout" => SourceKind::Layout,
            "title" => SourceKind::Title,
            "time" => SourceKind::Time,
            "cpu" => SourceKind::Cpu,
            "memory" => SourceKind::Memory,
            _ => return None,
        })
    }

    /// The fields that its text pattern may name; `None` when they depend on what a program prints.
    pub fn fields(&self) -> Option<&'static [&'static str]> {
        match self {
            SourceKind::None => None,
            SourceKind::Workspaces | SourceKind::Layout => Some(&["name"]),
            SourceKind::Title => Some(&["title", "app"]),
            SourceKind::Time => Some(&["time"]),
            SourceKind::Cpu => Some(&["load"]),
            SourceKind::Memory => Some(&["used", "total", "percent"]),
            SourceKind::Run(_) => None,
        }
    }
}

/// A source with its times.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ModuleSource {
    /// Where the values come from.
    pub kind: SourceKind,
    /// How often it is asked; zero: when something happens.
    pub every: Span,
    /// How long a program may take.
    pub within: Span,
}

impl Default for ModuleSource {
    fn default() -> Self {
        Self::of(SourceKind::None)
    }
}

impl ModuleSource {
    fn of(kind: SourceKind) -> Self {
        let millis = match kind {
            SourceKind::Time => 1000,
            SourceKind::Cpu | SourceKind::Memory => 2000,
            SourceKind::Run(_) => 60_000,
            _ => 0,
        };
        let every = Span(std::time::Duration::from_millis(millis));
        Self { kind, every, within: Span(std::time::Duration::from_secs(5)) }
    }
}

impl OneValue for ModuleSource {
    const KIND: Kind = Kind {
        name: "source",
        unit: "",
        allowed: Allowed::OneOf(SourceKind::WORDS),
        example: "{ kind = \"cpu\", every = \"2s\" }",
    };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let unknown = |node: &Node, word: &str| {
            let near = nearest(word, SourceKind::WORDS.iter().copied());
            let list = crate::problem::in_words(SourceKind::WORDS);
            let note = near.map_or_else(
                || format!("the sources are {list}, or run = [\"program\"]"),
                |near| format!("did you mean {near}?"),
            );
            let wrong = Wrong {
                mend: near.map(crate::load::quoted),
                ..Wrong::coded("module/unknown-source", format!("there is no source {word}"), note)
            };
            wrong.within(node)
        };
        if let Value::Text(word) = &node.value {
            return SourceKind::parse(word).map(Self::of).ok_or_else(|| unknown(node, word));
        }
        let expected =
            "expected a source's name, or { kind = \"cpu\", every = \"2s\" }, or { run = [\"program\"], every = \"1m\" }";
        let inline = Inline::of(node, &["kind", "run", "every", "within"], expected)?;
        let run: Option<Vec<String>> = inline.get("run", reader)?;
        let kind = match (run, inline.node("kind")) {
            (Some(argv), None) if !argv.is_empty() => SourceKind::Run(argv),
            (Some(_), None) => return Err(Wrong::kind("run names no program")),
            (None, Some(word)) => {
                let text = word.text().ok_or_else(|| Wrong::kind("expected a source's name").within(word))?;
                SourceKind::parse(text).ok_or_else(|| unknown(word, text))?
            }
            _ => return Err(Wrong::kind("expected either kind or run")),
        };
        let mut source = Self::of(kind);
        if let Some(every) = inline.get::<Span>("every", reader)? {
            if every.0 < std::time::Duration::from_millis(50) {
                return Err(inline
                    .node("every")
                    .map_or_else(|| Wrong::range(""), |node| Wrong::range("the shortest is 50ms").within(node)));
            }
            source.every = every;
        }
        if let Some(within) = inline.get::<Span>("within", reader)? {
            source.within = within;
        }
        Ok(source)
    }
}

/// Fields picked out of JSON by pointers (RFC 6901).
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Pick(pub IndexMap<String, String>);

impl OneValue for Pick {
    const KIND: Kind =
        Kind { name: "table of JSON pointers", unit: "", allowed: Allowed::Any, example: "{ level = \"/station/level\" }" };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let expected = || Wrong::kind("expected { field = \"/json/pointer\" }");
        let Value::Table(entries) = &node.value else { return Err(expected()) };
        let pointer = |(name, node): &(String, Node)| match node.text() {
            Some(pointer) if pointer.is_empty() || pointer.starts_with('/') => Ok((name.clone(), pointer.to_owned())),
            _ => Err(expected().within(node)),
        };
        entries.iter().map(pointer).collect::<Result<_, _>>().map(Pick)
    }
}

/// A comparison.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Compare {
    /// `<`
    Less,
    /// `<=`
    AtMost,
    /// `>`
    More,
    /// `>=`
    AtLeast,
    /// `=`
    Equal,
}

impl Compare {
    /// The signs, the longer ones first.
    const SIGNS: [(&str, Compare); 5] =
        [("<=", Compare::AtMost), (">=", Compare::AtLeast), ("<", Compare::Less), (">", Compare::More), ("=", Compare::Equal)];
}

/// A comparison with a number: `>= 80`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Comparison {
    /// How it is compared.
    pub compare: Compare,
    /// With what.
    pub value: f64,
}

impl Default for Comparison {
    fn default() -> Self {
        Self { compare: Compare::Equal, value: 0.0 }
    }
}

impl Comparison {
    /// Reads `>= 80`; what stands before the sign is handed back.
    fn parse(text: &str) -> Option<(&str, Comparison)> {
        let (at, sign, compare) =
            Compare::SIGNS.into_iter().find_map(|(sign, compare)| text.find(sign).map(|at| (at, sign, compare)))?;
        let value = text[at + sign.len()..].trim().trim_end_matches('%').trim().parse().ok()?;
        Some((text[..at].trim(), Comparison { compare, value }))
    }

    /// Whether a number meets it.
    pub fn holds(&self, number: f64) -> bool {
        match self.compare {
            Compare::Less => number < self.value,
            Compare::AtMost => number <= self.value,
            Compare::More => number > self.value,
            Compare::AtLeast => number >= self.value,
            Compare::Equal => (number - self.value).abs() < f64::EPSILON,
        }
    }
}

impl std::fmt::Display for Comparison {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let sign = Compare::SIGNS.iter().find(|(_, compare)| *compare == self.compare).map_or("", |(sign, _)| sign);
        match self.compare {
            Compare::Equal => write!(f, "{}", self.value),
            _ => write!(f, "{sign} {}", self.value),
        }
    }
}

impl OneValue for Comparison {
    const KIND: Kind = Kind { name: "comparison", unit: "", allowed: Allowed::Any, example: "\">= 4\"" };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let expected = || Wrong::kind("expected a number, or a comparison such as \"< 1000\" or \">= 4\"");
        match &node.value {
            Value::Whole(number) => Ok(Comparison { compare: Compare::Equal, value: *number as f64 }),
            Value::Text(text) => match Comparison::parse(text) {
                Some(("", comparison)) => Ok(comparison),
                _ => Err(expected()),
            },
            _ => Err(expected()),
        }
    }
}

/// A comparison of a field with a number: `load >= 80`.
#[derive(Debug, Clone, PartialEq)]
pub struct Condition {
    /// The field.
    pub field: String,
    /// What it is compared with, and how.
    pub is: Comparison,
}

impl Condition {
    /// Reads `load >= 80`.
    pub fn parse(text: &str) -> Option<Condition> {
        let (field, is) = Comparison::parse(text)?;
        (!field.is_empty()).then(|| Condition { field: field.to_owned(), is })
    }

    /// Whether a number meets it.
    pub fn holds(&self, number: f64) -> bool {
        self.is.holds(number)
    }
}

/// When a module calls for attention.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Grades {
    /// Look soon.
    pub warn: Option<Condition>,
    /// Look now.
    pub urgent: Option<Condition>,
}

impl OneValue for Grades {
    const KIND: Kind = Kind { name: "grades", unit: "", allowed: Allowed::Any, example: "{ warn = \"load >= 80\" }" };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let inline = Inline::of(node, &["warn", "urgent"], "expected { warn = \"load >= 80\", urgent = \"load >= 95\" }")?;
        let condition = |name| -> Result<Option<Condition>, Wrong> {
            let Some(text) = inline.get::<String>(name, reader)? else { return Ok(None) };
            let wrong = || {
                let wrong = Wrong::kind("expected a condition such as \"load >= 80\"");
                inline.node(name).map_or_else(|| wrong.clone(), |node| wrong.clone().within(node))
            };
            Condition::parse(&text).map(Some).ok_or_else(wrong)
        };
        Ok(Grades { warn: condition("warn")?, urgent: condition("urgent")? })
    }
}

named_value! {
    /// An icon, drawn as lines.
    pub enum Icon as "icon" {
        /// No icon.
        None = "none",
        /// Three waves.
        Tide = "tide",
        /// A chip with its legs.
        Chip = "chip",
        /// A bar of memory.
        Memory = "memory",
        /// A clock.
        Clock = "clock",
        /// A letter.
        Letter = "letter",
    }
}

/// What pressing a module does, by button or turn of the wheel.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Press(pub IndexMap<&'static str, Action>);

impl Press {
    const BUTTONS: &'static [&'static str] = &["left", "middle", "right", "wheel-up", "wheel-down"];
}

impl OneValue for Press {
    const KIND: Kind = Kind {
        name: "table of actions",
        unit: "",
        allowed: Allowed::Any,
        example: "{ left = \"open terminal\", wheel-up = \"layout next\" }",
    };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let inline = Inline::of(node, Self::BUTTONS, "expected actions by button, such as { left = \"open terminal\" }")?;
        let mut actions = IndexMap::new();
        for button in Self::BUTTONS {
            let (Some(text), Some(node)) = (inline.get::<String>(button, reader)?, inline.node(button)) else { continue };
            let action = Action::parse(&text).map_err(|unknown| unknown.wrong(&text).within(node))?;
            actions.insert(*button, action);
        }
        Ok(Press(actions))
    }
}

/// A section of a bar.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Section {
    /// Its share of what is free.
    pub weight: Weight,
    /// Where its modules stand in it.
    pub align: Align,
    /// Its modules.
    pub show: Vec<String>,
}

named_value! {
    /// Where something stands in its room.
    pub enum Align as "place" {
        /// At the start.
        Start = "start",
        /// In the middle.
        Middle = "middle",
        /// At the end.
        End = "end",
    }
}

impl OneValue for Section {
    const KIND: Kind = Kind {
        name: "section",
        unit: "",
        allowed: Allowed::Any,
        example: "{ weight = 2, align = \"start\", show = [\"title\"] }",
    };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let inline =
            Inline::of(node, &["weight", "align", "show"], "expected { weight = 2, align = \"start\", show = [\"title\"] }")?;
        Ok(Section {
            weight: inline.get("weight", reader)?.unwrap_or(Weight(100)),
            align: inline.get("align", reader)?.unwrap_or_default(),
            show: inline.get("show", reader)?.unwrap_or_default(),
        })
    }
}

settings! {
    /// a piece of a bar
    pub struct Module {
        /// where its values come from
        source: ModuleSource,
        /// fields picked out of a program's JSON
        pick: Pick = {},
        /// what it shows
        text: Pattern = "{value}",
        /// the drawing before the text
        icon: Icon = "none",
        /// when it calls for attention
        grades: Grades = {},
        /// what it shows without a value
        empty: String = "",
        /// what pressing it does
        press: Press = {} => Later,
        /// who gives way first when room is short: higher numbers before lower ones
        shrink: Whole<0, 100> = 0 => Later,
        /// the least room it takes
        min: Px<0, 4000> = 0 => Later,
        /// the most room it takes
        max: Px<0, 4000> = 4000 => Later,
    }
}
