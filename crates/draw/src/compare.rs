//! Where two pictures differ.

use jovrik_values::Rect;

use crate::Canvas;

/// The edge of a cell, in pixels: what differs in one is one difference.
const CELL: u32 = 16;
/// More areas than these are told as one.
const MAX_AREAS: usize = 60;

/// The areas in which two pictures of one size differ, from the top; near ones are joined. Nothing of what lies beyond
/// the smaller one is compared.
pub fn differences(a: &Canvas, b: &Canvas) -> Vec<Rect> {
    let (width, height) = (a.width().min(b.width()), a.height().min(b.height()));
    let (columns, rows) = (width.div_ceil(CELL) as usize, height.div_ceil(CELL) as usize);
    let mut cells = vec![false; columns * rows];
    for y in 0..height {
        let row = |canvas: &Canvas| {
            let from = (y * canvas.width() * 4) as usize;
            from..from + (width * 4) as usize
        };
        let (own, other) = (&a.bytes()[row(a)], &b.bytes()[row(b)]);
        if own == other {
            continue;
        }
        for column in 0..columns {
            let bytes = column * (CELL * 4) as usize..((column + 1) * (CELL * 4) as usize).min(own.len());
            let cell = (y / CELL) as usize * columns + column;
            cells[cell] |= own[bytes.clone()] != other[bytes];
        }
    }
    joined(&cells, columns, rows, width, height)
}

/// Cells that touch, also over a gap of one, as boxes.
fn joined(cells: &[bool], columns: usize, rows: usize, width: u32, height: u32) -> Vec<Rect> {
    let mut seen = vec![false; cells.len()];
    let mut boxes: Vec<Rect> = Vec::new();
    for start in 0..cells.len() {
        if !cells[start] || seen[start] {
            continue;
        }
        let (mut left, mut right) = (columns, 0);
        let (mut top, mut bottom) = (rows, 0);
        let mut open = vec![start];
        seen[start] = true;
        while let Some(at) = open.pop() {
            let (column, row) = (at % columns, at / columns);
            (left, right, top, bottom) = (left.min(column), right.max(column), top.min(row), bottom.max(row));
            for near_row in row.saturating_sub(2)..=(row + 2).min(rows - 1) {
                for near in column.saturating_sub(2)..=(column + 2).min(columns - 1) {
                    let next = near_row * columns + near;
                    if cells[next] && !seen[next] {
                        seen[next] = true;
                        open.push(next);
                    }
                }
            }
        }
        let cell = CELL as f32;
        let (x, y) = (left as f32 * cell, top as f32 * cell);
        let (to_x, to_y) = (((right + 1) as f32 * cell).min(width as f32), ((bottom + 1) as f32 * cell).min(height as f32));
        boxes.push(Rect::new(x, y, to_x - x, to_y - y));
    }
    // A box inside of another says nothing more.
    let all = boxes.clone();
    boxes.retain(|own| !all.iter().any(|other| other != own && other.union(*own) == *other));
    if boxes.len() > MAX_AREAS {
        let whole = boxes.iter().skip(1).fold(boxes[0], |whole, own| whole.union(*own));
        return vec![whole];
    }
    boxes
}
