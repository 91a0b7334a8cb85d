//! The water at the station: half a cosine from turn to turn, two tides in a lunar day.

/// Where the water goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Flow {
    /// It rises.
    Flood,
    /// It falls.
    Ebb,
}

impl Flow {
    /// Its word.
    pub fn word(self) -> &'static str {
        match self {
            Flow::Flood => "flood",
            Flow::Ebb => "ebb",
        }
    }
}

/// The water at a time.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Water {
    /// Metres above datum.
    pub level: f64,
    /// Where it goes.
    pub flow: Flow,
}

/// From one high water to the next, in seconds: half a lunar day.
const TIDE: f64 = 44_714.16;
/// The mean level in metres.
const MEAN: f64 = 2.7;
/// Half the range in metres.
const HALF: f64 = 1.9;

impl Water {
    /// At a number of seconds since 1970.
    pub fn at(seconds: f64) -> Water {
        let angle = seconds / TIDE * std::f64::consts::TAU;
        Water { level: MEAN + HALF * angle.cos(), flow: if angle.sin() < 0.0 { Flow::Flood } else { Flow::Ebb } }
    }
}

/// The water from a midnight to the next, hour by hour: 25 levels.
pub fn day(midnight: f64) -> Vec<f64> {
    (0..=24).map(|hour| (Water::at(midnight + f64::from(hour) * 3600.0).level * 100.0).round() / 100.0).collect()
}

/// The next turn of the water, and how many seconds it is away.
pub fn turn(seconds: f64) -> (&'static str, f64) {
    let into = seconds.rem_euclid(TIDE);
    if into < TIDE / 2.0 { ("low", TIDE / 2.0 - into) } else { ("high", TIDE - into) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_water_falls_after_high_water_and_rises_after_low() {
        assert_eq!(Water::at(0.0).level, 4.6);
        assert_eq!((Water::at(TIDE * 0.25).flow, Water::at(TIDE * 0.75).flow), (Flow::Ebb, Flow::Flood));
        assert!((Water::at(TIDE * 0.5).level - 0.8).abs() < 1e-9);
        assert_eq!((turn(0.0), turn(TIDE * 0.75)), (("low", TIDE / 2.0), ("high", TIDE / 4.0)));
        let day = day(0.0);
        assert_eq!((day.len(), day[0], day[24]), (25, 4.6, (Water::at(86_400.0).level * 100.0).round() / 100.0));
        assert_eq!((Flow::Ebb.word(), Flow::Flood.word()), ("ebb", "flood"));
    }
}
