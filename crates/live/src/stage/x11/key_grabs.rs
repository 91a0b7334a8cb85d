//! Presses on the running server: their grabs, and typing them.

use std::collections::BTreeMap;

use jovrik_core::keys::{KeyCombo, KeyboardLayout};
use jovrik_values::chord::{Chord, ChordKey, Modifiers};
use x11rb::connection::{Connection, RequestConnection};
use x11rb::protocol::xproto::{
    ButtonIndex, ConnectionExt, EventMask, GrabMode, KEY_PRESS_EVENT, KEY_RELEASE_EVENT, ModMask, Window,
};
use x11rb::protocol::xtest::ConnectionExt as _;

use super::X11;
use super::connection::X11Connection;
use crate::Error;

/// What is grabbed: each press with the states of the keyboard that it is grabbed in.
pub type Grabs = BTreeMap<KeyCombo, Vec<u16>>;

/// Grabs presses on a keyboard; those that another program holds.
///
/// The keyboard stands still after each press until it is allowed to go on: what is typed after a press is judged by what
/// that press changed.
pub fn grab(
    connection: &X11Connection,
    root: Window,
    keyboard: &KeyboardLayout,
    presses: Vec<KeyCombo>,
    grabs: &mut Grabs,
) -> Result<Vec<KeyCombo>, Error> {
    let locks = keyboard.lock_states();
    let mut cookies = Vec::new();
    for press in presses {
        let states: Vec<u16> = locks.iter().map(|lock| (keyboard.mask(press) | lock) as u16).collect();
        for mask in states.iter().map(|state| ModMask::from(*state)) {
            let cookie = match press.button() {
                Some(button) => {
                    let (events, free) =
                        (EventMask::BUTTON_PRESS | EventMask::BUTTON_RELEASE | EventMask::BUTTON_MOTION, GrabMode::ASYNC);
                    let button = ButtonIndex::from(button as u8);
                    connection.grab_button(false, root, events, free, free, x11rb::NONE, x11rb::NONE, button, mask)?
                }
                None => connection.grab_key(true, root, mask, press.key as u8, GrabMode::ASYNC, GrabMode::SYNC)?,
            };
            cookies.push((press, cookie));
        }
        // Also of what is refused in part.
        grabs.insert(press, states);
    }
    let mut refused = Vec::new();
    for (press, cookie) in cookies {
        if cookie.check().is_err() && !refused.contains(&press) {
            refused.push(press);
        }
    }
    Ok(refused)
}

/// Lets go of presses.
pub fn ungrab(connection: &X11Connection, root: Window, presses: &[KeyCombo], grabs: &mut Grabs) -> Result<(), Error> {
    for press in presses {
        for mask in grabs.remove(press).unwrap_or_default().into_iter().map(ModMask::from) {
            match press.button() {
                Some(button) => connection.ungrab_button(ButtonIndex::from(button as u8), root, mask)?.ignore_error(),
                None => connection.ungrab_key(press.key as u8, root, mask)?.ignore_error(),
            }
        }
    }
    Ok(())
}

/// So much of a text is typed: what is longer is pasted.
const MAX_TYPED_CHARS: usize = 64;

impl X11 {
    /// Types a text into whoever has the focus. A character that no key makes is given to a key that makes none, which keeps it
    /// until the next one: programs look a key up when they hear of it, and that may be later.
    pub(super) fn write(&mut self, text: &str) -> Result<(), Error> {
        let (c, root) = (&self.server.connection, self.server.root);
        for typed in text.chars().filter(|typed| !typed.is_control()).take(MAX_TYPED_CHARS) {
            let sym = kbvm::Keysym::from_char(typed).0;
            let chord = Chord { modifiers: Modifiers::default(), key: ChordKey::Sym(sym) };
            if let Some(press) = self.board.now().presses(&chord).first() {
                fake(c, root, self.board.now(), *press)?;
                continue;
            }
            let (least, most) = (c.setup().min_keycode, c.setup().max_keycode);
            let reply = c.get_keyboard_mapping(least, most - least + 1)?.reply()?;
            let each = usize::from(reply.keysyms_per_keycode).max(1);
            let own = |syms: &[u32]| syms.iter().all(|sym| *sym == 0);
            let free = reply.keysyms.chunks(each).rposition(own).map(|at| least + at as u8);
            let Some(code) = self.spare_key.or(free) else { return Ok(()) };
            c.change_keyboard_mapping(1, code, 2, &[sym, sym])?.ignore_error();
            self.spare_key = Some(code);
            fake(c, root, self.board.now(), KeyCombo { key: u32::from(code), modifiers: Modifiers::default() })?;
        }
        Ok(())
    }

    /// Gives back the key that was given a character.
    pub(super) fn give_back_key(&mut self) -> Result<(), Error> {
        if let Some(code) = self.spare_key.take() {
            self.server.connection.change_keyboard_mapping(1, code, 1, &[0])?.ignore_error();
        }
        Ok(())
    }
}

/// Types a press, as if somebody pressed just that (the XTEST extension); modifiers that are held come up meanwhile.
pub fn fake(connection: &X11Connection, root: Window, keyboard: &KeyboardLayout, press: KeyCombo) -> Result<(), Error> {
    if connection.extension_information(x11rb::protocol::xtest::X11_EXTENSION_NAME)?.is_none() {
        return Ok(());
    }
    let send = |down: bool, key: u32| {
        let kind = if down { KEY_PRESS_EVENT } else { KEY_RELEASE_EVENT };
        connection.xtest_fake_input(kind, key as u8, x11rb::CURRENT_TIME, root, 0, 0, 0).map(|cookie| cookie.ignore_error())
    };
    let down = connection.query_keymap()?.reply()?.keys;
    let is_down = |code: u32| down.get(code as usize / 8).is_some_and(|byte| byte & (1 << (code % 8)) != 0);
    let held: Vec<u32> =
        keyboard.caps.iter().map(|cap| cap.code).filter(|code| is_down(*code) && keyboard.is_modifier(*code)).collect();
    let wanted = keyboard.modifier_keys(press.modifiers);
    held.iter().try_for_each(|key| send(false, *key))?;
    wanted.iter().try_for_each(|key| send(true, *key))?;
    send(true, press.key)?;
    send(false, press.key)?;
    wanted.iter().rev().try_for_each(|key| send(false, *key))?;
    held.iter().try_for_each(|key| send(true, *key))?;
    Ok(())
}
