//! What other programs are told of windows and workspaces (EWMH): what differs from what they were told.

use std::collections::HashMap;

use jovrik_core::desk::StackingState;
use jovrik_core::desktop::{Desktop, StackingId};
use x11rb::protocol::xproto::{AtomEnum, PropMode, Window};
use x11rb::wrapper::ConnectionExt as _;

use super::X11;
use crate::Error;

/// What they were told.
#[derive(Debug, Default)]
pub(super) struct Told {
    workspaces: Vec<String>,
    current: Option<u32>,
    bare: Option<bool>,
    size: (u16, u16),
    work: Vec<u32>,
    clients: Vec<u32>,
    stacking: Vec<u32>,
    of: HashMap<Window, Said>,
}

/// What was said of a window.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
struct Said {
    workspace: u32,
    states: Vec<u32>,
    /// Whether it can be moved, and resized.
    actions: (bool, bool),
    /// The widths of its frame: left, right, top, bottom.
    frame: [u32; 4],
    opacity: i32,
}

impl X11 {
    /// Tells what differs.
    pub(super) fn announce(&mut self, desktop: &Desktop) -> Result<(), Error> {
        if self.server.guest {
            return Ok(());
        }
        let (desk, server, names) = (desktop.desk(), &self.server, self.server.names);
        let told = &mut self.told;
        let same = told.workspaces.len() == desk.workspaces.len()
            && told.workspaces.iter().zip(&desk.workspaces).all(|(told, workspace)| *told == workspace.name);
        // Of each workspace on the monitor that it is on.
        let work = |monitor: usize| {
            let area = desk.work_area(monitor.min(desk.monitors.len() - 1));
            [area.x, area.y, area.w, area.h].map(|value| value.max(0) as u32)
        };
        let areas: Vec<[u32; 4]> = (0..desk.monitors.len()).map(work).collect();
        let area = |monitor: usize| areas.get(monitor).or(areas.first()).copied().unwrap_or_default();
        let work: Vec<u32> = desk.workspaces.iter().flat_map(|workspace| area(workspace.monitor)).collect();
        if !same {
            told.workspaces = desk.workspaces.iter().map(|workspace| workspace.name.clone()).collect();
            let text: Vec<u8> = told.workspaces.iter().flat_map(|name| name.bytes().chain([0])).collect();
            server.tell_root(names._NET_NUMBER_OF_DESKTOPS, AtomEnum::CARDINAL, &[told.workspaces.len() as u32])?;
            let (kind, property) = (names.UTF8_STRING, names._NET_DESKTOP_NAMES);
            server.connection.change_property8(PropMode::REPLACE, server.root, property, kind, &text)?;
        }
        if told.work != work {
            server.tell_root(names._NET_WORKAREA, AtomEnum::CARDINAL, &work)?;
            told.work = work;
        }
        if told.size != server.size {
            told.size = server.size;
            let size = [server.size.0.into(), server.size.1.into()];
            server.tell_root(names._NET_DESKTOP_GEOMETRY, AtomEnum::CARDINAL, &size)?;
            // All workspaces are as large as the screen.
            server.tell_root(names._NET_DESKTOP_VIEWPORT, AtomEnum::CARDINAL, &[0, 0])?;
        }
        if told.bare != Some(desk.bare()) {
            told.bare = Some(desk.bare());
            server.tell_root(names._NET_SHOWING_DESKTOP, AtomEnum::CARDINAL, &[desk.bare().into()])?;
        }
        let current = desk.workspace() as u32;
        if told.current != Some(current) {
            told.current = Some(current);
            server.tell_root(names._NET_CURRENT_DESKTOP, AtomEnum::CARDINAL, &[current])?;
        }
        // Panels lie where they want, and are clients all the same.
        let clients = || desk.panels().keys().chain(desk.windows.keys()).map(|id| id.0);
        if !told.clients.iter().copied().eq(clients()) {
            told.clients = clients().collect();
            server.tell_root(names._NET_CLIENT_LIST, AtomEnum::WINDOW, &told.clients)?;
            told.of.retain(|window, _| told.clients.contains(window));
        }
        // Those that nobody sees lie below those that are seen.
        let placed = &desk.arrangement().placed;
        let unseen = desk.windows.keys().filter(|id| !placed.contains_key(*id));
        let seen = desktop.stack().iter().filter_map(|layer| match layer {
            StackingId::Window(id) if placed.contains_key(id) || desk.panels().contains_key(id) => Some(id),
            _ => None,
        });
        if !told.stacking.iter().eq(unseen.clone().chain(seen.clone()).map(|id| &id.0)) {
            told.stacking = unseen.chain(seen).map(|id| id.0).collect();
            server.tell_root(names._NET_CLIENT_LIST_STACKING, AtomEnum::WINDOW, &told.stacking)?;
        }
        for (id, window) in &desk.windows {
            let floats = desk.floats(*id);
            let passed = self.manners.get(&id.0).map(|manners| manners.passed).unwrap_or_default();
            let states = [
                (window.fullscreen, names._NET_WM_STATE_FULLSCREEN),
                (floats && window.maximized_horz, names._NET_WM_STATE_MAXIMIZED_HORZ),
                (floats && window.maximized_vert, names._NET_WM_STATE_MAXIMIZED_VERT),
                (window.sticky, names._NET_WM_STATE_STICKY),
                (window.minimized, names._NET_WM_STATE_HIDDEN),
                (window.stacking == StackingState::Above, names._NET_WM_STATE_ABOVE),
                (window.stacking == StackingState::Below, names._NET_WM_STATE_BELOW),
                (window.urgent, names._NET_WM_STATE_DEMANDS_ATTENTION),
                (desk.arrangement().focus == Some(*id), names._NET_WM_STATE_FOCUSED),
            ];
            let frame = placed.get(id).map(|placed| {
                let (area, outer) = (placed.area, placed.outer);
                let (left, top) = (area.x - outer.x, area.y - outer.y);
                let (right, bottom) = (outer.w - area.w - left, outer.h - area.h - top);
                [left, right, top, bottom].map(|side| side.max(0) as u32)
            });
            let before = told.of.get(&id.0);
            let said = Said {
                workspace: if window.sticky { u32::MAX } else { window.workspace as u32 },
                states: states
                    .into_iter()
                    .chain(passed.into_iter().zip(names.passed()))
                    .filter_map(|(is, state)| is.then_some(state))
                    .collect(),
                actions: (floats, floats && window.facts.max_size.is_none_or(|most| most != window.facts.min_size)),
                frame: frame.or(before.map(|before| before.frame)).unwrap_or_default(),
                opacity: window.opacity,
            };
            if before == Some(&said) {
                continue;
            }
            let differs = |differs: &dyn Fn(&Said) -> bool| before.is_none_or(differs);
            if differs(&|before| before.workspace != said.workspace) {
                server.tell(id.0, names._NET_WM_DESKTOP, AtomEnum::CARDINAL, &[said.workspace])?;
            }
            if differs(&|before| before.states != said.states) {
                server.tell(id.0, names._NET_WM_STATE, AtomEnum::ATOM, &said.states)?;
            }
            if differs(&|before| before.actions != said.actions) {
                server.tell(id.0, names._NET_WM_ALLOWED_ACTIONS, AtomEnum::ATOM, &names.actions(said.actions))?;
            }
            if differs(&|before| before.frame != said.frame) {
                server.tell(id.0, names._NET_FRAME_EXTENTS, AtomEnum::CARDINAL, &said.frame)?;
            }
            if before.map_or(100, |before| before.opacity) != said.opacity {
                let whole = f64::from(u32::MAX) * f64::from(said.opacity) / 100.0;
                server.tell(id.0, names._NET_WM_WINDOW_OPACITY, AtomEnum::CARDINAL, &[whole as u32])?;
                self.windows.pass(server, id.0, names._NET_WM_WINDOW_OPACITY, Some(whole as u32))?;
            }
            told.of.insert(id.0, said);
        }
        Ok(())
    }
}
