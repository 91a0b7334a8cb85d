//! Rectangles in fractions of pixels.

/// A rectangle, in pixels.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Rect {
    /// Left.
    pub x: f32,
    /// Top.
    pub y: f32,
    /// Width.
    pub w: f32,
    /// Height.
    pub h: f32,
}

impl Rect {
    /// A rectangle from its corner and size.
    pub fn new(x: f32, y: f32, w: f32, h: f32) -> Self {
        Self { x, y, w, h }
    }

    /// Whether both cover some of the same.
    pub fn touches(self, other: Rect) -> bool {
        self.x < other.x + other.w && other.x < self.x + self.w && self.y < other.y + other.h && other.y < self.y + self.h
    }

    /// The smallest that holds both.
    #[must_use]
    pub fn union(self, other: Rect) -> Self {
        let (x, y) = (self.x.min(other.x), self.y.min(other.y));
        let (right, bottom) = ((self.x + self.w).max(other.x + other.w), (self.y + self.h).max(other.y + other.h));
        Self { x, y, w: right - x, h: bottom - y }
    }

    /// So many times as large, and as far from the origin.
    #[must_use]
    pub fn times(self, by: f32) -> Self {
        Self { x: self.x * by, y: self.y * by, w: self.w * by, h: self.h * by }
    }

    /// Larger by so much on every side.
    #[must_use]
    pub fn grown(self, by: f32) -> Self {
        Self { x: self.x - by, y: self.y - by, w: self.w + 2.0 * by, h: self.h + 2.0 * by }
    }
}
