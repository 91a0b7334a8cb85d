//! What other programs are told of windows and workspaces (EWMH): what differs from what they were told.

use std::collections::HashMap;

use jovrik_core::desk::Shelf;
use jovrik_core::desktop::Desktop;
use x11rb::protocol::xproto::{AtomEnum, PropMode, Window};
use x11rb::wrapper::ConnectionExt as _;

use super::X11;
use crate::Error;

/// What they were told.
#[derive(Debug, Default)]
pub(super) struct Told {
    workspaces: Vec<String>,
    current: Option<u32>,
    work: [u32; 4],
    clients: Vec<u32>,
    stacking: Vec<u32>,
    of: HashMap<Window, Said>,
}

/// What was said of a window.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
struct Said {
    workspace: u32,
    states: Vec<u32>,
    /// The widths of its frame: left, right, top, bottom.
    frame: [u32; 4],
    opacity: i32,
}

impl X11 {
    /// Tells what differs.
    pub(super) fn announce(&mut self, desktop: &Desktop) -> Result<(), Error> {
        let (desk, server, names) = (desktop.desk(), &self.server, self.server.names);
        let told = &mut self.told;
        let same = told.workspaces.len() == desk.workspaces.len()
            && told.workspaces.iter().zip(&desk.workspaces).all(|(told, workspace)| *told == workspace.name);
        let area = desk.work_area(0);
        let work = [area.x, area.y, area.w, area.h].map(|value| value.max(0) as u32);
        if !same {
            told.workspaces = desk.workspaces.iter().map(|workspace| workspace.name.clone()).collect();
            let text: Vec<u8> = told.workspaces.iter().flat_map(|name| name.bytes().chain([0])).collect();
            server.tell_root(names._NET_NUMBER_OF_DESKTOPS, AtomEnum::CARDINAL, &[told.workspaces.len() as u32])?;
            let (kind, property) = (names.UTF8_STRING, names._NET_DESKTOP_NAMES);
            server.connection.change_property8(PropMode::REPLACE, server.root, property, kind, &text)?;
        }
        if !same || told.work != work {
            told.work = work;
            let areas: Vec<u32> = desk.workspaces.iter().flat_map(|_| work).collect();
            server.tell_root(names._NET_WORKAREA, AtomEnum::CARDINAL, &areas)?;
        }
        let current = desk.workspace() as u32;
        if told.current != Some(current) {
            told.current = Some(current);
            server.tell_root(names._NET_CURRENT_DESKTOP, AtomEnum::CARDINAL, &[current])?;
        }
        if !told.clients.iter().copied().eq(desk.windows.keys().map(|id| id.0)) {
            told.clients = desk.windows.keys().map(|id| id.0).collect();
            server.tell_root(names._NET_CLIENT_LIST, AtomEnum::WINDOW, &told.clients)?;
            told.of.retain(|window, _| told.clients.contains(window));
        }
        // Those that nobody sees lie below those that are seen.
        let placed = &desk.arrangement().placed;
        let unseen = desk.windows.keys().filter(|id| !placed.contains_key(*id));
        if !told.stacking.iter().eq(unseen.clone().chain(placed.keys()).map(|id| &id.0)) {
            told.stacking = unseen.chain(placed.keys()).map(|id| id.0).collect();
            server.tell_root(names._NET_CLIENT_LIST_STACKING, AtomEnum::WINDOW, &told.stacking)?;
        }
        for (id, window) in &desk.windows {
            let states = [
                (window.full, names._NET_WM_STATE_FULLSCREEN),
                (window.pegged, names._NET_WM_STATE_STICKY),
                (window.tucked, names._NET_WM_STATE_HIDDEN),
                (window.shelf == Shelf::Above, names._NET_WM_STATE_ABOVE),
                (window.shelf == Shelf::Below, names._NET_WM_STATE_BELOW),
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
                workspace: if window.pegged { u32::MAX } else { window.workspace as u32 },
                states: states.into_iter().filter_map(|(is, state)| is.then_some(state)).collect(),
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
            if differs(&|before| before.frame != said.frame) {
                server.tell(id.0, names._NET_FRAME_EXTENTS, AtomEnum::CARDINAL, &said.frame)?;
            }
            if before.map_or(100, |before| before.opacity) != said.opacity {
                let whole = f64::from(u32::MAX) * f64::from(said.opacity) / 100.0;
                server.tell(id.0, names._NET_WM_WINDOW_OPACITY, AtomEnum::CARDINAL, &[whole as u32])?;
            }
            told.of.insert(id.0, said);
        }
        Ok(())
    }
}
