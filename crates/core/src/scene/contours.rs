//! Contour lines of a mudflat, for the backdrop: level lines of a smooth height, by marching squares.

use super::PathSegment;

/// The size of a cell, in pixels.
const CELL: f32 = 30.0;
/// From one line to the next in height, and the lowest and highest line in such steps.
const STEP: f32 = 0.12;
const LEVELS: (i32, i32) = (-4, 14);

/// The height at a place; both in units of about a screen.
fn height(x: f32, y: f32) -> f32 {
    let channel = (y - 0.55 - 0.16 * (x * 3.1 + 0.4).sin()).abs();
    let banks = 0.34 * (x * 4.3 + 1.7 * y + 0.9).sin() * (y * 3.7 - 0.8 * x + 2.1).cos();
    let ripples = 0.10 * (x * 11.0 - y * 7.0).sin() + 0.07 * (x * 6.0 + y * 13.0 + 1.3).cos();
    channel * 1.4 + banks + ripples
}

/// The lines of every level over an area.
pub fn contours(width: f32, height_px: f32) -> Vec<PathSegment> {
    let (columns, rows) = ((width / CELL).ceil() as usize, (height_px / CELL).ceil() as usize);
    let unit = 1.0 / 1080.0;
    let at = |column: usize, row: usize| height(column as f32 * CELL * unit, row as f32 * CELL * unit);
    let heights: Vec<Vec<f32>> = (0..=rows).map(|row| (0..=columns).map(|column| at(column, row)).collect()).collect();
    let mut path = Vec::new();
    for row in 0..rows {
        for column in 0..columns {
            let corners =
                [heights[row][column], heights[row][column + 1], heights[row + 1][column + 1], heights[row + 1][column]];
            // Only the levels that lie between the corners cross the cell.
            let (low, high) =
                corners.iter().fold((f32::MAX, f32::MIN), |(low, high), height| (low.min(*height), high.max(*height)));
            let (first, last) = ((low / STEP).ceil() as i32, (high / STEP).floor() as i32);
            for step in first.max(LEVELS.0)..=last.min(LEVELS.1) {
                cell(step as f32 * STEP, corners, column as f32 * CELL, row as f32 * CELL, &mut path);
            }
        }
    }
    path
}

fn cell(level: f32, corners: [f32; 4], x: f32, y: f32, path: &mut Vec<PathSegment>) {
    let ends = [(x, y), (x + CELL, y), (x + CELL, y + CELL), (x, y + CELL)];
    let mut crossings = Vec::new();
    for side in 0..4 {
        let (a, b) = (corners[side], corners[(side + 1) % 4]);
        if (a < level) != (b < level) {
            let part = (level - a) / (b - a);
            let ((ax, ay), (bx, by)) = (ends[side], ends[(side + 1) % 4]);
            crossings.push((ax + (bx - ax) * part, ay + (by - ay) * part));
        }
    }
    for pair in crossings.chunks_exact(2) {
        path.extend([PathSegment::Move(pair[0].0, pair[0].1), PathSegment::Line(pair[1].0, pair[1].1)]);
    }
}
