//! What of a backdrop is to be painted, parted by how that is done: most of it needs nobody who draws.

use jovrik_schema::Colour;
use jovrik_values::{Fill, PixelRect, Rect};

use super::backdrop::{BackdropContent, cut};
use crate::desk::PlacedWindow;

/// Pieces of a backdrop, of which no two overlap.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct PaintRegions {
    /// Where nothing lies on what is behind the frames.
    pub bare: Vec<PixelRect>,
    /// Where a frame has one colour.
    pub plain: Vec<(PixelRect, Colour)>,
    /// Where pixels are mixed: glows, round corners, gradients.
    pub mixed: Vec<PixelRect>,
}

impl BackdropContent {
    /// What is to be painted of areas, as far as it is seen.
    pub fn painting(&self, areas: &[Rect]) -> PaintRegions {
        let (mut bare, mut painting) = (self.seen(areas), PaintRegions::default());
        if !self.apart() {
            return PaintRegions { mixed: bare, ..painting };
        }
        for (_, placed) in &self.frames {
            let reach = placed.outer.inset(-self.reach);
            if bare.iter().all(|piece| piece.overlap(reach).is_none()) {
                continue;
            }
            let glow = self.glow(placed);
            for side in placed.outer.inset(-glow).minus(placed.outer) {
                painting.mixed.extend(cut(&mut bare, side));
            }
            let colours = self.colours(placed);
            let round = placed.radius.max(placed.area.x - placed.outer.x).max(0);
            let Some((edge, paper)) = colours.filter(|_| placed.outer.w.min(placed.outer.h) > 2 * round) else {
                painting.mixed.extend(cut(&mut bare, placed.outer));
                continue;
            };
            // A corner is drawn at once, also where a part of it is not seen.
            let corners = corners(placed.outer, round).into_iter();
            painting.mixed.extend(corners.filter_map(|corner| cut(&mut bare, corner).into_iter().reduce(PixelRect::union)));
            let inside = placed.outer.inset(placed.area.x - placed.outer.x);
            for side in placed.outer.minus(inside) {
                painting.plain.extend(cut(&mut bare, side).into_iter().map(|piece| (piece, edge)));
            }
            painting.plain.extend(cut(&mut bare, inside).into_iter().map(|piece| (piece, paper)));
        }
        PaintRegions { bare, ..painting }
    }

    /// The colours of a frame and of what is inside, where nothing shows through them.
    fn colours(&self, placed: &PlacedWindow) -> Option<(Colour, Colour)> {
        let Fill::Plain(edge) = placed.state.fill(&self.frame) else { return None };
        [*edge, self.paper].iter().all(|colour| colour.a == 255).then_some((*edge, self.paper))
    }
}

/// The corners of an area, as squares.
fn corners(of: PixelRect, size: i32) -> [PixelRect; 4] {
    let (right, bottom) = (of.x + of.w - size, of.y + of.h - size);
    [(of.x, of.y), (right, of.y), (right, bottom), (of.x, bottom)].map(|(x, y)| PixelRect::new(x, y, size, size))
}
