//! Drawings of a rice: texts, and pictures in half blocks.

use std::path::{Path, PathBuf};
use std::time::{SystemTime, UNIX_EPOCH};

use anstyle::{RgbColor, Style};
use jovrik_core::greeting::Art;
use jovrik_core::rice::{ArtPick, Greeting};
use jovrik_draw::{Canvas, cells, cells_within, read_picture};

/// The largest drawing that is read, in bytes.
const MOST_BYTES: u64 = 256 * 1024;

/// The drawings, the preferred one first.
pub fn drawings(set: &Greeting, folder: &Path) -> Vec<Art> {
    [&set.art, &set.small].into_iter().filter(|path| !path.is_empty()).filter_map(|path| drawing(set, folder, path)).collect()
}

fn drawing(set: &Greeting, folder: &Path, path: &str) -> Option<Art> {
    let mut file = jovrik_file::inside(folder, path).ok()?;
    if file.is_dir() {
        let entries = std::fs::read_dir(&file).ok()?;
        let mut files: Vec<PathBuf> = entries.filter_map(|entry| Some(entry.ok()?.path())).collect();
        let end = |file: &PathBuf| file.extension().map(|end| end.to_string_lossy().to_ascii_lowercase());
        files.retain(|file| end(file).is_some_and(|end| ["txt", "png", "jpg", "jpeg"].contains(&end.as_str())));
        files.sort_unstable();
        let clock = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default();
        let nth = match set.pick {
            ArtPick::Day => clock.as_secs() / 86_400,
            ArtPick::Chance => u64::from(clock.subsec_nanos() / 1000),
        };
        file = files.get((nth % files.len().max(1) as u64) as usize)?.clone();
        file = jovrik_file::inside(folder, file.strip_prefix(folder).ok()?.to_str()?).ok()?;
    }
    if file.extension().is_some_and(|end| end.eq_ignore_ascii_case("txt")) {
        let bytes = jovrik_file::read_file(&file, MOST_BYTES).ok()?;
        return Art::parse(&String::from_utf8_lossy(&bytes)).ok();
    }
    None
}

/// A picture as lines of half blocks, as wide as it is asked to be.
pub fn picture(set: &Greeting, folder: &Path, path: &str) -> Option<Vec<String>> {
    let file = jovrik_file::inside(folder, path).ok().filter(|file| file.is_file())?;
    let picture = read_picture(&file).ok()?;
    let canvas = Canvas::of_picture(&picture)?;
    let asked = u16::try_from(set.picture_width.0).unwrap_or(28);
    let (columns, rows) = cells_within(canvas.width(), canvas.height(), asked, Art::MOST as u16);
    let cells = cells(&canvas, columns, rows);
    let rgb = |colour: jovrik_core::rice::Colour| RgbColor(colour.r, colour.g, colour.b);
    let line = |row: &[jovrik_draw::Cell]| {
        let cell = |cell: &jovrik_draw::Cell| {
            let style = Style::new().fg_color(Some(rgb(cell.top).into())).bg_color(Some(rgb(cell.bottom).into()));
            format!("{style}▀{style:#}")
        };
        row.iter().map(cell).collect::<String>()
    };
    Some(cells.chunks(usize::from(columns.max(1))).map(line).collect())
}
