//! The stand-in for the station's gauge: `sluice [--json]` tells of the water now.

use std::io::Write;
use std::process::ExitCode;

use jiff::Zoned;
use jovrik_standin::{Water, day, turn};

/// What there is to say of the station's water now: the level, where it goes, the day's levels and the next turn.
fn station() -> serde_json::Value {
    let now = Zoned::now();
    let seconds = now.timestamp().as_second() as f64;
    let midnight = now.start_of_day().map_or(seconds, |midnight| midnight.timestamp().as_second() as f64);
    let water = Water::at(seconds);
    let (turn, away) = turn(seconds);
    let minutes = (away / 60.0).round() as u64;
    serde_json::json!({
        "name": "channel 4",
        "level": (water.level * 100.0).round() / 100.0,
        "flow": water.flow.word(),
        "day": day(midnight),
        "now": ((seconds - midnight) / 864.0 * 10.0).round() / 10.0,
        "next": format!("{turn} water in {} h {:02} min", minutes / 60, minutes % 60),
    })
}

fn main() -> ExitCode {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let mut out = anstream::stdout();
    let done = match words.iter().map(String::as_str).collect::<Vec<_>>().as_slice() {
        [] => {
            let water = Water::at(Zoned::now().timestamp().as_second() as f64);
            writeln!(out, "{} {:.2} m", water.flow.word(), water.level)
        }
        ["--json"] => writeln!(out, "{}", serde_json::json!({ "station": station() })),
        _ => {
            let _ = writeln!(anstream::stderr(), "sluice [--json]");
            return ExitCode::from(2);
        }
    };
    if done.is_ok() { ExitCode::SUCCESS } else { ExitCode::FAILURE }
}
