//! Programs that start by themselves.

use std::path::PathBuf;

use jovrik_core::desktop::DesktopEvent;
use jovrik_core::rice::{AutostartEntry, AutostartTrigger, Rice};
use jovrik_file::{read_file, write_private};
use jovrik_values::action::Action;
use serde::{Deserialize, Serialize};

use super::Session;
use crate::Error;

/// More of what was started is not remembered, in bytes.
const MAX_STARTED_BYTES: u64 = 64 * 1024;

/// A program that was started by itself, as it is remembered on this display: in case the desktop ends and it does not.
#[derive(Debug, PartialEq, Eq, Serialize, Deserialize)]
struct Remembered {
    /// Its name among those that start.
    name: String,
    process: u32,
    /// Since when that runs, in ticks of the kernel: another process may get its number.
    since: u64,
}

impl Remembered {
    fn lives(&self) -> bool {
        since(self.process) == Some(self.since)
    }
}

/// Since when a process runs that is no corpse (proc(5), `/proc/PID/stat`, fields 3 and 22).
fn since(process: u32) -> Option<u64> {
    let text = std::fs::read_to_string(format!("/proc/{process}/stat")).ok()?;
    let mut fields = text.rsplit_once(')')?.1.split_whitespace();
    let state = fields.next()?;
    (!matches!(state, "Z" | "X")).then(|| fields.nth(18)?.parse().ok()).flatten()
}

impl Session {
    /// Starts what the rice says, each window on the workspace that is named; after a reload from an older rice only what
    /// that asks for. What runs already from an earlier desktop on this display is not started again.
    pub(super) fn start_programs(&mut self, before: Option<&Rice>) -> Result<(), Error> {
        self.starting = true;
        let done = self.start_due(before);
        self.starting = false;
        done
    }

    fn start_due(&mut self, before: Option<&Rice>) -> Result<(), Error> {
        let rice = self.desktop.desk().rice().clone();
        let due = |name: &String, start: &AutostartEntry| match (start.when, before) {
            (AutostartTrigger::Login | AutostartTrigger::Change, None) | (AutostartTrigger::Reload, Some(_)) => true,
            (AutostartTrigger::Login, Some(_)) | (AutostartTrigger::Reload, None) => false,
            (AutostartTrigger::Change, Some(before)) => before.start.get(name).is_none_or(|old| !old.starts_the_same(start)),
        };
        let mut remembered = self.remembered();
        let mut news = before.is_none();
        for (name, start) in rice.start.iter().filter(|(name, start)| due(name, start)) {
            let argv = start.argv();
            let app = match &argv {
                Some(argv) => argv.first().map(|first| first.rsplit('/').next().unwrap_or(first)),
                None => rice.program.get(&start.open).map(|program| program.app()),
            };
            if before.is_none() && (remembered.iter().any(|one| one.name == *name) || app.is_some_and(|app| self.has_window(app)))
            {
                tracing::info!(name, "runs already");
                continue;
            }
            if let (Some(app), Some(workspace)) = (app, &start.workspace) {
                self.step(DesktopEvent::Expect(app.to_owned(), workspace.clone()))?;
            }
            let action = match argv {
                Some(argv) => Action::Run(argv),
                None if start.open.is_empty() => continue,
                None => Action::Open(start.open.clone()),
            };
            let launched = self.launched;
            self.step(DesktopEvent::Act(action))?;
            if let Some(process) = self.programs.latest().filter(|_| self.launched > launched)
                && let Some(since) = since(process)
            {
                remembered.push(Remembered { name: name.clone(), process, since });
                news = true;
            }
        }
        if news {
            self.remember(&remembered);
        }
        Ok(())
    }

    /// Whether a window of an app is there.
    fn has_window(&self, app: &str) -> bool {
        self.desktop.desk().windows.values().any(|window| window.facts.app_id.eq_ignore_ascii_case(app))
    }

    fn remembered_in(&self) -> PathBuf {
        self.options.socket.with_extension("started")
    }

    /// What was started by itself on this display and still lives.
    fn remembered(&self) -> Vec<Remembered> {
        let bytes = read_file(&self.remembered_in(), MAX_STARTED_BYTES).unwrap_or_default();
        let all: Vec<Remembered> = serde_json::from_slice(&bytes).unwrap_or_default();
        all.into_iter().filter(Remembered::lives).collect()
    }

    fn remember(&self, all: &[Remembered]) {
        let bytes = serde_json::to_vec(all).unwrap_or_default();
        if let Err(error) = write_private(&self.remembered_in(), &bytes) {
            tracing::warn!(%error, "what was started is not remembered");
        }
    }
}
