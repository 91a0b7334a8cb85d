//! What actions name of a rice.

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
    /// A palette.
    Palette,
    /// A list of the launcher.
    List,
}

impl Thing {
    /// All that a rice has of it, in order.
    pub fn of(self, rice: &Rice) -> Vec<&str> {
        match self {
            Thing::Program => rice.program.keys().map(String::as_str).collect(),
            Thing::Workspace => rice.workspace_names(),
            Thing::Layout => {
                let built_in = crate::rice::LayoutKind::ALL.iter().map(|kind| kind.word());
                rice.layout.keys().map(String::as_str).chain(built_in).collect()
            }
            Thing::Palette => rice.palette.all.keys().map(String::as_str).collect(),
            Thing::Bar => rice.bar.keys().map(String::as_str).collect(),
            Thing::Group => {
                let groups = rice.module.iter().filter(|(_, module)| !module.group.is_empty());
                groups.map(|(name, _)| name.as_str()).collect()
            }
            Thing::Mode => rice.keys.desk.modes.keys().map(String::as_str).collect(),
            Thing::List => crate::launcher::lists(rice),
            Thing::Keyboard => rice.keyboard.layouts.iter().map(String::as_str).collect(),
        }
    }
}
