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
pub enum ClipboardContent {
    /// A picture, as PNG.
    Picture(Vec<u8>),
    /// A text.
    Text(String),
}

/// What we offer, if we do, and who is being given it in pieces.
#[derive(Debug, Default)]
pub struct Clipboard {
    offered: Option<Offered>,
    given: Vec<Given>,
    /// A text that we are given piece by piece, as far as it is there.
    coming: Option<Vec<u8>>,
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
const MAX_TRANSFERS: usize = 8;

impl X11 {
    /// Offers something to be pasted; whether that could be done.
    ///
    /// # Errors
    ///
    /// When the server is gone.
    pub fn copy(&mut self, copied: ClipboardContent) -> Result<bool, Error> {
        let (c, server) = (&self.server.connection, &self.server);
        let (kind, bytes): (_, Rc<[u8]>) = match copied {
            ClipboardContent::Picture(bytes) => (c.intern_atom(false, b"image/png")?.reply()?.atom, bytes.into()),
            ClipboardContent::Text(text) => (server.names.UTF8_STRING, text.into_bytes().into()),
        };
        let time = self.times.of_this(server)?;
        c.set_selection_owner(server.check, server.names.CLIPBOARD, time)?;
        let ours = c.get_selection_owner(server.names.CLIPBOARD)?.reply()?.owner == server.check;
        self.clip.offered = ours.then_some(Offered { kind, bytes, since: time });
        Ok(ours)
    }
}

/// So much of a text is taken over, in bytes.
const MAX_PASTED_BYTES: usize = 1 << 14;
/// The longest piece that is read of it, in four bytes each.
const MAX_CHUNK_WORDS: u32 = 1 << 20;

impl X11 {
    /// Asks for what was copied elsewhere, or selected; [`X11::pasted`] has it when it comes.
    pub(super) fn paste(&mut self, selected: bool) -> Result<(), Error> {
        self.clip.coming = None;
        let (c, names, check) = (&self.server.connection, &self.server.names, self.server.check);
        let (first, other) = (names.CLIPBOARD, u32::from(AtomEnum::PRIMARY));
        let (first, other) = if selected { (other, first) } else { (first, other) };
        let nobody = c.get_selection_owner(first)?.reply()?.owner == x11rb::NONE;
        let from = if nobody { other } else { first };
        let time = self.times.of_this(&self.server)?;
        c.convert_selection(check, from, names.UTF8_STRING, names._JOVRIK_PASTED, time)?.ignore_error();
        Ok(())
    }

    /// What came of it; nothing where the other one has no text, or gives it piece by piece.
    pub(super) fn pasted(&mut self, property: Atom) -> Result<Option<String>, Error> {
        if property != self.server.names._JOVRIK_PASTED {
            return Ok(None);
        }
        let (kind, bytes) = self.take_pasted()?;
        if kind == self.server.names.INCR {
            self.clip.coming = Some(Vec::new());
        }
        Ok(if kind == self.server.names.UTF8_STRING { text_of(bytes) } else { None })
    }

    /// A property of ours has a new value: whether that is a piece of what comes. After the last one, an empty one, there is all
    /// of it (ICCCM, section 2.7.2).
    pub(super) fn piece(&mut self, event: &PropertyNotifyEvent) -> Result<Option<String>, Error> {
        let own = (event.window, event.atom) == (self.server.check, self.server.names._JOVRIK_PASTED);
        if !own || event.state != Property::NEW_VALUE || self.clip.coming.is_none() {
            return Ok(None);
        }
        // Taking it asks for the next one.
        let (_, bytes) = self.take_pasted()?;
        if bytes.is_empty() {
            return Ok(self.clip.coming.take().and_then(text_of));
        }
        if let Some(coming) = self.clip.coming.as_mut().filter(|coming| coming.len() < MAX_PASTED_BYTES) {
            coming.extend(bytes);
        }
        Ok(None)
    }

    /// Reads what was given, and takes it away: its type, and its bytes.
    fn take_pasted(&self) -> Result<(Atom, Vec<u8>), Error> {
        let (c, property) = (&self.server.connection, self.server.names._JOVRIK_PASTED);
        let reply = c.get_property(true, self.server.check, property, AtomEnum::ANY, 0, MAX_CHUNK_WORDS)?.reply()?;
        Ok((reply.type_, if reply.format == 8 { reply.value } else { Vec::new() }))
    }
}

/// The text that bytes are, as much of it as is taken over; nothing where they are none.
fn text_of(mut bytes: Vec<u8>) -> Option<String> {
    bytes.truncate(MAX_PASTED_BYTES);
    Some(String::from_utf8_lossy(&bytes).into_owned()).filter(|text| !text.is_empty())
}

impl Clipboard {
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
            if self.given.len() >= MAX_TRANSFERS {
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
const MAX_MULTIPLE_PAIRS: usize = 16;

/// Answers pairs of properties and targets one by one; of what is refused the property becomes none (ICCCM, section 2.6.2).
fn each_of(
    server: &Server,
    to: Window,
    property: Atom,
    give: &mut dyn FnMut(Atom, Atom) -> Result<bool, Error>,
) -> Result<bool, Error> {
    let names = &server.names;
    let mut pairs = server.numbers(to, property)?;
    for pair in pairs.chunks_exact_mut(2).take(MAX_MULTIPLE_PAIRS) {
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
