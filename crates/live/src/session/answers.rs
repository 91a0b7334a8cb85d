//! What the running desktop answers to questions.

use std::time::Duration;

use jovrik_core::bar::ModuleContent;
use jovrik_schema::TimeSpan;
use jovrik_text::problem::count;
use serde_json::{Value, json};

use super::Session;
use crate::RequestError;

impl Session {
    pub(super) fn answer(&self, what: &str) -> Result<Value, RequestError> {
        let desk = self.desktop.desk();
        let focus = desk.focused();
        match what {
            "windows" => Ok(desk
                .windows
                .iter()
                .map(|(id, window)| {
                    let placed = desk.arrangement().placed.get(id);
                    json!({
                        "window": format!("0x{:x}", id.0),
                        "app": window.facts.app_id,
                        "instance": window.facts.instance,
                        "role": window.facts.role,
                        "transient": window.facts.transient_for.is_some(),
                        "monitor": desk.monitors[desk.workspaces[window.workspace].monitor].facts.name,
                        "title": window.facts.title,
                        "kind": window.facts.window_type.word(),
                        "workspace": desk.workspaces[window.workspace].name,
                        "area": placed.map_or("hidden".to_owned(), |placed| placed.area.to_string()),
                        "too-small": placed.is_some_and(|placed| {
                            let (w, h) = window.facts.min_size;
                            placed.area.w < w || placed.area.h < h
                        }),
                        "floating": desk.floats(*id),
                        "full": window.fullscreen,
                        "pegged": window.sticky,
                        "tucked": window.minimized,
                        "rules": window.ruled.iter().map(|(set, rule)| format!("{set} by {rule}")).collect::<Vec<_>>(),
                        "focused": focus == Some(*id),
                        "calls": window.urgent,
                    })
                })
                .collect()),
            "workspaces" => Ok((0..desk.workspaces.len())
                .map(|at| {
                    let workspace = &desk.workspaces[at];
                    json!({
                        "workspace": workspace.name,
                        "layout": desk.layout_of(at).0,
                        "windows": workspace.windows.len(),
                        "monitor": desk.monitors[workspace.monitor.min(desk.monitors.len() - 1)].facts.name,
                        "shown": desk.monitors.iter().any(|monitor| monitor.workspace == at),
                        "focused": desk.workspace() == at,
                    })
                })
                .collect()),
            "monitors" => Ok(desk
                .monitors
                .iter()
                .map(|monitor| json!({ "monitor": monitor.facts.name, "maker": monitor.facts.maker, "area": monitor.facts.area.to_string(), "workspace": desk.workspaces[monitor.workspace].name }))
                .collect()),
            "bars" => Ok(self.bars_told()),
            "notices" => Ok(self.tellings()),
            "health" => Ok(self.health()),
            other => Err(RequestError::NoQuestion(other.to_owned())),
        }
    }

    /// What programs have told, the latest first.
    fn tellings(&self) -> Value {
        let one = |told: &jovrik_core::desktop::Notification| {
            json!({
                "notice": told.id,
                "app": told.app,
                "urgency": told.urgency.word(),
                "title": told.title,
                "body": told.body,
                "actions": told.actions.iter().map(|(_, label)| label).collect::<Vec<_>>(),
                "value": told.value,
            })
        };
        self.desktop.tellings().map(one).collect()
    }

    /// Every bar with its modules as they are shown.
    fn bars_told(&self) -> Value {
        let area = |rect: jovrik_values::Rect| jovrik_values::PixelRect::from(rect).to_string();
        let mut all = Vec::new();
        for (monitor, strip) in self.stage.strips() {
            for shown in &strip.modules {
                let text = match &shown.what {
                    ModuleContent::Text { text, .. } => text.clone(),
                    ModuleContent::Staff(marks) => marks.iter().map(|mark| mark.workspace.as_str()).collect::<Vec<_>>().join(" "),
                    ModuleContent::Layout { sketch, .. } => sketch.name.clone(),
                    ModuleContent::Tray { windows, signs } => count(windows + signs.len(), "icon"),
                };
                all.push(json!({
                    "bar": strip.name,
                    "module": shown.name,
                    "text": text,
                    "area": area(shown.rect),
                    "monitor": monitor,
                }));
            }
        }
        all.into()
    }

    /// What of strangers was more than is taken in.
    fn left_out(&self) -> Vec<String> {
        let notices = self.notices.as_ref().map_or(0, |notices| notices.left_out());
        let items = self.notifiers.as_ref().map_or(0, |notifiers| notifiers.left_out());
        let all = [(notices, "notice", "unheard: too many came at once"), (items, "item", "of the tray: there is room for 64")];
        let told = all.into_iter().filter(|(number, ..)| *number > 0);
        let told = told.map(|(number, what, why)| format!("{} {why}", count(number, what)));
        told.chain(self.stage.kept_amiss.iter().cloned()).collect()
    }

    pub(super) fn health(&self) -> Value {
        let now = self.now;
        let hands = self.desktop.hands();
        let (grabbed, held, cannot) = hands.grabs();
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
                let age = health.age.map(|age| TimeSpan::words(Duration::from_secs(age.as_secs())));
                let age = age.map_or(String::new(), |age| format!("; what is shown is {age} old"));
                Some(format!("{name}: {trouble}{first}{age}"))
            })
            .collect();
        json!({
            "display": self.options.display,
            "process": std::process::id(),
            "up": TimeSpan::words(Duration::from_secs(self.now.saturating_duration_since(self.started).as_secs())),
            "windows": self.desktop.desk().windows.len(),
            "last-reload": self.reload.last.word(),
            "last-change": self.reload.changed,
            "held-back": self.reload.held_back,
            "history": self.unrecorded().unwrap_or_else(|| "written down".to_owned()),
            "problems": self.reload.problems,
            "stages": stages,
            "reloads-accepted": self.reload.accepted,
            "reloads-refused": self.reload.refused,
            "wake-ups": self.wakeups,
            "bar-redraws": self.stage.drawn(),
            "chords-grabbed": grabbed,
            "chords-held-by-others": held,
            "chords-no-key-makes": cannot,
            "notices": self.notices_amiss.as_deref().unwrap_or(if self.desktop.quiet() { "urgent ones alone" } else { "shown" }),
            "devices-amiss": self.stage.inputs_amiss(),
            "keyboard": hands.keyboard().layout,
            "mode": hands.mode(),
            "keys-go-to": self.desktop.surfaces().find(|surface| surface.takes.keyboard()).map(|surface| surface.id.part),
            "last-refusal": self.desktop.refused(),
            "modules-in-trouble": troubled,
            "icons-not-drawn": self.stage.broken_icons().collect::<Vec<_>>(),
            "left-out": self.left_out(),
            "entries-left-out": self.lists.left_out().map(|(path, why)| format!("{}: {why}", path.display())).collect::<Vec<_>>(),
        })
    }
}
