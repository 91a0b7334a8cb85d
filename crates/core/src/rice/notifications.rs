//! What programs want to tell, and how long it stays.

use std::time::Duration;

use jovrik_schema::catalogue::{AtomicSetting, Capability, ValueConstraint, ValueType};
use jovrik_schema::{Integer, NamedMap, Px, SettingReader, TimeSpan, named_value, settings};
use jovrik_toml::{SpannedValue, ValueError};
use jovrik_values::WindowPattern;

named_value! {
    /// A corner of a screen.
    pub enum ScreenCorner as "corner" {
        /// Above, at the left.
        TopLeft = "top-left",
        /// Above, at the right.
        TopRight = "top-right",
        /// Below, at the left.
        BottomLeft = "bottom-left",
        /// Below, at the right.
        BottomRight = "bottom-right",
    }
}

/// How long something stays: a time, or until somebody takes it away.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct DisplayTime(pub Option<Duration>);

impl AtomicSetting for DisplayTime {
    const KIND: ValueType = ValueType {
        name: "duration or never",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"8s\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        if node.text() == Some("never") {
            return Ok(DisplayTime(None));
        }
        let expected = |_| ValueError::kind("expected a time with its unit, such as \"8s\", or \"never\"");
        TimeSpan::from_node(node, reader).map(|span| DisplayTime(Some(span.0))).map_err(expected)
    }
}

settings! {
    /// how long they stay, by how urgent they are
    pub struct NotificationTimes {
        /// those that can wait
        #[also = "low urgency timeout"]
        low: DisplayTime = "3s",
        /// most of them
        #[also = "notification timeout, timeout, how long"]
        normal: DisplayTime = "6s",
        /// those that cannot wait
        #[also = "critical timeout"]
        urgent: DisplayTime = "never",
    }
}

named_value! {
    /// The order in which they stand, from the corner.
    pub enum NotificationSort as "order" {
        /// The latest first.
        Latest = "latest-first",
        /// The oldest first.
        Oldest = "oldest-first",
        /// Urgent ones first, then the latest.
        Urgent = "urgent-first",
    }
}

named_value! {
    /// How urgent something is.
    pub enum Urgency as "urgency" or Normal {
        /// It can wait.
        Low = "low",
        /// As most.
        Normal = "normal",
        /// It cannot wait.
        Urgent = "urgent",
    }
}

settings! {
    /// a rule for what programs tell; all that is given must hold, and of several the later win
    pub struct NotificationRule {
        /// the name of the program
        /// "gullmail"
        #[also = "notification rule, filter"]
        app: Option<WindowPattern>,
        /// what its title and its text hold
        /// "*low water*"
        #[also = "filter notifications"]
        words: Option<WindowPattern>,
        /// how urgent it is told
        /// "low"
        urgency: Option<Urgency>,
        /// whether it is kept, and not shown
        #[also = "mute, silence notifications, do not disturb"]
        quiet: bool = false,
        /// how urgent it is taken
        /// "urgent"
        shown_as: Option<Urgency>,
        /// how long it stays
        /// "20s"
        last: Option<DisplayTime>,
    }
}

settings! {
    /// what programs want to tell
    pub struct NotificationSettings {
        /// the corner of the screen that they begin at
        #[also = "notification position, notifications, notification corner"]
        corner: ScreenCorner = "top-right",
        /// how wide they are
        #[also = "notification width, notification size"]
        width: Px<160, 1200> = 342,
        /// from the edge that windows keep to theirs
        #[also = "notification margin, offset"]
        margin: Px<0, 200> = 12,
        /// from one to the next
        #[also = "notification gap"]
        between: Px<0, 100> = 8,
        /// how many are shown at once; the others wait
        #[also = "max notifications, limit"]
        most: Integer<1, 20> = 5,
        /// the order in which they stand, from the corner
        #[also = "notification order"]
        sort: NotificationSort = "latest-first",
        /// whether those of one program are folded into one
        #[also = "group notifications, stack"]
        group: bool = true,
        /// how large the picture beside them is; 0 shows none
        #[also = "notification icon size"]
        icon_size: Px<0, 256> = 32,
        /// how long they stay
        last: NotificationTimes,
        /// rules for some of them
        rule: NamedMap<NotificationRule>,
        /// whether they lie over a window that is over all of its monitor
        #[also = "fullscreen notifications, do not disturb in fullscreen"]
        over_full: bool = true,
    }
}
