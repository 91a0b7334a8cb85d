//! What is offered to be pasted: the selection CLIPBOARD (ICCCM, section 2).

use x11rb::connection::RequestConnection;
use x11rb::protocol::xproto::{
    Atom, AtomEnum, ConnectionExt, EventMask, PropMode, SELECTION_NOTIFY_EVENT, SelectionNotifyEvent, SelectionRequestEvent,
};
use x11rb::wrapper::ConnectionExt as _;

use super::X11;
use super::server::Server;
use crate::Error;

/// Something that was copied.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Copied {
    /// A picture, as PNG.
    Picture(Vec<u8>),
}

/// What we offer, if we do.
#[derive(Debug, Default)]
pub struct Clip(Option<(Copied, u32)>);

impl X11 {
    /// Offers something to be pasted; whether that could be done.
    ///
    /// # Errors
    ///
    /// When the server is gone.
    pub fn copy(&mut self, copied: Copied) -> Result<bool, Error> {
        let Copied::Picture(bytes) = &copied;
        let (c, server) = (&self.server.connection, &self.server);
        // It is handed over in one request.
        if bytes.len() + 64 > c.maximum_request_bytes() {
            return Ok(false);
        }
        c.set_selection_owner(server.check, server.names.CLIPBOARD, self.time)?;
        let ours = c.get_selection_owner(server.names.CLIPBOARD)?.reply()?.owner == server.check;
        self.clip = Clip(ours.then_some((copied, self.time)));
        Ok(ours)
    }
}

impl Clip {
    /// Answers somebody who wants what is offered (ICCCM, section 2.2).
    pub fn answer(&self, server: &Server, asked: &SelectionRequestEvent) -> Result<(), Error> {
        // Old programs name no property.
        let property = if asked.property == x11rb::NONE { asked.target } else { asked.property };
        let given = self.0.as_ref().filter(|_| asked.selection == server.names.CLIPBOARD);
        let given = match given {
            Some((copied, since)) => hand_over(server, asked.requestor, property, asked.target, copied, *since)?,
            None => false,
        };
        let notify = SelectionNotifyEvent {
            response_type: SELECTION_NOTIFY_EVENT,
            sequence: 0,
            time: asked.time,
            requestor: asked.requestor,
            selection: asked.selection,
            target: asked.target,
            property: if given { property } else { x11rb::NONE },
        };
        server.connection.send_event(false, asked.requestor, EventMask::NO_EVENT, notify)?.ignore_error();
        Ok(())
    }
}

/// Writes what is wanted to a property; whether we have it.
fn hand_over(server: &Server, to: u32, property: Atom, target: Atom, copied: &Copied, since: u32) -> Result<bool, Error> {
    let (c, names) = (&server.connection, &server.names);
    let png = c.intern_atom(false, b"image/png")?.reply()?.atom;
    let Copied::Picture(bytes) = copied;
    if target == names.TARGETS {
        let all = [names.TARGETS, names.TIMESTAMP, png];
        c.change_property32(PropMode::REPLACE, to, property, AtomEnum::ATOM, &all)?.ignore_error();
    } else if target == names.TIMESTAMP {
        c.change_property32(PropMode::REPLACE, to, property, AtomEnum::INTEGER, &[since])?.ignore_error();
    } else if target == png {
        c.change_property8(PropMode::REPLACE, to, property, png, bytes)?.ignore_error();
    } else {
        return Ok(false);
    }
    Ok(true)
}
