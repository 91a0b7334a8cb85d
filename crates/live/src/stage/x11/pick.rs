//! Waits until a person clicks a window.

use x11rb::connection::Connection;
use x11rb::protocol::Event;
use x11rb::protocol::xproto::{ConnectionExt, EventMask, GrabMode, GrabStatus};

use super::connection::connect;
use crate::Error;

/// The number of the window that is clicked next on a display: the program's own, inside of the desktop's.
///
/// # Errors
///
/// When the display cannot be reached, another program holds the pointer, or no window was clicked.
pub fn pick(display: &str) -> Result<u32, Error> {
    let (connection, screen) = connect(display)?;
    let root = connection.setup().roots[screen].root;
    let (events, free, none) = (EventMask::BUTTON_PRESS | EventMask::BUTTON_RELEASE, GrabMode::ASYNC, x11rb::NONE);
    let grab = connection.grab_pointer(false, root, events, free, free, none, none, x11rb::CURRENT_TIME)?.reply()?;
    if grab.status != GrabStatus::SUCCESS {
        return Err(Error::Refused("another program holds the pointer".to_owned()));
    }
    loop {
        let Event::ButtonPress(press) = connection.wait_for_event()? else { continue };
        connection.ungrab_pointer(x11rb::CURRENT_TIME)?;
        if press.child == x11rb::NONE {
            return Err(Error::Refused("no window was clicked".to_owned()));
        }
        // Ours holds the program's.
        let tree = connection.query_tree(press.child)?.reply()?;
        return Ok(tree.children.first().copied().unwrap_or(press.child));
    }
}
