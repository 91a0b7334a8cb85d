//! Presses on the running server: their grabs, and typing them.

use std::collections::BTreeMap;

use jovrik_core::keys::{Keyboard, Listener, Press};
use x11rb::connection::RequestConnection;
use x11rb::protocol::xproto::{
    ButtonIndex, ConnectionExt, EventMask, GrabMode, KEY_PRESS_EVENT, KEY_RELEASE_EVENT, ModMask, Window,
};
use x11rb::protocol::xtest::ConnectionExt as _;
use x11rb::rust_connection::RustConnection;

use crate::Error;

/// A grab of a press: its code, as [`Press`] has it, and the mask of its modifiers without locks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Grab {
    key: u32,
    mask: u32,
}

/// What is grabbed, and which chord that is.
pub type Grabs = BTreeMap<Grab, String>;

/// What a listener wants to be handed.
pub fn wanted(listener: &Listener, keyboard: &Keyboard) -> Grabs {
    let one = |press: Press| (Grab { key: press.key, mask: keyboard.mask(press) }, keyboard.chord(press).to_string());
    listener.grabs().into_iter().map(one).collect()
}

/// Changes grabs from one set to another; those that another program holds. What it held before is tried again: `old` has
/// been grabbed, and `held` was refused at least in part.
///
/// The keyboard stands still after each press until it is allowed to go on: what is typed after a press is judged by what
/// that press changed.
pub fn regrab(
    connection: &RustConnection,
    root: Window,
    locks: &[u32],
    (old, held): (&Grabs, &Grabs),
    new: &Grabs,
) -> Result<Grabs, Error> {
    for grab in old.keys().chain(held.keys()).filter(|grab| !new.contains_key(grab)) {
        for lock in locks {
            let mask = ModMask::from((grab.mask | lock) as u16);
            match (Press { key: grab.key, modifiers: Default::default() }).button() {
                Some(button) => connection.ungrab_button(ButtonIndex::from(button as u8), root, mask)?.ignore_error(),
                None => connection.ungrab_key(grab.key as u8, root, mask)?.ignore_error(),
            }
        }
    }
    let mut cookies = Vec::new();
    for grab in new.keys().filter(|grab| !old.contains_key(grab)) {
        for lock in locks {
            let mask = ModMask::from((grab.mask | lock) as u16);
            let cookie = match (Press { key: grab.key, modifiers: Default::default() }).button() {
                Some(button) => {
                    let (events, free) = (EventMask::BUTTON_PRESS | EventMask::BUTTON_RELEASE, GrabMode::ASYNC);
                    let button = ButtonIndex::from(button as u8);
                    connection.grab_button(false, root, events, free, free, x11rb::NONE, x11rb::NONE, button, mask)?
                }
                None => connection.grab_key(true, root, mask, grab.key as u8, GrabMode::ASYNC, GrabMode::SYNC)?,
            };
            cookies.push((*grab, cookie));
        }
    }
    let mut held = Grabs::new();
    for (grab, cookie) in cookies {
        if cookie.check().is_err() {
            held.insert(grab, new[&grab].clone());
        }
    }
    Ok(held)
}

/// Types a press, as if somebody pressed just that (the XTEST extension); modifiers that are held come up meanwhile.
pub fn fake(connection: &RustConnection, root: Window, keyboard: &Keyboard, press: Press) -> Result<(), Error> {
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
