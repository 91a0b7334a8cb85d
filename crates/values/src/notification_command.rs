//! What is done with all notifications.

use std::time::Duration;

/// What is done with all of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NotificationCommand {
    /// The latest goes.
    Dismiss,
    /// All go.
    DismissAll,
    /// Only urgent ones are shown from now on, or all again.
    Pause,
    /// Only urgent ones are shown for so long.
    PauseFor(Duration),
}
