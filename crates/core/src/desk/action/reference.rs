//! What actions name of a rice.

use crate::rice::Rice;

/// A kind of thing in a rice that an action names.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum ReferenceKind {
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

impl ReferenceKind {
    /// All that a rice has of it, in order.
    pub fn of(self, rice: &Rice) -> Vec<&str> {
        match self {
            ReferenceKind::Program => rice.program.keys().map(String::as_str).collect(),
            ReferenceKind::Workspace => rice.workspace_names(),
            ReferenceKind::Layout => {
                let built_in = crate::rice::LayoutKind::ALL.iter().map(|kind| kind.word());
                rice.layout.keys().map(String::as_str).chain(built_in).collect()
            }
            ReferenceKind::Palette => rice.palette.all.keys().map(String::as_str).collect(),
            ReferenceKind::Bar => rice.bar.keys().map(String::as_str).collect(),
            ReferenceKind::Group => {
                let groups = rice.module.iter().filter(|(_, module)| !module.group.is_empty());
                groups.map(|(name, _)| name.as_str()).collect()
            }
            ReferenceKind::Mode => rice.keys.desk.modes.keys().map(String::as_str).collect(),
            ReferenceKind::List => crate::launcher::lists(rice),
            ReferenceKind::Keyboard => rice.keyboard.layouts.iter().map(String::as_str).collect(),
        }
    }
}
