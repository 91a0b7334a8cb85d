//! Listening to a display's keyboard, whoever has the focus.

use jovrik_core::keys::{KeyCombo, KeyboardLayout};
use x11rb::connection::Connection;
use x11rb::protocol::Event;
use x11rb::protocol::xproto::{ConnectionExt, GrabMode, GrabStatus};

use super::connection::connect;
use super::keyboard::ServerKeyboard;
use crate::Error;

/// Takes the keyboard of a display, and tells of each press with its state as the server has it, until it is told to stop.
/// Nobody else hears the presses meanwhile.
pub fn learn(display: &str, latin: bool, mut heard: impl FnMut(&KeyboardLayout, KeyCombo, u32) -> bool) -> Result<(), Error> {
    let (connection, screen) = connect(display)?;
    let root = connection.setup().roots.get(screen).ok_or(Error::Gone)?.root;
    let mut board = ServerKeyboard::read(&connection, root, latin)?;
    let grab = connection.grab_keyboard(false, root, x11rb::CURRENT_TIME, GrabMode::ASYNC, GrabMode::ASYNC)?.reply()?;
    if grab.status != GrabStatus::SUCCESS {
        return Err(Error::Refused("another program holds the keyboard".to_owned()));
    }
    loop {
        match connection.wait_for_event()? {
            Event::KeyPress(event) => {
                let press = board.now().press_of(event.detail.into(), u16::from(event.state).into());
                if !board.now().is_modifier(press.key) && !heard(board.now(), press, u16::from(event.state).into()) {
                    return Ok(());
                }
            }
            Event::XkbStateNotify(event) => {
                board.switched(u8::from(event.group).into());
            }
            Event::MappingNotify(_) | Event::XkbNewKeyboardNotify(_) => board = ServerKeyboard::read(&connection, root, latin)?,
            _ => {}
        }
    }
}
