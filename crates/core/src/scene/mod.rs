//! What is to be drawn: boxes, lines, text, in order. The same scene becomes a file or a screen.

mod bar;
mod contours;
mod desktop;
mod icons;
mod pretend;

pub use bar::{strip_area, strip_items};
pub use desktop::{backdrop, desktop, frame_items};
pub use pretend::{default_windows, pretend};

use crate::rice::Colour;

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

    /// Larger by so much on every side.
    #[must_use]
    pub fn grown(self, by: f32) -> Self {
        Self { x: self.x - by, y: self.y - by, w: self.w + 2.0 * by, h: self.h + 2.0 * by }
    }
}

/// How text is set.
#[derive(Debug, Clone, PartialEq)]
pub struct Face {
    /// The family that the rice asks for.
    pub family: String,
    /// Its size in points.
    pub points: f32,
    /// Whether it is bold.
    pub bold: bool,
    /// Whether a built-in face that stands in must have cells of one width.
    pub mono: bool,
}

/// A piece of a path.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Step {
    /// Begins somewhere.
    Move(f32, f32),
    /// A straight line.
    Line(f32, f32),
    /// A cubic curve: two handles and the end.
    Curve(f32, f32, f32, f32, f32, f32),
    /// Back to where it began.
    Close,
}

/// One thing to draw.
#[derive(Debug, Clone, PartialEq)]
pub enum Item {
    /// A filled box.
    Fill {
        /// Where.
        rect: Rect,
        /// How round its corners are.
        radius: f32,
        /// Its colour.
        colour: Colour,
    },
    /// A border inside the edge of a box.
    Border {
        /// The outer edge.
        rect: Rect,
        /// How round its outer corners are.
        radius: f32,
        /// How thick it is.
        width: f32,
        /// Its colour.
        colour: Colour,
    },
    /// A soft edge round a box, fading outwards.
    Glow {
        /// The box.
        rect: Rect,
        /// How round its corners are.
        radius: f32,
        /// How far it reaches.
        width: f32,
        /// Its colour at the box.
        colour: Colour,
    },
    /// A stroked line with round ends.
    Stroke {
        /// The way.
        path: Vec<Step>,
        /// How thick it is.
        width: f32,
        /// Its colour.
        colour: Colour,
        /// Lengths of dashes and gaps; none for a whole line.
        dash: Option<(f32, f32)>,
    },
    /// A filled path.
    Shape {
        /// Its edge.
        path: Vec<Step>,
        /// Its colour.
        colour: Colour,
    },
    /// One line of text.
    Text {
        /// Its left end.
        x: f32,
        /// The middle of its line.
        y: f32,
        /// What it says.
        text: String,
        /// How it is set.
        face: Face,
        /// Its colour.
        colour: Colour,
    },
}

/// Things to draw, from below.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Scene {
    /// The things.
    pub items: Vec<Item>,
}

impl Scene {
    /// A filled box.
    pub fn fill(&mut self, rect: Rect, radius: f32, colour: Colour) {
        self.items.push(Item::Fill { rect, radius, colour });
    }

    /// A line of text, by the middle of its line.
    pub fn text(&mut self, x: f32, y: f32, text: impl Into<String>, face: &Face, colour: Colour) {
        self.items.push(Item::Text { x, y, text: text.into(), face: face.clone(), colour });
    }

    /// A line.
    pub fn stroke(&mut self, path: Vec<Step>, width: f32, colour: Colour) {
        self.items.push(Item::Stroke { path, width, colour, dash: None });
    }
}

/// What the core must ask of whoever has fonts.
pub trait Measure {
    /// How wide a line of text is, in pixels.
    fn width(&mut self, text: &str, face: &Face) -> f32;
}
