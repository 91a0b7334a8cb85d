//! The dock: what stands in it, and where.

use jovrik_schema::{Glob, NamedMap, Px, TimeSpan, named_value, settings};
use jovrik_values::{ActionText, Align, IconRef, Side};

named_value! {
    /// When the dock is out of sight.
    pub enum DockHides as "time" {
        /// Never: windows keep off it.
        Never = "never",
        /// Until the pointer comes to its edge.
        Always = "always",
        /// While a window lies where it would, until the pointer comes to its edge.
        Overlapped = "overlapped",
    }
}

named_value! {
    /// When names stand by what is in the dock.
    pub enum DockLabels as "time" {
        /// While the pointer rests on it.
        Hover = "hover",
        /// Never.
        Never = "never",
        /// Always, below it; at the sides while the pointer rests on it.
        Always = "always",
    }
}

settings! {
    /// something in the dock that is an action
    pub struct DockAction {
        /// what a press on it does
        /// "quit"
        r#do: ActionText = "none",
        /// its drawing
        /// "gear"
        icon: IconRef = "none",
    }
}

settings! {
    /// programs at an edge of the screen: to be started, and those that run
    pub struct DockSettings {
        /// what always stands in it, in order: programs of [program], desktop entries by their ids, what is made in own, and - for a line between
        #[also = "pinned apps, favourites, favorites, dock items, pinned"]
        keep: Vec<String> = [],
        /// whether programs with windows stand behind those
        #[also = "running apps, task list, taskbar"]
        running: bool = false,
        /// whether windows of other workspaces count
        #[also = "all workspaces"]
        everywhere: bool = true,
        /// what stands in it that is an action, name by name
        own: NamedMap<DockAction>,
        /// the edge it lies at
        #[also = "dock position, dock side"]
        edge: Side = "bottom",
        /// where along its edge
        align: Align = "middle",
        /// the monitors it is on, by name
        monitor: Glob = "*",
        /// how large what stands in it is drawn
        #[also = "dock size, dock icon size"]
        size: Px<8, 256> = 28,
        /// how large it is drawn under the pointer; 0: no larger
        #[also = "magnification, zoom, dock hover size"]
        grown: Px<0, 256> = 0,
        /// from it to the edge of the screen
        margin: Px<0, 200> = 8,
        /// when it is out of sight
        #[also = "dock autohide, autohide dock"]
        hide: DockHides = "never",
        /// how long the pointer is at its edge before it comes
        show_after: TimeSpan = "120ms",
        /// how long the pointer is elsewhere before it goes
        hide_after: TimeSpan = "500ms",
        /// when names stand by what is in it
        #[also = "dock tooltips"]
        labels: DockLabels = "hover",
        /// whether it says how much a program has told that nobody has dealt with
        #[also = "badges, unread count"]
        counts: bool = true,
    }
}

/// What stands for a line between two things.
pub const SEPARATOR: &str = "-";

impl DockSettings {
    /// Whether there is one.
    pub fn is_there(&self) -> bool {
        self.running || !self.keep.is_empty()
    }
}
