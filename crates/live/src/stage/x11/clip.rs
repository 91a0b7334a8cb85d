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
    /// A text.
    Text(String),
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
        let bytes = match &copied {
            Copied::Picture(bytes) => bytes.as_slice(),
            Copied::Text(text) => text.as_bytes(),
        };
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

/// The longest text that is taken over, in four bytes each.
const MOST_PASTED: u32 = 4096;

impl X11 {
    /// Asks for what was copied elsewhere, or selected; [`X11::pasted`] has it when it comes.
    pub(super) fn paste(&self, selected: bool) -> Result<(), Error> {
        let (c, names, check) = (&self.server.connection, &self.server.names, self.server.check);
        let (first, other) = (names.CLIPBOARD, u32::from(AtomEnum::PRIMARY));
        let (first, other) = if selected { (other, first) } else { (first, other) };
        let nobody = c.get_selection_owner(first)?.reply()?.owner == x11rb::NONE;
        let from = if nobody { other } else { first };
        c.convert_selection(check, from, names.UTF8_STRING, names._JOVRIK_PASTED, self.time)?.ignore_error();
        Ok(())
    }

    /// What came of it; nothing where the other one has no text, or too long a one.
    pub(super) fn pasted(&self, property: Atom) -> Result<Option<String>, Error> {
        let (c, names) = (&self.server.connection, &self.server.names);
        if property != names._JOVRIK_PASTED {
            return Ok(None);
        }
        let reply = c.get_property(true, self.server.check, property, AtomEnum::ANY, 0, MOST_PASTED)?.reply()?;
        let text =
            (reply.type_ == names.UTF8_STRING && reply.format == 8).then(|| String::from_utf8_lossy(&reply.value).into_owned());
        Ok(text.filter(|text| !text.is_empty()))
    }
}

impl Clip {
    /// Answers somebody who wants what is offered (ICCCM, section 2.2).
    pub fn answer(&self, server: &Server, asked: &SelectionRequestEvent) -> Result<(), Error> {
        // Old programs name no property.
        let property = if asked.property == x11rb::NONE { asked.target } else { asked.property };
        let given = match &self.0 {
            _ if asked.selection == server.selection => manager(server, asked.requestor, property, asked.target)?,
            Some((copied, since)) if asked.selection == server.names.CLIPBOARD => {
                hand_over(server, asked.requestor, property, asked.target, copied, *since)?
            }
            _ => false,
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

/// What is wanted of the manager's selection (ICCCM, sections 2.6.2 and 2.8); whether there is such a thing.
fn manager(server: &Server, to: u32, property: Atom, target: Atom) -> Result<bool, Error> {
    let (c, names) = (&server.connection, &server.names);
    if target == names.MULTIPLE {
        // Pairs of targets and properties; of what is refused the property becomes none.
        let mut pairs = server.numbers(to, property)?;
        for pair in pairs.chunks_exact_mut(2).take(16) {
            if pair[0] == names.MULTIPLE || pair[1] == x11rb::NONE || !manager(server, to, pair[1], pair[0])? {
                pair[1] = x11rb::NONE;
            }
        }
        c.change_property32(PropMode::REPLACE, to, property, names.ATOM_PAIR, &pairs)?.ignore_error();
        return Ok(true);
    }
    let (kind, values) = match target {
        target if target == names.TARGETS => {
            (AtomEnum::ATOM, vec![names.TARGETS, names.TIMESTAMP, names.MULTIPLE, names.VERSION])
        }
        target if target == names.TIMESTAMP => (AtomEnum::INTEGER, vec![server.since]),
        target if target == names.VERSION => (AtomEnum::INTEGER, vec![2, 0]),
        _ => return Ok(false),
    };
    c.change_property32(PropMode::REPLACE, to, property, kind, &values)?.ignore_error();
    Ok(true)
}

/// Writes what is wanted to a property; whether we have it.
fn hand_over(server: &Server, to: u32, property: Atom, target: Atom, copied: &Copied, since: u32) -> Result<bool, Error> {
    let (c, names) = (&server.connection, &server.names);
    let name: &[u8] = match copied {
        Copied::Picture(_) => b"image/png",
        Copied::Text(_) => b"UTF8_STRING",
    };
    let own = c.intern_atom(false, name)?.reply()?.atom;
    let bytes = match copied {
        Copied::Picture(bytes) => bytes.as_slice(),
        Copied::Text(text) => text.as_bytes(),
    };
    if target == names.TARGETS {
        let all = [names.TARGETS, names.TIMESTAMP, own];
        c.change_property32(PropMode::REPLACE, to, property, AtomEnum::ATOM, &all)?.ignore_error();
    } else if target == names.TIMESTAMP {
        c.change_property32(PropMode::REPLACE, to, property, AtomEnum::INTEGER, &[since])?.ignore_error();
    } else if target == own {
        c.change_property8(PropMode::REPLACE, to, property, own, bytes)?.ignore_error();
    } else {
        return Ok(false);
    }
    Ok(true)
}
