//! Which chords of a rice another desktop has on a display: each is tried, and let go of again.

use jovrik_core::check::CheckedRice;
use jovrik_core::desktop::{Desktop, DesktopEffect, DesktopEvent, MonotonicTime};
use jovrik_core::scene::Measure;
use jovrik_core::stage::FixedWidthMeasure;
use x11rb::connection::Connection;

use super::connection::connect;
use super::facts::monitors_of;
use super::key_grabs::{Grabs, grab};
use super::keyboard::ServerKeyboard;
use crate::Error;

/// The chords that others have on a display, as the rice would write them.
///
/// # Errors
///
/// When the display or its keyboard cannot be asked.
pub fn taken(display: &str, checked: &CheckedRice) -> Result<Vec<String>, Error> {
    let measure: &mut dyn Measure = &mut FixedWidthMeasure(10.0);
    let (connection, screen) = connect(display)?;
    let screen = connection.setup().roots.get(screen).ok_or(Error::Gone)?;
    let (root, size) = (screen.root, (screen.width_in_pixels, screen.height_in_pixels));
    let board = ServerKeyboard::read(&connection, root, checked.rice.keyboard.latin_first)?;
    let monitors = monitors_of(&connection, root, size)?;
    // The desktop itself knows what it would ask for; it is asked, and nothing else of it is carried out.
    let mut desktop = Desktop::new(checked.rice.clone(), checked.scopes.clone(), monitors);
    let keyboards = DesktopEvent::Keyboards(board.layouts().clone(), board.active());
    for effect in desktop.handle(keyboards, MonotonicTime::default(), measure) {
        if let DesktopEffect::Grab(presses) = effect {
            let refused = grab(&connection, root, board.now(), presses, &mut Grabs::new())?;
            desktop.handle(DesktopEvent::KeyGrabFailed(refused), MonotonicTime::default(), measure);
        }
    }
    // With the connection all of them are let go.
    Ok(desktop.hands().grabs().1.into_iter().collect())
}
