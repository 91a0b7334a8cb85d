//! Lines of values that go on where they were after a restart.

use std::path::PathBuf;
use std::time::{Duration, Instant};

use jovrik_source::FieldHistory;

use super::Session;

/// They are kept no more often than this, and when the session ends.
const SAVE_INTERVAL: Duration = Duration::from_secs(60);
/// The largest file of them that is read, in bytes.
const MAX_GRAPHS_BYTES: u64 = 4 * 1024 * 1024;

impl Session {
    fn graphs_file(&self) -> PathBuf {
        self.options.state.join("graphs.json")
    }

    fn remembers(&self) -> bool {
        self.desktop.desk().rice().widget.values().any(|widget| widget.remember)
    }

    /// What was kept of them.
    pub(super) fn read_graphs(&mut self) {
        if self.remembers() {
            let bytes = jovrik_file::read_file(&self.graphs_file(), MAX_GRAPHS_BYTES).unwrap_or_default();
            let past: FieldHistory = serde_json::from_slice(&bytes).unwrap_or_default();
            self.engine.recall(past);
            self.graphs_kept = Some(self.now);
        }
    }

    /// Keeps them, where the rice asks for it: once in a while, or now.
    pub(super) fn keep_graphs(&mut self, now: bool) {
        let due = |kept: &Instant| now || self.now.saturating_duration_since(*kept) >= SAVE_INTERVAL;
        if !self.remembers() || !self.graphs_kept.as_ref().is_none_or(due) {
            return;
        }
        self.graphs_kept = Some(self.now);
        let past = self.engine.past(self.desktop.desk().rice());
        let file = self.graphs_file();
        let written = serde_json::to_vec(&past).map_err(std::io::Error::other);
        let written = written.and_then(|bytes| jovrik_file::write_private(&file, &bytes));
        if let Err(error) = written {
            tracing::warn!(%error, "graphs are not remembered");
        }
    }
}
