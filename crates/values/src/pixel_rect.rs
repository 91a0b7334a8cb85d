//! Rectangles in whole pixels.

use serde::{Deserialize, Serialize};

/// A rectangle in whole pixels; the origin is the top left of all monitors.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Hash, Serialize, Deserialize)]
pub struct PixelRect {
    /// Left.
    pub x: i32,
    /// Top.
    pub y: i32,
    /// Width.
    pub w: i32,
    /// Height.
    pub h: i32,
}

impl PixelRect {
    /// A rectangle from its corner and size.
    pub fn new(x: i32, y: i32, w: i32, h: i32) -> Self {
        Self { x, y, w, h }
    }

    /// Smaller by so much on every side, as far as a pixel is left; it never reaches out of itself.
    #[must_use]
    pub fn inset(self, by: i32) -> Self {
        let of = |length: i32| by.min((length - 1).max(0) / 2);
        let (x, y) = (of(self.w), of(self.h));
        Self { x: self.x + x, y: self.y + y, w: (self.w - 2 * x).max(1), h: (self.h - 2 * y).max(1) }
    }

    /// Whether a point lies in it.
    pub fn contains(self, x: i32, y: i32) -> bool {
        (self.x..self.x + self.w).contains(&x) && (self.y..self.y + self.h).contains(&y)
    }

    /// What both cover.
    pub fn overlap(self, other: PixelRect) -> Option<PixelRect> {
        let (x, y) = (self.x.max(other.x), self.y.max(other.y));
        let (right, bottom) = ((self.x + self.w).min(other.x + other.w), (self.y + self.h).min(other.y + other.h));
        (right > x && bottom > y).then(|| PixelRect::new(x, y, right - x, bottom - y))
    }

    /// What is left of it beside another, in pieces that do not overlap.
    pub fn minus(self, other: PixelRect) -> impl Iterator<Item = PixelRect> {
        let hole = self.overlap(other);
        let pieces = match hole {
            None => [self, PixelRect::default(), PixelRect::default(), PixelRect::default()],
            Some(hole) => {
                let (right, bottom) = (hole.x + hole.w, hole.y + hole.h);
                [
                    PixelRect::new(self.x, self.y, self.w, hole.y - self.y),
                    PixelRect::new(self.x, hole.y, hole.x - self.x, hole.h),
                    PixelRect::new(right, hole.y, self.x + self.w - right, hole.h),
                    PixelRect::new(self.x, bottom, self.w, self.y + self.h - bottom),
                ]
            }
        };
        pieces.into_iter().filter(|piece| piece.w > 0 && piece.h > 0)
    }

    /// The smallest that holds both.
    #[must_use]
    pub fn union(self, other: PixelRect) -> PixelRect {
        let (x, y) = (self.x.min(other.x), self.y.min(other.y));
        let (right, bottom) = ((self.x + self.w).max(other.x + other.w), (self.y + self.h).max(other.y + other.h));
        PixelRect::new(x, y, right - x, bottom - y)
    }

    /// Twice the centre, so that it stays whole.
    pub fn centre2(self) -> (i32, i32) {
        (2 * self.x + self.w, 2 * self.y + self.h)
    }
}

impl From<crate::Rect> for PixelRect {
    fn from(rect: crate::Rect) -> Self {
        let whole = |value: f32| value.round() as i32;
        Self { x: whole(rect.x), y: whole(rect.y), w: whole(rect.w), h: whole(rect.h) }
    }
}

impl From<PixelRect> for crate::Rect {
    fn from(area: PixelRect) -> Self {
        Self { x: area.x as f32, y: area.y as f32, w: area.w as f32, h: area.h as f32 }
    }
}

impl std::fmt::Display for PixelRect {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}x{}{:+}{:+}", self.w, self.h, self.x, self.y)
    }
}
