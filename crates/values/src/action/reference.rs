//! What actions name of a rice.

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

/// Whatever has names that actions can mean, such as a rice.
pub trait References {
    /// All names of a kind, in order.
    fn names(&self, kind: ReferenceKind) -> Vec<&str>;
}
