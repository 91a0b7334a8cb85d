//! The stand-in for the station's gauge: `sluice [--json]` tells of the water now.

use std::io::Write;
use std::process::ExitCode;
use std::time::{SystemTime, UNIX_EPOCH};

use jovrik_standin::Water;

fn main() -> ExitCode {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let seconds = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default().as_secs_f64();
    let water = Water::at(seconds);
    let (level, flow) = ((water.level * 100.0).round() / 100.0, water.flow.word());
    let mut out = anstream::stdout();
    let done = match words.iter().map(String::as_str).collect::<Vec<_>>().as_slice() {
        [] => writeln!(out, "{flow} {level:.2} m"),
        ["--json"] => {
            let station = serde_json::json!({ "station": { "name": "channel 4", "level": level, "flow": flow } });
            writeln!(out, "{station}")
        }
        _ => {
            let _ = writeln!(anstream::stderr(), "sluice [--json]");
            return ExitCode::from(2);
        }
    };
    if done.is_ok() { ExitCode::SUCCESS } else { ExitCode::FAILURE }
}
