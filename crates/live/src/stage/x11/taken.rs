//! Which chords of a rice another desktop has on a display: each is tried, and let go of again.

use jovrik_core::check::Checked;
use jovrik_core::desktop::{Desktop, Effect, Event, Moment};
use jovrik_core::scene::Measure;
use jovrik_core::stage::Even;
use x11rb::connection::Connection;

use super::facts::monitors_of;
use super::keyboard::Board;
use super::keys::{Grabs, grab};
use super::line::connect;
use crate::Error;

/// The chords that others have on a display, as the rice would write them.
///
/// # Errors
///
/// When the display or its keyboard cannot be asked.
pub fn taken(display: &str, checked: &Checked) -> Result<Vec<String>, Error> {
    let measure: &mut dyn Measure = &mut Even(10.0);
    let (connection, screen) = connect(display)?;
    let screen = connection.setup().roots.get(screen).ok_or(Error::Gone)?;
    let (root, size) = (screen.root, (screen.width_in_pixels, screen.height_in_pixels));
    let board = Board::read(&connection, root, checked.rice.keyboard.latin_first)?;
    let monitors = monitors_of(&connection, root, size)?;
    // The desktop itself knows what it would ask for; it is asked, and nothing else of it is carried out.
    let mut desktop = Desktop::new(checked.rice.clone(), checked.scopes.clone(), monitors);
    let keyboards = Event::Keyboards(board.layouts().clone(), board.active());
    for effect in desktop.handle(keyboards, Moment::default(), measure) {
        if let Effect::Grab(presses) = effect {
            let refused = grab(&connection, root, board.now(), presses, &mut Grabs::new())?;
            desktop.handle(Event::NotGrabbed(refused), Moment::default(), measure);
        }
    }
    // With the connection all of them are let go.
    Ok(desktop.hands().grabs().1.into_iter().collect())
}
