//! What other programs are told of windows and workspaces (EWMH).

use x11rb::protocol::xproto::{self, AtomEnum};
use x11rb::wrapper::ConnectionExt as _;

use super::Session;
use crate::Error;

impl Session {
    /// Tells other programs of the workspaces (EWMH).
    pub(super) fn tell_workspaces(&mut self) -> Result<(), Error> {
        let names = self.seat.names;
        let mut bytes = Vec::new();
        for workspace in &self.desktop.desk().workspaces {
            bytes.extend_from_slice(workspace.name.as_bytes());
            bytes.push(0);
        }
        self.seat.tell_root(names._NET_NUMBER_OF_DESKTOPS, AtomEnum::CARDINAL, &[self.desktop.desk().workspaces.len() as u32])?;
        self.seat.connection.change_property8(
            xproto::PropMode::REPLACE,
            self.seat.root,
            names._NET_DESKTOP_NAMES,
            names.UTF8_STRING,
            &bytes,
        )?;
        let work = self.desktop.desk().work_area(0);
        let area = [work.x, work.y, work.w, work.h].map(|value| value.max(0) as u32);
        let areas: Vec<u32> = self.desktop.desk().workspaces.iter().flat_map(|_| area).collect();
        self.seat.tell_root(names._NET_WORKAREA, AtomEnum::CARDINAL, &areas)?;
        self.tell_clients()?;
        self.tell_current()
    }

    pub(super) fn tell_current(&mut self) -> Result<(), Error> {
        self.seat.tell_root(
            self.seat.names._NET_CURRENT_DESKTOP,
            AtomEnum::CARDINAL,
            &[self.desktop.desk().workspace() as u32],
        )?;
        for (id, window) in &self.desktop.desk().windows {
            self.seat.tell_workspace(id.0, window.workspace)?;
        }
        Ok(())
    }

    pub(super) fn tell_clients(&mut self) -> Result<(), Error> {
        let windows: Vec<u32> = self.desktop.desk().windows.keys().map(|id| id.0).collect();
        if windows != self.clients_told {
            self.seat.tell_root(self.seat.names._NET_CLIENT_LIST, AtomEnum::WINDOW, &windows)?;
            self.clients_told = windows;
        }
        Ok(())
    }
}
