//! Drawings of a rice: texts, and pictures in half blocks or sixels.

use std::path::Path;
use std::time::{SystemTime, UNIX_EPOCH};

use anstyle::{RgbColor, Style};
use jovrik_core::greeting::Art;
use jovrik_core::rice::{ArtRendering, ArtSelection, GreetingSettings};
use jovrik_draw::{Canvas, cells, cells_within, read_picture_inside, sixels};

/// The largest drawing that is read, in bytes.
const MAX_ART_BYTES: u64 = 256 * 1024;
/// Facts beside a picture have at least so many characters.
const MIN_FACT_CHARS: usize = 28;

/// A picture for a terminal.
#[derive(Debug, Clone, Default)]
pub struct TerminalImage {
    /// How many characters it is wide, and how many lines high.
    pub size: (usize, usize),
    /// Its lines, where it is of characters.
    pub lines: Vec<String>,
    /// All of it, where it is of sixels.
    pub sixels: Option<String>,
}

/// What is drawn beside facts: texts, the preferred one first, or a picture.
#[derive(Debug, Clone)]
pub enum GreetingArt {
    /// Texts.
    Texts(Vec<Art>),
    /// A picture that there is room for.
    Picture(TerminalImage),
}

/// What a rice draws in so many characters; pictures only in colour.
pub fn drawn(set: &GreetingSettings, folder: &Path, room: usize, colour: bool) -> GreetingArt {
    let wide = usize::try_from(set.picture_width.0).unwrap_or(MIN_FACT_CHARS);
    let mut texts = Vec::new();
    for path in [&set.art, &set.small].into_iter().filter(|path| !path.is_empty()) {
        let Some(file) = chosen(set, folder, path) else { continue };
        if Path::new(&file).extension().is_some_and(|end| end.eq_ignore_ascii_case("txt")) {
            let bytes = jovrik_file::read_inside(folder, &file, MAX_ART_BYTES).unwrap_or_default();
            texts.extend(Art::parse(&String::from_utf8_lossy(&bytes)).ok());
        } else if colour
            && texts.is_empty()
            && wide + MIN_FACT_CHARS <= room
            && let Some(picture) = picture(set, folder, &file)
        {
            return GreetingArt::Picture(picture);
        }
    }
    GreetingArt::Texts(texts)
}

/// The file that a path means, by its path inside the rice: itself, or one of a folder. What is read of it is opened below the
/// rice's folder.
fn chosen(set: &GreetingSettings, folder: &Path, path: &str) -> Option<String> {
    let file = jovrik_file::inside(folder, path).ok()?;
    if !file.is_dir() {
        return Some(path.to_owned());
    }
    let entries = std::fs::read_dir(&file).ok()?;
    let mut names: Vec<String> = entries.filter_map(|entry| entry.ok()?.file_name().into_string().ok()).collect();
    let end = |name: &String| name.rsplit('.').next().unwrap_or_default().to_ascii_lowercase();
    names.retain(|name| ["txt", "png", "jpg", "jpeg"].contains(&end(name).as_str()));
    names.sort_unstable();
    let clock = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default();
    let nth = match set.pick {
        ArtSelection::Day => clock.as_secs() / 86_400,
        ArtSelection::Chance => u64::from(clock.subsec_micros()),
    };
    let name = names.get((nth % names.len().max(1) as u64) as usize)?;
    Some(format!("{path}/{name}"))
}

/// The longer side that a picture is read with, in pixels.
const LARGEST: u32 = 2048;

/// How many pixels a character of the terminal has, where it tells.
fn cell() -> Option<(u32, u32)> {
    let size = rustix::termios::tcgetwinsize(std::io::stdout()).ok()?;
    let each = |pixels: u16, cells: u16| u32::from(pixels).checked_div(u32::from(cells)).filter(|each| *each > 0);
    Some((each(size.ws_xpixel, size.ws_col)?, each(size.ws_ypixel, size.ws_row)?))
}

/// A picture as wide as it is asked to be.
fn picture(set: &GreetingSettings, folder: &Path, file: &str) -> Option<TerminalImage> {
    let canvas = Canvas::of_picture(&read_picture_inside(folder, file, LARGEST).ok()?)?;
    let asked = u16::try_from(set.picture_width.0).unwrap_or(28);
    if let (ArtRendering::Sixels, Some((wide, high))) = (set.picture_as, cell()) {
        let shrunk = canvas.shrunk(u32::from(asked) * wide)?;
        let rows = shrunk.height().div_ceil(high) as usize;
        if rows <= Art::MAX_LINES {
            let size = (usize::from(asked), rows);
            return Some(TerminalImage { size, lines: Vec::new(), sixels: Some(sixels(&shrunk)) });
        }
    }
    let (columns, rows) = cells_within(canvas.width(), canvas.height(), asked, Art::MAX_LINES as u16);
    let cells = cells(&canvas, columns, rows);
    let rgb = |colour: jovrik_schema::Colour| RgbColor(colour.r, colour.g, colour.b);
    let line = |row: &[jovrik_draw::Cell]| {
        let cell = |cell: &jovrik_draw::Cell| {
            let style = Style::new().fg_color(Some(rgb(cell.top).into())).bg_color(Some(rgb(cell.bottom).into()));
            format!("{style}▀{style:#}")
        };
        row.iter().map(cell).collect::<String>()
    };
    let lines: Vec<String> = cells.chunks(usize::from(columns.max(1))).map(line).collect();
    Some(TerminalImage { size: (usize::from(columns), lines.len()), lines, sixels: None })
}
