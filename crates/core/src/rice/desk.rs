//! Monitors, workspaces, layouts, programs and placed files.

use indexmap::IndexMap;
use jovrik_schema::catalogue::{AtomicSetting, Capability, InlineField, ValueConstraint, ValueType};
use jovrik_schema::{Glob, InlineTable, Integer, Length, NamedMap, Px, Scale, SettingReader, named_value, settings};
use jovrik_toml::{SpannedValue, TomlValue, ValueError};
use jovrik_values::{IconRef, PixelRect, Side};

use super::look::BackdropOverride;

settings! {
    /// strips that windows keep off
    pub struct Struts {
        /// at the top
        #[also = "strut, reserved space"]
        top: Px<0, 2000> = 0,
        /// at the bottom
        #[also = "strut, reserved space"]
        bottom: Px<0, 2000> = 0,
        /// at the left
        left: Px<0, 2000> = 0,
        /// at the right
        right: Px<0, 2000> = 0,
    }
}

/// The mode of a monitor: `1920x1080`, or `1920x1080@60` with a rate in Hz.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct MonitorMode {
    /// Pixels across and down.
    pub size: (i32, i32),
    /// Pictures a second; nothing takes the best.
    pub rate: Option<f64>,
}

impl AtomicSetting for MonitorMode {
    const KIND: ValueType = ValueType {
        name: "mode",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"1920x1080@60\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = || ValueError::kind("expected a mode such as \"1920x1080\" or \"1920x1080@60\"");
        let text = node.text().ok_or_else(expected)?;
        let (size, rate) = text.split_once('@').map_or((text, None), |(size, rate)| (size, Some(rate)));
        let (w, h) = size.split_once('x').ok_or_else(expected)?;
        let number = |text: &str| text.trim().parse::<i32>().ok().filter(|n| (1..=32768).contains(n)).ok_or_else(expected);
        let rate =
            rate.map(|rate| rate.trim().parse::<f64>().ok().filter(|rate| (1.0..=1000.0).contains(rate)).ok_or_else(expected));
        Ok(MonitorMode { size: (number(w)?, number(h)?), rate: rate.transpose()? })
    }
}

/// Where a monitor lies.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum MonitorPosition {
    /// Where it is.
    #[default]
    AsItIs,
    /// So far from the upper left corner of the desk.
    At(i32, i32),
    /// Beside another, by that one's name in the rice or its output's.
    Beside(Side, String),
}

impl AtomicSetting for MonitorPosition {
    const KIND: ValueType = ValueType {
        name: "monitor place",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"right-of left\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected =
            || ValueError::kind("expected a place such as \"0,0\", \"right-of main\", \"left-of\", \"above\" or \"below\"");
        let text = node.text().ok_or_else(expected)?;
        if let Some((x, y)) = text.split_once(',') {
            let number =
                |text: &str| text.trim().parse::<i32>().ok().filter(|n| (-65536..=65536).contains(n)).ok_or_else(expected);
            return Ok(MonitorPosition::At(number(x)?, number(y)?));
        }
        let (way, other) = text.split_once(' ').ok_or_else(expected)?;
        let side = match way {
            "right-of" => Side::Right,
            "left-of" => Side::Left,
            "above" => Side::Top,
            "below" => Side::Bottom,
            _ => return Err(expected()),
        };
        Ok(MonitorPosition::Beside(side, other.trim().to_owned()))
    }
}

named_value! {
    /// How far a monitor is turned, clockwise.
    pub enum OutputRotation as "turn" {
        /// Not at all.
        Upright = "upright",
        /// A quarter to the right.
        Right = "right",
        /// Half round.
        Over = "upside-down",
        /// A quarter to the left.
        Left = "left",
    }
}

settings! {
    /// a monitor
    pub struct MonitorRule {
        /// which monitors are meant: by the output's name, by maker, model and number, or by place
        #[also = "screen, display, output"]
        r#match: Glob = "*",
        /// its size in pixels, and its rate
        #[also = "resolution, refresh rate, screen size, hz"]
        mode: Option<MonitorMode>,
        /// where it lies: a place, or beside another
        #[also = "monitor position, screen arrangement, left of, right of, second monitor"]
        at: Option<MonitorPosition>,
        /// how far it is turned
        #[also = "rotation, portrait, landscape, orientation"]
        rotate: OutputRotation = "upright",
        /// how many pixels one pixel of this rice takes
        /// 1.5
        #[also = "scaling, hidpi, dpi, zoom"]
        scale: Scale = 1.0,
        /// whether it is the one that programs take for the main one
        #[also = "main monitor, main screen"]
        primary: bool = false,
        /// the monitor whose picture it shows
        /// "left"
        #[also = "duplicate, clone, mirroring, presentation"]
        mirrors: Option<String>,
        /// whether it stays dark
        #[also = "disable monitor, turn off screen"]
        off: bool = false,
        /// strips that windows keep off
        reserve: Struts,
        /// the workspaces that live there; those listed nowhere belong to the first monitor
        /// ["charts", "logs"]
        #[also = "workspace per monitor, bind workspace to monitor"]
        workspaces: Vec<String> = [],
        /// what lies behind its windows
        backdrop: BackdropOverride,
    }
}

settings! {
    /// workspaces
    pub struct Workspaces {
        /// their names, in order
        /// ["charts", "logs", "field"]
        #[also = "workspace names, virtual desktops, number of workspaces, desktops, tags"]
        order: Vec<String> = ["one", "two", "three", "four", "five"],
        /// the layouts they cycle through, unless one says otherwise
        /// ["main", "grid"]
        #[also = "default layout, tiling, tiling layout"]
        layouts: Vec<String> = ["main", "solo"],
    }
}

settings! {
    /// one workspace
    pub struct WorkspaceRule {
        /// the layouts it cycles through
        /// ["solo", "main"]
        #[also = "layout per workspace"]
        layouts: Vec<String> = "=workspaces.layouts",
        /// its icon, before its mark's name
        /// "chart"
        #[also = "workspace icon, workspace symbol"]
        icon: IconRef = "none",
        /// what lies behind its windows
        backdrop: BackdropOverride,
    }
}

named_value! {
    /// The kind of a layout.
    pub enum LayoutKind as "layout" {
        /// A main area, and a stack.
        Main = "main",
        /// One window at a time.
        Solo = "solo",
        /// Rows and columns as even as can be.
        Grid = "grid",
        /// Each new window halves the focused one.
        Halving = "halving",
        /// Columns that run past the screen.
        Ribbon = "ribbon",
        /// One window, with a strip of titles.
        Tabs = "tabs",
        /// As the windows ask.
        Free = "free",
    }
}

named_value! {
    /// Where a column of a ribbon comes to that was cut at an edge of the screen.
    pub enum ColumnReveal as "place" {
        /// To where columns like to rest.
        Rest = "rest",
        /// Just onto the screen.
        Edge = "edge",
    }
}

named_value! {
    /// Where a new window goes.
    pub enum NewPosition as "place" {
        /// First of the main area.
        Main = "main",
        /// First of the stack.
        StackStart = "stack-start",
        /// Last of the stack.
        StackEnd = "stack-end",
        /// Behind the focused one.
        AfterFocus = "after-focus",
    }
}

settings! {
    /// a layout
    pub struct LayoutRule {
        /// how windows are arranged
        #[also = "tiling algorithm, tiled, columns, tabbed, grid"]
        kind: LayoutKind = "main",
        /// where the main area is
        #[also = "main side, master side, stack side"]
        side: Side = "left",
        /// how much the main area takes
        /// "55%"
        #[also = "ratio, split ratio, main size, main width"]
        share: Length = "1/2",
        /// how many windows the main area holds
        #[also = "number of main windows"]
        mains: Integer<1, 9> = 1,
        /// where a new window goes
        #[also = "new window position, insert, spawn position"]
        new: NewPosition = "stack-end",
        /// of a ribbon: the widths that its columns step through
        /// ["1/3", "1/2", "4/5"]
        #[also = "column width, scrolling columns, preset widths"]
        widths: Vec<Length> = ["2/5", "3/5", "4/5"],
        /// of a ribbon: which of its widths a new column takes, counted from 1
        opens_at: Integer<1, 9> = 1,
        /// of a ribbon: where along the screen the focused column likes to rest
        rest_at: Length = "1/2",
        /// of a ribbon: how far from there it may lie, whole on the screen, before the view moves
        slack: Length = "100%",
        /// of a ribbon: where a column comes to that was cut
        when_cut: ColumnReveal = "rest",
    }
}

/// A program that actions name.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Program {
    /// What is run.
    pub run: Vec<String>,
    /// The app name of its windows, when it is not the program's.
    pub app: Option<String>,
    /// The name of its icon.
    pub icon: Option<String>,
    /// Added to its environment.
    pub env: IndexMap<String, String>,
}

impl Program {
    /// The app name of its windows.
    pub fn app(&self) -> &str {
        let first = self.run.first().map_or("", String::as_str);
        self.app.as_deref().unwrap_or_else(|| first.rsplit('/').next().unwrap_or(first))
    }
}

impl AtomicSetting for Program {
    const KIND: ValueType = ValueType {
        name: "program",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ run = [\"tidechart\", \"--today\"], app = \"tidechart\" }",
        reach: Capability::Execute,
        fields: &[
            InlineField::new("run", "the program and its arguments", &<Vec<String>>::KIND).such("[\"tidechart\", \"--today\"]"),
            InlineField::new("app", "the app name of its windows, where it is not the program's", &String::KIND)
                .such("\"tidechart\""),
            InlineField::new("icon", "the name of its icon", &String::KIND).such("\"tidechart\""),
            InlineField::new("env", "variables that are added to its environment", &String::KIND).such("{ TZ = \"UTC\" }"),
        ],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        if let TomlValue::String(name) = &node.value {
            let name = name.trim();
            return if name.is_empty() {
                Err(ValueError::kind("expected the name of a program"))
            } else if name.split_whitespace().count() > 1 {
                let words: Vec<String> = name.split_whitespace().map(jovrik_toml::quoted).collect();
                let mend = format!("{{ run = [{}] }}", words.join(", "));
                let note = format!("a program's name alone; with arguments it is {mend}");
                Err(ValueError { mend: Some(mend), ..ValueError::kind(note) })
            } else {
                Ok(Program { run: vec![name.to_owned()], ..Program::default() })
            };
        }
        let inline =
            InlineTable::of(node, Self::KIND.fields, "expected a program's name, or { run = [\"program\", \"argument\"] }")?;
        let run: Vec<String> = inline.get("run", reader)?.ok_or_else(|| ValueError::kind("run = [\"program\"] is missing"))?;
        if run.is_empty() {
            return Err(ValueError::kind("run names no program"));
        }
        let mut env = IndexMap::new();
        if let Some(node) = inline.node("env") {
            let TomlValue::Table(entries) = &node.value else {
                return Err(ValueError::kind("expected { NAME = \"value\" }").within(node));
            };
            for (name, value) in entries {
                env.insert(name.clone(), String::from_node(value, reader).map_err(|wrong| wrong.within(value))?);
            }
        }
        Ok(Program { run, app: inline.get("app", reader)?, icon: inline.get("icon", reader)?, env })
    }
}

/// A file that applying a rice puts into the home folder.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct PlacedFile {
    /// Its path in the rice's folder.
    pub from: String,
    /// Whether `{{role}}` and `{{path}}` in it are replaced by the rice's values.
    pub fill: bool,
}

impl AtomicSetting for PlacedFile {
    const KIND: ValueType = ValueType {
        name: "placed file",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ from = \"art/colours.xres\", fill = true }",
        reach: Capability::WriteFile,
        fields: &[
            InlineField::new("from", "the file, in the folder of the rice", &String::KIND).such("\"art/colours.xres\""),
            InlineField::new("fill", "whether its holes are filled with the rice's values", &bool::KIND),
        ],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        if let TomlValue::String(from) = &node.value {
            return Ok(PlacedFile { from: from.clone(), fill: false });
        }
        let inline = InlineTable::of(node, Self::KIND.fields, "expected { from = \"art/file\", fill = true }")?;
        let from = inline.get("from", reader)?.ok_or_else(|| ValueError::kind("from = \"art/file\" is missing"))?;
        Ok(PlacedFile { from, fill: inline.get("fill", reader)?.unwrap_or_default() })
    }
}

/// A layout by its name: one of the rice's, or a kind as it is.
pub fn layout_named(layouts: &NamedMap<LayoutRule>, name: &str) -> Option<LayoutRule> {
    layouts.get(name).cloned().or_else(|| {
        let kind = LayoutKind::ALL.iter().copied().find(|kind| kind.word() == name)?;
        Some(LayoutRule { kind, ..LayoutRule::plain() })
    })
}

impl LayoutRule {
    /// A layout with all defaults.
    fn plain() -> LayoutRule {
        jovrik_schema::read_table::<LayoutRule>(&jovrik_text::Sources::default(), Vec::new(), &mut Vec::new()).0
    }
}

impl Struts {
    /// What is left of an area.
    pub fn inside(&self, area: PixelRect) -> PixelRect {
        let (left, top) = (self.left.0, self.top.0);
        PixelRect {
            x: area.x + left,
            y: area.y + top,
            w: (area.w - left - self.right.0).max(1),
            h: (area.h - top - self.bottom.0).max(1),
        }
    }
}
