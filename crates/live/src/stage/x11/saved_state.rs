//! The desk on the root window, for whoever begins again on this display: a new start of ours, also after a sudden end.

use jovrik_core::desk::{SavedState, WindowId};
use jovrik_core::desktop::Desktop;
use jovrik_text::limits;
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
        } else if text != self.kept {
            self.kept_amiss = vec!["the desk: there is too much of it to be kept over a new start".to_owned()];
        }
        Ok(())
    }

    /// How the desk was when it was last written down. It may be of an older version, or anybody's: it is taken away before it
    /// is used, so that whatever it does, it does once; and what of it makes no sense is told in `ask health`.
    pub(super) fn kept(&mut self) -> Result<Option<SavedState>, Error> {
        let (c, property) = (&self.server.connection, self.server.names._JOVRIK_DESK);
        let longs = (limits::KEPT_DESK_BYTES / 4) as u32;
        let asked = c.get_property(false, self.server.root, property, AtomEnum::ANY, 0, longs)?;
        c.delete_property(self.server.root, property)?;
        let Some(reply) = asked.reply().ok().filter(|reply| !reply.value.is_empty()) else { return Ok(None) };
        if reply.bytes_after > 0 {
            self.kept_amiss = vec!["the desk that was kept: there is too much of it".to_owned()];
            return Ok(None);
        }
        let (kept, amiss) = SavedState::read(&reply.value);
        self.kept_amiss = amiss;
        Ok(kept)
    }
}

/// Windows in the order in which they appeared; others come after them.
pub(super) fn in_order(windows: &mut [(Window, bool)], kept: &SavedState) {
    let nth = |id: WindowId| kept.windows.iter().find(|kept| kept.id == id.0).map_or(usize::MAX, |kept| kept.nth);
    windows.sort_by_cached_key(|(window, _)| nth(WindowId(*window)));
}
