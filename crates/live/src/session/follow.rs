//! What happens, for those who follow it: one JSON object each, with what it is about.

use std::collections::BTreeMap;

use jovrik_core::desktop::Desktop;
use serde_json::{Value, json};

/// What was told of last.
#[derive(Debug, Default)]
pub struct FollowState {
    windows: BTreeMap<u32, (String, String, bool)>,
    focus: Option<u32>,
    monitors: Vec<(String, String)>,
    layouts: Vec<(String, String)>,
    workspace: String,
    mode: Option<String>,
    reloads: (u64, u64),
}

fn number(id: u32) -> String {
    format!("0x{id:x}")
}

impl FollowState {
    /// How a desktop is now.
    pub fn of(desktop: &Desktop, reloads: (u64, u64)) -> FollowState {
        let desk = desktop.desk();
        let workspace = |at: usize| desk.workspaces.get(at).map(|one| one.name.clone()).unwrap_or_default();
        let windows = desk.windows.iter();
        let layouts = desk.workspaces.iter().map(|one| (one.name.clone(), one.rule().0.clone()));
        FollowState {
            windows: windows.map(|(id, one)| (id.0, (one.facts.title.clone(), workspace(one.workspace), one.urgent))).collect(),
            focus: desk.arrangement().focus.map(|id| id.0),
            monitors: desk.monitors.iter().map(|one| (one.facts.name.clone(), workspace(one.workspace))).collect(),
            layouts: layouts.collect(),
            workspace: workspace(desk.workspace()),
            mode: desktop.hands().mode().map(str::to_owned),
            reloads,
        }
    }

    /// What has happened between this and a later one, in a fixed order.
    pub fn until(&self, now: &FollowState) -> Vec<Value> {
        let mut all = Vec::new();
        for (id, (title, workspace, _)) in now.windows.iter().filter(|(id, _)| !self.windows.contains_key(id)) {
            all.push(json!({ "event": "window-opened", "window": number(*id), "title": title, "workspace": workspace }));
        }
        all.extend(
            self.windows
                .keys()
                .filter(|id| !now.windows.contains_key(id))
                .map(|id| json!({ "event": "window-closed", "window": number(*id) })),
        );
        for (id, (title, workspace, calls)) in &now.windows {
            let Some((old_title, old_workspace, called)) = self.windows.get(id) else { continue };
            if title != old_title {
                all.push(json!({ "event": "window-retitled", "window": number(*id), "title": title }));
            }
            if workspace != old_workspace {
                all.push(json!({ "event": "window-moved", "window": number(*id), "workspace": workspace }));
            }
            if *calls && !called {
                all.push(json!({ "event": "window-calls", "window": number(*id) }));
            }
        }
        if now.monitors != self.monitors || now.workspace != self.workspace {
            let shown: BTreeMap<&String, &String> = now.monitors.iter().map(|(monitor, shown)| (monitor, shown)).collect();
            all.push(json!({ "event": "workspace", "workspace": now.workspace, "shown": shown }));
        }
        for (workspace, layout) in now.layouts.iter().filter(|one| !self.layouts.contains(one)) {
            all.push(json!({ "event": "layout", "workspace": workspace, "layout": layout }));
        }
        if now.focus != self.focus {
            let title = now.focus.and_then(|id| now.windows.get(&id)).map(|(title, ..)| title);
            all.push(json!({ "event": "focus", "window": now.focus.map(number), "title": title }));
        }
        if now.mode != self.mode {
            all.push(json!({ "event": "mode", "mode": now.mode }));
        }
        if now.reloads != self.reloads {
            let how = if now.reloads.0 == self.reloads.0 { "refused" } else { "accepted" };
            all.push(json!({ "event": "reload", "how": how }));
        }
        all
    }
}
