//! A canvas as the cells of a terminal: two pixels a cell, one above the other.

use jovrik_schema::Colour;

use crate::Canvas;

/// One cell: the upper and the lower half.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Cell {
    /// The upper half.
    pub top: Colour,
    /// The lower half.
    pub bottom: Colour,
}

/// The size in cells that keeps a picture's shape within `columns` × `rows`; a cell is twice as high as it is wide.
pub fn cells_within(width: u32, height: u32, columns: u16, rows: u16) -> (u16, u16) {
    let (w, h) = (f64::from(width.max(1)), f64::from(height.max(1)));
    let scale = (f64::from(columns) / w).min(f64::from(rows) * 2.0 / h);
    let columns_used = (w * scale).round().clamp(1.0, f64::from(columns.max(1)));
    let rows_used = (h * scale / 2.0).round().clamp(1.0, f64::from(rows.max(1)));
    (columns_used as u16, rows_used as u16)
}

/// A canvas shrunk to so many cells, row by row; each half is the mean of the pixels that it stands for.
pub fn cells(canvas: &Canvas, columns: u16, rows: u16) -> Vec<Cell> {
    let (w, h) = (canvas.width() as usize, canvas.height() as usize);
    let (columns, halves) = (usize::from(columns), usize::from(rows) * 2);
    let bytes = canvas.bytes();
    let mean = |column: usize, half: usize| {
        let range = |at: usize, of: usize, all: usize| {
            let from = (at * all / of.max(1)).min(all - 1);
            from..((at + 1) * all / of.max(1)).clamp(from + 1, all)
        };
        let (xs, ys) = (range(column, columns, w), range(half, halves, h));
        let mut sum = [0_u64; 3];
        let mut count = 0;
        for y in ys {
            for pixel in bytes[(y * w + xs.start) * 4..(y * w + xs.end) * 4].chunks_exact(4) {
                sum.iter_mut().zip(pixel).for_each(|(sum, channel)| *sum += u64::from(*channel));
                count += 1;
            }
        }
        let channel = |sum: u64| ((sum + count / 2) / count.max(1)) as u8;
        Colour { r: channel(sum[0]), g: channel(sum[1]), b: channel(sum[2]), a: 255 }
    };
    let cell = |at: usize| {
        let (row, column) = (at / columns, at % columns);
        Cell { top: mean(column, row * 2), bottom: mean(column, row * 2 + 1) }
    };
    (0..columns * usize::from(rows)).map(cell).collect()
}
