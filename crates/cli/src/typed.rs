//! Values of arguments that are more than a word or a number.

use std::time::Duration;

use jovrik_core::desktop::StandaloneComponent;
use jovrik_schema::TimeSpan;
use jovrik_text::problem::in_words;

/// What was typed is no such value: how one is written.
#[derive(Debug, thiserror::Error)]
pub enum ArgumentError {
    /// No time.
    #[error("a time is written with its unit: 8s, 1m30s")]
    Time,
    /// No time, and no time of the day.
    #[error("a time is written with its unit, such as 30m, or as a time of the day, such as 18:00")]
    Until,
    /// No part that can run by itself.
    #[error("the parts that can run by themselves are {}", in_words(&StandaloneComponent::ALL.map(|(word, _)| word)))]
    Alone,
    /// No size.
    #[error("a size is written as 1600x900, from 320x240 on")]
    Size,
}

/// A time with its unit, as in a rice.
pub fn time(text: &str) -> Result<Duration, ArgumentError> {
    TimeSpan::parse(text).ok_or(ArgumentError::Time)
}

/// The same, and more than nothing.
pub fn some_time(text: &str) -> Result<Duration, ArgumentError> {
    time(text).ok().filter(|time| !time.is_zero()).ok_or(ArgumentError::Time)
}

/// A time with its unit, or how long it is until a time of the day.
pub fn until(text: &str) -> Result<Duration, ArgumentError> {
    let Some((hours, minutes)) = text.split_once(':') else { return some_time(text).map_err(|_| ArgumentError::Until) };
    let number = |text: &str, below: i8| text.parse::<i8>().ok().filter(|number| (0..below).contains(number));
    let (hours, minutes) = (number(hours, 24).ok_or(ArgumentError::Until)?, number(minutes, 60).ok_or(ArgumentError::Until)?);
    let now = jiff::Zoned::now();
    let then = || {
        let then = now.with().hour(hours).minute(minutes).second(0).subsec_nanosecond(0).build().ok()?;
        let then = if then > now { then } else { then.tomorrow().ok()? };
        Duration::try_from(now.duration_until(&then)).ok()
    };
    then().map(|time| Duration::from_secs(time.as_secs().max(1))).ok_or(ArgumentError::Until)
}

/// A part that can run by itself.
pub fn alone(text: &str) -> Result<StandaloneComponent, ArgumentError> {
    StandaloneComponent::ALL.iter().find(|(word, _)| *word == text).map(|(_, alone)| *alone).ok_or(ArgumentError::Alone)
}

/// A size in pixels.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Size(pub u16, pub u16);

impl std::str::FromStr for Size {
    type Err = ArgumentError;
    fn from_str(text: &str) -> Result<Size, ArgumentError> {
        let size = text.split_once('x').and_then(|(w, h)| Some(Size(w.parse().ok()?, h.parse().ok()?)));
        let useful = |size: &Size| (320..=16_384).contains(&size.0) && (240..=16_384).contains(&size.1);
        size.filter(useful).ok_or(ArgumentError::Size)
    }
}
