//! A picture in the terminal: sixels where it shows them, else half-block characters.

use std::io::{IsTerminal, Write};
use std::time::{Duration, Instant};

use jovrik_draw::{Canvas, cells, cells_within, sixels};
use rustix::event::{PollFd, PollFlags, Timespec, poll};
use rustix::termios::{LocalModes, OptionalActions, tcgetattr, tcgetwinsize, tcsetattr};

use crate::exit::CommandError;

/// How a picture is shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
pub enum TerminalGraphics {
    /// Half-block characters, two pixels each.
    Blocks,
    /// Sixels.
    Sixel,
}

/// Whether the terminal says that it shows sixels: 4 among its primary device attributes (DEC STD 070, DA1).
fn shows_sixels() -> bool {
    let tty = std::io::stdin();
    if !tty.is_terminal() {
        return false;
    }
    let Ok(before) = tcgetattr(&tty) else { return false };
    let mut raw = before.clone();
    raw.local_modes.remove(LocalModes::ICANON | LocalModes::ECHO);
    if tcsetattr(&tty, OptionalActions::Now, &raw).is_err() {
        return false;
    }
    let answer = answer(&tty);
    let _ = tcsetattr(&tty, OptionalActions::Now, &before);
    let words = answer.strip_prefix("\x1b[?").and_then(|rest| rest.strip_suffix('c')).unwrap_or_default();
    words.split(';').any(|word| word == "4")
}

fn answer(tty: &std::io::Stdin) -> String {
    let mut out = std::io::stdout();
    if out.write_all(b"\x1b[c").and_then(|()| out.flush()).is_err() {
        return String::new();
    }
    let mut text = Vec::new();
    let until = Instant::now() + Duration::from_millis(150);
    while !text.ends_with(b"c") && text.len() < 100 {
        let left = until.saturating_duration_since(Instant::now());
        let timeout = Timespec { tv_sec: left.as_secs() as i64, tv_nsec: i64::from(left.subsec_nanos()) };
        let mut fds = [PollFd::new(tty, PollFlags::IN)];
        if !matches!(poll(&mut fds, Some(&timeout)), Ok(1..)) {
            break;
        }
        let mut byte = [0];
        match rustix::io::read(tty, &mut byte) {
            Ok(1) => text.push(byte[0]),
            _ => break,
        }
    }
    String::from_utf8_lossy(&text).into_owned()
}

/// Shows a picture as large as the terminal allows.
pub fn show(canvas: &Canvas, way: Option<TerminalGraphics>, columns: usize, out: &mut dyn Write) -> Result<(), CommandError> {
    let size = tcgetwinsize(std::io::stdout()).ok();
    let way = way.unwrap_or_else(|| if shows_sixels() { TerminalGraphics::Sixel } else { TerminalGraphics::Blocks });
    let rows = size.map_or(24, |size| size.ws_row).max(4) - 2;
    match way {
        TerminalGraphics::Sixel => {
            // Half the size in each direction mostly fits; a terminal that tells its pixels is believed.
            let room = size.filter(|size| size.ws_xpixel > 0).map_or(800, |size| u32::from(size.ws_xpixel));
            let shrunk = canvas.shrunk(room.min(canvas.width()));
            let text = shrunk.map(|shrunk| sixels(&shrunk)).unwrap_or_default();
            writeln!(out, "{text}")?;
        }
        TerminalGraphics::Blocks => {
            let (columns, rows) = cells_within(canvas.width(), canvas.height(), columns.min(400) as u16, rows);
            for line in cells(canvas, columns, rows).chunks(usize::from(columns)) {
                for cell in line {
                    let (a, b) = (cell.top, cell.bottom);
                    write!(out, "\x1b[38;2;{};{};{};48;2;{};{};{}m▀", a.r, a.g, a.b, b.r, b.g, b.b)?;
                }
                writeln!(out, "\x1b[0m")?;
            }
        }
    }
    Ok(())
}
