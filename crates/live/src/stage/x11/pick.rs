//! Waits until a person clicks a window.

use std::time::Duration;

use x11rb::connection::Connection;
use x11rb::protocol::Event;
use x11rb::protocol::xproto::{ConnectionExt, EventMask, GrabMode, GrabStatus};

use super::connection::connect;
use crate::Error;

/// How often the pointer is asked for while another program holds it, and how long is waited in between.
const MAX_GRAB_TRIES: usize = 20;
const GRAB_DELAY: Duration = Duration::from_millis(50);

/// The number of the window that is clicked next on a display: the program's own, inside of the desktop's.
///
/// # Errors
///
/// When the display cannot be reached, another program holds the pointer, or no window was clicked.
pub fn pick(display: &str) -> Result<u32, Error> {
    let (connection, screen) = connect(display)?;
    let root = connection.setup().roots[screen].root;
    let (events, free, none) = (EventMask::BUTTON_PRESS | EventMask::BUTTON_RELEASE, GrabMode::ASYNC, x11rb::NONE);
    // Whoever is just letting go of it, such as a menu that closes, is waited for.
    let mut tries = 0;
    while connection.grab_pointer(false, root, events, free, free, none, none, x11rb::CURRENT_TIME)?.reply()?.status
        != GrabStatus::SUCCESS
    {
        tries += 1;
        if tries == MAX_GRAB_TRIES {
            return Err(Error::Refused("another program holds the pointer".to_owned()));
        }
        std::thread::sleep(GRAB_DELAY);
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
