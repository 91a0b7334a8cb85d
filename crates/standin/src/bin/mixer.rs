//! The stand-in for a mixer: `jovrik-mixer show | level | follow | up [N] | down [N] | set N | toggle`; with `light` before the word, for the
//! light behind a screen.

use std::io::Write;
use std::path::PathBuf;
use std::process::ExitCode;

use jovrik_standin::{Mixer, follow};

fn main() -> ExitCode {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let words: Vec<&str> = words.iter().map(String::as_str).collect();
    let runtime = std::env::var_os("XDG_RUNTIME_DIR").map(PathBuf::from).unwrap_or_else(std::env::temp_dir);
    let (path, words) = match words.split_first() {
        Some((&"light", rest)) => (Mixer::path(&runtime).with_file_name("light.json"), rest.to_vec()),
        _ => (Mixer::path(&runtime), words),
    };
    let mut out = anstream::stdout();
    let mixer = Mixer::read(&path);
    let done = match (words.as_slice(), mixer.told(&words)) {
        (["follow"], _) => follow(&path, &mut out),
        (["show"], _) => writeln!(out, "{}", serde_json::json!(mixer)),
        (["level"], _) => writeln!(out, "{}", if mixer.state == "on" { mixer.percent } else { 0 }),
        (_, Some(new)) => new.write(&path),
        (_, None) => {
            let _ =
                writeln!(anstream::stderr(), "jovrik-mixer [light] show | level | follow | up [N] | down [N] | set N | toggle");
            return ExitCode::from(2);
        }
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        // Whoever followed has gone.
        Err(error) if error.kind() == std::io::ErrorKind::BrokenPipe => ExitCode::SUCCESS,
        Err(error) => {
            let _ = writeln!(anstream::stderr(), "jovrik-mixer: {error}");
            ExitCode::FAILURE
        }
    }
}
