//! What the running desktop answers to questions.

use std::time::{Duration, Instant};

use jovrik_core::bar::What;
use jovrik_core::problem::count;
use jovrik_core::rice::Span;
use serde_json::{Value, json};

use super::Session;

impl Session {
    pub(super) fn answer(&self, what: &str) -> Result<Value, String> {
        let focus = self.desk.focused();
        match what {
            "windows" => Ok(self
                .desk
                .windows
                .iter()
                .map(|(id, window)| {
                    let placed = self.desk.arrangement().placed.get(id);
                    json!({
                        "window": format!("0x{:x}", id.0),
                        "app": window.facts.app,
                        "title": window.facts.title,
                        "workspace": self.desk.workspaces[window.workspace].name,
                        "area": placed.map_or("hidden".to_owned(), |placed| placed.area.to_string()),
                        "floating": window.facts.floats.is_some(),
                        "focused": focus == Some(*id),
                        "calls": window.urgent,
                    })
                })
                .collect()),
            "workspaces" => Ok((0..self.desk.workspaces.len())
                .map(|at| {
                    let workspace = &self.desk.workspaces[at];
                    json!({
                        "workspace": workspace.name,
                        "layout": self.desk.layout_of(at).0,
                        "windows": workspace.windows.len(),
                        "monitor": self.desk.monitors[workspace.home.min(self.desk.monitors.len() - 1)].facts.name,
                        "shown": self.desk.monitors.iter().any(|monitor| monitor.workspace == at),
                        "focused": self.desk.workspace() == at,
                    })
                })
                .collect()),
            "monitors" => Ok(self
                .desk
                .monitors
                .iter()
                .map(|monitor| json!({ "monitor": monitor.facts.name, "area": monitor.facts.area.to_string(), "workspace": self.desk.workspaces[monitor.workspace].name }))
                .collect()),
            "bars" => Ok(self.bars_told()),
            "health" => Ok(self.health()),
            other => Err(format!("nobody knows {other}: it may be windows, workspaces, monitors, bars or health")),
        }
    }

    /// Every bar with its modules as they are shown.
    fn bars_told(&self) -> Value {
        let area = |rect: jovrik_core::scene::Rect| format!("{}x{}+{}+{}", rect.w, rect.h, rect.x, rect.y);
        let mut all = Vec::new();
        for (monitor, strip) in self.bars.strips() {
            for shown in &strip.modules {
                let text = match &shown.what {
                    What::Text { text, .. } => text.clone(),
                    What::Staff(marks) => marks.iter().map(|mark| mark.workspace.as_str()).collect::<Vec<_>>().join(" "),
                    What::Layout { sketch, .. } => sketch.name.clone(),
                    What::Tray { windows, signs } => count(windows + signs.len(), "icon"),
                };
                all.push(json!({
                    "bar": strip.name,
                    "module": shown.name,
                    "text": text,
                    "area": area(shown.rect),
                    "monitor": self.desk.monitors.get(monitor).map(|monitor| &monitor.facts.name),
                }));
            }
        }
        all.into()
    }

    pub(super) fn health(&self) -> Value {
        let now = Instant::now();
        let stages: serde_json::Map<String, Value> = self
            .reload
            .stages
            .iter()
            .map(|(name, time)| ((*name).to_owned(), json!(format!("{:.2} ms", time.as_secs_f64() * 1000.0))))
            .collect();
        let troubled: Vec<String> = self
            .engine
            .health(now)
            .into_iter()
            .filter_map(|(name, health)| {
                let trouble = health.trouble?;
                let first = health.complaint.lines().next().map_or(String::new(), |line| format!("; it says: {line}"));
                let age = health.age.map(|age| Span::words(Duration::from_secs(age.as_secs())));
                let age = age.map_or(String::new(), |age| format!("; what is shown is {age} old"));
                Some(format!("{name}: {trouble}{first}{age}"))
            })
            .collect();
        json!({
            "display": self.options.display,
            "up": Span::words(Duration::from_secs(self.started.elapsed().as_secs())),
            "windows": self.desk.windows.len(),
            "last-reload": self.reload.state,
            "problems": self.reload.problems,
            "stages": stages,
            "reloads-accepted": self.reload.accepted,
            "reloads-refused": self.reload.refused,
            "wake-ups": self.wakeups,
            "bar-redraws": self.bars.drawn,
            "chords-grabbed": self.grabbed.len() + self.held.len(),
            "chords-held-by-others": self.held.values().collect::<std::collections::BTreeSet<_>>(),
            "chords-no-key-makes": self.cannot,
            "keyboard": self.board.now().layout,
            "mode": self.desk.mode,
            "last-refusal": self.refused,
            "modules-in-trouble": troubled,
        })
    }
}
