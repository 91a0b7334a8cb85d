//! What actions take: how it is written, what can be chosen, and what it names.

use super::words::shell_line;
use super::{MainChange, Way, Which};
use crate::rice::Rice;

/// A kind of thing in a rice that an action names.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Thing {
    /// A table of `[program]`.
    Program,
    /// A workspace.
    Workspace,
    /// A layout, of the rice or built in.
    Layout,
    /// A bar.
    Bar,
    /// A module with a group.
    Group,
    /// A mode of the desk's bindings.
    Mode,
    /// A layout of the keyboard.
    Keyboard,
}

impl Thing {
    /// All that a rice has of it, in order.
    pub fn of(self, rice: &Rice) -> Vec<&str> {
        match self {
            Thing::Program => rice.program.keys().map(String::as_str).collect(),
            Thing::Workspace => rice.workspace_names(),
            Thing::Layout => {
                let built_in = crate::rice::LayoutKind::BUILT.map(crate::rice::LayoutKind::word);
                rice.layout.keys().map(String::as_str).chain(built_in).collect()
            }
            Thing::Bar => rice.bar.keys().map(String::as_str).collect(),
            Thing::Group => {
                let groups = rice.module.iter().filter(|(_, module)| !module.group.is_empty());
                groups.map(|(name, _)| name.as_str()).collect()
            }
            Thing::Mode => rice.keys.desk.modes.keys().map(String::as_str).collect(),
            Thing::Keyboard => rice.keyboard.layouts.iter().map(String::as_str).collect(),
        }
    }
}

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
    fn choices(rice: &Rice) -> Vec<String>;
    /// What it names in a rice.
    fn names(_: &Self::Value) -> Option<(Thing, &str)> {
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
    fn choices(_: &Rice) -> Vec<String> {
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
            fn choices(_: &Rice) -> Vec<String> {
                $words.iter().map(|(name, _)| (*name).to_owned()).collect()
            }
        }
    };
}

words! {
    /// A way to another window.
    ToFocus: Way = "next|prev|left|right|up|down|last", Way::WORDS
}
words! {
    /// A way to change places; the last one is no place.
    ToMove: Way = "next|prev|left|right|up|down", Way::WORDS[..6]
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
            type Value = Which;
            const FORM: &'static str = $form;
            fn read(words: &[&str]) -> Option<Which> {
                let [word] = words else { return None };
                let which = Which::parse(word);
                let known = [$(Which::$word),*].contains(&which) || matches!(which, Which::Named(_));
                known.then_some(which)
            }
            fn write(value: &Which) -> String {
                match value {
                    Which::Named(name) => shell_line(&[name]),
                    other => other.to_string(),
                }
            }
            fn choices(rice: &Rice) -> Vec<String> {
                let names = Thing::$thing.of(rice).into_iter().map(|name| shell_line(&[name]));
                names.chain([$(Which::$word.to_string()),*]).collect()
            }
            fn names(value: &Which) -> Option<(Thing, &str)> {
                match value {
                    Which::Named(name) => Some((Thing::$thing, name)),
                    _ => None,
                }
            }
        }
    };
}

which! {
    /// A workspace.
    ToWorkspace: Workspace = "WORKSPACE|next|prev|back", Next Prev Back
}
which! {
    /// A layout.
    ToLayout: Layout = "NAME|next|prev", Next Prev
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
            fn choices(rice: &Rice) -> Vec<String> {
                Thing::$thing.of(rice).into_iter().map(|name| shell_line(&[name])).collect()
            }
            fn names(value: &String) -> Option<(Thing, &str)> {
                Some((Thing::$thing, value))
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
    fn choices(rice: &Rice) -> Vec<String> {
        let modes = Thing::Mode.of(rice).into_iter().map(|mode| shell_line(&[mode]));
        std::iter::once("leave".to_owned()).chain(modes).collect()
    }
    fn names(value: &Option<String>) -> Option<(Thing, &str)> {
        value.as_ref().map(|mode| (Thing::Mode, mode.as_str()))
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
    fn choices(rice: &Rice) -> Vec<String> {
        let bars = Thing::Bar.of(rice).into_iter().map(|bar| shell_line(&[bar]));
        std::iter::once(String::new()).chain(bars).collect()
    }
    fn names(value: &Bars) -> Option<(Thing, &str)> {
        value.name.as_ref().map(|bar| (Thing::Bar, bar.as_str()))
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
    fn choices(_: &Rice) -> Vec<String> {
        vec![String::new()]
    }
    fn reaches(value: &Vec<String>) -> Option<String> {
        Some(shell_line(value))
    }
}

/// Chords. Which modifier Lead is, only a rice knows: it is resolved when the keys are pressed.
pub(super) struct Chords;

impl Argument for Chords {
    type Value = String;
    const FORM: &'static str = "CHORD…";
    fn read(words: &[&str]) -> Option<String> {
        (!words.is_empty()).then(|| words.join(" "))
    }
    fn write(value: &String) -> String {
        value.clone()
    }
    fn choices(_: &Rice) -> Vec<String> {
        vec![String::new()]
    }
    fn reaches(value: &String) -> Option<String> {
        Some(format!("types {value}"))
    }
}
