//! What lies over what.

use serde::Serialize;

/// What lies over what, from below: the stacking order of a screen is this list.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum StackingLayer {
    /// What is behind everything.
    Backdrop,
    /// Desktops of other programs.
    Desktop,
    /// What lies on the backdrop and shows values.
    Widgets,
    /// Windows that a program wants below the others (EWMH).
    Below,
    /// Tiles, and their strips of titles.
    Tiles,
    /// What floats over the tiles.
    Floating,
    /// Bars.
    Bars,
    /// Windows that a program wants above the others (EWMH).
    Above,
    /// A window over all of its monitor.
    Full,
    /// What shows where a dragged window would go.
    Drag,
    /// Notices.
    Notices,
    /// The launcher.
    Launcher,
    /// Menus and hints.
    Menus,
    /// The sheet of all keys.
    Sheet,
}
