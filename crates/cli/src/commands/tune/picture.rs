//! The desktop as half-block characters, drawn again only when it looks different.

use std::rc::Rc;

use jovrik_core::check::CheckedRice;
use jovrik_core::machine::Machine;
use jovrik_core::rice::Rice;
use jovrik_draw::{Brush, Cell, cells, cells_within};

use crate::commands::look;

/// A picture in cells.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Shot {
    /// Columns.
    pub columns: u16,
    /// Rows.
    pub rows: u16,
    /// The cells, row by row.
    pub cells: Vec<Cell>,
}

/// Whether windows are left out, and the columns and rows.
type Framed = (bool, u16, u16);

/// Draws the first monitor of a machine.
pub struct Picture {
    brush: Brush,
    machine: Machine,
    last: Option<(Rc<Rice>, Framed, Shot)>,
}

impl Picture {
    /// For a machine.
    pub fn new(mut machine: Machine, brush: Brush) -> Picture {
        machine.monitor.0.truncate(1);
        Picture { brush, machine, last: None }
    }

    /// The desktop of a rice within so many columns and rows; `bare`: what windows would hide.
    pub fn of(&mut self, checked: &CheckedRice, bare: bool, columns: u16, rows: u16) -> &Shot {
        let rice = &checked.rice;
        let fresh = self.last.as_ref().is_some_and(|(old, size, _)| *size == (bare, columns, rows) && **old == **rice);
        if !fresh {
            let shot = look::draw(checked, &self.machine, bare, &mut self.brush).map(|canvas| {
                let (columns, rows) = cells_within(canvas.width(), canvas.height(), columns, rows);
                Shot { columns, rows, cells: cells(&canvas, columns, rows) }
            });
            self.last = Some((rice.clone(), (bare, columns, rows), shot.unwrap_or_default()));
        }
        let (_, _, shot) = self.last.get_or_insert_with(|| (rice.clone(), (bare, columns, rows), Shot::default()));
        shot
    }
}
