//! Values that reach out of the rice: they start, load or write something. Their types say so, and whoever takes a rice from
//! others is asked before any of them counts.

use std::ops::Deref;

use super::Rice;
use super::catalogue::{Allowed, Kind, OneValue, Reach, Shape, find};
use crate::desk::Action;
use crate::load::{Node, Reader, Wrong};

/// How far a setting reaches; nothing when there is none at a path.
pub fn reach_of<S: AsRef<str>>(steps: &[S]) -> Option<Reach> {
    match find(Rice::CATALOGUE, steps).ok()?.shape() {
        Shape::One(kind) => Some(kind.reach),
        Shape::Table(_) | Shape::Named(..) => None,
    }
}

macro_rules! reaching {
    ($(#[$doc:meta])* $name:ident($inner:ty, $target:ty): $reach:expr) => {
        $(#[$doc])*
        #[derive(Debug, Clone, PartialEq, Eq, Default)]
        pub struct $name(pub $inner);

        impl Deref for $name {
            type Target = $target;
            fn deref(&self) -> &$target {
                &self.0
            }
        }

        impl OneValue for $name {
            const KIND: Kind = Kind { reach: $reach, ..<$inner as OneValue>::KIND };
            fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
                <$inner as OneValue>::from_node(node, reader).map($name)
            }
        }
    };
}

reaching! {
    /// A line for the shell.
    ShellLine(String, str): Reach::Starts
}
reaching! {
    /// A program with its arguments.
    Argv(Vec<String>, [String]): Reach::Starts
}
/// An action, as it is written.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ActionText(pub String);

impl Deref for ActionText {
    type Target = str;
    fn deref(&self) -> &str {
        &self.0
    }
}

impl OneValue for ActionText {
    const KIND: Kind =
        Kind { name: "action", unit: "", allowed: Allowed::Any, example: "\"open locker\"", reach: Reach::Starts, fields: &[] };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let text = String::from_node(node, reader)?;
        match Action::parse(&text) {
            Ok(_) => Ok(ActionText(text)),
            Err(unknown) => Err(unknown.wrong(&text)),
        }
    }
}

reaching! {
    /// The value of a variable of the environment.
    Variable(String, str): Reach::Environment
}
