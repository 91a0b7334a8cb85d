//! What actions take: how it is written, what can be chosen, and what it names.

use crate::Side;
use crate::action::reference::{ReferenceKind, References};
pub(super) use crate::action::session_args::{OfList, OfNotices, OfReload, OfShot, PathAndValue, ToBackdrop};
use crate::action::{
    ColumnChange, CycleTarget, Direction, EdgeResize, FocusTarget, MainChange, MonitorTarget, Switch, WindowQuery,
};
use jovrik_text::problem::nearest;
use jovrik_text::shell_line;

/// What an action takes.
pub(super) trait Argument {
    /// What is kept of it.
    type Value;
    /// How it is written; nothing where there is none.
    const FORM: &'static str;
    /// Reads the words after the action's own.
    fn read(words: &[&str]) -> Option<Self::Value>;
    /// Writes them.
    fn write(value: &Self::Value) -> String;
    /// All that can be chosen in a rice; the empty text for nothing.
    fn choices(rice: &dyn References) -> Vec<String>;
    /// What it names in a rice.
    fn names(_: &Self::Value) -> Option<(ReferenceKind, &str)> {
        None
    }
    /// What it would start, on one line.
    fn reaches(_: &Self::Value) -> Option<String> {
        None
    }
}

/// Nothing.
pub(super) struct Nothing;

impl Argument for Nothing {
    type Value = ();
    const FORM: &'static str = "";
    fn read(words: &[&str]) -> Option<()> {
        words.is_empty().then_some(())
    }
    fn write((): &()) -> String {
        String::new()
    }
    fn choices(_: &dyn References) -> Vec<String> {
        vec![String::new()]
    }
}

/// One of the words that a type has.
macro_rules! words {
    ($(#[$about:meta])* $name:ident: $value:ty = $form:literal, $words:expr) => {
        $(#[$about])*
        pub(super) struct $name;

        impl Argument for $name {
            type Value = $value;
            const FORM: &'static str = $form;
            fn read(words: &[&str]) -> Option<$value> {
                let [word] = words else { return None };
                $words.iter().find(|(name, _)| name == word).map(|(_, value)| *value)
            }
            fn write(value: &$value) -> String {
                $words.iter().find(|(_, other)| other == value).map_or(String::new(), |(name, _)| (*name).to_owned())
            }
            fn choices(_: &dyn References) -> Vec<String> {
                $words.iter().map(|(name, _)| (*name).to_owned()).collect()
            }
        }
    };
}

words! {
    /// What changes of the focused column.
    OfColumn: ColumnChange = "wider|narrower|cycle|join|split", ColumnChange::WORDS
}
words! {
    /// Whether something is to be.
    ToSwitch: Switch = "toggle|on|off", Switch::WORDS
}

/// What is to have the focus.
pub(super) struct ToFocus;

impl ToFocus {
    /// What is no pattern, by its word.
    fn words() -> impl Iterator<Item = (&'static str, FocusTarget)> {
        let ways = Direction::WORDS.into_iter().map(|(word, way)| (word, FocusTarget::Way(way)));
        ways.chain([("urgent", FocusTarget::Urgent), ("parent", FocusTarget::Parent)])
    }
}

impl Argument for ToFocus {
    type Value = FocusTarget;
    const FORM: &'static str = "next|prev|left|right|up|down|last|urgent|parent|PATTERN";
    fn read(words: &[&str]) -> Option<FocusTarget> {
        let [word] = words else { return None };
        if let Some((_, target)) = ToFocus::words().find(|(name, _)| name == word) {
            return Some(target);
        }
        // What is nearly one of the words is a slip, and no window.
        let slip = nearest(word, ToFocus::words().map(|(name, _)| name)).is_some();
        if slip { None } else { WindowQuery::parse(word).map(FocusTarget::Like) }
    }
    fn write(value: &FocusTarget) -> String {
        match value {
            FocusTarget::Like(like) => shell_line(&[like.to_string()]),
            other => ToFocus::words().find(|(_, target)| target == other).map_or("", |(word, _)| word).to_owned(),
        }
    }
    fn choices(_: &dyn References) -> Vec<String> {
        ToFocus::words().map(|(word, _)| word.to_owned()).collect()
    }
}

/// A window that is tucked away, or the last of them.
pub(super) struct MaybeLike;

impl Argument for MaybeLike {
    type Value = Option<WindowQuery>;
    const FORM: &'static str = "[PATTERN]";
    fn read(words: &[&str]) -> Option<Option<WindowQuery>> {
        match words {
            [] => Some(None),
            [word] => WindowQuery::parse(word).map(Some),
            _ => None,
        }
    }
    fn write(value: &Option<WindowQuery>) -> String {
        value.as_ref().map_or(String::new(), |like| shell_line(&[like.to_string()]))
    }
    fn choices(_: &dyn References) -> Vec<String> {
        vec![String::new()]
    }
}

/// Another monitor.
pub(super) struct OfMonitor;

impl Argument for OfMonitor {
    type Value = MonitorTarget;
    const FORM: &'static str = "next|prev|left|right|up|down|NAME";
    fn read(words: &[&str]) -> Option<MonitorTarget> {
        let [word] = words else { return None };
        let way = Direction::WORDS[..6].iter().find(|(name, _)| name == word).map(|(_, way)| MonitorTarget::Way(*way));
        Some(way.unwrap_or_else(|| MonitorTarget::Named((*word).to_owned())))
    }
    fn write(value: &MonitorTarget) -> String {
        match value {
            MonitorTarget::Named(name) => shell_line(&[name]),
            MonitorTarget::Way(way) => ToMove::write(way),
        }
    }
    fn choices(rice: &dyn References) -> Vec<String> {
        ToMove::choices(rice)
    }
}

/// An edge, and how far it goes.
pub(super) struct ToReach;

impl ToReach {
    const SIDES: [(&'static str, Side); 4] =
        [("left", Side::Left), ("right", Side::Right), ("up", Side::Top), ("down", Side::Bottom)];
}

impl Argument for ToReach {
    type Value = EdgeResize;
    const FORM: &'static str = "left|right|up|down [PX]";
    fn read(words: &[&str]) -> Option<EdgeResize> {
        let (word, by) = match words {
            [word] => (word, None),
            [word, by] => (word, Some(by.parse().ok().filter(|by| (1..=10_000).contains(by))?)),
            _ => return None,
        };
        ToReach::SIDES.iter().find(|(name, _)| name == word).map(|(_, side)| EdgeResize { side: *side, by })
    }
    fn write(value: &EdgeResize) -> String {
        let side = ToReach::SIDES.iter().find(|(_, side)| *side == value.side).map_or("", |(name, _)| name);
        value.by.map_or(side.to_owned(), |by| format!("{side} {by}"))
    }
    fn choices(_: &dyn References) -> Vec<String> {
        ToReach::SIDES.iter().map(|(name, _)| (*name).to_owned()).collect()
    }
}

/// A line for a shell.
pub(super) struct ShellLineArg;

impl Argument for ShellLineArg {
    type Value = String;
    const FORM: &'static str = "LINE";
    fn read(words: &[&str]) -> Option<String> {
        let [line] = words else { return None };
        Some((*line).to_owned()).filter(|line| !line.trim().is_empty())
    }
    fn write(value: &String) -> String {
        shell_line(&[value])
    }
    fn choices(_: &dyn References) -> Vec<String> {
        vec![String::new()]
    }
    fn reaches(value: &String) -> Option<String> {
        Some(format!("sh -c {}", shell_line(&[value])))
    }
}
words! {
    /// A way to change places; the last one is no place.
    ToMove: Direction = "next|prev|left|right|up|down", Direction::WORDS[..6]
}
words! {
    /// What changes of the main area.
    OfMain: MainChange = "grow|shrink|more|fewer|swap", MainChange::WORDS
}

/// One of several things in an order, or by its name.
macro_rules! which {
    ($(#[$about:meta])* $name:ident: $thing:ident = $form:literal, $($word:ident)*) => {
        $(#[$about])*
        pub(super) struct $name;

        impl Argument for $name {
            type Value = CycleTarget;
            const FORM: &'static str = $form;
            fn read(words: &[&str]) -> Option<CycleTarget> {
                let [word] = words else { return None };
                let which = CycleTarget::parse(word);
                let known = [$(CycleTarget::$word),*].contains(&which) || matches!(which, CycleTarget::Named(_));
                known.then_some(which)
            }
            fn write(value: &CycleTarget) -> String {
                match value {
                    CycleTarget::Named(name) => shell_line(&[name]),
                    other => other.to_string(),
                }
            }
            fn choices(rice: &dyn References) -> Vec<String> {
                let names = rice.names(ReferenceKind::$thing).into_iter().map(|name| shell_line(&[name]));
                names.chain([$(CycleTarget::$word.to_string()),*]).collect()
            }
            fn names(value: &CycleTarget) -> Option<(ReferenceKind, &str)> {
                match value {
                    CycleTarget::Named(name) => Some((ReferenceKind::$thing, name)),
                    _ => None,
                }
            }
        }
    };
}

which! {
    /// A workspace.
    ToWorkspace: Workspace = "WORKSPACE|next|prev|back", Next Prev Previous
}
which! {
    /// A layout.
    ToLayout: Layout = "NAME|next|prev", Next Prev
}
which! {
    /// A palette.
    ToPalette: Palette = "next|NAME", Next
}
which! {
    /// A layout of the keyboard.
    ToKeyboard: Keyboard = "next|NAME", Next
}

/// A name of something.
macro_rules! named {
    ($(#[$about:meta])* $name:ident: $thing:ident = $form:literal) => {
        $(#[$about])*
        pub(super) struct $name;

        impl Argument for $name {
            type Value = String;
            const FORM: &'static str = $form;
            fn read(words: &[&str]) -> Option<String> {
                let [word] = words else { return None };
                Some((*word).to_owned())
            }
            fn write(value: &String) -> String {
                shell_line(&[value])
            }
            fn choices(rice: &dyn References) -> Vec<String> {
                rice.names(ReferenceKind::$thing).into_iter().map(|name| shell_line(&[name])).collect()
            }
            fn names(value: &String) -> Option<(ReferenceKind, &str)> {
                Some((ReferenceKind::$thing, value))
            }
        }
    };
}

named! {
    /// A program.
    OfProgram: Program = "NAME"
}
named! {
    /// A module with a group.
    OfGroup: Group = "MODULE"
}

/// A mode, or none.
pub(super) struct OfMode;

impl Argument for OfMode {
    type Value = Option<String>;
    const FORM: &'static str = "NAME|leave";
    fn read(words: &[&str]) -> Option<Option<String>> {
        let [word] = words else { return None };
        Some(Some((*word).to_owned()).filter(|word| word != "leave"))
    }
    fn write(value: &Option<String>) -> String {
        value.as_ref().map_or("leave".to_owned(), |mode| shell_line(&[mode]))
    }
    fn choices(rice: &dyn References) -> Vec<String> {
        let modes = rice.names(ReferenceKind::Mode).into_iter().map(|mode| shell_line(&[mode]));
        std::iter::once("leave".to_owned()).chain(modes).collect()
    }
    fn names(value: &Option<String>) -> Option<(ReferenceKind, &str)> {
        value.as_ref().map(|mode| (ReferenceKind::Mode, mode.as_str()))
    }
}

/// Which bars, and where.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Bars {
    /// Which; all when none is named.
    pub name: Option<String>,
    /// Only on the monitor that has the focus.
    pub here: bool,
}

/// Bars.
pub(super) struct OfBar;

impl Argument for OfBar {
    type Value = Bars;
    const FORM: &'static str = "[NAME] [here]";
    fn read(words: &[&str]) -> Option<Bars> {
        let (name, here) = match words {
            [] => (None, false),
            ["here"] => (None, true),
            [name] => (Some(name), false),
            [name, "here"] => (Some(name), true),
            _ => return None,
        };
        Some(Bars { name: name.map(|name| (*name).to_owned()), here })
    }
    fn write(value: &Bars) -> String {
        let name = value.name.as_ref().map(|name| shell_line(&[name]));
        let words: Vec<String> = name.into_iter().chain(value.here.then(|| "here".to_owned())).collect();
        words.join(" ")
    }
    fn choices(rice: &dyn References) -> Vec<String> {
        let bars = rice.names(ReferenceKind::Bar).into_iter().map(|bar| shell_line(&[bar]));
        std::iter::once(String::new()).chain(bars).collect()
    }
    fn names(value: &Bars) -> Option<(ReferenceKind, &str)> {
        value.name.as_ref().map(|bar| (ReferenceKind::Bar, bar.as_str()))
    }
}

/// A program with its arguments.
pub(super) struct Argv;

impl Argument for Argv {
    type Value = Vec<String>;
    const FORM: &'static str = "ARGV…";
    fn read(words: &[&str]) -> Option<Vec<String>> {
        (!words.is_empty()).then(|| words.iter().map(|word| (*word).to_owned()).collect())
    }
    fn write(value: &Vec<String>) -> String {
        shell_line(value)
    }
    fn choices(_: &dyn References) -> Vec<String> {
        vec![String::new()]
    }
    fn reaches(value: &Vec<String>) -> Option<String> {
        Some(shell_line(value))
    }
}

/// Chords. Which modifier Lead is, only a rice knows: it is resolved when the keys are pressed.
pub(super) struct ChordsArg;

impl Argument for ChordsArg {
    type Value = String;
    const FORM: &'static str = "CHORD…";
    fn read(words: &[&str]) -> Option<String> {
        (!words.is_empty()).then(|| words.join(" "))
    }
    fn write(value: &String) -> String {
        value.clone()
    }
    fn choices(_: &dyn References) -> Vec<String> {
        vec![String::new()]
    }
    fn reaches(value: &String) -> Option<String> {
        Some(format!("types {value}"))
    }
}
