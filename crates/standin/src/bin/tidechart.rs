//! The stand-in for the station's programs with windows: `tidechart [--today] [--as APP] [--title TITLE] [--dialog]`.

use std::io::Write;
use std::process::ExitCode;

use jovrik_standin::{Shows, show};

fn read(words: &[String]) -> Option<Shows> {
    let mut shows = Shows { app: "tidechart".to_owned(), title: "Tide table: neap, station 4".to_owned(), dialog: false };
    let mut words = words.iter();
    while let Some(word) = words.next() {
        match word.as_str() {
            "--today" => {}
            "--dialog" => shows.dialog = true,
            "--as" => shows.app = words.next()?.clone(),
            "--title" => shows.title = words.next()?.clone(),
            _ => return None,
        }
    }
    Some(shows)
}

fn main() -> ExitCode {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let Some(shows) = read(&words) else {
        let _ = writeln!(anstream::stderr(), "tidechart [--today] [--as APP] [--title TITLE] [--dialog]");
        return ExitCode::from(2);
    };
    match show(&shows) {
        Ok(()) => ExitCode::SUCCESS,
        Err(failure) => {
            let _ = writeln!(anstream::stderr(), "tidechart: {failure}");
            ExitCode::FAILURE
        }
    }
}
