//! The time of the day, as far as what lies behind the windows follows it.

use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use jovrik_core::desktop::Event;
use jovrik_core::rice::Rice;

fn since_1970() -> Duration {
    SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default()
}

/// How often the picture of a folder changes.
fn change(rice: &Rice) -> Option<Duration> {
    rice.backdrop.change.map(|change| change.0).filter(|change| !change.is_zero())
}

/// What is to be told of the time; `turned` pictures on from the one whose turn it is.
pub(super) fn daytime(rice: &Rice, turned: i64) -> Event {
    let by_hour = rice.backdrop.picture.as_ref().is_some_and(|pictures| pictures.0.len() > 1);
    let hour = if by_hour { jiff::Zoned::now().hour() as u8 } else { 12 };
    let turn = change(rice).map_or(0, |change| (since_1970().as_nanos() / change.as_nanos()) as u64);
    Event::Daytime(hour, turn.wrapping_add_signed(turned))
}

/// When that is another one.
pub(super) fn changes(rice: &Rice, now: Instant) -> Option<Instant> {
    let pictures = rice.backdrop.picture.as_ref()?;
    let hours = (pictures.0.len() > 1).then_some(Duration::from_secs(3600));
    let every = change(rice).into_iter().chain(hours).min()?;
    let past = Duration::from_nanos((since_1970().as_nanos() % every.as_nanos()) as u64);
    Some(now + (every - past) + Duration::from_millis(2))
}
