//! What other programs are told of windows and workspaces (EWMH): what differs from what they were told.

use std::collections::HashMap;

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
    on: HashMap<Window, usize>,
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
            told.on.retain(|window, _| told.clients.contains(window));
        }
        for (id, window) in &desk.windows {
            if told.on.get(&id.0) != Some(&window.workspace) {
                told.on.insert(id.0, window.workspace);
                server.tell_workspace(id.0, window.workspace)?;
            }
        }
        Ok(())
    }
}
