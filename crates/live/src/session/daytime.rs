//! The time of the day, as far as what lies behind the windows follows it.

use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use jovrik_core::check::OverlayStatus;
use jovrik_core::desktop::DesktopEvent;
use jovrik_core::rice::{PictureOrder, Rice};

fn since_1970() -> Duration {
    SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default()
}

/// How often the picture of a folder changes.
fn change(rice: &Rice) -> Option<Duration> {
    rice.backdrop.change.map(|change| change.0).filter(|change| !change.is_zero())
}

/// A number that another one gives, and that tells nothing of the next (splitmix64).
fn mixed(number: u64) -> u64 {
    let mut mixed = number.wrapping_add(0x9e37_79b9_7f4a_7c15);
    mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    mixed ^ (mixed >> 31)
}

/// What is to be told of the time; `turned` pictures on from the one whose turn it is.
pub(super) fn daytime(rice: &Rice, turned: i64) -> DesktopEvent {
    let by_hour = rice.backdrop.picture.as_ref().is_some_and(|pictures| pictures.0.len() > 1);
    let hour = if by_hour { jiff::Zoned::now().hour() as u8 } else { 12 };
    let turn = change(rice).map_or(0, |change| (since_1970().as_nanos() / change.as_nanos()) as u64);
    let turn = turn.wrapping_add_signed(turned);
    DesktopEvent::HourChanged(hour, if rice.backdrop.order == PictureOrder::Chance { mixed(turn) } else { turn })
}

/// When that is another one.
pub(super) fn changes(rice: &Rice, overlays: &[OverlayStatus], now: Instant) -> Option<Instant> {
    let pictures = rice.backdrop.picture.as_ref();
    let by_hour = pictures.is_some_and(|pictures| pictures.0.len() > 1) || overlays.iter().any(|overlay| overlay.by_hour);
    // Hours begin together in time zones that differ by whole hours; others differ by quarters.
    let hours = by_hour.then_some(Duration::from_secs(900));
    let every = change(rice).filter(|_| pictures.is_some()).into_iter().chain(hours).min()?;
    let past = Duration::from_nanos((since_1970().as_nanos() % every.as_nanos()) as u64);
    Some(now + (every - past) + Duration::from_millis(2))
}
