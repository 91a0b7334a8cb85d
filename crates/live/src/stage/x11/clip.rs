//! What is offered to be pasted: the selection CLIPBOARD (ICCCM, section 2).

use std::rc::Rc;

use x11rb::protocol::xproto::{
    Atom, AtomEnum, ChangeWindowAttributesAux, ConnectionExt, EventMask, PropMode, Property, PropertyNotifyEvent,
    SELECTION_NOTIFY_EVENT, SelectionNotifyEvent, SelectionRequestEvent, Window,
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

/// What we offer, if we do, and who is being given it in pieces.
#[derive(Debug, Default)]
pub struct Clip {
    offered: Option<Offered>,
    given: Vec<Given>,
}

#[derive(Debug)]
struct Offered {
    /// What it can be pasted as.
    kind: Atom,
    bytes: Rc<[u8]>,
    since: u32,
}

/// What somebody is given piece by piece (ICCCM, section 2.7.2).
#[derive(Debug)]
struct Given {
    to: Window,
    property: Atom,
    kind: Atom,
    bytes: Rc<[u8]>,
    /// How much of it was given.
    done: usize,
    /// Whether we listen to the window for that alone.
    listens: bool,
}

/// More than so much is handed over in pieces of it, in bytes.
const PIECE: usize = 1 << 18;
/// So many are given something at once at most: who does not take the pieces makes room for the next one.
const MOST_GIVEN: usize = 8;

impl X11 {
    /// Offers something to be pasted; whether that could be done.
    ///
    /// # Errors
    ///
    /// When the server is gone.
    pub fn copy(&mut self, copied: Copied) -> Result<bool, Error> {
        let (c, server) = (&self.server.connection, &self.server);
        let (kind, bytes): (_, Rc<[u8]>) = match copied {
            Copied::Picture(bytes) => (c.intern_atom(false, b"image/png")?.reply()?.atom, bytes.into()),
            Copied::Text(text) => (server.names.UTF8_STRING, text.into_bytes().into()),
        };
        c.set_selection_owner(server.check, server.names.CLIPBOARD, self.time)?;
        let ours = c.get_selection_owner(server.names.CLIPBOARD)?.reply()?.owner == server.check;
        self.clip.offered = ours.then_some(Offered { kind, bytes, since: self.time });
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
    /// Nothing is offered any more; who is being given something gets the rest of it.
    pub fn leave(&mut self) {
        self.offered = None;
    }

    /// Answers somebody who wants what is offered (ICCCM, section 2.2). `heard`: whether we listen to that window anyway.
    pub fn answer(&mut self, server: &Server, asked: &SelectionRequestEvent, heard: bool) -> Result<(), Error> {
        // Old programs name no property.
        let property = if asked.property == x11rb::NONE { asked.target } else { asked.property };
        let given = match asked.selection {
            selection if selection == server.selection => manager(server, asked.requestor, property, asked.target)?,
            selection if selection == server.names.CLIPBOARD => {
                self.hand_over(server, asked.requestor, property, asked.target, heard)?
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

    /// Writes what is wanted to a property; whether we have it.
    fn hand_over(&mut self, server: &Server, to: Window, property: Atom, target: Atom, heard: bool) -> Result<bool, Error> {
        let (c, names) = (&server.connection, &server.names);
        let Some(Offered { kind, bytes, since }) = &self.offered else { return Ok(false) };
        let (kind, since) = (*kind, *since);
        if target == names.TARGETS {
            let all = [names.TARGETS, names.TIMESTAMP, names.MULTIPLE, kind];
            c.change_property32(PropMode::REPLACE, to, property, AtomEnum::ATOM, &all)?.ignore_error();
        } else if target == names.TIMESTAMP {
            c.change_property32(PropMode::REPLACE, to, property, AtomEnum::INTEGER, &[since])?.ignore_error();
        } else if target == names.MULTIPLE {
            return each_of(server, to, property, &mut |property, target| self.hand_over(server, to, property, target, heard));
        } else if target == kind && bytes.len() <= PIECE {
            c.change_property8(PropMode::REPLACE, to, property, kind, bytes)?.ignore_error();
        } else if target == kind {
            let given = Given { to, property, kind, bytes: bytes.clone(), done: 0, listens: !heard };
            self.given.retain(|other| (other.to, other.property) != (to, property));
            if self.given.len() >= MOST_GIVEN {
                self.given.remove(0);
            }
            if given.listens {
                listen(server, to, EventMask::PROPERTY_CHANGE)?;
            }
            let size = given.bytes.len() as u32;
            self.given.push(given);
            c.change_property32(PropMode::REPLACE, to, property, names.INCR, &[size])?.ignore_error();
        } else {
            return Ok(false);
        }
        Ok(true)
    }

    /// Somebody took a piece and gets the next one, at last one of nothing; whether it was that.
    pub fn taken(&mut self, server: &Server, event: &PropertyNotifyEvent) -> Result<bool, Error> {
        if event.state != Property::DELETE {
            return Ok(false);
        }
        let here = |given: &Given| (given.to, given.property) == (event.window, event.atom);
        let Some(at) = self.given.iter().position(here) else { return Ok(false) };
        let given = &mut self.given[at];
        let piece = &given.bytes[given.done..(given.done + PIECE).min(given.bytes.len())];
        let (c, to) = (&server.connection, given.to);
        c.change_property8(PropMode::REPLACE, to, given.property, given.kind, piece)?.ignore_error();
        given.done += piece.len();
        if piece.is_empty() {
            let given = self.given.remove(at);
            if given.listens && self.given.iter().all(|other| other.to != to) {
                listen(server, to, EventMask::NO_EVENT)?;
            }
        }
        Ok(true)
    }
}

fn listen(server: &Server, window: Window, to: EventMask) -> Result<(), Error> {
    let listens = ChangeWindowAttributesAux::new().event_mask(to);
    server.connection.change_window_attributes(window, &listens)?.ignore_error();
    Ok(())
}

/// So many pairs of a request are looked at.
const MOST_PAIRS: usize = 16;

/// Answers pairs of properties and targets one by one; of what is refused the property becomes none (ICCCM, section 2.6.2).
fn each_of(
    server: &Server,
    to: Window,
    property: Atom,
    give: &mut dyn FnMut(Atom, Atom) -> Result<bool, Error>,
) -> Result<bool, Error> {
    let names = &server.names;
    let mut pairs = server.numbers(to, property)?;
    for pair in pairs.chunks_exact_mut(2).take(MOST_PAIRS) {
        if pair[0] == names.MULTIPLE || pair[1] == x11rb::NONE || !give(pair[1], pair[0])? {
            pair[1] = x11rb::NONE;
        }
    }
    server.connection.change_property32(PropMode::REPLACE, to, property, names.ATOM_PAIR, &pairs)?.ignore_error();
    Ok(true)
}

/// What is wanted of the manager's selection (ICCCM, sections 2.6.2 and 2.8); whether there is such a thing.
fn manager(server: &Server, to: u32, property: Atom, target: Atom) -> Result<bool, Error> {
    let (c, names) = (&server.connection, &server.names);
    if target == names.MULTIPLE {
        return each_of(server, to, property, &mut |property, target| manager(server, to, property, target));
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
