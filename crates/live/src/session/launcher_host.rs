//! What the launcher asks of the outside: lists, starts, and what was used how much.

use std::collections::HashMap;
use std::path::PathBuf;
use std::rc::Rc;
use std::time::{SystemTime, UNIX_EPOCH};

use jovrik_core::desktop::DesktopEvent;
use serde_json::{Map, Value, json};

use super::Session;
use crate::Error;
use crate::activate::activate;
use crate::list_provider::LaunchCommand;

/// What was used half of this time ago counts half, in days.
const HALF: f64 = 14.0;
/// So many things are remembered.
const MAX_USES: usize = 2000;
/// The largest file of them that is read, in bytes.
const MAX_USES_BYTES: u64 = 1024 * 1024;

/// How much each thing was used, and when last, in days since 1970.
#[derive(Debug, Default)]
pub(super) struct Uses(HashMap<String, (f64, f64)>);

fn today() -> f64 {
    SystemTime::now().duration_since(UNIX_EPOCH).map_or(0.0, |since| since.as_secs_f64() / 86_400.0)
}

fn faded(used: f64, since: f64, now: f64) -> f64 {
    used * 0.5_f64.powf((now - since).max(0.0) / HALF)
}

impl Uses {
    /// As they were kept; nothing where that cannot be read.
    fn read(file: &std::path::Path) -> Uses {
        let bytes = jovrik_file::read_file(file, MAX_USES_BYTES).unwrap_or_default();
        let kept: Map<String, Value> = serde_json::from_slice(&bytes).unwrap_or_default();
        let one = |(id, value): (String, Value)| {
            let number = |at: usize| value.get(at).and_then(Value::as_f64).filter(|number| number.is_finite());
            Some((id, (number(0)?.clamp(0.0, 1e6), number(1)?)))
        };
        Uses(kept.into_iter().filter_map(one).collect())
    }

    fn add(&mut self, id: &str, now: f64) {
        let (used, since) = self.0.get(id).copied().unwrap_or_default();
        self.0.insert(id.to_owned(), (faded(used, since, now) + 1.0, now));
        while self.0.len() > MAX_USES {
            let least = |one: &(&String, &(f64, f64))| faded(one.1.0, one.1.1, now);
            let Some(id) = self.0.iter().min_by(|a, b| least(a).total_cmp(&least(b))).map(|(id, _)| id.clone()) else { break };
            self.0.remove(&id);
        }
    }

    /// As they count now.
    fn now(&self, now: f64) -> HashMap<String, f32> {
        self.0.iter().map(|(id, (used, since))| (id.clone(), faded(*used, *since, now) as f32)).collect()
    }

    fn write(&self, file: &std::path::Path) -> std::io::Result<()> {
        let kept: Map<String, Value> = self.0.iter().map(|(id, (used, since))| (id.clone(), json!([used, since]))).collect();
        jovrik_file::write_private(file, Value::Object(kept).to_string().as_bytes())
    }
}

impl Session {
    fn uses_file(&self) -> PathBuf {
        self.options.state.join("launcher.json")
    }

    /// What was used before.
    pub(super) fn read_uses(&mut self) -> Result<(), Error> {
        self.uses = Uses::read(&self.uses_file());
        let uses = self.uses.now(today());
        if uses.is_empty() { Ok(()) } else { self.step(DesktopEvent::Uses(uses)) }
    }

    /// Something was chosen.
    pub(super) fn used(&mut self, id: &str) -> DesktopEvent {
        let now = today();
        self.uses.add(id, now);
        if let Err(error) = self.uses.write(&self.uses_file()) {
            tracing::warn!(%error, "what was chosen is not remembered");
        }
        DesktopEvent::Uses(self.uses.now(now))
    }

    /// What stands in a list that the desktop does not know by itself.
    pub(super) fn list(&mut self, name: &str) -> DesktopEvent {
        let rice = self.desktop.desk().rice().clone();
        let entries = self.lists.entries(name, &rice, &self.options.folder);
        DesktopEvent::Entries(
            name.to_owned(),
            Rc::new(entries.unwrap_or_else(|| jovrik_core::launcher::LauncherList::new(Vec::new()))),
        )
    }

    /// Lists whose folders have changed are told anew.
    pub(super) fn hear_lists(&mut self) -> Result<(), Error> {
        for list in self.lists.changed() {
            if list == "pictures" {
                self.stage.brush().pictures.forget();
            }
            let event = self.list(list);
            self.step(event)?;
        }
        Ok(())
    }

    /// Shows pictures that are there now.
    pub(super) fn show_pictures(&mut self) -> Result<(), Error> {
        if self.drawing.turn(self.now) {
            self.stage.shows_missing(&self.desktop);
            self.stage.show(&self.desktop)?;
            self.drawing.forget();
        }
        Ok(())
    }

    /// Starts a desktop entry.
    pub(super) fn start_entry(&mut self, id: &str, action: Option<&str>) -> DesktopEvent {
        let rice = self.desktop.desk().rice().clone();
        match self.lists.start(id, action, &rice) {
            Ok(LaunchCommand { bus: Some((name, action)), .. }) => match activate(&name, action.as_deref()) {
                Ok(()) => DesktopEvent::Tick,
                Err(why) => DesktopEvent::NotStarted(format!("{name} is not started by the bus: {why}")),
            },
            Ok(start) => {
                let env: Vec<(String, String)> =
                    rice.environment.iter().map(|(name, value)| (name.clone(), value.0.clone())).collect();
                self.launch(&start.argv, &env, start.folder.as_deref())
            }
            Err(why) => DesktopEvent::NotStarted(why.to_string()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::Uses;

    #[test]
    fn what_was_used_fades_and_the_least_used_is_forgotten() {
        let mut uses = Uses::default();
        uses.add("apps/log", 100.0);
        uses.add("apps/log", 100.0);
        uses.add("apps/map", 100.0);
        let now = uses.now(114.0);
        assert!((now["apps/log"] - 1.0).abs() < 1e-6 && (now["apps/map"] - 0.5).abs() < 1e-6, "{now:?}");
        for nth in 0..super::MAX_USES {
            uses.add(&format!("characters/{nth}"), 200.0);
        }
        assert_eq!(uses.0.len(), super::MAX_USES);
        assert!(!uses.0.contains_key("apps/map"));
    }

    #[test]
    fn a_file_that_is_broken_is_as_if_there_was_none() {
        let folder = std::env::temp_dir().join(format!("jovrik-uses-{}", std::process::id()));
        std::fs::create_dir_all(&folder).expect("a folder");
        let file = folder.join("launcher.json");
        for broken in ["", "[", "[]", "{\"a\": 3}", "{\"a\": [1e999, 2]}", "{\"a\": [\"x\", 2]}"] {
            std::fs::write(&file, broken).expect("written");
            assert!(Uses::read(&file).0.is_empty(), "{broken}");
        }
        let mut uses = Uses::default();
        uses.add("apps/log", 20_000.25);
        uses.write(&file).expect("written");
        assert_eq!(Uses::read(&file).0, uses.0);
        std::fs::remove_dir_all(folder).expect("taken away");
    }
}
