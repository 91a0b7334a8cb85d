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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_water_falls_after_high_water_and_rises_after_low() {
        assert_eq!(Water::at(0.0).level, 4.6);
        assert_eq!((Water::at(TIDE * 0.25).flow, Water::at(TIDE * 0.75).flow), (Flow::Ebb, Flow::Flood));
        assert!((Water::at(TIDE * 0.5).level - 0.8).abs() < 1e-9);
        assert_eq!((Flow::Ebb.word(), Flow::Flood.word()), ("ebb", "flood"));
    }
}
