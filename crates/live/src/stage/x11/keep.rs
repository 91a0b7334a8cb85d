//! The desk on the root window, for whoever begins again on this display: a new start of ours, also after a sudden end.

use jovrik_core::desk::{Kept, WindowId};
use jovrik_core::desktop::Desktop;
use x11rb::connection::RequestConnection;
use x11rb::protocol::xproto::{AtomEnum, ConnectionExt, PropMode, Window};
use x11rb::wrapper::ConnectionExt as _;

use super::X11;
use crate::Error;

impl X11 {
    /// Writes down how the desk is, where that is not how it was.
    pub fn keep(&mut self, desktop: &Desktop) -> Result<(), Error> {
        if self.server.guest || std::mem::replace(&mut self.kept_at, desktop.desk().steps()) == desktop.desk().steps() {
            return Ok(());
        }
        let Ok(text) = serde_json::to_string(&desktop.desk().keep()) else { return Ok(()) };
        let (c, names) = (&self.server.connection, self.server.names);
        if text != self.kept && text.len() + 64 < c.maximum_request_bytes() {
            let (kind, property) = (names.UTF8_STRING, names._JOVRIK_DESK);
            c.change_property8(PropMode::REPLACE, self.server.root, property, kind, text.as_bytes())?;
            self.kept = text;
        }
        Ok(())
    }

    /// How the desk was when it was last written down.
    pub(super) fn kept(&self) -> Result<Option<Kept>, Error> {
        let (c, property) = (&self.server.connection, self.server.names._JOVRIK_DESK);
        let Ok(reply) = c.get_property(false, self.server.root, property, AtomEnum::ANY, 0, 1 << 20)?.reply() else {
            return Ok(None);
        };
        // It may be of an older version, or anybody's.
        Ok(serde_json::from_slice(&reply.value).ok())
    }
}

/// Windows in the order in which they were kept; others come after them.
pub(super) fn in_order(windows: &mut [(Window, bool)], kept: &Kept) {
    let place = |id: WindowId| kept.windows.iter().position(|kept| kept.id == id.0).unwrap_or(usize::MAX);
    windows.sort_by_key(|(window, _)| place(WindowId(*window)));
}
