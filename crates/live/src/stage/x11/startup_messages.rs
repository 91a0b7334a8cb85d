//! Programs that are being started, as all who start some tell each other (the freedesktop startup notification protocol).

use std::collections::HashMap;

use x11rb::connection::Connection;
use x11rb::protocol::xproto::{ClientMessageEvent, ConnectionExt, EventMask, Window};

use super::server::Server;
use crate::Error;

/// The longest message.
const MAX_MESSAGE_BYTES: usize = 4096;
/// So many messages are put together at once.
const MAX_SENDERS: usize = 32;

/// Messages that are not whole yet, by who sends them.
#[derive(Debug, Default)]
pub struct StartupMessages(HashMap<Window, Vec<u8>>);

/// What a message says: its kind, and its values by their names.
fn parse(text: &str) -> Option<(&str, HashMap<String, String>)> {
    let (kind, rest) = text.split_once(':')?;
    let (mut values, mut chars) = (HashMap::new(), rest.chars().peekable());
    loop {
        while chars.next_if(|c| *c == ' ').is_some() {}
        let mut name = String::new();
        loop {
            match chars.next() {
                Some('=') => break,
                Some(c) => name.push(c),
                None => return Some((kind.trim(), values)),
            }
        }
        let (mut value, mut quoted) = (String::new(), false);
        loop {
            match chars.next() {
                Some('"') => quoted = !quoted,
                Some('\\') => value.extend(chars.next()),
                Some(' ') if !quoted => break,
                Some(c) => value.push(c),
                None => break,
            }
        }
        values.insert(name, value);
    }
}

/// A text within double quotes.
fn quoted(text: &str) -> String {
    let escaped: String = text.chars().filter(|c| !c.is_control()).fold(String::new(), |mut all, c| {
        if matches!(c, '"' | '\\') {
            all.push('\\');
        }
        all.push(c);
        all
    });
    format!("\"{escaped}\"")
}

impl StartupMessages {
    /// A piece of a message; when that is whole and tells of a program on its way: what its windows will say, and the
    /// number of the workspace where it was asked for.
    pub fn hears(&mut self, event: &ClientMessageEvent, first: bool) -> Option<(String, usize)> {
        if first {
            if self.0.len() >= MAX_SENDERS {
                self.0.clear();
            }
            self.0.insert(event.window, Vec::new());
        }
        let text = self.0.get_mut(&event.window)?;
        let piece = event.data.as_data8();
        let end = piece.iter().position(|byte| *byte == 0);
        text.extend(&piece[..end.unwrap_or(piece.len())]);
        if end.is_none() && text.len() < MAX_MESSAGE_BYTES {
            return None;
        }
        let text = self.0.remove(&event.window)?;
        let text = String::from_utf8(text).ok()?;
        let (kind, values) = parse(&text)?;
        let id = values.get("ID").filter(|_| kind == "new")?;
        Some((id.clone(), values.get("DESKTOP")?.parse().ok()?))
    }

    /// Tells all that a program is on its way.
    pub fn begins(server: &Server, id: &str, program: &str, workspace: usize) -> Result<(), Error> {
        let (id, name) = (quoted(id), quoted(program));
        tell(server, &format!("new: ID={id} NAME={name} SCREEN=0 BIN={name} DESKTOP={workspace}"))
    }

    /// Tells all that it is there.
    pub fn ends(server: &Server, id: &str) -> Result<(), Error> {
        tell(server, &format!("remove: ID={}", quoted(id)))
    }
}

fn tell(server: &Server, text: &str) -> Result<(), Error> {
    let c = &server.connection;
    let (names, mut bytes) = (server.names, text.as_bytes().to_vec());
    bytes.push(0);
    bytes.truncate(MAX_MESSAGE_BYTES);
    for (nth, piece) in bytes.chunks(20).enumerate() {
        let mut data = [0_u8; 20];
        data[..piece.len()].copy_from_slice(piece);
        let kind = if nth == 0 { names._NET_STARTUP_INFO_BEGIN } else { names._NET_STARTUP_INFO };
        let event = ClientMessageEvent::new(8, server.check, kind, data);
        c.send_event(false, server.root, EventMask::PROPERTY_CHANGE, event)?.ignore_error();
    }
    c.flush()?;
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn messages_are_put_together_and_nonsense_is_nothing() {
        let text = "new: ID=\"tide \\\"1\\\"_TIME7\" NAME=\"Tide\" DESKTOP=2 SCREEN=0\0";
        let mut launches = StartupMessages::default();
        let mut heard = None;
        for (nth, piece) in text.as_bytes().chunks(20).enumerate() {
            let mut data = [0_u8; 20];
            data[..piece.len()].copy_from_slice(piece);
            heard = launches.hears(&ClientMessageEvent::new(8, 5, 9_u32, data), nth == 0);
        }
        assert_eq!(heard, Some(("tide \"1\"_TIME7".to_owned(), 2)));
        // A piece of nothing, and one that never ends.
        assert_eq!(launches.hears(&ClientMessageEvent::new(8, 6, 9_u32, [b'x'; 20]), false), None);
        for nth in 0..300 {
            assert_eq!(launches.hears(&ClientMessageEvent::new(8, 6, 9_u32, [b'x'; 20]), nth == 0), None);
        }
        assert!(launches.0.is_empty(), "it was let go");
        for nth in 0..100 {
            launches.hears(&ClientMessageEvent::new(8, nth, 9_u32, [b'x'; 20]), true);
        }
        assert!(launches.0.len() <= MAX_SENDERS);
    }
}
