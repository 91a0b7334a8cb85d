//! Window rules and the pointer: read and checked; the desk does not ask them yet.

use super::catalogue::{Allowed, Kind, OneValue, Reach, named_value, settings};
use super::kinds::{Inline, Length};
use crate::load::{Node, Reader, Value, Wrong};

/// A pattern that windows match: a glob, or `re:` and a regular expression.
#[derive(Debug, Clone)]
pub enum WindowPattern {
    /// A glob over the whole text.
    Glob(super::Glob),
    /// A regular expression, somewhere in the text.
    Expression(regex_lite::Regex),
}

impl PartialEq for WindowPattern {
    fn eq(&self, other: &Self) -> bool {
        match (self, other) {
            (WindowPattern::Glob(a), WindowPattern::Glob(b)) => a == b,
            (WindowPattern::Expression(a), WindowPattern::Expression(b)) => a.as_str() == b.as_str(),
            _ => false,
        }
    }
}

impl Default for WindowPattern {
    fn default() -> Self {
        WindowPattern::Glob(super::Glob::default())
    }
}

impl WindowPattern {
    /// Whether a text matches.
    pub fn matches(&self, text: &str) -> bool {
        match self {
            WindowPattern::Glob(glob) => glob.matches(text),
            WindowPattern::Expression(expression) => expression.is_match(text),
        }
    }

    /// As it is written.
    pub fn words(&self) -> String {
        match self {
            WindowPattern::Glob(glob) => glob.0.clone(),
            WindowPattern::Expression(expression) => format!("re:{expression}"),
        }
    }
}

impl OneValue for WindowPattern {
    const KIND: Kind =
        Kind { name: "window pattern", unit: "", allowed: Allowed::Any, example: "\"re:^Compose\"", reach: Reach::Inside };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let text = node.text().ok_or_else(|| Wrong::kind("expected a pattern such as \"tide*\" or \"re:^Compose\""))?;
        match text.strip_prefix("re:") {
            None => Ok(WindowPattern::Glob(super::Glob(text.to_owned()))),
            Some(expression) => {
                let compiled = regex_lite::Regex::new(expression);
                compiled.map(WindowPattern::Expression).map_err(|error| Wrong::kind(format!("no regular expression: {error}")))
            }
        }
    }
}

named_value! {
    /// What a window is for, by its EWMH type.
    pub enum WindowKind as "window kind" {
        /// A plain window.
        Normal = "normal",
        /// A dialog.
        Dialog = "dialog",
        /// A small helper of another window.
        Utility = "utility",
        /// A torn-off toolbar.
        Toolbar = "toolbar",
        /// A torn-off menu.
        Menu = "menu",
        /// A picture while a program starts.
        Splash = "splash",
    }
}

/// Which windows a rule is for; all that is given must hold.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Match {
    /// Texts of the window by what they are: `app`, `instance`, `title`, `role`, `program`, `workspace`, `monitor`.
    pub texts: Vec<(&'static str, WindowPattern)>,
    /// What it is for.
    pub kind: Option<WindowKind>,
    /// Whether it belongs to another window.
    pub transient: Option<bool>,
}

impl Match {
    const TEXTS: [&'static str; 7] = ["app", "instance", "title", "role", "program", "workspace", "monitor"];
}

impl OneValue for Match {
    const KIND: Kind =
        Kind { name: "match", unit: "", allowed: Allowed::Any, example: "{ kind = \"dialog\" }", reach: Reach::Inside };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let known = &["app", "instance", "title", "role", "kind", "program", "workspace", "monitor", "transient"];
        let inline = Inline::of(node, known, "expected what windows have, such as { app = \"gullmail\", kind = \"dialog\" }")?;
        let mut texts = Vec::new();
        for name in Match::TEXTS {
            texts.extend(inline.get(name, reader)?.map(|pattern| (name, pattern)));
        }
        Ok(Match { texts, kind: inline.get("kind", reader)?, transient: inline.get("transient", reader)? })
    }
}

/// Where a window goes.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub enum WindowPlace {
    /// In the middle.
    #[default]
    Centre,
    /// At the pointer.
    Pointer,
    /// So far from the upper left corner of the monitor.
    At(i32, i32),
}

impl OneValue for WindowPlace {
    const KIND: Kind = Kind { name: "place", unit: "", allowed: Allowed::Any, example: "\"centre\"", reach: Reach::Inside };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let expected = || Wrong::kind("expected \"centre\", \"pointer\", or a place such as \"40,80\"");
        match node.text().ok_or_else(expected)? {
            "centre" => Ok(WindowPlace::Centre),
            "pointer" => Ok(WindowPlace::Pointer),
            text => {
                let (x, y) = text.split_once(',').ok_or_else(expected)?;
                let number = |text: &str| text.trim().parse().map_err(|_| expected());
                Ok(WindowPlace::At(number(x)?, number(y)?))
            }
        }
    }
}

/// What a rule sets.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct RuleSet {
    /// The workspace it appears on.
    pub workspace: Option<String>,
    /// The monitor it appears on.
    pub monitor: Option<String>,
    /// Whether it floats.
    pub float: Option<bool>,
    /// Whether it is over all of its monitor.
    pub full: Option<bool>,
    /// Whether it is put out of sight.
    pub tucked: Option<bool>,
    /// Whether it is on every workspace.
    pub pegged: Option<bool>,
    /// Its size: width and height.
    pub size: Option<(Length, Length)>,
    /// Where it goes.
    pub at: Option<WindowPlace>,
    /// Whether it takes the focus when it appears.
    pub focus: Option<bool>,
    /// How opaque it is, from 0 to 1, by the EWMH-style hint.
    pub opacity: Option<Length>,
    /// Whether it has a frame.
    pub frame: Option<bool>,
    /// Whether it may take the focus unasked.
    pub steal_focus: Option<bool>,
}

impl OneValue for RuleSet {
    const KIND: Kind = Kind {
        name: "window settings",
        unit: "",
        allowed: Allowed::Any,
        example: "{ float = true, at = \"centre\" }",
        reach: Reach::Inside,
    };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let known = &[
            "workspace",
            "monitor",
            "float",
            "full",
            "tucked",
            "pegged",
            "size",
            "at",
            "focus",
            "opacity",
            "frame",
            "steal-focus",
        ];
        let inline = Inline::of(node, known, "expected what to set, such as { float = true, workspace = \"post\" }")?;
        let size = inline.node("size").map(|node| {
            let wrong = || Wrong::kind("expected a width and a height, such as [\"40%\", 300]").within(node);
            let Value::List(items) = &node.value else { return Err(wrong()) };
            let [w, h] = items.as_slice() else { return Err(wrong()) };
            Ok((
                Length::from_node(w, reader).map_err(|wrong| wrong.within(w))?,
                Length::from_node(h, reader).map_err(|wrong| wrong.within(h))?,
            ))
        });
        Ok(RuleSet {
            workspace: inline.get("workspace", reader)?,
            monitor: inline.get("monitor", reader)?,
            float: inline.get("float", reader)?,
            full: inline.get("full", reader)?,
            tucked: inline.get("tucked", reader)?,
            pegged: inline.get("pegged", reader)?,
            size: size.transpose()?,
            at: inline.get("at", reader)?,
            focus: inline.get("focus", reader)?,
            opacity: inline.get("opacity", reader)?,
            frame: inline.get("frame", reader)?,
            steal_focus: inline.get("steal-focus", reader)?,
        })
    }
}

settings! {
    /// a rule for windows
    pub struct Rule {
        /// which windows it is for; all that is given must hold
        r#match: Match = {} => Later,
        /// what it sets on them
        set: RuleSet = {} => Later,
        /// whether later rules are not asked once it matched
        stop: bool = false => Later,
        /// whether it is asked again when the title changes
        again: bool = false => Later,
        /// its place among the rules, when it is not that of the file
        order: Option<super::Whole<-1000, 1000>> => Later,
    }
}

named_value! {
    /// What gives a window the focus.
    pub enum PointerFocus as "moment" {
        /// A press of a button on it.
        Click = "click",
        /// The pointer coming over it.
        Enter = "enter",
    }
}

settings! {
    /// the pointer
    pub struct Pointer {
        /// what gives a window the focus: a click, or the pointer coming over it
        focus: PointerFocus = "click",
        /// whether the pointer goes where the focus goes
        follows_focus: bool = false => Later,
        /// the chord that moves a floating window
        /// "Lead+Alt+Button1"
        r#move: String = "Lead+Button1" => Later,
        /// the chord that resizes a window
        /// "Lead+Alt+Button1"
        resize: String = "Lead+Button3" => Later,
    }
}
