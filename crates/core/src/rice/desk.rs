//! Monitors, workspaces, layouts, programs, and what starts by itself.

use indexmap::IndexMap;

use super::Named;
use super::catalogue::{Allowed, Kind, OneValue, named_value, settings};
use super::kinds::{Glob, Inline, Length, Px, Whole};
use crate::load::{Node, Reader, Value, Wrong};

settings! {
    /// strips that windows keep off
    pub struct Reserve {
        /// at the top
        top: Px<0, 2000> = 0,
        /// at the bottom
        bottom: Px<0, 2000> = 0,
        /// at the left
        left: Px<0, 2000> = 0,
        /// at the right
        right: Px<0, 2000> = 0,
    }
}

settings! {
    /// a monitor
    pub struct MonitorRule {
        /// which outputs are meant, by name
        r#match: Glob = "*",
        /// strips that windows keep off
        reserve: Reserve,
        /// the workspaces that live there
        workspaces: Vec<String> = [],
    }
}

settings! {
    /// workspaces
    pub struct Workspaces {
        /// their names, in order
        order: Vec<String> = ["one", "two", "three", "four", "five"],
        /// the layouts they cycle through
        layouts: Vec<String> = ["main", "solo"],
    }
}

settings! {
    /// one workspace
    pub struct WorkspaceRule {
        /// the layouts it cycles through
        layouts: Vec<String> = [],
    }
}

named_value! {
    /// The kind of a layout.
    pub enum LayoutKind as "layout" {
        /// A main area, and a stack.
        Main = "main",
        /// One window at a time.
        Solo = "solo",
    }
}

named_value! {
    /// A side.
    pub enum Side as "side" {
        /// Left.
        Left = "left",
        /// Right.
        Right = "right",
        /// Top.
        Top = "top",
        /// Bottom.
        Bottom = "bottom",
    }
}

named_value! {
    /// Where a new window goes.
    pub enum NewPlace as "place" {
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
        kind: LayoutKind = "main",
        /// where the main area is
        side: Side = "left",
        /// how much the main area takes
        share: Length = "1/2",
        /// how many windows the main area holds
        mains: Whole<1, 9> = 1,
        /// where a new window goes
        new: NewPlace = "stack-end",
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

impl OneValue for Program {
    const KIND: Kind = Kind {
        name: "program",
        unit: "",
        allowed: Allowed::Any,
        example: "{ run = [\"tidechart\", \"--today\"], app = \"tidechart\" }",
    };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        if let Value::Text(name) = &node.value {
            let name = name.trim();
            return if name.is_empty() {
                Err(Wrong::kind("expected the name of a program"))
            } else {
                Ok(Program { run: vec![name.to_owned()], ..Program::default() })
            };
        }
        let inline = Inline::of(
            node,
            &["run", "app", "icon", "env"],
            "expected a program's name, or { run = [\"program\", \"argument\"] }",
        )?;
        let run: Vec<String> = inline.get("run", reader)?.ok_or_else(|| Wrong::kind("run = [\"program\"] is missing"))?;
        if run.is_empty() {
            return Err(Wrong::kind("run names no program"));
        }
        let mut env = IndexMap::new();
        if let Some(node) = inline.node("env") {
            let Value::Table(entries) = &node.value else {
                return Err(Wrong::kind("expected { NAME = \"value\" }").within(node));
            };
            for (name, value) in entries {
                env.insert(name.clone(), String::from_node(value, reader).map_err(|wrong| wrong.within(value))?);
            }
        }
        Ok(Program { run, app: inline.get("app", reader)?, icon: inline.get("icon", reader)?, env })
    }
}

named_value! {
    /// When something starts by itself.
    pub enum StartWhen as "moment" {
        /// When the desktop starts.
        Login = "login",
        /// At every reload.
        Reload = "reload",
    }
}

settings! {
    /// what starts by itself
    pub struct Start {
        /// the name of the program
        open: String = "" => Login,
        /// when it starts
        when: StartWhen = "login",
        /// the workspace its window appears on
        workspace: Option<String>,
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

impl OneValue for PlacedFile {
    const KIND: Kind =
        Kind { name: "placed file", unit: "", allowed: Allowed::Any, example: "{ from = \"art/colours.xres\", fill = true }" };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        if let Value::Text(from) = &node.value {
            return Ok(PlacedFile { from: from.clone(), fill: false });
        }
        let inline = Inline::of(node, &["from", "fill"], "expected { from = \"art/file\", fill = true }")?;
        let from = inline.get("from", reader)?.ok_or_else(|| Wrong::kind("from = \"art/file\" is missing"))?;
        Ok(PlacedFile { from, fill: inline.get("fill", reader)?.unwrap_or_default() })
    }
}

/// A layout by its name: one of the rice's, or a kind as it is.
pub fn layout_named(layouts: &Named<LayoutRule>, name: &str) -> Option<LayoutRule> {
    layouts.get(name).cloned().or_else(|| {
        let kind = match name {
            "main" => LayoutKind::Main,
            "solo" => LayoutKind::Solo,
            _ => return None,
        };
        Some(LayoutRule { kind, side: Side::Left, share: Length::Share(0.5), mains: Whole(1), new: NewPlace::StackEnd })
    })
}
