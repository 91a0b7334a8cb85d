//! Time, as it is handed in.

use std::time::Duration;

/// A moment: how long after the machine began. Nothing in the core asks a clock.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default)]
pub struct MonotonicTime(pub Duration);

impl MonotonicTime {
    /// So much later.
    #[must_use]
    pub fn after(self, span: Duration) -> MonotonicTime {
        MonotonicTime(self.0.saturating_add(span))
    }
}
