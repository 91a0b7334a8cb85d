//! Windows that another manager has, as far as it tells (EWMH, `_NET_CLIENT_LIST`): a guest shows them, and asks for them.

use jovrik_core::desk::WindowId;
use jovrik_core::desktop::{DesktopEvent, ForeignToplevel};
use x11rb::connection::Connection;
use x11rb::protocol::xproto::{ClientMessageEvent, ConnectionExt, EventMask};

use super::X11;
use super::server::{ClientInfo, ClientRole};
use crate::Error;

/// So many are shown at most.
const MAX_TOPLEVELS: usize = 500;

impl X11 {
    /// What is there now.
    pub(super) fn neighbours(&self) -> Result<DesktopEvent, Error> {
        let (server, names) = (&self.server, &self.server.names);
        let active = server.number(server.root, names._NET_ACTIVE_WINDOW)?;
        let mut all = Vec::new();
        for window in server.numbers(server.root, names._NET_CLIENT_LIST)?.into_iter().take(MAX_TOPLEVELS) {
            // One that is gone by now is none.
            if let ClientRole::Place(asked) = server.facts(window, &[], 0)? {
                let ClientInfo { facts, calls, .. } = *asked;
                all.push(ForeignToplevel { id: WindowId(window), facts, active: active == Some(window), urgent: calls });
            }
        }
        Ok(DesktopEvent::Neighbours(all))
    }

    /// Asks the other manager to show one of them, as a pager does.
    pub(super) fn activate(&mut self, window: WindowId) -> Result<(), Error> {
        let (server, names) = (&self.server, &self.server.names);
        // 2: a person asks for it.
        let time = self.times.of_this(&self.server)?;
        let asks = ClientMessageEvent::new(32, window.0, names._NET_ACTIVE_WINDOW, [2, time, 0, 0, 0]);
        let to = EventMask::SUBSTRUCTURE_REDIRECT | EventMask::SUBSTRUCTURE_NOTIFY;
        server.connection.send_event(false, server.root, to, asks)?.ignore_error();
        Ok(server.connection.flush()?)
    }
}
