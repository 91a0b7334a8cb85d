//! Colours by their role.

use std::rc::Rc;

use jovrik_schema::catalogue::{AtomicSetting, Capability, Setting, SettingShape, ValueConstraint, ValueType};
use jovrik_schema::{Colour, ColourRoles, NamedMap, ReadCursor, SettingReader, settings};
use jovrik_text::problem::{Problem, in_words, nearest};
use jovrik_toml::{SpannedValue, ValueError};

settings! {
    /// The colours of each role.
    pub struct Palette {
        /// the ground of everything
        /// "#f6f3ec"
        #[also = "background color, ground, background"]
        paper: Colour = "#101c1f",
        /// what lies on the paper: notices, menus
        /// "#eae6dc"
        raise: Colour = "#19272a",
        /// idle frames, grids, hairlines
        /// "#c7c4b7"
        #[also = "border color"]
        line: Colour = "#304044",
        /// labels, icons, what is second
        /// "#53676c"
        #[also = "dim text, grey"]
        muted: Colour = "#839699",
        /// the colour of text
        /// "#152a32"
        #[also = "foreground, text color"]
        ink: Colour = "#d9e6e5",
        /// here: the focused frame, the workspace one is on
        /// "#006758"
        #[also = "highlight color, accent color, primary colour"]
        accent: Colour = "#74d4b1",
        /// data, and places in files
        /// "#255e90"
        calm: Colour = "#7cb9e1",
        /// what is done
        /// "#2c6a31"
        #[also = "green, success color"]
        good: Colour = "#93d27e",
        /// what must be looked at soon
        /// "#875806"
        #[also = "yellow, warning color"]
        warn: Colour = "#eec060",
        /// what must be looked at now
        /// "#ae2e27"
        #[also = "error color, red"]
        alert: Colour = "#f67a6c",
        /// the 16 colours of terminals; none are those that fit the roles
        /// ["#101c1f", "#f67a6c", "#93d27e", "#eec060", "#7cb9e1", "#b79be0", "#74d4b1", "#d9e6e5", "#304044", "#f67a6c", "#93d27e", "#eec060", "#7cb9e1", "#b79be0", "#74d4b1", "#f4f8f8"]
        #[also = "terminal colors, terminal colours, ansi colors, 16 colors"]
        term: TerminalColours,
    }
}

settings! {
    /// palettes, and which of them is used
    pub struct PaletteTable {
        /// which of the palettes is used
        /// "noon"
        #[also = "theme, colour scheme, color scheme, colorscheme, colors, colours"]
        r#use: String = "ebb",
        .. all: Chosen Palette,
    }
}

impl Palette {
    /// The names of the roles.
    pub const ROLES: &[&str] = &["paper", "raise", "line", "muted", "ink", "accent", "calm", "good", "warn", "alert"];

    /// The colour of a role.
    pub fn role(&self, name: &str) -> Option<Colour> {
        Some(match name {
            "paper" => self.paper,
            "raise" => self.raise,
            "line" => self.line,
            "muted" => self.muted,
            "ink" => self.ink,
            "accent" => self.accent,
            "calm" => self.calm,
            "good" => self.good,
            "warn" => self.warn,
            "alert" => self.alert,
            _ => return None,
        })
    }
}

/// The colours of terminals: none, or all 16.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct TerminalColours(pub Vec<Colour>);

impl AtomicSetting for TerminalColours {
    const KIND: ValueType = ValueType {
        name: ValueType::LIST,
        unit: "colour",
        allowed: ValueConstraint::Any,
        example: "",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let colours: Vec<Colour> = Vec::from_node(node, reader)?;
        match colours.len() {
            0 | 16 => Ok(TerminalColours(colours)),
            other => Err(ValueError::range(format!("expected 16 colours here, or none; there are {other}"))),
        }
    }
}

impl ColourRoles for Palette {
    fn role(&self, name: &str) -> Option<Colour> {
        Palette::role(self, name)
    }

    fn names(&self) -> &'static [&'static str] {
        Palette::ROLES
    }
}

/// The palettes of a rice. Reading it tells the reader which colours the roles are.
#[derive(Debug, Clone, PartialEq)]
pub struct Palettes {
    /// The name of the one in use.
    pub name: String,
    /// The one in use.
    pub current: Palette,
    /// All of them.
    pub all: NamedMap<Palette>,
}

impl Setting for Palettes {
    const SHAPE: SettingShape = PaletteTable::SHAPE;

    fn read(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>) -> Self {
        let table = PaletteTable::read(reader, at);
        let current = match table.all.get(&table.r#use) {
            Some(palette) => palette.clone(),
            None => {
                if !(table.all.is_empty() && table.r#use == "ebb") {
                    reader.problems.push(no_palette(reader, at, &table));
                }
                Palette::read(reader, &ReadCursor::nowhere())
            }
        };
        reader.palette = Some(Rc::new(current.clone()));
        Palettes { name: table.r#use, current, all: table.all }
    }
}

fn no_palette(reader: &SettingReader<'_>, at: &ReadCursor<'_>, table: &PaletteTable) -> Problem {
    let names: Vec<&str> = table.all.keys().map(String::as_str).collect();
    let problem = Problem::error("palette/unknown", format!("there is no palette {}", table.r#use))
        .because("The built-in colours stand in for it.");
    let field = at.field("use", None);
    let Some(node) = field.tree.and_then(jovrik_schema::Tree::leaf).map(|leaf| &leaf.node) else {
        let first = at.tree.and_then(jovrik_schema::Tree::branch).and_then(|branch| branch.key);
        let problem = first.map_or(problem.clone(), |key| problem.at(key, "it is meant when none is named"));
        return problem.advise("use = \"…\" in [palette]", format!("one of {}", in_words(&names)));
    };
    debug_assert!(reader.sources.get(node.span.file).is_some() || !node.span.written());
    match nearest(&table.r#use, names.iter().copied()) {
        Some(near) => problem.at(node.span, format!("did you mean {near}?")).mend(node.span, jovrik_toml::quoted(near), near),
        None => problem.at(node.span, format!("the palettes are {}", in_words(&names))),
    }
}
