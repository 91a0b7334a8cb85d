//! Programs that start by themselves.

use jovrik_core::desk::Action;
use jovrik_core::desktop::Event;
use jovrik_core::rice::{Rice, Start, StartWhen};

use super::Session;
use crate::Error;

impl Session {
    /// Starts what the rice says, each window on the workspace that is named; after a reload from an older rice only what
    /// that asks for.
    pub(super) fn start_programs(&mut self, before: Option<&Rice>) -> Result<(), Error> {
        let rice = self.desktop.desk().rice().clone();
        let due = |name: &String, start: &Start| match (start.when, before) {
            (StartWhen::Login | StartWhen::Change, None) | (StartWhen::Reload, Some(_)) => true,
            (StartWhen::Login, Some(_)) | (StartWhen::Reload, None) => false,
            (StartWhen::Change, Some(before)) => before.start.get(name).is_none_or(|old| !old.starts_the_same(start)),
        };
        for (_, start) in rice.start.iter().filter(|(name, start)| due(name, start)) {
            let argv = start.argv();
            let app = match &argv {
                Some(argv) => argv.first().map(|first| first.rsplit('/').next().unwrap_or(first)),
                None => rice.program.get(&start.open).map(|program| program.app()),
            };
            if let (Some(app), Some(workspace)) = (app, &start.workspace) {
                self.step(Event::Expect(app.to_owned(), workspace.clone()))?;
            }
            let action = match argv {
                Some(argv) => Action::Run(argv),
                None if start.open.is_empty() => continue,
                None => Action::Open(start.open.clone()),
            };
            self.step(Event::Act(action))?;
        }
        Ok(())
    }
}
